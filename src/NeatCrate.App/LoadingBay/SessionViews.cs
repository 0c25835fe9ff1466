using System.Globalization;
using NeatCrate.App.Backups;
using NeatCrate.App.Sessions;
using NeatCrate.App.SetUp;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Listing;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;

namespace NeatCrate.App.LoadingBay;

/// <summary>A part of the one sentence about a session.</summary>
/// <param name="About">What it is about, which tells where it is mended.</param>
/// <param name="Joint">What joins it to the part before.</param>
/// <param name="Text">What is so; the last one ends with the full stop.</param>
public sealed record StatusPartView(StatusAbout About, string Joint, string Text);

/// <summary>A session as its label shows it.</summary>
public sealed record SessionView(
    Guid Id,
    string Name,
    string Folder,
    string? ShelfName,
    Attention Attention,
    IReadOnlyList<StatusPartView> Says,
    string Next,
    int? SampleRate,
    int? BitDepth,
    string? Document,
    DateTime? DocumentChanged,
    int OlderDocuments,
    long Bytes,
    IReadOnlyList<WeightView> Weights,
    BackupStatusView? Backup);

/// <summary>A document in a session's folder.</summary>
/// <param name="IsNaming">True for one of another program, of which only the names in it are known.</param>
/// <param name="IsText">True for one of these that seems to be text, so that a new version of it can name files elsewhere.</param>
/// <param name="Dated">When it is from, in local time: by the date in its name, else by its last change.</param>
/// <param name="Modified">Time of its last change.</param>
public sealed record DocumentView(string Path, bool Current, bool IsNaming, bool IsText, string? Problem, long Bytes, DateTime Dated, DateTime Modified);

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
        // A session in which nothing is missing, and which one drive can take, is in no good order.
        if (status.Attention > Attention.OnlyHere && backup is { Worry: true })
        {
            status = status with { Attention = Attention.OnlyHere, Next = "Back up" };
        }
        return new SessionView(
            row.Id,
            Path.GetFileName(row.Folder),
            row.Folder,
            shelfName,
            status.Attention,
            Says(status),
            status.Next,
            settings?.SampleRate,
            settings?.BitDepth,
            inventory.Current is { } current ? Path.GetFileName(current.Path) : null,
            inventory.Current?.ModifiedUtc,
            inventory.Documents.Count(d => !d.Current && !d.CountsNow),
            overview.Weights.Where(w => w.Segment.Standing == Standing.Inside).Sum(w => w.Weight.Bytes) + inventory.Others.Bytes,
            [.. overview.Weights.Select(w => new WeightView(w.Segment.Standing, w.Segment.Use, w.Weight.Files, w.Weight.Bytes, w.Weight.NotKnown))],
            backup);
    }

    private static StatusPartView[] Says(SessionStatus status) =>
        status.Problem is { } problem
            ? [new StatusPartView(StatusAbout.Nothing, "", Sentences.Of(problem))]
            : [.. status.Parts.Select((p, n) => new StatusPartView(p.About, p.Joint, p.Text + (n == status.Parts.Length - 1 ? "." : "")))];

    /// <summary>The label of a session whose folder cannot be read.</summary>
    public static SessionView Unreachable(SessionRow row, string? shelfName, string why, string next)
    {
        ArgumentNullException.ThrowIfNull(row);
        return new SessionView(
            row.Id, Path.GetFileName(row.Folder), row.Folder, shelfName, Attention.Unreadable, [new StatusPartView(StatusAbout.Nothing, "", why)], next, null, null, null, null, 0, 0, [], null);
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
                Path.GetRelativePath(inventory.Folder, d.Path), d.Current, d.IsNaming, d.Document?.Names?.IsText ?? false, d.Problem is { } problem ? Sentences.Of(problem) : null, d.Identity.Bytes, d.Dated, d.ModifiedUtc))],
            Text(overview.Fingerprint),
            new TakesCountView(takes.Files, takes.Growing, takes.CutOff, takes.Waiting, Text(overview.TakesFingerprint)),
            new OutsideCountView(taken.Files, taken.Bytes, taken.OlderOnly, overview.LeftOut, overview.AtRisk, overview.AtRiskFiles, Text(overview.OutsideFingerprint)),
            [.. overview.Origins.Select(o => new OriginWeightView(FileViews.Origin(o.Origin), o.Files, o.Bytes, o.LeftOut, o.Away, o.AwayBytes))],
            inventory.Others.Files,
            inventory.Others.Bytes,
            inventory.Document?.Tracks ?? [],
            sharedBy,
            [.. inventory.Remarks.Select(Sentences.Of)]);
    }

    /// <summary>In digits: 64 bits are more than a number of the page holds.</summary>
    private static string Text(ulong fingerprint) => fingerprint.ToString("x16", CultureInfo.InvariantCulture);
}
