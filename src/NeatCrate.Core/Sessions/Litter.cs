namespace NeatCrate.Core.Sessions;

/// <summary>What operating systems and other programs leave behind in folders: it belongs to no session (common practice).</summary>
public static class Litter
{
    private static readonly HashSet<string> FolderNames = new(
        [".git", ".svn", ".hg", ".Trashes", ".Trash", "$RECYCLE.BIN", "RECYCLER", "System Volume Information", "@eaDir", "#recycle", "@Recycle", ".Spotlight-V100", ".fseventsd", ".TemporaryItems",
            ".DocumentRevisions-V100", ".AppleDouble", "lost+found"],
        StringComparer.OrdinalIgnoreCase);

    private static readonly HashSet<string> FileNames = new([".DS_Store", "Thumbs.db", "ehthumbs.db", "desktop.ini", ".localized", ".directory"], StringComparer.OrdinalIgnoreCase);

    /// <summary>True for a folder that nobody looks into: a waste bin, a version store, an index.</summary>
    public static bool IsFolder(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return FolderNames.Contains(name) || name.StartsWith(".Trash-", StringComparison.Ordinal);
    }

    /// <summary>True for a file that a system leaves behind.</summary>
    public static bool IsFile(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return FileNames.Contains(name) || name.StartsWith("._", StringComparison.Ordinal);
    }
}
