using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>What the documents of a session use, worked out of all of them at one moment: from it follows what is so of each file.</summary>
internal sealed class SessionUse
{
    private readonly string _folder;
    private readonly string _realFolder;
    private readonly Dictionary<string, List<Pointer>> _pointers = new(StringComparer.Ordinal);
    private readonly Dictionary<string, List<string>> _instrumentsOf = new(StringComparer.Ordinal);
    private readonly Dictionary<string, IReadOnlyList<DocumentUse>> _byDocument = new(StringComparer.Ordinal);
    private readonly HashSet<string> _usedOtherwise = new(StringComparer.Ordinal);
    private readonly HashSet<string> _oneOfSeveral = new(StringComparer.Ordinal);
    private readonly Dictionary<string, KnownFile> _recalled;
    private readonly Dictionary<string, IReadOnlyDictionary<string, string>> _meant = new(StringComparer.Ordinal);
    private UnknownUse _unknown;
    private readonly IReadOnlySet<string> _held;
    private readonly bool _isLayoutFound;
    private readonly bool _hadStandardAudio;
    private readonly HashSet<string> _namedNames = new(StringComparer.Ordinal);
    private readonly HashSet<string> _namedInside = new(StringComparer.Ordinal);

    // How often one file is named matters to nobody beyond this.
    private const int MostTimes = 1000;

    /// <param name="Reference">The pointer.</param>
    /// <param name="Document">The document that holds it.</param>
    /// <param name="Through">True where it does not point at the file itself, but at an instrument that plays it.</param>
    private sealed record Pointer(MediaReference Reference, InventoryDocument Document, bool Through = false)
    {
        public bool Current => Document.Current || Document.CountsNow;
    }

    /// <summary>Works it out.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="stated">The document that the session card states as current.</param>
    /// <param name="chosen">The one that was chosen on this machine.</param>
    /// <param name="documents">All documents in the folder.</param>
    /// <param name="instruments">All sample instruments in it.</param>
    /// <param name="elsewhere">What a sample instrument plays that stands elsewhere; null where it is not there.</param>
    /// <param name="odd">Paths of files that may be documents of a kind that is not known.</param>
    /// <param name="tree">The folder's files.</param>
    /// <param name="held">Absolute paths of the files that are set aside.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="exists">Whether a file stands at a path.</param>
    /// <param name="memory">What is known of files on shelves that are away.</param>
    public SessionUse(
        string folder, string? stated, string? chosen, IReadOnlyList<InventoryDocument> documents, IReadOnlyDictionary<string, InstrumentSamples> instruments, Func<string, InstrumentSamples?> elsewhere,
        IEnumerable<string> odd, SessionTree tree, IReadOnlySet<string> held, IReadOnlyList<Shelf> shelves, Func<string, bool> exists, IShelfMemory? memory)
    {
        (_folder, _realFolder, _held) = (folder, RealPath.Of(folder), held);
        var remarks = new List<Fault>();
        Documents = [.. InOrder(folder, stated, chosen, documents, remarks)];
        CurrentIsStated = stated is not null && Documents.Any(d => d.Current && Path.GetFileName(d.Path) == stated);
        FindPointers(shelves, exists);
        var current = Documents.FirstOrDefault(d => d.Current)?.Document;
        (_isLayoutFound, _hadStandardAudio) = (current?.Layout is null, HasStandardAudio);
        if (current?.CacheInUse is { } inUse)
        {
            remarks.Add(new Fault(FaultCode.CacheFolderInUse) { Name = inUse });
        }
        Layout = current?.Layout ?? SessionLayout.Found(folder, tree.Files.Keys);
        Named = FindNames(tree, shelves, exists);
        FindSamples(instruments, elsewhere);
        _unknown = new UnknownUse(folder, Layout, Documents, odd, instruments.Where(i => i.Value.PointsElsewhere).Select(i => i.Key), Named, remarks);
        _recalled = Recall(_pointers.Keys, shelves, exists, memory);
        Remarks = [.. remarks];
    }

    /// <summary>Its documents: the current one first, then the newest by their dates.</summary>
    public ImmutableArray<InventoryDocument> Documents { get; private set; }

