using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Plans;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;

namespace NeatCrate.App.SetUp;

/// <summary>The sub-folders of a new session.</summary>
public sealed record LayoutChoice(
    [Required] string Audio, [Required] string Bounces, [Required] string OlderDocuments, [Required] string WaveformCache, [Required] string[] Others);

/// <summary>What a new session is to be.</summary>
public sealed record SetUpChoice(
    [Required] string Name,
    Guid ShelfId,
    [Required(AllowEmptyStrings = true)] string ParentPath,
    [Range(8000, 768000)] int SampleRate,
    [Range(16, 32)] int BitDepth,
    [Range(10, 400)] double Tempo,
    [Required, RegularExpression(@"[1-9][0-9]?/(1|2|4|8|16|32)")] string TimeSignature,
    [Required] LayoutChoice Layout,
    [Required] string[] Tracks);

/// <summary>Requests about setting up.</summary>
public static class SetUpEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/set-up").WithTags("Set up");
        group.MapPost("plan", Plan).WithName("PlanSetUp").ProducesProblem(400).ProducesProblem(404).ProducesValidationProblem();
        group.MapGet("standard", () => TypedResults.Ok(Standard())).WithName("GetStandardSetUp");
    }

    private static LayoutChoice Standard()
    {
        var layout = SessionLayout.Default;
        return new LayoutChoice(layout.Audio, layout.Bounces, layout.OlderDocuments, layout.WaveformCache, [.. layout.Others ?? []]);
    }

    private static Ok<PlanView> Plan(SetUpChoice choice, ShelfService shelves, PlanService plans)
    {
        var layout = choice.Layout;
        var plan = SetUpPlanner.Plan(new SetUpRequest(
            Guid.NewGuid(),
            choice.Name,
            shelves.Get(choice.ShelfId),
            choice.ParentPath,
            new SessionSettings(choice.SampleRate, choice.BitDepth, choice.Tempo, choice.TimeSignature),
            new SessionLayout(layout.Audio, layout.Bounces, layout.OlderDocuments, layout.WaveformCache, layout.Others),
            [.. choice.Tracks.Select(t => t.Trim()).Where(t => t.Length > 0)]));
        return TypedResults.Ok(PlanViews.View(plans.Keep(plan), shelves.All()));
    }
}
