using System.Buffers.Binary;
using System.Runtime.InteropServices;

namespace NeatCrate.Core.Media;

/// <summary>What the operating system knows of a file that .NET does not tell (statx(2)).</summary>
/// <param name="Drive">Number of the drive that it is on.</param>
/// <param name="Number">Its own number on that drive.</param>
/// <param name="IsRegular">True for a file that holds bytes; false for folders, pipes and devices, which may block for ever when opened.</param>
public readonly partial record struct FileStat(ulong Drive, ulong Number, bool IsRegular)
{
    private const int CurrentFolder = -100;
    private const uint TypeAndNumber = 0x1 | 0x100;
    private const int TypeMask = 0xF000;
    private const int RegularType = 0x8000;

    /// <summary>Looks at what a path leads to, links followed; null when nothing is there, or when its name is no valid text.</summary>
    public static FileStat? Of(string path)
    {
        // struct statx: stx_mode at 28, stx_ino at 32, stx_dev_major and stx_dev_minor at 136.
        Span<byte> buffer = stackalloc byte[256];
        buffer.Clear();
        return StatX(CurrentFolder, path, 0, TypeAndNumber, buffer) == 0
            ? new FileStat(
                BinaryPrimitives.ReadUInt64LittleEndian(buffer[136..]),
                BinaryPrimitives.ReadUInt64LittleEndian(buffer[32..]),
                (BinaryPrimitives.ReadUInt16LittleEndian(buffer[28..]) & TypeMask) == RegularType)
            : null;
    }

    /// <summary>True when two paths lead to things on one drive, where a move is a rename and space is shared.</summary>
    public static bool AreOnOneDrive(string one, string other) => Of(one) is { } here && Of(other) is { } there && here.Drive == there.Drive;

    [LibraryImport("libc", EntryPoint = "statx", StringMarshalling = StringMarshalling.Utf8)]
    private static partial int StatX(int folder, string path, int flags, uint mask, Span<byte> buffer);
}
