using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Inventory;

/// <summary>The time is given to the inventory, so nothing here waits.</summary>
public sealed class KeptInventoryTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private DateTime _now = DateTime.UtcNow;

    public void Dispose() => _temp.Dispose();

    private bool After(KeptInventory kept, double seconds)
    {
        _now += TimeSpan.FromSeconds(seconds);
        return kept.Notice(_now, 100).Media;
    }

    private static KeptInventory Kept(string folder) => new(folder, new HeaderCache());

    private static void Append(string path, int bytes)
    {
        using var stream = new FileStream(path, FileMode.Append);
        stream.Write(new byte[bytes]);
    }

    [Fact]
    public void AFileThatGrowsIsSeenGrowingAndComingToRest()
    {
        var path = _temp.At("Audio", "Cello 01.wav");
        var watch = Kept(_temp.Path);
        Assert.False(watch.Notice(_now, 100).Any);
        Append(path, 100);
        Assert.True(After(watch, 1));
        Assert.Empty(watch.Growing);
        Append(path, 100);
        Assert.True(After(watch, 1));
        Assert.Equal([path], watch.Growing);
        Assert.False(After(watch, 2));
        Assert.Equal([path], watch.Growing);
        Assert.True(After(watch, 1.5));
        Assert.Empty(watch.Growing);
        Assert.False(After(watch, 1));
    }

    [Fact]
    public void AFileThatIsPutThereWholeIsSeenAndDoesNotCountAsGrowing()
    {
        var watch = Kept(_temp.Path);
        watch.Notice(_now, 100);
        var path = _temp.At("Audio", "Cello 01.wav");
        File.WriteAllBytes(path, new byte[100]);
        Assert.True(After(watch, 1));
        Assert.False(After(watch, 1));
        Assert.Empty(watch.Growing);
        File.Delete(path);
        Assert.True(After(watch, 1));
    }

    /// <summary>Its sizes come last: between its first byte and its second look it must not be taken for one that was cut off.</summary>
    [Fact]
    public void ARecordingThatAppearsCountsAsGrowingAtOnceUntilItStandsStill()
    {
        var watch = Kept(_temp.Path);
        watch.Notice(_now, 100);
        var path = _temp.At("Audio", "Cello 01.wav");
        File.WriteAllBytes(path, SoundWithoutSizes());
        File.SetLastWriteTimeUtc(path, _now.AddSeconds(1));
        Assert.True(After(watch, 1));
        Assert.Equal([path], watch.Growing);
        Assert.True(After(watch, 4));
        Assert.Empty(watch.Growing);
    }

    /// <summary>A drive may hold a recorder up for longer than any wait: only who writes knows when it is done.</summary>
    [Fact]
    public void WhatIsSaidToBeWrittenIsGrowingUntilItIsSettled()
    {
        var watch = Kept(_temp.Path);
        watch.Notice(_now, 100);
        var path = _temp.At("Audio", "Cello 01.wav");
        watch.Write(path, _now);
        File.WriteAllBytes(path, SoundWithoutSizes());
        After(watch, 1);
        After(watch, 600);
        Assert.Equal([path], watch.Growing);
        watch.Settle(path, _now);
        Assert.Empty(watch.Growing);
        watch.Write(path, _now);
        File.Delete(path);
        After(watch, 1);
        Assert.Empty(watch.Growing);
    }

    /// <summary>A wave file whose recorder has not come back to write its sizes.</summary>
    private static byte[] SoundWithoutSizes()
    {
        using var bytes = new MemoryStream();
        using var to = new BinaryWriter(bytes);
        to.Write("RIFF"u8);
        to.Write(0);
        to.Write("WAVEfmt "u8);
        to.Write(16);
        to.Write((short)1);
        to.Write((short)1);
        to.Write(48_000);
        to.Write(144_000);
        to.Write((short)3);
        to.Write((short)24);
        to.Write("data"u8);
        to.Write(0);
        to.Write(new byte[3_000]);
        return bytes.ToArray();
    }

    [Fact]
    public void AFileThatWasThereAndGrowsOnIsSeenWithinTenSeconds()
    {
        var path = _temp.At("Audio", "Cello 01.wav");
        Append(path, 100);
        var watch = Kept(_temp.Path);
        watch.Notice(_now, 100);
        Append(path, 100);
        Assert.True(After(watch, 10));
        Assert.Equal([path], watch.Growing);
        watch.Settle(path, _now);
        Assert.Empty(watch.Growing);
    }

    [Fact]
    public void OtherFilesAndOurOwnTemporaryOnesAreNotWatched()
    {
        var watch = Kept(_temp.Path);
        watch.Notice(_now, 100);
        Append(_temp.At("Audio", ".neat-crate-0123-4.part"), 100);
        Append(_temp.At("Notes", "lyrics.txt"), 100);
        Assert.False(After(watch, 10));
    }

    [Fact]
    public void AFolderThatLeavesAndComesBackIsNewsOnce()
    {
        var folder = _temp.Folder("session");
        Append(Path.Combine(folder, "Cello 01.wav"), 100);
        var watch = Kept(folder);
        watch.Notice(_now, 100);
        Directory.Move(folder, folder + " away");
        Assert.True(After(watch, 1));
        Assert.False(After(watch, 1));
        Directory.Move(folder + " away", folder);
        Assert.False(After(watch, 1));
        Assert.Empty(watch.Growing);
    }

    /// <summary>Whoever knows a revision hears only of what changed since; after a save, only of the files that are used otherwise by it.</summary>
    [Fact]
    public void WhatChangedSinceARevisionIsTold()
    {
        using var session = new SessionFixture();
        session.Place(SessionFixture.Sound(session.Inside("Audio", "a.wav")), "Cello").Save();
        var kept = Kept(session.Folder);
        SessionInventory Look() => kept.Look(null, session.Shelves, LookDepth.Folders, _now, TestContext.Current.CancellationToken);
        (string Changed, string Gone)? Since(long revision) => kept.Since(revision) is { IsWhole: false } changes
            ? (string.Join(' ', changes.Changed.Select(f => f.Name)), string.Join(' ', changes.Gone.Select(Path.GetFileName)))
            : null;
        Assert.Throws<FaultException>(() => kept.Since(0));
        var first = Look().Revision;
        Assert.Null(Since(-1));
        Assert.Equal(("", ""), Since(first));
        Assert.Equal(first, Look().Revision);
        SessionFixture.Sound(session.Inside("Audio", "b.wav"), seed: 2);
        // Told apart by one character that nobody sees.
        SessionFixture.Sound(session.Inside("Audio", "b\u200D.wav"), seed: 4);
        var second = Look().Revision;
        Assert.Equal(("b.wav b\u200D.wav", ""), Since(first));
        Assert.Equal(("", ""), Since(second));
        Append(session.Inside("Audio", "b.wav"), 100);
        SessionFixture.Sound(session.Inside("Audio", "c.wav"), seed: 3);
        Look();
        File.Delete(session.Inside("Audio", "c.wav"));
        var third = Look().Revision;
        Assert.Equal(("b\u200D.wav b.wav", "c.wav"), Since(first));
        Assert.Equal(("b.wav", "c.wav"), Since(second));
        Assert.Equal(("", ""), Since(third));
        session.List(session.Inside("Audio", "b.wav")).Save();
        var saved = Look().Revision;
        Assert.Equal(("b.wav", SessionFixture.Name + ".otio"), Since(third));
        Assert.Equal(("", ""), Since(saved));
        // Another track may make takes of other files.
        session.Document.AddTrack("Oud");
        session.Save();
        Look();
        Assert.Null(Since(saved));
        // A revision of another time is none of this one's.
        Assert.Null(Since(saved + 1000));
    }

    /// <summary>That a file grows, and that it rests, is shown with it, so both are changes of it.</summary>
    [Fact]
    public void GrowingAndComingToRestAreChangesOfAFile()
    {
        using var session = new SessionFixture();
        var path = SessionFixture.Sound(session.Inside("Audio", "a.wav"));
        session.Save();
        var kept = Kept(session.Folder);
        long Look() => kept.Look(null, session.Shelves, LookDepth.Folders, _now, TestContext.Current.CancellationToken).Revision;
        kept.Notice(_now, 100);
        var before = Look();
        Append(path, 100);
        Assert.True(After(kept, 1));
        var growing = Look();
        Assert.Equal(path, Assert.Single(kept.Since(before).Changed).Path);
        Assert.True(After(kept, 4));
        Look();
        Assert.Equal(path, Assert.Single(kept.Since(growing).Changed).Path);
    }
}
