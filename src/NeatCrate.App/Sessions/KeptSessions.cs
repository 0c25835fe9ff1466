using System.Collections.Concurrent;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Listing;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>The inventories of all known sessions, each kept and brought up to date by what changed: everybody asks these.</summary>
public sealed class KeptSessions(HeaderCache headers, IShelfMemory memory, DocumentKindChoices kinds)
{
    private readonly ConcurrentDictionary<Guid, Kept> _kept = new();

    private sealed record Kept(KeptInventory Inventory, SessionListing Listing);

    /// <summary>Told after something changed in a session, whoever saw it.</summary>
    public event Action<Guid, SessionNews>? Changed;

    /// <summary>The inventory of a session; one that stands in another folder now begins anew.</summary>
    public KeptInventory Of(SessionRow session) => KeptOf(session).Inventory;

    /// <summary>The inventory of a session, where there is one.</summary>
    public KeptInventory? Of(Guid id) => _kept.GetValueOrDefault(id)?.Inventory;

    /// <summary>The files of a session as lists show them.</summary>
    public SessionListing ListingOf(SessionRow session) => KeptOf(session).Listing;

    /// <summary>Forgets all sessions but those that are known.</summary>
    /// <param name="known">Tells the known ones; asked after it was looked which are kept, so that one that becomes known meanwhile is not forgotten.</param>
    /// <returns>Those that were forgotten.</returns>
    public IReadOnlyList<Guid> Keep(Func<IEnumerable<Guid>> known)
    {
        ArgumentNullException.ThrowIfNull(known);
        List<Guid> kept = [.. _kept.Keys];
        var gone = kept.Except(known()).ToList();
        foreach (var id in gone)
        {
            _kept.TryRemove(id, out _);
        }
        return gone;
    }

    /// <summary>An inventory of a folder that is no known session yet. Nobody else asks it.</summary>
    public KeptInventory Begin(string folder) => new(folder, headers, memory, () => kinds.Now);

    /// <summary>Goes on with an inventory that was taken before its session was known, unless one was begun meanwhile.</summary>
    public void TakeIn(SessionRow session, KeptInventory taken)
    {
        ArgumentNullException.ThrowIfNull(session);
        _kept.TryAdd(session.Id, Of(session.Id, taken));
    }

    private Kept KeptOf(SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(session);
        return _kept.AddOrUpdate(session.Id, id => New(id, session.Folder), (id, known) => known.Inventory.Folder == session.Folder ? known : New(id, session.Folder));
    }

    private Kept New(Guid id, string folder) => Of(id, Begin(folder));

    private Kept Of(Guid id, KeptInventory kept)
    {
        kept.Changed += (_, news) => Changed?.Invoke(id, news);
        return new Kept(kept, new SessionListing(kept));
    }
}
