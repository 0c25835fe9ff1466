using System.Collections.Immutable;

namespace NeatCrate.Core.Sessions;

/// <summary>How closely a folder is looked at.</summary>
public enum LookDepth
{
    /// <summary>
    /// Each folder's own time tells whether something came or went. A file that was written over in its place does not show
    /// by that; <see cref="SessionTree.Recheck"/> finds it.
    /// </summary>
    Folders,

    /// <summary>Every file is looked at.</summary>
    Files,
}

/// <summary>A file that is not as it was: new where there is nothing before, gone where there is nothing now.</summary>
public readonly record struct EntryChange(string Path, SessionEntry? Before, SessionEntry? Now);

/// <summary>
/// The files of a session folder, kept, and brought up to date by looking at what changed. Links to folders are not followed,
/// and waste bins and the like not looked into. Not for several threads at once.
/// </summary>
/// <param name="root">Absolute path of the session folder.</param>
public sealed class SessionTree(string root)
{
    // A file that changed is looked at again and again for so long.
    private static readonly TimeSpan LivelyFor = TimeSpan.FromSeconds(5);

    private readonly Dictionary<string, KeptFolder> _folders = new(StringComparer.Ordinal);
    private readonly Dictionary<string, SessionEntry> _files = new(StringComparer.Ordinal);
    private readonly Dictionary<string, DateTime> _lively = new(StringComparer.Ordinal);
    private readonly Dictionary<string, LooseNames> _loose = new(StringComparer.Ordinal);
    private Queue<string> _toRecheck = new();
    private bool _hasLooked;

    /// <summary>The names in a folder as they clash, made when somebody first asks.</summary>
    private sealed record LooseNames(KeptFolder Of, ILookup<string, string> Files, ILookup<string, string> Folders);

    /// <summary>What was read of a folder.</summary>
    /// <param name="ModifiedUtc">The folder's own time then.</param>
    /// <param name="StatusChange">When the system last noted a change of it: a folder whose time was put back shows by that.</param>
    /// <param name="IsRecent">True where these times were so new that a later change may not have changed them.</param>
    /// <param name="Files">Paths of its files.</param>
    /// <param name="Folders">Paths of the folders in it.</param>
    /// <param name="Faults">What in it cannot be read.</param>
    /// <param name="IsEmpty">True where nothing at all stands in it, what nobody looks into included.</param>
    private sealed record KeptFolder(
        DateTime ModifiedUtc, long? StatusChange, bool IsRecent, IReadOnlyList<string> Files, IReadOnlyList<string> Folders, ImmutableArray<Fault> Faults, bool IsEmpty);

    /// <summary>Its files by their absolute paths.</summary>
    public IReadOnlyDictionary<string, SessionEntry> Files => _files;

    /// <summary>Absolute paths of the folders below it that hold nothing, in order.</summary>
    public IEnumerable<string> EmptyFolders => _folders.Where(f => f.Key != root && f.Value.IsEmpty).Select(f => f.Key).Order(StringComparer.Ordinal);

    /// <summary>What in it cannot be looked at, by path.</summary>
    public IEnumerable<Fault> Faults => _folders.OrderBy(f => f.Key, StringComparer.Ordinal).SelectMany(f => f.Value.Faults);

    /// <summary>Grows whenever something else cannot be looked at than before.</summary>
    public long FaultsRevision { get; private set; }

    /// <summary>
    /// The file that stands where a path says but for the way it is written: in other case, in another Unicode form, or with the backslashes of
    /// another system between its folders. Null where there is none, or more than one. Several threads may ask at once, while nobody looks.
    /// </summary>
    /// <param name="path">Absolute path of something below the folder.</param>
    public string? WrittenOtherwise(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        lock (_loose)
        {
            return FindOtherwise(path);
        }
    }

    private string? FindOtherwise(string path)
    {
        string[] parts = [.. PartsOf(path).Select(PortableName.ClashKey)];
        List<string> folders = [root];
        foreach (var part in parts.SkipLast(1))
        {
            folders = [.. folders.SelectMany(f => NamesIn(f)?.Folders[part] ?? [])];
        }
        var found = parts.Length == 0 ? [] : folders.SelectMany(f => NamesIn(f)?.Files[parts[^1]] ?? []).Take(2).ToList();
        return found is [var only] ? only : null;
    }

    /// <summary>What two paths have in common that are written otherwise and mean one file.</summary>
    public string LooseKey(string path) => string.Join('/', PartsOf(path).Select(PortableName.ClashKey));

    private string[] PartsOf(string path) => path.Length > root.Length ? path[root.Length..].Split('/', '\\').Where(p => p is not ("" or ".")).ToArray() : [];

