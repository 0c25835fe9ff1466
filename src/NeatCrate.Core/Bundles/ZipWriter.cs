using System.Buffers.Binary;
using System.IO.Compression;
using System.IO.Hashing;
using System.Text;

namespace NeatCrate.Core.Bundles;

/// <summary>
/// Writes a ZIP file (PKWARE APPNOTE 6.3.10): stored or deflated entries, ZIP64 where it is needed, UTF-8 names, Unix modes,
/// and times that every reader understands: local ones as ZIP always had them, and UTC in the extended timestamp (Info-ZIP,
/// extra field 0x5455), so that a file keeps its moment in another time zone.
/// </summary>
/// <param name="stream">Where to write, from its position on; it must be seekable, and is left open.</param>
internal sealed class ZipWriter(Stream stream)
{
    private const uint LocalSignature = 0x04034b50;
    private const uint CentralSignature = 0x02014b50;
    private const uint EndSignature = 0x06054b50;
    private const uint End64Signature = 0x06064b50;
    private const uint Locator64Signature = 0x07064b50;
    private const ushort Utf8Names = 1 << 11;
    private const ushort Plain = 20;
    private const ushort Zip64 = 45;
    private const ushort MadeByUnix = 3 << 8;
    private const ushort Stored = 0;
    private const ushort Deflated = 8;
    private const ushort Zip64Extra = 0x0001;
    private const ushort TimeExtra = 0x5455;
    private const uint Elsewhere = 0xFFFFFFFF;
    private const ushort ElsewhereShort = 0xFFFF;

    // Deflate makes incompressible data a little longer: from here on the entry has room for 64-bit sizes.
    private const long LargeBytes = 0xF0000000;

    // The years that the local time of ZIP can hold.
    private static readonly DateTime First = new(1980, 1, 1);
    private static readonly DateTime Last = new(2107, 12, 31, 23, 59, 58);

    private readonly List<Entry> _entries = [];

    private sealed record Entry(byte[] Name, ushort Method, DateTime ModifiedUtc, uint Attributes, long Offset, bool IsLarge)
    {
        public uint Crc { get; set; }

        public long Packed { get; set; }

        public long Bytes { get; set; }
    }

    /// <summary>Adds an entry.</summary>
    /// <param name="name">Its full name, with forward slashes.</param>
    /// <param name="modifiedUtc">Its time of the last change.</param>
    /// <param name="mode">Type and permission bits of Unix.</param>
    /// <param name="compress">Whether it is deflated.</param>
    /// <param name="bytes">About how many bytes it holds; 0 for none.</param>
    /// <param name="write">Writes its bytes.</param>
    /// <returns>Its bytes before they were deflated, and their hash (XXH128).</returns>
    public (long Bytes, UInt128 Hash) Add(string name, DateTime modifiedUtc, int mode, bool compress, long bytes, Action<Stream> write)
    {
        UInt128 hash;
        var isFolder = name.EndsWith('/');
        // Deflate makes nothing of nothing, which other readers take for damage.
        compress &= bytes > 0;
        var entry = new Entry(Encoding.UTF8.GetBytes(name), compress ? Deflated : Stored, modifiedUtc, ((uint)mode << 16) | (isFolder ? 0x10u : 0), stream.Position, bytes >= LargeBytes);
        _entries.Add(entry);
        WriteLocalHeader(entry);
        var start = stream.Position;
        using (var counted = new Counted(stream))
        {
            if (compress)
            {
                using var deflate = new DeflateStream(counted, CompressionLevel.Optimal, leaveOpen: true);
                using var tee = new Counted(deflate);
                write(tee);
                (entry.Crc, entry.Bytes, hash) = (tee.Crc, tee.Bytes, tee.Hash);
            }
            else
            {
                write(counted);
                (entry.Crc, entry.Bytes, hash) = (counted.Crc, counted.Bytes, counted.Hash);
            }
        }
        entry.Packed = stream.Position - start;
        if (!entry.IsLarge && Math.Max(entry.Packed, entry.Bytes) >= Elsewhere)
        {
            throw new InvalidDataException($"'{name}' is larger than it was said to be.");
        }
        var end = stream.Position;
        stream.Position = entry.Offset;
        WriteLocalHeader(entry);
        stream.Position = end;
        return (entry.Bytes, hash);
    }

