using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Store;

/// <summary>The index of all files on all shelves, kept also while a shelf is away. It answers while scans run.</summary>
public sealed class Catalogue(StoreFiles files, TimeProvider time) : IShelfMemory
{
    /// <summary>What a bundle's name ends in; as the index of these has it, word for word, without which that would not be used.</summary>
    internal const string IsArchive = "Name LIKE '%.zip'";

    /// <summary>The index of the archives.</summary>
    internal const string ArchivesIndex = "IX_CatalogueFiles_Archives";

    private const string Columns =
        "f.Id, d.ShelfId, d.Path, f.Name, f.Bytes, f.ChangedTicks, f.Kind, f.Container, f.SampleRate, f.Channels, f.BitsPerSample, f.LengthSamples, f.Seconds, f.Problem";

    private const string Joined = "CatalogueFiles f JOIN CatalogueFolders d ON d.Id = f.FolderId";

    private readonly CatalogueIndex _index = new(files.ConnectionString);

    /// <summary>Begins a scan of a shelf; what it puts is in the catalogue at the latest when it is disposed of.</summary>
    public CatalogueScan BeginScan(Guid shelfId) => new(files.ConnectionString, shelfId, time.GetUtcNow(), _index.Changed);

    /// <summary>Remembers what a whole scan came to.</summary>
    public void EndScan(Guid shelfId, ScanResult result)
    {
        ArgumentNullException.ThrowIfNull(result);
        using var db = files.NewDb();
        var row = db.Scans.FirstOrDefault(s => s.ShelfId == shelfId) ?? db.Scans.Add(new ScanRow { ShelfId = shelfId }).Entity;
        (row.EndedMs, row.Folders, row.Files, row.Bytes) = (time.GetUtcNow().ToUnixTimeMilliseconds(), result.Folders, result.Files, result.Bytes);
        db.SaveChanges();
    }

    /// <summary>The last whole scan of every shelf that was ever scanned.</summary>
    public IReadOnlyDictionary<Guid, ScanRow> LastScans()
    {
        using var db = files.NewDb();
        return db.Scans.AsNoTracking().ToDictionary(s => s.ShelfId);
    }

    /// <summary>Forgets all that is known of a shelf. No file is touched.</summary>
    public void Forget(Guid shelfId)
    {
        using var db = files.NewDb();
        using var transaction = db.Database.BeginTransaction();
        db.Scans.Where(s => s.ShelfId == shelfId).ExecuteDelete();
        db.CatalogueFiles.Where(f => db.CatalogueFolders.Any(d => d.Id == f.FolderId && d.ShelfId == shelfId)).ExecuteDelete();
        db.CatalogueFolders.Where(d => d.ShelfId == shelfId).ExecuteDelete();
        db.GoneFiles.Where(g => g.ShelfId == shelfId).ExecuteDelete();
        db.Identities.Where(i => i.ShelfId == shelfId).ExecuteDelete();
        db.Bundles.Where(b => b.ShelfId == shelfId).ExecuteDelete();
        transaction.Commit();
        _index.Reset();
    }

