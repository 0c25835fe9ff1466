using System.Collections.Concurrent;
using System.Collections.Immutable;
using NeatCrate.App.Ground;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>A full backup with the vault that it is in.</summary>
public sealed record VaultBackup(Shelf Shelf, ListedBackup Backup);

/// <summary>The vaults on shelves. Their manifests are kept here as well, so that it is known what one holds while it is away.</summary>
public sealed class VaultService(ShelfService shelves, SessionService sessions, BackupChoices choices, AppOptions options, IDurableFiles files, TimeProvider time)
{
    // What a file is as it is now, the newest backups hold if any does.
    private const int MostAsked = 3;

    private static readonly TimeSpan LookEvery = TimeSpan.FromSeconds(2);

    private static readonly TimeSpan Moment = TimeSpan.FromMilliseconds(200);

    // What is known of vaults that took turns with others in one place.
    private const string LaidBy = "vault-laid-by-";

    // A manifest never changes; the newest are asked for again and again.
    private const int MostManifests = 24;

    private readonly ConcurrentDictionary<(Guid, string), BackupManifest> _manifests = new();
    private readonly ConcurrentDictionary<Guid, Known> _known = new();
    private Seen? _all;
    private (IReadOnlyList<SessionRow> Rows, ILookup<Guid, BackedUpSession> Sharing)? _sharing;

    private sealed record Seen(long Looked, int Changes, IReadOnlyList<Shelf> Shelves);

    private sealed class Known
    {
        public Lock Lock { get; } = new();

        public long Looked { get; set; }

        public bool HasLooked { get; set; }

        public long Revision { get; set; }

        public ImmutableArray<ListedBackup> Backups { get; set; } = [];

        public bool IsThere { get; set; }

        /// <summary>What is remembered of it, and the names of remembered lists that are gone from it without having been let go.</summary>
        public required VaultMemory Memory { get; init; }

        public ImmutableArray<string> Lost { get; set; } = [];

        public Fault? Problem { get; set; }

        public (long Revision, ImmutableArray<ListedBackup> Backups, Dictionary<ContentHash, int> All)? Contents { get; set; }
    }

    /// <summary>The shelves that hold vaults, connected or away, as they were a moment ago at the most, and never as before what was told last: for all sessions at once they are asked for hundreds of times.</summary>
    public IReadOnlyList<Shelf> All()
    {
        // Taken before they are looked at: what comes or goes meanwhile is looked at by the next one who asks.
        var (known, changes) = (_all, shelves.Changes);
        if (known is null || known.Changes != changes || time.GetElapsedTime(known.Looked) > Moment)
        {
            _all = known = new Seen(time.GetTimestamp(), changes, [.. shelves.All().Where(s => s.Kind == ShelfKind.Vault)]);
        }
        return known.Shelves;
    }

    /// <summary>A shelf that holds a vault.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public Shelf Get(Guid id) => shelves.Get(id) is { Kind: ShelfKind.Vault } shelf ? shelf : throw new NotKnownException("This shelf holds no vault.");

    /// <summary>The vault's folder, as a store.</summary>
    public FolderStore StoreOf(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return new FolderStore(Path.Combine(shelf.Root, VaultNames.FolderName), files);
    }

    /// <summary>The vault on a shelf.</summary>
    /// <exception cref="FaultException">The shelf is away.</exception>
    public BackupVault Of(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return shelf.IsConnected ? new BackupVault(StoreOf(shelf)) : throw new FaultException(new Fault(shelf.State.Answers ? FaultCode.ShelfAway : FaultCode.ShelfDoesNotAnswer) { Name = shelf.Name });
    }

    /// <summary>What is known of a vault's manifests, whether it is there or not.</summary>
    public BackupVault Remembered(Guid shelfId) => KnownOf(shelfId).Memory.Lists;

    /// <summary>What is remembered of a vault's manifests after a look at it, those that were lost among them.</summary>
    public BackupVault RememberedNow(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        Look(shelf, true);
        return Remembered(shelf.Id);
    }

