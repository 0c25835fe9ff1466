using System.Globalization;

namespace NeatCrate.Core.Words;

/// <summary>Lengths and times as they are written in sentences: m:ss, and h:mm:ss from an hour on.</summary>
public static class DurationText
{
    private const double SecondsAnHour = 3600;

    // Longer than that nothing lasts that a header tells truly.
    private const double MostSeconds = 100 * 365 * 24 * SecondsAnHour;

    /// <summary>To the second, rounded down: "75:00" is 1:15:00.</summary>
    public static string Of(double seconds) => Text(seconds, "");

    /// <summary>To the tenth of a second.</summary>
    public static string OfTenths(double seconds)
    {
        var tenths = Math.Floor(Math.Clamp(double.IsNaN(seconds) ? 0 : seconds, 0, MostSeconds) * 10);
        return Text(tenths / 10, string.Create(CultureInfo.InvariantCulture, $".{tenths % 10:0}"));
    }

    private static string Text(double seconds, string tail)
    {
        var whole = (long)Math.Floor(Math.Clamp(double.IsNaN(seconds) ? 0 : seconds, 0, MostSeconds));
        return whole >= SecondsAnHour
            ? string.Create(CultureInfo.InvariantCulture, $"{whole / 3600}:{whole / 60 % 60:00}:{whole % 60:00}{tail}")
            : string.Create(CultureInfo.InvariantCulture, $"{whole / 60}:{whole % 60:00}{tail}");
    }
}
