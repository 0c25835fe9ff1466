using System.Collections.Concurrent;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Record;

/// <summary>A session in which something changed.</summary>
/// <param name="Revision">Grows with every change; the same number means the same inventory.</param>
public sealed record SessionNewsView(Guid Id, long Revision, bool Media, bool Documents, bool Others);

/// <summary>Watches the folders of all known sessions, and tells the pages when something in one changed.</summary>
public sealed class SessionWatch : EverySecond
{
    // All files are looked at once in so many seconds for having been written over in their place.
    private const int RecheckSeconds = 20;

    // Of very many no more than so many a second: whoever opens a session sees what is so at once in any case.
    private const int MostRechecked = 200;

    // So many sessions are looked at each second; of more, so many in turn, and besides them those in which something happened lately.
    private const int MostLookedAt = 100;
    private static readonly TimeSpan StaysAwake = TimeSpan.FromMinutes(1);

    private readonly ConcurrentDictionary<Guid, long> _happened = new();
    private readonly SessionTurns _turns = new(MostLookedAt, MostLookedAt);

    private readonly SessionService _sessions;
    private readonly ShelfService _shelves;
    private readonly KeptSessions _kept;
    private readonly RecordingGuard _guard;
    private readonly IHubContext<JobsHub> _hub;
    private readonly TimeProvider _time;

    /// <summary>Makes the watch.</summary>
    public SessionWatch(SessionService sessions, ShelfService shelves, KeptSessions kept, RecordingGuard guard, IHubContext<JobsHub> hub, TimeProvider time, ILogger<SessionWatch> logger)
        : base(time, logger)
    {
        (_sessions, _shelves, _kept, _guard, _hub, _time) = (sessions, shelves, kept, guard, hub, time);
        kept.Changed += Tell;
    }

    /// <summary>Says that files are written from now on, until they are settled.</summary>
    public void Write(SessionRow session, IEnumerable<string> paths)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(paths);
        var kept = _kept.Of(session);
        foreach (var path in paths)
        {
            kept.Write(path, _time.GetUtcNow().UtcDateTime);
        }
        SetGrowing(session.Id, kept);
    }

    /// <summary>Says that files are whole: whoever wrote them is done.</summary>
    public void Settle(Guid sessionId, IEnumerable<string> paths)
    {
        ArgumentNullException.ThrowIfNull(paths);
        if (_kept.Of(sessionId) is { } kept)
        {
            foreach (var path in paths)
            {
                kept.Settle(path, _time.GetUtcNow().UtcDateTime);
            }
            SetGrowing(sessionId, kept);
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        _kept.Changed -= Tell;
        base.Dispose();
    }

    /// <inheritdoc/>
    protected override Task Look(CancellationToken cancel)
    {
        foreach (var gone in _kept.Keep(() => _sessions.All().Select(s => s.Id)))
        {
            _guard.SetGrowing(gone, "", []);
            _happened.TryRemove(gone, out _);
        }
        var (shelves, sessions) = (_shelves.All(), _sessions.All());
        var all = sessions.Sum(s => _kept.Of(s.Id)?.Count ?? 0);
        foreach (var session in _turns.Next(sessions, HappenedAt))
        {
            // A drive that does not answer would hold up the watch over all others.
            if (Shelf.Holding(shelves, session.Folder) is not { State.Answers: false })
            {
                Look(session, all);
            }
        }
        return Task.CompletedTask;
    }

    private long? HappenedAt(SessionRow session) =>
        _kept.Of(session.Id) is { Growing.Count: > 0 } ? long.MaxValue : _happened.TryGetValue(session.Id, out var at) && _time.GetElapsedTime(at) < StaysAwake ? at : null;

    private void Look(SessionRow session, int allFiles)
    {
        var kept = _kept.Of(session);
        try
        {
            kept.Notice(_time.GetUtcNow().UtcDateTime, 1 + (int)Math.Min(kept.Count / RecheckSeconds, (long)MostRechecked * kept.Count / Math.Max(1, allFiles)));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // The drive may be leaving at this moment. The inventory, when somebody looks, says what is wrong.
            Tell(session.Id, new SessionNews(true, false, false));
        }
        finally
        {
            SetGrowing(session.Id, kept);
        }
    }

    private void SetGrowing(Guid id, KeptInventory kept) => _guard.SetGrowing(id, Path.GetFileName(kept.Folder), kept.Growing);

    /// <summary>Says that something about a session's takes is otherwise, though none of its files changed.</summary>
    public void Tell(Guid id) => Tell(id, new SessionNews(true, false, false));

    private void Tell(Guid id, SessionNews news)
    {
        if (_kept.Of(id) is { } kept)
        {
            _happened[id] = _time.GetTimestamp();
            // What grows must be known before a page that hears of it asks.
            SetGrowing(id, kept);
            _ = _hub.Clients.All.SendAsync("session", new SessionNewsView(id, kept.Revision, news.Media, news.Documents, news.Others));
        }
    }
}
