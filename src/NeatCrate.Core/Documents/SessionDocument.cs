using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>The document cannot be read; it is left as it is.</summary>
public sealed class UnreadableDocumentException : FaultException
{
    /// <summary>Makes the exception.</summary>
    public UnreadableDocumentException(Fault fault, Exception? inner = null) : base(fault, inner)
    {
    }

    /// <summary>Makes the exception without a reason.</summary>
    public UnreadableDocumentException()
    {
    }

    /// <summary>Makes the exception with what a library says.</summary>
    public UnreadableDocumentException(string message) : base(message)
    {
    }

    /// <summary>Makes the exception with what a library says.</summary>
    public UnreadableDocumentException(string message, Exception inner) : base(message, inner)
    {
    }
}

/// <summary>One place in a document that points at a media file.</summary>
/// <param name="TargetUrl">The pointer as it is written.</param>
/// <param name="Placed">True when a clip on a track uses it; false when it is only on the session's list.</param>
/// <param name="Track">Name of the track, where there is one.</param>
/// <param name="Clip">Name of the clip, where there is one.</param>
/// <param name="Source">The clip's source range; null means all of the file.</param>
/// <param name="AvailableStart">Where the file's first sample stands in the clip's own time; null where the document does not say.</param>
/// <param name="AvailableSeconds">Length of the file as the document knows it, in seconds.</param>
/// <param name="Take">Which take the file is, where the list says so.</param>
/// <param name="ClipNumber">Which clip of the document uses it, counted from 0 in document order: one clip may hold several references. Null when it is only on the list.</param>
/// <param name="AvailableRate">Units in a second in which the document states that length: often, and not always, the file's sample rate.</param>
/// <param name="IsOnList">True where it stands on the session's list, which is ours to change; false for a clip's, and for one in another program's own data.</param>
/// <param name="RenderOf">Name of the track of which the file is a render, where the list says so.</param>
/// <param name="SourceRate">Units in a second in which the clip's source range states its start; null where it has none.</param>
/// <param name="SharesClip">True where its clip holds other references, too: they share the clip's source range.</param>
public sealed record MediaReference(
    string TargetUrl,
    bool Placed,
    string? Track,
    string? Clip,
    TimeRange? Source,
    ExactTime? AvailableStart,
    double? AvailableSeconds,
    TakeLabel? Take = null,
    int? ClipNumber = null,
    double? AvailableRate = null,
    bool IsOnList = false,
    string? RenderOf = null,
    double? SourceRate = null,
    bool SharesClip = false)
{
    /// <summary>How much is known of the use; null for what is only on the session's list, which is no use.</summary>
    public UseKnowledge? Knowledge => Placed ? UseKnowledge.PlacedWithRanges : IsOnList ? null : IsOpen ? UseKnowledge.MayBeNamed : UseKnowledge.Named;

    /// <summary>True where it cannot be told whether this file is meant, or whether it still counts.</summary>
    public bool IsOpen { get; init; }
}

/// <summary>Which take a recording is.</summary>
/// <param name="Track">Name of the track.</param>
/// <param name="Number">Number of the take on its track.</param>
/// <param name="Pass">Number of the pass of the song, which takes on other tracks share.</param>
/// <param name="IsKeeper">Whether somebody marked it as the one to keep.</param>
/// <param name="Note">What somebody wrote about it; null where nobody did.</param>
public sealed record TakeLabel(string? Track, int? Number, int? Pass, bool IsKeeper = false, string? Note = null);

/// <summary>
/// A session document: OpenTimelineIO JSON. What is not understood is kept as it is: the text itself is the document, and
/// only what is asked to change is changed, every other byte stays.
/// </summary>
public sealed class SessionDocument : ISessionNotes
{
    /// <summary>The metadata key under which everything of our own stands.</summary>
    public const string MetadataKey = "neat_crate";

