using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.StandIns.Drives;
using NeatCrate.Store;

namespace NeatCrate.App.Scans;

/// <summary>A shelf as the pages see it. Bytes are null while it is away.</summary>
/// <param name="Sessions">How many known sessions stand on it.</param>
/// <param name="IsSimulated">True for a drive of the demo, which can be unplugged here.</param>
/// <param name="Files">Files known on it, from the last whole scan; null before the first one.</param>
/// <param name="Bytes">Their bytes in all.</param>
/// <param name="Scanned">When that scan ended.</param>
/// <param name="Drive">What the drive is called on which it is: shelves of which this is the same are lost together.</param>
/// <param name="Unreadable">Files and folders on it that cannot be read.</param>
/// <param name="MayBe">A shelf that is away and may stand here; null where there is none.</param>
public sealed record ShelfView(
    Guid Id, string Name, ShelfKind Kind, string Root, string Drive, bool Connected, long? FreeBytes, long? TotalBytes, int Sessions, bool IsSimulated,
    int? Files, long? Bytes, DateTimeOffset? Scanned, int Unreadable, SameDriveView? MayBe);

/// <summary>A shelf that is away and may stand where a newer one was added.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Known">Files known on it.</param>
/// <param name="AtSamePlaces">How many of them stand on the newer one at the same places, as long and as old.</param>
public sealed record SameDriveView(string Name, int Known, int AtSamePlaces);

/// <summary>Whether a newer shelf is the drive that another shelf is of.</summary>
public sealed record SayWhetherSame(bool IsSame);

/// <summary>How many files a session needs from a shelf on which it does not stand.</summary>
public sealed record SessionNeedView(Guid SessionId, string Name, int Files);

/// <summary>What sessions that stand elsewhere need from a shelf, those that need most of it first.</summary>
public sealed record ShelfNeedView(Guid ShelfId, int Files, IReadOnlyList<SessionNeedView> Sessions);

/// <summary>Another name, kind or place of a shelf.</summary>
/// <param name="Path">Absolute path of its top folder; null for the one that it has.</param>
public sealed record ChangeShelf([Required, StringLength(80, MinimumLength = 1)] string Name, ShelfKind Kind, string? Path);

/// <summary>A folder on a shelf.</summary>
public sealed record FolderView(string Name, string Path, bool HoldsSession);

/// <summary>Folders of the machine.</summary>
/// <param name="Path">Absolute path of the folder that they are in; null for the places to begin at.</param>
/// <param name="Above">The folder above; null where there is none.</param>
/// <param name="Folders">The folders, by name.</param>
public sealed record MachineFoldersView(string? Path, string? Above, IReadOnlyList<FolderView> Folders);

/// <summary>What a new shelf is to be.</summary>
public sealed record AddShelf([Required, StringLength(80, MinimumLength = 1)] string Name, ShelfKind Kind, [Required] string Path);

/// <summary>Requests about shelves.</summary>
public static class ShelfEndpoints
{
    private const int MostMachineFolders = 1000;

