using Microsoft.AspNetCore.Http.HttpResults;

namespace NeatCrate.App.Jobs;

/// <summary>Requests about jobs.</summary>
public static class JobEndpoints
{
    /// <summary>Where pages listen for news about jobs.</summary>
    public const string HubPath = "/hubs/jobs";

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/jobs").WithTags("Jobs");
        group.MapGet("", (WorkEngine jobs) => TypedResults.Ok(jobs.All())).WithName("ListJobs");
        group.MapGet("{id:guid}", (Guid id, WorkEngine jobs) => TypedResults.Ok(jobs.Get(id))).WithName("GetJob").ProducesProblem(404);
        group.MapPost("{id:guid}/cancel", Cancel).WithName("CancelJob").ProducesProblem(404);
    }

    private static NoContent Cancel(Guid id, WorkEngine jobs)
    {
        jobs.Cancel(id);
        return TypedResults.NoContent();
    }
}
