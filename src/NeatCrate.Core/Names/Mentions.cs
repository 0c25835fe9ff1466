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

    /// <summary>Tells what a text is: whether it is a log, or one of our own files; and whether every line could be the name of a file and nothing else.</summary>
    /// <param name="bytes">The file.</param>
    public static (bool IsMention, bool IsList) In(ReadOnlySpan<byte> bytes)
    {
        var start = bytes[..Math.Min(LookedAt, bytes.Length)];
        if (start.IndexOfAnyInRange((byte)0, (byte)8) >= 0)
        {
            return (false, false);
        }
        var isOwn = start[..Math.Min(OwnLookedAt, start.Length)].IndexOf("\"neat-crate "u8) >= 0;
        var lines = Encoding.UTF8.GetString(start).TrimStart('\uFEFF').Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        // What is set apart as a remark says nothing of what the lines are.
        var files = lines.Where(l => l[0] is not ('#' or ';')).ToList();
        return (
            isOwn || (lines.Length >= FewestLines && lines.Count(l => BeginsWithTime().IsMatch(l)) * 2 > lines.Length),
            files.Count >= FewestLines && files.TrueForAll(IsFile));
    }

    private static bool IsFile(string line) => MediaFiles.KindOf(line) is not null && line.IndexOfAny(['<', '"', '=', '{', '(']) < 0 && WrittenPath.Of(line) is not null;

    // A date as ISO 8601 or with slashes or dots has it, or a time in brackets.
    [GeneratedRegex(@"^[\[(]?(\d{4}[-/.]\d\d[-/.]\d\d|\d\d[/.]\d\d[/.]\d{4})|^[\[(]\d\d:\d\d:\d\d")]
    private static partial Regex BeginsWithTime();
}
