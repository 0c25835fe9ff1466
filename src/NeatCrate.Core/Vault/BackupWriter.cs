using System.Collections.Concurrent;
using System.Collections.Immutable;

namespace NeatCrate.Core.Vault;

/// <summary>A file that is to go into a backup.</summary>
/// <param name="Source">Absolute path that it is read from.</param>
/// <param name="Path">Its path from the session folder, with forward slashes.</param>
/// <param name="IsOutside">True for what stands outside the session.</param>
public sealed record BackupSource(string Source, string Path, bool IsOutside = false);

/// <summary>What is to be backed up.</summary>
/// <param name="Session">The session, as this machine knows it.</param>
/// <param name="Folder">Name of the session folder.</param>
/// <param name="Sources">Its files.</param>
/// <param name="Folders">Its folders, from the session folder.</param>
/// <param name="MadeUtc">The time.</param>
/// <param name="MadeLocal">The same in local time, for the name.</param>
public sealed record BackupRequest(Guid Session, string Folder, ImmutableArray<BackupSource> Sources, ImmutableArray<BackupFolder> Folders, DateTime MadeUtc, DateTime MadeLocal)
{
    /// <summary>Path of the current document, from the session folder.</summary>
    public string? Document { get; init; }

    /// <summary>What is said of it by hand.</summary>
    public string? Note { get; init; }

    /// <summary>The highest number that a backup of the vault is known to have; the new one has a higher one.</summary>
    public long After { get; init; }

    /// <summary>True to read every file, whatever is remembered of it by size, time and number.</summary>
    public bool ByContent { get; init; }

    /// <summary>What belongs to the session and cannot go in; it is told with the backup, or taken over from the one before.</summary>
    public ImmutableArray<BackupLeftOut> LeftOut { get; init; } = [];

    /// <summary>Absolute path of the session folder.</summary>
    public string? Stood { get; init; }

    /// <summary>Where the pointers of documents lead that would lead elsewhere from another place.</summary>
    public ImmutableArray<BackupPointers> Pointers { get; init; } = [];

    /// <summary>Content of which a check found that the vault's is damaged: it counts as not there, and is written again.</summary>
    public ImmutableHashSet<ContentHash> Damaged { get; init; } = [];

    /// <summary>True to make a backup only where something is otherwise than in the last one of this session.</summary>
    public bool OnlyIfChanged { get; init; }
}

/// <summary>How a backup went.</summary>
/// <param name="Name">Name of its manifest; null where nothing was otherwise than in the last one, so that none was made.</param>
/// <param name="Manifest">The backup, or the last one where none was made.</param>
public sealed record BackupResult(string? Name, BackupManifest Manifest);

/// <summary>How far a backup is.</summary>
public readonly record struct VaultProgress(int FilesDone, int Files, long BytesDone, long Bytes, string Current);

/// <summary>
/// Remembers the SHA-512 of files, by what the system knows of them: size, time of the last change, number on the drive and time
/// of the system's own note of a change. May be asked by several threads at once.
/// </summary>
public interface IContentMemory
{
    /// <summary>What a file holds; null where it is not known, or where the file is otherwise since.</summary>
    ContentHash? Known(string path, FileFacts facts);

    /// <summary>Takes in what a file holds.</summary>
    void Note(string path, FileFacts facts, ContentHash hash);
}

/// <summary>
/// Makes full backups. Content that the vault has is not written again; the manifest is written last. Cut off at any moment, what
/// was put stays, and the next one goes on from there. A file that cannot be read, or that will not stay as it is while it is read, is
/// left out and named; a vault that refuses ends the work.
/// </summary>
/// <param name="vault">Where to.</param>
/// <param name="files">The durable layer, for reading.</param>
/// <param name="memory">What is remembered of files.</param>
public sealed class BackupWriter(BackupVault vault, IDurableFiles files, IContentMemory memory)
{
    private const int Tries = 3;

    // One hashes while the other one waits for the drive.
    private const int AtOnce = 2;

