using System.Numerics;
using System.Runtime.InteropServices;

namespace NeatCrate.Core.Media;

/// <summary>
/// The outline of a sound: for each of a number of equal stretches of time its least and greatest sample, all channels
/// together, as signed bytes from -127 to 127.
/// </summary>
/// <param name="Pairs">Least and greatest in turn, as many pairs as there are stretches.</param>
public sealed record Peaks(byte[] Pairs)
{
    /// <summary>Stretches that are computed and kept; a page shows at most as many pixels.</summary>
    public const int Stretches = 2048;

    private const int BlockSamples = 16 * 1024;
    private const int MostBlockFloats = 4 * 1024 * 1024;

    // Five hours at 48 kHz; a stretch of a longer sound is judged by about a second of it.
    private const long MostSamples = 5L * 3600 * 48_000;
    private const long SampledSamples = 48_000;

    /// <summary>How many stretches there are.</summary>
    public int Count => Pairs.Length / 2;

    /// <summary>Reads a whole sound and makes its outline.</summary>
    /// <param name="reader">The sound.</param>
    /// <param name="stretches">How many stretches; a sound with fewer samples gets one for each.</param>
    /// <param name="cancel">Stops between two blocks.</param>
    /// <exception cref="IOException">The sound cannot be read.</exception>
    public static Peaks Of(SoundReader reader, int stretches = Stretches, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(reader);
        var (channels, length) = (reader.Channels, reader.LengthSamples);
        var count = (int)Math.Min(stretches, length);
        var (least, greatest) = (new float[count], new float[count]);
        Array.Fill(least, float.PositiveInfinity);
        Array.Fill(greatest, float.NegativeInfinity);
        // Memory does not grow with the number of channels.
        var block = new float[Math.Max(1, Math.Min(BlockSamples, MostBlockFloats / channels)) * channels];
        if (length > MostSamples)
        {
            Sample(reader, block, least, greatest, cancel);
            return Of(least, greatest);
        }
        for (var at = 0L; at < length;)
        {
            cancel.ThrowIfCancellationRequested();
            var read = reader.Read(block);
            if (read == 0)
            {
                break;
            }
            for (var done = 0; done < read;)
            {
                // A sample belongs to the stretch that its time falls into.
                var stretch = (int)((UInt128)(ulong)(at + done) * (ulong)count / (ulong)length);
                var end = (long)(((UInt128)(ulong)(stretch + 1) * (ulong)length + (ulong)count - 1) / (ulong)count);
                var here = (int)Math.Min(read - done, end - (at + done));
                var (low, high) = Range(block.AsSpan(done * channels, here * channels));
                least[stretch] = Math.Min(least[stretch], low);
                greatest[stretch] = Math.Max(greatest[stretch], high);
                done += here;
            }
            at += read;
        }
        return Of(least, greatest);
    }

    /// <summary>A sound that goes on for hours is not read whole: each stretch is judged by its first second.</summary>
    private static void Sample(SoundReader reader, float[] block, float[] least, float[] greatest, CancellationToken cancel)
    {
        for (var i = 0; i < least.Length; i++)
        {
            reader.Seek((long)((UInt128)(ulong)i * (ulong)reader.LengthSamples / (ulong)least.Length));
            for (var left = SampledSamples; left > 0;)
            {
                cancel.ThrowIfCancellationRequested();
                var read = reader.Read(block);
                if (read == 0)
                {
                    break;
                }
                var (low, high) = Range(block.AsSpan(0, read * reader.Channels));
                (least[i], greatest[i]) = (Math.Min(least[i], low), Math.Max(greatest[i], high));
                left -= read;
            }
        }
    }

    private static Peaks Of(float[] least, float[] greatest)
    {
        var count = least.Length;
        var pairs = new byte[2 * count];
        for (var i = 0; i < count; i++)
        {
            // A file that ends before its header says has nothing there.
            (pairs[2 * i], pairs[(2 * i) + 1]) = least[i] > greatest[i] ? ((byte)0, (byte)0) : (ToByte(least[i]), ToByte(greatest[i]));
        }
        return new Peaks(pairs);
    }

    /// <summary>The same outline with fewer stretches.</summary>
    public Peaks Reduced(int stretches)
    {
        if (stretches >= Count || Count == 0)
        {
            return this;
        }
        var pairs = new byte[2 * stretches];
        for (var i = 0; i < stretches; i++)
        {
            var (from, to) = ((int)((long)i * Count / stretches), (int)((long)(i + 1) * Count / stretches));
            var (low, high) = (sbyte.MaxValue, sbyte.MinValue);
            for (var j = from; j < to; j++)
            {
                low = Math.Min(low, (sbyte)Pairs[2 * j]);
                high = Math.Max(high, (sbyte)Pairs[(2 * j) + 1]);
            }
            (pairs[2 * i], pairs[(2 * i) + 1]) = ((byte)low, (byte)high);
        }
        return new Peaks(pairs);
    }

    private static byte ToByte(float sample) => (byte)(sbyte)Math.Round(Math.Clamp(float.IsNaN(sample) ? 0 : sample, -1, 1) * 127);

    private static (float Low, float High) Range(ReadOnlySpan<float> samples)
    {
        var (low, high) = (float.PositiveInfinity, float.NegativeInfinity);
        var wide = MemoryMarshal.Cast<float, Vector<float>>(samples);
        if (wide.Length > 0)
        {
            var (lows, highs) = (wide[0], wide[0]);
            foreach (var vector in wide[1..])
            {
                lows = Vector.Min(lows, vector);
                highs = Vector.Max(highs, vector);
            }
            for (var i = 0; i < Vector<float>.Count; i++)
            {
                (low, high) = (Math.Min(low, lows[i]), Math.Max(high, highs[i]));
            }
        }
        foreach (var sample in samples[(wide.Length * Vector<float>.Count)..])
        {
            (low, high) = (Math.Min(low, sample), Math.Max(high, sample));
        }
        return (low, high);
    }
}
