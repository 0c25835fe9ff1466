using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Plans;

/// <summary>Makes the inverse of a plan that was applied.</summary>
public static class UndoPlanner
{
    /// <summary>
    /// Makes the plan that takes an applied plan back. Documents come first, so that they never point at what is gone,
    /// then files, then folders. Whether it is still possible shows in <see cref="Runner.Refusals"/>.
    /// </summary>
    /// <param name="applied">The plan that was applied.</param>
    /// <param name="records">The journal's last record of each of its steps.</param>
    public static Plan Plan(Plan applied, IReadOnlyList<StepRecord> records)
    {
        ArgumentNullException.ThrowIfNull(applied);
        ArgumentNullException.ThrowIfNull(records);
        var inverses = new List<PlanStep>();
        var refusals = new List<Fault>();
        if (applied.Kind == PlanKind.Undo)
        {
            refusals.Add(new Fault(FaultCode.UndoOfUndo));
        }
        else
        {
            foreach (var record in records.Where(r => r.State != StepState.LeftOut).OrderByDescending(r => r.Index))
            {
                var step = applied.Steps[record.Index];
                if (step.Inverse(record) is { } inverse)
                {
                    inverses.Add(inverse);
                }
                else
                {
                    refusals.Add(new Fault(FaultCode.CannotBeUndone) { Path = step.Destination });
                }
            }
        }
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Undo,
            SessionId = applied.SessionId,
            Sentence = $"Undo: {applied.Sentence}",
            WritableRoots = applied.WritableRoots,
            Steps = refusals.Count > 0 ? [] : [.. inverses.OrderBy(s => s.UndoneAs)],
            Refusals = [.. refusals],
            Undoes = applied.Id,
            KeepsFolderTimes = applied.KeepsFolderTimes,
        };
    }
}
