using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using NeatCrate.App.Ground;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Listing;
using NeatCrate.Core.Usage;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>What files of a list can be marked for.</summary>
public enum MarkFor
{
    /// <summary>Nothing.</summary>
    Nothing,

    /// <summary>Being copied in.</summary>
    CopyIn,

    /// <summary>Being put on the session's list.</summary>
    TakesList,

    /// <summary>Being repaired on copies.</summary>
    Repair,
}

/// <summary>Which files of a session a list shows, and in what order.</summary>
/// <param name="Of">Which files it is of.</param>
/// <param name="Text">Words that all occur in a file's path, tracks or shelf.</param>
/// <param name="Segment">Only files that stand and are used so, as Inside.Placed; several for any of them.</param>
/// <param name="Place">Only files that come from this place; empty for any.</param>
/// <param name="Order">What they are sorted by.</param>
/// <param name="Descending">True for the last first.</param>
/// <param name="Grouping">What they are grouped by.</param>
/// <param name="Marks">What they can be marked for.</param>
public sealed record FilesRequest(
    [FromQuery(Name = "of")] FileSubset Of = FileSubset.All,
    [FromQuery(Name = "text")] string Text = "",
    [FromQuery(Name = "segment")] string[] Segment = null!,
    [FromQuery(Name = "place")] string Place = "",
    [FromQuery(Name = "order")] FileOrder Order = FileOrder.Standing,
    [FromQuery(Name = "descending")] bool Descending = false,
    [FromQuery(Name = "grouping")] FileGrouping Grouping = FileGrouping.None,
    [FromQuery(Name = "marks")] MarkFor Marks = MarkFor.Nothing)
{
    private const int MostText = 1000;

    // What binds requests leaves a text that is not given null, whatever its default, and makes several of none an empty row; it cannot
    // take types that say so ("string?").
    /// <summary>Words that all occur in a file's path, tracks or shelf.</summary>
    public string Text { get; } = Text ?? "";

    /// <summary>Only files that come from this place; empty for any.</summary>
    public string Place { get; } = Place ?? "";

    /// <summary>The query that is asked.</summary>
    /// <exception cref="FaultException">It makes no sense.</exception>
    internal FileQuery Query()
    {
        Requests.Require(Enum.IsDefined(Of) && Enum.IsDefined(Order) && Enum.IsDefined(Grouping) && Enum.IsDefined(Marks), "There is no such list of files.");
        Requests.Require(Text.Length <= MostText, $"A filter takes {MostText} characters at the most.");
        return new FileQuery
        {
            Of = Of,
            Text = Text,
            Segments = [.. Segment.Select(SegmentOf)],
            Place = Place.Length == 0 ? null : Place,
            Order = Order,
            Descending = Descending,
            Grouping = Grouping,
        };
    }

    private static FileSegment SegmentOf(string text)
    {
        var parts = text.Split('.');
        Requests.Require(
            parts.Length == 2 && Enum.TryParse<Standing>(parts[0], out var s) && Enum.IsDefined(s) && Enum.TryParse<FileUse>(parts[1], out var u) && Enum.IsDefined(u),
            "A part of the files is named by standing and use, as Inside.Placed.");
        return new FileSegment(Enum.Parse<Standing>(parts[0]), Enum.Parse<FileUse>(parts[1]));
    }
}

/// <summary>A document that uses a file.</summary>
/// <param name="Placed">How many clips of it play the file; 0 where it is only on the list.</param>
/// <param name="Tracks">The tracks that these are on.</param>
public sealed record FileUseView(Guid SessionId, string Session, string Document, bool IsCurrent, int Placed, IReadOnlyList<string> Tracks);

/// <summary>Where a file is.</summary>
/// <param name="Path">Its absolute path on this machine.</param>
public sealed record FilePathView(string Path);

