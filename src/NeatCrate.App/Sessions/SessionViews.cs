using System.Globalization;
using NeatCrate.App.CopyIn;
using NeatCrate.App.Hosting;
using NeatCrate.App.Record;
using NeatCrate.App.SetUp;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>A part of a session's weight: files that stand alike and are used alike.</summary>
/// <param name="Bytes">Their bytes, those that are away as they were last seen.</param>
/// <param name="NotKnown">How many of them have no size that is known.</param>
public sealed record WeightView(Standing Standing, FileUse Use, int Files, long Bytes, int NotKnown);

/// <summary>A session as its label shows it.</summary>
public sealed record SessionView(
    Guid Id,
    string Name,
    string Folder,
    string? ShelfName,
    Attention Attention,
    string Sentence,
    string Next,
    int? SampleRate,
    int? BitDepth,
    string? Document,
    DateTime? DocumentChanged,
    int OlderDocuments,
    long Bytes,
    IReadOnlyList<WeightView> Weights);

/// <summary>A part of a file that is in use, in samples.</summary>
public sealed record UsedView(long Start, long Length);

/// <summary>What a Broadcast Wave file says about itself.</summary>
/// <param name="TimeReference">Samples since midnight, in digits: 64 bits are more than a number of the page holds.</param>
public sealed record BroadcastView(string Description, string Originator, string Date, string Time, string TimeReference);

/// <summary>A text that a file carries about itself.</summary>
public sealed record TagView(string Name, string Value);

/// <summary>A media file of a session.</summary>
public sealed record FileView(
    string Id,
    string Name,
    string ShownPath,
    string Path,
    Standing Standing,
    FileUse Use,
    int PlacedTimes,
    string? ShelfName,
    bool BelongsInside,
    long Bytes,
    DateTime? Changed,
    string? Container,
    int? SampleRate,
    int? BitDepth,
    int? Channels,
    long? LengthSamples,
    double? Seconds,
    BroadcastView? Broadcast,
    IReadOnlyList<UsedView> Used,
    IReadOnlyList<string> Tracks,
    string? Problem,
    IReadOnlyList<string> Remarks,
    TakeView? Take,
    bool Growing,
    IReadOnlyList<TagView> Tags,
    OriginView? Origin,
    bool LeftOut);

/// <summary>Where a file that stands outside, or is away, comes from.</summary>
/// <param name="Place">What makes it one place.</param>
public sealed record OriginView(OriginKind Kind, string Name, string Place);

/// <summary>A document in a session's folder.</summary>
/// <param name="Dated">When it is from, in local time: by the date in its name, else by its last change.</param>
/// <param name="Modified">Time of its last change.</param>
public sealed record DocumentView(string Path, bool Current, string? Problem, long Bytes, DateTime Dated, DateTime Modified);

/// <summary>What changed in a session since a revision of it that a page has.</summary>
/// <param name="Revision">The revision that the page has then.</param>
/// <param name="IsWhole">True where anything may have changed: then the page asks for all of it, and nothing else here counts.</param>
/// <param name="Files">Files that are new or otherwise.</param>
/// <param name="Gone">Identities of files that are gone.</param>
public sealed record ChangesView(long Revision, bool IsWhole, SessionView? Session, IReadOnlyList<FileView> Files, IReadOnlyList<string> Gone, int OtherFiles, long OtherBytes, IReadOnlyList<string> Remarks);

/// <summary>A session with everything in it.</summary>
/// <param name="Revision">Grows with every change; what changed since is asked for by it.</param>
public sealed record InventoryView(
    long Revision,
    SessionView Session,
    SettingsChoice? Settings,
    IReadOnlyList<DocumentView> Documents,
    IReadOnlyList<FileView> Files,
    int OtherFiles,
    long OtherBytes,
    IReadOnlyList<string> TrackNames,
    IReadOnlyList<string> SharedBy,
    IReadOnlyList<string> Remarks);

/// <summary>Makes views of what the core found.</summary>
public static class SessionViews
{
    /// <summary>So many files can be chosen at once.</summary>
    public const int MostChosen = 500_000;

