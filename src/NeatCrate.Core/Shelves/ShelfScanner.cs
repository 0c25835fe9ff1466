using System.Collections.Concurrent;
using System.Runtime.ExceptionServices;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Shelves;

/// <summary>
/// Scans a shelf: looks through all its folders, and reads the headers of files that are new or changed (by size, time or
/// number on the drive). Where all files of the shelf have other numbers and nothing else is different, the drive was
/// connected anew, and no header is read again. Folders and files are read by several threads at once. Reading changes nothing.
/// </summary>
public sealed class ShelfScanner : IDisposable
{
    // A file at a time would spend its time on passing work around; a whole folder may hold a hundred thousand.
    private const int FilesAtOnce = 64;

    private static readonly Fault UnopenableName = new(FaultCode.NameNotText);

    private const long NotRead = -1;

    // A fingerprint that no folder has.
    private static readonly UInt128 LookAgain = UInt128.MaxValue;

    private readonly string _root;
    private readonly IReadOnlySet<string> _others;
    private readonly ICatalogueScan _catalogue;
    private readonly Action<ScanProgress> _progress;
    private readonly CancellationToken _cancel;

    private readonly BlockingCollection<string> _waiting = new(new ConcurrentStack<string>());
    private readonly ConcurrentDictionary<(ulong Device, ulong Inode), bool> _visited = new();
    private readonly ConcurrentDictionary<string, bool> _seen = new(StringComparer.Ordinal);
    private readonly ConcurrentBag<(string Path, Fault Reason)> _problems = [];
    private readonly ConcurrentBag<ChangedFolder> _changed = [];
    private int _sameNumber;
    private int _pending = 1;
    private int _folders;
    private int _files;
    private long _bytes;
    private int _toRead;
    private int _read;

    private ShelfScanner(string root, IReadOnlySet<string> others, ICatalogueScan catalogue, Action<ScanProgress> progress, CancellationToken cancel) =>
        (_root, _others, _catalogue, _progress, _cancel) = (root, others, catalogue, progress, cancel);

    /// <summary>Scans a shelf.</summary>
    /// <param name="root">Absolute path of its top folder.</param>
    /// <param name="others">Top folders of other shelves; what lies in them belongs to those.</param>
    /// <param name="catalogue">What is known, and where what is found goes.</param>
    /// <param name="progress">Told how far it is, from several threads.</param>
    /// <param name="cancel">Ends the scan between two files; what was put into the catalogue by then stays.</param>
    /// <exception cref="FaultException">The top folder cannot be read, or went away meanwhile. What the catalogue knew is kept.</exception>
    public static ScanResult Scan(
        string root, IReadOnlySet<string> others, ICatalogueScan catalogue, Action<ScanProgress>? progress = null, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(root);
        ArgumentNullException.ThrowIfNull(others);
        ArgumentNullException.ThrowIfNull(catalogue);
        using var scanner = new ShelfScanner(root, others, catalogue, progress ?? (_ => { }), cancel);
        return scanner.Run();
    }

    /// <inheritdoc/>
    public void Dispose() => _waiting.Dispose();

    private ScanResult Run()
    {
        _waiting.Add("");
        Together(() => Parallel.For(0, Environment.ProcessorCount, _ => LookThroughFolders()));
        RequireItIsThere();
        ReadHeaders();
        RequireItIsThere();
        var gone = _catalogue.Folders.Keys.Where(f => !_seen.ContainsKey(f) && !IsBelowProblem(f)).ToList();
        _catalogue.Forget(gone);
        return new ScanResult(_folders, _files, _bytes, _toRead, gone.Count, [.. _problems.OrderBy(p => p.Path, StringComparer.Ordinal)]);
    }

    /// <summary>A drive that leaves takes its files along, not what is known of them. An empty mount point is a drive that left, too.</summary>
    private void RequireItIsThere()
    {
        if (!Directory.Exists(_root) || !_seen.ContainsKey(""))
        {
            throw new FaultException(new Fault(FaultCode.ScanLostShelf) { Path = _root, Reasons = [.. _problems.Where(p => p.Path.Length == 0).Select(p => p.Reason).Take(1)] });
        }
        if (_files == 0 && _folders == 1 && _catalogue.Folders.Count > 1)
        {
            throw new FaultException(FaultCode.ScanFoundEmptyPlace, _root);
        }
    }

