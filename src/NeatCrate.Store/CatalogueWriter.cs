using System.Buffers;
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

    /// <summary>
    /// Remembers files of the catalogue as gone; what follows says which. Parameters: the shelf, and the time. A name is folded as far as SQLite
    /// folds (A to Z); other letters are compared as they are.
    /// </summary>
    public const string Remember = """
        INSERT OR REPLACE INTO GoneFiles (ShelfId, Path, FoldedName, Bytes, ChangedTicks, Kind, Container, SampleRate, Channels, BitsPerSample, LengthSamples, GoneMs)
        SELECT ?1, CASE d.Path WHEN '' THEN f.Name ELSE d.Path || '/' || f.Name END, lower(f.Name), f.Bytes, f.ChangedTicks, f.Kind, f.Container, f.SampleRate, f.Channels, f.BitsPerSample, f.LengthSamples, ?2
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
        var insert = $"INSERT INTO CatalogueFiles ({string.Join(", ", FileColumns)}) VALUES ({string.Join(", ", FileColumns.Select(_ => "?"))})";
        _newFile = Prepare(insert);
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
            raw.sqlite3_bind_int64(_renumber, 1, file.Number);
            raw.sqlite3_bind_int64(_renumber, 2, id);
            Bind(_renumber, 3, file.Name);
            Step(_renumber);
        }
        // In a folder that was not known no file was.
        var statement = isKnown ? _file : _newFile;
        foreach (var file in folder.Changed)
        {
            Write(statement, id, folder.Path, file);
            if (_anyGone)
            {
                // What is back is not gone.
                Bind(_back, 1, _shelf);
                Bind(_back, 2, Catalogue.Below(folder.Path, file.File.Name));
                Step(_back);
            }
        }
        return (folder.Changed.Count + folder.Gone.Count + folder.Renumbered.Count + 1, id);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _folder.Dispose();
        _newFile.Dispose();
        _file.Dispose();
        _gone.Dispose();
        _remember.Dispose();
        _back.Dispose();
        _renumber.Dispose();
    }

    private void Write(sqlite3_stmt row, long folder, string path, ScannedFile file)
    {
        raw.sqlite3_bind_int64(row, 1, folder);
        Bind(row, 2, file.File.Name);
        raw.sqlite3_bind_int64(row, 3, file.File.Bytes);
        raw.sqlite3_bind_int64(row, 4, file.File.ChangedUtc.Ticks);
        raw.sqlite3_bind_int64(row, 5, file.File.Number);
        Bind(row, 6, file.Kind?.ToString());
        Bind(row, 7, file.Sound?.Container);
        Bind(row, 8, file.Sound?.SampleRate);
        Bind(row, 9, file.Sound?.Channels);
        Bind(row, 10, file.Sound?.BitsPerSample);
        Bind(row, 11, file.Sound?.LengthSamples);
        if (file.Sound is { LengthSamples: { } length } sound)
        {
            raw.sqlite3_bind_double(row, 12, length / (double)sound.SampleRate);
        }
        else
        {
            raw.sqlite3_bind_null(row, 12);
        }
        Bind(row, 13, Text(file.Problem));
        BindSearchText(row, 14, path, file);
        Step(row);
    }

    private static string? Text(Fault? problem) => problem is null ? null : Fault.Write([problem]);

    /// <summary>Path and texts: what somebody may remember of a file.</summary>
    private static void BindSearchText(sqlite3_stmt statement, int parameter, string folder, ScannedFile file)
    {
        var (name, texts) = (file.File.Name, file.Sound?.Texts ?? "");
        // Most files carry no texts and have plain names, which are folded into the bytes that are bound.
        Span<byte> buffer = stackalloc byte[OnStack];
        if (texts.Length == 0 && folder.Length + 1 + name.Length <= OnStack
            && Ascii.ToLower(folder, buffer, out var head) == OperationStatus.Done
            && Ascii.ToLower(name, buffer[(head > 0 ? head + 1 : 0)..], out var tail) == OperationStatus.Done)
        {
            if (head > 0)
            {
                buffer[head++] = (byte)'/';
            }
            raw.sqlite3_bind_text(statement, parameter, buffer[..(head + tail)]);
            return;
        }
        var path = Catalogue.Below(folder, name);
        Bind(statement, parameter, Catalogue.Fold(texts.Length == 0 ? path : path + "\n" + texts));
    }

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
