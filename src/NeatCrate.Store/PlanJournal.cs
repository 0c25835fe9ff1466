using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Store;

/// <summary>A plan in the history, with the journal's records of its steps.</summary>
public sealed record HistoryEntry(PlanRow Row, Plan Plan, ImmutableArray<StepRecord> Records);

/// <summary>
/// Journal and history in SQLite. Every call is a transaction of its own; SQLite's default of synchronous=FULL flushes
/// it to disk before the call returns.
/// </summary>
public sealed class PlanJournal(StoreFiles files, TimeProvider time) : IJournal
{
    /// <inheritdoc/>
    public void Begin(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        using var db = files.NewDb();
        db.Plans.Add(new PlanRow
        {
            Id = plan.Id,
            Kind = plan.Kind,
            SessionId = plan.SessionId,
            Sentence = plan.Sentence,
            Json = PlanJson.Write(plan),
            State = PlanState.Open,
            BegunMs = NowMs(),
            Undoes = plan.Undoes,
        });
        db.SaveChanges();
    }

    /// <inheritdoc/>
    public void Record(Guid planId, StepRecord record)
    {
        ArgumentNullException.ThrowIfNull(record);
        using var db = files.NewDb();
        var (state, written) = (record.State.ToString(), record.Written?.ToString());
        db.Database.ExecuteSql($"""
            INSERT INTO Steps (PlanId, "Index", State, Written, Before) VALUES ({planId}, {record.Index}, {state}, {written}, {record.Before})
            ON CONFLICT (PlanId, "Index") DO UPDATE
            SET State = excluded.State, Written = coalesce(excluded.Written, Written), Before = coalesce(excluded.Before, Before)
            """);
    }

    /// <inheritdoc/>
    public void Commit(Guid planId) => SetState(planId, PlanState.Committed, null, ended: false);

    /// <inheritdoc/>
    public void Close(Guid planId, PlanOutcome outcome, string? note) => SetState(planId, Enum.Parse<PlanState>(outcome.ToString()), note, ended: true);

    /// <inheritdoc/>
    public IReadOnlyList<OpenPlan> Unfinished()
    {
        using var db = files.NewDb();
        var rows = db.Plans.AsNoTracking().Where(p => p.State == PlanState.Open || p.State == PlanState.Committed).OrderBy(p => p.BegunMs).ToList();
        return [.. rows.Select(r => new OpenPlan(PlanJson.Read(r.Json), Records(db, r.Id), r.State == PlanState.Committed))];
    }

    /// <summary>Plans of a session that have ended, the newest first.</summary>
    public IReadOnlyList<PlanRow> History(Guid sessionId, int most)
    {
        using var db = files.NewDb();
        return db.Plans.AsNoTracking()
            .Where(p => p.SessionId == sessionId && p.EndedMs != null)
            .OrderByDescending(p => p.EndedMs).Take(most).ToList();
    }

    /// <summary>A plan that has ended, with all that the journal knows of it; null when there is none.</summary>
    public HistoryEntry? Find(Guid planId)
    {
        using var db = files.NewDb();
        return db.Plans.AsNoTracking().FirstOrDefault(p => p.Id == planId) is { } row
            ? new HistoryEntry(row, PlanJson.Read(row.Json), Records(db, planId))
            : null;
    }

    /// <summary>Which of these plans were undone by a later one.</summary>
    public IReadOnlySet<Guid> Undone(Guid sessionId)
    {
        using var db = files.NewDb();
        return db.Plans.AsNoTracking()
            .Where(p => p.SessionId == sessionId && p.State == PlanState.Applied && p.Undoes != null)
            .Select(p => p.Undoes!.Value).ToHashSet();
    }

    private void SetState(Guid planId, PlanState state, string? note, bool ended)
    {
        using var db = files.NewDb();
        var row = db.Plans.Single(p => p.Id == planId);
        row.State = state;
        row.Note = note ?? row.Note;
        row.EndedMs = ended ? NowMs() : null;
        db.SaveChanges();
    }

    private static ImmutableArray<StepRecord> Records(NeatCrateDb db, Guid planId) =>
        [.. db.Steps.AsNoTracking().Where(s => s.PlanId == planId).OrderBy(s => s.Index).AsEnumerable()
            .Select(s => new StepRecord(s.Index, s.State, s.Written is null ? null : ByteIdentity.Parse(s.Written), s.Before))];

    private long NowMs() => time.GetUtcNow().ToUnixTimeMilliseconds();
}
