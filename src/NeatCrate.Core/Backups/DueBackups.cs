using System.Globalization;

namespace NeatCrate.Core.Backups;

/// <summary>Says when a full backup is due by the clock, or by work having come to rest. Touches nothing.</summary>
public static class DueBackups
{
    /// <summary>A session rests once nothing has changed in it for so long.</summary>
    public static readonly TimeSpan RestsAfter = TimeSpan.FromMinutes(30);

    /// <summary>True where the daily backup of a day is due: its time has come, and none was made, or found to be as the last one, on that day.</summary>
    /// <param name="at">Local time of day, as <c>HH:mm</c>; null for never.</param>
    /// <param name="now">The local time.</param>
    /// <param name="lastDay">The local day of the last one; null for none yet.</param>
    public static bool IsDailyDue(string? at, DateTime now, DateOnly? lastDay) =>
        TimeOnly.TryParseExact(at, "HH:mm", CultureInfo.InvariantCulture, DateTimeStyles.None, out var due) && TimeOnly.FromDateTime(now) >= due && lastDay != DateOnly.FromDateTime(now);
}

/// <summary>
/// A backup of a session into a vault that is due until it was made: it waits for its drive, pauses longer after each failure, and is told
/// once, however often it fails. Touches nothing.
/// </summary>
public sealed class DueBackup
{
    private static readonly TimeSpan FirstPause = TimeSpan.FromMinutes(1);
    private static readonly TimeSpan LongestPause = TimeSpan.FromHours(1);

    private DateTime _notBefore;
    private TimeSpan _pause = FirstPause;

    /// <summary>Whether it failed before, so that this was told.</summary>
    public bool HasFailed { get; private set; }

    /// <summary>True where it may be tried.</summary>
    public bool MayTry(bool isVaultThere, DateTime nowUtc) => isVaultThere && nowUtc >= _notBefore;

    /// <summary>Takes in that it failed.</summary>
    public void Fail(DateTime nowUtc)
    {
        (HasFailed, _notBefore) = (true, nowUtc + _pause);
        _pause = _pause * 2 < LongestPause ? _pause * 2 : LongestPause;
    }
}

/// <summary>Notices when work in a session comes to rest. Each rest is told once; as it is when the program starts, it rested before.</summary>
public sealed class RestWatch
{
    private long? _revision;
    private DateTime _since;
    private bool _isTold = true;

    /// <summary>Takes in what is so now.</summary>
    /// <param name="revision">The number of the session's inventory, which grows with every change.</param>
    /// <param name="nowUtc">The time.</param>
    /// <returns>True once, when nothing has changed for <see cref="DueBackups.RestsAfter"/> after something had.</returns>
    public bool HasComeToRest(long revision, DateTime nowUtc)
    {
        if (_revision != revision)
        {
            (_isTold, _revision, _since) = (_revision is null, revision, nowUtc);
            return false;
        }
        if (_isTold || nowUtc - _since < DueBackups.RestsAfter)
        {
            return false;
        }
        return _isTold = true;
    }
}
