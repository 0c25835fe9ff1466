namespace NeatCrate.Core.Plans;

/// <summary>A step that a plan had to go without.</summary>
/// <param name="Step">The step.</param>
/// <param name="Reason">Why, a sentence.</param>
public sealed record LeftOutStep(PlanStep Step, string Reason)
{
    private const int MostNamed = 5;

    /// <summary>What is in and what is not, in words for the user; null when nothing was left out.</summary>
    public static string? Sentence(Plan plan, IReadOnlyList<LeftOutStep> leftOut)
    {
        ArgumentNullException.ThrowIfNull(plan);
        ArgumentNullException.ThrowIfNull(leftOut);
        if (leftOut.Count == 0)
        {
            return null;
        }
        var all = plan.Steps.Count(s => s.CanBeLeftOut);
        var reasons = leftOut.Select(l => l.Reason).Distinct().ToList();
        var more = reasons.Count > MostNamed ? $" And {reasons.Count - MostNamed} more." : "";
        return $"{all - leftOut.Count} of {ByteText.Count(all, "file")} are in, and the document points at them. "
            + $"{(leftOut.Count == 1 ? "One still stands" : $"{leftOut.Count} still stand")} where {(leftOut.Count == 1 ? "it" : "they")} stood; plan again to go on from here. "
            + string.Join(' ', reasons.Take(MostNamed)) + more;
    }
}

/// <summary>One run through the steps of a plan, with what the journal holds of each.</summary>
internal sealed class PlanRun(Plan plan, IJournal journal, Action<RunProgress>? progress, CancellationToken cancel)
{
    private readonly Dictionary<int, StepRecord> _records = [];
    private readonly List<LeftOutStep> _leftOut = [];
    private readonly HashSet<string> _leftOutPaths = new(StringComparer.Ordinal);
    private readonly long _work = plan.Steps.Sum(s => s.WorkBytes);
    private long _done;
    private IOException? _firstFailure;
    private string? _stopped;

    /// <summary>The last record of each step that was begun.</summary>
    public IReadOnlyCollection<StepRecord> Records => _records.Values;

    /// <summary>What had to be left out.</summary>
    public IReadOnlyList<LeftOutStep> LeftOut => _leftOut;

    /// <summary>Does all steps.</summary>
    /// <exception cref="IOException">A step failed that the plan cannot go without, or all were left out that it could.</exception>
    public void DoSteps()
    {
        for (var i = 0; i < plan.Steps.Length; i++)
        {
            cancel.ThrowIfCancellationRequested();
            Do(i, plan.Steps[i]);
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
            progress?.Invoke(new RunProgress(index, plan.Steps.Length, _done, _work, name));
        }
        Worked(0);
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
            _done = doneBefore + step.WorkBytes;
            return;
        }
        if (_firstFailure is { } failure && _leftOut.Count == plan.Steps.Count(s => s.CanBeLeftOut))
        {
            // Nothing is in: then the plan failed, as any other does.
            throw failure;
        }
        DoOne(index, step, Worked);
    }

    private void DoOne(int index, PlanStep step, Action<long> worked)
    {
        Record(new StepRecord(index, StepState.Started));
        Runner.WorkOf(step).Do(step, new StepContext(plan.Id, index, Record, worked, _leftOutPaths, cancel));
        Record(new StepRecord(index, StepState.Done));
    }

    private void TryDo(int index, PlanStep step, Action<long> worked)
    {
        try
        {
            DoOne(index, step, worked);
        }
        catch (IOException e)
        {
            _firstFailure ??= e;
            Runner.WorkOf(step).TakeBack(step, _records[index], StepContext.Temporary(plan.Id, index, step.Destination));
            LeaveOut(index, step, e.Message);
            if (e is not SourceFailedException)
            {
                // It is the session's own drive that refuses: the files after this one would fare no better.
                _stopped = e.Message;
            }
        }
    }

    private void LeaveOut(int index, PlanStep step, string reason)
    {
        Record(new StepRecord(index, StepState.LeftOut));
        _leftOut.Add(new LeftOutStep(step, reason));
        _leftOutPaths.Add(step.Destination);
    }

    private void Record(StepRecord record)
    {
        journal.Record(plan.Id, record);
        _records[record.Index] = _records.TryGetValue(record.Index, out var known)
            ? record with { Written = record.Written ?? known.Written, Before = record.Before ?? known.Before }
            : record;
    }
}
