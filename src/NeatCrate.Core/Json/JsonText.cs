using System.Globalization;
using System.IO.Hashing;
using System.Text;

namespace NeatCrate.Core.Json;

/// <summary>What a value of JSON is.</summary>
public enum JsonKind
{
    /// <summary>Members by name.</summary>
    Map,

    /// <summary>Values in order.</summary>
    List,

    /// <summary>Text.</summary>
    Text,

    /// <summary>A number; also the words NaN and Infinity, which are no JSON and are written all the same.</summary>
    Number,

    /// <summary>True.</summary>
    True,

    /// <summary>False.</summary>
    False,

    /// <summary>Nothing.</summary>
    Null,
}

/// <summary>The text is no JSON.</summary>
/// <param name="line">The line at which that shows, from 1.</param>
/// <param name="isText">False where the bytes are no UTF-8 at all.</param>
public sealed class JsonTextException(int line, bool isText) : Exception($"No JSON at line {line}")
{
    /// <summary>The line at which it shows, from 1.</summary>
    public int Line => line;

    /// <summary>False where the bytes are no UTF-8.</summary>
    public bool IsText => isText;
}

/// <summary>What is known of objects in lists named "children" from an earlier reading.</summary>
internal interface IKnownValues
{
    /// <summary>Whether a text goes on with an object that was read before, byte for byte.</summary>
    /// <returns>Its length in bytes, and what is known of it; null where it is not known.</returns>
    (int Bytes, object Known)? At(ReadOnlySpan<byte> rest);
}

/// <summary>
/// A JSON text (RFC 8259) that can be changed in places, with every other byte kept: byte order mark, line ends, indentation,
/// escapes, digits, order and doubles of members. Values are read from the text when they are asked for. What is no JSON and
/// is met all the same is taken: NaN and Infinity as numbers, and half of a surrogate pair as an unknown character.
/// </summary>
public sealed class JsonText
{
    private const int MaxDepth = 512;

    private static readonly UTF8Encoding Strict = new(false, true);

    private readonly byte[] _text;
    private readonly string?[] _names = new string?[512];
    private readonly string _newLine;
    private readonly string _unit;
    private int _at;
    private int _depth;
    private IKnownValues? _known;

    // Members and items of what is being read, those of what stands around it below them: each list is made once, as long as it is.
    private readonly List<JsonMember> _members = [];
    private readonly List<JsonItem> _items = [];

    private JsonText(byte[] text, IKnownValues? known)
    {
        (_text, _known) = (text, known);
        _at = text.AsSpan().StartsWith("\uFEFF"u8) ? 3 : 0;
        Root = ReadValue();
        SkipSpace();
        if (_at != text.Length)
        {
            throw Damaged();
        }
        (_newLine, _unit) = Style();
        // What is asked for later is read in full.
        _known = null;
    }

    /// <summary>The value that the text holds.</summary>
    public JsonItem Root { get; }

    /// <summary>Reads a text.</summary>
    /// <exception cref="JsonTextException">It is no JSON.</exception>
    public static JsonText Parse(byte[] utf8) => Parse(utf8, null);

    /// <summary>Reads a text of which parts are known from an earlier reading.</summary>
    /// <exception cref="JsonTextException">It is no JSON.</exception>
    internal static JsonText Parse(byte[] utf8, IKnownValues? known)
    {
        ArgumentNullException.ThrowIfNull(utf8);
        try
        {
            _ = Strict.GetCharCount(utf8);
        }
        catch (DecoderFallbackException e)
        {
            throw new JsonTextException(1 + utf8.AsSpan(0, Math.Clamp(e.Index, 0, utf8.Length)).Count((byte)'\n'), false);
        }
        return new JsonText(utf8, known);
    }

    /// <summary>The text with all changes.</summary>
    public byte[] ToUtf8()
    {
        var changes = new List<(int Start, int End, string Text)>();
        Collect(Root, changes);
        var result = new MemoryStream(_text.Length + 1024);
        var at = 0;
        foreach (var (start, end, text) in changes.OrderBy(c => c.Start).ThenBy(c => c.End))
        {
            result.Write(_text, at, start - at);
            result.Write(Encoding.UTF8.GetBytes(text));
            at = end;
        }
        result.Write(_text, at, _text.Length - at);
        return result.ToArray();
    }

    internal ReadOnlySpan<byte> Raw(JsonItem item) => _text.AsSpan(item.Start, item.End - item.Start);

    // ----- reading

    /// <summary>The members of an object that was known, and is asked for all the same.</summary>
    internal List<JsonMember> MembersOf(JsonItem known)
    {
        _at = known.Start;
        return ReadObject(known.Start).OwnMembers!;
    }

