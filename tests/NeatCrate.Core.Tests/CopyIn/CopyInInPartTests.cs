using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.CopyIn;

/// <summary>Drives that leave in the middle, files that cannot be had, disks that are full: what is in stays in, and the rest is gone on with later.</summary>
public sealed class CopyInInPartTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly MemoryJournal _journal = new();

    public void Dispose() => _session.Dispose();

    /// <summary>Four files of the card and one of the library, 3 MB each.</summary>
    private Plan PlanFive(bool fromLibrary = true)
    {
        for (var n = 0; n < 4; n++)
        {
            _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, $"tide {n}.wav"), 1_000_000, seed: n));
        }
        if (fromLibrary)
        {
            _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), 1_000_000, seed: 9));
        }
        _session.Save();
        return _session.PlanCopyIn();
    }

    private System.Collections.Immutable.ImmutableArray<LeftOutStep> Apply(Plan plan, string before, Action happens)
    {
        var happened = false;
        return _journal.Apply(plan, progress =>
        {
            if (!happened && progress.Current == before)
            {
                happened = true;
                happens();
            }
        }).LeftOut;
    }

    private Dictionary<string, Standing> Standings() => _session.Inventory().Files.ToDictionary(f => f.Name, f => f.Standing);

    [Fact]
    public void ADriveThatLeavesInTheMiddleLeavesWhatIsInAndTheRestIsGoneOnWith()
    {
        var plan = PlanFive();
        var away = _session.Card + " away";
        var leftOut = Apply(plan, "tide 1.wav", () => Directory.Move(_session.Card, away));
        Assert.Equal(["tide 1.wav", "tide 2.wav", "tide 3.wav"], leftOut.Select(l => Path.GetFileName(l.Step.Destination)));
        Assert.Equal(FaultCode.SourceGone, leftOut[0].Reason.Code);
        Assert.Equal(PlanOutcome.Applied, _journal.Outcome(plan));
        Assert.Equal(
            [("drum.wav", Standing.Inside), ("tide 0.wav", Standing.Inside), ("tide 1.wav", Standing.Away), ("tide 2.wav", Standing.Away), ("tide 3.wav", Standing.Away)],
            Standings().OrderBy(f => f.Key, StringComparer.Ordinal).Select(f => (f.Key, f.Value)));
        Assert.Empty(Directory.EnumerateFiles(_session.Inside("Audio"), ".*"));

        Directory.Move(away, _session.Card);
        var rest = _session.PlanCopyIn();
        Assert.Equal(["tide 1.wav", "tide 2.wav", "tide 3.wav"], rest.Steps.OfType<MakeFileStep>().Where(s => s.IsCopy).Select(s => Path.GetFileName(s.Destination)));
        Assert.Empty(Apply(rest, "", () => { }));
        Assert.All(Standings().Values, s => Assert.Equal(Standing.Inside, s));
    }

    [Fact]
    public void WhatIsInCanBeTakenBackAsAnyPlanCan()
    {
        var plan = PlanFive();
        var before = Tree.Of(_session.Folder);
        Assert.Single(Apply(plan, "tide 0.wav", () => File.SetLastWriteTimeUtc(Path.Combine(_session.Card, "tide 3.wav"), DateTime.UtcNow)));
        Assert.Equal(4, Standings().Values.Count(s => s == Standing.Inside));
        var undo = UndoPlanner.Plan(plan, _journal.Records(plan));
        Assert.DoesNotContain(undo.Steps, s => s.Destination.EndsWith("tide 3.wav", StringComparison.Ordinal));
        _journal.Apply(undo);
        Assert.Equal(CutOffs.Strip(before), CutOffs.Strip(Tree.Of(_session.Folder)));
    }

    [Fact]
    public void WhenNothingCouldBeHadThePlanFailedAndNothingIsLeftBehind()
    {
        var plan = PlanFive(fromLibrary: false);
        var before = Tree.Of(_session.Folder);
        var happened = false;
        var result = _journal.TryApply(plan, _ =>
        {
            if (!happened)
            {
                happened = true;
                Directory.Move(_session.Card, _session.Card + " away");
            }
        });
        Assert.Equal((FaultCode.SourceGone, true), (result.Cause!.Code, result.IsAsBefore));
        Assert.Equal(PlanOutcome.Failed, _journal.Outcome(plan));
        Assert.Equal(before, Tree.Of(_session.Folder));
    }

    [Fact]
    public void AFullDiskStopsThePlanAndKeepsWhatIsIn()
    {
        if (Environment.UserName != "root")
        {
            Assert.Skip("Only root can mount a small disk.");
        }
        Directory.CreateDirectory(_session.Inside("Audio"));
        Tool.Run("mount", "-t", "tmpfs", "-o", "size=20m", "tmpfs", _session.Inside("Audio"));
        try
        {
            var plan = PlanFive();
            // Somebody else fills the disk while the second file is copied.
            var leftOut = Apply(plan, "tide 0.wav", () =>
                File.WriteAllBytes(_session.Inside("Audio", "somebody.bin"), new byte[9_500_000]));
            Assert.InRange(leftOut.Length, 1, 4);
            // Told of the file, not of the temporary name that it had.
            Assert.Equal((FaultCode.NoSpace, "Audio"), (leftOut[0].Reason.Code, Path.GetFileName(Path.GetDirectoryName(leftOut[0].Reason.Path))));
            Assert.EndsWith(".wav", leftOut[0].Reason.Path, StringComparison.Ordinal);
            Assert.Equal((FaultCode.LeftOut, 5L), Assert.Single(_journal.Notes(plan)) is var note ? (note.Code, note.Expected!.Value) : default);
            Assert.Equal(5 - leftOut.Length, Standings().Values.Count(s => s == Standing.Inside));
            Assert.Empty(Directory.EnumerateFiles(_session.Inside("Audio"), ".*"));
            File.Delete(_session.Inside("Audio", "somebody.bin"));
            Assert.Empty(Apply(_session.PlanCopyIn(), "", () => { }));
            Assert.All(Standings().Values, s => Assert.Equal(Standing.Inside, s));
        }
        finally
        {
            Tool.Run("umount", _session.Inside("Audio"));
        }
    }

    [Fact]
    public void WhatAppearedInTheMeantimeInThePlaceOfAFileThatWasLeftOutIsNotTouched()
    {
        var plan = PlanFive();
        var original = Path.Combine(_session.Card, "tide 3.wav");
        // Another program brings the same file in under the same name.
        var leftOut = Apply(plan, "tide 0.wav", () => File.Copy(original, _session.Inside("Audio", "tide 3.wav")));
        Assert.Equal("tide 3.wav", Path.GetFileName(Assert.Single(leftOut).Step.Destination));
        _journal.Apply(UndoPlanner.Plan(plan, _journal.Records(plan)));
        Assert.True(File.ReadAllBytes(original).AsSpan().SequenceEqual(File.ReadAllBytes(_session.Inside("Audio", "tide 3.wav"))));
    }

    [Fact]
    public void ACutAtAnyMomentOfAPlanThatLeavesAFileOutLeadsToBeforeOrAfter()
    {
        var plan = PlanFive();
        var changed = Path.Combine(_session.Card, "tide 2.wav");
        var moments = 0;
        // Looked at once more before each step, so the change has to come after the plan has begun.
        _journal.Moment = () =>
        {
            if (++moments == 3)
            {
                File.SetLastWriteTimeUtc(changed, new DateTime(2026, 11, 20, 1, 0, 0, DateTimeKind.Utc));
            }
        };
        var copies = new List<MemoryJournal>();
        var before = CutOffs.Strip(Tree.Of(_session.Folder)).ToList();
        using var kept = new TempFolder();
        var change = _journal.Moment;
        _journal.Moment = () =>
        {
            change();
            Tree.Copy(_session.Folder, Path.Combine(kept.Path, $"{copies.Count}"));
            copies.Add(_journal.Copy());
        };
        _journal.Apply(plan);
        var after = CutOffs.Strip(Tree.Of(_session.Folder)).ToList();
        for (var n = 0; n < copies.Count; n++)
        {
            Tree.Restore(Path.Combine(kept.Path, $"{n}"), _session.Folder);
            Assert.DoesNotContain(copies[n].Recover(), r => r.Problem is not null);
            var now = CutOffs.Strip(Tree.Of(_session.Folder)).ToList();
            Assert.True(now.SequenceEqual(before) || now.SequenceEqual(after), $"moment {n}: {string.Join("\n", now)}");
        }
    }
}
