using System.Buffers.Binary;
using System.Collections.Immutable;
using System.Text;

namespace NeatCrate.Core.Media;

/// <summary>
/// Reads the header of RIFF/WAVE, RF64 and BW64 files (RIFF: Multimedia Programming Interface and Data
/// Specifications 1.0; WAVE_FORMAT_EXTENSIBLE; LIST/INFO; EBU Tech 3306; ITU-R BS.2088). No size in the file is trusted:
/// reads are bounded, chunks are counted, and what points past the end is cut to what is there.
/// </summary>
public static class WavHeaderReader
{
    private const int MaxChunks = 4096;
    private const int MaxBroadcastBytes = 64 * 1024;
    private const int MaxInfoBytes = 64 * 1024;
    private const int MaxIxmlBytes = 1024 * 1024;
    private const ushort FormatPcm = 1;
    private const ushort FormatFloat = 3;
    private const ushort FormatALaw = 6;
    private const ushort FormatMuLaw = 7;
    private const ushort FormatExtensible = 0xFFFE;
    private const uint SizeElsewhere = 0xFFFFFFFF;

    // {0000xxxx-0000-0010-8000-00AA00389B71}: the sub-format's first two bytes are the plain format tag.
    private static ReadOnlySpan<byte> SubFormatTail => [0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xAA, 0, 0x38, 0x9B, 0x71];

    /// <summary>True when the first twelve bytes say that this reader is the one to ask.</summary>
    public static bool Recognises(ReadOnlySpan<byte> head) =>
        head.Length >= 12 && Container(head) is not null && head.Slice(8, 4).SequenceEqual("WAVE"u8);

    /// <summary>Reads the header of a file.</summary>
    /// <exception cref="UnreadableMediaException">The file is not a WAV file that can be understood.</exception>
    /// <exception cref="IOException">The file cannot be opened or read.</exception>
    public static MediaHeader ReadFile(string path)
    {
        using var source = ByteSource.OpenFile(path);
        return Read(source);
    }