    /// <summary>True where the session card states which document is current.</summary>
    public bool CurrentIsStated { get; }

    /// <summary>Of the media files in the folder, how many the documents of other programs name; null where there are no such documents.</summary>
    public NamedShare? Named { get; }

    /// <summary>Where things stand in the folder.</summary>
    public SessionLayout Layout { get; }

    /// <summary>What is odd about its documents.</summary>
    public ImmutableArray<Fault> Remarks { get; private set; }

    /// <summary>Where and for which documents nobody can say what is not used.</summary>
    public (ImmutableArray<string> Folders, ImmutableArray<string> Documents) Unknown => (_unknown.Folders, _unknown.Documents);

    /// <summary>Absolute paths of all that is pointed at.</summary>
    public IEnumerable<string> Paths => _pointers.Keys;

    /// <summary>True for a file in the folder that is on the inventory by itself: media, and whatever else a document points at.</summary>
    public bool Lists(string path) => IsMedia(path) || PointsAt(path);

    private bool IsMedia(string path) => Path.GetFileName(path) is var name && name[0] != '.' && MediaFiles.KindOf(name) is not null && !IsIn(path, Layout.WaveformCache);

    /// <summary>True for a path that a document points at.</summary>
    public bool PointsAt(string path) => _pointers.ContainsKey(path);

    /// <summary>The places at which its documents use files.</summary>
    /// <param name="paths">Absolute paths of the files.</param>
    /// <param name="file">What is known of a file.</param>
    /// <param name="rewritten">Documents that count as holding these bytes, whatever they hold now.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="exists">Whether a file stands at a path.</param>
    public IEnumerable<UsePlace> UsesOf(
        IReadOnlySet<string> paths, Func<string, InventoryFile?> file, IReadOnlyDictionary<string, byte[]> rewritten, IReadOnlyList<Shelf> shelves, Func<string, bool> exists)
    {
        foreach (var path in paths)
        {
            foreach (var pointer in _pointers.GetValueOrDefault(path) ?? [])
            {
                if (!rewritten.ContainsKey(pointer.Document.Path))
                {
                    yield return Place(path, pointer.Reference, pointer.Document, file);
                }
            }
        }
        foreach (var document in Documents.Where(d => rewritten.ContainsKey(d.Path)))
        {
            foreach (var reference in ReferencesIn(document.Path, rewritten[document.Path]))
            {
                var path = ReferencedPath.Of(reference.TargetUrl, ReferencedPath.Candidates(reference.TargetUrl, document, _folder), shelves, exists);
                if (paths.Contains(path))
                {
                    yield return Place(path, reference, document, file);
                }
            }
        }
    }

    /// <summary>How its documents use files, by path and by document: the current one first.</summary>
    public Dictionary<string, IReadOnlyList<DocumentUse>> ByDocument()
    {
        // Kept, since mostly one document was saved in between; what is given is a copy, which stays as it is.
        foreach (var path in _byDocument.Count == 0 ? [.. _pointers.Keys] : _usedOtherwise)
        {
            if (_pointers.TryGetValue(path, out var pointers))
            {
                _byDocument[path] = UsesOf(pointers);
            }
            else
            {
                _byDocument.Remove(path);
            }
        }
        _usedOtherwise.Clear();
        return new Dictionary<string, IReadOnlyList<DocumentUse>>(_byDocument, StringComparer.Ordinal);
    }

    private static DocumentUse[] UsesOf(List<Pointer> pointers) =>
    [
        .. pointers.GroupBy(p => p.Document.Path, StringComparer.Ordinal).Select(g => new DocumentUse(
            g.Key, g.First().Current, g.Where(p => p.Reference.Placed).Select(p => p.Reference.ClipNumber).Distinct().Count(),
            g.Count(p => p.Reference.IsOnList && !p.Through), g.Count(p => !p.Reference.Placed && (!p.Reference.IsOnList || p.Through)))),
    ];

    /// <summary>The places at which its documents use files that stand outside of its folder.</summary>
    /// <param name="file">What is known of a file.</param>
    public IEnumerable<UsePlace> Elsewhere(Func<string, InventoryFile?> file) =>
        _pointers.Where(p => p.Key.StartsWith('/') && !ShelfPath.IsWithin(p.Key, _folder)).SelectMany(p => p.Value.Select(u => Place(p.Key, u.Reference, u.Document, file)));