    private JsonItem ReadValue(bool isChildren = false)
    {
        SkipSpace();
        var start = _at;
        switch (Peek())
        {
            case (byte)'{':
                return ReadObject(start);
            case (byte)'[':
                return ReadArray(start, isChildren);
            case (byte)'"':
                SkipString();
                return new JsonItem(this, JsonKind.Text, start, _at);
            case (byte)'t':
                return Word("true"u8, JsonKind.True);
            case (byte)'f':
                return Word("false"u8, JsonKind.False);
            case (byte)'n':
                return Word("null"u8, JsonKind.Null);
            case (byte)'N':
                return Word("NaN"u8, JsonKind.Number);
            case (byte)'I':
                return Word("Infinity"u8, JsonKind.Number);
            default:
                SkipNumber();
                return new JsonItem(this, JsonKind.Number, start, _at);
        }
    }

    private JsonItem ReadObject(int start)
    {
        var first = _members.Count;
        Enter();
        _at++;
        SkipSpace();
        if (Peek() == '}')
        {
            _at++;
            _depth--;
            return JsonItem.MapOf(this, start, _at, []);
        }
        while (true)
        {
            SkipSpace();
            var name = _at;
            if (Peek() != '"')
            {
                throw Damaged();
            }
            SkipString();
            var key = MemberName(_text.AsSpan(name + 1, _at - name - 2));
            SkipSpace();
            Expect((byte)':');
            _members.Add(new JsonMember(key, ReadValue(key == "children"), name));
            SkipSpace();
            if (Peek() == ',')
            {
                _at++;
                continue;
            }
            Expect((byte)'}');
            _depth--;
            return JsonItem.MapOf(this, start, _at, TakeFrom(_members, first));
        }
    }

    /// <summary>The name of a member. A document has a few dozen of them a hundred thousand times, so each is kept once.</summary>
    private string MemberName(ReadOnlySpan<byte> raw)
    {
        ref var kept = ref _names[(int)(XxHash3.HashToUInt64(raw) % (ulong)_names.Length)];
        return kept is not null && Ascii.Equals(raw, kept) ? kept : kept = Decode(raw);
    }

    private JsonItem ReadArray(int start, bool isChildren)
    {
        var first = _items.Count;
        Enter();
        _at++;
        SkipSpace();
        if (Peek() == ']')
        {
            _at++;
            _depth--;
            return JsonItem.ListOf(this, start, _at, []);
        }
        while (true)
        {
            _items.Add((isChildren ? ReadKnown() : null) ?? ReadValue());
            SkipSpace();
            if (Peek() == ',')
            {
                _at++;
                continue;
            }
            Expect((byte)']');
            _depth--;
            return JsonItem.ListOf(this, start, _at, TakeFrom(_items, first));
        }
    }

    private static List<T> TakeFrom<T>(List<T> all, int first)
    {
        var taken = all.GetRange(first, all.Count - first);
        all.RemoveRange(first, taken.Count);
        return taken;
    }

    private JsonItem? ReadKnown()
    {
        if (_known is null)
        {
            return null;
        }
        SkipSpace();
        if (_known.At(_text.AsSpan(_at)) is not { } found)
        {
            return null;
        }
        var start = _at;
        _at += found.Bytes;
        return JsonItem.KnownOf(this, start, _at, found.Known);
    }

    private void Enter()
    {
        if (++_depth > MaxDepth)
        {
            throw Damaged();
        }
    }

    private JsonItem Word(ReadOnlySpan<byte> word, JsonKind kind)
    {
        var start = _at;
        if (!_text.AsSpan(_at).StartsWith(word))
        {
            throw Damaged();
        }
        _at += word.Length;
        return new JsonItem(this, kind, start, _at);
    }

    private void SkipString()
    {
        for (_at++; ; _at++)
        {
            var rest = _text.AsSpan(_at);
            var next = rest.IndexOfAny((byte)'"', (byte)'\\');
            if (next < 0 || rest[..next].IndexOfAnyInRange((byte)0, (byte)0x1F) >= 0)
            {
                throw Damaged();
            }
            _at += next;
            if (_text[_at] == '"')
            {
                _at++;
                return;
            }
            _at++;
            var escape = Peek();
            if (escape == 'u')
            {
                for (var n = 0; n < 4; n++)
                {
                    _at++;
                    if (!char.IsAsciiHexDigit((char)Peek()))
                    {
                        throw Damaged();
                    }
                }
            }
            else if (!"\"\\/bfnrt"u8.Contains(escape))
            {
                throw Damaged();
            }
        }
    }

    private void SkipNumber()
    {
        if (Peek() == '-')
        {
            _at++;
            if (Peek() == 'I')
            {
                Word("Infinity"u8, JsonKind.Number);
                return;
            }
        }
        var first = _at;
        Digits();
        if (_text[first] == '0' && _at > first + 1)
        {
            throw Damaged();
        }
        if (_at < _text.Length && _text[_at] == '.')
        {
            _at++;
            Digits();
        }
        if (_at < _text.Length && _text[_at] is (byte)'e' or (byte)'E')
        {
            _at++;
            if (Peek() is (byte)'+' or (byte)'-')
            {
                _at++;
            }
            Digits();
        }
    }

