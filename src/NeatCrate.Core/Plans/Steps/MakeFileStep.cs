using System.Collections.Immutable;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>
/// What every step does that makes a new file: staged under a temporary name, then given its own name, if that is
/// still free. Taking back removes it only while it is what the step wrote.
/// </summary>
public abstract record NewFileStep(string Destination, string Reason) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string? Fills => Destination;

    internal override IEnumerable<Fault> Refusals(StepCheck check) => check.NameTaken(Destination);

    internal override void Do(StepContext context)
    {
        var temporary = context.Temporary(Destination);
        context.Staged(Stage(temporary, context));
        context.Files.RenameToFreeName(temporary, Destination);
        context.Files.FlushFolder(Path.GetDirectoryName(Destination)!);
    }

    /// <summary>Writes the file under its temporary name, flushed and compared.</summary>
    internal abstract ByteIdentity Stage(string temporary, StepContext context);

    internal override void TakeBack(StepRecord record, UnwindContext context)
    {
        var temporary = context.Temporary(Destination);
        foreach (var scratch in UnwindContext.Scratches(temporary))
        {
            context.Remove(scratch);
        }
        if (context.Files.LookAtName(temporary) is { } staged)
        {
            // While the temporary file is there, what bears the name is somebody else's, unless both are one and the same file.
            if (context.Files.LookAtName(Destination) is { } named && named.Device == staged.Device && named.Inode == staged.Inode)
            {
                context.Remove(Destination);
            }
            context.Remove(temporary);
        }
        else if (!context.KeepsMade && record.Written is { } written && context.Files.Holds(Destination, written))
        {
            context.Remove(Destination);
        }
    }

    internal override Fault? Remains(StepRecord record, UnwindContext context) =>
        context.Files.LookAtName(context.Temporary(Destination)) is not null ? new Fault(FaultCode.StillThere) { Path = context.Temporary(Destination) }
        : record.Written is { } written && context.Files.Holds(Destination, written)
            ? new Fault(context.KeepsMade ? FaultCode.KeptForDocument : FaultCode.StillThere) { Path = Destination }
        : null;
}

/// <summary>Makes a file where there is none yet, from an origin that is left alone.</summary>
/// <param name="Destination">The new file.</param>
/// <param name="Reason">Why.</param>
/// <param name="Origin">What it is made from.</param>
/// <param name="Bytes">Size of the new file, in bytes; of a transformed one the size that is to be expected.</param>
[StepKind("make-file")]
public sealed record MakeFileStep(string Destination, string Reason, FileOrigin Origin, long Bytes) : NewFileStep(Destination, Reason)
{
    /// <summary>Absolute paths of documents that missed the file when the plan was made: they may miss it again when it is undone.</summary>
    public ImmutableArray<string> MissedBy { get; init; } = [];

    /// <summary>A copy of a whole file.</summary>
    public static MakeFileStep Copy(string destination, string reason, string source, FileState expected)
    {
        ArgumentNullException.ThrowIfNull(expected);
        return new MakeFileStep(destination, reason, new WholeFile(source, expected), expected.Bytes);
    }

    /// <summary>A new document, or another file whose bytes the plan holds.</summary>
    public static MakeFileStep Write(string destination, string reason, byte[] content)
    {
        ArgumentNullException.ThrowIfNull(content);
        return new MakeFileStep(destination, reason, new GivenBytes(content), content.Length);
    }

    /// <summary>True for a copy of a whole file, byte for byte.</summary>
    [JsonIgnore]
    public bool IsCopy => Origin is WholeFile;

    /// <summary>What is done with it on the way; null for nothing.</summary>
    [JsonIgnore]
    public FileTransform? Transform => (Origin as Transformed)?.Transform;

    /// <inheritdoc/>
    public override string Verb => Origin.Verb;

    /// <inheritdoc/>
    public override bool CanBeLeftOut => IsCopy;

    /// <inheritdoc/>
    public override string? SourcePath => Origin.Source;

    internal override byte[]? DocumentThen(IDurableFiles files) => (Origin as GivenBytes)?.Content;

    /// <inheritdoc/>
    public override long WritesBytes => Bytes;

    /// <inheritdoc/>
    public override long ScratchBytes => Origin.ScratchBytes;

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Bytes;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Destination = path(Destination), Origin = Origin.Moved(path), MissedBy = [.. MissedBy.Select(path)] };
    }

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => Removal(record) with { MissedBy = MissedBy };

    private RemoveCopyStep Removal(StepRecord record) => Origin switch
    {
        WholeFile copied => new RemoveCopyStep(Destination, "the original stays where it is", WrittenBy(record), copied.Path),
        { Original: { } original } => new RemoveCopyStep(Destination, "what it was made from stays where it is", WrittenBy(record), original.Path, original.Expected),
        // A backup may be thinned out, and a bundle thrown away, before the undo; what it made goes as long as it is what it made.
        _ => new RemoveCopyStep(Destination, "made by the plan", WrittenBy(record), null),
    };

    internal override IEnumerable<Fault> Refusals(StepCheck check) => base.Refusals(check).Concat(Origin.Refusals(check.Reading));

    internal override ByteIdentity Stage(string temporary, StepContext context)
    {
        // Only what is written as it is has a size that is known to the byte.
        using var file = new StagedFile(context, temporary, Transform is null ? Bytes : 0);
        return file.Finish(Origin.WriteTo(file, context.Reading));
    }
}
