using System.Globalization;

namespace NeatCrate.Core.Vault;

/// <summary>Times to the nanosecond as text (ISO 8601, UTC), as manifests have them.</summary>
internal static class ExactTimes
{
    private const long NanosecondsPerSecond = 1_000_000_000;
    private const int DigitsOfTicks = 7;

    /// <summary>Writes a time: to a hundred nanoseconds as short as it may be, and with nine digits where there is more.</summary>
    public static string Write(DateTime utc, int rest) =>
        rest == 0 ? utc.ToString("yyyy-MM-dd'T'HH:mm:ss.FFFFFFF'Z'", CultureInfo.InvariantCulture) : utc.ToString("yyyy-MM-dd'T'HH:mm:ss.fffffff", CultureInfo.InvariantCulture) + rest.ToString("00", CultureInfo.InvariantCulture) + "Z";

    /// <summary>Writes nanoseconds since 1970.</summary>
    public static string Write(long nanoseconds)
    {
        var (ticks, rest) = Math.DivRem(nanoseconds, 100);
        return rest < 0 ? Write(DateTime.UnixEpoch.AddTicks(ticks - 1), (int)rest + 100) : Write(DateTime.UnixEpoch.AddTicks(ticks), (int)rest);
    }

    /// <summary>Reads a time.</summary>
    /// <exception cref="FormatException">It is none.</exception>
    public static (DateTime Utc, int Beyond) Read(string text)
    {
        var point = text.IndexOf('.', StringComparison.Ordinal);
        var end = point < 0 ? -1 : text.AsSpan(point + 1).IndexOfAnyExceptInRange('0', '9') is var n and >= 0 ? point + 1 + n : text.Length;
        var rest = 0;
        if (point >= 0 && end - point - 1 > DigitsOfTicks)
        {
            rest = int.Parse(text.AsSpan(point + 1 + DigitsOfTicks, end - point - 1 - DigitsOfTicks).ToString().PadRight(2, '0').AsSpan(0, 2), CultureInfo.InvariantCulture);
            text = text[..(point + 1 + DigitsOfTicks)] + text[end..];
        }
        return (DateTime.Parse(text, CultureInfo.InvariantCulture, DateTimeStyles.AdjustToUniversal | DateTimeStyles.AssumeUniversal), rest);
    }

    /// <summary>Reads nanoseconds since 1970.</summary>
    /// <exception cref="FormatException">It is no time, or one beyond what 64 bits count.</exception>
    public static long ReadNanoseconds(string text)
    {
        var (utc, rest) = Read(text);
        var seconds = (utc - DateTime.UnixEpoch).Ticks / TimeSpan.TicksPerSecond;
        return Math.Abs(seconds) < long.MaxValue / NanosecondsPerSecond ? ((utc - DateTime.UnixEpoch).Ticks * 100) + rest : throw new FormatException("A time in it is none.");
    }
}
