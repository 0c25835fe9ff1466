using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.SetUp;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.LoadingBay;

/// <summary>A folder on a shelf.</summary>
public sealed record FolderChoice(Guid ShelfId, [Required] string Path);

/// <summary>Which folder to adopt, and which of its documents the session is worked in; null for the newest.</summary>
public sealed record AdoptFolder(Guid ShelfId, [Required] string Path, string? Document);

/// <summary>Which folders of a shelf to adopt.</summary>
public sealed record AdoptFolders(Guid ShelfId, [Required] IReadOnlyList<string> Paths);

/// <summary>A stray document, and the folder that it belongs in.</summary>
public sealed record BringHomeChoice(Guid ShelfId, [Required] string Path, [Required] string Document, [Required] string Home);

/// <summary>A document that was found in a folder.</summary>
/// <param name="Path">Path from the folder.</param>
/// <param name="AtTop">True when it stands at the top level.</param>
/// <param name="Changed">Time of the last change.</param>
/// <param name="Problem">Why it cannot be read.</param>
/// <param name="Session">Title of the session of which it is a version.</param>
/// <param name="Media">How many media files it points at.</param>
/// <param name="Here">How many of these are in the folder.</param>
/// <param name="Homes">For a stray: absolute paths of the folders that it belongs in.</param>
/// <param name="Strayed">True when nothing that it points at relative to itself is here.</param>
public sealed record FoundDocumentView(
    string Path, bool AtTop, DateTime Changed, string? Problem, string? Session, int Media, int Here, bool Strayed, IReadOnlyList<string> Homes);

/// <summary>What a folder holds that might be adopted.</summary>
/// <param name="Folder">Absolute path.</param>
/// <param name="KnownAs">The session that it is known as already.</param>
/// <param name="Documents">Its documents, the newest first.</param>
/// <param name="Sessions">Titles of the sessions that share it.</param>
/// <param name="SessionFolders">Folders in it that hold sessions of their own, where it holds none itself: paths on the shelf. Then it is not adopted as one.</param>
/// <param name="MediaFiles">Media files in it.</param>
/// <param name="MediaBytes">Their bytes.</param>
/// <param name="Status">The line that its label would say.</param>
/// <param name="Remarks">What is odd about it.</param>
public sealed record AdoptView(
    string Folder, Guid? KnownAs, IReadOnlyList<FoundDocumentView> Documents, IReadOnlyList<string> Sessions, IReadOnlyList<string> SessionFolders,
    int MediaFiles, long MediaBytes, string Status, IReadOnlyList<string> Remarks);

/// <summary>Requests about folders that exist: looked at, adopted, put in order.</summary>
public static class AdoptEndpoints
{
    private const int MostHomes = 5;

