using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

/// <summary>One sound, stored in many ways by flac(1), SoX and FFmpeg: its samples are the same in all that keep them exactly.</summary>
public sealed class SampleIdentityTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly string _wav;

    public SampleIdentityTests()
    {
        _wav = _temp.At("noise.wav");
        Tool.Run("sox", "-R", "-n", "-r", "48000", "-b", "24", "-c", "2", _wav, "synth", "1", "pinknoise", "gain", "-6");
    }

    public void Dispose() => _temp.Dispose();

    private static SampleIdentity? Of(string path) => SampleIdentity.OfFile(path, MediaHeaderReader.ReadFile(path)!, TestContext.Current.CancellationToken);

    private string Sox(string source, string name, params string[] format)
    {
        var path = _temp.At(name);
        Tool.Run("sox", ["-D", source, .. format, path]);
        return path;
    }

    [Fact]
    public void AWavAndItsFlacShareIt()
    {
        var flac = _temp.At("noise.flac");
        Tool.Run("flac", "-s", "-8", "-o", flac, _wav);
        Assert.NotNull(Of(_wav));
        Assert.Equal(Of(_wav), Of(flac));
        Assert.NotEqual(FileIdentities.OfFile(_wav, MediaHeaderReader.ReadFile(_wav), TestContext.Current.CancellationToken).Sound, FileIdentities.OfFile(flac, MediaHeaderReader.ReadFile(flac), TestContext.Current.CancellationToken).Sound);
    }

    /// <summary>Whoever has to hold still while something records can do so before each block, however the samples are stored.</summary>
    [Theory]
    [InlineData(".wav", 3)]
    [InlineData(".flac", 10)]
    public void ItIsAskedBeforeEachBlockWhetherToGoOn(string extension, int least)
    {
        var path = _temp.At("long" + extension);
        Tool.Run("sox", "-R", "-n", "-r", "48000", "-b", "16", "-c", "1", path, "synth", "4", "pinknoise");
        var asked = 0;
        var header = MediaHeaderReader.ReadFile(path)!;
        var identity = SampleIdentity.OfFile(path, header, () => asked++, TestContext.Current.CancellationToken);
        Assert.InRange(asked, least, 100);
        Assert.Equal(Of(path), identity);
        Assert.Throws<TimeoutException>(() => SampleIdentity.OfFile(path, header, () => throw new TimeoutException(), TestContext.Current.CancellationToken));
    }

    [Theory]
    [InlineData("a.aiff")]
    [InlineData("wide.wav", "-b", "32", "-e", "signed-integer")]
    [InlineData("a.ogg", "-t", "flac")]
    public void HowTheyAreStoredDoesNotMatter(string name, params string[] format) => Assert.Equal(Of(_wav), Of(Sox(_wav, name, format)));

    [Fact]
    public void EightAndSixteenBitsStayTheSameInWiderFiles()
    {
        foreach (var bits in new[] { "8", "16" })
        {
            var narrow = Sox(_wav, $"narrow {bits}.wav", "-b", bits);
            Assert.Equal(Of(narrow), Of(Sox(narrow, $"wider {bits}.wav", "-b", "24", "-e", "signed-integer")));
            Assert.NotEqual(Of(_wav), Of(narrow));
        }
    }

    [Fact]
    public void FloatingPointIsExactAndNoInteger()
    {
        var single = Sox(_wav, "single.wav", "-b", "32", "-e", "floating-point");
        Assert.Equal(Of(single), Of(Sox(single, "double.wav", "-b", "64", "-e", "floating-point")));
        Assert.NotEqual(Of(_wav), Of(single));
    }

    [Fact]
    public void OneSampleMoreLessOrOtherMakesAnother()
    {
        var bytes = File.ReadAllBytes(_wav);
        var other = _temp.At("other.wav");
        bytes[^1] ^= 1;
        File.WriteAllBytes(other, bytes);
        Assert.NotEqual(Of(_wav), Of(other));
        Assert.NotEqual(Of(_wav), Of(Sox(_wav, "slower.wav", "-r", "44100")));
        var trimmed = _temp.At("trimmed.wav");
        Tool.Run("sox", _wav, trimmed, "trim", "0", "47999s");
        Assert.NotEqual(Of(_wav), Of(trimmed));
    }

    [Theory]
    [InlineData("a.mp3", "libmp3lame")]
    [InlineData("a.ogg", "libvorbis")]
    [InlineData("a.opus", "libopus")]
    public void ALossyFormatHasNone(string name, string codec)
    {
        var path = _temp.At(name);
        Tool.Run("ffmpeg", "-v", "error", "-i", _wav, "-c:a", codec, path);
        Assert.Null(Of(path));
    }

    [Fact]
    public void ASoundThatIsCutOffHasNoIdentityThatCouldBeMistaken()
    {
        var flac = _temp.At("cut.flac");
        Tool.Run("flac", "-s", "-o", flac, _wav);
        File.WriteAllBytes(flac, File.ReadAllBytes(flac)[..^20_000]);
        Assert.Equal(FaultCode.SoundCutShort, Assert.ThrowsAny<FaultException>(() => Of(flac)).Fault.Code);
    }
}