    /// <summary>Writes the directory at the end.</summary>
    public void Finish()
    {
        var start = stream.Position;
        foreach (var entry in _entries)
        {
            WriteCentralHeader(entry);
        }
        var bytes = stream.Position - start;
        if (_entries.Count >= ElsewhereShort || start >= Elsewhere || bytes >= Elsewhere)
        {
            WriteEnd64(start, bytes);
        }
        Span<byte> end = stackalloc byte[22];
        end.Clear();
        BinaryPrimitives.WriteUInt32LittleEndian(end, EndSignature);
        BinaryPrimitives.WriteUInt16LittleEndian(end[8..], (ushort)Math.Min(_entries.Count, ElsewhereShort));
        BinaryPrimitives.WriteUInt16LittleEndian(end[10..], (ushort)Math.Min(_entries.Count, ElsewhereShort));
        BinaryPrimitives.WriteUInt32LittleEndian(end[12..], (uint)Math.Min(bytes, Elsewhere));
        BinaryPrimitives.WriteUInt32LittleEndian(end[16..], (uint)Math.Min(start, Elsewhere));
        stream.Write(end);
    }

    /// <summary>Section 4.3.7. It is written twice: with its final figures once they are known, of the same length.</summary>
    private void WriteLocalHeader(Entry entry)
    {
        Span<byte> header = stackalloc byte[30];
        BinaryPrimitives.WriteUInt32LittleEndian(header, LocalSignature);
        Common(header[4..], entry);
        BinaryPrimitives.WriteUInt32LittleEndian(header[18..], entry.IsLarge ? Elsewhere : (uint)entry.Packed);
        BinaryPrimitives.WriteUInt32LittleEndian(header[22..], entry.IsLarge ? Elsewhere : (uint)entry.Bytes);
        BinaryPrimitives.WriteUInt16LittleEndian(header[26..], (ushort)entry.Name.Length);
        var extra = Extra(entry, entry.IsLarge ? [entry.Bytes, entry.Packed] : []);
        BinaryPrimitives.WriteUInt16LittleEndian(header[28..], (ushort)extra.Length);
        stream.Write(header);
        stream.Write(entry.Name);
        stream.Write(extra);
    }

    /// <summary>Section 4.3.12.</summary>
    private void WriteCentralHeader(Entry entry)
    {
        Span<byte> header = stackalloc byte[46];
        header.Clear();
        BinaryPrimitives.WriteUInt32LittleEndian(header, CentralSignature);
        BinaryPrimitives.WriteUInt16LittleEndian(header[4..], MadeByUnix | Zip64);
        Common(header[6..], entry);
        var isFar = entry.Offset >= Elsewhere;
        BinaryPrimitives.WriteUInt32LittleEndian(header[20..], entry.IsLarge ? Elsewhere : (uint)entry.Packed);
        BinaryPrimitives.WriteUInt32LittleEndian(header[24..], entry.IsLarge ? Elsewhere : (uint)entry.Bytes);
        BinaryPrimitives.WriteUInt16LittleEndian(header[28..], (ushort)entry.Name.Length);
        long[] sizes = entry.IsLarge ? [entry.Bytes, entry.Packed] : [];
        var extra = Extra(entry, isFar ? [.. sizes, entry.Offset] : sizes);
        BinaryPrimitives.WriteUInt16LittleEndian(header[30..], (ushort)extra.Length);
        BinaryPrimitives.WriteUInt32LittleEndian(header[38..], entry.Attributes);
        BinaryPrimitives.WriteUInt32LittleEndian(header[42..], isFar ? Elsewhere : (uint)entry.Offset);
        stream.Write(header);
        stream.Write(entry.Name);
        stream.Write(extra);
    }