    // Beyond this no time in a document means anything, in seconds: three hundred years.
    private const double MostSeconds = 1e10;

    private const string SchemaKey = "OTIO_SCHEMA";

    // Names as they are written today and as older versions of the library wrote them.
    private static readonly string[] RootSchemas = ["Timeline", "SerializableCollection", "SerializeableCollection", "Stack", "Track", "Sequence", "Clip"];

    private readonly JsonText _text;
    private readonly List<(JsonItem Item, MediaReference Reference, JsonItem? Clip)> _references = [];
    private readonly HashSet<JsonItem> _listed;
    private readonly List<string> _tracks = [];
    private readonly Dictionary<string, int> _unfollowed = [];
    private readonly List<KnownItem>? _items;
    private int _clips;

    private SessionDocument(JsonText text, bool notesItems)
    {
        (_text, _items) = (text, notesItems ? [] : null);
        _listed = [.. Own?["listed"]?.Items ?? []];
        Walk(text.Root, new Place(null, null, null, null, 0, false, default, default));
    }

    /// <summary>Every pointer at a media file, in document order.</summary>
    public IReadOnlyList<MediaReference> References => _references.ConvertAll(r => r.Reference);

    /// <summary>Names of the tracks in document order.</summary>
    public IReadOnlyList<string> Tracks => _tracks;

    /// <summary>Kinds of media reference that are kept but cannot be followed, with how often they stand in the document.</summary>
    public IReadOnlyDictionary<string, int> UnfollowedReferences => _unfollowed;

    /// <summary>The name of the timeline.</summary>
    public string Name => Root["name"]?.AsText ?? "";

    /// <summary>The session's identity, where we gave it one.</summary>
    public Guid? SessionId => Guid.TryParse(Own?["session_id"]?.AsText, out var id) ? id : null;

    /// <summary>The settings that the document carries; null where it does not carry ours. A value that makes no sense counts as none.</summary>
    public SessionSettings? Settings
    {
        get
        {
            if (Within("sample_rate", 1, 10_000_000) is not { } rate)
            {
                return null;
            }
            var standard = new SessionSettings();
            return new SessionSettings(
                (int)rate,
                (int)(Within("bit_depth", 1, 64) ?? standard.BitDepth),
                Within("tempo", 1, 1000) ?? standard.Tempo,
                Own?["time_signature"]?.AsText is { Length: > 0 and <= 20 } signature ? signature : standard.TimeSignature,
                Within("expected_minutes", 0, 100_000) ?? standard.ExpectedMinutes,
                Own?["copy_on_import"]?.Boolean ?? standard.CopyOnImport,
                (int)(Within("backup_minutes", 0, 100_000) ?? standard.BackupMinutes),
                (int)(Within("backups_kept", 0, 1_000_000) ?? standard.BackupsKept),
                Guid.TryParse(Own?["mirror_shelf"]?.AsText, out var mirror) ? mirror : null);
        }
    }

    /// <summary>Where the session's timeline starts, from midnight: what a take's time reference is counted against.</summary>
    public ExactTime GlobalStart => Time(Root["global_start_time"]) ?? default;

    /// <summary>The folder layout that the document carries, its waveform caches in a folder of their own; null where it does not carry ours.</summary>
    public SessionLayout? Layout => WrittenLayout?.WithCacheOfItsOwn();

    /// <summary>The folder layout as it is written.</summary>
    private SessionLayout? WrittenLayout
    {
        get
        {
            if (Own?["folders"] is not { Kind: JsonKind.Map } folders)
            {
                return null;
            }
            var standard = SessionLayout.Default;
            return new SessionLayout(
                Inside(folders["audio"]) ?? standard.Audio,
                Inside(folders["bounces"]) ?? standard.Bounces,
                Inside(folders["older_documents"]) ?? standard.OlderDocuments,
                Inside(folders["waveform_cache"]) ?? standard.WaveformCache,
                folders["others"]?.Items.Select(Inside).OfType<string>().ToArray() ?? []);
        }
    }

