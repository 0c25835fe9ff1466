using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace NeatCrate.Core.Sessions;

/// <summary>The document cannot be read. The message is meant for the user; the document is left as it is.</summary>
public sealed class UnreadableDocumentException : IOException
{
    /// <summary>Makes the exception with its sentence.</summary>
    public UnreadableDocumentException(string message) : base(message)
    {
    }

    /// <summary>Makes the exception with its sentence and its cause.</summary>
    public UnreadableDocumentException(string message, Exception inner) : base(message, inner)
    {
    }

    /// <summary>Makes the exception without a sentence.</summary>
    public UnreadableDocumentException()
    {
    }
}

/// <summary>One place in a document that points at a media file.</summary>
/// <param name="TargetUrl">The pointer as it is written.</param>
/// <param name="Placed">True when a clip on a track uses it; false when it is only on the session's list.</param>
/// <param name="Track">Name of the track, where there is one.</param>
/// <param name="Clip">Name of the clip, where there is one.</param>
/// <param name="Source">The clip's source range; null means all of the file.</param>
/// <param name="AvailableStart">Where the file's first sample stands in the clip's own time.</param>
/// <param name="AvailableSeconds">Length of the file as the document knows it, in seconds.</param>
/// <param name="Take">Which take the file is, where the list says so.</param>
public sealed record MediaReference(
    string TargetUrl,
    bool Placed,
    string? Track,
    string? Clip,
    TimeRange? Source,
    ExactTime AvailableStart,
    double? AvailableSeconds,
    TakeLabel? Take = null);

/// <summary>Which take a recording is.</summary>
/// <param name="Track">Name of the track.</param>
/// <param name="Number">Number of the take on its track.</param>
/// <param name="Pass">Number of the pass of the song, which takes on other tracks share.</param>
public sealed record TakeLabel(string? Track, int? Number, int? Pass);

/// <summary>
/// A session document: OpenTimelineIO JSON. What is not understood is kept as it is: the JSON tree itself is the
/// document, numbers keep their digits, and only what is asked to change is changed.
/// </summary>
public sealed class SessionDocument
{
    /// <summary>File extension of a session document.</summary>
    public const string Extension = ".otio";

    /// <summary>The metadata key under which everything of our own stands.</summary>
    public const string MetadataKey = "neat_crate";

    private const int MaxDepth = 512;
    private const string SchemaKey = "OTIO_SCHEMA";

    private readonly JsonObject _root;
    private readonly int _indent;
    private readonly bool _finalNewline;

    private SessionDocument(JsonObject root, int indent, bool finalNewline)
    {
        (_root, _indent, _finalNewline) = (root, indent, finalNewline);
        Walk(root, new Place(null, null, null, null, false));
    }

    /// <summary>Every pointer at a media file, in document order.</summary>
    public IReadOnlyList<MediaReference> References => _references.ConvertAll(r => r.Reference);

    /// <summary>Names of the tracks in document order.</summary>
    public IReadOnlyList<string> Tracks => _tracks;

    /// <summary>Kinds of media reference that are kept but cannot be followed, with how often they stand in the document.</summary>
    public IReadOnlyDictionary<string, int> UnfollowedReferences => _unfollowed;

    /// <summary>The name of the timeline.</summary>
    public string Name => Text(_root["name"]) ?? "";

    /// <summary>The session's identity, where we gave it one.</summary>
    public Guid? SessionId => Guid.TryParse(Text(Own?["session_id"]), out var id) ? id : null;

    /// <summary>The settings that the document carries; null where it does not carry ours.</summary>
    public SessionSettings? Settings
    {
        get
        {
            if (Number(Own?["sample_rate"]) is not { } rate)
            {
                return null;
            }
            var standard = new SessionSettings();
            return new SessionSettings(
                (int)rate,
                (int)(Number(Own?["bit_depth"]) ?? standard.BitDepth),
                Number(Own?["tempo"]) ?? standard.Tempo,
                Text(Own?["time_signature"]) ?? standard.TimeSignature,
                Number(Own?["expected_minutes"]) ?? standard.ExpectedMinutes,
                Own?["copy_on_import"] is JsonValue copy && copy.TryGetValue(out bool isCopied) ? isCopied : standard.CopyOnImport,
                (int)(Number(Own?["backup_minutes"]) ?? standard.BackupMinutes),
                (int)(Number(Own?["backups_kept"]) ?? standard.BackupsKept),
                Guid.TryParse(Text(Own?["mirror_shelf"]), out var mirror) ? mirror : null);
        }
    }

