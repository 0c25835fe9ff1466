using Microsoft.Data.Sqlite;
using NeatCrate.Testing;

namespace NeatCrate.Store.Tests;

/// <summary>How SQLite goes about the queries that look many rows up, as its own EXPLAIN QUERY PLAN tells (sqlite.org/eqp).</summary>
public sealed class LookupsTests : IDisposable
{
    private static readonly string[] Names = ["$a", "$b", "$c", "$places"];

    private readonly TempFolder _temp = new();
    private readonly StoreFiles _files;

    public LookupsTests() => _files = StoreFiles.Open(_temp.Folder("data"));

    public void Dispose()
    {
        _files.Dispose();
        _temp.Dispose();
    }

    /// <summary>What is looked up is never read whole: nothing is scanned but the list, and a row is found by the whole of its key.</summary>
    [Theory]
    [InlineData("SELECT f.Id FROM " + Lookups.FilesByPlace, "ShelfId=? AND Path=?", "FolderId=? AND Name=?")]
    [InlineData(Lookups.IdentitiesByPath, "ShelfId=? AND Path=?")]
    [InlineData(Lookups.IdentitiesByHash, "Hash=?", "Sound=?", "Samples=?")]
    public void EachValueOfAListIsLookedUpByAnIndex(string sql, params string[] keys)
    {
        ArgumentNullException.ThrowIfNull(keys);
        using var connection = new SqliteConnection(_files.ConnectionString);
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "EXPLAIN QUERY PLAN " + sql.Replace("{0}", "$a", StringComparison.Ordinal).Replace("{1}", "$b", StringComparison.Ordinal).Replace("{2}", "$c", StringComparison.Ordinal);
        foreach (var name in Names.Where(n => command.CommandText.Contains(n, StringComparison.Ordinal)))
        {
            command.Parameters.AddWithValue(name, "[]");
        }
        var steps = new List<string>();
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            steps.Add(reader.GetString(3));
        }
        Assert.All(steps.Where(s => s.StartsWith("SCAN", StringComparison.Ordinal)), s => Assert.StartsWith("SCAN p ", s, StringComparison.Ordinal));
        var found = steps.Where(s => s.StartsWith("SEARCH", StringComparison.Ordinal)).ToList();
        Assert.Equal(keys.Length, found.Count);
        Assert.All(keys.Zip(found), f => Assert.Contains($"({f.First})", f.Second, StringComparison.Ordinal));
    }
}
