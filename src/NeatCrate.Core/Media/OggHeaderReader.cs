using System.Buffers.Binary;
using System.Collections.Immutable;
using System.Diagnostics.CodeAnalysis;

namespace NeatCrate.Core.Media;

/// <summary>
/// Reads the header of Ogg files with Vorbis (Vorbis I, section 4.2), Opus (RFC 7845) or FLAC (RFC 9639, section 10.1) in
/// them. The length is the granule position of the last page (RFC 3533, section 6), found from the end.
/// </summary>
public static class OggHeaderReader
{
    private const int PageHeadBytes = 27;
    private const int MaxPacketBytes = 256 * 1024;
    private const int MaxHeaderPages = 64;
    private const int TailBytes = 64 * 1024;
    private const int MaxTails = 16;
    private const int OpusRate = 48000;
    private const long MostSamplesAByte = 8192;

    /// <summary>True when the first bytes say that this reader is the one to ask.</summary>
    public static bool Recognises(ReadOnlySpan<byte> head) => head.StartsWith("OggS"u8);

    /// <summary>Reads the header of a source.</summary>
    /// <exception cref="UnreadableMediaException">The source is not an Ogg file that can be understood.</exception>
    public static MediaHeader Read(ByteSource source)
    {
        ArgumentNullException.ThrowIfNull(source);
        Span<byte> head = stackalloc byte[PageHeadBytes];
        if (!source.TryFill(0, head) || !Recognises(head))
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaStartsOtherwise) { Name = "Ogg" });
        }
        var serial = BinaryPrimitives.ReadUInt32LittleEndian(head[14..]);
        var (packets, dataOffset) = FirstPackets(source, serial, 2);
        if (packets.Count == 0)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaLacksPart) { Name = "Ogg", Other = "packet" });
        }
        var (header, skipped) = Identify(packets[0]);
        var last = LastGranule(source, serial);
        var dataBytes = source.Length - dataOffset;
        Fault? remark = last is null ? new Fault(FaultCode.StreamEndNotFound)
            // A packet of a byte can hold no more than a block of silence (Vorbis I: 8192 samples; Opus: 5760).
            : last - skipped > dataBytes * MostSamplesAByte ? new Fault(FaultCode.StreamLengthAbsurd)
            : null;
        var length = remark is null ? Math.Max(0, last!.Value - skipped) : header.LengthSamples;
        if (remark is null && LastSerial(source) is { } end && end != serial && (length = LengthOfChain(source, header)) is null)
        {
            remark = new Fault(FaultCode.StreamsChained);
        }
        return header with
        {
            LengthSamples = length,
            DataOffset = dataOffset,
            DataBytes = dataBytes,
            Tags = packets.Count > 1 ? Comments(header.Container, packets[1]) : [],
            Remarks = remark is null ? [] : [remark],
        };
    }

    private static (MediaHeader Header, long Skipped) Identify(ReadOnlySpan<byte> packet)
    {
        if (packet.Length >= 30 && packet.StartsWith("\x01vorbis"u8))
        {
            return (Header("Ogg Vorbis", BinaryPrimitives.ReadUInt32LittleEndian(packet[12..]), packet[11]), 0);
        }
        if (packet.Length >= 19 && packet.StartsWith("OpusHead"u8))
        {
            // The rate in the header is that of the original; the stream itself always counts at 48 kHz (RFC 7845, section 4).
            return (Header("Ogg Opus", OpusRate, packet[9]), BinaryPrimitives.ReadUInt16LittleEndian(packet[10..]));
        }
        if (packet.Length >= 51 && packet.StartsWith("\u007fFLAC"u8))
        {
            return (FlacHeaderReader.FromStreamInfo(packet.Slice(17, 34)) with { Container = "Ogg FLAC" }, 0);
        }
        throw new UnreadableMediaException(new Fault(FaultCode.MediaOfUnknownCoding) { Name = "Ogg" });
    }

    private static MediaHeader Header(string container, uint rate, int channels) => rate is 0 or > int.MaxValue || channels == 0
        ? throw new UnreadableMediaException(new Fault(FaultCode.MediaFormatSenseless) { Name = "Ogg" })
        : new MediaHeader
        {
            Container = container,
            Encoding = SampleEncoding.Encoded,
            SampleRate = (int)rate,
            Channels = channels,
            BitsPerSample = 0,
            FrameBytes = 0,
            LengthSamples = null,
            DataOffset = 0,
            DataBytes = 0,
        };

    private static ImmutableArray<MediaTag> Comments(string container, ReadOnlySpan<byte> packet)
    {
        var (mark, skip) = container switch
        {
            "Ogg Vorbis" => ("\x03vorbis"u8.ToArray(), 7),
            "Ogg Opus" => ("OpusTags"u8.ToArray(), 8),
            _ => ([0x84], 4),
        };
        return packet.StartsWith(mark) || (container == "Ogg FLAC" && packet.Length > 4 && (packet[0] & 0x7F) == 4) ? VorbisComments.Read(packet[skip..]) : [];
    }

    /// <summary>The first packets of a stream, put together from its pages, and where the page after them starts.</summary>
    private static (List<byte[]> Packets, long End) FirstPackets(ByteSource source, uint serial, int wanted)
    {
        var packets = new List<byte[]>();
        var open = new List<byte>();
        var offset = 0L;
        Span<byte> head = stackalloc byte[PageHeadBytes];
        for (var page = 0; page < MaxHeaderPages && packets.Count < wanted && source.TryFill(offset, head) && Recognises(head); page++)
        {
            var laces = new byte[head[26]];
            if (!source.TryFill(offset + PageHeadBytes, laces))
            {
                break;
            }
            var body = offset + PageHeadBytes + laces.Length;
            offset = body + laces.Sum(l => l);
            if (BinaryPrimitives.ReadUInt32LittleEndian(head[14..]) != serial)
            {
                continue;
            }
            foreach (var lace in laces)
            {
                var part = new byte[lace];
                if (open.Count > MaxPacketBytes || !source.TryFill(body, part))
                {
                    return (packets, Math.Min(offset, source.Length));
                }
                open.AddRange(part);
                body += lace;
                // A lace of less than 255 ends a packet (RFC 3533, section 5).
                if (lace < 255 && packets.Count < wanted)
                {
                    packets.Add([.. open]);
                    open.Clear();
                }
            }
        }
        return (packets, Math.Min(offset, source.Length));
    }

    /// <summary>
    /// The length of streams that stand one after the other (RFC 3533, section 4, "chaining"), each from its own beginning to the granule
    /// position of its last page; null where they are not all of one kind, rate and channels, or something else stands between them.
    /// </summary>
    private static long? LengthOfChain(ByteSource source, MediaHeader first)
    {
        const byte BeginsStream = 2;
        var (whole, open) = (0L, (Serial: 0u, Skipped: 0L, Last: 0L));
        var offset = 0L;
        Span<byte> head = stackalloc byte[PageHeadBytes];
        Span<byte> laces = stackalloc byte[byte.MaxValue];
        while (source.TryFill(offset, head) && Recognises(head))
        {
            var serial = BinaryPrimitives.ReadUInt32LittleEndian(head[14..]);
            var own = laces[..head[26]];
            if (!source.TryFill(offset + PageHeadBytes, own))
            {
                break;
            }
            var body = 0;
            foreach (var lace in own)
            {
                body += lace;
            }
            if ((head[5] & BeginsStream) != 0)
            {
                var packet = new byte[body];
                if (!source.TryFill(offset + PageHeadBytes + own.Length, packet) || !TryIdentify(packet, out var header, out var skipped)
                    || (header.Container, header.SampleRate, header.Channels) != (first.Container, first.SampleRate, first.Channels))
                {
                    return null;
                }
                whole += Math.Max(0, open.Last - open.Skipped);
                open = (serial, skipped, 0);
            }
            else if (serial != open.Serial)
            {
                // Streams that run beside each other are no chain.
                return null;
            }
            if (BinaryPrimitives.ReadInt64LittleEndian(head[6..]) is var granule and >= 0)
            {
                open.Last = Math.Max(open.Last, granule);
            }
            offset += PageHeadBytes + own.Length + body;
        }
        whole += Math.Max(0, open.Last - open.Skipped);
        return offset == source.Length && whole <= source.Length * MostSamplesAByte ? whole : null;
    }

    private static bool TryIdentify(ReadOnlySpan<byte> packet, [NotNullWhen(true)] out MediaHeader? header, out long skipped)
    {
        try
        {
            (header, skipped) = Identify(packet);
            return true;
        }
        catch (UnreadableMediaException)
        {
            (header, skipped) = (null, 0);
            return false;
        }
    }

    /// <summary>The serial number of the last page: another one than that of the first page in a file of chained streams (RFC 3533, section 4).</summary>
    private static uint? LastSerial(ByteSource source)
    {
        var tail = new byte[(int)Math.Min(TailBytes * 2, source.Length)];
        var bytes = tail.AsSpan(0, source.Read(source.Length - tail.Length, tail));
        var at = bytes.LastIndexOf("OggS"u8);
        return at >= 0 && at + PageHeadBytes <= bytes.Length ? BinaryPrimitives.ReadUInt32LittleEndian(bytes[(at + 14)..]) : null;
    }

    /// <summary>The granule position of the last page of a stream that has one, looked for from the end.</summary>
    private static long? LastGranule(ByteSource source, uint serial)
    {
        var tail = new byte[TailBytes];
        var end = source.Length;
        for (var n = 0; n < MaxTails && end > 0; n++)
        {
            var start = Math.Max(0, end - TailBytes);
            var bytes = tail.AsSpan(0, (int)Math.Min(TailBytes, source.Length - start));
            bytes = bytes[..source.Read(start, bytes)];
            for (var at = bytes.LastIndexOf("OggS"u8); at >= 0; at = bytes[..at].LastIndexOf("OggS"u8))
            {
                if (at + PageHeadBytes <= bytes.Length && bytes[at + 4] == 0 && BinaryPrimitives.ReadUInt32LittleEndian(bytes[(at + 14)..]) == serial
                    && BinaryPrimitives.ReadInt64LittleEndian(bytes[(at + 6)..]) is var granule and >= 0)
                {
                    return granule;
                }
            }
            if (start == 0)
            {
                break;
            }
            // A page's head may lie across the border of two tails.
            end = start + PageHeadBytes;
        }
        return null;
    }
}
