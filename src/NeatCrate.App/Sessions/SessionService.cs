using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using NeatCrate.App.Hosting;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>The known sessions and their inventories.</summary>
public sealed class SessionService(StoreFiles files, ShelfService shelves, InventoryTaker inventories, TimeProvider time)
{
    private readonly ConcurrentDictionary<Guid, LastLook> _last = new();

    /// <summary>All known sessions.</summary>
    public IReadOnlyList<SessionRow> All()
    {
        using var db = files.NewDb();
        return db.Sessions.AsNoTracking().OrderBy(s => s.Folder).ToList();
    }

    /// <summary>The folders of all known sessions.</summary>
    public IReadOnlyList<string> Folders() => [.. All().Select(s => s.Folder)];

    /// <summary>One session.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public SessionRow Get(Guid id)
    {
        using var db = files.NewDb();
        return db.Sessions.AsNoTracking().FirstOrDefault(s => s.Id == id) ?? throw new NotKnownException("This session is not known (any more).");
    }

    /// <summary>Looks at a session's folder, its documents and the shelves, now.</summary>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public SessionInventory Take(SessionRow session, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(session);
        // A document that was chosen once and is gone gives way to the newest.
        var chosen = session.DocumentName is { } name && File.Exists(Path.Combine(session.Folder, name)) ? name : null;
        var inventory = inventories.Take(session.Folder, chosen, shelves.All(), cancel);
        Remember(session, inventory);
        _last[session.Id] = new LastLook(inventory);
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
        if (_last.TryGetValue(session.Id, out var last) && last.Find(fileId) is { } known && IsAsFound(known))
        {
            return known;
        }
        Take(session, cancel);
        return _last[session.Id].Find(fileId);
    }

    /// <summary>The session's own folder for waveform caches, as the last look found it; null where it has none, since looking makes no folder.</summary>
    public string? CacheFolder(SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(session);
        return _last.TryGetValue(session.Id, out var last) && Path.Combine(last.Inventory.Folder, last.Inventory.Layout.WaveformCache) is var folder && Directory.Exists(folder) ? folder : null;
    }

    private static bool IsAsFound(InventoryFile file) => file.Standing == Standing.Away
        ? !File.Exists(file.Path)
        : new FileInfo(file.Path) is { Exists: true, LinkTarget: null } now && now.Length == file.Bytes && now.LastWriteTimeUtc == file.ChangedUtc;

    /// <summary>The session stands in another folder now.</summary>
    public void Move(Guid id, string folder)
    {
        using var db = files.NewDb();
        db.Sessions.Where(s => s.Id == id).ExecuteUpdate(s => s.SetProperty(r => r.Folder, folder));
    }

    /// <summary>Says which document the session is worked in; null for the newest at the top level.</summary>
    public void Choose(Guid id, string? document)
    {
        using var db = files.NewDb();
        db.Sessions.Where(s => s.Id == id).ExecuteUpdate(s => s.SetProperty(r => r.DocumentName, document));
    }

    /// <summary>Remembers by what the session is recognised, should its folder be moved.</summary>
    private void Remember(SessionRow session, SessionInventory inventory)
    {
        var (id, identity) = (inventory.Document?.SessionId, inventory.Current?.Identity.ToString());
        if (inventory.Document is null || (session.DocumentSessionId == id && session.DocumentIdentity == identity))
        {
            return;
        }
        using var db = files.NewDb();
        db.Sessions.Where(s => s.Id == session.Id).ExecuteUpdate(s => s.SetProperty(r => r.DocumentSessionId, id).SetProperty(r => r.DocumentIdentity, identity));
    }

    /// <summary>The folders of all known sessions but one.</summary>
    public IReadOnlyList<string> OtherFolders(Guid id) => [.. All().Where(s => s.Id != id).Select(s => s.Folder)];

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
        return row;
    }

    /// <summary>Forgets a session. No file is touched.</summary>
    public void Forget(Guid id)
    {
        using var db = files.NewDb();
        db.Sessions.Where(s => s.Id == id).ExecuteDelete();
        _last.TryRemove(id, out _);
    }

    /// <summary>What was found at the last look, with its files by identity: a list in sight asks for the outlines of dozens at once.</summary>
    private sealed class LastLook(SessionInventory inventory)
    {
        private readonly Lazy<Dictionary<string, InventoryFile>> _files = new(() => inventory.Files.ToDictionary(f => SessionViews.FileId(f.Path), StringComparer.Ordinal));

        public SessionInventory Inventory => inventory;

        public InventoryFile? Find(string fileId) => _files.Value.GetValueOrDefault(fileId);
    }
}
