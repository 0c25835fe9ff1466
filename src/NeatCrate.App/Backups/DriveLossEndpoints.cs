using Microsoft.AspNetCore.Http.HttpResults;

namespace NeatCrate.App.Backups;

/// <summary>Requests about what would be lost with a drive.</summary>
public static class DriveLossEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/shelves/{id:guid}").WithTags("Backups");
        group.MapGet("loss", Get).WithName("GetDriveLoss").ProducesProblem(404);
        group.MapGet("loss.csv", Report).WithName("GetDriveLossReport").Produces<byte[]>(200, "text/csv").ProducesProblem(404);
    }

    private static Ok<DriveLossView> Get(Guid id, DriveLosses losses, CancellationToken cancel) => TypedResults.Ok(losses.Of(id, cancel));

    private static FileContentHttpResult Report(Guid id, DriveLosses losses, CancellationToken cancel)
    {
        var (name, bytes) = losses.Report(id, cancel);
        return TypedResults.File(bytes, "text/csv", name);
    }
}
