using System.Collections.Concurrent;
using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using NeatCrate.App.Ground;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>The known sessions and their inventories.</summary>
public sealed class SessionService(StoreFiles files, ShelfService shelves, KeptSessions kept, UseMemory memory, TimeProvider time)
{
    private const int MostLookedAtForShow = 2_000;

    // As they were worked out last, so that nothing is compared where nothing was worked out anew.
    private readonly ConcurrentDictionary<string, ImmutableArray<UsePlace>> _remembered = new(StringComparer.Ordinal);

    private readonly ReadOnce<IReadOnlyList<SessionRow>> _known = new(() =>
    {
        using var db = files.NewDb();
        return db.Sessions.AsNoTracking().OrderBy(s => s.Folder).ToList();
    });

    private RowFolders? _folders;

    private sealed record RowFolders(IReadOnlyList<SessionRow> Rows, IReadOnlyList<string> Folders);

    /// <summary>All known sessions, by their folders.</summary>
    public IReadOnlyList<SessionRow> All() => _known.Value;

    /// <summary>Says that what is known of sessions changed in the database.</summary>
    public void Reread() => _known.Changed();

    /// <summary>A session with what it is recognised by.</summary>
    public static KnownSession RecognisedBy(SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(session);
        return new KnownSession(session.Id, session.Folder, session.DocumentSessionId, session.DocumentIdentity is { } identity ? ByteIdentity.Parse(identity) : null);
    }

    /// <summary>The folders of all known sessions; the same list while they are the same.</summary>
    public IReadOnlyList<string> Folders()
    {
        var rows = All();
        var known = _folders;
        return (ReferenceEquals(known?.Rows, rows) ? known : _folders = new RowFolders(rows, [.. rows.Select(s => s.Folder)])).Folders;
    }

    /// <summary>One session.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public SessionRow Get(Guid id) => All().FirstOrDefault(s => s.Id == id) ?? throw new NotKnownException("This session is not known (any more).");

    /// <summary>A session's inventory as things are now, every file looked at: what plans are made of.</summary>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public SessionInventory InventoryOf(SessionRow session, CancellationToken cancel) => Look(session, LookDepth.Files, shelves.All(), cancel);

    /// <summary>
    /// A session's inventory for being shown. What came, went or was saved is seen at once; a file of a large session that was
    /// written over in its place is seen by the watch, a moment later.
    /// </summary>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public SessionInventory Show(SessionRow session, IReadOnlyList<Shelf> known, CancellationToken cancel) =>
        Look(session, kept.Of(session).Last is { Files.Length: <= MostLookedAtForShow } ? LookDepth.Files : LookDepth.Folders, known, cancel);

    /// <summary>A session's inventory among those of many, which the watch keeps up to date.</summary>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public SessionInventory Glance(SessionRow session, IReadOnlyList<Shelf> known, CancellationToken cancel) => Look(session, LookDepth.Folders, known, cancel);

    /// <summary>
    /// The sessions that point at files on a shelf that was away, with how many of these are there now. Whether somebody looked at a
    /// session since the shelf is back does not matter: what stands on it was away with it.
    /// </summary>
    public IEnumerable<(Guid Session, int Files)> BackOn(Guid shelfId) =>
        All().Select(s => (s.Id, Files: kept.Of(s).Last?.Files.Count(f => f.ShelfId == shelfId && !f.BelongsInside && FileFacts.Of(f.Path) is { IsRegular: true }) ?? 0))
            .Where(s => s.Files > 0);

    /// <summary>All known sessions, as those whose use of files counts.</summary>
    public IEnumerable<UsingSession> Using() => All().Select(s => new UsingSession(kept.Of(s), Chosen(s)));

    /// <summary>A document that was chosen once and is gone gives way to the newest.</summary>
    private static string? Chosen(SessionRow session) => session.DocumentName is { } name && File.Exists(Path.Combine(session.Folder, name)) ? name : null;

    private SessionInventory Look(SessionRow session, LookDepth depth, IReadOnlyList<Shelf> known, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(session);
        // A drive that is away, or does not answer, is not asked.
        if (Shelf.Holding(known, session.Folder) is { IsConnected: false } away)
        {
            throw new FaultException(new Fault(away.State.Answers ? FaultCode.ShelfAway : FaultCode.ShelfDoesNotAnswer) { Name = away.Name });
        }
        var inventory = kept.Of(session).Look(Chosen(session), known, depth, time.GetUtcNow().UtcDateTime, cancel);
        Remember(session, inventory);
        RememberUse(session);
        return inventory;
    }