    private static IReadOnlyList<MediaReference> ReferencesIn(string path, byte[] document)
    {
        try
        {
            return DocumentFormats.Read<IMediaPointers>(path, document).References;
        }
        catch (UnreadableDocumentException)
        {
            return [];
        }
    }

    private UsePlace Place(string path, MediaReference reference, InventoryDocument document, Func<string, InventoryFile?> file)
    {
        var known = file(path);
        SampleRange? range = reference.Placed && known?.Known is { SampleRate: { } rate, LengthSamples: { } length }
            ? SampleRange.Of(reference.Source, reference.AvailableStart, rate, length, known.Header?.Broadcast?.TimeReference ?? 0)
            : null;
        return new UsePlace(path, _folder, document.Path, document.Current, reference.Placed, reference.Track, reference.Clip, range);
    }

    /// <summary>True where it still holds after changes, so that only the files themselves have to be looked at.</summary>
    /// <param name="changes">What changed in the folder.</param>
    /// <param name="probed">Paths elsewhere that are not as they were.</param>
    public bool Serves(IEnumerable<EntryChange> changes, IEnumerable<string> probed)
    {
        // What comes or goes may be what a pointer means that has several readings.
        var moved = changes.Where(c => c.Before is null != c.Now is null).Select(c => c.Path).ToList();
        if (moved.Exists(p => _namedNames.Contains(FolderNames.Key(Path.GetFileName(p)))))
        {
            // It may be what a name means, or meant until now.
            return false;
        }
        if (_isLayoutFound && (moved.Exists(IsMedia) || HasStandardAudio != _hadStandardAudio))
        {
            return false;
        }
        // What is gone and was pointed at has to be remembered as it was.
        return !moved.Concat(probed).Any(p => _oneOfSeveral.Contains(p) || _instrumentsOf.ContainsKey(p) || _pointers.ContainsKey(p));
    }

    /// <summary>Whether the audio folder stands where it does unless a document says otherwise, empty or not.</summary>
    private bool HasStandardAudio => Directory.Exists(Path.Combine(_folder, SessionLayout.Default.Audio));

