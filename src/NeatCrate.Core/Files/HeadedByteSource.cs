using System.Buffers;

namespace NeatCrate.Core.Files;

/// <summary>A source whose head, where nearly all headers end, is read once: that spares a call of the operating system for every chunk.</summary>
internal abstract class HeadedByteSource : ByteSource
{
    private const int HeadBytes = 4096;

    private readonly byte[] _head = ArrayPool<byte>.Shared.Rent(HeadBytes);
    private int _headLength;
    private bool _isClosed;

    /// <inheritdoc/>
    public override int Read(long offset, Span<byte> buffer)
    {
        if (offset < 0 || offset >= Length)
        {
            return 0;
        }
        if (offset + buffer.Length <= _headLength)
        {
            _head.AsSpan((int)offset, buffer.Length).CopyTo(buffer);
            return buffer.Length;
        }
        return ReadAll(offset, buffer[..(int)Math.Min(buffer.Length, Length - offset)]);
    }

    /// <summary>Reads the head; called once, when the length is known.</summary>
    protected void ReadHead() => _headLength = ReadAll(0, _head.AsSpan(0, (int)Math.Min(HeadBytes, Length)));

    /// <summary>Reads what one call gives; 0 at the end.</summary>
    protected abstract int ReadOnce(long offset, Span<byte> buffer);

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        if (!_isClosed)
        {
            _isClosed = true;
            ArrayPool<byte>.Shared.Return(_head);
        }
        base.Dispose(disposing);
    }

    private int ReadAll(long offset, Span<byte> buffer)
    {
        var total = 0;
        while (total < buffer.Length)
        {
            var read = ReadOnce(offset + total, buffer[total..]);
            if (read == 0)
            {
                break;
            }
            total += read;
        }
        return total;
    }
}
