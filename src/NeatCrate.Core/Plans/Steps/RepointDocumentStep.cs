using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>A pointer of a document that is to lead somewhere else.</summary>
/// <param name="Url">The pointer as it is written.</param>
/// <param name="NewUrl">What is written instead.</param>
/// <param name="Copy">Absolute path of the file that it leads to then.</param>
/// <param name="Range">The range that the file at <paramref name="Copy"/> holds; null to leave what the document says.</param>
/// <param name="Reference">Which of the document's references it is, counted from 0 in their order; null for each that has this pointer.</param>
public sealed record NewPointer(string Url, string NewUrl, string Copy, AvailableRange? Range = null, int? Reference = null)
{
    internal NewReference Says => new(NewUrl, Range);
}

/// <summary>Points a document at files that the plan brought in: only at those that are in, when some had to be left out.</summary>
/// <param name="Destination">The document.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">Identity of the document as the plan saw it.</param>
/// <param name="Pointers">The pointers that change.</param>
/// <param name="Bytes">Size of the document afterwards, in bytes.</param>
[StepKind("repoint-document")]
public sealed record RepointDocumentStep(string Destination, string Reason, ByteIdentity Expected, ImmutableArray<NewPointer> Pointers, long Bytes)
    : DocumentStep(Destination, Reason, Expected)
{
    /// <inheritdoc/>
    public override string Verb => "re-point";

    /// <inheritdoc/>
    public override long WritesBytes => Bytes;

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Bytes;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) =>
        this with { Destination = path(Destination), Pointers = [.. Pointers.Select(p => p with { Copy = path(p.Copy) })] };

    internal override void Do(StepContext context)
    {
        var pointers = Pointers.Where(p => !context.IsLeftOut(p.Copy)).ToList();
        var byUrl = pointers.Where(p => p.Reference is null).ToDictionary(p => p.Url, StringComparer.Ordinal);
        var byReference = pointers.Where(p => p.Reference is not null).ToDictionary(p => p.Reference!.Value);
        var bytes = context.Files.ReadAll(Destination);
        if (ByteIdentity.Of(bytes) != Expected)
        {
            throw new FaultException(FaultCode.DocumentChanged, Destination);
        }
        var document = (DocumentFormats.Of(Destination) ?? OpenTimeline.Format).Read(bytes);
        var at = 0;
        document.Repoint(r => (byReference.GetValueOrDefault(at++) ?? byUrl.GetValueOrDefault(r.TargetUrl))?.Says);
        Replace(document.ToBytes(), null, context);
    }
}