    /// <summary>What it says, to be kept without its text.</summary>
    public DocumentFacts Facts => new()
    {
        References = References,
        Tracks = [.. Tracks],
        Clips = [.. TrackClips.In(this)],
        UnfollowedReferences = UnfollowedReferences,
        MayPointElsewhere = MayPointElsewhere,
        Name = Name,
        SessionId = SessionId,
        Settings = Settings,
        GlobalStart = GlobalStart,
        Layout = Layout,
        CacheInUse = WrittenLayout is { CacheIsInUse: true } written ? written.WaveformCache : null,
        TakesTracks = TakesTracks,
    };

    /// <summary>The tree of the document, for building it. References that are added are seen after reading the document anew.</summary>
    public JsonItem Root => _text.Root;

    private JsonItem? Own => Root["metadata"]?[MetadataKey];

    /// <summary>Reads a document.</summary>
    /// <param name="utf8">The file's bytes, UTF-8 with or without a byte order mark.</param>
    /// <exception cref="UnreadableDocumentException">The bytes are not OpenTimelineIO JSON.</exception>
    public static SessionDocument Parse(byte[] utf8) => Parse(utf8, null, false);

    /// <summary>What a document says, where an earlier state of it was read before: what stands there as it stood is not read again.</summary>
    /// <param name="utf8">The file's bytes.</param>
    /// <param name="before">The items on its tracks as they were read last; null where they were not.</param>
    /// <exception cref="UnreadableDocumentException">The bytes are not OpenTimelineIO JSON.</exception>
    internal static DocumentReading ReadAgain(byte[] utf8, IReadOnlyList<KnownItem>? before)
    {
        var document = Parse(utf8, before is null ? null : new KnownItems(before), true);
        return new DocumentReading(document.Facts) { Items = document._items };
    }

    private static SessionDocument Parse(byte[] utf8, KnownItems? known, bool notesItems)
    {
        JsonText text;
        try
        {
            text = JsonText.Parse(utf8, known);
        }
        catch (JsonTextException e)
        {
            throw new UnreadableDocumentException(new Fault(e.IsText ? FaultCode.DocumentNotJson : FaultCode.DocumentNotText) { Count = e.Line }, e);
        }
        if (Schema(text.Root) is not { } schema)
        {
            throw new UnreadableDocumentException(new Fault(FaultCode.DocumentWithoutSchema));
        }
        return RootSchemas.Contains(NameOf(schema), StringComparer.Ordinal)
            ? new SessionDocument(text, notesItems)
            : throw new UnreadableDocumentException(new Fault(FaultCode.DocumentNoTimeline) { Name = schema });
    }

    /// <summary>Reads a document from a file.</summary>
    /// <exception cref="UnreadableDocumentException">The file is not OpenTimelineIO JSON.</exception>
    /// <exception cref="FaultException">The file cannot be read.</exception>
    public static SessionDocument ReadFile(string path) => Parse(ReadableFile.ReadAll(path, DocumentFormats.MostBytes));

    /// <summary>Makes an empty document for a new session.</summary>
    public static SessionDocument Create(Guid sessionId, string name, SessionSettings settings, SessionLayout layout, IEnumerable<string> tracks)
    {
        ArgumentNullException.ThrowIfNull(settings);
        ArgumentNullException.ThrowIfNull(layout);
        var own = JsonItem.Map(
            ("session_id", JsonItem.Of(sessionId.ToString())),
            ("folders", JsonItem.Map(
                ("audio", JsonItem.Of(layout.Audio)),
                ("bounces", JsonItem.Of(layout.Bounces)),
                ("older_documents", JsonItem.Of(layout.OlderDocuments)),
                ("waveform_cache", JsonItem.Of(layout.WaveformCache)),
                ("others", JsonItem.List((layout.Others ?? []).Select(JsonItem.Of))))),
            ("listed", JsonItem.List()));
        WriteSettings(own, settings);
        return new SessionDocument(JsonText.Of(JsonItem.Map(
            (SchemaKey, JsonItem.Of("Timeline.1")),
            ("name", JsonItem.Of(name)),
            ("metadata", JsonItem.Map((MetadataKey, own))),
            ("global_start_time", JsonItem.Null()),
            ("tracks", Composition("Stack.1", "tracks", null, tracks.Select(t => Composition("Track.1", t, "Audio", [])))))), false);
    }

