using System.Collections.Immutable;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Plans;

/// <summary>
/// What every step does that gives a file another place on the same drive, where there is none yet. Its bytes are not touched,
/// so they are not read either.
/// </summary>
/// <param name="Destination">Its new place.</param>
/// <param name="Reason">Why.</param>
/// <param name="Source">Its place until now.</param>
/// <param name="Expected">The file as the plan saw it.</param>
public abstract record MovingStep(string Destination, string Reason, string Source, FileState Expected) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string? SourcePath => Source;

    /// <inheritdoc/>
    public override long FileBytes => Expected.Bytes;

    /// <inheritdoc/>
    public override IEnumerable<string> Changes => [Destination, Source];

    /// <inheritdoc/>
    public override string? Vacates => Source;

    /// <inheritdoc/>
    public override string? Fills => Destination;

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new MoveFileStep(Source, "back to its place", Destination, Expected);

    internal override IEnumerable<Fault> Refusals(StepCheck check)
    {
        var changed = check.Source(Source, Expected).ToList();
        if (changed.Count == 0 && check.Files.Look(Source)?.Device != check.Files.Look(FileFacts.ExistingParent(Destination))?.Device)
        {
            changed.Add(new Fault(FaultCode.MoveToAnotherDrive) { Path = Source });
        }
        return check.NameTaken(Destination).Concat(changed);
    }

    internal override void Do(StepContext context)
    {
        if (StateOf(context.Files, Source) != Expected)
        {
            throw new FaultException(FaultCode.SourceChanged, Source);
        }
        context.AboutToMove();
        context.Files.Move(Source, Destination);
        if (StateOf(context.Files, Destination) != Expected)
        {
            // Another file had taken the name in the last instant: it goes back, as everything does.
            throw new FaultException(FaultCode.SourceChanged, Source);
        }
    }

    internal override void TakeBack(StepRecord record, UnwindContext context)
    {
        if (record.State == StepState.Started || context.Files.LookAtName(Destination) is not { } moved)
        {
            return;
        }
        if (context.Files.LookAtName(Source) is not { } there)
        {
            context.Files.Move(Destination, Source);
        }
        else if (there.Device == moved.Device && there.Inode == moved.Inode)
        {
            // A power cut between the two names: both are the one file.
            context.Remove(Destination);
        }
    }

    internal override Fault? Remains(StepRecord record, UnwindContext context) =>
        record.State != StepState.Started && context.Files.LookAtName(Source) is null
            ? new Fault(FaultCode.NotBackInPlace) { Path = Source, Other = Destination }
            : null;

    private static FileState? StateOf(IDurableFiles files, string path) => files.LookAtName(path) is { } facts ? new FileState(facts.Bytes, facts.ModifiedUtc) : null;
}

/// <summary>Gives a file another place on the same drive.</summary>
/// <param name="Destination">Its new place.</param>
/// <param name="Reason">Why.</param>
/// <param name="Source">Its place until now.</param>
/// <param name="Expected">The file as the plan saw it.</param>
[StepKind("move-file")]
public sealed record MoveFileStep(string Destination, string Reason, string Source, FileState Expected) : MovingStep(Destination, Reason, Source, Expected)
{
    /// <inheritdoc/>
    public override string Verb => "move";

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination), Source = path(Source) };
}

/// <summary>Moves a file out of its place into the holding place. Nothing that counts may point at it then.</summary>
/// <param name="Destination">Its place in the holding place.</param>
/// <param name="Reason">Why.</param>
/// <param name="Source">Its place until now.</param>
/// <param name="Expected">The file as the plan saw it.</param>
/// <param name="MissedBy">Absolute paths of documents that may point at it all the same, since somebody chose not to count them.</param>
[StepKind("set-aside")]
public sealed record SetAsideStep(string Destination, string Reason, string Source, FileState Expected, ImmutableArray<string> MissedBy) : MovingStep(Destination, Reason, Source, Expected)
{
    /// <inheritdoc/>
    public override string Verb => "set aside";

    /// <inheritdoc/>
    public override string? Removes => Source;

    /// <inheritdoc/>
    public override bool MayBeMissedBy(string document) => MissedBy.Contains(document);

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) =>
        this with { Destination = path(Destination), Source = path(Source), MissedBy = [.. MissedBy.Select(path)] };
}
