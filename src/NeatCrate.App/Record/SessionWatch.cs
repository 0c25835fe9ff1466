using System.Collections.Concurrent;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Hosting;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Record;

namespace NeatCrate.App.Record;

/// <summary>Watches the folders of all known sessions, and tells the pages when something in one changed.</summary>
public sealed class SessionWatch(SessionService sessions, RecordingGuard guard, IHubContext<JobsHub> hub, TimeProvider time, ILogger<SessionWatch> logger)
    : EverySecond(time, logger)
{
    private readonly TimeProvider _time = time;
    private readonly ConcurrentDictionary<Guid, FolderWatch> _watches = new();

    /// <summary>Says that files are whole: whoever wrote them is done.</summary>
    public void Settle(Guid sessionId, IEnumerable<string> paths)
    {
        ArgumentNullException.ThrowIfNull(paths);
        if (!_watches.TryGetValue(sessionId, out var watch))
        {
            return;
        }
        lock (watch)
        {
            watch.Look(_time.GetUtcNow().UtcDateTime);
            foreach (var path in paths)
            {
                watch.Settle(path);
            }
            guard.SetGrowing(sessionId, Path.GetFileName(watch.Folder), watch.Growing);
        }
    }

    /// <inheritdoc/>
    protected override async Task Look(CancellationToken cancel)
    {
        var known = sessions.All();
        foreach (var gone in _watches.Keys.Except(known.Select(s => s.Id)))
        {
            _watches.TryRemove(gone, out _);
            guard.SetGrowing(gone, "", []);
        }
        foreach (var session in known)
        {
            var watch = _watches.AddOrUpdate(session.Id, _ => new FolderWatch(session.Folder), (_, w) => w.Folder == session.Folder ? w : new FolderWatch(session.Folder));
            if (Look(session.Id, watch))
            {
                await hub.Clients.All.SendAsync("session", session.Id, cancel);
            }
        }
    }

    private bool Look(Guid id, FolderWatch watch)
    {
        lock (watch)
        {
            try
            {
                return watch.Look(_time.GetUtcNow().UtcDateTime);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // The drive may be leaving at this moment. The inventory, when somebody looks, says what is wrong.
                return true;
            }
            finally
            {
                guard.SetGrowing(id, Path.GetFileName(watch.Folder), watch.Growing);
            }
        }
    }
}
