using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using NeatCrate.App.Backups;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Purge;
using NeatCrate.Store;

namespace NeatCrate.App.Purge;

/// <summary>What counts beside the current version.</summary>
/// <param name="OlderVersions">Older versions in the session folder.</param>
/// <param name="OtherSessions">Other known sessions.</param>
/// <param name="KeptSaves">Kept saves of the documents.</param>
public sealed record CountingRequest(
    [FromQuery(Name = "olderVersions")] bool OlderVersions = true, [FromQuery(Name = "otherSessions")] bool OtherSessions = true, [FromQuery(Name = "keptSaves")] bool KeptSaves = true)
{
    internal PurgeCounting Counting => new(OlderVersions, OtherSessions, KeptSaves);
}

/// <summary>Which of the judged files a list shows.</summary>
/// <param name="Group">Only this group.</param>
/// <param name="Everything">True to show also what may not go.</param>
/// <param name="Text">Words that all occur in a file's path or track.</param>
/// <param name="Order">What it is sorted by.</param>
/// <param name="Descending">True for the last first.</param>
public sealed record PurgeListRequest(
    [FromQuery(Name = "group")] PurgeGroup? Group = null,
    [FromQuery(Name = "everything")] bool Everything = false,
    [FromQuery(Name = "text")] string Text = "",
    [FromQuery(Name = "order")] PurgeOrder Order = PurgeOrder.Group,
    [FromQuery(Name = "descending")] bool Descending = false,
    [FromQuery(Name = "byPass")] bool ByPass = false)
{
    private const int MostText = 1000;

    // What binds requests leaves a text that is not given null, whatever its default.
    /// <summary>Words that all occur in a file's path or track.</summary>
    public string Text { get; } = Text ?? "";

    internal PurgeQuery Query()
    {
        Requests.Require((Group is null || Enum.IsDefined(Group.Value)) && Enum.IsDefined(Order), "There is no such list.");
        Requests.Require(Text.Length <= MostText, $"A filter takes {MostText} characters at the most.");
        return new PurgeQuery(Group, Everything, Text, Order, Descending, ByPass);
    }
}

/// <summary>What becomes of the chosen files.</summary>
public enum PurgeDepth
{
    /// <summary>They are moved into the holding place.</summary>
    SetAside,

    /// <summary>They go off the session's list, and stay where they are.</summary>
    OffList,
}

/// <summary>What is chosen to go.</summary>
/// <param name="Groups">Whole groups, but for what goes only by name.</param>
/// <param name="Except">Files of these groups that stay.</param>
/// <param name="Also">Files that go as well.</param>
/// <param name="Depth">What becomes of them.</param>
/// <param name="InstrumentsAreThere">Whether whoever opens the session next has the instruments of the renders that go.</param>
/// <param name="OlderVersions">Whether older versions count.</param>
/// <param name="OtherSessions">Whether other sessions count.</param>
/// <param name="KeptSaves">Whether kept saves of the documents count.</param>
public sealed record PurgeAsked(PurgeGroup[] Groups, string[] Except, string[] Also, PurgeDepth Depth, bool InstrumentsAreThere, bool OlderVersions, bool OtherSessions, bool KeptSaves = true);

/// <summary>What is chosen of what is held.</summary>
/// <param name="Held">Paths from the holding place; null for all of it.</param>
/// <param name="ByContent">For emptying: whether the copies in backups are read whole and compared, and not only looked at.</param>
public sealed record HeldAsked(string[]? Held, bool ByContent = false);

