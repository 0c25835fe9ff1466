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
