using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Plans;

/// <summary>
/// The one place where people's files are changed. A plan is applied whole or not at all: what is cancelled, fails
/// or is cut off is taken back step by step. What is told afterwards was looked at.
/// </summary>
/// <param name="journal">The journal.</param>
/// <param name="files">The disk.</param>
/// <param name="users">Tells who points at a file that is to be removed; null where nobody can tell, as in tests of a single step.</param>
/// <param name="stores">Opens a store by the name that origins give it; null for stores in folders alone.</param>
public sealed class Runner(IJournal journal, IDurableFiles files, IFileUsers? users = null, Func<string, IObjectStore>? stores = null)
{
    // A drive filled to the last byte is trouble for everybody else who writes there.
    private const long SpaceMargin = 1_000_000;

    /// <summary>The plan as it is kept until it is applied: its places written down, and what stands in its way now.</summary>
    public Plan Checked(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        if (plan.Refusals.Length > 0)
        {
            return plan;
        }
        var held = PlanPlaces.Held(plan, files);
        return held with { Refusals = [.. Refusals(held)] };
    }

    /// <summary>Why a plan cannot be applied now; empty when it can.</summary>
    public IReadOnlyList<Fault> Refusals(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        if (plan.Refusals.Length > 0)
        {
            return plan.Refusals;
        }
        plan = PlanPlaces.Held(plan, files);
        var refusals = PlanPlaces.Refusals(plan, files).ToList();
        if (refusals.Count > 0)
        {
            // On another drive, every step would only repeat that.
            return refusals;
        }
        var (vacated, filled) = (new HashSet<string>(StringComparer.Ordinal), new HashSet<string>(StringComparer.Ordinal));
        using var reading = new OriginReading(files, stores);
        var check = new StepCheck(files, vacated, filled, reading);
        var parents = new Dictionary<string, bool>(StringComparer.Ordinal);
        foreach (var step in plan.Steps)
        {
            var misplaced = step.Changes.FirstOrDefault(path => !IsInPlace(plan, path, parents));
            refusals.AddRange(misplaced is null ? step.Refusals(check) : [new Fault(FaultCode.NotAPlaceOfThePlan) { Path = misplaced }]);
            if (step.Vacates is { } left)
            {
                vacated.Add(left);
            }
            if (step.Fills is { } name)
            {
                filled.Add(name);
            }
        }
        refusals.AddRange(StillUsed(plan, 0));
        refusals.AddRange(SpaceRefusals(plan));
        // Two steps that read one file have one thing to say of it.
        return [.. refusals.DistinctBy(r => (r.Code, r.Path, r.Other, r.Name))];
    }

    /// <summary>Applies a plan.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="progress">Told how far the work is, often.</param>
    /// <param name="cancel">Takes everything back.</param>
    /// <exception cref="PlanRefusedException">The plan cannot be applied now; nothing was done.</exception>
    public PlanResult Apply(Plan plan, Action<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(plan);
        plan = PlanPlaces.Held(plan, files);
        var refusals = Refusals(plan);
        if (refusals.Count > 0)
        {
            throw new PlanRefusedException(refusals);
        }
        plan = PlanPlaces.Timed(plan, files);
        var marks = new PlanMarks(plan, files);
        using var reading = new OriginReading(files, stores, cancel);
        var run = new PlanRun(plan, journal, reading, marks, next => StillUsed(plan, next).FirstOrDefault(), progress);
        journal.Begin(plan);
        try
        {
            marks.Make();
            run.DoSteps();
        }
        catch (Exception e)
        {
            return AfterFailure(e, plan, marks, run);
        }
        try
        {
            journal.Commit(plan.Id);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return AfterFailedCommit(e, plan, marks, run);
        }
        return Finish(plan, marks, run.LeftOut);
    }

    /// <summary>
    /// Deals with plans that a crash cut off: what was committed is finished, everything else is taken back. A plan
    /// whose folders cannot be reached, or that cannot be read, stays open and hinders no other.
    /// </summary>
    /// <param name="which">Which plans to look at; null for all. Plans that are being applied must not be among them.</param>
    public IReadOnlyList<Recovered> Recover(Func<Plan, bool>? which = null)
    {
        var recovered = new List<Recovered>();
        foreach (var open in journal.Unfinished())
        {
            if (open.Plan is not { } plan)
            {
                if (which is null)
                {
                    recovered.Add(new Recovered(open.Id, null, false, [], open.Problem ?? new Fault(FaultCode.PlanUnreadable)));
                }
            }
            else if (which?.Invoke(plan) ?? true)
            {
                if (Recover(open, PlanPlaces.Held(plan, files)) is { } dealtWith)
                {
                    recovered.Add(dealtWith);
                }
            }
        }
        return recovered;
    }

