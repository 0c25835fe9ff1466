using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Backups;

/// <summary>
/// The documents of a session that are watched: those at the top of its folder, of a format that can be read or not. What is there is asked of
/// the folder only where it changed; what else stands there, however much, is not looked at. Not for several threads at once.
/// </summary>
/// <param name="folder">Absolute path of the session folder.</param>
/// <param name="kinds">What was said of kinds of file, at this moment; null for nothing.</param>
public sealed class SessionDocuments(string folder, Func<DocumentKinds>? kinds = null)
{
    /// <summary>A larger file is no document that is kept at each save, in bytes.</summary>
    public const long MostBytes = DocumentFormats.MostBytes;

    private DocumentKinds _kinds = DocumentKinds.Unsaid;
    private List<string>? _paths;
    private (DateTime? Modified, long? Status) _read;
    private bool _isSettled;

    /// <summary>What is there now. Opens no file.</summary>
    /// <param name="nowUtc">The time.</param>
    /// <exception cref="FaultException">The folder cannot be read.</exception>
    public IReadOnlyList<SeenDocument> Look(DateTime nowUtc)
    {
        // Taken before the names are: what appears in between shows at the next look.
        var at = FileFacts.OfWithStatus(folder);
        (DateTime? Modified, long? Status) now = (at?.Facts.ModifiedUtc, at?.StatusChange);
        var said = kinds?.Invoke() ?? DocumentKinds.Unsaid;
        if (_paths is null || !ReferenceEquals(said, _kinds) || !_isSettled || now.Modified is null || now != _read)
        {
            _kinds = said;
            _paths = [.. FolderContent.ReadAll(folder, true, (name, _) => !IsDocument(name)).Entries.Where(e => e.NameIsText && e.Facts.IsRegular && IsDocument(e.Name)).Select(e => Path.Combine(folder, e.Name))];
            (_read, _isSettled) = (now, now is { Modified: { } modified, Status: { } status } && FileFacts.IsSettled(modified, nowUtc) && FileFacts.IsSettled(DateTime.UnixEpoch.AddTicks(status), nowUtc));
        }
        var seen = new List<SeenDocument>();
        foreach (var path in _paths)
        {
            // What is empty is no document yet.
            if (FileFacts.OfWithStatus(path) is { Facts: { IsRegular: true, Bytes: > 0 and <= MostBytes } facts } there)
            {
                seen.Add(new SeenDocument(path, facts, there.StatusChange));
            }
        }
        return seen;
    }

    private bool IsDocument(string name) => SessionFolder.IsDocument(name) || DocumentFormats.IsPackedTimeline(name) || _kinds.MayBeADocument(name, 1);
}
