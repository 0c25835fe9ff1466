using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

/// <summary>Identities over files that FFmpeg writes and rewrites: what it does to the texts around a sound is no change of the sound.</summary>
public sealed class FileIdentitiesTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private static FileIdentities Of(string path) => FileIdentities.OfFile(path, MediaHeaderReader.ReadFile(path), TestContext.Current.CancellationToken);

    private string Make(string name, string options, double frequency = 440)
    {
        var path = _temp.At(name);
        Tool.Run("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", FormattableString.Invariant($"sine=frequency={frequency}:sample_rate=48000:duration=0.6"), .. options.Split(' '), path]);
        return path;
    }

    [Theory]
    [InlineData("a.wav", "-c:a pcm_s24le")]
    [InlineData("a.flac", "-c:a flac")]
    [InlineData("a.aiff", "-c:a pcm_s16be")]
    [InlineData("a.ogg", "-c:a libvorbis")]
    [InlineData("a.opus", "-c:a libopus")]
    [InlineData("a.mp3", "-c:a libmp3lame -b:a 128k")]
    public void OtherTextsChangeTheBytesAndNotTheSound(string name, string options)
    {
        var path = Make(name, options + " -metadata title=Net");
        var retold = _temp.At("retold-" + name);
        // A text so long that the pages of an Ogg file are numbered anew.
        Tool.Run("ffmpeg", "-v", "error", "-i", path, "-c", "copy", "-metadata", "title=Mender", "-metadata", "comment=" + new string('x', 70_000), retold);
        var (before, after) = (Of(path), Of(retold));
        Assert.NotEqual(before.Bytes, after.Bytes);
        Assert.Equal(before.Sound, after.Sound);
        Assert.NotNull(before.Sound);
        Assert.NotEqual(before.Sound, Of(Make("other-" + name, options, 441)).Sound);
    }

    [Fact]
    public void TheSameDataAtAnotherRateIsAnotherSound()
    {
        var path = Make("a.wav", "-c:a pcm_s16le");
        var bytes = File.ReadAllBytes(path);
        BitConverter.TryWriteBytes(bytes.AsSpan(24), 44100);
        var slower = _temp.At("slower.wav");
        File.WriteAllBytes(slower, bytes);
        Assert.Equal(44100, MediaHeaderReader.ReadFile(slower)!.SampleRate);
        Assert.NotEqual(Of(path).Sound, Of(slower).Sound);
    }

    [Fact]
    public void TheBytesAreThoseThatTheWholeFileHasAndOtherFilesHaveNoSound()
    {
        var path = _temp.At("tune.mid");
        File.WriteAllBytes(path, [1, 2, 3]);
        Assert.Equal(new FileIdentities(ByteIdentity.Of([1, 2, 3]), null), Of(path));
    }

    [Fact]
    public void ADamagedOggFileHasAnIdentityAsWell()
    {
        var path = Make("a.ogg", "-c:a libvorbis");
        var bytes = File.ReadAllBytes(path);
        var second = bytes.AsSpan(bytes.Length - 40);
        second.Fill(0x11);
        File.WriteAllBytes(path, bytes);
        Assert.NotNull(Of(path).Sound);
        Assert.Equal(Of(path), Of(path));
    }
}
