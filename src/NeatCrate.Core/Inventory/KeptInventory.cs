using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Runtime.ExceptionServices;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Names;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>What changed in a session.</summary>
/// <param name="Media">Media files appeared, grew, came to rest, changed or went.</param>
/// <param name="Documents">Documents were saved, appeared or went.</param>
/// <param name="Others">Other files did.</param>
public readonly record struct SessionNews(bool Media, bool Documents, bool Others)
{
    /// <summary>True where anything changed.</summary>
    public bool Any => Media || Documents || Others;

    /// <summary>Both together.</summary>
    public static SessionNews operator |(SessionNews one, SessionNews other) =>
        new(one.Media || other.Media, one.Documents || other.Documents, one.Others || other.Others);

    /// <summary>Both together.</summary>
    public static SessionNews BitwiseOr(SessionNews left, SessionNews right) => left | right;
}

/// <summary>What changed in an inventory since a revision of it.</summary>
/// <param name="Inventory">The inventory as it is.</param>
/// <param name="IsWhole">True where anything may have changed, as after a document came or went, or the revision is none of this inventory; then nothing else is named.</param>
/// <param name="Changed">The files that are new or otherwise.</param>
/// <param name="Gone">Paths of those that are gone.</param>
/// <param name="Growing">Paths of files that something writes at this moment.</param>
public sealed record InventoryChanges(
    SessionInventory Inventory, bool IsWhole, IReadOnlyList<InventoryFile> Changed, IReadOnlyList<string> Gone, IReadOnlySet<string> Growing);

/// <summary>
/// The inventory of one session, kept and brought up to date by what changed: where each media file stands and what it is
/// used for. Who watches the folder calls <see cref="Notice"/>, who wants to know calls <see cref="Look"/>; both may be called
/// by several threads. Reading never changes anything.
/// </summary>
/// <param name="folder">Absolute path of the session folder.</param>
/// <param name="headers">Headers that were read before.</param>
/// <param name="memory">What is known of files on shelves that are away.</param>
/// <param name="kinds">What was said of kinds of file, at this moment; null for nothing.</param>
public sealed class KeptInventory(string folder, HeaderCache headers, IShelfMemory? memory = null, Func<DocumentKinds>? kinds = null)
{
    /// <summary>So long after it last grew, a file still counts as being written.</summary>
    public static readonly TimeSpan GrowingFor = TimeSpan.FromSeconds(3);

    // Files that are pointed at elsewhere come and go without the folder telling.
    private static readonly TimeSpan ProbeEvery = TimeSpan.FromSeconds(3);

    private readonly Lock _lock = new();
    private readonly SessionTree _tree = new(folder);
    private readonly Dictionary<string, EntryChange> _pending = new(StringComparer.Ordinal);
    private readonly Dictionary<string, DateTime> _grewAt = new(StringComparer.Ordinal);
    // Files that whoever writes them said so of: however long nothing comes, they are not done before it is said.
    private readonly HashSet<string> _written = new(StringComparer.Ordinal);
    private readonly SortedSet<string> _pointing = new(StringComparer.Ordinal);
    // A document takes several times its size while it is read.
    private const int MostReadAtOnce = 4;

    private readonly Dictionary<string, InventoryDocument> _documents = new(StringComparer.Ordinal);
    private readonly Dictionary<string, InstrumentSamples> _instruments = new(StringComparer.Ordinal);
    private readonly Dictionary<string, (FileFacts Facts, InstrumentSamples Samples)> _instrumentsElsewhere = new(StringComparer.Ordinal);
    private readonly HashSet<string> _odd = new(StringComparer.Ordinal);
    private readonly HashSet<string> _saved = new(StringComparer.Ordinal);
    private readonly Dictionary<string, FileFacts?> _elsewhere = new(StringComparer.Ordinal);
    private readonly HashSet<string> _changedElsewhere = new(StringComparer.Ordinal);
    private readonly Dictionary<string, InventoryFile> _files = new(StringComparer.Ordinal);
    private readonly Dictionary<ulong, string> _paths = [];
    private readonly Dictionary<string, SortedSet<string>> _missing = new(StringComparer.Ordinal);
    private readonly HashSet<string> _touched = new(StringComparer.Ordinal);
    // Names byte by byte: two that a language takes for one are two files.
    private readonly SortedSet<(long Revision, string Path)> _changedAt = new(Comparer<(long Revision, string Path)>.Create(
        (a, b) => a.Revision != b.Revision ? a.Revision.CompareTo(b.Revision) : string.CompareOrdinal(a.Path, b.Path)));
    private readonly Dictionary<string, long> _revisionOf = new(StringComparer.Ordinal);
    private long _wholeAt;
    private SessionUse? _use;
    private SessionInventory? _inventory;
    private DocumentKinds _kinds = DocumentKinds.Unsaid;
    private string? _stated;
    private HoldingPlace _holding = HoldingPlace.Nothing;
    private Fault? _holdingRemark;
    private Fault? _cardRemark;
    private (EntryKind? Card, EntryKind? HoldingList) _ownKinds;
    private string? _chosen;
    private ImmutableArray<ShelfSeen> _shelves = [];
    private ImmutableArray<UsePlace> _usedElsewhere = [];
    private readonly Dictionary<string, SessionEntry> _otherFiles = new(StringComparer.Ordinal);
    private long _otherBytes;
    private DateTime _probedAt;
    private bool _isThere;
    private bool _hasNoticed;
    private bool _isWatching;
    private bool _isStale;

