using NeatCrate.Core.Plans;

namespace NeatCrate.App.Jobs;

/// <summary>What a job does.</summary>
public enum JobWork
{
    /// <summary>Applies a plan.</summary>
    Apply,

    /// <summary>Makes a plan, for which much may have to be read.</summary>
    Planning,

    /// <summary>Looks at what a page is to show, for which much may have to be read once.</summary>
    Look,

    /// <summary>Scans a shelf.</summary>
    Scan,

    /// <summary>Reads files to tell whether they are whole, or what their identities are.</summary>
    Check,

    /// <summary>Looks for something on the shelves.</summary>
    Search,

    /// <summary>Adopts folders as sessions.</summary>
    Adopt,

    /// <summary>Makes a full backup.</summary>
    Backup,

    /// <summary>Lets backups of a vault go, and gives their space back.</summary>
    Thinning,

    /// <summary>Brings kept saves to their second place.</summary>
    CatchUp,
}

/// <summary>How far a job is.</summary>
public enum JobState
{
    /// <summary>Waits for other work; its message says for which.</summary>
    Queued,

    /// <summary>Works.</summary>
    Running,

    /// <summary>Holds still because something records; its message says what.</summary>
    Held,

    /// <summary>Done.</summary>
    Done,

    /// <summary>Failed; its message says what is so now.</summary>
    Failed,

    /// <summary>Cancelled; its message says what is so now.</summary>
    Cancelled,
}

/// <summary>A job as the pages see it.</summary>
/// <param name="Work">What it does.</param>
/// <param name="PlanId">The plan that it applies; null for other work.</param>
/// <param name="Kind">What kind of plan that is.</param>
/// <param name="SessionId">The session that it is about.</param>
/// <param name="ShelfId">The shelf that it is about.</param>
/// <param name="FilesDone">Files that are dealt with; for a plan its steps.</param>
/// <param name="Files">How many there are; 0 while that is not known.</param>
/// <param name="BytesDone">Bytes that are dealt with, what is read back to be compared included.</param>
/// <param name="Bytes">How many there are; 0 while that is not known.</param>
/// <param name="Current">What is at hand.</param>
/// <param name="Message">What it waits for, or what came of it.</param>
/// <param name="Ended">When it ended.</param>
/// <param name="Revision">Grows with every change: of two views the greater is the later, whichever arrives last.</param>
public sealed record JobView(
    Guid Id,
    JobWork Work,
    Guid? PlanId,
    PlanKind? Kind,
    Guid? SessionId,
    Guid? ShelfId,
    string Sentence,
    JobState State,
    int FilesDone,
    int Files,
    long BytesDone,
    long Bytes,
    double BytesPerSecond,
    double? SecondsLeft,
    string Current,
    string? Message,
    DateTimeOffset? Ended,
    long Revision)
{
    /// <summary>How much is done, from 0 to 1, where neither files nor bytes tell, as while folders are looked through; null for unknown.</summary>
    public double? Share { get; init; }

    /// <summary>Who asked for it, by name.</summary>
    public string By { get; init; } = "";

    /// <summary>True for what Neat Crate does by itself, and nobody waits for.</summary>
    public bool IsByItself { get; init; }

    /// <summary>True for one that is done, failed or cancelled.</summary>
    internal bool IsOver => State is JobState.Done or JobState.Failed or JobState.Cancelled;
}
