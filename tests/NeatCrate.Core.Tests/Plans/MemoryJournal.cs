using System.Collections.Immutable;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>A journal in memory that can be looked at, and copied as it stood at any moment.</summary>
internal sealed class MemoryJournal : IJournal
{
    private ImmutableDictionary<Guid, Entry> _entries = ImmutableDictionary<Guid, Entry>.Empty;

    private sealed record Entry(Plan Plan, ImmutableSortedDictionary<int, StepRecord> Records, bool Committed, PlanOutcome? Outcome, string? Note);

    /// <summary>Called before and after every entry.</summary>
    public Action? Moment { get; set; }

    public PlanOutcome? Outcome(Plan plan) => _entries[plan.Id].Outcome;

    public IReadOnlyList<StepRecord> Records(Plan plan) => [.. _entries[plan.Id].Records.Values];

    public MemoryJournal Copy() => new() { _entries = _entries };

    /// <summary>Applies a plan with this journal; the test's own cancellation stops it.</summary>
    public void Apply(Plan plan, Action<RunProgress>? progress = null) => new Runner(this).Apply(plan, progress, TestContext.Current.CancellationToken);

    public void Begin(Plan plan) => Change(() => _entries = _entries.Add(plan.Id, new Entry(plan, ImmutableSortedDictionary<int, StepRecord>.Empty, false, null, null)));

    public void Record(Guid planId, StepRecord record) => Change(() =>
    {
        var entry = _entries[planId];
        var known = entry.Records.GetValueOrDefault(record.Index);
        _entries = _entries.SetItem(planId, entry with
        {
            Records = entry.Records.SetItem(record.Index, record with { Written = record.Written ?? known?.Written, Before = record.Before ?? known?.Before }),
        });
    });

    public void Commit(Guid planId) => Change(() => _entries = _entries.SetItem(planId, _entries[planId] with { Committed = true }));

    public void Close(Guid planId, PlanOutcome outcome, string? note) =>
        Change(() => _entries = _entries.SetItem(planId, _entries[planId] with { Outcome = outcome, Note = note }));

    public IReadOnlyList<OpenPlan> Unfinished() =>
        [.. _entries.Values.Where(e => e.Outcome is null).Select(e => new OpenPlan(e.Plan, [.. e.Records.Values], e.Committed))];

    private void Change(Action change)
    {
        Moment?.Invoke();
        change();
        Moment?.Invoke();
    }
}