    /// <summary>Names of manifests that are gone from a vault, though nobody let them go.</summary>
    public ImmutableArray<string> LostIn(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        Look(shelf, false);
        return KnownOf(shelf.Id).Lost;
    }

    /// <summary>What was found damaged in a vault and is so still: by the last check, or at a glance.</summary>
    public IReadOnlyList<string> DamageIn(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return [.. choices.OfVault(shelf.Id).Damaged.Union(LostIn(shelf), StringComparer.Ordinal)];
    }

    /// <summary>The highest number that a backup of a vault is known to have.</summary>
    public long HighestNumber(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return Look(shelf, false).Max(b => b.Header?.Number) ?? 0;
    }

    private Known KnownOf(Guid shelfId) => _known.GetOrAdd(shelfId, id => new Known { Memory = MemoryIn(FolderOf(id)) });

    private string FolderOf(Guid shelfId) => Path.Combine(options.DataFolder, $"vault-{shelfId}");

    private VaultMemory MemoryIn(string folder) => new(new FolderStore(folder, files));

    /// <summary>The same as far as it is known, without a look at any drive.</summary>
    public long KnownRevision => _known.Values.Sum(k => k.Revision);

    /// <summary>Grows whenever a vault is known to hold something else.</summary>
    public long Revision => All().Sum(RevisionOf);

    /// <summary>By what backups know a session again.</summary>
    public static Guid KeyOf(SessionRow session) => BackupOwners.KeyOf(BackedUp(session));

    /// <summary>True for a backup of this session.</summary>
    public bool IsOf(ListedBackup backup, SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(backup);
        ArgumentNullException.ThrowIfNull(session);
        return backup.Header is { } header && BackupOwners.IsOf(header, BackedUp(session), Sharing(session));
    }

    /// <summary>The known sessions whose documents carry the same identity as this one's.</summary>
    public IReadOnlyList<BackedUpSession> Sharing(SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(session);
        var rows = sessions.All();
        if (_sharing is not { } known || !ReferenceEquals(known.Rows, rows))
        {
            _sharing = known = (rows, rows.Where(r => r.DocumentSessionId is not null).ToLookup(r => r.DocumentSessionId!.Value, BackedUp));
        }
        return session.DocumentSessionId is { } id ? [.. known.Sharing[id]] : [];
    }

    private static BackedUpSession BackedUp(SessionRow session) => new(session.Id, session.DocumentSessionId, session.Folder, session.KnownSinceMs);

    /// <summary>The full backups of a session in all vaults, the newest first.</summary>
    public IReadOnlyList<VaultBackup> Of(SessionRow session) =>
        [.. All().SelectMany(s => Look(s, false).Where(b => IsOf(b, session)).Select(b => new VaultBackup(s, b))).OrderByDescending(b => b.Backup.Follows)];

    /// <summary>All full backups in a vault.</summary>
    public ImmutableArray<ListedBackup> In(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return Look(shelf, false);
    }

    /// <summary>Why a vault that is connected cannot be looked into; null where it can.</summary>
    public Fault? ProblemOf(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        Look(shelf, false);
        return shelf.IsConnected ? KnownOf(shelf.Id).Problem : null;
    }

    /// <summary>Looks at a vault at once, after something was written to it.</summary>
    public void Reread(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        Look(shelf, true);
    }

    /// <summary>What the vaults hold of a session's files.</summary>
    public IReadOnlyList<VaultHolding> Holdings(SessionRow session) =>
        [.. All().Select(s => VaultHolding.Of(s.Id, s.Name, choices.OfVault(s.Id).IsAwayFromHouse, NewestOf(session, s).Select(b => b.Manifest), DamagedIn(s))).Where(h => h.Entries.Count + h.Outside.Count > 0)];

