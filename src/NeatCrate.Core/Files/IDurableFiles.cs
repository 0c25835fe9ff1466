using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>
/// The one layer through which files are changed. What a method has done is in the system's memory; only what was flushed
/// survives a power cut: a file's bytes, mode and time by <see cref="WritableFile.Flush"/>, names by
/// <see cref="FlushFolder"/> of the folder that they stand in. All methods throw a <see cref="FaultException"/> that names
/// the path. Tests stand in for it to refuse, to corrupt, to change files meanwhile, and to lose what was not flushed.
/// </summary>
public interface IDurableFiles
{
    /// <summary>What a path leads to, links followed; null when nothing is there.</summary>
    FileFacts? Look(string path);

    /// <summary>What has a name, which may be a link itself; null when nothing has it.</summary>
    FileFacts? LookAtName(string path);

    /// <summary>Names in a folder; empty when it is none.</summary>
    IReadOnlyList<string> Names(string folder);

    /// <summary>Opens a file for reading. Never waits.</summary>
    SourceFile OpenSource(string path);

    /// <summary>Makes a new file.</summary>
    /// <param name="path">A name that is free.</param>
    /// <param name="bytes">So much space is set apart at once, so that a full disk shows before the work; 0 where the size is not known.</param>
    WritableFile CreateNew(string path, long bytes);

    /// <summary>Makes a folder under a name that is free.</summary>
    void MakeFolder(string path);

    /// <summary>When something last came into a folder or went out of it, in nanoseconds since 1970; null when it is none.</summary>
    long? FolderTime(string folder);

    /// <summary>Gives a folder a time, as <see cref="FolderTime"/> tells it. Like its names, it is safe after <see cref="FlushFolder"/>.</summary>
    void SetFolderTime(string folder, long nanoseconds);

    /// <summary>Gives a folder permissions (the lower twelve bits of the mode); a file system without them keeps its own.</summary>
    void SetFolderMode(string folder, int mode);

    /// <summary>Removes an empty folder.</summary>
    /// <returns>False when it holds something, or is not there; nothing has changed then.</returns>
    bool RemoveFolder(string path);

    /// <summary>Removes a name. Only the runner's own temporary files, and what a plan names, are removed.</summary>
    void Remove(string path);

    /// <summary>Renames to a name that is free, on the same drive. Nothing is ever overwritten.</summary>
    void RenameToFreeName(string path, string freeName);

    /// <summary>Gives a file a second name, one that is free, on the same drive.</summary>
    /// <returns>False where the file system knows no second names; nothing has changed then.</returns>
    bool TryLink(string path, string freeName);

    /// <summary>Swaps two files in one instant: at no time is either name without its file.</summary>
    /// <returns>False where the file system cannot do that; nothing has changed then.</returns>
    bool TrySwap(string one, string other);

    /// <summary>Makes the names in a folder safe against a power cut.</summary>
    void FlushFolder(string folder);

    /// <summary>Holds a file's lock (flock), making the file where there is none, until what is returned is disposed.</summary>
    /// <returns>Null when somebody else holds it, in this process or in another one.</returns>
    IDisposable? TryLock(string path);

    /// <summary>Bytes that are free on the drive of a folder.</summary>
    long FreeBytes(string folder);

    /// <summary>The path with every link on the way followed; parts that are not there are kept as they are.</summary>
    string Real(string path);
}

/// <summary>A file that is open for reading.</summary>
public abstract class SourceFile : IDisposable
{
    /// <summary>What the system knows of it now.</summary>
    public abstract FileFacts Facts { get; }

    /// <summary>Reads what one call gives, from an offset in bytes; 0 at the end.</summary>
    public abstract int Read(Span<byte> buffer, long offset);

    /// <inheritdoc/>
    public void Dispose()
    {
        Dispose(true);
        GC.SuppressFinalize(this);
    }

    /// <summary>Closes the file.</summary>
    protected virtual void Dispose(bool disposing)
    {
    }
}

/// <summary>A new file that is being written.</summary>
public abstract class WritableFile : IDisposable
{
    /// <summary>Writes at an offset in bytes.</summary>
    public abstract void Write(ReadOnlySpan<byte> bytes, long offset);

    /// <summary>Reads back what was written, from an offset in bytes; 0 at the end.</summary>
    public abstract int Read(Span<byte> buffer, long offset);

    /// <summary>Cuts the file, or makes it longer by zeros.</summary>
    public abstract void SetLength(long bytes);

    /// <summary>Gives it a time of the last change.</summary>
    /// <param name="utc">The time, in steps of 100 ns.</param>
    /// <param name="rest">What it has beyond such a step, in nanoseconds; a file system keeps as much of it as it can.</param>
    public abstract void SetModified(DateTime utc, int rest);

    /// <summary>Gives it permissions (the lower twelve bits of the mode); a file system without them keeps its own.</summary>
    public abstract void SetMode(int mode);

    /// <summary>Makes bytes, time and mode safe against a power cut, and asks the system to forget them, so that reading back reads the disk.</summary>
    public abstract void Flush();

    /// <inheritdoc/>
    public void Dispose()
    {
        Dispose(true);
        GC.SuppressFinalize(this);
    }

    /// <summary>Closes the file.</summary>
    protected virtual void Dispose(bool disposing)
    {
    }
}
