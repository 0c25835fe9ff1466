using System.Collections.Concurrent;
using System.Globalization;
using NeatCrate.App.Backups;
using NeatCrate.App.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.Store;

namespace NeatCrate.App.Relink;

/// <summary>
/// What vaults and bundles hold of a session's missing files, from what is remembered of them: no disk is touched. What is held under
/// the SHA-512 that a backup noted is the file; what has its place or its name may be it.
/// </summary>
public sealed class KeptCopies(VaultService vaults, BundleWatch bundles, KeptContents contents)
{
    private readonly Sources _sources = new(vaults, contents);
    private readonly ConcurrentDictionary<Guid, Held> _held = new();
    private BundledFiles? _bundled;

    /// <summary>Another text where vaults or bundles hold something else.</summary>
    public string Revision => string.Create(CultureInfo.InvariantCulture, $"{vaults.KnownRevision}.{bundles.Revision}");

    /// <summary>What is held of a session's files.</summary>
    /// <param name="session">The session.</param>
    /// <param name="shelves">All known shelves as they are now.</param>
    public ICopiesHeld Of(SessionRow session, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(shelves);
        var revision = $"{Revision} {string.Concat(shelves.Select(s => s.IsConnected ? '1' : '0'))} {session.Folder}";
        return _held.TryGetValue(session.Id, out var held) && held.Revision == revision ? held : _held[session.Id] = new Held(revision, session, shelves, _sources, Bundled());
    }

    /// <summary>What all bundles hold, once for all sessions.</summary>
    private BundledFiles Bundled()
    {
        var revision = bundles.Revision;
        return Volatile.Read(ref _bundled) is { } known && known.Revision == revision ? known : _bundled = new BundledFiles(revision, [.. bundles.All]);
    }

    /// <summary>What is held of the files of one session.</summary>
    public interface ICopiesHeld
    {
        /// <summary>A missing file with the SHA-512 that was noted of it in the state that it had last.</summary>
        LostFile Noted(LostFile lost);

        /// <summary>What may be it.</summary>
        IEnumerable<FoundFile> Suggest(LostFile lost);
    }

    private sealed record Sources(VaultService Vaults, KeptContents Contents);

    /// <summary>The files of all known bundles by what they hold and by name: numbers in order, since a bundle may have very many.</summary>
    private sealed class BundledFiles
    {
        private readonly List<KeptBundle> _bundles;
        private readonly (int Key, int Bundle, int Entry)[] _byContent;
        private readonly (int Key, int Bundle, int Entry)[] _byName;

        public BundledFiles(long revision, List<KeptBundle> bundles)
        {
            (Revision, _bundles) = (revision, bundles);
            (_byContent, _byName) = (InOrder(e => e.Hash.GetHashCode()), InOrder(e => KeyOf(NameOf(e))));
        }

        public long Revision { get; }

        public IEnumerable<(KeptBundle Bundle, BagEntry Entry)> With(ContentHash hash) => Find(_byContent, hash.GetHashCode()).Where(f => f.Entry.Hash == hash);

        public IEnumerable<(KeptBundle Bundle, BagEntry Entry)> Named(string loose) => Find(_byName, KeyOf(loose)).Where(f => NameOf(f.Entry) == loose);

        private static string NameOf(BagEntry entry) => LooseName.Of(Path.GetFileName(entry.Name));

        private static int KeyOf(string name) => name.GetHashCode(StringComparison.Ordinal);

        private (int Key, int Bundle, int Entry)[] InOrder(Func<BagEntry, int> key)
        {
            var all = new (int, int, int)[_bundles.Sum(b => b.Entries.Count)];
            var at = 0;
            foreach (var (n, bundle) in _bundles.Index())
            {
                foreach (var (e, entry) in bundle.Entries.Index())
                {
                    all[at++] = (key(entry), n, e);
                }
            }
            Array.Sort(all);
            return all;
        }

        private IEnumerable<(KeptBundle Bundle, BagEntry Entry)> Find((int Key, int Bundle, int Entry)[] order, int key)
        {
            var from = Array.BinarySearch(order, (key, -1, -1));
            for (var n = ~from; n < order.Length && order[n].Key == key; n++)
            {
                var bundle = _bundles[order[n].Bundle];
                yield return (bundle, bundle.Entries[order[n].Entry]);
            }
        }
    }

    private sealed class Held : ICopiesHeld
    {
        private readonly Sources _from;
        private readonly List<(Shelf Shelf, IReadOnlySet<ContentHash> Damaged)> _vaults;
        private readonly ILookup<string, (Shelf Shelf, ListedBackup Backup, BackupEntry Entry)> _byPlace;
        private readonly BundledFiles _bundled;
        private readonly Dictionary<Guid, Shelf> _shelves;

