using System.Collections.Immutable;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>
/// The folders in which nobody can say what is not used: beside documents that cannot be read, or not wholly. One at the top
/// level, or among the older documents, covers all of the session; any other one its own folder and what is below.
/// </summary>
internal sealed class UnknownUse
{
    private readonly HashSet<string> _folders = new(StringComparer.Ordinal);
    private readonly HashSet<string> _named = new(StringComparer.Ordinal);

    /// <summary>Looks for documents that leave the use unknown, and tells of them.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="layout">Where things stand in it.</param>
    /// <param name="documents">Its documents.</param>
    /// <param name="odd">Absolute paths of files that may be documents of a kind that is not known.</param>
    /// <param name="instruments">Absolute paths of instruments that may play more than is understood.</param>
    /// <param name="named">How many of the media files the documents of other programs name; null where there are none.</param>
    /// <param name="remarks">Takes in what is to be told.</param>
    public UnknownUse(
        string folder, SessionLayout layout, IReadOnlyList<InventoryDocument> documents, IEnumerable<string> odd, IEnumerable<string> instruments, NamedShare? named, List<Fault> remarks)
    {
        if (!documents.Any(d => d.Current) || documents.Any(d => d.Document is null))
        {
            // What is wrong is told with the documents.
            _folders.Add(folder);
        }
        // Outlines that we drew ourselves point at nothing, where they are set aside as little as where they stood.
        var unread = odd.Where(p => !IsIn(p, folder, layout.WaveformCache) && !ShelfPath.IsWithin(p, Path.Combine(HoldingPlace.FolderIn(folder), layout.WaveformCache))).Order(StringComparer.Ordinal).ToList();
        if (unread.Count > 0)
        {
            remarks.Add(new Fault(FaultCode.MayBeDocuments) { Names = [.. unread.Select(p => Path.GetRelativePath(folder, p))] });
        }
        var naming = documents.Where(d => d.IsNaming).ToList();
        if (named is { } share)
        {
            remarks.Add(new Fault(share.Tells ? FaultCode.NamesFound : FaultCode.TooFewNamesFound)
            {
                Names = [.. naming.Where(d => d.Current || d.CountsNow).DefaultIfEmpty(naming[0]).Select(d => Path.GetFileName(d.Path))],
                Count = share.Named,
                Number = share.Media,
            });
            if (!share.Tells)
            {
                _folders.Add(folder);
            }
        }
        var cut = naming.Where(d => !d.Document!.Names!.IsWhole).Select(d => d.Path).ToList();
        remarks.AddRange(cut.Select(p => new Fault(FaultCode.NamesNotAllFound) { Name = Path.GetRelativePath(folder, p) }));
        var half = documents.Where(d => d is { IsNaming: false, Document.MayPointElsewhere: true }).Select(d => d.Path).Concat(instruments).ToList();
        remarks.AddRange(half.Select(p => new Fault(FaultCode.PointsElsewhere) { Name = Path.GetRelativePath(folder, p) }));
        if (cut.Count > 0)
        {
            _folders.Add(folder);
        }
        Documents = [.. documents.Where(d => d.Document is null || d.IsNaming).Select(d => d.Path).Concat(unread).Concat(half).Select(p => Path.GetRelativePath(folder, p)).Distinct().Order(StringComparer.Ordinal)];
        string About(string path) => IsIn(path, folder, layout.OlderDocuments) ? folder : Path.GetDirectoryName(path)!;
        _folders.UnionWith(unread.Concat(half).Select(About));
        _named.UnionWith(naming.Select(d => About(d.Path)));
    }

    /// <summary>The folders in which that is so.</summary>
    public ImmutableArray<string> Folders => [.. _folders.Union(_named).Order(StringComparer.Ordinal)];

    /// <summary>The documents for which it is so, by their paths from the session folder.</summary>
    public ImmutableArray<string> Documents { get; }

    /// <summary>True for a file of which nobody can say anything.</summary>
    public bool Covers(string path) => _folders.Any(f => ShelfPath.IsWithin(path, f));

    /// <summary>True for a file beside a document of which it is known what it names, and nothing else.</summary>
    public bool IsByNames(string path) => _named.Any(f => ShelfPath.IsWithin(path, f));

    private static bool IsIn(string path, string folder, string sub) => ShelfPath.IsWithin(path, Path.Combine(folder, sub));
}
