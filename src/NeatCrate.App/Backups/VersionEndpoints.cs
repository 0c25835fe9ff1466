using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;

namespace NeatCrate.App.Backups;

/// <summary>A version whose document is to come back beside the current one.</summary>
public sealed record RestoreDocumentAsked([Required] string Version);

/// <summary>What is said of a kept save afterwards.</summary>
public sealed record SayOfVersionAsked([Required] string Version, [Required, StringLength(1000)] string Note);

/// <summary>Tracks of a version that are to come back into the current document.</summary>
public sealed record RestoreTracksAsked([Required] string Version, string[] Tracks);

/// <summary>Files of a full backup that are to come back.</summary>
public sealed record RestoreFilesAsked([Required] string Version, string[] Paths);

/// <summary>A whole session that is to come back into an empty place.</summary>
/// <param name="ShelfId">The shelf that it comes to.</param>
/// <param name="Path">The folder on it that the session folder comes into.</param>
/// <param name="Name">Name of the session folder.</param>
public sealed record RestoreSessionAsked([Required] string Version, Guid ShelfId, [Required(AllowEmptyStrings = true)] string Path, [Required, StringLength(255)] string Name);

/// <summary>Requests about versions: what they hold, how they differ, how they come back.</summary>
public static class VersionEndpoints
{
    private const int MostAtOnce = 100_000;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/versions").WithTags("Versions");
        group.MapGet("content", Content).WithName("GetVersion").ProducesProblem(404);
        group.MapGet("compare", Compare).WithName("CompareVersions").ProducesProblem(404).ProducesProblem(409).ProducesProblem(503);
        group.MapGet("changes", Changes).WithName("ListSaveChanges").ProducesProblem(404).ProducesProblem(503);
        group.MapPut("note", Say).WithName("SayOfVersion").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503).ProducesValidationProblem();
        group.MapGet("files", Named).WithName("FindInVersions").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapGet("files/{fileId}", History).WithName("GetFileHistory").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("document/plan", PlanDocument).WithName("PlanRestoreDocument").ProducesProblem(404).ProducesProblem(503).ProducesValidationProblem();
        group.MapPost("tracks/plan", PlanTracks).WithName("PlanRestoreTracks").ProducesProblem(404).ProducesProblem(503).ProducesValidationProblem();
        group.MapPost("files/plan", PlanFiles).WithName("PlanRestoreFiles").ProducesProblem(404).ProducesProblem(503).ProducesValidationProblem();
        group.MapPost("session/plan", PlanSession).WithName("PlanRestoreSession").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503).ProducesValidationProblem();
    }

    private static Ok<VersionContentView> Content(Guid id, string version, SessionService sessions, VersionService versions, BackupViewMaker maker)
    {
        var row = sessions.Get(id);
        return TypedResults.Ok(maker.Content(row, versions.Get(row, version)));
    }

    /// <summary>What differs between two versions; without one of them it is the document as it is now.</summary>
    private static Ok<ComparisonView> Compare(Guid id, SessionService sessions, VersionService versions, BackupViewMaker maker, CancellationToken cancel, string? one = null, string? other = null)
    {
        var row = sessions.Get(id);
        return TypedResults.Ok(maker.Compare(row, one is null ? null : versions.Get(row, one), other is null ? null : versions.Get(row, other), cancel));
    }

    /// <summary>What each save changed against the one before it, from one on, in the order in which they were saved.</summary>
    private static Ok<IReadOnlyList<SaveChangeView>> Changes(Guid id, string from, SessionService sessions, SaveChanges changes, CancellationToken cancel, int take = SaveChanges.MostAtOnce) =>
        TypedResults.Ok(changes.Of(sessions.Get(id), from, take, cancel));

    private static Ok<FileHistoryView> History(Guid id, string fileId, SessionService sessions, BackupViewMaker maker, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        return TypedResults.Ok(maker.History(row, sessions.FindFile(row, fileId, cancel) ?? throw new NotKnownException("This file is not known in the session (any more).")));
    }

    /// <summary>What is said of a kept save is said in every place that is there and holds it; one that is away hears of it when it catches up.</summary>
    private static NoContent Say(Guid id, SayOfVersionAsked asked, SessionService sessions, VersionService versions, DocumentPlaces places)
    {
        var row = sessions.Get(id);
        Requests.Require(!string.IsNullOrWhiteSpace(asked.Note), "Say something of it.");
        var state = versions.Get(row, asked.Version).State ?? throw new FaultException(new Fault(FaultCode.RequestSenseless) { Detail = "What is said of a full backup stands in it for good." });
        var all = places.Of(row);
        // The session's first: it is what is shown.
        foreach (var place in new[] { all.Session, all.Own, all.SecondThere }.OfType<KeptDocuments>())
        {
            place.SayOf(state.Kept.Name, asked.Note.Trim());
        }
        return TypedResults.NoContent();
    }

    /// <summary>Files that any version plays or holds, by parts of their names.</summary>
    private static Ok<NamedFilesView> Named(Guid id, string name, SessionService sessions, BackupViewMaker maker, CancellationToken cancel)
    {
        Requests.Require(name.Length <= 255, "A name has at most 255 characters.");
        return TypedResults.Ok(maker.Named(sessions.Get(id), name, cancel));
    }

    private static async Task<Ok<PlanView>> PlanDocument(Guid id, RestoreDocumentAsked asked, SessionService sessions, VersionService versions, PlanJobs jobs, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make(
            "Plan what is brought back", row, job => RestorePlanner.Document(id, sessions.InventoryOf(row, job.Cancel), versions.DocumentOf(versions.Get(row, asked.Version))), cancel));
    }

    private static async Task<Ok<PlanView>> PlanTracks(Guid id, RestoreTracksAsked asked, SessionService sessions, VersionService versions, PlanJobs jobs, CancellationToken cancel)
    {
        Requests.RequireList(asked.Tracks, 10_000, "tracks");
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make("Plan what is brought back", row, job =>
        {
            var version = versions.Get(row, asked.Version);
            return RestorePlanner.Tracks(id, sessions.InventoryOf(row, job.Cancel), versions.BytesOf(version), version.Saved, asked.Tracks);
        }, cancel));
    }

    private static async Task<Ok<PlanView>> PlanFiles(Guid id, RestoreFilesAsked asked, SessionService sessions, VersionService versions, PlanJobs jobs, IFileUsers users, CancellationToken cancel)
    {
        Requests.RequireList(asked.Paths, MostAtOnce, "files");
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make("Plan what is brought back", row, job =>
        {
            var version = versions.Get(row, asked.Version);
            return RestorePlanner.Files(
                id, sessions.InventoryOf(row, job.Cancel), versions.ManifestOf(version), versions.StoreOf(version), asked.Paths.ToHashSet(StringComparer.Ordinal), (path, hash) => ContentHash.OfFile(path, job.Cancel) == hash, users);
        }, cancel));
    }

    private static async Task<Ok<PlanView>> PlanSession(
        Guid id, RestoreSessionAsked asked, SessionService sessions, ShelfService shelves, VersionService versions, PlanJobs jobs, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        Requests.Require(!asked.Name.Contains('/', StringComparison.Ordinal), "A folder's name has no slash in it.");
        var parent = ShelfPath.Resolve(shelves.Get(asked.ShelfId), asked.Path);
        return TypedResults.Ok(await jobs.Make("Plan what is brought back", null, job =>
        {
            var version = versions.Get(row, asked.Version);
            return RestorePlanner.Whole(versions.ManifestOf(version), versions.StoreOf(version), parent, asked.Name, sessions.Folders(), (path, hash) => ContentHash.OfFile(path, job.Cancel) == hash);
        }, cancel));
    }
}
