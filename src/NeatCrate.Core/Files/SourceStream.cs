namespace NeatCrate.Core.Files;

/// <summary>A file of the durable layer as a stream to read from.</summary>
/// <param name="file">The file.</param>
/// <param name="path">Its path, for whoever is told of a failure.</param>
/// <param name="length">So many bytes of it, from its beginning.</param>
/// <param name="ownsFile">True where closing the stream closes the file.</param>
internal sealed class SourceStream(SourceFile file, string path, long length, bool ownsFile = false) : Stream
{
    /// <inheritdoc/>
    public override bool CanRead => true;

    /// <inheritdoc/>
    public override bool CanSeek => true;

    /// <inheritdoc/>
    public override bool CanWrite => false;

    /// <inheritdoc/>
    public override long Length => length;

    /// <inheritdoc/>
    public override long Position { get; set; }

    /// <inheritdoc/>
    public override int Read(Span<byte> buffer)
    {
        if (Position >= length || buffer.Length == 0)
        {
            return 0;
        }
        var count = file.ReadSource(path, buffer[..(int)Math.Min(buffer.Length, length - Position)], Position);
        Position += count;
        return count;
    }

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) =>
        Position = origin switch { SeekOrigin.Begin => offset, SeekOrigin.Current => Position + offset, _ => length + offset };

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
        if (ownsFile)
        {
            file.Dispose();
        }
        base.Dispose(disposing);
    }
}