/// <summary>Requests about the files of a session: lists in parts, and all about one.</summary>
public static class FileEndpoints
{
    private const int MostAtOnce = 1000;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/files").WithTags("Files");
        group.MapGet("", List).WithName("ListFiles").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapGet("ids", Ids).WithName("ListFileIds").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{fileId}", Get).WithName("GetFile").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{fileId}/position", Position).WithName("GetFilePosition").ProducesProblem(400).ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{fileId}/path", PathOf).WithName("GetFilePath").ProducesProblem(404).ProducesProblem(503);
        group.MapPost("{fileId}/show", Show).WithName("ShowFile").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{fileId}/uses", Uses).WithName("GetFileUses").ProducesProblem(404).ProducesProblem(503);
    }

    private static Ok<FilesView> List(
        Guid id, [AsParameters] FilesRequest request, SessionService sessions, SessionFiles files, ShelfService shelves, CopyInChoices choices, CancellationToken cancel,
        int skip = 0, int take = 100)
    {
        var (listing, outside) = files.Look(sessions.Get(id), shelves.All(), cancel);
        return TypedResults.Ok(FileViews.Part(
            listing.Part(request.Query(), skip, Math.Clamp(take, 0, MostAtOnce), outside, Markable(request.Marks, choices.Of(id))), outside));
    }

    /// <summary>Identities of files of a list: all that are chosen at once need not be in sight.</summary>
    private static Ok<IReadOnlyList<string>> Ids(
        Guid id, [AsParameters] FilesRequest request, SessionService sessions, SessionFiles files, ShelfService shelves, CopyInChoices choices, CancellationToken cancel,
        int skip = 0, int take = FileViews.MostChosen)
    {
        var (listing, outside) = files.Look(sessions.Get(id), shelves.All(), cancel);
        return TypedResults.Ok(listing.Ids(request.Query(), skip, Math.Clamp(take, 0, FileViews.MostChosen), outside, Markable(request.Marks, choices.Of(id))));
    }

    private static Ok<FileDetailsView> Get(Guid id, string fileId, SessionService sessions, SessionFiles files, ShelfService shelves, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var (listing, outside) = files.Look(row, shelves.All(), cancel);
        return TypedResults.Ok(FileViews.Details(
            sessions.Known(row, fileId) is { } file && listing.Find(file.Path, outside) is { } listed ? listed : throw new NotKnownException("This file is not there."), outside));
    }

    private static Ok<FilePositionView> Position(
        Guid id, string fileId, [AsParameters] FilesRequest request, SessionService sessions, SessionFiles files, ShelfService shelves, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var (listing, outside) = files.Look(row, shelves.All(), cancel);
        return TypedResults.Ok(new FilePositionView(sessions.Known(row, fileId) is { } file ? listing.IndexOf(request.Query(), file.Path, outside) : null));
    }

    /// <summary>Where a file is on this machine, also where it is meant to be and is not.</summary>
    private static Ok<FilePathView> PathOf(Guid id, string fileId, SessionService sessions, CancellationToken cancel) =>
        TypedResults.Ok(new FilePathView(Known(sessions, id, fileId, cancel).Path));

    /// <summary>Shows a file's folder in the machine's own file manager.</summary>
    private static async Task<NoContent> Show(Guid id, string fileId, SessionService sessions, FolderShower shower, CancellationToken cancel)
    {
        await shower.Show(Path.GetDirectoryName(Known(sessions, id, fileId, cancel).Path)!, cancel);
        return TypedResults.NoContent();
    }

    private static InventoryFile Known(SessionService sessions, Guid id, string fileId, CancellationToken cancel) =>
        sessions.FindFile(sessions.Get(id), fileId, cancel) ?? throw new NotKnownException("This file is not there.");

    private static Predicate<ListedFile>? Markable(MarkFor marks, CopyInChoice choice) => marks switch
    {
        MarkFor.CopyIn => f => choice.Concerns(f.File),
        MarkFor.TakesList => f => f.IsWaiting,
        MarkFor.Repair => f => f.NeedsRepair,
        _ => null,
    };

    /// <summary>Where a file is used, in all known sessions: those of this session first, then the current documents.</summary>
    private static Ok<FileUseView[]> Uses(Guid id, string fileId, SessionService sessions, UseIndex index, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var file = sessions.FindFile(row, fileId, cancel) ?? throw new NotKnownException("This file is not there.");
        var known = sessions.All().ToDictionary(s => s.Folder, s => s.Id, StringComparer.Ordinal);
        return TypedResults.Ok(index.UsesOf(new HashSet<string>(StringComparer.Ordinal) { file.Path })
            .GroupBy(u => (u.SessionFolder, u.Document, u.IsCurrent))
            .OrderByDescending(g => g.Key.SessionFolder == row.Folder).ThenByDescending(g => g.Key.IsCurrent).ThenBy(g => g.Key.Document, StringComparer.Ordinal)
            .Select(g => new FileUseView(
                known.GetValueOrDefault(g.Key.SessionFolder), Path.GetFileName(g.Key.SessionFolder), Path.GetFileName(g.Key.Document), g.Key.IsCurrent, g.Count(u => u.IsPlaced),
                [.. g.Select(u => u.Track).OfType<string>().Distinct()]))
            .ToArray());
    }
}
