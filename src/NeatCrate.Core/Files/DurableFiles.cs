using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>The durable layer on real disks.</summary>
public sealed class DurableFiles : IDurableFiles
{
    private const uint FolderMode = 0x1FF;

    /// <inheritdoc/>
    public FileFacts? Look(string path) => FileFacts.Of(path);

    /// <inheritdoc/>
    public FileFacts? LookAtName(string path) => FileFacts.OfName(path);

    /// <inheritdoc/>
    public IReadOnlyList<string> Names(string folder) =>
        Directory.Exists(folder) ? [.. Directory.EnumerateFileSystemEntries(folder).Select(e => Path.GetFileName(e))] : [];

    /// <inheritdoc/>
    public SourceFile OpenSource(string path) => new Source(path);

    /// <inheritdoc/>
    public WritableFile CreateNew(string path, long bytes) => new Writable(path, bytes);

    /// <inheritdoc/>
    public void MakeFolder(string path)
    {
        if (SystemCalls.MakeFolder(path, FolderMode) != 0)
        {
            throw Failure(Marshal.GetLastPInvokeError(), path);
        }
    }

    /// <inheritdoc/>
    public long? FolderTime(string folder) => FileFacts.FolderTimeOf(folder);

    /// <inheritdoc/>
    public void SetFolderTime(string folder, long nanoseconds)
    {
        var (seconds, rest) = (Math.DivRem(nanoseconds, 1_000_000_000, out var left), left);
        // struct timespec, twice: the time of the last access stays, that of the last change is set.
        ReadOnlySpan<long> times = [0, SystemCalls.OmitTime, rest < 0 ? seconds - 1 : seconds, rest < 0 ? rest + 1_000_000_000 : rest];
        if (SystemCalls.SetTimes(SystemCalls.CurrentFolder, folder, times, 0) != 0)
        {
            throw Failure(Marshal.GetLastPInvokeError(), folder);
        }
    }

    /// <inheritdoc/>
    public void SetFolderMode(string folder, int mode)
    {
        // FAT and exFAT have no modes and refuse; nothing is lost where none was.
        _ = SystemCalls.SetModeOf(folder, (uint)(mode & 0xFFF));
    }

    /// <inheritdoc/>
    public bool RemoveFolder(string path)
    {
        if (SystemCalls.RemoveFolder(path) == 0)
        {
            return true;
        }
        var error = Marshal.GetLastPInvokeError();
        return error is SystemCalls.NotEmpty or SystemCalls.FileExists or SystemCalls.NoSuchEntry or SystemCalls.NotAFolder ? false : throw Failure(error, path);
    }

    /// <inheritdoc/>
    public void Remove(string path)
    {
        if (SystemCalls.Unlink(path) != 0)
        {
            throw Failure(Marshal.GetLastPInvokeError(), path);
        }
    }

    /// <inheritdoc/>
    public void RenameToFreeName(string path, string freeName)
    {
        if (SystemCalls.Rename(SystemCalls.CurrentFolder, path, SystemCalls.CurrentFolder, freeName, SystemCalls.NoReplace) == 0)
        {
            return;
        }
        var error = Marshal.GetLastPInvokeError();
        if (error is SystemCalls.InvalidArgument or SystemCalls.NotSupported or SystemCalls.NotImplemented)
        {
            // Some network file systems lack the flag; a hard link refuses a taken name just as surely.
            if (SystemCalls.Link(path, freeName) == 0)
            {
                Remove(path);
                return;
            }
            error = Marshal.GetLastPInvokeError();
            if (HasNoLinks(error))
            {
                TakeNameAndRename(path, freeName);
                return;
            }
        }
        throw Failure(error, error == SystemCalls.NoSuchEntry ? path : freeName);
    }

