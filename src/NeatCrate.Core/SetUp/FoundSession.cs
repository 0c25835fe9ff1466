using System.Collections.Immutable;
using System.Text.RegularExpressions;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.SetUp;

/// <summary>A folder that looks like a session: documents stand in it, and media that they use.</summary>
/// <param name="Folder">Absolute path.</param>
/// <param name="Documents">Names of the documents at its top, the current one first.</param>
/// <param name="IsByNames">True where the current one is of another program: of it only the names are known.</param>
/// <param name="Media">Media files in it.</param>
/// <param name="Bytes">Bytes of all files in it.</param>
/// <param name="SavedUtc">When the current document was saved last.</param>
/// <param name="Status">What its label would say.</param>
/// <param name="DocumentSessionId">The identity that its current document carries, if any.</param>
/// <param name="Document">The bytes of its current document; null where it cannot be looked at.</param>
public sealed record FoundSession(
    string Folder, ImmutableArray<string> Documents, bool IsByNames, int Media, long Bytes, DateTime? SavedUtc, SessionStatus Status, Guid? DocumentSessionId, ByteIdentity? Document)
{
    /// <summary>What is found in a folder.</summary>
    /// <param name="inventory">Its inventory.</param>
    /// <returns>Null where no document at its top uses anything in it: then it is no session.</returns>
    public static FoundSession? Of(SessionInventory inventory)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        if (inventory.Current is not { } current || (inventory.IsByNames && inventory.Named is not { Named: > 0 }))
        {
            return null;
        }
        var inside = inventory.Standing(Standing.Inside).ToList();
        return new FoundSession(
            inventory.Folder,
            [.. inventory.Documents.Where(d => Path.GetDirectoryName(d.Path) == inventory.Folder).OrderByDescending(d => d.Current).Select(d => Path.GetFileName(d.Path))],
            inventory.IsByNames,
            inside.Count,
            inside.Sum(f => f.Bytes) + inventory.Others.Bytes,
            current.ModifiedUtc,
            SessionStatus.Of(inventory),
            inventory.Document?.SessionId,
            current.Identity);
    }

    /// <summary>A folder that holds documents and could not be looked at.</summary>
    /// <param name="folder">Absolute path.</param>
    /// <param name="why">Why.</param>
    public static FoundSession Unreadable(string folder, Fault why) =>
        new(folder, [], false, 0, 0, null, new SessionStatus(Attention.Unreadable, [], "Look at the folder", why), null, null);

    /// <summary>Whether it is the same session as another: by the identity in the documents, where one has none by their bytes.</summary>
    internal bool IsSame(Guid? otherId, ByteIdentity? other) => DocumentSessionId is { } id && otherId is { } their ? id == their : Document is { } own && own == other;
}

/// <summary>What a found folder is, before anybody works in it.</summary>
public enum FoundAs
{
    /// <summary>A session that nobody knows here yet.</summary>
    Session,

    /// <summary>A known session, or a folder in one.</summary>
    Known,

    /// <summary>A copy of a session that stands somewhere else.</summary>
    Copy,

    /// <summary>An unpacked bundle.</summary>
    UnpackedBundle,

    /// <summary>It stands where backups are kept.</summary>
    Backup,

    /// <summary>It stands where a program keeps what it can make again.</summary>
    Cache,

    /// <summary>It cannot be looked at.</summary>
    Unreadable,
}

/// <summary>A found folder and what it is.</summary>
/// <param name="Found">What was found.</param>
/// <param name="As">What it is.</param>
/// <param name="Of">For a known one and a copy, absolute path of the session's folder; for what stands in a certain folder, that folder's name.</param>
public sealed record ToldSession(FoundSession Found, FoundAs As, string? Of);

/// <summary>Tells found folders apart: what is a session, and what is a copy of one.</summary>
public static partial class FoundSessions
{
    /// <summary>The file that stands at the top of an unpacked bundle (RFC 8493, section 2.1.1).</summary>
    public const string BundleDeclaration = "bagit.txt";

    /// <summary>Says of each found folder what it is, as things are now.</summary>
    /// <param name="found">What was found on one shelf.</param>
    /// <param name="root">Absolute path of the shelf's top folder.</param>
    /// <param name="known">All known sessions.</param>
    /// <param name="shelves">All known shelves, connected or away.</param>
    public static IReadOnlyList<ToldSession> Tell(IReadOnlyCollection<FoundSession> found, string root, IReadOnlyCollection<KnownSession> known, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(found);
        ArgumentNullException.ThrowIfNull(known);
        var folders = known.ToLookup(k => k.Folder, StringComparer.Ordinal);
        // One whose drive is away stands there all the same.
        var there = known.Where(k => !k.IsGone(shelves)).ToList();
        var told = found.ToDictionary(f => f, f => One(f, root, folders, there));
        // Of several that are one session, the one saved last is the session; where two were saved at once, the one further up.
        var twins = found.Where(f => told[f].As == FoundAs.Session).OrderByDescending(f => f.SavedUtc).ThenBy(f => f.Folder.Count(c => c == '/')).ThenBy(f => f.Folder, StringComparer.Ordinal).ToList();
        var first = new Dictionary<object, string>();
        foreach (var twin in twins)
        {
            // Documents of other programs that were begun from one template may be equal by their bytes: then the sounds beside tell.
            var identity = twin.DocumentSessionId ?? (object)(twin.Document, twin.Media, twin.Bytes);
            if (!first.TryAdd(identity, twin.Folder))
            {
                told[twin] = new ToldSession(twin, FoundAs.Copy, first[identity]);
            }
        }
        return [.. found.Select(f => told[f])];
    }

    private static ToldSession One(FoundSession found, string root, ILookup<string, KnownSession> folders, List<KnownSession> there)
    {
        for (var folder = found.Folder; folder is not null; folder = Path.GetDirectoryName(folder))
        {
            if (folders.Contains(folder))
            {
                return new ToldSession(found, FoundAs.Known, folder);
            }
        }
        if (found.Document is null)
        {
            return new ToldSession(found, FoundAs.Unreadable, null);
        }
        if (there.Find(k => found.IsSame(k.DocumentSessionId, k.Document)) is { } same)
        {
            return new ToldSession(found, FoundAs.Copy, same.Folder);
        }
        for (var folder = found.Folder; folder is not null && folder != root && ShelfPath.IsWithin(folder, root); folder = Path.GetDirectoryName(folder))
        {
            if (File.Exists(Path.Combine(folder, BundleDeclaration)))
            {
                return new ToldSession(found, FoundAs.UnpackedBundle, Path.GetFileName(folder));
            }
            if (AsBackup().IsMatch(Path.GetFileName(folder)))
            {
                return new ToldSession(found, FoundAs.Backup, Path.GetFileName(folder));
            }
            if (AsCache().IsMatch(Path.GetFileName(folder)))
            {
                return new ToldSession(found, FoundAs.Cache, Path.GetFileName(folder));
            }
        }
        return new ToldSession(found, FoundAs.Session, null);
    }

    // Common practice: whoever keeps copies by hand calls the folder so.
    [GeneratedRegex(@"(?<![\p{L}])(back[ _-]?ups?|bak)(?![\p{L}])", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant)]
    private static partial Regex AsBackup();

    [GeneratedRegex(@"(?<![\p{L}])caches?(?![\p{L}])", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant)]
    private static partial Regex AsCache();
}
