using System.Buffers;
using System.Collections.Immutable;
using System.IO.Compression;
using System.IO.Hashing;
using System.Security.Cryptography;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Plans;

/// <summary>What a new file is made from.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "from")]
[JsonDerivedType(typeof(WholeFile), "file")]
[JsonDerivedType(typeof(FileRanges), "ranges")]
[JsonDerivedType(typeof(GivenBytes), "bytes")]
[JsonDerivedType(typeof(ArchiveEntry), "archive-entry")]
[JsonDerivedType(typeof(BackupContent), "backup-content")]
public abstract record FileOrigin
{
    /// <summary>The file that is read; null for given bytes.</summary>
    [JsonIgnore]
    public virtual string? Source => null;

    /// <summary>That file as the plan saw it.</summary>
    [JsonIgnore]
    public virtual FileState? SourceState => null;

    /// <summary>The same origin after files were moved.</summary>
    public virtual FileOrigin Moved(Func<string, string> path) => this;

    /// <summary>Why it cannot be read now.</summary>
    internal IEnumerable<Fault> Refusals(StepCheck check) => Source is { } source && SourceState is { } state ? check.Source(source, state) : [];

    /// <summary>Writes the new file's bytes.</summary>
    /// <returns>Its time of the last change and its permissions; null for those of a new file.</returns>
    internal abstract (DateTime? ModifiedUtc, int? Mode) WriteTo(StagedFile to, StepContext context);
}

/// <summary>A whole file, which is left alone. Its time and its permissions come along.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Expected">The file as the plan saw it.</param>
public sealed record WholeFile(string Path, FileState Expected) : FileOrigin
{
    /// <inheritdoc/>
    public override string Source => Path;

    /// <inheritdoc/>
    public override FileState SourceState => Expected;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path) => this with { Path = path(Path) };

    internal override (DateTime? ModifiedUtc, int? Mode) WriteTo(StagedFile to, StepContext context)
    {
        using var from = context.Files.OpenAsPlanned(Path, Expected);
        to.Copy(from, Path, 0, Expected.Bytes);
        // What changed while it was read is a mixture that never was.
        from.RequireUnchanged(Path, Expected);
        return (Expected.ModifiedUtc, from.Facts.Mode);
    }
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

/// <summary>Ranges of a file, with given bytes between them. The file is left alone; its time and its permissions come along.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Expected">The file as the plan saw it.</param>
/// <param name="Pieces">What the new file is made of, in order.</param>
public sealed record FileRanges(string Path, FileState Expected, ImmutableArray<FilePiece> Pieces) : FileOrigin
{
    /// <summary>False for a file that is new in its own right, as a new version of a document is.</summary>
    public bool KeepsTime { get; init; } = true;

    /// <inheritdoc/>
    public override string Source => Path;

    /// <inheritdoc/>
    public override FileState SourceState => Expected;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path) => this with { Path = path(Path) };

    internal override (DateTime? ModifiedUtc, int? Mode) WriteTo(StagedFile to, StepContext context)
    {
        using var from = context.Files.OpenAsPlanned(Path, Expected);
        foreach (var piece in Pieces)
        {
            if (piece.Literal is { } literal)
            {
                to.Write(literal);
            }
            else
            {
                to.Copy(from, Path, piece.Offset, piece.Length);
            }
        }
        from.RequireUnchanged(Path, Expected);
        return (KeepsTime ? Expected.ModifiedUtc : null, from.Facts.Mode);
    }
}

/// <summary>Bytes that the plan itself holds, as those of a document.</summary>
/// <param name="Content">The bytes.</param>
public sealed record GivenBytes(byte[] Content) : FileOrigin
{
    internal override (DateTime? ModifiedUtc, int? Mode) WriteTo(StagedFile to, StepContext context)
    {
        to.Write(Content);
        return (null, null);
    }
}

