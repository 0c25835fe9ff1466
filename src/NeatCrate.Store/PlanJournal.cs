using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Store;

/// <summary>A plan in the history as lists show it: without its steps and their documents.</summary>
/// <param name="Id">The plan.</param>
/// <param name="Kind">Which capability made it; null for one that this version does not know.</param>
/// <param name="Sentence">The plan in one sentence.</param>
/// <param name="State">How it ended.</param>
/// <param name="EndedMs">When, in milliseconds since 1970 (UTC).</param>
/// <param name="Note">What the user should know of how it ended.</param>
/// <param name="IsKept">False once the history was thinned, so that it cannot be undone any more.</param>
/// <param name="Undoes">The plan that it undoes; for a redo the undo that it takes back.</param>
/// <param name="By">Who asked for it; null where nobody wrote that down.</param>
public sealed record HistoryRow(Guid Id, PlanKind? Kind, string Sentence, PlanState State, long EndedMs, string? Note, bool IsKept, Guid? Undoes, Who? By);

/// <summary>A plan in the history, with the journal's records of its steps.</summary>
public sealed record HistoryEntry(PlanState State, Plan Plan, ImmutableArray<StepRecord> Records);

/// <summary>A bundle in the history.</summary>
/// <param name="PlanId">The plan that packed it.</param>
/// <param name="Path">Absolute path.</param>
/// <param name="Bytes">Its size when it was packed.</param>
/// <param name="EndedMs">When that was, in milliseconds since 1970 (UTC).</param>
public sealed record MadeFile(Guid PlanId, string Path, long Bytes, long EndedMs);

