namespace NeatCrate.Core.Sessions;

/// <summary>A session folder on disk: what is in it, found by looking, never by remembering.</summary>
public static class SessionFolder
{
    /// <summary>Documents that stand at the top level, the newest first (by time of change, then by name).</summary>
    /// <exception cref="IOException">The folder cannot be read.</exception>
    public static IReadOnlyList<string> Documents(string folder) =>
        [.. new DirectoryInfo(folder).EnumerateFiles()
            .Where(f => f.Extension.Equals(SessionDocument.Extension, StringComparison.OrdinalIgnoreCase) && f.Name[0] != '.')
            .OrderByDescending(f => f.LastWriteTimeUtc).ThenByDescending(f => f.Name, StringComparer.Ordinal)
            .Select(f => f.FullName)];

    /// <summary>
    /// Every file in the folder and below, not following links; folders that cannot be opened are told to
    /// <paramref name="unreadable"/> and stop nothing.
    /// </summary>
    public static IEnumerable<FileInfo> Files(string folder, Action<string, Exception>? unreadable = null)
    {
        var waiting = new Stack<DirectoryInfo>();
        waiting.Push(new DirectoryInfo(folder));
        while (waiting.TryPop(out var directory))
        {
            FileSystemInfo[] entries;
            try
            {
                entries = directory.GetFileSystemInfos();
            }
            catch (Exception e) when (e is UnauthorizedAccessException or IOException)
            {
                unreadable?.Invoke(directory.FullName, e);
                continue;
            }
            foreach (var entry in entries)
            {
                switch (entry)
                {
                    case DirectoryInfo sub when sub.LinkTarget is null:
                        waiting.Push(sub);
                        break;
                    case FileInfo file:
                        yield return file;
                        break;
                }
            }
        }
    }
}
