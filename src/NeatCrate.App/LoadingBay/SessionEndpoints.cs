using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Backups;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Store;

namespace NeatCrate.App.LoadingBay;

/// <summary>Which document is the current one.</summary>
public sealed record DocumentChoice([Required] string Document);

/// <summary>Requests about sessions.</summary>
public static class SessionEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions").WithTags("Sessions");
        group.MapGet("", List).WithName("ListSessions");
        group.MapGet("{id:guid}", Get).WithName("GetSession").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{id:guid}/inventory.csv", Report).WithName("GetInventoryReport").Produces<byte[]>(200, "text/csv").ProducesProblem(404).ProducesProblem(503);
        group.MapPut("{id:guid}/document", ChooseDocument).WithName("ChooseDocument").ProducesProblem(400).ProducesProblem(404).ProducesProblem(409);
        group.MapDelete("{id:guid}", Forget).WithName("ForgetSession").ProducesProblem(404);
    }

    private static Ok<SessionView[]> List(SessionService sessions, SessionFiles files, ShelfService shelves, SessionFinder finder, ShelfDrives shelfDrives, BackupViewMaker backups, CancellationToken cancel)
    {
        finder.LookNowAndThen();
        var known = shelves.All();
        var drives = shelfDrives.Of(known);
        return TypedResults.Ok(sessions.All().AsParallel().AsOrdered().WithCancellation(cancel)
            .Select(row => Label(row, files, known, drives, backups, cancel))
            .OrderBy(v => v.Attention).ThenByDescending(v => v.Name, StringComparer.Ordinal)
            .ToArray());
    }

    private static SessionView Label(SessionRow row, SessionFiles files, IReadOnlyList<Shelf> shelves, DrivesNow drives, BackupViewMaker backups, CancellationToken cancel)
    {
        var shelf = Shelf.Holding(shelves, row.Folder);
        var shelfName = shelf?.Name;
        try
        {
            var (inventory, overview) = files.Glance(row, shelves, cancel);
            return SessionViews.Label(row, inventory, overview, shelfName, backups.Status(row, inventory, shelves, drives));
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            // One session that cannot be looked at, for whatever reason, must not hide the others.
            return shelf is { IsConnected: false } || Directory.Exists(row.Folder)
                ? SessionViews.Unreachable(row, shelfName, Problems.Describe(e).Title, shelf is { IsConnected: false } ? "Connect the drive" : "Look at the folder")
                : SessionViews.Unreachable(row, shelfName, "Its folder is no longer in its place. If it was moved or renamed, it is looked for on the shelves by itself.", "Look for it");
        }
    }

    private static Ok<InventoryView> Get(Guid id, SessionService sessions, SessionFiles files, ShelfService shelves, BackupViewMaker backups, CancellationToken cancel)
    {
        var (row, known) = (sessions.Get(id), shelves.All());
        var (inventory, overview) = files.Overview(row, known, cancel);
        return TypedResults.Ok(SessionViews.Whole(row, inventory, overview, Shelf.Holding(known, row.Folder)?.Name, SharedBy(inventory, known), backups.Status(row, inventory)));
    }

    private static FileContentHttpResult Report(Guid id, SessionService sessions, ShelfService shelves, CopyInChoices choices, TimeProvider time, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var report = InventoryReport.Write(sessions.InventoryOf(row, cancel), choices.OutsideOf(id, sessions, shelves.All()));
        return TypedResults.File(report, "text/csv", $"{Path.GetFileName(row.Folder)} inventory {time.GetLocalNow():yyyy-MM-dd_HHmmss}.csv");
    }

    private static string[] SharedBy(SessionInventory inventory, IReadOnlyList<Shelf> shelves)
    {
        // One document at the top level is one session; only more than that is worth a look.
        if (inventory.Documents.Count(d => Path.GetDirectoryName(d.Path) == inventory.Folder) < 2)
        {
            return [];
        }
        var look = FolderLook.At(inventory, shelves);
        return look.IsShared ? [.. look.Sessions.Select(s => s.Title)] : [];
    }

    /// <summary>States another document as the current one, by a plan that is applied at once: it is in the history, and can be undone.</summary>
    private static Accepted<JobView> ChooseDocument(Guid id, DocumentChoice choice, SessionService sessions, PlanService plans, PlanJobs jobs, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        Requests.Require(choice.Document.Length > 0 && !choice.Document.Contains('/', StringComparison.Ordinal), "Only a document at the top of the session folder can be the current one.");
        var plan = plans.Keep(CurrentDocumentPlanner.Plan(id, sessions.InventoryOf(row, cancel), choice.Document));
        if (plan.Refusals.Length > 0)
        {
            throw new PlanRefusedException([.. plan.Refusals]);
        }
        var job = jobs.Apply(plans.Release(plan.Id)).View;
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static NoContent Forget(Guid id, SessionService sessions)
    {
        sessions.Forget(sessions.Get(id).Id);
        return TypedResults.NoContent();
    }
}
