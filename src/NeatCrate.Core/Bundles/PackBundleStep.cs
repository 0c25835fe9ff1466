using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Bundles;

/// <summary>
/// Packs a bundle into one file: a ZIP file that holds a BagIt bag. All of it is read back and compared with what went in,
/// before it gets its name.
/// </summary>
/// <param name="Destination">The bundle.</param>
/// <param name="Reason">Why.</param>
/// <param name="Contents">What goes in.</param>
[StepKind("pack-bundle")]
public sealed record PackBundleStep(string Destination, string Reason, BundleContents Contents) : NewFileStep(Destination, Reason), IPackingStep
{
    /// <inheritdoc/>
    public override string Verb => "pack";

    /// <inheritdoc/>
    public override long WritesBytes => Contents.Bytes;

    /// <inheritdoc/>
    public override long ScratchBytes => Contents.ScratchBytes;

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Contents.Bytes;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Destination = path(Destination), Contents = Contents.Moved(path) };
    }

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new RemoveCopyStep(Destination, "made by the plan; it can be packed again", WrittenBy(record), null);

    internal override IEnumerable<Fault> Refusals(StepCheck check) =>
        base.Refusals(check).Concat(Contents.Entries.SelectMany(e => e.Origin.Refusals(check.Reading)));

    internal override ByteIdentity Stage(string temporary, StepContext context)
    {
        using var file = new StagedFile(context, temporary, 0, inOrder: false);
        var zip = new ZipBag(file, Contents.BagName);
        new BagWriter(Contents, context.Reading, file.Scratch).Write(zip);
        var written = file.Finish(default);
        using var source = context.Files.OpenSource(temporary);
        zip.Compare(new SourceStream(source, temporary, source.Facts.Bytes), temporary, context.Cancel);
        return written;
    }
}
