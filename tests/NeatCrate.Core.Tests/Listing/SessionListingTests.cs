using System.Collections.Immutable;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Listing;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Tests.Listing;

/// <summary>Lists that are kept and mended, held against lists that are made anew.</summary>
public sealed class SessionListingTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly KeptInventory _kept;
    private readonly SessionListing _listing;
    private CopyInMarks _marks = CopyInMarks.Everything;
    private DateTime _now = DateTime.UtcNow;

    public SessionListingTests()
    {
        _kept = new KeptInventory(_session.Folder, new HeaderCache());
        _listing = new SessionListing(_kept);
    }

    public void Dispose() => _session.Dispose();

    private OutsideFiles Outside => new(_session.Shelves, [], _marks);

    private SessionInventory Look() => _kept.Look(null, _session.Shelves, LookDepth.Files, _now, TestContext.Current.CancellationToken);

    private string[] Names(FileQuery query, int skip = 0, int take = 100) => [.. _listing.Part(query, skip, take, Outside).Files.Select(f => f.File.Name)];

    private static string Told(FilePart part) => string.Join('\n',
        part.Files.Select(f => $"{f.File.Path} {f.File.Standing} {f.File.Use} {f.File.Bytes} {f.Take?.Track} {f.Take?.Number} {f.Take?.RepairedAs} {f.IsGrowing} {f.Origin?.Place}")
            .Concat(part.Groups.Select(g => g.ToString())).Append($"{part.Total} of {part.All}, {part.Marked} of {part.Markable}"));

    private static string Told(SessionOverview o) =>
        $"{o.Status} {string.Join(',', o.Weights)} {o.Takes} {o.Taken} {o.LeftOut} {string.Join(',', o.AtRisk)} {o.AtRiskFiles} {string.Join(',', o.Origins)} {o.Fingerprint} {o.TakesFingerprint} {o.OutsideFingerprint}";

    /// <summary>Files come, go, grow, are repaired, placed and marked, in any order: what was mended is what would be made anew, in every order and grouping.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    public void WhatWasMendedIsWhatWouldBeMadeAnew(int seed)
    {
        var random = new Random(seed);
        for (var n = 0; n < 6; n++)
        {
            _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, $"sample {n}.wav"), seed: n));
        }
        _session.Save();
        string Any(string folder) => Directory.GetFiles(folder).Order(StringComparer.Ordinal).ElementAt(random.Next(Directory.GetFiles(folder).Length));
        var audio = Path.GetDirectoryName(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")))!;
        var queries = Enum.GetValues<FileOrder>().SelectMany(o => Enum.GetValues<FileGrouping>().Select(g => new FileQuery { Order = o, Grouping = g })).ToArray();
        for (var n = 0; n < 60; n++)
        {
            var what = random.Next(9);
            switch (what)
            {
                case 0 or 1:
                    SessionFixture.Sound(_session.Inside("Audio", $"{(random.Next(2) == 0 ? "Cello" : "noise")} {random.Next(20):00}.wav"), 100 + random.Next(1000), seed: n);
                    break;
                case 2:
                    SessionFixture.Sound(_session.Inside("Audio", $"{Path.GetFileNameWithoutExtension(Any(audio))}{TakeFinder.RepairedSuffix}.wav"), 100 + random.Next(1000), seed: n);
                    break;
                case 3 when Directory.GetFiles(audio).Length > 1:
                    File.Delete(Any(audio));
                    break;
                case 4:
                    using (var stream = new FileStream(Any(audio), FileMode.Append))
                    {
                        stream.Write(new byte[6 * random.Next(1, 100)]);
                    }
                    break;
                case 5:
                    _now += TimeSpan.FromSeconds(random.Next(1, 5));
                    _kept.Notice(_now, 100);
                    break;
                case 6:
                    _marks = random.Next(2) == 0
                        ? _marks.MarkFiles([Any(_session.Library)], random.Next(2) == 0)
                        : _marks.MarkPlace(_session.Library, Directory.GetFiles(_session.Library), random.Next(2) == 0);
                    break;
                case 7:
                    _session.Place(Any(audio), "Cello").Save();
                    break;
                default:
                    SessionFixture.Sound(Any(_session.Library), 4800, seed: n);
                    break;
            }
            Look();
            var fresh = new SessionListing(_kept);
            Assert.Equal(Told(fresh.Overview(Outside).Overview), Told(_listing.Overview(Outside).Overview));
            foreach (var query in Enumerable.Range(0, 6).Select(_ => queries[random.Next(queries.Length)] with { Descending = random.Next(2) == 0, Of = random.Next(2) == 0 ? FileSubset.Takes : FileSubset.All, Text = random.Next(3) == 0 ? "CELLO" : "" }))
            {
                bool Able(ListedFile f) => f.File.Standing == Standing.Outside;
                var (mended, anew) = (_listing.Part(query, 0, 1000, Outside, Able), fresh.Part(query, 0, 1000, Outside, Able));
                Assert.Equal(Told(anew), Told(mended));
                Assert.Equal(anew.Total, anew.Files.Count);
                Assert.Equal(Enumerable.Range(0, mended.Total), mended.Files.Select(f => _listing.IndexOf(query, f.File.Path, Outside) ?? -1));
            }
        }
    }

    /// <summary>Whatever stands wherever, and whoever left it there: what is counted out is as if it had never been counted in.</summary>
    [Fact]
    public void WhatIsCountedOutWasNeverIn()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "b sample.wav"))).Place(SessionFixture.Sound(Path.Combine(_session.Card, "c.wav"))).Place(Path.Combine(_session.Laptop, "gone.wav"))
            .List(SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"))).Place(_session.Inside("Audio", "missing.wav")).Save();
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), 100);
        _marks = _marks.MarkFiles([Path.Combine(_session.Card, "c.wav")], false);
        Look();
        var counter = new OverviewCounter(Outside);
        var nothing = Told(counter.Overview(_kept.Last!, SessionListing.MostNamed));
        var files = _listing.All(Outside);
        foreach (var file in files)
        {
            counter.Count(file, 1);
        }
        var all = counter.Overview(_kept.Last!, SessionListing.MostNamed);
        Assert.Equal((6, 1, 1, 3), (files.Count, all.Taken.Files, all.LeftOut, all.Origins.Count));
        Assert.Equal(["b sample.wav"], all.AtRisk);
        foreach (var file in files.Reverse())
        {
            counter.Count(file, -1);
        }
        Assert.Equal(nothing, Told(counter.Overview(_kept.Last!, SessionListing.MostNamed)));
    }

    /// <summary>What needs somebody comes first; within that, files follow each other by their paths.</summary>
    [Fact]
    public void ListsAreSortedNarrowedAndGrouped()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "b sample.wav"))).Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"), 9600), "Cello")
            .Place(Path.Combine(_session.Laptop, "gone.wav")).Place(_session.Inside("Audio", "missing.wav")).Save();
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), 100);
        Look();
        Assert.Equal(["missing.wav", "gone.wav", "b sample.wav", "Cello 01.wav", "Cello 02.wav"], Names(new FileQuery()));
        Assert.Equal(["gone.wav", "b sample.wav"], Names(new FileQuery(), 1, 2));
        Assert.Empty(Names(new FileQuery(), 99, 2));
        Assert.Equal(["Cello 02.wav", "b sample.wav", "Cello 01.wav", "gone.wav", "missing.wav"], Names(new FileQuery { Order = FileOrder.Length, Descending = true }));
        Assert.Equal(["Cello 01.wav", "Cello 02.wav"], Names(new FileQuery { Of = FileSubset.Takes }));
        Assert.Equal(["Cello 02.wav"], Names(new FileQuery { Segments = [new FileSegment(Standing.Inside, FileUse.Placed)] }));
        Assert.Equal(["b sample.wav"], Names(new FileQuery { Place = _session.Library }));
        Assert.Equal(["b sample.wav"], Names(new FileQuery { Text = "loft B" }));
        Assert.Equal(
            [new FileGroup("Loft samples", 1, 14480), new FileGroup("Old laptop", 1, 0), new FileGroup("this session", 3, 29260)],
            _listing.Part(new FileQuery { Grouping = FileGrouping.StandsOn }, 0, 0, Outside).Groups);
        Assert.Equal(
            ["pass not known"], _listing.Part(new FileQuery { Of = FileSubset.Takes, Grouping = FileGrouping.Pass }, 0, 0, Outside).Groups.Select(g => g.Title));
    }

    /// <summary>Composed and decomposed letters are the same to whoever types them.</summary>
    [Fact]
    public void WordsAreFoundInAnyCaseAndForm()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Stra\u00DFe e\u0301tude.wav"));
        _session.Save();
        Look();
        Assert.Single(Names(new FileQuery { Text = "\u00C9TUDE" }));
        Assert.Empty(Names(new FileQuery { Text = "etudes" }));
    }

    [Fact]
    public void ManyUsedPartsAreShownAsCoarseAsAStripShowsThem()
    {
        var ranges = Enumerable.Range(0, 5000).Select(n => new SampleRange(n * 20, 10)).ToList();
        var seen = SampleRange.AtMost(ranges, 100, 200_000);
        Assert.InRange(seen.Count, 1, 100);
        Assert.Equal((0, 99_990), (seen[0].Start, seen[^1].End));
        Assert.Same(ranges, SampleRange.AtMost(ranges, 5000, 200_000));
        SampleRange[] apart = [new(0, 10), new(50_000, 10), .. Enumerable.Range(0, 200).Select(n => new SampleRange(90_000 + (n * 20), 10))];
        Assert.Equal(apart[..2], SampleRange.AtMost(apart, 100, 100_000).Take(2));
    }
}
