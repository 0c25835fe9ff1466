namespace NeatCrate.Core.Media;

/// <summary>How loud a sound is at its loudest.</summary>
/// <param name="Peak">Its greatest sample, without sign, of all channels; 1 is full scale.</param>
/// <param name="IsClipped">
/// True where a channel stays at full scale for three samples or more in a row: what was louder than that is cut off there
/// (common practice; a single sample at full scale may be as it was).
/// </param>
public readonly record struct SoundLevel(float Peak, bool IsClipped)
{
    private const int LeastRun = 3;
    private const int BlockFloats = 256 * 1024;

    /// <summary>The peak in decibels below full scale (AES17, dBFS of the greatest sample); negative infinity for silence.</summary>
    public double Decibels => 20 * Math.Log10(Peak);

    /// <summary>Reads a whole sound.</summary>
    /// <param name="reader">The sound, at its beginning.</param>
    /// <param name="bitsPerSample">Bits of a sample where it is stored in whole numbers, which reach one step less far up than down; 0 for floating point.</param>
    /// <param name="cancel">Stops between two blocks.</param>
    /// <exception cref="IOException">The sound cannot be read.</exception>
    public static SoundLevel Of(SoundReader reader, int bitsPerSample, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(reader);
        var channels = reader.Channels;
        var full = bitsPerSample is > 1 and < 32 ? 1f - (1f / (1L << (bitsPerSample - 1))) : 1f;
        var block = new float[Math.Max(1, BlockFloats / channels) * channels];
        var runs = new int[channels];
        var (peak, isClipped) = (0f, false);
        int read;
        while ((read = reader.Read(block)) > 0)
        {
            cancel.ThrowIfCancellationRequested();
            for (var at = 0; at < read * channels; at++)
            {
                var value = Math.Abs(block[at]);
                peak = Math.Max(peak, value);
                var channel = at % channels;
                runs[channel] = value >= full ? runs[channel] + 1 : 0;
                isClipped |= runs[channel] >= LeastRun;
            }
        }
        return new SoundLevel(peak, isClipped);
    }
}
