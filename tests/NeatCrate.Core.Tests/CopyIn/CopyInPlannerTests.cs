using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.CopyIn;

public sealed class CopyInPlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private Plan Plan(params string[] chosen) =>
        _session.PlanCopyIn(chosen.Length == 0 ? null : chosen.ToHashSet());

    private static IEnumerable<string> Copies(Plan plan) => plan.Steps.OfType<MakeFileStep>().Where(s => s.IsCopy).Select(s => Path.GetFileName(s.Destination));

    [Fact]
    public void ThePlanSaysWhatItDoesInFigures()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), samples: 333_333))
            .Place(SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), samples: 100_000))
            .Save();
        var plan = Plan();
        Assert.Equal("Copy 2 files, 1.3 MB, from 2 shelves; document re-pointed; originals untouched.", plan.Sentence);
        Assert.IsType<MakeFolderStep>(plan.Steps[0]);
        // The document is written last, so that it never points at something that is not there.
        Assert.IsType<RepointDocumentStep>(plan.Steps[^1]);
    }

    [Fact]
    public void TheSameContentInsideIsUsedAndNotCopiedAgain()
    {
        var outside = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 5);
        Directory.CreateDirectory(_session.Inside("Audio"));
        File.Copy(outside, _session.Inside("Audio", "sea.wav"));
        _session.Place(outside).Save();
        var plan = Plan();
        Assert.Empty(Copies(plan));
        new MemoryJournal().Apply(plan);
        var file = Assert.Single(_session.Inventory().Files);
        Assert.Equal(("sea.wav", Standing.Inside, 1), (file.Name, file.Standing, file.PlacedTimes));
    }

    [Fact]
    public void OneContentUnderTwoNamesOutsideComesInOnce()
    {
        var first = SessionFixture.Sound(Path.Combine(_session.Card, "a.wav"));
        var second = Path.Combine(_session.Library, "b.wav");
        File.Copy(first, second);
        _session.Place(first).Place(second).Save();
        Assert.Single(Copies(Plan()));
        new MemoryJournal().Apply(Plan());
        Assert.Equal(2, Assert.Single(_session.Inventory().Files).PlacedTimes);
    }

    [Fact]
    public void TheSameNameWithOtherContentIsNumberedAndBothAreKept()
    {
        SessionFixture.Sound(_session.Inside("Audio", "TIDE.wav"), seed: 1);
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 2))
            .Place(SessionFixture.Sound(Path.Combine(_session.Library, "tide.wav"), seed: 3))
            .Save();
        Assert.Equal(["tide 2.wav", "tide 3.wav"], Copies(Plan()).Order(StringComparer.Ordinal));
    }

    [Fact]
    public void ANameThatAnotherSystemRefusesAndAForeignRateAreTold()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "bottle: high?.wav"), rate: 44100)).Save();
        var plan = Plan();
        Assert.Equal(["bottle high.wav"], Copies(plan));
        Assert.Equal([(FaultCode.RateDiffers, null), (FaultCode.ComesInAs, "bottle high.wav")], plan.Remarks.Select(r => (r.Code, r.Other)));
        Assert.Equal([FaultCode.NameHoldsRefused], plan.Remarks[1].Reasons.Codes());
    }

    [Fact]
    public void OnlyChosenFilesAreCopiedAndOnlyTheirPointersChange()
    {
        var drum = SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), seed: 1);
        var tide = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 2);
        _session.Place(drum).Place(tide).Save();
        new MemoryJournal().Apply(Plan(drum));
        Assert.Equal([("drum.wav", Standing.Inside), ("tide.wav", Standing.Outside)], _session.Inventory().Files.Select(f => (f.Name, f.Standing)));
    }

    [Fact]
    public void WithoutAReadableDocumentOrWithoutAnythingOutsideThereIsNoPlan()
    {
        _session.Save();
        Assert.Equal([FaultCode.NothingOutside], Plan().Refusals.Codes());
        File.WriteAllText(_session.DocumentPath, "{");
        Assert.Equal((FaultCode.DocumentNotJson, 1L), Assert.Single(Plan().Refusals) is var fault ? (fault.Code, fault.Count!.Value) : default);
    }

    [Fact]
    public void OlderVersionsCountByChoiceAndAreRePointedAsWell()
    {
        var (drum, tide) = (SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), seed: 1), SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 2));
        var older = _session.Inside("Older documents", "261013 Net Mender.otio");
        _session.Place(drum).Place(tide).Save(older);
        // The current document uses one of the two only.
        var current = SessionDocument.Create(_session.SessionId, "Net Mender", new SessionSettings(), SessionLayout.Default, ["Samples"]);
        ClipBuilder.Place(current.Root, "Samples", new ClipToPlace("drum", MediaUrl.From(drum, _session.Folder), 48000, 4800, 0, 4800));
        File.WriteAllBytes(_session.DocumentPath, current.ToUtf8());
        Assert.Equal(["drum.wav"], Copies(_session.PlanCopyIn(olderDocuments: false)));
        var plan = Plan();
        Assert.Equal(["drum.wav", "tide.wav"], Copies(plan).Order(StringComparer.Ordinal));
        Assert.Equal("Copy 2 files, 29 kB, from 2 shelves; 2 documents re-pointed; originals untouched.", plan.Sentence);
        Assert.Equal(_session.DocumentPath, plan.Steps[^1].Destination);
        new MemoryJournal().Apply(plan);
        Assert.All(_session.Inventory().Files, f => Assert.Equal(Standing.Inside, f.Standing));
        // Brought back to the top level, the older one leads to the copies, wherever the folder stands by then.
        Assert.Equal(["Audio/drum.wav", "Audio/tide.wav"], SessionDocument.ReadFile(older).References.Select(r => r.TargetUrl));
        File.Move(older, _session.DocumentPath, overwrite: true);
        Directory.Move(_session.Folder, _session.Folder + " moved");
        Assert.All(_session.Inventory(_session.Folder + " moved").Files, f => Assert.Equal((Standing.Inside, FileUse.Placed), (f.Standing, f.Use)));
    }

    [Fact]
    public void AnOlderVersionThatCannotBeReadIsTold()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"))).Save();
        Directory.CreateDirectory(_session.Inside("Older documents"));
        File.WriteAllText(_session.Inside("Older documents", "old.otio"), "{");
        Assert.Equal(new Fault(FaultCode.OlderDocumentStays) { Name = "old.otio" }, Assert.Single(Plan().Remarks));
    }

    [Fact]
    public void TheSameSoundAmongOtherTextsIsToldAndBothAreKept()
    {
        var outside = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 5);
        Directory.CreateDirectory(_session.Inside("Audio"));
        Tool.Run("ffmpeg", "-v", "error", "-i", outside, "-c", "copy", "-metadata", "title=Tide", _session.Inside("Audio", "sea.wav"));
        _session.Place(outside).Save();
        var plan = Plan();
        Assert.Equal(["tide.wav"], Copies(plan));
        Assert.Equal(new Fault(FaultCode.SameSoundInside) { Name = "tide.wav", Other = "sea.wav" }, Assert.Single(plan.Remarks));
    }
}