    private bool IsBelowProblem(string folder) => _problems.Any(p => p.Path == folder || folder.StartsWith(p.Path + "/", StringComparison.Ordinal));

    /// <summary>Runs what works on several threads; of all their errors the one comes out that the others followed from.</summary>
    private void Together(Action work)
    {
        try
        {
            work();
        }
        catch (AggregateException e)
        {
            _cancel.ThrowIfCancellationRequested();
            ExceptionDispatchInfo.Throw(e.InnerExceptions.FirstOrDefault(i => i is not (OperationCanceledException or InvalidOperationException)) ?? e.InnerExceptions[0]);
        }
    }

    private void LookThroughFolders()
    {
        try
        {
            foreach (var folder in _waiting.GetConsumingEnumerable(_cancel))
            {
                LookThrough(folder);
                if (Interlocked.Decrement(ref _pending) == 0)
                {
                    _waiting.CompleteAdding();
                }
            }
        }
        catch
        {
            // The other threads must not wait for folders that will never come.
            _waiting.CompleteAdding();
            throw;
        }
    }

    private void LookThrough(string folder)
    {
        FolderContent content;
        try
        {
            content = FolderContent.Read(Absolute(folder), followLink: folder.Length == 0);
        }
        catch (FaultException e)
        {
            CannotRead(folder, e.Fault);
            return;
        }
        if (!_visited.TryAdd((content.Device, content.Inode), true))
        {
            // One folder mounted in two places of a shelf, perhaps in itself: once is enough.
            return;
        }
        _seen[folder] = true;
        foreach (var name in content.UnopenableFolders)
        {
            CannotRead(Below(folder, name), UnopenableName);
        }
        foreach (var path in content.Folders.Select(name => Below(folder, name)).Where(p => !_others.Contains(Absolute(p))))
        {
            Interlocked.Increment(ref _pending);
            _waiting.Add(path);
        }
        Interlocked.Add(ref _bytes, content.Files.Sum(f => f.Bytes));
        var (folders, files) = (Interlocked.Increment(ref _folders), Interlocked.Add(ref _files, content.Files.Count));
        if (!_catalogue.Folders.TryGetValue(folder, out var known) || known != content.Fingerprint)
        {
            Compare(folder, content);
        }
        else
        {
            Interlocked.Add(ref _sameNumber, content.Files.Count);
        }
        _progress(new ScanProgress(ScanPhase.Looking, folders, files, 0, 0, folder));
    }

    private void CannotRead(string folder, Fault reason)
    {
        _problems.Add((folder, reason));
        if (folder.Length > 0)
        {
            _catalogue.Put(new ScannedFolder(folder, LookAgain, reason, [], [], []));
        }
    }

    private void Compare(string folder, FolderContent content)
    {
        FolderFile[] changed = [.. content.Files];
        FolderFile[] renumbered = [];
        string[] gone = [];
        if (_catalogue.Folders.ContainsKey(folder))
        {
            var known = _catalogue.Files(folder);
            changed = [.. changed.Where(f => !known.TryGetValue(f.Name, out var before) || before != f)];
            Interlocked.Add(ref _sameNumber, content.Files.Count - changed.Length);
            renumbered = [.. changed.Where(f => known.TryGetValue(f.Name, out var before) && before.Inode != NotRead && before with { Inode = f.Inode } == f)];
            changed = [.. changed.Except(renumbered)];
            gone = [.. known.Keys.Except(content.Files.Select(f => f.Name), StringComparer.Ordinal)];
        }
        _changed.Add(new ChangedFolder(folder, content.Fingerprint, changed, gone, renumbered));
    }

