using System.Collections.Concurrent;
using Microsoft.Data.Sqlite;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Store;

/// <summary>
/// The catalogue's side of one scan of a shelf. What is put waits in line for one thread that writes it in batches, each a
/// transaction, so that whoever reads meanwhile is not held up, and a kill leaves whole folders.
/// </summary>
public sealed class CatalogueScan : ICatalogueScan, IDisposable
{
    private const int FilesInBatch = 4_000;
    private const int FoldersInLine = 4_000;

    private readonly string _shelf;
    private readonly long _nowMs;
    private readonly SqliteConnection _reading;
    private readonly SqliteConnection _writing;
    private readonly Lock _lock = new();
    private readonly Dictionary<string, (long Id, UInt128 Fingerprint)> _known = new(StringComparer.Ordinal);
    private readonly Dictionary<string, UInt128> _fingerprints = new(StringComparer.Ordinal);
    private readonly BlockingCollection<ScannedFolder> _line = new(FoldersInLine);
    private readonly Action<IEnumerable<long>> _written;
    private readonly Task _writer;

    /// <param name="connectionString">How to open the database.</param>
    /// <param name="shelfId">The shelf.</param>
    /// <param name="now">The time.</param>
    /// <param name="written">Told after folders were written, with their identities.</param>
    internal CatalogueScan(string connectionString, Guid shelfId, DateTimeOffset now, Action<IEnumerable<long>> written)
    {
        (_shelf, _nowMs, _written) = (Catalogue.Text(shelfId), now.ToUnixTimeMilliseconds(), written);
        _reading = Open(connectionString);
        _writing = Open(connectionString);
        _writing.CreateFunction("fold", (string name) => Catalogue.Fold(name), isDeterministic: true);
        // What is lost by a power cut is found again by the next scan. A connection of its own, so that the journal keeps its full safety.
        Execute(_writing, "PRAGMA synchronous=NORMAL; PRAGMA cache_size=-32000; PRAGMA wal_autocheckpoint=16000");
        ReadFolders();
        _writer = Task.Factory.StartNew(WriteAll, CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
    }

    /// <inheritdoc/>
    public IReadOnlyDictionary<string, UInt128> Folders => _fingerprints;

    /// <inheritdoc/>
    public IReadOnlyDictionary<string, FolderFile> Files(string folder)
    {
        var files = new Dictionary<string, FolderFile>(StringComparer.Ordinal);
        lock (_lock)
        {
            using var command = Command(_reading, "SELECT Name, Bytes, ChangedTicks, Number FROM CatalogueFiles WHERE FolderId = $folder", "$folder");
            command.Parameters[0].Value = _known[folder].Id;
            using var row = command.ExecuteReader();
            while (row.Read())
            {
                var name = row.GetString(0);
                files[name] = new FolderFile(name, row.GetInt64(1), new DateTime(row.GetInt64(2), DateTimeKind.Utc), row.GetInt64(3), true);
            }
        }
        return files;
    }

    /// <inheritdoc/>
    /// <exception cref="IOException">The database cannot be written.</exception>
    public void Put(ScannedFolder folder)
    {
        try
        {
            _line.Add(folder);
        }
        catch (InvalidOperationException e)
        {
            throw new IOException("The catalogue cannot be written: " + _writer.Exception?.InnerException?.Message, e);
        }
    }

    /// <inheritdoc/>
    public void Forget(IReadOnlyCollection<string> folders)
    {
        ArgumentNullException.ThrowIfNull(folders);
        End();
        using var transaction = _writing.BeginTransaction();
        using var remember = Command(_writing, CatalogueWriter.Remember.Replace("?1", "$shelf", StringComparison.Ordinal).Replace("?2", "$now", StringComparison.Ordinal) + "f.FolderId = $folder", "$folder", "$shelf", "$now");
        (remember.Parameters[1].Value, remember.Parameters[2].Value) = (_shelf, _nowMs);
        using var files = Command(_writing, "DELETE FROM CatalogueFiles WHERE FolderId = $folder", "$folder");
        using var rows = Command(_writing, "DELETE FROM CatalogueFolders WHERE Id = $folder", "$folder");
        foreach (var folder in folders.Where(_known.ContainsKey))
        {
            remember.Parameters[0].Value = files.Parameters[0].Value = rows.Parameters[0].Value = _known[folder].Id;
            remember.ExecuteNonQuery();
            files.ExecuteNonQuery();
            rows.ExecuteNonQuery();
        }
        transaction.Commit();
        _written(folders.Where(_known.ContainsKey).Select(f => _known[f].Id));
    }

    /// <summary>Waits until all that was put is written.</summary>
    /// <exception cref="SqliteException">It could not be.</exception>
    public void End()
    {
        _line.CompleteAdding();
        _writer.GetAwaiter().GetResult();
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _line.CompleteAdding();
        // Whoever ended the scan in the regular way has heard of an error; after another one this is not the time.
        ((IAsyncResult)_writer).AsyncWaitHandle.WaitOne();
        _line.Dispose();
        _reading.Dispose();
        _writing.Dispose();
    }

    private static SqliteConnection Open(string connectionString)
    {
        var connection = new SqliteConnection(new SqliteConnectionStringBuilder(connectionString) { Pooling = false }.ToString());
        connection.Open();
        return connection;
    }

    private static void Execute(SqliteConnection connection, string sql)
    {
        using var command = Command(connection, sql);
        command.ExecuteNonQuery();
    }

    private static SqliteCommand Command(SqliteConnection connection, string sql, params string[] parameters)
    {
        var command = connection.CreateCommand();
        command.CommandText = sql;
        foreach (var name in parameters)
        {
            command.Parameters.AddWithValue(name, null);
        }
        return command;
    }

    private void ReadFolders()
    {
        using var command = Command(_reading, "SELECT Path, Id, Fingerprint FROM CatalogueFolders WHERE ShelfId = $shelf", "$shelf");
        command.Parameters[0].Value = _shelf;
        using var row = command.ExecuteReader();
        while (row.Read())
        {
            var fingerprint = System.Buffers.Binary.BinaryPrimitives.ReadUInt128BigEndian(row.GetFieldValue<byte[]>(2));
            _known[row.GetString(0)] = (row.GetInt64(1), fingerprint);
            _fingerprints[row.GetString(0)] = fingerprint;
        }
    }

    private bool AnyGone()
    {
        using var command = Command(_writing, "SELECT EXISTS (SELECT 1 FROM GoneFiles WHERE ShelfId = $shelf)", "$shelf");
        command.Parameters[0].Value = _shelf;
        return (long)command.ExecuteScalar()! != 0;
    }

    private void WriteAll()
    {
        try
        {
            using var writer = new CatalogueWriter(_writing.Handle!, _shelf, _known.ContainsKey, AnyGone(), _nowMs);
            foreach (var first in _line.GetConsumingEnumerable())
            {
                Execute(_writing, "BEGIN IMMEDIATE");
                var (rows, folders) = (0, new List<long>());
                for (var next = first; next is not null; next = rows < FilesInBatch && _line.TryTake(out var more) ? more : null)
                {
                    var (written, folder) = writer.Write(next);
                    rows += written;
                    folders.Add(folder);
                }
                Execute(_writing, "COMMIT");
                _written(folders);
            }
        }
        finally
        {
            // Nobody takes from the line any more: whoever puts must not wait for ever.
            _line.CompleteAdding();
        }
    }
}
