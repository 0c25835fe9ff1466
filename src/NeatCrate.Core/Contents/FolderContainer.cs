using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Contents;

/// <summary>A session folder as it stands, or as it comes to stand.</summary>
/// <param name="inventory">The session's inventory.</param>
/// <param name="shelves">All known shelves.</param>
public sealed class FolderContainer(SessionInventory inventory, IReadOnlyList<Shelf> shelves) : IContentContainer
{
    /// <inheritdoc/>
    public string Name => $"the session '{Path.GetFileName(inventory.Folder)}'";

    /// <inheritdoc/>
    public SessionContents Read() => ContentsReader.Read(inventory, shelves, new ContentsChoice());

    /// <summary>The steps that put contents into a folder: folders first, documents after what they point at, the current one last.</summary>
    /// <param name="contents">The contents.</param>
    /// <param name="folder">Absolute path of the folder.</param>
    /// <param name="more">Paths of folders that are to be there, too.</param>
    /// <param name="reason">Why each file comes.</param>
    public static IEnumerable<PlanStep> Steps(SessionContents contents, string folder, IEnumerable<string> more, Func<ContentEntry, string> reason)
    {
        ArgumentNullException.ThrowIfNull(contents);
        ArgumentNullException.ThrowIfNull(reason);
        var above = contents.Entries.Select(e => Path.GetDirectoryName(e.Path)!);
        IEnumerable<PlanStep> folders = FolderSteps.Of(folder, contents.Folders, above.Concat(more), "as it was");
        return folders.Concat(contents.Entries.OrderBy(e => e.Role == ContentRole.Document).ThenBy(e => e.Path == contents.Document)
            .Select(e => new MakeFileStep(Path.Combine(folder, e.Path), reason(e), e.Origin, e.Bytes)));
    }
}
