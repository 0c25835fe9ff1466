using System.Collections.Immutable;
using System.Globalization;

namespace NeatCrate.Core.Purge;

/// <summary>What a list of files that could go is sorted by.</summary>
public enum PurgeOrder
{
    /// <summary>By group; takes by track, pass and number, or by pass first; bounces by age, the oldest first; then by path.</summary>
    Group,

    /// <summary>By name.</summary>
    Name,

    /// <summary>By size.</summary>
    Bytes,

    /// <summary>By length.</summary>
    Length,

    /// <summary>By time of the last change.</summary>
    Changed,
}

/// <summary>Which of the judged files a list shows, and in what order.</summary>
/// <param name="Group">Only this group; null for all that could go.</param>
/// <param name="Everything">True to show also what may not go, with the reasons.</param>
/// <param name="Text">Words that all occur in a file's path or track.</param>
/// <param name="Order">What it is sorted by.</param>
/// <param name="Descending">True for the last first.</param>
/// <param name="ByPass">True where takes that nobody placed stand together by pass, and not by track.</param>
public sealed record PurgeQuery(PurgeGroup? Group = null, bool Everything = false, string Text = "", PurgeOrder Order = PurgeOrder.Group, bool Descending = false, bool ByPass = false)
{
    /// <summary>The files of the list, in order.</summary>
    public ImmutableArray<PurgeItem> Of(IReadOnlyList<PurgeItem> items, string folder)
    {
        ArgumentNullException.ThrowIfNull(items);
        var words = Text.Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        var shown = items.Where(i => (Everything || i.Group is not null) && (Group is null || i.Group == Group) && Holds(i, words, folder));
        var sorted = Order switch
        {
            PurgeOrder.Name => shown.OrderBy(i => Path.GetFileName(i.Path), StringComparer.OrdinalIgnoreCase),
            PurgeOrder.Bytes => shown.OrderBy(i => i.Bytes),
            PurgeOrder.Length => shown.OrderBy(i => i.File?.Header?.LengthSeconds ?? -1),
            PurgeOrder.Changed => shown.OrderBy(i => i.ModifiedUtc),
            _ => shown.OrderBy(i => i.Group ?? (PurgeGroup)int.MaxValue).ThenBy(i => i.Group == PurgeGroup.Bounces ? i.ModifiedUtc : DateTime.MinValue)
                .ThenBy(i => ByPass ? i.Take?.Pass ?? int.MaxValue : 0).ThenBy(i => i.Take?.Track, StringComparer.OrdinalIgnoreCase).ThenBy(i => i.Take?.Pass ?? int.MaxValue)
                .ThenBy(i => i.Take?.Number ?? int.MaxValue),
        };
        var whole = sorted.ThenBy(i => i.Path, StringComparer.Ordinal).ToImmutableArray();
        return Descending ? [.. whole.Reverse()] : whole;
    }

    /// <summary>What stands together in a list that is sorted by group: by group, takes by track or pass, bounces by month, in the order of the list. None in any other order.</summary>
    public ImmutableArray<PurgeRun> Runs(ImmutableArray<PurgeItem> list)
    {
        var runs = ImmutableArray.CreateBuilder<PurgeRun>();
        foreach (var item in Order == PurgeOrder.Group ? list : [])
        {
            var part = PartOf(item);
            if (runs.Count > 0 && runs[^1] is var last && last.Group == item.Group && string.Equals(last.Part, part, StringComparison.OrdinalIgnoreCase))
            {
                runs[^1] = last with { Files = last.Files + 1, Bytes = last.Bytes + item.Bytes };
            }
            else
            {
                runs.Add(new PurgeRun(item.Group, part, 1, item.Bytes));
            }
        }
        return runs.ToImmutable();
    }

    /// <summary>By what an item stands together with others of its group: its track, or its pass; the month of a bounce, in local time.</summary>
    public string? PartOf(PurgeItem item)
    {
        ArgumentNullException.ThrowIfNull(item);
        return item.Group switch
        {
            PurgeGroup.UnplacedTakes when ByPass => item.Take?.Pass is { } pass ? $"pass {pass}" : "pass not known",
            PurgeGroup.UnplacedTakes => item.Take?.Track,
            PurgeGroup.Bounces => item.ModifiedUtc.ToLocalTime().ToString("yyyy-MM", CultureInfo.InvariantCulture),
            _ => null,
        };
    }

    private static bool Holds(PurgeItem item, string[] words, string folder)
    {
        if (words.Length == 0)
        {
            return true;
        }
        var text = $"{Path.GetRelativePath(folder, item.Path)} {item.Take?.Track}";
        return Array.TrueForAll(words, w => text.Contains(w, StringComparison.OrdinalIgnoreCase));
    }
}

/// <summary>Files that stand together in a list.</summary>
/// <param name="Group">Their group; null for what may not go.</param>
/// <param name="Part">By what they stand together within it, as <see cref="PurgeQuery.PartOf"/> tells; null where by nothing.</param>
/// <param name="Files">How many they are.</param>
/// <param name="Bytes">Their bytes.</param>
public sealed record PurgeRun(PurgeGroup? Group, string? Part, int Files, long Bytes);
