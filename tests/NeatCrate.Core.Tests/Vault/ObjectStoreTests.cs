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
        var left = Path.Combine(store.Place, "incoming", "half.part");
        File.WriteAllText(left, "half");
        Assert.Equal(["a"], store.List("").Select(o => o.Name));
        store.Lock().Dispose();
        Assert.False(File.Exists(left));
    }

    public void Dispose() => _temp.Dispose();

    private IObjectStore Store(string kind) => kind == "memory" ? new MemoryStore() : new FolderStore(Path.Combine(_temp.Path, "vault"), new QuickFiles());
}
