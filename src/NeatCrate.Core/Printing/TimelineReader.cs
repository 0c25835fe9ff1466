using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Printing;

/// <summary>A stretch of the timeline over which a clip comes up or goes down, in exact seconds.</summary>
internal readonly record struct LaidFade(Rational Start, Rational End, bool Rises);

/// <summary>What a clip plays, and where, in exact seconds.</summary>
/// <param name="At">Where it begins to sound, from the start of the timeline, a crossfade included.</param>
/// <param name="Length">How long it sounds.</param>
/// <param name="SourceAt">Where that begins, in the time in which the clip counts its media.</param>
/// <param name="Available">Where the file's first sample stands in that time; null where the document does not say.</param>
/// <param name="Url">The pointer that it plays, as it is written; null for one that has none.</param>
/// <param name="Name">Name of the clip.</param>
/// <param name="Fades">Where it comes up or goes down.</param>
internal sealed record LaidClip(Rational At, Rational Length, Rational SourceAt, Rational? Available, string? Url, string Name, ImmutableArray<LaidFade> Fades)
{
    /// <summary>How deep it stands in stacks within its track: clips of different layers sound together, and not one after the other.</summary>
    public required int Layer { get; init; }

    /// <summary>Where its source range begins, as the document says it; what beside it sounds through a crossfade left out.</summary>
    public required TimeRange? Source { get; init; }
}

/// <summary>A marker on the timeline.</summary>
/// <param name="At">Where, in seconds from its start.</param>
/// <param name="Name">What it is called.</param>
internal sealed record LaidMarker(Rational At, string Name);

/// <summary>A track of a document, laid out on the timeline.</summary>
internal sealed record LaidTrack(string Name, bool Enabled, bool IsSound, Rational? End, ImmutableArray<LaidClip> Clips, ImmutableArray<PrintNote> Notes);

/// <summary>
/// Lays the tracks of a document out on the timeline (OpenTimelineIO, "Timeline Structure", "Time Ranges", "Transition"): the items of a track stand one
/// behind the other, those of a stack all at its start; a source range cuts out a part; a transition lies over both of its neighbours, of which the one
/// before plays on for <c>out_offset</c> and the one after begins <c>in_offset</c> sooner. Everything is reckoned in exact fractions.
/// </summary>
internal sealed class TimelineReader
{
    private readonly Func<string, Rational?> _lengthOf;
    private readonly List<LaidMarker> _markers = [];
    private List<LaidClip> _clips = [];
    private List<PrintNote> _notes = [];
    private int _layers;

    /// <param name="lengthOf">Seconds that the file of a pointer lasts; null where nobody knows.</param>
    public TimelineReader(Func<string, Rational?> lengthOf) => _lengthOf = lengthOf;

    /// <summary>Part of the time of an item that sounds, and how that time lies on the timeline.</summary>
    /// <param name="From">First moment, in the item's own time.</param>
    /// <param name="To">Last moment.</param>
    /// <param name="Shift">What is added to get to the timeline.</param>
    private readonly record struct Window(Rational From, Rational To, Rational Shift)
    {
        public Window Within(Rational from, Rational to) => new(from > From ? from : From, to < To ? to : To, Shift);

        public bool IsEmpty => To <= From;
    }

