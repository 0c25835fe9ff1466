using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Store;

/// <summary>A shelf that Neat Crate knows.</summary>
public sealed class ShelfRow
{
    /// <summary>Identity.</summary>
    public Guid Id { get; set; }

    /// <summary>Name shown to people.</summary>
    public required string Name { get; set; }

    /// <summary>What it is for.</summary>
    public ShelfKind Kind { get; set; }

    /// <summary>Absolute path of its top folder.</summary>
    public required string Root { get; set; }

    /// <summary>Place in the list.</summary>
    public int Position { get; set; }

    /// <summary>The shelf as the core knows it.</summary>
    public Shelf ToShelf() => new(Id, Name, Kind, Root);
}

/// <summary>What the last whole scan of a shelf came to.</summary>
public sealed class ScanRow
{
    /// <summary>The shelf.</summary>
    public Guid ShelfId { get; set; }

    /// <summary>When it ended, in milliseconds since 1970 (UTC).</summary>
    public long EndedMs { get; set; }

    /// <summary>Folders on the shelf.</summary>
    public int Folders { get; set; }

    /// <summary>Files on the shelf.</summary>
    public int Files { get; set; }

    /// <summary>Their bytes in all.</summary>
    public long Bytes { get; set; }
}

/// <summary>A folder in the catalogue.</summary>
public sealed class CatalogueFolderRow
{
    /// <summary>Identity.</summary>
    public long Id { get; set; }

    /// <summary>The shelf.</summary>
    public Guid ShelfId { get; set; }

    /// <summary>Path from the shelf's top folder; empty for that one itself.</summary>
    public required string Path { get; set; }

    /// <summary>Fingerprint of its files, 16 bytes, the highest first.</summary>
    public required byte[] Fingerprint { get; set; }

    /// <summary>Why it could not be read.</summary>
    public string? Problem { get; set; }
}

/// <summary>A file in the catalogue.</summary>
public sealed class CatalogueFileRow
{
    /// <summary>Identity.</summary>
    public long Id { get; set; }

    /// <summary>Its folder.</summary>
    public long FolderId { get; set; }

    /// <summary>Its name.</summary>
    public required string Name { get; set; }

    /// <summary>Size in bytes.</summary>
    public long Bytes { get; set; }

    /// <summary>Time of the last change (UTC), in steps of 100 ns since the year 1.</summary>
    public long ChangedTicks { get; set; }

    /// <summary>Its number on its drive.</summary>
    public long Number { get; set; }

    /// <summary>What kind of media it is; null for other files.</summary>
    public MediaKind? Kind { get; set; }

    /// <summary>Name of the format.</summary>
    public string? Container { get; set; }

    /// <summary>Sample rate in Hz.</summary>
    public int? SampleRate { get; set; }

    /// <summary>Number of channels.</summary>
    public int? Channels { get; set; }

    /// <summary>Meaningful bits per sample; 0 where the format has none.</summary>
    public int? BitsPerSample { get; set; }

    /// <summary>Length in samples per channel.</summary>
    public long? LengthSamples { get; set; }

    /// <summary>Length in seconds.</summary>
    public double? Seconds { get; set; }

    /// <summary>Why it cannot be read.</summary>
    public string? Problem { get; set; }

    /// <summary>
    /// Path and texts that it carries about itself, folded for searching; null where that is the path alone, of characters up to U+007F:
    /// then it follows from the path.
    /// </summary>
    public string? SearchText { get; set; }
}

/// <summary>The identities of a file, as long as its size, its time and its number on the drive stay.</summary>
public sealed class IdentityRow
{
    /// <summary>The shelf that it is on; <see cref="Guid.Empty"/> for none.</summary>
    public Guid ShelfId { get; set; }

    /// <summary>Path from the shelf's top folder, so that the shelf may come back at another place; absolute where it is on none.</summary>
    public required string Path { get; set; }

    /// <summary>Its number on its drive (inode).</summary>
    public long Number { get; set; }

    /// <summary>When the system last noted a change of it (ctime), in steps of 100 ns since 1970.</summary>
    public long StatusTicks { get; set; }

    /// <summary>Size in bytes.</summary>
    public long Bytes { get; set; }

    /// <summary>Time of the last change (UTC), in steps of 100 ns since the year 1.</summary>
    public long ChangedTicks { get; set; }

    /// <summary>Hash of all bytes, 32 hexadecimal digits.</summary>
    public required string Hash { get; set; }

    /// <summary>Hash of the sound, 32 hexadecimal digits; null for what is none.</summary>
    public string? Sound { get; set; }

