using System.Globalization;
using System.Text;

namespace NeatCrate.Core.Json;

/// <summary>A member of an object.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Value">Its value.</param>
/// <param name="Start">Where it begins in its text, in bytes; -1 for one that is new.</param>
public readonly record struct JsonMember(string Name, JsonItem Value, int Start = -1);

/// <summary>A value of a <see cref="JsonText"/>, or a new one that is to be put into it.</summary>
public sealed class JsonItem
{
    private static readonly JsonMember[] NoMembers = [];
    private static readonly JsonItem[] NoItems = [];

    // What an object or an array holds (Content), or how a new value is written (string). A document has a hundred thousand numbers and
    // texts of which nothing but the place is known, so that these carry no more than one empty reference.
    private readonly object? _rest;

    internal JsonItem(JsonText? text, JsonKind kind, int start, int end) => (Text, Kind, Start, End) = (text, kind, start, end);

    private JsonItem(JsonText? text, JsonKind kind, int start, int end, object rest) : this(text, kind, start, end) => _rest = rest;

    private sealed class Content
    {
        public List<JsonMember>? Members { get; set; }

        public List<JsonItem>? Items { get; init; }

        public List<JsonMember>? FirstMembers { get; set; }

        public List<JsonItem>? FirstItems { get; set; }

        public object? Known { get; init; }
    }

    /// <summary>What it is.</summary>
    public JsonKind Kind { get; }

    /// <summary>Members of an object, in order; none for anything else.</summary>
    public IReadOnlyList<JsonMember> Members => OwnMembers ?? (IReadOnlyList<JsonMember>)NoMembers;

    /// <summary>Values of an array; none for anything else.</summary>
    public IReadOnlyList<JsonItem> Items => OwnItems ?? (IReadOnlyList<JsonItem>)NoItems;

    internal JsonText? Text { get; }

    internal int Start { get; }

    internal int End { get; }

    internal string? Literal => _rest as string;

    /// <summary>What is known of it from an earlier reading, so that its members were not read; null where they were.</summary>
    internal object? Known => Held?.Known;

    /// <summary>Its members; those of what is known already are read when somebody asks.</summary>
    internal List<JsonMember>? OwnMembers => Held is not { } held ? null : held.Members ??= held.Known is null ? null : Text!.MembersOf(this);

    internal List<JsonItem>? OwnItems => Held?.Items;

    /// <summary>The members as they stand in the text, once one was changed.</summary>
    internal List<JsonMember>? FirstMembers => Held?.FirstMembers;

    /// <summary>The items as they stand in the text, once one came or went.</summary>
    internal List<JsonItem>? FirstItems => Held?.FirstItems;

    internal bool IsChanged => Text is null || (Held is { } held
        && (held.FirstMembers is not null || held.FirstItems is not null || (held.Members ?? []).Any(m => m.Value.IsChanged) || (held.Items ?? []).Any(i => i.IsChanged)));

    private Content? Held => _rest as Content;

    /// <summary>An object of a text.</summary>
    internal static JsonItem MapOf(JsonText? text, int start, int end, List<JsonMember> members) => new(text, JsonKind.Map, start, end, new Content { Members = members });

    /// <summary>An array of a text.</summary>
    internal static JsonItem ListOf(JsonText? text, int start, int end, List<JsonItem> items) => new(text, JsonKind.List, start, end, new Content { Items = items });

    /// <summary>An object of a text of which something is known from an earlier reading.</summary>
    internal static JsonItem KnownOf(JsonText text, int start, int end, object known) => new(text, JsonKind.Map, start, end, new Content { Known = known });

    private static JsonItem New(JsonKind kind, string literal) => new(null, kind, -1, -1, literal);

    /// <summary>The value of a member; the last one where the name stands twice, null where it does not stand.</summary>
    public JsonItem? this[string name]
    {
        get
        {
            var members = OwnMembers;
            for (var n = (members?.Count ?? 0) - 1; n >= 0; n--)
            {
                if (members![n].Name == name)
                {
                    return members[n].Value;
                }
            }
            return null;
        }
    }

    /// <summary>The text of a string; null for anything else.</summary>
    public string? AsText => Kind != JsonKind.Text ? null : Text is null ? Parsed() : JsonText.Decode(Text.Raw(this)[1..^1]);

