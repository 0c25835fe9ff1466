namespace NeatCrate.Core.Plans;

/// <summary>Which capability made a plan. Kept in the journal by name.</summary>
public enum PlanKind
{
    /// <summary>A new session folder with its document.</summary>
    SetUp,

    /// <summary>Other settings of a session.</summary>
    Settings,

    /// <summary>A new version of a session's document.</summary>
    Version,

    /// <summary>Another document stated as the current one.</summary>
    CurrentDocument,

    /// <summary>Files from outside copied into the session folder.</summary>
    CopyIn,

    /// <summary>Found files in the place of missing ones.</summary>
    Relink,

    /// <summary>Files moved into the session's holding place, or taken off its list.</summary>
    SetAside,

    /// <summary>Files that were set aside, moved back to where they were.</summary>
    PutBack,

    /// <summary>What was set aside, deleted for good.</summary>
    EmptyHeld,

    /// <summary>Files cut to the parts in use, on copies or with the originals set aside.</summary>
    Trim,

    /// <summary>Samples and other media taken into the session.</summary>
    Import,

    /// <summary>Takes put on the session's list.</summary>
    Takes,

    /// <summary>Takes marked, noted, placed and taken off their tracks.</summary>
    TakeLog,

    /// <summary>Recordings that were cut off, made readable on copies.</summary>
    Repair,

    /// <summary>Takes copied to the mirror that did not get there while they were recorded.</summary>
    Mirror,

    /// <summary>Sessions that share one folder, each given its own.</summary>
    Separate,

    /// <summary>A document that strayed from its folder, brought back to it.</summary>
    BringHome,

    /// <summary>Something of an earlier version, brought back beside what is there.</summary>
    Restore,

    /// <summary>A whole session out of a backup, into an empty place.</summary>
    RestoreSession,

    /// <summary>Kept states of documents, let go for good.</summary>
    Thin,

    /// <summary>A bundle for a collaborator.</summary>
    Bundle,

    /// <summary>The inverse of a plan that was applied.</summary>
    Undo,
}
