using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Text.Json;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.LoadingBay;

/// <summary>A folder on a shelf that looks like a session.</summary>
/// <param name="Path">Its path on the shelf.</param>
/// <param name="As">What it is.</param>
/// <param name="Of">For a copy, where the session itself stands; for what stands in a certain folder, that folder's name.</param>
/// <param name="KnownAs">The known session that it is, or stands in.</param>
/// <param name="Documents">Names of the documents at its top, the current one first.</param>
/// <param name="IsByNames">True where the current one is of another program.</param>
/// <param name="Media">Media files in it.</param>
/// <param name="Bytes">Bytes of all files in it.</param>
/// <param name="Saved">When its document was saved last.</param>
/// <param name="Attention">How much it needs somebody.</param>
/// <param name="Says">The line that its label would say.</param>
public sealed record FoundSessionView(
    string Path, FoundAs As, string? Of, Guid? KnownAs, IReadOnlyList<string> Documents, bool IsByNames, int Media, long Bytes, DateTime? Saved, Attention Attention, string Says);

/// <summary>The sessions that were found on a shelf.</summary>
/// <param name="Name">The shelf's name.</param>
/// <param name="Connected">Whether it is there.</param>
/// <param name="Began">When they were looked for last; null before the first time.</param>
/// <param name="IsWhole">True where all of the shelf was looked through.</param>
/// <param name="IsOutdated">True where a scan has found more, less or other files since: there may be other sessions now.</param>
/// <param name="Found">What was found and is still there, by path.</param>
public sealed record SessionsOnShelfView(Guid ShelfId, string Name, bool Connected, DateTimeOffset? Began, bool IsWhole, bool IsOutdated, IReadOnlyList<FoundSessionView> Found);

/// <summary>Looks for sessions on shelves, and remembers what was found.</summary>
public sealed class SessionsOnShelves(ShelfService shelves, SessionService sessions, HeaderCache headers, DocumentKindChoices kinds, Catalogue catalogue, StoredSettings settings, WorkEngine engine, TimeProvider time)
{
    private const string Prefix = "sessions on shelf ";

    private readonly ConcurrentDictionary<Guid, Search> _last = new();
    private readonly ConcurrentDictionary<Guid, KeptSearch?> _kept = new();
    private readonly Lock _one = new();

    /// <summary>What a search found.</summary>
    /// <param name="Root">Absolute path of the shelf's top folder then.</param>
    /// <param name="Began">When it began.</param>
    /// <param name="Scanned">What the last scan before it had found.</param>
    /// <param name="IsWhole">Whether it looked through all of the shelf.</param>
    /// <param name="Found">What it found.</param>
    private sealed record KeptSearch(string Root, DateTimeOffset Began, ScanFigures? Scanned, bool IsWhole, ImmutableArray<FoundSession> Found);

    private sealed record ScanFigures(int Folders, int Files, long Bytes);

    /// <summary>Begins to look for sessions on a shelf, unless that goes on already.</summary>
    /// <exception cref="NotKnownException">There is no such shelf.</exception>
    /// <exception cref="FaultException">It is away, or holds a vault.</exception>
    public Job Start(Guid shelfId)
    {
        var shelf = shelves.Get(shelfId);
        Requests.Require(shelf.Kind != ShelfKind.Vault, $"'{shelf.Name}' is a vault: backups stand in it, and come back by Back up.");
        if (!shelf.IsConnected)
        {
            throw new FaultException(new Fault(FaultCode.ShelfAway) { Name = shelf.Name });
        }
        lock (_one)
        {
            if (_last.GetValueOrDefault(shelfId) is { Job: { View.IsOver: false } running })
            {
                return running;
            }
            var search = new Search(this, shelf) { ShelfId = shelfId, Began = time.GetUtcNow(), Scanned = FiguresOf(shelfId) };
            _last[shelfId] = search;
            return search.Job = engine.Start(search);
        }
    }

    /// <summary>What was found on a shelf by now, each told as what it is at this moment.</summary>
    /// <exception cref="NotKnownException">There is no such shelf.</exception>
    public SessionsOnShelfView Of(Guid shelfId)
    {
        var shelf = shelves.Get(shelfId);
        var (last, all) = (LastOf(shelfId), shelves.All());
        var rows = sessions.All().ToDictionary(r => r.Folder, StringComparer.Ordinal);
        var known = rows.Values.Select(SessionService.RecognisedBy).ToList();
        // What was found before the drive was found elsewhere stands there by paths that lead nowhere now.
        var found = last is not null && last.Root == shelf.Root ? last : null;
        // What was found yesterday may have been moved or deleted since.
        var there = (found?.Found ?? []).Where(f => !shelf.IsConnected || Directory.Exists(f.Folder)).ToList();
        return new SessionsOnShelfView(
            shelfId, shelf.Name, shelf.IsConnected, found?.Began, found?.IsWhole ?? false, found is not null && found.Scanned != FiguresOf(shelfId),
            [.. FoundSessions.Tell(there, shelf.Root, known, all).OrderBy(t => t.Found.Folder, StringComparer.OrdinalIgnoreCase).Select(t => View(t, shelf, all, t.Of is { } of ? rows.GetValueOrDefault(of)?.Id : null))]);
    }

