using NeatCrate.StandIns.Drives;
using NeatCrate.Testing;

namespace NeatCrate.StandIns.Tests.Drives;

public sealed class DemoDrivesTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    [Fact]
    public void ADriveComesBackAsItLeft()
    {
        File.WriteAllText(_temp.At("shelves", "Field card", "tide.wav"), "sea");
        var (card, before) = (Path.Combine(_temp.Path, "shelves", "Field card"), Tree.Of(_temp.Path));
        DemoDrives.Unplug(_temp.Path, card);
        Assert.False(Directory.Exists(card));
        Assert.ThrowsAny<IOException>(() => DemoDrives.Unplug(_temp.Path, card));
        DemoDrives.Plug(_temp.Path, card);
        Assert.Equal(before["shelves/Field card/tide.wav"], Tree.Of(_temp.Path)["shelves/Field card/tide.wav"]);
        Assert.ThrowsAny<IOException>(() => DemoDrives.Plug(_temp.Path, card));
    }

    [Theory]
    [InlineData("shelves/Field card", true)]
    [InlineData("shelves/Field card/260927", false)]
    [InlineData("unplugged/Field card", false)]
    [InlineData("../elsewhere", false)]
    public void OnlyWhatStandsOnTheDemosShelvesIsADriveOfIt(string path, bool expected) =>
        Assert.Equal(expected, DemoDrives.IsOne(_temp.Path, Path.Combine(_temp.Path, path)));
}
