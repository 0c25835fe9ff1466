using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Vault;

/// <summary>One suite for every kind of place that holds objects.</summary>
public sealed class ObjectStoreTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public static TheoryData<string> Kinds => ["folder", "memory"];

    [Theory]
    [MemberData(nameof(Kinds))]
    public void WhatWasPutIsThereWholeAndListed(string kind)
    {
        var store = Store(kind);
        byte[] bytes = [.. Enumerable.Range(0, 3_000_000).Select(n => (byte)(n * 7))];
        Assert.True(store.Put("content/ab/one", bytes));
        Assert.True(store.Put("backups/song/2", "two"u8));
        store.Flush();
        Assert.Equal(bytes, store.Read("content/ab/one"));
        Assert.Equal(3, store.Size("backups/song/2"));
        Assert.Null(store.Size("backups/song/3"));
        Assert.Equal([new StoredObject("content/ab/one", bytes.Length)], store.List("content/"));
        Assert.Equal(["backups/song/2", "content/ab/one"], store.List("").Select(o => o.Name).Order());
        using var stream = store.Open("content/ab/one");
        stream.Seek(-1, SeekOrigin.End);
        Assert.Equal((bytes.Length, bytes[^1]), (stream.Length, (byte)stream.ReadByte()));
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void ANameThatIsTakenKeepsItsObject(string kind)
    {
        var store = Store(kind);
        store.Put("a/b", "first"u8);
        Assert.False(store.Put("a/b", "second"u8));
        Assert.Equal("first"u8.ToArray(), store.Read("a/b"));
        using (var better = store.Begin(0))
        {
            better.Write("third"u8);
            Assert.True(better.Keep("a/b", replaces: true));
        }
        Assert.Equal("third"u8.ToArray(), store.Read("a/b"));
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void WhatWasNotKeptLeavesNothing(string kind)
    {
        var store = Store(kind);
        using (var made = store.Begin(1000))
        {
            made.Write(new byte[500]);
        }
        Assert.Empty(store.List(""));
        Assert.Throws<FaultException>(() => store.Open("a"));
        store.Put("a", "x"u8);
        store.Remove("a");
        store.Remove("a");
        Assert.Null(store.Size("a"));
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void OnlyOneWriterHoldsTheLock(string kind)
    {
        var store = Store(kind);
        using (store.Lock())
        {
            Assert.Equal(FaultCode.VaultBusy, Assert.Throws<FaultException>(() => kind == "folder" ? Store(kind).Lock() : store.Lock()).Fault.Code);
        }
        store.Lock().Dispose();
    }

    /// <summary>A shelf that is away is an empty mount point, or nothing: no vault is begun on the machine's own drive.</summary>
    [Fact]
    public void AFolderWhoseShelfIsAwayIsNotMade()
    {
        var store = new FolderStore(Path.Combine(_temp.Path, "away", "Neat Crate vault"), new DurableFiles());
        Assert.Equal(FaultCode.RootGone, Assert.Throws<FaultException>(() => store.Put("a", "x"u8)).Fault.Code);
        Assert.False(Directory.Exists(Path.Combine(_temp.Path, "away")));
        Assert.Empty(store.List(""));
        Assert.Throws<ArgumentException>(() => store.PathOf("../outside"));
    }

    /// <summary>What the drive gives back is compared: a drive that writes something else is found out before the object exists.</summary>
    [Fact]
    public void AnObjectThatReadsBackOtherwiseDoesNotExist()
    {
        var files = new FaultyFiles { OnRead = (_, _, bytes) => bytes.AsSpan(0, Math.Min(1, bytes.Length)).Fill(0xFF) };
        var store = new FolderStore(Path.Combine(_temp.Path, "vault"), files);
        Assert.Equal(FaultCode.ReadBackDiffers, Assert.Throws<FaultException>(() => store.Put("a", "x"u8)).Fault.Code);
        Assert.Empty(Directory.EnumerateFiles(_temp.Path, "*", SearchOption.AllDirectories));
    }

    [Fact]
    public void WhatACrashLeftOnItsWayIsRemovedByTheNextWriter()
    {
        var store = Store("folder");
        store.Put("a", "x"u8);
        var left = Path.Combine(store.Place, "incoming", $"{Guid.NewGuid():N}.part");
        File.WriteAllText(left, "half");
        Assert.Equal(["a"], store.List("").Select(o => o.Name));
        store.Lock().Dispose();
        Assert.False(File.Exists(left));
    }

    /// <summary>
    /// Names that a killed writer left are flushed before anybody counts on them, wherever they stand; after one that came to its end nothing is
    /// flushed but what was touched since.
    /// </summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void OnlyAfterAKilledWriterAllFoldersAreFlushed(bool isKilled)
    {
        var files = new FaultyFiles();
        var store = new FolderStore(Path.Combine(_temp.Path, "vault"), files);
        using (store.Lock())
        {
            store.Put("content/ab/one", "one"u8);
            store.Put("content/cd/two", "two"u8);
            if (!isKilled)
            {
                store.Flush();
            }
        }
        // Another process comes, which knows nothing of it.
        var next = new FolderStore(store.Place, files);
        files.Calls.Clear();
        using (next.Lock())
        {
            next.Put("content/ef/three", "three"u8);
            next.Flush();
        }
        var flushed = files.Calls.Where(c => c.Call == "flush folder").Select(c => Path.GetFileName(c.Path)).ToHashSet();
        Assert.Contains("ef", flushed);
        Assert.Equal(isKilled, flushed.Contains("ab"));
        Assert.Equal(isKilled, flushed.Contains("cd"));
        // By then all of it is safe.
        files.Calls.Clear();
        using (next.Lock())
        {
            next.Remove("content/ef/three");
            next.Flush();
        }
        Assert.DoesNotContain(files.Calls, c => c.Call == "flush folder" && c.Path.EndsWith("ab", StringComparison.Ordinal));
    }

    /// <summary>While a writer holds the lock, the folder of its mark becomes a link, or another drive's: a file of that name there is somebody else's, and stays.</summary>
    [Theory]
    [InlineData("link")]
    [InlineData("another one")]
    [InlineData("none")]
    public void OnlyTheMarkThatWasMadeGoes(string instead)
    {
        var store = Store("folder");
        var (incoming, mark) = (Path.Combine(store.Place, "incoming"), Path.Combine(store.Place, "incoming", "unflushed"));
        var theirs = Path.Combine(_temp.Folder("theirs"), "unflushed");
        File.WriteAllText(theirs, "theirs");
        using (store.Lock())
        {
            store.Put("content/ab/one", "one"u8);
            Assert.True(File.Exists(mark));
            store.Flush();
            if (instead != "none")
            {
                Directory.Move(incoming, incoming + " away");
                if (instead == "link")
                {
                    Directory.CreateSymbolicLink(incoming, Path.GetDirectoryName(theirs)!);
                }
                else
                {
                    Directory.Move(Path.GetDirectoryName(theirs)!, incoming);
                    theirs = mark;
                }
            }
        }
        Assert.Equal("theirs", File.ReadAllText(theirs));
        // What was made goes, where it still has its place.
        Assert.Equal(instead != "none", File.Exists(mark));
    }

    /// <summary>What has the name of the mark and is none stops nothing and stays; all is flushed each time.</summary>
    [Fact]
    public void AFolderInThePlaceOfTheMarkStopsNothing()
    {
        var files = new FaultyFiles();
        var store = new FolderStore(Path.Combine(_temp.Path, "vault"), files);
        store.Put("content/ab/one", "one"u8);
        var folder = Directory.CreateDirectory(Path.Combine(store.Place, "incoming", "unflushed")).FullName;
        for (var n = 0; n < 2; n++)
        {
            files.Calls.Clear();
            using (store.Lock())
            {
                store.Put($"content/cd/{n}", "x"u8);
                store.Flush();
            }
            Assert.True(Directory.Exists(folder));
            Assert.Contains(files.Calls, c => c.Call == "flush folder" && c.Path.EndsWith("/ab", StringComparison.Ordinal));
        }
    }

    /// <summary>A folder of the vault that leads elsewhere: the vault is refused by its name, and no byte changes here or there.</summary>
    [Theory]
    [InlineData("incoming")]
    [InlineData("content")]
    [InlineData("content/ab")]
    [InlineData("backups")]
    [InlineData("backups/song")]
    [InlineData("damaged")]
    [InlineData("vault.lock")]
    [InlineData("")]
    public void NoLinkIsFollowedInAVault(string name)
    {
        var vault = Path.Combine(_temp.Path, "vault");
        var store = Store("folder");
        store.Put("content/ab/one", "one"u8);
        store.Put("backups/song/2", "two"u8);
        var path = Path.Combine(vault, name).TrimEnd('/');
        var elsewhere = Path.Combine(_temp.Folder("elsewhere"), "theirs");
        if (Directory.Exists(path))
        {
            Directory.Move(path, elsewhere);
        }
        else
        {
            Directory.CreateDirectory(elsewhere);
        }
        File.WriteAllText(Path.Combine(elsewhere, $"{Guid.NewGuid():N}.part"), "a stranger's");
        Directory.CreateSymbolicLink(path, elsewhere);
        var before = DiskTree.Of(_temp.Path);
        Assert.Equal((FaultCode.VaultLeadsElsewhere, path), Met(() => store.Lock().Dispose()));
        Assert.Equal((FaultCode.VaultLeadsElsewhere, path), Met(() => _ = store.List("").ToList()));
        if (name is not ("vault.lock" or "damaged"))
        {
            Assert.Equal((FaultCode.VaultLeadsElsewhere, path), Met(() => store.Put(name.StartsWith("backups", StringComparison.Ordinal) ? "backups/song/3" : "content/ab/two", "x"u8)));
        }
        Assert.Equal(before, DiskTree.Of(_temp.Path));

        static (FaultCode, string?) Met(Action act) => Assert.Throws<FaultException>(act).Fault is var fault ? (fault.Code, fault.Path) : default;
    }

    /// <summary>What has no name of ours in the folder of what is on its way is somebody's, and stops nothing.</summary>
    [Fact]
    public void WhatIsForeignStays()
    {
        var store = Store("folder");
        store.Put("a", "x"u8);
        var incoming = Path.Combine(store.Place, "incoming");
        File.WriteAllText(Path.Combine(incoming, "mix notes.txt"), "theirs");
        File.WriteAllText(Path.Combine(incoming, "1.part"), "theirs");
        Directory.CreateDirectory(Path.Combine(incoming, "folder"));
        Directory.CreateDirectory(Path.Combine(incoming, $"{Guid.NewGuid():N}.part"));
        File.WriteAllText(Path.Combine(_temp.Path, "target"), "theirs");
        File.CreateSymbolicLink(Path.Combine(incoming, $"{Guid.NewGuid():N}.part"), Path.Combine(_temp.Path, "target"));
        var before = Directory.EnumerateFileSystemEntries(_temp.Path, "*", SearchOption.AllDirectories).Order().ToList();
        store.Lock().Dispose();
        Assert.Equal(before.Append(Path.Combine(store.Place, "vault.lock")).Order(), Directory.EnumerateFileSystemEntries(_temp.Path, "*", SearchOption.AllDirectories).Order());
        Assert.True(store.Put("b", "x"u8));
    }

    /// <summary>A link or a folder that has an object's name is no object: it stands aside when the object comes, and is not read or removed.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void WhatHasTheNameOfAnObjectAndIsNoneStandsAside(bool isLink)
    {
        var store = Store("folder");
        store.Put("content/ab/one", "one"u8);
        var path = Path.Combine(store.Place, "content/ab/two");
        var target = _temp.Folder("theirs");
        File.WriteAllText(Path.Combine(target, "two"), "theirs");
        if (isLink)
        {
            File.CreateSymbolicLink(path, Path.Combine(target, "two"));
        }
        else
        {
            Directory.Move(target, path);
        }
        Assert.Null(store.Size("content/ab/two"));
        Assert.Equal(FaultCode.NotARegularFile, Assert.Throws<FaultException>(() => store.Open("content/ab/two")).Fault.Code);
        store.Remove("content/ab/two");
        Assert.True(store.Put("content/ab/two", "two"u8));
        Assert.Equal("two"u8.ToArray(), store.Read("content/ab/two"));
        Assert.Equal("theirs", File.ReadAllText(Path.Combine(store.Place, "damaged/content/ab/two", isLink ? "" : "two").TrimEnd('/')));
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void WhatStandsAsideIsNoObjectAndGoesWhenAWholeOneComes(string kind)
    {
        var store = Store(kind);
        store.Put("content/ab/one", "damaged"u8);
        store.MoveAside("content/ab/one");
        store.MoveAside("content/ab/none");
        Assert.Null(store.Size("content/ab/one"));
        Assert.Empty(store.List(""));
        Assert.Equal(["damaged/content/ab/one"], store.List("damaged/content/").Select(o => o.Name));
        store.Put("content/ab/one", "whole"u8);
        Assert.Empty(store.List("damaged/"));
    }

    /// <summary>Cut off at each of its steps, the replacing of a damaged object leaves one of its name: in its place, or aside where nothing can swap.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void AReplacingThatIsCutOffLosesNoName(bool canSwap)
    {
        for (var step = 0; ; step++)
        {
            var files = new FaultyFiles { CannotSwap = !canSwap };
            var vault = Path.Combine(_temp.Path, $"{canSwap}{step}");
            var store = new FolderStore(vault, files);
            store.Put("backups/song/1", "old"u8);
            var left = step;
            files.Before = (_, path) =>
            {
                if (left-- <= 0)
                {
                    throw new FaultException(FaultCode.CannotWrite, path);
                }
            };
            try
            {
                using var made = store.Begin(0);
                made.Write("new"u8);
                made.Keep("backups/song/1", replaces: true);
            }
            catch (FaultException)
            {
                // That is the cut.
            }
            var again = new FolderStore(vault, new QuickFiles());
            again.Lock().Dispose();
            Assert.True(again.Size("backups/song/1") == 3 || (!canSwap && again.Size("damaged/backups/song/1") == 3), $"Step {step}");
            if (left > 0)
            {
                Assert.Equal("new"u8.ToArray(), again.Read("backups/song/1"));
                Assert.Empty(again.List("damaged/"));
                break;
            }
        }
    }

    public void Dispose() => _temp.Dispose();

    private IObjectStore Store(string kind) => kind == "memory" ? new MemoryStore() : new FolderStore(Path.Combine(_temp.Path, "vault"), new QuickFiles());
}
