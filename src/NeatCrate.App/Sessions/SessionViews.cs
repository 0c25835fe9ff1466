using System.Globalization;
using NeatCrate.App.Backups;
using NeatCrate.App.Record;
using NeatCrate.App.SetUp;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Listing;
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
    IReadOnlyList<WeightView> Weights,
    BackupStatusView? Backup);

/// <summary>A part of a file that is in use, in samples.</summary>
public sealed record UsedView(long Start, long Length);

/// <summary>What a Broadcast Wave file says about itself.</summary>
/// <param name="TimeReference">Samples since midnight, in digits: 64 bits are more than a number of the page holds.</param>
public sealed record BroadcastView(string Description, string Originator, string Date, string Time, string TimeReference);

/// <summary>A text that a file carries about itself.</summary>
public sealed record TagView(string Name, string Value);

/// <summary>A media file of a session, as far as a list shows it.</summary>
/// <param name="Used">The parts that are in use, in samples; where there are more than a strip can show, as coarse as it shows them.</param>
public sealed record FileView(
    string Id,
    string Name,
    string ShownPath,
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
    IReadOnlyList<UsedView> Used,
    string? Problem,
    IReadOnlyList<string> Remarks,
    TakeView? Take,
    bool Growing,
    bool LeftOut);

/// <summary>All about a media file of a session.</summary>
public sealed record FileDetailsView(FileView File, string Path, BroadcastView? Broadcast, IReadOnlyList<string> Tracks, IReadOnlyList<TagView> Tags, OriginView? Origin);

/// <summary>A group of files in a list.</summary>
public sealed record FileGroupView(string Title, int Files, long Bytes);

/// <summary>A part of a list of files.</summary>
/// <param name="Revision">The revision of the session that it is from.</param>
/// <param name="Total">How many files the list has.</param>
/// <param name="All">How many it would have without being narrowed by words, segments or a place.</param>
/// <param name="Markable">How many of them can be marked for what was asked.</param>
/// <param name="Marked">How many of these are marked, where that is kept here.</param>
/// <param name="Groups">Its groups in order; empty where it is not grouped.</param>
/// <param name="Files">The files of the part.</param>
public sealed record FilesView(long Revision, int Total, int All, int Markable, int Marked, IReadOnlyList<FileGroupView> Groups, IReadOnlyList<FileView> Files);

/// <summary>The place of a file in a list, from 0; null where it is not in it.</summary>
public sealed record FilePositionView(int? Index);

/// <summary>Where a file that stands outside, or is away, comes from.</summary>
/// <param name="Place">What makes it one place.</param>
public sealed record OriginView(OriginKind Kind, string Name, string Place);

/// <summary>A document in a session's folder.</summary>
/// <param name="Dated">When it is from, in local time: by the date in its name, else by its last change.</param>
/// <param name="Modified">Time of its last change.</param>
public sealed record DocumentView(string Path, bool Current, string? Problem, long Bytes, DateTime Dated, DateTime Modified);

/// <summary>The takes of a session.</summary>
/// <param name="Fingerprint">Another text where any take is another, changed, or is used otherwise.</param>
public sealed record TakesCountView(int Files, int Growing, int CutOff, int Waiting, string Fingerprint);

/// <summary>The files of a session that stand outside.</summary>
/// <param name="Taken">How many are to be copied in.</param>
/// <param name="TakenBytes">Their bytes.</param>
/// <param name="TakenOlderOnly">How many of them only older versions use.</param>
/// <param name="LeftOut">How many were left out.</param>
/// <param name="AtRisk">Names of the first ones that the current document needs and that nobody left out.</param>
/// <param name="AtRiskFiles">How many of those there are.</param>
/// <param name="Fingerprint">Another text where any of them is another, changed, or was marked otherwise.</param>
public sealed record OutsideCountView(int Taken, long TakenBytes, int TakenOlderOnly, int LeftOut, IReadOnlyList<string> AtRisk, int AtRiskFiles, string Fingerprint);

/// <summary>What one place holds of a session's outside files.</summary>
/// <param name="AwayBytes">Bytes of those that are away; null where they are not known of all.</param>
public sealed record OriginWeightView(OriginView Origin, int Files, long Bytes, int LeftOut, int Away, long? AwayBytes);