    /// <summary>Deals with one plan; null when all that was left of it were its marks, of which nobody needs to hear.</summary>
    private Recovered? Recover(OpenPlan open, Plan plan)
    {
        var marks = new PlanMarks(plan, files);
        try
        {
            if (open.State == OpenState.Settled)
            {
                EndMarks(plan, marks);
                return null;
            }
            // Before the first step nothing was changed but the marks themselves. Plans of before there were marks have none.
            if (open.Records.Length > 0 && plan.Held.Length > 0 && marks.Missing() is { } gone && !IsOfBefore(open))
            {
                throw new FaultException(FaultCode.RootGone, gone);
            }
            if (open.State == OpenState.Committed)
            {
                TidyUp(plan);
                journal.Settle(plan.Id, PlanOutcome.Applied, []);
                EndMarks(plan, marks);
                return new Recovered(plan.Id, plan, true, [], null);
            }
            var remains = TakeBack(plan, open.Records);
            journal.Settle(plan.Id, PlanOutcome.TakenBack, remains);
            EndMarks(plan, marks);
            return new Recovered(plan.Id, plan, false, remains, null);
        }
        catch (Exception e) when (FaultException.Of(e) is not null)
        {
            return new Recovered(plan.Id, plan, open.State == OpenState.Committed, [], FaultException.Of(e));
        }
    }

    /// <summary>Plans that were begun by a version without marks are known by having written down no places.</summary>
    private static bool IsOfBefore(OpenPlan open) => open.Plan!.Held.IsEmpty && open.Plan.WritableRoots.All(Directory.Exists);

    private PlanResult AfterFailure(Exception error, Plan plan, PlanMarks marks, PlanRun run)
    {
        var outcome = error is OperationCanceledException ? PlanOutcome.Cancelled : PlanOutcome.Failed;
        var cause = error is OperationCanceledException ? null : FaultException.Of(error) ?? new Fault(FaultCode.Unexpected) { Detail = error.Message };
        var result = new PlanResult(outcome, [], cause, [], false) { Error = error is OperationCanceledException ? null : error };
        try
        {
            if (run.Records.Count > 0 && marks.Missing() is { } gone)
            {
                // The drive left with what was done on it: it is put back when the drive is there again.
                return result with { IsOpen = true, Remains = [new Fault(FaultCode.RootGone) { Path = gone }] };
            }
            var remains = TakeBack(plan, run.Records);
            result = result with { Remains = remains };
            journal.Settle(plan.Id, outcome, result.Notes(plan));
            EndMarks(plan, marks);
            return result;
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // The plan stays open in the journal, so that a later try can still put everything back.
            return result with { IsOpen = true, Remains = [FaultException.Of(e) ?? new Fault(FaultCode.Unexpected) { Detail = e.Message }] };
        }
    }

    private PlanResult AfterFailedCommit(Exception error, Plan plan, PlanMarks marks, PlanRun run)
    {
        bool committed;
        try
        {
            committed = journal.IsCommitted(plan.Id);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // Nothing tells which it is, so nothing is touched: the next start finds out.
            return new PlanResult(PlanOutcome.Failed, run.LeftOut, new Fault(FaultCode.NotDecided) { Detail = error.Message }, [], true) { Error = error };
        }
        return committed ? Finish(plan, marks, run.LeftOut) : AfterFailure(error, plan, marks, run);
    }

    /// <summary>After the commit the plan went through, whatever becomes of the tidying.</summary>
    private PlanResult Finish(Plan plan, PlanMarks marks, ImmutableArray<LeftOutStep> leftOut)
    {
        var result = new PlanResult(PlanOutcome.Applied, leftOut, null, [], false);
        try
        {
            TidyUp(plan);
            journal.Settle(plan.Id, PlanOutcome.Applied, result.Notes(plan));
            EndMarks(plan, marks);
            return result;
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return result with { IsOpen = true, Cause = new Fault(FaultCode.TidyingLeft) { Detail = e.Message }, Error = e };
        }
    }

    private void EndMarks(Plan plan, PlanMarks marks)
    {
        marks.Remove();
        PlanPlaces.GiveTimes(plan, files);
        // On a drive that is away a mark may be left: then it is looked for again.
        if (plan.Held.Where(h => h.IsRoot).All(h => files.Look(h.Path) is not null))
        {
            journal.Close(plan.Id);
        }
    }

