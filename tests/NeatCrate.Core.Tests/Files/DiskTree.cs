using System.Globalization;

namespace NeatCrate.Core.Tests.Files;

/// <summary>A folder with all that stands in it, hidden files too: names, bytes, times and permissions of files.</summary>
internal static class DiskTree
{
    public static SortedDictionary<string, string> Of(string folder)
    {
        var tree = new SortedDictionary<string, string>(StringComparer.Ordinal);
        foreach (var entry in new DirectoryInfo(folder).EnumerateFileSystemInfos("*", new EnumerationOptions { RecurseSubdirectories = true, AttributesToSkip = FileAttributes.None }))
        {
            tree[Path.GetRelativePath(folder, entry.FullName)] = entry is FileInfo file
                ? string.Create(CultureInfo.InvariantCulture, $"{file.Length} {Convert.ToHexString(System.IO.Hashing.XxHash128.Hash(File.ReadAllBytes(file.FullName)))} {Convert.ToString((int)file.UnixFileMode, 8)} at {file.LastWriteTimeUtc:O}")
                : "folder at ";
        }
        return tree;
    }

    public static void Copy(string from, string to)
    {
        Directory.CreateDirectory(to);
        foreach (var entry in new DirectoryInfo(from).EnumerateFileSystemInfos())
        {
            var target = Path.Combine(to, entry.Name);
            if (entry is FileInfo file)
            {
                File.WriteAllBytes(target, File.ReadAllBytes(file.FullName));
                File.SetUnixFileMode(target, file.UnixFileMode);
                File.SetLastWriteTimeUtc(target, file.LastWriteTimeUtc);
            }
            else
            {
                Copy(entry.FullName, target);
            }
        }
    }

    /// <summary>Makes what stands in a folder what stands in another one; the folder itself stays.</summary>
    public static void Restore(string from, string to)
    {
        Clear(to);
        Copy(from, to);
    }

    public static void Clear(string folder)
    {
        foreach (var entry in new DirectoryInfo(folder).EnumerateFileSystemInfos())
        {
            if (entry is DirectoryInfo sub)
            {
                sub.Delete(true);
            }
            else
            {
                entry.Delete();
            }
        }
    }
}
