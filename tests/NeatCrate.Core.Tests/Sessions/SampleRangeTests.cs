using CsCheck;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Sessions;

public sealed class SampleRangeTests
{
    private static TimeRange Range(double start, double duration, double rate) => new(ExactTime.From(start, rate), ExactTime.From(duration, rate));

    [Fact]
    public void WithoutASourceRangeAllOfTheFileIsUsed() =>
        Assert.Equal(new SampleRange(0, 4800), SampleRange.Of(null, default, 48000, 4800));

    [Fact]
    public void ARangeInFramesOfFilmCoversEverySampleItTouches()
    {
        // One frame at 24000/1001 is 2002 samples at 48 kHz, exactly.
        Assert.Equal(new SampleRange(2002, 4004), SampleRange.Of(Range(1, 2, 23.976), default, 48000, 100_000));
        // One frame at 30000/1001 is 1601.6 samples: it starts within sample 1601 and ends within sample 3203.
        Assert.Equal(new SampleRange(1601, 1603), SampleRange.Of(Range(1, 1, 29.97), default, 48000, 100_000));
    }

    [Fact]
    public void TheStartOfTheAvailableRangeIsWhereTheFileBegins() =>
        Assert.Equal(new SampleRange(48000, 24000), SampleRange.Of(Range(3601, .5, 1), ExactTime.From(3600, 1), 48000, 480_000));

    [Fact]
    public void ARangePastTheFileIsCutToIt()
    {
        Assert.Equal(new SampleRange(900, 100), SampleRange.Of(Range(900, 500, 48000), default(ExactTime), 48000, 1000));
        Assert.Equal(0, SampleRange.Of(Range(2000, 500, 48000), default(ExactTime), 48000, 1000).Length);
    }

    /// <summary>Where nothing tells at which time a file begins, no part of it may be called unused: ten in the morning lies past the end of any take.</summary>
    [Theory]
    [InlineData(1_728_000_000L, 0, 0L, 1000L)]
    [InlineData(-1L, 0, 0L, 1000L)]
    [InlineData(480L, 0, 480L, 48L)]
    [InlineData(480L, 480, 0L, 1000L)]
    public void WhereTheStartIsNotKnownAllOfTheFileCounts(long start, int timeReference, long from, long length) => Assert.Equal(
        new SampleRange(from, length), SampleRange.Of(Range(start, 48, 48000), null, 48000, 1000, (ulong)timeReference));

    [Fact]
    public void TheUnionCoversJustTheSamplesThatSomeRangeCovers() =>
        Gen.Select(Gen.Int[0, 60], Gen.Int[0, 20]).Array[0, 12].Sample(pairs =>
        {
            var ranges = pairs.Select(p => new SampleRange(p.Item1, p.Item2)).ToList();
            var union = SampleRange.Union(ranges);
            var covered = ranges.SelectMany(r => Enumerable.Range((int)r.Start, (int)r.Length)).ToHashSet();
            var apart = union.Zip(union.Skip(1)).All(p => p.First.End < p.Second.Start);
            return apart && covered.SetEquals(union.SelectMany(r => Enumerable.Range((int)r.Start, (int)r.Length)));
        });
}
