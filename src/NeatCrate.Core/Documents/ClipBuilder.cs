using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;

namespace NeatCrate.Core.Documents;

/// <summary>What is to be placed on a track. All counts are samples at <paramref name="Rate"/>.</summary>
/// <param name="Name">Name of the clip.</param>
/// <param name="TargetUrl">Where the media file is.</param>
/// <param name="Rate">The file's sample rate in Hz.</param>
/// <param name="FileLength">Length of the file.</param>
/// <param name="SourceStart">First sample that plays.</param>
/// <param name="SourceLength">Number of samples that play.</param>
/// <param name="Gap">Silence on the track before the clip.</param>
public sealed record ClipToPlace(string Name, string TargetUrl, int Rate, long FileLength, long SourceStart, long SourceLength, long Gap = 0);

/// <summary>Adds tracks, clips and listed media to a document, in the form that OpenTimelineIO prescribes.</summary>
public static class ClipBuilder
{
    /// <summary>Appends a clip, and the gap before it, to the track of that name.</summary>
    /// <exception cref="InvalidOperationException">There is no such track.</exception>
    public static void Place(JsonItem root, string track, ClipToPlace clip)
    {
        ArgumentNullException.ThrowIfNull(root);
        ArgumentNullException.ThrowIfNull(clip);
        var children = root["tracks"]?["children"]?.Items.FirstOrDefault(t => t["name"]?.AsText == track)?["children"]
            ?? throw new InvalidOperationException($"There is no track '{track}'.");
        if (clip.Gap > 0)
        {
            children.Add(Gap(clip.Gap, clip.Rate));
        }
        children.Add(Clip(clip));
    }

    /// <summary>A clip by itself.</summary>
    internal static JsonItem Clip(ClipToPlace clip)
    {
        var item = Item("Clip.2", clip.Name, Range(clip.SourceStart, clip.SourceLength, clip.Rate));
        item.Set("media_references", JsonItem.Map(("DEFAULT_MEDIA", Reference(clip.TargetUrl, clip.FileLength, clip.Rate))));
        item.Set("active_media_reference_key", JsonItem.Of("DEFAULT_MEDIA"));
        return item;
    }

    /// <summary>Silence by itself, in samples, which may be parts of one where rates differ.</summary>
    internal static JsonItem Gap(double samples, int rate) => Item("Gap.1", "", Range(0, samples, rate));

    /// <summary>Puts a file on the session's list without placing it.</summary>
    /// <param name="root">The document.</param>
    /// <param name="targetUrl">Where the file is.</param>
    /// <param name="fileLength">Its length in samples, or null where it is not known.</param>
    /// <param name="rate">Its sample rate in Hz.</param>
    /// <param name="take">Which take it is, if it is one.</param>
    public static void List(JsonItem root, string targetUrl, long? fileLength, int rate, TakeLabel? take = null)
    {
        ArgumentNullException.ThrowIfNull(root);
        var reference = Reference(targetUrl, fileLength, rate);
        if (take is not null)
        {
            Label(reference, take);
        }
        var own = SessionDocument.OwnMetadata(root);
        if (own["listed"] is not { Kind: JsonKind.List })
        {
            own.Set("listed", JsonItem.List());
        }
        own["listed"]!.Add(reference);
    }

    /// <summary>Writes which take a listed reference is, whether it is kept, and the note on it. What says the same already stays as it is.</summary>
    public static void Label(JsonItem reference, TakeLabel take)
    {
        ArgumentNullException.ThrowIfNull(reference);
        ArgumentNullException.ThrowIfNull(take);
        if (reference["metadata"] is not { Kind: JsonKind.Map })
        {
            reference.Set("metadata", JsonItem.Map());
        }
        var metadata = reference["metadata"]!;
        if (metadata[SessionDocument.MetadataKey] is not { Kind: JsonKind.Map })
        {
            metadata.Set(SessionDocument.MetadataKey, JsonItem.Map());
        }
        var own = metadata[SessionDocument.MetadataKey]!;
        if (own["take"] is null)
        {
            own.Set("track", take.Track is null ? JsonItem.Null() : JsonItem.Of(take.Track));
            own.Set("take", Number(take.Number));
            own.Set("pass", Number(take.Pass));
        }
        Write(own, "keeper", take.IsKeeper ? JsonItem.Of(true) : null, own["keeper"]?.Boolean == true == take.IsKeeper);
        Write(own, "note", take.Note is { } note ? JsonItem.Of(note) : null, own["note"]?.AsText == take.Note);
    }

    private static void Write(JsonItem own, string name, JsonItem? value, bool isSame)
    {
        if (isSame)
        {
            return;
        }
        if (value is null)
        {
            own.Remove(name);
        }
        else
        {
            own.Set(name, value);
        }
    }

    private static JsonItem Number(int? number) => number is { } known ? JsonItem.Of(known) : JsonItem.Null();

    private static JsonItem Reference(string url, long? length, int rate) => JsonItem.Map(
        ("OTIO_SCHEMA", JsonItem.Of("ExternalReference.1")),
        ("name", JsonItem.Of("")),
        ("metadata", JsonItem.Map()),
        ("available_range", length is { } samples ? Range(0, samples, rate) : JsonItem.Null()),
        ("target_url", JsonItem.Of(url)));

    private static JsonItem Item(string schema, string name, JsonItem range) => JsonItem.Map(
        ("OTIO_SCHEMA", JsonItem.Of(schema)),
        ("name", JsonItem.Of(name)),
        ("metadata", JsonItem.Map()),
        ("source_range", range),
        ("effects", JsonItem.List()),
        ("markers", JsonItem.List()),
        ("enabled", JsonItem.Of(true)));

    internal static JsonItem Range(double start, double length, int rate) => JsonItem.Map(
        ("OTIO_SCHEMA", JsonItem.Of("TimeRange.1")), ("start_time", Time(start, rate)), ("duration", Time(length, rate)));

    private static JsonItem Time(double value, int rate) => JsonItem.Map(
        ("OTIO_SCHEMA", JsonItem.Of("RationalTime.1")), ("rate", JsonItem.Of((double)rate)), ("value", JsonItem.Of(value)));
}