/// <summary>An entry of a ZIP archive, which is left alone. It must have the size and the checksum that the archive's directory gives.</summary>
/// <param name="Archive">Absolute path of the archive.</param>
/// <param name="Expected">The archive as the plan saw it.</param>
/// <param name="Name">Full name of the entry.</param>
/// <param name="Bytes">Its size unpacked; more than that is never written.</param>
/// <param name="Sha512">The SHA-512 that it must have as well, in hexadecimal digits, as a bag's manifest states it; null where nobody states one.</param>
public sealed record ArchiveEntry(string Archive, FileState Expected, string Name, long Bytes, string? Sha512 = null) : FileOrigin
{
    private const int BufferBytes = 256 * 1024;

    /// <inheritdoc/>
    public override string Source => Archive;

    /// <inheritdoc/>
    public override FileState SourceState => Expected;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path) => this with { Archive = path(Archive) };

    internal override (DateTime? ModifiedUtc, int? Mode) WriteTo(StagedFile to, StepContext context)
    {
        using var from = context.Files.OpenAsPlanned(Archive, Expected);
        try
        {
            using var archive = new ZipArchive(new SourceStream(from, Archive, Expected.Bytes), ZipArchiveMode.Read);
            // A name that stands twice may be either.
            var entry = archive.Entries.Where(e => e.FullName == Name).Take(2).ToList() is [var only] ? only : throw Damaged();
            using var stream = entry.Open();
            var crc = new Crc32();
            using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA512);
            var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
            try
            {
                for (int count; (count = stream.Read(buffer, 0, BufferBytes)) > 0;)
                {
                    context.Cancel.ThrowIfCancellationRequested();
                    if (to.Length + count > Bytes)
                    {
                        throw Damaged();
                    }
                    crc.Append(buffer.AsSpan(0, count));
                    if (Sha512 is not null)
                    {
                        hash.AppendData(buffer, 0, count);
                    }
                    to.Write(buffer.AsSpan(0, count));
                }
            }
            finally
            {
                ArrayPool<byte>.Shared.Return(buffer);
            }
            // The library's own reader checks neither.
            if (to.Length != Bytes || crc.GetCurrentHashAsUInt32() != entry.Crc32 || (Sha512 is { } stated && ContentHash.Take(hash).ToString() != stated))
            {
                throw Damaged();
            }
            from.RequireUnchanged(Archive, Expected);
            return (entry.LastWriteTime.Year > 1980 ? entry.LastWriteTime.UtcDateTime : null, null);
        }
        catch (InvalidDataException)
        {
            throw Damaged();
        }
    }

    private FaultException Damaged() => new(new Fault(FaultCode.ArchiveEntryDamaged) { Path = Archive, Name = Name });
}

/// <summary>Content of a vault, which is left alone. It must have the SHA-512 that its backup gives.</summary>
/// <param name="Path">Absolute path of the content in the vault.</param>
/// <param name="Expected">The content's file as the plan saw it.</param>
/// <param name="Sha512">The SHA-512 that it must have, in hexadecimal digits.</param>
/// <param name="Name">The file that it is of, for whoever is told.</param>
/// <param name="ModifiedUtc">The time of the last change that the file had; null for that of a new file.</param>
/// <param name="Mode">The permissions that it had; null for those of a new file.</param>
public sealed record BackupContent(string Path, FileState Expected, string Sha512, string Name, DateTime? ModifiedUtc, int? Mode) : FileOrigin
{
    /// <inheritdoc/>
    public override string Source => Path;

    /// <inheritdoc/>
    public override FileState SourceState => Expected;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path) => this with { Path = path(Path) };

    internal override (DateTime? ModifiedUtc, int? Mode) WriteTo(StagedFile to, StepContext context)
    {
        using var from = context.Files.OpenAsPlanned(Path, Expected);
        using var stream = new SourceStream(from, Path, Expected.Bytes);
        return ContentHash.OfStream(stream, part => to.Write(part.Span), context.Cancel).ToString() == Sha512 ? (ModifiedUtc, Mode) : throw new FaultException(new Fault(FaultCode.BackupContentDamaged) { Path = Path, Name = Name });
    }
}
