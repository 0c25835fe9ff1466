namespace NeatCrate.Core.Plans;

/// <summary>The work of an <see cref="AssembleFileStep"/>.</summary>
internal sealed class AssembleFileWork : NewFileWork
{
    /// <inheritdoc/>
    public override IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        var assemble = (AssembleFileStep)step;
        return base.Refusals(step, vacated).Concat(FileTransfer.SourceRefusals(assemble.Source, assemble.Expected));
    }

    /// <inheritdoc/>
    protected override void Stage(PlanStep step, string temporary, StepContext context)
    {
        var assemble = (AssembleFileStep)step;
        context.Staged(FileTransfer.AssembleAndCompare(assemble.Source, assemble.Expected, assemble.Pieces, temporary, context));
    }
}
