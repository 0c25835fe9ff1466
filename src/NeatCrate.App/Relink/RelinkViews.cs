using NeatCrate.App.Plans;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.App.Relink;

/// <summary>What is known of a file that is compared.</summary>
/// <param name="Origin">Who made it, by what reference and when.</param>
/// <param name="TimeReference">Its first sample since midnight, in digits.</param>
public sealed record SoundFactsView(
    string Name, PlaceView Place, string Path, long? Bytes, DateTime? Changed, string? Container, int? SampleRate, int? Channels, int? BitDepth, long? LengthSamples, double? Seconds,
    string? Origin, string? TimeReference);

/// <summary>One piece of evidence.</summary>
public sealed record EvidenceView(EvidenceKind Kind, Verdict Verdict);

/// <summary>A found file that may be a missing one.</summary>
/// <param name="Id">Its identity among what was found: it follows from its path.</param>
/// <param name="IsThere">False on a shelf that is away.</param>
/// <param name="IsKept">True for a copy that is kept for safety.</param>
/// <param name="IsInside">True for one in the session's own folder: only the pointer is wrong.</param>
/// <param name="WorthReading">True where reading it would tell whether it is the one.</param>
/// <param name="KeptIn">For what is no file of its own: what holds it, a backup or a bundle; it can be put back or copied in.</param>
/// <param name="AlsoWantedBy">Other missing files that it may be as well, by folder and name.</param>
/// <param name="TooShort">True where clips play more of the missing file than it has.</param>
public sealed record MatchView(
    string Id, SoundFactsView Facts, string? ShelfName, bool IsThere, bool IsKept, bool IsInside, string? KeptIn, Certainty Certainty, bool WorthReading, bool TooShort, IReadOnlyList<string> AlsoWantedBy,
    IReadOnlyList<EvidenceView> Evidence);

/// <summary>A missing file in the list.</summary>
/// <param name="Place">Where it should be.</param>
/// <param name="Best">What it is most likely; null where nothing is known that fits.</param>
/// <param name="Matches">How many files may be it.</param>
/// <param name="CanPutBack">Whether what is found could be put where the document expects it.</param>
public sealed record LostView(
    string Id, string Name, PlaceView Place, Standing Standing, FileUse Use, int PlacedTimes, int NamedTimes, string? ShelfName, double? Seconds, long? Bytes, Whereabouts Whereabouts, MatchView? Best, int Matches,
    bool CanPutBack, LostMark Mark, string? Note);

/// <summary>Missing files of another session that moved along.</summary>
public sealed record AlsoMovedView(Guid SessionId, string Name, int Files);

/// <summary>Files that moved together.</summary>
/// <param name="Key">By what it is chosen.</param>
/// <param name="Lost">Identities of this session's files among them.</param>
/// <param name="Certain">How many of them are certain.</param>
public sealed record MoveView(string Key, PlaceView From, PlaceView To, IReadOnlyList<string> Lost, int Certain, IReadOnlyList<AlsoMovedView> Elsewhere);

/// <summary>A shelf that is away and holds what the session misses.</summary>
/// <param name="Needed">Files that the session points at on it.</param>
/// <param name="Matches">Missing files whose best match is on it.</param>
public sealed record AwayShelfView(Guid ShelfId, string Name, int Needed, int Matches);

/// <summary>A place that was searched.</summary>
/// <param name="NotFound">Names of what was not found there.</param>
public sealed record SearchedPlaceView(PlaceView Place, string Path, DateTimeOffset Ended, bool IsWhole, int Folders, int Files, int Unreadable, int Found, IReadOnlyList<string> NotFound);

/// <summary>How many missing files there are of which kind.</summary>
public sealed record LostCountView(int Missing, int Certain, int ToCompare, int OnAwayShelves, int NoTrace, int Skipped, int Gone, int Away);

/// <summary>What a session misses, and what is known of it.</summary>
/// <param name="Revision">Another text where anything is otherwise.</param>
/// <param name="Sentence">The same in a sentence.</param>
/// <param name="ToReadFiles">Files that could be read to make sure.</param>
public sealed record RelinkView(
    string Revision, string Sentence, LostCountView Counts, IReadOnlyList<LostView> Lost, IReadOnlyList<MoveView> Moves, IReadOnlyList<AwayShelfView> AwayShelves,
    IReadOnlyList<SearchedPlaceView> Searched, int ToReadFiles, long ToReadBytes);

