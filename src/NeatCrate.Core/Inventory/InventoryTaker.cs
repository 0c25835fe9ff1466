using System.Collections.Concurrent;
using System.Collections.Immutable;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>
/// Looks at a session folder, its documents and the shelves, and tells of every media file where it stands and what
/// it is used for. Reading never changes anything.
/// </summary>
public sealed class InventoryTaker(HeaderCache headers, IShelfMemory? memory = null)
{
    /// <summary>Takes the inventory of a session.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="documentName">File name of the current document; null for the newest at the top level.</param>
    /// <param name="shelves">All known shelves, connected or away.</param>
    /// <param name="cancel">Stops between two files.</param>
    /// <exception cref="IOException">The session folder cannot be reached.</exception>
    public SessionInventory Take(string folder, string? documentName, IReadOnlyList<Shelf> shelves, CancellationToken cancel = default)
    {
        if (!Directory.Exists(folder))
        {
            throw new DirectoryNotFoundException($"The session folder '{Path.GetFileName(folder)}' cannot be reached.");
        }
        var remarks = new List<string>();
        var files = SessionFolder.Files(folder, (path, why) =>
            remarks.Add($"'{Path.GetRelativePath(folder, path)}' cannot be looked at: {why}")).ToList();
        var documents = ReadDocuments(folder, documentName, files, remarks);
        var pointers = Pointers(documents, shelves, folder);
        var layout = documents.Find(d => d.Current)?.Document?.Layout ?? SessionLayout.Found(folder, files.Select(f => f.FullName));
        var usesKnown = documents.Exists(d => d.Current) && documents.All(d => d.Document is not null);

        var others = (Files: 0, Bytes: 0L);
        var work = new List<(string Path, FileInfo? File)>();
        foreach (var file in files)
        {
            // A link is only another pointer: what it leads to is looked at through the references.
            if (MediaFiles.KindOf(file.Name) is null || InFolder(file.FullName, folder, layout.WaveformCache) || Hidden(file.Name))
            {
                others = (others.Files + 1, others.Bytes + (file.LinkTarget is null ? file.Length : 0));
            }
            else
            {
                work.Add((file.FullName, file));
            }
        }
        var found = work.Select(w => w.Path).ToHashSet(StringComparer.Ordinal);
        work.AddRange(pointers.Keys.Where(path => !found.Contains(path)).Select(path => (path, (FileInfo?)null)));

        var recalled = Recall(pointers.Keys, shelves);
        var items = new ConcurrentBag<InventoryFile>();
        Parallel.ForEach(work, new ParallelOptions { CancellationToken = cancel }, item =>
            items.Add(Describe(item.Path, item.File, pointers.GetValueOrDefault(item.Path), folder, layout, shelves, recalled.GetValueOrDefault(item.Path), usesKnown)));

        return new SessionInventory
        {
            Folder = folder,
            Layout = layout,
            Documents = [.. documents],
            Files = [.. items.OrderBy(f => f.Standing).ThenBy(f => f.ShownPath, StringComparer.Ordinal)],
            Others = others,
            Remarks = [.. remarks],
        };
    }

    private sealed record Pointer(MediaReference Reference, bool Current);

    private static List<InventoryDocument> ReadDocuments(string folder, string? documentName, List<FileInfo> files, List<string> remarks)
    {
        var current = documentName is null ? (SessionFolder.Documents(folder) is [var newest, ..] ? newest : null) : Path.Combine(folder, documentName);
        var read = new List<InventoryDocument>();
        foreach (var file in files.Where(f =>
            f.Extension.Equals(SessionDocument.Extension, StringComparison.OrdinalIgnoreCase) && !Hidden(f.Name)).OrderByDescending(f => f.FullName == current))
        {
            try
            {
                var bytes = File.ReadAllBytes(file.FullName);
                var (document, problem) = TryParse(bytes);
                read.Add(new InventoryDocument(file.FullName, file.FullName == current, problem, ByteIdentity.Of(bytes), document));
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                read.Add(new InventoryDocument(file.FullName, file.FullName == current, "The document cannot be opened: " + e.Message, default, null));
            }
        }
        remarks.AddRange(read.Where(r => r.Problem is not null)
            .Select(r => $"'{Path.GetFileName(r.Path)}': {r.Problem} Until it can be read, no file is called unused."));
        if (!read.Exists(r => r.Current))
        {
            remarks.Add(documentName is null
                ? "The folder holds no session document that can be read, so nothing tells which files are in use."
                : $"The session document '{documentName}' is not in the folder.");
        }
        foreach (var (schema, count) in read.Find(r => r.Current)?.Document?.UnfollowedReferences ?? new Dictionary<string, int>())
        {
            remarks.Add($"{count} media references of the kind {schema} are kept, but cannot be followed.");
        }
        return read;
    }

    private static (SessionDocument? Document, string? Problem) TryParse(byte[] bytes)
    {
        try
        {
            return (SessionDocument.Parse(bytes), null);
        }
        catch (UnreadableDocumentException e)
        {
            return (null, e.Message);
        }
    }

