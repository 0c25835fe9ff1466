using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Names;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.SetUp;

/// <summary>How far a search for sessions is.</summary>
/// <param name="Looked">Folders that were looked into.</param>
/// <param name="Done">Folders that look like sessions of which the inventory was taken.</param>
/// <param name="ToDo">All that look so; 0 until all folders were looked into.</param>
/// <param name="Current">Absolute path of the folder at hand.</param>
public readonly record struct SessionSearchProgress(int Looked, int Done, int ToDo, string Current);

/// <summary>
/// Finds the folders on a shelf that look like sessions: a session document stands at the top, or a document of any program that names
/// media in the folder. Looking changes nothing.
/// </summary>
/// <param name="inventories">Takes the inventory of each.</param>
/// <param name="shelves">All known shelves, connected or away.</param>
/// <param name="leftOut">Absolute paths of folders that are not gone into: other shelves.</param>
public sealed class SessionSearch(InventoryReader inventories, IReadOnlyList<Shelf> shelves, IReadOnlySet<string> leftOut)
{
    // Two folders at once are as much as a drive takes.
    private const int AtOnce = 2;

    // A folder of ten thousand files of an unknown kind holds pictures, or parts of a program; of its own kind of document a session has few.
    private const int MostOfAKind = 8;
    private const int MostDocuments = 32;
    private const long MostBytes = 256L * 1024 * 1024;

    // Common practice: so the folders in a session are called.
    private static readonly HashSet<string> Parts = new(
        [
            "Audio", "Audio files", "Bounces", "Clips", "Drums", "Exports", "Freeze", "Imports", "Impulse responses", "Instruments", "Media", "MIDI", "Mixes", "Presets", "Recorded", "Recordings", "Renders", "Samples",
            "Sounds", "Stems", "Takes", "Video", "Voice", "Waveforms",
        ],
        StringComparer.OrdinalIgnoreCase);

    private readonly EnumerationOptions _here = new() { IgnoreInaccessible = true, AttributesToSkip = FileAttributes.Hidden | FileAttributes.System | FileAttributes.ReparsePoint };
    private readonly EnumerationOptions _below = new() { IgnoreInaccessible = true, AttributesToSkip = FileAttributes.Hidden | FileAttributes.System | FileAttributes.ReparsePoint, RecurseSubdirectories = true };

    private int _looked;

    /// <summary>A folder that looks like a session.</summary>
    /// <param name="Folder">Absolute path.</param>
    /// <param name="Media">Media files in it and below.</param>
    /// <param name="IsRead">True where it has a session document that can be read.</param>
    /// <param name="Below">What looks like sessions in it: these are meant where it turns out to be none itself.</param>
    private sealed record Candidate(string Folder, int Media, bool IsRead, IReadOnlyList<Candidate> Below);

    /// <summary>What lies in a folder and below.</summary>
    private readonly record struct Branch(List<Candidate> Sessions, int Media);

