using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Scans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Words;

namespace NeatCrate.App.CopyIn;

/// <summary>What is to be taken into a session, and how.</summary>
/// <param name="CatalogueIds">Files of the catalogue.</param>
/// <param name="UploadIds">Files that were dropped on the page.</param>
/// <param name="ByReference">Whether the session points at them where they stand, which is a risk.</param>
/// <param name="Convert">Whether sounds at another rate come in as converted copies, their originals beside them.</param>
/// <param name="Track">The track that they are placed on; null for the list alone.</param>
/// <param name="AtSeconds">Where the first of them starts.</param>
public sealed record ImportChoice(long[] CatalogueIds, Guid[] UploadIds, bool ByReference, bool Convert, string? Track, double AtSeconds);

/// <summary>Where a track is free.</summary>
/// <param name="Seconds">The first time, in seconds from the start of the timeline; null where nothing tells it.</param>
public sealed record FreeTimeView(double? Seconds);

/// <summary>Requests about taking files into a session.</summary>
public static class ImportEndpoints
{
    private const double LongestSeconds = 24 * 3600;
    private const int MostFiles = 10_000;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/import").WithTags("Import");
        group.MapPost("plan", Plan).WithName("PlanImport").ProducesProblem(404).ProducesProblem(409).ProducesProblem(503);
        group.MapGet("free", Free).WithName("GetFreeTime").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapPost("uploads", Upload).WithName("UploadFile").WithMetadata(new DisableRequestSizeLimitAttribute())
            .Accepts<byte[]>("application/octet-stream").ProducesProblem(404).ProducesProblem(409).ProducesProblem(503);
    }

    private static async Task<Ok<UploadView>> Upload(Guid id, string name, HttpRequest request, SessionService sessions, Uploads uploads, CancellationToken cancel)
    {
        _ = sessions.Get(id);
        return TypedResults.Ok(await uploads.Receive(name, request.ContentLength, request.Body, cancel));
    }

    /// <summary>The first time at which sounds of so many seconds find room on a track, one after the other.</summary>
    private static Ok<FreeTimeView> Free(Guid id, string track, double seconds, SessionService sessions, CancellationToken cancel)
    {
        Requests.Require(double.IsFinite(seconds) && seconds >= 0, "A length is a number of seconds.");
        if (sessions.InventoryOf(sessions.Get(id), cancel).Current is not { } current)
        {
            return TypedResults.Ok(new FreeTimeView(null));
        }
        try
        {
            return TypedResults.Ok(new FreeTimeView(DocumentFormats.Read<ISessionNotes>(current.Path, ReadableFile.ReadAll(current.Path, DocumentFormats.MostBytes)).FreeFrom(track, seconds)));
        }
        catch (CannotPlaceException)
        {
            // Nothing tells what plays when on it: the plan says so.
            return TypedResults.Ok(new FreeTimeView(null));
        }
    }

    private static async Task<Ok<PlanView>> Plan(
        Guid id, ImportChoice choice, SessionService sessions, ShelfService shelves, CatalogueFiles catalogue, Uploads uploads, PlanJobs jobs, IIdentities identities, HeaderCache headers,
        CancellationToken cancel)
    {
        Requests.RequireList(choice.CatalogueIds, MostFiles, "files");
        Requests.RequireList(choice.UploadIds, MostFiles, "files");
        Requests.Require(double.IsFinite(choice.AtSeconds), "The place on the track is a number of seconds.");
        var row = sessions.Get(id);
        var items = catalogue.PathsOf(choice.CatalogueIds).Select(p => new ImportItem(p, Path.GetFileName(p)))
            .Concat(choice.UploadIds.Select(uploads.Get).Select(u => new ImportItem(u.Path, u.Name))).ToList();
        // Milliseconds are what a page can ask for; the sample follows from there.
        var at = ExactTime.From(Math.Round(Math.Clamp(choice.AtSeconds, 0, LongestSeconds) * 1000), 1000);
        return TypedResults.Ok(await jobs.Make($"Plan to take in {ByteText.Count(items.Count, "file")}", row, job => ImportPlanner.Plan(
            new ImportRequest(id, sessions.InventoryOf(row, job.Cancel), items, shelves.All(), new WatchedIdentities(identities, job), headers)
            {
                // What was dropped on the page stands nowhere that could be pointed at.
                ByReference = choice.ByReference && choice.UploadIds.Length == 0,
                Convert = choice.Convert,
                Track = string.IsNullOrWhiteSpace(choice.Track) ? null : choice.Track.Trim(),
                At = at,
            },
            job.Cancel), cancel));
    }
}
