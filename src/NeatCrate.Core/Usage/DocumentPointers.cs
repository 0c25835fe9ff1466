using System.Collections.Concurrent;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Usage;

/// <summary>Finds the documents in session folders that point at given files, older versions included.</summary>
public sealed class DocumentPointers
{
    private const int MostKept = 2000;

    // What a document points at stays while its size and time do.
    private readonly ConcurrentDictionary<string, (FileState State, string[] Urls)> _urls = new(StringComparer.Ordinal);

    /// <summary>The documents that point at any of these files.</summary>
    /// <param name="sessionFolders">Folders of the sessions to look at; those that cannot be reached are left out.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="paths">Absolute paths of the files.</param>
    /// <param name="rewritten">Documents that count as holding these bytes, whatever they hold now.</param>
    public IReadOnlyList<FileUser> At(
        IEnumerable<string> sessionFolders, IReadOnlyList<Shelf> shelves, IReadOnlySet<string> paths, IReadOnlyDictionary<string, byte[]> rewritten)
    {
        ArgumentNullException.ThrowIfNull(sessionFolders);
        ArgumentNullException.ThrowIfNull(paths);
        ArgumentNullException.ThrowIfNull(rewritten);
        var users = new List<FileUser>();
        foreach (var folder in sessionFolders.Where(Directory.Exists))
        {
            foreach (var document in SessionFolder.Files(folder).Where(f => SessionFolder.IsDocument(f.Name)))
            {
                var urls = rewritten.TryGetValue(document.Path, out var bytes) ? UrlsIn(bytes) : Urls(document);
                var entry = new InventoryDocument(document.Path, Path.GetDirectoryName(document.Path) == folder, null, default, document.Facts.ModifiedUtc, null);
                users.AddRange(urls.Select(u => ReferencedPath.Of(u, entry, folder, shelves)).Where(paths.Contains).Distinct()
                    .Select(p => new FileUser(p, $"{Path.GetFileName(folder)}: {Path.GetFileNameWithoutExtension(document.Path)}")));
            }
        }
        return users;
    }

    private string[] Urls(SessionEntry document)
    {
        var state = new FileState(document.Facts.Bytes, document.Facts.ModifiedUtc);
        if (_urls.TryGetValue(document.Path, out var known) && known.State == state)
        {
            return known.Urls;
        }
        string[] urls;
        try
        {
            urls = UrlsIn(ReadableFile.ReadAll(document.Path, SessionDocument.MostBytes));
        }
        catch (FaultException)
        {
            // A document that cannot be read tells nothing; that it is one is said where the session is shown.
            return [];
        }
        if (_urls.Count > MostKept)
        {
            _urls.Clear();
        }
        _urls[document.Path] = (state, urls);
        return urls;
    }

    private static string[] UrlsIn(byte[] bytes)
    {
        try
        {
            return [.. SessionDocument.Parse(bytes).References.Select(r => r.TargetUrl).Distinct()];
        }
        catch (UnreadableDocumentException)
        {
            return [];
        }
    }
}
