namespace NeatCrate.Core.Media;

/// <summary>A FLAC file of its own, with no block but the one that every stream has (RFC 9639, section 8).</summary>
public static class FlacFile
{
    /// <summary>STREAMINFO, which is the last block as well, and its length in bytes (RFC 9639, sections 8.1 and 8.2).</summary>
    private static ReadOnlySpan<byte> InfoHead => [0x80, 0, 0, 34];

    /// <summary>Writes a file.</summary>
    /// <param name="to">Gets the bytes; it must let one come back to its beginning.</param>
    /// <param name="sampleRate">Sample rate in Hz.</param>
    /// <param name="channels">Number of channels.</param>
    /// <param name="bits">Bits per sample: 8, 16 or 24.</param>
    /// <param name="interleaved">Samples of 32 bits, the highest used first.</param>
    /// <exception cref="UnreadableMediaException">libsndfile is not there, or cannot pack this.</exception>
    public static void Write(Stream to, int sampleRate, int channels, int bits, ReadOnlySpan<int> interleaved)
    {
        ArgumentNullException.ThrowIfNull(to);
        using var encoder = new FlacEncoder(sampleRate, channels, bits, to.Write);
        to.Write("fLaC"u8);
        to.Write(InfoHead);
        var infoAt = to.Position;
        to.Write(new byte[InfoHead[3]]);
        encoder.Write(interleaved);
        var info = encoder.Finish();
        to.Position = infoAt;
        to.Write(info);
        to.Position = to.Length;
    }
}
