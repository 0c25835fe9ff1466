using System.Collections.Concurrent;
using System.Collections.Immutable;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Relink;

/// <summary>A missing file of a session with its matches.</summary>
/// <param name="File">The file, as the inventory tells of it.</param>
/// <param name="Matches">What may be it.</param>
/// <param name="Note">What somebody decided about it.</param>
public sealed record LostEntry(InventoryFile File, Matches Matches, LostNote? Note)
{
    /// <summary>True for one that asks for something: missing, and neither skipped nor gone for good.</summary>
    public bool Asks => File.Standing == Standing.Missing && Note is null;
}

/// <summary>All missing files of a session at one moment.</summary>
/// <param name="Inventory">The inventory that they are of.</param>
/// <param name="Entries">In the order of the inventory.</param>
/// <param name="Moves">Those that moved together.</param>
/// <param name="Revision">Another text where anything is otherwise.</param>
public sealed record LostFiles(SessionInventory Inventory, IReadOnlyList<LostEntry> Entries, IReadOnlyList<MovedFiles> Moves, string Revision)
{
    private readonly Lazy<Dictionary<string, LostEntry>> _byId = new(() => Entries.ToDictionary(e => e.File.Id));
    private readonly Lazy<Dictionary<string, FoundFile>> _found = new(() => Entries.SelectMany(e => e.Matches.All).Select(m => m.File).DistinctBy(f => f.Path).ToDictionary(f => InventoryFile.IdOf(f.Path)));

    /// <summary>A missing file by its identity within the session.</summary>
    public LostEntry? Find(string id) => _byId.Value.GetValueOrDefault(id);

    /// <summary>A found file by the identity that its path gives it.</summary>
    public FoundFile? FindFound(string id) => _found.Value.GetValueOrDefault(id);
}

/// <summary>Missing files of the known sessions and what may be them, from what is known: no disk is touched beyond the look at the session itself.</summary>
public sealed class RelinkService(SessionService sessions, ShelfService shelves, FormerRoots former, Catalogue catalogue, KeptIdentities identities, KeptCopies copies, RelinkNotes notes)
{
    private readonly ConcurrentDictionary<Guid, JudgedSession> _kept = new();
    private readonly ConcurrentDictionary<Guid, ImmutableDictionary<string, FoundFile>> _searched = new();
    private long _searches;

