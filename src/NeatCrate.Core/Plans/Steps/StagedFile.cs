using System.Buffers;
using System.IO.Hashing;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>
/// A new file under its temporary name. What is written is remembered (the head as bytes, the rest as a hash), flushed, read
/// back from the disk and compared. Beyond the head it is written in order, unless whoever writes it compares it as well.
/// </summary>
internal sealed class StagedFile : Stream, IByteSink
{
    private const int HeadBytes = 64 * 1024;
    private const int BufferBytes = 1024 * 1024;

    private readonly StepContext _context;
    private readonly string _path;
    private readonly WritableFile _file;
    private readonly byte[] _head = new byte[HeadBytes];
    private readonly XxHash128 _rest = new();
    private readonly bool _inOrder;
    private long _length;
    private long _position;

    /// <summary>Makes the file.</summary>
    /// <param name="context">The step.</param>
    /// <param name="path">Its temporary name.</param>
    /// <param name="bytes">Its size, set apart at once; 0 where it is not known.</param>
    /// <param name="inOrder">False for a file that is written here and there: then whoever wrote it compares what lies beyond the head.</param>
    public StagedFile(StepContext context, string path, long bytes, bool inOrder = true)
    {
        (_context, _path, _inOrder) = (context, path, inOrder);
        _file = context.Files.CreateNew(path, bytes);
    }

    /// <inheritdoc/>
    public override bool CanRead => false;

    /// <inheritdoc/>
    public override bool CanSeek => true;

    /// <inheritdoc/>
    public override bool CanWrite => true;

    /// <inheritdoc/>
    public override long Length => _length;

    /// <inheritdoc/>
    public override long Position
    {
        get => _position;
        set => _position = value;
    }

    /// <inheritdoc/>
    public override void Write(ReadOnlySpan<byte> buffer)
    {
        if (buffer.Length == 0)
        {
            return;
        }
        _file.Write(buffer, _position);
        var head = (int)Math.Clamp(HeadBytes - _position, 0, buffer.Length);
        buffer[..head].CopyTo(_head.AsSpan((int)Math.Min(_position, HeadBytes)));
        if (head < buffer.Length && _inOrder)
        {
            if (_position + head != Math.Max(HeadBytes, _length))
            {
                throw new InvalidOperationException("Beyond its head a staged file is written in order.");
            }
            _rest.Append(buffer[head..]);
        }
        _position += buffer.Length;
        _length = Math.Max(_length, _position);
        _context.Worked(buffer.Length);
        _context.Cancel.ThrowIfCancellationRequested();
    }

    /// <inheritdoc/>
    public override void Write(byte[] buffer, int offset, int count) => Write(buffer.AsSpan(offset, count));

    /// <inheritdoc/>
    public Stream? Seekable => _inOrder ? this : null;

    /// <inheritdoc/>
    public string Scratch(ScratchUse use) => UnwindContext.ScratchBeside(_path, use);

    /// <summary>Gives the file its time and mode, flushes it, reads it back and compares.</summary>
    /// <param name="marks">Its time and its permissions.</param>
    /// <exception cref="FaultException">What is on disk is something else (<see cref="FaultCode.ReadBackDiffers"/>).</exception>
    public ByteIdentity Finish(KeptMarks marks)
    {
        // Space that was set apart and is not needed is given back.
        _file.SetLength(_length);
        if (marks.Mode is { } bits)
        {
            _file.SetMode(bits);
        }
        if (marks.ModifiedUtc is { } time)
        {
            _file.SetModified(time, marks.ModifiedRest);
        }
        _file.Flush();
        return Compare();
    }

    private ByteIdentity Compare()
    {
        var (whole, rest) = (new XxHash128(), new XxHash128());
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            using var source = _context.Files.OpenSource(_path);
            var offset = 0L;
            for (int count; (count = source.Read(buffer.AsSpan(0, BufferBytes), offset)) > 0; offset += count)
            {
                _context.Cancel.ThrowIfCancellationRequested();
                var bytes = buffer.AsSpan(0, count);
                whole.Append(bytes);
                var head = (int)Math.Clamp(HeadBytes - offset, 0, count);
                if (head > 0 && !bytes[..head].SequenceEqual(_head.AsSpan((int)offset, head)))
                {
                    throw new FaultException(FaultCode.ReadBackDiffers, _path);
                }
                rest.Append(bytes[head..]);
                _context.Worked(count);
            }
            return offset == _length && (!_inOrder || rest.GetCurrentHashAsUInt128() == _rest.GetCurrentHashAsUInt128())
                ? new ByteIdentity(offset, whole.GetCurrentHashAsUInt128())
                : throw new FaultException(FaultCode.ReadBackDiffers, _path);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <inheritdoc/>
    public override void Flush()
    {
    }

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) => _position = origin switch
    {
        SeekOrigin.Begin => offset,
        SeekOrigin.Current => _position + offset,
        _ => _length + offset,
    };

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        _file.Dispose();
        base.Dispose(disposing);
    }
}

/// <summary>Reading whole files through the durable layer.</summary>
internal static class FilesExtensions
{
    private const int BufferBytes = 1024 * 1024;

    /// <summary>Reads a whole file and tells its identity.</summary>
    public static ByteIdentity Identify(this IDurableFiles files, string path, Action<long>? read = null, CancellationToken cancel = default)
    {
        using var source = files.OpenSource(path);
        var hash = new XxHash128();
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            var offset = 0L;
            for (int count; (count = source.Read(buffer.AsSpan(0, BufferBytes), offset)) > 0; offset += count)
            {
                cancel.ThrowIfCancellationRequested();
                hash.Append(buffer.AsSpan(0, count));
                read?.Invoke(count);
            }
            return new ByteIdentity(offset, hash.GetCurrentHashAsUInt128());
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>True when a file is there and holds exactly these bytes.</summary>
    public static bool Holds(this IDurableFiles files, string path, ByteIdentity identity) =>
        files.LookAtName(path) is { IsRegular: true } facts && facts.Bytes == identity.Bytes && files.Identify(path) == identity;

    /// <summary>The whole of a file in memory.</summary>
    public static byte[] ReadAll(this IDurableFiles files, string path)
    {
        using var source = files.OpenSource(path);
        var bytes = new byte[source.Facts.Bytes];
        var done = 0;
        for (int count; done < bytes.Length && (count = source.Read(bytes.AsSpan(done), done)) > 0; done += count)
        {
        }
        return done == bytes.Length ? bytes : bytes[..done];
    }
}
