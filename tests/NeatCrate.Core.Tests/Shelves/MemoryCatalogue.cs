using System.Collections.Concurrent;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Tests.Shelves;

/// <summary>A catalogue in memory that does what is asked of it, and remembers what that was.</summary>
internal sealed class MemoryCatalogue : ICatalogueScan
{
    private readonly ConcurrentDictionary<string, (UInt128 Fingerprint, Fault? Problem, ConcurrentDictionary<string, ScannedFile> Files)> _folders = new(StringComparer.Ordinal);
    private readonly ConcurrentBag<string> _read = [];

    public IReadOnlyDictionary<string, UInt128> Folders => _folders.ToDictionary(f => f.Key, f => f.Value.Fingerprint, StringComparer.Ordinal);

    /// <summary>All files by their path from the top folder.</summary>
    public IReadOnlyDictionary<string, ScannedFile> All => _folders
        .SelectMany(d => d.Value.Files.Values.Select(f => (Path: Path.Combine(d.Key, f.File.Name), File: f)))
        .ToDictionary(f => f.Path, f => f.File, StringComparer.Ordinal);

    /// <summary>Reasons by folder.</summary>
    public IReadOnlyDictionary<string, Fault> Problems =>
        _folders.Where(f => f.Value.Problem is not null).ToDictionary(f => f.Key, f => f.Value.Problem!, StringComparer.Ordinal);

    /// <summary>What was read since this was asked last.</summary>
    public string[] TakeRead()
    {
        string[] read = [.. _read.Order(StringComparer.Ordinal)];
        _read.Clear();
        return read;
    }

    public IReadOnlyDictionary<string, FolderFile> Files(string folder) => _folders[folder].Files.ToDictionary(f => f.Key, f => f.Value.File, StringComparer.Ordinal);

    public void Put(ScannedFolder folder)
    {
        var files = _folders.TryGetValue(folder.Path, out var known) ? known.Files : new ConcurrentDictionary<string, ScannedFile>(StringComparer.Ordinal);
        foreach (var gone in folder.Gone)
        {
            Assert.True(files.TryRemove(gone, out _), $"{gone} was never there");
        }
        foreach (var file in folder.Changed)
        {
            files[file.File.Name] = file;
            _read.Add(Path.Combine(folder.Path, file.File.Name));
        }
        foreach (var file in folder.Renumbered)
        {
            files[file.Name] = files[file.Name] with { File = file };
        }
        _folders[folder.Path] = (folder.Fingerprint, folder.Problem, files);
    }

    public void Forget(IReadOnlyCollection<string> folders)
    {
        foreach (var folder in folders)
        {
            Assert.True(_folders.TryRemove(folder, out _), $"{folder} was never there");
        }
    }
}
