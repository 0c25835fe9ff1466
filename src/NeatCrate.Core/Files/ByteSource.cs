using Microsoft.Win32.SafeHandles;

namespace NeatCrate.Core.Files;

/// <summary>Random access to the bytes of a media file, so that a header reader never needs the whole file.</summary>
public abstract class ByteSource : IDisposable
{
    /// <summary>Length of the whole source in bytes.</summary>
    public abstract long Length { get; }

    /// <summary>Reads up to <paramref name="buffer"/>.Length bytes at <paramref name="offset"/>; fewer only at the end.</summary>
    public abstract int Read(long offset, Span<byte> buffer);

    /// <summary>Opens a file for reading; other programs may go on reading and writing it.</summary>
    public static ByteSource OpenFile(string path) => new FileSource(path);

    /// <summary>Wraps bytes in memory.</summary>
    public static ByteSource FromMemory(ReadOnlyMemory<byte> bytes) => new MemorySource(bytes);

    /// <summary>True when the whole buffer could be filled from <paramref name="offset"/>.</summary>
    public bool TryFill(long offset, Span<byte> buffer) => Read(offset, buffer) == buffer.Length;

    /// <inheritdoc/>
    public void Dispose()
    {
        Dispose(true);
        GC.SuppressFinalize(this);
    }

    /// <summary>Releases what the source holds.</summary>
    protected virtual void Dispose(bool disposing)
    {
    }

    private sealed class FileSource : HeadedByteSource
    {
        private readonly SafeFileHandle _handle;

        public FileSource(string path)
        {
            _handle = ReadableFile.Open(path);
            try
            {
                Length = RandomAccess.GetLength(_handle);
                ReadHead();
            }
            catch
            {
                Dispose(true);
                throw;
            }
        }

        public override long Length { get; }

        protected override int ReadOnce(long offset, Span<byte> buffer) => RandomAccess.Read(_handle, buffer, offset);

        protected override void Dispose(bool disposing)
        {
            _handle.Dispose();
            base.Dispose(disposing);
        }
    }

    private sealed class MemorySource(ReadOnlyMemory<byte> bytes) : ByteSource
    {
        public override long Length => bytes.Length;

        public override int Read(long offset, Span<byte> buffer)
        {
            if (offset < 0 || offset >= bytes.Length)
            {
                return 0;
            }
            var count = (int)Math.Min(buffer.Length, bytes.Length - offset);
            bytes.Span.Slice((int)offset, count).CopyTo(buffer);
            return count;
        }
    }
}
