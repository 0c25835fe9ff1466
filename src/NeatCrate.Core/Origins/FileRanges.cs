using System.Collections.Immutable;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Origins;

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
    [JsonIgnore]
    public override string Verb => "put together";

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Source => Path;

    /// <inheritdoc/>
    [JsonIgnore]
    public override WholeFile? Original => KeepsTime ? new WholeFile(Path, Expected) : null;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Path = path(Path) };
    }

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading) => RefusalsOf(Path, Expected, reading);

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(sink);
        ArgumentNullException.ThrowIfNull(reading);
        using var from = reading.Files.OpenAsPlanned(Path, Expected);
        foreach (var piece in Pieces)
        {
            if (piece.Literal is { } literal)
            {
                sink.Write(literal);
            }
            else
            {
                sink.Copy(from, Path, piece.Offset, piece.Length, reading.Cancel);
            }
        }
        from.RequireUnchanged(Path, Expected);
        var facts = from.Facts;
        return new KeptMarks(KeepsTime ? Expected.ModifiedUtc : null, KeepsTime ? facts.ModifiedRest : 0, facts.Mode);
    }
}
