using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Record;

/// <summary>
/// Watches the media files of one session folder by looking again and again, which works on every drive, a network drive
/// and one that comes and goes included. A look at the folders alone is enough to see that a file appeared; how files
/// grow is looked at as long as something happens.
/// </summary>
public sealed class FolderWatch(string folder)
{
    /// <summary>So long after it last grew, a file still counts as being written.</summary>
    public static readonly TimeSpan GrowingFor = TimeSpan.FromSeconds(3);

    // Some file systems keep times to the second or two only, so a change may not show in a folder's time.
    private static readonly TimeSpan EverySoOften = TimeSpan.FromSeconds(10);

    private readonly Dictionary<string, Seen> _files = new(StringComparer.Ordinal);
    private readonly Dictionary<string, DateTime> _folders = new(StringComparer.Ordinal);
    private DateTime? _lookedAt;
    private DateTime? _newsAt;

    private readonly record struct Seen(long Bytes, DateTime Changed, DateTime? GrewAt);

    /// <summary>Absolute path of the session folder.</summary>
    public string Folder => folder;

    /// <summary>Files that something writes at this moment.</summary>
    public IReadOnlyCollection<string> Growing => [.. _files.Where(f => f.Value.GrewAt is not null).Select(f => f.Key)];

    /// <summary>Looks at the folder.</summary>
    /// <param name="nowUtc">The time.</param>
    /// <returns>True when a media file appeared, grew, came to rest, changed or went since the last look.</returns>
    public bool Look(DateTime nowUtc)
    {
        if (!Directory.Exists(folder))
        {
            var knew = _files.Count > 0;
            _files.Clear();
            _folders.Clear();
            _lookedAt = null;
            return knew;
        }
        var first = _lookedAt is null;
        if (!first && !IsLively(nowUtc) && nowUtc - _lookedAt < EverySoOften && !FoldersChanged())
        {
            return false;
        }
        _lookedAt = nowUtc;
        // Taken before the files are: what appears in between shows as a change at the next look.
        var times = _folders.Keys.ToDictionary(f => f, Directory.GetLastWriteTimeUtc, StringComparer.Ordinal);
        var before = _files.ToDictionary(StringComparer.Ordinal);
        _files.Clear();
        foreach (var file in SessionFolder.Files(folder).Where(f => IsWatched(f.Name)))
        {
            Note(file, before, nowUtc);
        }
        RememberFolders(times);
        var isNews = !first && (_files.Count != before.Count || _files.Any(f => !before.TryGetValue(f.Key, out var was) || was != f.Value));
        _newsAt = isNews ? nowUtc : _newsAt;
        return isNews;
    }

    /// <summary>True for a while after the last news: a file that is new may be growing, which only the next look can tell.</summary>
    private bool IsLively(DateTime nowUtc) => Growing.Count > 0 || nowUtc - _newsAt < GrowingFor;

    /// <summary>Says that a file is whole: whoever wrote it is done.</summary>
    public void Settle(string path)
    {
        if (_files.TryGetValue(path, out var seen))
        {
            _files[path] = seen with { GrewAt = null };
        }
    }

    private void Note(SessionEntry file, Dictionary<string, Seen> before, DateTime nowUtc)
    {
        var (bytes, changed) = (file.Facts.Bytes, file.Facts.ModifiedUtc);
        var known = before.TryGetValue(file.Path, out var was);
        // A file that reached its length before it is filled shows by its time alone.
        var grew = known && (bytes > was.Bytes || (changed != was.Changed && (nowUtc - changed).Duration() < GrowingFor));
        var grewAt = grew ? nowUtc : was.GrewAt is { } at && nowUtc - at < GrowingFor ? at : (DateTime?)null;
        _files[file.Path] = new Seen(bytes, changed, grewAt);
    }

    private static bool IsWatched(string name) => name[0] != '.' && MediaFiles.KindOf(name) is not null;

    private bool FoldersChanged() => _folders.Any(f => Directory.GetLastWriteTimeUtc(f.Key) != f.Value);

    private void RememberFolders(Dictionary<string, DateTime> times)
    {
        _folders.Clear();
        foreach (var path in _files.Keys.Select(f => Path.GetDirectoryName(f)!).Concat(Directory.EnumerateDirectories(folder)).Append(folder).Distinct())
        {
            _folders[path] = times.GetValueOrDefault(path);
        }
    }
}
