using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Backups;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Listening;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Relink;

/// <summary>What is taken for a missing file.</summary>
/// <param name="LostId">The missing file.</param>
/// <param name="FoundId">The found one; null for the best match.</param>
/// <param name="Way">How it comes back.</param>
/// <param name="Compared">Whether somebody compared the two. Where nothing is certain and nobody did, the plan says so.</param>
public sealed record RelinkChoice(string LostId, string? FoundId, RelinkWay Way, bool Compared = false);

/// <summary>What is to be relinked.</summary>
/// <param name="Choices">What is taken for what.</param>
/// <param name="OlderDocuments">Whether older versions are re-pointed too.</param>
/// <param name="Along">Keys of moves along which the missing files of other sessions are relinked as well.</param>
/// <param name="Way">How those come back.</param>
/// <param name="NewVersions">Whether documents of other programs get a new version beside them that names what is not put back.</param>
public sealed record RelinkAsked(RelinkChoice[] Choices, bool OlderDocuments, string[] Along, RelinkWay Way, bool NewVersions = false);

/// <summary>A mark of missing files.</summary>
public sealed record MarkLost(string[] LostIds, LostMark Mark, string? Note);

/// <summary>Places to be searched: absolute paths of folders.</summary>
public sealed record SearchAsked(string[] Places);

