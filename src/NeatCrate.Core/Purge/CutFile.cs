using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Purge;

/// <summary>Cuts a media file to a range of its samples, with all that it says of itself moved along.</summary>
public static class CutFile
{
    /// <summary>True for a format that is cut to the sample: what is stored as it sounds, and FLAC. Everything else is left whole.</summary>
    public static bool CanCut(MediaHeader header)
    {
        ArgumentNullException.ThrowIfNull(header);
        return header is { Unfinished: false, LengthSamples: > 0 } && (IsStored(header) || IsFlac(header));
    }

    /// <summary>The step that makes the cut file.</summary>
    /// <param name="destination">Absolute path of the new file.</param>
    /// <param name="reason">Why.</param>
    /// <param name="source">Absolute path of the file, links followed.</param>
    /// <param name="header">What its header says.</param>
    /// <param name="kept">The samples that are kept.</param>
    /// <exception cref="FaultException">The file cannot be read, or is none that can be cut.</exception>
    public static MakeFileStep Step(string destination, string reason, string source, MediaHeader header, SampleRange kept)
    {
        ArgumentNullException.ThrowIfNull(header);
        var state = FileState.Of(source);
        if (IsFlac(header))
        {
            // Re-packed: about as many bytes as its share of the samples.
            var bytes = header.DataOffset + (long)((double)header.DataBytes * kept.Length / header.LengthSamples!.Value);
            return new MakeFileStep(destination, reason, new Transformed(new WholeFile(source, state), new CutFlac(kept.Start, kept.Length)), bytes);
        }
        var pieces = Pieces(source, header, kept);
        return new MakeFileStep(destination, reason, new FileRanges(source, state, [.. pieces]), pieces.Sum(p => p.Length));
    }

    /// <summary>The pieces of the cut file, for a format whose samples are stored as they sound.</summary>
    /// <exception cref="FaultException">The file cannot be read, or is none that can be cut.</exception>
    public static IReadOnlyList<FilePiece> Pieces(string source, MediaHeader header, SampleRange kept)
    {
        ArgumentNullException.ThrowIfNull(header);
        if (!CanCut(header) || IsFlac(header) || kept.Start < 0 || kept.Length <= 0 || kept.End > header.LengthSamples)
        {
            throw new FaultException(FaultCode.CannotBeCut, source);
        }
        using var file = ByteSource.OpenFile(source);
        return header.Container is "AIFF" or "AIFC" ? AiffCut.Pieces(file, header, kept) : WavCut.Pieces(file, header, kept);
    }

    private static bool IsStored(MediaHeader header) =>
        header.Encoding != SampleEncoding.Encoded && header.FrameBytes > 0 && header.Container is "WAV" or "RF64" or "BW64" or "AIFF" or "AIFC";

    private static bool IsFlac(MediaHeader header) => header is { Container: "FLAC", BitsPerSample: 8 or 16 or 24 };
}
