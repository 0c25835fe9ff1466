using System.Buffers;
using System.IO.Hashing;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Vault;

/// <summary>Objects as files below a folder on a shelf. Needs nothing of a file system but names, bytes and renames.</summary>
/// <param name="root">Absolute path of the folder; it is made with the first object.</param>
/// <param name="files">The durable layer.</param>
public sealed class FolderStore(string root, IDurableFiles files) : IObjectStore
{
    private const string Incoming = "incoming";
    private const string LockName = "vault.lock";
    private const int BufferBytes = 1024 * 1024;

    private readonly HashSet<string> _touched = new(StringComparer.Ordinal);
    private readonly Lock _lock = new();

    /// <inheritdoc/>
    public string Place => root;

    /// <summary>Absolute path of the file that holds an object.</summary>
    /// <exception cref="ArgumentException">The name leads out of the folder.</exception>
    public string PathOf(string name) =>
        SessionLayout.IsBelow(name) ? Path.Combine(root, name) : throw new ArgumentException("A name stays below its store.", nameof(name));

    /// <inheritdoc/>
    public IEnumerable<StoredObject> List(string prefix)
    {
        ArgumentNullException.ThrowIfNull(prefix);
        var top = prefix.Contains('/', StringComparison.Ordinal) ? prefix[..prefix.LastIndexOf('/')] : "";
        var waiting = new Stack<string>([top]);
        while (waiting.TryPop(out var folder))
        {
            var path = folder.Length == 0 ? root : Path.Combine(root, folder);
            if (ContentOf(path, folder.Length == 0) is not { } content)
            {
                continue;
            }
            foreach (var below in content.Folders.Where(f => folder.Length > 0 || f != Incoming))
            {
                waiting.Push(folder.Length == 0 ? below : $"{folder}/{below}");
            }
            foreach (var file in content.Files.Where(f => f.NameIsText && (folder.Length > 0 || f.Name != LockName)))
            {
                var name = folder.Length == 0 ? file.Name : $"{folder}/{file.Name}";
                if (name.StartsWith(prefix, StringComparison.Ordinal))
                {
                    yield return new StoredObject(name, file.Bytes);
                }
            }
        }
    }

    /// <inheritdoc/>
    public long? Size(string name) => files.LookAtName(PathOf(name)) is { IsRegular: true } facts ? facts.Bytes : null;

    /// <inheritdoc/>
    public Stream Open(string name)
    {
        var file = files.OpenSource(PathOf(name));
        return new SourceStream(file, PathOf(name), file.Facts.Bytes, ownsFile: true);
    }

    /// <inheritdoc/>
    public NewObject Begin(long bytes)
    {
        MakeFolders(Incoming);
        return new NewFile(this, Path.Combine(root, Incoming, $"{Guid.NewGuid():N}.part"), bytes);
    }

    /// <inheritdoc/>
    public void Remove(string name)
    {
        var path = PathOf(name);
        if (files.LookAtName(path) is not null)
        {
            files.Remove(path);
            Touch(Path.GetDirectoryName(path)!);
        }
    }

    /// <inheritdoc/>
    public void Flush()
    {
        string[] touched;
        lock (_lock)
        {
            touched = [.. _touched];
            _touched.Clear();
        }
        foreach (var folder in touched.Order(StringComparer.Ordinal))
        {
            files.FlushFolder(folder);
        }
    }

    /// <inheritdoc/>
    public IDisposable Lock()
    {
        MakeFolders("");
        var held = files.TryLock(Path.Combine(root, LockName)) ?? throw new FaultException(FaultCode.VaultBusy, root);
        try
        {
            // Whoever holds the lock is the only writer: what is on its way belongs to nobody.
            foreach (var left in files.Names(Path.Combine(root, Incoming)))
            {
                files.Remove(Path.Combine(root, Incoming, left));
            }
            TouchAll();
            return held;
        }
        catch
        {
            held.Dispose();
            throw;
        }
    }

