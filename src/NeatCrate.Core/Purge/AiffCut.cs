using System.Buffers.Binary;
using System.Text;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Purge;

/// <summary>
/// An AIFF or AIFF-C file cut to a range of its samples: sound data byte for byte, its number of frames, and the positions of
/// its markers moved along (Apple, "Audio Interchange File Format" 1.3: COMM, SSND, MARK, INST, COMT); every other chunk as it
/// stands. Markers outside of the range go, and what loops or comments hang on them lets them go.
/// </summary>
internal static class AiffCut
{
    private const int SoundHeadBytes = 8;
    private const int FirstLoopAt = 8;
    private const int LoopBytes = 6;

    /// <summary>The pieces of the cut file.</summary>
    public static IReadOnlyList<FilePiece> Pieces(ByteSource source, MediaHeader header, SampleRange kept)
    {
        var chunks = new ChunkPieces(source, true);
        var markers = Markers(header, chunks, kept);
        var dataBytes = kept.Length * header.FrameBytes;
        foreach (var chunk in header.Chunks)
        {
            switch (chunk.Id)
            {
                case "COMM":
                    var common = chunks.Body(chunk);
                    BinaryPrimitives.WriteUInt32BigEndian(common.AsSpan(2), (uint)kept.Length);
                    chunks.Put("COMM", common);
                    break;
                case "SSND" when header.DataOffset > chunk.Offset && header.DataOffset <= chunk.Offset + chunk.Bytes:
                    // The offset within the chunk is of alignment, which a new file has no need of.
                    chunks.Range("SSND", SoundHeadBytes + dataBytes, new byte[SoundHeadBytes], header.DataOffset + (kept.Start * header.FrameBytes), dataBytes);
                    break;
                case "MARK":
                    chunks.Put("MARK", markers.Body);
                    break;
                case "INST" when chunk.Bytes >= FirstLoopAt + (2 * LoopBytes):
                    chunks.Put("INST", Instrument(chunks.Body(chunk), markers.Kept));
                    break;
                case "COMT" when chunk.Bytes >= 2:
                    chunks.Put("COMT", Comments(chunks.Body(chunk), markers.Kept));
                    break;
                default:
                    chunks.Copy(chunk);
                    break;
            }
        }
        var head = new byte[12];
        "FORM"u8.CopyTo(head);
        BinaryPrimitives.WriteUInt32BigEndian(head.AsSpan(4), (uint)(chunks.Length + 4));
        Encoding.ASCII.GetBytes(header.Container, head.AsSpan(8));
        return chunks.Behind(head);
    }

    private static (byte[] Body, HashSet<int> Kept) Markers(MediaHeader header, ChunkPieces chunks, SampleRange range)
    {
        var kept = new HashSet<int>();
        var result = new MemoryStream();
        result.Write([0, 0]);
        if (header.Chunks.FirstOrDefault(c => c is { Id: "MARK", Bytes: >= 2 }) is { } chunk)
        {
            var body = chunks.Body(chunk);
            int count = BinaryPrimitives.ReadUInt16BigEndian(body);
            for (var (at, n) = (2, 0); n < count && at + 7 <= body.Length; n++)
            {
                // Identifier, position, and a name with its length before it, padded to an even number of bytes.
                var bytes = 6 + ((body[at + 6] + 2) & ~1);
                var marker = body.AsSpan(at, Math.Min(bytes, body.Length - at)).ToArray();
                long position = BinaryPrimitives.ReadUInt32BigEndian(marker.AsSpan(2));
                // A marker stands between two samples, so that the end of the sound is a place for one.
                if (position >= range.Start && position <= range.End)
                {
                    BinaryPrimitives.WriteUInt32BigEndian(marker.AsSpan(2), (uint)(position - range.Start));
                    kept.Add(BinaryPrimitives.ReadInt16BigEndian(marker));
                    result.Write(marker);
                }
                at += bytes;
            }
        }
        var all = result.ToArray();
        BinaryPrimitives.WriteUInt16BigEndian(all, (ushort)kept.Count);
        return (all, kept);
    }

    /// <summary>A loop whose marker is gone is none (play mode 0).</summary>
    private static byte[] Instrument(byte[] body, HashSet<int> kept)
    {
        foreach (var at in new[] { FirstLoopAt, FirstLoopAt + LoopBytes })
        {
            var loop = body.AsSpan(at, LoopBytes);
            if (BinaryPrimitives.ReadUInt16BigEndian(loop) != 0 && !(kept.Contains(BinaryPrimitives.ReadInt16BigEndian(loop[2..])) && kept.Contains(BinaryPrimitives.ReadInt16BigEndian(loop[4..]))))
            {
                BinaryPrimitives.WriteUInt16BigEndian(loop, 0);
            }
        }
        return body;
    }

    /// <summary>A comment on a marker that is gone is one on the whole (marker 0).</summary>
    private static byte[] Comments(byte[] body, HashSet<int> kept)
    {
        int count = BinaryPrimitives.ReadUInt16BigEndian(body);
        for (var (at, n) = (2, 0); n < count && at + 8 <= body.Length; n++)
        {
            if (!kept.Contains(BinaryPrimitives.ReadInt16BigEndian(body.AsSpan(at + 4))))
            {
                BinaryPrimitives.WriteInt16BigEndian(body.AsSpan(at + 4), 0);
            }
            int text = BinaryPrimitives.ReadUInt16BigEndian(body.AsSpan(at + 6));
            at += 8 + text + (text & 1);
        }
        return body;
    }
}
