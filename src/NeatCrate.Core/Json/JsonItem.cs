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

    private List<JsonMember>? _members;

    internal JsonItem(JsonText? text, JsonKind kind, int start, int end) => (Text, Kind, Start, End) = (text, kind, start, end);

    /// <summary>What it is.</summary>
    public JsonKind Kind { get; }

    /// <summary>Members of an object, in order; none for anything else.</summary>
    public IReadOnlyList<JsonMember> Members => OwnMembers ?? (IReadOnlyList<JsonMember>)NoMembers;

    /// <summary>Values of an array; none for anything else.</summary>
    public IReadOnlyList<JsonItem> Items => OwnItems ?? (IReadOnlyList<JsonItem>)NoItems;

    internal JsonText? Text { get; }

    internal int Start { get; }

    internal int End { get; }

    internal string? Literal { get; private init; }

    /// <summary>What is known of it from an earlier reading, so that its members were not read; null where they were.</summary>
    internal object? Known { get; init; }

    /// <summary>Its members; those of what is known already are read when somebody asks.</summary>
    internal List<JsonMember>? OwnMembers
    {
        get => _members ??= Known is null ? null : Text!.MembersOf(this);
        init => _members = value;
    }

    internal List<JsonItem>? OwnItems { get; init; }

    /// <summary>The members as they stand in the text, once one was changed.</summary>
    internal List<JsonMember>? FirstMembers { get; private set; }

    /// <summary>The items as they stand in the text, once one came or went.</summary>
    internal List<JsonItem>? FirstItems { get; private set; }

    internal bool IsChanged => Text is null || FirstMembers is not null || FirstItems is not null || (_members ?? []).Any(m => m.Value.IsChanged) || Items.Any(i => i.IsChanged);

    /// <summary>The value of a member; the last one where the name stands twice, null where it does not stand.</summary>
    public JsonItem? this[string name]
    {
        get
        {
            for (var n = Members.Count - 1; n >= 0; n--)
            {
                if (Members[n].Name == name)
                {
                    return Members[n].Value;
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
        new(null, JsonKind.Map, -1, -1) { OwnMembers = [.. members.Select(m => new JsonMember(m.Name, m.Value))] };

    /// <summary>A new array.</summary>
    public static JsonItem List(IEnumerable<JsonItem> items) => new(null, JsonKind.List, -1, -1) { OwnItems = [.. items] };

    /// <summary>A new empty array.</summary>
    public static JsonItem List() => List([]);

    /// <summary>A new string.</summary>
    public static JsonItem Of(string text) => new(null, JsonKind.Text, -1, -1) { Literal = Quoted(text) };

    /// <summary>A new number. A whole one is written with a point, as OpenTimelineIO's own library does.</summary>
    public static JsonItem Of(double number) => new(null, JsonKind.Number, -1, -1)
    {
        Literal = number == Math.Floor(number) && Math.Abs(number) < 1e15 ? number.ToString("0.0", CultureInfo.InvariantCulture) : number.ToString("R", CultureInfo.InvariantCulture),
    };

    /// <summary>A new whole number.</summary>
    public static JsonItem Of(long number) => new(null, JsonKind.Number, -1, -1) { Literal = number.ToString(CultureInfo.InvariantCulture) };

    /// <summary>True or false.</summary>
    public static JsonItem Of(bool value) => new(null, value ? JsonKind.True : JsonKind.False, -1, -1) { Literal = value ? "true" : "false" };

    /// <summary>Nothing.</summary>
    public static JsonItem Null() => new(null, JsonKind.Null, -1, -1) { Literal = "null" };

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
        FirstItems ??= [.. OwnItems!];
        OwnItems!.Insert(index, item);
    }

    /// <summary>Takes a value out of an array.</summary>
    public void RemoveAt(int index)
    {
        FirstItems ??= [.. OwnItems!];
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
        FirstMembers ??= [.. OwnMembers!];
        return OwnMembers!;
    }
}
