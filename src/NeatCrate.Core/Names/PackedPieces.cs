using System.Buffers;
using System.Buffers.Binary;
using System.IO.Compression;
using System.IO.Hashing;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Names;

/// <summary>Looks through bytes and through what is packed in them: gzip (RFC 1952) and zlib (RFC 1950) anywhere, a ZIP, an SQLite file.</summary>
internal sealed class PackedPieces(NameRuns runs, NameBounds bounds, CancellationToken cancel)
{
    private const int LeastPacked = 12;
    private const int Carried = 4096;
    private static readonly SearchValues<byte> Begins = SearchValues.Create([0x1F, 0x78]);

    /// <summary>Looks through bytes.</summary>
    /// <param name="bytes">The bytes.</param>
    /// <param name="container">What they were packed in.</param>
    /// <param name="depth">How deep they lay.</param>
    public void Look(ReadOnlyMemory<byte> bytes, string container, int depth)
    {
        cancel.ThrowIfCancellationRequested();
        if (bytes.Span.StartsWith("PK\x03\x04"u8) && LookInZip(bytes, container, depth))
        {
            return;
        }
        if (SqliteFile.Of(bytes) is { } database)
        {
            foreach (var value in database.Values(cancel))
            {
                Piece(value, Within(container, "SQLite"), depth + 1);
            }
            // What stands elsewhere in it was deleted, and may be written over at any time.
            runs.Scan(bytes.Span, 0, Within(container, "SQLite"), isLeftOver: true);
            return;
        }
        Piece(bytes, container, depth);
    }

    private static string Within(string container, string piece) => container.Length == 0 ? piece : $"{container}, {piece}";

    private void Piece(ReadOnlyMemory<byte> bytes, string container, int depth)
    {
        runs.Scan(bytes.Span, 0, container);
        if (depth >= NameBounds.MostDepth)
        {
            if (bytes.Length >= LeastPacked && HeaderOf(bytes.Span) > 0)
            {
                bounds.Stop();
            }
            return;
        }
        for (var at = 0; at <= bytes.Length - LeastPacked;)
        {
            var next = bytes.Span[at..^(LeastPacked - 1)].IndexOfAny(Begins);
            if (next < 0)
            {
                return;
            }
            at += next;
            // Most of these bytes begin nothing.
            var header = HeaderOf(bytes.Span[at..]);
            var taken = header > 0 ? Unpack(bytes[at..], header, container, depth) : 0;
            if (taken == 0 && at == 0 && header > 0)
            {
                // What begins as something packed, and is none that can be unpacked to its end, was cut off or is damaged.
                bounds.Stop();
            }
            at += Math.Max(1, taken);
        }
    }

    /// <summary>Looks through what is packed from here on; gives how many bytes that took, 0 where it does not reach its end.</summary>
    private int Unpack(ReadOnlyMemory<byte> bytes, int header, string container, int depth)
    {
        var span = bytes.Span;
        var isGzip = span[0] == 0x1F;
        cancel.ThrowIfCancellationRequested();
        if (!bounds.MayTry())
        {
            return 0;
        }
        using var packed = new MemoryStream(bytes[header..].ToArrayOrSelf(out var offset, out var length), offset, length, writable: false);
        using var inflated = new DeflateStream(packed, CompressionMode.Decompress);
        var crc = new Crc32();
        var (a, b, total) = (1u, 0u, 0L);
        var isWhole = Windows(inflated, Within(container, isGzip ? "gzip" : "zlib"), depth + 1, piece =>
        {
            total += piece.Length;
            if (isGzip)
            {
                crc.Append(piece);
            }
            else
            {
                (a, b) = Adler(piece, a, b);
            }
        });
        if (!isWhole || total == 0)
        {
            return 0;
        }
        // The stream does not say where it ended; the checksum of what came out of it stands there.
        Span<byte> end = stackalloc byte[8];
        if (isGzip)
        {
            BinaryPrimitives.WriteUInt32LittleEndian(end, crc.GetCurrentHashAsUInt32());
            BinaryPrimitives.WriteUInt32LittleEndian(end[4..], (uint)total);
        }
        else
        {
            BinaryPrimitives.WriteUInt32BigEndian(end, (b << 16) | a);
            end = end[..4];
        }
        var found = span[header..].IndexOf(end);
        return found < 0 ? 0 : header + found + end.Length;
    }

    /// <summary>Bytes of the header of something packed that begins here; 0 for none.</summary>
    private static int HeaderOf(ReadOnlySpan<byte> bytes)
    {
        var header = bytes[0] == 0x1F ? GzipMember.HeaderLength(bytes) : ZlibHeader(bytes);
        return header > 0 && bytes.Length - header >= 4 && MayBeDeflated(bytes[header..]) ? header : 0;
    }