    /// <summary>Where the session's timeline starts, from midnight: what a take's time reference is counted against.</summary>
    public ExactTime GlobalStart => Time(_root["global_start_time"]) ?? default;

    /// <summary>The folder layout that the document carries; null where it does not carry ours.</summary>
    public SessionLayout? Layout
    {
        get
        {
            if (Own?["folders"] is not JsonObject folders)
            {
                return null;
            }
            var standard = SessionLayout.Default;
            return new SessionLayout(
                Inside(folders["audio"]) ?? standard.Audio,
                Inside(folders["bounces"]) ?? standard.Bounces,
                Inside(folders["older_documents"]) ?? standard.OlderDocuments,
                Inside(folders["waveform_cache"]) ?? standard.WaveformCache,
                (folders["others"] as JsonArray)?.Select(Inside).OfType<string>().ToArray() ?? []);
        }
    }

    private JsonObject? Own => (_root["metadata"] as JsonObject)?[MetadataKey] as JsonObject;

    private readonly List<(JsonObject Node, MediaReference Reference)> _references = [];
    private readonly List<string> _tracks = [];
    private readonly Dictionary<string, int> _unfollowed = [];

    /// <summary>Reads a document.</summary>
    /// <param name="utf8">The file's bytes, UTF-8 with or without a byte order mark.</param>
    /// <exception cref="UnreadableDocumentException">The bytes are not OpenTimelineIO JSON.</exception>
    public static SessionDocument Parse(ReadOnlySpan<byte> utf8)
    {
        var text = utf8.StartsWith("\uFEFF"u8) ? utf8[3..] : utf8;
        JsonNode? node;
        try
        {
            node = JsonNode.Parse(text, documentOptions: new JsonDocumentOptions { MaxDepth = MaxDepth, AllowDuplicateProperties = false });
        }
        catch (JsonException e)
        {
            throw new UnreadableDocumentException($"The document is damaged at line {e.LineNumber + 1}: it is not valid JSON.", e);
        }
        if (node is not JsonObject root || Schema(root) is not { } schema)
        {
            throw new UnreadableDocumentException("The document is JSON, but not OpenTimelineIO: it names no schema.");
        }
        if (!schema.StartsWith("Timeline.", StringComparison.Ordinal) && !schema.StartsWith("SerializableCollection.", StringComparison.Ordinal))
        {
            throw new UnreadableDocumentException($"The document is OpenTimelineIO, but holds a {schema} instead of a timeline.");
        }
        try
        {
            return new SessionDocument(root, Indent(text), text.EndsWith("\n"u8));
        }
        catch (Exception e) when (e is FormatException or InvalidOperationException or ArgumentOutOfRangeException or DivideByZeroException)
        {
            throw new UnreadableDocumentException("The document holds a time or a name that makes no sense: " + e.Message, e);
        }
    }

    /// <summary>Reads a document from a file.</summary>
    /// <exception cref="UnreadableDocumentException">The file is not OpenTimelineIO JSON.</exception>
    /// <exception cref="IOException">The file cannot be read.</exception>
    public static SessionDocument ReadFile(string path) => Parse(File.ReadAllBytes(path));

    /// <summary>Makes an empty document for a new session.</summary>
    public static SessionDocument Create(Guid sessionId, string name, SessionSettings settings, SessionLayout layout, IEnumerable<string> tracks)
    {
        ArgumentNullException.ThrowIfNull(settings);
        ArgumentNullException.ThrowIfNull(layout);
        JsonArray Strings(IEnumerable<string> values) => new([.. values.Select(v => (JsonNode)v)]);
        var root = new JsonObject
        {
            [SchemaKey] = "Timeline.1",
            ["name"] = name,
            ["metadata"] = new JsonObject
            {
                [MetadataKey] = new JsonObject
                {
                    ["session_id"] = sessionId.ToString(),
                    ["folders"] = new JsonObject
                    {
                        ["audio"] = layout.Audio,
                        ["bounces"] = layout.Bounces,
                        ["older_documents"] = layout.OlderDocuments,
                        ["waveform_cache"] = layout.WaveformCache,
                        ["others"] = Strings(layout.Others ?? []),
                    },
                    ["listed"] = new JsonArray(),
                },
            },
            ["global_start_time"] = null,
            ["tracks"] = Composition("Stack.1", "tracks", null, [.. tracks.Select(t => Composition("Track.1", t, "Audio", []))]),
        };
        WriteSettings((JsonObject)root["metadata"]![MetadataKey]!, settings);
        return new SessionDocument(root, 4, true);
    }