    /// <summary>
    /// Where a file system knows neither the flag nor links, as exFAT and FAT through FUSE: the free name is taken first, by something empty
    /// that only comes to be where nothing stands, and then replaced by what is renamed. A power cut between the two leaves what is empty.
    /// </summary>
    /// <param name="path">Absolute path of a file or a folder.</param>
    /// <param name="freeName">The absolute path that it gets, in the same file system.</param>
    /// <exception cref="FaultException">The name is taken (<see cref="FaultCode.NameTaken"/>), or the system refuses; then everything is as it was.</exception>
    public static void TakeNameAndRename(string path, string freeName)
    {
        var isFolder = FileFacts.OfName(path) is { Kind: EntryKind.Folder };
        if (isFolder)
        {
            if (SystemCalls.MakeFolder(freeName, FolderMode) != 0)
            {
                throw Failure(Marshal.GetLastPInvokeError(), freeName);
            }
        }
        else
        {
            try
            {
                File.OpenHandle(freeName, FileMode.CreateNew, FileAccess.Write).Dispose();
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                throw WriteFailure(e, freeName);
            }
        }
        if (SystemCalls.Rename(SystemCalls.CurrentFolder, path, SystemCalls.CurrentFolder, freeName, 0) != 0)
        {
            var error = Marshal.GetLastPInvokeError();
            _ = isFolder ? SystemCalls.RemoveFolder(freeName) : SystemCalls.Unlink(freeName);
            throw Failure(error, error == SystemCalls.NoSuchEntry ? path : freeName);
        }
    }

    /// <summary>True for what FAT, exFAT and some network drives say of a hard link.</summary>
    private static bool HasNoLinks(int error) => error is SystemCalls.NotPermitted or SystemCalls.NotSupported or SystemCalls.NotImplemented or SystemCalls.TooManyLinks;

    /// <inheritdoc/>
    public bool TryLink(string path, string freeName)
    {
        if (SystemCalls.Link(path, freeName) == 0)
        {
            return true;
        }
        return Marshal.GetLastPInvokeError() is var error && HasNoLinks(error)
            ? false
            : throw Failure(error, error == SystemCalls.NoSuchEntry ? path : freeName);
    }

    /// <inheritdoc/>
    public bool TrySwap(string one, string other)
    {
        if (SystemCalls.Rename(SystemCalls.CurrentFolder, one, SystemCalls.CurrentFolder, other, SystemCalls.Exchange) == 0)
        {
            return true;
        }
        var error = Marshal.GetLastPInvokeError();
        return error is SystemCalls.InvalidArgument or SystemCalls.NotSupported or SystemCalls.NotImplemented ? false : throw Failure(error, other);
    }

    /// <inheritdoc/>
    public void FlushFolder(string folder)
    {
        var descriptor = SystemCalls.Open(folder, SystemCalls.OpenDirectory | SystemCalls.OpenCloseOnExec);
        if (descriptor < 0)
        {
            throw Failure(Marshal.GetLastPInvokeError(), folder);
        }
        try
        {
            // Some file systems flush folders by themselves and refuse to be asked.
            if (SystemCalls.Flush(descriptor) != 0 && Marshal.GetLastPInvokeError() is var error and not SystemCalls.InvalidArgument)
            {
                throw Failure(error, folder);
            }
        }
        finally
        {
            _ = SystemCalls.Close(descriptor);
        }
    }