    private const int MostProblems = 500;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/shelves").WithTags("Shelves");
        group.MapGet("", List).WithName("ListShelves");
        group.MapPost("", Add).WithName("AddShelf").ProducesProblem(400);
        group.MapGet("needs", Needs).WithName("ListShelfNeeds");
        group.MapPut("{id:guid}", Change).WithName("ChangeShelf").ProducesProblem(400).ProducesProblem(404).ProducesValidationProblem();
        group.MapPost("{id:guid}/unplug", (Guid id, ShelfService shelves, ShelfWatch watch, AppOptions options, CancellationToken cancel) => Simulate(id, shelves, watch, options, DemoDrives.Unplug, cancel)).WithName("UnplugDrive").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("{id:guid}/plug", (Guid id, ShelfService shelves, ShelfWatch watch, AppOptions options, CancellationToken cancel) => Simulate(id, shelves, watch, options, DemoDrives.Plug, cancel)).WithName("PlugDrive").ProducesProblem(404).ProducesProblem(503);
        group.MapDelete("{id:guid}", Forget).WithName("ForgetShelf").ProducesProblem(404);
        group.MapPost("{id:guid}/same", Same).WithName("SayWhetherSameDrive").ProducesProblem(400).ProducesProblem(404);
        group.MapGet("scans", (ShelfScans scans) => TypedResults.Ok(scans.All())).WithName("ListScans");
        group.MapPost("{id:guid}/scan/cancel", CancelScan).WithName("CancelScan");
        group.MapGet("{id:guid}/unreadable", (Guid id, Catalogue catalogue) => TypedResults.Ok(catalogue.Problems(id, MostProblems).Select(p => p with { Reason = Sentences.OfText(p.Reason)! }).ToArray())).WithName("ListUnreadable");
        group.MapPost("{id:guid}/scan", Scan).WithName("ScanShelf").ProducesProblem(404).ProducesProblem(503);
        app.MapGet("/api/machine/folders", MachineFolders).WithName("ListMachineFolders").WithTags("Shelves").ProducesProblem(400);
        group.MapGet("{id:guid}/folders", Folders).WithName("ListFolders").ProducesProblem(400).ProducesProblem(404);
    }

    private static Ok<ShelfView[]> List(ShelfViews views, ShelfService shelves) => TypedResults.Ok(views.Of(shelves.All()));

    private static Ok<ShelfView> Add(AddShelf request, ShelfService shelves, ShelfScans scans, ShelfViews views)
    {
        var shelf = shelves.Add(request.Name, request.Kind, request.Path);
        scans.StartIfThere(shelf.Id);
        return TypedResults.Ok(views.Of([shelf])[0]);
    }

    private static Ok<ShelfView> Change(Guid id, ChangeShelf request, ShelfService shelves, FormerRoots former, SessionService sessions, ShelfScans scans, ShelfViews views)
    {
        var before = shelves.Get(id);
        var shelf = shelves.Change(id, request.Name, request.Kind, request.Path);
        if (shelf.Root != before.Root)
        {
            former.Note(id, before.Root);
            sessions.Reread();
            scans.StartIfThere(id);
        }
        return TypedResults.Ok(views.Of([shelf])[0]);
    }

    /// <summary>A newer shelf is the drive of one that is away, which stands there from now on with all that is known of it; or it is another drive.</summary>
    private static NoContent Same(Guid id, SayWhetherSame said, ShelfService shelves, SameDrives same, FormerRoots former, SessionService sessions, ShelfScans scans)
    {
        if (!said.IsSame)
        {
            same.Deny(shelves.Get(id).Id);
            return TypedResults.NoContent();
        }
        var before = same.Now(id).Shelf;
        shelves.TakeOver(before.Id, id);
        former.Note(before.Id, before.Root);
        scans.Forget(id);
        sessions.Reread();
        scans.StartIfThere(before.Id);
        return TypedResults.NoContent();
    }

    private static async Task<NoContent> Simulate(
        Guid id, ShelfService shelves, ShelfWatch watch, AppOptions options, Action<string, string> change, CancellationToken cancel)
    {
        var shelf = shelves.Get(id);
        if (!ShelfViews.IsSimulated(shelf, options))
        {
            throw new NotKnownException("Only the demo's own drives can be unplugged and plugged in here.");
        }
        change(ShelfViews.DemoRoot(options), shelf.Root);
        await watch.LookNow(cancel);
        return TypedResults.NoContent();
    }

    /// <summary>What would go silent where, were a shelf to leave; or what is silent, while it is away.</summary>
    private static Ok<ShelfNeedView[]> Needs(SessionService sessions, ShelfService shelves, CancellationToken cancel)
    {
        var known = shelves.All();
        return TypedResults.Ok(sessions.All().AsParallel().WithCancellation(cancel).SelectMany(s => NeededBy(s, sessions, known, cancel)).GroupBy(n => n.Shelf, n => n.Need)
            .Select(g => new ShelfNeedView(g.Key, g.Sum(n => n.Files), [.. g.OrderByDescending(n => n.Files).ThenBy(n => n.Name, StringComparer.Ordinal)])).ToArray());
    }

    private static List<(Guid Shelf, SessionNeedView Need)> NeededBy(SessionRow session, SessionService sessions, IReadOnlyList<Shelf> known, CancellationToken cancel)
    {
        try
        {
            return [.. sessions.Glance(session, known, cancel).Files
                .Where(f => f.Standing is Standing.Outside or Standing.Away && f.IsNeededNow && f.ShelfId is not null)
                .GroupBy(f => f.ShelfId!.Value)
                .Select(g => (g.Key, new SessionNeedView(session.Id, Path.GetFileName(session.Folder), g.Count())))];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // A session that cannot be reached says so in the loading bay; what it needs is not known here.
            return [];
        }
    }

    private static NoContent Forget(Guid id, ShelfService shelves, ShelfScans scans)
    {
        shelves.Forget(id);
        scans.Forget(id);
        return TypedResults.NoContent();
    }

    private static Accepted<ScanView> Scan(Guid id, ShelfScans scans) => TypedResults.Accepted("/api/shelves/scans", scans.Start(id));

    private static NoContent CancelScan(Guid id, ShelfScans scans)
    {
        scans.Cancel(id);
        return TypedResults.NoContent();
    }

    private static Ok<FolderView[]> Folders(Guid id, ShelfService shelves, string path = "")
    {
        var shelf = shelves.Get(id);
        var folder = ShelfPath.Resolve(shelf, path);
        if (!Directory.Exists(folder))
        {
            throw new FaultException(new Fault(FaultCode.NoSuchFolder) { Path = path, Name = shelf.Name });
        }
        // Folders in a session's own folder belong to it, even where documents stand in them.
        var isSession = SessionFolder.HoldsDocument(folder);
        return TypedResults.Ok(new DirectoryInfo(folder).EnumerateDirectories()
            .Where(d => d.Name[0] != '.' && d.LinkTarget is null)
            .OrderBy(d => d.Name, StringComparer.OrdinalIgnoreCase)
            .Select(d => new FolderView(d.Name, shelf.Relative(d.FullName), !isSession && SessionFolder.HoldsDocument(d.FullName)))
            .ToArray());
    }

    /// <summary>Folders of the machine, for whoever looks for the place of a shelf. Without a path: where people and drives usually have theirs.</summary>
    private static Ok<MachineFoldersView> MachineFolders(string? path = null)
    {
        if (string.IsNullOrEmpty(path))
        {
            string[] usual = [Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), "/media", "/mnt", "/run/media", "/"];
            return TypedResults.Ok(new MachineFoldersView(null, null, [.. usual.Where(p => p.Length > 0 && Directory.Exists(p)).Distinct().Select(p => new FolderView(p, p, false))]));
        }
        if (!Path.IsPathRooted(path) || path.Contains('\0', StringComparison.Ordinal) || Path.GetFullPath(path) is not { } folder || !Directory.Exists(folder))
        {
            throw new PathNotOnShelfException($"There is no folder '{path}' on this machine.");
        }
        try
        {
            return TypedResults.Ok(new MachineFoldersView(
                folder,
                Path.GetDirectoryName(folder),
                [.. new DirectoryInfo(folder).EnumerateDirectories().Where(d => d.Name[0] != '.').OrderBy(d => d.Name, StringComparer.OrdinalIgnoreCase).Take(MostMachineFolders)
                    .Select(d => new FolderView(d.Name, d.FullName, SessionFolder.HoldsDocument(d.FullName)))]));
        }
        catch (UnauthorizedAccessException)
        {
            throw new PathNotOnShelfException($"The folder '{path}' may not be looked into.");
        }
    }
}
