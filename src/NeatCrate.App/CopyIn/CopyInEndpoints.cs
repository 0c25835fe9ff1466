using System.Collections.Immutable;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.CopyIn;

/// <summary>A mark of a whole place, or of single files.</summary>
/// <param name="Place">The place; null for single files.</param>
/// <param name="FileIds">The files; null for all of the place.</param>
/// <param name="Taken">Whether they are to be copied in.</param>
public sealed record CopyInMark(string? Place, string[]? FileIds, bool Taken);

/// <summary>How a session is copied in.</summary>
/// <param name="OlderDocuments">Whether older versions of the document count.</param>
/// <param name="ByItself">Whether what stands outside is copied in as soon as the document points at it.</param>
/// <param name="NewVersions">Whether documents of other programs get a new version beside them that names the copies.</param>
/// <param name="LeftOutKinds">Kinds that stay out, at Copy in and in bundles; null for none.</param>
public sealed record CopyInWay(bool OlderDocuments, bool ByItself, bool NewVersions = false, CopyKind[]? LeftOutKinds = null);

/// <summary>The files of one kind that stand outside.</summary>
/// <param name="Kind">The kind.</param>
/// <param name="Files">How many.</param>
/// <param name="Bytes">Their bytes.</param>
public sealed record CopyKindView(CopyKind Kind, int Files, long Bytes);

/// <summary>Requests about copying in.</summary>
public static class CopyInEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/copy-in").WithTags("Copy in");
        group.MapGet("", (Guid id, SessionService sessions, CopyInChoices choices) => TypedResults.Ok(Way(choices.Of(sessions.Get(id).Id)))).WithName("GetCopyInWay").ProducesProblem(404);
        group.MapGet("kinds", Kinds).WithName("ListCopyKinds").ProducesProblem(404).ProducesProblem(503);
        group.MapPut("", ChangeWay).WithName("ChangeCopyInWay").ProducesProblem(404);
        group.MapPost("marks", Mark).WithName("MarkForCopyIn").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("plan", Plan).WithName("PlanCopyIn").ProducesProblem(404).ProducesProblem(503);
    }

    private static CopyInWay Way(CopyInChoice choice) => new(choice.OlderDocuments, choice.ByItself, choice.NewVersions, [.. choice.LeftOutKinds.Order()]);

    private static Ok<CopyKindView[]> Kinds(Guid id, SessionService sessions, ShelfService shelves, CancellationToken cancel)
    {
        var outside = sessions.Show(sessions.Get(id), shelves.All(), cancel).Standing(Standing.Outside).ToLookup(CopyKinds.Of);
        return TypedResults.Ok(CopyKinds.All.Select(k => new CopyKindView(k, outside[k].Count(), outside[k].Sum(f => f.Bytes))).ToArray());
    }

    private static Ok<CopyInWay> ChangeWay(Guid id, CopyInWay way, SessionService sessions, CopyInChoices choices) => TypedResults.Ok(Way(choices.Change(
        sessions.Get(id).Id,
        c => c with { OlderDocuments = way.OlderDocuments, ByItself = way.ByItself, NewVersions = way.NewVersions, LeftOutKinds = [.. way.LeftOutKinds ?? []], Handled = way.ByItself ? c.Handled : [] })));

    private static NoContent Mark(Guid id, CopyInMark mark, SessionService sessions, SessionFiles files, ShelfService shelves, CopyInChoices choices, CancellationToken cancel)
    {
        Requests.Require(mark.Place is null != mark.FileIds is null, "A mark is of one place, or of single files.");
        var (row, known) = (sessions.Get(id), shelves.All());
        IReadOnlyList<string> paths = mark.Place is { } place ? files.From(place, row, known, cancel) : Paths(mark.FileIds!, row, sessions, known, cancel);
        choices.Change(id, c =>
        {
            var marks = mark.Place is { } whole ? c.Marks.MarkPlace(whole, paths, mark.Taken) : c.Marks.MarkFiles(paths, mark.Taken);
            return c with { Places = marks.Places, Files = marks.Files };
        });
        return TypedResults.NoContent();
    }

    private static List<string> Paths(string[] fileIds, SessionRow row, SessionService sessions, IReadOnlyList<Shelf> known, CancellationToken cancel)
    {
        Requests.RequireList(fileIds, FileViews.MostChosen, "files");
        sessions.Show(row, known, cancel);
        return [.. fileIds.Select(f => sessions.Known(row, f)).OfType<InventoryFile>().Where(f => f.Standing == Standing.Outside).Select(f => f.Path)];
    }

    /// <summary>The plan for everything outside that nobody left out.</summary>
    private static async Task<Ok<PlanView>> Plan(
        Guid id, SessionService sessions, ShelfService shelves, PlanJobs jobs, CopyInChoices choices, IIdentities identities, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make($"Plan to copy in what stands outside '{Path.GetFileName(row.Folder)}'", row, job => MakePlan(row, sessions, shelves, choices, new WatchedIdentities(identities, job), job.Cancel), cancel));
    }

    internal static Plan MakePlan(SessionRow row, SessionService sessions, ShelfService shelves, CopyInChoices choices, IIdentities identities, CancellationToken cancel)
    {
        var (id, inventory) = (row.Id, sessions.InventoryOf(row, cancel));
        var (known, choice) = (shelves.All(), choices.Of(id));
        var outside = choices.OutsideOf(id, sessions, known);
        var request = new CopyInRequest(id, inventory, known, identities)
        {
            OlderDocuments = choice.OlderDocuments,
            NewVersions = choice.NewVersions,
            Chosen = inventory.Standing(Standing.Outside).Where(f => !outside.IsLeftOut(f)).Select(f => f.Path).ToImmutableHashSet(StringComparer.Ordinal),
        };
        return CopyInPlanner.Plan(request, cancel);
    }
}
