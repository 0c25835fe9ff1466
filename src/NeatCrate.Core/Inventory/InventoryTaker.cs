using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Runtime.ExceptionServices;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>
/// Looks at a session folder, its documents and the shelves, and tells of every media file where it stands and what
/// it is used for. Reading never changes anything.
/// </summary>
public sealed class InventoryTaker(HeaderCache headers, IShelfMemory? memory = null)
{
    /// <summary>Takes the inventory of a session.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="documentName">File name of a document that was chosen on this machine; null for none. What the session card states goes before.</param>
    /// <param name="shelves">All known shelves, connected or away.</param>
    /// <param name="cancel">Stops between two files.</param>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public SessionInventory Take(string folder, string? documentName, IReadOnlyList<Shelf> shelves, CancellationToken cancel = default)
    {
        if (!Directory.Exists(folder))
        {
            throw new FaultException(FaultCode.SessionFolderGone, folder);
        }
        var remarks = new List<Fault>();
        var files = SessionFolder.Files(folder, remarks.Add).ToList();
        var stated = SessionCard.Stated(folder, remarks.Add);
        var documents = ReadDocuments(folder, stated, documentName, files, remarks);
        var pointers = Pointers(documents, shelves, folder);
        var layout = documents.Find(d => d.Current)?.Document?.Layout ?? SessionLayout.Found(folder, files.Select(f => f.Path));
        var samples = Samples(files, pointers);
        var unknown = new UnknownUse(folder, layout, documents, files, samples.PointElsewhere, remarks);

        var others = (Files: 0, Bytes: 0L);
        var work = new List<(string Path, SessionEntry? Entry)>();
        foreach (var file in files)
        {
            // A link is only another pointer: what it leads to is looked at through the references.
            if (MediaFiles.KindOf(file.Name) is null || InFolder(file.Path, folder, layout.WaveformCache) || Hidden(file.Name))
            {
                others = (others.Files + 1, others.Bytes + (file.IsLink ? 0 : file.Facts.Bytes));
            }
            else
            {
                work.Add((file.Path, file));
            }
        }
        var found = work.Select(w => w.Path).ToHashSet(StringComparer.Ordinal);
        work.AddRange(pointers.Keys.Where(path => !found.Contains(path)).Select(path => (path, (SessionEntry?)null)));

        var recalled = Recall(pointers.Keys, shelves);
        var items = new ConcurrentBag<InventoryFile>();
        var realFolder = RealPath.Of(folder);
        try
        {
            Parallel.ForEach(work, new ParallelOptions { CancellationToken = cancel }, item => items.Add(Describe(
                item.Path, item.Entry, pointers.GetValueOrDefault(item.Path), folder, realFolder, layout, shelves, recalled.GetValueOrDefault(item.Path), unknown, samples.Of.GetValueOrDefault(item.Path) ?? [])));
        }
        catch (AggregateException e)
        {
            // What went wrong for one file is told as that, not as a bundle of errors.
            ExceptionDispatchInfo.Throw(e.InnerExceptions[0]);
        }
        return new SessionInventory
        {
            Folder = folder,
            Layout = layout,
            Documents = [.. documents],
            Files = [.. items.OrderBy(f => f.Standing).ThenBy(f => f.ShownPath, StringComparer.Ordinal)],
            Others = others,
            Remarks = [.. remarks],
            CurrentIsStated = stated is not null && documents.Exists(d => d.Current && Path.GetFileName(d.Path) == stated),
        };
    }

    /// <param name="Through">True where it does not point at the file itself, but at an instrument that plays it.</param>
    private sealed record Pointer(MediaReference Reference, bool Current, bool Through = false);

    private static List<InventoryDocument> ReadDocuments(string folder, string? stated, string? chosen, List<SessionEntry> files, List<Fault> remarks)
    {
        var top = SessionFolder.Documents(folder);
        string? Named(string? name) => name is null ? null : top.FirstOrDefault(d => Path.GetFileName(d) == name);
        var current = Named(stated) ?? Named(chosen) ?? (top.Count > 0 ? top[0] : null);
        var read = files.Where(f => !Hidden(f.Name) && (SessionFolder.IsDocument(f.Name) || IsUnreadFormat(f.Name))).Select(f => Read(f, f.Path == current))
            .OrderByDescending(d => d.Current).ThenByDescending(d => d.Dated).ThenByDescending(d => DatedName.VersionOf(Path.GetFileNameWithoutExtension(d.Path)))
            .ThenByDescending(d => d.Path, StringComparer.Ordinal).ToList();
        remarks.AddRange(read.Where(r => r.Problem is not null).Select(r => new Fault(FaultCode.DocumentCannotBeOpened) { Path = r.Path, Reasons = [r.Problem!] }));
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
        if (read.Find(d => !d.Current && Path.GetDirectoryName(d.Path) == folder && d.ModifiedUtc > now.ModifiedUtc) is { } newer)
        {
            remarks.Add(new Fault(FaultCode.NewerDocumentBeside) { Name = Path.GetFileName(newer.Path), Other = Path.GetFileName(now.Path) });
        }
        remarks.AddRange((now.Document?.UnfollowedReferences ?? new Dictionary<string, int>()).Select(u => new Fault(FaultCode.UnfollowedReferences) { Name = u.Key, Count = u.Value }));
        return read;
    }

