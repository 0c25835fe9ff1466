using System.Globalization;
using NeatCrate.Core.Media;

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

/// <summary>Writes one take, and its mirror.</summary>
internal sealed class TakeWriter : IDisposable
{
    private readonly RecorderPass _pass;
    private readonly TakeSound _sound;
    private readonly TakeFile _file;
    private TakeFile? _mirror;
    private float[] _block = [];

    public TakeWriter(RecorderPass pass, ArmedTrack track)
    {
        _pass = pass;
        _sound = new TakeSound(pass.Song, track.Name, track.Take, pass.SampleRate);
        _file = new TakeFile(track.Path, pass, track);
        Progress = new TakeProgress(track, 0, track.MirrorPath is null ? MirrorState.None : MirrorState.Following, 0, null);
        if (track.MirrorPath is { } path)
        {
            Mirrored(() => _mirror = Directory.Exists(pass.MirrorRoot)
                ? new TakeFile(path, pass, track)
                : throw new DirectoryNotFoundException("the mirror's drive is away"));
        }
    }

    public TakeProgress Progress { get; private set; }

    public void Record(int samples)
    {
        if (Progress.Problem is not null || samples <= 0)
        {
            return;
        }
        if (_block.Length < samples)
        {
            _block = new float[samples];
        }
        var block = _block.AsMemory(0, samples);
        _sound.Next(block.Span);
        try
        {
            _file.Write(block.Span);
            Progress = Progress with { Samples = Progress.Samples + samples };
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Progress = Progress with { Problem = $"The drive took no more: {e.Message}" };
            return;
        }
        if (_mirror is not null)
        {
            Mirrored(() =>
            {
                _mirror.Write(block.Span);
                Progress = Progress with { MirrorSamples = Progress.MirrorSamples + samples };
            });
        }
    }

    public void Finish()
    {
        try
        {
            _file.Finish();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Progress = Progress with { Problem = Progress.Problem ?? $"The end of the take could not be written: {e.Message}" };
        }
        if (_mirror is not null)
        {
            Mirrored(_mirror.Finish);
        }
    }

    /// <summary>Lets go of the files as they are.</summary>
    public void Dispose()
    {
        _file.Dispose();
        _mirror?.Dispose();
    }

    /// <summary>Does something to the mirror. Whatever happens there, the take goes on.</summary>
    private void Mirrored(Action work)
    {
        try
        {
            work();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            _mirror?.Dispose();
            _mirror = null;
            Progress = Progress with { Mirror = MirrorState.Gone };
        }
    }

    /// <summary>A Broadcast Wave file that grows.</summary>
    private sealed class TakeFile : IDisposable
    {
        private readonly string _path;
        private readonly FileStream _stream;
        private readonly WavWriter _writer;

        public TakeFile(string path, RecorderPass pass, ArmedTrack track)
        {
            _path = path;
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            _stream = new FileStream(path, FileMode.CreateNew, FileAccess.Write, FileShare.ReadWrite | FileShare.Delete, 0);
            var take = track.Take.ToString(CultureInfo.InvariantCulture);
            var bext = new BroadcastExtension(
                $"{pass.Song}, {track.Name} {track.Take:00}, pass {pass.Pass}",
                "Neat Crate recorder",
                "",
                pass.Started.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                pass.Started.ToString("HH:mm:ss", CultureInfo.InvariantCulture),
                pass.TimeReference,
                CodingHistory: $"A=PCM,F={pass.SampleRate},W={pass.BitDepth},M=mono,T=Neat Crate recorder\r\n");
            var ixml = new Ixml(null, pass.Song, take, $"pass {pass.Pass}", [new IxmlTrack(1, track.Name)]);
            _writer = new WavWriter(_stream, new PcmFormat(pass.SampleRate, 1, pass.BitDepth), bext, [("iXML", IxmlChunk.Write(ixml))]);
        }

        public void Write(ReadOnlySpan<float> samples)
        {
            // A drive that was unplugged here is a folder that was moved: writing to it would go on unseen.
            if (!File.Exists(_path))
            {
                throw new FileNotFoundException("the file is no longer in its place");
            }
            _writer.Write(samples);
        }

        public void Finish()
        {
            _writer.Finish();
            _stream.Flush(flushToDisk: true);
        }

        /// <summary>Lets go of the file. Without <see cref="Finish"/> before it, the sizes stay unwritten, as after a power cut.</summary>
        public void Dispose() => _stream.Dispose();
    }
}
