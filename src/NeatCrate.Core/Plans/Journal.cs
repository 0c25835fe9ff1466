using System.Collections.Immutable;
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
public sealed record StepRecord(int Index, StepState State, ByteIdentity? Written = null, byte[]? Before = null);

/// <summary>How a plan ended.</summary>
public enum PlanOutcome
{
    /// <summary>Applied whole.</summary>
    Applied,

    /// <summary>Cancelled by the user, and taken back whole.</summary>
    Cancelled,

    /// <summary>Failed, and taken back whole.</summary>
    Failed,

    /// <summary>Cut off by a crash, and taken back whole at the next start.</summary>
    TakenBack,
}

/// <summary>A plan that was begun and has not ended.</summary>
/// <param name="Plan">The plan.</param>
/// <param name="Records">The newest record of each step that was begun, by index.</param>
/// <param name="Committed">True once every step was done: from then on the plan is finished, not taken back.</param>
public sealed record OpenPlan(Plan Plan, ImmutableArray<StepRecord> Records, bool Committed);

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

    /// <summary>The plan has ended; a note says why, for the user.</summary>
    void Close(Guid planId, PlanOutcome outcome, string? note);

    /// <summary>Plans that were begun and have not ended, the oldest first.</summary>
    IReadOnlyList<OpenPlan> Unfinished();
}
