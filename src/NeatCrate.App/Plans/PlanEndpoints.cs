using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Plans;
using NeatCrate.Store;

namespace NeatCrate.App.Plans;

/// <summary>Requests about plans and the history.</summary>
public static class PlanEndpoints
{
    private const int MostHistory = 200;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var plans = app.MapGroup("/api/plans").WithTags("Plans");
        plans.MapGet("{id:guid}", Get).WithName("GetPlan").ProducesProblem(404);
        plans.MapPost("{id:guid}/apply", Apply).WithName("ApplyPlan").ProducesProblem(404).ProducesProblem(409);
        plans.MapPost("{id:guid}/undo", Undo).WithName("PlanUndo").ProducesProblem(404);
        plans.MapGet("{id:guid}/report", Report).WithName("GetReport").ProducesProblem(404);
        plans.MapGet("{id:guid}/report.csv", ReportCsv).WithName("GetReportCsv").Produces<byte[]>(200, "text/csv").ProducesProblem(404);
        plans.MapPost("{id:guid}/redo", Redo).WithName("PlanRedo").ProducesProblem(404);
        app.MapGet("/api/sessions/{id:guid}/history", History).WithName("GetHistory").WithTags("Plans");
    }

    private static Ok<PlanView> Get(Guid id, PlanService plans, ShelfService shelves) => TypedResults.Ok(PlanViews.View(plans.Get(id), shelves.All()));

    private static Accepted<JobView> Apply(Guid id, PlanService plans, PlanJobs jobs)
    {
        var refused = plans.Get(id).Refusals;
        if (refused.Length > 0)
        {
            throw new PlanRefusedException([.. refused]);
        }
        var job = jobs.Apply(plans.Release(id)).View;
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static async Task<Ok<PlanView>> Undo(Guid id, PlanJournal journal, PlanJobs jobs, SessionService sessions, CancellationToken cancel)
    {
        var entry = journal.Find(id) is { State: PlanState.Applied } found
            ? found
            : throw new NotKnownException("The history holds no applied plan that could be undone here, or it was too long ago.");
        var session = sessions.All().FirstOrDefault(s => s.Id == entry.Plan.SessionId);
        return TypedResults.Ok(await jobs.Make($"Plan the undo of: {entry.Plan.Sentence}", session, _ => UndoPlanner.Plan(WhereItIsNow(entry.Plan, sessions), entry.Records), cancel));
    }

    private static Ok<ReportView> Report(Guid id, PlanJournal journal, ShelfService shelves) => TypedResults.Ok(PlanReport.View(Reported(id, journal), shelves.All()));

    private static FileContentHttpResult ReportCsv(Guid id, PlanJournal journal, ShelfService shelves)
    {
        var report = PlanReport.View(Reported(id, journal), shelves.All());
        return TypedResults.File(PlanReport.Write(report), "text/csv; charset=utf-8", $"{report.Ended.ToLocalTime():yyyy-MM-dd_HHmmss} {report.Session} clean-up.csv");
    }

    /// <summary>A plan that was applied, for its report.</summary>
    /// <exception cref="NotKnownException">It was not, or too long ago.</exception>
    internal static (HistoryEntry Entry, long EndedMs) Reported(Guid id, PlanJournal journal) =>
        journal.Find(id) is { State: PlanState.Applied } found ? (found, journal.EndedMs(id)) : throw new NotKnownException("The history holds no work that was applied under this name.");

    /// <summary>Plans to do once more what an undo took back.</summary>
    private static async Task<Ok<PlanView>> Redo(Guid id, PlanJournal journal, PlanJobs jobs, SessionService sessions, CancellationToken cancel)
    {
        if (journal.Find(id) is not { State: PlanState.Applied, Plan: { Kind: PlanKind.Undo, Undoes: { } undone } undo } || journal.Find(undone) is not { Plan: var plan })
        {
            throw new NotKnownException("The history holds no undo that could be redone here, or it was too long ago.");
        }
        var session = sessions.All().FirstOrDefault(s => s.Id == plan.SessionId);
        return TypedResults.Ok(await jobs.Make($"Plan to redo: {plan.Sentence}", session, _ => RedoPlanner.Plan(WhereItIsNow(plan, sessions), undo), cancel));
    }

    /// <summary>A session that was moved since takes its history along.</summary>
    private static Plan WhereItIsNow(Plan applied, SessionService sessions) =>
        sessions.All().FirstOrDefault(s => s.Id == applied.SessionId) is { } session && !Directory.Exists(applied.WritableRoots[0])
        // A plan that made a copy elsewhere changed nothing in the session.
        && (applied is { Kind: PlanKind.Trim, KeepsFolderTimes: true } || applied.Kind is PlanKind.Settings or PlanKind.Version or PlanKind.CurrentDocument or PlanKind.CopyIn or PlanKind.Relink or PlanKind.SetAside or PlanKind.PutBack or PlanKind.EmptyHeld or PlanKind.Import or PlanKind.Takes or PlanKind.TakeLog or PlanKind.Repair)
            ? PlanPlaces.Moved(applied, applied.WritableRoots[0], session.Folder)
            : applied;

    private static Ok<HistoryView[]> History(Guid id, PlanJournal journal)
    {
        var undone = journal.Undone(id);
        var rows = journal.History(id, MostHistory);
        var redoable = RedoPlanner.Redoable(rows.Where(r => r.State == PlanState.Applied).Select(r => (r.Id, r.Kind, r.Undoes)));
        return TypedResults.Ok(rows.Select(p => new HistoryView(
            p.Id,
            p.Kind,
            p.Sentence,
            p.State.ToString(),
            DateTimeOffset.FromUnixTimeMilliseconds(p.EndedMs),
            Sentences.OfText(p.Note),
            undone.Contains(p.Id),
            p is { State: PlanState.Applied, Kind: not (null or PlanKind.Undo), IsKept: true } && !undone.Contains(p.Id),
            p.IsKept && p.Id == redoable,
            p.By?.Name)).ToArray());
    }
}
