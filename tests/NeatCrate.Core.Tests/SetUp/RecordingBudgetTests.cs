using NeatCrate.Core.Media;
using NeatCrate.Core.SetUp;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.SetUp;

public sealed class RecordingBudgetTests
{
    /// <summary>Worked example of common practice: 48 kHz, 24 bit, mono is 144,000 bytes a second, 8.64 MB a minute; 24 tracks are 24 times that.</summary>
    [Fact]
    public void TheRateAndTheSizeAreThoseOfAllTracks()
    {
        var budget = RecordingBudget.Of(24, 48000, 24, expectedSeconds: 60, freeBytes: 0);
        Assert.Equal(24 * 144_000, budget.BytesPerSecond);
        Assert.Equal(24 * 8_640_000, budget.ExpectedBytes);
    }

    /// <summary>Common practice: time left is free bytes over the sum of the rates; a mirror on the same drive counts twice.</summary>
    [Fact]
    public void AMirrorOnTheSameDriveHalvesTheTimeLeftAndOneElsewhereBoundsByItself()
    {
        const long Free = 144_000L * 3600;
        Assert.Equal(3600, RecordingBudget.Of(1, 48000, 24, 0, Free).SecondsLeft);
        Assert.Null(RecordingBudget.Of(1, 48000, 24, 0, Free).MirrorSecondsLeft);
        Assert.Equal(1800, RecordingBudget.Of(1, 48000, 24, 0, Free, new MirrorPlace(true, Free)).SecondsLeft);
        var apart = RecordingBudget.Of(2, 48000, 24, 0, Free, new MirrorPlace(false, Free / 4));
        Assert.Equal((1800, 450), (apart.SecondsLeft, apart.MirrorSecondsLeft));
        Assert.Null(RecordingBudget.Of(0, 48000, 24, 0, Free).SecondsLeft);
    }

    /// <summary>(2^32 − header) / data rate: 48 kHz, 24 bit, mono reaches 4 GiB after 8 h 17 min; 192 kHz after a quarter of it.</summary>
    [Fact]
    public void TheLimitOfARIFFFileIsReachedWhenItsSizeFieldIsFull()
    {
        var at48 = RecordingBudget.Of(1, 48000, 24, 0, 0).SecondsToLimit;
        Assert.Equal((4_294_967_296 - WavWriter.HeaderBytes) / 144_000.0, at48);
        Assert.Equal("08:17:06", TimeSpan.FromSeconds(Math.Floor(at48)).ToString("c", null));
        Assert.Equal(at48 / 4, RecordingBudget.Of(1, 192000, 24, 0, 0).SecondsToLimit, 6);
        // It is the limit of one file: more tracks do not bring it nearer.
        Assert.Equal(at48, RecordingBudget.Of(24, 48000, 24, 0, 0).SecondsToLimit);
    }

    [Fact]
    public void TheHeaderIsAsLongAsTheWriterMakesIt()
    {
        using var temp = new TempFolder();
        var path = temp.At("take.wav");
        using (var stream = File.Create(path))
        using (var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24), new BroadcastExtension("", "", "", "", "", 0)))
        {
            writer.Write([1, 2]);
        }
        Assert.Equal(WavWriter.HeaderBytes, WavHeaderReader.ReadFile(path).DataOffset);
    }
}
