using System.Buffers.Binary;

namespace NeatCrate.Core.Media;

/// <summary>What a WAV file is to hold: sample rate in Hz, channels, and 16 or 24 bits of signed integers or 32 of floating point.</summary>
public readonly record struct PcmFormat(int SampleRate, int Channels, int BitsPerSample)
{
    /// <summary>Bytes of one sample of all channels together.</summary>
    public int FrameBytes => Channels * BitsPerSample / 8;

    /// <summary>Bytes per second = sample rate × bytes per sample × channels (common practice).</summary>
    public long BytesPerSecond => (long)SampleRate * FrameBytes;
}

/// <summary>
/// Writes a Broadcast Wave file as a stream. The header keeps room for a <c>ds64</c> chunk in a <c>JUNK</c> chunk, so
/// that a file that grows past the 32-bit limit becomes RF64 without being moved (EBU Tech 3306, section 5).
/// The sizes are written by <see cref="Finish"/>; a file that was cut off before then still holds every sample written.
/// </summary>
public sealed class WavWriter : IDisposable
{
    /// <summary>At this many bytes a RIFF file must be RF64: its size field has 32 bits (EBU Tech 3306, section 2).</summary>
    public const long RiffLimitBytes = 1L << 32;

    /// <summary>Bytes before the audio data of a take: RIFF, room for ds64, bext without coding history, fmt, data.</summary>
    public const int HeaderBytes = 12 + (8 + LongSizesBytes) + (8 + BroadcastExtensionChunk.FixedBytes) + (8 + 16) + 8;

    private const int LongSizesBytes = 28;

    private readonly Stream _stream;
    private readonly PcmFormat _format;
    private readonly long _limit;
    private readonly long _dataStart;
    private readonly long _factAt = -1;
    private byte[] _packed = [];
    private bool _finished;

    /// <summary>Writes the header at the start of <paramref name="stream"/>, which must be empty and seekable.</summary>
    /// <param name="stream">Where to write; left open.</param>
    /// <param name="format">The PCM format.</param>
    /// <param name="bext">The Broadcast Wave extension to write, if any.</param>
    /// <param name="chunks">Other chunks to write before the audio data, in order: identifier of four characters, and body.</param>
    /// <param name="limit">Size of the RIFF body in bytes past which the file becomes RF64.</param>
    public WavWriter(
        Stream stream,
        PcmFormat format,
        BroadcastExtension? bext = null,
        IEnumerable<(string Id, ReadOnlyMemory<byte> Body)>? chunks = null,
        long limit = uint.MaxValue)
    {
        ArgumentNullException.ThrowIfNull(stream);
        if (format.BitsPerSample is not (16 or 24 or 32) || format.Channels is < 1 or > 64 || format.SampleRate < 1)
        {
            throw new ArgumentOutOfRangeException(nameof(format), format, "Only 16, 24 and 32 bits and 1 to 64 channels are written.");
        }
        (_stream, _format, _limit) = (stream, format, limit);
        Write("RIFF"u8, 0, "WAVE"u8);
        Chunk("JUNK"u8, new byte[LongSizesBytes]);
        if (bext is not null)
        {
            Chunk("bext"u8, BroadcastExtensionChunk.Write(bext));
        }
        Chunk("fmt "u8, FormatBody());
        if (IsFloat)
        {
            // Whatever is not integer PCM must say its length in a fact chunk (RIFF MCI, "Fact Chunk").
            Chunk("fact"u8, new byte[4]);
            _factAt = stream.Position - 4;
        }
        foreach (var (id, body) in chunks ?? [])
        {
            Chunk(System.Text.Encoding.ASCII.GetBytes(id), body.Span);
        }
        Write("data"u8, 0, []);
        _dataStart = stream.Position;
    }

    /// <summary>Samples per channel written so far.</summary>
    public long LengthSamples { get; private set; }

    private bool IsFloat => _format.BitsPerSample == 32;

    /// <summary>All bytes before the audio data of a file whose length is known before it is written, sizes included, so that it can be written in order.</summary>
    /// <param name="format">The PCM format.</param>
    /// <param name="bext">The Broadcast Wave extension.</param>
    /// <param name="lengthSamples">Length in samples per channel.</param>
    /// <returns>The header; after it come the samples, and a zero byte where their bytes are odd (<see cref="BytesOf"/>).</returns>
    public static byte[] HeaderOf(PcmFormat format, BroadcastExtension? bext, long lengthSamples)
    {
        using var stream = new MemoryStream();
        var writer = new WavWriter(stream, format, bext) { LengthSamples = lengthSamples, _finished = true };
        var dataBytes = lengthSamples * format.FrameBytes;
        writer.WriteSizes(writer._dataStart + dataBytes + (dataBytes & 1) - 8, dataBytes);
        return stream.ToArray();
    }

    /// <summary>Bytes of a file that has this header and so many samples per channel.</summary>
    public static long BytesOf(byte[] header, PcmFormat format, long lengthSamples)
    {
        ArgumentNullException.ThrowIfNull(header);
        var dataBytes = lengthSamples * format.FrameBytes;
        return header.Length + dataBytes + (dataBytes & 1);
    }

