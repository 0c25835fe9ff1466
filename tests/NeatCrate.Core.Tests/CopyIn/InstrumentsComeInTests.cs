using NeatCrate.Core.Bundles;
using NeatCrate.Core.Contents;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Usage;

namespace NeatCrate.Core.Tests.CopyIn;

/// <summary>An instrument is silent without its samples: they are outside, away and missing with it, come in with it, and it plays exactly them from where they are then.</summary>
public sealed class InstrumentsComeInTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly MemoryJournal _journal = new();

    public void Dispose() => _session.Dispose();

    private string Organ => Path.Combine(_session.Library, "Organ", "organ.sfz");

    private string Library(params string[] parts) => Path.Combine([_session.Library, .. parts]);

    private void Make(string text)
    {
        SessionFixture.Sound(Library("Organ", "pipes", "c4.wav"), seed: 1);
        SessionFixture.Sound(Library("Organ", "d4.wav"), seed: 2);
        SessionFixture.Sound(Library("Shared", "blower.wav"), seed: 3);
        File.WriteAllText(Organ, text);
        _session.Place(Organ).Save();
    }

    private static string[] Played(string path) =>
        [.. InstrumentRepointing.Samples(InstrumentRepointing.Read(path), Path.GetDirectoryName(path)!).Select(s => File.Exists(s) ? $"{SampleOf(s)}" : "nothing: " + s)];

    /// <summary>Which of the sounds it is, whatever it is called.</summary>
    private static string SampleOf(string path) => ByteIdentity.OfFile(path).ToString()!;

    private static string Told(InventoryFile file) => $"{file.Standing} {file.Use} {file.Name}";

    [Fact]
    public void SamplesOfAnInstrumentElsewhereAreOutsideAndMissingWithIt()
    {
        Make("<region> sample=pipes\\c4.wav key=60\n<region> sample=../Shared/blower.wav\n<region> sample=gone.wav\n");
        Assert.Equal(["Missing Placed gone.wav", "Outside Placed blower.wav", "Outside Placed c4.wav", "Outside Placed organ.sfz"], _session.Inventory().Files.Select(Told).Order(StringComparer.Ordinal));
        // One that is played no more is not needed any more: the instrument is read again once it was saved.
        var kept = new KeptInventory(_session.Folder, new HeaderCache());
        int Count() => kept.Look(null, _session.Shelves, LookDepth.Files, DateTime.UtcNow, TestContext.Current.CancellationToken).Files.Length;
        Assert.Equal(4, Count());
        File.WriteAllText(Organ, "<region> sample=pipes/c4.wav key=60 // the pipe\n");
        Assert.Equal(2, Count());
    }

    /// <summary>It comes in with its samples as they stand beside it, byte for byte; what stands elsewhere comes beside it, and it is pointed there.</summary>
    [Theory]
    [InlineData("<region> sample=pipes\\c4.wav key=60\n<region> sample=d4.wav\n", true)]
    [InlineData("<control> default_path=pipes/\n<region> sample=c4.wav\n<region> sample=../d4.wav // the other\n", true)]
    [InlineData("<region> sample=pipes/c4.wav\r\n<region> sample=..\\Shared\\blower.wav lovel=1\r\n", false)]
    [InlineData("<control> default_path=pipes/\n<region> sample=../../Shared/blower.wav\n<region> sample=c4.wav\n", false)]
    [InlineData("<control> default_path=pipes/c\n<region> sample=4.wav\n", true)]
    public void ItComesInWithItsSamples(string text, bool isAsItIs)
    {
        Make(text);
        var before = Played(Organ);
        var plan = _session.PlanCopyIn();
        // An instrument that is pointed elsewhere is no new version of a document.
        Assert.EndsWith(", from 1 shelf; document re-pointed; originals untouched.", plan.Sentence, StringComparison.Ordinal);
        _journal.Apply(plan);
        var organ = _session.Inside("Audio", "organ", "organ.sfz");
        Assert.Equal(before, Played(organ));
        Assert.All(InstrumentRepointing.Samples(InstrumentRepointing.Read(organ), Path.GetDirectoryName(organ)!), s => Assert.StartsWith(_session.Inside("Audio", "organ") + "/", s, StringComparison.Ordinal));
        Assert.Equal(isAsItIs, File.ReadAllText(organ) == text);
        Assert.Equal(text, File.ReadAllText(Organ));
        Assert.DoesNotContain(_session.Inventory().Files, f => f.Standing != Standing.Inside && f.IsNeededNow);
        _journal.Apply(UndoPlanner.Plan(plan, _journal.Records(plan)));
        Assert.False(Directory.Exists(_session.Inside("Audio", "organ")));
    }

    /// <summary>A sample that is away keeps its place: the copy of the instrument goes on leading there.</summary>
    [Fact]
    public void ASampleThatIsNotThereKeepsItsPlace()
    {
        Make($"<region> sample=pipes/c4.wav\n<region> sample=../../laptop/reed.wav\n<region> sample=gone.wav\n");
        _journal.Apply(_session.PlanCopyIn());
        var organ = _session.Inside("Audio", "organ", "organ.sfz");
        Assert.Equal(
            [_session.Inside("Audio", "organ", "pipes", "c4.wav"), Path.Combine(_session.Laptop, "reed.wav"), Library("Organ", "gone.wav")],
            InstrumentRepointing.Samples(InstrumentRepointing.Read(organ), Path.GetDirectoryName(organ)!));
    }

    /// <summary>Two that play one sample share its copy; two of one name stay two.</summary>
    [Fact]
    public void TwoInstrumentsOfOneNameShareASample()
    {
        Make("<region> sample=../Shared/blower.wav\n<region> sample=d4.wav\n");
        var other = Library("Shared", "organ.sfz");
        File.WriteAllText(other, "<region> sample=blower.wav\n");
        _session.Place(other).Save();
        var (one, two) = (Played(Organ), Played(other));
        _journal.Apply(_session.PlanCopyIn());
        Assert.Equal(one, Played(_session.Inside("Audio", "organ", "organ.sfz")));
        Assert.Equal(two, Played(_session.Inside("Audio", "organ 2", "organ.sfz")));
        Assert.Single(Directory.GetFiles(_session.Folder, "blower*", SearchOption.AllDirectories));
    }

    /// <summary>An instrument in the session whose samples stand elsewhere is pointed at their copies.</summary>
    [Fact]
    public void AnInstrumentInTheSessionIsPointedAtTheCopies()
    {
        SessionFixture.Sound(Library("Shared", "blower.wav"), seed: 3);
        var organ = _session.Inside("Audio", "organ.sfz");
        Directory.CreateDirectory(_session.Inside("Audio"));
        File.WriteAllText(organ, $"<region> sample={Path.GetRelativePath(_session.Inside("Audio"), Library("Shared", "blower.wav"))} key=60\n");
        _session.Place(organ).Save();
        var before = Played(organ);
        var plan = _session.PlanCopyIn();
        Assert.EndsWith("; 1 instrument re-pointed; no document is changed; originals untouched.", plan.Sentence, StringComparison.Ordinal);
        _journal.Apply(plan);
        Assert.Equal(before, Played(organ));
        Assert.Equal("<region> sample=blower.wav key=60\n", File.ReadAllText(organ));
        Assert.DoesNotContain(_session.Inventory().Files, f => f.Standing == Standing.Outside);
        _journal.Apply(UndoPlanner.Plan(plan, _journal.Records(plan)));
        Assert.Equal(before, Played(organ));
    }

    /// <summary>What cannot be followed is not copied: a copy of it might be silent.</summary>
    [Theory]
    [InlineData("#include \"keys.sfz\"\n<region> sample=d4.wav\n")]
    [InlineData("<region> sample=d$NOTE.wav\n<region> sample=pipes/c4.wav\n")]
    [InlineData("<control> default_path=../Shared/blo\n<region> sample=wer.wav\n")]
    [InlineData("<control> default_path=../Shared/\n<region> sample=blower.wav\n")]
    [InlineData("\0 no instrument")]
    public void WhatCannotBeFollowedStays(string text)
    {
        Make(text);
        var plan = _session.PlanCopyIn();
        Assert.Equal(FaultCode.InstrumentStays, Assert.Single(plan.Refusals).Code);
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 9)).Save();
        plan = _session.PlanCopyIn();
        Assert.Contains(plan.Remarks, r => r.Code == FaultCode.InstrumentStays && r.Name == "organ.sfz");
        Assert.Equal(["tide.wav"], plan.Steps.OfType<MakeFileStep>().Select(s => Path.GetFileName(s.Destination)));
    }

    /// <summary>A sample that is left out stays outside, and is played there.</summary>
    [Fact]
    public void ASampleThatIsLeftOutIsPlayedWhereItIs()
    {
        Make("<region> sample=pipes/c4.wav\n<region> sample=d4.wav\n");
        _journal.Apply(_session.PlanCopyIn(new HashSet<string> { Organ, Library("Organ", "d4.wav") }));
        var organ = _session.Inside("Audio", "organ", "organ.sfz");
        Assert.Equal([Library("Organ", "pipes", "c4.wav"), _session.Inside("Audio", "organ", "d4.wav")], InstrumentRepointing.Samples(InstrumentRepointing.Read(organ), Path.GetDirectoryName(organ)!));
        // Alone it would play nowhere.
        Assert.Equal([FaultCode.NothingOutside], CopyInPlanner.Plan(
            new CopyInRequest(_session.SessionId, _session.Inventory(), _session.Shelves, new FreshIdentities()) { Chosen = new HashSet<string>() }, TestContext.Current.CancellationToken).Refusals.Select(r => r.Code));
    }

    /// <summary>In a bundle it plays its samples from where they are packed, also where their names had to change.</summary>
    [Fact]
    public void InABundleItPlaysItsSamples()
    {
        Make("<region> sample=pipes/c4.wav\n<region> sample=../Shared/blower.wav\n");
        var inside = SessionFixture.Sound(_session.Inside("Audio", "what: a name.wav"), seed: 7);
        File.WriteAllText(_session.Inside("Audio", "reed.sfz"), "<region> sample=what: a name.wav\n");
        _session.Place(_session.Inside("Audio", "reed.sfz")).Save();
        var contents = ContentsReader.Read(_session.Inventory(), _session.Shelves, new ContentsChoice { Outside = true, Portable = true, Repoints = true, ReadFrom = _session.Folder });
        string[] PlayedIn(string name)
        {
            var entry = contents.Entries.Single(e => Path.GetFileName(e.Path) == name);
            var instrument = (SfzInstrument)SfzInstrument.Format.Read(((GivenBytes)entry.Origin).Content);
            return [.. InstrumentRepointing.Samples(instrument, Path.Combine("/", Path.GetDirectoryName(entry.Path)!)).Select(p => contents.Entries.Single(e => "/" + e.Path == p).Here!)];
        }
        Assert.Equal([Library("Organ", "pipes", "c4.wav"), Library("Shared", "blower.wav")], PlayedIn("organ.sfz"));
        Assert.Equal([inside], PlayedIn("reed.sfz"));
    }

    /// <summary>What cannot be pointed at its samples goes along all the same, and that is told.</summary>
    [Theory]
    [InlineData("<control> default_path=../Shared/\n<region> sample=blower.wav\n")]
    [InlineData("#include \"keys.sfz\"\n")]
    public void InABundleWhatMayBeSilentIsTold(string text)
    {
        Make(text);
        var contents = ContentsReader.Read(_session.Inventory(), _session.Shelves, new ContentsChoice { Outside = true, Portable = true, Repoints = true, ReadFrom = _session.Folder });
        Assert.Equal(["Audio/organ.sfz"], contents.MayBeSilent);
        Assert.IsType<WholeFile>(contents.Entries.Single(e => e.Path == "Audio/organ.sfz").Origin);
        Assert.Contains(LeftOutRemarks.Of(contents), r => r.Code == FaultCode.InstrumentsMayBeSilent);
    }

    /// <summary>A missing sample is put back to where its instrument looks for it, whatever way was asked for.</summary>
    [Fact]
    public void AMissingSampleIsPutBack()
    {
        Make("<region> sample=pipes/c4.wav\n");
        Directory.CreateDirectory(Library("moved"));
        File.Move(Library("Organ", "pipes", "c4.wav"), Library("moved", "c4.wav"));
        var inventory = _session.Inventory();
        var found = Library("moved", "c4.wav");
        var known = new KnownFile(FileState.Of(found).Bytes, FileState.Of(found).ModifiedUtc, null, null, null, null, null);
        var lost = LostFile.Of(inventory.Files.Single(f => f.Standing == Standing.Missing), null, inventory);
        var plan = RelinkPlanner.Plan(
            new RelinkRequest([new RelinkedSession(_session.SessionId, inventory, [new Relinking(lost, new FoundFile(found, known, NotedIdentities.None, true, false, null), RelinkWay.CopyIn)])], _session.Shelves, new FreshIdentities()),
            TestContext.Current.CancellationToken);
        Assert.Equal("Relink 1 file; put back 1, 14 kB; no document is touched; originals untouched.", plan.Sentence);
        _journal.Apply(plan);
        Assert.DoesNotContain(_session.Inventory().Files, f => f.Standing == Standing.Missing);
    }
}