    /// <summary>All pointers of all documents by the path that they mean.</summary>
    private static Dictionary<string, List<Pointer>> Pointers(List<InventoryDocument> documents, IReadOnlyList<Shelf> shelves, string folder)
    {
        var pointers = new Dictionary<string, List<Pointer>>(StringComparer.Ordinal);
        foreach (var entry in documents)
        {
            foreach (var reference in entry.Document?.References ?? [])
            {
                var path = ReferencedPath.Of(reference.TargetUrl, entry, folder, shelves);
                if (!pointers.TryGetValue(path, out var list))
                {
                    pointers[path] = list = [];
                }
                list.Add(new Pointer(reference, entry.Current));
            }
        }
        return pointers;
    }

    private InventoryFile Describe(
        string path, FileInfo? file, List<Pointer>? pointers, string folder, SessionLayout layout, IReadOnlyList<Shelf> shelves, KnownFile? recalled, bool usesKnown)
    {
        var shelf = path.StartsWith('/') ? Shelf.Holding(shelves, path) : null;
        file ??= path.StartsWith('/') ? new FileInfo(path) : null;
        var there = file is not null && FileStat.Of(path) is { IsRegular: true };
        var inside = ShelfPath.IsWithin(path, folder);
        var remarks = new List<string>();
        if (there && file!.LinkTarget is not null)
        {
            var real = ShelfPath.Real(path);
            file = new FileInfo(real);
            inside = inside && ShelfPath.IsWithin(real, ShelfPath.Real(folder));
            remarks.Add($"This is a link to {real}, not the file itself.");
        }
        var (header, problem) = there ? headers.Read(path, file!.Length, file.LastWriteTimeUtc) : (null, null);
        var current = pointers?.Where(p => p.Current && p.Reference.Placed).Select(p => p.Reference).ToList() ?? [];
        remarks.AddRange(header?.Remarks ?? []);
        if (PortableName.Problems(Path.GetFileName(path)) is [var nameProblem, ..])
        {
            remarks.Add(nameProblem);
        }
        return new InventoryFile
        {
            Path = path,
            Standing = Stand(there, inside, shelf),
            Use = Use(path, pointers, current.Count, folder, layout, usesKnown),
            ShelfId = shelf?.Id,
            ShelfName = shelf?.Name,
            ShownPath = ShelfPath.IsWithin(path, folder) ? Path.GetRelativePath(folder, path) : shelf?.Relative(path) ?? path,
            BelongsInside = ShelfPath.IsWithin(path, folder),
            PlacedTimes = current.Count,
            Bytes = there ? file!.Length : 0,
            ChangedUtc = there ? file!.LastWriteTimeUtc : null,
            Header = header,
            Recalled = there ? null : recalled,
            Problem = problem,
            Used = there ? UsedOf(current, header?.SampleRate, header?.LengthSamples) : UsedOf(current, recalled?.SampleRate, recalled?.LengthSamples),
            Tracks = [.. current.Select(r => r.Track).OfType<string>().Distinct()],
            TargetUrls = [.. pointers?.Select(p => p.Reference.TargetUrl).Distinct() ?? []],
            ListedTake = pointers?.Where(p => p.Current).Select(p => p.Reference.Take).FirstOrDefault(t => t is not null),
            Remarks = [.. remarks],
        };
    }

    private static ImmutableArray<SampleRange> UsedOf(List<MediaReference> placed, int? rate, long? length) => rate is { } r && length is { } l
        ? [.. SampleRange.Union(placed.Select(p => SampleRange.Of(p.Source, p.AvailableStart, r, l)))]
        : [];

    /// <summary>What is known of files whose shelf is away, by absolute path.</summary>
    private Dictionary<string, KnownFile> Recall(IEnumerable<string> paths, IReadOnlyList<Shelf> shelves)
    {
        var known = new Dictionary<string, KnownFile>(StringComparer.Ordinal);
        if (memory is null || !shelves.Any(s => !s.IsConnected))
        {
            return known;
        }
        foreach (var group in paths.Where(p => p.StartsWith('/')).GroupBy(p => Shelf.Holding(shelves, p)).Where(g => g.Key is { IsConnected: false }))
        {
            var relative = group.ToDictionary(group.Key!.Relative, StringComparer.Ordinal);
            foreach (var (path, file) in memory.Recall(group.Key.Id, relative.Keys))
            {
                known[relative[path]] = file;
            }
        }
        return known;
    }

    private static Standing Stand(bool there, bool inside, Shelf? shelf)
    {
        if (there)
        {
            return inside ? Standing.Inside : Standing.Outside;
        }
        return shelf is { IsConnected: false } ? Standing.Away : Standing.Missing;
    }

    private static FileUse Use(string path, List<Pointer>? pointers, int placed, string folder, SessionLayout layout, bool usesKnown)
    {
        if (placed > 0)
        {
            return FileUse.Placed;
        }
        if (pointers?.Exists(p => p.Current) ?? false)
        {
            return FileUse.Listed;
        }
        if (pointers is not null)
        {
            return FileUse.OlderOnly;
        }
        if (InFolder(path, folder, layout.Bounces))
        {
            return FileUse.Bounce;
        }
        return usesKnown ? FileUse.Stray : FileUse.Unknown;
    }

    private static bool InFolder(string path, string folder, string sub) => ShelfPath.IsWithin(path, Path.Combine(folder, sub));

    private static bool Hidden(string name) => name.StartsWith('.');
}
