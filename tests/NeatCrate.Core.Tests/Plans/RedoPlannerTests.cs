using NeatCrate.Core.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>What was undone is done once more, step by step back and forth.</summary>
public sealed class RedoPlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly MemoryJournal _journal = new();

    public void Dispose() => _session.Dispose();

    [Fact]
    public void TheTreeGoesBackAndForth()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"))).Save();
        var before = Tree.Of(_session.Folder);
        var plan = _session.PlanCopyIn();
        _journal.Apply(plan);
        var after = Tree.Of(_session.Folder);
        for (var n = 0; n < 2; n++)
        {
            var undo = UndoPlanner.Plan(plan, _journal.Records(plan));
            _journal.Apply(undo);
            Assert.Equal(before, Tree.Of(_session.Folder));
            plan = RedoPlanner.Plan(plan, undo);
            Assert.Equal((undo.Id, PlanKind.CopyIn), (plan.Undoes, plan.Kind));
            Assert.StartsWith("Redo: Copy 1 file", plan.Sentence, StringComparison.Ordinal);
            _journal.Apply(plan);
            Assert.Equal(after.Keys.Order(), Tree.Of(_session.Folder).Keys.Order());
        }
    }

    /// <summary>Where something was changed since the undo, the redo is refused and changes nothing.</summary>
    [Fact]
    public void WhatIsNoLongerAsItWasIsNotRedone()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"))).Save();
        var plan = _session.PlanCopyIn();
        _journal.Apply(plan);
        var undo = UndoPlanner.Plan(plan, _journal.Records(plan));
        _journal.Apply(undo);
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "gull.wav"))).Save();
        var now = Tree.Of(_session.Folder);
        Assert.Throws<PlanRefusedException>(() => _journal.TryApply(RedoPlanner.Plan(plan, undo)));
        Assert.Equal(now, Tree.Of(_session.Folder));
    }

    /// <summary>Plans by letters, the oldest first: A and B are plans, "-A" undoes A, "+A" redoes it by taking that undo back.</summary>
    [Theory]
    [InlineData("A", null)]
    [InlineData("A -A", "-A")]
    [InlineData("A -A +A", null)]
    [InlineData("A B -B -A", "-A")]
    [InlineData("A B -B -A +A", "-B")]
    [InlineData("A B -B -A +A +B", null)]
    [InlineData("A B -B C", null)]
    [InlineData("A B -B -A C", null)]
    [InlineData("A B -B -A +A C", null)]
    [InlineData("", null)]
    public void TheLastUndoIsRedoneFirstAndNothingAfterSomethingNew(string story, string? expected)
    {
        var ids = new Dictionary<string, Guid>();
        var applied = new List<(Guid, PlanKind?, Guid?)>();
        foreach (var word in story.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            ids[word] = Guid.NewGuid();
            applied.Insert(0, word[0] switch
            {
                '-' => (ids[word], PlanKind.Undo, ids[word[1..]]),
                '+' => (ids[word], PlanKind.CopyIn, ids["-" + word[1..]]),
                _ => (ids[word], (PlanKind?)PlanKind.CopyIn, (Guid?)null),
            });
        }
        Assert.Equal(expected is null ? null : ids[expected], RedoPlanner.Redoable(applied));
    }
}
