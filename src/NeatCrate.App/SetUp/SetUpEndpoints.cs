using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;

namespace NeatCrate.App.SetUp;

/// <summary>The sub-folders of a session.</summary>
public sealed record LayoutChoice(
    [Required] string Audio, [Required] string Bounces, [Required] string OlderDocuments, [Required] string WaveformCache, [Required] string[] Others);

/// <summary>The settings of a session.</summary>
public sealed record SettingsChoice(
    [Range(8000, 768000)] int SampleRate,
    [Range(16, 32)] int BitDepth,
    [Range(10, 400)] double Tempo,
    [Required, RegularExpression(@"[1-9][0-9]?/(1|2|4|8|16|32)")] string TimeSignature,
    [Range(0.1, 1440)] double ExpectedMinutes,
    bool CopyOnImport,
    [Range(0, 240)] int BackupMinutes,
    [Range(1, 1000)] int BackupsKept,
    Guid? MirrorShelfId)
{
    /// <summary>The settings as the core knows them.</summary>
    public SessionSettings ToSettings() =>
        new(SampleRate, BitDepth, Tempo, TimeSignature, ExpectedMinutes, CopyOnImport, BackupMinutes, BackupsKept, MirrorShelfId);

    /// <summary>The settings as the pages know them.</summary>
    public static SettingsChoice From(SessionSettings settings)
    {
        ArgumentNullException.ThrowIfNull(settings);
        return new(settings.SampleRate, settings.BitDepth, settings.Tempo, settings.TimeSignature, settings.ExpectedMinutes, settings.CopyOnImport, settings.BackupMinutes, settings.BackupsKept, settings.MirrorShelfId);
    }
}

/// <summary>One part of a session's name.</summary>
public sealed record NamePartChoice(NamePartKind Kind, [Required(AllowEmptyStrings = true), StringLength(200)] string Text);

/// <summary>What a new session is to be.</summary>
public sealed record SetUpChoice(
    [Required] NamePartChoice[] NameParts,
    [Required(AllowEmptyStrings = true), StringLength(3)] string Separator,
    Guid ShelfId,
    [Required(AllowEmptyStrings = true)] string ParentPath,
    [Required] SettingsChoice Settings,
    [Required] LayoutChoice Layout,
    [Required] string[] Tracks)
{
    /// <summary>Kinds that stay out, at Copy in and in bundles, until it is chosen otherwise in the session.</summary>
    public CopyKind[] LeftOutKinds { get; init; } = [];
}

/// <summary>How much sound a session makes, and how long it can go on. Seconds; null where there is no bound.</summary>
public sealed record BudgetView(long BytesPerSecond, long ExpectedBytes, double? SecondsLeft, double? MirrorSecondsLeft, double SecondsToLimit);

/// <summary>Something that is wrong with a name, in words, and whether it cannot be used at all.</summary>
public sealed record NameCheckView(string Sentence, bool Blocks);

/// <summary>A new session as it would be: its name among its neighbours, its plan, and what it will weigh.</summary>
public sealed record SetUpView(
    string Name,
    IReadOnlyList<NameCheckView> Checks,
    string? Fix,
    IReadOnlyList<NamePartChoice>? FixParts,
    string FullPath,
    IReadOnlyList<string> Before,
    IReadOnlyList<string> After,
    PlanView? Plan,
    BudgetView Budget);

/// <summary>Other settings of a session, and tracks to add to it.</summary>
public sealed record SettingsChange([Required] SettingsChoice Settings, [Required, MaxLength(256)] string[] NewTracks);

/// <summary>How a new version is named, and whether older documents are put away.</summary>
public sealed record VersionChoice(VersionNaming Naming, bool ArchiveOlder);

