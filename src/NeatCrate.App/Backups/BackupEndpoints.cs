using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>What is kept by hand.</summary>
/// <param name="Note">What is said of it.</param>
public sealed record KeepAsked([StringLength(1000)] string? Note);

/// <summary>A full backup that is asked for.</summary>
/// <param name="VaultId">The vault's shelf.</param>
/// <param name="Note">What is said of it.</param>
/// <param name="ByContent">Whether every file is read, whatever is remembered of it.</param>
public sealed record FullBackupAsked(Guid VaultId, [StringLength(1000)] string? Note, bool ByContent);

/// <summary>Backups that are to go.</summary>
/// <param name="Keys">Those that were shown as going.</param>
public sealed record ThinAsked(string[] Keys);

/// <summary>Whether a vault is kept away from the house.</summary>
public sealed record VaultAsked(bool IsAwayFromHouse);

/// <summary>Requests about backing up.</summary>
public static class BackupEndpoints
{
    private const int MostAtOnce = 500;

    private const int MostSessions = 10_000;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/backups").WithTags("Backups");
        group.MapGet("", Get).WithName("GetBackups").ProducesProblem(404).ProducesProblem(503);
        group.MapPut("choice", Choose).WithName("ChooseBackups").ProducesProblem(400).ProducesProblem(404).ProducesValidationProblem();
        group.MapPost("keep", Keep).WithName("KeepDocument").ProducesProblem(404).ProducesProblem(409).ProducesValidationProblem();
        group.MapPost("full", Full).WithName("MakeFullBackup").ProducesProblem(404).ProducesProblem(503).ProducesValidationProblem();
        group.MapGet("safety", Safety).WithName("ListSafety").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("thinning", Thinning).WithName("GetThinning").ProducesProblem(404);
        group.MapPost("thinning/plan", PlanThinning).WithName("PlanThinning").ProducesProblem(400).ProducesProblem(404);
        group.MapGet("thinning/{vaultId:guid}", VaultThinning).WithName("GetVaultThinning").ProducesProblem(404);
        group.MapPost("thinning/{vaultId:guid}", ThinVault).WithName("ThinVault").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        app.MapPost("/api/backups/only-here", OnlyHere).WithName("BackUpOnlyHere").WithTags("Backups");
        app.MapPost("/api/backups/many", Many).WithName("BackUpMany").WithTags("Backups").ProducesProblem(400).ProducesProblem(404);
        app.MapGet("/api/backups/standard", Standard).WithName("GetStandardBackups").WithTags("Backups");
        app.MapPut("/api/backups/standard", ChooseStandard).WithName("ChooseStandardBackups").WithTags("Backups").ProducesProblem(400).ProducesValidationProblem();
        var vaults = app.MapGroup("/api/vaults").WithTags("Backups");
        vaults.MapPost("{vaultId:guid}/check", Check).WithName("CheckVault").ProducesProblem(404).ProducesProblem(503);
        vaults.MapPut("{vaultId:guid}", ChangeVault).WithName("ChangeVault").ProducesProblem(404);
    }

    private static Ok<BackupsView> Get(Guid id, SessionService sessions, BackupViewMaker maker, CancellationToken cancel) => TypedResults.Ok(maker.Backups(sessions.Get(id), cancel));

    private static NoContent Choose(Guid id, BackupChoiceView choice, SessionService sessions, ShelfService shelves, BackupChoices choices)
    {
        var row = sessions.Get(id);
        if (choice.SecondShelf is { } second)
        {
            var shelf = shelves.Get(second);
            Requests.Require(!ShelfPath.IsWithin(row.Folder, shelf.Root), $"The session itself is on '{shelf.Name}'. A second place is another drive.");
        }
        choices.Choose(id, BackupViewMaker.Chosen(choice));
        return TypedResults.NoContent();
    }

    private static Ok<BackupChoiceView> Standard(BackupChoices choices) => TypedResults.Ok(BackupViewMaker.View(choices.Standard));

    private static NoContent ChooseStandard(BackupChoiceView choice, BackupChoices choices)
    {
        Requests.Require(choice.SecondShelf is null, "A second place is on another drive than its session: choose it for each session.");
        choices.ChooseForAll(BackupViewMaker.Chosen(choice));
        return TypedResults.NoContent();
    }

    private static Ok<VersionView> Keep(
        Guid id, KeepAsked asked, SessionService sessions, VersionService versions, DocumentKeeper keeper, BackupViewMaker maker, RecordingGuard guard, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        if (guard.What is { } what)
        {
            throw new PlanRefusedException($"Nothing is kept while {what}: the disk belongs to the take. It is kept when that stops.");
        }
        var current = sessions.InventoryOf(row, cancel).Current ?? throw new PlanRefusedException("The session has no document that could be kept.");
        var kept = keeper.KeepNow(row, current.Path, asked.Note?.Trim() is { Length: > 0 } note ? note : null)
            ?? throw new PlanRefusedException("The document is being saved at this moment. Keep it once more.");
        return TypedResults.Ok(maker.View(versions.Get(row, "document/" + kept.Name), null));
    }

    private static Accepted<JobView> Full(Guid id, FullBackupAsked asked, SessionService sessions, VaultService vaults, BackupService backups)
    {
        var (row, vault) = (sessions.Get(id), vaults.Get(asked.VaultId));
        vaults.Of(vault);
        var job = backups.BackUp(row, vault, asked.Note?.Trim() is { Length: > 0 } note ? note : null, asked.ByContent, onlyIfChanged: false).View;
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    /// <summary>Every session of which something is only here is backed up.</summary>
    private static Ok<ManyBackupsView> OnlyHere(ManyBackups many, CancellationToken cancel) => TypedResults.Ok(many.BackUpOnlyHere(cancel));

    private static Ok<ManyBackupsView> Many(ChosenSessions chosen, ManyBackups many)
    {
        Requests.RequireList(chosen.SessionIds, MostSessions, "sessions");
        return TypedResults.Ok(many.BackUp([.. chosen.SessionIds]));
    }

    private static Ok<SafeFilesView> Safety(
        Guid id, SessionService sessions, SessionFiles files, ShelfService shelves, BackupService backups, CancellationToken cancel, bool onlyShort = false, int skip = 0, int take = 100)
    {
        var (row, known) = (sessions.Get(id), shelves.All());
        var inventory = sessions.Show(row, known, cancel);
        var (listing, outside) = files.Look(row, known, cancel);
        var wanted = onlyShort ? backups.WantedOf(id) : int.MaxValue;
        var all = backups.SafetyOf(row, inventory).Where(f => f.Places < wanted).OrderBy(f => f.Places).ThenByDescending(f => f.File.Bytes).ThenBy(f => f.File.Path, StringComparer.Ordinal).ToList();
        return TypedResults.Ok(new SafeFilesView(
            all.Count,
            [.. all.Skip(Math.Max(0, skip)).Take(Math.Clamp(take, 0, MostAtOnce)).Where(f => listing.Find(f.File.Path, outside) is not null)
                .Select(f => new SafeFileView(FileViews.File(listing.Find(f.File.Path, outside)!, outside), f.Places, f.Copies, [.. f.Vaults.Select(v => v.Name)], f.IsAwayFromHouse))]));
    }

    private static Ok<ThinningView[]> Thinning(Guid id, SessionService sessions, BackupViewMaker maker) => TypedResults.Ok(maker.Thinning(sessions.Get(id)).Select(BackupViewMaker.View).ToArray());

    /// <summary>States of documents in the session go by a plan, which names them and cannot be undone.</summary>
    private static async Task<Ok<PlanView>> PlanThinning(Guid id, ThinAsked asked, SessionService sessions, BackupViewMaker maker, DocumentPlaces places, PlanJobs jobs, CancellationToken cancel)
    {
        Requests.RequireList(asked.Keys, 100_000, "versions");
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make($"Plan what is thinned out of the document backups of '{Path.GetFileName(row.Folder)}'", row, _ =>
        {
            var going = maker.Thinning(row).Where(v => !v.Stays && asked.Keys.Contains("document/" + v.Candidate.Name)).Select(v => v.Candidate.Name).ToHashSet(StringComparer.Ordinal);
            var all = places.Of(row);
            return ThinningPlanner.Plan(id, [all.Session, .. all.SecondThere is { } second ? new[] { second } : []], going);
        }, cancel));
    }

    private static Ok<ThinningView[]> VaultThinning(Guid id, Guid vaultId, SessionService sessions, VaultService vaults, BackupService backups) =>
        TypedResults.Ok(backups.Thinning(vaults.Get(vaultId), sessions.Get(id)).Select(BackupViewMaker.View).ToArray());

    private static Accepted<JobView> ThinVault(Guid id, Guid vaultId, ThinAsked asked, SessionService sessions, VaultService vaults, BackupService backups)
    {
        Requests.RequireList(asked.Keys, 100_000, "backups");
        var vault = vaults.Get(vaultId);
        vaults.Of(vault);
        var job = backups.Thin(vault, sessions.Get(id), asked.Keys).View;
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static Accepted<JobView> Check(Guid vaultId, VaultService vaults, BackupService backups)
    {
        var vault = vaults.Get(vaultId);
        vaults.Of(vault);
        var job = backups.Check(vault, null).View;
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static NoContent ChangeVault(Guid vaultId, VaultAsked asked, VaultService vaults, BackupChoices choices)
    {
        choices.Change(vaults.Get(vaultId).Id, r => r with { IsAwayFromHouse = asked.IsAwayFromHouse });
        vaults.Reread(vaults.Get(vaultId));
        return TypedResults.NoContent();
    }
}
