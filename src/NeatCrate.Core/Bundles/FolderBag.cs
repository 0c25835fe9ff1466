using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Bundles;

/// <summary>A bag that is a folder. Each file is flushed, read back and compared as it comes.</summary>
/// <param name="context">The step.</param>
/// <param name="folder">Absolute path of the bag's folder, which is there and empty.</param>
internal sealed class FolderBag(StepContext context, string folder) : IBagTarget
{
    private readonly HashSet<string> _made = new(StringComparer.Ordinal) { folder };
    private readonly List<(string Path, ByteIdentity Identity)> _files = [];

    /// <summary>What all of it is.</summary>
    public ByteIdentity Identity => FolderIdentity.Of(_files, _made.Where(m => m != folder).Select(m => Path.GetRelativePath(folder, m)));

    public void AddFile(string path, KeptMarks marks, bool compress, long mostBytes, Action<Stream> write)
    {
        var place = Path.Combine(folder, path);
        MakeFolder(Path.GetDirectoryName(place)!);
        using var file = new StagedFile(context, place, 0);
        write(file);
        _files.Add((path, file.Finish(marks)));
    }

    public void AddFolder(string path, DateTime modifiedUtc) => MakeFolder(Path.Combine(folder, path));

    /// <summary>All names are safe against a power cut before the folder gets its own.</summary>
    public void Finish()
    {
        foreach (var made in _made)
        {
            context.Files.FlushFolder(made);
        }
    }

    private void MakeFolder(string path)
    {
        if (_made.Add(path))
        {
            MakeFolder(Path.GetDirectoryName(path)!);
            context.Files.MakeFolder(path);
        }
    }
}
