using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.CopyIn;

public sealed class ImportPlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly string _drum;
    private readonly string _foreign;

    public ImportPlannerTests()
    {
        _drum = SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), seed: 1);
        _foreign = SessionFixture.Sound(Path.Combine(_session.Library, "bottle.wav"), samples: 44100, rate: 44100, seed: 2);
        _session.Save();
    }

    public void Dispose() => _session.Dispose();

    private ImportRequest Request(params string[] paths) =>
        new(_session.SessionId, _session.Inventory(), [.. paths.Select(p => new ImportItem(p, Path.GetFileName(p)))], _session.Shelves, new FreshIdentities(), new HeaderCache());

    private static Plan Plan(ImportRequest request) => ImportPlanner.Plan(request, TestContext.Current.CancellationToken);

    private Dictionary<string, InventoryFile> Apply(Plan plan)
    {
        Assert.Empty(plan.Refusals);
        new MemoryJournal().Apply(plan);
        return _session.Inventory().Files.ToDictionary(f => f.Name, StringComparer.Ordinal);
    }

    [Fact]
    public void AFileIsCopiedAndListed()
    {
        var plan = Plan(Request(_drum));
        Assert.Equal("Copy 1 file, 14 kB, into 'Audio'; on the session's list; originals untouched.", plan.Sentence);
        var file = Apply(plan)["drum.wav"];
        Assert.Equal((Standing.Inside, FileUse.Listed), (file.Standing, file.Use));
        Assert.Equal(File.ReadAllBytes(_drum), File.ReadAllBytes(file.Path));
    }

    [Fact]
    public void FilesArePlacedOneAfterTheOtherFromTheGivenTime()
    {
        var second = SessionFixture.Sound(Path.Combine(_session.Library, "oar.wav"), samples: 9600, seed: 5);
        var plan = Plan(Request(_drum, second) with { Track = "Samples", At = ExactTime.From(12, 1) });
        Assert.Contains("placed on 'Samples' from 0:12.0", plan.Sentence, StringComparison.Ordinal);
        var files = Apply(plan);
        Assert.All(files.Values, f => Assert.Equal((FileUse.Placed, 1), (f.Use, f.PlacedTimes)));
        var children = SessionDocument.ReadFile(_session.DocumentPath).Root["tracks"]!["children"]!.Items.Single(t => t["name"]!.AsText == "Samples")["children"]!.Items;
        Assert.Equal(["Gap.1", "Clip.2", "Clip.2"], children.Select(c => c["OTIO_SCHEMA"]!.AsText));
        Assert.Equal(12 * 48000, children[0]["source_range"]!["duration"]!["value"]!.Number);
    }

    [Fact]
    public void ATrackThatIsNotThereIsAddedAndAnOccupiedTimeIsRefusedWithoutAPlan()
    {
        Apply(Plan(Request(_drum) with { Track = "Bells", At = ExactTime.From(1, 1) }));
        Assert.Contains("Bells", _session.Inventory().Document!.Tracks);
        var refused = Plan(Request(_foreign) with { Track = "Bells", At = ExactTime.From(1, 1) });
        Assert.Equal(
            (FaultCode.TrackOccupied, "drum", "Bells", 1.0, 1.1), Assert.Single(refused.Refusals) is var f ? (f.Code, f.Other, f.Name, f.Seconds!.Value, Math.Round(f.UntilSeconds!.Value, 6)) : default);
        Assert.Empty(refused.Steps);
    }

    [Fact]
    public void AForeignRateIsToldAndConvertedOnRequestWithTheOriginalBeside()
    {
        var asItIs = Plan(Request(_foreign));
        Assert.Equal(new Fault(FaultCode.RateDiffers) { Name = "bottle.wav", Count = 44100, Expected = 48000, Reasons = [new Fault(FaultCode.TakenAsItIs)] }, Assert.Single(asItIs.Remarks));
        var plan = Plan(Request(_foreign) with { Convert = true, Track = "Samples" });
        Assert.Empty(plan.Remarks);
        Assert.Contains("1 converted copy", plan.Sentence, StringComparison.Ordinal);
        var files = Apply(plan);
        var (original, converted) = (files["bottle.wav"], files["bottle 48k.wav"]);
        Assert.Equal((FileUse.Listed, 44100), (original.Use, original.Header!.SampleRate));
        Assert.Equal((FileUse.Placed, 48000, 48000L), (converted.Use, converted.Header!.SampleRate, converted.Header.LengthSamples!.Value));
        Assert.Equal([new SampleRange(0, 48000)], converted.Used);
        // What the plan said is what was written.
        var said = plan.Steps.OfType<MakeFileStep>().Single(s => s.Transform is ConvertRate).Bytes;
        Assert.InRange(new FileInfo(converted.Path).Length, said - 1000, said + 1000);
    }

    [Fact]
    public void ContentThatIsInsideAlreadyIsUsedAndNotCopiedAgain()
    {
        Directory.CreateDirectory(_session.Inside("Audio"));
        File.Copy(_drum, _session.Inside("Audio", "kick.wav"));
        var plan = Plan(Request(_drum));
        Assert.DoesNotContain(plan.Steps, s => s is MakeFileStep { IsCopy: true });
        Assert.Equal(new Fault(FaultCode.SameFileInside) { Name = "drum.wav", Other = "kick.wav" }, Assert.Single(plan.Remarks));
        Assert.Equal(FileUse.Listed, Assert.Single(Apply(plan)).Value.Use);
        // Once more changes nothing on the list.
        Apply(Plan(Request(_drum)));
        Assert.Single(_session.Inventory().Document!.References);
    }

    [Fact]
    public void TheSameNameWithOtherContentIsNumbered()
    {
        SessionFixture.Sound(_session.Inside("Audio", "drum.wav"), seed: 40);
        Assert.Equal(["drum 2.wav", "drum.wav"], Apply(Plan(Request(_drum))).Keys.Order(StringComparer.Ordinal));
    }

    [Fact]
    public void PointingWithoutCopyingIsToldAsTheRiskItIs()
    {
        var plan = Plan(Request(_drum) with { ByReference = true });
        Assert.StartsWith("Link 1 file where it stands; nothing is copied", plan.Sentence, StringComparison.Ordinal);
        Assert.Equal(new Fault(FaultCode.StaysOutside) { Name = "drum.wav", Other = "Loft samples" }, Assert.Single(plan.Remarks));
        Assert.Equal((Standing.Outside, FileUse.Listed), Apply(plan)["drum.wav"] is var f ? (f.Standing, f.Use) : default);
    }

    [Fact]
    public void WhatIsNoMediaIsRefusedAndWhatIsBrokenIsToldAndTaken()
    {
        var (text, broken) = (Path.Combine(_session.Library, "notes.txt"), Path.Combine(_session.Library, "broken.wav"));
        File.WriteAllText(text, "x");
        File.WriteAllText(broken, "RIFF");
        Assert.Equal((FaultCode.NotMedia, "notes.txt"), Assert.Single(Plan(Request(text)).Refusals) is var f ? (f.Code, f.Name) : default);
        var plan = Plan(Request(broken));
        Assert.Equal((FaultCode.NoSoundToRead, FaultCode.MediaTooShort), Assert.Single(plan.Remarks) is var f2 ? (f2.Code, Assert.Single(f2.Reasons).Code) : default);
        Assert.NotNull(Apply(plan)["broken.wav"].Problem);
        Assert.Equal(FaultCode.LengthUnknown, Assert.Single(Plan(Request(broken) with { Track = "Samples" }).Refusals).Code);
    }

    [Fact]
    public void OneFileTwiceIsCopiedOnceAndPlacedTwice()
    {
        var plan = Plan(Request(_drum, _drum) with { Track = "Samples" });
        Assert.Single(plan.Steps.OfType<MakeFileStep>(), s => s.IsCopy);
        Assert.Equal(2, Apply(plan)["drum.wav"].PlacedTimes);
    }

    [Fact]
    public void ImportsAreTakenBackWhole()
    {
        var before = Tree.Of(_session.Root);
        var plan = Plan(Request(_drum, _foreign) with { Convert = true, Track = "Bells" });
        var journal = new MemoryJournal();
        journal.Apply(plan);
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(CutOffs.Strip(before), CutOffs.Strip(Tree.Of(_session.Root)));
    }

    [Fact]
    public void ACutAtAnyMomentLeadsToBeforeOrAfter() =>
        CutOffs.AssertBeforeOrAfter(_session.Folder, new MemoryJournal(), Plan(Request(_drum, _foreign) with { Convert = true, Track = "Samples" }));
}
