using System.Collections.Immutable;
using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace NeatCrate.Core.Names;

/// <summary>What stands at one side of a run of text.</summary>
internal enum NameSide
{
    /// <summary>The bytes begin or end there.</summary>
    Nothing,

    /// <summary>A quotation mark.</summary>
    Quote,

    /// <summary>An apostrophe.</summary>
    Apostrophe,

    /// <summary>The end or the beginning of a tag.</summary>
    Tag,

    /// <summary>The end of a line.</summary>
    Line,

    /// <summary>A closing bracket.</summary>
    Bracket,

    /// <summary>A character that no text holds, or bytes that are none.</summary>
    Control,

    /// <summary>More text.</summary>
    Text,
}

/// <summary>What stands around a run of text that ends in the extension of a media file.</summary>
/// <param name="Left">What stands before it.</param>
/// <param name="Right">What stands behind it.</param>
/// <param name="Prefixed">In which byte of the run a name begins whose length stands before it; negative where that is not known.</param>
/// <param name="LeadsWithLength">True where the first character is the length of the rest.</param>
internal readonly record struct NameEdge(NameSide Left, NameSide Right, int Prefixed, bool LeadsWithLength)
{
    /// <summary>True where what stands on both sides says that the run is the name and nothing else.</summary>
    public bool IsClosed => (Left, Right) switch
    {
        (NameSide.Quote, NameSide.Quote) or (NameSide.Tag, NameSide.Tag) => true,
        (NameSide.Control or NameSide.Nothing, NameSide.Control or NameSide.Nothing) => true,
        (NameSide.Control, NameSide.Line) or (NameSide.Line, NameSide.Control) => true,
        _ => false,
    };
}

/// <summary>
/// How a run of text that ends in the extension of a media file may be read. Between quotation marks, tags or bytes that are no text, all of
/// it is the name; in a line of text a name may begin behind any space or sign. Escapes are undone: XML's, JSON's and percent.
/// </summary>
internal static partial class NameReadings
{
    private const int MostReadings = 24;
    private const int MostOdd = 8;
    private const int MostSkipped = 4;

    // What systems used before Unicode, by what is written most with them (from memory): Western, Mac OS, Japanese, Chinese, Korean, DOS, Cyrillic.
    private static readonly Encoding[] LegacyEncodings = [.. new[] { 1252, 10000, 932, 936, 949, 950, 850, 1251, 1250 }.Select(LegacyEncoding)];

    /// <summary>The readings, the likeliest first.</summary>
    /// <param name="run">The run; where it is of an encoding that is not known, each byte a character.</param>
    /// <param name="legacy">Its bytes, where they are of an encoding that is not known.</param>
    /// <param name="edge">What stands around it.</param>
    /// <param name="encoding">As which text it was read.</param>
    public static ImmutableArray<NameReading> Of(string run, byte[]? legacy, NameEdge edge, NameEncoding encoding)
    {
        var readings = new List<NameReading>();
        if (legacy is not null)
        {
            // A few bytes that are no text are what stood before the name; more of them are letters of another encoding.
            if (BeforeUtf8(legacy) is var odd and > 0)
            {
                Add(readings, Encoding.UTF8.GetString(legacy.AsSpan(odd)), edge);
            }
            foreach (var old in LegacyEncodings)
            {
                Add(readings, old.GetString(legacy), edge);
            }
            if (AfterLastOddByte(legacy) is var clean and > MostOdd)
            {
                Add(readings, Encoding.ASCII.GetString(legacy.AsSpan(clean)), edge);
            }
        }
        else
        {
            if (edge.Prefixed > 0 && encoding == NameEncoding.Utf8 && ByteSuffix(run, edge.Prefixed) is { } behind && edge.Right == NameSide.Control)
            {
                Add(readings, behind, edge, "\u0001");
            }
            Add(readings, run, edge);
            if (edge.LeadsWithLength)
            {
                Add(readings, run[1..], edge, "\u0001");
            }
            AddSupposed(readings, run, edge);
        }
        return [.. readings.DistinctBy(r => r.Text).Take(MostReadings)];
    }

    private static Encoding LegacyEncoding(int page) =>
        CodePagesEncodingProvider.Instance.GetEncoding(page, EncoderFallback.ReplacementFallback, DecoderFallback.ReplacementFallback) ?? Encoding.Latin1;

