using System.Collections.Frozen;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Hosting;
using NeatCrate.App.Record;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;

namespace NeatCrate.App.Listening;

/// <summary>Requests for seeing and hearing a session's files.</summary>
public static class ListeningEndpoints
{
    private const int PlayableBits = 24;

    private static readonly FrozenDictionary<string, string> PlayedByBrowsers = new Dictionary<string, string>
    {
        ["FLAC"] = "audio/flac",
        ["Ogg Vorbis"] = "audio/ogg",
        ["Ogg Opus"] = "audio/ogg",
        ["MP3"] = "audio/mpeg",
    }.ToFrozenDictionary();

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/files/{fileId}").WithTags("Listening");
        group.MapGet("peaks", GetPeaks).WithName("GetPeaks").Produces<byte[]>(200, "application/octet-stream").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("audio", GetAudio).WithName("GetAudio").Produces<byte[]>(200, "audio/wav").ProducesProblem(404).ProducesProblem(503);
    }

    /// <summary>The outline of a file: least and greatest sample in turn, as signed bytes. Nothing while something records: then none is made.</summary>
    private static async Task<Results<FileContentHttpResult, NoContent>> GetPeaks(
        Guid id, string fileId, SessionService sessions, RecordingGuard guard, PeaksCache peaks, CancellationToken cancel, int stretches = Peaks.Stretches)
    {
        var file = Sound(id, fileId, sessions, cancel);
        if (guard.What is not null)
        {
            return TypedResults.NoContent();
        }
        var outline = await peaks.Of(file, cancel);
        return TypedResults.Bytes(outline.Reduced(Math.Clamp(stretches, 1, Peaks.Stretches)).Pairs, "application/octet-stream");
    }

    /// <summary>The sound itself where a browser plays it, else decoded on the way; any range of it.</summary>
    private static IResult GetAudio(Guid id, string fileId, SessionService sessions, CancellationToken cancel)
    {
        var file = Sound(id, fileId, sessions, cancel);
        return MimeType(file.Header!) is { } type
            ? TypedResults.PhysicalFile(file.Path, type, enableRangeProcessing: true)
            : TypedResults.Stream(new DecodedWavStream(SoundReader.Open(file.Path, file.Header!)), "audio/wav", enableRangeProcessing: true);
    }

    private static string? MimeType(MediaHeader header)
    {
        var isPlainWav = header is { Container: "WAV", Unfinished: false, Encoding: not SampleEncoding.Encoded }
            && (header.BitsPerSample <= PlayableBits || header is { Encoding: SampleEncoding.FloatingPoint, BitsPerSample: 32 });
        return isPlainWav ? "audio/wav" : PlayedByBrowsers.GetValueOrDefault(header.Container);
    }

    /// <summary>An audio file of the session that is there and was understood. Only such files are ever sent.</summary>
    private static InventoryFile Sound(Guid id, string fileId, SessionService sessions, CancellationToken cancel) =>
        sessions.FindFile(sessions.Get(id), fileId, cancel) is { Header: not null, Standing: Standing.Inside or Standing.Outside } file
            ? file
            : throw new NotKnownException("This file is not there, or holds no sound that can be read.");
}
