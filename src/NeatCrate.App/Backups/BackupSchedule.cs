using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>
/// Starts full backups when they are due: at a time of day, once work rests, when a vault's drive comes back; and checks a share of each
/// vault every day. Nothing is started while something records.
/// </summary>
public sealed class BackupSchedule : EverySecond
{
    private const string DailyPrefix = "backup daily ";

    // All of a vault is read once in so many days.
    private const int CheckDays = 30;
    private const long LeastShare = 256L * 1024 * 1024;

    private static readonly TimeSpan CheckEvery = TimeSpan.FromHours(24);

    private readonly SessionService _sessions;
    private readonly KeptSessions _kept;
    private readonly VaultService _vaults;
    private readonly BackupChoices _choices;
    private readonly BackupService _backups;
    private readonly RecordingGuard _guard;
    private readonly StoredSettings _settings;
    private readonly TimeProvider _time;
    private readonly Dictionary<Guid, bool> _connected = [];
    private readonly Dictionary<Guid, RestWatch> _resting = [];

    /// <summary>Makes the schedule.</summary>
    public BackupSchedule(
        SessionService sessions, KeptSessions kept, VaultService vaults, BackupChoices choices, BackupService backups, RecordingGuard guard, StoredSettings settings, TimeProvider time,
        ILogger<BackupSchedule> logger)
        : base(time, logger) =>
        (_sessions, _kept, _vaults, _choices, _backups, _guard, _settings, _time) = (sessions, kept, vaults, choices, backups, guard, settings, time);

    // By session and vault; of a daily one with the day that it is for.
    private readonly Dictionary<(Guid Session, Guid Vault), (DueBackup Due, Job? Job, DateOnly? Day)> _due = [];

    private readonly Dictionary<(Guid Session, Guid Vault), DateOnly?> _lastDays = [];

    /// <summary>The day on which a daily backup was made last, or found to be as the one before.</summary>
    private sealed record Daily(DateOnly Day);

    /// <inheritdoc/>
    protected override Task Look(CancellationToken cancel)
    {
        if (_guard.What is not null)
        {
            // What is due meanwhile is due when it stops.
            return Task.CompletedTask;
        }
        var there = _vaults.All();
        var back = there.Where(v => v.IsConnected && _connected.TryGetValue(v.Id, out var was) && !was).ToList();
        foreach (var vault in there)
        {
            _connected[vault.Id] = vault.IsConnected;
        }
        foreach (var session in _sessions.All().Where(s => Directory.Exists(s.Folder)))
        {
            var choice = _choices.Of(session.Id);
            if (choice.WhenPluggedIn)
            {
                Want(session, back.Where(v => _vaults.In(v).Any(b => _vaults.IsOf(b, session))), null);
            }
            // What rests is noticed whether it is wanted or not, so that choosing it starts nothing at once.
            var rests = RestOf(session.Id).HasComeToRest(_kept.Of(session.Id)?.Revision ?? 0, _time.GetUtcNow().UtcDateTime);
            if (rests && choice.AtRest)
            {
                Want(session, there, null);
            }
            WantDaily(session, choice.DailyAt, there);
            Try(session, there);
        }
        foreach (var vault in there.Where(v => v.IsConnected && _vaults.In(v).Length > 0))
        {
            CheckShare(vault);
        }
        return Task.CompletedTask;
    }

    private void Want(SessionRow session, IEnumerable<Shelf> targets, DateOnly? day)
    {
        foreach (var vault in targets)
        {
            var known = _due.GetValueOrDefault((session.Id, vault.Id), (new DueBackup(), null, null));
            _due[(session.Id, vault.Id)] = known with { Day = day ?? known.Day };
        }
    }

    private void WantDaily(SessionRow session, string? at, IReadOnlyList<Shelf> vaults)
    {
        if (at is null)
        {
            // By choice not any more: what waits for its drive waits no longer.
            foreach (var (key, _) in _due.Where(d => d.Key.Session == session.Id && d.Value is { Day: not null, Job: null }).ToList())
            {
                _due.Remove(key);
            }
            return;
        }
        var now = _time.GetLocalNow().DateTime;
        var today = DateOnly.FromDateTime(now);
        var wanted = vaults.Where(v => DueBackups.IsDailyDue(at, now, LastDay(session.Id, v.Id)) && !(_due.TryGetValue((session.Id, v.Id), out var due) && due.Day == today)).ToList();
        if (wanted.Count > 0 && !vaults.Any(v => v.IsConnected))
        {
            _backups.TellWaiting(session, wanted);
        }
        Want(session, wanted, today);
    }

    /// <summary>Starts what is due and can be, and takes in how what was started ended. What fails is due still, and its day is not over.</summary>
    private void Try(SessionRow session, IReadOnlyList<Shelf> vaults)
    {
        foreach (var vault in vaults)
        {
            if (!_due.TryGetValue((session.Id, vault.Id), out var known))
            {
                continue;
            }
            if (known.Job is { Ended.IsCompleted: true } ended)
            {
                if (ended.View.State is JobState.Done or JobState.Cancelled)
                {
                    // Who stopped it by hand wants none now.
                    if (known.Day is { } day)
                    {
                        _settings.Write(KeyOf(session.Id, vault.Id), new Daily(day));
                        _lastDays[(session.Id, vault.Id)] = day;
                    }
                    _due.Remove((session.Id, vault.Id));
                    continue;
                }
                known.Due.Fail(_time.GetUtcNow().UtcDateTime);
                known = known with { Job = null };
            }
            if (known.Job is null && known.Due.MayTry(vault.IsConnected, _time.GetUtcNow().UtcDateTime))
            {
                known = known with { Job = _backups.BackUp(session, vault, null, byContent: false, onlyIfChanged: true, isTold: !known.Due.HasFailed) };
            }
            _due[(session.Id, vault.Id)] = known;
        }
    }

    private static string KeyOf(Guid session, Guid vault) => $"{DailyPrefix}{session} {vault}";

    /// <summary>Read once, and kept: it is asked for every second.</summary>
    private DateOnly? LastDay(Guid session, Guid vault)
    {
        if (!_lastDays.TryGetValue((session, vault), out var day))
        {
            _lastDays[(session, vault)] = day = _settings.Read<Daily>(KeyOf(session, vault))?.Day;
        }
        return day;
    }

    private RestWatch RestOf(Guid session) => _resting.TryGetValue(session, out var known) ? known : _resting[session] = new RestWatch();

    private void CheckShare(Shelf vault)
    {
        var (record, now) = (_choices.OfVault(vault.Id), _time.GetUtcNow());
        if (record.Checked is { } last && now - last < CheckEvery)
        {
            return;
        }
        if (record.Checked is null)
        {
            // What has just been written was read back then; its first share is due tomorrow.
            _choices.Change(vault.Id, r => r with { Checked = now });
            return;
        }
        _choices.Change(vault.Id, r => r with { Checked = now });
        _backups.Check(vault, Math.Max(LeastShare, _vaults.In(vault).Sum(b => b.Header?.NewBytes ?? 0) / CheckDays));
    }
}
