using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace NeatCrate.Store;

/// <summary>The data folder is in use by another process.</summary>
public sealed class DataFolderInUseException : IOException
{
    /// <summary>Makes the exception with its sentence.</summary>
    public DataFolderInUseException(string message) : base(message)
    {
    }

    /// <summary>Makes the exception with its sentence and its cause.</summary>
    public DataFolderInUseException(string message, Exception inner) : base(message, inner)
    {
    }

    /// <summary>Makes the exception without a sentence.</summary>
    public DataFolderInUseException()
    {
    }
}

/// <summary>The data folder on disk, held by one process at a time.</summary>
public sealed class StoreFiles : IDisposable
{
    private readonly FileStream _lock;

    private StoreFiles(string folder, FileStream held)
    {
        Folder = folder;
        _lock = held;
        ConnectionString = Connection(Path.Combine(folder, "neat-crate.db"));
        Options = new DbContextOptionsBuilder<NeatCrateDb>().UseSqlite(ConnectionString).Options;
    }

    /// <summary>Absolute path of the data folder.</summary>
    public string Folder { get; }

    /// <summary>How to open the database.</summary>
    public DbContextOptions<NeatCrateDb> Options { get; }

    /// <summary>How to open the database without EF, where many rows pass.</summary>
    public string ConnectionString { get; }

    /// <summary>Takes hold of the data folder and brings the database up to date.</summary>
    /// <exception cref="DataFolderInUseException">Another process holds it.</exception>
    public static StoreFiles Open(string folder)
    {
        Directory.CreateDirectory(folder);
        FileStream held;
        try
        {
            held = new FileStream(Path.Combine(folder, "in-use"), FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (IOException e)
        {
            throw new DataFolderInUseException($"Neat Crate is running with the data folder '{folder}' already.", e);
        }
        var files = new StoreFiles(folder, held);
        try
        {
            using var db = files.NewDb();
            files.ClearStaleMigrationLock();
            db.Database.Migrate();
            db.Database.ExecuteSqlRaw("PRAGMA journal_mode=WAL");
        }
        catch
        {
            files.Dispose();
            throw;
        }
        return files;
    }

    /// <summary>A database context, to be disposed after use.</summary>
    public NeatCrateDb NewDb() => new(Options);

    /// <inheritdoc/>
    public void Dispose()
    {
        SqliteConnection.ClearAllPools();
        _lock.Dispose();
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
