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
    private static readonly string[] FileColumns =
        ["FolderId", "Name", "Bytes", "ChangedTicks", "Number", "Kind", "Container", "SampleRate", "Channels", "BitsPerSample", "LengthSamples", "Seconds", "Problem", "SearchText"];

    private readonly sqlite3 _database;
    private readonly string _shelf;
    private readonly Func<string, bool> _isKnown;
    private readonly sqlite3_stmt _folder;
    private readonly sqlite3_stmt _file;
    private readonly sqlite3_stmt _gone;

    /// <summary>Prepares the statements.</summary>
    /// <param name="database">The connection, on which the caller begins and commits transactions.</param>
    /// <param name="shelf">Identity of the shelf as the database has it.</param>
    /// <param name="isKnown">Whether a folder was in the catalogue before the scan.</param>
    public CatalogueWriter(sqlite3 database, string shelf, Func<string, bool> isKnown)
    {
        (_database, _shelf, _isKnown) = (database, shelf, isKnown);
        _folder = Prepare(
            "INSERT INTO CatalogueFolders (ShelfId, Path, Fingerprint, Problem) VALUES (?, ?, ?, ?) "
            + "ON CONFLICT (ShelfId, Path) DO UPDATE SET Fingerprint = excluded.Fingerprint, Problem = excluded.Problem RETURNING Id");
        var changes = string.Join(", ", FileColumns.Skip(2).Select(c => $"{c} = excluded.{c}"));
        _file = Prepare($"INSERT INTO CatalogueFiles ({string.Join(", ", FileColumns)}) VALUES ({string.Join(", ", FileColumns.Select(_ => "?"))}) ON CONFLICT (FolderId, Name) DO UPDATE SET {changes}");
        _gone = Prepare("DELETE FROM CatalogueFiles WHERE FolderId = ? AND Name = ?");
    }

    /// <summary>Writes what changed in a folder.</summary>
    /// <returns>How many rows that were.</returns>
    /// <exception cref="IOException">The database refuses.</exception>
    public int Write(ScannedFolder folder)
    {
        Span<byte> fingerprint = stackalloc byte[16];
        BinaryPrimitives.WriteUInt128BigEndian(fingerprint, folder.Fingerprint);
        Bind(_folder, 1, _shelf);
        Bind(_folder, 2, folder.Path);
        raw.sqlite3_bind_blob(_folder, 3, fingerprint);
        Bind(_folder, 4, folder.Problem);
        Require(raw.sqlite3_step(_folder), raw.SQLITE_ROW);
        var id = raw.sqlite3_column_int64(_folder, 0);
        Require(raw.sqlite3_reset(_folder), raw.SQLITE_OK);
        foreach (var name in _isKnown(folder.Path) ? folder.Gone : [])
        {
            raw.sqlite3_bind_int64(_gone, 1, id);
            Bind(_gone, 2, name);
            Step(_gone);
        }
        foreach (var file in folder.Changed)
        {
            Write(id, folder.Path, file);
        }
        return folder.Changed.Count + folder.Gone.Count + 1;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _folder.Dispose();
        _file.Dispose();
        _gone.Dispose();
    }

    private void Write(long folder, string path, ScannedFile file)
    {
        raw.sqlite3_bind_int64(_file, 1, folder);
        Bind(_file, 2, file.File.Name);
        raw.sqlite3_bind_int64(_file, 3, file.File.Bytes);
        raw.sqlite3_bind_int64(_file, 4, file.File.ChangedUtc.Ticks);
        raw.sqlite3_bind_int64(_file, 5, file.File.Number);
        Bind(_file, 6, file.Kind?.ToString());
        Bind(_file, 7, file.Sound?.Container);
        Bind(_file, 8, file.Sound?.SampleRate);
        Bind(_file, 9, file.Sound?.Channels);
        Bind(_file, 10, file.Sound?.BitsPerSample);
        Bind(_file, 11, file.Sound?.LengthSamples);
        if (file.Sound is { LengthSamples: { } length } sound)
        {
            raw.sqlite3_bind_double(_file, 12, length / (double)sound.SampleRate);
        }
        else
        {
            raw.sqlite3_bind_null(_file, 12);
        }
        Bind(_file, 13, file.Problem);
        Bind(_file, 14, SearchText(path, file));
        Step(_file);
    }

    /// <summary>Path and texts: what somebody may remember of a file.</summary>
    private static string SearchText(string folder, ScannedFile file)
    {
        var path = Catalogue.Below(folder, file.File.Name);
        return Catalogue.Fold(file.Sound is { Texts.Length: > 0 } sound ? path + "\n" + sound.Texts : path);
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
        const int OnStack = 1024;
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