    private void ReadHeaders()
    {
        // One file that has another number took the place of the one that was known. When no file has its own, the drive has new numbers for all.
        if (_sameNumber > 0)
        {
            foreach (var folder in _changed)
            {
                folder.ReadRenumbered();
            }
        }
        _toRead = _changed.Sum(c => c.Files.Length);
        foreach (var folder in _changed.Where(c => c.IsEmpty))
        {
            _catalogue.Put(folder.Release());
        }
        var parts = _changed.SelectMany(c => c.Parts(FilesAtOnce));
        // Headers on a disk that turns are waited for more than computed.
        var options = new ParallelOptions { CancellationToken = _cancel, MaxDegreeOfParallelism = Math.Max(4, Environment.ProcessorCount) };
        Together(() => Parallel.ForEach(Partitioner.Create(parts, EnumerablePartitionerOptions.NoBuffering), options, part =>
        {
            ReadPart(part);
            var read = Interlocked.Add(ref _read, part.Count);
            if (part.Folder.Done(part.Count))
            {
                _catalogue.Put(part.Folder.Release());
            }
            _progress(new ScanProgress(ScanPhase.Reading, _folders, _files, _toRead, read, part.Folder.Path));
        }));
    }

    private void ReadPart(Part part)
    {
        OpenFolder? folder = null;
        try
        {
            for (var i = part.From; i < part.From + part.Count; i++)
            {
                _cancel.ThrowIfCancellationRequested();
                part.Folder.Scanned[i] = Read(part.Folder.Path, part.Folder.Files[i], ref folder);
            }
        }
        finally
        {
            folder?.Dispose();
        }
    }

    private ScannedFile Read(string path, FolderFile file, ref OpenFolder? folder)
    {
        var kind = MediaFiles.KindOf(file.Name);
        if (!file.NameIsText)
        {
            return new ScannedFile(file, kind, null, UnopenableName);
        }
        if (kind != MediaKind.Audio)
        {
            return new ScannedFile(file, kind, null, null);
        }
        try
        {
            folder ??= OpenFolder.Open(Absolute(path));
            using var source = folder.OpenFile(file.Name, file.Bytes);
            return new ScannedFile(file, kind, MediaHeaderReader.Read(source, Path.GetExtension(file.Name)) is { } header ? ScannedSound.Of(header) : null, null);
        }
        catch (UnreadableMediaException e)
        {
            return new ScannedFile(file, kind, null, e.Fault);
        }
        catch (FaultException e)
        {
            // What the drive did not give this time it may give the next time: no file has this number, so it is read again.
            return new ScannedFile(file with { Inode = NotRead }, kind, null, e.Fault);
        }
    }

    private static string Below(string folder, string name) => folder.Length == 0 ? name : folder + "/" + name;

    private string Absolute(string folder) => folder.Length == 0 ? _root : Path.Combine(_root, folder);

    private sealed class ChangedFolder(string path, UInt128 fingerprint, FolderFile[] changed, string[] gone, FolderFile[] renumbered)
    {
        private int _left = changed.Length;
        private FolderFile[] _renumbered = renumbered;

        public string Path => path;

        public bool IsEmpty => Files.Length == 0;

        public FolderFile[] Files { get; private set; } = changed;

        public ScannedFile[] Scanned { get; private set; } = [];

        /// <summary>Takes the files that have another number for other ones than before.</summary>
        public void ReadRenumbered()
        {
            Files = [.. Files, .. _renumbered];
            (_left, _renumbered) = (Files.Length, []);
        }

        public IEnumerable<Part> Parts(int atOnce)
        {
            Scanned = new ScannedFile[Files.Length];
            var all = Files.Length;
            for (var from = 0; from < all; from += atOnce)
            {
                yield return new Part(this, from, Math.Min(atOnce, all - from));
            }
        }

        /// <summary>True for the last part of the folder that is done.</summary>
        public bool Done(int count) => Interlocked.Add(ref _left, -count) == 0;

        /// <summary>What changed in the folder, given away once: of a million files only those at hand are held.</summary>
        public ScannedFolder Release()
        {
            var result = new ScannedFolder(path, Scanned.Any(f => f.File.Inode == NotRead) ? LookAgain : fingerprint, null, Scanned, gone, _renumbered);
            (Files, Scanned, _renumbered) = ([], [], []);
            return result;
        }
    }

    private readonly record struct Part(ChangedFolder Folder, int From, int Count);
}
