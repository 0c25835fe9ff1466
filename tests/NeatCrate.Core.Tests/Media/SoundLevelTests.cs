using System.Globalization;
using System.Text.RegularExpressions;
using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

/// <summary>How loud a sound is, against SoX and FFmpeg.</summary>
public sealed class SoundLevelTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private static SoundLevel Of(string path)
    {
        var header = MediaHeaderReader.ReadFile(path)!;
        using var reader = SoundReader.Open(path, header);
        return SoundLevel.Of(reader, header.Encoding == SampleEncoding.FloatingPoint ? 0 : header.BitsPerSample, TestContext.Current.CancellationToken);
    }

    /// <summary>Source of the expected values: "sox stat" gives the greatest and the least sample, FFmpeg's volumedetect the peak in dBFS to a tenth.</summary>
    [Theory]
    [InlineData("-b 16 -c 1", "synth 1 sine 441 vol 0.5", "a.wav")]
    [InlineData("-b 24 -c 2", "synth 1 pinknoise vol 0.31", "a.wav")]
    [InlineData("-b 16 -c 2", "synth 1 sine 300 sine 700 vol 0.9", "a.flac")]
    [InlineData("-b 32 -e floating-point -c 1", "synth 1 sawtooth 100 vol 0.77", "a.wav")]
    [InlineData("-b 24 -c 1", "synth 1 sine 1000 vol 0.01", "a.aiff")]
    public void ThePeakIsWhatOtherProgramsMeasure(string format, string effects, string name)
    {
        var path = Path.Combine(_temp.Path, name);
        Tool.Run("sh", "-c", $"sox -n -r 48000 {format} '{path}' {effects}");
        var level = Of(path);
        var stat = Tool.Run("sh", "-c", $"sox '{path}' -n stat 2>&1");
        double Figure(string what) => double.Parse(Regex.Match(stat, $@"{what}:\s+(-?[\d.]+)").Groups[1].Value, CultureInfo.InvariantCulture);
        Assert.Equal(Math.Max(Figure("Maximum amplitude"), -Figure("Minimum amplitude")), level.Peak, 5e-6);
        var detected = Tool.Run("sh", "-c", $"ffmpeg -hide_banner -i '{path}' -af volumedetect -f null - 2>&1");
        var decibels = double.Parse(Regex.Match(detected, @"max_volume: (-?[\d.]+) dB").Groups[1].Value, CultureInfo.InvariantCulture);
        Assert.Equal(decibels, level.Decibels, 0.06);
        Assert.False(level.IsClipped);
    }

    [Theory]
    [InlineData(16, 1)]
    [InlineData(16, 2)]
    [InlineData(24, 1)]
    [InlineData(24, 2)]
    public void ASoundThatWasDrivenTooHardIsClipped(int bits, int channels)
    {
        var path = Path.Combine(_temp.Path, "hot.wav");
        Tool.Run("sh", "-c", $"sox -n -r 48000 -b {bits} -c {channels} '{path}' synth 1 sine 100 vol 3 2>/dev/null");
        Assert.True(Of(path).IsClipped);
        // Just below it is loud, and whole.
        Tool.Run("sh", "-c", $"sox -n -r 48000 -b {bits} -c {channels} -D '{path}' synth 1 sine 100 vol 0.999 2>/dev/null");
        Assert.False(Of(path).IsClipped);
    }

    [Fact]
    public void SilenceHasNoPeak()
    {
        var path = Path.Combine(_temp.Path, "silence.wav");
        Tool.Run("sox", "-n", "-r", "48000", "-b", "16", "-D", path, "trim", "0", "0.1");
        Assert.Equal((0f, double.NegativeInfinity, false), (Of(path).Peak, Of(path).Decibels, Of(path).IsClipped));
    }
}