    private void Digits()
    {
        var start = _at;
        while (_at < _text.Length && char.IsAsciiDigit((char)_text[_at]))
        {
            _at++;
        }
        if (_at == start)
        {
            throw Damaged();
        }
    }

    private void SkipSpace()
    {
        while (_at < _text.Length && _text[_at] is (byte)' ' or (byte)'\n' or (byte)'\r' or (byte)'\t')
        {
            _at++;
        }
    }

    private byte Peek() => _at < _text.Length ? _text[_at] : throw Damaged();

    private void Expect(byte wanted)
    {
        if (Peek() != wanted)
        {
            throw Damaged();
        }
        _at++;
    }

    private JsonTextException Damaged() => new(1 + _text.AsSpan(0, Math.Min(_at, _text.Length)).Count((byte)'\n'), true);

    /// <summary>The text that stands between two quotes.</summary>
    internal static string Decode(ReadOnlySpan<byte> raw)
    {
        if (!raw.Contains((byte)'\\'))
        {
            return Encoding.UTF8.GetString(raw);
        }
        var text = new StringBuilder(raw.Length);
        while (raw.IndexOf((byte)'\\') is var next and >= 0)
        {
            text.Append(Encoding.UTF8.GetString(raw[..next]));
            var escape = raw[next + 1];
            raw = raw[(next + 2)..];
            if (escape == 'u')
            {
                text.Append((char)ushort.Parse(raw[..4], NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture));
                raw = raw[4..];
            }
            else
            {
                text.Append(escape switch { (byte)'b' => '\b', (byte)'f' => '\f', (byte)'n' => '\n', (byte)'r' => '\r', (byte)'t' => '\t', _ => (char)escape });
            }
        }
        text.Append(Encoding.UTF8.GetString(raw));
        // Half a pair is no character: whoever reads on must not stumble over it. The text itself keeps it.
        return Whole(text);
    }

