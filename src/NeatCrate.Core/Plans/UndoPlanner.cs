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
        var refusals = new List<string>();
        if (applied.Kind == PlanKind.Undo)
        {
            refusals.Add("This was an undo itself. Plan the work anew to do it again.");
        }
        var inverses = applied.Kind == PlanKind.Undo
            ? []
            : records.Where(r => r.State != StepState.LeftOut).OrderByDescending(r => r.Index).Select(r => Inverse(applied.Steps[r.Index], r)).ToList();
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Undo,
            SessionId = applied.SessionId,
            Sentence = $"Take back: {applied.Sentence}",
            WritableRoots = applied.WritableRoots,
            Steps = [.. inverses.OrderBy(Order)],
            Refusals = [.. refusals],
            Undoes = applied.Id,
        };
    }

    private static PlanStep Inverse(PlanStep step, StepRecord record) => step switch
    {
        MakeFolderStep => new RemoveFolderStep(step.Destination, "made by the plan"),
        CopyFileStep copy => new RemoveCopyStep(step.Destination, "the original stays where it is", Written(record), copy.Source),
        MoveFileStep move => new MoveFileStep(move.Source, "back to its place", move.Destination, move.Expected),
        AssembleFileStep assemble => new RemoveCopyStep(step.Destination, "what it was made from stays where it is", Written(record), assemble.Source, assemble.Expected),
        ConvertFileStep convert => new RemoveCopyStep(step.Destination, "what it was made from stays where it is", Written(record), convert.Source, convert.Expected),
        WriteDocumentStep or RepointDocumentStep when record.Before is { } before =>
            new WriteDocumentStep(step.Destination, "as it was before", before, Written(record)),
        WriteDocumentStep => new RemoveCopyStep(step.Destination, "made by the plan", Written(record), null),
        PackBundleStep => new RemoveCopyStep(step.Destination, "made by the plan; it can be packed again", Written(record), null),
        _ => throw new InvalidOperationException($"A step of the kind {step.GetType().Name} has no inverse."),
    };

    private static Media.ByteIdentity Written(StepRecord record) =>
        record.Written ?? throw new InvalidOperationException($"The journal does not tell what step {record.Index} wrote.");

    private static int Order(PlanStep step) => step switch
    {
        WriteDocumentStep => 0,
        RemoveFolderStep => 2,
        _ => 1,
    };
}
