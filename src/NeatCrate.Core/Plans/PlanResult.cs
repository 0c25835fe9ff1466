using System.Collections.Immutable;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Plans;

/// <summary>A step that a plan had to go without.</summary>
/// <param name="Step">The step.</param>
/// <param name="Reason">Why.</param>
public sealed record LeftOutStep(PlanStep Step, Fault Reason);

/// <summary>What became of a plan that was applied, and what the disk looks like then: looked at, not supposed.</summary>
/// <param name="Outcome">How it ended.</param>
/// <param name="LeftOut">Steps that an applied plan had to go without.</param>
/// <param name="Cause">Why it did not go through; null when it did.</param>
/// <param name="Remains">After it was taken back: what is not as it was before. Empty when all is.</param>
/// <param name="IsOpen">True when it is not over: a later try takes it back or finishes it.</param>
public sealed record PlanResult(
    PlanOutcome Outcome, ImmutableArray<LeftOutStep> LeftOut, Fault? Cause, ImmutableArray<Fault> Remains, bool IsOpen)
{
    /// <summary>The exception behind the cause, for the log.</summary>
    public Exception? Error { get; init; }

    /// <summary>True when the plan did not go through, and every file that it began with was looked at and is as it was before.</summary>
    public bool IsAsBefore => Outcome != PlanOutcome.Applied && Remains.IsEmpty && !IsOpen;

    /// <summary>What the user should know of how the plan ended; empty when it was applied whole and nothing is left to say.</summary>
    public ImmutableArray<Fault> Notes(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        var notes = ImmutableArray.CreateBuilder<Fault>();
        if (!LeftOut.IsEmpty)
        {
            var all = plan.Steps.Count(s => s.CanBeLeftOut);
            notes.Add(new Fault(FaultCode.LeftOut) { Count = all - LeftOut.Length, Expected = all, Reasons = [.. LeftOut.Select(l => l.Reason).Distinct()] });
        }
        if (Cause is not null)
        {
            notes.Add(Cause);
        }
        notes.AddRange(Remains);
        return notes.ToImmutable();
    }
}

/// <summary>How an unfinished plan was dealt with after a crash.</summary>
/// <param name="PlanId">The plan.</param>
/// <param name="Plan">The plan; null when the journal's text of it cannot be read.</param>
/// <param name="Finished">True when it was finished; false when it was taken back.</param>
/// <param name="Remains">After it was taken back: what is not as it was before.</param>
/// <param name="Problem">Why neither could be done yet; the plan stays open and is tried again.</param>
public sealed record Recovered(Guid PlanId, Plan? Plan, bool Finished, ImmutableArray<Fault> Remains, Fault? Problem);
