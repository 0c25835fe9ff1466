using NeatCrate.Core.Bundles;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Contents;

/// <summary>Origins within origins: a transform of an entry of an archive, several in a row, and both inside a bundle.</summary>
public sealed class OriginTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly string _zip;

    public OriginTests()
    {
        var low = SessionFixture.Sound(Path.Combine(_session.Card, "low.wav"), 4410, 44100, seed: 4);
        _zip = Path.Combine(_session.Outbox, "low.zip");
        Tool.RunIn(_session.Card, "python3", "-c", $"import zipfile; zipfile.ZipFile('{_zip}', 'w').write('{Path.GetFileName(low)}')");
    }

    public void Dispose() => _session.Dispose();

    private ArchiveEntry Entry => new(_zip, FileState.Of(_zip), "low.wav", new FileInfo(Path.Combine(_session.Card, "low.wav")).Length);

    private Transformed Converted => new(Entry, new ConvertRate(48000), Entry.Bytes);

    private Plan Make(params PlanStep[] steps) => new() { Id = Guid.NewGuid(), Kind = PlanKind.Import, Sentence = "", WritableRoots = [_session.Library], Steps = [.. steps] };

    private PackBundleStep Bag(FileOrigin origin) => new(
        Path.Combine(_session.Library, "bag.zip"), "", new BundleContents("bag", [new BundleEntry("low.wav", origin, 40_000, default)], [], [], [], [], DateTimeOffset.UnixEpoch));

    [Fact]
    public void AnEntryOfAnArchiveIsConvertedAsTheFileIs()
    {
        var low = Path.Combine(_session.Card, "low.wav");
        var (one, other) = (Path.Combine(_session.Library, "one.wav"), Path.Combine(_session.Library, "other.wav"));
        new MemoryJournal().Apply(Make(
            new MakeFileStep(one, "", Converted, 40_000), new MakeFileStep(other, "", new Transformed(new WholeFile(low, FileState.Of(low)), new ConvertRate(48000)), 40_000), Bag(Converted)));
        Assert.Equal(File.ReadAllBytes(other), File.ReadAllBytes(one));
        // In a bundle, too, where bytes must come in order; looked at by unzip (Info-ZIP).
        Tool.RunIn(_session.Library, "unzip", "-q", "bag.zip");
        Assert.Equal(File.ReadAllBytes(other), File.ReadAllBytes(Path.Combine(_session.Library, "bag", "data", "low.wav")));
        Assert.Equal(["bag", "bag.zip", "one.wav", "other.wav"], Directory.GetFileSystemEntries(_session.Library).Select(Path.GetFileName).Order());
    }

    [Fact]
    public void SeveralInARowStandOneBehindTheOther()
    {
        var (low, place) = (Path.Combine(_session.Card, "low.wav"), Path.Combine(_session.Library, "row.bin"));
        var row = new InARow([new GivenBytes("begin "u8.ToArray()), Entry, new WholeFile(low, FileState.Of(low))]);
        var (journal, plan) = (new MemoryJournal(), Make(new MakeFileStep(place, "", row, 6 + (2 * Entry.Bytes))));
        Assert.Equal(PlanJson.Write(plan), PlanJson.Write(PlanJson.Read(PlanJson.Write(plan))));
        journal.Apply(plan);
        Assert.Equal([.. "begin "u8, .. File.ReadAllBytes(low), .. File.ReadAllBytes(low)], File.ReadAllBytes(place));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.False(File.Exists(place));
    }

    /// <summary>Killed, refused or cut off anywhere: what was made for the time of the work goes with the rest.</summary>
    [Fact]
    public void WhatIsMadeForTheTimeOfTheWorkIsTakenBack()
    {
        var before = DiskTree.Of(_session.Root);
        for (var refused = 0; ; refused++)
        {
            var (calls, files, journal) = (0, new FaultyFiles(), new MemoryJournal());
            var plan = Make(new MakeFileStep(Path.Combine(_session.Library, "one.wav"), "", Converted, 40_000), Bag(Converted));
            // From that call on nothing works any more, as after a kill; the next start takes it back.
            files.Before = (_, path) =>
            {
                if (calls++ >= refused)
                {
                    throw new FaultException(FaultCode.RootGone, path);
                }
            };
            var result = journal.TryApply(plan, files: files);
            if (calls <= refused)
            {
                Assert.Equal(PlanOutcome.Applied, result.Outcome);
                Assert.True(refused > 20);
                return;
            }
            if (journal.Outcome(plan) != PlanOutcome.Applied && !result.Outcome.Equals(PlanOutcome.Applied))
            {
                journal.Recover();
                Assert.Equal(before, DiskTree.Of(_session.Root));
            }
            DiskTree.Clear(_session.Library);
        }
    }

    /// <summary>An archive is opened once for a plan, however many entries are taken out of it.</summary>
    [Fact]
    public void AnArchiveIsOpenedOnceForAPlan()
    {
        Tool.RunIn(_session.Card, "python3", "-c", $"import zipfile; z = zipfile.ZipFile('{_zip}', 'w'); [z.writestr(f'bell {{n}}.txt', str(n)) for n in range(200)]");
        using var reading = new OriginReading(new CountingFiles(_zip, out var opened));
        var state = FileState.Of(_zip);
        for (var n = 0; n < 200; n++)
        {
            Assert.Equal(n.ToString(System.Globalization.CultureInfo.InvariantCulture), System.Text.Encoding.UTF8.GetString(MemorySink.Read(new ArchiveEntry(_zip, state, $"bell {n}.txt", n.ToString(System.Globalization.CultureInfo.InvariantCulture).Length), 10, reading)));
        }
        Assert.Equal(1, opened());
    }

    private sealed class CountingFiles : FaultyFiles, IDurableFiles
    {
        private readonly string _counted;
        private int _opened;

        public CountingFiles(string counted, out Func<int> opened) => (_counted, opened) = (counted, () => _opened);

        SourceFile IDurableFiles.OpenSource(string path)
        {
            _opened += path == _counted ? 1 : 0;
            return OpenSource(path);
        }
    }
}