    private readonly record struct ShelfSeen(Guid Id, string Name, string Root, bool IsConnected);

    /// <summary>Absolute path of the session folder.</summary>
    public string Folder => folder;

    /// <summary>Grows with every change that was seen; the same number means the same inventory.</summary>
    public long Revision { get; private set; }

    /// <summary>Told after something changed, whoever saw it.</summary>
    public event Action<KeptInventory, SessionNews>? Changed;

    /// <summary>Number of files in the folder, as far as it was looked at.</summary>
    public int Count => _tree.Files.Count;

    /// <summary>Files that something writes at this moment.</summary>
    public IReadOnlyCollection<string> Growing
    {
        get
        {
            lock (_lock)
            {
                return [.. _grewAt.Keys];
            }
        }
    }

    /// <summary>
    /// Looks at what changed in the folder, without working out what follows from it. It costs next to nothing where nothing
    /// did, and is left out while somebody else looks.
    /// </summary>
    /// <param name="nowUtc">The time.</param>
    /// <param name="recheck">So many files are looked at in turn for having been written over in their place.</param>
    /// <returns>What changed since the last look.</returns>
    public SessionNews Notice(DateTime nowUtc, int recheck)
    {
        SessionNews news;
        if (!_lock.TryEnter())
        {
            return default;
        }
        try
        {
            _isWatching = true;
            news = Notice(LookDepth.Folders, nowUtc, recheck, default);
            if (_inventory is not null && nowUtc - _probedAt >= ProbeEvery && Probe(nowUtc).Count > 0)
            {
                news |= new SessionNews(true, false, false);
                Revision++;
            }
        }
        finally
        {
            _isWatching = false;
            _lock.Exit();
        }
        Tell(news);
        return news;
    }

    /// <summary>Says that a file is written from now on until it is settled, whether it is there yet or not.</summary>
    public void Write(string path, DateTime nowUtc)
    {
        lock (_lock)
        {
            _written.Add(path);
            _grewAt[path] = nowUtc;
            Touch(path);
        }
    }

    /// <summary>Says that a file is whole: whoever wrote it is done.</summary>
    public void Settle(string path, DateTime nowUtc)
    {
        SessionNews news;
        lock (_lock)
        {
            news = Notice(LookDepth.Folders, nowUtc, 0, default);
            news |= Note(_tree.Recheck(path, nowUtc), nowUtc);
            _written.Remove(path);
            news |= new SessionNews(_grewAt.Remove(path), false, false);
            Touch(path);
        }
        Tell(news);
    }

