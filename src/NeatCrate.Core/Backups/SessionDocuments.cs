using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Backups;

/// <summary>The documents of a session that are watched: those at the top of its folder, of a format that can be read or not.</summary>
public static class SessionDocuments
{
    /// <summary>A larger file is no document that is kept at each save, in bytes.</summary>
    public const long MostBytes = DocumentFormats.MostBytes;

    /// <summary>What is there now. Looks at one folder, and opens no file.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <exception cref="FaultException">The folder cannot be read.</exception>
    public static IReadOnlyList<SeenDocument> Seen(string folder)
    {
        var seen = new List<SeenDocument>();
        foreach (var file in FolderContent.Read(folder, followLink: true).Files.Where(f => f.NameIsText && f.Bytes is > 0 and <= MostBytes && IsDocument(f.Name, f.Bytes)))
        {
            var path = Path.Combine(folder, file.Name);
            if (FileFacts.Of(path) is { IsRegular: true } facts)
            {
                seen.Add(new SeenDocument(path, facts, FileFacts.StatusChangeOf(path)));
            }
        }
        return seen;
    }

    private static bool IsDocument(string name, long bytes) => SessionFolder.IsDocument(name) || InventoryDocument.IsUnreadFormat(name) || DocumentFormats.MayBeADocument(name, bytes);
}