    /// <summary>A session document of a kind that is known and not read yet: OpenTimelineIO packed with its media.</summary>
    private static bool IsUnreadFormat(string name) => Path.GetExtension(name).Equals(".otioz", StringComparison.OrdinalIgnoreCase);

    private static InventoryDocument Read(SessionEntry file, bool current)
    {
        if (IsUnreadFormat(file.Name))
        {
            return new InventoryDocument(file.Path, current, new Fault(FaultCode.DocumentOfUnknownFormat) { Name = Path.GetExtension(file.Name) }, default, file.Facts.ModifiedUtc, null);
        }
        try
        {
            var bytes = ReadableFile.ReadAll(file.Path, SessionDocument.MostBytes);
            var identity = ByteIdentity.Of(bytes);
            try
            {
                return new InventoryDocument(file.Path, current, null, identity, file.Facts.ModifiedUtc, SessionDocument.Parse(bytes));
            }
            catch (UnreadableDocumentException e)
            {
                return new InventoryDocument(file.Path, current, e.Fault, identity, file.Facts.ModifiedUtc, null);
            }
        }
        catch (Exception e) when (FaultException.Of(e, file.Path) is not null)
        {
            return new InventoryDocument(file.Path, current, FaultException.Of(e, file.Path), default, file.Facts.ModifiedUtc, null);
        }
    }

    /// <summary>All pointers of all documents by the path that they mean.</summary>
    private static Dictionary<string, List<Pointer>> Pointers(List<InventoryDocument> documents, IReadOnlyList<Shelf> shelves, string folder)
    {
        var pointers = new Dictionary<string, List<Pointer>>(StringComparer.Ordinal);
        foreach (var entry in documents)
        {
            foreach (var reference in entry.Document?.References ?? [])
            {
                var path = ReferencedPath.Of(reference.TargetUrl, entry, folder, shelves);
                if (!pointers.TryGetValue(path, out var list))
                {
                    pointers[path] = list = [];
                }
                list.Add(new Pointer(reference, entry.Current));
            }
        }
        return pointers;
    }

    /// <summary>
    /// The samples of the instruments in the folder, with the names of these. What points at an instrument plays all of its
    /// samples, so it is noted as a pointer at each of them.
    /// </summary>
    private static (Dictionary<string, List<string>> Of, List<string> PointElsewhere) Samples(List<SessionEntry> files, Dictionary<string, List<Pointer>> pointers)
    {
        var (of, elsewhere) = (new Dictionary<string, List<string>>(StringComparer.Ordinal), new List<string>());
        var there = files.Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
        foreach (var file in files.Where(f => SfzInstrument.Format.Recognises(f.Name)))
        {
            try
            {
                var instrument = SfzInstrument.Format.Read(ReadableFile.ReadAll(file.Path, SfzInstrument.MostBytes));
                if (instrument.MayPointElsewhere)
                {
                    elsewhere.Add(file.Path);
                }
                var through = pointers.GetValueOrDefault(file.Path)?.ConvertAll(p => p with { Reference = p.Reference with { Source = null }, Through = true }) ?? [];
                foreach (var sample in instrument.References.SelectMany(r => SfzInstrument.Format.Candidates(r.TargetUrl, Path.GetDirectoryName(file.Path)!)).Distinct().Where(there.Contains))
                {
                    (of.TryGetValue(sample, out var names) ? names : of[sample] = []).Add(file.Name);
                    if (through.Count > 0)
                    {
                        (pointers.TryGetValue(sample, out var known) ? known : pointers[sample] = []).AddRange(through);
                    }
                }
            }
            catch (Exception e) when (FaultException.Of(e, file.Path) is not null)
            {
                // One that cannot be read may play anything that stands beside it.
                elsewhere.Add(file.Path);
            }
        }
        return (of, elsewhere);
    }

