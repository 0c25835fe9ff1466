using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Plans;

/// <summary>
/// Gives an empty folder another place: it is made there with its permissions and its time, and goes from here when the whole
/// plan is committed, if it is still empty then.
/// </summary>
/// <param name="Destination">Its new place.</param>
/// <param name="Reason">Why.</param>
/// <param name="Source">Its place until now.</param>
/// <param name="Mode">Its permissions.</param>
/// <param name="Time">Its time, in nanoseconds since 1970.</param>
[StepKind("move-empty-folder")]
public sealed record MoveEmptyFolderStep(string Destination, string Reason, string Source, int Mode, long Time) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string Verb => "move empty folder";

    /// <inheritdoc/>
    public override string? SourcePath => Source;

    /// <inheritdoc/>
    public override IEnumerable<string> Changes => [Destination, Source];

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination), Source = path(Source) };

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new MoveEmptyFolderStep(Source, "back to its place", Destination, Mode, Time);

    internal override IEnumerable<Fault> Refusals(StepCheck check)
    {
        foreach (var taken in check.NameTaken(Destination))
        {
            yield return taken;
        }
        if (check.Files.Look(Source) is not { Kind: EntryKind.Folder })
        {
            yield return new Fault(FaultCode.SourceGone) { Path = Source };
        }
        else if (check.Files.Names(Source).Count > 0)
        {
            yield return new Fault(FaultCode.SourceChanged) { Path = Source };
        }
    }

    internal override void Do(StepContext context)
    {
        context.Files.MakeFolder(Destination);
        context.Files.SetFolderMode(Destination, Mode);
        context.Files.SetFolderTime(Destination, Time);
        context.Files.FlushFolder(Destination);
        context.Files.FlushFolder(Path.GetDirectoryName(Destination)!);
    }

    internal override void TakeBack(StepRecord record, UnwindContext context) => context.RemoveFolder(Destination);

    internal override void TidyUp(UnwindContext context) => context.RemoveFolder(Source);

    internal override Fault? Remains(StepRecord record, UnwindContext context) =>
        context.Files.LookAtName(Source) is null ? new Fault(FaultCode.NotBackInPlace) { Path = Source, Other = Destination }
        : record.State != StepState.Started && context.Files.LookAtName(Destination) is not null ? new Fault(FaultCode.FolderNotEmpty) { Path = Destination }
        : null;
}
