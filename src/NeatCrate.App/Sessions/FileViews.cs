using System.Globalization;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Listing;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;

namespace NeatCrate.App.Sessions;

/// <summary>A take as the pages see it.</summary>
/// <param name="Track">Name of its track.</param>
/// <param name="Number">Its number on the track.</param>
/// <param name="Pass">The pass of the song.</param>
/// <param name="Evidence">What tells all this.</param>
/// <param name="StartSeconds">Where it belongs on the timeline, in seconds.</param>
/// <param name="RepairedAs">Name of the copy on which it was repaired.</param>
/// <param name="NeedsRepair">True for a recording that was cut off and is not repaired yet.</param>
/// <param name="IsWaiting">True for a take that waits to be put on the list.</param>
/// <param name="IsKeeper">True where somebody marked it as the one to keep.</param>
/// <param name="Note">What somebody wrote about it.</param>
public sealed record TakeView(
    string? Track, int? Number, int? Pass, TakeEvidence Evidence, double? StartSeconds, string? RepairedAs, bool NeedsRepair, bool IsWaiting, bool IsKeeper, string? Note);

/// <summary>A part of a session's weight: files that stand alike and are used alike.</summary>
/// <param name="Bytes">Their bytes, those that are away as they were last seen.</param>
/// <param name="NotKnown">How many of them have no size that is known.</param>
public sealed record WeightView(Standing Standing, FileUse Use, int Files, long Bytes, int NotKnown);

/// <summary>A part of a file that is in use, in samples.</summary>
public sealed record UsedView(long Start, long Length);

/// <summary>What a Broadcast Wave file says about itself.</summary>
/// <param name="TimeReference">Samples since midnight, in digits: 64 bits are more than a number of the page holds.</param>
public sealed record BroadcastView(string Description, string Originator, string Date, string Time, string TimeReference);

/// <summary>A text that a file carries about itself.</summary>
public sealed record TagView(string Name, string Value);

/// <summary>A media file of a session, as far as a list shows it.</summary>
/// <param name="Used">The parts that are in use, in samples; where there are more than a strip can show, as coarse as it shows them.</param>
/// <param name="Remarked">What is remarked of it in a word or two; null where nothing is.</param>
public sealed record FileView(
    string Id,
    string Name,
    string ShownPath,
    Standing Standing,
    FileUse Use,
    int PlacedTimes,
    int NamedTimes,
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
    string? Remarked,
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

/// <summary>Makes views of files.</summary>
public static class FileViews
{
    /// <summary>So many files can be chosen at once.</summary>
    public const int MostChosen = 500_000;

    // More than a strip of a row can show.
    private const int MostUsed = 100;

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

    /// <summary>Where a file comes from.</summary>
    public static OriginView Origin(Origin origin)
    {
        ArgumentNullException.ThrowIfNull(origin);
        return new OriginView(origin.Kind, origin.Name, origin.Place);
    }

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
            file.NamedTimes,
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
            listed.IsGrowing || file.Remarks.IsEmpty ? null : RemarkWords.Of(file.Remarks),
            listed.Take is null ? null : Take(listed),
            listed.IsGrowing,
            outside.IsLeftOut(file, listed.Origin));
    }

    /// <summary>A take as the pages see it.</summary>
    private static TakeView Take(ListedFile listed)
    {
        ArgumentNullException.ThrowIfNull(listed);
        var take = listed.Take ?? throw new ArgumentException("The file is no take.", nameof(listed));
        return new TakeView(
            take.Track,
            take.Number,
            take.Pass,
            take.Evidence,
            take.File.Header is { } header ? take.StartSamples / (double)header.SampleRate : null,
            take.RepairedAs,
            listed.NeedsRepair,
            listed.IsWaiting,
            take.File.ListedTake?.IsKeeper == true,
            take.File.ListedTake?.Note);
    }
}
