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
/// <param name="Cut">What was cut off the front of the file at <paramref name="Copy"/>, for clips that count from its first sample.</param>
public sealed record NewPointer(string Url, string NewUrl, string Copy, AvailableRange? Range = null, int? Reference = null, FrontCut? Cut = null)
{
    internal NewReference Says => new(NewUrl, Range, Cut);
}

/// <summary>
/// Points a document at files that the plan brought in: only at those that are in, when some had to be left out. Entries of its
/// list can go and come with that; nothing else in it changes.
/// </summary>
/// <param name="Destination">The document.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">Identity of the document as the plan saw it.</param>
/// <param name="Pointers">The pointers that change.</param>
/// <param name="Bytes">Size of the document afterwards, in bytes.</param>
[StepKind("repoint-document")]
public sealed record RepointDocumentStep(string Destination, string Reason, ByteIdentity Expected, ImmutableArray<NewPointer> Pointers, long Bytes)
    : DocumentStep(Destination, Reason, Expected)
{
    /// <summary>Pointers, as they are written now, of the entries that go from the session's list.</summary>
    public ImmutableArray<string> Unlisted { get; init; } = [];

    /// <summary>Entries that come on the session's list, as JSON.</summary>
    public ImmutableArray<string> Listed { get; init; } = [];

    /// <summary>The place of each of <see cref="Listed"/> on the list, counted from 0 as it is when the entry comes; empty for the end.</summary>
    public ImmutableArray<int> ListedAt { get; init; } = [];

    /// <inheritdoc/>
    public override string Verb => Pointers.IsEmpty ? "re-write list" : "re-point";

    /// <inheritdoc/>
    public override long WritesBytes => Bytes;

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Bytes;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) =>
        this with { Destination = path(Destination), Pointers = [.. Pointers.Select(p => p with { Copy = path(p.Copy) })] };

    internal override byte[]? DocumentThen(IDurableFiles files) =>
        files.LookAtName(Destination) is { IsRegular: true } && files.ReadAll(Destination) is var bytes && ByteIdentity.Of(bytes) == Expected ? Changed(bytes, Pointers) : null;

    internal override void Do(StepContext context)
    {
        var bytes = context.Files.ReadAll(Destination);
        if (ByteIdentity.Of(bytes) != Expected)
        {
            throw new FaultException(FaultCode.DocumentChanged, Destination);
        }
        Replace(Changed(bytes, Pointers.Where(p => !context.IsLeftOut(p.Copy))), null, context);
    }

    private byte[] Changed(byte[] bytes, IEnumerable<NewPointer> pointers)
    {
        var (byUrl, byReference) = (new Dictionary<string, NewPointer>(StringComparer.Ordinal), new Dictionary<int, NewPointer>());
        foreach (var pointer in pointers)
        {
            if (pointer.Reference is { } reference)
            {
                byReference[reference] = pointer;
            }
            else
            {
                byUrl[pointer.Url] = pointer;
            }
        }
        var document = DocumentFormats.Read<IRepointable>(Destination, bytes);
        var unlisted = Unlisted.ToHashSet(StringComparer.Ordinal);
        var at = 0;
        // References are counted as they stand before the list changes.
        document.Repoint(r => (byReference.GetValueOrDefault(at++) ?? (r.IsOnList && unlisted.Contains(r.TargetUrl) ? null : byUrl.GetValueOrDefault(r.TargetUrl)))?.Says);
        if (document is IMediaList list)
        {
            list.Unlist(unlisted.Contains);
            foreach (var (n, entry) in Listed.Index())
            {
                list.List(entry, n < ListedAt.Length ? ListedAt[n] : null);
            }
        }
        return document.ToBytes();
    }
}
