using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>A clip on a track of the top stack.</summary>
/// <param name="TargetUrl">The pointer that it plays, as it is written.</param>
/// <param name="Track">Name of the track.</param>
/// <param name="Seconds">Where it begins, in seconds from the start of the timeline; null where what lies before it has no known length.</param>
public sealed record PlacedClip(string TargetUrl, string Track, double? Seconds);

/// <summary>Clips on the tracks of the top stack: where they are, and how they are taken off.</summary>
public static class TrackClips
{
    private const int GapRate = 48_000;

    /// <summary>All clips that play a file, track by track, in order. A track is a row of items, each after the other; a transition lasts no time of its own.</summary>
    public static IEnumerable<PlacedClip> In(ITracks document)
    {
        ArgumentNullException.ThrowIfNull(document);
        foreach (var track in document.TopTracks)
        {
            Rational? at = Rational.Zero;
            foreach (var item in track["children"]?.Items ?? [])
            {
                var (url, length) = item.Known is KnownItem known ? (known.PlaysUrl, known.Length) : (PlaysUrl(item), ClipPlacer.LengthOf(item));
                if (url is not null)
                {
                    yield return new PlacedClip(url, track["name"]?.AsText ?? "", at?.ToDouble());
                }
                at = at is { } before && length is { } lasts ? before + lasts : null;
            }
        }
    }

    /// <summary>The pointer that an item plays, where it is a clip that plays a file.</summary>
    internal static string? PlaysUrl(JsonItem item) => ClipPlacer.Is(item, "Clip") ? ClipPlacer.Reference(item)?["target_url"]?.AsText : null;

    /// <summary>Takes clips off their tracks. A gap as long as each stands in its place, so that nothing else moves; at a track's end there is none.</summary>
    /// <param name="document">The document.</param>
    /// <param name="isOf">Tells by the pointer which clips.</param>
    /// <returns>How many were taken off.</returns>
    /// <exception cref="CannotPlaceException">A transition plays on one, or its length is not known.</exception>
    public static int TakeOff(SessionDocument document, Func<string, bool> isOf)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(isOf);
        return document.TopTracks.Sum(t => t["children"] is { Kind: JsonKind.List } children ? TakeOff(children, t["name"]?.AsText ?? "", isOf) : 0);
    }

    private static int TakeOff(JsonItem children, string track, Func<string, bool> isOf)
    {
        var off = 0;
        for (var i = 0; i < children.Items.Count; i++)
        {
            var item = children.Items[i];
            if (!ClipPlacer.Is(item, "Clip") || ClipPlacer.Reference(item)?["target_url"]?.AsText is not { } url || !isOf(url))
            {
                continue;
            }
            if (IsTransition(children, i - 1) || IsTransition(children, i + 1))
            {
                throw new CannotPlaceException(new Fault(FaultCode.ClipInTransition) { Name = track, Other = item["name"]?.AsText });
            }
            var length = ClipPlacer.LengthOf(item) ?? throw new CannotPlaceException(new Fault(FaultCode.TrackLengthUnknown) { Name = track });
            children.RemoveAt(i);
            off++;
            // Silence beside it becomes one with it; what somebody wrote on a gap keeps that gap as it is.
            for (; i < children.Items.Count && IsPlainGap(children.Items[i]); children.RemoveAt(i))
            {
                length += ClipPlacer.LengthOf(children.Items[i])!.Value;
            }
            for (; i > 0 && IsPlainGap(children.Items[i - 1]); children.RemoveAt(--i))
            {
                length += ClipPlacer.LengthOf(children.Items[i - 1])!.Value;
            }
            if (i < children.Items.Count && ClipPlacer.Gap(length, GapRate) is { } gap)
            {
                children.Insert(i, gap);
            }
        }
        return off;
    }

    private static bool IsTransition(JsonItem children, int at) => at >= 0 && at < children.Items.Count && ClipPlacer.Is(children.Items[at], "Transition");

    private static bool IsPlainGap(JsonItem item) => ClipPlacer.IsGap(item) && ClipPlacer.LengthOf(item) is not null
        && (item["name"]?.AsText ?? "").Length == 0 && (item["markers"]?.Items.Count ?? 0) == 0 && (item["effects"]?.Items.Count ?? 0) == 0 && (item["metadata"]?.Members.Count ?? 0) == 0;
}
