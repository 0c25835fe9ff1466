using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Files;
using NeatCrate.Core.Origins;
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
        using var connection = new SqliteConnection(files.ConnectionString);
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT ShelfId, Path, Bytes, ModifiedTicks, Entries FROM Bundles";
        using var row = command.ExecuteReader();
        var all = new List<KeptBundle>();
        while (row.Read())
        {
            all.Add(new KeptBundle(row.GetGuid(0), row.GetString(1), new FileState(row.GetInt64(2), new DateTime(row.GetInt64(3), DateTimeKind.Utc)), new BagListing(Read(row.GetFieldValue<byte[]>(4)))));
        }
        return all;
    }

    /// <summary>Remembers archives, and forgets those of the same shelf that went.</summary>
    public void Write(Guid shelfId, IReadOnlyCollection<KeptBundle> read, IReadOnlyCollection<string> gone)
    {
        ArgumentNullException.ThrowIfNull(read);
        using var db = files.NewDb();
        using var transaction = db.Database.BeginTransaction();
        foreach (var bundle in read)
        {
            var entries = JsonSerializer.SerializeToUtf8Bytes(bundle.Entries.Select(e => new Entry(e.Name, e.Hash.ToString(), e.Bytes, e.ModifiedUtc.Ticks)));
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

    /// <summary>One after the other: all at once would take many times the room that is kept.</summary>
    private static IEnumerable<BagEntry> Read(byte[] entries)
    {
        var state = new JsonReaderState();
        for (var at = 0; Next(entries, ref at, ref state) is { } entry;)
        {
            if (ContentHash.TryParse(entry.Sha512, out var hash))
            {
                yield return new BagEntry(entry.Name, hash, entry.Bytes, new DateTime(entry.Ticks, DateTimeKind.Utc));
            }
        }
    }

    private static Entry? Next(byte[] entries, ref int at, ref JsonReaderState state)
    {
        var reader = new Utf8JsonReader(entries.AsSpan(at), isFinalBlock: true, state);
        while (reader.Read())
        {
            if (reader.TokenType == JsonTokenType.StartObject)
            {
                var entry = JsonSerializer.Deserialize<Entry>(ref reader);
                at += (int)reader.BytesConsumed;
                state = reader.CurrentState;
                return entry;
            }
        }
        return null;
    }
}