    /// <summary>What stands in a folder; null where there is none. A drive that does not give it is no empty one.</summary>
    private static FolderContent? ContentOf(string path, bool followLink)
    {
        try
        {
            return FolderContent.Read(path, followLink);
        }
        catch (FaultException e) when (e.Fault.Code == FaultCode.NotThere)
        {
            return null;
        }
    }

    /// <summary>
    /// A writer that was killed left names that no power cut may take any more once something counts on them: the next flush makes all of them safe.
    /// </summary>
    private void TouchAll()
    {
        var waiting = new Stack<string>([root]);
        while (waiting.TryPop(out var folder))
        {
            Touch(folder);
            foreach (var below in ContentOf(folder, folder == root)?.Folders ?? [])
            {
                waiting.Push(Path.Combine(folder, below));
            }
        }
    }

    private void Touch(string folder)
    {
        lock (_lock)
        {
            _touched.Add(folder);
        }
    }

    /// <summary>Makes the folders of a name that are not there.</summary>
    private void MakeFolders(string folder)
    {
        var path = folder.Length == 0 ? root : Path.Combine(root, folder);
        if (files.Look(path) is { Kind: EntryKind.Folder })
        {
            return;
        }
        var parent = Path.GetDirectoryName(path)!;
        if (folder.Length > 0)
        {
            MakeFolders(Path.GetDirectoryName(folder)!);
        }
        else if (files.Look(parent) is not { Kind: EntryKind.Folder })
        {
            // The shelf itself is never made: what was an unplugged drive's place would fill the machine's own.
            throw new FaultException(FaultCode.RootGone, parent);
        }
        lock (_lock)
        {
            if (files.Look(path) is null)
            {
                files.MakeFolder(path);
                _touched.Add(parent);
            }
        }
    }

    /// <summary>A file on its way: written and remembered as a hash, flushed, read back, named.</summary>
    private sealed class NewFile : NewObject
    {
        private readonly FolderStore _store;
        private readonly string _path;
        private readonly WritableFile _file;
        private readonly XxHash128 _written = new();
        private long _length;
        private bool _isKept;

        public NewFile(FolderStore store, string path, long bytes)
        {
            (_store, _path) = (store, path);
            _file = store.Files.CreateNew(path, bytes);
        }

        public override void Write(ReadOnlySpan<byte> bytes)
        {
            _file.Write(bytes, _length);
            _written.Append(bytes);
            _length += bytes.Length;
        }

        public override bool Keep(string name, bool replaces)
        {
            var path = _store.PathOf(name);
            if (!replaces && _store.Size(name) is not null)
            {
                return false;
            }
            // Space that was set apart and is not needed is given back.
            _file.SetLength(_length);
            _file.Flush();
            Compare();
            _store.MakeFolders(Path.GetDirectoryName(name)!);
            if (replaces)
            {
                _store.Remove(name);
            }
            try
            {
                _store.Files.RenameToFreeName(_path, path);
            }
            catch (FaultException e) when (e.Fault.Code == FaultCode.NameTaken)
            {
                return false;
            }
            _isKept = true;
            _store.Touch(Path.GetDirectoryName(path)!);
            return true;
        }

        private void Compare()
        {
            var (hash, offset) = (new XxHash128(), 0L);
            var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
            try
            {
                using var source = _store.Files.OpenSource(_path);
                for (int count; (count = source.Read(buffer.AsSpan(0, BufferBytes), offset)) > 0; offset += count)
                {
                    hash.Append(buffer.AsSpan(0, count));
                }
            }
            finally
            {
                ArrayPool<byte>.Shared.Return(buffer);
            }
            if (offset != _length || hash.GetCurrentHashAsUInt128() != _written.GetCurrentHashAsUInt128())
            {
                throw new FaultException(FaultCode.ReadBackDiffers, _path);
            }
        }

        protected override void Dispose(bool disposing)
        {
            _file.Dispose();
            if (_isKept)
            {
                return;
            }
            try
            {
                _store.Files.Remove(_path);
            }
            catch (IOException)
            {
                // Its drive left, or a test cut the power: the next writer removes what is on its way.
                _isKept = true;
            }
        }
    }

    private IDurableFiles Files => files;
}