    /// <summary>What is so of one file.</summary>
    /// <param name="path">Its path, as the folder or a document has it.</param>
    /// <param name="entry">What the folder says of it; null where it is not in it.</param>
    /// <param name="facts">What the system knows of it; null where it is not there.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="header">Its header, or the reason why there is none.</param>
    /// <param name="otherwise">The file that stands where a path says but for the way it is written.</param>
    public InventoryFile Describe(
        string path, SessionEntry? entry, FileFacts? facts, IReadOnlyList<Shelf> shelves, Func<(MediaHeader? Header, Fault? Problem)> header, Func<string, string?> otherwise)
    {
        var pointers = _pointers.GetValueOrDefault(path);
        var shelf = path.StartsWith('/') ? Shelf.Holding(shelves, path) : null;
        var there = facts is { IsRegular: true };
        var belongs = ShelfPath.IsWithin(path, _folder);
        var remarks = new List<Fault>();
        // What the walk through the folder found is inside, since it follows no link; everything else is where its links lead.
        var real = there && (entry is null or { IsLink: true }) ? RealPath.Of(path) : path;
        var inside = there && (entry is { IsLink: false } || ShelfPath.IsWithin(real, _realFolder));
        if (there && real != path && belongs)
        {
            remarks.Add(new Fault(FaultCode.BehindALink) { Other = real });
        }
        var (read, problem) = there ? header() : (null, null);
        var current = pointers?.Where(p => p.Current && p.Reference.Placed).Select(p => p.Reference).ToList() ?? [];
        remarks.AddRange(read?.Remarks ?? []);
        if (PortableName.Problems(Path.GetFileName(path)) is [var nameProblem, ..])
        {
            remarks.Add(nameProblem);
        }
        if (_instrumentsOf.TryGetValue(path, out var instruments))
        {
            remarks.Add(new Fault(FaultCode.SampleOfInstrument) { Names = [.. instruments.Select(i => Path.GetFileName(i))] });
        }
        var written = !there && belongs ? otherwise(path) : null;
        if (written is not null)
        {
            remarks.Add(new Fault(FaultCode.WrittenOtherwise) { Name = Path.GetRelativePath(_folder, written) });
        }
        var recalled = there ? null : _recalled.GetValueOrDefault(path);
        return new InventoryFile
        {
            Path = path,
            Standing = Stand(there, inside, shelf),
            Use = Use(path, pointers, current.Count),
            ShelfId = shelf?.Id,
            ShelfName = shelf?.Name,
            ShownPath = belongs ? Path.GetRelativePath(_folder, path) : shelf?.Relative(path) ?? path,
            BelongsInside = belongs,
            WrittenOtherwise = written,
            PlacedTimes = current.Select(r => r.ClipNumber).Distinct().Count(),
            NamedTimes = pointers?.Count(p => p.Current && p.Document.IsNaming && !p.Through && p.Reference.Knowledge == UseKnowledge.Named) ?? 0,
            Bytes = there ? facts!.Value.Bytes : 0,
            ModifiedUtc = there ? facts!.Value.ModifiedUtc : null,
            Header = read,
            Recalled = recalled,
            Stated = pointers?.Where(p => p.Reference.AvailableSeconds > 0).OrderByDescending(p => p.Current)
                .Select(p => new StatedLength(p.Reference.AvailableSeconds!.Value, p.Reference.AvailableRate)).FirstOrDefault(),
            NeededSeconds = NeededOf(current),
            Problem = problem,
            Used = there ? UsedOf(current, read?.SampleRate, read?.LengthSamples, read?.Broadcast?.TimeReference ?? 0) : UsedOf(current, recalled?.SampleRate, recalled?.LengthSamples, 0),
            Tracks = [.. current.Select(r => r.Track).OfType<string>().Distinct()],
            TargetUrls = [.. pointers?.Where(p => !p.Through).Select(p => p.Reference.TargetUrl).Distinct() ?? []],
            Instruments = [.. instruments ?? []],
            RenderOf = pointers?.OrderByDescending(p => p.Current).Select(p => p.Reference.RenderOf).FirstOrDefault(r => r is not null),
            ListedTake = pointers?.Where(p => p.Current).Select(p => p.Reference.Take).FirstOrDefault(t => t is not null),
            Remarks = [.. remarks],
        };
    }

    private static List<InventoryDocument> InOrder(string folder, string? stated, string? chosen, IReadOnlyList<InventoryDocument> documents, List<Fault> remarks)
    {
        var atTop = documents.Where(d => Path.GetDirectoryName(d.Path) == folder).ToList();
        var top = SessionFolder.Documents(atTop.Where(d => SessionFolder.IsDocument(Path.GetFileName(d.Path))).Select(d => (d.Path, d.ModifiedUtc)));
        var others = WorkedIn(atTop);
        string? Named(string? name) => name is null ? null : top.Concat(atTop.Where(d => d.IsNaming).Select(d => d.Path)).FirstOrDefault(d => Path.GetFileName(d) == name);
        var current = Named(stated) ?? Named(chosen) ?? (top.Count > 0 ? top[0] : others.Count > 0 ? others[0] : null);
        // Of the kind of the current one no other counts, however the dates in their names stand.
        var kind = Path.GetExtension(current);
        var read = documents.Select(d => d with { Current = d.Path == current, CountsNow = others.Contains(d.Path) && !Path.GetExtension(d.Path).Equals(kind, StringComparison.OrdinalIgnoreCase) })
            .OrderByDescending(d => d.Current).ThenByDescending(d => d.Dated).ThenByDescending(d => DatedName.VersionOf(Path.GetFileNameWithoutExtension(d.Path)))
            .ThenByDescending(d => d.Path, StringComparer.Ordinal).ToList();
        remarks.AddRange(read.Where(r => r.Problem is not null && !r.IsNaming).Select(r => new Fault(FaultCode.DocumentCannotBeOpened) { Path = r.Path, Reasons = [r.Problem!] }));
        if (read.Find(r => r.Current) is not { } now)
        {
            remarks.Add(new Fault(FaultCode.NoDocument) { Path = folder });
            return read;
        }
        if (stated is not null && Path.GetFileName(now.Path) != stated)
        {
            remarks.Add(new Fault(FaultCode.StatedDocumentGone) { Name = stated, Other = Path.GetFileName(now.Path) });
        }
        // Another program may have gone on under a new name: whoever opens the session here must hear that it is not the current one.
        if (read.Find(d => !d.Current && !d.IsNaming && Path.GetDirectoryName(d.Path) == folder && d.ModifiedUtc > now.ModifiedUtc) is { } newer)
        {
            remarks.Add(new Fault(FaultCode.NewerDocumentBeside) { Name = Path.GetFileName(newer.Path), Other = Path.GetFileName(now.Path) });
        }
        remarks.AddRange((now.Document?.UnfollowedReferences ?? new Dictionary<string, int>()).Select(u => new Fault(FaultCode.UnfollowedReferences) { Name = u.Key, Count = u.Value }));
        return read;
    }

