using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Record;

/// <summary>What the recorder is to do.</summary>
public sealed record RecordChoice(
    [Required, MinLength(1), MaxLength(64)] string[] Tracks,
    [Range(0.1, 86400)] double Seconds,
    [Range(0, 86400)] double FromSeconds,
    [Range(1, 9999)] int? Pass,
    [Range(1, 100)] double Speed,
    [Range(0.1, 86400)] double? CutPowerAfter);

/// <summary>Which takes a plan leaves out, by their identities; it is about all others that wait.</summary>
public sealed record TakesChoice(string[] LeftOut);

/// <summary>Requests about recording.</summary>
public static class RecordEndpoints
{
    private const int MostTrackName = 80;
    private const int MostTracks = 64;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/recording", (RecordService record) => TypedResults.Ok(new RecordingNow(record.Current))).WithName("GetRecording").WithTags("Record");
        var group = app.MapGroup("/api/sessions/{id:guid}/record").WithTags("Record");
        group.MapGet("", Get).WithName("GetRecord").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("start", Start).WithName("StartRecording").ProducesProblem(404).ProducesProblem(409).ProducesProblem(503).ProducesValidationProblem();
        group.MapPost("stop", (Guid id, RecordService record) => Ended(record.Stop(id))).WithName("StopRecording").ProducesProblem(409);
        group.MapPost("cut-power", (Guid id, RecordService record) => Ended(record.CutPower(id))).WithName("CutRecorderPower").ProducesProblem(409);
        group.MapPost("takes/plan", PlanTakes).WithName("PlanTakes").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("repair/plan", PlanRepair).WithName("PlanRepair").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("mirror/plan", PlanMirror).WithName("PlanMirror").ProducesProblem(404).ProducesProblem(503);
    }

    /// <summary>What the recorder is doing, or did last; null when nothing was recorded since the start.</summary>
    public sealed record RecordingNow(RecordingView? Recording);

    private static async Task<Ok<RecordingView>> Ended(Task<RecordingView?> ended) => TypedResults.Ok(await ended);

    private static Ok<RecordView> Get(
        Guid id, SessionService sessions, SessionFiles files, ShelfService shelves, ShelfDrives drives, RecordingGuard guard, MirrorLedger ledger, CancellationToken cancel, int armed = 0)
    {
        var row = sessions.Get(id);
        var known = shelves.All();
        var (inventory, overview) = files.Overview(row, known, cancel);
        var takes = files.Takes(row, known);
        var settings = inventory.Document?.Settings ?? new SessionSettings();
        var mirror = settings.MirrorShelfId is { } shelfId ? known.FirstOrDefault(s => s.Id == shelfId) : null;
        var growing = guard.GrowingIn(id);
        var budget = RecordingBudget.Of(
            Math.Clamp(armed, 0, 1000), settings.SampleRate, settings.BitDepth, settings.ExpectedMinutes * 60, new DriveInfo(row.Folder).AvailableFreeSpace, MirrorPlace.Of(mirror, row.Folder));
        return TypedResults.Ok(new RecordView(
            [.. (inventory.Document?.Tracks ?? []).Where(t => t.Length > 0).Distinct().Select(t => new RecordTrackView(
                t, takes.Count(k => string.Equals(k.Track, t, StringComparison.OrdinalIgnoreCase)), TakeFinder.NextNumber(takes, t)))],
            TakeFinder.NextPass(takes),
            settings.SampleRate,
            settings.BitDepth,
            inventory.Document is null ? inventory.Current?.Problem is { } problem ? Sentences.Of(problem) : "This folder has no session document. Takes are kept with one, so save it first." : null,
            budget.SecondsLeft,
            budget.MirrorSecondsLeft,
            budget.BytesPerSecond,
            mirror is null ? null : new MirrorView(
                mirror.Id, mirror.Name, mirror.IsConnected, drives.Of(known) is var now && now.Of(mirror.Id) == now.Of(row.Folder), ledger.Verified(id), [.. ledger.Gaps(id).Select(g => Path.GetFileName(g.Gap.Take))]),
            overview.Takes.Waiting,
            overview.Takes.CutOff,
            [.. growing.Select(g => Path.GetFileName(g))]));
    }

    private static Ok<RecordingView> Start(
        Guid id, RecordChoice choice, SessionService sessions, ShelfService shelves, RecordService record, CancellationToken cancel)
    {
        Requests.RequireList(choice.Tracks, MostTracks, "tracks");
        if (choice.Tracks.FirstOrDefault(t => t.Trim().Length is 0 or > MostTrackName) is not null)
        {
            throw new PlanRefusedException($"A track needs a name of at most {MostTrackName} characters.");
        }
        var row = sessions.Get(id);
        var request = new RecordRequest(
            [.. choice.Tracks.Select(t => t.Trim()).Distinct(StringComparer.OrdinalIgnoreCase)], choice.Seconds, choice.FromSeconds, choice.Pass, choice.Speed, choice.CutPowerAfter);
        return TypedResults.Ok(record.Start(row, sessions.InventoryOf(row, cancel), shelves.All(), request));
    }

    private static async Task<Ok<PlanView>> PlanTakes(Guid id, TakesChoice choice, SessionService sessions, PlanJobs jobs, RecordingGuard guard, CancellationToken cancel)
    {
        Requests.RequireList(choice.LeftOut, FileViews.MostChosen, "files");
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make($"Plan which takes are added to '{Path.GetFileName(row.Folder)}'", row, job =>
        {
            var inventory = sessions.InventoryOf(row, job.Cancel);
            return TakesPlanner.Plan(id, inventory, guard.GrowingIn(id), Chosen(choice, inventory));
        }, cancel));
    }

    private static async Task<Ok<PlanView>> PlanRepair(
        Guid id, TakesChoice choice, SessionService sessions, ShelfService shelves, PlanJobs jobs, RecordingGuard guard, CancellationToken cancel)
    {
        Requests.RequireList(choice.LeftOut, FileViews.MostChosen, "files");
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make($"Plan to repair recordings of '{Path.GetFileName(row.Folder)}'", row, job =>
        {
            var inventory = sessions.InventoryOf(row, job.Cancel);
            return RepairPlanner.Plan(id, inventory, shelves.All(), guard.GrowingIn(id), Chosen(choice, inventory));
        }, cancel));
    }

    /// <summary>Paths of the files that the plan is about; null for all.</summary>
    private static HashSet<string>? Chosen(TakesChoice choice, SessionInventory inventory)
    {
        var leftOut = choice.LeftOut.ToHashSet(StringComparer.Ordinal);
        return leftOut.Count == 0 ? null : inventory.Files.Where(f => !leftOut.Contains(f.Id)).Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
    }

    private static async Task<Ok<PlanView>> PlanMirror(Guid id, SessionService sessions, ShelfService shelves, PlanJobs jobs, MirrorLedger ledger, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var gaps = ledger.Gaps(id).GroupBy(g => g.ShelfId).FirstOrDefault() ?? throw new NotKnownException("No take of this session is missing on a mirror.");
        var mirror = shelves.All().FirstOrDefault(s => s.Id == gaps.Key) ?? throw new NotKnownException("The mirror's shelf is not known any more.");
        return TypedResults.Ok(await jobs.Make($"Plan to copy takes to '{mirror.Name}'", row, _ => MirrorPlanner.Plan(id, mirror, [.. gaps.Select(g => g.Gap)]), cancel));
    }
}
