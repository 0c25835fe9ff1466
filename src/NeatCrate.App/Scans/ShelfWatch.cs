using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Words;

namespace NeatCrate.App.Scans;

/// <summary>Notices within a second when a shelf comes or goes, and tells the pages.</summary>
public sealed class ShelfWatch(ShelfService shelves, ShelfScans scans, MirrorLedger mirrors, SessionService sessions, NoticeService notices, IHubContext<JobsHub> hub, TimeProvider time, ILogger<ShelfWatch> logger)
    : EverySecond(time, logger)
{
    private Dictionary<Guid, bool>? _connected;

    /// <inheritdoc/>
    protected override async Task Look(CancellationToken cancel)
    {
        var now = shelves.All();
        var connected = now.ToDictionary(s => s.Id, s => s.IsConnected);
        var before = _connected ?? connected;
        _connected = connected;
        if (now.All(s => before.GetValueOrDefault(s.Id, s.IsConnected) == connected[s.Id]))
        {
            return;
        }
        shelves.NoteChange();
        // It is told once: that whoever asked for this look went away must not keep it from the others.
        await hub.Clients.All.SendAsync("shelves", CancellationToken.None);
        foreach (var shelf in now.Where(s => connected[s.Id] && !before.GetValueOrDefault(s.Id, true)))
        {
            // It may have been elsewhere in the meantime.
            scans.StartIfThere(shelf.Id);
            foreach (var (session, files) in sessions.BackOn(shelf.Id))
            {
                notices.Tell(session, $"'{shelf.Name}' is back: {ByteText.Count(files, "file")} of this session {(files == 1 ? "is" : "are")} there again.");
            }
            foreach (var (session, gaps) in mirrors.GapsOn(shelf.Id))
            {
                notices.Tell(session, $"The mirror's shelf '{shelf.Name}' is back, and {ByteText.Count(gaps, "take")} {(gaps == 1 ? "is" : "are")} not whole on it. The Record station copies what is missing.");
            }
        }
    }
}
