using NeatCrate.Core.Files;

namespace NeatCrate.Core.Origins;

/// <summary>A file for the time of the work, written through the durable layer. It is never flushed: nothing counts on it.</summary>
internal sealed class ScratchFile(string path, IDurableFiles files) : Stream, IByteSink
{
    private readonly WritableFile _file = files.CreateNew(path, 0);
    private long _length;

    /// <inheritdoc cref="Stream.Length"/>
    public override long Length => _length;

    public override long Position { get; set; }

    public override bool CanRead => false;

    public override bool CanSeek => true;

    public override bool CanWrite => true;

    public Stream Seekable => this;

    public string Scratch(ScratchUse use) => throw new InvalidOperationException("What is made for the time of the work needs nothing else of that kind.");

    public override void Write(ReadOnlySpan<byte> buffer)
    {
        _file.Write(buffer, Position);
        Position += buffer.Length;
        _length = Math.Max(_length, Position);
    }

    public override void Write(byte[] buffer, int offset, int count) => Write(buffer.AsSpan(offset, count));

    public override long Seek(long offset, SeekOrigin origin) => Position = origin switch
    {
        SeekOrigin.Begin => offset,
        SeekOrigin.Current => Position + offset,
        _ => _length + offset,
    };

    public override void Flush()
    {
    }

    public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    protected override void Dispose(bool disposing)
    {
        _file.Dispose();
        base.Dispose(disposing);
    }
}
