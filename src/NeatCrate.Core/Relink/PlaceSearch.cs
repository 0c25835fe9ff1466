using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Relink;

/// <summary>What a search of a place does at the moment.</summary>
public enum SearchPhase
{
    /// <summary>Looks through the folders, by names and sizes.</summary>
    Names,

    /// <summary>Reads headers.</summary>
    Headers,

    /// <summary>Reads whole files of which only the sound can tell.</summary>
    Content,
}

/// <summary>How far a search is.</summary>
/// <param name="Phase">What it does.</param>
/// <param name="Folders">Folders that were looked through.</param>
/// <param name="Files">Files that were looked at.</param>
/// <param name="Done">Of what this phase reads, so many are done.</param>
/// <param name="ToDo">So many there are; 0 while the folders are looked through.</param>
/// <param name="Share">While the folders are looked through: how much of the place is done, from 0 to 1, as far as the folders that were opened tell.</param>
/// <param name="Current">The folder or file at hand.</param>
public readonly record struct SearchProgress(SearchPhase Phase, int Folders, int Files, int Done, int ToDo, double Share, string Current);

/// <summary>What a search of a place came to.</summary>
/// <param name="Folders">Folders that were looked through.</param>
/// <param name="Files">Files in them.</param>
/// <param name="Unreadable">Folders that could not be opened.</param>
public sealed record SearchResult(int Folders, int Files, int Unreadable);

/// <summary>
/// Looks for lost files in a place that no shelf is needed for: names and sizes first, then the headers of what may be one, then
/// headers of the rest for files of which no name was found, and whole files last, where an identity is known to compare with.
/// What is found is told at once. Reading changes nothing; links are not followed.
/// </summary>
public sealed class PlaceSearch
{
    private readonly IReadOnlyList<LostFile> _lost;
    private readonly IIdentities _identities;
    private readonly Action<FoundFile> _found;
    private readonly Action<SearchProgress> _progress;
    private readonly CancellationToken _cancel;
    private readonly HashSet<string> _names;
    private readonly HashSet<long> _sizes;
    private int _folders;
    private int _files;
    private int _unreadable;

    private PlaceSearch(IReadOnlyList<LostFile> lost, IIdentities identities, Action<FoundFile> found, Action<SearchProgress> progress, CancellationToken cancel)
    {
        (_lost, _identities, _found, _progress, _cancel) = (lost, identities, found, progress, cancel);
        _names = [.. lost.SelectMany(l => new[] { l.At.Loose, l.At.WithoutNumber })];
        _sizes = [.. lost.Select(l => l.Known?.Bytes).OfType<long>().Where(b => b > 0)];
    }

    private readonly record struct Seen(string Path, long Bytes, DateTime ModifiedUtc);

    /// <summary>Searches.</summary>
    /// <param name="lost">The lost files.</param>
    /// <param name="root">Absolute path of the folder to look through, with all below it.</param>
    /// <param name="identities">Reads identities.</param>
    /// <param name="found">Told of each file that may be a lost one; of one whose identities were read afterwards once more.</param>
    /// <param name="progress">Told how far it is.</param>
    /// <param name="cancel">Ends the search between two files; what was told stays.</param>
    /// <exception cref="FaultException">The place cannot be opened.</exception>
    public static SearchResult Run(
        IReadOnlyList<LostFile> lost, string root, IIdentities identities, Action<FoundFile> found, Action<SearchProgress> progress, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(lost);
        ArgumentNullException.ThrowIfNull(identities);
        ArgumentNullException.ThrowIfNull(found);
        ArgumentNullException.ThrowIfNull(progress);
        return new PlaceSearch(lost, identities, found, progress, cancel).Run(root);
    }

    private SearchResult Run(string root)
    {
        var (likely, rest) = Walk(root);
        var told = new List<FoundFile>();
        foreach (var (n, file) in likely.Index())
        {
            Tell(SearchPhase.Headers, n, likely.Count, file.Path);
            told.Add(Describe(file));
            _found(told[^1]);
        }
        // Of what has no name here any more a length may tell.
        var nameless = _lost.Where(l => !told.Exists(t => t.At.Compare(l.At) != NameLikeness.Other)).ToList();
        var lengths = nameless.Select(l => l.Known is { LengthSamples: { } length, SampleRate: { } rate } ? (length, rate) : default).Where(l => l.length > 0).ToHashSet();
        foreach (var (n, file) in lengths.Count == 0 ? [] : rest.Index())
        {
            Tell(SearchPhase.Headers, likely.Count + n, likely.Count + rest.Count, file.Path);
            var described = Describe(file);
            if (described.Known is { LengthSamples: { } length, SampleRate: { } rate } && lengths.Contains((length, rate)))
            {
                told.Add(described);
                _found(described);
            }
        }
        ReadContent(told);
        return new SearchResult(_folders, _files, _unreadable);
    }

