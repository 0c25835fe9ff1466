using System.Collections.Immutable;
using System.Text.Json.Serialization;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>Which capability made a plan.</summary>
public enum PlanKind
{
    /// <summary>A new session folder with its document.</summary>
    SetUp,

    /// <summary>Other settings of a session.</summary>
    Settings,

    /// <summary>A new version of a session's document.</summary>
    Version,

    /// <summary>Files from outside copied into the session folder.</summary>
    CopyIn,

    /// <summary>Samples and other media taken into the session.</summary>
    Import,

    /// <summary>Takes put on the session's list.</summary>
    Takes,

    /// <summary>Recordings that were cut off, made readable on copies.</summary>
    Repair,

    /// <summary>Takes copied to the mirror that did not get there while they were recorded.</summary>
    Mirror,

    /// <summary>Sessions that share one folder, each given its own.</summary>
    Separate,

    /// <summary>A document that strayed from its folder, brought back to it.</summary>
    BringHome,

    /// <summary>A bundle for a collaborator.</summary>
    Bundle,

    /// <summary>The inverse of a plan that was applied.</summary>
    Undo,
}

/// <summary>
/// A change to people's files: made without side effects, read by the user, then applied by the <see cref="Runner"/>.
/// </summary>
public sealed record Plan
{
    /// <summary>Identity of the plan.</summary>
    public required Guid Id { get; init; }

    /// <summary>Which capability made it.</summary>
    public required PlanKind Kind { get; init; }

    /// <summary>The session that it changes; null for one that does not exist yet.</summary>
    public Guid? SessionId { get; init; }

    /// <summary>The whole plan in one sentence with its figures.</summary>
    public required string Sentence { get; init; }

    /// <summary>Folders within which the plan may change anything. Every destination is held to them, links followed.</summary>
    public required ImmutableArray<string> WritableRoots { get; init; }

    /// <summary>Steps in the order in which they are done.</summary>
    public required ImmutableArray<PlanStep> Steps { get; init; }

    /// <summary>What the user should know before applying, each a sentence.</summary>
    public ImmutableArray<string> Warnings { get; init; } = [];

    /// <summary>Why the plan cannot be applied at all, each a sentence; empty when it can.</summary>
    public ImmutableArray<string> Refusals { get; init; } = [];

    /// <summary>For an undo: the plan that it takes back.</summary>
    public Guid? Undoes { get; init; }

    /// <summary>
    /// True for a plan whose copies are worth keeping when others of them cannot be had: a drive that leaves, a file that
    /// cannot be read, a disk that is full. Documents are then pointed at what is in, and the rest waits for another plan.
    /// </summary>
    public bool KeepsPart { get; init; }

    /// <summary>Bytes that the steps will write.</summary>
    public long Bytes => Steps.Sum(s => s.WritesBytes);
}

/// <summary>What a file was when the plan was made; a file that is something else by then is not touched.</summary>
/// <param name="Bytes">Size in bytes.</param>
/// <param name="ChangedUtc">Time of the last change.</param>
public sealed record FileState(long Bytes, DateTime ChangedUtc)
{
    /// <summary>The state of a file now.</summary>
    /// <exception cref="FileNotFoundException">The file is not there.</exception>
    public static FileState Of(string path)
    {
        var file = new FileInfo(path);
        return new FileState(file.Length, file.LastWriteTimeUtc);
    }
}