    /// <summary>Hash of the samples, 32 hexadecimal digits; null where it was not worked out, or there is none.</summary>
    public string? Samples { get; set; }

    /// <summary>True for silence, which its identities tell from no other.</summary>
    public bool IsSilent { get; set; }

    /// <summary>Who made it, by what reference and when (EBU Tech 3285); null where it does not say.</summary>
    public string? Origin { get; set; }

    /// <summary>Its first sample since midnight (EBU Tech 3285); null where it does not say.</summary>
    public long? TimeReference { get; set; }
}

/// <summary>A file that is no longer where it was on a shelf that is there, with all that was known of it.</summary>
public sealed class GoneFileRow
{
    /// <summary>The shelf.</summary>
    public Guid ShelfId { get; set; }

    /// <summary>Path from the shelf's top folder.</summary>
    public required string Path { get; set; }

    /// <summary>Its name, folded for comparing.</summary>
    public required string FoldedName { get; set; }

    /// <summary>Size in bytes.</summary>
    public long Bytes { get; set; }

    /// <summary>Time of the last change (UTC), in steps of 100 ns since the year 1.</summary>
    public long ChangedTicks { get; set; }

    /// <summary>What kind of media it was; null for other files.</summary>
    public MediaKind? Kind { get; set; }

    /// <summary>Name of the format.</summary>
    public string? Container { get; set; }

    /// <summary>Sample rate in Hz.</summary>
    public int? SampleRate { get; set; }

    /// <summary>Number of channels.</summary>
    public int? Channels { get; set; }

    /// <summary>Meaningful bits per sample.</summary>
    public int? BitsPerSample { get; set; }

    /// <summary>Length in samples per channel.</summary>
    public long? LengthSamples { get; set; }

    /// <summary>When it was found to be gone, in milliseconds since 1970 (UTC).</summary>
    public long GoneMs { get; set; }

    /// <summary>When the scan ended that saw it last, in milliseconds since 1970 (UTC); 0 where that is not known.</summary>
    public long SeenMs { get; set; }
}

/// <summary>A session that Neat Crate knows. Everything about it that matters is in its folder.</summary>
public sealed class SessionRow
{
    /// <summary>Identity among the sessions known here. Two copies of one session are two rows.</summary>
    public Guid Id { get; set; }

    /// <summary>Absolute path of the session folder.</summary>
    public required string Folder { get; set; }

    /// <summary>File name of the current document; null for the newest at the top level.</summary>
    public string? DocumentName { get; set; }

    /// <summary>The identity that its document carries, by which it is recognised after it was moved or renamed.</summary>
    public Guid? DocumentSessionId { get; set; }

    /// <summary>Identity of the document's bytes when it was last seen, for documents that carry none.</summary>
    public string? DocumentIdentity { get; set; }

    /// <summary>When it became known, in milliseconds since 1970 (UTC).</summary>
    public long KnownSinceMs { get; set; }
}

/// <summary>How far a plan is, or how it ended.</summary>
public enum PlanState
{
    /// <summary>Begun.</summary>
    Open,

    /// <summary>Every step is done; tidying is left.</summary>
    Committed,

    /// <summary>Applied whole.</summary>
    Applied,

    /// <summary>Cancelled and taken back.</summary>
    Cancelled,

    /// <summary>Failed and taken back.</summary>
    Failed,

    /// <summary>Cut off and taken back at a later start.</summary>
    TakenBack,

    /// <summary>Its text cannot be read: set apart, so that it hinders nothing else.</summary>
    SetApart,
}

/// <summary>A plan in the journal; once it has ended, in the history.</summary>
public sealed class PlanRow
{
    /// <summary>Identity of the plan.</summary>
    public Guid Id { get; set; }

    /// <summary>Which capability made it: a name of <see cref="PlanKind"/>.</summary>
    public required string Kind { get; set; }

    /// <summary>The session that it changed.</summary>
    public Guid? SessionId { get; set; }

    /// <summary>The plan in one sentence.</summary>
    public required string Sentence { get; set; }

    /// <summary>The whole plan as JSON (docs/formats.md, "Plan"); empty once the history was thinned.</summary>
    public required string Json { get; set; }

    /// <summary>True while its text is kept, from which it can be undone.</summary>
    public bool IsKept { get; set; } = true;

    /// <summary>How far it is: a name of <see cref="PlanState"/>.</summary>
    public required string State { get; set; }

    /// <summary>When it was begun, in milliseconds since 1970 (UTC).</summary>
    public long BegunMs { get; set; }

    /// <summary>When it ended, in milliseconds since 1970 (UTC).</summary>
    public long? EndedMs { get; set; }

