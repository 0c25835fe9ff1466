using System.Buffers.Binary;
using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace NeatCrate.Core.Media;

/// <summary>Reads linear PCM and floating point of WAV and AIFF.</summary>
internal sealed class PcmReader(string path, MediaHeader header) : SoundReader
{
    private const int BlockBytes = 256 * 1024;

    private readonly SafeFileHandle _handle = ReadableFile.Open(path);
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
        // What nearly all recordings are has a loop of its own; everything else goes sample by sample.
        if (header is { Encoding: SampleEncoding.SignedInteger, BigEndian: false } && _bytes == 3)
        {
            Convert24(bytes, to);
            return;
        }
        if (header is { Encoding: SampleEncoding.SignedInteger, BigEndian: false } && _bytes == 2)
        {
            Convert16(MemoryMarshal.Cast<byte, short>(bytes), to);
            return;
        }
        if (header is { Encoding: SampleEncoding.FloatingPoint, BigEndian: false } && _bytes == 4)
        {
            MemoryMarshal.Cast<byte, float>(bytes).CopyTo(to);
            return;
        }
        for (var (at, n) = (0, 0); at + _bytes <= bytes.Length; at += _bytes, n++)
        {
            to[n] = One(bytes.Slice(at, _bytes));
        }
    }

    private static void Convert24(ReadOnlySpan<byte> bytes, Span<float> to)
    {
        to = to[..(bytes.Length / 3)];
        for (var n = 0; n < to.Length; n++)
        {
            var sample = bytes.Slice(3 * n, 3);
            to[n] = ((sample[0] << 8) | (sample[1] << 16) | (sample[2] << 24)) * (1f / 2147483648f);
        }
    }

    private static void Convert16(ReadOnlySpan<short> samples, Span<float> to)
    {
        to = to[..samples.Length];
        for (var n = 0; n < samples.Length; n++)
        {
            to[n] = samples[n] * (1f / 32768f);
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
                _ => throw new UnreadableMediaException(new Fault(FaultCode.MediaOfUnknownCoding) { Name = $"{8 * _bytes}-bit floating point" }),
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