    /// <summary>
    /// One file of a session, as the last look found it; only when it has changed since, or was not there then, is all of
    /// the session looked at again.
    /// </summary>
    /// <returns>The file, or null when the session has none of this identity.</returns>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public InventoryFile? FindFile(SessionRow session, string fileId, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(session);
        if (Known(session, fileId) is { } known && IsAsFound(known))
        {
            return known;
        }
        InventoryOf(session, cancel);
        return Known(session, fileId);
    }

    /// <summary>The session's own folder for waveform caches, as the last look found it; null where it has none, since looking makes no folder.</summary>
    public string? CacheFolder(SessionRow session) =>
        kept.Of(session).Last is { } last && Path.Combine(last.Folder, last.Layout.WaveformCache) is var folder && Directory.Exists(folder) ? folder : null;

    /// <summary>One file of a session, as the last look found it; null where it found none of this identity.</summary>
    public InventoryFile? Known(SessionRow session, string fileId) => kept.Of(session).Find(fileId);

    private static bool IsAsFound(InventoryFile file) => file.Standing == Standing.Away
        ? !File.Exists(file.Path)
        : new FileInfo(file.Path) is { Exists: true, LinkTarget: null } now && now.Length == file.Bytes && now.LastWriteTimeUtc == file.ModifiedUtc;

    /// <summary>The session stands in another folder now.</summary>
    public void Move(Guid id, string folder)
    {
        using var db = files.NewDb();
        db.Sessions.Where(s => s.Id == id).ExecuteUpdate(s => s.SetProperty(r => r.Folder, folder));
        Reread();
    }

    /// <summary>Says which document the session is worked in; null for the newest at the top level.</summary>
    public void Choose(Guid id, string? document)
    {
        using var db = files.NewDb();
        db.Sessions.Where(s => s.Id == id).ExecuteUpdate(s => s.SetProperty(r => r.DocumentName, document));
        Reread();
    }

    private void RememberUse(SessionRow session)
    {
        if (kept.Of(session).UsedElsewhere is { } places && (!_remembered.TryGetValue(session.Folder, out var before) || before != places))
        {
            memory.Remember(session.Folder, places);
            _remembered[session.Folder] = places;
        }
    }

    /// <summary>Remembers by what the session is recognised, should its folder be moved.</summary>
    private void Remember(SessionRow session, SessionInventory inventory)
    {
        var (id, identity) = (inventory.Document?.SessionId, inventory.Current?.Identity.ToString());
        // One with an identity of its own is recognised by that alone, also while only another program's document stands there.
        var isTold = inventory.Document is not null || (inventory.IsByNames && session.DocumentSessionId is null);
        if (!isTold || (session.DocumentSessionId == id && session.DocumentIdentity == identity))
        {
            return;
        }
        using var db = files.NewDb();
        db.Sessions.Where(s => s.Id == session.Id).ExecuteUpdate(s => s.SetProperty(r => r.DocumentSessionId, id).SetProperty(r => r.DocumentIdentity, identity));
        Reread();
    }

    /// <summary>Makes a folder known as a session; one that is known already stays as it is.</summary>
    /// <param name="folder">Absolute path.</param>
    /// <param name="id">Its identity here; null for a new one.</param>
    /// <param name="document">File name of the document that it is worked in; null for the newest.</param>
    public SessionRow Know(string folder, Guid? id = null, string? document = null)
    {
        using var db = files.NewDb();
        if (db.Sessions.AsNoTracking().FirstOrDefault(s => s.Folder == folder) is { } known)
        {
            return known;
        }
        var row = new SessionRow { Id = id ?? Guid.NewGuid(), Folder = folder, DocumentName = document, KnownSinceMs = time.GetUtcNow().ToUnixTimeMilliseconds() };
        db.Sessions.Add(row);
        db.SaveChanges();
        Reread();
        return row;
    }

    /// <summary>Forgets a session. No file is touched.</summary>
    public void Forget(Guid id)
    {
        using var db = files.NewDb();
        db.Sessions.Where(s => s.Id == id).ExecuteDelete();
        Reread();
    }
}
