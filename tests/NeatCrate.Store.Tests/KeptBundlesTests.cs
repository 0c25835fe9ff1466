using Microsoft.Data.Sqlite;
using NeatCrate.Core.Files;
using NeatCrate.Core.Origins;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Store.Tests;

public sealed class KeptBundlesTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly StoreFiles _store;

    public KeptBundlesTests() => _store = StoreFiles.Open(_temp.Path);

    public void Dispose()
    {
        _store.Dispose();
        _temp.Dispose();
    }

    private static KeptBundle Bundle(Guid shelf, string path, params string[] names) => new(
        shelf, path, new FileState(1234, new DateTime(2026, 10, 23, 20, 0, 0, DateTimeKind.Utc).AddTicks(7)),
        [.. names.Select((n, i) => new BagEntry(n, ContentHash.Of(System.Text.Encoding.UTF8.GetBytes(n)), i * 5_000_000_000L, new DateTime(2026, 10, 19, 18, 44, i, DateTimeKind.Utc)))]);

    /// <summary>What a bundle held is known as it was read, whatever its names are; one that is none has no files; what went is forgotten.</summary>
    [Fact]
    public void WhatWasReadIsKnownAfterAStart()
    {
        var shelf = Guid.NewGuid();
        var (full, none) = (Bundle(shelf, "sent/Low Water.zip", "bag/data/Audio/tide (2).wav", "bag/data/f\u00F6hn \"\\ \U0001F30A.wav", ""), Bundle(shelf, "other.zip"));
        new KeptBundles(_store).Write(shelf, [full, none], []);
        var known = new KeptBundles(_store).All().OrderBy(b => b.Path, StringComparer.Ordinal).ToList();
        Assert.Equal([none.Path, full.Path], known.Select(b => b.Path));
        Assert.Equal((full.ShelfId, full.State), (known[1].ShelfId, known[1].State));
        Assert.Equal(full.Entries, known[1].Entries);
        Assert.Empty(known[0].Entries);
        new KeptBundles(_store).Write(shelf, [], [full.Path]);
        Assert.Equal(none.Path, Assert.Single(new KeptBundles(_store).All()).Path);
    }

    /// <summary>An earlier version wrote the files as text.</summary>
    [Fact]
    public void WhatWasWrittenAsTextIsRead()
    {
        var hash = ContentHash.Of("tide"u8);
        using (var connection = new SqliteConnection(_store.ConnectionString))
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "INSERT INTO Bundles (ShelfId, Path, Bytes, ModifiedTicks, Entries) VALUES ($shelf, 'a.zip', 1, 2, $entries)";
            command.Parameters.AddWithValue("$shelf", Guid.NewGuid().ToString().ToUpperInvariant());
            command.Parameters.AddWithValue("$entries", $$"""[{"Name":"bag/data/föhn.wav","Sha512":"{{hash}}","Bytes":4,"Ticks":638964000000000000},{"Name":"x","Sha512":"no hash","Bytes":4,"Ticks":1}]""");
            command.ExecuteNonQuery();
        }
        var entry = Assert.Single(Assert.Single(new KeptBundles(_store).All()).Entries);
        Assert.Equal(("bag/data/f\u00F6hn.wav", hash, 4L, 638964000000000000L), (entry.Name, entry.Hash, entry.Bytes, entry.ModifiedUtc.Ticks));
    }
}
