namespace NeatCrate.Core.Media;

/// <summary>Reads the samples of an audio file as floating point from -1 to 1, from any place on.</summary>
public abstract class SoundReader : IDisposable
{
    /// <summary>Sample rate in Hz.</summary>
    public abstract int SampleRate { get; }

    /// <summary>Number of channels.</summary>
    public abstract int Channels { get; }

    /// <summary>Length in samples per channel.</summary>
    public abstract long LengthSamples { get; }

    /// <summary>What a decoder said when it stopped before the end; null while it did not.</summary>
    public virtual string? Failure => null;

    /// <summary>Opens a file: what is not compressed is read by us, everything else is decoded by libsndfile.</summary>
    /// <param name="path">The file.</param>
    /// <param name="header">What its header says.</param>
    /// <exception cref="UnreadableMediaException">Nothing here can decode the file.</exception>
    /// <exception cref="IOException">The file cannot be opened.</exception>
    public static SoundReader Open(string path, MediaHeader header)
    {
        ArgumentNullException.ThrowIfNull(header);
        return header.Encoding != SampleEncoding.Encoded && header.FrameBytes > 0 ? new PcmReader(path, header) : new SndfileReader(path);
    }

    /// <summary>Goes to a sample; what lies past the end is the end.</summary>
    public abstract void Seek(long sample);

    /// <summary>Reads interleaved samples; fewer only at the end.</summary>
    /// <returns>Samples per channel that were read.</returns>
    /// <exception cref="IOException">The file cannot be read on.</exception>
    public abstract int Read(Span<float> interleaved);

    /// <inheritdoc/>
    public void Dispose()
    {
        Dispose(true);
        GC.SuppressFinalize(this);
    }

    /// <summary>Releases what the reader holds.</summary>
    protected virtual void Dispose(bool disposing)
    {
    }
}
