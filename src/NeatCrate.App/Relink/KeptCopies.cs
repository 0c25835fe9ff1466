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
    private readonly Sources _sources = new(vaults, bundles, contents);
    private readonly ConcurrentDictionary<Guid, Held> _held = new();

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
        return _held.TryGetValue(session.Id, out var held) && held.Revision == revision ? held : _held[session.Id] = new Held(revision, session, shelves, _sources);
    }

    /// <summary>What is held of the files of one session.</summary>
    public interface ICopiesHeld
    {
        /// <summary>A missing file with the SHA-512 that was noted of it in the state that it had last.</summary>
        LostFile Noted(LostFile lost);

        /// <summary>What may be it.</summary>
        IEnumerable<FoundFile> Suggest(LostFile lost);
    }

    private sealed record Sources(VaultService Vaults, BundleWatch Bundles, KeptContents Contents);

    private sealed class Held : ICopiesHeld
    {
        private readonly Sources _from;
        private readonly List<(Shelf Shelf, IReadOnlySet<ContentHash> Damaged)> _vaults;
        private readonly ILookup<string, (Shelf Shelf, ListedBackup Backup, BackupEntry Entry)> _byPlace;
        private readonly ILookup<ContentHash, (KeptBundle Bundle, BagEntry Entry)> _inBundles;
        private readonly ILookup<string, (KeptBundle Bundle, BagEntry Entry)> _byName;
        private readonly Dictionary<Guid, Shelf> _shelves;

        public Held(string revision, SessionRow session, IReadOnlyList<Shelf> shelves, Sources sources)
        {
            (Revision, _from) = (revision, sources);
            _shelves = shelves.ToDictionary(s => s.Id);
            _vaults = [.. shelves.Where(s => s.Kind == ShelfKind.Vault).Select(s => (s, sources.Vaults.DamagedIn(s)))];
            _byPlace = _vaults.SelectMany(v => sources.Vaults.NewestOf(session, v.Shelf, asKnown: true).SelectMany(b => b.Manifest.Entries.Where(e => !v.Damaged.Contains(e.Hash)).Select(e => (v.Shelf, b.Backup, Entry: e))))
                .ToLookup(h => h.Entry.Outside ?? Path.Combine(session.Folder, h.Entry.Path), StringComparer.Ordinal);
            var packed = sources.Bundles.All.Where(b => _shelves.ContainsKey(b.ShelfId)).SelectMany(b => b.Entries.Select(e => (Bundle: b, Entry: e))).ToList();
            _inBundles = packed.ToLookup(p => p.Entry.Hash);
            _byName = packed.ToLookup(p => LooseName.Of(Path.GetFileName(p.Entry.Name)), StringComparer.Ordinal);
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
                .Concat(_byName[lost.At.Loose].Where(p => lost.Known is not { } known || known.Bytes == p.Entry.Bytes).Select(p => InBundle(lost, p.Bundle, p.Entry)))];
            if (lost.Content is { } hash)
            {
                found.AddRange(_inBundles[hash].Select(p => InBundle(lost, p.Bundle, p.Entry)));
                // All backups of a vault are asked only for what the newest of this session do not hold.
                var others = _vaults.Where(v => !v.Damaged.Contains(hash) && !found.Exists(f => f.ShelfId == v.Shelf.Id && f.Copy!.Content == hash)).Select(v => v.Shelf).ToList();
                found.AddRange(others.Select(s => _from.Vaults.Find(s, hash) is { } held ? InVault(lost, s, held.Backup, held.Entry) : null).OfType<FoundFile>());
            }
            // One copy of each content in each place is enough.
            return found.DistinctBy(f => (f.ShelfId, f.Copy!.Entry is null, f.Copy.Content));
        }

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