    /// <summary>Reads all tracks of the top stack, and the markers.</summary>
    public (ImmutableArray<LaidTrack> Tracks, ImmutableArray<LaidMarker> Markers) Read(SessionDocument document)
    {
        var stack = document.Root["tracks"];
        var own = SessionDocument.Range(stack?["source_range"]);
        var start = own?.Start.Seconds ?? Rational.Zero;
        NoteMarkers(stack, -start);
        var stackNotes = new List<PrintNote>();
        NoteEffects(stack, document.Name, stackNotes);
        List<LaidTrack> tracks = [];
        foreach (var track in document.TopTracks)
        {
            (_clips, _notes, _layers) = ([], [.. stackNotes], 0);
            var length = LengthOf(track);
            var end = own is { } range ? range.Duration.Seconds : length;
            // What stands in the top stack begins where that does, and lasts as long as it does itself.
            var whole = new Window(start, own is { } cut ? start + cut.Duration.Seconds : length ?? Rational.Zero, -start);
            var window = whole.Within(Rational.Zero, length ?? Rational.Zero);
            if (track["children"] is null)
            {
                Lay(track, Rational.Zero, window, [], 0);
            }
            else
            {
                // Where the length is not known, what it is for is named on the way.
                LayNested(track, window, [], 0);
            }
            if (length is null && _notes.TrueForAll(n => n.Kind != PrintNoteKind.LengthUnknown))
            {
                _notes.Add(new PrintNote(PrintNoteKind.LengthUnknown));
            }
            var kind = track["kind"]?.AsText;
            tracks.Add(new LaidTrack(track["name"]?.AsText ?? "", IsEnabled(track), kind is null or "Audio", end, [.. _clips.OrderBy(c => c.At)], [.. _notes.Distinct()]));
        }
        return ([.. tracks], [.. _markers.Where(m => m.At >= Rational.Zero).OrderBy(m => m.At).ThenBy(m => m.Name, StringComparer.Ordinal)]);
    }

    // ----- laying out

    /// <summary>What stands in a track or a stack, as far as a window of its parent shows it. An item's own time begins at 0 where its first child does.</summary>
    private void LayNested(JsonItem item, Window window, ImmutableArray<LaidFade> fades, int layer)
    {
        NoteEffects(item, item["name"]?.AsText ?? "", _notes);
        if (SessionDocument.Range(item["source_range"]) is { } range)
        {
            // The parent's time counts from the start of what the range cuts out.
            var start = range.Start.Seconds;
            window = new Window(window.From + start, window.To + start, window.Shift - start);
        }
        NoteMarkers(item, window.Shift);
        if (item["children"] is not { Kind: JsonKind.List } children)
        {
            return;
        }
        if (IsTrack(item))
        {
            LayRow(children, window, fades, layer);
            return;
        }
        foreach (var (n, child) in children.Items.Index())
        {
            if (child.Kind == JsonKind.Map && child["kind"]?.AsText is null or "Audio")
            {
                // Each is as long as it is, however long the others are.
                var length = LengthOf(child) ?? Rational.Zero;
                Lay(child, Rational.Zero, window.Within(Rational.Zero, length), fades, n == 0 ? layer : ++_layers);
            }
        }
    }

    private void LayRow(JsonItem children, Window window, ImmutableArray<LaidFade> fades, int layer)
    {
        var position = Rational.Zero;
        for (var n = 0; n < children.Items.Count; n++)
        {
            var item = children.Items[n];
            if (item.Kind != JsonKind.Map || IsTransition(item))
            {
                continue;
            }
            if (LengthOf(item) is not { } lasts)
            {
                _notes.Add(new PrintNote(PrintNoteKind.LengthUnknown, item["name"]?.AsText));
                return;
            }
            var end = position + lasts;
            var (before, after) = (TransitionAt(children, n - 1), TransitionAt(children, n + 1));
            var own = fades;
            var (from, to) = (position, end);
            if (before is var (comesIn, staysIn))
            {
                from = position - comesIn;
                own = own.Add(new LaidFade(position - comesIn + window.Shift, position + staysIn + window.Shift, true));
            }
            if (after is var (comesOut, staysOut))
            {
                to = end + staysOut;
                own = own.Add(new LaidFade(end - comesOut + window.Shift, end + staysOut + window.Shift, false));
            }
            Lay(item, position, window.Within(from, to), own, layer);
            position = end;
        }
    }