    private ImmutableArray<Fault> TakeBack(Plan plan, IEnumerable<StepRecord> records)
    {
        var state = new UnwindState();
        // What was left out was taken back at once; what stands in its place by now is somebody else's.
        var begun = records.Where(r => r.State != StepState.LeftOut).OrderByDescending(r => r.Index)
            .Select(r => (Step: plan.Steps[r.Index], Record: r, Context: new UnwindContext(files, plan.Id, r.Index, state))).ToList();
        foreach (var (step, record, context) in begun)
        {
            step.TakeBack(record, context);
        }
        Flush(state);
        return [.. begun.Select(b => b.Step.Remains(b.Record, b.Context)).OfType<Fault>().Reverse()];
    }

    private void TidyUp(Plan plan)
    {
        var state = new UnwindState();
        for (var i = 0; i < plan.Steps.Length; i++)
        {
            plan.Steps[i].TidyUp(new UnwindContext(files, plan.Id, i, state));
        }
        Flush(state);
    }

    private void Flush(UnwindState state)
    {
        foreach (var folder in state.Touched.Where(f => files.Look(f) is { Kind: EntryKind.Folder }))
        {
            files.FlushFolder(folder);
        }
    }

    private bool IsInPlace(Plan plan, string path, Dictionary<string, bool> parents)
    {
        var parent = Path.GetDirectoryName(path)!;
        if (!parents.TryGetValue(parent, out var allowed))
        {
            parents[parent] = allowed = PlanPlaces.Broken(plan, path, files) is null;
        }
        return allowed;
    }

    /// <summary>What is needed of what the plan takes away.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="next">Documents that steps from this one on write count as they will be; those written before it, as they are by now.</param>
    private IEnumerable<Fault> StillUsed(Plan plan, int next)
    {
        var removed = plan.Steps.Where(s => s.Removes is not null).GroupBy(s => s.Removes!, StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.First(), StringComparer.Ordinal);
        if (users is null || removed.Count == 0)
        {
            return [];
        }
        var rewritten = new Dictionary<string, byte[]>(StringComparer.Ordinal);
        foreach (var step in plan.Steps.AsSpan()[next..])
        {
            if (step.DocumentThen(files) is { } document)
            {
                rewritten[step.Destination] = document;
            }
        }
        // A document that goes itself needs nothing then, and one that is moved needs what it points at from its new place.
        var moved = plan.Steps.AsSpan()[next..].ToArray().OfType<MovingStep>().DistinctBy(m => m.Source).ToDictionary(m => m.Source, m => m.Destination, StringComparer.Ordinal);
        bool Needs(FileUser user) => !removed[user.Path].MayBeMissedBy(user.DocumentPath)
            && (moved.TryGetValue(user.DocumentPath, out var to) ? PointsThenAt(user.DocumentPath, to, user.Path) : !removed.ContainsKey(user.DocumentPath) || rewritten.ContainsKey(user.DocumentPath));
        return users.PointingAt(removed.Keys.ToHashSet(StringComparer.Ordinal), rewritten).Where(Needs).GroupBy(u => u.Path, StringComparer.Ordinal).Select(g => new Fault(FaultCode.StillUsed)
        {
            Path = g.Key,
            Names = [.. g.Select(u => u.Document).Distinct()],
        });
    }

    /// <summary>Whether a document points at a file once it stands elsewhere. One that cannot be read may.</summary>
    private static bool PointsThenAt(string document, string then, string path)
    {
        try
        {
            var folder = Path.GetDirectoryName(then)!;
            return DocumentFormats.Of(document) is not { } format
                || format.Read(ReadableFile.ReadAll(document, DocumentFormats.MostBytes)).References.Any(r => format.Candidates(r.TargetUrl, folder).Contains(path, StringComparer.Ordinal));
        }
        catch (FaultException)
        {
            return true;
        }
    }

    private IEnumerable<Fault> SpaceRefusals(Plan plan)
    {
        foreach (var drive in plan.Steps.Where(s => s.WritesBytes > 0).GroupBy(s => files.Look(FileFacts.ExistingParent(s.Destination))?.Device))
        {
            // What is made for the time of the work goes after each step.
            var needed = drive.Sum(s => s.WritesBytes) + drive.Max(s => s.ScratchBytes);
            var free = files.FreeBytes(FileFacts.ExistingParent(drive.First().Destination));
            if (needed + SpaceMargin > free)
            {
                yield return new Fault(FaultCode.NotEnoughSpace) { Bytes = needed, Free = free };
            }
        }
    }
}
