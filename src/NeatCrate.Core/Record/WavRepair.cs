using System.Buffers.Binary;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Record;

/// <summary>
/// Puts the sizes of a recording right that was cut off: everything up to the end of the file is sound. What would pass
/// the 32-bit limit becomes RF64 (EBU Tech 3306, section 5). All other chunks stay as they are, byte for byte.
/// </summary>
public static class WavRepair
{
    private const int RiffHeadBytes = 12;
    private const int LongSizesBytes = 28;
    private const int MaxHeadBytes = 16 * 1024 * 1024;

    /// <summary>Samples per channel that are whole: a last sample that was cut in two does not count.</summary>
    public static long WholeSamples(MediaHeader header)
    {
        ArgumentNullException.ThrowIfNull(header);
        return header.FrameBytes > 0 ? header.DataBytes / header.FrameBytes : 0;
    }

    /// <summary>The pieces of the repaired file.</summary>
    /// <param name="path">The recording.</param>
    /// <param name="header">What its header says; it must be unfinished.</param>
    /// <param name="limit">Size of the RIFF body in bytes past which the file becomes RF64.</param>
    /// <exception cref="UnreadableMediaException">The recording is of a kind that cannot be repaired.</exception>
    /// <exception cref="IOException">The file cannot be read.</exception>
    public static IReadOnlyList<FilePiece> Pieces(string path, MediaHeader header, long limit = uint.MaxValue)
    {
        ArgumentNullException.ThrowIfNull(header);
        if (header.Container is not ("WAV" or "RF64" or "BW64"))
        {
            throw new UnreadableMediaException(new Fault(FaultCode.OnlyWavIsRepaired) { Name = header.Container });
        }
        if (header.Encoding == SampleEncoding.Encoded || header.DataOffset > MaxHeadBytes)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.EncodedSoundHasNoEnd));
        }
        if (WholeSamples(header) == 0)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.NoSoundWritten));
        }
        var head = new byte[(int)header.DataOffset];
        using (var source = ByteSource.OpenFile(path))
        {
            if (!source.TryFill(0, head))
            {
                throw new UnreadableMediaException(new Fault(FaultCode.MediaShorterThanHeader));
            }
        }
        var dataBytes = WholeSamples(header) * header.FrameBytes;
        var pad = dataBytes & 1;
        var riffBytes = head.Length - 8 + dataBytes + pad;
        var (fixedHead, grown) = header.Container == "WAV" && riffBytes <= limit
            ? (Plain(head, riffBytes, dataBytes), 0)
            : Long(head, header, riffBytes, dataBytes);
        if (grown > 0)
        {
            BinaryPrimitives.WriteInt64LittleEndian(fixedHead.AsSpan(RiffHeadBytes + 8), riffBytes + grown);
        }
        PutFact(fixedHead, header, grown);
        var pieces = new List<FilePiece> { FilePiece.Of(fixedHead), new(null, header.DataOffset, dataBytes) };
        if (pad == 1)
        {
            pieces.Add(FilePiece.Of([0]));
        }
        return pieces;
    }

    private static byte[] Plain(byte[] head, long riffBytes, long dataBytes)
    {
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(4), (uint)riffBytes);
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(head.Length - 4), (uint)dataBytes);
        return head;
    }

    /// <summary>The header with 64-bit sizes: in the ds64 chunk that is there, in the room that was kept for one, or in a new one.</summary>
    private static (byte[] Head, int Grown) Long(byte[] head, MediaHeader header, long riffBytes, long dataBytes)
    {
        var first = header.Chunks.IsEmpty ? null : header.Chunks[0];
        var hasRoom = first is { Offset: RiffHeadBytes + 8, Bytes: >= LongSizesBytes, Id: "ds64" or "JUNK" };
        var grown = hasRoom ? 0 : LongSizesBytes + 8;
        var result = hasRoom ? head : [.. head[..RiffHeadBytes], .. new byte[grown], .. head[RiffHeadBytes..]];
        if (header.Container == "WAV")
        {
            "RF64"u8.CopyTo(result);
        }
        "ds64"u8.CopyTo(result.AsSpan(RiffHeadBytes));
        if (!hasRoom)
        {
            BinaryPrimitives.WriteUInt32LittleEndian(result.AsSpan(RiffHeadBytes + 4), LongSizesBytes);
        }
        var sizes = result.AsSpan(RiffHeadBytes + 8);
        BinaryPrimitives.WriteInt64LittleEndian(sizes, riffBytes);
        BinaryPrimitives.WriteInt64LittleEndian(sizes[8..], dataBytes);
        BinaryPrimitives.WriteInt64LittleEndian(sizes[16..], WholeSamples(header));
        if (first?.Id != "ds64" || !hasRoom)
        {
            BinaryPrimitives.WriteUInt32LittleEndian(sizes[24..], 0);
        }
        BinaryPrimitives.WriteUInt32LittleEndian(result.AsSpan(4), uint.MaxValue);
        BinaryPrimitives.WriteUInt32LittleEndian(result.AsSpan(result.Length - 4), uint.MaxValue);
        return (result, grown);
    }

    private static void PutFact(byte[] head, MediaHeader header, int grown)
    {
        if (header.Chunks.FirstOrDefault(c => c is { Id: "fact", Bytes: >= 4 } && c.Offset < header.DataOffset) is { } fact)
        {
            BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan((int)fact.Offset + grown), (uint)Math.Min(WholeSamples(header), uint.MaxValue));
        }
    }
}
