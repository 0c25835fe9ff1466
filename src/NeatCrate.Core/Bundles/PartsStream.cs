using System.Globalization;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Bundles;

/// <summary>A file that is written as numbered parts of one size, of which the last may be smaller. One can go back in it to what was written.</summary>
/// <param name="context">The step.</param>
/// <param name="path">Absolute path of the whole, to which the numbers are added: .001, .002 and so on.</param>
/// <param name="partBytes">Bytes of a part.</param>
internal sealed class PartsStream(StepContext context, string path, long partBytes) : Stream
{
    private readonly List<StagedFile> _parts = [];
    private long _length;

    /// <inheritdoc/>
    public override long Length => _length;

    /// <inheritdoc/>
    public override long Position { get; set; }

    /// <inheritdoc/>
    public override bool CanRead => false;

    /// <inheritdoc/>
    public override bool CanSeek => true;

    /// <inheritdoc/>
    public override bool CanWrite => true;

    /// <summary>The path of a part, the first being 0.</summary>
    public static string PathOf(string path, int part) => string.Create(CultureInfo.InvariantCulture, $"{path}.{part + 1:000}");

    /// <inheritdoc/>
    public override void Write(ReadOnlySpan<byte> buffer)
    {
        while (buffer.Length > 0)
        {
            var (part, at) = ((int)(Position / partBytes), Position % partBytes);
            if (part == _parts.Count)
            {
                _parts.Add(new StagedFile(context, PathOf(path, part), 0, inOrder: false));
            }
            var here = buffer[..(int)Math.Min(buffer.Length, partBytes - at)];
            _parts[part].Position = at;
            _parts[part].Write(here);
            Position += here.Length;
            _length = Math.Max(_length, Position);
            buffer = buffer[here.Length..];
        }
    }

    /// <inheritdoc/>
    public override void Write(byte[] buffer, int offset, int count) => Write(buffer.AsSpan(offset, count));

    /// <summary>Flushes all parts, and reads them back.</summary>
    /// <returns>What each is.</returns>
    public List<(string Path, ByteIdentity Written)> Finish() => [.. _parts.Select((p, n) => (PathOf(path, n), p.Finish(default)))];

    /// <inheritdoc/>
    public override void Flush()
    {
    }

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) => Position = origin switch
    {
        SeekOrigin.Begin => offset,
        SeekOrigin.Current => Position + offset,
        _ => _length + offset,
    };

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        _parts.ForEach(p => p.Dispose());
        base.Dispose(disposing);
    }
}

/// <summary>Parts of one file, read one behind the other.</summary>
/// <param name="parts">What is read, in order, with its bytes. It is closed with this.</param>
internal sealed class JoinedStream(IReadOnlyList<Stream> parts) : Stream
{
    private readonly long[] _starts = [.. parts.Select((_, n) => parts.Take(n).Sum(p => p.Length))];

    /// <inheritdoc/>
    public override long Length { get; } = parts.Sum(p => p.Length);

    /// <inheritdoc/>
    public override long Position { get; set; }

    /// <inheritdoc/>
    public override bool CanRead => true;

    /// <inheritdoc/>
    public override bool CanSeek => true;

    /// <inheritdoc/>
    public override bool CanWrite => false;

    /// <inheritdoc/>
    public override int Read(Span<byte> buffer)
    {
        if (Position >= Length || buffer.Length == 0)
        {
            return 0;
        }
        var found = Array.BinarySearch(_starts, Position);
        var part = found >= 0 ? found : ~found - 1;
        // An empty part begins where the next one does.
        while (Position - _starts[part] >= parts[part].Length)
        {
            part++;
        }
        parts[part].Position = Position - _starts[part];
        var count = parts[part].Read(buffer);
        Position += count;
        return count;
    }

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) => Position = origin switch
    {
        SeekOrigin.Begin => offset,
        SeekOrigin.Current => Position + offset,
        _ => Length + offset,
    };

    /// <inheritdoc/>
    public override void Flush()
    {
    }

    /// <inheritdoc/>
    public override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        foreach (var part in parts)
        {
            part.Dispose();
        }
        base.Dispose(disposing);
    }
}
