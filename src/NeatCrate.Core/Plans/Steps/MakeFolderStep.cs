using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Plans;

/// <summary>Makes a folder that is not there yet.</summary>
[StepKind("make-folder")]
public sealed record MakeFolderStep(string Destination, string Reason) : PlanStep(Destination, Reason)
{
    // Whoever makes it must get into it until all is done.
    private const int OwnerMode = 0x1C0;

    /// <summary>Its permission bits; null for those of a new folder. It has no more than these from the beginning, and all of them once the plan is done.</summary>
    public int? Mode { get; init; }

    /// <summary>Its time once the plan is done, in nanoseconds since 1970; null for that of a new folder.</summary>
    public long? Time { get; init; }

    /// <inheritdoc/>
    public override string Verb => "make folder";

    /// <inheritdoc/>
    public override UndoOrder UndoneAs => UndoOrder.NewFolder;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination) };

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new RemoveFolderStep(Destination, "made by the plan") { Mode = Mode, Time = Time };

    internal override IEnumerable<Fault> Refusals(StepCheck check) => check.NameTaken(Destination);

    internal override void Do(StepContext context)
    {
        context.Files.MakeFolder(Destination);
        if (Mode is { } mode)
        {
            context.Files.SetFolderMode(Destination, mode | OwnerMode);
        }
        context.Files.FlushFolder(Path.GetDirectoryName(Destination)!);
    }

    /// <summary>Gives the folder what it is to have in the end, if it is there: what came into it since has changed its time.</summary>
    internal void Finish(IDurableFiles files)
    {
        if ((Mode ?? Time) is null || files.FolderTime(Destination) is not { } now)
        {
            return;
        }
        if (Mode is { } mode && files.Look(Destination)?.Mode != mode)
        {
            files.SetFolderMode(Destination, mode);
        }
        if (Time is { } time && now != time)
        {
            files.SetFolderTime(Destination, time);
        }
        files.FlushFolder(Destination);
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
    /// <summary>Permission bits that it comes back with; null for those of a new folder.</summary>
    public int? Mode { get; init; }

    /// <summary>The time that it comes back with, in nanoseconds since 1970; null for that of a new folder.</summary>
    public long? Time { get; init; }

    /// <summary>The step for a folder that is there, which comes back as it is.</summary>
    public static RemoveFolderStep OfThere(string folder, string reason) => new(folder, reason) { Mode = FileFacts.Of(folder)?.Mode, Time = FileFacts.FolderTimeOf(folder) };

    /// <inheritdoc/>
    public override string Verb => "remove folder";

    /// <inheritdoc/>
    public override UndoOrder UndoneAs => UndoOrder.Folder;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination) };

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new MakeFolderStep(Destination, "as it was") { Mode = Mode, Time = Time };

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