    private ScanFigures? FiguresOf(Guid shelfId) => catalogue.LastScans().GetValueOrDefault(shelfId) is { } scan ? new ScanFigures(scan.Folders, scan.Files, scan.Bytes) : null;

    private void Keep(Guid shelfId, KeptSearch found) => settings.Write(Prefix + shelfId, found);

    private KeptSearch? LastOf(Guid shelfId)
    {
        if (_last.GetValueOrDefault(shelfId) is { } search)
        {
            return search.Found();
        }
        return _kept.GetOrAdd(shelfId, id =>
        {
            try
            {
                return settings.Read<KeptSearch>(Prefix + id);
            }
            catch (JsonException)
            {
                // Written by another version: it is looked for again.
                return null;
            }
        });
    }

    private static FoundSessionView View(ToldSession told, Shelf shelf, IReadOnlyList<Shelf> all, Guid? of)
    {
        var found = told.Found;
        var where = told is not { As: FoundAs.Known or FoundAs.Copy, Of: { } folder } ? told.Of
            : ShelfPath.IsWithin(folder, shelf.Root) ? shelf.Relative(folder)
            : Shelf.Holding(all, folder) is { } on ? $"{on.Name}: {on.Relative(folder)}" : folder;
        return new FoundSessionView(
            shelf.Relative(found.Folder), told.As, where, told.As == FoundAs.Known ? of : null, found.Documents, found.IsByNames, found.Media, found.Bytes, found.SavedUtc, found.Status.Attention,
            found.Status.Problem is { } problem ? Sentences.Of(problem) : found.Status.Sentence);
    }

    private sealed class Search(SessionsOnShelves all, Shelf shelf) : Work(JobWork.Search, $"Look for sessions on '{shelf.Name}'")
    {
        private readonly Lock _lock = new();
        private readonly List<FoundSession> _found = [];

        public Shelf Shelf => shelf;

        public required DateTimeOffset Began { get; init; }

        public required ScanFigures? Scanned { get; init; }

        public Job? Job { get; set; }

        public bool IsWhole { get; private set; }

        public override string WhenCancelled => "Stopped. What was found by then is listed.";

        /// <summary>What was found by now.</summary>
        public KeptSearch Found()
        {
            lock (_lock)
            {
                return new KeptSearch(shelf.Root, Began, Scanned, IsWhole, [.. _found]);
            }
        }

        public override WorkEnd Run(Job job)
        {
            try
            {
                return Look(job);
            }
            finally
            {
                all.Keep(shelf.Id, Found());
            }
        }

        private WorkEnd Look(Job job)
        {
            var others = all.Others(shelf);
            var isJudging = 0;
            new SessionSearch(all._inventories, others.Known, others.Roots).Look(
                shelf.Root,
                now =>
                {
                    // How many folders there are is not known before all were looked into; from then on the time left is told anew.
                    if (now.ToDo > 0 && Interlocked.Exchange(ref isJudging, 1) == 0)
                    {
                        job.BeginAnew();
                    }
                    job.Report(now.ToDo > 0 ? now.Done : now.Looked, now.ToDo, 0, 0, shelf.Relative(now.Current));
                },
                session =>
                {
                    lock (_lock)
                    {
                        _found.Add(session);
                    }
                },
                job.Cancel);
            IsWhole = true;
            return new WorkEnd(JobState.Done, Found().Found is { Length: > 0 } found ? $"{ByteText.Count(found.Length, "folder")} {(found.Length == 1 ? "looks" : "look")} like a session." : "No session was found.");
        }
    }

    // What is known of drives that are away is not asked for: the line says that they are, and a thousand sessions would ask a thousand times.
    private readonly InventoryReader _inventories = new(headers, null, () => kinds.Now);

    private (IReadOnlyList<Shelf> Known, HashSet<string> Roots) Others(Shelf shelf)
    {
        var known = shelves.All();
        return (known, known.Where(s => s.Id != shelf.Id).Select(s => s.Root).ToHashSet(StringComparer.Ordinal));
    }
}
