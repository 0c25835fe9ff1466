using NeatCrate.Core.Documents;
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
    public static string Of(string url, InventoryDocument document, string sessionFolder, IReadOnlyList<Shelf> shelves) =>
        Of(url, Candidates(url, document, sessionFolder), shelves, File.Exists);

    /// <summary>The absolute paths that a <c>target_url</c> may mean, each once, the likeliest first.</summary>
    internal static IReadOnlyList<string> Candidates(string url, InventoryDocument document, string sessionFolder)
    {
        var beside = MediaUrl.Candidates(url, Path.GetDirectoryName(document.Path)!);
        return document.Current || Path.GetDirectoryName(document.Path) == sessionFolder ? beside : [.. MediaUrl.Candidates(url, sessionFolder).Union(beside)];
    }

    /// <summary>Which of the readings of a <c>target_url</c> is meant.</summary>
    internal static string Of(string url, IReadOnlyList<string> candidates, IReadOnlyList<Shelf> shelves, Func<string, bool> exists) => candidates.Count switch
    {
        0 => url,
        1 => candidates[0],
        _ => candidates.FirstOrDefault(exists) ?? candidates.FirstOrDefault(c => Shelf.Holding(shelves, c) is { IsConnected: false }) ?? candidates[0],
    };
}
