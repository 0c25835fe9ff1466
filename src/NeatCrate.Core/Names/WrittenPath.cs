using System.Collections.Immutable;
using System.Text.RegularExpressions;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Names;

/// <summary>From where a path leads.</summary>
public enum PathRoot
{
    /// <summary>A name without a folder.</summary>
    Bare,

    /// <summary>From a folder that the document does not say.</summary>
    Relative,

    /// <summary>From the root of a machine, which may be this one.</summary>
    Absolute,

    /// <summary>From a drive, volume, home folder or server of another machine.</summary>
    OtherMachine,
}

/// <summary>A path as a document of any program writes it.</summary>
/// <param name="Root">From where it leads.</param>
/// <param name="Folders">Its folders in order; ".." where it goes up.</param>
/// <param name="Name">Name of the file.</param>
public sealed partial record WrittenPath(PathRoot Root, ImmutableArray<string> Folders, string Name)
{
    private const int LongestName = 255;

    /// <summary>The path with slashes.</summary>
    public string Plain => (Root == PathRoot.Absolute ? "/" : "") + string.Join('/', [.. Folders, Name]);

    /// <summary>Reads a path; null for what is no name of a media file on a machine.</summary>
    /// <param name="text">The path, unescaped.</param>
    public static WrittenPath? Of(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        if (text.AsSpan().IndexOfAnyInRange('\0', '\u001F') >= 0)
        {
            // What escapes hid is no name on any system, and no path that can be asked for.
            return null;
        }
        var (root, rest) = Rooted(text.Trim());
        if (rest is null)
        {
            return null;
        }
        // Before HFS+ had slashes, folders were parted by colons, and a path that begins with one was relative (Inside Macintosh, "Files").
        var isColons = rest.AsSpan().IndexOfAny('/', '\\') < 0 && rest.Contains(':', StringComparison.Ordinal);
        if (isColons)
        {
            root = rest[0] == ':' ? PathRoot.Relative : PathRoot.OtherMachine;
        }
        var parts = rest.Split(isColons ? [':'] : ['/', '\\'], StringSplitOptions.RemoveEmptyEntries).Where(p => p != ".").ToArray();
        if (parts.Length == 0 || !IsName(parts[^1]) || parts.Any(p => p.Length > LongestName))
        {
            return null;
        }
        var folders = parts.AsSpan(0, parts.Length - 1).ToImmutableArray();
        return new WrittenPath(root == PathRoot.Relative && folders.IsEmpty ? PathRoot.Bare : root, folders, parts[^1]);
    }

    private static (PathRoot Root, string? Path) Rooted(string text)
    {
        if (Scheme().Match(text) is { Success: true } scheme)
        {
            if (!scheme.Groups["name"].Value.Equals("file", StringComparison.OrdinalIgnoreCase))
            {
                return (default, null);
            }
            text = text[scheme.Length..];
            // Behind two slashes stands the machine; none, or "localhost", is this one (RFC 8089, section 2).
            if (text.StartsWith("//", StringComparison.Ordinal))
            {
                var end = text.IndexOf('/', 2);
                if (end < 0)
                {
                    return (default, null);
                }
                var host = text[2..end];
                text = text[end..];
                if (host.Length > 0 && !host.Equals("localhost", StringComparison.OrdinalIgnoreCase) && !Drive().IsMatch(text))
                {
                    return (PathRoot.OtherMachine, text);
                }
            }
        }
        if (Drive().Match(text) is { Success: true } drive)
        {
            return (PathRoot.OtherMachine, text[drive.Length..]);
        }
        if (text.StartsWith(@"\\", StringComparison.Ordinal) || text.StartsWith("~/", StringComparison.Ordinal))
        {
            return (PathRoot.OtherMachine, text[2..]);
        }
        return text.Length == 0 ? (default, null) : (text[0] == '/' ? PathRoot.Absolute : PathRoot.Relative, text);
    }

    private static bool IsName(string name) =>
        MediaFiles.KindOf(name) is not null && name[..name.LastIndexOf('.')] is var stem && stem.Any(char.IsLetterOrDigit) && !stem.Contains('\uFFFD', StringComparison.Ordinal)
        && !Placeholder().IsMatch(stem);

    [GeneratedRegex(@"^(?<name>[A-Za-z][A-Za-z0-9+.\-]+):(?=/)")]
    private static partial Regex Scheme();

    [GeneratedRegex(@"^/*[A-Za-z]:(?=[\\/])")]
    private static partial Regex Drive();

    // A pattern of names is none: "%s.wav", "{0}.wav".
    [GeneratedRegex(@"%[sdiu@]|%0?\d[di]|\{\d*\}|\$\{")]
    private static partial Regex Placeholder();
}
