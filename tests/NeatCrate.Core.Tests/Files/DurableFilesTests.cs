using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Files;

/// <summary>What the layer does on the real disk; that it flushes where it says so is seen in the system calls alone, which strace(1) shows.</summary>
public sealed class DurableFilesTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly DurableFiles _files = new();

    public void Dispose() => _temp.Dispose();

    [Fact]
    public void NothingIsOverwrittenWhateverTheCall()
    {
        File.WriteAllText(_temp.At("one"), "1");
        File.WriteAllText(_temp.At("two"), "2");
        Assert.Equal(FaultCode.NameTaken, Assert.Throws<FaultException>(() => _files.CreateNew(_temp.At("two"), 0)).Fault.Code);
        Assert.Equal(FaultCode.NameTaken, Assert.Throws<FaultException>(() => _files.RenameToFreeName(_temp.At("one"), _temp.At("two"))).Fault.Code);
        Assert.Equal(FaultCode.NameTaken, Assert.Throws<FaultException>(() => _files.TryLink(_temp.At("one"), _temp.At("two"))).Fault.Code);
        Assert.Equal(("1", "2"), (File.ReadAllText(_temp.At("one")), File.ReadAllText(_temp.At("two"))));
    }

    /// <summary>As on exFAT and FAT through FUSE, which know neither a rename that refuses a taken name nor hard links: what is there stays, and nothing empty is left.</summary>
    [Fact]
    public void WithoutTheSystemsHelpATakenNameIsRefusedAsWell()
    {
        foreach (var name in new[] { "one", "two" })
        {
            File.WriteAllText(_temp.At(name), name);
            File.WriteAllText(_temp.At("folder " + name, "in " + name), name);
        }
        foreach (var (path, taken) in new[] { ("one", "two"), ("folder one", "folder two"), ("one", "folder two"), ("folder one", "two") })
        {
            var before = Tree.Of(_temp.Path);
            Assert.Equal(FaultCode.NameTaken, Assert.Throws<FaultException>(() => DurableFiles.TakeNameAndRename(_temp.At(path), _temp.At(taken))).Fault.Code);
            Assert.Equal(before, Tree.Of(_temp.Path));
        }
        Assert.Equal(FaultCode.NotThere, Assert.Throws<FaultException>(() => DurableFiles.TakeNameAndRename(_temp.At("gone"), _temp.At("three"))).Fault.Code);
        Assert.False(File.Exists(_temp.At("three")));
        DurableFiles.TakeNameAndRename(_temp.At("one"), _temp.At("three"));
        DurableFiles.TakeNameAndRename(_temp.At("folder one"), _temp.At("folder three"));
        Assert.Equal(("one", "one"), (File.ReadAllText(_temp.At("three")), File.ReadAllText(_temp.At("folder three", "in one"))));
        Assert.False(File.Exists(_temp.At("one")) || Directory.Exists(Path.Combine(_temp.Path, "folder one")));
    }

    [Fact]
    public void AFolderThatIsGoneCannotBeFlushed() =>
        Assert.Equal(FaultCode.NotThere, Assert.Throws<FaultException>(() => _files.FlushFolder(_temp.At("nowhere", "x"))).Fault.Code);

    [Fact]
    public void AFolderWithSomethingInItIsNotRemoved()
    {
        File.WriteAllText(_temp.At("full", "x"), "x");
        Assert.False(_files.RemoveFolder(_temp.At("full")));
        Assert.True(File.Exists(_temp.At("full", "x")));
        Assert.True(_files.RemoveFolder(_temp.Folder("empty")));
    }

    [Theory]
    [InlineData("pipe")]
    [InlineData("folder")]
    public void WhatIsNoFileIsNotOpened(string name)
    {
        Tool.Run("mkfifo", _temp.At("pipe"));
        _temp.Folder("folder");
        Assert.Equal(FaultCode.NotARegularFile, Assert.Throws<FaultException>(() => _files.OpenSource(_temp.At(name))).Fault.Code);
    }
}