    /// <summary>Appends interleaved samples, each at full scale of the format's bits; values past full scale are clamped.</summary>
    /// <exception cref="InvalidOperationException">The format is floating point.</exception>
    public void Write(ReadOnlySpan<int> interleaved)
    {
        if (IsFloat)
        {
            throw new InvalidOperationException("A floating-point file takes floating-point samples.");
        }
        var bytesPerSample = _format.BitsPerSample / 8;
        var needed = Room(interleaved.Length);
        var max = (1 << (_format.BitsPerSample - 1)) - 1;
        var at = 0;
        foreach (var sample in interleaved)
        {
            var value = Math.Clamp(sample, -max - 1, max);
            _packed[at] = (byte)value;
            _packed[at + 1] = (byte)(value >> 8);
            if (bytesPerSample == 3)
            {
                _packed[at + 2] = (byte)(value >> 16);
            }
            at += bytesPerSample;
        }
        _stream.Write(_packed, 0, needed);
        LengthSamples += interleaved.Length / _format.Channels;
    }

    /// <summary>Appends interleaved samples from -1 to 1. Integer formats clamp what is louder.</summary>
    public void Write(ReadOnlySpan<float> interleaved)
    {
        if (IsFloat)
        {
            var needed = Room(interleaved.Length);
            for (var i = 0; i < interleaved.Length; i++)
            {
                BinaryPrimitives.WriteSingleLittleEndian(_packed.AsSpan(4 * i), interleaved[i]);
            }
            _stream.Write(_packed, 0, needed);
            LengthSamples += interleaved.Length / _format.Channels;
            return;
        }
        var scale = (1 << (_format.BitsPerSample - 1)) - 1;
        var whole = new int[interleaved.Length];
        for (var i = 0; i < whole.Length; i++)
        {
            whole[i] = (int)Math.Round(Math.Clamp(interleaved[i], -1, 1) * scale);
        }
        Write(whole);
    }

    private int Room(int samples)
    {
        if (samples % _format.Channels != 0)
        {
            throw new ArgumentException("The samples do not fill whole frames.", nameof(samples));
        }
        var needed = samples * _format.BitsPerSample / 8;
        if (_packed.Length < needed)
        {
            _packed = new byte[needed];
        }
        return needed;
    }

    /// <summary>Writes the pad byte and the sizes, and any chunks that stand after the audio data.</summary>
    public void Finish(IEnumerable<(string Id, ReadOnlyMemory<byte> Body)>? chunksAfter = null)
    {
        if (_finished)
        {
            return;
        }
        _finished = true;
        var dataBytes = LengthSamples * _format.FrameBytes;
        if ((dataBytes & 1) == 1)
        {
            _stream.WriteByte(0);
        }
        foreach (var (id, body) in chunksAfter ?? [])
        {
            Chunk(System.Text.Encoding.ASCII.GetBytes(id), body.Span);
        }
        var end = _stream.Position;
        WriteSizes(end - 8, dataBytes);
        _stream.Position = end;
        _stream.Flush();
    }

    /// <summary>Finishes the file; the stream stays open.</summary>
    public void Dispose() => Finish();

    private void WriteSizes(long riffBytes, long dataBytes)
    {
        if (_factAt > 0)
        {
            WriteAt(_factAt, (uint)Math.Min(LengthSamples, uint.MaxValue));
        }
        if (riffBytes > _limit)
        {
            WriteLongSizes(riffBytes, dataBytes);
        }
        else
        {
            WriteAt(4, (uint)riffBytes);
            WriteAt(_dataStart - 4, (uint)dataBytes);
        }
    }

    private void WriteLongSizes(long riffBytes, long dataBytes)
    {
        Span<byte> sizes = stackalloc byte[LongSizesBytes];
        BinaryPrimitives.WriteInt64LittleEndian(sizes, riffBytes);
        BinaryPrimitives.WriteInt64LittleEndian(sizes[8..], dataBytes);
        BinaryPrimitives.WriteInt64LittleEndian(sizes[16..], LengthSamples);
        BinaryPrimitives.WriteUInt32LittleEndian(sizes[24..], 0);
        _stream.Position = 12;
        Chunk("ds64"u8, sizes);
        WriteAt(_dataStart - 4, uint.MaxValue);
        WriteAt(4, uint.MaxValue);
        // Last, so that a kill in between leaves a file that is still read as cut off, not as a wrong RF64.
        _stream.Position = 0;
        _stream.Write("RF64"u8);
    }

    private byte[] FormatBody()
    {
        const ushort IntegerPcm = 1;
        const ushort FloatingPoint = 3;
        // What is not integer PCM has a field for the size of an extension, here none.
        var body = new byte[IsFloat ? 18 : 16];
        BinaryPrimitives.WriteUInt16LittleEndian(body, IsFloat ? FloatingPoint : IntegerPcm);
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(2), (ushort)_format.Channels);
        BinaryPrimitives.WriteInt32LittleEndian(body.AsSpan(4), _format.SampleRate);
        BinaryPrimitives.WriteUInt32LittleEndian(body.AsSpan(8), (uint)_format.BytesPerSecond);
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(12), (ushort)_format.FrameBytes);
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(14), (ushort)_format.BitsPerSample);
        return body;
    }

    private void Chunk(ReadOnlySpan<byte> id, ReadOnlySpan<byte> body)
    {
        Write(id, (uint)body.Length, body);
        if ((body.Length & 1) == 1)
        {
            _stream.WriteByte(0);
        }
    }

    private void Write(ReadOnlySpan<byte> id, uint size, ReadOnlySpan<byte> body)
    {
        Span<byte> header = stackalloc byte[8];
        id.CopyTo(header);
        BinaryPrimitives.WriteUInt32LittleEndian(header[4..], size);
        _stream.Write(header);
        _stream.Write(body);
    }

    private void WriteAt(long offset, uint value)
    {
        Span<byte> bytes = stackalloc byte[4];
        BinaryPrimitives.WriteUInt32LittleEndian(bytes, value);
        _stream.Position = offset;
        _stream.Write(bytes);
    }
}
