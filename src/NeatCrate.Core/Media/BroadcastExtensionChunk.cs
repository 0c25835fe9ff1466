using System.Buffers.Binary;
using System.Text;

namespace NeatCrate.Core.Media;

/// <summary>Reads and writes the body of a <c>bext</c> chunk (EBU Tech 3285 v2, section 2.3).</summary>
public static class BroadcastExtensionChunk
{
    /// <summary>Bytes before the coding history.</summary>
    public const int FixedBytes = 602;

    // The first field that every version has ends with the version word.
    private const int LeastBytes = 348;

    /// <summary>Reads a chunk body; null when it is too short to be one.</summary>
    public static BroadcastExtension? Read(ReadOnlySpan<byte> body)
    {
        if (body.Length < LeastBytes)
        {
            return null;
        }
        return new BroadcastExtension(
            Text(body[..256]),
            Text(body.Slice(256, 32)),
            Text(body.Slice(288, 32)),
            Text(body.Slice(320, 10)),
            Text(body.Slice(330, 8)),
            // Low word first: TimeReferenceLow, then TimeReferenceHigh.
            BinaryPrimitives.ReadUInt32LittleEndian(body[338..]) | ((ulong)BinaryPrimitives.ReadUInt32LittleEndian(body[342..]) << 32),
            BinaryPrimitives.ReadUInt16LittleEndian(body[346..]),
            body.Length > FixedBytes ? Text(body[FixedBytes..]) : "");
    }

    /// <summary>Writes a chunk body of <see cref="FixedBytes"/> bytes and the coding history. Text that is too long is cut.</summary>
    public static byte[] Write(BroadcastExtension bext)
    {
        ArgumentNullException.ThrowIfNull(bext);
        var history = Encoding.UTF8.GetBytes(bext.CodingHistory);
        var body = new byte[FixedBytes + history.Length];
        Put(body.AsSpan(0, 256), bext.Description);
        Put(body.AsSpan(256, 32), bext.Originator);
        Put(body.AsSpan(288, 32), bext.OriginatorReference);
        Put(body.AsSpan(320, 10), bext.OriginationDate);
        Put(body.AsSpan(330, 8), bext.OriginationTime);
        BinaryPrimitives.WriteUInt32LittleEndian(body.AsSpan(338), (uint)bext.TimeReference);
        BinaryPrimitives.WriteUInt32LittleEndian(body.AsSpan(342), (uint)(bext.TimeReference >> 32));
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(346), (ushort)bext.Version);
        history.CopyTo(body.AsSpan(FixedBytes));
        return body;
    }

    private static void Put(Span<byte> field, string text)
    {
        var bytes = Encoding.UTF8.GetBytes(text).AsSpan();
        // A character is never cut in half: step back to the start of one.
        var length = Math.Min(bytes.Length, field.Length);
        while (length < bytes.Length && length > 0 && (bytes[length] & 0xC0) == 0x80)
        {
            length--;
        }
        bytes[..length].CopyTo(field);
    }

    private static string Text(ReadOnlySpan<byte> field) => MediaText.Of(field).TrimEnd();
}
