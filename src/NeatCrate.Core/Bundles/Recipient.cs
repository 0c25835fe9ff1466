using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace NeatCrate.Core.Bundles;

/// <summary>What somebody does with a session.</summary>
public enum RecipientWork
{
    /// <summary>Listens to it.</summary>
    Listen,

    /// <summary>Mixes what is placed.</summary>
    Mix,

    /// <summary>Goes on with it: chooses other takes, records to it.</summary>
    Edit,

    /// <summary>Keeps it.</summary>
    Archive,
}

/// <summary>What somebody's computer runs.</summary>
public enum RecipientSystem
{
    /// <summary>Nobody knows.</summary>
    Any,

    /// <summary>Windows, which takes shorter paths than the others.</summary>
    Windows,

    /// <summary>macOS.</summary>
    MacOs,

    /// <summary>Linux.</summary>
    Linux,
}

/// <summary>Somebody who gets bundles, and what is known of them.</summary>
/// <param name="Name">What they are called.</param>
/// <param name="Work">What they do with a session.</param>
/// <param name="ReadsDocument">Whether their program reads the session document.</param>
/// <param name="HasStockContent">Whether they have the content that comes with programs.</param>
/// <param name="System">What their computer runs.</param>
/// <param name="LimitBytes">Bytes of the largest file that reaches them; null for no limit.</param>
/// <param name="Has">Names of the instruments and effects that they have.</param>
public sealed record Recipient(string Name, RecipientWork Work, bool ReadsDocument, bool HasStockContent, RecipientSystem System, long? LimitBytes, ImmutableArray<string> Has)
{
    /// <summary>Those of whom everybody sends bundles: oneself, and somebody of whom nothing is known.</summary>
    public static ImmutableArray<Recipient> Standard { get; } =
    [
        new("Myself, as an archive", RecipientWork.Archive, true, false, RecipientSystem.Any, null, []),
        new("A stranger with another program", RecipientWork.Mix, false, false, RecipientSystem.Any, null, []),
    ];

    /// <summary>What is sensible to send them (common practice). Of a stranger nothing is taken for granted: all that may sound goes along, and printed as well.</summary>
    [JsonIgnore]
    public ImmutableHashSet<BundlePart> Parts
    {
        get
        {
            ImmutableHashSet<BundlePart> parts = Work switch
            {
                RecipientWork.Archive => [.. Enum.GetValues<BundlePart>().Except([BundlePart.PrintedTracks])],
                RecipientWork.Edit => BundleParts.Standard.Remove(BundlePart.OlderVersions),
                RecipientWork.Mix => [BundlePart.Renders, BundlePart.Video, BundlePart.OtherFiles, BundlePart.StockContent, BundlePart.Bounces],
                _ => [BundlePart.Bounces, BundlePart.StockContent],
            };
            if (!ReadsDocument)
            {
                parts = parts.Union(BundleParts.Standard).Add(BundlePart.Bounces).Add(BundlePart.PrintedTracks);
            }
            return HasStockContent && Work != RecipientWork.Archive ? parts.Remove(BundlePart.StockContent) : parts;
        }
    }

    /// <summary>True where their computer may be one that takes no long paths.</summary>
    [JsonIgnore]
    public bool MayNeedShortPaths => System is RecipientSystem.Any or RecipientSystem.Windows;

    /// <summary>True for an instrument or effect that they have.</summary>
    public bool HasNamed(string name) => Has.Any(h => h.Trim().Equals(name.Trim(), StringComparison.OrdinalIgnoreCase));
}
