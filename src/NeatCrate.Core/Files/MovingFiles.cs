namespace NeatCrate.Core.Files;

/// <summary>Moving a file from one folder to another so that a power cut leaves it at least one name.</summary>
internal static class MovingFiles
{
    /// <summary>
    /// Gives a file another name. Between two folders the new name is made and flushed before the old one goes: a file system
    /// that writes one folder before the other would otherwise have a moment in which it has none. A power cut in between
    /// leaves it both names. Where there are no second names, it is renamed, and the new folder is flushed first.
    /// </summary>
    public static void Move(this IDurableFiles files, string path, string freeName)
    {
        var (from, to) = (Path.GetDirectoryName(path)!, Path.GetDirectoryName(freeName)!);
        if (from != to && files.TryLink(path, freeName))
        {
            files.FlushFolder(to);
            files.Remove(path);
        }
        else
        {
            files.RenameToFreeName(path, freeName);
            files.FlushFolder(to);
        }
        if (from != to)
        {
            files.FlushFolder(from);
        }
    }
}
