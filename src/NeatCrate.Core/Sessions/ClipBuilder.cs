using System.Text.Json.Nodes;

namespace NeatCrate.Core.Sessions;

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
    public static void Place(JsonObject root, string track, ClipToPlace clip)
    {
        ArgumentNullException.ThrowIfNull(root);
        ArgumentNullException.ThrowIfNull(clip);
        var node = (root["tracks"]?["children"] as JsonArray)?.OfType<JsonObject>().FirstOrDefault(t => t["name"]?.GetValue<string>() == track)
            ?? throw new InvalidOperationException($"There is no track '{track}'.");
        var children = (JsonArray)node["children"]!;
        if (clip.Gap > 0)
        {
            children.Add((JsonNode)Gap(clip.Gap, clip.Rate));
        }
        children.Add((JsonNode)Clip(clip));
    }

    /// <summary>A clip by itself.</summary>
    internal static JsonObject Clip(ClipToPlace clip)
    {
        var item = Item("Clip.2", clip.Name, Range(clip.SourceStart, clip.SourceLength, clip.Rate));
        item["media_references"] = new JsonObject { ["DEFAULT_MEDIA"] = Reference(clip.TargetUrl, clip.FileLength, clip.Rate) };
        item["active_media_reference_key"] = "DEFAULT_MEDIA";
        return item;
    }

    /// <summary>Silence by itself, in samples, which may be parts of one where rates differ.</summary>
    internal static JsonObject Gap(double samples, int rate) => Item("Gap.1", "", Range(0, samples, rate));

    /// <summary>Puts a file on the session's list without placing it.</summary>
    /// <param name="root">The document.</param>
    /// <param name="targetUrl">Where the file is.</param>
    /// <param name="fileLength">Its length in samples, or null where it is not known.</param>
    /// <param name="rate">Its sample rate in Hz.</param>
    /// <param name="take">Which take it is, if it is one.</param>
    public static void List(JsonObject root, string targetUrl, long? fileLength, int rate, TakeLabel? take = null)
    {
        ArgumentNullException.ThrowIfNull(root);
        var reference = Reference(targetUrl, fileLength, rate);
        if (take is not null)
        {
            reference["metadata"] = new JsonObject
            {
                [SessionDocument.MetadataKey] = new JsonObject { ["track"] = take.Track, ["take"] = take.Number, ["pass"] = take.Pass },
            };
        }
        var own = SessionDocument.OwnMetadata(root);
        if (own["listed"] is not JsonArray listed)
        {
            own["listed"] = listed = [];
        }
        listed.Add((JsonNode)reference);
    }

    private static JsonObject Reference(string url, long? length, int rate) => new()
    {
        ["OTIO_SCHEMA"] = "ExternalReference.1",
        ["name"] = "",
        ["metadata"] = new JsonObject(),
        ["available_range"] = length is { } samples ? Range(0, samples, rate) : null,
        ["target_url"] = url,
    };

    private static JsonObject Item(string schema, string name, JsonObject range) => new()
    {
        ["OTIO_SCHEMA"] = schema,
        ["name"] = name,
        ["metadata"] = new JsonObject(),
        ["source_range"] = range,
        ["effects"] = new JsonArray(),
        ["markers"] = new JsonArray(),
        ["enabled"] = true,
    };

    private static JsonObject Range(double start, double length, int rate) => new()
    {
        ["OTIO_SCHEMA"] = "TimeRange.1",
        ["start_time"] = Time(start, rate),
        ["duration"] = Time(length, rate),
    };

    private static JsonObject Time(double value, int rate) => new()
    {
        ["OTIO_SCHEMA"] = "RationalTime.1",
        ["rate"] = (double)rate,
        ["value"] = value,
    };
}
