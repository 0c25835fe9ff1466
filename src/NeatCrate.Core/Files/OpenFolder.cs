using System.Runtime.InteropServices;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Files;

/// <summary>
/// A folder that is held open while the headers of its files are read: three calls of the operating system for each file
/// (openat(2), pread(2), close(2)), and no walk down the path for every one of them.
/// </summary>
internal sealed class OpenFolder : IDisposable
{
    private readonly int _descriptor;

    private readonly string _path;

    private OpenFolder(int descriptor, string path) => (_descriptor, _path) = (descriptor, path);

    /// <summary>Opens a folder.</summary>
    /// <exception cref="Faults.FaultException">It cannot be opened.</exception>
    public static OpenFolder Open(string path)
    {
        var descriptor = SystemCalls.Open(path, SystemCalls.OpenDirectory | SystemCalls.OpenCloseOnExec);
        return descriptor < 0 ? throw ReadableFile.Failure(Marshal.GetLastPInvokeError(), path) : new OpenFolder(descriptor, path);
    }

    /// <summary>Opens a file of the folder. What turned into a link is refused; what turned into a pipe does not make anybody wait.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="bytes">Its size as it was told a moment ago; what is read beyond a new end is not there.</param>
    /// <exception cref="Faults.FaultException">It cannot be opened.</exception>
    public ByteSource OpenFile(string name, long bytes)
    {
        var descriptor = SystemCalls.OpenAt(_descriptor, name, SystemCalls.OpenCloseOnExec | SystemCalls.OpenNoFollow | SystemCalls.OpenNonBlocking);
        return descriptor < 0 ? throw ReadableFile.Failure(Marshal.GetLastPInvokeError(), Path.Combine(_path, name)) : new Source(descriptor, bytes, Path.Combine(_path, name));
    }

    /// <inheritdoc/>
    public void Dispose() => _ = SystemCalls.Close(_descriptor);

    /// <summary>Reads a file by its descriptor.</summary>
    private sealed class Source : HeadedByteSource
    {
        private readonly string _path;
        private int _descriptor;

        public Source(int descriptor, long bytes, string path)
        {
            (_descriptor, Length, _path) = (descriptor, bytes, path);
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
            var read = SystemCalls.ReadAt(_descriptor, buffer, buffer.Length, offset);
            return read < 0 ? throw ReadableFile.Failure(Marshal.GetLastPInvokeError(), _path) : (int)read;
        }

        protected override void Dispose(bool disposing)
        {
            if (_descriptor >= 0)
            {
                _ = SystemCalls.Close(_descriptor);
                _descriptor = -1;
            }
            base.Dispose(disposing);
        }
    }
}
