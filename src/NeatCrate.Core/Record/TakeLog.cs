using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Record;

/// <summary>A clip that plays a take.</summary>
/// <param name="Track">Name of the track.</param>
/// <param name="Seconds">Where it begins, in seconds from the start of the timeline; null where nothing tells.</param>
public sealed record TakePlacement(string Track, double? Seconds);

/// <summary>A line of the take log: one pass of the song, or takes of one number that belong to no known pass.</summary>
/// <param name="Pass">The pass; null where none is known.</param>
/// <param name="Number">The number of the takes on their tracks, where no pass is known; null where that is not known either.</param>
/// <param name="Takes">Its takes, by track and number.</param>
public sealed record TakeLogRow(int? Pass, int? Number, IReadOnlyList<Take> Takes);

/// <summary>The takes of a session as engineers keep them on paper: tracks across, passes down.</summary>
/// <param name="Tracks">Names of the tracks that have takes: those of the session in its order, then others. Takes that fit none are under no name.</param>
/// <param name="Rows">The lines: passes in their order, then what belongs to none.</param>
public sealed record TakeLog(IReadOnlyList<string> Tracks, IReadOnlyList<TakeLogRow> Rows)
{
    /// <summary>Puts takes in order.</summary>
    /// <param name="takes">The takes.</param>
    /// <param name="tracks">Names of the session's tracks, in order.</param>
    public static TakeLog Of(IReadOnlyList<Take> takes, IReadOnlyList<string> tracks)
    {
        ArgumentNullException.ThrowIfNull(takes);
        ArgumentNullException.ThrowIfNull(tracks);
        var used = takes.Select(t => t.Track).OfType<string>().ToHashSet(StringComparer.OrdinalIgnoreCase);
        string[] columns = [.. tracks.Where(used.Contains).Distinct(StringComparer.OrdinalIgnoreCase), .. used.Except(tracks, StringComparer.OrdinalIgnoreCase).Order(StringComparer.OrdinalIgnoreCase)];
        var rows = takes.GroupBy(t => (t.Pass, Number: t.Pass is null ? t.Number : null))
            .OrderBy(g => g.Key.Pass ?? int.MaxValue).ThenBy(g => g.Key.Number ?? int.MaxValue)
            .Select(g => new TakeLogRow(g.Key.Pass, g.Key.Number, [.. g.OrderBy(t => t.Number ?? int.MaxValue).ThenBy(t => t.File.Name, StringComparer.Ordinal)]));
        return new TakeLog(columns, [.. rows]);
    }

    /// <summary>Where files are placed in the current document, by their absolute paths.</summary>
    public static ILookup<string, TakePlacement> Placements(SessionInventory inventory, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        var placed = inventory is { Current: { } current, Document: { } document }
            ? document.Clips.Select(c => (Path: ReferencedPath.Of(c.TargetUrl, current, inventory.Folder, shelves), Placement: new TakePlacement(c.Track, c.Seconds)))
            : [];
        return placed.ToLookup(p => p.Path, p => p.Placement, StringComparer.Ordinal);
    }
}