    /// <summary>A number; it may be infinite or none. Null for anything else.</summary>
    public double? Number => Kind != JsonKind.Number ? null : JsonText.ToNumber(Text is null ? Encoding.ASCII.GetBytes(Literal!) : Text.Raw(this));

    /// <summary>True or false; null for anything else.</summary>
    public bool? Boolean => Kind switch { JsonKind.True => true, JsonKind.False => false, _ => null };

    /// <summary>A value of a text as it stands there, byte for byte.</summary>
    /// <exception cref="InvalidOperationException">It is new, and stands in none.</exception>
    public string ToText() => Text is null ? throw new InvalidOperationException("The value stands in no text.") : Encoding.UTF8.GetString(Text.Raw(this));

    /// <summary>A new object.</summary>
    public static JsonItem Map(params (string Name, JsonItem Value)[] members) =>
        MapOf(null, -1, -1, [.. members.Select(m => new JsonMember(m.Name, m.Value))]);

    /// <summary>A new array.</summary>
    public static JsonItem List(IEnumerable<JsonItem> items) => ListOf(null, -1, -1, [.. items]);

    /// <summary>A new empty array.</summary>
    public static JsonItem List() => List([]);

    /// <summary>A new string.</summary>
    public static JsonItem Of(string text) => New(JsonKind.Text, Quoted(text));

    /// <summary>A new number. A whole one is written with a point, as OpenTimelineIO's own library does.</summary>
    public static JsonItem Of(double number) =>
        New(JsonKind.Number, number.ToString(number == Math.Floor(number) && Math.Abs(number) < 1e15 ? "0.0" : "R", CultureInfo.InvariantCulture));

    /// <summary>A new whole number.</summary>
    public static JsonItem Of(long number) => New(JsonKind.Number, number.ToString(CultureInfo.InvariantCulture));

    /// <summary>True or false.</summary>
    public static JsonItem Of(bool value) => value ? New(JsonKind.True, "true") : New(JsonKind.False, "false");

    /// <summary>Nothing.</summary>
    public static JsonItem Null() => New(JsonKind.Null, "null");

    /// <summary>Gives a member a value; one that is not there is added at the end.</summary>
    public void Set(string name, JsonItem value)
    {
        var members = Changing();
        for (var n = members.Count - 1; n >= 0; n--)
        {
            if (members[n].Name == name)
            {
                members[n] = members[n] with { Value = value };
                return;
            }
        }
        members.Add(new JsonMember(name, value));
    }

    /// <summary>Removes a member, if it is there.</summary>
    public void Remove(string name)
    {
        if (Members.Any(m => m.Name == name))
        {
            Changing().RemoveAll(m => m.Name == name);
        }
    }

    /// <summary>Adds a value at the end of an array.</summary>
    public void Add(JsonItem item) => Insert(Items.Count, item);

    /// <summary>Puts a value into an array.</summary>
    public void Insert(int index, JsonItem item)
    {
        Held!.FirstItems ??= [.. OwnItems!];
        OwnItems!.Insert(index, item);
    }

    /// <summary>Takes a value out of an array.</summary>
    public void RemoveAt(int index)
    {
        Held!.FirstItems ??= [.. OwnItems!];
        OwnItems!.RemoveAt(index);
    }

    /// <summary>A text as a string of JSON: only what must be escaped is.</summary>
    internal static string Quoted(string text)
    {
        var quoted = new StringBuilder(text.Length + 2).Append('"');
        foreach (var c in text)
        {
            _ = c switch
            {
                '"' => quoted.Append("\\\""),
                '\\' => quoted.Append("\\\\"),
                '\n' => quoted.Append("\\n"),
                '\r' => quoted.Append("\\r"),
                '\t' => quoted.Append("\\t"),
                < ' ' => quoted.Append(CultureInfo.InvariantCulture, $"\\u{(int)c:x4}"),
                _ => quoted.Append(c),
            };
        }
        return quoted.Append('"').ToString();
    }

    private string Parsed() => JsonText.Decode(Encoding.UTF8.GetBytes(Literal!).AsSpan(1..^1));

    private List<JsonMember> Changing()
    {
        Held!.FirstMembers ??= [.. OwnMembers!];
        return OwnMembers!;
    }
}