/// <summary>All about one missing file.</summary>
/// <param name="LastSeen">When the scan ended that saw it last; null where that is not known.</param>
/// <param name="FoundGone">When it was found to be gone from where it was.</param>
/// <param name="HasOutline">True where its outline may still be known.</param>
/// <param name="History">When it was used last, and there last, as far as versions tell; null where there are none.</param>
/// <param name="HeardFrom">The file whose bytes are the same, in which it can be heard; null where there is none.</param>
/// <param name="NeededSeconds">How much of it clips need.</param>
/// <param name="Searched">Where it was looked for and not found.</param>
public sealed record LostDetailsView(
    LostView Lost, SoundFactsView Facts, bool IsIdentified, IReadOnlyList<UsedPartView> Used, double? NeededSeconds, DateTimeOffset? LastSeen, DateTimeOffset? FoundGone, string? History, string? HeardFrom,
    IReadOnlyList<MatchView> Matches, IReadOnlyList<SearchedPlaceView> Searched);

/// <summary>A part of a file that is in use, in seconds.</summary>
public sealed record UsedPartView(double Start, double End);

/// <summary>Makes the views.</summary>
public static class RelinkViewMaker
{
    private const int MostShown = 12;

    /// <summary>The session's missing files in one view.</summary>
    public static RelinkView View(LostFiles lost, RelinkNote note, IReadOnlyList<Shelf> shelves, Func<IReadOnlyCollection<FolderMove>, IReadOnlyList<(Guid Id, string Name, FolderMove Move, int Files)>> elsewhere)
    {
        ArgumentNullException.ThrowIfNull(lost);
        ArgumentNullException.ThrowIfNull(note);
        ArgumentNullException.ThrowIfNull(elsewhere);
        var asking = lost.Entries.Where(e => e.Asks).ToList();
        var counts = new LostCountView(
            lost.Entries.Count(e => e.File.Standing == Standing.Missing),
            asking.Count(e => e.Matches.Best is { IsCertain: true, File.IsThere: true }),
            asking.Count(e => e.Matches.Shown is { IsCertain: false, File.IsThere: true }),
            asking.Count(e => e.Matches.Shown is { File.IsThere: false }),
            asking.Count(e => e.Matches.Shown is null),
            lost.Entries.Count(e => e.File.Standing == Standing.Missing && e.Note?.Mark == LostMark.Skipped),
            lost.Entries.Count(e => e.File.Standing == Standing.Missing && e.Note?.Mark == LostMark.Gone),
            lost.Entries.Count(e => e.File.Standing == Standing.Away));
        var also = elsewhere([.. lost.Moves.Select(m => m.Move)]);
        var toRead = RelinkSearches.ToRead(lost);
        return new RelinkView(
            lost.Revision,
            Sentence(counts, AwayShelves(lost, shelves)),
            counts,
            [.. lost.Entries.Select(e => View(e, shelves))],
            [.. lost.Moves.Select(m => View(m, shelves, also))],
            AwayShelves(lost, shelves),
            [.. note.Searched.Select(s => View(s, shelves))],
            toRead.Count,
            toRead.Sum(f => f.Known.Bytes));
    }

    /// <summary>By what a move is chosen.</summary>
    public static string KeyOf(FolderMove move)
    {
        ArgumentNullException.ThrowIfNull(move);
        return InventoryFile.IdOf(move.From + "\n" + move.To);
    }

    /// <summary>A missing file in the list.</summary>
    public static LostView View(LostEntry entry, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(entry);
        var (file, matches) = (entry.File, entry.Matches);
        return new LostView(
            file.Id, matches.Lost.Name, PlanViews.Place(file.Path, shelves), file.Standing, file.Use, file.PlacedTimes, file.NamedTimes, file.ShelfName, file.Known?.LengthSeconds ?? file.Stated?.Seconds, file.Known?.Bytes,
            matches.Whereabouts, matches.Shown is { } best ? View(best, matches.Lost, shelves) : null, Math.Min(MostShown, matches.All.Length), CanPutBack(file, matches.Lost, shelves),
            entry.Note?.Mark ?? LostMark.None, entry.Note?.Note);
    }

    /// <summary>All matches of a missing file.</summary>
    public static IReadOnlyList<MatchView> Matches(LostEntry entry, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(entry);
        return [.. entry.Matches.All.Take(MostShown).Select(m => View(m, entry.Matches.Lost, shelves))];
    }

    /// <summary>A file that is there and holds the very bytes of the missing one: in it that can be heard.</summary>
    public static Match? HeardFrom(LostEntry entry)
    {
        ArgumentNullException.ThrowIfNull(entry);
        return entry.Matches.All.FirstOrDefault(m => m.File.IsThere && m[EvidenceKind.Bytes] == Verdict.Agrees);
    }

    /// <summary>What is known of a missing file.</summary>
    public static SoundFactsView Facts(LostEntry entry, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(entry);
        var (file, lost) = (entry.File, entry.Matches.Lost);
        return Facts(lost.Name, file.Path, lost.Known, lost.Noted, shelves) with
        {
            Seconds = lost.Known?.LengthSeconds ?? lost.Stated?.Seconds,
            SampleRate = lost.Known?.SampleRate ?? lost.Stated?.SampleRate,
        };
    }