    /// <summary>Paths of the files that a page chose by their identities; null where it chose none, which means all.</summary>
    public static IReadOnlySet<string>? Chosen(string[]? fileIds, SessionInventory inventory)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        if (fileIds is null)
        {
            return null;
        }
        Requests.RequireList(fileIds, MostChosen, "files");
        var chosen = fileIds.ToHashSet(StringComparer.Ordinal);
        return inventory.Files.Where(f => chosen.Contains(f.Id)).Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
    }

    /// <summary>The label of a session whose folder could be read.</summary>
    /// <param name="row">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelfName">Name of the shelf that it is on.</param>
    /// <param name="outside">Where its outside files come from, and which of them are left out.</param>
    public static SessionView Label(SessionRow row, SessionInventory inventory, string? shelfName, OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(outside);
        var status = SessionStatus.Of(inventory, outside.IsLeftOut);
        var settings = inventory.Document?.Settings;
        return new SessionView(
            row.Id,
            Path.GetFileName(row.Folder),
            row.Folder,
            shelfName,
            status.Attention,
            status.Problem is { } problem ? Sentences.Of(problem) : status.Sentence,
            status.Next,
            settings?.SampleRate,
            settings?.BitDepth,
            inventory.Current is { } current ? Path.GetFileName(current.Path) : null,
            inventory.Current?.ModifiedUtc,
            inventory.Documents.Count(d => !d.Current),
            inventory.Standing(Standing.Inside).Sum(f => f.Bytes) + inventory.Others.Bytes,
            [.. inventory.Files.GroupBy(f => (f.Standing, f.Use)).OrderBy(g => g.Key)
                .Select(g => new WeightView(g.Key.Standing, g.Key.Use, g.Count(), g.Sum(f => f.Known?.Bytes ?? 0), g.Count(f => f.Known is null)))]);
    }

    /// <summary>The label of a session whose folder cannot be read.</summary>
    public static SessionView Unreachable(SessionRow row, string? shelfName, string why, string next)
    {
        ArgumentNullException.ThrowIfNull(row);
        return new SessionView(
            row.Id, Path.GetFileName(row.Folder), row.Folder, shelfName, Attention.Unreadable, why, next, null, null, null, null, 0, 0, []);
    }

    /// <summary>A whole session.</summary>
    /// <param name="row">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelfName">Name of the shelf that it is on.</param>
    /// <param name="growing">Paths of files that something writes at this moment.</param>
    /// <param name="outside">Where its outside files come from, and which of them are left out.</param>
    /// <param name="sharedBy">Titles of the sessions that share the folder; empty when it is this one's alone.</param>
    public static InventoryView Whole(
        SessionRow row, SessionInventory inventory, string? shelfName, IReadOnlySet<string> growing, OutsideFiles outside, IReadOnlyList<string> sharedBy)
    {
        ArgumentNullException.ThrowIfNull(outside);
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(growing);
        var takes = TakeFinder.Find(inventory).ToDictionary(t => t.File.Path, StringComparer.Ordinal);
        return new InventoryView(
            inventory.Revision,
            Label(row, inventory, shelfName, outside),
            inventory.Document?.Settings is { } settings ? SettingsChoice.From(settings) : null,
            [.. inventory.Documents.Select(d => new DocumentView(
                Path.GetRelativePath(inventory.Folder, d.Path), d.Current, d.Problem is { } problem ? Sentences.Of(problem) : null, d.Identity.Bytes, d.Dated, d.ModifiedUtc))],
            [.. inventory.Files.Select(f => OneFile(f, takes.GetValueOrDefault(f.Path), growing, outside))],
            inventory.Others.Files,
            inventory.Others.Bytes,
            inventory.Document?.Tracks ?? [],
            sharedBy,
            [.. inventory.Remarks.Select(Sentences.Of)]);
    }

    /// <summary>What changed in a session.</summary>
    /// <param name="row">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="changes">Its files that are new or otherwise, and the paths of those that are gone; null where anything may have changed.</param>
    /// <param name="shelfName">Name of the shelf that it is on.</param>
    /// <param name="growing">Paths of files that something writes at this moment.</param>
    /// <param name="outside">Where its outside files come from, and which of them are left out.</param>
    public static ChangesView Changes(
        SessionRow row, SessionInventory inventory, (IReadOnlyList<InventoryFile> Changed, IReadOnlyList<string> Gone)? changes, string? shelfName, IReadOnlySet<string> growing,
        OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        if (changes is not { } small)
        {
            return new ChangesView(inventory.Revision, true, null, [], [], 0, 0, []);
        }
        var changed = small.Changed.Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
        var takes = changed.Count == 0 ? [] : TakeFinder.Find(inventory).Where(t => changed.Contains(t.File.Path)).ToDictionary(t => t.File.Path, StringComparer.Ordinal);
        return new ChangesView(
            inventory.Revision,
            false,
            Label(row, inventory, shelfName, outside),
            [.. small.Changed.Select(f => OneFile(f, takes.GetValueOrDefault(f.Path), growing, outside))],
            [.. small.Gone.Select(InventoryFile.IdOf)],
            inventory.Others.Files,
            inventory.Others.Bytes,
            [.. inventory.Remarks.Select(Sentences.Of)]);
    }

    private static FileView OneFile(InventoryFile file, Take? take, IReadOnlySet<string> growing, OutsideFiles outside)
    {
        var known = file.Known;
        return new FileView(
            file.Id,
            file.Name,
            file.ShownPath,
            file.Path,
            file.Standing,
            file.Use,
            file.PlacedTimes,
            file.ShelfName,
            file.BelongsInside,
            known?.Bytes ?? 0,
            known?.ChangedUtc,
            known?.Container,
            known?.SampleRate,
            known?.BitsPerSample,
            known?.Channels,
            known?.LengthSamples,
            known?.LengthSeconds,
            file.Header?.Broadcast is { } b ? new BroadcastView(b.Description, b.Originator, b.OriginationDate, b.OriginationTime, b.TimeReference.ToString(CultureInfo.InvariantCulture)) : null,
            [.. file.Used.Select(u => new UsedView(u.Start, u.Length))],
            file.Tracks,
            growing.Contains(file.Path) || file.Problem is null ? null : Sentences.Of(file.Problem),
            growing.Contains(file.Path) ? [] : [.. file.Remarks.Select(Sentences.Of)],
            take is null ? null : RecordViews.Take(take, growing),
            growing.Contains(file.Path),
            [.. file.Header?.Tags.Select(t => new TagView(t.Name, t.Value)) ?? []],
            outside.OriginOf(file) is { } origin ? new OriginView(origin.Kind, origin.Name, origin.Place) : null,
            outside.IsLeftOut(file));
    }
}
