using System.Text.RegularExpressions;

namespace NeatCrate.Core.Documents;

/// <summary>
/// The <c>target_url</c> of a media reference (RFC 3986, RFC 8089): relative and percent-encoded for files inside the
/// session folder, a <c>file:</c> URL for files elsewhere.
/// </summary>
public static partial class MediaUrl
{
    /// <summary>The URL under which a document in <paramref name="documentFolder"/> should point at <paramref name="path"/>.</summary>
    public static string From(string path, string documentFolder)
    {
        var relative = Path.GetRelativePath(documentFolder, path);
        return relative == ".." || relative.StartsWith("../", StringComparison.Ordinal) || Path.IsPathRooted(relative)
            ? "file://" + Encode(path)
            : Encode(relative);
    }

    /// <summary>
    /// The absolute paths that a URL may mean, the likeliest first; none when it does not point at a file on this
    /// machine. Programs that forget to encode leave a path that must be taken literally, which is why there can be two.
    /// </summary>
    public static IReadOnlyList<string> Candidates(string url, string documentFolder)
    {
        ArgumentNullException.ThrowIfNull(url);
        // Two backslashes at the start are a machine on another system's network, which is no path here.
        if (url.Length == 0 || url.Contains('\0', StringComparison.Ordinal) || url.StartsWith(@"\\", StringComparison.Ordinal))
        {
            return [];
        }
        if (url.StartsWith("file:", StringComparison.OrdinalIgnoreCase))
        {
            var rest = url[5..];
            if (rest.StartsWith("//", StringComparison.Ordinal))
            {
                var slash = rest.IndexOf('/', 2);
                var host = slash < 0 ? rest[2..] : rest[2..slash];
                if (slash < 0 || (host.Length > 0 && !host.Equals("localhost", StringComparison.OrdinalIgnoreCase)))
                {
                    return [];
                }
                rest = rest[slash..];
            }
            return Both(rest, documentFolder);
        }
        return SchemePattern().IsMatch(url) ? [] : Both(url, documentFolder);
    }

    /// <summary>True for a pointer that names its place from the top, whatever folder its document stands in.</summary>
    public static bool IsAbsolute(string url)
    {
        ArgumentNullException.ThrowIfNull(url);
        return url.StartsWith("file:", StringComparison.OrdinalIgnoreCase) || url.StartsWith('/');
    }

    private static string[] Both(string path, string documentFolder)
    {
        var literal = Path.GetFullPath(path, documentFolder);
        var unescaped = Uri.UnescapeDataString(path);
        if (unescaped.Contains('\0', StringComparison.Ordinal))
        {
            return [literal];
        }
        var decoded = Path.GetFullPath(unescaped, documentFolder);
        return decoded == literal ? [decoded] : [decoded, literal];
    }

    private static string Encode(string path) => string.Join('/', path.Split('/').Select(Uri.EscapeDataString));

    // A scheme of one letter is a drive letter of another system, which is no URL but a path that is not here.
    [GeneratedRegex(@"^[A-Za-z][A-Za-z0-9+.\-]*:")]
    private static partial Regex SchemePattern();
}
