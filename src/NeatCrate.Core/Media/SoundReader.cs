using System.Buffers.Binary;
using Microsoft.Win32.SafeHandles;

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

/// <summary>Reads linear PCM and floating point of WAV and AIFF.</summary>
internal sealed class PcmReader(string path, MediaHeader header) : SoundReader
{
    private const int BlockBytes = 256 * 1024;

    private readonly SafeFileHandle _handle = File.OpenHandle(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
    private readonly byte[] _block = new byte[Math.Max(header.FrameBytes, BlockBytes / header.FrameBytes * header.FrameBytes)];
    private readonly int _bytes = header.FrameBytes / header.Channels;
    private long _at;

    public override int SampleRate => header.SampleRate;

    public override int Channels => header.Channels;

    public override long LengthSamples { get; } = Math.Min(header.LengthSamples ?? long.MaxValue, header.DataBytes / header.FrameBytes);

    public override void Seek(long sample) => _at = Math.Clamp(sample, 0, LengthSamples);

    public override int Read(Span<float> interleaved)
    {
        var wanted = (int)Math.Min(interleaved.Length / Channels, LengthSamples - _at);
        var done = 0;
        while (done < wanted)
        {
            var bytes = _block.AsSpan(0, Math.Min(_block.Length, (wanted - done) * header.FrameBytes));
            var count = RandomAccess.Read(_handle, bytes, header.DataOffset + ((_at + done) * header.FrameBytes)) / header.FrameBytes;
            if (count == 0)
            {
                break;
            }
            Convert(bytes[..(count * header.FrameBytes)], interleaved[(done * Channels)..]);
            done += count;
        }
        _at += done;
        return done;
    }

    private void Convert(ReadOnlySpan<byte> bytes, Span<float> to)
    {
        for (var (at, n) = (0, 0); at + _bytes <= bytes.Length; at += _bytes, n++)
        {
            to[n] = One(bytes.Slice(at, _bytes));
        }
    }

    private float One(ReadOnlySpan<byte> sample)
    {
        if (header.Encoding == SampleEncoding.FloatingPoint)
        {
            return (_bytes, header.BigEndian) switch
            {
                (4, false) => BinaryPrimitives.ReadSingleLittleEndian(sample),
                (4, true) => BinaryPrimitives.ReadSingleBigEndian(sample),
                (8, false) => (float)BinaryPrimitives.ReadDoubleLittleEndian(sample),
                (8, true) => (float)BinaryPrimitives.ReadDoubleBigEndian(sample),
                _ => throw new UnreadableMediaException($"Floating point of {_bytes} bytes is not known."),
            };
        }
        if (header.Encoding == SampleEncoding.UnsignedInteger && _bytes == 1)
        {
            return (sample[0] - 128) / 128f;
        }
        // The highest byte carries the sign; all others are added below it.
        var value = 0L;
        for (var i = 0; i < sample.Length; i++)
        {
            value = (value << 8) | sample[header.BigEndian ? i : sample.Length - 1 - i];
        }
        var shift = 64 - (8 * sample.Length);
        return (float)((value << shift >> shift) / (double)(1L << ((8 * sample.Length) - 1)));
    }

    protected override void Dispose(bool disposing)
    {
        _handle.Dispose();
        base.Dispose(disposing);
    }
}
