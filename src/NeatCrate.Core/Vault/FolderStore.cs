using System.Buffers;
using System.IO.Hashing;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Vault;

/// <summary>
/// Objects as files below a folder on a shelf. Needs nothing of a file system but names, bytes and renames. Its folders are its own:
/// one that is a link, or another drive, would lead what is written and removed to somebody else's files, so that nothing is done there
/// (<see cref="FaultCode.VaultLeadsElsewhere"/>). What is foreign among its files stays.
/// </summary>
/// <param name="root">Absolute path of the folder; it is made with the first object.</param>
/// <param name="files">The durable layer.</param>
public sealed class FolderStore(string root, IDurableFiles files) : IObjectStore
{
    private const string Incoming = "incoming";
    private const string OnItsWay = ".part";
    private const string LockName = "vault.lock";

    // Stands there while names may not be safe yet: whoever finds it does not count on any before they were flushed.
    private const string Unflushed = "unflushed";
    private const int BufferBytes = 1024 * 1024;

    private volatile bool _isHeld;
    private FileFacts? _mark;
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
            if (ContentOf(folder) is not { } content)
            {
                continue;
            }
            foreach (var below in content.Folders.Where(f => f[0] != '.' && (folder.Length > 0 || f is not (Incoming or IObjectStore.Damaged))))
            {
                waiting.Push(Below(folder, below));
            }
            foreach (var file in content.Entries.Where(f => f.Facts.IsRegular && f.NameIsText && f.Name[0] != '.' && (folder.Length > 0 || f.Name != LockName)))
            {
                var name = Below(folder, file.Name);
                if (name.StartsWith(prefix, StringComparison.Ordinal))
                {
                    yield return new StoredObject(name, file.Facts.Bytes);
                }
            }
        }
    }

    /// <inheritdoc/>
    public long? Size(string name) => OwnFolder(FolderOf(name)) && files.LookAtName(PathOf(name)) is { IsRegular: true } facts ? facts.Bytes : null;

    /// <inheritdoc/>
    public Stream Open(string name)
    {
        var path = PathOf(name);
        // A link is no object, whatever it leads to.
        if (OwnFolder(FolderOf(name)) && files.LookAtName(path) is { IsRegular: false })
        {
            throw new FaultException(FaultCode.NotARegularFile, path);
        }
        var file = files.OpenSource(path);
        return new SourceStream(file, path, file.Facts.Bytes, ownsFile: true);
    }

    /// <inheritdoc/>
    public NewObject Begin(long bytes)
    {
        MakeFolders(Incoming);
        Mark();
        return new NewFile(this, Path.Combine(root, Incoming, $"{Guid.NewGuid():N}{OnItsWay}"), bytes);
    }

    /// <inheritdoc/>
    public void Remove(string name)
    {
        if (Size(name) is not null)
        {
            Mark();
            files.Remove(PathOf(name));
            Touch(Path.GetDirectoryName(PathOf(name))!);
        }
    }

    /// <inheritdoc/>
    public void MoveAside(string name)
    {
        var path = PathOf(name);
        if (!OwnFolder(FolderOf(name)) || files.LookAtName(path) is null)
        {
            return;
        }
        Mark();
        var aside = IObjectStore.Damaged + "/" + name;
        MakeFolders(FolderOf(aside));
        for (var n = 2; files.LookAtName(PathOf(aside)) is not null; n++)
        {
            aside = $"{IObjectStore.Damaged}/{name} ({n})";
        }
        files.RenameToFreeName(path, PathOf(aside));
        Touch(Path.GetDirectoryName(PathOf(aside))!);
        Touch(Path.GetDirectoryName(path)!);
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
        RequireOwn();
        var held = files.TryLock(Path.Combine(root, LockName)) ?? throw new FaultException(FaultCode.VaultBusy, root);
        try
        {
            // Whoever holds the lock is the only writer: what is on its way belongs to nobody. What has no name of ours is somebody's.
            var left = (ContentOf(Incoming)?.Entries ?? []).Where(e => e.Facts.IsRegular && IsOnItsWay(e.Name)).Select(e => e.Name).ToList();
            // Whatever has its name, a folder or a link as well, counts as the mark, and stops nothing.
            _mark = OwnFolder(Incoming) ? files.LookAtName(MarkPath) : null;
            if (_mark is not null || left.Count > 0)
            {
                TouchAll();
            }
            foreach (var name in left)
            {
                files.Remove(Path.Combine(root, Incoming, name));
            }
            _isHeld = true;
            return new Held(this, held);
        }
        catch
        {
            held.Dispose();
            throw;
        }
    }

    private static bool IsOnItsWay(string name) => name.EndsWith(OnItsWay, StringComparison.Ordinal) && Guid.TryParseExact(name[..^OnItsWay.Length], "N", out _);

    private static string Below(string folder, string name) => folder.Length == 0 ? name : $"{folder}/{name}";

    private static string FolderOf(string name) => name.Contains('/', StringComparison.Ordinal) ? name[..name.LastIndexOf('/')] : "";

    /// <summary>What stands in a folder of the vault; null where there is none. A drive that does not give it is no empty one.</summary>
    /// <exception cref="FaultException">It, or one of the vault's folders in it, leads elsewhere.</exception>
    private FolderContent? ContentOf(string folder)
    {
        if (!OwnFolder(folder))
        {
            return null;
        }
        FolderContent content;
        try
        {
            content = FolderContent.ReadAll(Path.Combine(root, folder), false, (_, _) => false);
        }
        catch (FaultException e) when (e.Fault.Code == FaultCode.NotThere)
        {
            return null;
        }
        if (content.Entries.FirstOrDefault(e => !e.Facts.IsRegular && MayBeFolder(folder, e.Name)) is { Name: { } other })
        {
            throw new FaultException(FaultCode.VaultLeadsElsewhere, Path.Combine(root, folder, other));
        }
        return content;
    }

    /// <summary>
    /// Names that the vault's own folders have. One that is a link must not pass for a folder that went: its backups would be taken for
    /// let go, and a sweep would take their content.
    /// </summary>
    private static bool MayBeFolder(string folder, string name) => folder switch
    {
        "" => name is Incoming or IObjectStore.Damaged or LockName || VaultNames.Content == name + "/" || VaultNames.Backups == name + "/" || VaultNames.LetGo == name + "/",
        _ when VaultNames.Content == folder + "/" => name.Length == 2 && name.All(char.IsAsciiHexDigitLower),
        _ => VaultNames.Backups == folder + "/" || VaultNames.LetGo == folder + "/",
    };

    /// <summary>False where a folder of the vault is not there.</summary>
    /// <exception cref="FaultException">It, or one on the way to it, is a link, a file, or another drive.</exception>
    private bool OwnFolder(string folder)
    {
        var (path, device) = (root, (ulong?)null);
        foreach (var part in folder.Length == 0 ? [""] : folder.Split('/').Prepend(""))
        {
            path = Path.Combine(path, part);
            if (files.LookAtName(path) is not { } facts)
            {
                return false;
            }
            if (facts.Kind != EntryKind.Folder || facts.Device != (device ??= facts.Device))
            {
                throw new FaultException(FaultCode.VaultLeadsElsewhere, path);
            }
        }
        return true;
    }

    /// <summary>Looks at all folders of the vault before anything is done in it.</summary>
    private void RequireOwn()
    {
        ContentOf("");
        OwnFolder(Incoming);
        OwnFolder(IObjectStore.Damaged);
        if (files.LookAtName(Path.Combine(root, LockName)) is { IsRegular: false })
        {
            throw new FaultException(FaultCode.VaultLeadsElsewhere, Path.Combine(root, LockName));
        }
        foreach (var top in new[] { FolderOf(VaultNames.Content), FolderOf(VaultNames.Backups), FolderOf(VaultNames.LetGo) })
        {
            foreach (var below in ContentOf(top)?.Folders ?? [])
            {
                OwnFolder(Below(top, below));
            }
        }
    }

    /// <summary>
    /// A writer that was killed left names that no power cut may take any more once something counts on them: the next flush makes all of them safe.
    /// </summary>
    private void TouchAll()
    {
        var waiting = new Stack<string>([""]);
        while (waiting.TryPop(out var folder))
        {
            Touch(folder.Length == 0 ? root : Path.Combine(root, folder));
            foreach (var below in (ContentOf(folder)?.Folders ?? []).Where(f => f[0] != '.'))
            {
                waiting.Push(Below(folder, below));
            }
        }
    }

    /// <summary>
    /// Says that names may not be safe from here on. It need not be safe itself: after a power cut what is seen is on the disk, and a writer that was
    /// merely killed leaves it to be seen.
    /// </summary>
    private void Mark()
    {
        lock (_lock)
        {
            if (!_isHeld || _mark is not null)
            {
                return;
            }
            MakeFolders(Incoming);
            files.CreateNew(MarkPath, 0).Dispose();
            _mark = files.LookAtName(MarkPath);
        }
    }

    /// <summary>
    /// Everything was flushed: the next writer may count on what it finds. Only the mark that was made or found goes: where the folder became a
    /// link, or the drive another one, what has its name by now is somebody else's.
    /// </summary>
    private void Unmark()
    {
        lock (_lock)
        {
            if (_mark is { } ours && _touched.Count == 0
                && files.LookAtName(MarkPath) is { IsRegular: true } there && (there.Device, there.Inode) == (ours.Device, ours.Inode))
            {
                files.Remove(MarkPath);
            }
            _mark = null;
        }
    }

    private string MarkPath => Path.Combine(root, Incoming, Unflushed);

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
        if (OwnFolder(folder))
        {
            return;
        }
        var parent = Path.GetDirectoryName(path)!;
        if (folder.Length > 0)
        {
            MakeFolders(Path.GetDirectoryName(folder)!);
        }
        else if (_isHeld || files.Look(parent) is not { Kind: EntryKind.Folder })
        {
            // The shelf itself is never made: what was an unplugged drive's place would fill the machine's own. And a vault that was
            // there a moment ago, renamed or taken away by now, is not begun anew in its place.
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

    /// <summary>The lock, while it is held.</summary>
    private sealed class Held(FolderStore store, IDisposable held) : IDisposable
    {
        public void Dispose()
        {
            try
            {
                store.Unmark();
            }
            catch (FaultException)
            {
                // Its drive left, or refuses: it stays marked, and the next writer flushes all of it.
            }
            finally
            {
                store._isHeld = false;
                held.Dispose();
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
            _store.MakeFolders(FolderOf(name));
            if (_store.Files.LookAtName(path) is { } there && (replaces || !there.IsRegular))
            {
                return Replace(name, path, there.IsRegular);
            }
            try
            {
                _store.Files.RenameToFreeName(_path, path);
            }
            catch (FaultException e) when (e.Fault.Code == FaultCode.NameTaken)
            {
                return false;
            }
            Kept(name, path);
            return true;
        }

        /// <summary>
        /// Takes the place of what has the name: in one instant where the file system can, so that no kill leaves the name empty; else the
        /// old one stands aside until the new one is safe. What is none of ours, a link or a folder, stays aside.
        /// </summary>
        private bool Replace(string name, string path, bool isOurs)
        {
            if (isOurs && _store.Files.TrySwap(_path, path))
            {
                _isKept = true;
                _store.Files.FlushFolder(Path.GetDirectoryName(path)!);
                _store.Files.Remove(_path);
            }
            else
            {
                _store.MoveAside(name);
                _store.Files.RenameToFreeName(_path, path);
                _isKept = true;
                _store.Flush();
            }
            Kept(name, path);
            return true;
        }

        private void Kept(string name, string path)
        {
            _isKept = true;
            _store.Touch(Path.GetDirectoryName(path)!);
            _store.Touch(Path.GetDirectoryName(_path)!);
            // A damaged one that stood aside is of no use any more.
            _store.Remove($"{IObjectStore.Damaged}/{name}");
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
