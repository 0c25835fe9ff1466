using System.Collections.Frozen;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Store;

namespace NeatCrate.App.Listening;

/// <summary>Both identities of a file, in hexadecimal digits; the sound's is null for what is no sound that was understood.</summary>
/// <param name="Samples">Of the samples however they are stored; null for a format whose samples are not exact.</param>
public sealed record IdentitiesView(string Bytes, string? Sound, string? Samples);

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
        ["AAC"] = "audio/aac",
    }.ToFrozenDictionary();

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/files/{fileId}").WithTags("Listening");
        group.MapGet("peaks", GetPeaks).WithName("GetPeaks").Produces<byte[]>(200, "application/octet-stream").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("identities", GetIdentities).WithName("GetIdentities").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("audio", GetAudio).WithName("GetAudio").Produces<byte[]>(200, "audio/wav").ProducesProblem(404).ProducesProblem(503);
    }

    /// <summary>The outline of a file: least and greatest sample in turn, as signed bytes. Nothing while something records, when none is made, and of a file that the session does not know (any more).</summary>
    private static Task<Results<FileContentHttpResult, NoContent>> GetPeaks(
        Guid id, string fileId, SessionService sessions, RecordingGuard guard, PeaksCache peaks, CancellationToken cancel, int stretches = Peaks.Stretches)
    {
        var session = sessions.Get(id);
        if (sessions.FindFile(session, fileId, cancel) is not { } file)
        {
            // A row in sight asks while its file is on its way elsewhere: it has no outline here, and nothing went wrong.
            return Task.FromResult<Results<FileContentHttpResult, NoContent>>(TypedResults.NoContent());
        }
        return file is { Standing: Standing.Away, Recalled: { } known }
            ? KeptOutline(SoundFile.KeyOf(file.Path, known.Bytes, known.ModifiedUtc), peaks, stretches, cancel)
            : SendPeaks(() => Sound(session, file, sessions), guard, peaks, stretches, cancel);
    }

    /// <summary>All identities of a file, worked out when they are first asked for. While something records, nobody reads whole files.</summary>
    private static async Task<Results<Ok<IdentitiesView>, NoContent>> GetIdentities(
        Guid id, string fileId, SessionService sessions, RecordingGuard guard, IIdentities identities, WorkEngine engine, CancellationToken cancel)
    {
        var session = sessions.Get(id);
        if (sessions.FindFile(session, fileId, cancel) is not { Standing: Standing.Inside or Standing.Outside } file)
        {
            throw new NotKnownException("This file is not there.");
        }
        if (guard.What is not null)
        {
            return TypedResults.NoContent();
        }
        var reading = new AskedWork<IdentitiesView>(JobWork.Check, $"Read '{file.Name}' for its identities", job => Identities(file, new WatchedIdentities(identities, job), job.Cancel))
        {
            SessionId = id,
            Reads = [file.Path],
        };
        return await reading.In(engine, cancel) is { } told ? TypedResults.Ok(told) : TypedResults.NoContent();
    }

    private static IdentitiesView Identities(InventoryFile file, WatchedIdentities identities, CancellationToken cancel)
    {
        var known = identities.Identify(file.Path, file.Header, null, cancel);
        var samples = file.Header is { } header ? identities.IdentifySamples(file.Path, header, null, cancel) : null;
        return new IdentitiesView(known.Bytes.Hex, known.Sound?.ToString(), samples?.ToString());
    }

    /// <summary>The outline of a sound; nothing while something records, when it is not even looked for, or where it left a moment ago.</summary>
    internal static async Task<Results<FileContentHttpResult, NoContent>> SendPeaks(Func<SoundFile> sound, RecordingGuard guard, PeaksCache peaks, int stretches, CancellationToken cancel)
    {
        if (guard.What is not null)
        {
            return TypedResults.NoContent();
        }
        var file = sound();
        try
        {
            return Bytes(await peaks.Of(file, cancel), stretches);
        }
        catch (FaultException e) when (e.Fault.Code == FaultCode.NotThere)
        {
            // It left just now, as in GetPeaks.
            return TypedResults.NoContent();
        }
    }

    /// <summary>The outline of a sound that is away or missing; nothing where none was ever made.</summary>
    internal static async Task<Results<FileContentHttpResult, NoContent>> KeptOutline(string key, PeaksCache peaks, int stretches, CancellationToken cancel, string? cacheFolder = null) =>
        await peaks.Kept(key, cacheFolder, cancel) is { } outline ? Bytes(outline, stretches) : TypedResults.NoContent();

    private static FileContentHttpResult Bytes(Peaks outline, int stretches) =>
        TypedResults.Bytes(outline.Reduced(Math.Clamp(stretches, 1, Peaks.Stretches)).Pairs, "application/octet-stream");

    /// <summary>The sound itself where a browser plays it, else decoded on the way; any range of it.</summary>
    private static IResult GetAudio(Guid id, string fileId, SessionService sessions, CancellationToken cancel)
    {
        var session = sessions.Get(id);
        return Play(Sound(session, sessions.FindFile(session, fileId, cancel), sessions));
    }

    /// <inheritdoc cref="GetAudio"/>
    internal static IResult Play(SoundFile file) => MimeType(file.Header) is { } type
        ? TypedResults.PhysicalFile(file.Path, type, enableRangeProcessing: true)
        : TypedResults.Stream(new DecodedWavStream(SoundReader.Open(file.Path, file.Header)), "audio/wav", enableRangeProcessing: true);

    private static string? MimeType(MediaHeader header)
    {
        var isPlainWav = header is { Container: "WAV", Unfinished: false, Encoding: not SampleEncoding.Encoded }
            && (header.BitsPerSample <= PlayableBits || header is { Encoding: SampleEncoding.FloatingPoint, BitsPerSample: 32 });
        return isPlainWav ? "audio/wav" : PlayedByBrowsers.GetValueOrDefault(header.Container);
    }

    /// <summary>An audio file of the session that is there and was understood. Only such files are ever sent.</summary>
    internal static SoundFile Sound(SessionRow session, InventoryFile? file, SessionService sessions) =>
        file is { Header: { } header, Standing: Standing.Inside or Standing.Outside }
            ? new SoundFile(file.Path, file.Bytes, file.ModifiedUtc!.Value, header, file.Standing == Standing.Inside ? sessions.CacheFolder(session) : null)
            : throw new NotKnownException("This file is not there, or holds no sound that can be read.");
}