    private static string? ByteSuffix(string run, int bytes)
    {
        var utf8 = Encoding.UTF8.GetBytes(run);
        return bytes < utf8.Length ? Encoding.UTF8.GetString(utf8.AsSpan(bytes)) : null;
    }

    /// <summary>How many bytes stand before a text of UTF-8; 0 where none is found soon.</summary>
    private static int BeforeUtf8(byte[] bytes)
    {
        for (var at = 1; at <= MostOdd && at < bytes.Length; at++)
        {
            if ((bytes[at] & 0xC0) != 0x80 && System.Text.Unicode.Utf8.IsValid(bytes.AsSpan(at)))
            {
                return at;
            }
        }
        return 0;
    }

    private static int AfterLastOddByte(byte[] bytes)
    {
        var at = bytes.AsSpan().LastIndexOfAnyExceptInRange((byte)0x20, (byte)0x7E);
        return at + 1;
    }

    /// <summary>What stands before a text in bytes may look like its first letters: that counts only where several names of a document say so.</summary>
    private static void AddSupposed(List<NameReading> readings, string run, NameEdge edge)
    {
        if (edge.Left != NameSide.Control && edge.Right != NameSide.Control)
        {
            return;
        }
        for (var skipped = 1; skipped <= MostSkipped && skipped < run.Length; skipped++)
        {
            var text = run[skipped..];
            if ((char.IsLetterOrDigit(text[0]) || text[0] == '/') && !AddressElsewhere().IsMatch(text) && WrittenPath.Of(text) is { } path)
            {
                readings.Add(new NameReading(path, text, NameReading.Skipped + (char)('0' + skipped)));
            }
        }
    }

    private static void Add(List<NameReading> readings, string run, NameEdge edge, string left = "")
    {
        foreach (var text in Unescaped(run).Where(t => !AddressElsewhere().IsMatch(t)))
        {
            foreach (var at in edge.IsClosed && edge.Prefixed <= 0 || left.Length > 0 ? ClosedStarts(text) : OpenStarts(text, edge))
            {
                var reading = text[at..].Trim();
                if (WrittenPath.Of(reading) is { } path)
                {
                    readings.Add(new NameReading(path, reading, left + Alike(text.AsSpan(0, at))));
                }
            }
        }
    }

    /// <summary>What is written alike: digits as 0, one for as many as there are.</summary>
    private static string Alike(ReadOnlySpan<char> left)
    {
        var text = new StringBuilder(left.Length);
        foreach (var sign in left)
        {
            if (!char.IsDigit(sign))
            {
                text.Append(sign);
            }
            else if (text.Length == 0 || text[^1] != '0')
            {
                text.Append('0');
            }
        }
        return text.ToString();
    }

    // ----- escapes

    private static IEnumerable<string> Unescaped(string run)
    {
        var text = run;
        if (text.Contains('&', StringComparison.Ordinal) && text.Contains(';', StringComparison.Ordinal))
        {
            text = WebUtility.HtmlDecode(text);
            // XML within XML: what was a tag is one again.
            var tag = text.AsSpan().LastIndexOfAny('<', '>', '"');
            if (tag >= 0 && !ReferenceEquals(text, run))
            {
                foreach (var inner in Unescaped(text[(tag + 1)..]))
                {
                    yield return inner;
                }
            }
        }
        if (JsonEscape().IsMatch(text) && FromJson(text) is { } json)
        {
            text = json;
        }
        if (text.Contains("\\ ", StringComparison.Ordinal))
        {
            // As shells escape a space.
            text = text.Replace("\\ ", " ", StringComparison.Ordinal);
        }
        if (PercentEscape().IsMatch(text) && Uri.UnescapeDataString(text) is var plain && !plain.Contains('\uFFFD', StringComparison.Ordinal))
        {
            yield return plain;
        }
        yield return text;
        if (text != run)
        {
            yield return run;
        }
    }

    private static string? FromJson(string text)
    {
        try
        {
            return JsonSerializer.Deserialize<string>($"\"{text}\"");
        }
        catch (JsonException)
        {
            // Backslashes that are none of JSON's.
            return null;
        }
    }