    /// <summary>A place that was searched.</summary>
    public static SearchedPlaceView View(SearchedPlace search, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(search);
        return new SearchedPlaceView(
            PlanViews.Place(search.Path, shelves), search.Path, search.Ended, search.IsWhole, search.Folders, search.Files, search.Unreadable, search.Found,
            [.. search.NotFound.Select(p => new ComparedPath(p).Name)]);
    }

    private static MatchView View(Match match, LostFile lost, IReadOnlyList<Shelf> shelves)
    {
        var file = match.File;
        return new MatchView(
            InventoryFile.IdOf(file.Path), Facts(file.Name, file.Path, file.Known, file.Noted, shelves), Shelf.Holding(shelves, file.Path)?.Name, file.IsThere, file.IsKept,
            ShelfPath.IsWithin(file.Path, lost.Session), file.Copy?.Holder, match.Certainty, match.IsWorthReading(lost),
            lost.NeededSeconds is { } needed && file.Known is { LengthSeconds: { } length, SampleRate: { } rate } && length + (1.0 / rate) < needed,
            [.. match.AlsoWantedAt.Select(WithFolder)],
            [.. match.Evidence.Select(e => new EvidenceView(e.Kind, e.Verdict))]);
    }

    private static string WithFolder(string path) => new ComparedPath(path) is var at && at.Folders.IsEmpty ? at.Name : $"{at.Folders[^1]}/{at.Name}";

    private static SoundFactsView Facts(string name, string path, KnownFile? known, NotedIdentities noted, IReadOnlyList<Shelf> shelves) => new(
        name, PlanViews.Place(path, shelves), path, known?.Bytes, known?.ModifiedUtc, known?.Container, known?.SampleRate, known?.Channels, known?.BitsPerSample, known?.LengthSamples,
        known?.LengthSeconds, noted.Origin?.Replace("|", " · ", StringComparison.Ordinal).Trim(' ', '·'), noted.TimeReference?.ToString(System.Globalization.CultureInfo.InvariantCulture));

    private static bool CanPutBack(InventoryFile file, LostFile lost, IReadOnlyList<Shelf> shelves) =>
        file.Path.StartsWith('/') && (ShelfPath.IsWithin(file.Path, lost.Session) || Shelf.Holding(shelves, file.Path) is { IsConnected: true });

    private static MoveView View(MovedFiles moved, IReadOnlyList<Shelf> shelves, IReadOnlyList<(Guid Id, string Name, FolderMove Move, int Files)> elsewhere) => new(
        KeyOf(moved.Move), PlanViews.Place(moved.Move.From, shelves), PlanViews.Place(moved.Move.To, shelves), [.. moved.Files.Select(f => InventoryFile.IdOf(f.Lost.Path))],
        moved.Files.Count(f => f.Best is { IsCertain: true }), [.. elsewhere.Where(e => e.Move == moved.Move).Select(e => new AlsoMovedView(e.Id, e.Name, e.Files))]);

    private static List<AwayShelfView> AwayShelves(LostFiles lost, IReadOnlyList<Shelf> shelves) =>
    [
        .. shelves.Where(s => !s.IsConnected).Select(s => new AwayShelfView(
                s.Id, s.Name, lost.Entries.Count(e => e.File.Standing == Standing.Away && e.File.ShelfId == s.Id),
                lost.Entries.Count(e => e.Asks && e.Matches.Best is { File: { IsThere: false } found } && found.ShelfId == s.Id)))
            .Where(s => s.Needed + s.Matches > 0),
    ];

    private static string Sentence(LostCountView counts, List<AwayShelfView> away)
    {
        var parts = new List<string>();
        if (counts.Certain > 0)
        {
            parts.Add($"{counts.Certain} found for certain");
        }
        if (counts.ToCompare > 0)
        {
            parts.Add($"{counts.ToCompare} to compare");
        }
        parts.AddRange(away.Where(a => a.Matches > 0).Select(a => $"{a.Matches} on '{a.Name}', which is away"));
        if (counts.NoTrace > 0)
        {
            parts.Add($"{counts.NoTrace} without a trace");
        }
        if (counts.Skipped + counts.Gone > 0)
        {
            parts.Add($"{counts.Skipped + counts.Gone} left as {(counts.Skipped + counts.Gone == 1 ? "it is" : "they are")}");
        }
        var missing = counts.Missing == 0 ? "Nothing is missing." : $"{counts.Missing} missing: {string.Join(", ", parts)}.";
        var gone = string.Concat(away.Where(a => a.Needed > 0).Select(a => $" {ByteText.Count(a.Needed, "file")} {(a.Needed == 1 ? "is" : "are")} on '{a.Name}', which is away."));
        return missing + gone;
    }
}
