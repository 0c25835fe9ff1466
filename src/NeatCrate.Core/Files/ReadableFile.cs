using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>Opens files for reading, so that nobody waits: a pipe or a device that took a file's place is refused, not waited for.</summary>
public static class ReadableFile
{
    /// <summary>Opens a file that holds bytes; other programs may go on reading and writing it.</summary>
    /// <exception cref="FaultException">It is not there, may not be read, or is no file that holds bytes.</exception>
    public static SafeFileHandle Open(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        if (path.Contains('\0', StringComparison.Ordinal))
        {
            throw new FaultException(FaultCode.NotThere, path);
        }
        var descriptor = SystemCalls.Open(path, SystemCalls.OpenForReading | SystemCalls.OpenCloseOnExec | SystemCalls.OpenNonBlocking);
        if (descriptor < 0)
        {
            throw Failure(Marshal.GetLastPInvokeError(), path);
        }
        var handle = new SafeFileHandle(descriptor, ownsHandle: true);
        if (FactsOf(handle) is { IsRegular: true })
        {
            return handle;
        }
        handle.Dispose();
        throw new FaultException(FaultCode.NotARegularFile, path);
    }

    /// <summary>What the system knows of an open file.</summary>
    internal static FileFacts? FactsOf(SafeFileHandle handle)
    {
        Span<byte> stat = stackalloc byte[SystemCalls.StatBytes];
        return SystemCalls.Stat((int)handle.DangerousGetHandle(), [0], SystemCalls.StatEmptyPath, SystemCalls.StatMask, stat) == 0 ? FileFacts.Read(stat) : null;
    }

    /// <summary>The whole of a file in memory.</summary>
    /// <param name="path">The file.</param>
    /// <param name="mostBytes">A larger one is refused, in bytes.</param>
    /// <exception cref="FaultException">It cannot be opened or read, or is larger (<see cref="FaultCode.DocumentTooLarge"/>).</exception>
    public static byte[] ReadAll(string path, long mostBytes = int.MaxValue)
    {
        using var handle = Open(path);
        var length = RandomAccess.GetLength(handle);
        if (length > mostBytes || length > Array.MaxLength)
        {
            throw new FaultException(new Fault(FaultCode.DocumentTooLarge) { Path = path, Bytes = length });
        }
        var bytes = new byte[length];
        var done = 0;
        for (int count; done < bytes.Length && (count = Read(handle, path, bytes.AsSpan(done), done)) > 0; done += count)
        {
        }
        return done == bytes.Length ? bytes : bytes[..done];
    }

    /// <summary>Reads what one call gives; 0 at the end.</summary>
    /// <exception cref="FaultException">The drive does not give it (<see cref="FaultCode.CannotRead"/>).</exception>
    internal static int Read(SafeFileHandle handle, string path, Span<byte> buffer, long offset)
    {
        try
        {
            return RandomAccess.Read(handle, buffer, offset);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new FaultException(new Fault(FaultCode.CannotRead) { Path = path, Detail = e.Message }, e);
        }
    }

    internal static FaultException Failure(int error, string path) => new(new Fault(error switch
    {
        SystemCalls.NoSuchEntry or SystemCalls.NotAFolder => FaultCode.NotThere,
        SystemCalls.AccessDenied or SystemCalls.NotPermitted => FaultCode.NotAllowed,
        SystemCalls.FileExists => FaultCode.NameTaken,
        SystemCalls.NoSpace or SystemCalls.QuotaExceeded => FaultCode.NoSpace,
        SystemCalls.FileTooLarge => FaultCode.TooLargeForDrive,
        SystemCalls.ReadOnly => FaultCode.ReadOnlyDrive,
        SystemCalls.NotEmpty => FaultCode.FolderNotEmpty,
        SystemCalls.LinkLoop => FaultCode.LinksInCircle,
        SystemCalls.IsAFolder => FaultCode.NotARegularFile,
        _ => FaultCode.CannotRead,
    })
    {
        Path = path,
        Detail = SystemCalls.Text(error),
    });
}