    /// <summary>Version, flags, method, time and CRC, which both headers have in one order.</summary>
    private static void Common(Span<byte> fields, Entry entry)
    {
        BinaryPrimitives.WriteUInt16LittleEndian(fields, entry.IsLarge ? Zip64 : Plain);
        BinaryPrimitives.WriteUInt16LittleEndian(fields[2..], Utf8Names);
        BinaryPrimitives.WriteUInt16LittleEndian(fields[4..], entry.Method);
        var local = entry.ModifiedUtc.ToLocalTime();
        local = local < First ? First : local > Last ? Last : local;
        BinaryPrimitives.WriteUInt16LittleEndian(fields[6..], (ushort)((local.Hour << 11) | (local.Minute << 5) | (local.Second / 2)));
        BinaryPrimitives.WriteUInt16LittleEndian(fields[8..], (ushort)(((local.Year - 1980) << 9) | (local.Month << 5) | local.Day));
        BinaryPrimitives.WriteUInt32LittleEndian(fields[10..], entry.Crc);
    }

    /// <summary>Section 4.5.3 for what needs 64 bits, and the extended timestamp: flag 1, seconds since 1970 in 32 bits.</summary>
    private static byte[] Extra(Entry entry, long[] large)
    {
        var seconds = new DateTimeOffset(entry.ModifiedUtc, TimeSpan.Zero).ToUnixTimeSeconds();
        var extra = new List<byte>();
        void Short(int value) => extra.AddRange([(byte)value, (byte)(value >> 8)]);
        if (large.Length > 0)
        {
            Short(Zip64Extra);
            Short(8 * large.Length);
            foreach (var value in large)
            {
                var bytes = new byte[8];
                BinaryPrimitives.WriteInt64LittleEndian(bytes, value);
                extra.AddRange(bytes);
            }
        }
        if (seconds is >= int.MinValue and <= int.MaxValue)
        {
            Short(TimeExtra);
            Short(5);
            var bytes = new byte[5];
            bytes[0] = 1;
            BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(1), (int)seconds);
            extra.AddRange(bytes);
        }
        return [.. extra];
    }

    /// <summary>Sections 4.3.14 and 4.3.15.</summary>
    private void WriteEnd64(long start, long bytes)
    {
        var at = stream.Position;
        Span<byte> end = stackalloc byte[56 + 20];
        end.Clear();
        BinaryPrimitives.WriteUInt32LittleEndian(end, End64Signature);
        BinaryPrimitives.WriteInt64LittleEndian(end[4..], 44);
        BinaryPrimitives.WriteUInt16LittleEndian(end[12..], MadeByUnix | Zip64);
        BinaryPrimitives.WriteUInt16LittleEndian(end[14..], Zip64);
        BinaryPrimitives.WriteInt64LittleEndian(end[24..], _entries.Count);
        BinaryPrimitives.WriteInt64LittleEndian(end[32..], _entries.Count);
        BinaryPrimitives.WriteInt64LittleEndian(end[40..], bytes);
        BinaryPrimitives.WriteInt64LittleEndian(end[48..], start);
        var locator = end[56..];
        BinaryPrimitives.WriteUInt32LittleEndian(locator, Locator64Signature);
        BinaryPrimitives.WriteInt64LittleEndian(locator[8..], at);
        BinaryPrimitives.WriteUInt32LittleEndian(locator[16..], 1);
        stream.Write(end);
    }

    /// <summary>Counts what passes, and reckons its CRC and its hash.</summary>
    private sealed class Counted(Stream to) : Stream
    {
        private readonly Crc32 _crc = new();
        private readonly XxHash128 _hash = new();

        public UInt128 Hash => _hash.GetCurrentHashAsUInt128();

        public uint Crc => _crc.GetCurrentHashAsUInt32();

        public long Bytes { get; private set; }

        public override bool CanRead => false;

        public override bool CanSeek => false;

        public override bool CanWrite => true;

        public override long Length => Bytes;

        public override long Position
        {
            get => Bytes;
            set => throw new NotSupportedException();
        }

        public override void Write(ReadOnlySpan<byte> buffer)
        {
            _crc.Append(buffer);
            _hash.Append(buffer);
            Bytes += buffer.Length;
            to.Write(buffer);
        }

        public override void Write(byte[] buffer, int offset, int count) => Write(buffer.AsSpan(offset, count));

        public override void Flush()
        {
        }

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();
    }
}
