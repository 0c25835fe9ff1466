using NeatCrate.Core.Media;

namespace NeatCrate.Core.Tests.Media;

public sealed class PeaksTests
{
    /// <summary>A sound that is given sample by sample.</summary>
    private sealed class Given(float[] samples, int channels = 1) : SoundReader
    {
        private int _at;

        public override int SampleRate => 48000;

        public override int Channels => channels;

        public override long LengthSamples => samples.Length / channels;

        public override void Seek(long sample) => _at = (int)sample * channels;

        public override int Read(Span<float> interleaved)
        {
            var count = Math.Min(interleaved.Length / channels, (samples.Length - _at) / channels);
            samples.AsSpan(_at, count * channels).CopyTo(interleaved);
            _at += count * channels;
            return count;
        }
    }

    private static sbyte[] Signed(Peaks peaks) => [.. peaks.Pairs.Select(b => (sbyte)b)];

    [Fact]
    public void EachStretchHasItsLeastAndItsGreatestSample()
    {
        using var sound = new Given([0, .5f, -.25f, 0, 1, -1, .1f, .2f]);
        Assert.Equal([0, 64, -32, 0, -127, 127, 13, 25], Signed(Peaks.Of(sound, 4, TestContext.Current.CancellationToken)));
    }

    [Fact]
    public void ChannelsCountTogetherAndASoundShorterThanTheStretchesGetsOneForEachSample()
    {
        using var sound = new Given([.5f, -.5f, 1, 0], 2);
        Assert.Equal([-64, 64, 0, 127], Signed(Peaks.Of(sound, 100, TestContext.Current.CancellationToken)));
        using var nothing = new Given([]);
        Assert.Equal(0, Peaks.Of(nothing, 100, TestContext.Current.CancellationToken).Count);
    }

    /// <summary>Against the plainest way of reckoning it, whatever the lengths.</summary>
    [Theory]
    [InlineData(100_003, 1, 2048)]
    [InlineData(50_000, 2, 333)]
    [InlineData(2049, 3, 2048)]
    public void LongSoundsAreTheSameAsReckonedPlainly(int length, int channels, int stretches)
    {
        var random = new Random(length);
        var samples = Enumerable.Range(0, length * channels).Select(_ => (float)((random.NextDouble() * 2) - 1)).ToArray();
        using var sound = new Given(samples, channels);
        var peaks = Signed(Peaks.Of(sound, stretches, TestContext.Current.CancellationToken));
        for (var i = 0; i < stretches; i += 50)
        {
            var here = Enumerable.Range(0, length).Where(n => (long)n * stretches / length == i).SelectMany(n => samples[(n * channels)..((n + 1) * channels)]).ToList();
            Assert.Equal(((sbyte)Math.Round(here.Min() * 127), (sbyte)Math.Round(here.Max() * 127)), (peaks[2 * i], peaks[(2 * i) + 1]));
        }
        var reduced = Signed(new Peaks([.. peaks.Select(p => (byte)p)]).Reduced(16));
        Assert.Equal((peaks.Min(), peaks.Max(), 32), (reduced.Min(), reduced.Max(), reduced.Length));
    }
}