    /// <summary>The missing files of a session, and those that are away.</summary>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public LostFiles Of(SessionRow row, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(row);
        var known = shelves.All();
        return Of(row, sessions.Show(row, known, cancel), known);
    }

    /// <summary>The missing files of other sessions that moved along with these, by session.</summary>
    /// <param name="row">The session whose own files are left out.</param>
    /// <param name="moves">The moves.</param>
    /// <param name="cancel">Stops.</param>
    public IReadOnlyList<(SessionRow Session, LostFiles Lost, IReadOnlyList<LostEntry> Along)> Elsewhere(SessionRow row, IReadOnlyCollection<FolderMove> moves, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(moves);
        var (known, found) = (shelves.All(), new List<(SessionRow, LostFiles, IReadOnlyList<LostEntry>)>());
        foreach (var other in moves.Count == 0 ? [] : sessions.All().Where(s => s.Id != row.Id))
        {
            try
            {
                var lost = Of(other, sessions.Glance(other, known, cancel), known);
                var along = lost.Entries.Where(e => e.Asks && e.Matches.Best is { File.IsThere: true } best && FolderMove.Of(e.Matches.Lost.At, best.File.At) is { } move && moves.Contains(move)).ToList();
                if (along.Count > 0)
                {
                    found.Add((other, lost, along));
                }
            }
            catch (FaultException)
            {
                // A session that cannot be reached says so itself, and cannot be changed now.
            }
        }
        return found;
    }

    /// <summary>Takes note of a file that a search found.</summary>
    public void Found(Guid sessionId, FoundFile file)
    {
        ArgumentNullException.ThrowIfNull(file);
        _searched.AddOrUpdate(sessionId, _ => ImmutableDictionary<string, FoundFile>.Empty.Add(file.Path, file), (_, found) => found.SetItem(file.Path, file));
        Interlocked.Increment(ref _searches);
    }

    private LostFiles Of(SessionRow row, SessionInventory inventory, IReadOnlyList<Shelf> known)
    {
        var basis = string.Join(
            ' ', string.Join('/', sessions.Folders()).GetHashCode(StringComparison.Ordinal), inventory.Revision, catalogue.Revision, copies.Revision, notes.Revision, Interlocked.Read(ref _searches), string.Concat(known.Select(s => s.IsConnected ? '1' : '0')));
        // Asked before anything is recalled: what is noted meanwhile is asked for the next time.
        var noted = identities.Revision;
        if (_kept.TryGetValue(row.Id, out var kept) && kept.Basis == basis && kept.Files.Inventory.Folder == inventory.Folder)
        {
            if (kept.Noted == noted)
            {
                return kept.Files;
            }
            if (identities.Since(kept.Noted) is { } news)
            {
                return (_kept[row.Id] = Again(kept, new Judge(this, row, inventory, known), news, noted)).Files;
            }
        }
        return (_kept[row.Id] = Anew(new Judge(this, row, inventory, known), basis, noted)).Files;
    }

    private static JudgedSession Anew(Judge judge, string basis, long noted)
    {
        List<InventoryFile> missing = [.. judge.Inventory.Files.Where(f => f.Standing is Standing.Missing or Standing.Away)];
        var inside = missing.Count == 0 ? null : judge.Inside();
        JudgedFile[] judged = inside is null ? [] : judge.Of(missing, inside);
        return new JudgedSession(basis, noted, missing, judged, inside, judge.Tell(missing, judged, $"{basis} {noted}"));
    }

    /// <summary>Identities were noted since: only those files are judged again that one of them is of, may be one of, or has one in common with.</summary>
    private static JudgedSession Again(JudgedSession before, Judge judge, IReadOnlyList<((Guid ShelfId, string Path) Place, NotedIdentities Noted)> news, long noted)
    {
        if (before.ConcernedBy(news) is not { Count: > 0 } concerned)
        {
            return before with { Noted = noted };
        }
        var inside = judge.InsideAgain(before.Inside!, [.. news.Select(n => n.Place)]);
        var judged = (JudgedFile[])before.Judged.Clone();
        foreach (var (n, again) in concerned.Zip(judge.Of(concerned.ConvertAll(n => before.Missing[n]), inside)))
        {
            judged[n] = again;
        }
        return new JudgedSession(before.Basis, noted, before.Missing, judged, inside, judge.Tell(before.Missing, judged, $"{before.Basis} {noted}"));
    }

    /// <summary>Judges missing files of one session, as everything is known now.</summary>
    private sealed class Judge(RelinkService relink, SessionRow row, SessionInventory inventory, IReadOnlyList<Shelf> known)
    {
        public SessionInventory Inventory => inventory;

        public JudgedFile[] Of(List<InventoryFile> missing, InsideFiles inside)
        {
            var places = missing.ConvertAll(f => PlaceOf(f.Path));
            var remembered = relink.Identities.Recall(places);
            var held = relink.Copies.Of(row, known);
            var lost = missing.Select((f, n) =>
            {
                var noted = remembered.GetValueOrDefault(places[n]);
                var one = LostFile.Of(f, NotedOf(f, noted), inventory);
                // Written over at the shelf's new place, it is not what the document was saved with at the old one.
                var isOfAnother = noted is not null && Former(f.Path) is not null && noted.ModifiedUtc - one.SavedUtc > EvidenceRules.SameTime;
                return held.Noted(isOfAnother ? one with { Noted = NotedIdentities.None } : one);
            }).ToList();
            var suggested = new CatalogueSuggestions(relink.Catalogue, relink.Identities, known).Suggest(lost);
            List<string> others = [.. relink.Sessions.Folders().Where(f => f != inventory.Folder && !ShelfPath.IsWithin(inventory.Folder, f))];
            // What the catalogue has of the session's own folder is of before, as after an undo: the inventory says what stands there.
            IEnumerable<FoundFile> Elsewhere(IEnumerable<FoundFile> found) =>
                found.Where(f => !ShelfPath.IsWithin(f.Path, inventory.Folder)).Select(f => others.Exists(o => ShelfPath.IsWithin(f.Path, o)) ? f with { IsOfOtherSession = true } : f);
            var searched = relink._searched.GetValueOrDefault(row.Id)?.Values.ToList() ?? [];
            return
            [
                .. lost.Select((l, n) =>
                {
                    List<FoundFile> found = [.. inside.Suggest(l).Concat(Elsewhere(searched)).Concat(Elsewhere(suggested[n])).Concat(held.Suggest(l))];
                    return new JudgedFile(places[n], [.. found.Where(f => f.Copy is null).Select(f => PlaceOf(f.Path))], Matcher.Of(l, found));
                }),
            ];
        }

        /// <summary>What stands in the session's own folder.</summary>
        public InsideFiles Inside()
        {
            var files = inventory.Standing(Standing.Inside).Where(f => f.Known is not null).ToList();
            var remembered = relink.Identities.Recall([.. files.Select(f => PlaceOf(f.Path))]);
            return new InsideFiles(files.ConvertAll(f =>
                new FoundFile(f.Path, f.Known!, remembered.GetValueOrDefault(PlaceOf(f.Path))?.Of(f.Known!.Bytes, f.Known.ModifiedUtc) ?? NotedIdentities.None, true, f.Use == FileUse.SetAside, f.ShelfId)));
        }

        /// <summary>The same with what was noted of some of them since.</summary>
        public InsideFiles InsideAgain(InsideFiles before, IReadOnlyCollection<(Guid ShelfId, string Path)> places)
        {
            var remembered = relink.Identities.Recall(places);
            return before.With(remembered.Where(r => PathOf(r.Key) is not null).ToDictionary(r => PathOf(r.Key)!, r => r.Value, StringComparer.Ordinal));
        }

        /// <summary>What is said of the files together.</summary>
        public LostFiles Tell(List<InventoryFile> missing, JudgedFile[] judged, string revision)
        {
            var (matches, marks) = (FolderMoves.Along([.. judged.Select(j => j.Matches)]), relink.Notes.Of(row.Id).Marks);
            List<LostEntry> entries = [.. missing.Select((f, n) => new LostEntry(f, matches[n], marks.GetValueOrDefault(f.Path)))];
            return new LostFiles(inventory, entries, FolderMoves.Of(entries.Where(e => e.Asks).Select(e => e.Matches)), revision);
        }

        private (Guid, string)? Former(string path) => Shelf.Holding(known, path) is null ? relink.FormerPlaces.PlaceOf(known, path) : null;

        private (Guid, string) PlaceOf(string path) => Former(path) ?? KeptIdentities.PlaceOf(known, path);

        private string? PathOf((Guid ShelfId, string Path) place) =>
            place.ShelfId == Guid.Empty ? place.Path : known.FirstOrDefault(s => s.Id == place.ShelfId) is { } shelf ? Path.Combine(shelf.Root, place.Path) : null;
    }

    /// <summary>What was noted counts for the file as it was when it was last seen.</summary>
    private static NotedIdentities? NotedOf(InventoryFile file, Remembered? remembered) =>
        file.Recalled is { } known ? remembered?.Of(known.Bytes, known.ModifiedUtc) : remembered?.Noted;

    private SessionService Sessions => sessions;

    private FormerRoots FormerPlaces => former;

    private Catalogue Catalogue => catalogue;

    private KeptIdentities Identities => identities;

    private KeptCopies Copies => copies;

    private RelinkNotes Notes => notes;
}
