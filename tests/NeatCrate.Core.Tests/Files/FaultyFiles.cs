namespace NeatCrate.Core.Tests.Files;

/// <summary>The disk, with faults put in: each call can be refused, corrupted, or used to change something meanwhile.</summary>
internal class FaultyFiles : IDurableFiles
{
    private readonly DurableFiles _real = new();

    /// <summary>Called before each call that changes something, with its name and path; it may throw, or change the disk.</summary>
    public Action<string, string>? Before { get; set; }

    /// <summary>Called after each call that changes something.</summary>
    public Action<string, string>? After { get; set; }

    /// <summary>Changes what was read: path, offset and the bytes.</summary>
    public Action<string, long, byte[]>? OnRead { get; set; }

    /// <summary>True for a file system that cannot swap two files in one instant.</summary>
    public bool CannotSwap { get; set; }

    /// <summary>True for a file system that knows no second names.</summary>
    public bool CannotLink { get; set; }

    /// <summary>False where a test keeps account of what was flushed by itself.</summary>
    public bool FlushesForReal { get; protected set; } = true;

    /// <summary>Calls that changed something, in order.</summary>
    public List<(string Call, string Path)> Calls { get; } = [];

    public virtual FileFacts? Look(string path) => _real.Look(path);

    public virtual FileFacts? LookAtName(string path) => _real.LookAtName(path);

    public IReadOnlyList<string> Names(string folder) => _real.Names(folder);

    public SourceFile OpenSource(string path) => new Source(this, path, _real.OpenSource(path));

    public WritableFile CreateNew(string path, long bytes) => Change("create", path, () => new Writable(this, path, _real.CreateNew(path, bytes)));

    public void MakeFolder(string path) => Change("make folder", path, () => _real.MakeFolder(path));

    public long? FolderTime(string folder) => _real.FolderTime(folder);

    public void SetFolderTime(string folder, long nanoseconds) => Change("set folder time", folder, () => _real.SetFolderTime(folder, nanoseconds));

    public void SetFolderMode(string folder, int mode) => Change("set folder mode", folder, () => _real.SetFolderMode(folder, mode));

    public bool RemoveFolder(string path) => Change("remove folder", path, () => _real.RemoveFolder(path));

    public void Remove(string path) => Change("remove", path, () => _real.Remove(path));

    public void RenameToFreeName(string path, string freeName) => Change("rename", path, () => _real.RenameToFreeName(path, freeName));

    public bool TryLink(string path, string freeName) => !CannotLink && Change("link", path, () => _real.TryLink(path, freeName));

    public bool TrySwap(string one, string other) => !CannotSwap && Change("swap", one, () => _real.TrySwap(one, other));

    public void FlushFolder(string folder) => Change("flush folder", folder, () =>
    {
        if (FlushesForReal)
        {
            _real.FlushFolder(folder);
        }
        Flushed(folder);
    });

    public IDisposable? TryLock(string path) => _real.TryLock(path);

    public long FreeBytes(string folder) => _real.FreeBytes(folder);

    public string Real(string path) => _real.Real(path);

    /// <summary>Called when a folder's names are safe.</summary>
    protected virtual void Flushed(string folder)
    {
    }

    /// <summary>Called when a file's bytes, time and mode are safe.</summary>
    protected virtual void FileFlushed(string path)
    {
    }

    private T Change<T>(string call, string path, Func<T> change)
    {
        Before?.Invoke(call, path);
        lock (Calls)
        {
            Calls.Add((call, path));
        }
        var result = change();
        After?.Invoke(call, path);
        return result;
    }

    private void Change(string call, string path, Action change) => Change(call, path, () =>
    {
        change();
        return true;
    });

    private sealed class Source(FaultyFiles files, string path, SourceFile real) : SourceFile
    {
        public override FileFacts Facts => real.Facts;

        public override int Read(Span<byte> buffer, long offset)
        {
            var count = real.Read(buffer, offset);
            if (files.OnRead is { } change)
            {
                var bytes = buffer[..count].ToArray();
                change(path, offset, bytes);
                bytes.CopyTo(buffer);
            }
            return count;
        }

        protected override void Dispose(bool disposing)
        {
            real.Dispose();
            base.Dispose(disposing);
        }
    }

    private sealed class Writable(FaultyFiles files, string path, WritableFile real) : WritableFile
    {
        public override void Write(ReadOnlySpan<byte> bytes, long offset)
        {
            var copy = bytes.ToArray();
            files.Change("write", path, () => real.Write(copy, offset));
        }

        public override int Read(Span<byte> buffer, long offset) => real.Read(buffer, offset);

        public override void SetLength(long bytes) => files.Change("set length", path, () => real.SetLength(bytes));

        public override void SetModified(DateTime utc, int rest) => files.Change("set time", path, () => real.SetModified(utc, rest));

        public override void SetMode(int mode) => files.Change("set mode", path, () => real.SetMode(mode));

        public override void Flush() => files.Change("flush file", path, () =>
        {
            if (files.FlushesForReal)
            {
                real.Flush();
            }
            files.FileFlushed(path);
        });

        protected override void Dispose(bool disposing)
        {
            real.Dispose();
            base.Dispose(disposing);
        }
    }
}

/// <summary>The disk as programs see it, without waiting for it: where a test does not ask what a power cut leaves.</summary>
internal sealed class QuickFiles : FaultyFiles
{
    public QuickFiles() => FlushesForReal = false;
}