    /// <inheritdoc/>
    public IDisposable? TryLock(string path)
    {
        try
        {
            return File.Open(path, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (IOException e) when (e.HResult == SystemCalls.TryAgain)
        {
            return null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw WriteFailure(e, path);
        }
    }

    /// <inheritdoc/>
    public long FreeBytes(string folder)
    {
        try
        {
            return new DriveInfo(folder).AvailableFreeSpace;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new FaultException(new Fault(FaultCode.RootGone) { Path = folder, Detail = e.Message }, e);
        }
    }

    /// <inheritdoc/>
    public string Real(string path) => RealPath.Of(path);

    /// <summary>Of what is being changed, an error that nobody foresaw is one of writing.</summary>
    private static FaultException Failure(int error, string path)
    {
        var failure = ReadableFile.Failure(error, path);
        return failure.Fault.Code == FaultCode.CannotRead ? new FaultException(failure.Fault with { Code = FaultCode.CannotWrite }) : failure;
    }

    /// <summary>On Linux, .NET gives the system's own number as the exception's result.</summary>
    private static FaultException WriteFailure(Exception cause, string path) => new(
        new Fault(cause switch
        {
            UnauthorizedAccessException => FaultCode.NotAllowed,
            IOException when cause.HResult is SystemCalls.NoSpace or SystemCalls.QuotaExceeded => FaultCode.NoSpace,
            IOException when cause.HResult == SystemCalls.FileTooLarge => FaultCode.TooLargeForDrive,
            IOException when cause.HResult == SystemCalls.ReadOnly => FaultCode.ReadOnlyDrive,
            IOException when cause.HResult == SystemCalls.FileExists => FaultCode.NameTaken,
            _ => FaultCode.CannotWrite,
        })
        {
            Path = path,
            Detail = cause.Message,
        },
        cause);

    private sealed class Source(string path) : SourceFile
    {
        private readonly SafeFileHandle _handle = ReadableFile.Open(path);

        public override FileFacts Facts => ReadableFile.FactsOf(_handle) ?? throw new FaultException(FaultCode.CannotRead, path);

        public override int Read(Span<byte> buffer, long offset) => ReadableFile.Read(_handle, path, buffer, offset);

        protected override void Dispose(bool disposing)
        {
            _handle.Dispose();
            base.Dispose(disposing);
        }
    }

    private sealed class Writable : WritableFile
    {
        // So much is handed to the disk at a time while more is written, so that the flush at the end has little left to wait for.
        private const int HandedOver = 8 * 1024 * 1024;

        private readonly string _path;
        private readonly SafeFileHandle _handle;
        private long _handedTo;

        public Writable(string path, long bytes)
        {
            _path = path;
            try
            {
                _handle = File.OpenHandle(path, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.Read);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                throw WriteFailure(e, path);
            }
            if (bytes > 0)
            {
                SetApart(bytes);
            }
        }

        /// <summary>Sets space apart. The file is as long as that from then on, so whoever writes less cuts it.</summary>
        private void SetApart(long bytes)
        {
            var error = SystemCalls.Allocate(_handle, 0, bytes);
            // A file system that cannot set space apart finds out while it is written.
            if (error is 0 or SystemCalls.NotSupported or SystemCalls.InvalidArgument)
            {
                return;
            }
            _handle.Dispose();
            _ = SystemCalls.Unlink(_path);
            throw Failure(error, _path);
        }

        public override void Write(ReadOnlySpan<byte> bytes, long offset)
        {
            try
            {
                RandomAccess.Write(_handle, bytes, offset);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                throw WriteFailure(e, _path);
            }
            if (offset + bytes.Length - _handedTo >= HandedOver)
            {
                // A hint: whatever becomes of it, the flush answers for all of it.
                _ = SystemCalls.BeginWriting(_handle, _handedTo, offset + bytes.Length - _handedTo, SystemCalls.WriteRange);
                _handedTo = offset + bytes.Length;
            }
        }

        public override int Read(Span<byte> buffer, long offset) => ReadableFile.Read(_handle, _path, buffer, offset);

        public override void SetLength(long bytes)
        {
            try
            {
                RandomAccess.SetLength(_handle, bytes);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                throw WriteFailure(e, _path);
            }
        }

        public override void SetModified(DateTime utc, int rest)
        {
            var (seconds, ticks) = Math.DivRem((utc - DateTime.UnixEpoch).Ticks, TimeSpan.TicksPerSecond);
            if (ticks < 0)
            {
                (seconds, ticks) = (seconds - 1, ticks + TimeSpan.TicksPerSecond);
            }
            // struct timespec, twice: the time of the last access stays, that of the last change is set.
            if (SystemCalls.SetTimesOf(_handle, [0, SystemCalls.OmitTime, seconds, (ticks * 100) + rest]) != 0)
            {
                throw Failure(Marshal.GetLastPInvokeError(), _path);
            }
        }

        public override void SetMode(int mode)
        {
            // FAT and exFAT have no modes and refuse; nothing is lost where none was.
            _ = SystemCalls.SetMode(_handle, (uint)(mode & 0xFFF));
        }

        public override void Flush()
        {
            try
            {
                RandomAccess.FlushToDisk(_handle);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                throw WriteFailure(e, _path);
            }
            _ = SystemCalls.Advise(_handle, 0, 0, SystemCalls.DropFromCache);
        }

        protected override void Dispose(bool disposing)
        {
            _handle.Dispose();
            base.Dispose(disposing);
        }
    }
}