    /// <summary>
    /// The documents at the top of the folder that other programs work in, the newest first: of each kind the newest, and none that
    /// names far less than others do, as a list of presets that mentions one file.
    /// </summary>
    private static List<string> WorkedIn(List<InventoryDocument> atTop)
    {
        var naming = atTop.Where(d => d.IsNaming).ToList();
        var most = naming.Count == 0 ? 0 : naming.Max(d => d.Document!.Names!.Names.Length);
        return
        [
            .. naming.Where(d => d.Document!.Names!.Names.Length * 4 >= most).GroupBy(d => Path.GetExtension(d.Path), StringComparer.OrdinalIgnoreCase)
                .Select(LastWorkedIn)
                .OrderByDescending(p => naming.Find(d => d.Path == p)!.ModifiedUtc).ThenBy(p => p, StringComparer.Ordinal),
        ];
    }

    /// <summary>
    /// Of documents of one kind the newest by the dates in their names, where all have one; of one day the one that was saved last,
    /// unless their names say the time.
    /// </summary>
    private static string LastWorkedIn(IEnumerable<InventoryDocument> documents)
    {
        var named = documents.Select(d => (d.Path, d.ModifiedUtc, Stem: Path.GetFileNameWithoutExtension(d.Path))).ToList();
        var byName = named.TrueForAll(d => DatedName.HasDate(d.Stem));
        DateTime TimeOf((string Path, DateTime ModifiedUtc, string Stem) d) => byName ? DatedName.TimeOf(d.Stem, d.ModifiedUtc) : d.ModifiedUtc.ToLocalTime();
        return named.OrderByDescending(d => TimeOf(d).Date).ThenByDescending(d => TimeOf(d) is { TimeOfDay.Ticks: > 0 } time ? time : d.ModifiedUtc.ToLocalTime())
            .ThenByDescending(d => DatedName.VersionOf(d.Stem)).ThenByDescending(d => d.Stem, StringComparer.Ordinal).First().Path;
    }

    /// <summary>What the documents of other programs name, as pointers at the files that are meant; gives how many of the media files in the folder these are.</summary>
    private NamedShare? FindNames(SessionTree tree, IReadOnlyList<Shelf> shelves, Func<string, bool> exists)
    {
        if (!Documents.Any(d => d.IsNaming))
        {
            return null;
        }
        var media = new FolderNames(tree.Files.Keys.Where(p => IsMedia(p) && !_held.Contains(p)));
        bool Stands(string path)
        {
            // Whether it comes or goes may change what a name means, also where it means another file until then.
            _oneOfSeveral.Add(path);
            return exists(path);
        }
        var meanings = new NameMeanings(_folder, media, Layout.Audio, Stands, shelves);
        foreach (var document in Documents.Where(d => d.IsNaming))
        {
            var names = document.Document!.Names!.Names;
            _namedNames.UnionWith(NameMeanings.NamesIn(names));
            foreach (var meaning in meanings.Of(names, Path.GetDirectoryName(document.Path)!))
            {
                var pointer = new Pointer(new MediaReference(meaning.Written, false, null, null, null, null, null) { IsOpen = meaning.Knowledge == UseKnowledge.MayBeNamed }, document);
                (_pointers.TryGetValue(meaning.Path, out var list) ? list : _pointers[meaning.Path] = []).AddRange(Enumerable.Repeat(pointer, Math.Min(meaning.Times, MostTimes)));
                if (media.Holds(meaning.Path))
                {
                    _namedInside.Add(meaning.Path);
                }
            }
        }
        return new NamedShare(_namedInside.Count, media.Count);
    }