    private static string Whole(StringBuilder text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            if (char.IsHighSurrogate(text[i]) && i + 1 < text.Length && char.IsLowSurrogate(text[i + 1]))
            {
                i++;
            }
            else if (char.IsSurrogate(text[i]))
            {
                text[i] = '\uFFFD';
            }
        }
        return text.ToString();
    }

    // ----- writing

    /// <summary>Line ends and indentation as the text has them; both empty for one on a single line.</summary>
    private (string NewLine, string Unit) Style()
    {
        var first = Root.Kind switch
        {
            JsonKind.Map when Root.Members is [var member, ..] => member.Start,
            JsonKind.List when Root.Items is [var item, ..] => item.Start,
            _ => -1,
        };
        if (first < 0)
        {
            return ("\n", "    ");
        }
        var before = Encoding.ASCII.GetString(_text.AsSpan(Root.Start + 1, first - Root.Start - 1));
        var line = before.LastIndexOf('\n');
        return line < 0 ? ("", "") : (before.Contains("\r\n", StringComparison.Ordinal) ? "\r\n" : "\n", before[(line + 1)..]);
    }

    private void Collect(JsonItem item, List<(int Start, int End, string Text)> changes)
    {
        if (item.Kind == JsonKind.Map)
        {
            CollectMembers(item, changes);
        }
        else if (item.Kind == JsonKind.List)
        {
            CollectItems(item, changes);
        }
    }

    private void CollectMembers(JsonItem item, List<(int Start, int End, string Text)> changes)
    {
        if (item.FirstMembers is not { } before)
        {
            foreach (var member in item.Members)
            {
                Collect(member.Value, changes);
            }
            return;
        }
        var kept = item.Members.Where(m => m.Start >= 0).ToDictionary(m => m.Start);
        if (kept.Count == 0)
        {
            changes.Add((item.Start, item.End, Written(item, Indent(item.Start))));
            return;
        }
        var separator = Separator(item.Start, before[0].Start);
        // What is gone goes with the comma after it, or with the one before it at the end.
        for (var n = 0; n < before.Count; n++)
        {
            if (!kept.TryGetValue(before[n].Start, out var now))
            {
                var isLast = before.Skip(n + 1).All(m => !kept.ContainsKey(m.Start));
                changes.Add(isLast ? (before.Take(n).Last(m => kept.ContainsKey(m.Start)).Value.End, before[^1].Value.End, "") : (before[n].Start, before[n + 1].Start, ""));
                if (isLast)
                {
                    break;
                }
            }
            else if (ReferenceEquals(now.Value, before[n].Value))
            {
                Collect(now.Value, changes);
            }
            else
            {
                changes.Add((before[n].Value.Start, before[n].Value.End, Written(now.Value, Indent(before[n].Start))));
            }
        }
        var added = string.Concat(item.Members.Where(m => m.Start < 0).Select(m => "," + separator + Named(m, Line(separator))));
        if (added.Length > 0)
        {
            changes.Add((before[^1].Value.End, before[^1].Value.End, added));
        }
    }

    private void CollectItems(JsonItem item, List<(int Start, int End, string Text)> changes)
    {
        if (item.FirstItems is not { } before)
        {
            foreach (var child in item.Items)
            {
                Collect(child, changes);
            }
            return;
        }
        var old = before.ToHashSet(ReferenceEqualityComparer.Instance);
        var kept = item.Items.Where(i => old.Contains(i)).ToList();
        if (kept.Count != before.Count || before.Count == 0)
        {
            // What was taken out leaves nothing that could be kept in between: the list is written anew, its items as they were.
            changes.Add((item.Start, item.End, Written(item, Indent(item.Start))));
            return;
        }
        var separator = Separator(item.Start, before[0].Start);
        var waiting = new StringBuilder();
        foreach (var child in item.Items)
        {
            if (!old.Contains(child))
            {
                waiting.Append(Written(child, Line(separator))).Append(',').Append(separator);
                continue;
            }
            if (waiting.Length > 0)
            {
                changes.Add((child.Start, child.Start, waiting.ToString()));
                waiting.Clear();
            }
            Collect(child, changes);
        }
        if (waiting.Length > 0)
        {
            var end = before[^1].End;
            changes.Add((end, end, "," + separator + waiting.ToString(0, waiting.Length - separator.Length - 1)));
        }
    }

    /// <summary>What stands between an opening bracket and the first thing in it: mostly a line end and an indentation.</summary>
    private string Separator(int open, int first)
    {
        var between = Encoding.UTF8.GetString(_text.AsSpan(open + 1, first - open - 1));
        return between.Length == 0 && _newLine.Length == 0 && HasSpaces() ? " " : between;
    }

    private bool HasSpaces() => _text.AsSpan().IndexOf(", \""u8) >= 0;

    private static string Line(string separator) => separator[(separator.LastIndexOf('\n') + 1)..];

    /// <summary>The white space at the start of the line on which something stands.</summary>
    private string Indent(int at)
    {
        var line = _text.AsSpan(0, at).LastIndexOf((byte)'\n') + 1;
        var end = line;
        while (end < at && _text[end] is (byte)' ' or (byte)'\t')
        {
            end++;
        }
        return Encoding.ASCII.GetString(_text.AsSpan(line, end - line));
    }

    private string Named(JsonMember member, string indent) => JsonItem.Quoted(member.Name) + (_newLine.Length > 0 || HasSpaces() ? ": " : ":") + Written(member.Value, indent);

    /// <summary>A value as text: as it stands where it comes from this text and was not changed, else written in its style.</summary>
    private string Written(JsonItem item, string indent)
    {
        if (item is { Text: { } text, IsChanged: false })
        {
            // Also what comes from another text stands as it stood there.
            return Encoding.UTF8.GetString(text.Raw(item));
        }
        if (item.Kind is not (JsonKind.Map or JsonKind.List))
        {
            return item.Literal!;
        }
        var (open, close) = item.Kind == JsonKind.Map ? ('{', '}') : ('[', ']');
        var inner = _newLine.Length > 0 ? indent + _unit : "";
        var parts = item.Kind == JsonKind.Map ? item.Members.Select(m => Named(m, inner)) : item.Items.Select(i => Written(i, inner));
        var between = _newLine.Length > 0 ? "," + _newLine + inner : HasSpaces() ? ", " : ",";
        var body = string.Join(between, parts);
        return body.Length == 0 ? $"{open}{close}"
            : _newLine.Length > 0 ? open + _newLine + inner + body + _newLine + indent + close
            : open + body + close;
    }

    /// <summary>A new text that holds a value, indented by four spaces, with a line end behind.</summary>
    public static JsonText Of(JsonItem root)
    {
        // A text that is there gives the style; what it held is replaced whole.
        var text = new JsonText("{\n    \"a\": 0\n}"u8.ToArray(), null);
        return Parse(Encoding.UTF8.GetBytes(text.Written(root, "") + "\n"));
    }

    internal static double ToNumber(ReadOnlySpan<byte> raw) =>
        raw.SequenceEqual("NaN"u8) ? double.NaN
        : raw.SequenceEqual("Infinity"u8) ? double.PositiveInfinity
        : raw.SequenceEqual("-Infinity"u8) ? double.NegativeInfinity
        : double.Parse(raw, NumberStyles.Float, CultureInfo.InvariantCulture);
}
