using System.Collections.Immutable;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>How far one step is.</summary>
public enum StepState
{
    /// <summary>About to begin; nothing of it may show yet.</summary>
    Started,

    /// <summary>The new bytes stand under a temporary name, flushed and compared; the next instant may show them.</summary>
    Staged,

    /// <summary>Done, and flushed.</summary>
    Done,

    /// <summary>Could not be done, was taken back, and the plan went on without it.</summary>
    LeftOut,
}

/// <summary>What the journal holds of one step.</summary>
/// <param name="Index">Which step of the plan, from 0.</param>
/// <param name="State">How far it is.</param>
/// <param name="Written">Identity of what the step wrote, from <see cref="StepState.Staged"/> on.</param>
/// <param name="Before">The bytes of a document before it was replaced.</param>
/// <param name="BeforeModifiedUtc">Its time of the last change then, which an undo gives back.</param>
/// <param name="BeforeModifiedRest">What that has beyond a step of 100 ns, in nanoseconds.</param>
public sealed record StepRecord(int Index, StepState State, ByteIdentity? Written = null, byte[]? Before = null, DateTime? BeforeModifiedUtc = null, int? BeforeModifiedRest = null);

/// <summary>How a plan ended.</summary>
public enum PlanOutcome
{
    /// <summary>Applied, whole or as far as it could be.</summary>
    Applied,

    /// <summary>Cancelled by the user, and taken back.</summary>
    Cancelled,

    /// <summary>Failed, and taken back.</summary>
    Failed,

    /// <summary>Cut off by a crash, and taken back at a later start.</summary>
    TakenBack,
}

/// <summary>How far a plan is that has not ended.</summary>
public enum OpenState
{
    /// <summary>Begun: it is taken back.</summary>
    Begun,

    /// <summary>Every step is done: it is finished.</summary>
    Committed,

    /// <summary>Files are as they are to be; only its marks are still there.</summary>
    Settled,
}

/// <summary>A plan that was begun and has not ended.</summary>
/// <param name="Id">Its identity.</param>
/// <param name="Plan">The plan; null when the journal's text of it cannot be read.</param>
/// <param name="Records">The newest record of each step that was begun, by index.</param>
/// <param name="State">How far it is.</param>
/// <param name="Problem">Why it cannot be read.</param>
public sealed record OpenPlan(Guid Id, Plan? Plan, ImmutableArray<StepRecord> Records, OpenState State, Fault? Problem = null);

/// <summary>
/// The journal in which every step stands before and after it is done. Each call returns only when what it says is
/// safe against a power cut.
/// </summary>
public interface IJournal
{
    /// <summary>Opens a plan.</summary>
    void Begin(Plan plan);

    /// <summary>Says how far a step is, in place of what was said before. Written and Before are kept when a later record leaves them out.</summary>
    void Record(Guid planId, StepRecord record);

    /// <summary>Every step is done: what follows is only tidying.</summary>
    void Commit(Guid planId);

    /// <summary>Whether <see cref="Commit"/> was written, for when it failed and nothing tells whether it did so before or after.</summary>
    bool IsCommitted(Guid planId);

    /// <summary>Files are as they are to be, and the outcome is known; the notes say what the user should know of it.</summary>
    void Settle(Guid planId, PlanOutcome outcome, IReadOnlyList<Fault> notes);

    /// <summary>The plan has ended: nothing of it is left on any drive.</summary>
    void Close(Guid planId);

    /// <summary>Plans that were begun and have not ended, the oldest first.</summary>
    IReadOnlyList<OpenPlan> Unfinished();
}
