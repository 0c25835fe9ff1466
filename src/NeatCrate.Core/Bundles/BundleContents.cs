using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace NeatCrate.Core.Bundles;

/// <summary>One file of a bundle's payload.</summary>
/// <param name="PayloadPath">Path below the bag's <c>data</c> folder, with forward slashes.</param>
/// <param name="Origin">Where its bytes come from.</param>
/// <param name="Bytes">Size in bytes; of a transformed one the size that is to be expected.</param>
/// <param name="Marks">What it has beside its bytes.</param>
public sealed record BundleEntry(string PayloadPath, FileOrigin Origin, long Bytes, KeptMarks Marks);

/// <summary>Everything that is packed into a bundle.</summary>
/// <param name="BagName">Name of the bag's own folder.</param>
/// <param name="Entries">The payload.</param>
/// <param name="EmptyFolders">Folders of the payload that hold no file, below <c>data</c>.</param>
/// <param name="Info">The bag's metadata, in order, without the sums that follow from the payload.</param>
/// <param name="SlipText">The packing slip to be read by people.</param>
/// <param name="SlipJson">The packing slip to be read by programs.</param>
/// <param name="PackedAt">When it is packed, in local time.</param>
public sealed record BundleContents(
    string BagName,
    ImmutableArray<BundleEntry> Entries,
    ImmutableArray<string> EmptyFolders,
    ImmutableArray<KeyValuePair<string, string>> Info,
    byte[] SlipText,
    byte[] SlipJson,
    DateTimeOffset PackedAt)
{
    /// <summary>The packing slip as a page; null in plans of before there was one.</summary>
    public byte[]? SlipHtml { get; init; }

    // A local header, a central one, and a manifest line: about this much per file, names not counted.
    private const long BytesPerEntry = 512;

    // What is packed was foretold from some of its blocks, and may be so much larger in hundredths.
    private const int PackedMargin = 5;

    /// <summary>Bytes that the bundle takes at the most.</summary>
    [JsonIgnore]
    public long Bytes => Entries.Sum(e => e.Bytes + (e.Origin is PackedSound ? e.Bytes * PackedMargin / 100 : 0) + BytesPerEntry + (4 * e.PayloadPath.Length)) + SlipText.Length + SlipJson.Length + (SlipHtml?.Length ?? 0) + 16_384;

    /// <summary>Bytes that are needed beside that while it is packed.</summary>
    [JsonIgnore]
    public long ScratchBytes => Entries.Select(e => e.Origin is Transformed ? e.Bytes + e.Origin.ScratchBytes : e.Origin.ScratchBytes).DefaultIfEmpty().Max();

    /// <summary>The same of files that were moved.</summary>
    public BundleContents Moved(Func<string, string> path) => this with { Entries = [.. Entries.Select(e => e with { Origin = e.Origin.Moved(path) })] };
}

/// <summary>A step that packs a bundle, in whichever form.</summary>
public interface IPackingStep
{
    /// <summary>Absolute path of the bundle.</summary>
    string Destination { get; }

    /// <summary>What goes in.</summary>
    BundleContents Contents { get; }
}
