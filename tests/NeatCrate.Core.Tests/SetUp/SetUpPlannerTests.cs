using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.SetUp;

public sealed class SetUpPlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly List<string> _known = [];

    public void Dispose() => _session.Dispose();

    private Plan Plan(string name, string parent = "", SessionLayout? layout = null) => SetUpPlanner.Plan(new SetUpRequest(
        _session.SessionId, name, _session.Shelves[0], parent, new SessionSettings(), layout ?? SessionLayout.Default, ["Voice"], _known));

    [Fact]
    public void TheFolderItsTreeAndTheDocumentAreMadeAndTakenBack()
    {
        var before = Tree.Of(_session.Root);
        var plan = Plan("261020 Tar and Twine", layout: new SessionLayout(Others: ["Notes/Charts", "Lyrics"]));
        Assert.Empty(Engine.Refusals(plan));
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var folder = Path.Combine(_session.Drive, "261020 Tar and Twine");
        Assert.Equal(
            [".neat-crate.json", ".waveforms", "261020 Tar and Twine.otio", "Audio", "Bounces", "Lyrics", "Notes", "Notes/Charts", "Older documents"],
            Tree.Of(folder).Keys);
        var inventory = _session.Inventory(folder);
        Assert.Equal(_session.SessionId, inventory.Document!.SessionId);
        Assert.Empty(inventory.Remarks);
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Root));
    }

    [Fact]
    public void UndoLeavesWhatWasPutIntoTheFolderMeanwhile()
    {
        var journal = new MemoryJournal();
        var plan = Plan("261020 Tar and Twine");
        journal.Apply(plan);
        var take = SessionFixture.Sound(Path.Combine(_session.Drive, "261020 Tar and Twine", "Audio", "take.wav"));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.True(File.Exists(take));
        Assert.False(Directory.Exists(Path.Combine(_session.Drive, "261020 Tar and Twine", "Bounces")));
    }

    [Theory]
    [InlineData("261014 Net Mender", FaultCode.NameThereAlready, "261014 Net Mender 2")]
    [InlineData("261014 NET mender", FaultCode.NameClashes, "261014 NET mender 2")]
    [InlineData("Fog: Signal", FaultCode.NameHoldsRefused, "Fog Signal")]
    [InlineData("", FaultCode.NameEmpty, "untitled")]
    [InlineData("../elsewhere", FaultCode.NameHoldsRefused, "untitled.-elsewhere")]
    public void NamesThatCannotBeUsedComeWithOneThatCan(string name, FaultCode why, string fix)
    {
        var plan = Plan(name);
        Assert.Empty(plan.Steps);
        Assert.Contains(plan.Refusals, r => r.Code == FaultCode.NameUnusable && r.Other == fix && Assert.Single(r.Reasons).Code == why);
    }

    [Fact]
    public void AParentInsideAnotherSessionIsWarnedOf()
    {
        _session.Save();
        Directory.CreateDirectory(_session.Inside("Notes"));
        Assert.Equal(new Fault(FaultCode.ParentInSession) { Path = _session.Folder }, Assert.Single(Plan("New", $"{SessionFixture.Name}/Notes").Remarks));
        Assert.Equal(new Fault(FaultCode.ParentHoldsSession) { Path = _session.Folder }, Assert.Single(Plan("New", SessionFixture.Name).Remarks));
        Assert.Empty(Plan("New").Remarks);
    }

    [Theory]
    [InlineData("..")]
    [InlineData("/etc")]
    [InlineData("a/../../b")]
    [InlineData("out/x")]
    public void AParentThatLeadsOffTheShelfIsRefused(string parent)
    {
        Directory.CreateSymbolicLink(Path.Combine(_session.Drive, "out"), _session.Library);
        Assert.Throws<PathNotOnShelfException>(() => Plan("New", parent));
    }

    [Fact]
    public void LinksThatGoRoundInACircleAreRefused()
    {
        File.CreateSymbolicLink(Path.Combine(_session.Drive, "a"), Path.Combine(_session.Drive, "b"));
        File.CreateSymbolicLink(Path.Combine(_session.Drive, "b"), Path.Combine(_session.Drive, "a"));
        Assert.Throws<PathNotOnShelfException>(() => ShelfPath.Resolve(_session.Shelves[0], "a/x"));
    }

    [Fact]
    public void APlaceThatWillBeRegrettedIsWarnedOf()
    {
        var request = new SetUpRequest(
            _session.SessionId, "Fog Signal", _session.Shelves[2], "", new SessionSettings(192000, 32, ExpectedMinutes: 100_000), SessionLayout.Default,
            [.. Enumerable.Range(1, 48).Select(n => $"{n}")], ["/elsewhere/FOG signal"]);
        var remarks = SetUpPlanner.Plan(request).Remarks;
        Assert.Equal([FaultCode.DriveCanLeave, FaultCode.DriveNearlyFull, FaultCode.SessionOfThisName], remarks.Codes());
        Assert.Equal("Field card", remarks[0].Name);
        Assert.Equal(10, remarks[1].Count);
        Assert.Equal(new Fault(FaultCode.SessionOfThisName) { Path = "/elsewhere/FOG signal", Other = "Fog Signal 2" }, remarks[2]);
        Assert.Equal((FaultCode.PathsTooLong, 259L), Assert.Single(Plan(new string('x', 110)).Remarks) is var f ? (f.Code, f.Expected!.Value) : default);
    }

    [Fact]
    public void TheNewNameIsSeenAmongItsNeighbours()
    {
        foreach (var name in new[] { "261001 Tar", "261012 Bell", "261020 Fog", ".hidden" })
        {
            Directory.CreateDirectory(Path.Combine(_session.Drive, name));
        }
        var (before, after) = SetUpPlanner.Neighbours("261013 Low Water", _session.Drive, 2);
        Assert.Equal(["261001 Tar", "261012 Bell"], before);
        Assert.Equal(["261014 Net Mender", "261020 Fog"], after);
    }

    private CheckedName Check(string name) => NameChecks.Check(name, _session.Drive, _known, SessionLayout.Default);

    [Theory]
    [InlineData("261014 NET mender", true, "261014 NET mender 2")]
    [InlineData("261020 Fog: Signal?", true, "261020 Fog Signal")]
    [InlineData("261005 Low Water", false, "261005 Low Water 2")]
    [InlineData("CON", true, "_CON")]
    public void EveryCheckComesWithANameAboutWhichNothingIsFound(string name, bool blocks, string fix)
    {
        _known.Add("/elsewhere/261005 Low Water");
        var found = Check(name);
        Assert.All(found.Checks, c => Assert.Equal(blocks, c.Blocks));
        Assert.Equal(fix, found.Fix);
        Assert.Equal(new CheckedName([], null).Checks, Check(fix).Checks);
        Assert.Null(Check(fix).Fix);
    }

    [Fact]
    public void ANameThatIsTooLongForOtherSystemsLosesItsLastWords()
    {
        var name = "261020 " + string.Join(' ', Enumerable.Repeat("lamplighters", 12));
        var found = Check(name);
        Assert.False(Assert.Single(found.Checks).Blocks);
        Assert.StartsWith("261020 lamplighters lamplighters", found.Fix, StringComparison.Ordinal);
        Assert.EndsWith("lamplighters", found.Fix, StringComparison.Ordinal);
        Assert.Empty(Check(found.Fix!).Checks);
    }

    [Theory]
    [InlineData("Notes", "Notes", "Notes")]
    [InlineData("Notes", "notes", "Notes, notes")]
    [InlineData("audio", "Lyrics", "Audio, audio")]
    public void FoldersThatClashAreRefused(string one, string other, string expected)
    {
        var refusal = Assert.Single(Plan("New", layout: new SessionLayout(Others: [one, other])).Refusals);
        Assert.Equal((FaultCode.SubfoldersClash, expected), (refusal.Code, string.Join(", ", refusal.Names)));
    }
}
