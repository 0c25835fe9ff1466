using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Backups;

public sealed class DocumentWatchTests : IDisposable
{
    private static readonly DateTime Start = new(2026, 10, 19, 20, 0, 0, DateTimeKind.Utc);

    private readonly TempFolder _temp = new();
    private readonly DocumentWatch _watch = new(TimeSpan.FromMilliseconds(400));

    private static SeenDocument State(long number) => new("/s/a.otio", new FileFacts(EntryKind.File, 1, 1, number, Start.AddTicks(7), 420), number);

    private bool Look(long number, int milliseconds, TimeSpan longest = default) => _watch.Look([State(number)], Start.AddMilliseconds(milliseconds), longest).Count > 0;

    [Fact]
    public void AStateIsKeptOnceItStoodStill()
    {
        Assert.False(Look(1, 0));
        Assert.False(Look(1, 250));
        Assert.True(Look(1, 500));
        _watch.Kept("/s/a.otio");
        Assert.False(Look(1, 750));
        Assert.False(Look(2, 1000));
        Assert.True(Look(2, 1500));
    }

    /// <summary>Among many sessions those are looked at each time that are worked in: what waits, and what was saved a while ago, whatever the clock does.</summary>
    [Fact]
    public void ADocumentThatWaitsOrWasSavedLatelyIsAwake()
    {
        var lately = TimeSpan.FromMinutes(10);
        bool IsAwake(TimeSpan after) => _watch.HappenedAt(Start + after, lately) is not null;
        Assert.False(IsAwake(TimeSpan.Zero));
        Look(1, 0);
        Assert.Equal(long.MaxValue, _watch.HappenedAt(Start.AddHours(1), lately));
        _watch.Kept("/s/a.otio");
        Assert.Equal(State(1).Facts.ModifiedUtc.Ticks, _watch.HappenedAt(Start.AddMinutes(9), lately));
        Assert.False(IsAwake(TimeSpan.FromMinutes(11)));
        Assert.True(IsAwake(TimeSpan.FromMinutes(-9)));
        Assert.False(IsAwake(TimeSpan.FromMinutes(-11)));
        Look(2, 20 * 60_000);
        Assert.True(IsAwake(TimeSpan.FromMinutes(20)));
    }

    /// <summary>Looked at four times a second, every state that stands for a second is due while it stands, wherever in between it came.</summary>
    [Fact]
    public void NoStateThatStandsForASecondIsMissed()
    {
        for (var offset = 0; offset < 250; offset += 10)
        {
            var watch = new DocumentWatch(TimeSpan.FromMilliseconds(400));
            var kept = new HashSet<long>();
            for (var now = 0; now < 20_000; now += 250)
            {
                var number = 1 + ((now + offset) / 1000);
                if (watch.Look([State(number)], Start.AddMilliseconds(now), TimeSpan.Zero).Count > 0)
                {
                    kept.Add(number);
                    watch.Kept("/s/a.otio");
                }
            }
            Assert.Superset(Enumerable.Range(2, 18).Select(n => (long)n).ToHashSet(), kept);
        }
    }

    /// <summary>On a drive that keeps times to a second or two, a second save within the step may look as the first: it is compared once that step is over, and never again.</summary>
    [Fact]
    public void WhereTimesAreCoarseAStateIsComparedOnceMore()
    {
        var coarse = new SeenDocument("/s/a.otio", new FileFacts(EntryKind.File, 1, 1, 100, Start, 420), 1);
        var due = new List<int>();
        for (var now = 0; now < 10_000; now += 250)
        {
            if (_watch.Look([coarse], Start.AddMilliseconds(now), TimeSpan.Zero).Count > 0)
            {
                due.Add(now);
                _watch.Kept("/s/a.otio");
            }
        }
        Assert.Equal([500, 2250], due);
        // What stood there for long is kept once.
        var old = coarse with { Path = "/s/old.otio", Facts = coarse.Facts with { ModifiedUtc = Start.AddDays(-1) } };
        Assert.Empty(_watch.Look([old], Start, TimeSpan.Zero));
        Assert.Single(_watch.Look([old], Start.AddSeconds(1), TimeSpan.Zero));
        _watch.Kept("/s/old.otio");
        Assert.Empty(_watch.Look([old], Start.AddSeconds(10), TimeSpan.Zero));
    }

