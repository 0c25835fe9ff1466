using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Files;
using NeatCrate.Core.Vault;

namespace NeatCrate.Store;

/// <summary>An archive that was looked into.</summary>
/// <param name="ShelfId">The shelf.</param>
/// <param name="Path">Path from the shelf's top folder.</param>
/// <param name="State">What it was like then.</param>
/// <param name="Entries">Its files; none where it is no bundle.</param>
public sealed record KeptBundle(Guid ShelfId, string Path, FileState State, IReadOnlyList<BagEntry> Entries);

/// <summary>What bundles hold, remembered while their shelf is away and while the application does not run.</summary>
public sealed class KeptBundles(StoreFiles files)
{
    private sealed record Entry(string Name, string Sha512, long Bytes, long Ticks);

    /// <summary>All that are remembered.</summary>
    public IReadOnlyList<KeptBundle> All()
    {
        using var db = files.NewDb();
        return [.. db.Bundles.AsNoTracking().AsEnumerable().Select(r => new KeptBundle(r.ShelfId, r.Path, new FileState(r.Bytes, new DateTime(r.ModifiedTicks, DateTimeKind.Utc)), Read(r.Entries)))];
    }

    /// <summary>Remembers archives, and forgets those of the same shelf that went.</summary>
    public void Write(Guid shelfId, IReadOnlyCollection<KeptBundle> read, IReadOnlyCollection<string> gone)
    {
        ArgumentNullException.ThrowIfNull(read);
        using var db = files.NewDb();
        using var transaction = db.Database.BeginTransaction();
        foreach (var bundle in read)
        {
            var entries = JsonSerializer.Serialize(bundle.Entries.Select(e => new Entry(e.Name, e.Hash.ToString(), e.Bytes, e.ModifiedUtc.Ticks)));
            db.Database.ExecuteSql($"""
                INSERT INTO Bundles (ShelfId, Path, Bytes, ModifiedTicks, Entries) VALUES ({shelfId}, {bundle.Path}, {bundle.State.Bytes}, {bundle.State.ModifiedUtc.Ticks}, {entries})
                ON CONFLICT (ShelfId, Path) DO UPDATE SET Bytes = excluded.Bytes, ModifiedTicks = excluded.ModifiedTicks, Entries = excluded.Entries
                """);
        }
        foreach (var path in gone)
        {
            db.Bundles.Where(b => b.ShelfId == shelfId && b.Path == path).ExecuteDelete();
        }
        transaction.Commit();
    }

    private static List<BagEntry> Read(string entries)
    {
        var all = new List<BagEntry>();
        foreach (var entry in JsonSerializer.Deserialize<List<Entry>>(entries) ?? [])
        {
            if (ContentHash.TryParse(entry.Sha512, out var hash))
            {
                all.Add(new BagEntry(entry.Name, hash, entry.Bytes, new DateTime(entry.Ticks, DateTimeKind.Utc)));
            }
        }
        return all;
    }
}