        public Held(string revision, SessionRow session, IReadOnlyList<Shelf> shelves, Sources sources, BundledFiles bundled)
        {
            (Revision, _from, _bundled) = (revision, sources, bundled);
            _shelves = shelves.ToDictionary(s => s.Id);
            _vaults = [.. shelves.Where(s => s.Kind == ShelfKind.Vault).Select(s => (s, sources.Vaults.DamagedIn(s)))];
            _byPlace = _vaults.SelectMany(v => sources.Vaults.NewestOf(session, v.Shelf, asKnown: true).SelectMany(b => b.Manifest.Entries.Where(e => !v.Damaged.Contains(e.Hash)).Select(e => (v.Shelf, b.Backup, Entry: e))))
                .ToLookup(h => h.Entry.Outside ?? Path.Combine(session.Folder, h.Entry.Path), StringComparer.Ordinal);
        }

        public string Revision { get; }

        public LostFile Noted(LostFile lost) => lost.Known is not { } known ? lost : lost with
        {
            Content = _from.Contents.Recall(lost.Path, known.Bytes, known.ModifiedUtc)
                ?? (_byPlace[lost.Path].FirstOrDefault(h => h.Entry.Bytes == known.Bytes && h.Entry.ModifiedUtc == known.ModifiedUtc) is { Entry: { } entry } ? entry.Hash : null),
        };

        public IEnumerable<FoundFile> Suggest(LostFile lost)
        {
            List<FoundFile> found = [.. _byPlace[lost.Path].Select(h => InVault(lost, h.Shelf, h.Backup, h.Entry))
                .Concat(Packed(_bundled.Named(lost.At.Loose)).Where(p => lost.Known is not { } known || known.Bytes == p.Entry.Bytes).Select(p => InBundle(lost, p.Bundle, p.Entry)))];
            if (lost.Content is { } hash)
            {
                found.AddRange(Packed(_bundled.With(hash)).Select(p => InBundle(lost, p.Bundle, p.Entry)));
                // All backups of a vault are asked only for what the newest of this session do not hold.
                var others = _vaults.Where(v => !v.Damaged.Contains(hash) && !found.Exists(f => f.ShelfId == v.Shelf.Id && f.Copy!.Content == hash)).Select(v => v.Shelf).ToList();
                found.AddRange(others.Select(s => _from.Vaults.Find(s, hash) is { } held ? InVault(lost, s, held.Backup, held.Entry) : null).OfType<FoundFile>());
            }
            // One copy of each content in each place is enough.
            return found.DistinctBy(f => (f.ShelfId, f.Copy!.Entry is null, f.Copy.Content));
        }

        /// <summary>A bundle on a shelf that nobody knows any more is on none.</summary>
        private IEnumerable<(KeptBundle Bundle, BagEntry Entry)> Packed(IEnumerable<(KeptBundle Bundle, BagEntry Entry)> files) => files.Where(p => _shelves.ContainsKey(p.Bundle.ShelfId));

        private FoundFile InVault(LostFile lost, Shelf shelf, ListedBackup backup, BackupEntry entry)
        {
            var store = _from.Vaults.StoreOf(shelf);
            var made = backup.Header!.Made.ToLocalTime();
            var copy = new KeptCopy(
                string.Create(CultureInfo.InvariantCulture, $"the backup of {made:yyyy-MM-dd HH:mm}"), store.PathOf(VaultNames.Of(entry.Hash)), null, entry.Hash, entry.Bytes, entry.ModifiedUtc, entry.Mode);
            return Found(lost, Path.Combine(Path.ChangeExtension(store.PathOf(backup.Name), null), entry.Path), copy, shelf);
        }

        private FoundFile InBundle(LostFile lost, KeptBundle bundle, BagEntry entry) => Found(
            lost, Path.Combine(PathOf(bundle), entry.Name), new KeptCopy($"the bundle '{Path.GetFileName(bundle.Path)}'", PathOf(bundle), entry.Name, entry.Hash, entry.Bytes, entry.ModifiedUtc, null), _shelves[bundle.ShelfId]);

        private string PathOf(KeptBundle bundle) => Path.Combine(_shelves[bundle.ShelfId].Root, bundle.Path);

        /// <summary>The same bytes have the same sound: what was known of the missing file holds of its copy.</summary>
        private static FoundFile Found(LostFile lost, string path, KeptCopy copy, Shelf shelf) => new(
            path,
            lost.Known is { } known && lost.Content == copy.Content ? known with { ModifiedUtc = copy.ModifiedUtc } : KnownFile.Of(copy.Bytes, copy.ModifiedUtc, null),
            NotedIdentities.None,
            shelf.IsConnected,
            true,
            shelf.Id)
        {
            Copy = copy,
        };
    }
}
