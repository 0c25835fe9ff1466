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

    /// <summary>The day on which a daily backup was started last.</summary>
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
            var targets = there.Where(v => v.IsConnected).ToList();
            if (choice.WhenPluggedIn)
            {
                Start(session, back.Where(v => _vaults.In(v).Any(b => VaultService.IsOf(b, session))));
            }
            // What rests is noticed whether it is wanted or not, so that choosing it starts nothing at once.
            var rests = RestOf(session.Id).HasComeToRest(_kept.Of(session.Id)?.Revision ?? 0, _time.GetUtcNow().UtcDateTime);
            if (IsDue(session.Id, choice.DailyAt) || (rests && choice.AtRest))
            {
                Start(session, targets);
            }
        }
        foreach (var vault in there.Where(v => v.IsConnected && _vaults.In(v).Length > 0))
        {
            CheckShare(vault);
        }
        return Task.CompletedTask;
    }

    private void Start(SessionRow session, IEnumerable<Shelf> targets)
    {
        foreach (var vault in targets)
        {
            _backups.BackUp(session, vault, null, byContent: false, onlyIfChanged: true);
        }
    }

    private bool IsDue(Guid session, string? at)
    {
        var now = _time.GetLocalNow().DateTime;
        var last = at is null ? null : _settings.Read<Daily>(DailyPrefix + session);
        if (!DueBackups.IsDailyDue(at, now, last?.Day))
        {
            return false;
        }
        _settings.Write(DailyPrefix + session, new Daily(DateOnly.FromDateTime(now)));
        return true;
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
