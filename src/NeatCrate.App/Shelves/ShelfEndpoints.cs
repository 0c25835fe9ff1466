using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.App.Shelves;

/// <summary>A shelf as the pages see it. Bytes are null while it is away.</summary>
public sealed record ShelfView(Guid Id, string Name, ShelfKind Kind, string Root, bool Connected, long? FreeBytes, long? TotalBytes, int Sessions);

/// <summary>What a scan found, each a sentence.</summary>
public sealed record ScanView(IReadOnlyList<string> Found);

/// <summary>A folder on a shelf.</summary>
public sealed record FolderView(string Name, string Path, bool HoldsSession);

/// <summary>What a new shelf is to be.</summary>
public sealed record AddShelf([Required, StringLength(80, MinimumLength = 1)] string Name, ShelfKind Kind, [Required] string Path);

/// <summary>Requests about shelves.</summary>
public static class ShelfEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/shelves").WithTags("Shelves");
        group.MapGet("", List).WithName("ListShelves");
        group.MapPost("", Add).WithName("AddShelf").ProducesProblem(400);
        group.MapDelete("{id:guid}", Forget).WithName("ForgetShelf").ProducesProblem(404);
        group.MapPost("{id:guid}/scan", Scan).WithName("ScanShelf").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{id:guid}/folders", Folders).WithName("ListFolders").ProducesProblem(400).ProducesProblem(404);
    }

    private static Ok<ShelfView[]> List(ShelfService shelves, SessionService sessions)
    {
        var folders = sessions.Folders();
        return TypedResults.Ok(shelves.All().Select(s => View(s, folders)).ToArray());
    }

    private static Ok<ShelfView> Add(AddShelf request, ShelfService shelves) =>
        TypedResults.Ok(View(shelves.Add(request.Name, request.Kind, request.Path), []));

    private static NoContent Forget(Guid id, ShelfService shelves)
    {
        shelves.Forget(id);
        return TypedResults.NoContent();
    }

    private static Ok<ScanView> Scan(Guid id, ShelfService shelves, SessionFinder finder, CancellationToken cancel)
    {
        var shelf = shelves.Get(id);
        return shelf.IsConnected
            ? TypedResults.Ok(new ScanView(finder.Look([shelf], cancel)))
            : throw new DirectoryNotFoundException($"The shelf '{shelf.Name}' is away.");
    }

    private static Ok<FolderView[]> Folders(Guid id, ShelfService shelves, string path = "")
    {
        var shelf = shelves.Get(id);
        var folder = ShelfPath.Resolve(shelf, path);
        if (!Directory.Exists(folder))
        {
            throw new DirectoryNotFoundException($"'{(path.Length == 0 ? shelf.Name : path)}' cannot be reached.");
        }
        // Folders in a session's own folder belong to it, even where documents stand in them.
        var isSession = HoldsSession(folder);
        return TypedResults.Ok(new DirectoryInfo(folder).EnumerateDirectories()
            .Where(d => d.Name[0] != '.' && d.LinkTarget is null)
            .OrderBy(d => d.Name, StringComparer.OrdinalIgnoreCase)
            .Select(d => new FolderView(d.Name, shelf.Relative(d.FullName), !isSession && HoldsSession(d.FullName)))
            .ToArray());
    }

    private static bool HoldsSession(string folder)
    {
        try
        {
            return SessionFolder.Documents(folder).Count > 0;
        }
        catch (UnauthorizedAccessException)
        {
            // A folder that cannot be opened is shown, and says so when it is opened.
            return false;
        }
    }

    private static ShelfView View(Shelf shelf, IReadOnlyList<string> sessionFolders) => new(
        shelf.Id, shelf.Name, shelf.Kind, shelf.Root, shelf.IsConnected, shelf.FreeBytes, shelf.TotalBytes, sessionFolders.Count(shelf.Holds));
}
