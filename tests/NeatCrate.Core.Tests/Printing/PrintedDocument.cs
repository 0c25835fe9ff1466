using System.Globalization;
using System.Text.Json.Nodes;

namespace NeatCrate.Core.Tests.Printing;

/// <summary>A document that is written piece by piece, and beside it what each of its tracks places, as commands for sox. Reckoned in whole numbers alone.</summary>
internal sealed class PrintedDocument
{
    public const int Rate = 48_000;

    private readonly JsonArray _tracks = [];

    public List<PrintedTrackModel> Tracks { get; } = [];

    public PrintedTrackModel Model(string name)
    {
        var children = new JsonArray();
        _tracks.Add(Item("Track.1", name, null, ("children", children), ("kind", "Audio")));
        Tracks.Add(new PrintedTrackModel(children));
        return Tracks[^1];
    }

    public JsonNode Track(string name, params JsonNode[] items)
    {
        _tracks.Add(Item("Track.1", name, null, ("children", new JsonArray([.. items.Select(i => i.Parent is null ? i : i.DeepClone())])), ("kind", "Audio")));
        return _tracks[^1]!;
    }

    public PrintedDocument Clear()
    {
        _tracks.Clear();
        return this;
    }

    public string ToJson(int bits, double start = 0) => new JsonObject
    {
        ["OTIO_SCHEMA"] = "Timeline.1",
        ["name"] = "Net Mender",
        ["metadata"] = new JsonObject { ["neat_crate"] = new JsonObject { ["sample_rate"] = Rate, ["bit_depth"] = bits, ["tempo"] = 92, ["time_signature"] = "6/8" } },
        ["global_start_time"] = Time(start, 1),
        ["tracks"] = Item("Stack.1", "tracks", null, ("children", _tracks.DeepClone())),
    }.ToJsonString();

    public static JsonObject Item(string schema, string name, JsonNode? range, params (string Name, JsonNode? Value)[] more)
    {
        var item = new JsonObject { ["OTIO_SCHEMA"] = schema, ["name"] = name, ["metadata"] = new JsonObject(), ["source_range"] = range, ["effects"] = new JsonArray(), ["markers"] = new JsonArray(), ["enabled"] = true };
        foreach (var (key, value) in more)
        {
            item[key] = value;
        }
        return item;
    }

    public static JsonObject Range(double start, double length, double rate) => new() { ["OTIO_SCHEMA"] = "TimeRange.1", ["start_time"] = Time(start, rate), ["duration"] = Time(length, rate) };

    public static JsonObject Time(double value, double rate) => new() { ["OTIO_SCHEMA"] = "RationalTime.1", ["rate"] = rate, ["value"] = value };

    public static JsonObject Clip(string name, string url, JsonNode? range, long fileLength, int fileRate = Rate) => Item("Clip.2", name, range,
        ("media_references", new JsonObject
        {
            ["DEFAULT_MEDIA"] = new JsonObject { ["OTIO_SCHEMA"] = "ExternalReference.1", ["name"] = "", ["metadata"] = new JsonObject(), ["available_range"] = Range(0, fileLength, fileRate), ["target_url"] = url },
        }),
        ("active_media_reference_key", "DEFAULT_MEDIA"));

    public static JsonObject Gap(double length, double rate) => Item("Gap.1", "", Range(0, length, rate));

    public static JsonObject Transition(double comesIn, double staysOut, double rate) => new()
    {
        ["OTIO_SCHEMA"] = "Transition.1",
        ["name"] = "",
        ["metadata"] = new JsonObject(),
        ["transition_type"] = "SMPTE_Dissolve",
        ["in_offset"] = Time(comesIn, rate),
        ["out_offset"] = Time(staysOut, rate),
    };
}

/// <summary>Units in which a document counts: so many in a second, as a whole number over another.</summary>
internal sealed record Units(long Over, long Under)
{
    public static readonly Units[] All = [new(48_000, 1), new(48_000, 1), new(24, 1), new(24_000, 1001), new(30_000, 1001), new(44_100, 1), new(1000, 1)];

    /// <summary>As it is written in a document: the decimals of 1000/1001 rates cut off as most programs do.</summary>
    public double Written => Under == 1 ? Over : Math.Round((double)Over / Under, 3);
}