    /// <summary>Changes the settings, and nothing else in the document. One that another program wrote gets our metadata.</summary>
    public void Change(SessionSettings settings)
    {
        ArgumentNullException.ThrowIfNull(settings);
        WriteSettings(OwnMetadata(Root), settings);
    }

    /// <summary>Where everything of our own stands in a document; made where another program wrote none.</summary>
    internal static JsonItem OwnMetadata(JsonItem root)
    {
        if (root["metadata"] is not { Kind: JsonKind.Map })
        {
            root.Set("metadata", JsonItem.Map());
        }
        var metadata = root["metadata"]!;
        if (metadata[MetadataKey] is not { Kind: JsonKind.Map })
        {
            metadata.Set(MetadataKey, JsonItem.Map(("listed", JsonItem.List())));
        }
        return metadata[MetadataKey]!;
    }

    /// <inheritdoc/>
    public IEnumerable<JsonItem> TopTracks => Root["tracks"]?["children"]?.Items.Where(i => i.Kind == JsonKind.Map) ?? [];

    /// <summary>Adds an empty audio track at the end.</summary>
    /// <exception cref="InvalidOperationException">The document has no stack of tracks to add to.</exception>
    public void AddTrack(string name)
    {
        if (!TakesTracks)
        {
            throw new InvalidOperationException("The document has no stack of tracks.");
        }
        Root["tracks"]!["children"]!.Add(Composition("Track.1", name, "Audio", []));
        _tracks.Add(name);
    }

    /// <summary>Adds a track of another document at the end, with all that it holds, under a name of its own.</summary>
    /// <exception cref="InvalidOperationException">The document has no stack of tracks to add to.</exception>
    public void AddTrackAsItIs(JsonItem track, string name)
    {
        if (!TakesTracks)
        {
            throw new InvalidOperationException("The document has no stack of tracks.");
        }
        var copy = JsonText.Parse(System.Text.Encoding.UTF8.GetBytes(track.ToText())).Root;
        copy.Set("name", JsonItem.Of(name));
        Root["tracks"]!["children"]!.Add(copy);
        _tracks.Add(name);
    }

    /// <summary>True when the document has a stack of tracks that tracks can be added to.</summary>
    public bool TakesTracks => Root["tracks"]?["children"]?.Kind == JsonKind.List;

    /// <summary>Gives the timeline another name, as a new version of the document has it.</summary>
    public void Rename(string name) => Root.Set("name", JsonItem.Of(name));

    private static void WriteSettings(JsonItem own, SessionSettings settings)
    {
        void Write(string name, JsonItem value, bool isSame)
        {
            // What says the same already keeps its own digits.
            if (!isSame)
            {
                own.Set(name, value);
            }
        }
        void WriteNumber(string name, double value, JsonItem item) => Write(name, item, own[name]?.Number == value);
        WriteNumber("sample_rate", settings.SampleRate, JsonItem.Of(settings.SampleRate));
        WriteNumber("bit_depth", settings.BitDepth, JsonItem.Of(settings.BitDepth));
        WriteNumber("tempo", settings.Tempo, JsonItem.Of(settings.Tempo));
        Write("time_signature", JsonItem.Of(settings.TimeSignature), own["time_signature"]?.AsText == settings.TimeSignature);
        WriteNumber("expected_minutes", settings.ExpectedMinutes, JsonItem.Of(settings.ExpectedMinutes));
        Write("copy_on_import", JsonItem.Of(settings.CopyOnImport), own["copy_on_import"]?.Boolean == settings.CopyOnImport);
        WriteNumber("backup_minutes", settings.BackupMinutes, JsonItem.Of(settings.BackupMinutes));
        WriteNumber("backups_kept", settings.BackupsKept, JsonItem.Of(settings.BackupsKept));
        if (settings.MirrorShelfId is { } mirror)
        {
            Write("mirror_shelf", JsonItem.Of(mirror.ToString()), own["mirror_shelf"]?.AsText == mirror.ToString());
        }
        else
        {
            own.Remove("mirror_shelf");
        }
    }

