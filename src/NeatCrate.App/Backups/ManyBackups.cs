using System.ComponentModel.DataAnnotations;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>Sessions that were chosen.</summary>
public sealed record ChosenSessions([Required] IReadOnlyList<Guid> SessionIds);

/// <summary>What was begun for many sessions at once.</summary>
/// <param name="Jobs">The backups that were begun.</param>
/// <param name="Without">Sessions for which no vault is there that would make them safer.</param>
public sealed record ManyBackupsView(JobView[] Jobs, string[] Without);

/// <summary>Backs up many sessions at once: those that were chosen, or all of which something would be lost with its drive.</summary>
public sealed class ManyBackups(
    SessionService sessions, SessionFiles files, ShelfService shelves, ShelfDrives shelfDrives, VaultService vaults, BackupService backups, WorkEngine engine)
{
    private readonly Lock _one = new();

    /// <summary>Begins a full backup of each of which something is only here. One that is being backed up is left to that.</summary>
    public ManyBackupsView BackUpOnlyHere(CancellationToken cancel)
    {
        // Two who press at once mean one backup of each.
        lock (_one)
        {
            var known = shelves.All();
            var drives = shelfDrives.Of(known);
            return Begin([.. Idle(sessions.All()).Select(row => (row, Tally(row, known, drives, cancel))).Where(s => s.Item2 is { } tally && IsWorried(tally)).Select(s => (s.row, s.Item2!.OnlyHere.Files > 0))]);
        }
    }

    /// <summary>Begins a full backup of each session that was chosen; one that is being backed up is left to that.</summary>
    /// <exception cref="NotKnownException">One of them is not known.</exception>
    public ManyBackupsView BackUp(IReadOnlyCollection<Guid> chosen)
    {
        ArgumentNullException.ThrowIfNull(chosen);
        lock (_one)
        {
            return Begin([.. Idle([.. chosen.Distinct().Select(sessions.Get)]).Select(row => (row, true))]);
        }
    }

    private static bool IsWorried(SafetyTally tally) => tally.OnlyHere.Files > 0 || tally is { Wanted: > 1, OnOneDrive.Files: > 0 };

    private IEnumerable<SessionRow> Idle(IReadOnlyList<SessionRow> rows)
    {
        var busy = engine.All().Where(j => j.Work == JobWork.Backup && !j.IsOver).Select(j => j.SessionId).ToHashSet();
        return rows.Where(s => !busy.Contains(s.Id));
    }

    /// <summary>Each into the vault that makes it safest: on another drive than the session, whole, and where it was backed up before.</summary>
    /// <param name="rows">The sessions, and whether a vault on their own drive is better than none: what stands twice on one drive is no safer for standing there three times.</param>
    private ManyBackupsView Begin(IReadOnlyList<(SessionRow Row, bool AlsoAtHome)> rows)
    {
        var drives = shelfDrives.Of(shelves.All());
        var there = vaults.All().Where(v => v.IsConnected).ToList();
        var (begun, without) = (new List<JobView>(), new List<string>());
        foreach (var (row, alsoAtHome) in rows)
        {
            var home = drives.Of(row.Folder);
            var vault = there.Where(v => alsoAtHome || drives.Of(v.Id) != home)
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
        return new ManyBackupsView([.. begun], [.. without]);
    }

    /// <summary>How safe its files are; null where it cannot be looked at, which its label tells.</summary>
    private SafetyTally? Tally(SessionRow row, IReadOnlyList<Shelf> known, DrivesNow drives, CancellationToken cancel)
    {
        try
        {
            return backups.TallyOf(row, files.Glance(row, known, cancel).Inventory, drives);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or FaultException)
        {
            return null;
        }
    }
}
