using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Globalization;
using NeatCrate.App.Backups;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Record;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Core.Vault;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.Purge;

/// <summary>A session's files as they were judged at one moment.</summary>
/// <param name="World">What the judgement was made of.</param>
/// <param name="Items">All that was judged.</param>
/// <param name="ToRead">Files that may hold the same sound as another, and were not read yet.</param>
/// <param name="Revision">Another text where anything is otherwise.</param>
public sealed record JudgedSession(PurgeWorld World, IReadOnlyList<PurgeItem> Items, IReadOnlyList<InventoryFile> ToRead, string Revision)
{
    private readonly ConcurrentDictionary<PurgeQuery, ImmutableArray<PurgeItem>> _lists = new();

    // In one piece, since several ask at once.
    private Trims? _trimmed;

    /// <summary>What trimming would leave of the files that clips play, the greatest saving first. The last one that was asked for is kept.</summary>
    public IReadOnlyList<TrimmedFile> Trimmed(TrimChoice choice, bool inPlace, IReadOnlyList<Shelf> shelves)
    {
        if (_trimmed is not { } kept || kept.Choice != choice || kept.InPlace != inPlace)
        {
            _trimmed = kept = new Trims(choice, inPlace, [.. TrimJudge.Judge(World, shelves, choice, inPlace).OrderByDescending(t => t.File.Bytes - t.BytesAfter).ThenBy(t => t.File.Path, StringComparer.Ordinal)]);
        }
        return kept.Files;
    }

    /// <summary>A list of them; the last few that were asked for are kept.</summary>
    public ImmutableArray<PurgeItem> List(PurgeQuery query)
    {
        if (_lists.Count > 20)
        {
            _lists.Clear();
        }
        return _lists.GetOrAdd(query, q => q.Of(Items, World.Inventory.Folder));
    }

    private sealed record Trims(TrimChoice Choice, bool InPlace, IReadOnlyList<TrimmedFile> Files);
}

