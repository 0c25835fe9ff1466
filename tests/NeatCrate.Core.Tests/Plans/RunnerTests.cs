using CsCheck;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Plans;

public sealed class RunnerTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly MemoryJournal _journal = new();

    public void Dispose() => _session.Dispose();

    private Plan PlanCopyIn()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), seed: 1))
            .Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 2))
            .Place(SessionFixture.Sound(Path.Combine(_session.Card, "rope.wav"), seed: 3))
            .Save();
        return _session.PlanCopyIn();
    }

    private Plan Undo(Plan plan) => UndoPlanner.Plan(plan, _journal.Records(plan));

    [Fact]
    public void APlanIsAppliedWholeAndTakenBackWhole()
    {
        var plan = PlanCopyIn();
        var before = Tree.Of(_session.Root);
        _journal.Apply(plan);
        var after = _session.Inventory();
        Assert.All(after.Files, f => Assert.Equal(Core.Inventory.Standing.Inside, f.Standing));
        Assert.Equal(PlanOutcome.Applied, _journal.Outcome(plan));
        // The copies are the originals, byte for byte, with their time of change.
        Assert.Equal(before["card/tide.wav"], Tree.Of(_session.Root)[$"drive/{SessionFixture.Name}/Audio/tide.wav"]);
        var undo = Undo(plan);
        Assert.Empty(Engine.Refusals(undo));
        _journal.Apply(undo);
        AssertSame(before, Tree.Of(_session.Root), ignoreDocumentTime: true);
    }

    [Fact]
    public void UndoRestoresTheExactTreeWhateverWasCopied() =>
        Gen.Select(Gen.Int[1, 4], Gen.Int[0, 1_000_000], Gen.Bool).Sample(
            (count, seed, audioThere) =>
            {
                using var session = new SessionFixture();
                var random = new Random(seed);
                string[] names = ["a.wav", "A.wav", "b: c.wav", "ö.wav", "o\u0308.wav", "same.wav"];
                for (var n = 0; n < count; n++)
                {
                    session.Place(SessionFixture.Sound(
                        Path.Combine(random.Next(2) == 0 ? session.Library : session.Card, $"{random.Next(3)}", names[random.Next(names.Length)]),
                        samples: random.Next(0, 500), seed: random.Next(4)));
                }
                if (audioThere)
                {
                    SessionFixture.Sound(session.Inside("Audio", "a.wav"), seed: 9);
                }
                session.Save();
                var before = Tree.Of(session.Root);
                var journal = new MemoryJournal();
                var plan = session.PlanCopyIn();
                journal.Apply(plan);
                Assert.DoesNotContain(session.Inventory().Files, f => f.Standing != Core.Inventory.Standing.Inside);
                journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
                AssertSame(before, Tree.Of(session.Root), ignoreDocumentTime: true);
            },
            iter: 60, threads: 1);

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void ACutAtAnyEntryOfTheJournalLeadsToBeforeOrAfter(bool cutTheUndo)
    {
        var plan = PlanCopyIn();
        if (cutTheUndo)
        {
            _journal.Apply(plan);
            plan = Undo(plan);
        }
        CutOffs.AssertBeforeOrAfter(_session.Root, _journal, plan);
    }

    [Fact]
    public void ASourceThatChangedSinceThePlanIsRefusedBeforeTheFirstStep()
    {
        var plan = PlanCopyIn();
        File.SetLastWriteTimeUtc(Path.Combine(_session.Card, "tide.wav"), DateTime.UtcNow);
        AssertRefused(plan, FaultCode.SourceChanged, Path.Combine(_session.Card, "tide.wav"));
    }

    [Fact]
    public void ASourceThatLeftIsRefusedBeforeTheFirstStep()
    {
        var plan = PlanCopyIn();
        Directory.Delete(_session.Card, recursive: true);
        AssertRefused(plan, FaultCode.SourceGone, Path.Combine(_session.Card, "rope.wav"));
    }

    [Fact]
    public void ADestinationThatAppearedIsNeverOverwritten()
    {
        var plan = PlanCopyIn();
        SessionFixture.Sound(_session.Inside("Audio", "tide.wav"), seed: 77);
        AssertRefused(plan, FaultCode.NameTaken, _session.Inside("Audio", "tide.wav"));
    }

    [Fact]
    public void ADocumentThatWasSavedSinceThePlanIsNotReplaced()
    {
        var plan = PlanCopyIn();
        File.AppendAllText(_session.DocumentPath, "\n");
        AssertRefused(plan, FaultCode.DocumentChanged, _session.DocumentPath);
    }

    [Fact]
    public void APlaceOutsideThePlansOwnRootsIsRefusedEvenThroughALink()
    {
        var elsewhere = Path.Combine(_session.Root, "elsewhere");
        Directory.CreateDirectory(elsewhere);
        var plan = PlanCopyIn();
        Directory.CreateSymbolicLink(_session.Inside("Audio"), elsewhere);
        AssertRefused(plan with { Steps = [.. plan.Steps.Where(s => s is not MakeFolderStep)] }, FaultCode.NotAPlaceOfThePlan, _session.Inside("Audio", "rope.wav"));
        Assert.Empty(Directory.GetFileSystemEntries(elsewhere));
    }

    [Fact]
    public void AStepThatFailsInTheMiddleTakesEverythingBack()
    {
        var plan = PlanCopyIn() with { KeepsPart = false };
        var before = Tree.Of(_session.Root);
        // After the checks, when the first file is in: the next source is cut short.
        var entries = 0;
        _journal.Moment = () =>
        {
            if (++entries == 13)
            {
                File.WriteAllBytes(plan.Steps[^2].SourcePath!, [1]);
            }
        };
        var result = _journal.TryApply(plan);
        Assert.Equal((PlanOutcome.Failed, FaultCode.SourceChanged, true), (result.Outcome, result.Cause!.Code, result.IsAsBefore));
        Assert.Equal(PlanOutcome.Failed, _journal.Outcome(plan));
        var now = Tree.Of(_session.Root);
        Assert.Equal(before.Where(e => e.Key.StartsWith("drive", StringComparison.Ordinal)), now.Where(e => e.Key.StartsWith("drive", StringComparison.Ordinal)));
    }

    [Fact]
    public void CancellingTakesEverythingBack()
    {
        var plan = PlanCopyIn();
        var before = Tree.Of(_session.Root);
        using var cancel = new CancellationTokenSource();
        var result = _journal.TryApply(plan, p => { if (p.StepsDone == 2) { cancel.Cancel(); } }, cancel: cancel.Token);
        Assert.Equal((PlanOutcome.Cancelled, true), (result.Outcome, result.IsAsBefore));
        AssertSame(before, Tree.Of(_session.Root), ignoreDocumentTime: false);
        Assert.Equal(PlanOutcome.Cancelled, _journal.Outcome(plan));
    }

    [Fact]
    public void ProgressEndsAtAllOfTheWork()
    {
        var plan = PlanCopyIn();
        var last = default(RunProgress);
        _journal.Apply(plan, p =>
        {
            Assert.True(p.WorkDone >= last.WorkDone);
            last = p;
        });
        Assert.Equal((plan.Steps.Length, last.Work), (last.StepsDone, last.WorkDone));
    }

    [Fact]
    public void UndoIsRefusedWhenTheCopyIsTheOnlyOneLeft()
    {
        var plan = PlanCopyIn();
        _journal.Apply(plan);
        File.Delete(Path.Combine(_session.Card, "tide.wav"));
        Assert.Contains(FaultCode.OriginalGone, Engine.Refusals(Undo(plan)).Codes());
        // The same length and other bytes are only found by reading: the undo fails then, and puts everything back.
        SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 50);
        var before = Tree.Of(_session.Root);
        Assert.Equal(FaultCode.OriginalChanged, _journal.TryApply(Undo(plan)).Cause!.Code);
        AssertSame(before, Tree.Of(_session.Root), ignoreDocumentTime: true);
    }

    [Fact]
    public void UndoIsRefusedWhenTheDocumentWasSavedSince()
    {
        var plan = PlanCopyIn();
        _journal.Apply(plan);
        File.AppendAllText(_session.DocumentPath, " ");
        Assert.Equal([FaultCode.DocumentChanged], Engine.Refusals(Undo(plan)).Codes());
    }

    [Fact]
    public void AnUndoCannotBeUndoneItself()
    {
        var plan = PlanCopyIn();
        _journal.Apply(plan);
        var undo = Undo(plan);
        _journal.Apply(undo);
        Assert.NotEmpty(Undo(undo).Refusals);
    }

    [Fact]
    public void APlanWhoseFolderCannotBeReachedStaysOpenUntilItCan()
    {
        var plan = PlanCopyIn();
        MemoryJournal? cut = null;
        using var kept = new TempFolder();
        _journal.Moment = () =>
        {
            if (cut is null && _journal.Unfinished().Any(o => o.Records.Length == 3))
            {
                cut = _journal.Copy();
                Tree.Copy(_session.Root, Path.Combine(kept.Path, "disk"));
            }
        };
        var before = Tree.Of(_session.Root);
        _journal.Apply(plan);
        Tree.Restore(Path.Combine(kept.Path, "disk"), _session.Root);
        Directory.Move(_session.Folder, _session.Folder + " away");
        Assert.Equal(FaultCode.RootGone, Assert.Single(cut!.Recover()).Problem!.Code);
        Directory.Move(_session.Folder + " away", _session.Folder);
        Assert.Null(Assert.Single(cut!.Recover()).Problem);
        AssertSame(before, Tree.Of(_session.Root), ignoreDocumentTime: false);
    }

    /// <summary>A file system of two megabytes, so that it is full in the middle (tmpfs, needs root).</summary>
    [Fact]
    public void AFullDiskIsRefusedBeforehand()
    {
        Assert.SkipUnless(Environment.UserName == "root", "Mounting needs root.");
        var small = Path.Combine(_session.Root, "small");
        Directory.CreateDirectory(small);
        Tool.Run("mount", "-t", "tmpfs", "-o", "size=2m", "tmpfs", small);
        try
        {
            var source = SessionFixture.Sound(Path.Combine(_session.Card, "long.wav"), samples: 900_000);
            var plan = new Plan
            {
                Id = Guid.NewGuid(),
                Kind = PlanKind.CopyIn,
                Sentence = "Copy 1 file.",
                WritableRoots = [small],
                Steps = [MakeFileStep.Copy(Path.Combine(small, "long.wav"), "test", source, FileState.Of(source))],
            };
            AssertRefused(plan, FaultCode.NotEnoughSpace, null);
        }
        finally
        {
            Tool.Run("umount", small);
        }
    }

    [Fact]
    public void APlanComesThroughTheJournalsTextWhole()
    {
        var plan = PlanCopyIn();
        var read = PlanJson.Read(PlanJson.Write(plan));
        Assert.Equal(PlanJson.Write(plan), PlanJson.Write(read));
        Assert.Equal(plan.Steps.Length, read.Steps.Length);
        Assert.Equal(((MakeFileStep)plan.Steps[1]).Origin, ((MakeFileStep)read.Steps[1]).Origin);
        Assert.Equal(((RepointDocumentStep)plan.Steps[^1]).Pointers, ((RepointDocumentStep)read.Steps[^1]).Pointers);
        Assert.Equal(ByteIdentity.OfFile(_session.DocumentPath, null, TestContext.Current.CancellationToken), ByteIdentity.Parse(((RepointDocumentStep)read.Steps[^1]).Expected.ToString()));
        Assert.True(read.KeepsPart);
    }

    private void AssertRefused(Plan plan, FaultCode why, string? path)
    {
        var before = Tree.Of(_session.Root);
        var error = Assert.Throws<PlanRefusedException>(() => _journal.Apply(plan));
        Assert.Contains(error.Reasons, r => r.Code == why && r.Path == path);
        Assert.Equal(before, Tree.Of(_session.Root));
        Assert.Empty(_journal.Unfinished());
    }

    private static void AssertSame(SortedDictionary<string, string> expected, SortedDictionary<string, string> actual, bool ignoreDocumentTime)
    {
        if (ignoreDocumentTime)
        {
            Assert.Equal(CutOffs.Strip(expected), CutOffs.Strip(actual));
        }
        else
        {
            Assert.Equal(expected, actual);
        }
    }
}
