using System.Text.Json.Nodes;

namespace NeatCrate.Core.Sessions;

/// <summary>A clip cannot be placed where it was meant to be. The message is meant for the user.</summary>
public sealed class CannotPlaceException : Exception
{
    /// <summary>Makes the exception with its sentence.</summary>
    public CannotPlaceException(string message) : base(message)
    {
    }

    /// <summary>Makes the exception with its sentence and its cause.</summary>
    public CannotPlaceException(string message, Exception inner) : base(message, inner)
    {
    }

    /// <summary>Makes the exception without a sentence.</summary>
    public CannotPlaceException()
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
        for (var i = 0; i < children.Count; i++)
        {
            var item = children[i] as JsonObject;
            var itemLength = Length(item, track);
            var end = position + itemLength;
            if (start < end)
            {
                if (!IsGap(item) || start + length > end)
                {
                    throw new CannotPlaceException(Occupied(children, i, position, start + length, track));
                }
                children.RemoveAt(i);
                var parts = new[] { Gap(start - position, clip.Rate), ClipBuilder.Clip(clip), Gap(end - start - length, clip.Rate) }.OfType<JsonObject>().ToList();
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
            children.Add((JsonNode)before);
        }
        children.Add((JsonNode)ClipBuilder.Clip(clip));
    }

    private static JsonArray Children(SessionDocument document, string track) =>
        ((document.Root["tracks"]?["children"] as JsonArray)?.OfType<JsonObject>().FirstOrDefault(t => Text(t["name"]) == track)
            ?? throw new CannotPlaceException($"There is no track '{track}' in the document."))["children"] as JsonArray
        ?? throw new CannotPlaceException($"The track '{track}' cannot hold clips.");

    private static bool IsGap(JsonObject? item) => Text(item?["OTIO_SCHEMA"])?.StartsWith("Gap.", StringComparison.Ordinal) ?? false;

    /// <summary>How long an item lasts on its track. A transition lies over its neighbours and lasts no time of its own (OpenTimelineIO, "Time Ranges").</summary>
    private static Rational Length(JsonObject? item, string track)
    {
        if (item is null || (Text(item["OTIO_SCHEMA"])?.StartsWith("Transition.", StringComparison.Ordinal) ?? false))
        {
            return Rational.Zero;
        }
        var key = Text(item["active_media_reference_key"]) ?? "DEFAULT_MEDIA";
        var reference = item["media_references"]?[key] ?? item["media_reference"];
        return (SessionDocument.Range(item["source_range"]) ?? SessionDocument.Range((reference as JsonObject)?["available_range"])) is { } range
            ? range.Duration.Seconds
            : throw new CannotPlaceException($"The track '{track}' holds something whose length is not known, so nothing tells what plays when. Choose another track.");
    }

    private static string Occupied(JsonArray children, int at, Rational position, Rational end, string track)
    {
        for (var i = at; i < children.Count && position < end; i++)
        {
            var length = Length(children[i] as JsonObject, track);
            if (!IsGap(children[i] as JsonObject) && length > Rational.Zero)
            {
                var name = Text(children[i]?["name"]) is { Length: > 0 } known ? $"'{known}'" : "Something";
                return $"{name} plays on '{track}' from {Clock(position)} to {Clock(position + length)}. Choose another time or another track.";
            }
            position += length;
        }
        return $"The gap on '{track}' is too short. Choose another time or another track.";
    }

    private static string Clock(Rational seconds) => TimeSpan.FromSeconds(seconds.ToDouble()).ToString(@"m\:ss\.f", System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>A gap of an exact length: beside sounds at other rates it is no whole number of samples, and is counted finer, so that what follows stays where it is.</summary>
    private static JsonObject? Gap(Rational seconds, int rate)
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

    private static string? Text(JsonNode? node) => node is JsonValue value && value.TryGetValue(out string? text) ? text : null;
}
