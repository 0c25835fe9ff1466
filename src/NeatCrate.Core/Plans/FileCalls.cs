using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace NeatCrate.Core.Plans;

/// <summary>
/// The few calls of the operating system that .NET does not offer: renaming that never overwrites, swapping two
/// files in one instant, and flushing a folder (renameat2(2), fsync(2), posix_fadvise(2)).
/// </summary>
internal static partial class FileCalls
{
    private const int CurrentFolder = -100;
    private const uint NoReplace = 1;
    private const uint Exchange = 2;
    private const int FileExists = 17;
    private const int InvalidArgument = 22;
    private const int NotSupported = 95;
    private const int NotImplemented = 38;
    private const int OpenDirectory = 0x10000;
    private const int OpenCloseOnExec = 0x80000;
    private const int DropFromCache = 4;

    /// <summary>Renames a file to a name that is free. Nothing is ever overwritten.</summary>
    /// <exception cref="IOException">The name is taken, or the file system refuses.</exception>
    public static void RenameToFreeName(string from, string to)
    {
        if (RenameAt2(CurrentFolder, from, CurrentFolder, to, NoReplace) == 0)
        {
            return;
        }
        var error = Marshal.GetLastPInvokeError();
        if (error is InvalidArgument or NotSupported or NotImplemented)
        {
            // Some network file systems lack the flag; a hard link refuses a taken name just as surely.
            if (Link(from, to) == 0)
            {
                File.Delete(from);
                return;
            }
            error = Marshal.GetLastPInvokeError();
        }
        throw error == FileExists
            ? new IOException($"There is a file named '{Path.GetFileName(to)}' already.")
            : Failure($"'{Path.GetFileName(from)}' cannot be named '{Path.GetFileName(to)}'", error);
    }

    /// <summary>Swaps two files in one instant: at no time is either name without its file.</summary>
    /// <returns>False where the file system cannot do that; nothing has changed then.</returns>
    /// <exception cref="IOException">One of the files is not there, or the file system refuses.</exception>
    public static bool TrySwap(string one, string other)
    {
        if (RenameAt2(CurrentFolder, one, CurrentFolder, other, Exchange) == 0)
        {
            return true;
        }
        var error = Marshal.GetLastPInvokeError();
        return error is InvalidArgument or NotSupported or NotImplemented
            ? false
            : throw Failure($"'{Path.GetFileName(other)}' cannot be replaced", error);
    }

    /// <summary>Makes a folder's entries safe against a power cut.</summary>
    public static void FlushFolder(string folder)
    {
        var descriptor = Open(folder, OpenDirectory | OpenCloseOnExec);
        if (descriptor < 0)
        {
            throw Failure($"The folder '{folder}' cannot be opened", Marshal.GetLastPInvokeError());
        }
        try
        {
            if (FSync(descriptor) != 0)
            {
                var error = Marshal.GetLastPInvokeError();
                // Some file systems flush folders by themselves and refuse to be asked.
                if (error != InvalidArgument)
                {
                    throw Failure($"The folder '{folder}' cannot be flushed to disk", error);
                }
            }
        }
        finally
        {
            _ = Close(descriptor);
        }
    }

    /// <summary>The nearest folder above a path that is there.</summary>
    public static string ExistingParent(string path)
    {
        var parent = Path.GetDirectoryName(path)!;
        while (!Directory.Exists(parent))
        {
            parent = Path.GetDirectoryName(parent)!;
        }
        return parent;
    }

    /// <summary>Asks the system to forget what it holds of a file in memory, so that reading it back reads the disk. A wish, not an order.</summary>
    public static void DropCached(SafeFileHandle handle) => _ = Advise(handle, 0, 0, DropFromCache);

    private static IOException Failure(string what, int error) => new($"{what}: {Marshal.GetPInvokeErrorMessage(error)}.");

    [LibraryImport("libc", EntryPoint = "renameat2", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int RenameAt2(int fromFolder, string from, int toFolder, string to, uint flags);

    [LibraryImport("libc", EntryPoint = "link", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Link(string from, string to);

    [LibraryImport("libc", EntryPoint = "open", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Open(string path, int flags);

    [LibraryImport("libc", EntryPoint = "close", SetLastError = true)]
    private static partial int Close(int descriptor);

    [LibraryImport("libc", EntryPoint = "fsync", SetLastError = true)]
    private static partial int FSync(int descriptor);

    [LibraryImport("libc", EntryPoint = "posix_fadvise")]
    private static partial int Advise(SafeFileHandle handle, long offset, long length, int advice);
}