    private LooseNames? NamesIn(string folder)
    {
        if (!_folders.TryGetValue(folder, out var kept))
        {
            return null;
        }
        static ILookup<string, string> ByKey(IReadOnlyList<string> paths) => paths.ToLookup(p => PortableName.ClashKey(Path.GetFileName(p)), StringComparer.Ordinal);
        return _loose.TryGetValue(folder, out var names) && ReferenceEquals(names.Of, kept) ? names : _loose[folder] = new LooseNames(kept, ByKey(kept.Files), ByKey(kept.Folders));
    }

    /// <summary>Forgets everything, for a folder that is gone.</summary>
    public void Clear()
    {
        _loose.Clear();
        _folders.Clear();
        _files.Clear();
        _lively.Clear();
        _toRecheck.Clear();
        _hasLooked = false;
    }

    /// <summary>Looks at the folder.</summary>
    /// <param name="depth">How closely.</param>
    /// <param name="nowUtc">The time.</param>
    /// <param name="cancel">Stops between two folders; what was seen by then is kept.</param>
    /// <returns>What changed since the last look.</returns>
    public IReadOnlyList<EntryChange> Look(LookDepth depth, DateTime nowUtc, CancellationToken cancel = default)
    {
        var changes = new Dictionary<string, EntryChange>(StringComparer.Ordinal);
        foreach (var path in _lively.Where(l => nowUtc - l.Value > LivelyFor).Select(l => l.Key).ToList())
        {
            _lively.Remove(path);
        }
        // What has just changed goes on changing: a take that is recorded grows without its folder changing.
        foreach (var path in _lively.Keys.ToList())
        {
            Recheck(path, nowUtc, changes);
        }
        var waiting = new Stack<string>([root]);
        var seen = new HashSet<string>(StringComparer.Ordinal);
        while (waiting.TryPop(out var folder))
        {
            cancel.ThrowIfCancellationRequested();
            seen.Add(folder);
            var kept = LookAt(folder, depth, nowUtc, changes);
            foreach (var below in kept.Folders)
            {
                waiting.Push(below);
            }
        }
        foreach (var gone in _folders.Keys.Where(f => !seen.Contains(f)).ToList())
        {
            Forget(_folders[gone].Files, changes);
            FaultsRevision += _folders[gone].Faults.IsEmpty ? 0 : 1;
            _folders.Remove(gone);
            _loose.Remove(gone);
        }
        _hasLooked = true;
        return [.. changes.Values.Where(c => c.Before != c.Now)];
    }

    /// <summary>Looks at the next files in turn, so that one that was written over in its place is found sooner or later.</summary>
    /// <param name="most">How many.</param>
    /// <param name="nowUtc">The time.</param>
    public IReadOnlyList<EntryChange> Recheck(int most, DateTime nowUtc)
    {
        var changes = new Dictionary<string, EntryChange>(StringComparer.Ordinal);
        if (_toRecheck.Count == 0)
        {
            _toRecheck = new Queue<string>(_files.Keys);
        }
        for (var n = 0; n < most && _toRecheck.TryDequeue(out var path); n++)
        {
            Recheck(path, nowUtc, changes);
        }
        return [.. changes.Values];
    }

    /// <summary>Looks at one file.</summary>
    public IReadOnlyList<EntryChange> Recheck(string path, DateTime nowUtc)
    {
        var changes = new Dictionary<string, EntryChange>(StringComparer.Ordinal);
        Recheck(path, nowUtc, changes);
        return [.. changes.Values];
    }

    private void Recheck(string path, DateTime nowUtc, Dictionary<string, EntryChange> changes)
    {
        if (_files.TryGetValue(path, out var before) && FileFacts.Of(path) is { IsRegular: true } facts && facts != before.Facts)
        {
            Put(before with { Facts = facts }, nowUtc, changes);
        }
    }

