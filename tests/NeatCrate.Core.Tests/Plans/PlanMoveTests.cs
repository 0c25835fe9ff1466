using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>What was applied before a session was moved can be undone where it is now.</summary>
public sealed class PlanMoveTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly MemoryJournal _journal = new();

    public void Dispose() => _session.Dispose();

    private string Moved => Path.Combine(_session.Drive, "The Mender");

    private Plan UndoWhereItIsNow(Plan applied) =>
        UndoPlanner.Plan(PlanPlaces.Moved(applied, _session.Folder, Moved), _journal.Records(applied));

    [Fact]
    public void ACopyInIsTakenBackInTheNewPlaceAndTheOriginalsAreWhereTheyWere()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"))).Save();
        var before = Tree.Of(_session.Folder);
        var plan = _session.PlanCopyIn();
        _journal.Apply(plan);
        Directory.Move(_session.Folder, Moved);
        Assert.NotEmpty(Engine.Refusals(UndoPlanner.Plan(plan, _journal.Records(plan))));
        _journal.Apply(UndoWhereItIsNow(plan));
        Assert.Equal(before.Keys, Tree.Of(Moved).Keys);
        Assert.Equal(Standing.Outside, Assert.Single(_session.Inventory(Moved).Files).Standing);
    }

    [Fact]
    public void ADocumentThatWasPutAwayComesBackInTheNewPlace()
    {
        _session.Save();
        var before = Tree.Of(_session.Folder);
        var plan = VersionPlanner.Plan(_session.SessionId, _session.Inventory(), VersionNaming.NextNumber, true, new DateOnly(2026, 10, 20));
        _journal.Apply(plan);
        Directory.Move(_session.Folder, Moved);
        _journal.Apply(UndoWhereItIsNow(plan));
        Assert.Equal(before, Tree.Of(Moved));
    }

    [Fact]
    public void OnlyPathsInTheFolderAreTakenAlong()
    {
        var state = new FileState(1, DateTime.UnixEpoch);
        var plan = new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.CopyIn,
            Sentence = "",
            WritableRoots = ["/drive/a"],
            Steps = [MakeFileStep.Copy("/drive/a/Audio/x.wav", "", "/drive/ab/x.wav", state), new MoveFileStep("/drive/a/y", "", "/drive/a/z", state)],
        };
        var moved = PlanPlaces.Moved(plan, "/drive/a", "/other/b");
        Assert.Equal(["/other/b"], moved.WritableRoots);
        Assert.Equal(("/other/b/Audio/x.wav", "/drive/ab/x.wav"), (moved.Steps[0].Destination, moved.Steps[0].SourcePath));
        Assert.Equal(("/other/b/y", "/other/b/z"), (moved.Steps[1].Destination, moved.Steps[1].SourcePath));
    }
}
