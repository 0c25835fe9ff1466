using System.Security.Cryptography;

namespace NeatCrate.Testing;

/// <summary>What stands in a folder and below, to be compared: every folder, every file with its bytes and its time of change.</summary>
internal static class Tree
{
    public static SortedDictionary<string, string> Of(string folder)
    {
        var tree = new SortedDictionary<string, string>(StringComparer.Ordinal);
        foreach (var entry in new DirectoryInfo(folder).EnumerateFileSystemInfos("*", SearchOption.AllDirectories))
        {
            var path = Path.GetRelativePath(folder, entry.FullName);
            if (path.Split('/').Contains("Document backups"))
            {
                // Kept saves come by themselves, a moment after each save.
                continue;
            }
            tree[path] = entry is FileInfo file
                ? $"{file.Length} bytes {Convert.ToHexStringLower(SHA256.HashData(File.ReadAllBytes(file.FullName)))} {file.LastWriteTimeUtc:O}"
                : "folder";
        }
        return tree;
    }

    public static void Copy(string from, string to)
    {
        Directory.CreateDirectory(to);
        foreach (var folder in Directory.EnumerateDirectories(from, "*", SearchOption.AllDirectories))
        {
            Directory.CreateDirectory(Path.Combine(to, Path.GetRelativePath(from, folder)));
        }
        foreach (var file in Directory.EnumerateFiles(from, "*", SearchOption.AllDirectories))
        {
            var target = Path.Combine(to, Path.GetRelativePath(from, file));
            File.Copy(file, target);
            File.SetLastWriteTimeUtc(target, File.GetLastWriteTimeUtc(file));
        }
    }

    /// <summary>Makes a folder what another one is.</summary>
    public static void Restore(string from, string to)
    {
        Directory.Delete(to, recursive: true);
        Copy(from, to);
    }
}