    private (List<Seen> Likely, List<Seen> Others) Walk(string root)
    {
        var (likely, rest) = (new List<Seen>(), new List<Seen>());
        var visited = new HashSet<(ulong, ulong)>();
        // Nobody knows how many folders there are. Each is taken for as much of its parent as the others in it, and as what stands in that itself.
        var done = 0.0;
        var waiting = new Stack<(string Folder, double Share)>([(root, 1)]);
        while (waiting.TryPop(out var next))
        {
            var (folder, share) = next;
            _cancel.ThrowIfCancellationRequested();
            FolderContent content;
            try
            {
                content = FolderContent.Read(folder, followLink: folder == root);
            }
            catch (FaultException) when (folder != root)
            {
                // Said by its number: what could not be looked into may hold what was not found.
                _unreadable++;
                done += share;
                continue;
            }
            if (!visited.Add((content.Device, content.Inode)))
            {
                done += share;
                continue;
            }
            var each = share / (content.Folders.Count + 1);
            done += each;
            _folders++;
            foreach (var file in content.Files.Where(f => MediaFiles.KindOf(f.Name) is not null))
            {
                _files++;
                var seen = new Seen(Path.Combine(folder, file.Name), file.Bytes, file.ModifiedUtc);
                (IsLikely(file.Name, file.Bytes) ? likely : rest).Add(seen);
            }
            foreach (var name in content.Folders)
            {
                waiting.Push((Path.Combine(folder, name), each));
            }
            Tell(SearchPhase.Names, 0, 0, folder, Math.Min(1, done));
        }
        return (likely, rest);
    }

    private bool IsLikely(string name, long bytes) => _sizes.Contains(bytes) || _names.Contains(LooseName.Of(name)) || _names.Contains(LooseName.WithoutNumber(name));

    private void ReadContent(List<FoundFile> told)
    {
        var left = _lost.Where(l => l.Noted.Any).Select(l => Matcher.Of(l, told)).Where(m => m.Best is { IsCertain: false })
            .SelectMany(m => m.All.Where(a => a.IsWorthReading(m.Lost)).Select(a => a.File)).DistinctBy(f => f.Path).ToList();
        foreach (var (n, file) in left.Index())
        {
            Tell(SearchPhase.Content, n, left.Count, file.Path);
            if (Noted(file) is { } noted)
            {
                _found(file with { Noted = noted });
            }
        }
    }

    private NotedIdentities? Noted(FoundFile file)
    {
        try
        {
            return Read(file.Path, _identities, _cancel);
        }
        catch (Exception e) when (FaultException.Of(e, file.Path) is not null)
        {
            // It is told with what is known; that its sound cannot be read shows where it is heard.
            return null;
        }
    }

    /// <summary>Reads a file for all that it can be compared by.</summary>
    /// <exception cref="FaultException">It cannot be read.</exception>
    public static NotedIdentities Read(string path, IIdentities identities, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(identities);
        var header = MediaFiles.KindOf(path) == MediaKind.Audio ? MediaHeaderReader.ReadFile(path) : null;
        var known = identities.Identify(path, header, null, cancel);
        var samples = header is null ? null : identities.IdentifySamples(path, header, null, cancel);
        return new NotedIdentities(known.Bytes.Hash, known.Sound, samples, known.IsSilent, null, header?.Broadcast is { } broadcast ? (long)Math.Min(broadcast.TimeReference, long.MaxValue) : null);
    }

    /// <summary>A file of that name that cannot be read is told of, too: it may be what is left of the lost one.</summary>
    private static FoundFile Describe(Seen file) =>
        new(file.Path, KnownFile.Of(file.Bytes, file.ModifiedUtc, HeaderCache.ReadNow(file.Path).Header), NotedIdentities.None, true, false, null);

    private void Tell(SearchPhase phase, int done, int toDo, string current, double share = 1)
    {
        _cancel.ThrowIfCancellationRequested();
        _progress(new SearchProgress(phase, _folders, _files, done, toDo, share, current));
    }
}