    /// <summary>The inventory as things are now.</summary>
    /// <param name="documentName">File name of a document that was chosen on this machine; null for none. What the session card states goes before.</param>
    /// <param name="shelves">All known shelves, connected or away.</param>
    /// <param name="depth">How closely to look for what was written over in its place.</param>
    /// <param name="nowUtc">The time.</param>
    /// <param name="cancel">Stops between two files; what was found by then is kept for the next look.</param>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public SessionInventory Look(string? documentName, IReadOnlyList<Shelf> shelves, LookDepth depth, DateTime nowUtc, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(shelves);
        SessionNews news;
        SessionInventory inventory;
        lock (_lock)
        {
            news = Notice(depth, nowUtc, 0, cancel);
            if (!_isThere)
            {
                throw new FaultException(FaultCode.SessionFolderGone, folder);
            }
            inventory = BringUpToDate(documentName, shelves, nowUtc, cancel);
        }
        Tell(news);
        return inventory;
    }

    /// <summary>A file of the inventory as it was last brought up to date; null when it has none of this identity.</summary>
    public InventoryFile? Find(string fileId)
    {
        lock (_lock)
        {
            return InventoryFile.NumberOf(fileId) is { } number && _paths.TryGetValue(number, out var path) ? _files.GetValueOrDefault(path) : null;
        }
    }

    /// <summary>The inventory as it was last brought up to date; null before that.</summary>
    public SessionInventory? Last
    {
        get
        {
            lock (_lock)
            {
                return _inventory;
            }
        }
    }

    /// <summary>What changed in the inventory since a revision of it, as it was last brought up to date.</summary>
    /// <param name="revision">The revision that is known; -1 for none.</param>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public InventoryChanges Since(long revision)
    {
        lock (_lock)
        {
            var inventory = _inventory ?? throw new FaultException(FaultCode.SessionFolderGone, folder);
            var growing = _grewAt.Keys.ToHashSet(StringComparer.Ordinal);
            if (revision < _wholeAt || revision > Revision)
            {
                return new InventoryChanges(inventory, true, [], [], growing);
            }
            var paths = _changedAt.GetViewBetween((revision + 1, ""), (long.MaxValue, "")).Select(c => c.Path).ToList();
            return new InventoryChanges(inventory, false, [.. paths.Where(_files.ContainsKey).Select(p => _files[p])], [.. paths.Where(p => !_files.ContainsKey(p))], growing);
        }
    }

    /// <summary>The places at which the session's documents use files, as it was last brought up to date; none before that.</summary>
    /// <param name="paths">Absolute paths of the files.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="rewritten">Documents that count as holding these bytes, whatever they hold now.</param>
    public IReadOnlyList<UsePlace> UsesOf(IReadOnlySet<string> paths, IReadOnlyList<Shelf> shelves, IReadOnlyDictionary<string, byte[]> rewritten)
    {
        lock (_lock)
        {
            return [.. _use?.UsesOf(paths, p => _files.GetValueOrDefault(p), rewritten, shelves, Exists) ?? []];
        }
    }

    /// <summary>How the session's documents use files, by path, as it was last brought up to date; files that none of them points at have no entry.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<DocumentUse>> ByDocument()
    {
        lock (_lock)
        {
            return _use?.ByDocument() ?? new(StringComparer.Ordinal);
        }
    }

    /// <summary>Absolute paths of the folders in it that hold nothing, as it was last looked at.</summary>
    public IReadOnlyList<string> EmptyFolders()
    {
        lock (_lock)
        {
            return [.. _tree.EmptyFolders];
        }
    }

    /// <summary>What else stands in the folder, as it was last looked at.</summary>
    public OtherEntries Others()
    {
        lock (_lock)
        {
            return new OtherEntries([.. _use is null ? _tree.Files.Values : _otherFiles.Values], [.. _tree.EmptyFolders]);
        }
    }

    /// <summary>The places at which the session's documents use files outside of its folder, as it was last worked out; null before that.</summary>
    public ImmutableArray<UsePlace>? UsedElsewhere
    {
        get
        {
            lock (_lock)
            {
                return _use is null ? null : _usedElsewhere;
            }
        }
    }

    // ----- noticing

    private void Tell(SessionNews news)
    {
        if (news.Any)
        {
            Changed?.Invoke(this, news);
        }
    }

    private SessionNews Notice(LookDepth depth, DateTime nowUtc, int recheck, CancellationToken cancel)
    {
        if (!Directory.Exists(folder))
        {
            var knew = _isThere && _hasNoticed;
            Forget();
            Revision += knew ? 1 : 0;
            return new SessionNews(knew, false, false);
        }
        var isFirst = !_isThere;
        _isThere = true;
        var faults = _tree.FaultsRevision;
        var news = TakeInKinds() | Note(_tree.Look(depth, nowUtc, cancel), nowUtc);
        if (_tree.FaultsRevision != faults)
        {
            // What cannot be looked at any more, or can again, is news where no file shows it.
            Revision++;
            news |= new SessionNews(false, false, true);
        }
        if (depth == LookDepth.Folders)
        {
            // Few, and what is written over in its place most often.
            foreach (var path in _pointing.ToList())
            {
                news |= Note(_tree.Recheck(path, nowUtc), nowUtc);
            }
        }
        if (recheck > 0)
        {
            news |= Note(_tree.Recheck(recheck, nowUtc), nowUtc);
        }
        foreach (var rested in _grewAt.Where(g => nowUtc - g.Value >= GrowingFor && !_written.Contains(g.Key)).Select(g => g.Key).ToList())
        {
            _grewAt.Remove(rested);
            Touch(rested);
            news |= new SessionNews(true, false, false);
        }
        // What is seen at the first look is no news to anybody.
        _hasNoticed = true;
        return isFirst ? default : news;
    }

    /// <summary>Where something else is said of kinds of file than before, all that may be documents are judged anew.</summary>
    private SessionNews TakeInKinds()
    {
        if (kinds?.Invoke() is not { } said || ReferenceEquals(said, _kinds))
        {
            return default;
        }
        _kinds = said;
        foreach (var entry in _tree.Files.Values.Where(e => MediaFiles.KindOf(e.Name) is null))
        {
            _pending.TryAdd(entry.Path, new EntryChange(entry.Path, entry, entry));
        }
        Revision++;
        return new SessionNews(true, true, true);
    }

    private void Forget()
    {
        _isThere = false;
        foreach (var change in _tree.Files.Values.ToList())
        {
            _pending[change.Path] = new EntryChange(change.Path, change, null);
        }
        _tree.Clear();
        _pointing.Clear();
        _grewAt.Clear();
        _written.Clear();
        // What its documents used still counts, until they can be read again.
        _inventory = null;
    }

    private SessionNews Note(IReadOnlyList<EntryChange> changes, DateTime nowUtc)
    {
        var news = default(SessionNews);
        foreach (var change in changes)
        {
            _pending[change.Path] = _pending.TryGetValue(change.Path, out var first) ? change with { Before = first.Before } : change;
            var name = Path.GetFileName(change.Path);
            var isDocument = DocumentFormats.Of(name) is not null || _documents.ContainsKey(change.Path);
            if (isDocument || change.Path == SessionCard.PathIn(folder) || change.Path == HoldingPlace.ListIn(folder))
            {
                _ = change.Now is null ? _pointing.Remove(change.Path) : _pointing.Add(change.Path);
            }
            if (name[0] == '.')
            {
                continue;
            }
            if (MediaFiles.KindOf(name) is not null)
            {
                news |= new SessionNews(true, false, false);
                NoteGrowth(change, nowUtc);
            }
            else
            {
                news |= isDocument ? new SessionNews(false, true, false) : new SessionNews(false, false, true);
            }
        }
        Revision += changes.Count > 0 ? 1 : 0;
        return news;
    }

    private void NoteGrowth(EntryChange change, DateTime nowUtc)
    {
        if (change.Now is not { } now)
        {
            _grewAt.Remove(change.Path);
            _written.Remove(change.Path);
        }
        else if (change.Before is null)
        {
            // A recorder's file appears before its sizes are written: until it stands still, it is not one that was cut off.
            if (_hasNoticed && _isWatching && IsFresh(now, nowUtc) && headers.Read(now.Path, now.Facts.Bytes, now.Facts.ModifiedUtc).Header is { Unfinished: true })
            {
                _grewAt[change.Path] = nowUtc;
                Touch(change.Path);
            }
        }
        else if (change.Before is { } before && _hasNoticed && (_isWatching || _grewAt.ContainsKey(change.Path)))
        {
            // Only between two looks of the watch, which are apart: whoever asks twice in a moment while a file is copied here
            // would take it for a recording. One that goes on growing is seen to by the next look.
            // A file that reached its length before it is filled shows by its time alone.
            var grew = now.Facts.Bytes > before.Facts.Bytes
                || (now.Facts.ModifiedUtc != before.Facts.ModifiedUtc && IsFresh(now, nowUtc));
            if (grew)
            {
                _grewAt[change.Path] = nowUtc;
                Touch(change.Path);
            }
        }
    }

    private static bool IsFresh(SessionEntry entry, DateTime nowUtc) => (nowUtc - entry.Facts.ModifiedUtc).Duration() < GrowingFor;

    /// <summary>A file is shown otherwise from now on, though it is the same.</summary>
    private void Touch(string path)
    {
        _touched.Add(path);
        Revision++;
    }

    /// <summary>Looks at what is pointed at elsewhere than in the folder; gives the paths that are not as they were.</summary>
    private List<string> Probe(DateTime nowUtc)
    {
        _probedAt = nowUtc;
        var changed = new List<string>();
        foreach (var (path, before) in _elsewhere.ToList())
        {
            var now = Facts(path);
            if (now != before)
            {
                _elsewhere[path] = now;
                _changedElsewhere.Add(path);
                changed.Add(path);
            }
        }
        return changed;
    }

    /// <summary>What a path outside of the folder leads to. What lies on a shelf that is away is not asked for.</summary>
    private FileFacts? Facts(string path) =>
        !path.StartsWith('/') || _shelves.Where(s => ShelfPath.IsWithin(path, s.Root)).OrderByDescending(s => s.Root.Length).FirstOrDefault() is { Root: not null, IsConnected: false } ? null : FileFacts.Of(path);

    /// <summary>What an instrument plays that stands elsewhere; read once while it is as it was.</summary>
    private InstrumentSamples? InstrumentElsewhere(string path)
    {
        if (Facts(path) is not { IsRegular: true } facts)
        {
            return null;
        }
        if (!_instrumentsElsewhere.TryGetValue(path, out var known) || known.Facts != facts)
        {
            _instrumentsElsewhere[path] = known = (facts, InstrumentSamples.Read(path));
        }
        return known.Samples;
    }

    // ----- bringing up to date

    private SessionInventory BringUpToDate(string? documentName, IReadOnlyList<Shelf> shelves, DateTime nowUtc, CancellationToken cancel)
    {
        ImmutableArray<ShelfSeen> seen = [.. shelves.Select(s => new ShelfSeen(s.Id, s.Name, s.Root, s.IsConnected))];
        // Stays so until it was worked out: whoever is stopped in the middle leaves it to the next look.
        _isStale |= _use is null || _inventory is null || documentName != _chosen || !seen.AsSpan().SequenceEqual(_shelves.AsSpan());
        (_chosen, _shelves) = (documentName, seen);
        var read = ReadDocuments(cancel);
        foreach (var change in _pending.Values.ToList())
        {
            cancel.ThrowIfCancellationRequested();
            _isStale |= Absorb(change, read);
        }
        _isStale |= OwnFilesAreOtherwise();
        Revision += Probe(nowUtc).Count > 0 ? 1 : 0;
        var otherwise = TakeInSaved(shelves);
        var isStale = _isStale;
        // Whoever is stopped from here on leaves all of it to the next look.
        _isStale = true;
        if (isStale || otherwise is null || !_use!.Serves(_pending.Values, _changedElsewhere))
        {
            // Shelves that came or went, and another document that was chosen, are news as well.
            Revision++;
            Rebuild(shelves, cancel);
            _changedAt.Clear();
            _revisionOf.Clear();
            _wholeAt = Revision;
        }
        else if (_pending.Count + _changedElsewhere.Count + _touched.Count > 0)
        {
            // What came or went may be a missing file that is written otherwise.
            string[] paths =
            [
                .. _pending.Keys, .. _changedElsewhere, .. _touched, .. otherwise,
                .. _missing.Count == 0 ? [] : _pending.Values.Where(c => c.Before is null != c.Now is null).SelectMany(c => _missing.GetValueOrDefault(_tree.LooseKey(c.Path)) ?? []),
            ];
            Revision++;
            Mend(paths, shelves);
            foreach (var path in paths)
            {
                if (_revisionOf.TryGetValue(path, out var before))
                {
                    _changedAt.Remove((before, path));
                }
                _changedAt.Add((Revision, path));
                _revisionOf[path] = Revision;
            }
        }
        else if (_inventory!.Revision != Revision)
        {
            _inventory = Whole(_use, _inventory.Files);
        }
        _pending.Clear();
        // At the first look all files wait in it, and never again so many.
        _pending.TrimExcess();
        _changedElsewhere.Clear();
        _touched.Clear();
        _saved.Clear();
        _isStale = false;
        return _inventory!;
    }

    /// <summary>Takes in the documents that were saved; null where all has to be worked out anew for them.</summary>
    private IReadOnlyCollection<string>? TakeInSaved(IReadOnlyList<Shelf> shelves)
    {
        if (_isStale || _saved.Count == 0)
        {
            return [];
        }
        var otherwise = _use!.TryTakeIn(_stated, _chosen, [.. _documents.Values], _saved, _odd, shelves, Exists, memory);
        foreach (var path in otherwise?.Where(p => !_tree.Files.ContainsKey(p)) ?? [])
        {
            _ = Exists(path);
        }
        if (otherwise is not null)
        {
            _usedElsewhere = [.. _use.Elsewhere(p => _files.GetValueOrDefault(p))];
        }
        return otherwise;
    }

    /// <summary>Kept states are no documents of the session: no plan re-points them, and no list of versions holds them.</summary>
    private bool IsKeptSave(string path) => path.AsSpan(folder.Length).Contains("/" + SessionLayout.DocumentBackups + "/", StringComparison.Ordinal);

    private void ReadCard()
    {
        _cardRemark = null;
        _stated = SessionCard.Stated(folder, remark => _cardRemark = remark);
    }

    private void ReadHoldingList()
    {
        _holdingRemark = null;
        _holding = HoldingPlace.Of(folder, remark => _holdingRemark = remark);
    }

    /// <summary>True where something of another kind stands in the place of one of our own files: the tree tells of files alone, and not of a folder that is in the way.</summary>
    private bool OwnFilesAreOtherwise()
    {
        var kinds = (FileFacts.OfName(SessionCard.PathIn(folder))?.Kind, FileFacts.OfName(HoldingPlace.ListIn(folder))?.Kind);
        if (kinds == _ownKinds)
        {
            return false;
        }
        _ownKinds = kinds;
        ReadCard();
        ReadHoldingList();
        return true;
    }

    /// <summary>Reads the documents that came or changed, by several threads: at the first look they take nearly all of the time.</summary>
    private ConcurrentDictionary<string, InventoryDocument> ReadDocuments(CancellationToken cancel)
    {
        var read = new ConcurrentDictionary<string, InventoryDocument>(StringComparer.Ordinal);
        Parallel.ForEach(
            _pending.Values.Where(c => c.Now is not null && !IsKeptSave(c.Path) && (IsDocument(Path.GetFileName(c.Path)) || IsSearched(c))).ToList(),
            new ParallelOptions { CancellationToken = cancel, MaxDegreeOfParallelism = Math.Min(MostReadAtOnce, Environment.ProcessorCount) },
            change =>
            {
                var before = _documents.GetValueOrDefault(change.Path);
                // What stands at the top of the folder, or was saved while somebody looked, is saved again sooner or later.
                read[change.Path] = InventoryDocument.Read(change.Now!.Value, before, before is not null || Path.GetDirectoryName(change.Path) == folder);
            });
        return read;
    }

    /// <summary>Absorbs one change; true where more than the file itself may stand otherwise by it.</summary>
    private bool Absorb(EntryChange change, ConcurrentDictionary<string, InventoryDocument> read)
    {
        var (path, name) = (change.Path, Path.GetFileName(change.Path));
        var matters = false;
        if (path == SessionCard.PathIn(folder))
        {
            ReadCard();
            matters = true;
        }
        if (path == HoldingPlace.ListIn(folder))
        {
            ReadHoldingList();
            matters = true;
        }
        if (IsKeptSave(path))
        {
            return matters;
        }
        if (IsDocument(name))
        {
            if (change.Now is not null)
            {
                // One that was only saved changes what it points at, and mostly nothing else.
                matters |= !_documents.ContainsKey(path);
                _documents[path] = read[path];
                _saved.Add(path);
            }
            else
            {
                matters = true;
                _documents.Remove(path);
            }
        }
        else if (SfzInstrument.Format.Recognises(name))
        {
            matters = true;
            if (change.Now is not null)
            {
                _instruments[path] = InstrumentSamples.Read(path);
            }
            else
            {
                _instruments.Remove(path);
            }
        }
        // What names no media may still be a document, of which nothing is known then.
        var found = IsSearched(change) ? read[path] : null;
        var isMention = found?.Document?.Names is { } those && _kinds.Of(path) is not true && OnlyMentions(those);
        var names = !isMention && found is { Document.Names.Names.IsEmpty: false } ? found : null;
        if (names is not null)
        {
            matters |= !_documents.ContainsKey(path);
            _documents[path] = names;
            _saved.Add(path);
        }
        else if (!IsDocument(name))
        {
            matters |= _documents.Remove(path);
        }
        matters |= IsOdd(change) && names is null && !isMention ? _odd.Add(path) : _odd.Remove(path);
        return matters;
    }

    /// <summary>True for a log, and for a list whose lines are names of files that are here; where a line begins with something else, it is a document in lines.</summary>
    private bool OnlyMentions(FoundNames found)
    {
        if (found.IsMention || !found.IsList)
        {
            return found.IsMention;
        }
        var there = _tree.Files.Keys.Select(p => FolderNames.Key(Path.GetFileName(p))).ToHashSet(StringComparer.Ordinal);
        return found.Names.Count(n => n.Readings.Any(r => r.Left.Length == 0 && there.Contains(FolderNames.Key(r.Path.Name)))) * 2 >= found.Names.Length;
    }

    /// <summary>True for a file that may be a document of a program that is not known here.</summary>
    private bool IsOdd(EntryChange change) =>
        change.Now is { IsLink: false } now && _kinds.MayBeADocument(change.Path, now.Facts.Bytes) && !IsDocument(Path.GetFileName(change.Path));

    /// <summary>True for such a file that is looked through for names: what is held set aside names nothing, and what is very large holds something else than a session.</summary>
    private bool IsSearched(EntryChange change) =>
        change.Now is { Facts.Bytes: <= NameFinder.MostBytes } && !ShelfPath.IsWithin(change.Path, HoldingPlace.FolderIn(folder)) && IsOdd(change);

    private static bool IsDocument(string name) => name[0] != '.' && (SessionFolder.IsDocument(name) || DocumentFormats.IsPackedTimeline(name));

    /// <summary>Works all of it out anew, with the headers that are known.</summary>
    private void Rebuild(IReadOnlyList<Shelf> shelves, CancellationToken cancel)
    {
        _elsewhere.Clear();
        var use = _use = new SessionUse(folder, _stated, _chosen, [.. _documents.Values], _instruments, InstrumentElsewhere, _odd, _tree, _holding.PathsIn(folder), shelves, Exists, memory);
        var work = new List<string>();
        _otherBytes = 0;
        _otherFiles.Clear();
        foreach (var file in _tree.Files.Values)
        {
            if (use.Lists(file.Path))
            {
                work.Add(file.Path);
            }
            else
            {
                CountOther(file, 1);
            }
        }
        work.AddRange(use.Paths.Where(p => !_tree.Files.ContainsKey(p)));
        foreach (var path in work)
        {
            if (!_tree.Files.ContainsKey(path))
            {
                _ = Exists(path);
            }
        }
        var files = new ConcurrentBag<InventoryFile>();
        try
        {
            Parallel.ForEach(work, new ParallelOptions { CancellationToken = cancel }, path => files.Add(Describe(path, use, shelves)));
        }
        catch (AggregateException e)
        {
            // What went wrong for one file is told as that, not as a bundle of errors.
            ExceptionDispatchInfo.Throw(e.InnerExceptions[0]);
        }
        _files.Clear();
        _paths.Clear();
        _missing.Clear();
        foreach (var file in files)
        {
            _files[file.Path] = file;
            _paths[InventoryFile.NumberOfPath(file.Path)] = file.Path;
            NoteIfMissing(file);
        }
        _inventory = Whole(use, [.. files.Order(FileOrder.Instance)]);
        _usedElsewhere = [.. use.Elsewhere(p => _files.GetValueOrDefault(p))];
    }

    /// <summary>Works out anew what changed, and leaves the rest as it is.</summary>
    private void Mend(IReadOnlyCollection<string> paths, IReadOnlyList<Shelf> shelves)
    {
        var use = _use!;
        var gone = new HashSet<string>(StringComparer.Ordinal);
        var come = new List<InventoryFile>();
        foreach (var path in paths.Distinct(StringComparer.Ordinal))
        {
            if (_pending.TryGetValue(path, out var change))
            {
                CountIfOther(change.Before, -1);
                CountIfOther(change.Now, 1);
            }
            if (_files.Remove(path, out var before))
            {
                ForgetIfMissing(before);
                gone.Add(path);
                _paths.Remove(InventoryFile.NumberOfPath(path));
            }
            if (use.PointsAt(path) || (_tree.Files.ContainsKey(path) && use.Lists(path)))
            {
                var file = Describe(path, use, shelves);
                (_files[path], _paths[InventoryFile.NumberOfPath(path)]) = (file, path);
                NoteIfMissing(file);
                come.Add(file);
            }
        }
        come.Sort(FileOrder.Instance);
        _inventory = Whole(use, Merged(_inventory!.Files, gone, come));
    }

    private static bool IsMissingInside(InventoryFile file) => file is { Standing: Standing.Missing, BelongsInside: true };

    private void NoteIfMissing(InventoryFile file)
    {
        if (IsMissingInside(file))
        {
            var key = _tree.LooseKey(file.Path);
            (_missing.TryGetValue(key, out var those) ? those : _missing[key] = new(StringComparer.Ordinal)).Add(file.Path);
        }
    }

    private void ForgetIfMissing(InventoryFile file)
    {
        if (IsMissingInside(file) && _tree.LooseKey(file.Path) is var key && _missing.TryGetValue(key, out var those) && those.Remove(file.Path) && those.Count == 0)
        {
            _missing.Remove(key);
        }
    }

    private void CountIfOther(SessionEntry? entry, int sign)
    {
        if (entry is { } file && !_use!.Lists(file.Path))
        {
            CountOther(file, sign);
        }
    }

    private void CountOther(SessionEntry file, int sign)
    {
        _otherBytes += sign * (file.IsLink ? 0 : file.Facts.Bytes);
        if (sign > 0)
        {
            _otherFiles[file.Path] = file;
        }
        else
        {
            _otherFiles.Remove(file.Path);
        }
    }

    /// <summary>The files without those that went, and with those that came, in order.</summary>
    private static ImmutableArray<InventoryFile> Merged(ImmutableArray<InventoryFile> files, HashSet<string> gone, List<InventoryFile> come)
    {
        var merged = ImmutableArray.CreateBuilder<InventoryFile>(files.Length + come.Count);
        var next = 0;
        foreach (var file in files)
        {
            if (gone.Contains(file.Path))
            {
                continue;
            }
            while (next < come.Count && FileOrder.Instance.Compare(come[next], file) < 0)
            {
                merged.Add(come[next++]);
            }
            merged.Add(file);
        }
        while (next < come.Count)
        {
            merged.Add(come[next++]);
        }
        return merged.DrainToImmutable();
    }

    private bool Exists(string path)
    {
        if (_tree.Files.ContainsKey(path))
        {
            return true;
        }
        if (!_elsewhere.TryGetValue(path, out var facts))
        {
            _elsewhere[path] = facts = Facts(path);
        }
        return facts is { IsRegular: true };
    }

    private InventoryFile Describe(string path, SessionUse use, IReadOnlyList<Shelf> shelves)
    {
        SessionEntry? entry = _tree.Files.TryGetValue(path, out var inside) ? inside : null;
        var facts = entry?.Facts ?? _elsewhere.GetValueOrDefault(path);
        var known = facts is { } now && _files.TryGetValue(path, out var before) && before.Bytes == now.Bytes && before.ModifiedUtc == now.ModifiedUtc && before.Problem is null ? before : null;
        return use.Describe(path, entry, facts, shelves, () => known is null ? headers.Read(path, facts!.Value.Bytes, facts.Value.ModifiedUtc) : (known.Header, null), _tree.WrittenOtherwise);
    }

    private SessionInventory Whole(SessionUse use, ImmutableArray<InventoryFile> files) => new()
    {
        Folder = folder,
        Revision = Revision,
        Layout = use.Layout,
        Documents = use.Documents,
        Files = files,
        Others = (_otherFiles.Count, _otherBytes),
        Remarks = [.. _tree.Faults, .. new[] { _cardRemark, _holdingRemark }.OfType<Fault>(), .. use.Remarks],
        UnknownFolders = use.Unknown.Folders,
        UnknownFor = use.Unknown.Documents,
        Held = _holding,
        HeldProblem = _holdingRemark,
        CurrentIsStated = use.CurrentIsStated,
        Named = use.Named,
    };

    private sealed class FileOrder : IComparer<InventoryFile>
    {
        public static FileOrder Instance { get; } = new();

        public int Compare(InventoryFile? x, InventoryFile? y) =>
            x!.Standing != y!.Standing ? x.Standing.CompareTo(y.Standing) : string.CompareOrdinal(x.ShownPath, y.ShownPath);
    }
}
