using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using SQLitePCL;

namespace NeatCrate.Store;

/// <summary>The data folder on disk, held by one process at a time.</summary>
public sealed class StoreFiles : IDisposable
{
    private const string DatabaseName = "neat-crate.db";
    private const int NoDatabase = 26;
    private const int Damaged = 11;
    private const int Full = 13;
    private const int DiskError = 10;

    // The database asks for room in steps of this, and says "disk I/O error" of some that it does not get.
    private const long Step = 65_536;

    private readonly FileStream _lock;

    static StoreFiles()
    {
        // SQLite counts its memory under one lock for all threads unless it is told not to (sqlite.org/c3ref, SQLITE_CONFIG_MEMSTATUS); it takes
        // no other answer once it was used, which changes nothing but the speed.
        Batteries_V2.Init();
        _ = raw.sqlite3_config(raw.SQLITE_CONFIG_MEMSTATUS, 0);
    }

    private StoreFiles(string folder, FileStream held)
    {
        Folder = folder;
        _lock = held;
        ConnectionString = Connection(Path.Combine(folder, DatabaseName));
        Options = new DbContextOptionsBuilder<NeatCrateDb>().UseSqlite(ConnectionString).AddInterceptors(new DatabaseFaults()).Options;
    }

    /// <summary>Absolute path of the data folder.</summary>
    public string Folder { get; }

    /// <summary>How to open the database.</summary>
    public DbContextOptions<NeatCrateDb> Options { get; }

    /// <summary>How to open the database without EF, where many rows pass.</summary>
    public string ConnectionString { get; }

    private string DatabasePath => Path.Combine(Folder, DatabaseName);

    /// <summary>
    /// Takes hold of the data folder, checks the database, and brings it up to date; before it is changed it is copied to
    /// <c>neat-crate.db.before-…</c>.
    /// </summary>
    /// <exception cref="FaultException">It cannot be used: in use, no folder, not to be written, damaged, foreign, or of a later version.</exception>
    public static StoreFiles Open(string folder)
    {
        var files = new StoreFiles(folder, Hold(folder));
        try
        {
            files.Prepare();
            return files;
        }
        catch (Exception e)
        {
            files.Dispose();
            if (FaultOf(e, files.DatabasePath) is { } fault)
            {
                throw new FaultException(fault, e);
            }
            throw;
        }
    }

    /// <summary>What an error of the database stands for; null for one that is none of these.</summary>
    /// <param name="error">The error, or one around it.</param>
    /// <param name="path">The database, where it is known.</param>
    public static Fault? FaultOf(Exception error, string? path = null) => (error as SqliteException ?? error?.InnerException as SqliteException) is not { } sqlite ? null
        : new Fault(sqlite.SqliteErrorCode switch
        {
            NoDatabase => FaultCode.DatabaseForeign,
            Damaged => FaultCode.DatabaseDamaged,
            Full => FaultCode.DatabaseFull,
            DiskError when path is not null && IsFull(Path.GetDirectoryName(path)!) => FaultCode.DatabaseFull,
            _ => FaultCode.DatabaseFails,
        })
        {
            Path = path,
            Detail = sqlite.Message,
        };

    private static bool IsFull(string folder)
    {
        try
        {
            return new DriveInfo(folder).AvailableFreeSpace < Step;
        }
        catch (IOException)
        {
            // The drive does not say; then it is whatever the database says.
            return false;
        }
    }

    /// <summary>A database context, to be disposed after use.</summary>
    public NeatCrateDb NewDb() => new(Options);

    /// <inheritdoc/>
    public void Dispose()
    {
        SqliteConnection.ClearAllPools();
        _lock.Dispose();
    }

    private static FileStream Hold(string folder)
    {
        try
        {
            Directory.CreateDirectory(folder);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new FaultException(new Fault(FaultCode.DataFolderUnusable) { Path = folder, Detail = e.Message }, e);
        }
        var path = Path.Combine(folder, "in-use");
        try
        {
            return new FileStream(path, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // Somebody else holds it only where the file is there and could be written otherwise.
            throw new FaultException(
                e is IOException && File.Exists(path) && IsWritable(folder) ? new Fault(FaultCode.DataFolderInUse) { Path = folder } : new Fault(FaultCode.DataFolderUnusable) { Path = folder, Detail = e.Message }, e);
        }
    }

    private static bool IsWritable(string folder)
    {
        var probe = Path.Combine(folder, $".probe-{Guid.NewGuid():N}");
        try
        {
            using (new FileStream(probe, FileMode.CreateNew, FileAccess.Write, FileShare.None, 1, FileOptions.DeleteOnClose))
            {
                return true;
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    private void Prepare()
    {
        var isNew = !File.Exists(DatabasePath) || new FileInfo(DatabasePath).Length == 0;
        if (!isNew)
        {
            Check();
        }
        using var db = NewDb();
        ClearStaleMigrationLock();
        var (known, applied) = (db.Database.GetMigrations().ToList(), isNew ? [] : db.Database.GetAppliedMigrations().ToList());
        if (applied.Except(known).FirstOrDefault() is { } later)
        {
            throw new FaultException(new Fault(FaultCode.DatabaseNewer) { Path = DatabasePath, Name = later });
        }
        if (!isNew && applied.Count == 0)
        {
            throw new FaultException(FaultCode.DatabaseForeign, DatabasePath);
        }
        if (!isNew && applied.Count < known.Count)
        {
            Keep(applied[^1]);
        }
        if (applied.Count < known.Count)
        {
            db.Database.Migrate();
        }
        db.Database.ExecuteSqlRaw("PRAGMA journal_mode=WAL");
    }

    /// <summary>A whole copy of the database as the version before left it.</summary>
    private void Keep(string migration)
    {
        var copy = $"{DatabasePath}.before-{migration}";
        using var connection = new SqliteConnection(ConnectionString);
        connection.Open();
        using var command = connection.CreateCommand();
        File.Delete(copy);
        command.CommandText = "VACUUM INTO $copy";
        command.Parameters.AddWithValue("$copy", copy);
        command.ExecuteNonQuery();
    }

    /// <summary>Looks through the database for damage, without comparing indexes, which can be made again.</summary>
    private void Check()
    {
        using var connection = new SqliteConnection(ConnectionString);
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "PRAGMA quick_check(1)";
        if (command.ExecuteScalar() as string is var answer and not "ok")
        {
            throw new FaultException(new Fault(FaultCode.DatabaseDamaged) { Path = DatabasePath, Detail = answer });
        }
    }

    private static string Connection(string path) => new SqliteConnectionStringBuilder { DataSource = path, DefaultTimeout = 30 }.ToString();

    /// <summary>A process that was killed while migrating leaves a row that blocks every later start. We hold the folder, so it is stale.</summary>
    private void ClearStaleMigrationLock()
    {
        using var connection = new SqliteConnection(ConnectionString);
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT count(*) FROM sqlite_master WHERE name = '__EFMigrationsLock'";
        if (Convert.ToInt64(command.ExecuteScalar(), System.Globalization.CultureInfo.InvariantCulture) > 0)
        {
            command.CommandText = "DELETE FROM __EFMigrationsLock";
            command.ExecuteNonQuery();
        }
    }
}

/// <summary>Lets the migration tool make a context at design time.</summary>
public sealed class DesignTimeDbFactory : IDesignTimeDbContextFactory<NeatCrateDb>
{
    /// <inheritdoc/>
    public NeatCrateDb CreateDbContext(string[] args) =>
        new(new DbContextOptionsBuilder<NeatCrateDb>().UseSqlite("Data Source=:memory:").Options);
}