/// <summary>Requests about setting up.</summary>
public static class SetUpEndpoints
{
    private const int MostNeighbours = 3;
    private const int MostTracks = 1000;
    private const int MostFolders = 200;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/set-up").WithTags("Set up");
        group.MapPost("plan", Plan).WithName("PlanSetUp").ProducesProblem(400).ProducesProblem(404).ProducesValidationProblem();
        var presets = group.MapGroup("presets");
        presets.MapGet("", (PresetService kept) => TypedResults.Ok(kept.All())).WithName("ListPresets");
        presets.MapPut("", (Preset preset, PresetService kept) => TypedResults.Ok(kept.Save(preset))).WithName("SavePreset").ProducesValidationProblem();
        presets.MapDelete("{name}", (string name, PresetService kept) => TypedResults.Ok(kept.Remove(name))).WithName("RemovePreset").ProducesProblem(404);
        presets.MapPut("{name}/default", (string name, PresetService kept) => TypedResults.Ok(kept.MakeDefault(name))).WithName("MakePresetDefault").ProducesProblem(404);
        var session = app.MapGroup("/api/sessions/{id:guid}").WithTags("Set up");
        session.MapPost("settings/plan", PlanSettings).WithName("PlanSettings").ProducesProblem(404).ProducesValidationProblem();
        session.MapPost("version/plan", PlanVersion).WithName("PlanVersion").ProducesProblem(404);
    }

    private static Ok<SetUpView> Plan(SetUpChoice choice, ShelfService shelves, SessionService sessions, CopyInChoices copyIn, PlanService plans, TimeProvider time)
    {
        Requests.RequireList(choice.NameParts, MostFolders, "parts of a name");
        Requests.RequireList(choice.Layout.Others, MostFolders, "folders");
        Requests.Require(choice.NameParts.All(p => p.Text is not null && Enum.IsDefined(p.Kind)), "A part of the name is missing.");
        var (layout, shelf) = (choice.Layout, shelves.Get(choice.ShelfId));
        var parts = choice.NameParts.Select(p => new NamePart(p.Kind, p.Text)).ToList();
        var today = DateOnly.FromDateTime(time.GetLocalNow().Date);
        var name = SessionName.Build(parts, choice.Separator, today);
        var tracks = Names(choice.Tracks);
        var parent = ShelfPath.Resolve(shelf, choice.ParentPath);
        var request = new SetUpRequest(
            Guid.NewGuid(),
            name,
            shelf,
            choice.ParentPath,
            choice.Settings.ToSettings(),
            new SessionLayout(layout.Audio, layout.Bounces, layout.OlderDocuments, layout.WaveformCache, layout.Others),
            tracks,
            sessions.Folders());
        var plan = SetUpPlanner.Plan(request);
        copyIn.Prepare(request.SessionId, CopyInChoices.KindsOf(choice.LeftOutKinds));
        var named = NameChecks.Check(name, parent, request.KnownSessions, request.Layout);
        var saysNothing = SessionName.SaysNothing(parts);
        var (before, after) = SetUpPlanner.Neighbours(name, parent, MostNeighbours);
        return TypedResults.Ok(new SetUpView(
            name,
            saysNothing ? [] : [.. named.Checks.Select(c => new NameCheckView(Sentences.Of(c.Fault), c.Blocks))],
            named.Fix,
            named.Fix is null ? null : [.. SessionName.PartsOf(parts, choice.Separator, named.Fix, today).Select(p => new NamePartChoice(p.Kind, p.Text))],
            Path.Combine(parent, name),
            before,
            after,
            saysNothing ? null : PlanViews.View(plans.Keep(plan), shelves.All()),
            Budget(choice, tracks.Count, shelf, choice.Settings.MirrorShelfId is { } id ? shelves.All().FirstOrDefault(s => s.Id == id) : null)));
    }

    private static List<string> Names(string[] names)
    {
        Requests.RequireList(names, MostTracks, "tracks");
        return NamesOf(names);
    }

    private static List<string> NamesOf(string[] names) => [.. names.Select(t => t.Trim()).Where(t => t.Length > 0)];

    private static BudgetView Budget(SetUpChoice choice, int tracks, Shelf shelf, Shelf? mirror)
    {
        var budget = RecordingBudget.Of(
            tracks, choice.Settings.SampleRate, choice.Settings.BitDepth, choice.Settings.ExpectedMinutes * 60, shelf.FreeBytes ?? 0, MirrorPlace.Of(mirror, shelf.Root));
        return new BudgetView(budget.BytesPerSecond, budget.ExpectedBytes, budget.SecondsLeft, budget.MirrorSecondsLeft, budget.SecondsToLimit);
    }

    private static async Task<Ok<PlanView>> PlanSettings(Guid id, SettingsChange change, SessionService sessions, PlanJobs jobs, CancellationToken cancel)
    {
        var (row, settings, tracks) = (sessions.Get(id), change.Settings.ToSettings(), Names(change.NewTracks));
        return TypedResults.Ok(await jobs.Make(
            $"Plan other settings for '{Path.GetFileName(row.Folder)}'", row, job => SettingsPlanner.Plan(id, sessions.InventoryOf(row, job.Cancel), settings, tracks), cancel));
    }

    private static async Task<Ok<PlanView>> PlanVersion(
        Guid id, VersionChoice choice, SessionService sessions, ShelfService shelves, PlanJobs jobs, CopyInChoices choices, TimeProvider time, CancellationToken cancel)
    {
        var today = DateOnly.FromDateTime(time.GetLocalNow().Date);
        Requests.Require(Enum.IsDefined(choice.Naming), "There is no such way of naming a version.");
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make(
            $"Plan a new version of '{Path.GetFileName(row.Folder)}'",
            row,
            job => VersionPlanner.Plan(id, sessions.InventoryOf(row, job.Cancel), choice.Naming, choice.ArchiveOlder, today, choices.OutsideOf(id, sessions, shelves.All()).IsLeftOut),
            cancel));
    }
}
