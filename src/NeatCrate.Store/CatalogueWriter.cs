using System.Buffers.Binary;
using System.Text;
using NeatCrate.Core.Shelves;
using SQLitePCL;

namespace NeatCrate.Store;

/// <summary>
/// The prepared statements that write what a scan found. A hundred thousand rows and more pass here at once, so they are
/// bound to SQLite's own statements, without an object for every value.
/// </summary>
internal sealed class CatalogueWriter : IDisposable
{
    private const int OnStack = 1024;

    // What SQLite does for a statement it does once for so many rows.
    private const int RowsAtOnce = 20;

    /// <summary>
    /// Remembers files of the catalogue as gone; what follows says which. Parameters: the shelf, and the time. Names are folded as in
    /// searches, by a function that the connection has to have.
    /// </summary>
    public const string Remember = """
        INSERT OR REPLACE INTO GoneFiles (ShelfId, Path, FoldedName, Bytes, ChangedTicks, Kind, Container, SampleRate, Channels, BitsPerSample, LengthSamples, GoneMs, SeenMs)
        SELECT ?1, CASE d.Path WHEN '' THEN f.Name ELSE d.Path || '/' || f.Name END, fold(f.Name), f.Bytes, f.ChangedTicks, f.Kind, f.Container, f.SampleRate, f.Channels, f.BitsPerSample, f.LengthSamples, ?2,
            COALESCE((SELECT s.EndedMs FROM Scans s WHERE s.ShelfId = ?1), 0)
        FROM CatalogueFiles f JOIN CatalogueFolders d ON d.Id = f.FolderId WHERE f.Kind IS NOT NULL AND 
        """;

    private static readonly string[] FileColumns =
        ["FolderId", "Name", "Bytes", "ChangedTicks", "Number", "Kind", "Container", "SampleRate", "Channels", "BitsPerSample", "LengthSamples", "Seconds", "Problem", "SearchText"];

    private readonly sqlite3 _database;
    private readonly string _shelf;
    private readonly long _nowMs;
    private readonly Func<string, bool> _isKnown;
    private readonly sqlite3_stmt _folder;
    private readonly sqlite3_stmt _newFile;
    private readonly sqlite3_stmt _newFiles;
    private readonly sqlite3_stmt _file;
    private readonly sqlite3_stmt _gone;
    private readonly sqlite3_stmt _remember;
    private readonly sqlite3_stmt _back;
    private readonly bool _anyGone;
    private readonly sqlite3_stmt _renumber;

    /// <summary>Prepares the statements.</summary>
    /// <param name="database">The connection, on which the caller begins and commits transactions.</param>
    /// <param name="shelf">Identity of the shelf as the database has it.</param>
    /// <param name="isKnown">Whether a folder was in the catalogue before the scan.</param>
    /// <param name="anyGone">Whether any file of the shelf is remembered as gone.</param>
    /// <param name="nowMs">The time, in milliseconds since 1970 (UTC).</param>
    public CatalogueWriter(sqlite3 database, string shelf, Func<string, bool> isKnown, bool anyGone, long nowMs)
    {
        (_database, _shelf, _isKnown, _anyGone, _nowMs) = (database, shelf, isKnown, anyGone, nowMs);
        _folder = Prepare(
            "INSERT INTO CatalogueFolders (ShelfId, Path, Fingerprint, Problem) VALUES (?, ?, ?, ?) "
            + "ON CONFLICT (ShelfId, Path) DO UPDATE SET Fingerprint = excluded.Fingerprint, Problem = excluded.Problem RETURNING Id");
        var changes = string.Join(", ", FileColumns.Skip(2).Select(c => $"{c} = excluded.{c}"));
        var row = $"({string.Join(", ", FileColumns.Select(_ => "?"))})";
        var into = $"INSERT INTO CatalogueFiles ({string.Join(", ", FileColumns)}) VALUES ";
        var insert = into + row;
        _newFile = Prepare(insert);
        _newFiles = Prepare(into + string.Join(", ", Enumerable.Repeat(row, RowsAtOnce)));
        _file = Prepare($"{insert} ON CONFLICT (FolderId, Name) DO UPDATE SET {changes}");
        _remember = Prepare(Remember + "f.FolderId = ?3 AND f.Name = ?4");
        _back = Prepare("DELETE FROM GoneFiles WHERE ShelfId = ? AND Path = ?");
        _gone = Prepare("DELETE FROM CatalogueFiles WHERE FolderId = ? AND Name = ?");
        _renumber = Prepare("UPDATE CatalogueFiles SET Number = ? WHERE FolderId = ? AND Name = ?");
    }

