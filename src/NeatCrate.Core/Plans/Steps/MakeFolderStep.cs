using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Plans;

/// <summary>Makes a folder that is not there yet.</summary>
[StepKind("make-folder")]
public sealed record MakeFolderStep(string Destination, string Reason) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string Verb => "make folder";

    /// <inheritdoc/>
    public override UndoOrder UndoneAs => UndoOrder.NewFolder;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination) };

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new RemoveFolderStep(Destination, "made by the plan");

    internal override IEnumerable<Fault> Refusals(StepCheck check) => check.NameTaken(Destination);

    internal override void Do(StepContext context)
    {
        context.Files.MakeFolder(Destination);
        context.Files.FlushFolder(Path.GetDirectoryName(Destination)!);
    }

    internal override void TakeBack(StepRecord record, UnwindContext context) => context.RemoveFolder(Destination);

    internal override Fault? Remains(StepRecord record, UnwindContext context) =>
        record.State != StepState.Started && context.Files.LookAtName(Destination) is not null ? new Fault(FaultCode.FolderNotEmpty) { Path = Destination } : null;
}

/// <summary>
/// Takes away a folder that an earlier plan made: last of all, and only when nothing is left in it. Only an undo holds it.
/// </summary>
[StepKind("remove-folder")]
public sealed record RemoveFolderStep(string Destination, string Reason) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string Verb => "remove folder";

    /// <inheritdoc/>
    public override UndoOrder UndoneAs => UndoOrder.Folder;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination) };

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new MakeFolderStep(Destination, "as it was");

    internal override IEnumerable<Fault> Refusals(StepCheck check) => [];

    internal override void Do(StepContext context)
    {
    }

    internal override void TakeBack(StepRecord record, UnwindContext context)
    {
    }

    internal override void TidyUp(UnwindContext context) => context.RemoveFolder(Destination);

    internal override Fault? Remains(StepRecord record, UnwindContext context) => null;
}
