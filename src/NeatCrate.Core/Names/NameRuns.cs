using System.Buffers;
using System.Collections.Immutable;
using System.Text;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Names;

/// <summary>
/// Finds, in raw bytes, each run of text that ends in the extension of a media file, and keeps every different one once. From the extension
/// it goes left to what no name holds; where the name begins in that run is told by <see cref="NameReadings"/>.
/// </summary>
internal sealed class NameRuns(NameBounds bounds)
{
    private const int LongestRun = 1024;
    private const int MostBeside = 10;
    private const int BesideReach = 200;

    // Extensions by their first letter, the longest first, in lower case.
    private static readonly byte[][][] Extensions = [.. Enumerable.Range(0, 256).Select(first => MediaFiles.Extensions
        .Where(e => e[1] == first || char.ToUpperInvariant(e[1]) == first).OrderByDescending(e => e.Length).Select(e => Encoding.ASCII.GetBytes(e[1..])).ToArray())];

    private readonly Dictionary<Key, Count> _found = [];

    /// <param name="Run">The run.</param>
    /// <param name="Other">The same bytes with the other one of two first; empty where that is the same text, or none.</param>
    /// <param name="Beside">The texts beside it.</param>
    /// <param name="Edge">What stands around it.</param>
    /// <param name="Encoding">As which text it was read.</param>
    /// <param name="Container">What it was packed in.</param>
    /// <param name="IsTail">Whether it may be the rest of a longer name.</param>
    private readonly record struct Key(string Run, string Other, string Beside, NameEdge Edge, NameEncoding Encoding, string Container, bool IsTail);

    private sealed class Count
    {
        public int Times { get; set; }

        public int TimesLeft { get; set; }

        public byte[]? Legacy { get; init; }
    }

    /// <summary>Where a run ends that may be the rest of a longer one.</summary>
    /// <param name="End">Where the last name ended.</param>
    /// <param name="Length">How many names follow each other with one zero between them.</param>
    /// <param name="Last">The last one.</param>
    /// <param name="IsCut">True where its length says that it ended in the middle of a text: what follows was there before.</param>
    private record struct Chain(int End, int Length, Key? Last, bool IsCut);

    /// <summary>Looks through bytes.</summary>
    /// <param name="bytes">The bytes.</param>
    /// <param name="from">Names that end at or before this place were found already.</param>
    /// <param name="container">What the bytes were packed in.</param>
    /// <param name="isLeftOver">True where a program leaves what it does not use any more among them.</param>
    /// <param name="isEnd">False where more bytes follow.</param>
    public void Scan(ReadOnlySpan<byte> bytes, int from, string container, bool isLeftOver = false, bool isEnd = true)
    {
        var chain = new Chain(-1, 0, null, false);
        var undone = isLeftOver ? [] : UndoParts.In(bytes);
        for (var dot = 0; dot < bytes.Length;)
        {
            var next = bytes[dot..].IndexOf((byte)'.');
            if (next < 0)
            {
                break;
            }
            dot += next;
            if (dot + 2 < bytes.Length)
            {
                var isLeft = isLeftOver || UndoParts.Hold(undone, dot);
                if (bytes[dot + 1] == 0)
                {
                    Wide(bytes, dot, from, container, isLeft);
                }
                else if (Extensions[bytes[dot + 1]].Length > 0)
                {
                    Narrow(bytes, dot, from, container, isLeft, isEnd, ref chain);
                }
            }
            dot++;
        }
        EndChain(chain);
    }

    /// <summary>What was found, each different run with its readings.</summary>
    public ImmutableArray<FoundName> ToNames()
    {
        // What stands in rows that are there, too, is not left over.
        var there = _found.Where(f => f.Value.Times > 0).Select(f => f.Key.Run).ToHashSet(StringComparer.Ordinal);
        var names = ImmutableArray.CreateBuilder<FoundName>();
        foreach (var (key, count) in _found)
        {
            var isLeft = count.Times == 0;
            if (isLeft && there.Contains(key.Run))
            {
                continue;
            }
            var readings = NameReadings.Of(key.Run, count.Legacy, key.Edge, key.Encoding);
            if (key.Other.Length > 0)
            {
                readings = [.. readings, .. NameReadings.Of(key.Other, null, key.Edge, key.Encoding)];
            }
            if (!readings.IsEmpty)
            {
                names.Add(new FoundName(
                    readings, key.Encoding, key.Container, isLeft ? count.TimesLeft : count.Times, isLeft, key.IsTail,
                    key.Beside.Length == 0 ? [] : [.. key.Beside.Split('\n')]));
            }
        }
        return names.ToImmutable();
    }

    // ----- one byte a unit

