using System.Globalization;
using System.Text.RegularExpressions;

namespace NeatCrate.Core.Sessions;

/// <summary>A name with a date in front, as sessions and their documents have it.</summary>
/// <param name="Date">The date.</param>
/// <param name="Format">How it is written, as .NET has it: <c>yyMMdd</c>, <c>yyyy-MM-dd</c>, <c>yyyyMMdd</c> or <c>ddMMyy</c>.</param>
/// <param name="Separator">What parts it from the rest.</param>
/// <param name="Rest">The name without it.</param>
public sealed partial record DatedName(DateOnly Date, string Format, string Separator, string Rest)
{
    /// <summary>The date in front of a name; null when there is none.</summary>
    /// <param name="name">The name, without extension.</param>
    /// <param name="near">A day near which the date should lie: 141026 may be the 26th of October 2014 or the 14th of 2026.</param>
    public static DatedName? Of(string name, DateOnly near)
    {
        ArgumentNullException.ThrowIfNull(name);
        if (InFront().Match(name) is not { Success: true } match)
        {
            return null;
        }
        var text = match.Groups[1].Value;
        string[] formats = text.Length switch { 6 => ["yyMMdd", "ddMMyy"], 8 => ["yyyyMMdd"], _ => ["yyyy-MM-dd"] };
        var read = formats.Select(f => (Format: f, IsDate: DateOnly.TryParseExact(text, f, CultureInfo.InvariantCulture, DateTimeStyles.None, out var date), Date: date))
            .Where(r => r.IsDate).OrderBy(r => Math.Abs(r.Date.DayNumber - near.DayNumber)).ToList();
        return read.Count == 0 ? null : new DatedName(read[0].Date, read[0].Format, match.Groups[2].Value, name[match.Length..]);
    }

    /// <summary>True for a name that carries a date, in front or behind.</summary>
    public static bool HasDate(string name) => Of(name, DateOnly.MinValue) is not null || Behind().IsMatch(name);

    /// <summary>The same name under another date, written as this one is.</summary>
    public string On(DateOnly date) => date.ToString(Format, CultureInfo.InvariantCulture) + Separator + Rest;

    /// <summary>
    /// When a document is from, in local time: by the date, and the time of day, that its name carries; else by its last change.
    /// </summary>
    /// <param name="name">Its name, without extension.</param>
    /// <param name="modifiedUtc">The time of its last change.</param>
    public static DateTime TimeOf(string name, DateTime modifiedUtc)
    {
        ArgumentNullException.ThrowIfNull(name);
        var modified = modifiedUtc.ToLocalTime();
        var day = DateOnly.FromDateTime(modified);
        if (Behind().Match(name) is { Success: true } behind
            && DateOnly.TryParseExact(behind.Groups[1].Value, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var date))
        {
            var digits = behind.Groups[2].Value.PadRight(6, '0');
            return date.ToDateTime(TimeOnly.TryParseExact(digits, "HHmmss", CultureInfo.InvariantCulture, DateTimeStyles.None, out var time) ? time : TimeOnly.MinValue);
        }
        if (Of(name, day) is not { } dated)
        {
            return modified;
        }
        // On the day itself the last change tells the hour.
        return dated.Date == day ? modified : dated.Date.ToDateTime(TimeOnly.MinValue);
    }

    /// <summary>The version number behind a name; 1 where there is none.</summary>
    public static int VersionOf(string name) =>
        Version().Match(name) is { Success: true } match && int.TryParse(match.Groups[1].Value, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : 1;

    [GeneratedRegex(@"^(\d{4}-\d\d-\d\d|\d{8}|\d{6})([ _-]+)(?=.)")]
    private static partial Regex InFront();

    [GeneratedRegex(@"[ _-]+(\d{4}-\d\d-\d\d)(?:[ _-](\d{4,6}))?$")]
    private static partial Regex Behind();

    [GeneratedRegex(@" v(\d{1,6})$")]
    private static partial Regex Version();
}
