using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Record;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>Which folder to adopt as a session.</summary>
public sealed record AdoptFolder(Guid ShelfId, [Required] string Path);

/// <summary>Requests about sessions.</summary>
public static class SessionEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions").WithTags("Sessions");
        group.MapGet("", List).WithName("ListSessions");
        group.MapPost("adopt", Adopt).WithName("AdoptFolder").ProducesProblem(400).ProducesProblem(404);
        group.MapGet("{id:guid}", Get).WithName("GetSession").ProducesProblem(404).ProducesProblem(503);
        group.MapDelete("{id:guid}", Forget).WithName("ForgetSession").ProducesProblem(404);
    }

    private static Ok<SessionView[]> List(SessionService sessions, ShelfService shelves, CancellationToken cancel)
    {
        var known = shelves.All();
        return TypedResults.Ok(sessions.All().AsParallel().AsOrdered().WithCancellation(cancel)
            .Select(row => Label(row, sessions, known, cancel))
            .OrderBy(v => v.Attention).ThenByDescending(v => v.Name, StringComparer.Ordinal)
            .ToArray());
    }

    private static SessionView Label(SessionRow row, SessionService sessions, IReadOnlyList<Shelf> shelves, CancellationToken cancel)
    {
        var shelfName = Shelf.Holding(shelves, row.Folder)?.Name;
        try
        {
            return SessionViews.Label(row, sessions.Take(row, cancel), shelfName);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return SessionViews.Unreachable(row, shelfName, e.Message);
        }
    }

    private static Ok<InventoryView> Get(Guid id, SessionService sessions, ShelfService shelves, RecordingGuard guard, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        return TypedResults.Ok(SessionViews.Whole(row, sessions.Take(row, cancel), Shelf.Holding(shelves.All(), row.Folder)?.Name, guard.GrowingIn(id)));
    }

    private static Ok<SessionView> Adopt(AdoptFolder request, SessionService sessions, ShelfService shelves, CancellationToken cancel)
    {
        var shelf = shelves.Get(request.ShelfId);
        var folder = ShelfPath.Resolve(shelf, request.Path);
        if (folder == shelf.Root || !Directory.Exists(folder))
        {
            throw new PathNotOnShelfException($"There is no session folder '{request.Path}' on the shelf '{shelf.Name}'.");
        }
        var row = sessions.Know(folder);
        return TypedResults.Ok(SessionViews.Label(row, sessions.Take(row, cancel), shelf.Name));
    }

    private static NoContent Forget(Guid id, SessionService sessions)
    {
        sessions.Forget(sessions.Get(id).Id);
        return TypedResults.NoContent();
    }
}