    private void Narrow(ReadOnlySpan<byte> bytes, int dot, int from, string container, bool isLeftOver, bool isEnd, ref Chain chain)
    {
        if (ExtensionAt(bytes, dot) is not { } end || end <= from || (end == bytes.Length && !isEnd))
        {
            return;
        }
        var start = dot;
        while (start > 0 && dot - start < LongestRun && !IsEdge(bytes, start - 1))
        {
            start--;
        }
        if (start == dot)
        {
            return;
        }
        var right = end < bytes.Length ? bytes[end] : -1;
        var prefix = Prefix(bytes, start, end, right, chain.End);
        if (!EndsHere(bytes, end) && prefix < 0)
        {
            return;
        }
        var isRest = chain.IsCut && start < chain.End && prefix < 0;
        // A text that goes on behind a name whose length is known was there before it.
        var isCut = isRest || (prefix >= 0 && right >= 0 && !IsEdge(bytes, end));
        if (isRest)
        {
            start = chain.End;
        }
        var run = bytes[start..end];
        var isUtf8 = TryUtf8(run, out var text);
        var edge = new NameEdge(Left(bytes, start - 1), Right(right), prefix < 0 ? -1 : prefix - start, IsLeadLength(bytes, start, end));
        var key = new Key(text, "", Beside(bytes, start, end, run), edge, isUtf8 ? NameEncoding.Utf8 : NameEncoding.Legacy, container, isRest);
        if (start == chain.End + 1 && chain.End >= 0 && bytes[chain.End] == 0)
        {
            chain = new Chain(end, chain.Length + 1, key, isCut);
        }
        else
        {
            EndChain(chain);
            chain = new Chain(end, 1, key, isCut);
        }
        Note(key, isLeftOver, isUtf8 ? null : run);
    }

    /// <summary>A name behind the end of another one, alone: what a longer one left when a shorter one was written over it. In a table more would follow.</summary>
    private void EndChain(Chain chain)
    {
        if (chain is { Length: 2, Last: { } last } && _found.TryGetValue(last, out var count) && count.Times > 0)
        {
            count.Times--;
            if (count is { Times: 0, TimesLeft: 0 })
            {
                _found.Remove(last);
            }
            Note(last with { IsTail = true }, false, count.Legacy);
        }
    }

    private void Note(Key key, bool isLeftOver, ReadOnlySpan<byte> legacy)
    {
        if (!_found.TryGetValue(key, out var count))
        {
            if (_found.Count >= NameBounds.MostRuns)
            {
                bounds.Stop();
                return;
            }
            _found[key] = count = new Count { Legacy = legacy.IsEmpty ? null : legacy.ToArray() };
        }
        count.Times += isLeftOver ? 0 : 1;
        count.TimesLeft += isLeftOver ? 1 : 0;
    }

    private static int? ExtensionAt(ReadOnlySpan<byte> bytes, int dot)
    {
        foreach (var extension in Extensions[bytes[dot + 1]])
        {
            if (dot + 1 + extension.Length <= bytes.Length && Ascii.EqualsIgnoreCase(bytes.Slice(dot + 1, extension.Length), extension))
            {
                return dot + 1 + extension.Length;
            }
        }
        return null;
    }

    /// <summary>True where no name goes on across a byte.</summary>
    private static bool IsEdge(ReadOnlySpan<byte> bytes, int at)
    {
        var value = bytes[at];
        // In encodings of two bytes a bar may be the second one.
        return value is < 0x20 or 0x7F or (byte)'"' or (byte)'<' or (byte)'>' or (byte)'*' or (byte)'?' || (value == '|' && (at == 0 || bytes[at - 1] < 0x80));
    }

    /// <summary>True where the name may end at a place by what stands there.</summary>
    private static bool EndsHere(ReadOnlySpan<byte> bytes, int end)
    {
        if (end >= bytes.Length)
        {
            return true;
        }
        var (here, after) = (bytes[end], end + 1 < bytes.Length ? bytes[end + 1] : (byte)0);
        if (here < 0x80)
        {
            return here switch
            {
                (byte)'.' => !char.IsAsciiLetterOrDigit((char)after),
                (byte)'/' or (byte)'_' or (byte)'-' or (byte)'~' => false,
                // As in JSON: an escape ends the name, a folder goes on.
                (byte)'\\' => after is (byte)'n' or (byte)'r' or (byte)'t' or (byte)'"' or (byte)'0' or (byte)'u',
                (byte)'%' => after is (byte)'0' or (byte)'2' or (byte)'3',
                _ => !char.IsAsciiLetterOrDigit((char)here),
            };
        }
        return Rune.DecodeFromUtf8(bytes[end..], out var rune, out _) != OperationStatus.Done || !Rune.IsLetterOrDigit(rune);
    }

