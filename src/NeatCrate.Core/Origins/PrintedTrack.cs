using System.Collections.Immutable;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Origins;

/// <summary>How loud the two sounds of a crossfade are on the way from one to the other.</summary>
public enum CrossfadeLaw
{
    /// <summary>Along a straight line; both together always make 1. Of one sound with itself nothing is heard.</summary>
    EqualGain,

    /// <summary>Along a quarter of a sine; the squares of both always make 1. Of two sounds that differ none is heard to sink.</summary>
    EqualPower,
}

/// <summary>A stretch of the timeline over which a sound comes up or goes down.</summary>
/// <param name="Start">First sample, at the rate of the print.</param>
/// <param name="End">The sample after the last.</param>
/// <param name="Rises">True where it comes up.</param>
public readonly record struct PrintedFade(long Start, long End, bool Rises)
{
    /// <summary>How loud the sound is at a sample, from 0 to 1: each sample counts with the law's value at its middle, so that a fade is the same forwards and backwards.</summary>
    public double GainAt(long sample, CrossfadeLaw law)
    {
        var along = End <= Start ? (sample < Start ? 0 : 1) : Math.Clamp((sample - Start + 0.5) / (End - Start), 0, 1);
        var gone = Rises ? along : 1 - along;
        return law == CrossfadeLaw.EqualGain ? gone : Math.Sin(gone * Math.PI / 2);
    }
}

/// <summary>A run of a file's samples on the timeline.</summary>
/// <param name="At">Its first sample on the timeline, at the rate of the print.</param>
/// <param name="Length">Number of samples, at the rate of the print.</param>
/// <param name="Source">The file.</param>
/// <param name="SourceStart">Its first sample in the file, at the rate of the print.</param>
public sealed record PrintedPiece(long At, long Length, WholeFile Source, long SourceStart)
{
    /// <summary>Where it comes up or goes down; what lies on each other counts together.</summary>
    public ImmutableArray<PrintedFade> Fades { get; init; } = [];

    /// <summary>The sample after the last.</summary>
    [JsonIgnore]
    public long End => At + Length;

    /// <inheritdoc/>
    public bool Equals(PrintedPiece? other) =>
        other is not null && (At, Length, Source, SourceStart) == (other.At, other.Length, other.Source, other.SourceStart) && Fades.SequenceEqual(other.Fades);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(At, Length, Source, SourceStart);
}

/// <summary>
/// A track as one continuous Broadcast Wave file (EBU Tech 3285): what its pieces play, sample for sample, and silence between them.
/// Where one piece plays alone and as it is, its samples come out as they stand in their file, bit for bit; where several do, they are added.
/// </summary>
/// <param name="Format">Rate, channels and bits of the print. A file with one channel sounds on all of them.</param>
/// <param name="LengthSamples">Its length in samples.</param>
/// <param name="Broadcast">What it says of itself.</param>
/// <param name="Law">How its crossfades go.</param>
/// <param name="Pieces">The pieces, in order of their starts.</param>
public sealed record PrintedTrack(PcmFormat Format, long LengthSamples, BroadcastExtension Broadcast, CrossfadeLaw Law, ImmutableArray<PrintedPiece> Pieces) : FileOrigin
{
    /// <summary>Bytes of the largest file of another rate, once it is converted; 0 where there is none.</summary>
    public long ConvertedBytes { get; init; }

    /// <summary>Bytes of the file.</summary>
    [JsonIgnore]
    public long Bytes => WavWriter.BytesOf(WavWriter.HeaderOf(Format, Broadcast, LengthSamples), Format, LengthSamples);

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => "print";

    /// <inheritdoc/>
    [JsonIgnore]
    public override string? Source => Pieces.Select(p => p.Source.Path).FirstOrDefault();

    /// <inheritdoc/>
    [JsonIgnore]
    public override long ScratchBytes => ConvertedBytes;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path) => this with { Pieces = [.. Pieces.Select(p => p with { Source = (WholeFile)p.Source.Moved(path) })] };

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading) => Pieces.Select(p => p.Source).Distinct().SelectMany(s => s.Refusals(reading));

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(sink);
        ArgumentNullException.ThrowIfNull(reading);
        sink.Write(WavWriter.HeaderOf(Format, Broadcast, LengthSamples));
        using (var printer = new TrackPrinting(this, sink, reading))
        {
            printer.Run();
        }
        if (((LengthSamples * Format.FrameBytes) & 1) == 1)
        {
            sink.Write([0]);
        }
        return default;
    }

    /// <inheritdoc/>
    public bool Equals(PrintedTrack? other) => other is not null
        && (Format, LengthSamples, Broadcast, Law, ConvertedBytes) == (other.Format, other.LengthSamples, other.Broadcast, other.Law, other.ConvertedBytes) && Pieces.SequenceEqual(other.Pieces);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Format, LengthSamples, Broadcast, Law, Pieces.Length);
}