    /// <summary>Reads the header of a source.</summary>
    /// <exception cref="UnreadableMediaException">The source is not a WAV file that can be understood.</exception>
    public static MediaHeader Read(ByteSource source)
    {
        ArgumentNullException.ThrowIfNull(source);
        Span<byte> head = stackalloc byte[12];
        if (!source.TryFill(0, head))
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaTooShort) { Name = "WAV" });
        }
        if (!Recognises(head))
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaStartsOtherwise) { Name = "WAV" });
        }
        return new Walk(source, Container(head)!).Run();
    }

    private static string? Container(ReadOnlySpan<byte> head)
    {
        if (head.StartsWith("RIFF"u8))
        {
            return "WAV";
        }
        if (head.StartsWith("RF64"u8))
        {
            return "RF64";
        }
        return head.StartsWith("BW64"u8) ? "BW64" : null;
    }

    private sealed class Walk(ByteSource source, string container)
    {
        private readonly ImmutableArray<ChunkInfo>.Builder _chunks = ImmutableArray.CreateBuilder<ChunkInfo>();
        private readonly List<MediaTag> _tags = [];
        private readonly List<Fault> _remarks = [];
        private byte[]? _format;
        private BroadcastExtension? _broadcast;
        private Ixml? _ixml;
        private long? _factSamples;
        private ulong? _longDataBytes;
        private long _dataOffset = -1;
        private long _dataBytes;
        private bool _unfinished;

        public MediaHeader Run()
        {
            ReadChunks();
            if (_format is null)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.MediaLacksPart) { Name = "WAV", Other = "format chunk" });
            }
            if (_dataOffset < 0)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.MediaLacksPart) { Name = "WAV", Other = "data chunk" });
            }
            return Describe();
        }

        private void ReadChunks()
        {
            Span<byte> header = stackalloc byte[8];
            var offset = 12L;
            while (offset + 8 <= source.Length)
            {
                if (_chunks.Count >= MaxChunks)
                {
                    _remarks.Add(new Fault(FaultCode.ChunksPassedOver) { Count = MaxChunks });
                    return;
                }
                if (!source.TryFill(offset, header))
                {
                    return;
                }
                var size = (long)BinaryPrimitives.ReadUInt32LittleEndian(header[4..]);
                var body = offset + 8;
                if (header.StartsWith("data"u8))
                {
                    size = DataSize(body, size);
                }
                else if (!IsIdentifier(header[..4]))
                {
                    _remarks.Add(new Fault(FaultCode.BytesAfterChunks));
                    return;
                }
                if (body + size > source.Length)
                {
                    _remarks.Add(new Fault(FaultCode.ChunkCutShort) { Name = Identifier(header) });
                    size = source.Length - body;
                }
                ReadChunk(header[..4], body, size);
                offset = Next(body + size, size);
            }
        }

        private void ReadChunk(ReadOnlySpan<byte> id, long body, long size)
        {
            _chunks.Add(new ChunkInfo(Identifier(id), body, size));
            if (id.SequenceEqual("fmt "u8) && _format is null)
            {
                var format = new byte[(int)Math.Min(size, 40)];
                if (source.TryFill(body, format) && format.Length >= 14)
                {
                    _format = format;
                }
            }
            else if (id.SequenceEqual("bext"u8) && _broadcast is null)
            {
                var bytes = new byte[(int)Math.Min(size, MaxBroadcastBytes)];
                _broadcast = source.TryFill(body, bytes) ? BroadcastExtensionChunk.Read(bytes) : null;
                if (_broadcast is null)
                {
                    _remarks.Add(new Fault(FaultCode.BroadcastChunkTooShort));
                }
            }
            else if (id.SequenceEqual("iXML"u8) && _ixml is null && size is > 0 and <= MaxIxmlBytes)
            {
                var bytes = new byte[(int)size];
                _ixml = source.TryFill(body, bytes) ? IxmlChunk.Read(bytes) : null;
                if (_ixml is null)
                {
                    _remarks.Add(new Fault(FaultCode.IxmlUnreadable));
                }
            }
            else if (id.SequenceEqual("LIST"u8) && size is >= 4 and <= MaxInfoBytes)
            {
                var bytes = new byte[(int)size];
                if (source.TryFill(body, bytes))
                {
                    _tags.AddRange(InfoList.Read(bytes));
                }
            }
            else if (id.SequenceEqual("fact"u8) && size >= 4)
            {
                Span<byte> fact = stackalloc byte[4];
                if (source.TryFill(body, fact))
                {
                    _factSamples = BinaryPrimitives.ReadUInt32LittleEndian(fact);
                }
            }
            else if (id.SequenceEqual("ds64"u8) && container != "WAV" && size >= 24)
            {
                // ds64: riffSize, dataSize, sampleCount, each 64 bits (EBU Tech 3306, section 4).
                Span<byte> sizes = stackalloc byte[24];
                if (source.TryFill(body, sizes))
                {
                    _longDataBytes = BinaryPrimitives.ReadUInt64LittleEndian(sizes[8..]);
                }
            }
            else if (id.SequenceEqual("data"u8) && _dataOffset < 0)
            {
                _dataOffset = body;
                _dataBytes = size;
            }
        }

        /// <summary>The true number of data bytes: a recording that was cut off leaves 0, all ones, or too much.</summary>
        private long DataSize(long body, long size)
        {
            var there = source.Length - body;
            if (size == SizeElsewhere && container != "WAV" && _longDataBytes is { } longSize && longSize <= (ulong)there && (longSize > 0 || there == 0))
            {
                return (long)longSize;
            }
            if (size == 0 && there > 0 && !LooksLikeChunk(body))
            {
                _unfinished = true;
                _remarks.Add(new Fault(FaultCode.SizesNeverWritten));
                return there;
            }
            if (size > there)
            {
                _unfinished = true;
                _remarks.Add(new Fault(size == SizeElsewhere ? FaultCode.SizesNeverWritten : FaultCode.SoundEndsEarly));
                return there;
            }
            return size;
        }

        private bool LooksLikeChunk(long offset)
        {
            Span<byte> header = stackalloc byte[8];
            return source.TryFill(offset, header) && IsIdentifier(header[..4])
                && offset + 8 + BinaryPrimitives.ReadUInt32LittleEndian(header[4..]) <= source.Length;
        }

        /// <summary>Chunks start at even offsets; some writers leave the pad byte out, which shows by an identifier standing there.</summary>
        private long Next(long end, long size)
        {
            if ((size & 1) == 0)
            {
                return end;
            }
            if (end + 1 < source.Length && !LooksLikeChunk(end + 1) && LooksLikeChunk(end))
            {
                _remarks.Add(new Fault(FaultCode.PadByteMissing));
                return end;
            }
            return end + 1;
        }

        private MediaHeader Describe()
        {
            var format = _format.AsSpan();
            var tag = BinaryPrimitives.ReadUInt16LittleEndian(format);
            int channels = BinaryPrimitives.ReadUInt16LittleEndian(format[2..]);
            var rate = BinaryPrimitives.ReadUInt32LittleEndian(format[4..]);
            int frame = BinaryPrimitives.ReadUInt16LittleEndian(format[12..]);
            int containerBits = format.Length >= 16 ? BinaryPrimitives.ReadUInt16LittleEndian(format[14..]) : 0;
            var bits = containerBits;
            if (tag == FormatExtensible && format.Length >= 40)
            {
                int valid = BinaryPrimitives.ReadUInt16LittleEndian(format[18..]);
                bits = valid > 0 && valid <= containerBits ? valid : containerBits;
                tag = format.Slice(26, 14).SequenceEqual(SubFormatTail) ? BinaryPrimitives.ReadUInt16LittleEndian(format[24..]) : (ushort)0;
            }
            if (channels == 0 || rate is 0 or > int.MaxValue)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.MediaFormatSenseless) { Name = "WAV" });
            }
            var encoding = tag switch
            {
                FormatPcm => containerBits <= 8 ? SampleEncoding.UnsignedInteger : SampleEncoding.SignedInteger,
                FormatFloat => SampleEncoding.FloatingPoint,
                _ => SampleEncoding.Encoded,
            };
            if (encoding != SampleEncoding.Encoded)
            {
                var expected = channels * ((containerBits + 7) / 8);
                if (containerBits is 0 or > 64 || frame != expected)
                {
                    throw new UnreadableMediaException(new Fault(FaultCode.MediaContradictsItself) { Count = channels, Expected = containerBits, Bytes = frame });
                }
                if (_dataBytes % frame != 0)
                {
                    _remarks.Add(new Fault(FaultCode.EndsInMidSample));
                }
            }
            return new MediaHeader
            {
                Container = container,
                Encoding = encoding,
                SampleRate = (int)rate,
                Channels = channels,
                BitsPerSample = bits,
                FrameBytes = frame,
                LengthSamples = encoding == SampleEncoding.Encoded ? EncodedLength(tag, channels, frame) : _dataBytes / frame,
                DataOffset = _dataOffset,
                DataBytes = _dataBytes,
                Broadcast = _broadcast,
                Ixml = _ixml,
                Tags = [.. _tags],
                Chunks = _chunks.ToImmutable(),
                Unfinished = _unfinished,
                Remarks = [.. _remarks],
            };
        }

        /// <summary>
        /// A-law and µ-law have a byte for each sample (ITU-T G.711), so that the data tells the length also where the fact
        /// chunk was never filled in, as by a writer to a pipe. Every other code has it from the fact chunk alone.
        /// </summary>
        private long? EncodedLength(ushort tag, int channels, int frame) =>
            tag is FormatALaw or FormatMuLaw && frame == channels && (_factSamples is null || _factSamples != _dataBytes / frame) ? _dataBytes / frame : _factSamples;

        private static bool IsIdentifier(ReadOnlySpan<byte> id)
        {
            foreach (var b in id)
            {
                if (b is < 0x20 or > 0x7E)
                {
                    return false;
                }
            }
            return true;
        }

        private static string Identifier(ReadOnlySpan<byte> id) => Encoding.Latin1.GetString(id[..4]);
    }
}
