using System.Diagnostics;

namespace NeatCrate.Core.Tests.Names;

/// <summary>SQLite files, written by SQLite itself.</summary>
internal static class SqliteDocuments
{
    /// <summary>Writes a file with one table of names.</summary>
    public static byte[] Write((string Table, List<string> Names) table, int pageBytes = 4096, string more = "", string encoding = "UTF-8")
    {
        var rows = string.Concat(table.Names.Select(n => $"INSERT INTO {table.Table}(path, at) VALUES('{n.Replace("'", "''", StringComparison.Ordinal)}', 1.5);"));
        return Run($"PRAGMA page_size={pageBytes}; PRAGMA encoding='{encoding}'; PRAGMA secure_delete=OFF; CREATE TABLE {table.Table}(id INTEGER PRIMARY KEY, path TEXT, at REAL, state BLOB);{rows}{more}");
    }

    private static byte[] Run(string sql)
    {
        var path = Path.Combine(Path.GetTempPath(), $"neat-crate-test-{Guid.NewGuid():N}.db");
        try
        {
            var start = new ProcessStartInfo("python3") { RedirectStandardInput = true, ArgumentList = { "-c", "import sqlite3,sys; c=sqlite3.connect(sys.argv[1], isolation_level=None); c.executescript(sys.stdin.read()); c.close()", path } };
            using var python = Process.Start(start)!;
            python.StandardInput.Write(sql);
            python.StandardInput.Close();
            python.WaitForExit();
            return File.ReadAllBytes(path);
        }
        finally
        {
            File.Delete(path);
        }
    }
}
