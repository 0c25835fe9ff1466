using System.Collections.Immutable;
using System.Diagnostics;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Plans;

/// <summary>
/// One run through the steps of a plan, with what the journal holds of each. A plan may hold still for hours while something records;
/// what a document came to need meanwhile is not taken away from it.
/// </summary>
/// <param name="plan">The plan.</param>
/// <param name="journal">The journal.</param>
/// <param name="reading">What steps read from.</param>
/// <param name="marks">The marks in the plan's folders.</param>
/// <param name="stillUsed">Asks what is needed of what the plan takes away, before the step of this index; null for nothing.</param>
/// <param name="progress">Told how far the work is.</param>
internal sealed class PlanRun(Plan plan, IJournal journal, OriginReading reading, PlanMarks marks, Func<int, Fault?> stillUsed, Action<RunProgress>? progress)
{
    // Asking looks at all sessions: no more often than this, and for no more than a tenth of the time.
    private static readonly TimeSpan AskEvery = TimeSpan.FromMilliseconds(250);
    private const int AskShare = 10;

    private readonly bool _removes = plan.Steps.Any(s => s.Removes is not null);
    private long _asked = Stopwatch.GetTimestamp();
    private TimeSpan _asking;

    private readonly IDurableFiles _files = reading.Files;
    private readonly Dictionary<int, StepRecord> _records = [];
    private readonly ImmutableArray<LeftOutStep>.Builder _leftOut = ImmutableArray.CreateBuilder<LeftOutStep>();
    private readonly HashSet<string> _leftOutPaths = new(StringComparer.Ordinal);
    private readonly int _optional = plan.Steps.Count(s => s.CanBeLeftOut);
    private readonly long _work = plan.Steps.Sum(s => s.WorkBytes);
    private long _done;
    private bool _roomGiven;
    private Fault? _stopped;

    /// <summary>The last record of each step that was begun.</summary>
    public IReadOnlyCollection<StepRecord> Records => _records.Values;

    /// <summary>What had to be left out.</summary>
    public ImmutableArray<LeftOutStep> LeftOut => _leftOut.ToImmutable();

    private bool NothingIsIn => plan.KeepsPart && _optional > 0 && _leftOut.Count == _optional;

    /// <summary>Does all steps.</summary>
    /// <exception cref="FaultException">A step failed that the plan cannot go without, or all were left out that it could.</exception>
    public void DoSteps()
    {
        for (var i = 0; i < plan.Steps.Length; i++)
        {
            reading.Cancel.ThrowIfCancellationRequested();
            Do(i, plan.Steps[i]);
        }
        RequireThatSomethingIsIn();
        if (_removes)
        {
            RequireUnused(plan.Steps.Length);
        }
        progress?.Invoke(new RunProgress(plan.Steps.Length, plan.Steps.Length, _done, _work, ""));
    }

    private void Do(int index, PlanStep step)
    {
        var name = Path.GetFileName(step.SourcePath ?? step.Destination);
        var doneBefore = _done;
        void Worked(long bytes)
        {
            _done += bytes;
            progress?.Invoke(new RunProgress(index, plan.Steps.Length, Math.Min(_done, _work), _work, name));
        }
        Worked(0);
        if (step.Removes is not null && Stopwatch.GetElapsedTime(_asked) is var since && since > AskEvery && since > _asking * AskShare)
        {
            RequireUnused(index);
        }
        if (plan.KeepsPart && step.CanBeLeftOut)
        {
            if (_stopped is { } why)
            {
                LeaveOut(index, step, why);
            }
            else
            {
                TryDo(index, step, Worked);
            }
        }
        else
        {
            if (step.WritesBytes > 0)
            {
                RequireThatSomethingIsIn();
                GiveRoom();
            }
            DoOne(index, step, Worked);
        }
        _done = doneBefore + step.WorkBytes;
    }

    /// <summary>When nothing is in, the plan failed, as any other does.</summary>
    private void RequireThatSomethingIsIn()
    {
        if (NothingIsIn)
        {
            throw new FaultException(_leftOut[0].Reason);
        }
    }

    /// <summary>A document that was saved since the plan was checked may need what it takes away: then all of it is put back.</summary>
    private void RequireUnused(int next)
    {
        var began = Stopwatch.GetTimestamp();
        if (stillUsed(next) is { } needed)
        {
            throw new FaultException(needed);
        }
        (_asked, _asking) = (Stopwatch.GetTimestamp(), Stopwatch.GetElapsedTime(began));
    }

    private void GiveRoom()
    {
        if (!_roomGiven)
        {
            marks.GiveRoom();
            _roomGiven = true;
        }
    }

    private void DoOne(int index, PlanStep step, Action<long> worked)
    {
        // A link may have been put into the way since the plan was checked, which may be hours ago where something recorded.
        foreach (var path in step.Changes)
        {
            if (PlanPlaces.Broken(plan, path, _files) is { } broken)
            {
                throw new FaultException(broken);
            }
        }
        Record(new StepRecord(index, StepState.Started));
        step.Do(new StepContext(reading, plan.Id, index, Record, worked, _leftOutPaths));
        Record(new StepRecord(index, StepState.Done));
    }

    private void TryDo(int index, PlanStep step, Action<long> worked)
    {
        try
        {
            DoOne(index, step, worked);
        }
        catch (FaultException e)
        {
            if (marks.Missing() is { } gone)
            {
                // The session's own drive left: what is on it is put back when it is there again.
                throw new FaultException(FaultCode.RootGone, gone, e);
            }
            if (_records.TryGetValue(index, out var record))
            {
                var state = new UnwindState();
                step.TakeBack(record, new UnwindContext(_files, plan.Id, index, state));
                foreach (var folder in state.Touched)
                {
                    _files.FlushFolder(folder);
                }
            }
            var reason = Named(e.Fault, step);
            LeaveOut(index, step, reason);
            if (!e.Fault.IsOfSource)
            {
                // It is the session's own drive that refuses: the files after this one would fare no better.
                _stopped = reason;
            }
        }
    }

    /// <summary>Told of the file that was to be made, not of its temporary name.</summary>
    private static Fault Named(Fault fault, PlanStep step) =>
        fault.Path?.EndsWith(".part", StringComparison.Ordinal) ?? false ? fault with { Path = step.Destination } : fault;

    private void LeaveOut(int index, PlanStep step, Fault reason)
    {
        Record(new StepRecord(index, StepState.LeftOut));
        _leftOut.Add(new LeftOutStep(step, reason));
        _leftOutPaths.Add(step.Destination);
    }

    private void Record(StepRecord record)
    {
        journal.Record(plan.Id, record);
        _records[record.Index] = _records.TryGetValue(record.Index, out var known)
            ? record with
            {
                Written = record.Written ?? known.Written,
                Before = record.Before ?? known.Before,
                BeforeModifiedUtc = record.BeforeModifiedUtc ?? known.BeforeModifiedUtc,
                BeforeModifiedRest = record.BeforeModifiedRest ?? known.BeforeModifiedRest,
            }
            : record;
    }
}
