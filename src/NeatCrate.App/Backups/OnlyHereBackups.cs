using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>What was begun for sessions of which something is only here.</summary>
/// <param name="Jobs">The backups that were begun.</param>
/// <param name="Without">Sessions for which no vault is there that would make them safer.</param>
public sealed record OnlyHereView(JobView[] Jobs, string[] Without);

/// <summary>Backs up every session of which something would be lost with its drive.</summary>
public sealed class OnlyHereBackups(
    SessionService sessions, SessionFiles files, ShelfService shelves, ShelfDrives shelfDrives, VaultService vaults, BackupService backups, WorkEngine engine)
{
    private readonly Lock _one = new();

    /// <summary>Begins a full backup of each into the vault that makes it safest: on another drive than the session, whole, and where it was backed up before. One that is being backed up is left to that.</summary>
    public OnlyHereView BackUp(CancellationToken cancel)
    {
        // Two who press at once mean one backup of each.
        lock (_one)
        {
            return Begin(cancel);
        }
    }

    private OnlyHereView Begin(CancellationToken cancel)
    {
        var known = shelves.All();
        var drives = shelfDrives.Of(known);
        var there = vaults.All().Where(v => v.IsConnected).ToList();
        var busy = engine.All().Where(j => j.Work == JobWork.Backup && !j.IsOver).Select(j => j.SessionId).ToHashSet();
        var (begun, without) = (new List<JobView>(), new List<string>());
        foreach (var row in sessions.All().Where(s => !busy.Contains(s.Id)))
        {
            if (Tally(row, known, cancel) is not { } tally || tally is { OnlyHere.Files: 0 } and not { Wanted: > 1, OnOneDrive.Files: > 0 })
            {
                continue;
            }
            var home = drives.Of(row.Folder);
            // What stands twice on one drive is no safer for standing there three times.
            var vault = there.Where(v => tally.OnlyHere.Files > 0 || drives.Of(v.Id) != home)
                .OrderBy(v => drives.Of(v.Id) == home).ThenBy(v => vaults.ProblemOf(v) is not null || vaults.DamageIn(v).Count > 0).ThenByDescending(v => vaults.In(v).Any(b => vaults.IsOf(b, row))).FirstOrDefault();
            if (vault is null)
            {
                without.Add(Path.GetFileName(row.Folder));
            }
            else
            {
                begun.Add(backups.BackUp(row, vault, null, byContent: false, onlyIfChanged: false).View);
            }
        }
        return new OnlyHereView([.. begun], [.. without]);
    }

    /// <summary>How safe its files are; null where it cannot be looked at, which its label tells.</summary>
    private SafetyTally? Tally(SessionRow row, IReadOnlyList<Shelf> known, CancellationToken cancel)
    {
        try
        {
            return FileSafety.Tally(backups.SafetyOf(row, files.Glance(row, known, cancel).Inventory), backups.WantedOf(row.Id));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or FaultException)
        {
            return null;
        }
    }
}
