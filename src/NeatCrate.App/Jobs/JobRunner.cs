using System.Collections.Concurrent;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Hosting;
using NeatCrate.App.Plans;
using NeatCrate.App.Record;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Plans;

namespace NeatCrate.App.Jobs;

/// <summary>How far a job is.</summary>
public enum JobState
{
    /// <summary>Waits for another job of the same session.</summary>
    Queued,

    /// <summary>Works.</summary>
    Running,

    /// <summary>Holds still because something records; its message says what.</summary>
    Held,

    /// <summary>Done.</summary>
    Done,

    /// <summary>Failed; its message says what is so now.</summary>
    Failed,

    /// <summary>Cancelled; its message says what is so now.</summary>
    Cancelled,
}

/// <summary>A job as the pages see it. Work is in bytes, what is read back to be compared included.</summary>
public sealed record JobView(
    Guid Id,
    Guid PlanId,
    PlanKind Kind,
    Guid? SessionId,
    string Sentence,
    JobState State,
    int StepsDone,
    int Steps,
    long WorkDone,
    long Work,
    double BytesPerSecond,
    double? SecondsLeft,
    string Current,
    string? Message);

/// <summary>Tells pages about jobs.</summary>
public sealed class JobsHub : Hub;

/// <summary>Applies plans in the background: at most one at a time for each session, the others wait in turn.</summary>
public sealed partial class JobRunner(
    Runner runner, AppliedPlans applied, ShelfScans scans, RecordingGuard guard, IHubContext<JobsHub> hub, TimeProvider time, ILogger<JobRunner> logger)
    : IHostedService
{
    private const int MostKept = 100;

    private static readonly TimeSpan TellEvery = TimeSpan.FromMilliseconds(100);

    private readonly ConcurrentDictionary<Guid, Job> _jobs = new();
    private readonly Dictionary<Guid, Task> _last = [];
    private readonly Lock _lock = new();

    /// <summary>All jobs that are remembered, the newest first.</summary>
    public IReadOnlyList<JobView> All() => [.. _jobs.Values.OrderByDescending(j => j.Order).Select(j => j.View)];

    /// <summary>One job.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public JobView Get(Guid id) => Find(id).View;

    /// <summary>Puts a plan in line.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="over">Told how it ended, for work that nobody watches.</param>
    public JobView Enqueue(Plan plan, Action<JobView>? over = null)
    {
        ArgumentNullException.ThrowIfNull(plan);
        var job = new Job(plan, time.GetTimestamp(), over);
        _jobs[job.View.Id] = job;
        lock (_lock)
        {
            var key = plan.SessionId ?? Guid.Empty;
            var before = _last.GetValueOrDefault(key, Task.CompletedTask);
            // A thread of its own: the work is long and blocks on the disk.
            _last[key] = before.ContinueWith(_ => Run(job), CancellationToken.None, TaskContinuationOptions.LongRunning, TaskScheduler.Default);
        }
        foreach (var old in _jobs.Values.Where(j => j.IsOver).OrderByDescending(j => j.Order).Skip(MostKept))
        {
            _jobs.TryRemove(old.View.Id, out _);
        }
        return job.View;
    }

    /// <summary>Asks a job to stop. It takes back what it did.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public void Cancel(Guid id) => Find(id).Cancel.Cancel();

    /// <inheritdoc/>
    public Task StartAsync(CancellationToken cancellationToken) => Task.CompletedTask;

    /// <summary>At the end, what runs is cancelled and taken back; what cannot be finished in time is dealt with at the next start.</summary>
    public Task StopAsync(CancellationToken cancellationToken)
    {
        Task[] running;
        lock (_lock)
        {
            running = [.. _last.Values];
        }
        foreach (var job in _jobs.Values.Where(j => !j.IsOver))
        {
            job.Cancel.Cancel();
        }
        return Task.WhenAny(Task.WhenAll(running), Task.Delay(Timeout.Infinite, cancellationToken));
    }

    private Job Find(Guid id) => _jobs.TryGetValue(id, out var job) ? job : throw new NotKnownException("This job is not known (any more).");

    private void Run(Job job)
    {
        PlanResult? result = null;
        try
        {
            job.Cancel.Token.ThrowIfCancellationRequested();
            HoldWhileRecording(job);
            // What an earlier failure could not put back must be dealt with before anything new is changed.
            applied.Recover(runner, p => p.SessionId == job.Plan.SessionId);
            job.Begin(time);
            Tell(job);
            result = runner.Apply(job.Plan, progress => Report(job, progress), job.Cancel.Token);
            After(job, result);
        }
        catch (OperationCanceledException) when (result is null)
        {
            // Before the first step: nothing was begun.
            job.End(JobState.Cancelled, "Cancelled. Nothing was changed.");
        }
        catch (PlanRefusedException e)
        {
            job.End(JobState.Failed, "Nothing was changed. " + Sentences.Of(e.Reasons));
        }
        catch (Exception e)
        {
            // The last stop of a background thread: whatever it is, the user must hear of it, and of what is so now.
            LogFailed(logger, job.Plan.Sentence, e);
            job.End(result is null ? JobState.Failed : StateOf(result), result is null ? "Nothing was changed. " + Problems.Describe(e).Title : Sentences.Of(job.Plan, result));
        }
        Tell(job);
        job.Over?.Invoke(job.View);
    }

    private void After(Job job, PlanResult result)
    {
        if (result.Error is { } error)
        {
            LogFailed(logger, job.Plan.Sentence, error);
        }
        var sentence = Sentences.Of(job.Plan, result);
        if (result.Outcome != PlanOutcome.Applied)
        {
            job.End(StateOf(result), sentence);
            return;
        }
        if (!applied.After(job.Plan))
        {
            sentence = $"{sentence} All of it was done; the list of sessions follows at the next start.".TrimStart();
        }
        scans.LookAgain(job.Plan);
        job.End(JobState.Done, sentence);
    }

    private static JobState StateOf(PlanResult result) => result.Outcome switch
    {
        PlanOutcome.Applied => JobState.Done,
        PlanOutcome.Cancelled => JobState.Cancelled,
        _ => JobState.Failed,
    };

    /// <summary>Nothing heavy runs while something records: the disk belongs to the take.</summary>
    private void HoldWhileRecording(Job job)
    {
        var before = job.View.State;
        var heldFrom = time.GetTimestamp();
        var held = guard.WaitUntilQuiet(job.Cancel.Token, what =>
        {
            job.Hold($"Waits: {what}.");
            Tell(job);
        });
        if (held)
        {
            job.GoOn(before, time.GetTimestamp() - heldFrom);
            Tell(job);
        }
    }

    private void Report(Job job, RunProgress progress)
    {
        HoldWhileRecording(job);
        if (job.Progress(progress, time, TellEvery))
        {
            Tell(job);
        }
    }

    private void Tell(Job job) => _ = hub.Clients.All.SendAsync("job", job.View);

    [LoggerMessage(Level = LogLevel.Error, Message = "Job failed: {Sentence}")]
    private static partial void LogFailed(ILogger logger, string sentence, Exception exception);

    private sealed class Job(Plan plan, long order, Action<JobView>? over)
    {
        private long _begun;
        private long _told;

        public Plan Plan => plan;

        public long Order => order;

        public CancellationTokenSource Cancel { get; } = new();

        public Action<JobView>? Over => over;

        public JobView View { get; private set; } = new(
            Guid.NewGuid(), plan.Id, plan.Kind, plan.SessionId, plan.Sentence, JobState.Queued, 0, plan.Steps.Length, 0, plan.Steps.Sum(s => s.WorkBytes), 0, null, "", null);

        public bool IsOver => View.State is JobState.Done or JobState.Failed or JobState.Cancelled;

        public void Begin(TimeProvider time)
        {
            _begun = time.GetTimestamp();
            View = View with { State = JobState.Running };
        }

        public void Hold(string why) => View = View with { State = JobState.Held, Message = why, SecondsLeft = null };

        /// <summary>Goes on after a halt, which does not count as time worked.</summary>
        public void GoOn(JobState state, long heldFor)
        {
            _begun += heldFor;
            View = View with { State = state, Message = null };
        }

        public void End(JobState state, string? message) => View = View with
        {
            State = state,
            Message = message,
            Current = "",
            SecondsLeft = null,
            WorkDone = state == JobState.Done ? View.Work : View.WorkDone,
            StepsDone = state == JobState.Done ? View.Steps : View.StepsDone,
        };

        /// <summary>Takes in how far the work is.</summary>
        /// <returns>True when it is time to tell the pages.</returns>
        public bool Progress(RunProgress progress, TimeProvider time, TimeSpan tellEvery)
        {
            var now = time.GetTimestamp();
            if (now - _told < tellEvery.TotalSeconds * time.TimestampFrequency)
            {
                return false;
            }
            _told = now;
            var seconds = time.GetElapsedTime(_begun, now).TotalSeconds;
            var rate = seconds > 0.2 ? progress.WorkDone / seconds : 0;
            View = View with
            {
                StepsDone = progress.StepsDone,
                WorkDone = Math.Min(progress.WorkDone, progress.Work),
                BytesPerSecond = rate,
                SecondsLeft = rate > 0 ? Math.Max(0, progress.Work - progress.WorkDone) / rate : null,
                Current = progress.Current,
            };
            return true;
        }
    }
}
