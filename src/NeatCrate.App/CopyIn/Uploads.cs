using System.Collections.Concurrent;
using NeatCrate.App.Ground;
using NeatCrate.App.Words;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;

namespace NeatCrate.App.CopyIn;

/// <summary>A file that was dropped on a page and waits to be taken into a session.</summary>
/// <param name="Name">The name that it had on the user's computer, made portable.</param>
/// <param name="Problem">Why its header cannot be read.</param>
public sealed record UploadView(Guid Id, string Name, long Bytes, string? Container, int? SampleRate, int? Channels, int? BitDepth, double? Seconds, string? Problem);

/// <summary>
/// Files from the user's own computer, kept beside the database from when they arrive. They are taken into a session by a
/// plan, as files of a shelf are, and stay here for a while, so that the plan can be undone without losing them.
/// </summary>
public sealed class Uploads(StoreFiles files, TimeProvider time)
{
    private const long SpaceMargin = 50_000_000;

    private static readonly TimeSpan KeptFor = TimeSpan.FromDays(7);

    private readonly ConcurrentDictionary<Guid, UploadView> _known = new();

    private string Folder => Path.Combine(files.Folder, "uploads");

    /// <summary>Takes in a file.</summary>
    /// <param name="name">Its name, which is all of its path that counts.</param>
    /// <param name="bytes">Its size as the page tells it; null where it does not.</param>
    /// <param name="content">Its bytes.</param>
    /// <param name="cancel">Ends it; nothing is left behind then.</param>
    /// <exception cref="IOException">It is no media file, there is no room for it, or it did not arrive whole.</exception>
    public async Task<UploadView> Receive(string name, long? bytes, Stream content, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(name);
        ArgumentNullException.ThrowIfNull(content);
        var portable = PortableName.Suggest(Path.GetFileName(name.Replace('\\', '/')));
        if (MediaFiles.KindOf(portable) is null)
        {
            throw new PlanRefusedException(new Fault(FaultCode.NotMedia) { Name = portable });
        }
        var (id, free) = (Guid.NewGuid(), new DriveInfo(files.Folder).AvailableFreeSpace);
        if (bytes + SpaceMargin > free)
        {
            throw new PlanRefusedException(new Fault(FaultCode.NotEnoughSpace) { Name = portable, Bytes = bytes, Free = free });
        }
        var folder = Directory.CreateDirectory(Path.Combine(Folder, $"{id:N}")).FullName;
        var path = Path.Combine(folder, portable);
        try
        {
            await using (var stream = new FileStream(path, FileMode.CreateNew, FileAccess.Write))
            {
                await content.CopyToAsync(stream, cancel);
            }
            var length = new FileInfo(path).Length;
            if (bytes is { } told && told != length)
            {
                throw new FaultException(new Fault(FaultCode.UploadCutShort) { Name = portable, Bytes = length, Expected = told });
            }
            return _known[id] = View(id, portable, path);
        }
        catch
        {
            Directory.Delete(folder, recursive: true);
            throw;
        }
    }

    /// <summary>Absolute path of a file that arrived.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public (string Path, string Name) Get(Guid id) => _known.TryGetValue(id, out var upload)
        ? (Path.Combine(Folder, $"{id:N}", upload.Name), upload.Name)
        : throw new NotKnownException("This file is no longer at hand. Drop it once more.");

    /// <summary>Removes what arrived long ago: folders that bear the identity of an upload, with the one file that we put there, and nothing else.</summary>
    /// <returns>What could not be removed.</returns>
    public IReadOnlyList<string> RemoveOld()
    {
        var left = new List<string>();
        foreach (var old in Directory.Exists(Folder) ? Directory.EnumerateDirectories(Folder) : [])
        {
            try
            {
                if (IsUpload(old) && time.GetUtcNow() - Directory.GetLastWriteTimeUtc(old) > KeptFor)
                {
                    foreach (var file in Directory.EnumerateFiles(old))
                    {
                        File.Delete(file);
                    }
                    Directory.Delete(old);
                }
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // One that cannot be removed must not keep the application from starting.
                left.Add(old);
            }
        }
        return left;
    }

    private static bool IsUpload(string folder) =>
        Guid.TryParseExact(Path.GetFileName(folder), "N", out _) && new DirectoryInfo(folder).LinkTarget is null
        && Directory.GetFileSystemEntries(folder) is { Length: <= 1 } entries && entries.All(File.Exists);

    private static UploadView View(Guid id, string name, string path)
    {
        MediaHeader? header = null;
        string? problem = null;
        try
        {
            header = MediaFiles.KindOf(name) == MediaKind.Audio ? MediaHeaderReader.ReadFile(path) : null;
        }
        catch (UnreadableMediaException e)
        {
            problem = Sentences.Of(e.Fault);
        }
        return new UploadView(
            id, name, new FileInfo(path).Length, header?.Container, header?.SampleRate, header?.Channels, header?.BitsPerSample, header?.LengthSeconds, problem);
    }
}