    /// <summary>All pointers of all documents by the path that they mean.</summary>
    private void FindPointers(IReadOnlyList<Shelf> shelves, Func<string, bool> exists)
    {
        foreach (var entry in Documents.Where(d => !d.IsNaming))
        {
            foreach (var (path, found) in PointersIn(entry, shelves, exists))
            {
                (_pointers.TryGetValue(path, out var list) ? list : _pointers[path] = []).AddRange(found);
            }
        }
    }

    /// <summary>The pointers of one document by the path that they mean.</summary>
    /// <param name="entry">The document.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="exists">Whether a file stands at a path.</param>
    /// <param name="known">What its pointers meant before it was saved, and mean still; null where that is not known.</param>
    private Dictionary<string, List<Pointer>> PointersIn(InventoryDocument entry, IReadOnlyList<Shelf> shelves, Func<string, bool> exists, IReadOnlyDictionary<string, string>? known = null)
    {
        var (meant, pointers) = (new Dictionary<string, string>(StringComparer.Ordinal), new Dictionary<string, List<Pointer>>(StringComparer.Ordinal));
        foreach (var reference in entry.Document?.References ?? [])
        {
            if (!meant.TryGetValue(reference.TargetUrl, out var path))
            {
                meant[reference.TargetUrl] = path = known?.GetValueOrDefault(reference.TargetUrl) ?? Meaning(reference.TargetUrl, entry, shelves, exists);
            }
            (pointers.TryGetValue(path, out var list) ? list : pointers[path] = []).Add(new Pointer(reference, entry));
        }
        _meant[entry.Path] = meant;
        return pointers;
    }

    private string Meaning(string url, InventoryDocument document, IReadOnlyList<Shelf> shelves, Func<string, bool> exists)
    {
        var candidates = ReferencedPath.Candidates(url, document, _folder);
        if (candidates.Count > 1)
        {
            _oneOfSeveral.UnionWith(candidates);
        }
        return ReferencedPath.Of(url, candidates, shelves, exists);
    }

    /// <summary>
    /// Takes in documents that were saved, where that changes nothing but what they point at: which document is current, in what
    /// order they stand, whether all can be read and where things stand in the folder have to be as they were.
    /// </summary>
    /// <param name="stated">The document that the session card states as current.</param>
    /// <param name="chosen">The one that was chosen on this machine.</param>
    /// <param name="documents">All documents in the folder.</param>
    /// <param name="saved">Absolute paths of those that were saved.</param>
    /// <param name="odd">Paths of files that may be documents of a kind that is not known.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="exists">Whether a file stands at a path.</param>
    /// <param name="memory">What is known of files on shelves that are away.</param>
    /// <returns>Paths of the files of which something is otherwise by that; null where all has to be worked out anew, by another one of these.</returns>
    public IReadOnlyCollection<string>? TryTakeIn(
        string? stated, string? chosen, IReadOnlyList<InventoryDocument> documents, IReadOnlySet<string> saved, IEnumerable<string> odd,
        IReadOnlyList<Shelf> shelves, Func<string, bool> exists, IShelfMemory? memory)
    {
        var remarks = new List<Fault>();
        ImmutableArray<InventoryDocument> now = [.. InOrder(_folder, stated, chosen, documents, remarks)];
        // Where instruments play samples, what points at them points further; what a name means depends on all others in its document.
        if (_instrumentsOf.Count > 0 || now.Any(d => d.IsNaming && saved.Contains(d.Path)) || !now.Select(KeyOf).SequenceEqual(Documents.Select(KeyOf)) || !IsSame(now.FirstOrDefault(d => d.Current)?.Document, Documents.FirstOrDefault(d => d.Current)?.Document))
        {
            return null;
        }
        _unknown = new UnknownUse(_folder, Layout, now, odd, [], Named, remarks);
        (Documents, Remarks) = (now, [.. remarks]);
        var order = now.Select((d, n) => (d.Path, n)).ToDictionary(d => d.Path, d => d.n, StringComparer.Ordinal);
        var (otherwise, pointed) = (new HashSet<string>(StringComparer.Ordinal), new Dictionary<string, bool>(StringComparer.Ordinal));
        foreach (var entry in now.Where(d => saved.Contains(d.Path)))
        {
            var before = _meant[entry.Path];
            var found = PointersIn(entry, shelves, exists, before);
            foreach (var path in before.Values.Where(p => !found.ContainsKey(p)).Distinct(StringComparer.Ordinal).Concat(found.Keys))
            {
                var all = _pointers.TryGetValue(path, out var known) ? known : _pointers[path] = [];
                pointed.TryAdd(path, all.Count > 0);
                if (Exchange(all, entry, found.GetValueOrDefault(path) ?? [], order))
                {
                    otherwise.Add(path);
                    _usedOtherwise.Add(path);
                }
                if (all.Count == 0)
                {
                    _pointers.Remove(path);
                }
            }
        }
        if (pointed.Any(p => p.Value != _pointers.ContainsKey(p.Key) && !IsMedia(p.Key)))
        {
            // What is no media is on the inventory only while something points at it.
            return null;
        }
        foreach (var (path, file) in Recall(otherwise.Where(_pointers.ContainsKey), shelves, exists, memory))
        {
            _recalled[path] = file;
        }
        return otherwise;
    }

