using NeatCrate.Core.Media;

namespace NeatCrate.Core.Tests.Media;

public sealed class VarispeedTests
{
    /// <summary>Worked example of common practice: 44.1 kHz material read at 48 kHz is 48/44.1 times too fast, 12·log2 of it in semitones.</summary>
    [Fact]
    public void MaterialAt44100ReadAt48000IsASemitoneAndAHalfTooHigh()
    {
        Assert.Equal(1.0884, Varispeed.Speed(44100, 48000), 4);
        Assert.Equal(1.47, Varispeed.Semitones(44100, 48000), 2);
        Assert.Equal(0.5, Varispeed.Speed(96000, 48000), 4);
        Assert.Equal(-12, Varispeed.Semitones(96000, 48000), 2);
    }

    /// <summary>Common practice: 48 kHz, 24 bit, mono is 144,000 bytes a second, 8.64 MB a minute.</summary>
    [Fact]
    public void TheDataRateIsRateTimesBytesTimesChannels()
    {
        Assert.Equal(144_000, new PcmFormat(48000, 1, 24).BytesPerSecond);
        Assert.Equal(8_640_000, 60 * new PcmFormat(48000, 1, 24).BytesPerSecond);
        Assert.Equal(176_400, new PcmFormat(44100, 2, 16).BytesPerSecond);
    }
}
