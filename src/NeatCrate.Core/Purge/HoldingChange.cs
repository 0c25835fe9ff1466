using System.Collections.Immutable;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Purge;

/// <summary>The steps that keep the holding place's own list and folders as what is held changes.</summary>
internal static class HoldingChange
{
    /// <summary>The step that writes the list; one that takes it away where nothing is held any more; none where nothing changes.</summary>
    /// <param name="inventory">The session's inventory.</param>
    /// <param name="files">What is held then.</param>
    /// <param name="orders">The orders of the lists from which entries go; those of others stay while anything of them is held.</param>
    public static IEnumerable<PlanStep> List(SessionInventory inventory, ImmutableArray<HeldFile> files, IReadOnlyCollection<ListOrder>? orders = null)
    {
        const string Why = "what is held, and where it came from";
        var path = HoldingPlace.ListIn(inventory.Folder);
        var listing = files.SelectMany(f => f.Listed).Select(l => l.Document).ToHashSet(StringComparer.Ordinal);
        var others = inventory.Held.Orders.Where(o => listing.Contains(o.Document) && !(orders ?? []).Any(n => n.Document == o.Document));
        var content = new HoldingPlace(files) { Orders = [.. others, .. orders ?? []] }.ToUtf8();
        if (FileFacts.OfName(path) is null)
        {
            return files.IsEmpty ? [] : [MakeFileStep.Write(path, Why, content)];
        }
        var before = ReadableFile.ReadAll(path, int.MaxValue);
        var expected = ByteIdentity.Of(before);
        return files.IsEmpty
            ? [new RemoveOwnFileStep(path, "nothing is held any more", expected, before)]
            : [new ReplaceDocumentStep(path, Why, content, expected)];
    }

    /// <summary>The steps that take away folders of the holding place in which nothing is left, the deepest first.</summary>
    /// <param name="inventory">The session's inventory.</param>
    /// <param name="gone">Absolute paths of what goes from it.</param>
    /// <param name="files">What is held then.</param>
    public static IEnumerable<RemoveFolderStep> EmptyFolders(SessionInventory inventory, IEnumerable<string> gone, ImmutableArray<HeldFile> files)
    {
        var holding = HoldingPlace.FolderIn(inventory.Folder);
        var stays = files.SelectMany(f => Above(Path.Combine(holding, f.Held), holding)).ToHashSet(StringComparer.Ordinal);
        var left = gone.SelectMany(g => Above(g, holding)).Distinct(StringComparer.Ordinal).Where(f => !stays.Contains(f));
        return left.OrderByDescending(f => f.Length).ThenBy(f => f, StringComparer.Ordinal).Append(files.IsEmpty ? holding : null).OfType<string>()
            .Select(f => RemoveFolderStep.OfThere(f, "nothing is held in it any more"));
    }

    /// <summary>The folders above a path, down from the holding place, which is not among them.</summary>
    private static IEnumerable<string> Above(string path, string holding)
    {
        for (var at = Path.GetDirectoryName(path)!; at.Length > holding.Length; at = Path.GetDirectoryName(at)!)
        {
            yield return at;
        }
    }
}
