using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>A clip cannot be placed where it was meant to be.</summary>
public sealed class CannotPlaceException : FaultException
{
    /// <summary>Makes the exception.</summary>
    public CannotPlaceException(Fault fault) : base(fault)
    {
    }

    /// <summary>Makes the exception without a reason.</summary>
    public CannotPlaceException()
    {
    }

    /// <summary>Makes the exception with what a library says.</summary>
    public CannotPlaceException(string message) : base(message)
    {
    }

    /// <summary>Makes the exception with what a library says.</summary>
    public CannotPlaceException(string message, Exception inner) : base(message, inner)
    {
    }
}

/// <summary>
/// Places a clip on a track at a time. A track of OpenTimelineIO is a row of items, each after the other: the clip goes
/// into a gap that is long enough, or behind the last item with a gap before it. Nothing that plays is moved or covered.
/// </summary>
public static class ClipPlacer
{
    /// <summary>Places a clip.</summary>
    /// <param name="document">The document.</param>
    /// <param name="track">Name of the track.</param>
    /// <param name="clip">The clip; its own gap does not count.</param>
    /// <param name="at">Where it is to start, from the start of the timeline.</param>
    /// <exception cref="CannotPlaceException">Something plays there, or what the track holds has no known length.</exception>
    public static void Place(SessionDocument document, string track, ClipToPlace clip, ExactTime at)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(clip);
        var children = Children(document, track);
        // The nearest whole sample of the clip, which is all that it can start on.
        var start = new Rational(((at.Seconds * Rational.FromInt64(clip.Rate)) + new Rational(1, 2)).Floor(), clip.Rate);
        var length = new Rational(clip.SourceLength, clip.Rate);
        var position = Rational.Zero;
        for (var i = 0; i < children.Items.Count; i++)
        {
            var item = children.Items[i];
            var itemLength = Length(item, track);
            var end = position + itemLength;
            if (start < end)
            {
                if (!IsGap(item) || start + length > end)
                {
                    throw new CannotPlaceException(Occupied(children, i, position, start + length, track));
                }
                children.RemoveAt(i);
                var parts = new[] { Gap(start - position, clip.Rate), ClipBuilder.Clip(clip), Gap(end - start - length, clip.Rate) }.OfType<JsonItem>().ToList();
                for (var n = 0; n < parts.Count; n++)
                {
                    children.Insert(i + n, parts[n]);
                }
                return;
            }
            position = end;
        }
        if (Gap(start - position, clip.Rate) is { } before)
        {
            children.Add(before);
        }
        children.Add(ClipBuilder.Clip(clip));
    }

    /// <summary>The first time from which a track is free for so long, in whole tenths of a second, so that it can be said and typed.</summary>
    /// <param name="document">The document.</param>
    /// <param name="track">Name of the track; of one that is not there all is free.</param>
    /// <param name="seconds">How long it has to be free, in seconds.</param>
    /// <returns>Seconds from the start of the timeline.</returns>
    /// <exception cref="CannotPlaceException">What the track holds has no known length.</exception>
    internal static double FreeFrom(SessionDocument document, string track, double seconds)
    {
        if (document.TopTracks.All(t => t["name"]?.AsText != track))
        {
            return 0;
        }
        var position = 0.0;
        foreach (var item in Children(document, track).Items)
        {
            var end = position + Length(item, track).ToDouble();
            if (IsGap(item) && Tenths(position) + seconds <= end)
            {
                break;
            }
            position = end;
        }
        return Tenths(position);
    }

    /// <summary>The next tenth of a second; what is one but for the error of reckoning counts as one.</summary>
    private static double Tenths(double seconds) => Math.Ceiling((seconds * 10) - 1e-6) / 10;

    private static JsonItem Children(SessionDocument document, string track)
    {
        var found = document.TopTracks.FirstOrDefault(t => t["name"]?.AsText == track) ?? throw new CannotPlaceException(new Fault(FaultCode.NoSuchTrack) { Name = track });
        return found["children"] is { Kind: JsonKind.List } children ? children : throw new CannotPlaceException(new Fault(FaultCode.TrackHoldsNoClips) { Name = track });
    }

    internal static bool Is(JsonItem item, string schema) => item["OTIO_SCHEMA"]?.AsText is { } full && IsSchema(full, schema);

    /// <summary>True for any version of a schema.</summary>
    internal static bool IsSchema(string full, string schema) => full.StartsWith(schema, StringComparison.Ordinal) && full.Length > schema.Length && full[schema.Length] == '.';

    internal static bool IsGap(JsonItem item) => Is(item, "Gap") || Is(item, "Filler");

    /// <summary>How long an item lasts on its track. A transition lies over its neighbours and lasts no time of its own (OpenTimelineIO, "Time Ranges").</summary>
    private static Rational Length(JsonItem item, string track) =>
        LengthOf(item) ?? throw new CannotPlaceException(new Fault(FaultCode.TrackLengthUnknown) { Name = track });

    /// <summary>The same; null where nothing tells it.</summary>
    internal static Rational? LengthOf(JsonItem item) => item.Kind != JsonKind.Map || Is(item, "Transition")
        ? Rational.Zero
        : (SessionDocument.Range(item["source_range"]) ?? SessionDocument.Range(Reference(item)?["available_range"]))?.Duration.Seconds;

    /// <summary>The reference that a clip plays (OpenTimelineIO, "active_media_reference_key").</summary>
    internal static JsonItem? Reference(JsonItem clip) =>
        clip["media_references"]?[clip["active_media_reference_key"]?.AsText ?? "DEFAULT_MEDIA"] ?? clip["media_reference"];

    private static Fault Occupied(JsonItem children, int at, Rational position, Rational end, string track)
    {
        for (var i = at; i < children.Items.Count && position < end; i++)
        {
            var item = children.Items[i];
            var length = Length(item, track);
            if (!IsGap(item) && length > Rational.Zero)
            {
                return new Fault(FaultCode.TrackOccupied) { Name = track, Other = item["name"]?.AsText, Seconds = position.ToDouble(), UntilSeconds = (position + length).ToDouble() };
            }
            position += length;
        }
        return new Fault(FaultCode.GapTooShort) { Name = track };
    }

    /// <summary>A gap of an exact length: beside sounds at other rates it is no whole number of samples, and is counted finer, so that what follows stays where it is.</summary>
    internal static JsonItem? Gap(Rational seconds, int rate)
    {
        if (seconds <= Rational.Zero)
        {
            return null;
        }
        var samples = seconds * Rational.FromInt64(rate);
        return samples.Denominator.IsOne || seconds.Denominator > int.MaxValue
            ? ClipBuilder.Gap(samples.ToDouble(), rate)
            : ClipBuilder.Gap((double)seconds.Numerator, (int)seconds.Denominator);
    }
}