    /// <summary>Makes a backup.</summary>
    /// <param name="request">Of what.</param>
    /// <param name="progress">Told how far it is, by several threads.</param>
    /// <param name="cancel">Stops it; what was put stays for the next one.</param>
    /// <exception cref="FaultException">The vault refuses.</exception>
    public BackupResult Write(BackupRequest request, Action<VaultProgress>? progress, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(request);
        using var held = vault.LockToWrite();
        var identity = vault.Identity();
        var run = new Run(this, request, progress);
        var entries = new BackupEntry?[request.Sources.Length];
        try
        {
            Parallel.For(0, entries.Length, new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = cancel }, i => entries[i] = run.Take(request.Sources[i], cancel));
        }
        catch (AggregateException e) when (e.Flatten().InnerExceptions is var all)
        {
            // Of several that failed together the first one says why.
            throw all.FirstOrDefault(x => x is not OperationCanceledException) is { } failed ? new FaultException(FaultException.Of(failed) ?? throw failed, failed) : new OperationCanceledException(cancel);
        }
        var takenOver = request.LeftOut.Where(l => l.TakenOver is { } entry && run.Holds(entry)).ToList();
        var leftOut = request.LeftOut.Except(takenOver).Concat(run.LeftOut.Select(path => new BackupLeftOut(path, BackupLeftOut.Unreadable))).OrderBy(l => l.Path, StringComparer.Ordinal).ToList();
        var whole = entries.OfType<BackupEntry>().Concat(takenOver.Select(t => t.TakenOver!)).OrderBy(e => e.Path, StringComparer.Ordinal).ToImmutableArray();
        var own = request.Folders.FirstOrDefault(f => f.Path.Length == 0);
        var manifest = new BackupManifest(
            new BackupHeader
            {
                Session = request.Session,
                Folder = request.Folder,
                Made = request.MadeUtc,
                Number = request.After + 1,
                Document = request.Document,
                Note = request.Note,
                Files = whole.Length,
                Bytes = whole.Sum(e => e.Bytes),
                NewBytes = run.NewBytes,
                LeftOut = [.. leftOut.Select(l => l.Path)],
                LeftOutWhy = [.. leftOut.Select(l => l.Why)],
                TakenOver = [.. takenOver.Select(t => t.Path).Order(StringComparer.Ordinal)],
                Stood = request.Stood,
                FolderMode = own?.Mode is { } mode ? Convert.ToString(mode, 8) : null,
                FolderModified = own?.Time is { } time ? ExactTimes.Write(time) : null,
            },
            whole,
            request.Folders)
        {
            Pointers = request.Pointers,
        };
        // First what it names, then the manifest: a backup that exists is whole.
        vault.Store.Flush();
        if (request.OnlyIfChanged && Last(request.Session) is { } last && IsTheSame(last, manifest))
        {
            return new BackupResult(null, last);
        }
        cancel.ThrowIfCancellationRequested();
        // A list in a vault that does not hold what it names would be a backup that is none.
        vault.RequireSame(identity);
        var name = vault.FreeName(request.Folder, request.MadeLocal);
        vault.Store.Put(name, manifest.ToUtf8());
        vault.Store.Flush();
        return new BackupResult(name, manifest);
    }

    /// <summary>Whether nothing is otherwise. Times of folders change with whatever comes and goes in them, and say nothing by themselves.</summary>
    private static bool IsTheSame(BackupManifest last, BackupManifest now) =>
        last.Entries.SequenceEqual(now.Entries) && last.Header.LeftOut.SequenceEqual(now.Header.LeftOut) && last.Header.Stood == now.Header.Stood
        && Folders(last).SequenceEqual(Folders(now)) && Pointers(last).SequenceEqual(Pointers(now));

    private static IEnumerable<(string, int?, bool)> Folders(BackupManifest manifest) => manifest.Folders.Select(f => (f.Path, f.Mode, f.IsEmpty));

    private static IEnumerable<(string, BackupPointer)> Pointers(BackupManifest manifest) => manifest.Pointers.SelectMany(d => d.Pointers.Select(p => (d.Document, p)));

    private BackupManifest? Last(Guid session)
    {
        try
        {
            return vault.Backups().FirstOrDefault(b => b.Header?.Session == session) is { } last ? vault.Manifest(last.Name) : null;
        }
        catch (FaultException)
        {
            // A damaged one is no reason to make none.
            return null;
        }
    }

    private sealed class Run
    {
        private readonly BackupWriter _writer;
        private readonly BackupRequest _request;
        private readonly Action<VaultProgress>? _progress;
        private readonly Lazy<ConcurrentDictionary<long, bool>> _sizes;
        private readonly ConcurrentDictionary<ContentHash, long?> _here = new();
        private readonly long _bytes;
        private long _bytesDone;
        private int _filesDone;
        private long _newBytes;

        public Run(BackupWriter writer, BackupRequest request, Action<VaultProgress>? progress)
        {
            (_writer, _request, _progress) = (writer, request, progress);
            // What the vault holds is asked for one by one, and all of it only where a file comes of which nothing is remembered.
            _sizes = new(() => new(writer.Store.List(VaultNames.Content).Where(o => VaultNames.TryHash(o.Name, out var hash) && !request.Damaged.Contains(hash)).Select(o => o.Bytes).Distinct()
                .Select(b => KeyValuePair.Create(b, true))));
            _bytes = request.Sources.Sum(s => writer.Files.Look(s.Source)?.Bytes ?? 0);
        }

        public ConcurrentBag<string> LeftOut { get; } = [];

        /// <summary>True where the vault has the content of a file of an earlier backup, of its size.</summary>
        public bool Holds(BackupEntry entry) => Has(entry.Hash, entry.Bytes);

        public long NewBytes => Interlocked.Read(ref _newBytes);

        /// <summary>Takes a file in; null for one that had to be left out.</summary>
        public BackupEntry? Take(BackupSource source, CancellationToken cancel)
        {
            Told(0, source);
            for (var attempt = 1; attempt <= Tries; attempt++)
            {
                cancel.ThrowIfCancellationRequested();
                try
                {
                    if (TryTake(source, cancel) is { } entry)
                    {
                        Interlocked.Increment(ref _filesDone);
                        return entry;
                    }
                }
                catch (FaultException e) when (e.Fault.IsOfSource)
                {
                    // Gone, or not to be read: the others are worth keeping all the same.
                    break;
                }
            }
            LeftOut.Add(source.Path);
            return null;
        }

        /// <summary>Takes a file in; null when it changed meanwhile.</summary>
        private BackupEntry? TryTake(BackupSource source, CancellationToken cancel)
        {
            using var from = OpenSource(source.Source);
            var facts = from.Facts;
            if (!_request.ByContent && _writer.Memory.Known(source.Source, facts) is { } known && Has(known, facts.Bytes))
            {
                Told(facts.Bytes, source);
                return Entry(source, facts, known);
            }
            ContentHash hash;
            // Content of a size that the vault has may be there: then hashing comes first, so that nothing is written twice.
            if (_sizes.Value.ContainsKey(facts.Bytes))
            {
                hash = Read(source, from, facts.Bytes, null, false, cancel);
                if (Has(hash, facts.Bytes))
                {
                    Told(facts.Bytes, source);
                    return Noted(source, from, facts, hash);
                }
            }
            using var made = _writer.Store.Begin(facts.Bytes);
            hash = Read(source, from, facts.Bytes, made, true, cancel);
            if (from.Facts != facts)
            {
                return null;
            }
            if (made.Keep(VaultNames.Of(hash), replaces: _request.Damaged.Contains(hash) || IsOfOtherSize(hash, facts.Bytes)))
            {
                Interlocked.Add(ref _newBytes, facts.Bytes);
            }
            _here[hash] = facts.Bytes;
            _sizes.Value[facts.Bytes] = true;
            return Noted(source, from, facts, hash);
        }

        private BackupEntry? Noted(BackupSource source, SourceFile from, FileFacts facts, ContentHash hash)
        {
            if (from.Facts != facts)
            {
                return null;
            }
            _writer.Memory.Note(source.Source, facts, hash);
            return Entry(source, facts, hash);
        }

        private static BackupEntry Entry(BackupSource source, FileFacts facts, ContentHash hash) =>
            new(source.Path, hash, facts.Bytes, facts.ModifiedUtc, facts.Mode & 0x1FF, source.IsOutside ? source.Source : null, facts.ModifiedRest);

        /// <summary>Content of another size than it must have is damaged, and is no copy. It stays until the whole one takes its place.</summary>
        private bool Has(ContentHash hash, long bytes) => SizeOf(hash) == bytes;

        private bool IsOfOtherSize(ContentHash hash, long bytes) => SizeOf(hash) is { } there && there != bytes;

        /// <summary>Size of content in the vault; null where it has none, or a check found it damaged.</summary>
        private long? SizeOf(ContentHash hash) => _here.GetOrAdd(hash, h => _request.Damaged.Contains(h) ? null : _writer.Store.Size(VaultNames.Of(h)));

        private ContentHash Read(BackupSource source, SourceFile from, long bytes, NewObject? to, bool isTold, CancellationToken cancel)
        {
            using var stream = new SourceStream(from, source.Source, bytes);
            return ContentHash.OfStream(
                stream,
                part =>
                {
                    to?.Write(part.Span);
                    Told(isTold ? part.Length : 0, source);
                },
                cancel);
        }

        private SourceFile OpenSource(string path)
        {
            try
            {
                return _writer.Files.OpenSource(path);
            }
            catch (FaultException e)
            {
                throw SourceReading.OfSource(e, path);
            }
        }

        private void Told(long bytes, BackupSource source)
        {
            var done = Interlocked.Add(ref _bytesDone, bytes);
            _progress?.Invoke(new VaultProgress(Volatile.Read(ref _filesDone), _request.Sources.Length, Math.Min(done, _bytes), _bytes, source.Path));
        }
    }

    private IObjectStore Store => vault.Store;

    private IDurableFiles Files => files;

    private IContentMemory Memory => memory;
}