    private InventoryFile Describe(
        string path, SessionEntry? entry, List<Pointer>? pointers, string folder, string realFolder, SessionLayout layout, IReadOnlyList<Shelf> shelves, KnownFile? recalled, UnknownUse unknown, List<string> instruments)
    {
        var shelf = path.StartsWith('/') ? Shelf.Holding(shelves, path) : null;
        // One look: what goes a moment later is told as it was at this one.
        var facts = entry?.Facts ?? (path.StartsWith('/') ? FileFacts.Of(path) : null);
        var there = facts is { IsRegular: true };
        var belongs = ShelfPath.IsWithin(path, folder);
        var remarks = new List<Fault>();
        // What the walk through the folder found is inside, since it follows no link; everything else is where its links lead.
        var real = there && (entry is null or { IsLink: true }) ? RealPath.Of(path) : path;
        var inside = there && (entry is { IsLink: false } || ShelfPath.IsWithin(real, realFolder));
        if (there && real != path && belongs)
        {
            remarks.Add(new Fault(FaultCode.BehindALink) { Other = real });
        }
        var (header, problem) = there ? headers.Read(path, facts!.Value.Bytes, facts.Value.ModifiedUtc) : (null, null);
        var current = pointers?.Where(p => p.Current && p.Reference.Placed).Select(p => p.Reference).ToList() ?? [];
        remarks.AddRange(header?.Remarks ?? []);
        if (PortableName.Problems(Path.GetFileName(path)) is [var nameProblem, ..])
        {
            remarks.Add(nameProblem);
        }
        if (instruments.Count > 0)
        {
            remarks.Add(new Fault(FaultCode.SampleOfInstrument) { Names = [.. instruments] });
        }
        return new InventoryFile
        {
            Path = path,
            Standing = Stand(there, inside, shelf),
            Use = Use(path, pointers, current.Count, folder, layout, unknown),
            ShelfId = shelf?.Id,
            ShelfName = shelf?.Name,
            ShownPath = belongs ? Path.GetRelativePath(folder, path) : shelf?.Relative(path) ?? path,
            BelongsInside = belongs,
            PlacedTimes = current.Select(r => r.ClipNumber).Distinct().Count(),
            Bytes = there ? facts!.Value.Bytes : 0,
            ChangedUtc = there ? facts!.Value.ModifiedUtc : null,
            Header = header,
            Recalled = there ? null : recalled,
            Problem = problem,
            Used = there ? UsedOf(current, header?.SampleRate, header?.LengthSamples, header?.Broadcast?.TimeReference ?? 0) : UsedOf(current, recalled?.SampleRate, recalled?.LengthSamples, 0),
            Tracks = [.. current.Select(r => r.Track).OfType<string>().Distinct()],
            TargetUrls = [.. pointers?.Where(p => !p.Through).Select(p => p.Reference.TargetUrl).Distinct() ?? []],
            ListedTake = pointers?.Where(p => p.Current).Select(p => p.Reference.Take).FirstOrDefault(t => t is not null),
            Remarks = [.. remarks],
        };
    }

    private static ImmutableArray<SampleRange> UsedOf(List<MediaReference> placed, int? rate, long? length, ulong timeReference) => rate is { } r && length is { } l
        ? [.. SampleRange.Union(placed.Select(p => SampleRange.Of(p.Source, p.AvailableStart, r, l, timeReference)))]
        : [];

    /// <summary>What is known of files whose shelf is away, by absolute path.</summary>
    private Dictionary<string, KnownFile> Recall(IEnumerable<string> paths, IReadOnlyList<Shelf> shelves)
    {
        var known = new Dictionary<string, KnownFile>(StringComparer.Ordinal);
        if (memory is null || !shelves.Any(s => !s.IsConnected))
        {
            return known;
        }
        foreach (var group in paths.Where(p => p.StartsWith('/')).GroupBy(p => Shelf.Holding(shelves, p)).Where(g => g.Key is { IsConnected: false }))
        {
            var relative = group.ToDictionary(group.Key!.Relative, StringComparer.Ordinal);
            foreach (var (path, file) in memory.Recall(group.Key.Id, relative.Keys))
            {
                known[relative[path]] = file;
            }
        }
        return known;
    }

    private static Standing Stand(bool there, bool inside, Shelf? shelf)
    {
        if (there)
        {
            return inside ? Standing.Inside : Standing.Outside;
        }
        return shelf is { IsConnected: false } ? Standing.Away : Standing.Missing;
    }

    private static FileUse Use(string path, List<Pointer>? pointers, int placed, string folder, SessionLayout layout, UnknownUse unknown)
    {
        if (placed > 0)
        {
            return FileUse.Placed;
        }
        if (pointers?.Exists(p => p.Current) ?? false)
        {
            return FileUse.Listed;
        }
        if (pointers is not null)
        {
            return FileUse.OlderOnly;
        }
        if (InFolder(path, folder, layout.Bounces))
        {
            return FileUse.Bounce;
        }
        return unknown.Covers(path) ? FileUse.Unknown : FileUse.Stray;
    }

    private static bool InFolder(string path, string folder, string sub) => ShelfPath.IsWithin(path, Path.Combine(folder, sub));

    private static bool Hidden(string name) => name.StartsWith('.');
}
