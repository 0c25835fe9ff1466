using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.SetUp;

public sealed class SettingsPlannerTests : IDisposable
{
    private static readonly SessionSettings Other = new(96000, 32, 54, "7/8", 12, false, 5, 30, Guid.Parse("0f8fad5b-d9cb-469f-a165-70867728950e"));

    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private Plan Plan(SessionSettings settings, params string[] newTracks) => SettingsPlanner.Plan(_session.SessionId, _session.Inventory(), settings, newTracks);

    [Fact]
    public void EverySettingIsKeptAndTakenBack()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")), "Cello").Save();
        var before = File.ReadAllBytes(_session.DocumentPath);
        var plan = Plan(Other, "Oud", "Tar");
        Assert.Equal("Change this session's settings and add 2 tracks. No audio and no other session changes.", plan.Sentence);
        Assert.Equal(new Fault(FaultCode.RateOfFilesDiffers) { Number = 1, Count = 48000, Expected = 96000 }, Assert.Single(plan.Remarks));
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var after = _session.Inventory().Document!;
        Assert.Equal(Other, after.Settings);
        Assert.Equal(["Cello", "Samples", "Oud", "Tar"], after.Tracks);
        Assert.Equal(["Cello"], _session.Inventory().Files[0].Tracks);
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, File.ReadAllBytes(_session.DocumentPath));
    }

    [Fact]
    public void TracksAloneCanBeAdded()
    {
        _session.Save();
        var plan = Plan(_session.Document.Settings!, "Oud");
        Assert.StartsWith("Add 1 track. No audio", plan.Sentence, StringComparison.Ordinal);
        Assert.Empty(plan.Refusals);
        Assert.Equal([FaultCode.SameSettings], Plan(_session.Document.Settings!).Refusals.Codes());
    }

    [Fact]
    public void TheMirrorIsTakenOutOfTheDocumentWhenItIsNoLongerWanted()
    {
        _session.Save();
        new MemoryJournal().Apply(Plan(Other));
        new MemoryJournal().Apply(Plan(Other with { MirrorShelfId = null }));
        Assert.DoesNotContain("mirror_shelf", File.ReadAllText(_session.DocumentPath), StringComparison.Ordinal);
    }

    [Fact]
    public void ADocumentOfAnotherProgramGetsSettingsAndKeepsTheRest()
    {
        File.WriteAllText(_session.DocumentPath, """{"OTIO_SCHEMA":"Timeline.1","name":"x","metadata":{"theirs":{"kept":1.50}},"tracks":{"OTIO_SCHEMA":"Stack.1","children":[]}}""");
        new MemoryJournal().Apply(Plan(Other));
        Assert.Equal(Other, _session.Inventory().Document!.Settings);
        Assert.Contains("\"theirs\":{\"kept\":1.50}", File.ReadAllText(_session.DocumentPath), StringComparison.Ordinal);
    }

    [Fact]
    public void SeveralTimelinesInOneDocumentTakeNoTrack()
    {
        File.WriteAllText(_session.DocumentPath, """{"OTIO_SCHEMA":"SerializableCollection.1","name":"x","metadata":{},"children":[]}""");
        Assert.Equal([FaultCode.SeveralTimelines], Plan(Other, "Oud").Refusals.Codes());
    }
}
