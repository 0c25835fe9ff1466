using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>How far an applied plan is. Bytes are work: what is read back to be compared counts too.</summary>
/// <param name="StepsDone">Steps that are done.</param>
/// <param name="Steps">All steps.</param>
/// <param name="WorkDone">Bytes of work done.</param>
/// <param name="Work">Bytes of work in all.</param>
/// <param name="Current">Name of the file at hand.</param>
public readonly record struct RunProgress(int StepsDone, int Steps, long WorkDone, long Work, string Current);

/// <summary>What a step needs while it works.</summary>
internal sealed class StepContext(
    Guid planId, int index, Action<StepRecord> record, Action<long> worked, IReadOnlySet<string> leftOut, CancellationToken cancel)
{
    /// <summary>True for a file that an earlier step of the plan was to make, and could not.</summary>
    public bool IsLeftOut(string path) => leftOut.Contains(path);

    /// <summary>Stops the step between two blocks of bytes.</summary>
    public CancellationToken Cancel => cancel;

    /// <summary>The temporary name beside a destination. It follows from the plan alone, so that it is found again after a crash.</summary>
    public string Temporary(string destination) => Temporary(planId, index, destination);

    /// <inheritdoc cref="Temporary(string)"/>
    public static string Temporary(Guid planId, int index, string destination) =>
        Path.Combine(Path.GetDirectoryName(destination)!, $".neat-crate-{planId:N}-{index}.part");

    /// <summary>Counts bytes of work done.</summary>
    public void Worked(long bytes) => worked(bytes);

    /// <summary>Writes to the journal that the next instant gives a file its new place.</summary>
    public void AboutToMove() => record(new StepRecord(index, StepState.Staged));

    /// <summary>Writes to the journal that the new bytes stand under the temporary name.</summary>
    public void Staged(ByteIdentity written, byte[]? before = null) => record(new StepRecord(index, StepState.Staged, written, before));
}

/// <summary>The work of one kind of step: checked, done, taken back, tidied up.</summary>
internal interface IStepWork
{
    /// <summary>Why the step cannot be done now, each a sentence.</summary>
    /// <param name="step">The step.</param>
    /// <param name="vacated">True when an earlier step of the plan takes away what stands at the destination.</param>
    IEnumerable<string> Refusals(PlanStep step, bool vacated);

    /// <summary>Does the step. Whatever happens in the middle, <see cref="TakeBack"/> must be able to restore what was.</summary>
    void Do(PlanStep step, StepContext context);

    /// <summary>Restores what was before the step, however far it came. May be called again after a crash in its middle.</summary>
    void TakeBack(PlanStep step, StepRecord record, string temporary);

    /// <summary>After the whole plan is committed: removes what was kept for taking back. May be called again.</summary>
    void TidyUp(PlanStep step, string temporary);
}
