using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Bundles;

/// <summary>What a bundle is to be.</summary>
public sealed record BundleChoice(
    Guid ShelfId,
    [Required(AllowEmptyStrings = true)] string Path,
    bool IncludeBounces,
    [StringLength(200)] string? Recipient,
    [StringLength(4000)] string? Note);

/// <summary>A bundle that was packed.</summary>
public sealed record BundleView(Guid PlanId, string Name, PlaceView Place, long Bytes, DateTimeOffset Packed, bool There);

/// <summary>Requests about bundles.</summary>
public static class BundleEndpoints
{
    private const int MostShown = 200;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/bundles").WithTags("Bundles");
        group.MapPost("plan", Plan).WithName("PlanBundle").ProducesProblem(400).ProducesProblem(404).ProducesValidationProblem();
        group.MapGet("", List).WithName("ListBundles");
        group.MapGet("{planId:guid}/file", Download).WithName("DownloadBundle").Produces(200, contentType: "application/zip").ProducesProblem(404);
    }

    private static async Task<Ok<PlanView>> Plan(
        Guid id, BundleChoice choice, SessionService sessions, ShelfService shelves, PlanJobs jobs, PlanService plans, CopyInChoices copies, TimeProvider time,
        CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var destination = ShelfPath.Resolve(shelves.Get(choice.ShelfId), choice.Path);
        return TypedResults.Ok(await jobs.Make($"Plan a bundle of '{Path.GetFileName(row.Folder)}'", row, job => BundlePlanner.Plan(new BundleRequest(
            id,
            sessions.InventoryOf(row, job.Cancel),
            shelves.All(),
            sessions.Folders(),
            destination,
            choice.IncludeBounces,
            choice.Recipient?.Trim(),
            choice.Note,
            time.GetLocalNow())
        {
            Promised = plans.PromisedBundles,
            LeftOutKinds = copies.Of(id).LeftOutKinds,
        }), cancel));
    }

    private static Ok<BundleView[]> List(Guid id, PlanJournal journal, ShelfService shelves)
    {
        var known = shelves.All();
        return TypedResults.Ok(journal.Bundles(id, MostShown).Select(b => new BundleView(
            b.PlanId, Path.GetFileName(b.Path), PlanViews.Place(b.Path, known), b.Bytes, DateTimeOffset.FromUnixTimeMilliseconds(b.EndedMs), FileFacts.Of(b.Path)?.Bytes == b.Bytes)).ToArray());
    }

    private static PhysicalFileHttpResult Download(Guid id, Guid planId, PlanJournal journal)
    {
        var bundle = journal.Bundles(id, MostShown).FirstOrDefault(b => b.PlanId == planId);
        return bundle is not null && File.Exists(bundle.Path)
            ? TypedResults.PhysicalFile(bundle.Path, "application/zip", Path.GetFileName(bundle.Path), enableRangeProcessing: true)
            : throw new NotKnownException("This bundle is no longer where it was packed.");
    }
}
