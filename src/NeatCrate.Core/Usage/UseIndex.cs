using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Usage;

/// <summary>A session whose use of files counts.</summary>
/// <param name="Inventory">Its inventory.</param>
/// <param name="DocumentName">File name of the document that was chosen on this machine; null for none.</param>
public sealed record UsingSession(KeptInventory Inventory, string? DocumentName);

/// <summary>Remembers over restarts which files outside of their folders sessions use, for those whose drive is away then.</summary>
public interface IUseMemory
{
    /// <summary>The places that were remembered of a session; none where nothing was.</summary>
    /// <param name="sessionFolder">Absolute path of the session's folder.</param>
    IReadOnlyList<UsePlace> Recall(string sessionFolder);
}

/// <summary>
/// Which session, document, clip and samples use a file, over all known sessions and all versions in their folders. A session
/// that cannot be reached counts as it was when it was last looked at.
/// </summary>
/// <param name="sessions">All known sessions.</param>
/// <param name="shelves">All known shelves.</param>
/// <param name="time">Tells the time.</param>
/// <param name="memory">What was known of sessions that were not looked at since the start.</param>
public sealed class UseIndex(Func<IEnumerable<UsingSession>> sessions, Func<IReadOnlyList<Shelf>> shelves, TimeProvider time, IUseMemory? memory = null) : IFileUsers
{
    private static readonly IReadOnlyDictionary<string, byte[]> Nothing = new Dictionary<string, byte[]>();

    /// <summary>The places at which files are used now.</summary>
    /// <param name="paths">Absolute paths of the files.</param>
    public IReadOnlyList<UsePlace> UsesOf(IReadOnlySet<string> paths) => UsesOf(paths, Nothing);

    /// <summary>
    /// The places at which other sessions use files in a session's folder, by the paths that the files have there. A pointer that
    /// gets there by a link counts, too.
    /// </summary>
    /// <param name="folder">Absolute path of the session's folder.</param>
    public IReadOnlyList<UsePlace> UsesWithin(string folder)
    {
        var (known, real, links) = (shelves(), RealPath.Of(folder), new Dictionary<string, string>(StringComparer.Ordinal));
        string? Within(string path)
        {
            if (ShelfPath.IsWithin(path, folder))
            {
                return path;
            }
            var parent = Path.GetDirectoryName(path)!;
            if (!links.TryGetValue(parent, out var leads))
            {
                links[parent] = leads = RealPath.Of(parent);
            }
            return ShelfPath.IsWithin(leads, real) ? Path.Combine(folder, Path.GetRelativePath(real, Path.Combine(leads, Path.GetFileName(path)))) : null;
        }
        return
        [
            .. sessions().Where(s => s.Inventory.Folder != folder).SelectMany(s => Elsewhere(s, known))
                .Select(u => Within(u.Path) is { } path ? u with { Path = path } : null).OfType<UsePlace>(),
        ];
    }

    private IReadOnlyList<UsePlace> Elsewhere(UsingSession session, IReadOnlyList<Shelf> known)
    {
        BringUpToDate(session, known);
        return session.Inventory.UsedElsewhere ?? memory?.Recall(session.Inventory.Folder) ?? [];
    }

    private void BringUpToDate(UsingSession session, IReadOnlyList<Shelf> known)
    {
        try
        {
            // A drive that is away, or does not answer, is not asked.
            if (Shelf.Holding(known, session.Inventory.Folder) is not { IsConnected: false })
            {
                session.Inventory.Look(session.DocumentName, known, LookDepth.Folders, time.GetUtcNow().UtcDateTime);
            }
        }
        catch (FaultException)
        {
            // It is told where the session is shown; what was known of its use still counts.
        }
    }

    /// <inheritdoc/>
    public IReadOnlyList<FileUser> PointingAt(IReadOnlySet<string> paths, IReadOnlyDictionary<string, byte[]> rewritten) =>
        [.. UsesOf(paths, rewritten).Select(u => new FileUser(u.Path, u.Shown, u.Document)).Distinct()];

    private List<UsePlace> UsesOf(IReadOnlySet<string> paths, IReadOnlyDictionary<string, byte[]> rewritten)
    {
        var known = shelves();
        var uses = new List<UsePlace>();
        foreach (var session in sessions())
        {
            BringUpToDate(session, known);
            uses.AddRange(session.Inventory.UsedElsewhere is null && memory is not null
                ? memory.Recall(session.Inventory.Folder).Where(u => paths.Contains(u.Path) && !rewritten.ContainsKey(u.Document))
                : session.Inventory.UsesOf(paths, known, rewritten));
        }
        return uses;
    }
}
