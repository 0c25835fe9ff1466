using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.CopyIn;
using NeatCrate.App.Hosting;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Record;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>Which document is the current one.</summary>
public sealed record DocumentChoice([Required] string Document);

/// <summary>A document that uses a file.</summary>
/// <param name="Placed">How many clips of it play the file; 0 where it is only on the list.</param>
/// <param name="Tracks">The tracks that these are on.</param>
public sealed record FileUseView(Guid SessionId, string Session, string Document, bool IsCurrent, int Placed, IReadOnlyList<string> Tracks);

/// <summary>Requests about sessions.</summary>
public static class SessionEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions").WithTags("Sessions");
        group.MapGet("", List).WithName("ListSessions");
        group.MapGet("{id:guid}", Get).WithName("GetSession").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{id:guid}/changes", Changes).WithName("GetSessionChanges").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{id:guid}/inventory.csv", Report).WithName("GetInventoryReport").Produces<byte[]>(200, "text/csv").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{id:guid}/files/{fileId}/uses", Uses).WithName("GetFileUses").ProducesProblem(404).ProducesProblem(503);
        group.MapPut("{id:guid}/document", ChooseDocument).WithName("ChooseDocument").ProducesProblem(400).ProducesProblem(404).ProducesProblem(409);
        group.MapDelete("{id:guid}", Forget).WithName("ForgetSession").ProducesProblem(404);
    }

    private static Ok<SessionView[]> List(SessionService sessions, ShelfService shelves, SessionFinder finder, CopyInChoices choices, CancellationToken cancel)
    {
        finder.LookNowAndThen();
        var known = shelves.All();
        return TypedResults.Ok(sessions.All().AsParallel().AsOrdered().WithCancellation(cancel)
            .Select(row => Label(row, sessions, known, choices, cancel))
            .OrderBy(v => v.Attention).ThenByDescending(v => v.Name, StringComparer.Ordinal)
            .ToArray());
    }

    private static SessionView Label(SessionRow row, SessionService sessions, IReadOnlyList<Shelf> shelves, CopyInChoices choices, CancellationToken cancel)
    {
        var shelf = Shelf.Holding(shelves, row.Folder);
        var shelfName = shelf?.Name;
        try
        {
            return SessionViews.Label(row, sessions.Glance(row, shelves, cancel), shelfName, OutsideFiles.Of(row.Id, sessions, shelves, choices));
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            // One session that cannot be looked at, for whatever reason, must not hide the others.
            return shelf is { IsConnected: false } || Directory.Exists(row.Folder)
                ? SessionViews.Unreachable(row, shelfName, Problems.Describe(e).Title, shelf is { IsConnected: false } ? "Connect the drive" : "Look at the folder")
                : SessionViews.Unreachable(row, shelfName, "Its folder is no longer in its place. If it was moved or renamed, it is looked for on the shelves by itself.", "Look for it");
        }
    }

    /// <summary>What changed since a revision that a page has: a few rows, where all of a large session would be many megabytes.</summary>
    private static Ok<ChangesView> Changes(
        Guid id, long since, SessionService sessions, KeptSessions kept, ShelfService shelves, RecordingGuard guard, CopyInChoices choices, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var known = shelves.All();
        // Asked after the inventory: what came in between is told once more the next time.
        var (inventory, keeper) = (sessions.Show(row, known, cancel), kept.Of(row));
        return TypedResults.Ok(SessionViews.Changes(
            row, inventory, keeper.Since(since), Shelf.Holding(known, row.Folder)?.Name, guard.GrowingIn(id), OutsideFiles.Of(id, sessions, known, choices)));
    }

    private static Ok<InventoryView> Get(
        Guid id, SessionService sessions, ShelfService shelves, RecordingGuard guard, CopyInChoices choices, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var known = shelves.All();
        var inventory = sessions.Show(row, known, cancel);
        return TypedResults.Ok(SessionViews.Whole(row, inventory, Shelf.Holding(known, row.Folder)?.Name, guard.GrowingIn(id), OutsideFiles.Of(id, sessions, known, choices), SharedBy(inventory, known)));
    }

    private static FileContentHttpResult Report(Guid id, SessionService sessions, ShelfService shelves, CopyInChoices choices, TimeProvider time, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var report = InventoryReport.Write(sessions.Take(row, cancel), OutsideFiles.Of(id, sessions, shelves.All(), choices));
        return TypedResults.File(report, "text/csv", $"{Path.GetFileName(row.Folder)} inventory {time.GetLocalNow():yyyy-MM-dd_HHmmss}.csv");
    }

    /// <summary>Where a file is used, in all known sessions: those of this session first, then the current documents.</summary>
    private static Ok<FileUseView[]> Uses(Guid id, string fileId, SessionService sessions, UseIndex index, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var file = sessions.FindFile(row, fileId, cancel) ?? throw new NotKnownException("This file is not there.");
        var known = sessions.All().ToDictionary(s => s.Folder, s => s.Id, StringComparer.Ordinal);
        return TypedResults.Ok(index.UsesOf(new HashSet<string>(StringComparer.Ordinal) { file.Path })
            .GroupBy(u => (u.SessionFolder, u.Document, u.IsCurrent))
            .OrderByDescending(g => g.Key.SessionFolder == row.Folder).ThenByDescending(g => g.Key.IsCurrent).ThenBy(g => g.Key.Document, StringComparer.Ordinal)
            .Select(g => new FileUseView(
                known.GetValueOrDefault(g.Key.SessionFolder), Path.GetFileName(g.Key.SessionFolder), Path.GetFileName(g.Key.Document), g.Key.IsCurrent, g.Count(u => u.IsPlaced),
                [.. g.Select(u => u.Track).OfType<string>().Distinct()]))
            .ToArray());
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
    private static Accepted<JobView> ChooseDocument(Guid id, DocumentChoice choice, SessionService sessions, PlanService plans, JobRunner jobs, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        Requests.Require(choice.Document.Length > 0 && !choice.Document.Contains('/', StringComparison.Ordinal), "Only a document at the top of the session folder can be the current one.");
        var plan = plans.Keep(CurrentDocumentPlanner.Plan(id, sessions.Take(row, cancel), choice.Document));
        if (plan.Refusals.Length > 0)
        {
            throw new PlanRefusedException([.. plan.Refusals]);
        }
        var job = jobs.Enqueue(plans.Take(plan.Id));
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static NoContent Forget(Guid id, SessionService sessions)
    {
        sessions.Forget(sessions.Get(id).Id);
        return TypedResults.NoContent();
    }
}
