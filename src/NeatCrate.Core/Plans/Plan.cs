using System.Collections.Immutable;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Plans;

/// <summary>
/// A change to people's files: made without side effects, read by the user, then applied by the <see cref="Runner"/>.
/// </summary>
public sealed record Plan
{
    /// <summary>Identity of the plan.</summary>
    public required Guid Id { get; init; }

    /// <summary>Which capability made it.</summary>
    public required PlanKind Kind { get; init; }

    /// <summary>The session that it changes; null for one that does not exist yet.</summary>
    public Guid? SessionId { get; init; }

    /// <summary>Who asked for it; null for plans of before that was written down.</summary>
    public Who? By { get; init; }

    /// <summary>The whole plan in one sentence with its figures.</summary>
    public required string Sentence { get; init; }

    /// <summary>Folders within which the plan may change anything. Every destination is held to them, links followed.</summary>
    public required ImmutableArray<string> WritableRoots { get; init; }

    /// <summary>
    /// Its roots, and the folders that its destinations stand in, as they were when the plan was made: where links led, and
    /// on which drive. Empty until <see cref="PlanPlaces.Held"/> has looked.
    /// </summary>
    public ImmutableArray<HeldPlace> Held { get; init; } = [];

    /// <summary>Steps in the order in which they are done.</summary>
    public required ImmutableArray<PlanStep> Steps { get; init; }

    /// <summary>What does not stand in its way, and what the user should know before applying it.</summary>
    public ImmutableArray<Fault> Remarks { get; init; } = [];

    /// <summary>Why the plan cannot be applied at all; empty when it can.</summary>
    public ImmutableArray<Fault> Refusals { get; init; } = [];

    /// <summary>For an undo: the plan that it takes back. For a redo: the undo that it takes back.</summary>
    public Guid? Undoes { get; init; }

    /// <summary>
    /// True for a plan whose copies are worth keeping when others of them cannot be had: a drive that leaves, a file that
    /// cannot be read, a disk that is full. Documents are then pointed at what is in, and the rest waits for another plan.
    /// </summary>
    public bool KeepsPart { get; init; }

    /// <summary>
    /// True for a plan that gives files another place and leaves no trace of that: the folders that they leave, and those that
    /// they come back to, keep the times that they had.
    /// </summary>
    public bool KeepsFolderTimes { get; init; }

    /// <summary>Bytes that the steps will write.</summary>
    [JsonIgnore]
    public long Bytes => Steps.Sum(s => s.WritesBytes);

    /// <summary>True when a step of the plan has no inverse: whoever applies it must hear of that before anything else.</summary>
    [JsonIgnore]
    public bool IsForGood => Steps.Any(s => s.IsForGood);
}

/// <summary>A folder of a plan as it was when the plan was made.</summary>
/// <param name="Path">Absolute path as the plan has it.</param>
/// <param name="RealPath">The same with links followed.</param>
/// <param name="Device">Number of the drive that it was on.</param>
/// <param name="IsRoot">True for a root; false for a folder that a destination stands in.</param>
/// <param name="Time">Its time when the work began, in nanoseconds since 1970, where the plan keeps it; null where it does not.</param>
public sealed record HeldPlace(string Path, string RealPath, ulong Device, bool IsRoot, long? Time = null);

/// <summary>The plan cannot be applied now; nothing was done.</summary>
public sealed class PlanRefusedException : FaultException
{
    /// <summary>Makes the exception with its reasons.</summary>
    public PlanRefusedException(IReadOnlyList<Fault> reasons) : base(reasons is [var only] ? only : new Fault(FaultCode.NothingToDo) { Reasons = [.. reasons] }) => Reasons = reasons;

    /// <summary>Makes the exception with one reason.</summary>
    public PlanRefusedException(Fault reason) : this([reason])
    {
    }

    /// <summary>Makes the exception without a reason.</summary>
    public PlanRefusedException() => Reasons = [];

    /// <summary>Makes the exception with a sentence that the edge has for it.</summary>
    public PlanRefusedException(string message) : this(new Fault(FaultCode.RequestSenseless) { Detail = message })
    {
    }

    /// <summary>Makes the exception with a sentence that the edge has for it.</summary>
    public PlanRefusedException(string message, Exception inner) : base(new Fault(FaultCode.RequestSenseless) { Detail = message }, inner) => Reasons = [Fault];

    /// <summary>Why.</summary>
    public IReadOnlyList<Fault> Reasons { get; }
}