    /// <summary>Looks through a stream, window by window; false where it is damaged before its end.</summary>
    private bool Windows(Stream stream, string container, int depth, Action<ReadOnlySpan<byte>>? seen = null)
    {
        var window = new byte[64 * 1024];
        var (filled, carried, isFirst) = (0, 0, true);
        var isWhole = true;
        while (true)
        {
            int read;
            try
            {
                read = stream.Read(window, filled, window.Length - filled);
            }
            catch (Exception e) when (e is InvalidDataException or IOException or NotSupportedException)
            {
                // What came out before is what a program that reads it would see, too.
                (read, isWhole) = (0, false);
            }
            seen?.Invoke(window.AsSpan(filled, read));
            filled += read;
            var isEnd = read == 0 || !bounds.MayUnpack(read);
            if (!isEnd && filled < window.Length)
            {
                continue;
            }
            if (!isEnd && window.Length < NameBounds.Window)
            {
                Array.Resize(ref window, window.Length * 4 <= NameBounds.Window ? window.Length * 4 : NameBounds.Window);
                continue;
            }
            if (isFirst && isEnd)
            {
                // All of it is here: what is packed in it is seen as well.
                if (filled > 0)
                {
                    Look(window.AsMemory(0, filled), container, depth);
                }
                return isWhole;
            }
            runs.Scan(window.AsSpan(0, filled), carried, container, isLeftOver: false, isEnd);
            if (isEnd)
            {
                return isWhole;
            }
            isFirst = false;
            carried = Math.Min(Carried, filled);
            window.AsSpan(filled - carried, carried).CopyTo(window);
            filled = carried;
        }
    }

    private bool LookInZip(ReadOnlyMemory<byte> bytes, string container, int depth)
    {
        try
        {
            using var stream = new MemoryStream(bytes.ToArrayOrSelf(out var offset, out var length), offset, length, writable: false);
            using var archive = new ZipArchive(stream, ZipArchiveMode.Read);
            if (depth >= NameBounds.MostDepth)
            {
                bounds.Stop();
                return true;
            }
            foreach (var entry in archive.Entries)
            {
                cancel.ThrowIfCancellationRequested();
                // Media that are packed along are no document; and an entry's own name names nothing.
                if (entry.Length == 0 || MediaFiles.KindOf(entry.Name) is not null)
                {
                    continue;
                }
                if (!bounds.MayTry())
                {
                    break;
                }
                try
                {
                    using var inflated = entry.Open();
                    var crc = new Crc32();
                    if (!Windows(inflated, Within(container, "ZIP: " + entry.FullName), depth + 1, piece => crc.Append(piece)) || crc.GetCurrentHashAsUInt32() != entry.Crc32)
                    {
                        bounds.Stop();
                    }
                }
                catch (Exception e) when (e is InvalidDataException or IOException or NotSupportedException)
                {
                    bounds.Stop();
                }
            }
            return true;
        }
        catch (Exception e) when (e is InvalidDataException or IOException or NotSupportedException or ArgumentException)
        {
            // One that was cut off: whatever can be read of it can be read as bytes.
            bounds.Stop();
            return false;
        }
    }

    /// <summary>Bytes of a zlib header (RFC 1950, section 2.2) of the usual window, without a preset dictionary; 0 for none.</summary>
    private static int ZlibHeader(ReadOnlySpan<byte> bytes) => bytes[0] == 0x78 && ((bytes[0] << 8) | bytes[1]) % 31 == 0 && (bytes[1] & 0x20) == 0 ? 2 : 0;

    /// <summary>Whether a first block of deflate can begin so (RFC 1951, section 3.2.3): most places that only look like a header are told by it.</summary>
    private static bool MayBeDeflated(ReadOnlySpan<byte> bytes)
    {
        switch ((bytes[0] >> 1) & 3)
        {
            case 0:
                // A header in the middle of a byte leaves the rest of that unused.
                return bytes.Length >= 5 && (BinaryPrimitives.ReadUInt16LittleEndian(bytes[1..]) ^ BinaryPrimitives.ReadUInt16LittleEndian(bytes[3..])) == 0xFFFF;
            case 2:
                return bytes.Length > 1 && bytes[0] >> 3 <= 29 && (bytes[1] & 31) <= 29;
            case 3:
                return false;
            default:
                return true;
        }
    }

    private static (uint A, uint B) Adler(ReadOnlySpan<byte> bytes, uint a, uint b)
    {
        const int MostAtOnce = 5552;
        while (bytes.Length > 0)
        {
            var piece = bytes[..Math.Min(MostAtOnce, bytes.Length)];
            foreach (var value in piece)
            {
                a += value;
                b += a;
            }
            (a, b) = (a % 65521, b % 65521);
            bytes = bytes[piece.Length..];
        }
        return (a, b);
    }
}
