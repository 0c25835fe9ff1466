using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Listening;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Scans;

/// <summary>A file in the catalogue as the pages see it.</summary>
/// <param name="Connected">Whether its shelf is there.</param>
/// <param name="Inside">Whether it stands in the folder of the session for which one looks.</param>
public sealed record CatalogueFileView(
    long Id, string Name, string Path, Guid ShelfId, string ShelfName, ShelfKind ShelfKind, bool Connected, bool Inside, long Bytes, DateTime Changed, MediaKind? Kind,
    string? Container, int? SampleRate, int? Channels, int? BitDepth, long? LengthSamples, double? Seconds, string? Problem);

/// <summary>What was found: how many in all, and the files that were asked for.</summary>
public sealed record CatalogueView(int Total, IReadOnlyList<CatalogueFileView> Files);

/// <summary>Requests about the catalogue.</summary>
public static class CatalogueEndpoints
{
    private const int MostAtOnce = 1000;
    private const int MostText = 1000;
    private const int MostWords = 50;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/catalogue").WithTags("Catalogue");
        group.MapGet("", Search).WithName("SearchCatalogue").ProducesProblem(404);
        group.MapGet("{fileId:long}/peaks", GetPeaks).WithName("GetCataloguePeaks").Produces<byte[]>(200, "application/octet-stream").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{fileId:long}/audio", GetAudio).WithName("GetCatalogueAudio").Produces<byte[]>(200, "audio/wav").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("facets", (Catalogue catalogue) => TypedResults.Ok(catalogue.Facets())).WithName("GetCatalogueFacets");
    }

    private static Ok<CatalogueView> Search(
        Catalogue catalogue, ShelfService shelves, SessionService sessions, Guid? sessionId = null, string? text = null, Guid? shelfId = null, MediaKind? kind = null,
        string? container = null, int? sampleRate = null, double? minSeconds = null, double? maxSeconds = null, CatalogueOrder order = CatalogueOrder.Name, bool descending = false, int skip = 0, int take = 200)
    {
        Requests.Require(Enum.IsDefined(order) && (kind is null || Enum.IsDefined(kind.Value)), "There is no such order or kind.");
        Requests.Require((minSeconds is null || double.IsFinite(minSeconds.Value)) && (maxSeconds is null || double.IsFinite(maxSeconds.Value)), "A length is a number of seconds.");
        Requests.Require((text?.Length ?? 0) <= MostText && (text ?? "").Count(char.IsWhiteSpace) < MostWords, $"A search takes {MostWords} words at the most.");
        var session = sessionId is { } id ? sessions.Get(id).Folder : null;
        var all = shelves.All();
        var known = all.ToDictionary(s => s.Id, s => (Shelf: s, Connected: s.IsConnected));
        var answer = catalogue.Find(new CatalogueQuery
        {
            Text = text,
            ShelfId = shelfId,
            // Backups and bundles hold copies of what stands elsewhere; whoever wants those asks for their shelf.
            ExceptShelves = shelfId is null ? [.. known.Values.Select(s => s.Shelf).Where(s => s.Kind is ShelfKind.Vault or ShelfKind.Outbox).Select(s => s.Id)] : [],
            // What stands in the session need not come in, and takes of others are found by their names; whoever looks for all of them asks for their shelf.
            ExceptFolders = session is null || shelfId is not null ? []
                : [.. (string.IsNullOrWhiteSpace(text) ? sessions.Folders() : [session])
                    .Select(f => (Folder: f, Home: Shelf.Holding(all, f))).Where(f => f.Home is not null).Select(f => (f.Home!.Id, f.Folder == f.Home.Root ? "" : f.Home.Relative(f.Folder)))],
            Kind = kind,
            Container = container,
            SampleRate = sampleRate,
            MinSeconds = minSeconds,
            MaxSeconds = maxSeconds,
            Order = order,
            Descending = descending,
            Skip = Math.Max(0, skip),
            Take = Math.Clamp(take, 0, MostAtOnce),
        });
        return TypedResults.Ok(new CatalogueView(
            answer.Total,
            [.. answer.Files.Where(f => known.ContainsKey(f.ShelfId)).Select(f => View(f, known[f.ShelfId].Shelf, known[f.ShelfId].Connected, session))]));
    }

    private static Task<Results<FileContentHttpResult, NoContent>> GetPeaks(
        long fileId, CatalogueFiles files, RecordingGuard guard, PeaksCache peaks, CancellationToken cancel, int stretches = Peaks.Stretches)
    {
        var (shelf, file) = files.Find([fileId])[0];
        return shelf.IsConnected
            ? ListeningEndpoints.SendPeaks(() => SoundFile.At(CatalogueFiles.PathOn(shelf, file.Path)), guard, peaks, stretches, cancel)
            : ListeningEndpoints.KeptOutline(SoundFile.KeyOf(Path.Join(shelf.Root, file.Path), file.Bytes, file.ModifiedUtc), peaks, stretches, cancel);
    }

    private static IResult GetAudio(long fileId, CatalogueFiles files) => ListeningEndpoints.Play(SoundFile.At(files.PathOf(fileId)));

    private static CatalogueFileView View(CatalogueFile file, Shelf shelf, bool connected, string? session) => new(
        file.Id, Path.GetFileName(file.Path), file.Path, shelf.Id, shelf.Name, shelf.Kind, connected,
        session is not null && ShelfPath.IsWithin(Path.Join(shelf.Root, file.Path), session), file.Bytes, file.ModifiedUtc, file.Kind, file.Container, file.SampleRate,
        file.Channels, file.BitsPerSample, file.LengthSamples, file.Seconds, Sentences.OfText(file.Problem));
}