    /// <summary>The newest backups of a session in a vault, with all that they hold, the newest first.</summary>
    /// <param name="session">The session.</param>
    /// <param name="shelf">The vault's shelf.</param>
    /// <param name="asKnown">True where nobody may wait for the drive: it is looked at in the background, each second.</param>
    public IEnumerable<(ListedBackup Backup, BackupManifest Manifest)> NewestOf(SessionRow session, Shelf shelf, bool asKnown = false)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return (asKnown ? AsKnown(shelf) : Look(shelf, false)).Where(b => IsOf(b, session)).Take(MostAsked).Select(b => (b, Manifest: ManifestOf(shelf, b))).Where(b => b.Manifest is not null).Select(b => (b.b, b.Manifest!));
    }

    /// <summary>Content of which a check of the vault found that it is not whole.</summary>
    public IReadOnlySet<ContentHash> DamagedIn(Shelf shelf)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return choices.OfVault(shelf.Id).Damaged.Select(d => (IsContent: VaultNames.TryHash(d, out var hash), Hash: hash)).Where(d => d.IsContent).Select(d => d.Hash).ToHashSet();
    }

    /// <summary>The newest backup of any session in a vault that names a content, with the file that it names; null where none is known that does. Nobody waits for the drive.</summary>
    public (ListedBackup Backup, BackupEntry Entry)? Find(Shelf shelf, ContentHash hash)
    {
        var (_, backups, all) = ContentsOf(shelf, asKnown: true);
        return all.TryGetValue(hash, out var at) && ManifestOf(shelf, backups[at])?.Entries.FirstOrDefault(e => e.Hash == hash) is { } entry ? (backups[at], entry) : null;
    }

    /// <summary>
    /// Looks into all vaults that are there now, for whoever wants to let the last other copy go: what is remembered of one that is away
    /// does not count. A content counts where a manifest that is there names it, it has its size, and no check found it damaged.
    /// </summary>
    /// <param name="byContent">True to read each content that is asked for whole, and to compare it.</param>
    /// <param name="cancel">Stops the reading.</param>
    /// <returns>Says of a content of so many bytes whether a backup holds it; null where no vault that is there holds any.</returns>
    public Func<ContentHash, long, bool>? LookNow(bool byContent, CancellationToken cancel)
    {
        var there = All().Where(s => s.IsConnected).Select(s => (Shelf: s, Store: StoreOf(s), Damaged: DamagedIn(s), Backups: Look(s, true))).Where(v => v.Backups.Length > 0).ToList();
        return there.Count == 0 ? null : (hash, bytes) => there.Exists(v => ContentsOf(v.Shelf) is var contents && contents.All.TryGetValue(hash, out var at) && !v.Damaged.Contains(hash) && Holds(v.Store, contents.Backups[at].Name, hash, bytes));

        bool Holds(FolderStore store, string manifest, ContentHash hash, long bytes)
        {
            try
            {
                var name = VaultNames.Of(hash);
                return store.Size(manifest) is not null && store.Size(name) == bytes && (!byContent || VaultCheck.Holds(store, name, hash, null, cancel));
            }
            catch (FaultException)
            {
                // A drive that does not give it holds nothing that anybody could count on.
                return false;
            }
        }
    }

    /// <summary>All content that the manifests of a vault name; read once for each change of it.</summary>
    private (long Revision, ImmutableArray<ListedBackup> Backups, Dictionary<ContentHash, int> All) ContentsOf(Shelf shelf, bool asKnown = false)
    {
        var known = KnownOf(shelf.Id);
        // Looked at within the lock: what is taken in meanwhile by another would be noted as known, and was not read.
        lock (known.Lock)
        {
            var backups = asKnown ? AsKnown(shelf) : Look(shelf, false);
            if (known.Contents is not { } contents || contents.Revision != known.Revision)
            {
                var (remembered, all) = (Remembered(shelf.Id), new Dictionary<ContentHash, int>());
                foreach (var (n, backup) in backups.Index())
                {
                    foreach (var entry in ManifestOf(remembered, backup)?.Entries ?? [])
                    {
                        all.TryAdd(entry.Hash, n);
                    }
                }
                known.Contents = contents = (known.Revision, backups, all);
            }
            return contents;
        }
    }

    private BackupManifest? ManifestOf(Shelf shelf, ListedBackup backup)
    {
        if (_manifests.Count > MostManifests)
        {
            _manifests.Clear();
        }
        if (_manifests.TryGetValue((shelf.Id, backup.Name), out var known))
        {
            return known;
        }
        // One that cannot be read may be mended.
        return ManifestOf(Remembered(shelf.Id), backup) is { } manifest ? _manifests[(shelf.Id, backup.Name)] = manifest : null;
    }

    /// <summary>A manifest as it was remembered; one that is damaged here, too, holds nothing that anybody could count on.</summary>
    private static BackupManifest? ManifestOf(BackupVault remembered, ListedBackup backup)
    {
        try
        {
            return remembered.Manifest(backup.Name);
        }
        catch (FaultException)
        {
            return null;
        }
    }

    private ImmutableArray<ListedBackup> AsKnown(Shelf shelf) => _known.TryGetValue(shelf.Id, out var known) && known.HasLooked ? known.Backups : Look(shelf, false);

    private long RevisionOf(Shelf shelf)
    {
        Look(shelf, false);
        return KnownOf(shelf.Id).Revision;
    }

    private ImmutableArray<ListedBackup> Look(Shelf shelf, bool isDue)
    {
        var known = KnownOf(shelf.Id);
        lock (known.Lock)
        {
            if (known.HasLooked && !isDue && time.GetElapsedTime(known.Looked) < LookEvery)
            {
                return known.Backups;
            }
            var (vault, changed) = (StoreOf(shelf), false);
            // A drive without its vault, or another drive in its place, holds nothing; what was known of it waits for it.
            var isThere = !shelf.IsConnected || Directory.Exists(vault.Place);
            try
            {
                changed = shelf.IsConnected && isThere && TakeIn(shelf.Id, known, new BackupVault(vault), isDue);
                known.Problem = null;
            }
            catch (Exception e) when (FaultException.Of(e, vault.Place) is not null)
            {
                // A vault that cannot be looked into must not keep anybody from their sessions; it is told with the vault.
                known.Problem = FaultException.Of(e, vault.Place);
            }
            if (changed || isDue || !known.HasLooked || isThere != known.IsThere)
            {
                _manifests.Clear();
                known.Backups = isThere ? [.. known.Memory.Lists.Backups().Where(b => !known.Lost.Contains(b.Name))] : [];
                known.IsThere = isThere;
                known.Revision++;
            }
            (known.Looked, known.HasLooked) = (time.GetTimestamp(), true);
            return known.Backups;
        }
    }

    private bool TakeIn(Guid shelfId, Known known, BackupVault vault, bool again)
    {
        var turned = (known.Memory.IsEmpty || known.Memory.IsAnother(vault)) && TakeTurns(shelfId, known, vault);
        var (lost, taken) = (known.Lost, known.Memory.TakeIn(vault, again));
        known.Lost = taken.Lost;
        return turned || taken.Changed || !lost.SequenceEqual(taken.Lost);
    }

    /// <summary>
    /// Another vault stands where the one stood that is remembered, as where two drives take turns: what is known of that one is laid by, and
    /// what is known of this one, if it was here before, is taken up again.
    /// </summary>
    private bool TakeTurns(Guid shelfId, Known known, BackupVault vault)
    {
        var own = FolderOf(shelfId);
        var laidBy = Directory.EnumerateDirectories(options.DataFolder, LaidBy + "*").FirstOrDefault(f => MemoryIn(f).Knows(vault));
        if (known.Memory.IsEmpty && laidBy is null)
        {
            return false;
        }
        if (known.Memory.IsEmpty)
        {
            // Nothing but an identity, if that: nothing is lost with it.
            if (Directory.Exists(own))
            {
                Directory.Delete(own, recursive: true);
            }
        }
        else
        {
            var other = Guid.NewGuid();
            choices.Change(other, _ => choices.OfVault(shelfId));
            Directory.Move(own, Path.Combine(options.DataFolder, LaidBy + other));
        }
        choices.Change(shelfId, _ => VaultRecord.New);
        if (laidBy is not null)
        {
            choices.Change(shelfId, _ => choices.OfVault(Guid.Parse(Path.GetFileName(laidBy)[LaidBy.Length..])));
            Directory.Move(laidBy, own);
        }
        return true;
    }
}
