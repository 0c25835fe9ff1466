using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Relink;
using NeatCrate.Store;

namespace NeatCrate.App.LoadingBay;

/// <summary>What is to be planned for many sessions.</summary>
/// <param name="SessionIds">The sessions.</param>
/// <param name="Work">What is to be done.</param>
/// <param name="Way">How found files come back.</param>
public sealed record ManyAsked([Required] Guid[] SessionIds, ManyWork Work, RelinkWay Way = RelinkWay.CopyIn);

/// <summary>Plans that are to be applied.</summary>
public sealed record PlansAsked([Required] Guid[] PlanIds);

/// <summary>A plan that is being applied, or is not.</summary>
/// <param name="PlanId">The plan.</param>
/// <param name="Job">The work; null where it is not applied.</param>
/// <param name="Problem">Why it is not.</param>
public sealed record BegunPlan(Guid PlanId, JobView? Job, string? Problem);

/// <summary>Requests about plans for many sessions at once.</summary>
public static class ManyPlansEndpoints
{
    private const int MostSessions = 1000;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/many").WithTags("Many sessions");
        group.MapPost("plans", Plan).WithName("PlanMany").ProducesProblem(400).ProducesProblem(404);
        group.MapPost("apply", Apply).WithName("ApplyMany").ProducesProblem(400);
        group.MapPost("report.csv", ReportCsv).WithName("GetManyReportCsv").Produces<byte[]>(200, "text/csv").ProducesProblem(400).ProducesProblem(404);
    }

    /// <summary>What was done in all of them, file by file, as one table. Asked for by a body, since there are more plans than fit in an address.</summary>
    private static FileContentHttpResult ReportCsv(PlansAsked asked, PlanJournal journal, ShelfService shelves, TimeProvider time)
    {
        Requests.RequireList(asked.PlanIds, MostSessions, "plans");
        var known = shelves.All();
        return TypedResults.File(
            PlanReport.Write(asked.PlanIds.Distinct().Select(id => PlanReport.View(PlanEndpoints.Reported(id, journal), known)).ToList()), "text/csv; charset=utf-8", $"{time.GetLocalNow():yyyy-MM-dd_HHmmss} many sessions.csv");
    }

    private static async Task<Ok<IReadOnlyList<ManyPlanView>>> Plan(ManyAsked asked, ManyPlans many, CancellationToken cancel)
    {
        Requests.RequireList(asked.SessionIds, MostSessions, "sessions");
        Requests.Require(asked.SessionIds.Length > 0, "No session is chosen.");
        Requests.Require(Enum.IsDefined(asked.Work) && Enum.IsDefined(asked.Way), "There is no such work.");
        return TypedResults.Ok(await many.Make(asked.SessionIds, asked.Work, asked.Way, cancel));
    }

    /// <summary>Each is applied by itself, and waits for what else goes on in its folders.</summary>
    private static Ok<BegunPlan[]> Apply(PlansAsked asked, PlanService plans, PlanJobs jobs)
    {
        Requests.RequireList(asked.PlanIds, MostSessions, "plans");
        return TypedResults.Ok(asked.PlanIds.Distinct().Select(id =>
        {
            try
            {
                return new BegunPlan(id, jobs.Apply(plans.Release(id)).View, null);
            }
            catch (NotKnownException e)
            {
                // Applied by somebody else, or pushed out by newer ones: the others are done all the same.
                return new BegunPlan(id, null, e.Message);
            }
        }).ToArray());
    }
}
