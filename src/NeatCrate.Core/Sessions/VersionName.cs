using System.Globalization;
using System.Text.RegularExpressions;

namespace NeatCrate.Core.Sessions;

/// <summary>How the new version of a document is named.</summary>
public enum VersionNaming
{
    /// <summary>Under today's date, so that names sort by time and a day is the most that can be lost.</summary>
    Today,

    /// <summary>Under the next version number.</summary>
    NextNumber,
}

/// <summary>The name of the version after a document.</summary>
public static partial class VersionName
{
    /// <summary>Another date in front, written as the one that is there, or the next number behind.</summary>
    /// <param name="name">Name of the document, without extension.</param>
    /// <param name="naming">Which of the two.</param>
    /// <param name="today">The local date.</param>
    /// <param name="modifiedUtc">When the document was last changed: near that day a date in its name is read.</param>
    public static string After(string name, VersionNaming naming, DateOnly today, DateTime modifiedUtc)
    {
        if (naming == VersionNaming.Today)
        {
            var dated = DatedName.Of(name, DateOnly.FromDateTime(modifiedUtc.ToLocalTime()));
            return dated?.On(today) ?? today.ToString("yyMMdd", CultureInfo.InvariantCulture) + " " + name;
        }
        var match = NumberBehind().Match(name);
        return match.Success
            ? string.Create(CultureInfo.InvariantCulture, $"{name[..match.Index]} v{int.Parse(match.Groups[1].Value, CultureInfo.InvariantCulture) + 1}")
            : name + " v2";
    }

    /// <summary>A file name that is free beside a document, with its extension: a second version of one day is numbered.</summary>
    /// <param name="path">Absolute path of the document.</param>
    /// <param name="naming">How the version is named.</param>
    /// <param name="today">The local date.</param>
    /// <param name="modifiedUtc">When the document was last changed.</param>
    public static string Free(string path, VersionNaming naming, DateOnly today, DateTime modifiedUtc)
    {
        var (folder, extension) = (Path.GetDirectoryName(path)!, Path.GetExtension(path));
        var name = After(Path.GetFileNameWithoutExtension(path), naming, today, modifiedUtc);
        while (Path.Exists(Path.Combine(folder, name + extension)))
        {
            name = After(name, VersionNaming.NextNumber, today, modifiedUtc);
        }
        return name + extension;
    }

    /// <summary>A version at the end of a name.</summary>
    [GeneratedRegex(@" v(\d{1,4})$")]
    internal static partial Regex NumberBehind();
}