    /// <summary>One item that begins at a moment of its parent's time.</summary>
    private void Lay(JsonItem item, Rational position, Window window, ImmutableArray<LaidFade> fades, int layer)
    {
        var isClip = ClipPlacer.Is(item, "Clip");
        if (isClip || ClipPlacer.IsGap(item))
        {
            NoteMarkers(item, position + window.Shift - (SourceOf(item)?.Start.Seconds ?? Rational.Zero));
        }
        if (window.IsEmpty || ClipPlacer.IsGap(item) || !IsEnabled(item))
        {
            if (isClip && !IsEnabled(item))
            {
                _notes.Add(new PrintNote(PrintNoteKind.MutedClip, item["name"]?.AsText, (position + window.Shift).ToDouble()));
            }
            return;
        }
        if (!isClip)
        {
            LayNested(item, new Window(window.From - position, window.To - position, window.Shift + position), fades, layer);
            return;
        }
        var name = item["name"]?.AsText ?? "";
        NoteEffects(item, name, _notes);
        var reference = ClipPlacer.Reference(item);
        var available = SessionDocument.Range(reference?["available_range"]);
        var source = SourceOf(item);
        _clips.Add(new LaidClip(
            window.From + window.Shift,
            window.To - window.From,
            (source?.Start.Seconds ?? Rational.Zero) + window.From - position,
            available?.Start.Seconds,
            reference?["target_url"]?.AsText,
            name,
            fades)
        {
            Layer = layer,
            Source = SessionDocument.Range(item["source_range"]),
        });
    }

    // ----- lengths

    /// <summary>How long an item lasts in its parent; null where nothing tells it.</summary>
    private Rational? LengthOf(JsonItem item)
    {
        if (item.Kind != JsonKind.Map || IsTransition(item))
        {
            return Rational.Zero;
        }
        if (SessionDocument.Range(item["source_range"]) is { } range)
        {
            return range.Duration.Seconds < Rational.Zero ? null : range.Duration.Seconds;
        }
        if (item["children"] is { Kind: JsonKind.List } children)
        {
            var length = Rational.Zero;
            foreach (var child in children.Items)
            {
                if (LengthOf(child) is not { } lasts)
                {
                    return null;
                }
                length = IsTrack(item) ? length + lasts : lasts > length ? lasts : length;
            }
            return length;
        }
        var reference = ClipPlacer.Reference(item);
        return SessionDocument.Range(reference?["available_range"])?.Duration.Seconds ?? (reference?["target_url"]?.AsText is { } url ? _lengthOf(url) : null);
    }

    // ----- what stands beside

    private static (Rational In, Rational Out)? TransitionAt(JsonItem children, int n) =>
        n >= 0 && n < children.Items.Count && children.Items[n] is { Kind: JsonKind.Map } item && IsTransition(item)
            ? (Offset(item["in_offset"]), Offset(item["out_offset"]))
            : null;

    private static Rational Offset(JsonItem? time) => SessionDocument.Time(time)?.Seconds is { } seconds && seconds > Rational.Zero ? seconds : Rational.Zero;

    /// <summary>Effects change the sound, and those that bend time also where it lies; one that is switched off does neither.</summary>
    private static void NoteEffects(JsonItem? item, string name, List<PrintNote> notes)
    {
        foreach (var effect in item?["effects"]?.Items ?? [])
        {
            if (effect.Kind == JsonKind.Map && IsEnabled(effect))
            {
                notes.Add(new PrintNote(
                    SessionDocument.BendsTime(effect["OTIO_SCHEMA"]?.AsText) ? PrintNoteKind.TimeEffect : PrintNoteKind.Effect,
                    EffectName(effect) is { Length: > 0 } effectName ? effectName : name));
            }
        }
    }

    private static string EffectName(JsonItem effect) => (effect["name"]?.AsText is { Length: > 0 } name ? name : effect["effect_name"]?.AsText) ?? "";

    /// <summary>What a clip plays, in the time in which it counts its media.</summary>
    private static TimeRange? SourceOf(JsonItem clip) => SessionDocument.Range(clip["source_range"]) ?? SessionDocument.Range(ClipPlacer.Reference(clip)?["available_range"]);

    private void NoteMarkers(JsonItem? item, Rational shift)
    {
        foreach (var marker in item?["markers"]?.Items ?? [])
        {
            if (marker.Kind == JsonKind.Map && SessionDocument.Range(marker["marked_range"]) is { } range)
            {
                _markers.Add(new LaidMarker(range.Start.Seconds + shift, marker["name"]?.AsText is { Length: > 0 } name ? name : "marker"));
            }
        }
    }

    private static bool IsTransition(JsonItem item) => ClipPlacer.Is(item, "Transition");

    private static bool IsTrack(JsonItem item) => ClipPlacer.Is(item, "Track") || ClipPlacer.Is(item, "Sequence");

    private static bool IsEnabled(JsonItem item) => item["enabled"]?.Boolean != false;
}
