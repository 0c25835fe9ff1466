using System.Text.RegularExpressions;

namespace NeatCrate.Core.Relink;

/// <summary>Paths as other systems write them.</summary>
public static partial class OtherSystem
{
    /// <summary>
    /// A path with slashes, without a drive's letter, a machine's name or a <c>file:</c> scheme, so that its folders can be compared.
    /// </summary>
    /// <param name="path">A path, or a pointer as a document writes it.</param>
    public static string Plain(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        var text = path.StartsWith("file:", StringComparison.OrdinalIgnoreCase) ? Uri.UnescapeDataString(path[5..]) : path;
        // Only a path that has no slash of its own, or names a drive, is written with backslashes: elsewhere they are characters of a name.
        var isOther = DriveLetter().IsMatch(text) || text.StartsWith(@"\\", StringComparison.Ordinal) || LastPart(text).Contains('\\', StringComparison.Ordinal);
        text = isOther ? text.Replace('\\', '/') : text;
        text = DriveLetter().Replace(text, "/");
        return text.StartsWith("//", StringComparison.Ordinal) ? "/" + text.TrimStart('/') : text;
    }

    /// <summary>The folders and the name of a path, in order; a folder that is written as itself is none.</summary>
    public static string[] Parts(string path) => [.. Plain(path).Split('/', StringSplitOptions.RemoveEmptyEntries).Where(p => p != ".")];

    private static string LastPart(string path) => path[(path.LastIndexOf('/') + 1)..];

    [GeneratedRegex(@"^/*[A-Za-z]:[\\/]")]
    private static partial Regex DriveLetter();
}
