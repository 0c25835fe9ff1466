using System.Text;
using System.Text.RegularExpressions;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Names;

/// <summary>
/// Tells what only mentions media from what is made of them: a log, each line of which begins with when it was written, and a list of files with
/// nothing but their names (common practice), and what we wrote ourselves, as the packing slip of a bundle. None is a document of a session,
/// however many files it names.
/// </summary>
internal static partial class Mentions
{
    // So much of a text tells what it is.
    private const int LookedAt = 256 * 1024;
    private const int FewestLines = 3;

    // Our own files say at their beginning what they are.
    private const int OwnLookedAt = 512;

    /// <summary>True for a log, and for what we wrote ourselves.</summary>
    /// <param name="bytes">The file.</param>
    public static bool In(ReadOnlySpan<byte> bytes)
    {
        if (Lines(bytes) is not { } lines)
        {
            return false;
        }
        return bytes[..Math.Min(OwnLookedAt, bytes.Length)].IndexOf("\"neat-crate "u8) >= 0
            || (lines.Length >= FewestLines && lines.Count(l => BeginsWithTime().IsMatch(l)) * 2 > lines.Length);
    }

    /// <summary>True where every line could be the name of a file and nothing else; what is set apart as a remark says nothing of what the lines are.</summary>
    /// <param name="bytes">The file.</param>
    public static bool IsList(ReadOnlySpan<byte> bytes) =>
        Lines(bytes)?.Where(l => l[0] is not ('#' or ';')).ToList() is { Count: >= FewestLines } files && files.TrueForAll(IsFile);

    /// <summary>The lines at its beginning, without those that are empty; null for what is no text.</summary>
    private static string[]? Lines(ReadOnlySpan<byte> bytes)
    {
        var start = bytes[..Math.Min(LookedAt, bytes.Length)];
        return start.IndexOfAnyInRange((byte)0, (byte)8) >= 0
            ? null
            : Encoding.UTF8.GetString(start).TrimStart('\uFEFF').Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
    }

    private static bool IsFile(string line) => MediaFiles.KindOf(line) is not null && line.IndexOfAny(['<', '"', '=', '{', '(']) < 0 && WrittenPath.Of(line) is not null;

    // A date as ISO 8601 or with slashes or dots has it, or a time in brackets.
    [GeneratedRegex(@"^[\[(]?(\d{4}[-/.]\d\d[-/.]\d\d|\d\d[/.]\d\d[/.]\d{4})|^[\[(]\d\d:\d\d:\d\d")]
    private static partial Regex BeginsWithTime();
}
