using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>Finds the file that a pointer in a document means.</summary>
public static class ReferencedPath
{
    /// <summary>
    /// The absolute path that a <c>target_url</c> means. A document that was moved to the folder for older documents still
    /// points as if it stood at the top level, so both readings are tried, the one where the file is there first. An
    /// address that is no path here (another system's, a web page's) comes back as it is written.
    /// </summary>
    public static string Of(string url, InventoryDocument document, string sessionFolder, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(document);
        var beside = MediaUrl.Candidates(url, Path.GetDirectoryName(document.Path)!);
        IReadOnlyList<string> candidates = document.Current ? beside : [.. MediaUrl.Candidates(url, sessionFolder), .. beside];
        return candidates.FirstOrDefault(File.Exists)
            ?? candidates.FirstOrDefault(c => Shelf.Holding(shelves, c) is { IsConnected: false })
            ?? (candidates.Count > 0 ? candidates[0] : url);
    }
}
