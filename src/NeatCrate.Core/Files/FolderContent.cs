using System.Buffers;
using System.Buffers.Binary;
using System.IO.Hashing;
using System.Runtime.InteropServices;
using System.Text;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>A regular file as its folder tells of it, unopened.</summary>
/// <param name="Name">Its name; for one whose bytes are no valid text, with those bytes written as <c>\xE4</c>.</param>
/// <param name="Bytes">Size in bytes.</param>
/// <param name="ModifiedUtc">Time of the last change.</param>
/// <param name="Inode">Its number on its drive (inode), by which a file that took another one's place is told from it.</param>
/// <param name="NameIsText">False where the name is no valid UTF-8, so that the file cannot be opened by it.</param>
public readonly record struct FolderFile(string Name, long Bytes, DateTime ModifiedUtc, long Inode, bool NameIsText);

/// <summary>An entry of a folder that is no folder: a file, a link, a pipe or a device.</summary>
/// <param name="Name">Its name; for one whose bytes are no valid text, with those bytes written as <c>\xE4</c>.</param>
/// <param name="Facts">What the system knows of it, links not followed.</param>
/// <param name="NameIsText">False where the name is no valid UTF-8, so that it cannot be opened by it.</param>
internal readonly record struct FolderEntry(string Name, FileFacts Facts, bool NameIsText);

/// <summary>
/// What stands in one folder, read in as few calls of the operating system as it takes: getdents64(2) for the names, and
/// one statx(2) for each file. Links are never followed. Hidden entries, links, pipes and devices are left out, unless all
/// is asked for.
/// </summary>
internal sealed class FolderContent
{
    private readonly Func<string, ulong, bool>? _isKnown;
    private ulong _named;
    private ulong _numbered;

    private const int EntryBufferBytes = 64 * 1024;
    private const byte EntryUnknown = 0;
    private const byte EntryFolder = 4;
    private const byte EntryRegular = 8;

    private static readonly UTF8Encoding StrictUtf8 = new(false, true);

    private FolderContent(ulong device, ulong inode, Func<string, ulong, bool>? isKnown) => (Device, Inode, _isKnown) = (device, inode, isKnown);

    /// <summary>The drive that the folder is on.</summary>
    public ulong Device { get; }

    /// <summary>The folder's own number on its drive.</summary>
    public ulong Inode { get; }

    /// <summary>Its files.</summary>
    public List<FolderFile> Files { get; } = [];

    /// <summary>Where all was asked for: everything in it that is no folder, and was not known.</summary>
    public List<FolderEntry> Entries { get; } = [];

    /// <summary>Where all was asked for: names of files that were known, and not looked at.</summary>
    public List<string> KnownNames { get; } = [];

    /// <summary>Names of the folders in it.</summary>
    public List<string> Folders { get; } = [];

    /// <summary>Folders in it whose names are no valid text, so that they cannot be opened by them.</summary>
    public List<string> UnopenableFolders { get; } = [];

    /// <summary>
    /// Changes with every file that comes, goes or changes, whatever order the entries come in: by names, sizes and times in
    /// its upper half, by the files' numbers on the drive in its lower half. Some file systems (FAT, exFAT) invent those at
    /// each mount, so that all of them change while nothing else does.
    /// </summary>
    public UInt128 Fingerprint => new(_named, _numbered);

    /// <summary>Reads a folder.</summary>
    /// <param name="path">Absolute path.</param>
    /// <param name="followLink">Whether the folder itself may be a link, as the top of a shelf may.</param>
    /// <exception cref="FaultException">The folder cannot be opened or read.</exception>
    public static FolderContent Read(string path, bool followLink = false) => Read(path, followLink, null);

    /// <summary>Reads a folder with all that is in it: hidden entries, links and what is no file, as <see cref="Entries"/>.</summary>
    /// <param name="path">Absolute path.</param>
    /// <param name="followLink">Whether the folder itself may be a link.</param>
    /// <param name="isKnown">True for a name and a number on the drive that need not be looked at.</param>
    /// <exception cref="FaultException">The folder cannot be opened or read.</exception>
    public static FolderContent ReadAll(string path, bool followLink, Func<string, ulong, bool> isKnown) => Read(path, followLink, isKnown);