    /// <summary>Where a name begins that has its length before it, in one to four bytes; -1 where none is.</summary>
    private static int Prefix(ReadOnlySpan<byte> bytes, int start, int end, int right, int before)
    {
        bool Says(int value, int at) => value == end - at || (right == 0 && value == end - at + 1);
        // Before the run, where it is no text itself: the last byte of a length, or the first where the lowest stands first.
        if (start >= 1 && (Says(bytes[start - 1], start)
            || (start >= 2 && bytes[start - 1] == 0 && Says(bytes[start - 2], start))
            || (start >= 2 && bytes[start - 1] != 0 && Says(bytes[start - 2] | (bytes[start - 1] << 8), start))
            || (start >= 4 && bytes[start - 1] == 0 && bytes[start - 2] == 0 && bytes[start - 3] == 0 && Says(bytes[start - 4], start))))
        {
            return start;
        }
        // A length that happens to be the code of a letter looks like the first one of the text, here or behind the name before.
        foreach (var at in (ReadOnlySpan<int>)[before + 1, start + 1])
        {
            if (at > start && at < end - 2 && Says(bytes[at - 1], at))
            {
                return at;
            }
        }
        return -1;
    }

    private static bool IsLeadLength(ReadOnlySpan<byte> bytes, int start, int end) => end - start > 2 && bytes[start] == end - start - 1;

    private static NameSide Left(ReadOnlySpan<byte> bytes, int at) => at < 0 ? NameSide.Nothing : Side(bytes[at]);

    private static NameSide Right(int value) => value < 0 ? NameSide.Nothing : Side(value);

    private static NameSide Side(int value) => value switch
    {
        '"' => NameSide.Quote,
        '\'' => NameSide.Apostrophe,
        '<' or '>' => NameSide.Tag,
        '\n' or '\r' => NameSide.Line,
        < 0x20 or 0x7F => NameSide.Control,
        >= 0x80 => NameSide.Control,
        ')' or ']' or '}' => NameSide.Bracket,
        _ when char.IsAsciiLetterOrDigit((char)value) => NameSide.Control,
        _ => NameSide.Text,
    };

    private static bool TryUtf8(ReadOnlySpan<byte> run, out string text)
    {
        var isUtf8 = System.Text.Unicode.Utf8.IsValid(run);
        text = isUtf8 ? Encoding.UTF8.GetString(run) : Encoding.Latin1.GetString(run);
        return isUtf8;
    }

    /// <summary>The texts beside a name that has no folder, from near to far, parted by line ends; empty where it has one.</summary>
    private static string Beside(ReadOnlySpan<byte> bytes, int start, int end, ReadOnlySpan<byte> run)
    {
        if (run.IndexOfAny((byte)'/', (byte)'\\') >= 0)
        {
            return "";
        }
        var texts = new List<string>();
        var stop = start - 1;
        for (var at = start - 1; at >= 0 && start - at < BesideReach && texts.Count < MostBeside; at--)
        {
            if (IsEdge(bytes, at) || at == 0)
            {
                var first = IsEdge(bytes, at) ? at + 1 : 0;
                AddText(texts, bytes[first..Math.Max(stop, first)]);
                stop = at;
            }
        }
        var count = texts.Count + (MostBeside / 2);
        var begin = end;
        for (var at = end; at < bytes.Length && at - end < BesideReach && texts.Count < count; at++)
        {
            if (IsEdge(bytes, at) || at == bytes.Length - 1)
            {
                AddText(texts, bytes[begin..(IsEdge(bytes, at) ? at : at + 1)]);
                begin = at + 1;
            }
        }
        return string.Join('\n', texts);
    }

    private static void AddText(List<string> texts, ReadOnlySpan<byte> text)
    {
        if (text.Length >= 2 && text.IndexOfAnyInRange((byte)'A', (byte)0xFF) >= 0)
        {
            texts.Add(Encoding.UTF8.GetString(text));
        }
    }

    // ----- two bytes a unit

