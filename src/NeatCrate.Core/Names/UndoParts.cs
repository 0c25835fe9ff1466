using System.Text;
using System.Text.RegularExpressions;

namespace NeatCrate.Core.Names;

/// <summary>
/// The parts of a text in which a program keeps what was undone, or may be: XML elements and JSON members that are called so. What stands only
/// there is left over. From memory: no standard says how programs call them.
/// </summary>
internal static partial class UndoParts
{
    private const int LongestName = 80;
    private const int Word = 4;
    private const int NeverEnds = -1;
    private const int MostOver = 1 << 20;


    /// <summary>The parts, from their first byte to behind their last, in order and apart.</summary>
    /// <param name="bytes">A text in an encoding that writes ASCII as it is; of anything else no part is found.</param>
    public static List<(int Start, int End)> In(ReadOnlySpan<byte> bytes)
    {
        var parts = new List<(int, int)>();
        // For a part that never ends all of the text is looked through: of a text full of them the first tell enough.
        var left = MostOver + (2L * bytes.Length);
        for (var at = 0; left > 0 && Next(bytes, at) is var hit and >= 0;)
        {
            var end = PartAt(bytes, hit, out var start);
            left -= end == NeverEnds ? bytes.Length - start : 0;
            if (end > 0)
            {
                parts.Add((start, end));
            }
            at = end > 0 ? end : hit + Word;
        }
        return parts;
    }

    /// <summary>True for a place in one of the parts.</summary>
    public static bool Hold(List<(int Start, int End)> parts, int at)
    {
        var (low, high) = (0, parts.Count);
        while (low < high)
        {
            var middle = (low + high) / 2;
            (low, high) = parts[middle].End <= at ? (middle + 1, high) : (low, middle);
        }
        return low < parts.Count && parts[low].Start <= at;
    }

    /// <summary>Where "undo" or "redo" stands next, in whatever case.</summary>
    private static int Next(ReadOnlySpan<byte> bytes, int from)
    {
        for (var at = from; at + 1 < bytes.Length; at++)
        {
            var next = bytes[(at + 1)..].IndexOfAny((byte)'d', (byte)'D');
            if (next < 0)
            {
                return -1;
            }
            at += next;
            // The letter before the d, which stands behind it.
            if (at >= 1 && at + 2 < bytes.Length && (bytes[at + 2] | 0x20) == 'o' && ((bytes[at] | 0x20, bytes[at - 1] | 0x20) is ('n', 'u') or ('e', 'r')))
            {
                return at - 1;
            }
        }
        return -1;
    }

    /// <summary>The part that begins with the name around a place; gives where it ends, 0 where none does, <see cref="NeverEnds"/> where it does not.</summary>
    private static int PartAt(ReadOnlySpan<byte> bytes, int hit, out int start)
    {
        start = hit;
        while (start > 0 && hit - start < LongestName && IsNameByte(bytes[start - 1]))
        {
            start--;
        }
        var behind = hit;
        while (behind < bytes.Length && behind - start < LongestName && IsNameByte(bytes[behind]))
        {
            behind++;
        }
        if (start == 0 || !CalledSo().IsMatch(Encoding.ASCII.GetString(bytes[start..behind])))
        {
            return 0;
        }
        var name = bytes[start..behind];
        switch (bytes[start - 1])
        {
            case (byte)'<':
                start--;
                // All of a document is not what was undone in it.
                return IsRoot(bytes[..start]) ? 0 : ElementEnd(bytes, start, name);
            case (byte)'"':
                start--;
                return MemberEnd(bytes, behind);
            default:
                return 0;
        }
    }

    private static bool IsNameByte(byte b) => char.IsAsciiLetterOrDigit((char)b) || b is (byte)'_' or (byte)'-' or (byte)'.' or (byte)':';

    private static bool IsRoot(ReadOnlySpan<byte> before)
    {
        while (before.IndexOf((byte)'<') is var next and >= 0)
        {
            before = before[(next + 1)..];
            if (!before.IsEmpty && (char.IsAsciiLetter((char)before[0]) || before[0] == '_'))
            {
                return false;
            }
            if (before.StartsWith("!--"u8))
            {
                var end = before.IndexOf("-->"u8);
                before = end < 0 ? [] : before[end..];
            }
        }
        return true;
    }

    private static int ElementEnd(ReadOnlySpan<byte> bytes, int start, ReadOnlySpan<byte> name)
    {
        var depth = 0;
        for (var at = start; ;)
        {
            var next = bytes[at..].IndexOf((byte)'<');
            if (next < 0)
            {
                // It is cut off, or no XML.
                return NeverEnds;
            }
            at += next + 1;
            var isClosing = at < bytes.Length && bytes[at] == '/';
            var rest = bytes[(at + (isClosing ? 1 : 0))..];
            if (!rest.StartsWith(name) || (rest.Length > name.Length && IsNameByte(rest[name.Length])))
            {
                continue;
            }
            var end = TagEnd(rest);
            if (end < 0)
            {
                return NeverEnds;
            }
            at += (isClosing ? 1 : 0) + end;
            depth += isClosing ? -1 : rest[end - 2] == '/' ? 0 : 1;
            if (depth == 0)
            {
                return at;
            }
        }
    }

    /// <summary>Behind the end of a tag; a quoted value may hold what would end it.</summary>
    private static int TagEnd(ReadOnlySpan<byte> tag)
    {
        byte quote = 0;
        for (var at = 0; at < tag.Length; at++)
        {
            var b = tag[at];
            if (quote != 0)
            {
                quote = b == quote ? (byte)0 : quote;
            }
            else if (b is (byte)'"' or (byte)'\'')
            {
                quote = b;
            }
            else if (b == '>')
            {
                return at + 1;
            }
        }
        return -1;
    }

    /// <summary>Behind the list or object that is the value of a JSON member whose name ends here; 0 for another value.</summary>
    private static int MemberEnd(ReadOnlySpan<byte> bytes, int behindName)
    {
        var at = behindName;
        if (at >= bytes.Length || bytes[at++] != '"')
        {
            return 0;
        }
        var isColon = false;
        while (at < bytes.Length && (bytes[at] is (byte)' ' or (byte)'\t' or (byte)'\r' or (byte)'\n' || (!isColon && bytes[at] == ':')))
        {
            isColon |= bytes[at++] == ':';
        }
        if (!isColon || at >= bytes.Length || bytes[at] is not ((byte)'[' or (byte)'{'))
        {
            return 0;
        }
        var (depth, isText) = (0, false);
        for (; at < bytes.Length; at++)
        {
            switch (bytes[at])
            {
                case (byte)'\\' when isText:
                    at++;
                    break;
                case (byte)'"':
                    isText = !isText;
                    break;
                case (byte)'[' or (byte)'{' when !isText:
                    depth++;
                    break;
                case (byte)']' or (byte)'}' when !isText && --depth == 0:
                    return at + 1;
            }
        }
        return NeverEnds;
    }

    // "Undo", "undo_stack", "UndoHistory", "song-undo", "projectRedo"; not "undone", "redouble" or "torpedo".
    [GeneratedRegex(@"(?:(?<![A-Za-z])[Uu]ndo|(?<![A-Za-z])[Rr]edo|(?<=[a-z])(?:Undo|Redo)|(?<![A-Za-z])(?:UNDO|REDO))(?=s?(?:$|[^A-Za-z]|(?<=[a-zA-Z])[A-Z])|(?:history|stack|list|buffer|steps?|states?|levels?|entries|entry)(?![a-z]))", RegexOptions.CultureInvariant)]
    private static partial Regex CalledSo();
}
