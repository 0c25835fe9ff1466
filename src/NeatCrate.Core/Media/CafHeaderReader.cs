using System.Buffers.Binary;
using System.Collections.Immutable;
using System.Text;

namespace NeatCrate.Core.Media;

/// <summary>
/// Reads the header of Core Audio Format files (Apple, "Core Audio Format Specification" 1.0: big-endian chunks with sizes of 64 bits).
/// No size in the file is trusted.
/// </summary>
public static class CafHeaderReader
{
    private const int HeadBytes = 8;
    private const int ChunkHeadBytes = 12;
    private const int DescriptionBytes = 32;
    private const int EditCountBytes = 4;
    private const int PacketTableBytes = 24;
    private const int MaxChunks = 4096;
    private const int MaxTextBytes = 64 * 1024;
    private const int MostTexts = 512;

    // Flags of linear PCM ("Audio Description Chunk", kCAFLinearPCMFormatFlag…).
    private const uint IsFloat = 1;
    private const uint IsLittleEndian = 2;

    /// <summary>True when the first bytes say that this reader is the one to ask.</summary>
    public static bool Recognises(ReadOnlySpan<byte> head) => head.StartsWith("caff"u8);

    /// <summary>Reads the header of a source.</summary>
    /// <exception cref="UnreadableMediaException">The source is not a Core Audio file that can be understood.</exception>
    public static MediaHeader Read(ByteSource source)
    {
        ArgumentNullException.ThrowIfNull(source);
        Span<byte> head = stackalloc byte[HeadBytes];
        if (!source.TryFill(0, head) || !Recognises(head))
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaStartsOtherwise) { Name = "CAF" });
        }
        return new Walk(source).Run();
    }

    private sealed class Walk(ByteSource source)
    {
        private readonly ImmutableArray<ChunkInfo>.Builder _chunks = ImmutableArray.CreateBuilder<ChunkInfo>();
        private readonly List<Fault> _remarks = [];
        private ImmutableArray<MediaTag> _tags = [];
        private byte[]? _description;
        private long? _validSamples;
        private long _dataOffset = -1;
        private long _dataBytes;
        private bool _unfinished;

        public MediaHeader Run()
        {
            ReadChunks();
            return _description is null ? throw Lacks("desc chunk") : _dataOffset < 0 ? throw Lacks("data chunk") : Describe(_description);
        }

        private static UnreadableMediaException Lacks(string part) => new(new Fault(FaultCode.MediaLacksPart) { Name = "CAF", Other = part });

        private void ReadChunks()
        {
            Span<byte> header = stackalloc byte[ChunkHeadBytes];
            for (var offset = (long)HeadBytes; offset + ChunkHeadBytes <= source.Length && source.TryFill(offset, header);)
            {
                if (_chunks.Count >= MaxChunks)
                {
                    _remarks.Add(new Fault(FaultCode.ChunksPassedOver) { Count = MaxChunks });
                    return;
                }
                if (header[..4].ContainsAnyExceptInRange((byte)0x20, (byte)0x7E))
                {
                    _remarks.Add(new Fault(FaultCode.BytesAfterChunks));
                    return;
                }
                var (size, body) = (BinaryPrimitives.ReadInt64BigEndian(header[4..]), offset + ChunkHeadBytes);
                var there = source.Length - body;
                var isData = header.StartsWith("data"u8);
                if (isData && size == -1)
                {
                    // "Audio Data Chunk": a size of -1 says that the sound goes to the end of the file.
                    size = there;
                }
                else if (size < 0 || size > there)
                {
                    _unfinished |= isData;
                    _remarks.Add(isData ? new Fault(FaultCode.SoundEndsEarly) : new Fault(FaultCode.ChunkCutShort) { Name = Encoding.Latin1.GetString(header[..4]) });
                    size = there;
                }
                ReadChunk(header[..4], body, size);
                offset = body + size;
            }
        }

        private void ReadChunk(ReadOnlySpan<byte> id, long body, long size)
        {
            _chunks.Add(new ChunkInfo(Encoding.Latin1.GetString(id), body, size));
            if (id.SequenceEqual("desc"u8) && _description is null && size >= DescriptionBytes)
            {
                _description = Filled(body, DescriptionBytes);
            }
            else if (id.SequenceEqual("data"u8) && _dataOffset < 0 && size >= EditCountBytes)
            {
                (_dataOffset, _dataBytes) = (body + EditCountBytes, size - EditCountBytes);
            }
            else if (id.SequenceEqual("pakt"u8) && size >= PacketTableBytes && Filled(body, PacketTableBytes) is { } table)
            {
                // Packets, then the samples that count: without what the encoder put before and behind.
                _validSamples = BinaryPrimitives.ReadInt64BigEndian(table.AsSpan(8));
            }
            else if (id.SequenceEqual("info"u8) && size is > 4 and <= MaxTextBytes && Filled(body, (int)size) is { } texts)
            {
                _tags = Texts(texts.AsSpan(4));
            }
        }

        private byte[]? Filled(long at, int count)
        {
            var bytes = new byte[count];
            return source.TryFill(at, bytes) ? bytes : null;
        }

        /// <summary>"Information Chunk": names and values in turn, each ended by a zero byte.</summary>
        private static ImmutableArray<MediaTag> Texts(ReadOnlySpan<byte> bytes)
        {
            var all = new List<string>();
            for (int end; all.Count < MostTexts && (end = bytes.IndexOf((byte)0)) >= 0; bytes = bytes[(end + 1)..])
            {
                all.Add(MediaTag.Text(bytes[..end]));
            }
            return [.. all.Chunk(2).Where(p => p is [{ Length: > 0 }, { Length: > 0 }]).Select(p => new MediaTag(p[0].ToUpperInvariant(), p[1]))];
        }

        private MediaHeader Describe(ReadOnlySpan<byte> description)
        {
            var rate = BinaryPrimitives.ReadDoubleBigEndian(description);
            var coding = Encoding.Latin1.GetString(description.Slice(8, 4));
            var flags = BinaryPrimitives.ReadUInt32BigEndian(description[12..]);
            long packetBytes = BinaryPrimitives.ReadUInt32BigEndian(description[16..]), packetSamples = BinaryPrimitives.ReadUInt32BigEndian(description[20..]);
            long channels = BinaryPrimitives.ReadUInt32BigEndian(description[24..]), bits = BinaryPrimitives.ReadUInt32BigEndian(description[28..]);
            if (rate is not (>= 1 and <= int.MaxValue) || channels is 0 or > ushort.MaxValue || bits > 64)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.MediaFormatSenseless) { Name = "CAF" });
            }
            // What is packed in an unusual way is decoded by the library that decodes what is compressed.
            var isPlain = coding == "lpcm" && bits > 0 && packetSamples == 1 && packetBytes == channels * ((bits + 7) / 8);
            return new MediaHeader
            {
                Container = "CAF",
                Encoding = !isPlain ? SampleEncoding.Encoded : (flags & IsFloat) != 0 ? SampleEncoding.FloatingPoint : SampleEncoding.SignedInteger,
                BigEndian = (flags & IsLittleEndian) == 0,
                SampleRate = (int)Math.Round(rate),
                Channels = (int)channels,
                BitsPerSample = coding is "ulaw" or "alaw" ? 8 : (int)bits,
                FrameBytes = isPlain ? (int)packetBytes : 0,
                LengthSamples = Length(packetBytes, packetSamples),
                DataOffset = _dataOffset,
                DataBytes = _dataBytes,
                Chunks = _chunks.ToImmutable(),
                Tags = _tags,
                Unfinished = _unfinished,
                Remarks = [.. _remarks],
            };
        }

        /// <summary>"Packet Table Chunk": where packets are of one size, the data tells how many there are; else the table does.</summary>
        private long? Length(long packetBytes, long packetSamples)
        {
            if (packetBytes == 0 || packetSamples == 0)
            {
                return _validSamples is >= 0 ? _validSamples : null;
            }
            var there = _dataBytes / packetBytes;
            var samples = there > long.MaxValue / packetSamples ? long.MaxValue : there * packetSamples;
            return _validSamples is { } valid and >= 0 && valid <= samples ? valid : samples;
        }
    }
}