    [Fact]
    public void ABurstBecomesOneState()
    {
        var kept = new List<long>();
        for (var now = 0; now < 4000; now += 100)
        {
            var number = Math.Min(10, now / 100);
            if (Look(number, now))
            {
                kept.Add(number);
                _watch.Kept("/s/a.otio");
            }
        }
        Assert.Equal([10], kept);
    }

    [Fact]
    public void WhatNeverStandsStillIsTakenAfterAWhile()
    {
        var longest = TimeSpan.FromMinutes(10);
        var due = Enumerable.Range(0, 4 * 60 * 11).First(n => Look(n, n * 250, longest));
        Assert.Equal(TimeSpan.FromMinutes(10), TimeSpan.FromMilliseconds(due * 250));
    }

    /// <summary>A document of any program is watched; sound, text and what systems leave behind are not.</summary>
    [Fact]
    public void WatchedAreTheDocumentsAtTheTop()
    {
        foreach (var name in new[] { "a.otio", "b.song-of-another-program", "c.wav", "d.txt", ".DS_Store", "._e.otio", "sub/f.otio" })
        {
            File.WriteAllText(_temp.At(name), "x");
        }
        Assert.Equal(["a.otio", "b.song-of-another-program"], Seen(new SessionDocuments(_temp.Path), DateTime.UtcNow));
        Assert.True(DocumentFormats.MayBeADocument("b.song-of-another-program", 1));
    }

    private static IEnumerable<string> Seen(SessionDocuments documents, DateTime now) => documents.Look(now).Select(s => Path.GetFileName(s.Path)).Order();

    /// <summary>The folder is read anew where it changed, or may have changed within one step of its clock; between that a document is seen that is saved in its place, or filled at last.</summary>
    [Fact]
    public void WhatComesGoesAndIsFilledIsSeen()
    {
        var (documents, now) = (new SessionDocuments(_temp.Path), DateTime.UtcNow);
        var (one, two) = (_temp.At("one.otio"), _temp.At("two.otio"));
        File.WriteAllText(one, "");
        Assert.Empty(Seen(documents, now.AddSeconds(60)));
        // By now the folder is at rest, and does not change by this.
        File.WriteAllText(one, "x");
        Assert.Equal(["one.otio"], Seen(documents, now.AddSeconds(61)));
        File.WriteAllText(one, "longer");
        Assert.Equal(6, documents.Look(now.AddSeconds(62)).Single().Facts.Bytes);
        File.WriteAllText(two, "x");
        Assert.Equal(["one.otio", "two.otio"], Seen(documents, now.AddSeconds(63)));
        File.Delete(one);
        Assert.Equal(["two.otio"], Seen(documents, now.AddSeconds(64)));
        // Something came within the step of the clock that the folder was read in: its time is put back to what it was then.
        var recent = Directory.GetLastWriteTimeUtc(_temp.Path);
        Assert.Equal(["two.otio"], Seen(documents, recent.AddSeconds(1)));
        File.WriteAllText(_temp.At("three.otio"), "x");
        Directory.SetLastWriteTimeUtc(_temp.Path, recent);
        Assert.Equal(["three.otio", "two.otio"], Seen(documents, recent.AddSeconds(1.5)));
        Directory.Delete(_temp.Path, recursive: true);
        Assert.ThrowsAny<IOException>(() => documents.Look(now.AddSeconds(70)));
        Directory.CreateDirectory(_temp.Path);
    }

    public void Dispose() => _temp.Dispose();
}