    /// <summary>Puts what a document points at now in the place of what it did; true where that is something else.</summary>
    /// <param name="all">All pointers at one file, in the order of their documents.</param>
    /// <param name="entry">The document.</param>
    /// <param name="found">Its pointers at the file.</param>
    /// <param name="order">In what order the documents stand.</param>
    private static bool Exchange(List<Pointer> all, InventoryDocument entry, List<Pointer> found, Dictionary<string, int> order)
    {
        var at = all.FindIndex(p => p.Document.Path == entry.Path);
        var count = 0;
        if (at < 0)
        {
            var next = all.FindIndex(p => order[p.Document.Path] > order[entry.Path]);
            at = next < 0 ? all.Count : next;
        }
        else
        {
            count = all.FindLastIndex(p => p.Document.Path == entry.Path) + 1 - at;
        }
        var isOtherwise = !AreSame(all.GetRange(at, count), found);
        all.RemoveRange(at, count);
        all.InsertRange(at, found);
        return isOtherwise;
    }

    private static (string Path, bool Current, bool IsRead, bool MayPointElsewhere) KeyOf(InventoryDocument document) =>
        (document.Path, document.Current, document.Document is not null, document.Document?.MayPointElsewhere ?? false);

    /// <summary>True where the current document says the same of the session as a whole: where things stand, which tracks there are, where time begins.</summary>
    private static bool IsSame(DocumentFacts? one, DocumentFacts? other) => one is null ? other is null : other is not null
        && (one.Layout?.All ?? []).SequenceEqual(other.Layout?.All ?? [], StringComparer.Ordinal) && one.Layout is null == other.Layout is null
        && one.Tracks.SequenceEqual(other.Tracks, StringComparer.Ordinal) && one.GlobalStart == other.GlobalStart && one.Settings == other.Settings && one.SessionId == other.SessionId;

    /// <summary>True where references say the same of a file: by which number a clip goes in its document does not matter, but how many there are.</summary>
    private static bool AreSame(List<Pointer> one, List<Pointer> other) =>
        one.Count == other.Count && one.Zip(other).All(p => ReferenceEquals(p.First.Reference, p.Second.Reference) || (p.First.Reference with { ClipNumber = p.Second.Reference.ClipNumber }) == p.Second.Reference)
        && one.Select(p => p.Reference.ClipNumber).Distinct().Count() == other.Select(p => p.Reference.ClipNumber).Distinct().Count();