    /// <summary>What the user should know of how it ended: faults as <see cref="Fault.Write"/> has them, or a sentence of an earlier version.</summary>
    public string? Note { get; set; }

    /// <summary>True while marks of it may still be on some drive.</summary>
    public bool MarksLeft { get; set; }

    /// <summary>True once everything was done that follows from its being applied: sessions known, moved, forgotten.</summary>
    public bool Followed { get; set; }

    /// <summary>The one file that it made, as a bundle; null for every other plan.</summary>
    public string? MadePath { get; set; }

    /// <summary>For an undo: the plan that it took back.</summary>
    public Guid? Undoes { get; set; }

    /// <summary>Who asked for it, by identity; null for plans of before that was written down.</summary>
    public string? ById { get; set; }

    /// <summary>What that one was called then.</summary>
    public string? ByName { get; set; }
}

/// <summary>One step of a plan in the journal.</summary>
public sealed class StepRow
{
    /// <summary>The plan.</summary>
    public Guid PlanId { get; set; }

    /// <summary>Which step, from 0.</summary>
    public int Index { get; set; }

    /// <summary>How far it is: a name of <see cref="StepState"/>.</summary>
    public required string State { get; set; }

    /// <summary>Identity of what it wrote.</summary>
    public string? Written { get; set; }

    /// <summary>A document's bytes before it was replaced.</summary>
    public byte[]? Before { get; set; }

    /// <summary>Its time of the last change then (UTC), in steps of 100 ns since the year 1.</summary>
    public long? BeforeModifiedTicks { get; set; }

    /// <summary>What that time has beyond such a step, in nanoseconds.</summary>
    public int? BeforeModifiedRest { get; set; }
}

/// <summary>How a take stands on its mirror.</summary>
public enum MirroredState
{
    /// <summary>It is being recorded.</summary>
    Recording,

    /// <summary>It was read back from the mirror, and is the same.</summary>
    Verified,

    /// <summary>It is not on the mirror, or not whole.</summary>
    Gap,
}

/// <summary>A take that was recorded with a mirror.</summary>
public sealed class MirrorRow
{
    /// <summary>Identity.</summary>
    public Guid Id { get; set; }

    /// <summary>The session.</summary>
    public Guid SessionId { get; set; }

    /// <summary>The shelf of the mirror.</summary>
    public Guid ShelfId { get; set; }

    /// <summary>Absolute path of the take.</summary>
    public required string TakePath { get; set; }

    /// <summary>Absolute path of its mirror.</summary>
    public required string MirrorPath { get; set; }

    /// <summary>How it stands.</summary>
    public MirroredState State { get; set; }
}

/// <summary>Something that the user should be told once.</summary>
public sealed class NoticeRow
{
    /// <summary>Identity.</summary>
    public Guid Id { get; set; }

    /// <summary>The session it is about.</summary>
    public Guid? SessionId { get; set; }

    /// <summary>What happened, in a sentence or two.</summary>
    public required string Text { get; set; }

    /// <summary>When, in milliseconds since 1970 (UTC).</summary>
    public long CreatedMs { get; set; }
}

/// <summary>A remembered choice.</summary>
public sealed class SettingRow
{
    /// <summary>Name of the choice.</summary>
    public required string Key { get; set; }

    /// <summary>What was chosen, as JSON.</summary>
    public required string Value { get; set; }
}

/// <summary>What a file held when it went into a vault.</summary>
public sealed class ContentRow
{
    /// <summary>Absolute path.</summary>
    public required string Path { get; set; }

    /// <summary>Size in bytes.</summary>
    public long Bytes { get; set; }

    /// <summary>Time of the last change, in ticks of UTC.</summary>
    public long ModifiedTicks { get; set; }

    /// <summary>Its number on its drive.</summary>
    public long Number { get; set; }

    /// <summary>When the system last noted a change of it.</summary>
    public long StatusTicks { get; set; }

    /// <summary>SHA-512 in hexadecimal digits.</summary>
    public required string Sha512 { get; set; }
}

/// <summary>An archive on a shelf that was looked into for a bundle, and what it holds.</summary>
public sealed class BundleRow
{
    /// <summary>The shelf.</summary>
    public Guid ShelfId { get; set; }

    /// <summary>Path from the shelf's top folder.</summary>
    public required string Path { get; set; }

    /// <summary>Size in bytes.</summary>
    public long Bytes { get; set; }

    /// <summary>Time of the last change (UTC), in steps of 100 ns since the year 1.</summary>
    public long ModifiedTicks { get; set; }

    /// <summary>Its files as JSON; none for an archive that is no bundle.</summary>
    public required string Entries { get; set; }
}