/// <summary>A time: so many units.</summary>
internal readonly record struct Moment(long Over, long Under)
{
    public static Moment Of(long value, Units units) => new(value * units.Under, units.Over);

    public static Moment operator +(Moment a, Moment b) => Reduced((a.Over * (Int128)b.Under) + (b.Over * (Int128)a.Under), (Int128)a.Under * b.Under);

    public static Moment operator -(Moment a, Moment b) => a + new Moment(-b.Over, b.Under);

    /// <summary>The nearest whole sample; of two as near the later.</summary>
    public long Nearest => (long)Floor((Over * (Int128)PrintedDocument.Rate * 2) + Under, (Int128)Under * 2);

    private static Int128 Floor(Int128 a, Int128 b) => a >= 0 ? a / b : -((-a + b - 1) / b);

    private static Moment Reduced(Int128 over, Int128 under)
    {
        var (a, b) = (over < 0 ? -over : over, under);
        while (b != 0)
        {
            (a, b) = (b, a % b);
        }
        return a == 0 ? new Moment(0, 1) : new Moment((long)(over / a), (long)(under / a));
    }
}

/// <summary>What a track places, one thing behind the other.</summary>
internal sealed class PrintedTrackModel(JsonArray children)
{
    private Moment _at = new(0, 1);

    /// <summary>What sounds from where to where, as an input of sox that begins at its first sample; null for silence.</summary>
    public List<(long From, long To, string? Input)> Pieces { get; } = [];

    /// <summary>Stretches that crossfades lie over.</summary>
    public List<(long From, long To)> Crossfades { get; } = [];

    public long End => _at.Nearest;

    public void Gap(long length, Units units)
    {
        children.Add(PrintedDocument.Gap(length, units.Written));
        Advance(Moment.Of(length, units), null);
    }

    /// <summary>A clip, or silence that lasts as long where it is switched off.</summary>
    public void Clip(string file, string url, long fileLength, long start, long length, Units units, bool isOn = true)
    {
        var clip = PrintedDocument.Clip(Path.GetFileName(file), url, PrintedDocument.Range(start, length, units.Written), fileLength);
        clip["enabled"] = isOn;
        children.Add(clip);
        Advance(Moment.Of(length, units), isOn ? samples => Trim(file, Moment.Of(start, units).Nearest, samples) : null);
    }

    /// <summary>A stack of two layers that sound together, each a clip from its file's start on.</summary>
    public void Stack((string File, string Url) one, (string File, string Url) other, long fileLength, long start, long length)
    {
        var whole = PrintedDocument.Range(0, fileLength, PrintedDocument.Rate);
        children.Add(PrintedDocument.Item("Stack.1", "both", PrintedDocument.Range(start, length, PrintedDocument.Rate), ("children", new JsonArray(
            PrintedDocument.Clip("one", one.Url, whole, fileLength),
            PrintedDocument.Item("Track.1", "other", null, ("kind", "Audio"), ("children", new JsonArray(PrintedDocument.Clip("other", other.Url, whole.DeepClone(), fileLength))))))));
        Advance(Moment.Of(length, Units.All[0]), samples => $"|sox -m -t sox -v 1 '{Trim(one.File, start, samples)}' -t sox -v 1 '{Trim(other.File, start, samples)}' -p");
    }

    /// <summary>A track within the track, of which only a part is shown.</summary>
    public void Nested((string File, string Url) one, (string File, string Url) other, long fileLength, long start, long length)
    {
        var half = fileLength / 2;
        children.Add(PrintedDocument.Item("Track.1", "part", PrintedDocument.Range(start, length, PrintedDocument.Rate), ("kind", "Audio"), ("children", new JsonArray(
            PrintedDocument.Clip("one", one.Url, PrintedDocument.Range(0, half, PrintedDocument.Rate), fileLength),
            PrintedDocument.Clip("other", other.Url, PrintedDocument.Range(half, half, PrintedDocument.Rate), fileLength)))));
        var first = Math.Clamp(half - start, 0, length);
        Advance(Moment.Of(first, Units.All[0]), samples => Trim(one.File, start, samples));
        Advance(Moment.Of(length - first, Units.All[0]), samples => Trim(other.File, Math.Max(start, half), samples));
    }

    /// <summary>A crossfade between what stands before and what comes.</summary>
    public void Crossfade(long comesIn, long staysOut, Units units)
    {
        children.Add(PrintedDocument.Transition(comesIn, staysOut, units.Written));
        Crossfades.Add(((_at - Moment.Of(comesIn, units)).Nearest, (_at + Moment.Of(staysOut, units)).Nearest));
    }

    private void Advance(Moment length, Func<long, string>? input)
    {
        var (from, to) = (_at.Nearest, (_at + length).Nearest);
        if (to > from)
        {
            Pieces.Add((from, to, input?.Invoke(to - from)));
        }
        _at += length;
    }

    private static string Trim(string file, long start, long samples) => string.Create(CultureInfo.InvariantCulture, $"|sox {file} -p trim {start}s {samples}s");
}