    /// <summary>
    /// The samples of the instruments in the folder, and of those elsewhere that are pointed at. What points at an instrument plays all of
    /// its samples, so it is noted as a pointer at each of them, there or not.
    /// </summary>
    private void FindSamples(IReadOnlyDictionary<string, InstrumentSamples> instruments, Func<string, InstrumentSamples?> elsewhere)
    {
        var pointedAt = _pointers.Keys.Where(p => SfzInstrument.Format.Recognises(Path.GetFileName(p)) && !instruments.ContainsKey(p)).Select(p => (p, elsewhere(p))).Where(i => i.Item2 is not null).ToList();
        foreach (var (path, instrument) in instruments.Select(i => (i.Key, i.Value)).Concat(pointedAt.Select(i => (i.p, i.Item2!))).OrderBy(i => i.Item1, StringComparer.Ordinal))
        {
            var through = _pointers.GetValueOrDefault(path)?.ConvertAll(p => p with { Reference = p.Reference with { Source = null }, Through = true }) ?? [];
            foreach (var sample in instrument.Samples)
            {
                (_instrumentsOf.TryGetValue(sample, out var names) ? names : _instrumentsOf[sample] = []).Add(path);
                if (through.Count > 0)
                {
                    (_pointers.TryGetValue(sample, out var known) ? known : _pointers[sample] = []).AddRange(through);
                }
            }
        }
    }

    /// <summary>What is known of files that are not there, since their shelf is away or they are gone from it, by absolute path.</summary>
    private static Dictionary<string, KnownFile> Recall(IEnumerable<string> paths, IReadOnlyList<Shelf> shelves, Func<string, bool> exists, IShelfMemory? memory)
    {
        var known = new Dictionary<string, KnownFile>(StringComparer.Ordinal);
        if (memory is null)
        {
            return known;
        }
        foreach (var group in paths.Where(p => p.StartsWith('/') && !exists(p)).GroupBy(p => Shelf.Holding(shelves, p)).Where(g => g.Key is not null))
        {
            var relative = group.ToDictionary(group.Key!.Relative, StringComparer.Ordinal);
            foreach (var (path, file) in memory.Recall(group.Key.Id, relative.Keys))
            {
                known[relative[path]] = file;
            }
        }
        return known;
    }

    private static ImmutableArray<SampleRange> UsedOf(List<MediaReference> placed, int? rate, long? length, ulong timeReference) => rate is { } r && length is { } l
        ? [.. SampleRange.Union(placed.Select(p => SampleRange.Of(p.Source, p.AvailableStart, r, l, timeReference)))]
        : [];

    /// <summary>How far into their file clips reach, in seconds; null where one of them takes all of it, or does not say where it begins.</summary>
    private static double? NeededOf(List<MediaReference> placed) =>
        placed.Count == 0 || placed.Exists(p => p is not { Source: not null, AvailableStart: not null })
            ? null
            : placed.Max(p => (p.Source!.Value.Start.Seconds + p.Source.Value.Duration.Seconds - p.AvailableStart!.Value.Seconds).ToDouble());

    private static Standing Stand(bool there, bool inside, Shelf? shelf)
    {
        if (there)
        {
            return inside ? Standing.Inside : Standing.Outside;
        }
        return shelf is { IsConnected: false } ? Standing.Away : Standing.Missing;
    }

    private FileUse Use(string path, List<Pointer>? pointers, int placed)
    {
        if (placed > 0)
        {
            return FileUse.Placed;
        }
        if (pointers?.Exists(p => p.Current && p.Document.IsNaming && p.Reference.Knowledge == UseKnowledge.Named) ?? false)
        {
            return FileUse.Named;
        }
        if (pointers?.Exists(p => p.Current && !p.Document.IsNaming) ?? false)
        {
            return FileUse.Listed;
        }
        if (pointers?.Exists(p => p.Reference.Knowledge != UseKnowledge.MayBeNamed) ?? false)
        {
            return FileUse.OlderOnly;
        }
        if (pointers is not null)
        {
            // Which of several is meant, or whether it still is, nobody can say.
            return FileUse.Unknown;
        }
        if (_held.Contains(path))
        {
            return FileUse.SetAside;
        }
        if (IsIn(path, Layout.Bounces))
        {
            return FileUse.Bounce;
        }
        return _unknown.Covers(path) ? FileUse.Unknown : _unknown.IsByNames(path) ? FileUse.NamedNowhere : FileUse.Stray;
    }

    private bool IsIn(string path, string sub) => ShelfPath.IsWithin(path, Path.Combine(_folder, sub));
}