/// <summary>What could go out of the known sessions. A judgement is kept until a file, a document, another session's use or a choice is otherwise.</summary>
public sealed class PurgeService(
    SessionService sessions, SessionFiles files, KeptSessions kept, ShelfService shelves, UseIndex uses, RecordingGuard guard, KeptIdentities identities, Catalogue catalogue, VersionService versions, KeptContents contents, WorkEngine engine)
{
    private readonly ConcurrentDictionary<(Guid Session, PurgeCounting Counting), JudgedSession> _judged = new();

    // A look at the middle told these apart from all others: they need no reading.
    private readonly ConcurrentDictionary<(string Path, long Bytes, DateTime ModifiedUtc), bool> _apart = new();

    /// <summary>The session's files as they are judged now.</summary>
    /// <param name="row">The session.</param>
    /// <param name="counting">What counts.</param>
    /// <param name="isForPlan">True where every file is to be looked at.</param>
    /// <param name="cancel">Stops.</param>
    /// <param name="job">Told how far it is; null for nobody.</param>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public JudgedSession Of(SessionRow row, PurgeCounting counting, bool isForPlan, CancellationToken cancel, Job? job = null)
    {
        ArgumentNullException.ThrowIfNull(row);
        var known = shelves.All();
        var inventory = isForPlan ? sessions.InventoryOf(row, cancel) : sessions.Show(row, known, cancel);
        var (others, growing) = (uses.UsesWithin(row.Folder), guard.GrowingIn(row.Id));
        var revision = string.Join(' ', inventory.Revision, identities.Revision, _apart.Count, string.Join('|', growing.Order(StringComparer.Ordinal)), string.Join('|', kept.Of(row).EmptyFolders()), string.Join('|', others.Select(o => $"{o.Path} {o.Document}").Order(StringComparer.Ordinal)));
        var saves = versions.SavesOf(row);
        revision += $" {saves.Length} {(saves.IsEmpty ? default : saves[0].Saved).Ticks}";
        var key = (row.Id, counting);
        if (_judged.TryGetValue(key, out var before) && before.Revision == revision && before.World.Inventory.Folder == inventory.Folder)
        {
            return before;
        }
        var takes = files.Takes(row, known).Where(t => t.Evidence != TakeEvidence.None).ToDictionary(
            t => t.File.Path, t => t.File.ListedTake ?? new TakeLabel(t.Track, t.Number, t.Pass), StringComparer.Ordinal);
        var inventories = kept.Of(row);
        var (same, toRead) = SameIn(inventory, known);
        var world = new PurgeWorld(
            inventory, inventories.ByDocument(), others.ToLookup(o => o.Path, StringComparer.Ordinal), takes, inventories.Others())
        {
            Growing = growing,
            KeptSaves = versions.UsesIn(row, saves, read => job?.Report(read, saves.Length, 0, 0, "kept saves", holds: false), cancel),
            Same = same,
            Counting = counting,
        };
        return _judged[key] = new JudgedSession(world, PurgeJudge.Judge(world), toRead, revision);
    }

    /// <summary>Reads what may hold the same sound, so that it is known.</summary>
    public Job Read(SessionRow row, JudgedSession judged)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(judged);
        return engine.Start(new Reading(this, row, judged.ToRead) { SessionId = row.Id, MostAtOnce = 1, Reads = [row.Folder] });
    }

    /// <summary>True where a backup holds a file's bytes, as a look at it just now tells: a full backup, or a plain copy on a vault's shelf. What is away does not count.</summary>
    /// <param name="file">Absolute path of the file.</param>
    /// <param name="identity">Its identity.</param>
    /// <param name="inVaults">Says of a content whether a full backup holds it; null where there is none.</param>
    /// <param name="reading">Tells identities of what has to be read.</param>
    /// <param name="cancel">Stops the reading.</param>
    public bool IsInABackup(string file, ByteIdentity identity, Func<ContentHash, long, bool>? inVaults, IIdentities reading, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(reading);
        if (inVaults is not null && inVaults(HashOf(file, cancel), identity.Bytes))
        {
            return true;
        }
        var known = shelves.All();
        var lost = new LostFile(file, KnownFile.Of(identity.Bytes, FileState.Of(file).ModifiedUtc, HeaderCache.ReadNow(file).Header), new NotedIdentities(identity.Hash, null, null), null, null, "");
        var vaultShelves = known.Where(s => s.Kind == ShelfKind.Vault).Select(s => s.Id).ToHashSet();
        return new CatalogueSuggestions(catalogue, identities, known).Suggest([lost])[0]
            .Any(f => f.ShelfId is { } shelf && vaultShelves.Contains(shelf) && f.Known.Bytes == identity.Bytes && Holds(f, identity, reading, cancel));
    }

    /// <summary>Which versions play a file, as they are told of: versions in the folder, kept saves, documents of other sessions.</summary>
    /// <param name="world">What is known of the session.</param>
    /// <param name="path">Absolute path of the file.</param>
    public static IEnumerable<string> PlayedBy(PurgeWorld world, string path)
    {
        ArgumentNullException.ThrowIfNull(world);
        return [
            .. (world.Uses.GetValueOrDefault(path) ?? []).Where(u => u.Knowledge is not null).Select(u => Path.GetFileNameWithoutExtension(u.Document)),
            .. world.KeptSaves[path].Select(s => string.Create(CultureInfo.InvariantCulture, $"the save of {s:yyyy-MM-dd HH:mm}")),
            .. world.Others[path].Select(o => $"{Path.GetFileName(o.SessionFolder)}: {Path.GetFileNameWithoutExtension(o.Document)}"),
        ];
    }

    private ContentHash HashOf(string file, CancellationToken cancel)
    {
        var facts = FileFacts.Of(file) ?? throw new FaultException(FaultCode.NotThere, file);
        if (contents.Known(file, facts) is { } known)
        {
            return known;
        }
        var hash = ContentHash.OfFile(file, cancel);
        contents.Note(file, facts, hash);
        return hash;
    }

    private static bool Holds(FoundFile found, ByteIdentity identity, IIdentities reading, CancellationToken cancel)
    {
        try
        {
            return found.IsThere && reading.Identify(found.Path, HeaderCache.ReadNow(found.Path).Header, null, cancel).Bytes == identity;
        }
        catch (Exception e) when (FaultException.Of(e) is not null)
        {
            // A backup that cannot be read is none.
            return false;
        }
    }

    /// <summary>
    /// The other sessions that hold the same sound as these files, each for itself, by path: as far as identities were noted, and only where
    /// the file stands there in that state. Asked for what a list shows, not for all of a session.
    /// </summary>
    public ILookup<string, string> AlsoIn(SessionRow row, IReadOnlyList<PurgeItem> items)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(items);
        var known = shelves.All();
        List<PurgeItem> sounds = [.. items.Where(i => i.File is { Standing: Standing.Inside, Header: not null })];
        var noted = NotedOf(known, sounds.Select(i => (i.Path, i.Bytes, i.ModifiedUtc)));
        if (noted.Count == 0)
        {
            return Array.Empty<string>().ToLookup(n => n);
        }
        var others = sessions.All().Where(s => s.Id != row.Id).ToList();
        var places = identities.PlacesOf([.. noted.Values]);
        var remembered = identities.Recall(places);
        var held = new List<(SoundIdentity Sound, string Session)>();
        foreach (var place in places)
        {
            var path = place.ShelfId == Guid.Empty ? place.Path : known.FirstOrDefault(s => s.Id == place.ShelfId) is { IsConnected: true } shelf ? Path.Join(shelf.Root, place.Path) : null;
            if (path is not null && others.Find(s => ShelfPath.IsWithin(path, s.Folder)) is { } session && remembered.GetValueOrDefault(place) is { Noted.Sound: { } sound } state
                && FileFacts.Of(path) is { IsRegular: true } facts && state.Of(facts.Bytes, facts.ModifiedUtc) is not null)
            {
                held.Add((sound, Path.GetFileName(session.Folder)));
            }
        }
        var bySound = held.Distinct().ToLookup(h => h.Sound, h => h.Session);
        return noted.SelectMany(n => bySound[n.Value.Sound!.Value].Select(s => (Path: n.Key, Session: s))).ToLookup(n => n.Path, n => n.Session, StringComparer.Ordinal);
    }

    /// <summary>What was noted of sounds in the state that they are in; of silence, which is like all silence, nothing.</summary>
    private Dictionary<string, NotedIdentities> NotedOf(IReadOnlyList<Shelf> known, IEnumerable<(string Path, long Bytes, DateTime ModifiedUtc)> files)
    {
        var places = files.ToDictionary(f => f.Path, f => (Place: KeptIdentities.PlaceOf(known, f.Path), f.Bytes, f.ModifiedUtc), StringComparer.Ordinal);
        var remembered = identities.Recall([.. places.Values.Select(p => p.Place)]);
        return places.Select(p => (p.Key, Noted: remembered.GetValueOrDefault(p.Value.Place)?.Of(p.Value.Bytes, p.Value.ModifiedUtc)))
            .Where(p => p.Noted is { IsSilent: false, Sound: not null }).ToDictionary(p => p.Key, p => p.Noted!, StringComparer.Ordinal);
    }

    private (IReadOnlyList<SameSound> Same, IReadOnlyList<InventoryFile> ToRead) SameIn(SessionInventory inventory, IReadOnlyList<Shelf> known)
    {
        var alike = SameSounds.Alike(inventory).SelectMany(a => a).ToList();
        (Guid, string) PlaceOf(InventoryFile file) => KeptIdentities.PlaceOf(known, file.Path);
        var remembered = identities.Recall([.. alike.Select(PlaceOf)]);
        NotedIdentities? Noted(InventoryFile file) => remembered.GetValueOrDefault(PlaceOf(file))?.Of(file.Bytes, file.ModifiedUtc ?? default);
        return (
            SameSounds.Known(inventory, f => Noted(f) is { IsSilent: false } noted ? noted.Sound : null),
            [.. alike.Where(f => Noted(f) is null && !_apart.ContainsKey(KeyOf(f)))]);
    }

    private WorkEnd Run(SessionRow row, Job job)
    {
        var inventory = sessions.InventoryOf(row, job.Cancel);
        job.BeginAnew();
        var found = SameSounds.Find(inventory, new WatchedIdentities(identities, job), f => _apart[KeyOf(f)] = true, job.Cancel).Sum(s => s.Others.Length);
        return new WorkEnd(JobState.Done, found switch
        {
            0 => "No sound is there twice.",
            1 => "1 file holds a sound that another file holds, too.",
            _ => $"{ByteText.Count(found, "file")} hold a sound that another file holds, too.",
        });
    }

    private static (string, long, DateTime) KeyOf(InventoryFile file) => (file.Path, file.Bytes, file.ModifiedUtc ?? default);

    private sealed class Reading(PurgeService purge, SessionRow row, IReadOnlyList<InventoryFile> files)
        : Work(JobWork.Check, $"Read {ByteText.Count(files.Count, "file")}, {ByteText.Of(files.Sum(f => f.Bytes))}, to find the same sound twice in '{Path.GetFileName(row.Folder)}'")
    {
        public override string WhenCancelled => "Stopped. What was read by then is known.";

        public override WorkEnd Run(Job job) => purge.Run(row, job);
    }
}
