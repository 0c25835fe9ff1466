using System.Buffers.Binary;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Purge;

/// <summary>
/// A RIFF/WAVE, RF64 or BW64 file cut to a range of its samples: audio data byte for byte; <c>bext</c> with time reference and
/// coding history brought up to date (EBU Tech 3285; EBU R 98); positions in <c>cue </c>, <c>smpl</c>, <c>plst</c> and the
/// associated data list moved along (RIFF: Multimedia Programming Interface and Data Specifications 1.0; RIFFNEW, 1994), and in
/// iXML; every other chunk as it stands. Marks that lie outside of the range go; what was worked out from all of the sound
/// (<c>PEAK</c>, <c>levl</c>) goes where it would be untrue.
/// </summary>
internal static partial class WavCut
{
    private const int RiffHeadBytes = 12;
    private const int LongSizesBytes = 28;
    private const int CuePointBytes = 24;
    private const int LoopBytes = 24;
    private const int SamplerBytes = 36;
    private const int SegmentBytes = 12;
    private const int TimeReferenceAt = 338;

    /// <summary>The pieces of the cut file.</summary>
    public static IReadOnlyList<FilePiece> Pieces(ByteSource source, MediaHeader header, SampleRange kept)
    {
        var chunks = new ChunkPieces(source, false);
        var marks = CuePoints(header, chunks, kept);
        var dataBytes = kept.Length * header.FrameBytes;
        var isLong = header.Container != "WAV" && (header.Container == "BW64" || dataBytes > uint.MaxValue - 65_536);
        var longSizes = isLong ? LongSizes(header, chunks) : null;
        if (longSizes is not null)
        {
            chunks.Put("ds64", longSizes);
        }
        foreach (var chunk in header.Chunks)
        {
            switch (chunk.Id)
            {
                case "ds64":
                    // A file that fits into 32 bits is a plain one, with the room for the long sizes kept (EBU Tech 3306, section 5).
                    if (!isLong)
                    {
                        chunks.Put("JUNK", new byte[LongSizesBytes]);
                    }
                    break;
                case "data" when chunk.Offset == header.DataOffset:
                    chunks.Range("data", isLong ? uint.MaxValue : dataBytes, [], header.DataOffset + (kept.Start * header.FrameBytes), dataBytes);
                    break;
                case "fact" when chunk.Bytes >= 4:
                    var fact = chunks.Body(chunk);
                    BinaryPrimitives.WriteUInt32LittleEndian(fact, (uint)Math.Min(kept.Length, uint.MaxValue));
                    chunks.Put("fact", fact);
                    break;
                case "bext" when chunk.Bytes >= BroadcastExtensionChunk.FixedBytes:
                    chunks.Put("bext", Broadcast(chunks.Body(chunk), header, kept));
                    break;
                case "iXML":
                    chunks.Put("iXML", Ixml(chunks.Body(chunk), kept));
                    break;
                case "cue ":
                    chunks.Put("cue ", marks.Chunk());
                    break;
                case "plst" when chunk.Bytes >= 4:
                    chunks.Put("plst", Playlist(chunks.Body(chunk), marks));
                    break;
                case "smpl" when chunk.Bytes >= SamplerBytes:
                    chunks.Put("smpl", Sampler(chunks.Body(chunk), kept));
                    break;
                case "LIST" when chunk.Bytes >= 4 && chunks.Body(chunk) is var list && list.AsSpan().StartsWith("adtl"u8):
                    chunks.Put("LIST", AssociatedData(list, marks));
                    break;
                case "PEAK":
                    if (Peaks(chunks.Body(chunk), header, kept) is { } peaks)
                    {
                        chunks.Put("PEAK", peaks);
                    }
                    break;
                case "levl":
                    break;
                default:
                    chunks.Copy(chunk);
                    break;
            }
        }
        var riffBytes = chunks.Length + 4;
        if (longSizes is not null)
        {
            // The same array stands among the pieces: its sizes are known only now.
            BinaryPrimitives.WriteInt64LittleEndian(longSizes, riffBytes);
            BinaryPrimitives.WriteInt64LittleEndian(longSizes.AsSpan(8), dataBytes);
            BinaryPrimitives.WriteInt64LittleEndian(longSizes.AsSpan(16), kept.Length);
        }
        var head = new byte[RiffHeadBytes];
        Encoding.ASCII.GetBytes(isLong ? header.Container : "RIFF", head);
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(4), isLong ? uint.MaxValue : (uint)riffBytes);
        "WAVE"u8.CopyTo(head.AsSpan(8));
        return chunks.Behind(head);
    }

    /// <summary>ds64 as it is, with its table of other long chunks; its sizes are filled in at the end.</summary>
    private static byte[] LongSizes(MediaHeader header, ChunkPieces chunks) =>
        header.Chunks.FirstOrDefault(c => c.Id == "ds64") is { Bytes: >= LongSizesBytes } chunk ? chunks.Body(chunk) : new byte[LongSizesBytes];

    /// <summary>The time reference grows by the samples that were cut from the front; the coding history gets a line (EBU R 98).</summary>
    private static byte[] Broadcast(byte[] body, MediaHeader header, SampleRange kept)
    {
        var reference = BinaryPrimitives.ReadUInt64LittleEndian(body.AsSpan(TimeReferenceAt));
        BinaryPrimitives.WriteUInt64LittleEndian(body.AsSpan(TimeReferenceAt), unchecked(reference + (ulong)kept.Start));
        var history = Encoding.Latin1.GetString(body.AsSpan(BroadcastExtensionChunk.FixedBytes)).TrimEnd('\0');
        var mode = header.Channels switch { 1 => "mono", 2 => "stereo", _ => "multi-channel" };
        if (history.Length > 0 && !history.EndsWith('\n'))
        {
            history += "\r\n";
        }
        history += string.Create(
            CultureInfo.InvariantCulture, $"A=PCM,F={header.SampleRate},W={header.BitsPerSample},M={mode},T=cut to samples {kept.Start} to {kept.End} of {header.LengthSamples}\r\n");
        return [.. body.AsSpan(0, BroadcastExtensionChunk.FixedBytes), .. Encoding.Latin1.GetBytes(history)];
    }

    /// <summary>iXML tells the same time twice (iXML 2.10, SPEED and BEXT): both halves of 64 bits are moved along.</summary>
    private static byte[] Ixml(byte[] body, SampleRange kept)
    {
        var text = Encoding.Latin1.GetString(body);
        text = Moved(text, SpeedLow(), SpeedHigh(), kept.Start);
        text = Moved(text, ReferenceLow(), ReferenceHigh(), kept.Start);
        return Encoding.Latin1.GetBytes(text);
    }

    private static string Moved(string text, Regex low, Regex high, long by)
    {
        if (low.Match(text) is not { Success: true } l || !uint.TryParse(l.Groups[1].Value, NumberStyles.None, CultureInfo.InvariantCulture, out var lowHalf))
        {
            return text;
        }
        var highHalf = high.Match(text) is { Success: true } h && uint.TryParse(h.Groups[1].Value, NumberStyles.None, CultureInfo.InvariantCulture, out var half) ? half : 0;
        var sum = unchecked((((ulong)highHalf << 32) | lowHalf) + (ulong)by);
        text = low.Replace(text, m => m.Value.Replace(m.Groups[1].Value, ((uint)sum).ToString(CultureInfo.InvariantCulture), StringComparison.Ordinal), 1);
        return high.Replace(text, m => m.Value.Replace(m.Groups[1].Value, ((uint)(sum >> 32)).ToString(CultureInfo.InvariantCulture), StringComparison.Ordinal), 1);
    }

    private static CueMarks CuePoints(MediaHeader header, ChunkPieces chunks, SampleRange kept)
    {
        var marks = new CueMarks();
        if (header.Chunks.FirstOrDefault(c => c is { Id: "cue ", Bytes: >= 4 }) is not { } chunk)
        {
            return marks;
        }
        var regions = new Dictionary<uint, uint>();
        foreach (var list in header.Chunks.Where(c => c is { Id: "LIST", Bytes: >= 4 }).Select(chunks.Body).Where(b => b.AsSpan().StartsWith("adtl"u8)))
        {
            foreach (var (_, body) in Below(list).Where(b => b.Id == "ltxt" && b.Body.Length >= 8))
            {
                regions[BinaryPrimitives.ReadUInt32LittleEndian(body)] = BinaryPrimitives.ReadUInt32LittleEndian(body.AsSpan(4));
            }
        }
        var bytes = chunks.Body(chunk);
        var count = Math.Min(BinaryPrimitives.ReadUInt32LittleEndian(bytes), (uint)((bytes.Length - 4) / CuePointBytes));
        for (var n = 0; n < count; n++)
        {
            var point = bytes.AsSpan(4 + (n * CuePointBytes), CuePointBytes).ToArray();
            var id = BinaryPrimitives.ReadUInt32LittleEndian(point);
            long at = BinaryPrimitives.ReadUInt32LittleEndian(point.AsSpan(20));
            var end = at + regions.GetValueOrDefault(id);
            if (end < kept.Start || at > kept.End || (regions.GetValueOrDefault(id) > 0 && end == kept.Start))
            {
                continue;
            }
            // A region that reaches into the range begins with it.
            var (from, to) = (Math.Max(at, kept.Start), Math.Min(end, kept.End));
            BinaryPrimitives.WriteUInt32LittleEndian(point.AsSpan(4), (uint)Math.Max(0, BinaryPrimitives.ReadUInt32LittleEndian(point.AsSpan(4)) + (from - at) - kept.Start));
            BinaryPrimitives.WriteUInt32LittleEndian(point.AsSpan(20), (uint)(from - kept.Start));
            marks.Add(id, point, (uint)(to - from));
        }
        return marks;
    }

    private static byte[] Playlist(byte[] body, CueMarks marks)
    {
        var count = Math.Min(BinaryPrimitives.ReadUInt32LittleEndian(body), (uint)((body.Length - 4) / SegmentBytes));
        var segments = Enumerable.Range(0, (int)count).Select(n => body.AsSpan(4 + (n * SegmentBytes), SegmentBytes).ToArray())
            .Where(s => marks.Has(BinaryPrimitives.ReadUInt32LittleEndian(s))).ToList();
        foreach (var segment in segments)
        {
            var id = BinaryPrimitives.ReadUInt32LittleEndian(segment);
            if (marks.LengthOf(id) is var length and > 0)
            {
                BinaryPrimitives.WriteUInt32LittleEndian(segment.AsSpan(4), Math.Min(length, BinaryPrimitives.ReadUInt32LittleEndian(segment.AsSpan(4))));
            }
        }
        return Counted(segments);
    }

    /// <summary>Loops that lie wholly in the range are moved along; others would play something else, and go.</summary>
    private static byte[] Sampler(byte[] body, SampleRange kept)
    {
        var count = (int)Math.Min(BinaryPrimitives.ReadUInt32LittleEndian(body.AsSpan(28)), (uint)((body.Length - SamplerBytes) / LoopBytes));
        var loops = new List<byte[]>();
        for (var n = 0; n < count; n++)
        {
            var loop = body.AsSpan(SamplerBytes + (n * LoopBytes), LoopBytes).ToArray();
            long from = BinaryPrimitives.ReadUInt32LittleEndian(loop.AsSpan(8)), to = BinaryPrimitives.ReadUInt32LittleEndian(loop.AsSpan(12));
            if (from >= kept.Start && to < kept.End)
            {
                BinaryPrimitives.WriteUInt32LittleEndian(loop.AsSpan(8), (uint)(from - kept.Start));
                BinaryPrimitives.WriteUInt32LittleEndian(loop.AsSpan(12), (uint)(to - kept.Start));
                loops.Add(loop);
            }
        }
        var head = body[..SamplerBytes];
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(28), (uint)loops.Count);
        return [.. head, .. loops.SelectMany(l => l), .. body[(SamplerBytes + (count * LoopBytes))..]];
    }

    /// <summary>Labels, notes and lengths of the marks that are left.</summary>
    private static byte[] AssociatedData(byte[] list, CueMarks marks)
    {
        var result = new MemoryStream();
        result.Write("adtl"u8);
        Span<byte> head = stackalloc byte[8];
        foreach (var (id, body) in Below(list))
        {
            var isOfMark = id is "labl" or "note" or "ltxt" && body.Length >= 4;
            if (isOfMark && !marks.Has(BinaryPrimitives.ReadUInt32LittleEndian(body)))
            {
                continue;
            }
            if (id == "ltxt" && body.Length >= 8)
            {
                BinaryPrimitives.WriteUInt32LittleEndian(body.AsSpan(4), marks.LengthOf(BinaryPrimitives.ReadUInt32LittleEndian(body)));
            }
            Encoding.Latin1.GetBytes(id, head);
            BinaryPrimitives.WriteInt32LittleEndian(head[4..], body.Length);
            result.Write(head);
            result.Write(body);
            if ((body.Length & 1) == 1)
            {
                result.WriteByte(0);
            }
        }
        return result.ToArray();
    }

    /// <summary>The greatest sample of each channel and its place: true still where all of these are in the range.</summary>
    private static byte[]? Peaks(byte[] body, MediaHeader header, SampleRange kept)
    {
        const int HeadBytes = 8;
        const int PeakBytes = 8;
        if (body.Length < HeadBytes + (header.Channels * PeakBytes))
        {
            return null;
        }
        for (var c = 0; c < header.Channels; c++)
        {
            var place = body.AsSpan(HeadBytes + (c * PeakBytes) + 4);
            long at = BinaryPrimitives.ReadUInt32LittleEndian(place);
            if (at < kept.Start || at >= kept.End)
            {
                return null;
            }
            BinaryPrimitives.WriteUInt32LittleEndian(place, (uint)(at - kept.Start));
        }
        return body;
    }

    private static IEnumerable<(string Id, byte[] Body)> Below(byte[] list)
    {
        for (var at = 4; at + 8 <= list.Length;)
        {
            var size = (int)Math.Min(BinaryPrimitives.ReadUInt32LittleEndian(list.AsSpan(at + 4)), (uint)(list.Length - at - 8));
            yield return (Encoding.Latin1.GetString(list, at, 4), list[(at + 8)..(at + 8 + size)]);
            at += 8 + size + (size & 1);
        }
    }

    private static byte[] Counted(List<byte[]> parts)
    {
        var count = new byte[4];
        BinaryPrimitives.WriteInt32LittleEndian(count, parts.Count);
        return [.. count, .. parts.SelectMany(p => p)];
    }

    [GeneratedRegex("<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>\\s*(\\d{1,10})\\s*</")]
    private static partial Regex SpeedLow();

    [GeneratedRegex("<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>\\s*(\\d{1,10})\\s*</")]
    private static partial Regex SpeedHigh();

    [GeneratedRegex("<BWF_TIME_REFERENCE_LOW>\\s*(\\d{1,10})\\s*</")]
    private static partial Regex ReferenceLow();

    [GeneratedRegex("<BWF_TIME_REFERENCE_HIGH>\\s*(\\d{1,10})\\s*</")]
    private static partial Regex ReferenceHigh();

    /// <summary>The marks that are left, by their identifiers.</summary>
    private sealed class CueMarks
    {
        private readonly List<byte[]> _points = [];
        private readonly Dictionary<uint, uint> _lengths = [];

        public void Add(uint id, byte[] point, uint length)
        {
            _points.Add(point);
            _lengths[id] = length;
        }

        public bool Has(uint id) => _lengths.ContainsKey(id);

        public uint LengthOf(uint id) => _lengths.GetValueOrDefault(id);

        public byte[] Chunk() => Counted(_points);
    }
}