    /// <summary>Looks through a shelf.</summary>
    /// <param name="root">Absolute path of its top folder, which is no session itself.</param>
    /// <param name="progress">Told after each folder, by several threads.</param>
    /// <param name="found">Told of each session as soon as it is known, by several threads.</param>
    /// <param name="cancel">Stops between two folders.</param>
    /// <exception cref="DirectoryNotFoundException">The shelf is not there.</exception>
    /// <exception cref="OperationCanceledException">It was stopped.</exception>
    public void Look(string root, Action<SessionSearchProgress> progress, Action<FoundSession> found, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(progress);
        ArgumentNullException.ThrowIfNull(found);
        _looked = 0;
        RequireThere(root);
        var folders = Within(root, isRoot: true, progress, cancel).Sessions;
        var done = 0;
        Parallel.ForEach(folders, new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = cancel }, folder =>
        {
            progress(new SessionSearchProgress(_looked, Volatile.Read(ref done), folders.Count, folder.Folder));
            Judge(folder, found, cancel);
            Interlocked.Increment(ref done);
        });
        RequireThere(root);
    }

    /// <summary>A drive that left meanwhile holds no session, and that says nothing of it.</summary>
    private static void RequireThere(string root)
    {
        if (!Directory.Exists(root))
        {
            throw new DirectoryNotFoundException(root);
        }
    }

    private void Judge(Candidate candidate, Action<FoundSession> found, CancellationToken cancel)
    {
        if (At(candidate.Folder, cancel) is { } session)
        {
            found(session);
            return;
        }
        foreach (var below in candidate.Below)
        {
            Judge(below, found, cancel);
        }
    }

    private FoundSession? At(string folder, CancellationToken cancel)
    {
        try
        {
            return FoundSession.Of(inventories.Read(folder, null, shelves, cancel));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException && FaultException.Of(e, folder) is not null)
        {
            return FoundSession.Unreadable(folder, FaultException.Of(e, folder)!);
        }
    }

    private Branch Within(string folder, bool isRoot, Action<SessionSearchProgress> progress, CancellationToken cancel)
    {
        cancel.ThrowIfCancellationRequested();
        progress(new SessionSearchProgress(++_looked, 0, 0, folder));
        if (SessionFolder.HoldsKeptStates(folder) || (!isRoot && leftOut.Contains(folder)) || Path.GetFileName(folder) == VaultNames.FolderName)
        {
            return new Branch([], 0);
        }
        var (sessions, media) = (new List<Candidate>(), 0);
        foreach (var sub in SubFolders(folder))
        {
            var branch = Within(sub, isRoot: false, progress, cancel);
            sessions.AddRange(branch.Sessions);
            media += branch.Media;
        }
        var files = isRoot ? [] : Files(folder);
        media += files.Count(f => MediaFiles.KindOf(f) is not null);
        if (isRoot)
        {
            return new Branch(sessions, media);
        }
        if (SessionFolder.HoldsDocument(folder))
        {
            // Older versions and presets below are its own; a session with sound of its own is another, as where a document strayed into a place of sessions.
            return new Branch([new Candidate(folder, media, true, []), .. sessions.Where(s => s is { IsRead: true, Media: > 0 })], media);
        }
        if (media == 0 || sessions.Exists(s => s.IsRead) || HoldsSessions(folder, sessions, media) || !NamesMedia(folder, files, cancel))
        {
            return new Branch(sessions, media);
        }
        // What programs left below, as presets with a sound beside, is part of it.
        return new Branch([new Candidate(folder, media, false, sessions)], media);
    }

    /// <summary>
    /// True for a place of sessions: two or more lie in it, and most of its media in them. A list of all of them beside does not make it one
    /// session. What lies in a folder that is called as parts of a session are is a part, whatever stands beside its sound.
    /// </summary>
    private static bool HoldsSessions(string folder, List<Candidate> below, int media)
    {
        var own = below.Where(b => !Path.GetRelativePath(folder, b.Folder).Split('/').Any(Parts.Contains)).ToList();
        return own.Count > 1 && own.Sum(b => b.Media) * 2 > media;
    }

    private IEnumerable<string> SubFolders(string folder) =>
        Listed(() => Directory.GetDirectories(folder, "*", _here)).Where(d => !Litter.IsFolder(Path.GetFileName(d)));

    private string[] Files(string folder) => Listed(() => Directory.GetFiles(folder, "*", _here));

    private static string[] Listed(Func<string[]> list)
    {
        try
        {
            return list();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // One that went meanwhile, or may not be opened: nothing is found in it, and the scan tells of it.
            return [];
        }
    }

    /// <summary>True where a document at the top of a folder names a media file that lies in it. The inventory judges closer what else there is.</summary>
    private bool NamesMedia(string folder, string[] files, CancellationToken cancel)
    {
        var kinds = inventories.Kinds;
        // The rarest kind first: of caches and pictures there are many.
        var documents = files.Select(f => new FileInfo(f)).Where(f => f is { Exists: true, Length: <= NameFinder.MostBytes } && kinds.MayBeADocument(f.FullName, f.Length))
            .GroupBy(f => f.Extension, StringComparer.OrdinalIgnoreCase).OrderBy(g => g.Count()).SelectMany(g => g.OrderByDescending(f => f.LastWriteTimeUtc).Take(MostOfAKind)).Take(MostDocuments);
        var (named, read) = (new List<FoundNames>(), 0L);
        foreach (var document in documents)
        {
            if ((read += document.Length) > MostBytes)
            {
                break;
            }
            cancel.ThrowIfCancellationRequested();
            if (Found(document.FullName) is { Names.IsEmpty: false } found)
            {
                named.Add(found);
            }
        }
        if (named.Count == 0)
        {
            return false;
        }
        var media = new FolderNames(Directory.EnumerateFiles(folder, "*", _below).Where(f => MediaFiles.KindOf(f) is not null));
        var meanings = new NameMeanings(folder, media, SessionLayout.Default.Audio, File.Exists, shelves);
        return named.Exists(n => meanings.Of(n.Names, folder).Any(m => media.Holds(m.Path)));
    }

    private static FoundNames? Found(string path)
    {
        try
        {
            return NameFinder.Find(ReadableFile.ReadAll(path, NameFinder.MostBytes));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // What cannot be read names nothing here.
            return null;
        }
    }
}