    /// <summary>Looks for media files.</summary>
    public CatalogueAnswer Find(CatalogueQuery query)
    {
        ArgumentNullException.ThrowIfNull(query);
        var words = Fold(query.Text ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var (total, ids) = _index.Now().Find(query, words, ShelfNames());
        var known = Get([.. ids]).ToDictionary(f => f.Id);
        // One that went a moment ago is passed over.
        return new CatalogueAnswer(total, [.. ids.Select(i => known.GetValueOrDefault(i)).OfType<CatalogueFile>()]);
    }

    /// <summary>Grows whenever something in it changes.</summary>
    public long Revision => _index.Revision;

    /// <summary>The media files that may be lost ones, by name, size and length.</summary>
    /// <param name="lost">The lost files.</param>
    /// <returns>In the order of <paramref name="lost"/>.</returns>
    public IReadOnlyList<IReadOnlyList<CatalogueFile>> Suggest(IReadOnlyList<LostFile> lost)
    {
        var ids = _index.Now().Suggest(lost);
        var known = Get([.. ids.SelectMany(i => i).Distinct()]).ToDictionary(f => f.Id);
        return [.. ids.Select(i => i.Select(id => known.GetValueOrDefault(id)).OfType<CatalogueFile>().ToList())];
    }

    /// <summary>The media files at these places, in no order.</summary>
    /// <param name="places">Shelf and path from its top.</param>
    public IReadOnlyList<CatalogueFile> At(IReadOnlyCollection<(Guid ShelfId, string Path)> places)
    {
        ArgumentNullException.ThrowIfNull(places);
        using var connection = Open();
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT {Columns} FROM {Lookups.FilesByPlace}";
        command.Parameters.AddWithValue("$places", PlacesText(places));
        return Read(command);
    }

    /// <summary>
    /// When files were found to be gone from their shelves, and when the scan ended that saw them last (0 where that is not known), in
    /// milliseconds since 1970 (UTC); those that were not gone are left out.
    /// </summary>
    /// <param name="places">Shelf and path from its top.</param>
    public IReadOnlyDictionary<(Guid ShelfId, string Path), (long GoneMs, long SeenMs)> GoneSince(IReadOnlyCollection<(Guid ShelfId, string Path)> places)
    {
        ArgumentNullException.ThrowIfNull(places);
        using var db = files.NewDb();
        var gone = new Dictionary<(Guid, string), (long, long)>();
        foreach (var shelf in places.GroupBy(p => p.ShelfId))
        {
            var paths = shelf.Select(p => p.Path).ToList();
            foreach (var row in db.GoneFiles.AsNoTracking().Where(g => g.ShelfId == shelf.Key && paths.Contains(g.Path)))
            {
                gone[(row.ShelfId, row.Path)] = (row.GoneMs, row.SeenMs);
            }
        }
        return gone;
    }

    /// <summary>The ZIP archives on all shelves by shelf and path from its top, as the last scan saw them.</summary>
    public ILookup<Guid, (string Path, FileState State)> Archives()
    {
        using var connection = Open();
        using var command = connection.CreateCommand();
        // Would rather fail than go through all files.
        command.CommandText = $"SELECT d.ShelfId, d.Path, f.Name, f.Bytes, f.ChangedTicks FROM CatalogueFiles f INDEXED BY {ArchivesIndex} JOIN CatalogueFolders d ON d.Id = f.FolderId WHERE f.{IsArchive}";
        using var row = command.ExecuteReader();
        var found = new List<(Guid ShelfId, string Path, FileState State)>();
        while (row.Read())
        {
            found.Add((row.GetGuid(0), Below(row.GetString(1), row.GetString(2)), new FileState(row.GetInt64(3), new DateTime(row.GetInt64(4), DateTimeKind.Utc))));
        }
        return found.ToLookup(f => f.ShelfId, f => (f.Path, f.State));
    }

    /// <summary>How many files are known on a shelf, and how many of them stand at the same places of another one, as long and last changed at the same moment.</summary>
    /// <param name="shelfId">The shelf whose files are counted.</param>
    /// <param name="otherId">The shelf on which they are looked for.</param>
    public (int Known, int AtSamePlaces) Compare(Guid shelfId, Guid otherId)
    {
        using var connection = Open();
        using var command = connection.CreateCommand();
        command.CommandText = """
            SELECT count(*), count(g.Id) FROM CatalogueFolders d
            JOIN CatalogueFiles f ON f.FolderId = d.Id
            LEFT JOIN CatalogueFolders e ON e.ShelfId = $other AND e.Path = d.Path
            LEFT JOIN CatalogueFiles g ON g.FolderId = e.Id AND g.Name = f.Name AND g.Bytes = f.Bytes AND g.ChangedTicks = f.ChangedTicks
            WHERE d.ShelfId = $shelf
            """;
        command.Parameters.AddWithValue("$shelf", Text(shelfId));
        command.Parameters.AddWithValue("$other", Text(otherId));
        using var row = command.ExecuteReader();
        row.Read();
        return (row.GetInt32(0), row.GetInt32(1));
    }

    /// <summary>Makes ready for searches, which the first would have to wait for otherwise.</summary>
    public void GetReady() => _index.Now();

    /// <summary>The files of these identities that are known, in no order.</summary>
    public IReadOnlyList<CatalogueFile> Get(IReadOnlyCollection<long> ids)
    {
        ArgumentNullException.ThrowIfNull(ids);
        using var connection = Open();
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT {Columns} FROM {Joined} WHERE f.Id IN (SELECT value FROM json_each($ids))";
        command.Parameters.AddWithValue("$ids", JsonSerializer.Serialize(ids));
        return Read(command);
    }

    /// <inheritdoc/>
    public IReadOnlyDictionary<string, KnownFile> Recall(Guid shelfId, IReadOnlyCollection<string> paths)
    {
        ArgumentNullException.ThrowIfNull(paths);
        using var connection = Open();
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT {Columns} FROM {Lookups.FilesByPlace}";
        command.Parameters.AddWithValue("$places", PlacesText(paths.Select(p => (shelfId, p))));
        var known = Read(command).ToDictionary(
            f => f.Path, f => new KnownFile(f.Bytes, f.ModifiedUtc, f.Container, f.SampleRate, f.Channels, f.BitsPerSample, f.LengthSamples), StringComparer.Ordinal);
        using var db = files.NewDb();
        var others = paths.Where(p => !known.ContainsKey(p)).ToList();
        // What went missing is remembered as it was.
        foreach (var gone in others.Count == 0 ? [] : db.GoneFiles.AsNoTracking().Where(g => g.ShelfId == shelfId && others.Contains(g.Path)).ToList())
        {
            known[gone.Path] = new KnownFile(gone.Bytes, new DateTime(gone.ChangedTicks, DateTimeKind.Utc), gone.Container, gone.SampleRate, gone.Channels, gone.BitsPerSample, gone.LengthSamples);
        }
        return known;
    }

    /// <summary>Formats and sample rates that occur among the media files of all shelves.</summary>
    public CatalogueFacets Facets()
    {
        using var db = files.NewDb();
        return new CatalogueFacets(
            db.CatalogueFiles.Where(f => f.Container != null).Select(f => f.Container!).Distinct().OrderBy(c => c).ToList(),
            db.CatalogueFiles.Where(f => f.SampleRate != null).Select(f => f.SampleRate!.Value).Distinct().OrderBy(r => r).ToList());
    }

    /// <summary>What on a shelf cannot be read, folders first.</summary>
    public IReadOnlyList<CatalogueProblem> Problems(Guid shelfId, int most)
    {
        using var db = files.NewDb();
        var folders = db.CatalogueFolders.Where(d => d.ShelfId == shelfId && d.Problem != null).OrderBy(d => d.Path).Take(most)
            .Select(d => new CatalogueProblem(d.Path, true, d.Problem!)).ToList();
        var broken = db.CatalogueFiles.Where(f => f.Problem != null)
            .Join(db.CatalogueFolders.Where(d => d.ShelfId == shelfId), f => f.FolderId, d => d.Id, (f, d) => new { d.Path, f.Name, f.Problem })
            .OrderBy(f => f.Path).ThenBy(f => f.Name).Take(most).AsEnumerable()
            .Select(f => new CatalogueProblem(Below(f.Path, f.Name), false, f.Problem!));
        return [.. folders.Concat(broken).Take(most)];
    }

    /// <summary>How many things on each shelf cannot be read.</summary>
    public IReadOnlyDictionary<Guid, int> ProblemCounts()
    {
        using var db = files.NewDb();
        var folders = db.CatalogueFolders.Where(d => d.Problem != null).GroupBy(d => d.ShelfId).Select(g => new { g.Key, Count = g.Count() }).ToList();
        var broken = db.CatalogueFiles.Where(f => f.Problem != null).Join(db.CatalogueFolders, f => f.FolderId, d => d.Id, (f, d) => d.ShelfId)
            .GroupBy(s => s).Select(g => new { g.Key, Count = g.Count() }).ToList();
        return folders.Concat(broken).GroupBy(c => c.Key).ToDictionary(g => g.Key, g => g.Sum(c => c.Count));
    }

    /// <summary>A text as it is compared in searches: case and the form of composed letters do not matter.</summary>
    internal static string Fold(string text) => PortableName.ClashKey(text);

    internal static string Below(string folder, string name) => folder.Length == 0 ? name : folder + "/" + name;

    private static string PlacesText(IEnumerable<(Guid ShelfId, string Path)> places) =>
        JsonSerializer.Serialize(places.Select(p => new[] { Text(p.ShelfId), p.Path[..Math.Max(0, p.Path.LastIndexOf('/'))], Path.GetFileName(p.Path) }));

    private SqliteConnection Open()
    {
        var connection = new SqliteConnection(files.ConnectionString);
        connection.Open();
        return connection;
    }

    private Dictionary<string, string> ShelfNames()
    {
        using var db = files.NewDb();
        return db.Shelves.AsNoTracking().Select(s => new { s.Id, s.Name }).AsEnumerable().ToDictionary(s => Text(s.Id), s => Fold(s.Name), StringComparer.Ordinal);
    }

    /// <summary>An identity as EF writes it: text in capitals.</summary>
    internal static string Text(Guid id) => id.ToString().ToUpperInvariant();

    private static List<CatalogueFile> Read(SqliteCommand command)
    {
        var found = new List<CatalogueFile>();
        using var row = command.ExecuteReader();
        while (row.Read())
        {
            T? Value<T>(int column) where T : struct => row.IsDBNull(column) ? null : row.GetFieldValue<T>(column);
            string? Text(int column) => row.IsDBNull(column) ? null : row.GetString(column);
            found.Add(new CatalogueFile(
                row.GetInt64(0), row.GetGuid(1), Below(row.GetString(2), row.GetString(3)), row.GetInt64(4), new DateTime(row.GetInt64(5), DateTimeKind.Utc),
                Text(6) is { } kind ? Enum.Parse<MediaKind>(kind) : null, Text(7), Value<int>(8), Value<int>(9), Value<int>(10), Value<long>(11), Value<double>(12), Text(13)));
        }
        return found;
    }
}
