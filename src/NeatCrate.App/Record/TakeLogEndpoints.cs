using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Listening;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Record;

namespace NeatCrate.App.Record;

/// <summary>A take in the take log.</summary>
/// <param name="File">The recording, with what is known of the take.</param>
/// <param name="Placed">Where it is placed.</param>
public sealed record LoggedTakeView(FileView File, IReadOnlyList<TakePlacement> Placed);

/// <summary>A line of the take log.</summary>
public sealed record TakeLogRowView(int? Pass, int? Number, IReadOnlyList<LoggedTakeView> Takes);

/// <summary>A part of the take log.</summary>
/// <param name="Tracks">The tracks across.</param>
/// <param name="Total">How many lines there are.</param>
/// <param name="Files">The lines of this part.</param>
public sealed record TakeLogView(IReadOnlyList<string> Tracks, int Total, IReadOnlyList<TakeLogRowView> Files);

/// <summary>What is to change about a take; what is null stays as it is.</summary>
/// <param name="FileId">The recording.</param>
/// <param name="IsKeeper">Whether it is marked as the one to keep.</param>
/// <param name="Note">The note on it; an empty one takes the note away.</param>
/// <param name="Place">Where it is placed.</param>
/// <param name="TakeOff">True to take it off its track.</param>
public sealed record TakeChangeChoice([Required] string FileId, bool? IsKeeper, [MaxLength(TakeLogPlanner.MostNote)] string? Note, TakePlaceChoice? Place, bool TakeOff);

/// <summary>Where a take is placed.</summary>
/// <param name="Track">The track; null for its own.</param>
/// <param name="Seconds">Seconds from the start of the timeline; null for its time reference.</param>
public sealed record TakePlaceChoice([MaxLength(80)] string? Track, [Range(0, 864000)] double? Seconds);

/// <summary>What is to change in the take log.</summary>
public sealed record TakeLogChoice([Required] TakeChangeChoice[] Changes);

/// <summary>How loud a sound is.</summary>
/// <param name="Decibels">Its greatest sample in dBFS; null for silence.</param>
/// <param name="IsClipped">True where it stays at full scale for three samples or more.</param>
public sealed record SoundLevelView(double? Decibels, bool IsClipped);

/// <summary>Requests about the take log.</summary>
public static class TakeLogEndpoints
{
    private const int MostRows = 200;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}").WithTags("Record");
        group.MapGet("record/log", Get).WithName("GetTakeLog").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("record/log/plan", Plan).WithName("PlanTakeLog").ProducesProblem(404).ProducesProblem(503).ProducesValidationProblem();
        group.MapGet("files/{fileId}/level", GetLevel).WithName("GetLevel").ProducesProblem(404).ProducesProblem(503);
    }

    private static Ok<TakeLogView> Get(Guid id, SessionService sessions, SessionFiles files, ShelfService shelves, CancellationToken cancel, int skip = 0, int take = 50)
    {
        var row = sessions.Get(id);
        var known = shelves.All();
        var (listing, outside) = files.Look(row, known, cancel);
        var (inventory, _) = listing.Overview(outside);
        var listed = listing.All(outside).Where(f => f.Take is not null).ToDictionary(f => f.File.Path, StringComparer.Ordinal);
        var log = TakeLog.Of([.. listed.Values.Select(f => f.Take!)], inventory.Document?.Tracks ?? []);
        var placed = TakeLog.Placements(inventory, known);
        return TypedResults.Ok(new TakeLogView(
            log.Tracks,
            log.Rows.Count,
            [.. log.Rows.Skip(Math.Max(0, skip)).Take(Math.Clamp(take, 1, MostRows)).Select(r => new TakeLogRowView(
                r.Pass, r.Number, [.. r.Takes.Select(t => new LoggedTakeView(FileViews.File(listed[t.File.Path], outside), [.. placed[t.File.Path]]))]))]));
    }

    private static async Task<Ok<PlanView>> Plan(
        Guid id, TakeLogChoice choice, SessionService sessions, ShelfService shelves, PlanJobs jobs, RecordingGuard guard, CancellationToken cancel)
    {
        Requests.RequireList(choice.Changes, FileViews.MostChosen, "changes");
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make($"Plan what is written into the take log of '{Path.GetFileName(row.Folder)}'", row, job =>
        {
            var inventory = sessions.InventoryOf(row, job.Cancel);
            var paths = inventory.Files.ToDictionary(f => f.Id, f => f.Path, StringComparer.Ordinal);
            var changes = choice.Changes.DistinctBy(c => c.FileId).Select(c => new TakeChange(
                paths.TryGetValue(c.FileId, out var path) ? path : throw new NotKnownException("A take of the log is not there any more."),
                c.IsKeeper,
                c.Note,
                c.Place is { } place ? new TakePlace(place.Track, place.Seconds) : null,
                c.TakeOff));
            return TakeLogPlanner.Plan(id, inventory, shelves.All(), guard.GrowingIn(id), [.. changes]);
        }, cancel));
    }

    /// <summary>How loud a file is; nothing while something records: then nobody reads whole files.</summary>
    private static async Task<Results<Ok<SoundLevelView>, NoContent>> GetLevel(
        Guid id, string fileId, SessionService sessions, RecordingGuard guard, LevelCache levels, CancellationToken cancel)
    {
        var session = sessions.Get(id);
        // As with outlines: a take that is on its way elsewhere has no level here.
        var found = sessions.FindFile(session, fileId, cancel);
        if (guard.What is not null || found is null)
        {
            return TypedResults.NoContent();
        }
        var file = ListeningEndpoints.Sound(session, found, sessions);
        var level = await levels.Of(file, cancel);
        return TypedResults.Ok(new SoundLevelView(double.IsFinite(level.Decibels) ? Math.Round(level.Decibels, 2) : null, level.IsClipped));
    }
}
