using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;

namespace NeatCrate.Store;

/// <summary>Choices that are remembered, each under a name, as JSON.</summary>
public sealed class StoredSettings(StoreFiles files)
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { Converters = { new JsonStringEnumConverter() } };

    /// <summary>What was chosen; null when nothing was.</summary>
    public T? Read<T>(string key) where T : class
    {
        using var db = files.NewDb();
        return db.Settings.AsNoTracking().FirstOrDefault(s => s.Key == key)?.Value is { } text ? JsonSerializer.Deserialize<T>(text, Json) : null;
    }

    /// <summary>All choices whose names begin alike, by name.</summary>
    public IReadOnlyDictionary<string, T> ReadAll<T>(string prefix) where T : class
    {
        using var db = files.NewDb();
        return db.Settings.AsNoTracking().Where(s => s.Key.StartsWith(prefix)).AsEnumerable().ToDictionary(s => s.Key, s => JsonSerializer.Deserialize<T>(s.Value, Json)!);
    }

    /// <summary>Remembers a choice in place of what was chosen before.</summary>
    public void Write<T>(string key, T choice) where T : class
    {
        var text = JsonSerializer.Serialize(choice, Json);
        using var db = files.NewDb();
        db.Database.ExecuteSql($"INSERT INTO Settings (\"Key\", Value) VALUES ({key}, {text}) ON CONFLICT (\"Key\") DO UPDATE SET Value = excluded.Value");
    }

    /// <summary>Forgets a choice.</summary>
    public void Forget(string key)
    {
        using var db = files.NewDb();
        db.Settings.Where(s => s.Key == key).ExecuteDelete();
    }
}
