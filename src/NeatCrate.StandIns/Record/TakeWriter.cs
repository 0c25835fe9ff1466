using System.Globalization;
using NeatCrate.Core.Media;

namespace NeatCrate.StandIns.Record;

/// <summary>Writes one take, and its mirror.</summary>
internal sealed class TakeWriter : IDisposable
{
    // A quarter of a second at 48 kHz.
    private const int MostAtOnce = 12_000;

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

    /// <summary>Records what came since, in pieces: a machine that was slow has much of it, and a drive that fills up keeps all that went before.</summary>
    public void Record(int samples)
    {
        for (; samples > 0 && Progress.Problem is null; samples -= MostAtOnce)
        {
            RecordPiece(Math.Min(samples, MostAtOnce));
        }
    }

    private void RecordPiece(int samples)
    {
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
