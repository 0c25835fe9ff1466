using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.CopyIn;

namespace NeatCrate.App.CopyIn;

/// <summary>Which outside files to copy in; null for all.</summary>
public sealed record CopyInChoice(string[]? FileIds);

/// <summary>Requests about copying in.</summary>
public static class CopyInEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/api/sessions/{id:guid}/copy-in/plan", Plan).WithName("PlanCopyIn").WithTags("Copy in").ProducesProblem(404).ProducesProblem(503);

    private static Ok<PlanView> Plan(
        Guid id, CopyInChoice choice, SessionService sessions, ShelfService shelves, PlanService plans, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var inventory = sessions.Take(row, cancel);
        var chosen = SessionViews.Chosen(choice.FileIds, inventory);
        var known = shelves.All();
        return TypedResults.Ok(PlanViews.View(plans.Keep(CopyInPlanner.Plan(id, inventory, known, chosen, cancel)), known));
    }
}