    private KeptFolder LookAt(string folder, LookDepth depth, DateTime nowUtc, Dictionary<string, EntryChange> changes)
    {
        // Taken before its entries are: what appears in between shows at the next look.
        var at = FileFacts.OfWithStatus(folder);
        var (modified, status) = (at?.Facts.ModifiedUtc, at?.StatusChange);
        if (depth == LookDepth.Folders && modified is not null && _folders.TryGetValue(folder, out var known) && known.ModifiedUtc == modified && known.StatusChange == status && !known.IsRecent
            // A drive that could not read it may be able to again, and no time tells.
            && !known.Faults.Any(f => f.Code == FaultCode.CannotBeLookedAt))
        {
            return known;
        }
        var last = _folders.GetValueOrDefault(folder);
        var before = last?.Files ?? [];
        List<string> files = [], folders = [];
        var faults = new List<Fault>();
        var isEmpty = false;
        try
        {
            var content = FolderContent.ReadAll(
                folder, folder == root, (name, number) => depth == LookDepth.Folders && _files.TryGetValue(Path.Combine(folder, name), out var file) && !file.IsLink && file.Facts.Inode == number);
            isEmpty = content.Folders.Count + content.UnopenableFolders.Count + content.KnownNames.Count + content.Entries.Count == 0;
            folders.AddRange(content.Folders.Where(f => !Litter.IsFolder(f)).Order(StringComparer.Ordinal).Select(f => Path.Combine(folder, f)));
            faults.AddRange(content.UnopenableFolders.Select(f => new Fault(FaultCode.NameNotText) { Path = Path.Combine(folder, f) }));
            // One that is known by its name and its number is another one only where it was written over, and that is looked for elsewhere.
            files.AddRange(content.KnownNames.Select(n => Path.Combine(folder, n)));
            foreach (var entry in content.Entries)
            {
                Note(Path.Combine(folder, entry.Name), entry, files, faults, nowUtc, changes);
            }
        }
        catch (FaultException e)
        {
            faults.Add(new Fault(FaultCode.CannotBeLookedAt) { Path = folder, Detail = e.Fault.Detail, Reasons = [e.Fault] });
        }
        var there = files.ToHashSet(StringComparer.Ordinal);
        Forget(before.Where(f => !there.Contains(f)), changes);
        var isRecent = modified is null || !FileFacts.IsSettled(modified.Value, nowUtc) || !FileFacts.IsSettled(DateTime.UnixEpoch.AddTicks(status ?? 0), nowUtc);
        if (!faults.Select(Said).SequenceEqual((last?.Faults ?? []).Select(Said)))
        {
            FaultsRevision++;
        }
        return _folders[folder] = new KeptFolder(modified ?? default, status, isRecent, files, folders, [.. faults], isEmpty);
    }

    private static (FaultCode, string?, string?) Said(Fault fault) => (fault.Code, fault.Path, fault.Detail);

    private void Note(string path, FolderEntry entry, List<string> files, List<Fault> faults, DateTime nowUtc, Dictionary<string, EntryChange> changes)
    {
        if (!entry.NameIsText)
        {
            faults.Add(new Fault(FaultCode.NameNotText) { Path = path });
            return;
        }
        if (entry.Facts.IsRegular)
        {
            files.Add(path);
            Put(new SessionEntry(path, entry.Facts, false), nowUtc, changes);
            return;
        }
        if (entry.Facts.Kind != EntryKind.Link)
        {
            faults.Add(new Fault(FaultCode.NotARegularFile) { Path = path });
            return;
        }
        var target = new FileInfo(path).LinkTarget ?? "";
        switch (FileFacts.Of(path))
        {
            case { IsRegular: true } facts:
                files.Add(path);
                Put(new SessionEntry(path, facts, true), nowUtc, changes);
                break;
            case { Kind: EntryKind.Folder }:
                faults.Add(new Fault(FaultCode.FolderIsALink) { Path = path, Other = target });
                break;
            case null:
                faults.Add(new Fault(FaultCode.LinkToNothing) { Path = path, Other = target });
                break;
            default:
                faults.Add(new Fault(FaultCode.NotARegularFile) { Path = path });
                break;
        }
    }

    private void Put(SessionEntry entry, DateTime nowUtc, Dictionary<string, EntryChange> changes)
    {
        SessionEntry? before = _files.TryGetValue(entry.Path, out var known) ? known : null;
        if (before == entry)
        {
            return;
        }
        _files[entry.Path] = entry;
        if (_hasLooked || nowUtc - entry.Facts.ModifiedUtc < LivelyFor)
        {
            _lively[entry.Path] = nowUtc;
        }
        Note(entry.Path, before, entry, changes);
    }

    private void Forget(IEnumerable<string> paths, Dictionary<string, EntryChange> changes)
    {
        foreach (var path in paths)
        {
            if (_files.Remove(path, out var before))
            {
                _lively.Remove(path);
                Note(path, before, null, changes);
            }
        }
    }

    /// <summary>Several changes of one look become one, from what was before the first to what is after the last.</summary>
    private static void Note(string path, SessionEntry? before, SessionEntry? now, Dictionary<string, EntryChange> changes) =>
        changes[path] = new EntryChange(path, changes.TryGetValue(path, out var first) ? first.Before : before, now);
}
