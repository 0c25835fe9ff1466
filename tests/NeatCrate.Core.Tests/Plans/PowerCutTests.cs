using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Files;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>
/// The power is cut before every single call that changes something on disk, in every kind of plan and in its undo. What was
/// not flushed is lost, or partly lost. From whatever is left, a restart must lead to before or to after, and to nothing else.
/// </summary>
public sealed class PowerCutTests
{
    private const int MostCalls = 2000;
    private const int LargeCuts = 8;

    public static TheoryData<string> Stories => [.. PlanStory.Names];

    [Theory]
    [MemberData(nameof(Stories))]
    public void APowerCutAtAnyMomentLeadsToBeforeOrAfter(string name)
    {
        using var story = PlanStory.Of(name);
        var (toBefore, toAfter) = (0, 0);
        foreach (var unflushed in Enum.GetValues<Unflushed>())
        {
            for (var call = 0; CutAt(story, call, unflushed, out var cut); call++)
            {
                Assert.True(call < MostCalls);
                var recovered = cut.Recover(new QuickFiles());
                var where = $"{name}, {unflushed}, cut before call {call}";
                Assert.All(recovered, r => Assert.True(r.Problem is null && r.Remains.IsEmpty, $"{where}: {r.Problem} {string.Join(' ', r.Remains)}"));
                Assert.True(cut.Unfinished().Count == 0, where);
                if (story.IsBefore())
                {
                    toBefore++;
                }
                else
                {
                    Assert.True(story.IsAfter(), $"{where}:\n{story.Difference()}");
                    toAfter++;
                }
            }
        }
        Assert.True(toBefore > 4 && toAfter > 0, $"{toBefore} led to before, {toAfter} to after");
    }

    /// <summary>500 files over three documents: the power is cut at moments all over the work.</summary>
    [Fact]
    public void APowerCutInALargeRelinkLeadsToBeforeOrAfter()
    {
        using var story = PlanStory.Of("relink many");
        var counting = new PowerCutFiles(story.Root);
        story.Journal().TryApply(story.Plan, files: counting);
        var (calls, random, toBefore, toAfter) = (counting.Calls.Count, new Random(500), 0, 0);
        Assert.True(calls > PlanStory.ManyFiles);
        for (var n = 0; n < LargeCuts; n++)
        {
            // The last calls are those after which it is done.
            var call = n < 2 ? calls - 1 - n : random.Next(calls);
            Assert.True(CutAt(story, call, (Unflushed)(n % 4), out var cut));
            Assert.All(cut.Recover(new QuickFiles()), r => Assert.True(r.Problem is null && r.Remains.IsEmpty, $"cut before call {call}: {r.Problem}"));
            toBefore += story.IsBefore() ? 1 : 0;
            toAfter += story.IsAfter() ? 1 : 0;
            Assert.True(toBefore + toAfter == n + 1, $"cut before call {call}:\n{story.Difference()}");
        }
        Assert.True(toBefore > 2 && toAfter > 0, $"{toBefore} led to before, {toAfter} to after");
    }

    /// <summary>The power may go again while the restart puts things in order.</summary>
    [Theory]
    [MemberData(nameof(Stories))]
    public void AnotherPowerCutDuringTheRestartDoesNoHarm(string name)
    {
        using var story = PlanStory.Of(name);
        for (var call = 3; CutAt(story, call, Unflushed.Mixed, out var cut); call += 7)
        {
            for (var again = 0; again < MostCalls; again += 2)
            {
                var files = new PowerCutFiles(story.Root);
                MemoryJournal? second = null;
                files.CutBefore(again);
                OnCut(files, () => second ??= cut.Copy());
                cut.Recover(files);
                if (second is null)
                {
                    break;
                }
                files.Lose(Unflushed.Lost, again);
                cut = second;
            }
            cut.Recover(new QuickFiles());
            Assert.True(story.IsBefore() || story.IsAfter(), $"{name}, cut before call {call} and again:\n{story.Difference()}");
        }
    }

    /// <summary>Applies the plan from its start, cuts the power before a call, and leaves the disk as that does.</summary>
    /// <returns>False when the plan makes fewer calls.</returns>
    private static bool CutAt(PlanStory story, int call, Unflushed unflushed, out MemoryJournal cut)
    {
        story.Reset();
        var files = new PowerCutFiles(story.Root);
        var journal = story.Journal();
        MemoryJournal? then = null;
        files.CutBefore(call);
        // After the cut the runner lives on for a moment in this test, but what it writes reaches nobody.
        OnCut(files, () => then ??= journal.Copy());
        journal.TryApply(story.Plan, files: files);
        cut = then ?? journal;
        if (then is null)
        {
            return false;
        }
        files.Lose(unflushed, call);
        return true;
    }

    private static void OnCut(PowerCutFiles files, Action happens)
    {
        var before = files.Before!;
        files.Before = (what, path) =>
        {
            try
            {
                before(what, path);
            }
            catch (PowerCutException)
            {
                happens();
                throw;
            }
        };
    }
}
