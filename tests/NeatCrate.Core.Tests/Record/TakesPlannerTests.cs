using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Record;

public sealed class TakesPlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private Plan Plan(params string[] growing) => TakesPlanner.Plan(_session.SessionId, _session.Inventory(), growing.ToHashSet());

    [Fact]
    public void TakesThatTurnUpGetOnTheListWithTheirTrackAndOffItAgain()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")), "Cello").Save();
        SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"), seed: 2);
        SessionFixture.Sound(_session.Inside("Audio", "unknown.wav"), seed: 3);
        var before = Tree.Of(_session.Folder);
        var plan = Plan();
        Assert.Empty(plan.Refusals);
        Assert.Equal(new Fault(FaultCode.NoTrackFits) { Name = "unknown.wav" }, Assert.Single(plan.Remarks));
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var after = _session.Inventory();
        Assert.Equal([FileUse.Placed, FileUse.Listed, FileUse.Listed], after.Files.Select(f => f.Use));
        var take = Assert.Single(TakeFinder.Find(after), t => t.File.Name == "Cello 02.wav");
        Assert.Equal(("Cello", 2, TakeEvidence.List), (take.Track, take.Number, take.Evidence));
        Assert.Equal([FaultCode.NoTakeWaits], Plan().Refusals.Codes());
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before.Keys, Tree.Of(_session.Folder).Keys);
        Assert.Equal(FileUse.Stray, _session.Inventory().Files[1].Use);
    }

    [Fact]
    public void WhatIsStillGrowingOrWasCutOffIsNotListed()
    {
        _session.Save();
        var growing = SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        using (var cut = File.OpenWrite(SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"), seed: 2)))
        {
            // The data chunk's size, never written.
            cut.Position = 12 + 36 + 24 + 4;
            cut.Write([0, 0, 0, 0]);
        }
        Assert.True(_session.Inventory().Files[1].Header!.Unfinished);
        Assert.Equal([FaultCode.NoTakeWaits], Plan(growing).Refusals.Codes());
        Assert.Contains("Add 1 take", Plan().Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void ADocumentOfAnotherProgramGetsAListAndKeepsTheRest()
    {
        File.WriteAllText(_session.DocumentPath, """{"OTIO_SCHEMA":"Timeline.1","name":"Fog Signal","other":{"kept":[1.50]},"tracks":{"OTIO_SCHEMA":"Stack.1","children":[]}}""");
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        new MemoryJournal().Apply(Plan());
        Assert.Contains("\"kept\":[1.50]", File.ReadAllText(_session.DocumentPath), StringComparison.Ordinal);
        Assert.Equal(FileUse.Listed, Assert.Single(_session.Inventory().Files).Use);
    }

    [Fact]
    public void WithoutADocumentNothingIsListed()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        Assert.Equal([FaultCode.NoDocument], Plan().Refusals.Codes());
    }
}
