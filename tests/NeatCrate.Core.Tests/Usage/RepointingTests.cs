using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Usage;

namespace NeatCrate.Core.Tests.Usage;

/// <summary>What a document says once its files stand elsewhere or hold other parts of the recordings.</summary>
public sealed class RepointingTests : IDisposable
{
    private const int Length = 4800;

    private readonly SessionFixture _session = new();
    private readonly string _sound;

    public RepointingTests()
    {
        _sound = SessionFixture.Sound(_session.Inside("Audio", "tide.wav"));
        _session.Place(_sound, "Cello", 100, 50).Place(_sound, "Samples", 3000, 60).List(_sound).Save();
    }

    public void Dispose() => _session.Dispose();

    /// <summary>A file that is cut into two pieces, as trimming does: each clip goes to the piece that holds what it plays.</summary>
    private static NewPlace? Piece(MediaReference reference, string path, string first, string second) => reference.ClipNumber switch
    {
        0 => new NewPlace(first, new AvailableRange(80, 100, 48000)),
        1 => new NewPlace(second, new AvailableRange(2900, 200, 48000)),
        _ => new NewPlace(path),
    };

    private (string First, string Second, RepointDocumentStep Step) Cut()
    {
        var (first, second) = (_session.Inside("Audio", "tide 1.wav"), _session.Inside("Audio", "tide 2.wav"));
        var inventory = _session.Inventory();
        var step = Repointing.Step(inventory.Documents.Single(), inventory, _session.Shelves, (r, path) => Piece(r, path, first, second), "the pieces");
        return (first, second, step!);
    }

    private Plan PlanOf(params PlanStep[] steps) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.Repair,
        SessionId = _session.SessionId,
        Sentence = "Cut",
        WritableRoots = [_session.Folder],
        Steps = [.. steps],
        Refusals = [],
    };

    /// <summary>Each clip plays the same samples of the recording as before: by where its piece begins and where the clip begins.</summary>
    [Fact]
    public void ReferencesToOneFilePartWaysAndKeepWhatTheyPlay()
    {
        var (first, second, step) = Cut();
        foreach (var (path, start, length) in new[] { (first, 80, 100), (second, 2900, 200) })
        {
            using var stream = File.Create(path);
            using var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24));
            writer.Write(Enumerable.Range(start, length).Select(n => n / 10000f).ToArray());
        }
        var before = File.ReadAllBytes(_session.DocumentPath);
        var (plan, journal) = (PlanJson.Read(PlanJson.Write(PlanOf(step))), new MemoryJournal());
        journal.Apply(plan);

        var references = SessionDocument.ReadFile(_session.DocumentPath).References;
        Assert.Equal(["Audio/tide.wav", "Audio/tide%201.wav", "Audio/tide%202.wav"], references.Select(r => r.TargetUrl));
        Assert.Equal(
            [(20L, 50L), (100L, 60L)],
            references.Skip(1).Zip([100L, 200L]).Select(r => SampleRange.Of(r.First.Source, r.First.AvailableStart, 48000, r.Second)).Select(r => (r.Start, r.Length)));
        Assert.Equal(Length / 48000.0, references[0].AvailableSeconds);
        Assert.Equal(step.Bytes, new FileInfo(_session.DocumentPath).Length);

        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, File.ReadAllBytes(_session.DocumentPath));
    }

    /// <summary>What all references that have a pointer say is told once, so that a journal of many clips stays small.</summary>
    [Fact]
    public void WhatAllSayAlikeIsToldOnce()
    {
        var inventory = _session.Inventory();
        var place = new NewPlace(_session.Inside("Audio", "hum.wav"), new AvailableRange(null, 5000, 48000));
        var change = Repointing.Of(inventory.Documents.Single(), inventory.Folder, _session.Shelves, (_, _) => place)!;
        Assert.Equal((3, new NewPointer("Audio/tide.wav", "Audio/hum.wav", place.Path, place.Range)), (change.Count, Assert.Single(change.Pointers)));
        Assert.All(SessionDocument.Parse(change.After).References, r => Assert.Equal((0, 5000 / 48000.0), (r.AvailableStart!.Value.Seconds.ToDouble(), r.AvailableSeconds)));
    }

    /// <summary>The range alone may change, where the file stays where it is.</summary>
    [Fact]
    public void ARangeChangesWithoutItsPointer()
    {
        var inventory = _session.Inventory();
        NewPlace? Longer(MediaReference reference, string path) => new(path, new AvailableRange(null, reference.Placed ? 5000 : Length, 48000));
        var change = Repointing.Of(inventory.Documents.Single(), inventory.Folder, _session.Shelves, Longer)!;
        Assert.Equal(2, change.Count);
        Assert.Equal(["Audio/tide.wav"], SessionDocument.Parse(change.After).References.Select(r => r.TargetUrl).Distinct());
        Assert.Null(Repointing.Of(inventory.Documents.Single(), inventory.Folder, _session.Shelves, (_, path) => new NewPlace(path, new AvailableRange(0, Length, 48000))));
    }

    /// <summary>Where one of the new files had to be left out, only its references stay as they were.</summary>
    [Fact]
    public void AReferenceWhoseFileIsLeftOutStaysAsItIs()
    {
        var (first, second, step) = Cut();
        string[] sources = [SessionFixture.Sound(Path.Combine(_session.Card, "1.wav"), 9_000), SessionFixture.Sound(Path.Combine(_session.Card, "2.wav"), 9_000)];
        var plan = PlanOf(
            MakeFileStep.Copy(first, "piece", sources[0], FileState.Of(sources[0])), MakeFileStep.Copy(second, "piece", sources[1], FileState.Of(sources[1])), step) with
        { KeepsPart = true };
        var result = new MemoryJournal().TryApply(plan, progress =>
        {
            if (progress.Current == "2.wav")
            {
                File.Delete(sources[1]);
            }
        });
        Assert.Equal((PlanOutcome.Applied, second), (result.Outcome, Assert.Single(result.LeftOut).Step.Destination));
        Assert.Equal(["Audio/tide.wav", "Audio/tide%201.wav", "Audio/tide.wav"], SessionDocument.ReadFile(_session.DocumentPath).References.Select(r => r.TargetUrl));
    }
}