/// <summary>
/// Journal and history in SQLite (docs/formats.md, "Journal"). Every call is a transaction of its own; SQLite's default of
/// synchronous=FULL flushes it to disk before the call returns.
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
            Kind = plan.Kind.ToString(),
            SessionId = plan.SessionId,
            Sentence = plan.Sentence,
            Json = PlanJson.Write(plan),
            State = nameof(PlanState.Open),
            BegunMs = NowMs(),
            Undoes = plan.Undoes,
            ById = plan.By?.Id,
            ByName = plan.By?.Name,
            MarksLeft = true,
            MadePath = plan.Kind == PlanKind.Bundle && plan.Steps is [var only] ? only.Destination : null,
        });
        db.SaveChanges();
    }

    /// <inheritdoc/>
    public void Record(Guid planId, StepRecord record)
    {
        ArgumentNullException.ThrowIfNull(record);
        using var db = files.NewDb();
        var (state, written, modified, beyond) = (record.State.ToString(), record.Written?.ToString(), record.BeforeModifiedUtc?.Ticks, record.BeforeModifiedRest);
        db.Database.ExecuteSql($"""
            INSERT INTO Steps (PlanId, "Index", State, Written, Before, BeforeModifiedTicks, BeforeModifiedRest) VALUES ({planId}, {record.Index}, {state}, {written}, {record.Before}, {modified}, {beyond})
            ON CONFLICT (PlanId, "Index") DO UPDATE
            SET State = excluded.State, Written = coalesce(excluded.Written, Written), Before = coalesce(excluded.Before, Before),
                BeforeModifiedTicks = coalesce(excluded.BeforeModifiedTicks, BeforeModifiedTicks),
                BeforeModifiedRest = coalesce(excluded.BeforeModifiedRest, BeforeModifiedRest)
            """);
    }

    /// <inheritdoc/>
    public void Commit(Guid planId) => Change(planId, row => row.State = nameof(PlanState.Committed));

    /// <inheritdoc/>
    public bool IsCommitted(Guid planId)
    {
        using var db = files.NewDb();
        return db.Plans.Any(p => p.Id == planId && p.State == nameof(PlanState.Committed));
    }

    /// <inheritdoc/>
    public void Settle(Guid planId, PlanOutcome outcome, IReadOnlyList<Fault> notes) => Change(planId, row =>
    {
        row.State = outcome.ToString();
        row.EndedMs = NowMs();
        row.Note = notes.Count > 0 ? Fault.Write(notes) : null;
        // Only what was applied has anything that follows from it.
        row.Followed = outcome != PlanOutcome.Applied;
    });

    /// <inheritdoc/>
    public void Close(Guid planId) => Change(planId, row => row.MarksLeft = false);

    /// <summary>Sets apart a plan whose text cannot be read.</summary>
    public void SetApart(Guid planId, Fault why) => Change(planId, row =>
    {
        (row.State, row.EndedMs, row.MarksLeft, row.Followed) = (nameof(PlanState.SetApart), NowMs(), false, true);
        row.Note = Fault.Write([why]);
    });

    /// <summary>Says that everything was done that follows from a plan.</summary>
    public void Follow(Guid planId) => Change(planId, row => row.Followed = true);

    /// <inheritdoc/>
    public IReadOnlyList<OpenPlan> Unfinished()
    {
        using var db = files.NewDb();
        var rows = db.Plans.AsNoTracking().Where(p => p.State == nameof(PlanState.Open) || p.State == nameof(PlanState.Committed) || p.MarksLeft).OrderBy(p => p.BegunMs).ToList();
        return [.. rows.Select(r => Open(db, r))];
    }

    /// <summary>Plans that were applied, the oldest first, of which not everything was done that follows from them.</summary>
    public IReadOnlyList<Plan> NotFollowed()
    {
        using var db = files.NewDb();
        return [.. db.Plans.AsNoTracking().Where(p => p.State == nameof(PlanState.Applied) && !p.Followed && p.IsKept).OrderBy(p => p.EndedMs).AsEnumerable()
            .Select(r => TryRead(r, out var plan) is null ? plan : null).OfType<Plan>()];
    }

    /// <summary>Plans of a session that have ended, the newest first.</summary>
    public IReadOnlyList<HistoryRow> History(Guid sessionId, int most)
    {
        using var db = files.NewDb();
        return [.. db.Plans.AsNoTracking()
            .Where(p => p.SessionId == sessionId && p.EndedMs != null)
            .OrderByDescending(p => p.EndedMs).Take(most)
            .Select(p => new { p.Id, p.Kind, p.Sentence, p.State, p.EndedMs, p.Note, p.IsKept, p.Undoes, p.ById, p.ByName }).AsEnumerable()
            .Select(p => new HistoryRow(p.Id, KindOf(p.Kind), p.Sentence, Enum.TryParse<PlanState>(p.State, out var state) ? state : PlanState.SetApart, p.EndedMs!.Value, p.Note, p.IsKept, p.Undoes, p.ById is null ? null : new Who(p.ById, p.ByName ?? p.ById)))];
    }

    /// <summary>Bundles of a session that were packed and not undone, the newest first.</summary>
    public IReadOnlyList<MadeFile> Bundles(Guid sessionId, int most)
    {
        using var db = files.NewDb();
        var undone = Undone(sessionId);
        var rows = db.Plans.AsNoTracking().Where(p => p.SessionId == sessionId && p.Kind == nameof(PlanKind.Bundle) && p.State == nameof(PlanState.Applied))
            .OrderByDescending(p => p.EndedMs).Take(most).Select(p => new { p.Id, p.MadePath, p.EndedMs }).ToList();
        return [.. rows.Where(r => !undone.Contains(r.Id)).Select(r => Made(db, r.Id, r.MadePath, r.EndedMs ?? 0)).OfType<MadeFile>()];
    }

    /// <summary>A plan that has ended, with all that the journal knows of it; null when there is none, or nothing of it is kept.</summary>
    /// <exception cref="FaultException">Its text cannot be read.</exception>
    public HistoryEntry? Find(Guid planId)
    {
        using var db = files.NewDb();
        if (db.Plans.AsNoTracking().FirstOrDefault(p => p.Id == planId) is not { Json.Length: > 0 } row)
        {
            return null;
        }
        return TryRead(row, out var plan) is { } problem
            ? throw new FaultException(problem)
            : new HistoryEntry(Enum.Parse<PlanState>(row.State), plan!, Records(db, planId));
    }

    /// <summary>When a plan ended, in milliseconds since 1970; 0 for one that has not.</summary>
    public long EndedMs(Guid planId)
    {
        using var db = files.NewDb();
        return db.Plans.AsNoTracking().Where(p => p.Id == planId).Select(p => p.EndedMs).FirstOrDefault() ?? 0;
    }

    /// <summary>Which plans of a session were undone by a later one.</summary>
    public IReadOnlySet<Guid> Undone(Guid sessionId)
    {
        using var db = files.NewDb();
        return db.Plans.AsNoTracking()
            .Where(p => p.SessionId == sessionId && p.State == nameof(PlanState.Applied) && p.Undoes != null)
            .Select(p => p.Undoes!.Value).ToHashSet();
    }

    // What a clean-up did is asked a year later.
    private static readonly string[] KeptForGood = [nameof(PlanKind.SetAside), nameof(PlanKind.PutBack), nameof(PlanKind.EmptyHeld), nameof(PlanKind.Trim)];

    /// <summary>
    /// Thins the history: of plans that ended long ago the sentence stays, and what an undo would need goes. Clean-ups are kept
    /// whole, so that they can be reported on.
    /// </summary>
    /// <param name="kept">How long all of it is kept.</param>
    /// <returns>How many plans that were.</returns>
    public int Thin(TimeSpan kept)
    {
        var before = NowMs() - (long)kept.TotalMilliseconds;
        using var db = files.NewDb();
        using var transaction = db.Database.BeginTransaction();
        var old = db.Plans.Where(p => p.EndedMs != null && p.EndedMs < before && p.IsKept && !p.MarksLeft && p.Followed && !KeptForGood.Contains(p.Kind));
        db.Steps.Where(s => old.Any(p => p.Id == s.PlanId && p.Kind != nameof(PlanKind.Bundle))).ExecuteDelete();
        var count = old.ExecuteUpdate(p => p.SetProperty(r => r.Json, "").SetProperty(r => r.IsKept, false));
        transaction.Commit();
        return count;
    }

    private static OpenPlan Open(NeatCrateDb db, PlanRow row)
    {
        var state = row.State switch { nameof(PlanState.Open) => OpenState.Begun, nameof(PlanState.Committed) => OpenState.Committed, _ => OpenState.Settled };
        if (TryRead(row, out var plan) is { } problem)
        {
            return new OpenPlan(row.Id, null, [], state, problem);
        }
        try
        {
            return new OpenPlan(row.Id, plan, Records(db, row.Id), state);
        }
        catch (Exception e) when (e is FormatException or ArgumentException or OverflowException)
        {
            return new OpenPlan(row.Id, null, [], state, new Fault(FaultCode.PlanUnreadable) { Name = row.Sentence, Detail = e.Message });
        }
    }

    /// <summary>Reads a row's plan; gives what is wrong with it, or null.</summary>
    private static Fault? TryRead(PlanRow row, out Plan? plan)
    {
        try
        {
            plan = PlanJson.Read(row.Json, KindOf(row.Kind));
            return null;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or FormatException or ArgumentException or NotSupportedException or NullReferenceException or OverflowException)
        {
            plan = null;
            return new Fault(FaultCode.PlanUnreadable) { Name = row.Sentence, Detail = e.Message };
        }
    }

    private static MadeFile? Made(NeatCrateDb db, Guid planId, string? path, long endedMs)
    {
        // Before there was a column for it, the path stood in the plan alone.
        path ??= db.Plans.AsNoTracking().First(p => p.Id == planId) is var row && TryRead(row, out var plan) is null ? plan!.Steps.FirstOrDefault()?.Destination : null;
        var written = db.Steps.Where(s => s.PlanId == planId && s.Written != null).Select(s => s.Written).FirstOrDefault();
        return path is null || written is null ? null : new MadeFile(planId, path, ByteIdentity.Parse(written).Bytes, endedMs);
    }

    private static PlanKind? KindOf(string name) => Enum.TryParse<PlanKind>(name, out var kind) && Enum.IsDefined(kind) ? kind : null;

    private void Change(Guid planId, Action<PlanRow> change)
    {
        using var db = files.NewDb();
        change(db.Plans.Single(p => p.Id == planId));
        db.SaveChanges();
    }

    private static ImmutableArray<StepRecord> Records(NeatCrateDb db, Guid planId) =>
        [.. db.Steps.AsNoTracking().Where(s => s.PlanId == planId).OrderBy(s => s.Index).AsEnumerable().Select(s => new StepRecord(
            s.Index,
            Enum.Parse<StepState>(s.State),
            s.Written is null ? null : ByteIdentity.Parse(s.Written),
            s.Before,
            s.BeforeModifiedTicks is { } ticks ? new DateTime(ticks, DateTimeKind.Utc) : null,
            s.BeforeModifiedRest))];

    private long NowMs() => time.GetUtcNow().ToUnixTimeMilliseconds();
}
