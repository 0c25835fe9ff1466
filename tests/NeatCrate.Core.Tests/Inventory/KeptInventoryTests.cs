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
}
