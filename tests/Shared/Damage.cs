namespace NeatCrate.Testing;

/// <summary>What can happen to a file of ours: it is emptied, cut, swapped with its neighbour, made a link or a folder, or removed.</summary>
internal static class Damage
{
    /// <summary>All kinds; what is taken away comes last, since what is put back by hand after that is taken as it is.</summary>
    public static readonly string[] Kinds = ["emptied", "cut", "swapped", "link", "folder", "removed"];

    /// <summary>Does it.</summary>
    /// <param name="path">Absolute path of the file.</param>
    /// <param name="kind">One of <see cref="Kinds"/>.</param>
    /// <param name="outside">The file that a link leads to.</param>
    /// <param name="neighbour">The file that it is swapped with.</param>
    public static void Do(string path, string kind, string outside, string neighbour)
    {
        var bytes = File.ReadAllBytes(path);
        File.SetAttributes(path, FileAttributes.Normal);
        File.Delete(path);
        switch (kind)
        {
            case "emptied":
                File.WriteAllBytes(path, []);
                break;
            case "cut":
                File.WriteAllBytes(path, bytes[..(bytes.Length / 2)]);
                break;
            case "swapped":
                File.Move(neighbour, path);
                File.WriteAllBytes(neighbour, bytes);
                break;
            case "link":
                File.CreateSymbolicLink(path, outside);
                break;
            case "folder":
                File.WriteAllBytes(Path.Combine(Directory.CreateDirectory(path).FullName, "somebody's.txt"), bytes);
                break;
            case "removed":
                break;
            default:
                throw new ArgumentOutOfRangeException(nameof(kind), kind, "There is no such damage.");
        }
    }

    /// <summary>Removes what stands at a path: file, link or folder.</summary>
    public static void RemoveWhatever(string path)
    {
        if (Directory.Exists(path) && new FileInfo(path).LinkTarget is null)
        {
            Directory.Delete(path, recursive: true);
        }
        else
        {
            File.Delete(path);
        }
    }
}
