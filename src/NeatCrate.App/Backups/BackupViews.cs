using System.ComponentModel.DataAnnotations;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Backups;

namespace NeatCrate.App.Backups;

/// <summary>A version in the logbook.</summary>
/// <param name="Key">What it is known by.</param>
/// <param name="Saved">When it is from, in local time.</param>
/// <param name="Document">File name of its document.</param>
/// <param name="Bytes">Size of the document, or of all that a full backup holds.</param>
/// <param name="NewBytes">For a full backup: what it added to the vault.</param>
/// <param name="Files">For a full backup: how many files it holds.</param>
/// <param name="LeftOut">For a full backup: how many files could not go in.</param>
/// <param name="IsHere">For a document: whether it is kept in the session, or by Neat Crate.</param>
/// <param name="IsInSecond">For a document: whether the second place holds it.</param>
/// <param name="Vault">For a full backup: name of the vault's shelf.</param>
/// <param name="IsAway">True while the drive that alone holds it is away.</param>
/// <param name="IsCurrent">True for a state that the current document is in now.</param>
public sealed record VersionView(
    string Key, VersionKind Kind, DateTime Saved, string? Document, string? Note, long Bytes, long? NewBytes, int? Files, int? LeftOut, bool IsHere, bool IsInSecond, string? Vault, bool IsAway, bool IsCurrent);

/// <summary>Files and bytes.</summary>
public sealed record AmountView(int Files, long Bytes);

/// <summary>How safe the media files of a session are.</summary>
/// <param name="Wanted">In so many places each is wanted.</param>
/// <param name="OnlyHere">Those that are nowhere else.</param>
/// <param name="OnOneDrive">Those whose copies are all on the drive on which they stand.</param>
/// <param name="TooFew">Those in fewer places than wanted, the ones only here among them.</param>
/// <param name="Safe">Those in as many as wanted.</param>
/// <param name="AwayFromHouse">How many of all are away from the house as well.</param>
/// <param name="Lost">How many are missing and in no backup.</param>
public sealed record SafetyView(int Wanted, AmountView OnlyHere, AmountView OnOneDrive, AmountView TooFew, AmountView Safe, int AwayFromHouse, int Lost);

/// <summary>Whether a session is backed up, in a few figures.</summary>
/// <param name="Sentence">The same in a sentence.</param>
/// <param name="LastDocument">When the last state of a document was kept, in local time.</param>
/// <param name="LastFull">When the last full backup was made, in local time.</param>
/// <param name="Second">Name of the second place; null where there is none.</param>
/// <param name="SecondIsAway">Whether its drive is away.</param>
/// <param name="SecondBehind">How many states it does not hold.</param>
/// <param name="Safety">How safe the files are; null where the session cannot be looked at.</param>
/// <param name="Worry">True where somebody should do something.</param>
public sealed record BackupStatusView(
    string Sentence, DateTime? LastDocument, DateTime? LastFull, string? Second, bool SecondIsAway, int SecondBehind, SafetyView? Safety, bool Worry);

/// <summary>A vault as the pages show it.</summary>
/// <param name="Id">The shelf that it is on.</param>
/// <param name="Backups">How many backups of this session it holds.</param>
/// <param name="AllBackups">How many of all sessions.</param>
/// <param name="IsBegun">Whether there is a vault on the shelf yet.</param>
/// <param name="Damaged">What was found damaged and could not be mended.</param>
/// <param name="SharesDrive">True where it is on the same drive as the session: then one drive's end takes both.</param>
/// <param name="Problem">Why it cannot be looked into now; null where it can, or is away.</param>
public sealed record VaultView(
    Guid Id, string Name, bool Connected, long? FreeBytes, int Backups, int AllBackups, bool IsBegun, bool IsAwayFromHouse, DateTimeOffset? Checked, DateTimeOffset? CheckedWhole, string[] Damaged, bool SharesDrive, string? Problem);

