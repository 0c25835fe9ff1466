using System.Globalization;
using System.Text.RegularExpressions;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.SetUp;

/// <summary>What a part of a session's name is.</summary>
public enum NamePartKind
{
    /// <summary>The date; its text names the order: <c>YYMMDD</c>, <c>YYYY-MM-DD</c> or <c>DDMMYY</c>.</summary>
    Date,

    /// <summary>Who plays.</summary>
    Artist,

    /// <summary>The song.</summary>
    Song,

    /// <summary>What the song is called for now.</summary>
    WorkingTitle,

    /// <summary>The version; a bare number is written as <c>v2</c>.</summary>
    Version,

    /// <summary>Anything else.</summary>
    FreeText,
}

/// <summary>One part of a session's name.</summary>
public sealed record NamePart(NamePartKind Kind, string Text);

/// <summary>Builds a session's name from parts that people put in the order they like.</summary>
public static partial class SessionName
{
    /// <summary>Orders of a date that can be chosen, with the format that each means. Only the first two sort by time.</summary>
    public static IReadOnlyDictionary<string, string> DateOrders { get; } = new Dictionary<string, string>(StringComparer.Ordinal)
    {
        ["YYMMDD"] = "yyMMdd",
        ["YYYY-MM-DD"] = "yyyy-MM-dd",
        ["DDMMYY"] = "ddMMyy",
    };

    /// <summary>The name that the parts make. Empty parts are left out.</summary>
    /// <param name="parts">The parts in their order.</param>
    /// <param name="separator">What stands between them.</param>
    /// <param name="today">The local date.</param>
    public static string Build(IEnumerable<NamePart> parts, string separator, DateOnly today) =>
        string.Join(separator, parts.Select(p => Text(p, today)).Where(t => t.Length > 0));

    /// <summary>True when nothing but dates and versions would be in the name: it could not be told from the next one.</summary>
    public static bool SaysNothing(IEnumerable<NamePart> parts) =>
        parts.All(p => p.Kind is NamePartKind.Date or NamePartKind.Version || p.Text.Trim().Length == 0);

    /// <summary>
    /// The parts that make another name: the same ones as far as they still make it, so that a fix does not cost the parts.
    /// </summary>
    /// <param name="parts">The parts of the name as it was.</param>
    /// <param name="separator">What stands between them.</param>
    /// <param name="name">The other name.</param>
    /// <param name="today">The local date.</param>
    public static IReadOnlyList<NamePart> PartsOf(IReadOnlyList<NamePart> parts, string separator, string name, DateOnly today)
    {
        ArgumentNullException.ThrowIfNull(parts);
        ArgumentNullException.ThrowIfNull(name);
        var portable = parts.Select(p => p.Kind == NamePartKind.Date || p.Text.Trim().Length == 0 ? p : p with { Text = PortableName.Suggest(p.Text.Trim()) }).ToList();
        var built = Build(portable, separator, today);
        if (built == name)
        {
            return portable;
        }
        return built.Length > 0 && name.StartsWith(built + " ", StringComparison.Ordinal) && separator == " "
            ? [.. portable, new NamePart(NamePartKind.FreeText, name[(built.Length + 1)..])]
            : [new NamePart(NamePartKind.FreeText, name)];
    }

    /// <summary>What is left of a name without the date in front, and without the version or the time behind.</summary>
    public static string Title(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        var title = VersionName.NumberBehind().Replace(TimeBehind().Replace(DateInFront().Replace(name, ""), ""), "");
        return title.Length > 0 ? title : name;
    }

    /// <summary>A date at the start of a name, as YYMMDD or YYYY-MM-DD, with what parts it from the rest.</summary>
    [GeneratedRegex(@"^(\d{6}|\d{4}-\d\d-\d\d)[ _-]+")]
    internal static partial Regex DateInFront();

    [GeneratedRegex(@"[ _-]+\d{4}-\d\d-\d\d([ _-]\d{4,6})?$")]
    private static partial Regex TimeBehind();

    private static string Text(NamePart part, DateOnly today)
    {
        var text = part.Text.Trim();
        return part.Kind switch
        {
            NamePartKind.Date => today.ToString(DateOrders.GetValueOrDefault(text, "yyMMdd"), CultureInfo.InvariantCulture),
            NamePartKind.Version when text.Length > 0 && text.All(char.IsAsciiDigit) => "v" + text,
            _ => text,
        };
    }
}
