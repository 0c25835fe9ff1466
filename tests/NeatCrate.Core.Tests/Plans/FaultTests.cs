using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Files;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>Every single call of every kind of plan fails once, and then the drive fails for good: what is told must agree with what is on disk.</summary>
public sealed class FaultTests
{
    private const int MostCalls = 2000;

    public static TheoryData<string> Stories => [.. PlanStory.Names];

    [Theory]
    [MemberData(nameof(Stories))]
    public void WhateverFailsWhatIsToldIsWhatIsThere(string name)
    {
        using var story = PlanStory.Of(name);
        var (asBefore, open) = (0, 0);
        foreach (var lasting in new[] { false, true })
        {
            foreach (var code in new[] { FaultCode.NoSpace, FaultCode.CannotWrite })
            {
                for (var failing = 0; ; failing++)
                {
                    Assert.True(failing < MostCalls);
                    story.Reset();
                    var (journal, calls) = (story.Journal(), 0);
                    var files = new QuickFiles
                    {
                        Before = (_, path) =>
                        {
                            var call = calls++;
                            if (call == failing || (lasting && call > failing))
                            {
                                throw new FaultException(code, path);
                            }
                        },
                    };
                    var result = journal.TryApply(story.Plan, files: files);
                    var where = $"{name}, call {failing} fails{(lasting ? " and all after it" : "")}: {result}";
                    Check(story, journal, result, where);
                    asBefore += result.IsAsBefore ? 1 : 0;
                    open += result.IsOpen ? 1 : 0;
                    if (calls <= failing)
                    {
                        break;
                    }
                }
            }
        }
        Assert.True(asBefore > 0 && open > 0, $"{asBefore} as before, {open} left open");
    }

    private static void Check(PlanStory story, MemoryJournal journal, PlanResult result, string where)
    {
        if (result.IsAsBefore)
        {
            Assert.True(story.IsBefore(), $"{where}\n{story.Difference()}");
            Assert.True(journal.Unfinished().Count == 0, where);
        }
        else if (result is { Outcome: PlanOutcome.Applied, LeftOut.IsEmpty: true, IsOpen: false })
        {
            Assert.True(story.IsAfter(), where);
        }
        else if (result.IsOpen)
        {
            // Told as not over: a later try, with the drive working again, makes it before or after.
            Assert.All(journal.Recover(new QuickFiles()), r => Assert.Null(r.Problem));
            Assert.True(result.Outcome == PlanOutcome.Applied ? story.IsAfter() || !result.LeftOut.IsEmpty : story.IsBefore(), $"{where}\n{story.Difference()}");
        }
        else
        {
            Assert.True(result.Outcome == PlanOutcome.Applied && !result.LeftOut.IsEmpty, where);
        }
    }
}