    /// <summary>Changes the settings, and nothing else in the document. One that another program wrote gets our metadata.</summary>
    public void Change(SessionSettings settings)
    {
        ArgumentNullException.ThrowIfNull(settings);
        WriteSettings(OwnMetadata(_root), settings);
    }

    /// <summary>Where everything of our own stands in a document; made where another program wrote none.</summary>
    internal static JsonObject OwnMetadata(JsonObject root)
    {
        if (root["metadata"] is not JsonObject metadata)
        {
            root["metadata"] = metadata = [];
        }
        if (metadata[MetadataKey] is not JsonObject own)
        {
            metadata[MetadataKey] = own = new JsonObject { ["listed"] = new JsonArray() };
        }
        return own;
    }

    /// <summary>Adds an empty audio track at the end.</summary>
    /// <exception cref="InvalidOperationException">The document has no stack of tracks to add to.</exception>
    public void AddTrack(string name)
    {
        var children = (_root["tracks"] as JsonObject)?["children"] as JsonArray ?? throw new InvalidOperationException("The document has no stack of tracks.");
        children.Add((JsonNode)Composition("Track.1", name, "Audio", []));
        _tracks.Add(name);
    }

    /// <summary>True when the document has a stack of tracks that tracks can be added to.</summary>
    public bool TakesTracks => (_root["tracks"] as JsonObject)?["children"] is JsonArray;

    /// <summary>Gives the timeline another name, as a new version of the document has it.</summary>
    public void Rename(string name) => _root["name"] = name;

    private static void WriteSettings(JsonObject own, SessionSettings settings)
    {
        own["sample_rate"] = settings.SampleRate;
        own["bit_depth"] = settings.BitDepth;
        own["tempo"] = settings.Tempo;
        own["time_signature"] = settings.TimeSignature;
        own["expected_minutes"] = settings.ExpectedMinutes;
        own["copy_on_import"] = settings.CopyOnImport;
        own["backup_minutes"] = settings.BackupMinutes;
        own["backups_kept"] = settings.BackupsKept;
        if (settings.MirrorShelfId is { } mirror)
        {
            own["mirror_shelf"] = mirror.ToString();
        }
        else
        {
            own.Remove("mirror_shelf");
        }
    }

    /// <summary>
    /// Points references somewhere else. <paramref name="newUrl"/> gives the new <c>target_url</c> for an old one, or
    /// null to leave it. Nothing else in the document changes.
    /// </summary>
    /// <returns>How many references were changed.</returns>
    public int Repoint(Func<string, string?> newUrl)
    {
        ArgumentNullException.ThrowIfNull(newUrl);
        var changed = 0;
        for (var i = 0; i < _references.Count; i++)
        {
            var (node, reference) = _references[i];
            if (newUrl(reference.TargetUrl) is { } url && url != reference.TargetUrl)
            {
                node["target_url"] = url;
                _references[i] = (node, reference with { TargetUrl = url });
                changed++;
            }
        }
        return changed;
    }

    /// <summary>Writes the document as UTF-8 in the indentation it was read with.</summary>
    public byte[] ToUtf8()
    {
        using var stream = new MemoryStream();
        var options = new JsonWriterOptions
        {
            Indented = _indent > 0,
            IndentSize = _indent,
            MaxDepth = MaxDepth,
            NewLine = "\n",
            Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        };
        using (var writer = new Utf8JsonWriter(stream, options))
        {
            _root.WriteTo(writer);
        }
        if (_finalNewline)
        {
            stream.WriteByte((byte)'\n');
        }
        return stream.ToArray();
    }

    /// <summary>The JSON tree, for building documents. References added to it are seen after reading the document anew.</summary>
    public JsonObject Root => _root;

    internal static JsonObject Composition(string schema, string name, string? kind, JsonArray children)
    {
        var node = new JsonObject
        {
            [SchemaKey] = schema,
            ["name"] = name,
            ["metadata"] = new JsonObject(),
            ["source_range"] = null,
            ["effects"] = new JsonArray(),
            ["markers"] = new JsonArray(),
            ["enabled"] = true,
            ["children"] = children,
        };
        if (kind is not null)
        {
            node["kind"] = kind;
        }
        return node;
    }

    private sealed record Place(string? Track, string? Clip, TimeRange? Source, JsonObject? ClipNode, bool InMetadata);

    private void Walk(JsonNode node, Place place)
    {
        switch (node)
        {
            case JsonArray array:
                foreach (var item in array)
                {
                    if (item is not null)
                    {
                        Walk(item, place);
                    }
                }
                break;
            case JsonObject item:
                WalkObject(item, place);
                break;
        }
    }