/// <summary>One step of a plan. Paths are absolute.</summary>
/// <param name="Destination">The file or folder that the step changes.</param>
/// <param name="Reason">Why, in a few words for the user.</param>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "step")]
[JsonDerivedType(typeof(MakeFolderStep), "make-folder")]
[JsonDerivedType(typeof(CopyFileStep), "copy-file")]
[JsonDerivedType(typeof(MoveFileStep), "move-file")]
[JsonDerivedType(typeof(AssembleFileStep), "assemble-file")]
[JsonDerivedType(typeof(ConvertFileStep), "convert-file")]
[JsonDerivedType(typeof(WriteDocumentStep), "write-document")]
[JsonDerivedType(typeof(RepointDocumentStep), "repoint-document")]
[JsonDerivedType(typeof(RemoveCopyStep), "remove-copy")]
[JsonDerivedType(typeof(RemoveFolderStep), "remove-folder")]
[JsonDerivedType(typeof(PackBundleStep), "pack-bundle")]
public abstract record PlanStep(string Destination, string Reason)
{
    /// <summary>True for a step that a plan which keeps part of its work can go without.</summary>
    [JsonIgnore]
    public virtual bool CanBeLeftOut => false;

    /// <summary>The file that the step reads, where there is one.</summary>
    [JsonIgnore]
    public virtual string? SourcePath => null;

    /// <summary>Bytes that the step needs on the destination's drive.</summary>
    [JsonIgnore]
    public virtual long WritesBytes => 0;

    /// <summary>Bytes that pass through the machine, for telling how far the work is: reading back counts too.</summary>
    [JsonIgnore]
    public virtual long WorkBytes => WritesBytes;
}

/// <summary>Makes a folder that is not there yet.</summary>
public sealed record MakeFolderStep(string Destination, string Reason) : PlanStep(Destination, Reason);

/// <summary>Copies a file to a place where there is none yet.</summary>
/// <param name="Destination">Where the copy goes.</param>
/// <param name="Reason">Why.</param>
/// <param name="Source">The original, which is left alone.</param>
/// <param name="Expected">The original as the plan saw it.</param>
public sealed record CopyFileStep(string Destination, string Reason, string Source, FileState Expected) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override bool CanBeLeftOut => true;

    /// <inheritdoc/>
    public override string? SourcePath => Source;

    /// <inheritdoc/>
    public override long WritesBytes => Expected.Bytes;

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Expected.Bytes;
}

/// <summary>Gives a file another place on the same drive, where there is none yet. Its bytes are not touched, so they are not read either.</summary>
/// <param name="Destination">Its new place.</param>
/// <param name="Reason">Why.</param>
/// <param name="Source">Its place until now.</param>
/// <param name="Expected">The file as the plan saw it.</param>
public sealed record MoveFileStep(string Destination, string Reason, string Source, FileState Expected) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string? SourcePath => Source;
}

/// <summary>A piece of a file that is put together: bytes given here, or a range of the source.</summary>
/// <param name="Literal">The bytes; null for a range of the source.</param>
/// <param name="Offset">First byte of the range.</param>
/// <param name="Length">Bytes of the piece.</param>
public sealed record FilePiece(byte[]? Literal, long Offset, long Length)
{
    /// <summary>A piece that is given.</summary>
    public static FilePiece Of(byte[] literal)
    {
        ArgumentNullException.ThrowIfNull(literal);
        return new FilePiece(literal, 0, literal.Length);
    }
}

/// <summary>Puts a new file together from pieces of another one, which is left alone.</summary>
/// <param name="Destination">The new file.</param>
/// <param name="Reason">Why.</param>
/// <param name="Source">The file that ranges are read from.</param>
/// <param name="Expected">That file as the plan saw it.</param>
/// <param name="Pieces">What the new file is made of, in order.</param>
public sealed record AssembleFileStep(string Destination, string Reason, string Source, FileState Expected, ImmutableArray<FilePiece> Pieces)
    : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string? SourcePath => Source;

    /// <inheritdoc/>
    public override long WritesBytes => Pieces.Sum(p => p.Length);

    /// <inheritdoc/>
    public override long WorkBytes => 2 * WritesBytes;
}

