using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace NeatCrate.Core.Files;

/// <summary>
/// The calls of the operating system (Linux) that .NET does not offer, or not with what is needed here. No other file
/// declares one. Constants are those of the kernel's headers for x86-64 and arm64.
/// </summary>
internal static partial class SystemCalls
{
    public const int CurrentFolder = -100;
    public const uint NoReplace = 1;
    public const uint Exchange = 2;

    public const int OpenForReading = 0;
    public const int OpenDirectory = 0x10000;
    public const int OpenNoFollow = 0x20000;
    public const int OpenCloseOnExec = 0x80000;
    public const int OpenNonBlocking = 0x800;

    public const int NoSuchEntry = 2;
    public const int TryAgain = 11;
    public const int AccessDenied = 13;
    public const int NotPermitted = 1;
    public const int FileExists = 17;
    public const int CrossDevice = 18;
    public const int NotAFolder = 20;
    public const int IsAFolder = 21;
    public const int InvalidArgument = 22;
    public const int FileTooLarge = 27;
    public const int NoSpace = 28;
    public const int ReadOnly = 30;
    public const int TooManyLinks = 31;
    public const int NotImplemented = 38;
    public const int NotEmpty = 39;
    public const int LinkLoop = 40;
    public const int NotSupported = 95;
    public const int QuotaExceeded = 122;

    public const int StatNoFollow = 0x100;
    public const int StatEmptyPath = 0x1000;
    public const int StatBytes = 256;

    /// <summary>STATX_TYPE, MODE, MTIME, INO and SIZE.</summary>
    public const uint StatMask = 0x1 | 0x2 | 0x40 | 0x100 | 0x200;

    /// <summary>STATX_CTIME.</summary>
    public const uint StatStatusChange = 0x80;

    /// <summary>UTIME_OMIT.</summary>
    public const long OmitTime = (1L << 30) - 2;

    /// <summary>POSIX_FADV_DONTNEED.</summary>
    public const int DropFromCache = 4;

    /// <summary>SYNC_FILE_RANGE_WRITE.</summary>
    public const uint WriteRange = 2;

    /// <summary>What the system says of its last error.</summary>
    public static string Text(int error) => Marshal.GetPInvokeErrorMessage(error) + ".";

    [LibraryImport("libc", EntryPoint = "open", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int Open(string path, int flags);

    [LibraryImport("libc", EntryPoint = "openat", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int OpenAt(int folder, string name, int flags);

    [LibraryImport("libc", EntryPoint = "close", SetLastError = true)]
    public static partial int Close(int descriptor);

    [LibraryImport("libc", EntryPoint = "dup", SetLastError = true)]
    public static partial int Duplicate(int descriptor);

    [LibraryImport("libc", EntryPoint = "pread", SetLastError = true)]
    public static partial nint ReadAt(int descriptor, Span<byte> buffer, nint bytes, long offset);

    [LibraryImport("libc", EntryPoint = "fsync", SetLastError = true)]
    public static partial int Flush(int descriptor);

    [LibraryImport("libc", EntryPoint = "posix_fadvise")]
    public static partial int Advise(SafeFileHandle handle, long offset, long length, int advice);

    [LibraryImport("libc", EntryPoint = "sync_file_range")]
    public static partial int BeginWriting(SafeFileHandle handle, long offset, long length, uint flags);

    [LibraryImport("libc", EntryPoint = "posix_fallocate")]
    public static partial int Allocate(SafeFileHandle handle, long offset, long length);

    [LibraryImport("libc", EntryPoint = "fchmod")]
    public static partial int SetMode(SafeFileHandle handle, uint mode);

    [LibraryImport("libc", EntryPoint = "chmod", StringMarshalling = StringMarshalling.Utf8)]
    public static partial int SetModeOf(string path, uint mode);

    [LibraryImport("libc", EntryPoint = "utimensat", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int SetTimes(int folder, string path, ReadOnlySpan<long> times, int flags);

    [LibraryImport("libc", EntryPoint = "futimens", SetLastError = true)]
    public static partial int SetTimesOf(SafeFileHandle handle, ReadOnlySpan<long> times);

    [LibraryImport("libc", EntryPoint = "renameat2", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int Rename(int fromFolder, string from, int toFolder, string to, uint flags);

    [LibraryImport("libc", EntryPoint = "link", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int Link(string from, string to);

    [LibraryImport("libc", EntryPoint = "unlink", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int Unlink(string path);

    [LibraryImport("libc", EntryPoint = "mkdir", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int MakeFolder(string path, uint mode);

    [LibraryImport("libc", EntryPoint = "rmdir", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int RemoveFolder(string path);

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    public static partial int Stat(int folder, string path, int flags, uint mask, Span<byte> buffer);

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true)]
    public static partial int Stat(int folder, ReadOnlySpan<byte> name, int flags, uint mask, Span<byte> buffer);

    [LibraryImport("libc", EntryPoint = "getdents64", SetLastError = true)]
    public static partial nint GetEntries(int descriptor, Span<byte> buffer, nint bytes);
}