    /// <summary>Writes what changed in a folder.</summary>
    /// <returns>How many rows that were, and the identity of the folder.</returns>
    /// <exception cref="IOException">The database refuses.</exception>
    public (int Rows, long Folder) Write(ScannedFolder folder)
    {
        Span<byte> fingerprint = stackalloc byte[16];
        BinaryPrimitives.WriteUInt128BigEndian(fingerprint, folder.Fingerprint);
        Bind(_folder, 1, _shelf);
        Bind(_folder, 2, folder.Path);
        raw.sqlite3_bind_blob(_folder, 3, fingerprint);
        Bind(_folder, 4, Text(folder.Problem));
        Require(raw.sqlite3_step(_folder), raw.SQLITE_ROW);
        var id = raw.sqlite3_column_int64(_folder, 0);
        Require(raw.sqlite3_reset(_folder), raw.SQLITE_OK);
        var isKnown = _isKnown(folder.Path);
        foreach (var name in isKnown ? folder.Gone : [])
        {
            Bind(_remember, 1, _shelf);
            raw.sqlite3_bind_int64(_remember, 2, _nowMs);
            raw.sqlite3_bind_int64(_remember, 3, id);
            Bind(_remember, 4, name);
            Step(_remember);
            raw.sqlite3_bind_int64(_gone, 1, id);
            Bind(_gone, 2, name);
            Step(_gone);
        }
        foreach (var file in folder.Renumbered)
        {
            raw.sqlite3_bind_int64(_renumber, 1, file.Inode);
            raw.sqlite3_bind_int64(_renumber, 2, id);
            Bind(_renumber, 3, file.Name);
            Step(_renumber);
        }
        if (isKnown)
        {
            WriteAmongKnown(id, folder);
        }
        else
        {
            WriteNew(id, folder);
        }
        foreach (var file in _anyGone ? folder.Changed : [])
        {
            // What is back is not gone.
            Bind(_back, 1, _shelf);
            Bind(_back, 2, Catalogue.Below(folder.Path, file.File.Name));
            Step(_back);
        }
        return (folder.Changed.Count + folder.Gone.Count + folder.Renumbered.Count + 1, id);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _folder.Dispose();
        _newFile.Dispose();
        _newFiles.Dispose();
        _file.Dispose();
        _gone.Dispose();
        _remember.Dispose();
        _back.Dispose();
        _renumber.Dispose();
    }

    private void WriteAmongKnown(long id, ScannedFolder folder)
    {
        foreach (var file in folder.Changed)
        {
            BindFile(_file, 0, id, folder.Path, file);
            Step(_file);
        }
    }

    /// <summary>In a folder that was not known no file was.</summary>
    private void WriteNew(long id, ScannedFolder folder)
    {
        var written = 0;
        for (; folder.Changed.Count - written >= RowsAtOnce; written += RowsAtOnce)
        {
            for (var n = 0; n < RowsAtOnce; n++)
            {
                BindFile(_newFiles, n * FileColumns.Length, id, folder.Path, folder.Changed[written + n]);
            }
            Step(_newFiles);
        }
        for (; written < folder.Changed.Count; written++)
        {
            BindFile(_newFile, 0, id, folder.Path, folder.Changed[written]);
            Step(_newFile);
        }
    }

    /// <summary>Binds a file to the parameters of a row; so many stand before it.</summary>
    private static void BindFile(sqlite3_stmt row, int before, long folder, string path, ScannedFile file)
    {
        raw.sqlite3_bind_int64(row, before + 1, folder);
        Bind(row, before + 2, file.File.Name);
        raw.sqlite3_bind_int64(row, before + 3, file.File.Bytes);
        raw.sqlite3_bind_int64(row, before + 4, file.File.ModifiedUtc.Ticks);
        raw.sqlite3_bind_int64(row, before + 5, file.File.Inode);
        Bind(row, before + 6, file.Kind?.ToString());
        Bind(row, before + 7, file.Sound?.Container);
        Bind(row, before + 8, file.Sound?.SampleRate);
        Bind(row, before + 9, file.Sound?.Channels);
        Bind(row, before + 10, file.Sound?.BitsPerSample);
        Bind(row, before + 11, file.Sound?.LengthSamples);
        if (file.Sound is { LengthSamples: { } length } sound)
        {
            raw.sqlite3_bind_double(row, before + 12, length / (double)sound.SampleRate);
        }
        else
        {
            raw.sqlite3_bind_null(row, before + 12);
        }
        Bind(row, before + 13, Text(file.Problem));
        Bind(row, before + 14, SearchText(path, file.File.Name, file.Sound?.Texts ?? ""));
    }

    private static string? Text(Fault? problem) => problem is null ? null : Fault.Write([problem]);

    /// <summary>
    /// Path and texts: what somebody may remember of a file, where it is more than the path with its letters A to Z made small. Most
    /// files carry no texts and have plain names, so that it is written for few.
    /// </summary>
    private static string? SearchText(string folder, string name, string texts) =>
        texts.Length == 0 && Ascii.IsValid(folder) && Ascii.IsValid(name) ? null : Catalogue.Fold(texts.Length == 0 ? Catalogue.Below(folder, name) : Catalogue.Below(folder, name) + "\n" + texts);

    private sqlite3_stmt Prepare(string sql)
    {
        Require(raw.sqlite3_prepare_v2(_database, sql, out var statement), raw.SQLITE_OK);
        return statement;
    }

    private void Step(sqlite3_stmt statement)
    {
        Require(raw.sqlite3_step(statement), raw.SQLITE_DONE);
        Require(raw.sqlite3_reset(statement), raw.SQLITE_OK);
    }

    private void Require(int answer, int expected)
    {
        if (answer != expected)
        {
            throw new IOException($"The catalogue cannot be written: {raw.sqlite3_errmsg(_database).utf8_to_string()}.");
        }
    }

    private static void Bind(sqlite3_stmt statement, int parameter, long? value)
    {
        _ = value is { } number ? raw.sqlite3_bind_int64(statement, parameter, number) : raw.sqlite3_bind_null(statement, parameter);
    }

    private static void Bind(sqlite3_stmt statement, int parameter, string? text)
    {
        if (text is null)
        {
            raw.sqlite3_bind_null(statement, parameter);
            return;
        }
        // SQLite copies the text before the call returns.
        Span<byte> buffer = stackalloc byte[OnStack];
        raw.sqlite3_bind_text(statement, parameter, Encoding.UTF8.TryGetBytes(text, buffer, out var written) ? buffer[..written] : Encoding.UTF8.GetBytes(text));
    }
}