/// <summary>A session with all but its files, which are asked for in parts.</summary>
/// <param name="Revision">Grows with every change.</param>
/// <param name="Fingerprint">Another text where any file is another, stands elsewhere or changed.</param>
public sealed record InventoryView(
    long Revision,
    SessionView Session,
    SettingsChoice? Settings,
    IReadOnlyList<DocumentView> Documents,
    string Fingerprint,
    TakesCountView Takes,
    OutsideCountView Outside,
    IReadOnlyList<OriginWeightView> Origins,
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

    // More than a strip of a row can show.
    private const int MostUsed = 100;

    /// <summary>The label of a session whose folder could be read.</summary>
    /// <param name="row">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="overview">What its files come to.</param>
    /// <param name="shelfName">Name of the shelf that it is on.</param>
    /// <param name="backup">Whether it is backed up.</param>
    public static SessionView Label(SessionRow row, SessionInventory inventory, SessionOverview overview, string? shelfName, BackupStatusView? backup)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(overview);
        var (status, settings) = (overview.Status, inventory.Document?.Settings);
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
            overview.Weights.Where(w => w.Segment.Standing == Standing.Inside).Sum(w => w.Weight.Bytes) + inventory.Others.Bytes,
            [.. overview.Weights.Select(w => new WeightView(w.Segment.Standing, w.Segment.Use, w.Weight.Files, w.Weight.Bytes, w.Weight.NotKnown))],
            backup);
    }

    /// <summary>The label of a session whose folder cannot be read.</summary>
    public static SessionView Unreachable(SessionRow row, string? shelfName, string why, string next)
    {
        ArgumentNullException.ThrowIfNull(row);
        return new SessionView(
            row.Id, Path.GetFileName(row.Folder), row.Folder, shelfName, Attention.Unreadable, why, next, null, null, null, null, 0, 0, [], null);
    }

    /// <summary>A session with all but its files.</summary>
    /// <param name="row">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="overview">What its files come to.</param>
    /// <param name="shelfName">Name of the shelf that it is on.</param>
    /// <param name="sharedBy">Titles of the sessions that share the folder; empty when it is this one's alone.</param>
    /// <param name="backup">Whether it is backed up.</param>
    public static InventoryView Whole(SessionRow row, SessionInventory inventory, SessionOverview overview, string? shelfName, IReadOnlyList<string> sharedBy, BackupStatusView? backup)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(overview);
        var (takes, taken) = (overview.Takes, overview.Taken);
        return new InventoryView(
            inventory.Revision,
            Label(row, inventory, overview, shelfName, backup),
            inventory.Document?.Settings is { } settings ? SettingsChoice.From(settings) : null,
            [.. inventory.Documents.Select(d => new DocumentView(
                Path.GetRelativePath(inventory.Folder, d.Path), d.Current, d.Problem is { } problem ? Sentences.Of(problem) : null, d.Identity.Bytes, d.Dated, d.ModifiedUtc))],
            Text(overview.Fingerprint),
            new TakesCountView(takes.Files, takes.Growing, takes.CutOff, takes.Waiting, Text(overview.TakesFingerprint)),
            new OutsideCountView(taken.Files, taken.Bytes, taken.OlderOnly, overview.LeftOut, overview.AtRisk, overview.AtRiskFiles, Text(overview.OutsideFingerprint)),
            [.. overview.Origins.Select(o => new OriginWeightView(Origin(o.Origin), o.Files, o.Bytes, o.LeftOut, o.Away, o.AwayBytes))],
            inventory.Others.Files,
            inventory.Others.Bytes,
            inventory.Document?.Tracks ?? [],
            sharedBy,
            [.. inventory.Remarks.Select(Sentences.Of)]);
    }

    /// <summary>A part of a list of files.</summary>
    public static FilesView Part(FilePart part, OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(part);
        ArgumentNullException.ThrowIfNull(outside);
        return new FilesView(
            part.Revision,
            part.Total,
            part.All,
            part.Markable,
            part.Marked,
            [.. part.Groups.Select(g => new FileGroupView(g.Title, g.Files, g.Bytes))],
            [.. part.Files.Select(f => One(f, outside, MostUsed))]);
    }

    /// <summary>All about a file.</summary>
    public static FileDetailsView Details(ListedFile listed, OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(listed);
        ArgumentNullException.ThrowIfNull(outside);
        var file = listed.File;
        return new FileDetailsView(
            One(listed, outside, int.MaxValue),
            file.Path,
            file.Header?.Broadcast is { } b ? new BroadcastView(b.Description, b.Originator, b.OriginationDate, b.OriginationTime, b.TimeReference.ToString(CultureInfo.InvariantCulture)) : null,
            file.Tracks,
            [.. file.Header?.Tags.Select(t => new TagView(t.Name, t.Value)) ?? []],
            listed.Origin is { } origin ? Origin(origin) : null);
    }

    private static OriginView Origin(Origin origin) => new(origin.Kind, origin.Name, origin.Place);

    /// <summary>In digits: 64 bits are more than a number of the page holds.</summary>
    private static string Text(ulong fingerprint) => fingerprint.ToString("x16", CultureInfo.InvariantCulture);

    /// <summary>A file as lists show it.</summary>
    public static FileView File(ListedFile listed, OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(listed);
        ArgumentNullException.ThrowIfNull(outside);
        return One(listed, outside, MostUsed);
    }

    private static FileView One(ListedFile listed, OutsideFiles outside, int mostUsed)
    {
        var (file, known) = (listed.File, listed.File.Known);
        return new FileView(
            file.Id,
            file.Name,
            file.ShownPath,
            file.Standing,
            file.Use,
            file.PlacedTimes,
            file.ShelfName,
            file.BelongsInside,
            known?.Bytes ?? 0,
            known?.ModifiedUtc,
            known?.Container,
            known?.SampleRate,
            known?.BitsPerSample,
            known?.Channels,
            known?.LengthSamples,
            known?.LengthSeconds,
            [.. SampleRange.AtMost(file.Used, mostUsed, known?.LengthSamples ?? 0).Select(u => new UsedView(u.Start, u.Length))],
            listed.IsGrowing || file.Problem is null ? null : Sentences.Of(file.Problem),
            listed.IsGrowing ? [] : [.. file.Remarks.Select(Sentences.Of)],
            listed.Take is null ? null : RecordViews.Take(listed),
            listed.IsGrowing,
            outside.IsLeftOut(file, listed.Origin));
    }
}
