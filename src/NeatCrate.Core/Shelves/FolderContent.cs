using System.Buffers;
using System.Buffers.Binary;
using System.IO.Hashing;
using System.Runtime.InteropServices;
using System.Text;

namespace NeatCrate.Core.Shelves;

/// <summary>A regular file as its folder tells of it, unopened.</summary>
/// <param name="Name">Its name; for one whose bytes are no valid text, with those bytes written as <c>\xE4</c>.</param>
/// <param name="Bytes">Size in bytes.</param>
/// <param name="ChangedUtc">Time of the last change.</param>
/// <param name="Number">Its number on its drive (inode), by which a file that took another one's place is told from it.</param>
/// <param name="NameIsText">False where the name is no valid UTF-8, so that the file cannot be opened by it.</param>
public readonly record struct FolderFile(string Name, long Bytes, DateTime ChangedUtc, long Number, bool NameIsText);

/// <summary>
/// What stands in one folder, read in as few calls of the operating system as it takes: getdents64(2) for the names, and
/// one statx(2) for each file. Links are never followed; hidden entries, pipes and devices are left out.
/// </summary>
internal sealed partial class FolderContent
{
    private const int OpenDirectory = 0x10000;
    private const int OpenCloseOnExec = 0x80000;
    private const int OpenNoFollow = 0x20000;
    private const int EntryBufferBytes = 64 * 1024;
    private const int StatBytes = 256;
    private const int NoFollow = 0x100;
    private const int EmptyPath = 0x1000;
    private const uint BasicMask = 0x1 | 0x40 | 0x100 | 0x200;
    private const int TypeMask = 0xF000;
    private const int RegularType = 0x8000;
    private const int FolderType = 0x4000;
    private const byte EntryUnknown = 0;
    private const byte EntryFolder = 4;
    private const byte EntryRegular = 8;
    private const int LinkLoop = 40;
    private const int NotAFolder = 20;

    private static readonly UTF8Encoding StrictUtf8 = new(false, true);

    private FolderContent(ulong drive, ulong number) => (Drive, Number) = (drive, number);

    /// <summary>The drive that the folder is on.</summary>
    public ulong Drive { get; }

    /// <summary>The folder's own number on its drive.</summary>
    public ulong Number { get; }

    /// <summary>Its files.</summary>
    public List<FolderFile> Files { get; } = [];

    /// <summary>Names of the folders in it.</summary>
    public List<string> Folders { get; } = [];

    /// <summary>Folders in it whose names are no valid text, so that they cannot be opened by them.</summary>
    public List<string> UnopenableFolders { get; } = [];

    /// <summary>Changes with every file that comes, goes or changes, whatever order the entries come in.</summary>
    public UInt128 Fingerprint { get; private set; }