    // ----- where a name may begin

    /// <summary>Within a text that is closed on both sides: all of it, or behind a sign that parts a key from its value.</summary>
    private static IEnumerable<int> ClosedStarts(string text)
    {
        yield return 0;
        for (var at = 0; at < text.Length; at++)
        {
            if (text[at] is '=' or ',' or ';' or '|' || (text[at] == ':' && (IsBehindKey(text, at) || text.AsSpan(at + 1).StartsWith("file:"))) || (text[at] == '\'' && at + 1 < text.Length))
            {
                yield return at + 1;
            }
        }
    }

    private static bool IsBehindKey(string text, int at) => at > 1 && at + 1 < text.Length && text[at + 1] is not ('\\' or '/') && text.AsSpan(at + 1).IndexOfAny('/', '\\') >= 0 && text.AsSpan(0, at).IndexOfAny('/', '\\') < 0
        || at + 1 < text.Length && text[at + 1] == ' ';

    /// <summary>In a line of text: where it is likeliest, and then from the left to the right behind each sign that may part it.</summary>
    private static List<int> OpenStarts(string text, NameEdge edge)
    {
        var starts = new List<int>();
        if (edge.Right is NameSide.Apostrophe && Opening(text, '\'') is { } quoted)
        {
            starts.Add(quoted);
        }
        if (edge.Right is NameSide.Bracket && text.AsSpan().LastIndexOfAny('(', '[', '{') is var bracket and >= 0)
        {
            starts.Add(bracket + 1);
        }
        var signs = Enumerable.Range(0, text.Length).Where(at => IsSign(text, at)).Select(at => at + 1).ToList();
        starts.Add(Likeliest(text, signs));
        starts.Add(0);
        starts.AddRange(signs);
        return [.. starts.Distinct().Take(MostReadings)];
    }

    private static int? Opening(string text, char quote)
    {
        for (var at = text.Length - 1; at >= 0; at--)
        {
            if (text[at] == quote && (at == 0 || IsSign(text, at - 1)))
            {
                return at + 1;
            }
        }
        return null;
    }

    private static bool IsSign(string text, int at) => text[at] switch
    {
        ' ' or '=' or ',' or ';' or '(' or '[' or '{' or '\'' or '@' or '#' or '|' or '\t' or ')' or ']' or '}' => true,
        // A colon parts a key from its value, but not a drive or a scheme from its path.
        ':' => at > 1 && !(at + 1 < text.Length && text[at + 1] is '/' or '\\' && char.IsAsciiLetter(text[at - 1]) && (at < 2 || !char.IsLetterOrDigit(text[at - 2]))) && !text.AsSpan(0, at).EndsWith("file"),
        _ => false,
    };

    private static int Likeliest(string text, List<int> signs)
    {
        if (RootedPath().Match(text) is { Success: true } rooted)
        {
            return rooted.Groups["path"].Index;
        }
        var slash = text.AsSpan().IndexOfAny('/', '\\');
        if (slash >= 0)
        {
            return signs.LastOrDefault(s => s <= slash);
        }
        // Behind the last sign that parts values; a space may be a part of the name.
        return signs.LastOrDefault(s => text[s - 1] is not (' ' or '\'' or '#' or '@' or '(' or '[' or ')' or ']'));
    }

    [GeneratedRegex(@"\\u[0-9A-Fa-f]{4}|\\/|\\\\")]
    private static partial Regex JsonEscape();

    // An address of another scheme than "file" leads to no file on a machine.
    [GeneratedRegex(@"(?<![A-Za-z0-9+.\-])(?!file:)[A-Za-z][A-Za-z0-9+.\-]+://\S*$", RegexOptions.IgnoreCase)]
    private static partial Regex AddressElsewhere();

    [GeneratedRegex(@"%[0-9A-Fa-f]{2}")]
    private static partial Regex PercentEscape();

    // A scheme, a drive, a server, a root or a folder relative to this one, where a word begins.
    [GeneratedRegex(@"(?:^|[\s=,;:(\[{'])(?<path>(?:file:/|[A-Za-z]:[\\/]|\\\\\w|/(?=[^/\s])|\.{1,2}[\\/]|~/).*)$")]
    private static partial Regex RootedPath();
}
