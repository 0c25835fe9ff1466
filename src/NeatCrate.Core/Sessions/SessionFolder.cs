namespace NeatCrate.Core.Sessions;

/// <summary>A file in a session folder.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Facts">What the system knows of it, links followed.</param>
/// <param name="IsLink">True for a link to a file.</param>
public readonly record struct SessionEntry(string Path, FileFacts Facts, bool IsLink)
{
    /// <summary>Its name.</summary>
    public string Name => System.IO.Path.GetFileName(Path);
}

/// <summary>A session folder on disk: what is in it, found by looking, never by remembering.</summary>
public static class SessionFolder
{
    /// <summary>File extension of a session document.</summary>
    public const string DocumentExtension = ".otio";

    /// <summary>
    /// Documents that stand at the top level, the newest first: by the dates in their names where all have one, then the
    /// version, then the last change. Where one has no date, a name's date says less than the last change does.
    /// </summary>
    /// <exception cref="IOException">The folder cannot be read.</exception>
    public static IReadOnlyList<string> Documents(string folder) => Documents(new DirectoryInfo(folder).EnumerateFiles().Where(f => IsDocument(f.Name))
        .Select(f => (f.FullName, Facts: FileFacts.Of(f.FullName))).Where(f => f.Facts is { IsRegular: true }).Select(f => (f.FullName, f.Facts!.Value.ModifiedUtc)));

    /// <summary>The same of documents that were found already, by path and time of the last change.</summary>
    public static IReadOnlyList<string> Documents(IEnumerable<(string Path, DateTime ModifiedUtc)> documents)
    {
        var found = documents.Select(d => (FullName: d.Path, Stem: Path.GetFileNameWithoutExtension(d.Path), Modified: d.ModifiedUtc)).ToList();
        var byName = found.TrueForAll(f => DatedName.HasDate(f.Stem));
        return [.. found.OrderByDescending(f => byName ? DatedName.TimeOf(f.Stem, f.Modified).Date : f.Modified.Date)
            .ThenByDescending(f => byName ? DatedName.TimeOf(f.Stem, f.Modified) : f.Modified)
            .ThenByDescending(f => DatedName.VersionOf(f.Stem)).ThenByDescending(f => f.Modified).ThenByDescending(f => f.Stem, StringComparer.Ordinal)
            .Select(f => f.FullName)];
    }

    /// <summary>True for the name of a session document that we can read.</summary>
    public static bool IsDocument(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return name.Length > 0 && name[0] != '.' && Path.GetExtension(name).Equals(DocumentExtension, StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>
    /// True when a document stands at the top level. A folder that cannot be opened shows none, and says so when it is; one of kept
    /// states is no session, whatever it holds.
    /// </summary>
    public static bool HoldsDocument(string folder)
    {
        try
        {
            return !HoldsKeptStates(folder) && Documents(folder).Count > 0;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    /// <summary>True for a folder of kept states, here or at a second place: what stands in it is no session's document.</summary>
    public static bool HoldsKeptStates(string folder) =>
        Path.GetFileName(folder) == SessionLayout.DocumentBackups || Path.GetFileName(Path.GetDirectoryName(folder)) == SessionLayout.DocumentBackupsElsewhere;

    /// <summary>
    /// Every file in the folder and below, not following links to folders, and not looking into waste bins and the like.
    /// Folders that cannot be opened, and what is no file that can be read (a pipe, a device, a name that is no valid text,
    /// a link to nothing), are told to <paramref name="unreadable"/> and stop nothing.
    /// </summary>
    /// <param name="folder">Absolute path.</param>
    /// <param name="unreadable">Told what cannot be read, and why.</param>
    /// <param name="entered">Told of each folder that was gone into, the top one among them, and whether nothing at all stands in it.</param>
    public static IEnumerable<SessionEntry> Files(string folder, Action<Fault>? unreadable = null, Action<string, bool>? entered = null)
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
                unreadable?.Invoke(new Fault(FaultCode.CannotBeLookedAt) { Path = directory.FullName, Detail = e.Message });
                continue;
            }
            entered?.Invoke(directory.FullName, entries.Length == 0);
            foreach (var entry in entries)
            {
                switch (entry)
                {
                    case DirectoryInfo sub when sub.LinkTarget is { } target:
                        unreadable?.Invoke(new Fault(FaultCode.FolderIsALink) { Path = sub.FullName, Other = target });
                        break;
                    case DirectoryInfo sub when Litter.IsFolder(sub.Name):
                        break;
                    case DirectoryInfo sub:
                        waiting.Push(sub);
                        break;
                    case FileInfo file when FileFacts.Of(file.FullName) is { IsRegular: true } facts:
                        yield return new SessionEntry(file.FullName, facts, file.LinkTarget is not null);
                        break;
                    case FileInfo file:
                        unreadable?.Invoke(WhyNot(file));
                        break;
                }
            }
        }
    }

    private static Fault WhyNot(FileInfo file) =>
        file.LinkTarget is { } target ? new Fault(FaultCode.LinkToNothing) { Path = file.FullName, Other = target }
        : file.Name.Contains('\uFFFD', StringComparison.Ordinal) ? new Fault(FaultCode.NameNotText) { Path = file.FullName }
        : new Fault(FaultCode.NotARegularFile) { Path = file.FullName };
}
