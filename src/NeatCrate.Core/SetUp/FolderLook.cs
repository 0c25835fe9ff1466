using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.SetUp;

/// <summary>A document that was found in a folder.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="AtTop">True when it stands at the top level, where the document of a session stands.</param>
/// <param name="ModifiedUtc">Time of the last change.</param>
/// <param name="Problem">Why it cannot be read, or null.</param>
/// <param name="SessionId">The identity that it carries, if any.</param>
/// <param name="Media">Absolute paths of the media that it points at, as they are meant from here.</param>
/// <param name="Relative">Its pointers that are relative to the folder it belongs in.</param>
/// <param name="HasAbsoluteInside">True when it points into this folder by absolute paths, which break when it moves.</param>
public sealed record FoundDocument(
    string Path,
    bool AtTop,
    DateTime ModifiedUtc,
    Fault? Problem,
    Guid? SessionId,
    ImmutableArray<string> Media,
    ImmutableArray<RelativePointer> Relative,
    bool HasAbsoluteInside)
{
    /// <summary>Its name without date, version and extension.</summary>
    public string Title => SessionName.Title(System.IO.Path.GetFileNameWithoutExtension(Path));

    /// <summary>True when it points at something relative to itself, and none of it is here: it strayed from its folder.</summary>
    public bool IsStray(string folder) => Problem is null && Relative.Length > 0 && Relative.All(p => p.In(folder) is null);

    /// <summary>
    /// True when everything that it points at relative to itself is in a folder, and is what it means: of the lengths that
    /// it states and that can be compared at least one agrees, since takes of many songs have the same names.
    /// </summary>
    public bool BelongsIn(string folder)
    {
        if (Relative.Length == 0 || Relative.Any(p => p.In(folder) is null))
        {
            return false;
        }
        var agree = Relative.Select(p => p.Agrees(folder)).OfType<bool>();
        return !agree.Any() || agree.Any(a => a);
    }
}

/// <summary>A pointer of a document that is relative to the folder it belongs in.</summary>
/// <param name="Url">The pointer as it is written.</param>
/// <param name="Seconds">Length of the file as the document states it; null where it does not.</param>
public sealed record RelativePointer(string Url, double? Seconds)
{
    // Documents write lengths in frames of film too: what differs by less than one of 24 a second is the same.
    private const double FrameSeconds = 1 / 24.0;

    /// <summary>Absolute path of what it means in a folder; null where nothing is there.</summary>
    public string? In(string folder) => MediaUrl.Candidates(Url, folder).FirstOrDefault(File.Exists);

    /// <summary>Whether the file that it means in a folder is as long as the document states; null where one of the two lengths is not known.</summary>
    public bool? Agrees(string folder)
    {
        if (Seconds is not > 0 || In(folder) is not { } path)
        {
            return null;
        }
        try
        {
            return MediaHeaderReader.ReadFile(path)?.LengthSeconds is { } length ? Math.Abs(length - Seconds.Value) < FrameSeconds : null;
        }
        catch (Exception e) when (FaultException.Of(e) is not null)
        {
            return null;
        }
    }
}

/// <summary>Documents in one folder that are versions of one session.</summary>
/// <param name="Title">What the session is called.</param>
/// <param name="Documents">Its documents, the newest first.</param>
public sealed record SessionGroup(string Title, ImmutableArray<FoundDocument> Documents)
{
    /// <summary>Media in the folder that its documents point at.</summary>
    public IEnumerable<string> MediaIn(string folder) => Documents.SelectMany(d => d.Media).Where(m => ShelfPath.IsWithin(m, folder)).Distinct();
}

/// <summary>What a folder that might be adopted holds. Nothing is changed by looking.</summary>
public sealed record FolderLook(SessionInventory Inventory, IReadOnlyList<Shelf> Shelves, ImmutableArray<FoundDocument> Documents, ImmutableArray<SessionGroup> Sessions)
{
    /// <summary>True when several sessions share the folder, so that cleaning one would damage another.</summary>
    public bool IsShared => Sessions.Length > 1;

    /// <summary>Documents at the top level that strayed from their folder.</summary>
    public IEnumerable<FoundDocument> Strays => Documents.Where(d => d.AtTop && d.IsStray(Inventory.Folder));

    /// <summary>
    /// Folders below that hold sessions of their own, where this one holds none: relative paths, in order. Such a folder is a
    /// place for sessions, and is not adopted as one.
    /// </summary>
    public ImmutableArray<string> SessionFolders => Documents.Any(d => d.AtTop && d.Problem?.Code != FaultCode.DocumentOfAnotherProgram)
        ? []
        : [.. Documents.Select(d => System.IO.Path.GetRelativePath(Inventory.Folder, HomeOf(System.IO.Path.GetDirectoryName(d.Path)!))).Where(f => f != ".").Distinct().Order(StringComparer.OrdinalIgnoreCase)];

    /// <summary>Older versions stand in a folder of their own, in that of their session.</summary>
    private string HomeOf(string folder) =>
        folder != Inventory.Folder && System.IO.Path.GetFileName(folder) == SessionLayout.Default.OlderDocuments ? System.IO.Path.GetDirectoryName(folder)! : folder;

    /// <summary>Looks at a folder.</summary>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelves">All known shelves.</param>
    public static FolderLook At(SessionInventory inventory, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        // What another program left in a folder below, as a preset that names its sound, makes that no session.
        var documents = inventory.Documents.Where(d => !d.IsNaming || System.IO.Path.GetDirectoryName(d.Path) == inventory.Folder).Select(d => Read(d, inventory.Folder, shelves)).OrderByDescending(d => d.AtTop).ThenByDescending(d => d.ModifiedUtc).ToImmutableArray();
        return new FolderLook(inventory, shelves, documents, [.. SessionGroups.Of(documents, inventory.Folder)]);
    }

    private static FoundDocument Read(InventoryDocument entry, string folder, IReadOnlyList<Shelf> shelves)
    {
        var atTop = System.IO.Path.GetDirectoryName(entry.Path) == folder;
        var changed = entry.ModifiedUtc;
        if (entry is not { IsNaming: false, Document: { } document })
        {
            return new FoundDocument(entry.Path, atTop, changed, entry.Problem, null, [], [], false);
        }
        var pointers = document.References.Select(r => (r.TargetUrl, Path: ReferencedPath.Of(r.TargetUrl, entry, folder, shelves), r.AvailableSeconds)).Distinct().ToList();
        var absolute = pointers.Where(p => p.TargetUrl.StartsWith('/') || p.TargetUrl.StartsWith("file:", StringComparison.OrdinalIgnoreCase)).ToList();
        return new FoundDocument(
            entry.Path,
            atTop,
            changed,
            null,
            document.SessionId,
            [.. pointers.Select(p => p.Path).Distinct()],
            [.. pointers.Except(absolute).Where(p => MediaUrl.Candidates(p.TargetUrl, folder).Count > 0).Select(p => new RelativePointer(p.TargetUrl, p.AvailableSeconds))],
            absolute.Exists(p => ShelfPath.IsWithin(p.Path, folder)));
    }
}
