using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Contents;

/// <summary>Says of each file in a session folder what it is to the session: by its kind and its use first, and by its folder only then.</summary>
/// <param name="inventory">The session's inventory.</param>
public sealed class ContentRoles(SessionInventory inventory)
{
    private const string OwnPrefix = ".neat-crate-";

    private readonly HashSet<string> _documents = [.. inventory.Documents.Select(d => d.Path)];
    private readonly Dictionary<string, InventoryFile> _files = inventory.Files.ToDictionary(f => f.Path, StringComparer.Ordinal);
    private readonly IReadOnlySet<string> _held = inventory.Held.PathsIn(inventory.Folder);

    /// <summary>The role of a file in the folder.</summary>
    /// <param name="path">Its absolute path.</param>
    public ContentRole Of(string path)
    {
        var (name, relative) = (Path.GetFileName(path), Path.GetRelativePath(inventory.Folder, path));
        var file = _files.GetValueOrDefault(path);
        if (file is { Use: FileUse.Placed or FileUse.Named or FileUse.OlderOnly or FileUse.Listed } or { TargetUrls.IsEmpty: false })
        {
            // Whatever its folder is called: a document points at it.
            return file.RenderOf is null ? ContentRole.Media : ContentRole.Render;
        }
        return IsUnfinished(name) ? ContentRole.Own
            : Litter.IsFile(name) ? ContentRole.Litter
            : ShelfPath.IsWithin(relative, SessionLayout.DocumentBackups) ? ContentRole.KeptSave
            : _held.Contains(path) || path == HoldingPlace.ListIn(inventory.Folder) ? ContentRole.SetAside
            : _documents.Contains(path) ? ContentRole.Document
            : ShelfPath.IsWithin(relative, inventory.Layout.WaveformCache) ? ContentRole.Cache
            : path == SessionCard.PathIn(inventory.Folder) || name.StartsWith(OwnPrefix, StringComparison.Ordinal) ? ContentRole.Own
            : file is null ? ContentRole.Other
            : file.Use == FileUse.Bounce ? ContentRole.Bounce
            : file.RenderOf is not null ? ContentRole.Render
            : ContentRole.Media;
    }

    /// <summary>True for what unfinished work of ours left behind: it is of no use to anybody.</summary>
    public static bool IsUnfinished(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return name.StartsWith(OwnPrefix, StringComparison.Ordinal) && Path.GetExtension(name) is (".part" or ".open" or ".new");
    }

    /// <summary>The role of a folder in which nothing stands: that of what belongs into it.</summary>
    /// <param name="relative">Its path from the session folder.</param>
    public ContentRole OfFolder(string relative) =>
        ShelfPath.IsWithin(relative, inventory.Layout.WaveformCache) ? ContentRole.Cache
        : ShelfPath.IsWithin(relative, SessionLayout.DocumentBackups) ? ContentRole.KeptSave
        : relative == HoldingPlace.FolderName || (inventory.Held.Files.Length > 0 && ShelfPath.IsWithin(relative, HoldingPlace.FolderName)) ? ContentRole.SetAside
        : ContentRole.Other;
}
