using System.IO.Hashing;
using System.Runtime.InteropServices;

namespace NeatCrate.Core.Relink;

/// <summary>
/// By what a file is suggested for a lost one: its name as it is compared between systems, its size, and its length. Sorted arrays
/// of numbers, about 60 bytes a file. Once it is sorted it may be asked by several threads.
/// </summary>
/// <param name="files">So many files at the most.</param>
public sealed class SuggestionKeys(int files)
{
    // Takes of one pass, and one-shots, are alike in size and length by the hundred; the name tells those apart.
    private const int MostByName = 400;
    private const int MostBySize = 16;
    private const int MostByLength = 12;

    // Where an identity is known to compare with, more are worth a look.
    private const int MostToRead = 250;

    private readonly long[] _ticks = new long[files];
    private readonly List<(ulong Key, int File)> _names = new(files + (files / 8));
    private readonly (ulong Key, int File)[] _sizes = new (ulong, int)[files];
    private readonly (ulong Key, int File)[] _lengths = new (ulong, int)[files];
    private int _count;

    /// <summary>Adds a file; the first is number 0.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="bytes">Size in bytes.</param>
    /// <param name="ticks">Time of the last change (UTC), in steps of 100 ns since the year 1.</param>
    /// <param name="samples">Length in samples; -1 where it is not known.</param>
    /// <param name="rate">Sample rate in Hz.</param>
    public void Add(string name, long bytes, long ticks, long samples, int rate)
    {
        var at = _count++;
        _ticks[at] = ticks;
        var (whole, plain) = (LooseName.Of(name), LooseName.WithoutNumber(name));
        _names.Add((KeyOf(whole), at));
        if (plain != whole)
        {
            _names.Add((KeyOf(plain), at));
        }
        _sizes[at] = ((ulong)bytes, at);
        _lengths[at] = (samples < 0 ? ulong.MaxValue : LengthKey(samples, rate), at);
    }

    /// <summary>Makes it ready to be asked.</summary>
    public void Sort()
    {
        CollectionsMarshal.AsSpan(_names).Sort();
        _sizes.AsSpan(0, _count).Sort();
        _lengths.AsSpan(0, _count).Sort();
    }

    /// <summary>Numbers of the files that may be a lost one, those with its name first.</summary>
    public IReadOnlyList<int> SuggestionsFor(LostFile lost)
    {
        ArgumentNullException.ThrowIfNull(lost);
        var found = new List<int>();
        var (whole, plain) = (lost.At.Loose, lost.At.WithoutNumber);
        Collect(CollectionsMarshal.AsSpan(_names), KeyOf(whole), MostByName, found);
        if (plain != whole)
        {
            Collect(CollectionsMarshal.AsSpan(_names), KeyOf(plain), MostByName, found);
        }
        if (lost.Known is { } known)
        {
            var sized = new List<int>();
            Collect(_sizes.AsSpan(0, _count), (ulong)known.Bytes, int.MaxValue, sized);
            found.AddRange(sized.OrderBy(f => Math.Abs(_ticks[f] - known.ModifiedUtc.Ticks) > EvidenceRules.SameTime.Ticks).ThenBy(f => f).Take(lost.Noted.Any ? MostToRead : MostBySize));
            if (known is { LengthSamples: { } samples, SampleRate: { } rate })
            {
                Collect(_lengths.AsSpan(0, _count), LengthKey(samples, rate), lost.Noted.Any ? MostToRead : MostByLength, found);
            }
        }
        else if (lost.Stated is { SampleRate: { } stated })
        {
            // A document that counts in samples states the length exactly.
            Collect(_lengths.AsSpan(0, _count), LengthKey((long)Math.Round(lost.Stated.Seconds * stated), stated), MostByLength, found);
        }
        return [.. found.Distinct()];
    }

    private static ulong KeyOf(string name) => XxHash3.HashToUInt64(MemoryMarshal.AsBytes(name.AsSpan()));

    private static ulong LengthKey(long samples, int rate) => ((ulong)samples * 1_000_003) ^ ((ulong)rate << 40);

    private static void Collect(ReadOnlySpan<(ulong Key, int File)> sorted, ulong key, int most, List<int> into)
    {
        var (low, high) = (0, sorted.Length);
        while (low < high)
        {
            var middle = (low + high) / 2;
            (low, high) = sorted[middle].Key < key ? (middle + 1, high) : (low, middle);
        }
        for (var at = low; at < sorted.Length && sorted[at].Key == key && at - low < most; at++)
        {
            into.Add(sorted[at].File);
        }
    }
}
