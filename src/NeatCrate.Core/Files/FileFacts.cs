using System.Buffers.Binary;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>What stands under a name.</summary>
public enum EntryKind
{
    /// <summary>A file that holds bytes.</summary>
    File,

    /// <summary>A folder.</summary>
    Folder,

    /// <summary>A symbolic link.</summary>
    Link,

    /// <summary>A pipe, a socket or a device, which may block for ever when opened.</summary>
    Other,
}

/// <summary>What the operating system knows of a file or folder (statx(2)).</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Device">Number of the drive that it is on.</param>
/// <param name="Inode">Its own number on that drive.</param>
/// <param name="Bytes">Size in bytes.</param>
/// <param name="ModifiedUtc">Time of the last change, in the steps of 100 ns that .NET has.</param>
/// <param name="Mode">Permission bits, the lower twelve of the mode.</param>
public readonly record struct FileFacts(EntryKind Kind, ulong Device, ulong Inode, long Bytes, DateTime ModifiedUtc, int Mode)
{
    /// <summary>What the time of the last change has beyond a step of 100 ns, in nanoseconds.</summary>
    public int ModifiedRest { get; init; }

    private const int TypeMask = 0xF000;
    private const int RegularType = 0x8000;
    private const int FolderType = 0x4000;
    private const int LinkType = 0xA000;

    /// <summary>Within so long two changes may have one time: FAT keeps times to two seconds.</summary>
    public static TimeSpan CoarsestStep { get; } = TimeSpan.FromSeconds(2.1);

    /// <summary>
    /// True where a change from here on shows in a file's time: it is not of this moment. One that lies ahead of the clock, as recorders' and FAT's
    /// local times do, is as good as one long ago.
    /// </summary>
    /// <param name="modifiedUtc">The file's time of the last change.</param>
    /// <param name="nowUtc">The time.</param>
    public static bool IsSettled(DateTime modifiedUtc, DateTime nowUtc) => (nowUtc - modifiedUtc).Duration() > CoarsestStep;

    /// <summary>True for a file that holds bytes.</summary>
    public bool IsRegular => Kind == EntryKind.File;

    /// <summary>Looks at what a path leads to, links followed; null when nothing is there, or when its name is no valid text.</summary>
    public static FileFacts? Of(string path) => Look(path, 0);

    /// <summary>Looks at what has a name, which may be a link itself; null when nothing has it.</summary>
    public static FileFacts? OfName(string path) => Look(path, SystemCalls.StatNoFollow);

    /// <summary>True when two paths lead to things on one drive, where a move is a rename and space is shared.</summary>
    public static bool AreOnOneDrive(string one, string other) => Of(one) is { } here && Of(other) is { } there && here.Device == there.Device;

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

    /// <summary>
    /// When the system last noted a change of a file: of its bytes, its times, its rights or its name. Unlike the time of the
    /// last change nobody can set it, so it shows that a file was written over even where its time was put back. Links are followed.
    /// </summary>
    /// <returns>Steps of 100 ns since 1970; null when nothing is there.</returns>
    public static long? StatusChangeOf(string path) => OfWithStatus(path)?.StatusChange;

    /// <summary>What a path leads to, links followed, and when the system last noted a change of it, in one look.</summary>
    /// <returns>The time in steps of 100 ns since 1970; null when nothing is there.</returns>
    public static (FileFacts Facts, long StatusChange)? OfWithStatus(string path)
    {
        Span<byte> stat = stackalloc byte[SystemCalls.StatBytes];
        stat.Clear();
        // struct statx: time of the status change at 96 (seconds) and 104 (nanoseconds).
        return path.Contains('\0', StringComparison.Ordinal) || SystemCalls.Stat(SystemCalls.CurrentFolder, path, 0, SystemCalls.StatMask | SystemCalls.StatStatusChange, stat) != 0
            ? null
            : (Read(stat), unchecked((BinaryPrimitives.ReadInt64LittleEndian(stat[96..]) * TimeSpan.TicksPerSecond) + (BinaryPrimitives.ReadUInt32LittleEndian(stat[104..]) / 100)));
    }

    /// <summary>
    /// When something last came into a folder or went out of it, to the nanosecond, so that it can be given back as it was.
    /// </summary>
    /// <returns>Nanoseconds since 1970; null when it is no folder.</returns>
    internal static long? FolderTimeOf(string path)
    {
        Span<byte> stat = stackalloc byte[SystemCalls.StatBytes];
        stat.Clear();
        return !path.Contains('\0', StringComparison.Ordinal) && SystemCalls.Stat(SystemCalls.CurrentFolder, path, 0, SystemCalls.StatMask, stat) == 0 && Read(stat).Kind == EntryKind.Folder
            ? unchecked((BinaryPrimitives.ReadInt64LittleEndian(stat[112..]) * 1_000_000_000) + BinaryPrimitives.ReadUInt32LittleEndian(stat[120..]))
            : null;
    }

    private static FileFacts? Look(string path, int flags)
    {
        Span<byte> stat = stackalloc byte[SystemCalls.StatBytes];
        stat.Clear();
        return path.Contains('\0', StringComparison.Ordinal) || SystemCalls.Stat(SystemCalls.CurrentFolder, path, flags, SystemCalls.StatMask, stat) != 0 ? null : Read(stat);
    }

    /// <summary>struct statx: mode at 28, inode at 32, size at 40, time of change at 112 (seconds) and 120 (nanoseconds), drive at 136.</summary>
    internal static FileFacts Read(ReadOnlySpan<byte> stat)
    {
        int mode = BinaryPrimitives.ReadUInt16LittleEndian(stat[28..]);
        var kind = (mode & TypeMask) switch { RegularType => EntryKind.File, FolderType => EntryKind.Folder, LinkType => EntryKind.Link, _ => EntryKind.Other };
        return new FileFacts(
            kind,
            BinaryPrimitives.ReadUInt64LittleEndian(stat[136..]),
            BinaryPrimitives.ReadUInt64LittleEndian(stat[32..]),
            BinaryPrimitives.ReadInt64LittleEndian(stat[40..]),
            ModifiedIn(stat),
            mode & 0xFFF)
        {
            ModifiedRest = (int)(BinaryPrimitives.ReadUInt32LittleEndian(stat[120..]) % 100),
        };
    }

    /// <summary>A time that no calendar holds counts as the first one.</summary>
    private static DateTime ModifiedIn(ReadOnlySpan<byte> stat)
    {
        var seconds = BinaryPrimitives.ReadInt64LittleEndian(stat[112..]);
        var ticks = BinaryPrimitives.ReadUInt32LittleEndian(stat[120..]) / 100;
        const long EpochSeconds = 62_135_596_800;
        return seconds is > -EpochSeconds and < 253_402_300_799 ? DateTime.UnixEpoch.AddTicks((seconds * TimeSpan.TicksPerSecond) + ticks) : DateTime.UnixEpoch;
    }
}

/// <summary>What a file was when it was looked at; a file that is something else by then is not touched.</summary>
/// <param name="Bytes">Size in bytes.</param>
/// <param name="ModifiedUtc">Time of the last change.</param>
public sealed record FileState(long Bytes, [property: JsonPropertyName("ChangedUtc")] DateTime ModifiedUtc)
{
    /// <summary>The state of a file now.</summary>
    /// <exception cref="FaultException">The file is not there (<see cref="FaultCode.NotThere"/>), or is none.</exception>
    public static FileState Of(string path) => FileFacts.Of(path) switch
    {
        null => throw new FaultException(FaultCode.NotThere, path),
        { IsRegular: false } => throw new FaultException(FaultCode.NotARegularFile, path),
        { } facts => new FileState(facts.Bytes, facts.ModifiedUtc),
    };
}