    private void Wide(ReadOnlySpan<byte> bytes, int dot, int from, string container, bool isLeftOver)
    {
        if (WideExtensionAt(bytes, dot) is not { } last)
        {
            return;
        }
        // Whether the lower byte of each unit stands first cannot be seen in plain letters; the plainer text is the likelier one.
        var little = WideRun(bytes, dot, last + 2, big: false);
        var big = dot > 0 && bytes[dot - 1] == 0 ? WideRun(bytes, dot - 1, last + 1, big: true) : default;
        var (asLittle, asBig) = (little.End == 0 ? "" : Units(bytes[little.Start..little.End], false), big.End == 0 ? "" : Units(bytes[big.Start..big.End], true));
        var isBig = Plainness(asBig) > Plainness(asLittle);
        var (start, end) = isBig ? big : little;
        if (end == 0 || end <= from)
        {
            return;
        }
        var (text, other) = isBig ? (asBig, asLittle) : (asLittle, asBig);
        var right = end + 2 <= bytes.Length ? Unit(bytes, end, isBig) : -1;
        var left = start >= 2 ? Unit(bytes, start - 2, isBig) : -1;
        var leads = text.Length > 2 && (text[0] == text.Length - 1 || text[0] == text.Length || text[0] == 2 * (text.Length - 1));
        // Letters far from Latin are mostly numbers that stand behind the name.
        if (right is > 0 and < 0x250 && char.IsLetterOrDigit((char)right) && !leads && !(start >= 2 && IsLengthBefore(bytes, start, text.Length)))
        {
            return;
        }
        if (right is '.' or '_' or '-' or '/' && (right != '.' || (end + 4 <= bytes.Length && char.IsLetterOrDigit((char)Unit(bytes, end + 2, isBig)))))
        {
            return;
        }
        var edge = new NameEdge(left < 0 ? NameSide.Nothing : WideSide(left), right < 0 ? NameSide.Nothing : WideSide(right), -1, leads);
        var beside = text.AsSpan().IndexOfAny('/', '\\') >= 0 ? "" : WideBeside(bytes, start, end, isBig);
        Note(new Key(text, other == text ? "" : other, beside, edge, isBig ? NameEncoding.Utf16BigEndian : NameEncoding.Utf16LittleEndian, container, false), isLeftOver, default);
    }

    /// <summary>True for a text whose length stands before it, in units or bytes, as a number of one to four bytes.</summary>
    private static bool IsLengthBefore(ReadOnlySpan<byte> bytes, int start, int units)
    {
        foreach (var at in (ReadOnlySpan<int>)[start - 1, start - 2, start - 4])
        {
            if (at >= 0 && (bytes[at] == units || bytes[at] == 2 * units))
            {
                return true;
            }
        }
        return false;
    }

    private static int Plainness(string text) => text.Sum(c => c < 0x80 ? 1 : -1);

    private static NameSide WideSide(int unit) => unit <= 0xFF ? Side(unit) : NameSide.Control;

    /// <summary>Where the last letter of an extension stands that is written in units of two bytes.</summary>
    private static int? WideExtensionAt(ReadOnlySpan<byte> bytes, int dot)
    {
        foreach (var extension in Extensions[bytes[dot + 2]])
        {
            var (at, n) = (dot + 2, 0);
            while (n < extension.Length && at < bytes.Length && (bytes[at] == extension[n] || char.ToLowerInvariant((char)bytes[at]) == extension[n]) && bytes[at - 1] == 0)
            {
                n++;
                at += 2;
            }
            if (n == extension.Length)
            {
                return at - 2;
            }
        }
        return null;
    }

    private static (int Start, int End) WideRun(ReadOnlySpan<byte> bytes, int dot, int end, bool big)
    {
        if (end > bytes.Length || (!big && bytes[end - 1] != 0))
        {
            return default;
        }
        var start = dot;
        while (start >= 2 && dot - start < 2 * LongestRun && !IsWideEdge(Unit(bytes, start - 2, big)))
        {
            start -= 2;
        }
        return start == dot ? default : (start, end);
    }

    private static int Unit(ReadOnlySpan<byte> bytes, int at, bool big) => big ? (bytes[at] << 8) | bytes[at + 1] : bytes[at] | (bytes[at + 1] << 8);

    private static bool IsWideEdge(int unit) => unit is < 0x20 or 0x7F or '"' or '<' or '>' or '*' or '?' or '|' or >= 0xE000 and <= 0xF8FF or >= 0xFFF0 or 0xFEFF;

    private static string Units(ReadOnlySpan<byte> bytes, bool big) => (big ? Encoding.BigEndianUnicode : Encoding.Unicode).GetString(bytes);

    private static string WideBeside(ReadOnlySpan<byte> bytes, int start, int end, bool big)
    {
        var texts = new List<string>();
        var stop = start - 2;
        for (var at = start - 2; at >= 0 && start - at < 2 * BesideReach && texts.Count < MostBeside; at -= 2)
        {
            if (IsWideEdge(Unit(bytes, at, big)))
            {
                AddWide(texts, bytes[(at + 2)..Math.Max(stop, at + 2)], big);
                stop = at;
            }
        }
        var (count, begin) = (texts.Count + (MostBeside / 2), end);
        for (var at = end; at + 2 <= bytes.Length && at - end < 2 * BesideReach && texts.Count < count; at += 2)
        {
            if (IsWideEdge(Unit(bytes, at, big)))
            {
                AddWide(texts, bytes[begin..at], big);
                begin = at + 2;
            }
        }
        return string.Join('\n', texts);
    }

    private static void AddWide(List<string> texts, ReadOnlySpan<byte> text, bool big)
    {
        if (text.Length >= 4 && Units(text, big) is var units && units.Any(char.IsLetter))
        {
            texts.Add(units.Replace('\n', ' '));
        }
    }
}
