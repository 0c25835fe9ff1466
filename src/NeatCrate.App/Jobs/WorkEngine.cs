using System.Collections.Concurrent;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;

namespace NeatCrate.App.Jobs;

/// <summary>Tells pages about jobs.</summary>
public sealed class JobsHub : Hub;

/// <summary>
/// Runs all work that takes its time, each piece on a thread of its own. What would read or change what another one changes
/// waits for it, in the order in which it was asked for, and says so.
/// </summary>
public sealed partial class WorkEngine(RecordingGuard guard, IAsker asker, EndedJobs ended, IHubContext<JobsHub> hub, TimeProvider time, ILogger<WorkEngine> logger) : IHostedService
{
    private const int MostKept = 100;

    private readonly ConcurrentDictionary<Guid, Job> _jobs = new();
    private readonly List<Job> _waiting = [];
    private readonly List<Job> _running = [];
    private readonly Lock _lock = new();
    private long _order;
    private bool _isEnding;

    /// <summary>All jobs that are remembered, the newest first, those from before the last start behind; brief work only while it goes on.</summary>
    public IReadOnlyList<JobView> All()
    {
        var now = _jobs.Values.OrderByDescending(j => j.Order).Select(j => j.View).ToList();
        var known = now.Select(j => j.Id).ToHashSet();
        return [.. now, .. ended.All().Where(j => !known.Contains(j.Id))];
    }

    /// <summary>One job.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public JobView Get(Guid id) => !_jobs.ContainsKey(id) && ended.All().FirstOrDefault(j => j.Id == id) is { } over ? over : Find(id).View;

    /// <summary>Puts work in line.</summary>
    public Job Start(Work work)
    {
        ArgumentNullException.ThrowIfNull(work);
        var job = new Job(work, work.By ?? work.Plan?.By ?? asker.Now, Interlocked.Increment(ref _order), guard, time, view => _ = hub.Clients.All.SendAsync("job", view));
        _jobs[job.View.Id] = job;
        lock (_lock)
        {
            _waiting.Add(job);
            StartWhatCan();
        }
        if (_isEnding)
        {
            Stop(job);
        }
        return job;
    }

    /// <summary>True while nothing runs or waits but what is given here.</summary>
    public bool IsIdle(Job? but)
    {
        lock (_lock)
        {
            return _running.Concat(_waiting).All(j => j == but);
        }
    }

    /// <summary>Asks a job to stop. It takes back what it did.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public void Cancel(Guid id) => Stop(Find(id));

    /// <summary>The same for one that is at hand, whatever became of it.</summary>
    public void Stop(Job job)
    {
        ArgumentNullException.ThrowIfNull(job);
        job.Stop();
        lock (_lock)
        {
            if (!_waiting.Remove(job))
            {
                return;
            }
        }
        Over(job, new WorkEnd(JobState.Cancelled, job.Work.WhenCancelled));
    }

    /// <inheritdoc/>
    public Task StartAsync(CancellationToken cancellationToken) => Task.CompletedTask;

    /// <summary>At the end, what runs is cancelled and taken back; what cannot be finished in time is dealt with at the next start.</summary>
    public Task StopAsync(CancellationToken cancellationToken)
    {
        _isEnding = true;
        Job[] jobs;
        lock (_lock)
        {
            jobs = [.. _waiting, .. _running];
        }
        foreach (var job in jobs)
        {
            Stop(job);
        }
        return Task.WhenAny(Task.WhenAll(jobs.Select(j => j.Ended)), Task.Delay(Timeout.Infinite, cancellationToken));
    }

    private Job Find(Guid id) => _jobs.TryGetValue(id, out var job) ? job : throw new NotKnownException("This job is not known (any more).");

    /// <summary>Starts, in the order in which they were asked for, the jobs that nothing is in the way of any more.</summary>
    private void StartWhatCan()
    {
        for (var n = 0; n < _waiting.Count; n++)
        {
            var job = _waiting[n];
            // Whoever asked first is served first, so that no work is overtaken for ever.
            var other = _running.Concat(_waiting.Take(n)).FirstOrDefault(o => o.Work.Meets(job.Work))
                ?? (_running.Count(r => r.Work.Kind == job.Work.Kind) >= job.Work.MostAtOnce ? _running.First(r => r.Work.Kind == job.Work.Kind) : null);
            if (other is not null)
            {
                job.WaitFor(other.Work.Sentence);
                continue;
            }
            _waiting.RemoveAt(n--);
            _running.Add(job);
            // A thread of its own: the work is long and blocks on the disk.
            _ = Task.Factory.StartNew(() => Run(job), CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
        }
    }

    private void Run(Job job)
    {
        WorkEnd end;
        try
        {
            job.Begin();
            end = job.Work.Run(job);
        }
        catch (OperationCanceledException) when (job.Cancel.IsCancellationRequested)
        {
            end = new WorkEnd(JobState.Cancelled, job.Work.WhenCancelled);
        }
        catch (Exception e)
        {
            // The last stop of a background thread: whatever it is, the user must hear of it, and of what is so now.
            LogFailed(logger, job.Work.Sentence, e);
            end = new WorkEnd(JobState.Failed, job.Work.WhenFailed(e));
        }
        lock (_lock)
        {
            _running.Remove(job);
        }
        Over(job, end);
        lock (_lock)
        {
            StartWhatCan();
        }
    }

    private void Over(Job job, WorkEnd end)
    {
        job.End(end);
        if (!job.Work.IsBrief)
        {
            ended.Remember(job.View);
        }
        if (job.Work.IsBrief)
        {
            Forget(job);
        }
        foreach (var old in _jobs.Values.Where(j => j.View.IsOver).OrderByDescending(j => j.Order).Skip(MostKept))
        {
            Forget(old);
        }
    }

    private void Forget(Job job)
    {
        if (_jobs.TryRemove(job.View.Id, out _))
        {
            job.Dispose();
        }
    }

    [LoggerMessage(Level = LogLevel.Error, Message = "Work failed: {Sentence}")]
    private static partial void LogFailed(ILogger logger, string sentence, Exception exception);
}
