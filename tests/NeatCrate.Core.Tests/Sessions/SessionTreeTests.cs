using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Sessions;

/// <summary>The time is given to the tree, so nothing here waits.</summary>
public sealed class SessionTreeTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly SessionTree _tree;
    private readonly DateTime _now = DateTime.UtcNow;

    public SessionTreeTests() => _tree = new SessionTree(_temp.Folder("session"));

    public void Dispose() => _temp.Dispose();

    private string Write(string name, string text, TimeSpan ago)
    {
        var path = _temp.At("session", "Audio", name);
        File.WriteAllText(path, text);
        File.SetLastWriteTimeUtc(path, _now - ago);
        return path;
    }

    private string[] Look(LookDepth depth, double later = 0) => [.. _tree.Look(depth, _now.AddSeconds(later), TestContext.Current.CancellationToken).Select(c => Path.GetFileName(c.Path))];

    /// <summary>A clock of two seconds, as FAT has it, gives a folder the same time twice: what came in between is found all the same.</summary>
    [Fact]
    public void AFileThatCameWithinOneStepOfTheDrivesClockIsFound()
    {
        Write("a.wav", "a", TimeSpan.FromHours(1));
        var (audio, step) = (_temp.At("session", "Audio"), _now.AddSeconds(-1));
        Directory.SetLastWriteTimeUtc(audio, step);
        Assert.Equal(["a.wav"], Look(LookDepth.Folders));
        Write("b.wav", "b", TimeSpan.FromHours(1));
        Directory.SetLastWriteTimeUtc(audio, step);
        Assert.Equal(["b.wav"], Look(LookDepth.Folders, 0.5));
        Assert.Empty(Look(LookDepth.Folders, 1));
    }

    /// <summary>A folder whose time was put back, as what is set aside leaves it, shows by when the system last noted a change of it.</summary>
    [Fact]
    public void AFolderWhoseTimeWasPutBackIsReadAllTheSame()
    {
        Write("a.wav", "a", TimeSpan.FromHours(1));
        var (audio, old) = (_temp.At("session", "Audio"), _now.AddHours(-1));
        Directory.SetLastWriteTimeUtc(audio, old);
        Look(LookDepth.Folders, 10);
        Write("b.wav", "b", TimeSpan.FromHours(1));
        Directory.SetLastWriteTimeUtc(audio, old);
        Assert.Equal(["b.wav"], Look(LookDepth.Folders, 20));
        Assert.Empty(Look(LookDepth.Folders, 30));
    }

    [Fact]
    public void AFileThatIsReplacedByAnotherOfItsNameIsSeenByItsNumber()
    {
        var path = Write("a.wav", "aaaa", TimeSpan.FromHours(1));
        Look(LookDepth.Folders);
        File.Move(Write("b.tmp", "bbbb", TimeSpan.FromHours(1)), path, overwrite: true);
        Assert.Equal(["a.wav"], Look(LookDepth.Folders));
    }

    /// <summary>What is written over in its place does not show by its folder: it is found in turn, and once found it is followed.</summary>
    [Fact]
    public void WhatIsWrittenOverInItsPlaceIsFoundInTurnAndThenFollowed()
    {
        Write("a.wav", "a", TimeSpan.FromHours(2));
        Write("b.wav", "b", TimeSpan.FromHours(2));
        Look(LookDepth.Folders);
        Write("a.wav", "aa", TimeSpan.FromHours(1));
        Assert.Empty(Look(LookDepth.Folders, 10));
        Assert.Equal(["a.wav"], _tree.Recheck(1, _now).Concat(_tree.Recheck(1, _now)).Select(c => Path.GetFileName(c.Path)));
        Write("a.wav", "aaa", TimeSpan.FromHours(1));
        Assert.Equal(["a.wav"], Look(LookDepth.Folders, 1));
    }

    [Fact]
    public void AFolderThatGoesTakesItsFilesAlong()
    {
        Write("a.wav", "a", TimeSpan.FromHours(1));
        Look(LookDepth.Folders);
        Directory.Delete(_temp.At("session", "Audio"), true);
        var gone = Assert.Single(_tree.Look(LookDepth.Folders, _now, TestContext.Current.CancellationToken));
        Assert.Equal((true, false), (gone.Before is not null, gone.Now is not null));
        Assert.Empty(_tree.Files);
    }
}