/// <summary>Requests about what could go, and what is held.</summary>
public static class PurgeEndpoints
{
    private const int MostAtOnce = 500;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/purge").WithTags("Purge");
        group.MapGet("", Get).WithName("GetPurge").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("files", List).WithName("ListPurge").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapGet("files/ids", Ids).WithName("ListPurgeIds").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapGet("files/{fileId}/position", Position).WithName("GetPurgePosition").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapPost("plan", Plan).WithName("PlanPurge").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapPost("read", Read).WithName("ReadAlike").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("held", ListHeld).WithName("ListHeld").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("put-back/plan", PlanPutBack).WithName("PlanPutBack").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapPost("empty/plan", PlanEmpty).WithName("PlanEmpty").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
    }

    /// <summary>Hundreds of kept saves may have to be read for it, once: whoever waits sees how far it is, and can stop it.</summary>
    private static async Task<Ok<PurgeInfoView>> Get(Guid id, [AsParameters] CountingRequest counting, SessionService sessions, PurgeService purge, WorkEngine engine, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var looking = new AskedWork<JudgedSession>(
            JobWork.Look, $"Look at what uses what in '{Path.GetFileName(row.Folder)}'", job => purge.Of(row, counting.Counting, false, job.Cancel, job))
        { SessionId = id };
        return TypedResults.Ok(PurgeViewMaker.View(await looking.In(engine, cancel) ?? throw new FaultException(new Fault(FaultCode.LookStopped))));
    }

    private static Ok<PurgeFilesView> List(
        Guid id, [AsParameters] CountingRequest counting, [AsParameters] PurgeListRequest request, SessionService sessions, SessionFiles files, ShelfService shelves, PurgeService purge,
        CancellationToken cancel, int skip = 0, int take = 100)
    {
        var row = sessions.Get(id);
        var judged = purge.Of(row, counting.Counting, false, cancel);
        var (listing, outside) = files.Look(row, shelves.All(), cancel);
        var query = request.Query();
        var list = judged.List(query);
        List<PurgeItem> shown = [.. list.Skip(Math.Max(0, skip)).Take(Math.Clamp(take, 0, MostAtOnce))];
        var also = purge.AlsoIn(row, shown);
        return TypedResults.Ok(new PurgeFilesView(list.Length, query.Runs(list), [.. shown.Select(i => PurgeViewMaker.View(i, query.PartOf(i), [.. also[i.Path]], judged, listing, outside))]));
    }

    private static Ok<string[]> Ids(
        Guid id, [AsParameters] CountingRequest counting, [AsParameters] PurgeListRequest request, SessionService sessions, PurgeService purge, CancellationToken cancel,
        int skip = 0, int take = FileViews.MostChosen) =>
        TypedResults.Ok(purge.Of(sessions.Get(id), counting.Counting, false, cancel).List(request.Query())
            .Skip(Math.Max(0, skip)).Take(Math.Clamp(take, 0, FileViews.MostChosen)).Select(i => i.Id).ToArray());

    private static Ok<FilePositionView> Position(
        Guid id, string fileId, [AsParameters] CountingRequest counting, [AsParameters] PurgeListRequest request, SessionService sessions, PurgeService purge, CancellationToken cancel)
    {
        var list = purge.Of(sessions.Get(id), counting.Counting, false, cancel).List(request.Query());
        var at = list.Select((i, n) => (i.Id, N: n)).Where(p => p.Id == fileId).Select(p => (int?)p.N).FirstOrDefault();
        return TypedResults.Ok(new FilePositionView(at));
    }

    private static async Task<Ok<PurgePlanView>> Plan(
        Guid id, PurgeAsked asked, SessionService sessions, ShelfService shelves, PlanJobs jobs, PurgeService purge, TimeProvider time, CancellationToken cancel)
    {
        Requests.RequireList(asked.Groups, 100, "groups");
        Requests.RequireList(asked.Except, FileViews.MostChosen, "files");
        Requests.RequireList(asked.Also, FileViews.MostChosen, "files");
        Requests.Require(Enum.IsDefined(asked.Depth) && asked.Groups.All(g => Enum.IsDefined(g)), "There is no such way to let files go.");
        var row = sessions.Get(id);
        (JudgedSession Judged, List<PurgeItem> Chosen)? made = null;
        var plan = await jobs.Make($"Plan what is set aside of '{Path.GetFileName(row.Folder)}'", row, job =>
        {
            var judged = purge.Of(row, new PurgeCounting(asked.OlderVersions, asked.OtherSessions, asked.KeptSaves), true, job.Cancel);
            var chosen = Chosen(judged, asked);
            made = (judged, chosen);
            var request = new SetAsideRequest(id, judged.World, judged.Items, chosen.Select(c => c.Path).ToHashSet(StringComparer.Ordinal), shelves.All(), time.GetUtcNow().UtcDateTime)
            {
                InstrumentsAreThere = asked.InstrumentsAreThere,
            };
            return asked.Depth == PurgeDepth.OffList ? SetAsidePlanner.TakeOffList(request) : SetAsidePlanner.SetAside(request);
        }, cancel);
        var (known, going) = made!.Value;
        var files = going.Where(g => !g.IsFolder).ToList();
        return TypedResults.Ok(new PurgePlanView(plan, files.Count, files.Sum(f => f.Bytes), PurgeViewMaker.Scale(known, asked.Depth == PurgeDepth.OffList ? [] : going)));
    }

    private static List<PurgeItem> Chosen(JudgedSession judged, PurgeAsked asked)
    {
        var (groups, except, also) = (asked.Groups.ToHashSet(), asked.Except.ToHashSet(StringComparer.Ordinal), asked.Also.ToHashSet(StringComparer.Ordinal));
        return [.. judged.Items.Where(i => also.Contains(i.Id) || (i.Group is { } group && groups.Contains(group) && !i.IsOnlyByName && !except.Contains(i.Id)))];
    }

    private static Accepted<JobView> Read(Guid id, SessionService sessions, PurgeService purge, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var job = purge.Read(row, purge.Of(row, new PurgeCounting(), false, cancel)).View;
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static Ok<HeldFilesView> ListHeld(
        Guid id, SessionService sessions, SessionFiles files, ShelfService shelves, PurgeService purge, CancellationToken cancel, int skip = 0, int take = 100)
    {
        var row = sessions.Get(id);
        var judged = purge.Of(row, new PurgeCounting(), false, cancel);
        var (listing, outside) = files.Look(row, shelves.All(), cancel);
        var held = judged.World.Inventory.Held.Files;
        return TypedResults.Ok(new HeldFilesView(
            held.Length, [.. held.Reverse().Skip(Math.Max(0, skip)).Take(Math.Clamp(take, 0, MostAtOnce)).Select(h => PurgeViewMaker.View(h, judged, listing, outside))]));
    }

    private static async Task<Ok<PlanView>> PlanPutBack(Guid id, HeldAsked asked, SessionService sessions, PlanJobs jobs, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make(
            $"Plan what is put back into '{Path.GetFileName(row.Folder)}'", row, job => HeldPlanner.PutBack(Request(row, asked, sessions, job.Cancel)), cancel));
    }

    private static async Task<Ok<PlanView>> PlanEmpty(
        Guid id, HeldAsked asked, SessionService sessions, PlanJobs jobs, PurgeService purge, VaultService vaults, IIdentities identities, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make($"Plan what is deleted of what '{Path.GetFileName(row.Folder)}' holds set aside", row, job =>
        {
            var (reading, inVaults) = (new WatchedIdentities(identities, job), vaults.LookNow(asked.ByContent, job.Cancel));
            var world = purge.Of(row, new PurgeCounting(), true, job.Cancel).World;
            return HeldPlanner.Empty(
                Request(row, asked, sessions, job.Cancel), reading, (path, identity) => purge.IsInABackup(path, identity, inVaults, reading, job.Cancel), path => PurgeService.PlayedBy(world, path), job.Cancel);
        }, cancel));
    }

    private static HeldRequest Request(SessionRow row, HeldAsked asked, SessionService sessions, CancellationToken cancel)
    {
        if (asked.Held is { } held)
        {
            Requests.RequireList(held, FileViews.MostChosen, "files");
        }
        return new HeldRequest(row.Id, sessions.InventoryOf(row, cancel), asked.Held?.ToHashSet(StringComparer.Ordinal));
    }
}