/// <summary>Requests about missing files.</summary>
public static class RelinkEndpoints
{
    private const int MostPlaces = 20;
    private const int MostNote = 2000;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/relink").WithTags("Relink");
        group.MapGet("", Get).WithName("GetRelink").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("lost/{lostId}", GetLost).WithName("GetLostFile").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("lost/{lostId}/peaks", LostPeaks).WithName("GetLostPeaks").Produces<byte[]>(200, "application/octet-stream").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("lost/{lostId}/audio", LostAudio).WithName("GetLostAudio").Produces<byte[]>(200, "audio/wav").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("found/{foundId}/peaks", FoundPeaks).WithName("GetFoundPeaks").Produces<byte[]>(200, "application/octet-stream").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("found/{foundId}/audio", FoundAudio).WithName("GetFoundAudio").Produces<byte[]>(200, "audio/wav").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("plan", Plan).WithName("PlanRelink").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapPost("marks", Mark).WithName("MarkLostFiles").ProducesProblem(400).ProducesProblem(404);
        group.MapPost("read", Read).WithName("ReadMatches").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("search", Search).WithName("SearchPlaces").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
    }

    private static Ok<RelinkView> Get(Guid id, SessionService sessions, RelinkService relink, RelinkNotes notes, ShelfService shelves, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var lost = relink.Of(row, cancel);
        return TypedResults.Ok(RelinkViewMaker.View(lost, notes.Of(id), shelves.All(), moves =>
        [
            .. relink.Elsewhere(row, moves, cancel).SelectMany(e => e.Along
                .GroupBy(a => FolderMove.Of(a.Matches.Lost.At, a.Matches.Best!.File.At)!)
                .Select(g => (e.Session.Id, Path.GetFileName(e.Session.Folder), g.Key, g.Count()))),
        ]));
    }

    private static Ok<LostDetailsView> GetLost(
        Guid id, string lostId, SessionService sessions, RelinkService relink, RelinkNotes notes, ShelfService shelves, Catalogue catalogue, BackupViewMaker backups, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var (entry, known) = (LostOf(relink.Of(row, cancel), lostId), shelves.All());
        var file = entry.File;
        var rate = file.Known?.SampleRate;
        (Guid, string)? place = file.ShelfId is { } shelf && known.FirstOrDefault(s => s.Id == shelf) is { } on ? (shelf, on.Relative(file.Path)) : null;
        var gone = place is { } at && catalogue.GoneSince([at]).TryGetValue(at, out var times) ? times : default;
        return TypedResults.Ok(new LostDetailsView(
            RelinkViewMaker.View(entry, known),
            RelinkViewMaker.Facts(entry, known),
            entry.Matches.Lost.Noted.Any,
            rate is { } r ? [.. SampleRange.AtMost(file.Used, 200, file.Known?.LengthSamples ?? 0).Select(u => new UsedPartView(u.Start / (double)r, u.End / (double)r))] : [],
            file.NeededSeconds,
            Time(gone.SeenMs),
            Time(gone.GoneMs),
            backups.History(row, file) is { Asked: > 0 } history ? history.Sentence : null,
            RelinkViewMaker.HeardFrom(entry) is { } heard ? heard.File.Copy?.Holder ?? heard.File.Name : null,
            RelinkViewMaker.Matches(entry, known),
            [.. notes.Of(id).Searched.Where(s => s.NotFound.Contains(file.Path)).Select(s => RelinkViewMaker.View(s, known))]));
    }

    private static DateTimeOffset? Time(long ms) => ms == 0 ? null : DateTimeOffset.FromUnixTimeMilliseconds(ms);

    private static LostEntry LostOf(LostFiles lost, string lostId) => lost.Find(lostId) ?? throw new NotKnownException("This file is not missing (any more).");

    private static FoundFile FoundOf(LostFiles lost, string foundId) => lost.FindFound(foundId) is { } found
        ? found.IsThere ? found : throw new NotKnownException($"'{found.Name}' is on a shelf that is away.")
        : throw new NotKnownException("This file is no longer among what was found.");

    /// <summary>The outline of a missing file as it was kept when it was there; else of a file that holds the same bytes.</summary>
    private static async Task<Results<FileContentHttpResult, NoContent>> LostPeaks(
        Guid id, string lostId, SessionService sessions, RelinkService relink, HeardCopies heard, RecordingGuard guard, PeaksCache peaks, CancellationToken cancel, int stretches = Peaks.Stretches)
    {
        var row = sessions.Get(id);
        var entry = LostOf(relink.Of(row, cancel), lostId);
        var file = entry.File;
        var kept = file.Known is { } known ? await ListeningEndpoints.KeptOutline(SoundFile.KeyOf(file.Path, known.Bytes, known.ModifiedUtc), peaks, stretches, cancel, sessions.CacheFolder(row)) : TypedResults.NoContent();
        return kept.Result is NoContent && RelinkViewMaker.HeardFrom(entry) is { } same ? await ListeningEndpoints.SendPeaks(() => SoundFile.At(heard.PathOf(same.File)), guard, peaks, stretches, cancel) : kept;
    }

    private static Task<Results<FileContentHttpResult, NoContent>> FoundPeaks(
        Guid id, string foundId, SessionService sessions, RelinkService relink, HeardCopies heard, RecordingGuard guard, PeaksCache peaks, CancellationToken cancel, int stretches = Peaks.Stretches) =>
        ListeningEndpoints.SendPeaks(() => SoundFile.At(heard.PathOf(FoundOf(relink.Of(sessions.Get(id), cancel), foundId))), guard, peaks, stretches, cancel);

    private static IResult FoundAudio(Guid id, string foundId, SessionService sessions, RelinkService relink, HeardCopies heard, CancellationToken cancel) =>
        ListeningEndpoints.Play(SoundFile.At(heard.PathOf(FoundOf(relink.Of(sessions.Get(id), cancel), foundId))));

    /// <summary>The missing sound itself, out of any file that is known to hold the same bytes.</summary>
    private static IResult LostAudio(Guid id, string lostId, SessionService sessions, RelinkService relink, HeardCopies heard, CancellationToken cancel) =>
        ListeningEndpoints.Play(SoundFile.At(heard.PathOf(SameAs(LostOf(relink.Of(sessions.Get(id), cancel), lostId)))));

    private static FoundFile SameAs(LostEntry entry) => RelinkViewMaker.HeardFrom(entry)?.File ?? throw new NotKnownException("No file that is there holds this sound.");

    private static async Task<Ok<PlanView>> Plan(
        Guid id, RelinkAsked asked, SessionService sessions, RelinkService relink, ShelfService shelves, PlanJobs jobs, IIdentities identities, IFileUsers users, CancellationToken cancel)
    {
        Requests.RequireList(asked.Choices, FileViews.MostChosen, "files");
        Requests.RequireList(asked.Along, FileViews.MostChosen, "moves");
        Requests.Require(asked.Choices.All(c => !string.IsNullOrEmpty(c.LostId)), "It is not said which missing file a choice is for.");
        Requests.Require(Enum.IsDefined(asked.Way) && asked.Choices.All(c => Enum.IsDefined(c.Way)), "There is no such way to bring a file back.");
        var row = sessions.Get(id);
        return TypedResults.Ok(await jobs.Make(
            $"Plan what takes the place of what is missing from '{Path.GetFileName(row.Folder)}'", row, job => Make(row, asked, sessions, relink, shelves, new WatchedIdentities(identities, job), users, job.Cancel), cancel));
    }

    internal static Plan Make(SessionRow row, RelinkAsked asked, SessionService sessions, RelinkService relink, ShelfService shelves, IIdentities identities, IFileUsers users, CancellationToken cancel)
    {
        var lost = relink.Of(row, cancel);
        List<Relinking> chosen =
        [
            .. asked.Choices.Select(c =>
            {
                var entry = LostOf(lost, c.LostId);
                var found = c.FoundId is { } foundId ? FoundOf(lost, foundId) : entry.Matches.Best?.File ?? throw new NotKnownException($"Nothing was found for '{entry.Matches.Lost.Name}'.");
                return new Relinking(entry.Matches.Lost, found, c.Way) { IsGuess = !c.Compared && !entry.Matches.All.Any(m => m.IsCertain && m.File.Path == found.Path) };
            }),
        ];
        List<RelinkedSession> all = [new(row.Id, sessions.InventoryOf(row, cancel), chosen)];
        var moves = lost.Moves.Where(m => asked.Along.Contains(RelinkViewMaker.KeyOf(m.Move))).Select(m => m.Move).ToHashSet();
        foreach (var (other, _, along) in relink.Elsewhere(row, moves, cancel))
        {
            all.Add(new RelinkedSession(other.Id, sessions.InventoryOf(other, cancel), [.. along.Select(a => new Relinking(a.Matches.Lost, a.Matches.Best!.File, asked.Way) { IsGuess = !a.Matches.Best.IsCertain })]));
        }
        return RelinkPlanner.Plan(new RelinkRequest(all, shelves.All(), identities) { OlderDocuments = asked.OlderDocuments, NewVersions = asked.NewVersions, Users = users }, cancel);
    }

    private static NoContent Mark(Guid id, MarkLost asked, SessionService sessions, RelinkService relink, RelinkNotes notes, CancellationToken cancel)
    {
        Requests.RequireList(asked.LostIds, FileViews.MostChosen, "files");
        Requests.Require(Enum.IsDefined(asked.Mark), "There is no such mark.");
        Requests.Require((asked.Note?.Length ?? 0) <= MostNote, $"A note has {MostNote} characters at the most.");
        var lost = relink.Of(sessions.Get(id), cancel);
        notes.Mark(id, asked.LostIds.Select(l => LostOf(lost, l).File.Path), new LostNote(asked.Mark, string.IsNullOrWhiteSpace(asked.Note) ? null : asked.Note.Trim()));
        return TypedResults.NoContent();
    }

    private static Accepted<JobView> Read(Guid id, SessionService sessions, RelinkService relink, RelinkSearches searches, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var job = searches.Read(row, relink.Of(row, cancel)).View;
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }

    private static Accepted<JobView> Search(Guid id, SearchAsked asked, SessionService sessions, RelinkService relink, RelinkSearches searches, CancellationToken cancel)
    {
        Requests.RequireList(asked.Places, MostPlaces, "places");
        Requests.Require(asked.Places.Length > 0 && asked.Places.All(p => Path.IsPathRooted(p) && Directory.Exists(p)), "There is no such folder on this machine.");
        var row = sessions.Get(id);
        var lost = relink.Of(row, cancel).Entries.Where(e => e.Asks && e.Matches.Best is not { IsCertain: true, File.IsThere: true }).Select(e => e.Matches.Lost).ToList();
        Requests.Require(lost.Count > 0, "Nothing is missing that would have to be looked for.");
        var job = searches.Search(row, lost, [.. asked.Places.Select(p => Path.TrimEndingDirectorySeparator(Path.GetFullPath(p))).Distinct(StringComparer.Ordinal)]).View;
        return TypedResults.Accepted($"/api/jobs/{job.Id}", job);
    }
}