    /// <inheritdoc/>
    public int Repoint(Func<MediaReference, NewReference?> change)
    {
        ArgumentNullException.ThrowIfNull(change);
        var changed = 0;
        for (var i = 0; i < _references.Count; i++)
        {
            var (item, reference, clip) = _references[i];
            if (change(reference) is not { } said)
            {
                continue;
            }
            var (url, range) = (said.Url != reference.TargetUrl, said.Range is not null && WriteAvailable(item, said.Range));
            if (url)
            {
                item.Set("target_url", JsonItem.Of(said.Url));
            }
            if (said.Cut is not null && reference.SharesClip)
            {
                throw new InvalidOperationException("A clip of several references has one source range, which cannot move for one of them.");
            }
            var cut = said.Cut is { } front && reference.Placed && clip is not null && MoveSource(clip, front);
            if (url || range || cut)
            {
                var available = Range(item["available_range"]);
                _references[i] = (item, reference with
                {
                    TargetUrl = said.Url,
                    AvailableStart = available?.Start,
                    AvailableSeconds = available?.Duration.Seconds.ToDouble(),
                    AvailableRate = RateOf(item),
                    Source = cut && reference.Source is { } source ? source with { Start = new ExactTime(source.Start.Seconds - said.Cut!.Seconds) } : reference.Source,
                }, clip);
                changed++;
            }
        }
        return changed;
    }

    /// <summary>Lets a clip's source range, and the markers on it, begin sooner, each in its own units.</summary>
    /// <returns>False where it has none.</returns>
    private static bool MoveSource(JsonItem clip, FrontCut cut)
    {
        if (Range(clip["source_range"]) is null)
        {
            return false;
        }
        foreach (var range in (clip["markers"]?.Items ?? []).Select(m => m["marked_range"]).Prepend(clip["source_range"]).OfType<JsonItem>())
        {
            if (range["start_time"] is { } start && Time(start) is not null)
            {
                var value = Rational.FromDouble(start["value"]!.Number!.Value) - (cut.Seconds * Rational.RateFromDouble(start["rate"]!.Number!.Value));
                start.Set("value", JsonItem.Of(value.ToDouble()));
            }
        }
        return true;
    }

    /// <summary>Writes what is available, in the reference's own digits where they say the same.</summary>
    /// <returns>True when something was written.</returns>
    private static bool WriteAvailable(JsonItem reference, AvailableRange range)
    {
        var length = ExactTime.From(range.Length, range.Rate);
        if (Range(reference["available_range"]) is not { } now)
        {
            if (range.Start is { } at)
            {
                reference.Set("available_range", ClipBuilder.Range(at, range.Length, range.Rate));
            }
            return range.Start is not null;
        }
        var start = range.Start is { } first ? ExactTime.From(first, range.Rate) : now.Start;
        if (start == now.Start && length == now.Duration)
        {
            return false;
        }
        if (start != now.Start)
        {
            WriteTime(reference["available_range"]!["start_time"]!, range.Start!.Value, range.Rate);
        }
        if (length != now.Duration)
        {
            WriteTime(reference["available_range"]!["duration"]!, range.Length, range.Rate);
        }
        return true;
    }