    /// <summary>Reads a folder.</summary>
    /// <param name="path">Absolute path.</param>
    /// <param name="followLink">Whether the folder itself may be a link, as the top of a shelf may.</param>
    /// <exception cref="IOException">The folder cannot be opened or read. The message is meant for the user.</exception>
    public static FolderContent Read(string path, bool followLink = false)
    {
        var folder = Open(path, OpenDirectory | OpenCloseOnExec | (followLink ? 0 : OpenNoFollow));
        if (folder < 0)
        {
            throw Failure(Marshal.GetLastPInvokeError());
        }
        var buffer = ArrayPool<byte>.Shared.Rent(EntryBufferBytes);
        try
        {
            Span<byte> stat = stackalloc byte[StatBytes];
            if (StatX(folder, [0], EmptyPath, BasicMask, stat) != 0)
            {
                throw Failure(Marshal.GetLastPInvokeError());
            }
            var content = new FolderContent(Stat.Drive(stat), Stat.Number(stat));
            while (true)
            {
                var read = GetEntries(folder, buffer, EntryBufferBytes);
                if (read < 0)
                {
                    throw Failure(Marshal.GetLastPInvokeError());
                }
                if (read == 0)
                {
                    return content;
                }
                content.Take(folder, buffer.AsSpan(0, (int)read), stat);
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
            _ = Close(folder);
        }
    }

    /// <summary>struct linux_dirent64: the record's length at 16, the type at 18, the name from 19, ended by a zero byte.</summary>
    private void Take(int folder, ReadOnlySpan<byte> entries, Span<byte> stat)
    {
        while (entries.Length > 19)
        {
            var length = BinaryPrimitives.ReadUInt16LittleEndian(entries[16..]);
            var type = entries[18];
            var name = entries[19..length];
            var end = name.IndexOf((byte)0);
            entries = entries[length..];
            // What begins with a dot is hidden; the folder itself and the one above it are among these.
            if (end <= 0 || name[0] == (byte)'.' || type is not (EntryUnknown or EntryFolder or EntryRegular))
            {
                continue;
            }
            if (type == EntryFolder)
            {
                TakeFolder(name[..end]);
            }
            else if (StatX(folder, name[..(end + 1)], NoFollow, BasicMask, stat) == 0)
            {
                // A file that has just gone is one that is not there.
                TakeStat(name[..end], stat);
            }
        }
    }

    private void TakeFolder(ReadOnlySpan<byte> name)
    {
        if (Text(name) is { } text)
        {
            Folders.Add(text);
        }
        else
        {
            UnopenableFolders.Add(Escaped(name));
        }
    }

    private void TakeStat(ReadOnlySpan<byte> name, ReadOnlySpan<byte> stat)
    {
        switch (Stat.Mode(stat) & TypeMask)
        {
            case FolderType:
                TakeFolder(name);
                return;
            case RegularType:
                var text = Text(name);
                Files.Add(new FolderFile(text ?? Escaped(name), Stat.Bytes(stat), Stat.ChangedUtc(stat), (long)Stat.Number(stat), text is not null));
                // A sum does not mind the order, and names in one folder differ.
                Fingerprint += Hash(name, stat);
                return;
        }
    }

    private static UInt128 Hash(ReadOnlySpan<byte> name, ReadOnlySpan<byte> stat)
    {
        Span<byte> all = stackalloc byte[256 + 24];
        name.CopyTo(all);
        var rest = all[name.Length..];
        BinaryPrimitives.WriteInt64LittleEndian(rest, Stat.Bytes(stat));
        BinaryPrimitives.WriteInt64LittleEndian(rest[8..], Stat.ChangedUtc(stat).Ticks);
        BinaryPrimitives.WriteUInt64LittleEndian(rest[16..], Stat.Number(stat));
        return XxHash128.HashToUInt128(all[..(name.Length + 24)]);
    }

    private static string? Text(ReadOnlySpan<byte> name)
    {
        try
        {
            return StrictUtf8.GetString(name);
        }
        catch (DecoderFallbackException)
        {
            return null;
        }
    }

    private static string Escaped(ReadOnlySpan<byte> name)
    {
        var text = new StringBuilder();
        foreach (var b in name)
        {
            _ = b is >= 0x20 and < 0x7F ? text.Append((char)b) : text.Append(System.Globalization.CultureInfo.InvariantCulture, $"\\x{b:X2}");
        }
        return text.ToString();
    }

    private static IOException Failure(int error) => new(error is LinkLoop or NotAFolder
        ? "It is no folder any more."
        : Marshal.GetPInvokeErrorMessage(error) + ".");

    /// <summary>struct statx: mode at 28, inode at 32, size at 40, time of change at 112 (seconds) and 120 (nanoseconds), drive at 136.</summary>
    private static class Stat
    {
        public static int Mode(ReadOnlySpan<byte> stat) => BinaryPrimitives.ReadUInt16LittleEndian(stat[28..]);

        public static ulong Number(ReadOnlySpan<byte> stat) => BinaryPrimitives.ReadUInt64LittleEndian(stat[32..]);

        public static long Bytes(ReadOnlySpan<byte> stat) => BinaryPrimitives.ReadInt64LittleEndian(stat[40..]);

        public static ulong Drive(ReadOnlySpan<byte> stat) => BinaryPrimitives.ReadUInt64LittleEndian(stat[136..]);

        /// <summary>In the steps of 100 ns that .NET has as well; a time that no calendar holds counts as the first one.</summary>
        public static DateTime ChangedUtc(ReadOnlySpan<byte> stat)
        {
            var seconds = BinaryPrimitives.ReadInt64LittleEndian(stat[112..]);
            var ticks = BinaryPrimitives.ReadUInt32LittleEndian(stat[120..]) / 100;
            const long EpochSeconds = 62_135_596_800;
            return seconds is > -EpochSeconds and < 253_402_300_799 ? DateTime.UnixEpoch.AddTicks((seconds * TimeSpan.TicksPerSecond) + ticks) : DateTime.UnixEpoch;
        }
    }

    [LibraryImport("libc", EntryPoint = "open", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Open(string path, int flags);

    [LibraryImport("libc", EntryPoint = "close", SetLastError = true)]
    private static partial int Close(int descriptor);

    [LibraryImport("libc", EntryPoint = "getdents64", SetLastError = true)]
    private static partial nint GetEntries(int descriptor, Span<byte> buffer, nint bytes);

    [LibraryImport("libc", EntryPoint = "statx", SetLastError = true)]
    private static partial int StatX(int folder, ReadOnlySpan<byte> name, int flags, uint mask, Span<byte> buffer);
}
