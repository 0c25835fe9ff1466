using Microsoft.Data.Sqlite;
using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>The demo, made once and copied for each test.</summary>
internal static class DemoData
{
    private static readonly Lazy<string> Made = new(Make);

    /// <summary>Makes a data folder with the demo in it.</summary>
    /// <param name="folder">Absolute path of the folder, which is not there yet.</param>
    public static void CopyTo(string folder)
    {
        // With the times, by which the demo tells what is old.
        Tool.Run("cp", "-a", Made.Value, folder);
        foreach (var document in Directory.EnumerateFiles(folder, "*.otio", SearchOption.AllDirectories))
        {
            var (text, time) = (File.ReadAllText(document), File.GetLastWriteTimeUtc(document));
            if (text.Contains(Made.Value, StringComparison.Ordinal))
            {
                File.WriteAllText(document, text.Replace(Made.Value, folder, StringComparison.Ordinal));
                File.SetLastWriteTimeUtc(document, time);
            }
        }
        using var connection = new SqliteConnection($"Data Source={Path.Combine(folder, "neat-crate.db")};Pooling=False");
        connection.Open();
        foreach (var (table, column) in new[] { ("Shelves", "Root"), ("Sessions", "Folder") })
        {
            using var command = connection.CreateCommand();
            command.CommandText = $"UPDATE {table} SET {column} = replace({column}, $made, $folder)";
            command.Parameters.AddWithValue("$made", Made.Value);
            command.Parameters.AddWithValue("$folder", folder);
            command.ExecuteNonQuery();
        }
    }

    private static string Make()
    {
        var temp = new TempFolder();
        AppDomain.CurrentDomain.ProcessExit += (_, _) => temp.Dispose();
        var data = Path.Combine(temp.Path, "data");
        HostedApp.MakeDemo(data);
        return data;
    }
}
