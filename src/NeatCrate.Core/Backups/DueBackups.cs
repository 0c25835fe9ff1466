using System.Globalization;

namespace NeatCrate.Core.Backups;

/// <summary>Says when a full backup is due by the clock, or by work having come to rest. Touches nothing.</summary>
public static class DueBackups
{
    /// <summary>A session rests once nothing has changed in it for so long.</summary>
    public static readonly TimeSpan RestsAfter = TimeSpan.FromMinutes(30);

    /// <summary>True where the daily backup of a day is due: its time has come, and none was started on that day.</summary>
    /// <param name="at">Local time of day, as <c>HH:mm</c>; null for never.</param>
    /// <param name="now">The local time.</param>
    /// <param name="lastDay">The local day of the last one; null for none yet.</param>
    public static bool IsDailyDue(string? at, DateTime now, DateOnly? lastDay) =>
        TimeOnly.TryParseExact(at, "HH:mm", CultureInfo.InvariantCulture, DateTimeStyles.None, out var due) && TimeOnly.FromDateTime(now) >= due && lastDay != DateOnly.FromDateTime(now);
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
