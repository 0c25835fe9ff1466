using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Files;

/// <summary>What a power cut makes of what was not flushed.</summary>
internal enum Unflushed
{
    /// <summary>All of it is lost: names and bytes are those of the last flush.</summary>
    Lost,

    /// <summary>All of it happened to reach the disk.</summary>
    Kept,

    /// <summary>Names reached the disk, and bytes did not: files stand there with nothing in them.</summary>
    NamesKept,

    /// <summary>In each folder one or the other, as it comes.</summary>
    Mixed,
}

/// <summary>The power was cut: from here on nothing reaches the disk.</summary>
internal sealed class PowerCutException : IOException;

/// <summary>
/// The disk with the system's memory in front of it. Calls work on a real folder, as programs see it; beside it, what a
/// power cut would leave is kept: the names of each folder as they were when that folder was flushed last, and the bytes of
/// each file as they were when that file was. At a chosen call the power is cut, and the folder becomes what is left.
/// </summary>
internal sealed class PowerCutFiles : FaultyFiles
{
    private sealed record Node(bool IsFolder, byte[] Bytes, DateTime Modified, int Mode);

    private readonly string _root;
    private readonly Dictionary<ulong, Node> _safe = [];
    private readonly Dictionary<ulong, Dictionary<string, ulong>> _safeNames = [];
    private readonly ulong _rootInode;
    private readonly Lazy<DirectoryInfo> _graveyard = new(() => Directory.CreateTempSubdirectory("neat-crate-test-"));
    private readonly Lock _lock = new();
    private int _left = int.MaxValue;

    public PowerCutFiles(string root)
    {
        _root = root;
        // Thousands of cuts need no disk to wait for: what a flush makes safe is kept here.
        FlushesForReal = false;
        _rootInode = FileFacts.Of(root)!.Value.Inode;
        // Whatever was there before the plan has been on the disk for long.
        foreach (var folder in Directory.EnumerateDirectories(root, "*", SearchOption.AllDirectories).Prepend(root))
        {
            Flushed(folder);
        }
        foreach (var file in Directory.EnumerateFiles(root, "*", SearchOption.AllDirectories))
        {
            FileFlushed(file);
        }
        Before = (call, path) =>
        {
            if (Interlocked.Decrement(ref _left) < 0)
            {
                throw new PowerCutException();
            }
            if (call == "remove")
            {
                Bury(path);
            }
        };
    }

    /// <summary>A second name elsewhere: the number of a file that a power cut may bring back must not become another one's.</summary>
    private void Bury(string path) => new DurableFiles().TryLink(path, Path.Combine(_graveyard.Value.FullName, Guid.NewGuid().ToString("N")));

    /// <summary>Cuts the power before the call of this number, counted from here.</summary>
    public void CutBefore(int call) => _left = call;

    /// <summary>Makes the folder what a power cut leaves of it.</summary>
    public void Lose(Unflushed unflushed, int seed)
    {
        var random = new Random(seed);
        var live = Directory.EnumerateDirectories(_root, "*", SearchOption.AllDirectories).Prepend(_root).ToDictionary(InodeOf, NamesIn);
        var bytes = Directory.EnumerateFiles(_root, "*", SearchOption.AllDirectories).DistinctBy(InodeOf).ToDictionary(InodeOf, Read);
        var left = Directory.CreateTempSubdirectory("neat-crate-test-").FullName;
        var made = new Dictionary<ulong, string>();
        Rebuild(_rootInode, Path.Combine(left, "disk"));
        DiskTree.Clear(_root);
        // Renamed, not copied: a name in two folders stays one file.
        foreach (var entry in new DirectoryInfo(Path.Combine(left, "disk")).EnumerateFileSystemInfos())
        {
            Directory.Move(entry.FullName, Path.Combine(_root, entry.Name));
        }
        Directory.Delete(left, true);
        if (_graveyard.IsValueCreated)
        {
            _graveyard.Value.Delete(true);
        }

        void Rebuild(ulong folder, string path)
        {
            Directory.CreateDirectory(path);
            var keeps = unflushed switch { Unflushed.Lost => false, Unflushed.Mixed => random.Next(2) == 0, _ => true };
            var names = keeps && live.TryGetValue(folder, out var now) ? now : _safeNames.GetValueOrDefault(folder) ?? [];
            foreach (var (name, inode) in names.OrderBy(n => n.Key, StringComparer.Ordinal))
            {
                var at = Path.Combine(path, name);
                if (live.ContainsKey(inode) || _safeNames.ContainsKey(inode))
                {
                    Rebuild(inode, at);
                }
                else if (made.TryGetValue(inode, out var first))
                {
                    Tool.Run("ln", "--", first, at);
                }
                else
                {
                    Put(at, unflushed == Unflushed.Kept ? bytes.GetValueOrDefault(inode) ?? _safe.GetValueOrDefault(inode) : _safe.GetValueOrDefault(inode));
                    made[inode] = at;
                }
            }
        }
    }

    protected override void Flushed(string folder)
    {
        lock (_lock)
        {
            if (FileFacts.Of(folder) is { Kind: EntryKind.Folder } facts)
            {
                _safeNames[facts.Inode] = NamesIn(folder);
            }
        }
    }

    protected override void FileFlushed(string path)
    {
        lock (_lock)
        {
            _safe[InodeOf(path)] = Read(path);
        }
    }

    private static void Put(string path, Node? node)
    {
        File.WriteAllBytes(path, node?.Bytes ?? []);
        if (node is not null)
        {
            File.SetUnixFileMode(path, (UnixFileMode)node.Mode);
            File.SetLastWriteTimeUtc(path, node.Modified);
        }
    }

    private static Node Read(string path) =>
        FileFacts.Of(path) is { } facts ? new Node(false, File.ReadAllBytes(path), facts.ModifiedUtc, facts.Mode) : new Node(false, [], default, 0x1A4);

    private static ulong InodeOf(string path) => FileFacts.Of(path)!.Value.Inode;

    private static Dictionary<string, ulong> NamesIn(string folder) =>
        Directory.EnumerateFileSystemEntries(folder).ToDictionary(e => Path.GetFileName(e), InodeOf, StringComparer.Ordinal);
}