/// <summary>How a session is to be backed up.</summary>
public sealed record BackupChoiceView(
    bool KeepsInSession,
    Guid? SecondShelf,
    bool WithOutside,
    [Range(1, 9)] int Wanted,
    [RegularExpression("^([01][0-9]|2[0-3]):[0-5][0-9]$")] string? DailyAt,
    bool AtRest,
    bool WhenPluggedIn,
    [Range(1, 10_000)] int KeepLast,
    [Range(0, 10_000)] int KeepHours,
    [Range(0, 10_000)] int KeepDays);

/// <summary>All about the backups of a session.</summary>
public sealed record BackupsView(BackupStatusView Status, BackupChoiceView Choice, VaultView[] Vaults, VersionView[] Versions, string? Recording);

/// <summary>A clip that is otherwise.</summary>
/// <param name="Missing">True where the file that it plays is not there now.</param>
public sealed record ClipDifferenceView(VersionChange Change, string Name, double? Before, double? After, string? OtherTrack, bool Missing);

/// <summary>A track that is otherwise.</summary>
public sealed record TrackDifferenceView(string Name, VersionChange Change, int Same, ClipDifferenceView[] Clips);

/// <summary>A file that only one of two versions uses.</summary>
/// <param name="IsThere">Whether it is there now.</param>
/// <param name="WasThere">Whether it was there in the version that uses it; null where nobody knows.</param>
public sealed record FileDifferenceView(string Path, string Name, bool IsNewlyUsed, bool IsThere, bool? WasThere);

/// <summary>What differs between two versions.</summary>
/// <param name="Sentence">The same in a sentence.</param>
/// <param name="Before">The earlier one; null for the document as it is now.</param>
/// <param name="After">The later one; null for the document as it is now.</param>
/// <param name="Others">True where they differ in something else.</param>
/// <param name="IsByNames">True where of one of them it is only known what it names.</param>
public sealed record ComparisonView(string Sentence, VersionView? Before, VersionView? After, TrackDifferenceView[] Tracks, FileDifferenceView[] Files, bool Others, bool IsByNames);

/// <summary>Files that versions play or hold under a name.</summary>
/// <param name="Total">How many there are.</param>
/// <param name="Files">The first of them.</param>
public sealed record NamedFilesView(int Total, NamedFileView[] Files);

/// <summary>A file that a version plays or holds.</summary>
/// <param name="Place">Where it stood: its path from the session folder, or whole where it stood outside.</param>
public sealed record NamedFileView(string Name, string Place, FileHistoryView History);

/// <summary>When a file was used, and there.</summary>
public sealed record FileHistoryView(string Sentence, VersionView? LastUsed, VersionView? NotUsedSince, VersionView? LastThere, VersionView? NotThereSince, int Asked, int Unreadable);

/// <summary>A file in a version.</summary>
/// <param name="IsThere">Whether a file stands at its place now.</param>
/// <param name="IsSame">Whether that one is as it was, by size and time.</param>
public sealed record VersionFileView(string Path, long Bytes, DateTime Modified, bool IsThere, bool IsSame, bool IsOutside);

/// <summary>What a version holds.</summary>
/// <param name="Problem">Why its document cannot be read; null where it can.</param>
public sealed record VersionContentView(VersionView Version, string[] Tracks, VersionFileView[] Files, string? Problem);

/// <summary>A media file with the places that hold it.</summary>
/// <param name="Places">On how many drives it is.</param>
/// <param name="Copies">How many copies there are on them.</param>
public sealed record SafeFileView(FileView File, int Places, int Copies, string[] Vaults, bool IsAwayFromHouse);

/// <summary>A part of the list of how safe files are.</summary>
public sealed record SafeFilesView(int Total, SafeFileView[] Files);

/// <summary>What becomes of a backup that is thinned out.</summary>
/// <param name="Why">Why, in words.</param>
/// <param name="Alone">Media that it alone holds.</param>
public sealed record ThinningView(string Key, DateTime Made, bool Stays, string Why, string[] Alone);
