using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.SetUp;

/// <summary>A known session, with what it is recognised by.</summary>
/// <param name="Id">Its identity among the known sessions.</param>
/// <param name="Folder">Absolute path where it stands, or stood.</param>
/// <param name="DocumentSessionId">The identity that its document carries, if any.</param>
/// <param name="Document">The bytes of its document when it was last seen, if it was.</param>
public sealed record KnownSession(Guid Id, string Folder, Guid? DocumentSessionId, ByteIdentity? Document)
{
    /// <summary>True where its folder is gone though its shelf is there. While a shelf is away, so is the session, and nothing is wrong.</summary>
    public bool IsGone(IEnumerable<Shelf> shelves) => !Directory.Exists(Folder) && Shelf.Holding(shelves, Folder) is not { IsConnected: false };
}

/// <summary>Where a lost session may be now.</summary>
/// <param name="Session">The session.</param>
/// <param name="Folders">Folders that hold it. One is the answer; with more, only a person can tell the session from its copy.</param>
public sealed record RecognisedSession(KnownSession Session, IReadOnlyList<string> Folders);

/// <summary>Recognises sessions whose folder was moved or renamed on disk: by the identity in the document, else by its bytes, whatever program's it is.</summary>
public static class SessionRecognition
{
    /// <summary>Looks for lost sessions on shelves. Vaults and outboxes are left out: what stands there is a copy, and nobody should go on working in one.</summary>
    /// <param name="lost">The sessions to look for.</param>
    /// <param name="known">Folders of sessions that are where they should be; none of them is the answer.</param>
    /// <param name="shelves">Where to look; those that are away are left out.</param>
    /// <param name="cancel">Stops between two folders.</param>
    /// <returns>Those that were found, in the order of <paramref name="lost"/>.</returns>
    public static IReadOnlyList<RecognisedSession> Look(
        IReadOnlyList<KnownSession> lost, IReadOnlySet<string> known, IEnumerable<Shelf> shelves, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(lost);
        ArgumentNullException.ThrowIfNull(known);
        var found = lost.ToDictionary(s => s.Id, _ => new SortedSet<string>(StringComparer.Ordinal));
        // A document of another program has no name by which it is known, and is told by its size before it is read.
        var sizes = lost.Where(s => s.DocumentSessionId is null).Select(s => s.Document?.Bytes).OfType<long>().ToHashSet();
        var roots = shelves.Where(s => s.IsConnected && s.Kind is not (ShelfKind.Vault or ShelfKind.Outbox)).Select(s => s.Root).Distinct();
        foreach (var (folder, documents) in lost.Count == 0 ? [] : roots.SelectMany(r => SessionFolders(r, sizes, cancel)).Where(f => !known.Contains(f.Folder)))
        {
            foreach (var session in Matches(documents, lost))
            {
                found[session.Id].Add(folder);
            }
        }
        return [.. lost.Where(s => found[s.Id].Count > 0).Select(s => new RecognisedSession(s, [.. Topmost(found[s.Id])]))];
    }

    /// <summary>A copy of a document further down in a session's folder is no second session.</summary>
    private static IEnumerable<string> Topmost(SortedSet<string> folders) => folders.Where(f => !folders.Any(o => o != f && ShelfPath.IsWithin(f, o)));

    /// <summary>Folders with a session document at their top level, or with what may be one that is looked for. What lies below a session document belongs to it.</summary>
    /// <returns>Each folder with the absolute paths of these.</returns>
    private static IEnumerable<(string Folder, List<string> Documents)> SessionFolders(string root, HashSet<long> sizes, CancellationToken cancel)
    {
        // The walk gives each folder first and asks afterwards whether to go into it.
        var holds = false;
        foreach (var folder in ShelfWalk.Folders(root, _ => !holds, cancel))
        {
            holds = SessionFolder.HoldsDocument(folder);
            List<string> documents = [.. holds ? SessionFolder.Documents(folder) : [], .. LookedFor(folder, sizes)];
            if (documents.Count > 0)
            {
                yield return (folder, documents);
            }
        }
    }

    /// <summary>Files of other programs at the top of a folder that are as large as a document that is looked for.</summary>
    private static List<string> LookedFor(string folder, HashSet<long> sizes)
    {
        if (sizes.Count == 0 || SessionFolder.HoldsKeptStates(folder))
        {
            return [];
        }
        try
        {
            return [.. new DirectoryInfo(folder).EnumerateFiles().Where(f => f.LinkTarget is null && sizes.Contains(f.Length) && DocumentFormats.MayBeADocument(f.FullName, f.Length)).Select(f => f.FullName)];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // A folder that cannot be opened tells nothing.
            return [];
        }
    }

    private static List<KnownSession> Matches(List<string> documents, IReadOnlyList<KnownSession> lost)
    {
        var matches = new List<KnownSession>();
        foreach (var path in documents)
        {
            try
            {
                var bytes = ReadableFile.ReadAll(path, DocumentFormats.MostBytes);
                var identity = ByteIdentity.Of(bytes);
                var id = IdentityIn(path, bytes);
                matches.AddRange(lost.Where(s => s.DocumentSessionId is { } own ? own == id : s.Document == identity));
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // A document that cannot be opened tells nothing.
            }
        }
        return matches;
    }

    private static Guid? IdentityIn(string path, byte[] bytes)
    {
        try
        {
            return DocumentFormats.Read<ISessionNotes>(path, bytes).Facts.SessionId;
        }
        catch (UnreadableDocumentException)
        {
            return null;
        }
    }
}
