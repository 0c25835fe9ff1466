namespace NeatCrate.StandIns.Record;

/// <summary>
/// A recorder as a studio has one, simulated. It is part of the outside world: it makes new files and lets them grow, and
/// never touches one that is there. Several tracks at once; a mirror that goes away does not stop a take; when its power
/// is cut, files stay as they are at that instant, their sizes never written.
/// </summary>
public sealed class Recorder : IDisposable
{
    private static readonly TimeSpan Block = TimeSpan.FromMilliseconds(40);

    private readonly RecorderPass _pass;
    private readonly TimeProvider _time;
    private readonly List<TakeWriter> _takes = [];
    private readonly ManualResetEventSlim _wake = new();
    private readonly Thread _thread;
    private readonly TaskCompletionSource _ended = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private volatile bool _stopping;
    private volatile bool _powerCut;

    private Recorder(RecorderPass pass, TimeProvider time)
    {
        (_pass, _time) = (pass, time);
        if (pass.Tracks.FirstOrDefault(t => Path.Exists(t.Path)) is { } taken)
        {
            throw new IOException($"There is a file named '{Path.GetFileName(taken.Path)}' already.");
        }
        _takes.AddRange(pass.Tracks.Select(t => new TakeWriter(pass, t)));
        _thread = new Thread(Run) { Name = "recorder", IsBackground = true };
    }

    /// <summary>Starts to record.</summary>
    /// <exception cref="IOException">A file cannot be made.</exception>
    public static Recorder Start(RecorderPass pass, TimeProvider time)
    {
        ArgumentNullException.ThrowIfNull(pass);
        var recorder = new Recorder(pass, time);
        recorder._thread.Start();
        return recorder;
    }

    /// <summary>What it was told to do.</summary>
    public RecorderPass Pass => _pass;

    /// <summary>How it ended, or that it has not.</summary>
    public RecorderState State { get; private set; }

    /// <summary>Ends when all files are closed.</summary>
    public Task Ended => _ended.Task;

    /// <summary>How far each take is.</summary>
    public IReadOnlyList<TakeProgress> Progress => [.. _takes.Select(t => t.Progress)];

    /// <summary>Stops, and writes the sizes.</summary>
    public void Stop()
    {
        _stopping = true;
        _wake.Set();
    }

    /// <summary>Cuts its power.</summary>
    public void CutPower()
    {
        _powerCut = true;
        _wake.Set();
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        Stop();
        _thread.Join();
        _wake.Dispose();
    }

    private void Run()
    {
        try
        {
            RecordAll();
            _ended.SetResult();
        }
        catch (Exception e)
        {
            // Nothing may fall out of a thread of its own: whoever waits for the end hears of it.
            _powerCut = true;
            _takes.ForEach(t => t.Dispose());
            State = RecorderState.PowerCut;
            _ended.SetException(e);
        }
    }

    private void RecordAll()
    {
        var begun = _time.GetTimestamp();
        var most = (long)(_pass.Seconds * _pass.SampleRate);
        var cutAt = _pass.CutPowerAfter is { } seconds ? (long)(seconds * _pass.SampleRate) : long.MaxValue;
        var done = 0L;
        while (true)
        {
            var played = (long)(_time.GetElapsedTime(begun).TotalSeconds * _pass.Speed * _pass.SampleRate);
            var due = Math.Min(Math.Min(played, most), cutAt);
            _takes.ForEach(t => t.Record((int)(due - done)));
            done = due;
            _powerCut |= done >= cutAt;
            if (_powerCut || _stopping || done >= most || _takes.TrueForAll(t => t.Progress.Problem is not null))
            {
                break;
            }
            _wake.Wait(Block);
        }
        _takes.ForEach(t =>
        {
            if (!_powerCut)
            {
                t.Finish();
            }
            t.Dispose();
        });
        State = _powerCut ? RecorderState.PowerCut : RecorderState.Finished;
    }
}
