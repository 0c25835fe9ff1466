using NeatCrate.Core.Plans;

namespace NeatCrate.App.Jobs;

/// <summary>A piece of work that runs, waits or is over: it tells how far it is, and holds still while something records. May be told of by several threads.</summary>
public sealed class Job : IDisposable
{
    private static readonly TimeSpan TellEvery = TimeSpan.FromMilliseconds(250);
    // From less than that nothing can be told of the rest.
    private const double LeastShare = 0.005;

    private static readonly TimeSpan Brief = TimeSpan.FromMilliseconds(300);

    private readonly Lock _lock = new();
    private readonly RecordingGuard _guard;
    private readonly TimeProvider _time;
    private readonly Action<JobView> _tell;
    private readonly CancellationTokenSource _cancel = new();
    private readonly TaskCompletionSource<JobView> _ended = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private long _begun;
    private long _told;
    private int _held;
    private bool _isDisposed;

    internal Job(Work work, Who by, long order, RecordingGuard guard, TimeProvider time, Action<JobView> tell)
    {
        By = by;
        (Work, Order, _guard, _time, _tell, _begun) = (work, order, guard, time, tell, time.GetTimestamp());
        Cancel = _cancel.Token;
        View = new JobView(
            Guid.NewGuid(), work.Kind, work.Plan?.Id, work.Plan?.Kind, work.SessionId, work.ShelfId, work.Sentence, JobState.Queued,
            0, work.Plan?.Steps.Length ?? 0, 0, work.Plan?.Steps.Sum(s => s.WorkBytes) ?? 0, 0, null, "", null, null, 0)
        {
            By = by.Name,
            IsByItself = by == Who.ByItself,
        };
    }

    /// <summary>Who asked for it.</summary>
    public Who By { get; }

    /// <summary>How far it is.</summary>
    public JobView View { get; private set; }

    /// <summary>Cancelled when somebody asks it to stop.</summary>
    public CancellationToken Cancel { get; }

    /// <summary>How it ended, once it has.</summary>
    public Task<JobView> Ended => _ended.Task;

    internal Work Work { get; }

    internal long Order { get; }

    /// <summary>Whether the pages were told of it.</summary>
    internal bool IsTold { get; private set; }

    /// <summary>Nobody asks it to stop any more.</summary>
    public void Dispose()
    {
        lock (_lock)
        {
            _isDisposed = true;
            _cancel.Dispose();
        }
    }

    /// <summary>Nothing heavy runs while something records: the disk belongs to the take. Waits until nothing does.</summary>
    /// <exception cref="OperationCanceledException">It was cancelled meanwhile.</exception>
    public void HoldWhileRecording()
    {
        if (_guard.What is null)
        {
            return;
        }
        var from = _time.GetTimestamp();
        JobState before;
        lock (_lock)
        {
            before = View.State == JobState.Held ? JobState.Running : View.State;
            _held++;
        }
        try
        {
            _guard.WaitUntilQuiet(Cancel, what => Change(v => v with { State = JobState.Held, Message = $"Waits: {what}.", SecondsLeft = null }));
        }
        finally
        {
            lock (_lock)
            {
                // How long it held still is no time worked. Of several threads the last one goes on for all.
                _begun += --_held == 0 ? _time.GetTimestamp() - from : 0;
            }
        }
        Change(v => v with { State = before, Message = null });
    }

    /// <summary>Says that so many more bytes were read, where nobody knows how many there will be.</summary>
    public void Read(long bytes, string current) => Report(View.FilesDone, View.Files, View.BytesDone + bytes, View.Bytes, current);

    /// <summary>Says how far it is; holds still here while something records.</summary>
    /// <param name="filesDone">Files that are done.</param>
    /// <param name="files">All files; 0 where nobody knows.</param>
    /// <param name="bytesDone">Bytes that are done.</param>
    /// <param name="bytes">All bytes; 0 where nobody knows.</param>
    /// <param name="current">What is at hand.</param>
    /// <param name="share">How much is done, from 0 to 1, where neither files nor bytes tell; null for unknown.</param>
    /// <param name="holds">False for what reads so little that somebody who looks at a page need not wait for the recording to end.</param>
    public void Report(int filesDone, int files, long bytesDone, long bytes, string current, double? share = null, bool holds = true)
    {
        Cancel.ThrowIfCancellationRequested();
        if (holds)
        {
            HoldWhileRecording();
        }
        lock (_lock)
        {
            var now = _time.GetTimestamp();
            var isDue = _time.GetElapsedTime(_told, now) >= TellEvery;
            if (!isDue && bytesDone - View.BytesDone < 1)
            {
                return;
            }
            var seconds = _time.GetElapsedTime(_begun, now).TotalSeconds;
            var (done, all) = bytes > 0 ? (bytesDone, bytes) : files > 0 ? (filesDone, files) : (share ?? 0.0, 1.0);
            View = View with
            {
                Revision = View.Revision + 1,
                FilesDone = filesDone,
                Files = files,
                BytesDone = bytes > 0 ? Math.Min(bytesDone, bytes) : bytesDone,
                Bytes = bytes,
                BytesPerSecond = seconds > 0.2 ? bytesDone / seconds : 0,
                Share = bytes > 0 || files > 0 ? null : share,
                SecondsLeft = seconds > 0.2 && done > LeastShare * all ? seconds / done * Math.Max(0, all - done) : null,
                Current = current,
            };
            if (!isDue || (Work.IsBrief && !IsTold && _time.GetElapsedTime(_begun, now) < Brief))
            {
                return;
            }
            _told = now;
            Tell();
        }
    }

    /// <summary>The time left is judged anew from here: what follows is other work than before.</summary>
    public void BeginAnew()
    {
        lock (_lock)
        {
            _begun = _time.GetTimestamp();
        }
    }

    internal void Stop()
    {
        lock (_lock)
        {
            if (!_isDisposed)
            {
                _cancel.Cancel();
            }
        }
    }

    internal void WaitFor(string other)
    {
        var message = $"Waits for this to end: {other}";
        Change(v => v with { Message = message }, isNews: View.Message != message);
    }

    internal void Begin()
    {
        BeginAnew();
        Change(v => v with { State = JobState.Running, Message = null }, isNews: !Work.IsBrief || IsTold);
    }

    internal void End(WorkEnd end)
    {
        Change(
            v => v with
            {
                State = end.State,
                Message = end.Message,
                Ended = _time.GetUtcNow(),
                Current = "",
                SecondsLeft = null,
                FilesDone = end.State == JobState.Done && v.Files > 0 ? v.Files : v.FilesDone,
                BytesDone = end.State == JobState.Done && v.Bytes > 0 ? v.Bytes : v.BytesDone,
            },
            isNews: !Work.IsBrief || IsTold);
        _ended.SetResult(View);
    }

    private void Change(Func<JobView, JobView> change, bool isNews = true)
    {
        lock (_lock)
        {
            View = change(View) with { Revision = View.Revision + 1 };
            if (isNews)
            {
                Tell();
            }
        }
    }

    private void Tell()
    {
        IsTold = true;
        _tell(View);
        Work.Told(View);
    }
}
