using System.Runtime.InteropServices;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Shelves;

/// <summary>
/// A folder that is held open while the headers of its files are read: three calls of the operating system for each file
/// (openat(2), pread(2), close(2)), and no walk down the path for every one of them.
/// </summary>
internal sealed partial class OpenFolder : IDisposable
{
    private const int OpenDirectory = 0x10000;
    private const int OpenCloseOnExec = 0x80000;
    private const int OpenNoFollow = 0x20000;
    private const int OpenNonBlocking = 0x800;

    private readonly int _descriptor;

    private OpenFolder(int descriptor) => _descriptor = descriptor;

    /// <summary>Opens a folder.</summary>
    /// <exception cref="IOException">It cannot be opened.</exception>
    public static OpenFolder Open(string path)
    {
        var descriptor = OpenPath(path, OpenDirectory | OpenCloseOnExec);
        return descriptor < 0 ? throw Failure() : new OpenFolder(descriptor);
    }

    /// <summary>Opens a file of the folder. What turned into a link is refused; what turned into a pipe does not make anybody wait.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="bytes">Its size as it was told a moment ago; what is read beyond a new end is not there.</param>
    /// <exception cref="IOException">It cannot be opened.</exception>
    public ByteSource OpenFile(string name, long bytes)
    {
        var descriptor = OpenAt(_descriptor, name, OpenCloseOnExec | OpenNoFollow | OpenNonBlocking);
        return descriptor < 0 ? throw Failure() : new Source(descriptor, bytes);
    }

    /// <inheritdoc/>
    public void Dispose() => _ = Close(_descriptor);

    private static IOException Failure() => new(Marshal.GetPInvokeErrorMessage(Marshal.GetLastPInvokeError()) + ".");

    /// <summary>Reads a file by its descriptor.</summary>
    private sealed class Source : HeadedByteSource
    {
        private int _descriptor;

        public Source(int descriptor, long bytes)
        {
            (_descriptor, Length) = (descriptor, bytes);
            try
            {
                ReadHead();
            }
            catch
            {
                Dispose(true);
                throw;
            }
        }

        public override long Length { get; }

        protected override int ReadOnce(long offset, Span<byte> buffer)
        {
            var read = ReadAt(_descriptor, buffer, buffer.Length, offset);
            return read < 0 ? throw Failure() : (int)read;
        }

        protected override void Dispose(bool disposing)
        {
            if (_descriptor >= 0)
            {
                _ = Close(_descriptor);
                _descriptor = -1;
            }
            base.Dispose(disposing);
        }
    }

    [LibraryImport("libc", EntryPoint = "open", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int OpenPath(string path, int flags);

    [LibraryImport("libc", EntryPoint = "openat", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int OpenAt(int folder, string name, int flags);

    [LibraryImport("libc", EntryPoint = "pread", SetLastError = true)]
    private static partial nint ReadAt(int descriptor, Span<byte> buffer, nint bytes, long offset);

    [LibraryImport("libc", EntryPoint = "close", SetLastError = true)]
    private static partial int Close(int descriptor);
}