/// <summary>Makes a copy of a sound at another sample rate, as WAV in 32-bit floating point; the original is left alone.</summary>
/// <param name="Destination">The converted copy.</param>
/// <param name="Reason">Why.</param>
/// <param name="Source">The original.</param>
/// <param name="Expected">The original as the plan saw it.</param>
/// <param name="SampleRate">The rate that is wanted, in Hz.</param>
/// <param name="Bytes">Size of the converted copy, in bytes.</param>
public sealed record ConvertFileStep(string Destination, string Reason, string Source, FileState Expected, int SampleRate, long Bytes)
    : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string? SourcePath => Source;

    /// <inheritdoc/>
    public override long WritesBytes => Bytes;

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Bytes;
}

/// <summary>Writes a document, as a new file or in place of the one that stands there.</summary>
/// <param name="Destination">The document.</param>
/// <param name="Reason">Why.</param>
/// <param name="Content">Its new bytes.</param>
/// <param name="Expected">Identity of the document as the plan saw it; null for a new one.</param>
public sealed record WriteDocumentStep(string Destination, string Reason, byte[] Content, ByteIdentity? Expected) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override long WritesBytes => Content.Length;
}

/// <summary>A pointer of a document that is to lead somewhere else.</summary>
/// <param name="Url">The pointer as it is written.</param>
/// <param name="NewUrl">What is written instead.</param>
/// <param name="Copy">Absolute path of the file that it leads to then.</param>
public sealed record NewPointer(string Url, string NewUrl, string Copy);

/// <summary>Points a document at files that the plan brought in: only at those that are in, when some had to be left out.</summary>
/// <param name="Destination">The document.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">Identity of the document as the plan saw it.</param>
/// <param name="Pointers">The pointers that change.</param>
/// <param name="Bytes">Size of the document afterwards, in bytes.</param>
public sealed record RepointDocumentStep(string Destination, string Reason, ByteIdentity Expected, ImmutableArray<NewPointer> Pointers, long Bytes)
    : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override long WritesBytes => Bytes;
}

/// <summary>Takes away what an earlier plan made. Only an undo holds this step.</summary>
/// <param name="Destination">The file to take away.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">What it must be, byte for byte.</param>
/// <param name="Original">A file that must still be there, so that nothing is lost; null for what can be made again.</param>
/// <param name="MadeFrom">What the original must be when it was only made use of; null when it must hold the same bytes.</param>
public sealed record RemoveCopyStep(string Destination, string Reason, ByteIdentity Expected, string? Original, FileState? MadeFrom = null)
    : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override long WorkBytes => Original is null || MadeFrom is not null ? Expected.Bytes : 2 * Expected.Bytes;
}

/// <summary>Takes away a folder that an earlier plan made, if it is empty by then. Only an undo holds this step.</summary>
public sealed record RemoveFolderStep(string Destination, string Reason) : PlanStep(Destination, Reason);

/// <summary>Packs a bundle into one file.</summary>
/// <param name="Destination">The bundle.</param>
/// <param name="Reason">Why.</param>
/// <param name="Contents">What goes in.</param>
public sealed record PackBundleStep(string Destination, string Reason, BundleContents Contents) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override long WritesBytes => Contents.Bytes;

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Contents.Bytes;
}

/// <summary>The plan cannot be applied now; nothing was done. The reasons are meant for the user.</summary>
public sealed class PlanRefusedException : IOException
{
    /// <summary>Makes the exception with its reasons.</summary>
    public PlanRefusedException(IReadOnlyList<string> reasons) : base(string.Join(' ', reasons)) => Reasons = reasons;

    /// <summary>Makes the exception with one reason.</summary>
    public PlanRefusedException(string message) : this([message])
    {
    }

    /// <summary>Makes the exception with its cause.</summary>
    public PlanRefusedException(string message, Exception inner) : base(message, inner) => Reasons = [message];

    /// <summary>Makes the exception without a reason.</summary>
    public PlanRefusedException() => Reasons = [];

    /// <summary>Why, each a sentence.</summary>
    public IReadOnlyList<string> Reasons { get; }
}
