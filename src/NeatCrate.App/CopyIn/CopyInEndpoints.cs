using System.Collections.Immutable;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Hosting;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Media;

namespace NeatCrate.App.CopyIn;

/// <summary>A mark of a whole place, or of single files.</summary>
/// <param name="Place">The place; null for single files.</param>
/// <param name="FileIds">The files; with a place, those of it.</param>
/// <param name="Taken">Whether they are to be copied in.</param>
public sealed record CopyInMark(string? Place, string[] FileIds, bool Taken);

/// <summary>How a session is copied in.</summary>
/// <param name="OlderDocuments">Whether older versions of the document count.</param>
/// <param name="ByItself">Whether what stands outside is copied in as soon as the document points at it.</param>
public sealed record CopyInWay(bool OlderDocuments, bool ByItself);

/// <summary>Requests about copying in.</summary>
public static class CopyInEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/copy-in").WithTags("Copy in");
        group.MapGet("", (Guid id, SessionService sessions, CopyInChoices choices) => TypedResults.Ok(Way(choices.Of(sessions.Get(id).Id)))).WithName("GetCopyInWay").ProducesProblem(404);
        group.MapPut("", ChangeWay).WithName("ChangeCopyInWay").ProducesProblem(404);
        group.MapPost("marks", Mark).WithName("MarkForCopyIn").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("plan", Plan).WithName("PlanCopyIn").ProducesProblem(404).ProducesProblem(503);
    }

    private static CopyInWay Way(CopyInChoice choice) => new(choice.OlderDocuments, choice.ByItself);

    private static Ok<CopyInWay> ChangeWay(Guid id, CopyInWay way, SessionService sessions, CopyInChoices choices) => TypedResults.Ok(Way(choices.Change(
        sessions.Get(id).Id,
        c => c with { OlderDocuments = way.OlderDocuments, ByItself = way.ByItself, Handled = way.ByItself ? c.Handled : [] })));

    private static NoContent Mark(Guid id, CopyInMark mark, SessionService sessions, ShelfService shelves, CopyInChoices choices, CancellationToken cancel)
    {
        Requests.RequireList(mark.FileIds, SessionViews.MostChosen, "files");
        var files = SessionViews.Chosen(mark.FileIds, sessions.Show(sessions.Get(id), shelves.All(), cancel))!;
        choices.Change(id, c =>
        {
            var marks = mark.Place is { } place ? c.Marks.MarkPlace(place, files, mark.Taken) : c.Marks.MarkFiles(files, mark.Taken);
            return c with { Places = marks.Places, Files = marks.Files };
        });
        return TypedResults.NoContent();
    }

    /// <summary>The plan for everything outside that nobody left out.</summary>
    private static Ok<PlanView> Plan(
        Guid id, SessionService sessions, ShelfService shelves, PlanService plans, CopyInChoices choices, IIdentities identities, CancellationToken cancel)
    {
        var inventory = sessions.Take(sessions.Get(id), cancel);
        var (known, choice, others) = (shelves.All(), choices.Of(id), sessions.OtherFolders(id));
        var request = new CopyInRequest(id, inventory, known, identities)
        {
            OlderDocuments = choice.OlderDocuments,
            Chosen = inventory.Files.Where(f => choice.Marks.Takes(f.Path, Origin.Of(f.Path, known, others))).Select(f => f.Path).ToImmutableHashSet(StringComparer.Ordinal),
        };
        return TypedResults.Ok(PlanViews.View(plans.Keep(CopyInPlanner.Plan(request, cancel)), known));
    }
}
