using System.Collections.Immutable;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>A journal in memory that can be looked at, and copied as it stood at any moment.</summary>
internal sealed class MemoryJournal : IJournal
{
    private ImmutableDictionary<Guid, Entry> _entries = ImmutableDictionary<Guid, Entry>.Empty;

    private sealed record Entry(
        Plan Plan, ImmutableSortedDictionary<int, StepRecord> Records, OpenState State, PlanOutcome? Outcome, IReadOnlyList<Fault> Notes, bool Closed);

    /// <summary>Called before and after every entry.</summary>
    public Action? Moment { get; set; }

    /// <summary>Called in place of the entry that says that every step is done.</summary>
    public Action? OnCommit { get; set; }

    /// <summary>Called before the outcome is written.</summary>
    public Action? OnSettle { get; set; }

    public PlanOutcome? Outcome(Plan plan) => _entries[plan.Id].Outcome;

    public IReadOnlyList<Fault> Notes(Plan plan) => _entries[plan.Id].Notes;

    public bool Knows(Plan plan) => _entries.ContainsKey(plan.Id);

    public IReadOnlyList<StepRecord> Records(Plan plan) => [.. _entries[plan.Id].Records.Values];

    public MemoryJournal Copy() => new() { _entries = _entries };

    /// <summary>Applies a plan that must go through; the test's own cancellation stops it.</summary>
    public PlanResult Apply(Plan plan, Action<RunProgress>? progress = null, IDurableFiles? files = null)
    {
        var result = TryApply(plan, progress, files);
        Assert.True(result.Outcome == PlanOutcome.Applied, $"{result.Outcome}: {result.Cause} {result.Error}");
        return result;
    }

    /// <summary>Applies a plan, whatever becomes of it.</summary>
    public PlanResult TryApply(Plan plan, Action<RunProgress>? progress = null, IDurableFiles? files = null, CancellationToken? cancel = null) =>
        new Runner(this, files ?? new DurableFiles()).Apply(plan, progress, cancel ?? TestContext.Current.CancellationToken);

    public IReadOnlyList<Recovered> Recover(IDurableFiles? files = null) => new Runner(this, files ?? new DurableFiles()).Recover();

    public void Begin(Plan plan) =>
        Change(() => _entries = _entries.Add(plan.Id, new Entry(plan, ImmutableSortedDictionary<int, StepRecord>.Empty, OpenState.Begun, null, [], false)));

    public void Record(Guid planId, StepRecord record) => Change(() =>
    {
        var entry = _entries[planId];
        var known = entry.Records.GetValueOrDefault(record.Index);
        _entries = _entries.SetItem(planId, entry with
        {
            Records = entry.Records.SetItem(record.Index, record with
            {
                Written = record.Written ?? known?.Written,
                Before = record.Before ?? known?.Before,
                BeforeModifiedUtc = record.BeforeModifiedUtc ?? known?.BeforeModifiedUtc,
                BeforeModifiedRest = record.BeforeModifiedRest ?? known?.BeforeModifiedRest,
            }),
        });
    });

    public void Commit(Guid planId)
    {
        OnCommit?.Invoke();
        Change(() => _entries = _entries.SetItem(planId, _entries[planId] with { State = OpenState.Committed }));
    }

    public bool IsCommitted(Guid planId) => _entries[planId].State == OpenState.Committed;

    public void Settle(Guid planId, PlanOutcome outcome, IReadOnlyList<Fault> notes)
    {
        OnSettle?.Invoke();
        Change(() => _entries = _entries.SetItem(planId, _entries[planId] with { State = OpenState.Settled, Outcome = outcome, Notes = notes }));
    }

    public void Close(Guid planId) => Change(() => _entries = _entries.SetItem(planId, _entries[planId] with { Closed = true }));

    public IReadOnlyList<OpenPlan> Unfinished() =>
        [.. _entries.Values.Where(e => !e.Closed).Select(e => new OpenPlan(e.Plan.Id, e.Plan, [.. e.Records.Values], e.State))];

    private void Change(Action change)
    {
        Moment?.Invoke();
        change();
        Moment?.Invoke();
    }
}