    private static void WriteTime(JsonItem time, long value, int rate)
    {
        if (time["rate"]!.Number != rate)
        {
            time.Set("rate", JsonItem.Of((double)rate));
        }
        time.Set("value", JsonItem.Of((double)value));
    }

    /// <summary>The document as UTF-8: as it was read, but for what was changed.</summary>
    public byte[] ToUtf8() => _text.ToUtf8();

    /// <inheritdoc/>
    byte[] IRepointable.ToBytes() => ToUtf8();

    /// <inheritdoc/>
    public void PlaceClip(string track, ClipToPlace clip, ExactTime at) => ClipPlacer.Place(this, track, clip, at);

    /// <inheritdoc/>
    public double FreeFrom(string track, double seconds) => ClipPlacer.FreeFrom(this, track, seconds);

    /// <inheritdoc/>
    public int TakeClipsOff(Func<string, bool> isOf) => TrackClips.TakeOff(this, isOf);

    /// <inheritdoc/>
    public void List(string targetUrl, long? fileLength, int rate, TakeLabel? take) => ClipBuilder.List(Root, targetUrl, fileLength, rate, take);

    /// <inheritdoc/>
    public void Label(int at, TakeLabel take) => ClipBuilder.Label(Own!["listed"]!.Items[at], take);

    /// <inheritdoc/>
    public IReadOnlyList<string> ListedUrls => SessionList.Urls(this);

    /// <inheritdoc/>
    public IReadOnlyList<UnlistedEntry> Unlist(Func<string, bool> isOf) => SessionList.Remove(this, isOf);

    /// <inheritdoc/>
    public void List(string reference, int? at) => SessionList.Add(this, reference, at);

    /// <summary>True where references of a kind stand in it that cannot be followed, and may be of sound.</summary>
    public bool MayPointElsewhere => _unfollowed.Keys.Any(k => NameOf(k) is not ("GeneratorReference" or "ImageSequenceReference"));

    internal static JsonItem Composition(string schema, string name, string? kind, IEnumerable<JsonItem> children)
    {
        var item = JsonItem.Map(
            (SchemaKey, JsonItem.Of(schema)),
            ("name", JsonItem.Of(name)),
            ("metadata", JsonItem.Map()),
            ("source_range", JsonItem.Null()),
            ("effects", JsonItem.List()),
            ("markers", JsonItem.List()),
            ("enabled", JsonItem.Of(true)),
            ("children", JsonItem.List(children)));
        if (kind is not null)
        {
            item.Set("kind", JsonItem.Of(kind));
        }
        return item;
    }

    /// <summary>Where in the document something stands.</summary>
    /// <param name="Before">So much sooner a transition lets the item begin.</param>
    /// <param name="After">So much longer a transition lets it play.</param>
    private sealed record Place(string? Track, string? Clip, TimeRange? Source, JsonItem? ClipItem, int ClipNumber, bool InMetadata, ExactTime Before, ExactTime After)
    {
        /// <summary>True where an item says the same as at any other such place, but for its track and its number.</summary>
        public bool IsPlain => !InMetadata && Clip is null && ClipItem is null && Source is null && Before == default && After == default;
    }

    private void Walk(JsonItem item, Place place)
    {
        if (item.Kind == JsonKind.List)
        {
            for (var n = 0; n < item.Items.Count; n++)
            {
                var (child, at) = (item.Items[n], place with { Before = Offset(item, n - 1, "in_offset"), After = Offset(item, n + 1, "out_offset") });
                if (_items is null || child.Kind != JsonKind.Map || !at.IsPlain)
                {
                    Walk(child, at);
                }
                else if (child.Known is KnownItem known)
                {
                    TakeOver(known, child, at);
                }
                else
                {
                    WalkAndNote(child, at);
                }
            }
        }
        else if (item.Kind == JsonKind.Map)
        {
            WalkObject(item, place);
        }
    }

