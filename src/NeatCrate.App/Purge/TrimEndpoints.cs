using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using NeatCrate.App.Ground;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Purge;

/// <summary>How files are trimmed.</summary>
/// <param name="Handle">What is kept before and after each part in use, in seconds.</param>
/// <param name="Join">Parts that are no further apart than this are kept as one, in seconds.</param>
/// <param name="Pieces">How many files a file becomes.</param>
/// <param name="OlderVersions">Whether older versions count.</param>
/// <param name="InPlace">True to trim the session itself; false for a copy elsewhere.</param>
/// <param name="KeptSaves">Whether kept saves count: in place, what they play is left whole then.</param>
public sealed record TrimQuery(
    [FromQuery(Name = "handle")] double Handle = 2,
    [FromQuery(Name = "join")] double Join = 1,
    [FromQuery(Name = "pieces")] TrimPieces Pieces = TrimPieces.OneFile,
    [FromQuery(Name = "olderVersions")] bool OlderVersions = true,
    [FromQuery(Name = "inPlace")] bool InPlace = false,
    [FromQuery(Name = "keptSaves")] bool KeptSaves = true)
{
    internal PurgeCounting Counting => new(OlderVersions, KeptSaves: KeptSaves);

    internal TrimChoice Choice()
    {
        Requests.Require(
            Handle is >= 0 and <= TrimChoice.MostSeconds && Join is >= 0 and <= TrimChoice.MostSeconds && Enum.IsDefined(Pieces),
            $"Handles and gaps have 0 to {TrimChoice.MostSeconds:0} seconds.");
        return new TrimChoice(Handle, Join, Pieces, OlderVersions);
    }
}

/// <summary>What is to be trimmed.</summary>
/// <param name="How">How.</param>
/// <param name="Except">Files that are left whole by choice.</param>
/// <param name="ShelfId">The shelf that the copy goes to; null in place.</param>
/// <param name="Path">The folder on it that the copy is made in.</param>
/// <param name="Name">Name of the copy's folder.</param>
public sealed record TrimAsked(TrimQuery How, string[] Except, Guid? ShelfId, string? Path, [StringLength(200)] string? Name);

/// <summary>A file that clips play, and what trimming would leave of it.</summary>
/// <param name="File">The file as lists show it.</param>
/// <param name="Used">The parts in use over all documents that count, in samples.</param>
/// <param name="Kept">The parts that are kept, in samples.</param>
/// <param name="BytesAfter">Bytes that it has then.</param>
/// <param name="Left">Why it is left whole.</param>
public sealed record TrimFileView(FileView File, IReadOnlyList<UsedView> Used, IReadOnlyList<UsedView> Kept, long BytesAfter, LeftWhole Left);

/// <summary>A part of what trimming would do.</summary>
/// <param name="Total">How many files clips play.</param>
/// <param name="Trimmed">How many of them would be trimmed.</param>
/// <param name="Bytes">Bytes of all of them.</param>
/// <param name="BytesAfter">Bytes that they have then.</param>
/// <param name="Files">Those of the part, the greatest saving first.</param>
public sealed record TrimFilesView(int Total, int Trimmed, long Bytes, long BytesAfter, IReadOnlyList<TrimFileView> Files);

/// <summary>Requests about trimming files to the parts in use.</summary>
public static class TrimEndpoints
{
    private const int MostAtOnce = 500;
    private const int MostParts = 100;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/purge/trim").WithTags("Purge");
        group.MapGet("", List).WithName("ListTrim").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapPost("plan", Plan).WithName("PlanTrim").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503).ProducesValidationProblem();
    }

    private static Ok<TrimFilesView> List(
        Guid id, [AsParameters] TrimQuery how, SessionService sessions, SessionFiles files, ShelfService shelves, PurgeService purge, CancellationToken cancel, int skip = 0, int take = 100)
    {
        var (row, known) = (sessions.Get(id), shelves.All());
        var choice = how.Choice();
        var judged = purge.Of(row, how.Counting, false, cancel);
        var trimmed = judged.Trimmed(choice, how.InPlace, known);
        var (listing, outside) = files.Look(row, known, cancel);
        return TypedResults.Ok(new TrimFilesView(
            trimmed.Count,
            trimmed.Count(t => t.Left == LeftWhole.No),
            trimmed.Sum(t => t.File.Bytes),
            trimmed.Sum(t => t.BytesAfter),
            [
                .. trimmed.Skip(Math.Max(0, skip)).Take(Math.Clamp(take, 0, MostAtOnce)).Where(t => listing.Find(t.File.Path, outside) is not null).Select(t => new TrimFileView(
                    FileViews.File(listing.Find(t.File.Path, outside)!, outside), Parts(t.Used, t), Parts(t.Kept, t), t.BytesAfter, t.Left)),
            ]));
    }

    private static UsedView[] Parts(IReadOnlyList<SampleRange> ranges, TrimmedFile file) =>
        [.. SampleRange.AtMost(ranges, MostParts, file.File.Header?.LengthSamples ?? 0).Select(r => new UsedView(r.Start, r.Length))];

    private static async Task<Ok<PlanView>> Plan(
        Guid id, TrimAsked asked, SessionService sessions, ShelfService shelves, PlanJobs jobs, PurgeService purge, TimeProvider time, CancellationToken cancel)
    {
        Requests.RequireList(asked.Except, FileViews.MostChosen, "files");
        var choice = asked.How.Choice();
        Requests.Require(asked.How.InPlace || (asked.ShelfId is not null && !string.IsNullOrWhiteSpace(asked.Name)), "A copy needs a place and a name.");
        var row = sessions.Get(id);
        var to = asked.How.InPlace ? null : ShelfPath.Resolve(shelves.Get(asked.ShelfId!.Value), asked.Path ?? "");
        return TypedResults.Ok(await jobs.Make($"Plan what is trimmed of '{Path.GetFileName(row.Folder)}'", row, job =>
        {
            var judged = purge.Of(row, asked.How.Counting, true, job.Cancel);
            var except = asked.Except.ToHashSet(StringComparer.Ordinal);
            return TrimPlanner.Plan(new TrimRequest(id, judged.World, shelves.All(), choice, time.GetUtcNow().UtcDateTime)
            {
                CopyTo = to,
                CopyName = asked.Name?.Trim() ?? "",
                Chosen = except.Count == 0 ? null : judged.World.Inventory.Files.Where(f => !except.Contains(f.Id)).Select(f => f.Path).ToHashSet(StringComparer.Ordinal),
            });
        }, cancel));
    }
}