    private static FolderContent Read(string path, bool followLink, Func<string, ulong, bool>? isKnown)
    {
        var folder = SystemCalls.Open(path, SystemCalls.OpenDirectory | SystemCalls.OpenCloseOnExec | (followLink ? 0 : SystemCalls.OpenNoFollow));
        if (folder < 0)
        {
            throw Failure(path);
        }
        var buffer = ArrayPool<byte>.Shared.Rent(EntryBufferBytes);
        try
        {
            Span<byte> stat = stackalloc byte[SystemCalls.StatBytes];
            if (SystemCalls.Stat(folder, [0], SystemCalls.StatEmptyPath, SystemCalls.StatMask, stat) != 0)
            {
                throw Failure(path);
            }
            var own = FileFacts.Read(stat);
            var content = new FolderContent(own.Device, own.Inode, isKnown);
            while (true)
            {
                var read = SystemCalls.GetEntries(folder, buffer, EntryBufferBytes);
                if (read < 0)
                {
                    throw Failure(path);
                }
                if (read == 0)
                {
                    return content;
                }
                content.Add(folder, buffer.AsSpan(0, (int)read), stat);
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
            _ = SystemCalls.Close(folder);
        }
    }

    /// <summary>struct linux_dirent64: the file's number at 0, the record's length at 16, the type at 18, the name from 19, ended by a zero byte.</summary>
    private void Add(int folder, ReadOnlySpan<byte> entries, Span<byte> stat)
    {
        while (entries.Length > 19)
        {
            var length = BinaryPrimitives.ReadUInt16LittleEndian(entries[16..]);
            var (type, number) = (entries[18], BinaryPrimitives.ReadUInt64LittleEndian(entries));
            var name = entries[19..length];
            var end = name.IndexOf((byte)0);
            entries = entries[length..];
            // What begins with a dot is hidden; the folder itself and the one above it are among these.
            var isLeftOut = _isKnown is not null
                ? end > 0 && name[..end] is [(byte)'.'] or [(byte)'.', (byte)'.']
                : name[0] == (byte)'.' || type is not (EntryUnknown or EntryFolder or EntryRegular);
            if (end <= 0 || isLeftOut)
            {
                continue;
            }
            if (type == EntryFolder)
            {
                TakeFolder(name[..end]);
            }
            else if (type == EntryRegular && _isKnown is not null && Text(name[..end]) is { } known && _isKnown(known, number))
            {
                KnownNames.Add(known);
            }
            else if (SystemCalls.Stat(folder, name[..(end + 1)], SystemCalls.StatNoFollow, SystemCalls.StatMask, stat) == 0)
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
        var facts = FileFacts.Read(stat);
        switch (facts.Kind)
        {
            case EntryKind.Folder:
                TakeFolder(name);
                return;
            case var _ when _isKnown is not null:
                var own = Text(name);
                Entries.Add(new FolderEntry(own ?? Escaped(name), facts, own is not null));
                return;
            case EntryKind.File:
                var text = Text(name);
                Files.Add(new FolderFile(text ?? Escaped(name), facts.Bytes, facts.ModifiedUtc, (long)facts.Inode, text is not null));
                // A sum does not mind the order, and names in one folder differ.
                Add(name, facts);
                return;
        }
    }

    private void Add(ReadOnlySpan<byte> name, FileFacts facts)
    {
        Span<byte> all = stackalloc byte[256 + 16];
        name.CopyTo(all);
        var rest = all[name.Length..];
        BinaryPrimitives.WriteInt64LittleEndian(rest, facts.Bytes);
        BinaryPrimitives.WriteInt64LittleEndian(rest[8..], facts.ModifiedUtc.Ticks);
        _named += XxHash3.HashToUInt64(all[..(name.Length + 16)]);
        BinaryPrimitives.WriteUInt64LittleEndian(rest, facts.Inode);
        _numbered += XxHash3.HashToUInt64(all[..(name.Length + 8)]);
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

    private static FaultException Failure(string path) => ReadableFile.Failure(Marshal.GetLastPInvokeError(), path);
}
