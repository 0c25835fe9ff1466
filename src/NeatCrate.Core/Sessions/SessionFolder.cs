using NeatCrate.Core.Media;

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

    /// <summary>True when a document stands at the top level. A folder that cannot be opened shows none, and says so when it is.</summary>
    public static bool HoldsDocument(string folder)
    {
        try
        {
            return Documents(folder).Count > 0;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    /// <summary>
    /// Every file in the folder and below, not following links. Folders that cannot be opened, and what is no file that
    /// can be read (a pipe, a device, a name that is no valid text, a link to nothing), are told to
    /// <paramref name="unreadable"/> with the reason and stop nothing.
    /// </summary>
    public static IEnumerable<FileInfo> Files(string folder, Action<string, string>? unreadable = null)
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
                unreadable?.Invoke(directory.FullName, e.Message);
                continue;
            }
            foreach (var entry in entries)
            {
                switch (entry)
                {
                    case DirectoryInfo sub when sub.LinkTarget is null:
                        waiting.Push(sub);
                        break;
                    case FileInfo file when FileStat.Of(file.FullName) is { IsRegular: true }:
                        yield return file;
                        break;
                    case FileInfo file:
                        unreadable?.Invoke(file.FullName, WhyNot(file));
                        break;
                }
            }
        }
    }

    private static string WhyNot(FileInfo file) =>
        file.LinkTarget is { } target ? $"it is a link to '{target}', which is not there."
        : file.Name.Contains('\uFFFD', StringComparison.Ordinal) ? "its name holds bytes that are no text. Rename it to have it looked after."
        : "it is a pipe or a device, or it has just gone.";
}