    /// <summary>Takes over what is known of an item, at the place where it stands now.</summary>
    private void TakeOver(KnownItem known, JsonItem item, Place place)
    {
        foreach (var reference in known.References)
        {
            var number = reference.ClipNumber is null ? (int?)null : _clips;
            // A document that is only read again is not re-pointed, so that the item of the reference itself is not needed.
            _references.Add((item, number == reference.ClipNumber && place.Track == reference.Track ? reference : reference with { ClipNumber = number, Track = place.Track }, item));
        }
        _clips += known.IsClip ? 1 : 0;
        _items!.Add(known);
    }

    /// <summary>Reads an item, and notes what it says where that is the same at every place.</summary>
    private void WalkAndNote(JsonItem item, Place place)
    {
        var (references, clips, tracks, unfollowed) = (_references.Count, _clips, _tracks.Count, _unfollowed.Values.Sum());
        WalkObject(item, place);
        if (Schema(item) is { } schema && NameOf(schema) is "Clip" or "Gap" or "Filler" && tracks == _tracks.Count && unfollowed == _unfollowed.Values.Sum() && _clips - clips == (NameOf(schema) == "Clip" ? 1 : 0))
        {
            var raw = _text.Raw(item);
            var own = _references.Skip(references).Select(r => r.Reference).ToArray();
            _items!.Add(new KnownItem(raw.Length, KnownItems.HashOf(raw), schema, TrackClips.PlaysUrl(item), ClipPlacer.LengthOf(item), own));
        }
    }

    private void WalkObject(JsonItem item, Place place)
    {
        var full = Schema(item);
        var schema = full is null ? null : NameOf(full);
        if (schema is "TimeRange" or "RationalTime" or "TimeTransform")
        {
            // Times hold no reference, and make up most of a document.
            return;
        }
        if (schema is not null)
        {
            if (!place.InMetadata && schema is "Track" or "Sequence")
            {
                var name = item["name"]?.AsText ?? "";
                _tracks.Add(name);
                place = place with { Track = name };
            }
            if (schema == "Clip")
            {
                place = place with { Clip = item["name"]?.AsText, Source = UsedRange(item, place), ClipItem = item, ClipNumber = _clips++ };
            }
            else if (IsReference(schema))
            {
                Note(item, full!, place);
            }
        }
        foreach (var member in item.Members)
        {
            // What stands in metadata is known to the session, but no clip plays it.
            Walk(member.Value, (member.Name == "metadata" ? place with { InMetadata = true } : place) with { Before = default, After = default });
        }
    }

    /// <summary>By how much a transition beside an item lets it play on: it begins so long before the cut, and ends so long after it (OpenTimelineIO, "Transition").</summary>
    private static ExactTime Offset(JsonItem siblings, int index, string name) =>
        index >= 0 && index < siblings.Items.Count && SchemaOf(siblings.Items[index]) is { } schema && NameOf(schema) == "Transition" ? Time(siblings.Items[index][name]) ?? default : default;

    /// <summary>What an item is, without reading it where that is known.</summary>
    private static string? SchemaOf(JsonItem item) => item.Known is KnownItem known ? known.Schema : Schema(item);

    private static bool IsReference(string name) => name.EndsWith("Reference", StringComparison.Ordinal) && name != "MissingReference";

    private void Note(JsonItem item, string schema, Place place)
    {
        if (item["target_url"]?.AsText is not { } url)
        {
            _unfollowed[schema] = _unfollowed.GetValueOrDefault(schema) + 1;
            return;
        }
        var available = Range(item["available_range"]);
        var placed = place.ClipItem is not null && !place.InMetadata;
        _references.Add((item, new MediaReference(
            url,
            placed,
            place.Track,
            place.Clip,
            placed ? place.Source : null,
            available?.Start,
            available?.Duration.Seconds.ToDouble(),
            Label(item["metadata"]?[MetadataKey]),
            placed ? place.ClipNumber : null,
            RateOf(item),
            _listed.Contains(item),
            item["metadata"]?[MetadataKey]?["render_of"]?.AsText,
            placed ? place.ClipItem!["source_range"]?["start_time"]?["rate"]?.Number : null,
            placed && ReferencesOf(place.ClipItem!) > 1), place.InMetadata ? null : place.ClipItem));
    }