    private void WalkObject(JsonObject item, Place place)
    {
        var schema = Schema(item);
        if (schema is not null)
        {
            if (!place.InMetadata && schema.StartsWith("Track.", StringComparison.Ordinal))
            {
                var name = Text(item["name"]) ?? "";
                _tracks.Add(name);
                place = place with { Track = name };
            }
            else if (schema.StartsWith("Clip.", StringComparison.Ordinal))
            {
                place = place with { Clip = Text(item["name"]), Source = UsedRange(item), ClipNode = item };
            }
            else if (IsReference(schema))
            {
                Note(item, schema, place);
            }
        }
        foreach (var (key, value) in item)
        {
            // Times hold no reference, and make up most of a document.
            if (value is not null && !key.EndsWith("_range", StringComparison.Ordinal) && !key.EndsWith("_time", StringComparison.Ordinal))
            {
                // What stands in metadata is known to the session, but no clip plays it.
                Walk(value, key == "metadata" ? place with { InMetadata = true } : place);
            }
        }
    }

    private static bool IsReference(string schema)
    {
        var name = schema.AsSpan(0, schema.IndexOf('.', StringComparison.Ordinal));
        return name.EndsWith("Reference", StringComparison.Ordinal) && !name.SequenceEqual("MissingReference");
    }

    private void Note(JsonObject item, string schema, Place place)
    {
        if (Text(item["target_url"]) is not { } url)
        {
            _unfollowed[schema] = _unfollowed.GetValueOrDefault(schema) + 1;
            return;
        }
        var available = Range(item["available_range"]);
        var placed = place.ClipNode is not null && !place.InMetadata;
        _references.Add((item, new MediaReference(
            url,
            placed,
            place.Track,
            place.Clip,
            placed ? place.Source : null,
            available?.Start ?? default,
            available?.Duration.Seconds.ToDouble(),
            Label((item["metadata"] as JsonObject)?[MetadataKey] as JsonObject))));
    }

    private static TakeLabel? Label(JsonObject? own) => own is null || !own.ContainsKey("take")
        ? null
        : new TakeLabel(Text(own["track"]), (int?)Number(own["take"]), (int?)Number(own["pass"]));

    /// <summary>A clip with an effect that bends time may reach past its source range: then all of the file counts as used.</summary>
    private static TimeRange? UsedRange(JsonObject clip)
    {
        var bendsTime = (clip["effects"] as JsonArray)?.OfType<JsonObject>().Any(e =>
            Schema(e) is { } schema && (schema.Contains("Time", StringComparison.Ordinal) || schema.Contains("Freeze", StringComparison.Ordinal))) ?? false;
        return bendsTime ? null : Range(clip["source_range"]);
    }

    internal static TimeRange? Range(JsonNode? node) =>
        node is JsonObject range && Time(range["start_time"]) is { } start && Time(range["duration"]) is { } duration
            ? new TimeRange(start, duration)
            : null;

    private static ExactTime? Time(JsonNode? node) =>
        node is JsonObject time && Number(time["value"]) is { } value && Number(time["rate"]) is { } rate && rate > 0
            ? ExactTime.From(value, rate)
            : null;

    private static string? Schema(JsonObject node) =>
        Text(node[SchemaKey]) is { } schema && schema.Contains('.', StringComparison.Ordinal) ? schema : null;

    private static string? Text(JsonNode? node) => node is JsonValue value && value.TryGetValue(out string? text) ? text : null;

    /// <summary>A folder below the session folder; null for a text that would lead out of it, whoever wrote that.</summary>
    private static string? Inside(JsonNode? node) =>
        Text(node) is { Length: > 0 } path && path[0] != '/' && !path.Contains('\0', StringComparison.Ordinal) && !path.Split('/').Any(p => p is ".." or "." or "") ? path : null;

    private static double? Number(JsonNode? node) => node is JsonValue value
        ? value.TryGetValue(out double number) ? number : value.TryGetValue(out int whole) ? whole : null
        : null;

    /// <summary>Spaces before the first member, so that a document keeps the look that its own program gave it.</summary>
    private static int Indent(ReadOnlySpan<byte> text)
    {
        var line = text.IndexOf((byte)'\n');
        if (line < 0 || text[..line].TrimEnd((byte)'\r').Length > 1)
        {
            return 0;
        }
        var spaces = 0;
        while (line + 1 + spaces < text.Length && text[line + 1 + spaces] == ' ' && spaces < 16)
        {
            spaces++;
        }
        return spaces == 0 ? 4 : spaces;
    }
}
