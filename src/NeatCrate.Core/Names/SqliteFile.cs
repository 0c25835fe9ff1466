using System.Buffers.Binary;
using System.Text;

namespace NeatCrate.Core.Names;

/// <summary>
/// The values that stand in the tables of an SQLite file (sqlite.org, "Database File Format", sections 1 and 2), read without a lock or a
/// change: texts and blobs of the rows that are there, and none of what was deleted. Nothing in a damaged file is believed beyond its bytes.
/// </summary>
internal sealed class SqliteFile
{
    private const int HeaderBytes = 100;
    private const int MostDepth = 40;
    private const int MostValueBytes = 128 * 1024 * 1024;

    private readonly ReadOnlyMemory<byte> _bytes;
    private readonly int _pageBytes;
    private readonly int _usable;
    private long _overflowed;

    private SqliteFile(ReadOnlyMemory<byte> bytes, int pageBytes, int reserved)
    {
        (_bytes, _pageBytes, _usable) = (bytes, pageBytes, pageBytes - reserved);
    }

    /// <summary>The file; null where the bytes are none.</summary>
    public static SqliteFile? Of(ReadOnlyMemory<byte> bytes)
    {
        var span = bytes.Span;
        if (span.Length < HeaderBytes || !span.StartsWith("SQLite format 3\0"u8))
        {
            return null;
        }
        var size = BinaryPrimitives.ReadUInt16BigEndian(span[16..]) is var stated && stated == 1 ? 65536 : stated;
        return size >= 512 && (size & (size - 1)) == 0 && size - span[20] >= 480 ? new SqliteFile(bytes, size, span[20]) : null;
    }

    /// <summary>Each text and blob of each row of each table.</summary>
    /// <param name="cancel">Stops between two pages.</param>
    public IEnumerable<ReadOnlyMemory<byte>> Values(CancellationToken cancel)
    {
        var seen = new HashSet<uint>();
        // Texts are of one encoding in all of the file (section 1.3.13).
        var table = BinaryPrimitives.ReadUInt32BigEndian(_bytes.Span[56..]) switch { 2 => Encoding.Unicode.GetBytes("table"), 3 => Encoding.BigEndianUnicode.GetBytes("table"), _ => "table"u8.ToArray() };
        foreach (var row in Rows(1, seen, cancel))
        {
            // A row of the schema: type, name, table, root page, SQL.
            var columns = Columns(row.Span, row.Length);
            if (columns.Count < 4 || !row.Span.Slice(columns[0].At, columns[0].Bytes).SequenceEqual(table))
            {
                continue;
            }
            var root = Whole(row.Span, columns[3]);
            if (root is <= 1 or > uint.MaxValue)
            {
                continue;
            }
            foreach (var record in Rows((uint)root, seen, cancel))
            {
                foreach (var column in Columns(record.Span, record.Length).Where(c => c.IsText && c.Bytes > 0))
                {
                    yield return record.Slice(column.At, column.Bytes);
                }
            }
        }
    }

    private readonly record struct Column(int At, int Bytes, bool IsText);

    private static long Whole(ReadOnlySpan<byte> row, Column column)
    {
        if (column.IsText || column.Bytes is 0 or > 8)
        {
            return 0;
        }
        long value = 0;
        foreach (var part in row.Slice(column.At, column.Bytes))
        {
            value = (value << 8) | part;
        }
        return value;
    }