    /// <summary>How many references a clip holds, followed or not; what only says that a file is missing is none.</summary>
    private static int ReferencesOf(JsonItem clip) => clip["media_references"]?.Members.Count(m => Schema(m.Value) is { } schema && IsReference(NameOf(schema))) ?? 1;

    /// <summary>Units in a second in which a reference states the length of its file.</summary>
    private static double? RateOf(JsonItem reference) => reference["available_range"]?["duration"]?["rate"]?.Number;

    private static TakeLabel? Label(JsonItem? own) => own?["take"] is null && own?["keeper"] is null && own?["note"] is null
        ? null
        : new TakeLabel(own["track"]?.AsText, Whole(own["take"]), Whole(own["pass"]), own["keeper"]?.Boolean == true, own["note"]?.AsText);

    private static int? Whole(JsonItem? item) => item?.Number is { } number && number == Math.Floor(number) && Math.Abs(number) <= int.MaxValue ? (int)number : null;

    /// <summary>
    /// The part of its file that a clip plays; null for all of it. A clip with an effect that bends time may reach past its
    /// source range. A transition lets the clip before it play longer, and the one after it begin sooner. One beside a nested
    /// stack or track, or an effect on that, plays more or less of what the clips in it hold, and never more than these.
    /// </summary>
    private static TimeRange? UsedRange(JsonItem clip, Place place)
    {
        if (BendsTime(clip) || Range(clip["source_range"]) is not { } range)
        {
            return null;
        }
        return new TimeRange(
            new ExactTime(range.Start.Seconds - place.Before.Seconds),
            new ExactTime(range.Duration.Seconds + place.Before.Seconds + place.After.Seconds));
    }

    private static bool BendsTime(JsonItem item) => item["effects"]?.Items.Any(e => BendsTime(Schema(e))) ?? false;

    /// <summary>True for the schema of an effect that plays faster, slower, backwards or not on (OpenTimelineIO, "TimeEffect", "LinearTimeWarp", "FreezeFrame").</summary>
    internal static bool BendsTime(string? schema) =>
        schema is not null && (schema.Contains("Time", StringComparison.Ordinal) || schema.Contains("Freeze", StringComparison.Ordinal));

    internal static TimeRange? Range(JsonItem? item) =>
        Time(item?["start_time"]) is { } start && Time(item?["duration"]) is { } duration ? new TimeRange(start, duration) : null;

    /// <summary>A time; null for one that makes no sense.</summary>
    internal static ExactTime? Time(JsonItem? item) =>
        item?["value"]?.Number is { } value && item["rate"]?.Number is { } rate && rate > 0 && double.IsFinite(value) && double.IsFinite(rate) && Math.Abs(value / rate) <= MostSeconds
            ? ExactTime.From(value, rate)
            : null;

    private static string? Schema(JsonItem item) => item[SchemaKey]?.AsText is { } schema && schema.Contains('.', StringComparison.Ordinal) ? schema : null;

    private static string NameOf(string schema) => schema[..schema.IndexOf('.', StringComparison.Ordinal)];

    /// <summary>A folder below the session folder; null for a text that would lead out of it, whoever wrote that.</summary>
    private static string? Inside(JsonItem? item) => item?.AsText is { } path && SessionLayout.IsBelow(path) ? path : null;

    private double? Within(string name, double least, double most) => Own?[name]?.Number is { } number && number >= least && number <= most ? number : null;
}
