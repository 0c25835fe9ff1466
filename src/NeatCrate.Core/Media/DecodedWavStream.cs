using System.Buffers.Binary;

namespace NeatCrate.Core.Media;

/// <summary>
/// Any sound as a WAV file of 16 bits that is made while it is read, from any place on: for listening in a browser to what
/// it cannot play itself. Nothing is written anywhere.
/// </summary>
public sealed class DecodedWavStream : Stream
{
    private const int HeaderBytes = 44;
    private const int ByteProbe = 2;

    private readonly SoundReader _reader;
    private readonly byte[] _header;
    private readonly int _frameBytes;
    private float[] _samples = [];
    private byte[] _packed = [];
    private long _position;
    private long _readerAt;

    /// <summary>Takes over a reader; it is disposed with the stream.</summary>
    public DecodedWavStream(SoundReader reader)
    {
        ArgumentNullException.ThrowIfNull(reader);
        _reader = reader;
        _frameBytes = reader.Channels * ByteProbe;
        Length = HeaderBytes + (reader.LengthSamples * _frameBytes);
        _header = Header();
    }

    /// <inheritdoc/>
    public override bool CanRead => true;

    /// <inheritdoc/>
    public override bool CanSeek => true;

    /// <inheritdoc/>
    public override bool CanWrite => false;

    /// <inheritdoc/>
    public override long Length { get; }

    /// <inheritdoc/>
    public override long Position
    {
        get => _position;
        set => _position = Math.Clamp(value, 0, Length);
    }

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    /// <inheritdoc/>
    public override int Read(Span<byte> buffer)
    {
        if (_position >= Length || buffer.IsEmpty)
        {
            return 0;
        }
        int count;
        if (_position < HeaderBytes)
        {
            count = Math.Min(buffer.Length, HeaderBytes - (int)_position);
            _header.AsSpan((int)_position, count).CopyTo(buffer);
        }
        else
        {
            count = ReadSound(buffer);
        }
        _position += count;
        return count;
    }

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) => Position = origin switch
    {
        SeekOrigin.Begin => offset,
        SeekOrigin.Current => _position + offset,
        _ => Length + offset,
    };

    /// <inheritdoc/>
    public override void Flush()
    {
    }

    /// <inheritdoc/>
    public override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        _reader.Dispose();
        base.Dispose(disposing);
    }

    private int ReadSound(Span<byte> buffer)
    {
        var (frame, inFrame) = Math.DivRem(_position - HeaderBytes, _frameBytes);
        var frames = (int)Math.Min(Math.Max(1, buffer.Length / _frameBytes), _reader.LengthSamples - frame);
        if (_samples.Length < frames * _reader.Channels)
        {
            (_samples, _packed) = (new float[frames * _reader.Channels], new byte[frames * _frameBytes]);
        }
        if (_readerAt != frame)
        {
            _reader.Seek(frame);
        }
        var samples = _samples.AsSpan(0, frames * _reader.Channels);
        var read = _reader.Read(samples);
        _readerAt = frame + read;
        // A file that ends before its header says goes on in silence, so that the length that was promised is kept.
        samples[(read * _reader.Channels)..].Clear();
        for (var i = 0; i < samples.Length; i++)
        {
            BinaryPrimitives.WriteInt16LittleEndian(_packed.AsSpan(ByteProbe * i), (short)Math.Round(Math.Clamp(samples[i], -1, 1) * short.MaxValue));
        }
        var bytes = _packed.AsSpan((int)inFrame, (int)Math.Min(buffer.Length, (frames * _frameBytes) - inFrame));
        bytes.CopyTo(buffer);
        return bytes.Length;
    }

    private byte[] Header()
    {
        var header = new byte[HeaderBytes];
        var data = (uint)Math.Min(Length - HeaderBytes, uint.MaxValue - HeaderBytes);
        "RIFF"u8.CopyTo(header);
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(4), data + HeaderBytes - 8);
        "WAVEfmt "u8.CopyTo(header.AsSpan(8));
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(16), 16);
        BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(20), 1);
        BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(22), (ushort)_reader.Channels);
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(24), (uint)_reader.SampleRate);
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(28), (uint)(_reader.SampleRate * _frameBytes));
        BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(32), (ushort)_frameBytes);
        BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(34), 8 * ByteProbe);
        "data"u8.CopyTo(header.AsSpan(36));
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(40), data);
        return header;
    }
}