    /// <summary>The rows of a table, as records; those of one without row ids stand in an index.</summary>
    private IEnumerable<ReadOnlyMemory<byte>> Rows(uint root, HashSet<uint> seen, CancellationToken cancel)
    {
        var waiting = new Stack<(uint Page, int Depth)>();
        waiting.Push((root, 0));
        while (waiting.TryPop(out var next))
        {
            cancel.ThrowIfCancellationRequested();
            if (Page(next.Page) is not { } page || next.Depth > MostDepth || !seen.Add(next.Page))
            {
                continue;
            }
            var at = next.Page == 1 ? HeaderBytes : 0;
            var kind = page.Span[at];
            if (kind is not (2 or 5 or 10 or 13))
            {
                continue;
            }
            var isInterior = kind is 2 or 5;
            var cells = BinaryPrimitives.ReadUInt16BigEndian(page.Span[(at + 3)..]);
            var pointers = at + (isInterior ? 12 : 8);
            if (isInterior)
            {
                waiting.Push((BinaryPrimitives.ReadUInt32BigEndian(page.Span[(at + 8)..]), next.Depth + 1));
            }
            for (var n = 0; n < cells && pointers + (2 * n) + 2 <= page.Length; n++)
            {
                var cell = (int)BinaryPrimitives.ReadUInt16BigEndian(page.Span[(pointers + (2 * n))..]);
                if (isInterior && cell + 4 <= page.Length)
                {
                    waiting.Push((BinaryPrimitives.ReadUInt32BigEndian(page.Span[cell..]), next.Depth + 1));
                }
                if (kind != 5 && Record(page, cell + (isInterior ? 4 : 0), kind == 13) is { } record)
                {
                    yield return record;
                }
            }
        }
    }

    private ReadOnlyMemory<byte>? Page(uint number)
    {
        var at = (number - 1L) * _pageBytes;
        if (number == 0 || at + _pageBytes > _bytes.Length)
        {
            return null;
        }
        return _bytes.Slice((int)at, _pageBytes);
    }

    /// <summary>The record of a cell, with what of it stands on overflow pages; null where it makes no sense.</summary>
    private ReadOnlyMemory<byte>? Record(ReadOnlyMemory<byte> page, int at, bool hasRowId)
    {
        if (!TryVarint(page.Span, ref at, out var payload) || (hasRowId && !TryVarint(page.Span, ref at, out _)) || payload is <= 0 or > MostValueBytes)
        {
            return null;
        }
        // How much of a payload stays on its page (section 1.6).
        var most = hasRowId ? _usable - 35 : ((_usable - 12) * 64 / 255) - 23;
        var least = ((_usable - 12) * 32 / 255) - 23;
        var length = (int)payload;
        if (length <= most)
        {
            // Not as one expression: a null would become bytes of none.
            return at + length <= page.Length ? (ReadOnlyMemory<byte>?)page.Slice(at, length) : null;
        }
        var here = least + ((length - least) % (_usable - 4));
        here = here <= most ? here : least;
        // Each overflow page belongs to one record: all of them together are no larger than the file.
        if (at + here + 4 > page.Length || (_overflowed += length) > _bytes.Length)
        {
            return null;
        }
        var record = new byte[length];
        page.Slice(at, here).CopyTo(record);
        var (filled, next) = (here, BinaryPrimitives.ReadUInt32BigEndian(page.Span[(at + here)..]));
        while (filled < length)
        {
            if (Page(next) is not { } overflow)
            {
                return null;
            }
            next = BinaryPrimitives.ReadUInt32BigEndian(overflow.Span);
            var piece = Math.Min(_usable - 4, length - filled);
            overflow.Slice(4, piece).CopyTo(record.AsMemory(filled));
            filled += piece;
        }
        return record;
    }

    /// <summary>Where the columns of a record stand (section 2.1).</summary>
    private static List<Column> Columns(ReadOnlySpan<byte> record, int length)
    {
        var (columns, at) = (new List<Column>(), 0);
        if (!TryVarint(record, ref at, out var header) || header > length)
        {
            return columns;
        }
        var value = header;
        while (at < header && TryVarint(record, ref at, out var type))
        {
            var bytes = type switch
            {
                <= 4 => type,
                5 => 6,
                6 or 7 => 8,
                >= 12 => (type - 12) / 2,
                _ => 0,
            };
            if (bytes < 0 || value + bytes > length)
            {
                break;
            }
            columns.Add(new Column((int)value, (int)bytes, type >= 12));
            value += bytes;
        }
        return columns;
    }

    private static bool TryVarint(ReadOnlySpan<byte> bytes, ref int at, out long value)
    {
        value = 0;
        for (var n = 0; n < 9; n++)
        {
            if (at < 0 || at >= bytes.Length)
            {
                return false;
            }
            var part = bytes[at++];
            if (n == 8)
            {
                value = (value << 8) | part;
                return true;
            }
            value = (value << 7) | (uint)(part & 0x7F);
            if ((part & 0x80) == 0)
            {
                return true;
            }
        }
        return true;
    }
}
