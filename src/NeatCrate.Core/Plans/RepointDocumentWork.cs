using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Plans;

/// <summary>
/// The work of a <see cref="RepointDocumentStep"/>: the document is written with those pointers changed whose copies are
/// in; everything else is as a <see cref="WriteDocumentWork"/> does it.
/// </summary>
internal sealed class RepointDocumentWork(WriteDocumentWork writing) : IStepWork
{
    /// <inheritdoc/>
    public IEnumerable<string> Refusals(PlanStep step, bool vacated) => writing.Refusals(AsWrite((RepointDocumentStep)step, []), vacated);

    /// <inheritdoc/>
    public void Do(PlanStep step, StepContext context)
    {
        var repoint = (RepointDocumentStep)step;
        var urls = repoint.Pointers.Where(p => !context.IsLeftOut(p.Copy)).ToDictionary(p => p.Url, p => p.NewUrl, StringComparer.Ordinal);
        var document = SessionDocument.ReadFile(repoint.Destination);
        document.Repoint(urls.GetValueOrDefault);
        writing.Do(AsWrite(repoint, document.ToUtf8()), context);
    }

    /// <inheritdoc/>
    public void TakeBack(PlanStep step, StepRecord record, string temporary) => writing.TakeBack(AsWrite((RepointDocumentStep)step, []), record, temporary);

    /// <inheritdoc/>
    public void TidyUp(PlanStep step, string temporary) => writing.TidyUp(AsWrite((RepointDocumentStep)step, []), temporary);

    private static WriteDocumentStep AsWrite(RepointDocumentStep step, byte[] content) => new(step.Destination, step.Reason, content, step.Expected);
}