    private const int MostAtOnce = 10_000;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/adopt").WithTags("Adopt");
        group.MapPost("", Adopt).WithName("AdoptFolder").ProducesProblem(400).ProducesProblem(404);
        group.MapPost("many", AdoptMany).WithName("AdoptFolders").ProducesProblem(400).ProducesProblem(404);
        group.MapGet("found/{shelfId:guid}", Found).WithName("ListFoundSessions").ProducesProblem(404);
        group.MapPost("found/{shelfId:guid}", Find).WithName("FindSessions").ProducesProblem(400).ProducesProblem(404);
        group.MapPost("look", Look).WithName("LookAtFolder").ProducesProblem(400).ProducesProblem(404);
        group.MapPost("separate/plan", PlanSeparate).WithName("PlanSeparate").ProducesProblem(400).ProducesProblem(404);
        group.MapPost("bring-home/plan", PlanBringHome).WithName("PlanBringHome").ProducesProblem(400).ProducesProblem(404);
    }

    private static Ok<SessionView> Adopt(AdoptFolder request, Adoption adoption, CancellationToken cancel) =>
        TypedResults.Ok(adoption.Adopt(request.ShelfId, request.Path, request.Document, cancel));

    private static Ok<SessionsOnShelfView> Found(Guid shelfId, SessionsOnShelves found) => TypedResults.Ok(found.Of(shelfId));

    private static Accepted<JobView> Find(Guid shelfId, SessionsOnShelves found) => Begun(found.Start(shelfId));

    private static Accepted<JobView> AdoptMany(AdoptFolders request, Adoption adoption)
    {
        Requests.RequireList(request.Paths, MostAtOnce, "folders");
        Requests.Require(request.Paths.Count > 0, "No folder is chosen.");
        return Begun(adoption.AdoptMany(request.ShelfId, request.Paths));
    }

    private static Accepted<JobView> Begun(Job job) => TypedResults.Accepted($"/api/jobs/{job.View.Id}", job.View);

    /// <summary>What speaks against working in a folder: it is a copy.</summary>
    private static IEnumerable<string> Copies(Shelf shelf, FolderLook look, IReadOnlyList<SessionRow> rows, IReadOnlyList<Shelf> known)
    {
        if (shelf.Kind is ShelfKind.Vault or ShelfKind.Outbox)
        {
            yield return $"This folder stands on '{shelf.Name}', where copies are kept. Whoever works in a copy loses track of the session itself.";
        }
        if (look.Inventory.Document?.SessionId is { } id
            && rows.FirstOrDefault(r => r.DocumentSessionId == id && r.Folder != look.Inventory.Folder && !SessionService.RecognisedBy(r).IsGone(known)) is { } same)
        {
            var place = PlanViews.Place(same.Folder, known);
            yield return $"This is a copy: the same session is known already, {(place.Shelf is { } on ? $"on '{on}' in '{place.Path}'" : $"in '{place.Path}'")}.";
        }
    }

    private static Ok<AdoptView> Look(FolderChoice request, Adoption adoption, SessionService sessions, ShelfService shelves, InventoryReader inventories, CancellationToken cancel)
    {
        var (shelf, folder) = adoption.Folder(request.ShelfId, request.Path);
        var known = shelves.All();
        var look = FolderLook.At(inventories.Read(folder, null, known, cancel), known);
        var rows = sessions.All();
        var inside = look.Inventory.Standing(Standing.Inside).ToList();
        return TypedResults.Ok(new AdoptView(
            folder,
            rows.FirstOrDefault(r => r.Folder == folder)?.Id,
            [.. look.Documents.Select(d => View(d, look, [.. rows.Select(r => r.Folder)], known, cancel))],
            [.. look.Sessions.Select(s => s.Title)],
            [.. look.SessionFolders.Select(f => request.Path.Length == 0 ? f : request.Path + "/" + f)],
            inside.Count,
            inside.Sum(f => f.Bytes),
            SessionStatus.Of(look.Inventory) is { Problem: { } problem } ? Sentences.Of(problem) : SessionStatus.Of(look.Inventory).Sentence,
            [.. Copies(shelf, look, rows, shelves.All()), .. look.Inventory.Remarks.Select(Sentences.Of)]));
    }

    private static FoundDocumentView View(FoundDocument document, FolderLook look, IReadOnlyList<string> sessionFolders, IReadOnlyList<Shelf> shelves, CancellationToken cancel)
    {
        var folder = look.Inventory.Folder;
        var strayed = document.AtTop && document.IsStray(folder);
        return new FoundDocumentView(
            Path.GetRelativePath(folder, document.Path),
            document.AtTop,
            document.ModifiedUtc,
            document.Problem is { } problem ? Sentences.Of(problem) : null,
            look.Sessions.FirstOrDefault(s => s.Documents.Contains(document))?.Title,
            document.Media.Length,
            document.Media.Count(m => ShelfPath.IsWithin(m, folder) && File.Exists(m)),
            strayed,
            strayed ? [.. BringHomePlanner.Homes(document, sessionFolders, shelves, cancel).Take(MostHomes)] : []);
    }

    private static async Task<Ok<PlanView>> PlanSeparate(
        FolderChoice request, Adoption adoption, SessionService sessions, ShelfService shelves, InventoryReader inventories, PlanJobs jobs, CancellationToken cancel)
    {
        var (_, folder) = adoption.Folder(request.ShelfId, request.Path);
        return TypedResults.Ok(await jobs.Make($"Plan a folder for each session in '{Path.GetFileName(folder)}'", At(folder, sessions), job =>
        {
            var known = shelves.All();
            return SeparatePlanner.Plan(At(folder, sessions)?.Id, FolderLook.At(inventories.Read(folder, null, known, job.Cancel), known));
        }, cancel));
    }

    private static async Task<Ok<PlanView>> PlanBringHome(BringHomeChoice request, Adoption adoption, SessionService sessions, ShelfService shelves, PlanJobs jobs, CancellationToken cancel)
    {
        var (shelf, _) = adoption.Folder(request.ShelfId, request.Path);
        var document = ShelfPath.Resolve(shelf, request.Path + "/" + request.Document);
        var known = shelves.All();
        var homeShelf = Shelf.Holding(known, request.Home) ?? throw new PathNotOnShelfException("The document's home is on no shelf.");
        var home = ShelfPath.Resolve(homeShelf, homeShelf.Relative(request.Home));
        if (!File.Exists(document) || !Directory.Exists(home))
        {
            throw new PathNotOnShelfException("The document or its home is no longer there.");
        }
        return TypedResults.Ok(await jobs.Make(
            $"Plan the way home of '{Path.GetFileName(document)}'", At(home, sessions), _ => BringHomePlanner.Plan(At(home, sessions)?.Id, document, home), cancel));
    }

    private static SessionRow? At(string folder, SessionService sessions) => sessions.All().FirstOrDefault(s => s.Folder == folder);
}
