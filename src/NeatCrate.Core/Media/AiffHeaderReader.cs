using System.Buffers.Binary;
using System.Collections.Immutable;
using System.Text;

namespace NeatCrate.Core.Media;

/// <summary>
/// Reads the header of AIFF and AIFF-C files (Apple, "Audio Interchange File Format" 1.3 and "AIFF-C" draft 1991; EA IFF 85:
/// big-endian chunks that start at even offsets). No size in the file is trusted.
/// </summary>
public static class AiffHeaderReader
{
    private const int MaxChunks = 4096;
    private const int MaxTextBytes = 64 * 1024;
    private const int CommonBytes = 18;
    private const int SoundHeadBytes = 8;
    private const int ImaPacketBytes = 34;
    private const int ImaPacketSamples = 64;

    /// <summary>True when the first twelve bytes say that this reader is the one to ask.</summary>
    public static bool Recognises(ReadOnlySpan<byte> head) =>
        head.Length >= 12 && head.StartsWith("FORM"u8) && (head.Slice(8, 4).SequenceEqual("AIFF"u8) || head.Slice(8, 4).SequenceEqual("AIFC"u8));

    /// <summary>Reads the header of a source.</summary>
    /// <exception cref="UnreadableMediaException">The source is not an AIFF file that can be understood.</exception>
    public static MediaHeader Read(ByteSource source)
    {
        ArgumentNullException.ThrowIfNull(source);
        Span<byte> head = stackalloc byte[12];
        if (!source.TryFill(0, head) || !Recognises(head))
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaStartsOtherwise) { Name = "AIFF" });
        }
        return new Walk(source, Encoding.ASCII.GetString(head.Slice(8, 4))).Run();
    }

    private sealed class Walk(ByteSource source, string container)
    {
        private readonly ImmutableArray<ChunkInfo>.Builder _chunks = ImmutableArray.CreateBuilder<ChunkInfo>();
        private readonly ImmutableArray<MediaTag>.Builder _tags = ImmutableArray.CreateBuilder<MediaTag>();
        private readonly List<Fault> _remarks = [];
        private byte[]? _common;
        private long _dataOffset = -1;
        private long _dataBytes;
        private bool _unfinished;

        public MediaHeader Run()
        {
            ReadChunks();
            return _common is null
                ? throw new UnreadableMediaException(new Fault(FaultCode.MediaLacksPart) { Name = "AIFF", Other = "COMM chunk" })
                : Describe(_common);
        }

        private void ReadChunks()
        {
            Span<byte> header = stackalloc byte[8];
            for (var offset = 12L; offset + 8 <= source.Length && source.TryFill(offset, header);)
            {
                if (_chunks.Count >= MaxChunks)
                {
                    _remarks.Add(new Fault(FaultCode.ChunksPassedOver) { Count = MaxChunks });
                    return;
                }
                var (size, body) = ((long)BinaryPrimitives.ReadUInt32BigEndian(header[4..]), offset + 8);
                if (header[..4].ContainsAnyExceptInRange((byte)0x20, (byte)0x7E))
                {
                    _remarks.Add(new Fault(FaultCode.BytesAfterChunks));
                    return;
                }
                var there = source.Length - body;
                if (header.StartsWith("SSND"u8) && size <= SoundHeadBytes && there > SoundHeadBytes && offset + 8 + size + (size & 1) == source.Length - (there - size))
                {
                    // A recorder that was cut off never came back to write the size.
                    (_unfinished, size) = (true, there);
                    _remarks.Add(new Fault(FaultCode.SizesNeverWritten));
                }
                else if (size > there)
                {
                    _unfinished |= header.StartsWith("SSND"u8);
                    _remarks.Add(header.StartsWith("SSND"u8)
                        ? new Fault(FaultCode.SoundEndsEarly)
                        : new Fault(FaultCode.ChunkCutShort) { Name = Encoding.Latin1.GetString(header[..4]) });
                    size = there;
                }
                ReadChunk(header[..4], body, size);
                offset = body + size + (size & 1);
            }
        }

        private void ReadChunk(ReadOnlySpan<byte> id, long body, long size)
        {
            _chunks.Add(new ChunkInfo(Encoding.Latin1.GetString(id), body, size));
            if (id.SequenceEqual("COMM"u8) && _common is null && size >= CommonBytes)
            {
                var common = new byte[(int)Math.Min(size, 64)];
                _common = source.TryFill(body, common) ? common : null;
            }
            else if (id.SequenceEqual("SSND"u8) && _dataOffset < 0 && size >= SoundHeadBytes)
            {
                Span<byte> sound = stackalloc byte[SoundHeadBytes];
                var skipped = source.TryFill(body, sound) ? BinaryPrimitives.ReadUInt32BigEndian(sound) : 0;
                _dataOffset = Math.Min(body + SoundHeadBytes + skipped, body + size);
                _dataBytes = body + size - _dataOffset;
            }
            else if (TagName(id) is { } name && size is > 0 and <= MaxTextBytes)
            {
                var text = new byte[(int)size];
                if (source.TryFill(body, text))
                {
                    _tags.Add(new MediaTag(name, MediaTag.Text(text)));
                }
            }
        }

        private static string? TagName(ReadOnlySpan<byte> id) =>
            id.SequenceEqual("NAME"u8) ? "TITLE" : id.SequenceEqual("AUTH"u8) ? "ARTIST" : id.SequenceEqual("ANNO"u8) ? "COMMENT" : id.SequenceEqual("(c) "u8) ? "COPYRIGHT" : null;

        private MediaHeader Describe(ReadOnlySpan<byte> common)
        {
            int channels = BinaryPrimitives.ReadUInt16BigEndian(common);
            long frames = BinaryPrimitives.ReadUInt32BigEndian(common[2..]);
            int bits = BinaryPrimitives.ReadUInt16BigEndian(common[6..]);
            var rate = ExtendedToRate(common.Slice(8, 10));
            var compression = container == "AIFC" && common.Length >= 22 ? Encoding.Latin1.GetString(common.Slice(18, 4)) : "NONE";
            if (channels == 0 || rate is null || bits > 64)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.MediaFormatSenseless) { Name = "AIFF" });
            }
            var encoding = compression switch
            {
                "NONE" or "sowt" or "twos" or "in24" or "in32" or "42ni" or "23ni" => SampleEncoding.SignedInteger,
                "raw " => SampleEncoding.UnsignedInteger,
                "fl32" or "FL32" or "fl64" or "FL64" => SampleEncoding.FloatingPoint,
                _ => SampleEncoding.Encoded,
            };
            var depth = compression switch { "fl32" or "FL32" or "in32" or "23ni" => 32, "fl64" or "FL64" => 64, "in24" or "42ni" => 24, "alaw" or "ALAW" or "ulaw" or "ULAW" => 8, _ => bits };
            var frame = encoding == SampleEncoding.Encoded ? 0 : channels * ((depth + 7) / 8);
            return new MediaHeader
            {
                Container = container,
                Encoding = encoding,
                BigEndian = compression is not ("sowt" or "42ni" or "23ni"),
                SampleRate = rate.Value,
                Channels = channels,
                BitsPerSample = encoding == SampleEncoding.Encoded && !IsG711(compression) ? 0 : depth,
                FrameBytes = frame,
                LengthSamples = frame == 0 ? Packets(compression, channels, frames) : Length(frames, frame),
                DataOffset = Math.Max(0, _dataOffset),
                DataBytes = _dataBytes,
                Chunks = _chunks.ToImmutable(),
                Tags = _tags.ToImmutable(),
                Unfinished = _unfinished,
                Remarks = [.. _remarks],
            };
        }

        private long Length(long frames, int frame)
        {
            var there = _dataBytes / frame;
            if (frames != there)
            {
                _unfinished |= frames == 0 && there > 0;
                _remarks.Add(new Fault(FaultCode.SamplesDisagree) { Expected = frames, Count = there });
            }
            return _unfinished ? there : Math.Min(frames, there);
        }

        /// <summary>
        /// IMA 4:1 counts packets of 64 samples where all others count samples (QuickTime file format, "IMA 4:1"). Some
        /// writers count otherwise; a packet has 34 bytes for each channel, so the data tells.
        /// </summary>
        private long Packets(string compression, int channels, long frames)
        {
            if (compression != "ima4")
            {
                return frames;
            }
            var packets = _dataBytes / (ImaPacketBytes * channels);
            if (packets != frames && packets > 0)
            {
                _remarks.Add(new Fault(FaultCode.PacketsDisagree) { Expected = frames, Count = packets });
            }
            return ImaPacketSamples * (packets > 0 ? packets : frames);
        }

        private static bool IsG711(string compression) => compression is "alaw" or "ALAW" or "ulaw" or "ULAW";

        /// <summary>An 80-bit extended number (IEEE 754, as SANE has it) as a whole sample rate; null when it is none.</summary>
        private static int? ExtendedToRate(ReadOnlySpan<byte> bytes)
        {
            var exponent = BinaryPrimitives.ReadUInt16BigEndian(bytes) - 16383;
            var mantissa = BinaryPrimitives.ReadUInt64BigEndian(bytes[2..]);
            if (exponent is < 0 or > 30 || mantissa == 0)
            {
                return null;
            }
            var rate = Math.Round(mantissa * Math.Pow(2, exponent - 63));
            return rate is >= 1 and <= int.MaxValue ? (int)rate : null;
        }
    }
}
