using System.Buffers.Binary;
using System.IO.Compression;
using System.IO.Hashing;

namespace NeatCrate.Core.Names;

/// <summary>A file that is one member of gzip (RFC 1952, section 2.2) and nothing else.</summary>
/// <param name="Header">Its header as it stands: name, time and system of whoever packed it.</param>
/// <param name="Content">What is packed in it.</param>
internal sealed record GzipMember(byte[] Header, byte[] Content)
{
    private const int TrailerBytes = 8;

    /// <summary>Unpacks one; null for what is none, is damaged, holds more than that one, or unpacks to more than is allowed.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="most">So many bytes it may unpack to.</param>
    public static GzipMember? Of(byte[] bytes, int most)
    {
        var header = HeaderLength(bytes);
        if (header == 0 || bytes.Length - header < TrailerBytes)
        {
            return null;
        }
        var trailer = bytes.AsSpan(bytes.Length - TrailerBytes);
        try
        {
            using var inflated = new DeflateStream(new MemoryStream(bytes, header, bytes.Length - header - TrailerBytes, writable: false), CompressionMode.Decompress);
            using var content = new MemoryStream();
            var piece = new byte[64 * 1024];
            for (var read = inflated.Read(piece); read > 0; read = inflated.Read(piece))
            {
                if (content.Length + read > most)
                {
                    return null;
                }
                content.Write(piece, 0, read);
            }
            // A second member, or anything behind the first, has another end than this one.
            var whole = content.ToArray();
            return trailer.SequenceEqual(Trailer(whole)) ? new GzipMember(bytes[..header], whole) : null;
        }
        catch (InvalidDataException)
        {
            return null;
        }
    }

    /// <summary>Packs another content behind the same header.</summary>
    public byte[] With(byte[] content)
    {
        using var packed = new MemoryStream();
        packed.Write(Header);
        using (var deflated = new DeflateStream(packed, CompressionLevel.Optimal, leaveOpen: true))
        {
            deflated.Write(content);
        }
        packed.Write(Trailer(content));
        return packed.ToArray();
    }

    private static byte[] Trailer(byte[] content)
    {
        var trailer = new byte[TrailerBytes];
        BinaryPrimitives.WriteUInt32LittleEndian(trailer, Crc32.HashToUInt32(content));
        BinaryPrimitives.WriteUInt32LittleEndian(trailer.AsSpan(4), (uint)content.Length);
        return trailer;
    }

    /// <summary>Bytes of a gzip header (RFC 1952, section 2.3) that stands here; 0 for none.</summary>
    public static int HeaderLength(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length < 18 || bytes[0] != 0x1F || bytes[1] != 0x8B || bytes[2] != 8 || (bytes[3] & 0xE0) != 0)
        {
            return 0;
        }
        var (flags, at) = (bytes[3], 10);
        if ((flags & 4) != 0)
        {
            at += 2 + BinaryPrimitives.ReadUInt16LittleEndian(bytes[at..]);
        }
        for (var text = 8; text <= 16; text <<= 1)
        {
            if ((flags & text) == 0)
            {
                continue;
            }
            var end = at < bytes.Length ? bytes[at..].IndexOf((byte)0) : -1;
            if (end < 0)
            {
                return 0;
            }
            at += end + 1;
        }
        at += (flags & 2) != 0 ? 2 : 0;
        return at < bytes.Length ? at : 0;
    }
}
