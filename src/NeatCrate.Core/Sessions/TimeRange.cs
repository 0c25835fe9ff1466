namespace NeatCrate.Core.Sessions;

/// <summary>A point or length in time, in exact seconds.</summary>
/// <param name="Seconds">Seconds, which may be negative.</param>
public readonly record struct ExactTime(Rational Seconds)
{
    /// <summary>From a count of units at a rate per second, as OpenTimelineIO's RationalTime has it.</summary>
    public static ExactTime From(double value, double rate) => new(Rational.FromDouble(value) / Rational.RateFromDouble(rate));
}

/// <summary>A start and a length, as OpenTimelineIO's TimeRange has it, in exact seconds.</summary>
public readonly record struct TimeRange(ExactTime Start, ExactTime Duration);

/// <summary>A run of samples in a media file: first sample and number of samples, both at the file's rate.</summary>
public readonly record struct SampleRange(long Start, long Length)
{
    /// <summary>The sample after the last.</summary>
    public long End => Start + Length;

    /// <summary>
    /// The samples of a file that a source range touches. Where it starts or ends between two samples, the whole
    /// sample counts, so that no used sample is ever left out.
    /// </summary>
    /// <param name="source">The clip's source range; null means all of the file.</param>
    /// <param name="availableStart">
    /// Where the file's first sample stands in the clip's own time. Null where the document does not say: then the range counts
    /// from the first sample, as is common practice, unless it does not fit into the file that way, or the file itself counts
    /// from midnight. Where its start is not known, all of the file counts.
    /// </param>
    /// <param name="sampleRate">The file's rate in Hz.</param>
    /// <param name="fileLength">The file's length in samples.</param>
    /// <param name="timeReference">The file's own first sample since midnight (EBU Tech 3285); 0 where it tells none.</param>
    public static SampleRange Of(TimeRange? source, ExactTime? availableStart, int sampleRate, long fileLength, ulong timeReference = 0)
    {
        var all = new SampleRange(0, fileLength);
        if (source is not { } range)
        {
            return all;
        }
        var rate = Rational.FromInt64(sampleRate);
        var start = (range.Start.Seconds - (availableStart?.Seconds ?? Rational.Zero)) * rate;
        var end = start + (range.Duration.Seconds * rate);
        if (availableStart is null && (timeReference > 0 || start < Rational.Zero || end > Rational.FromInt64(fileLength)))
        {
            return all;
        }
        var from = Clamp(start, fileLength, floor: true);
        var to = Clamp(end, fileLength, floor: false);
        return new SampleRange(from, Math.Max(0, to - from));
    }

    /// <summary>The union of ranges, in order, with ranges that touch or overlap made one.</summary>
    public static IReadOnlyList<SampleRange> Union(IEnumerable<SampleRange> ranges)
    {
        var union = new List<SampleRange>();
        foreach (var range in ranges.Where(r => r.Length > 0).OrderBy(r => r.Start))
        {
            if (union.Count > 0 && range.Start <= union[^1].End)
            {
                union[^1] = union[^1] with { Length = Math.Max(union[^1].End, range.End) - union[^1].Start };
            }
            else
            {
                union.Add(range);
            }
        }
        return union;
    }

    /// <summary>Ranges as they are seen from afar: where there are more of them than can be told apart, those nearest to each other made one.</summary>
    /// <param name="ranges">Ranges in order and apart.</param>
    /// <param name="most">So many at the most.</param>
    /// <param name="length">Length of the file in samples.</param>
    public static IReadOnlyList<SampleRange> AtMost(IReadOnlyList<SampleRange> ranges, int most, long length)
    {
        ArgumentNullException.ThrowIfNull(ranges);
        if (ranges.Count <= most)
        {
            return ranges;
        }
        // A gap narrower than one of as many stretches as can be told apart is not seen.
        var least = Math.Max(1, Math.Max(length, ranges[^1].End) / most);
        var seen = new List<SampleRange>(most);
        foreach (var range in ranges)
        {
            if (seen.Count > 0 && range.Start - seen[^1].End < least)
            {
                seen[^1] = seen[^1] with { Length = range.End - seen[^1].Start };
            }
            else
            {
                seen.Add(range);
            }
        }
        return seen;
    }

    private static long Clamp(Rational samples, long fileLength, bool floor)
    {
        if (samples <= Rational.Zero)
        {
            return 0;
        }
        if (samples >= Rational.FromInt64(fileLength))
        {
            return fileLength;
        }
        return floor ? samples.Floor() : samples.Ceiling();
    }
}
