using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.StandIns.Demo;

/// <summary>Writes the demo's sound files, and remembers how long each is.</summary>
internal sealed class DemoFiles
{
    private readonly List<Action> _work = [];
    private readonly Dictionary<string, (int Rate, long Length)> _known = new(StringComparer.Ordinal);

    /// <summary>A take: recorded at a time of day, in one of several passes.</summary>
    /// <param name="path">Where it goes.</param>
    /// <param name="song">Which song.</param>
    /// <param name="voice">Who plays.</param>
    /// <param name="seconds">How long it is.</param>
    /// <param name="time">The time of day at which it was recorded. On the timeline every pass starts where the session does.</param>
    /// <param name="take">Its number.</param>
    /// <param name="silentTail">Seconds of silence that the player left at the end.</param>
    public void MakeTake(string path, Song song, Voice voice, double seconds, TimeSpan time, int take, double silentTail = 0)
    {
        const int Rate = 48000;
        var seed = Noise.Seed($"{song.Name}/{voice}/{take}");
        var length = (int)(seconds * Rate);
        var bext = new BroadcastExtension(
            $"{song.Name}, {Path.GetFileNameWithoutExtension(path)}, pass {take}",
            "Neat Crate demo",
            "",
            song.Day.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture),
            time.ToString(@"hh\:mm\:ss", System.Globalization.CultureInfo.InvariantCulture),
            (ulong)Song.SessionStart * Rate);
        Add(path, new PcmFormat(Rate, 1, 24), length, song.Day + time + TimeSpan.FromSeconds(seconds), bext, () =>
        {
            var sound = Synthesiser.Render(voice, song.Part(voice, seconds - silentTail, seed), length, Rate, seed);
            // A room is never quite silent, but a muted channel is.
            sound.AsSpan(length - (int)(silentTail * Rate)).Clear();
            return [sound];
        });
    }

    /// <summary>A sample brought from elsewhere.</summary>
    public void Sample(
        string path, Voice voice, double seconds, double pitch, DateTime changed, int rate = 48000, int bits = 24, int strokes = 1, (string, ReadOnlyMemory<byte>)[]? chunks = null)
    {
        var length = (int)(seconds * rate);
        Add(path, new PcmFormat(rate, 1, bits), length, changed, null, () =>
        {
            var each = seconds / strokes;
            var notes = Enumerable.Range(0, strokes).Select(n => new Note(n * each, each, pitch, .95 - (.1 * (n % 3))));
            return [Synthesiser.Render(voice, notes, length, rate, Noise.Seed(Path.GetFileName(path) + pitch))];
        }, chunks);
    }

    /// <summary>A stereo mix of several parts of a song.</summary>
    public void Bounce(string path, Song song, double seconds, DateTime changed, params Voice[] voices)
    {
        const int Rate = 48000;
        var length = (int)(seconds * Rate);
        Add(path, new PcmFormat(Rate, 2, 16), length, changed, null, () =>
        {
            var (left, right) = (new float[length], new float[length]);
            foreach (var (voice, n) in voices.Select((v, n) => (v, n)))
            {
                var seed = Noise.Seed($"{song.Name}/{voice}/1");
                var part = Synthesiser.Render(voice, song.Part(voice, seconds, seed), length, Rate, seed);
                var pan = .5 + (.3 * Math.Sin(n * 2.1));
                for (var i = 0; i < length; i++)
                {
                    left[i] += (float)(part[i] * (1 - pan));
                    right[i] += (float)(part[i] * pan);
                }
            }
            return [left, right];
        });
    }

    /// <summary>A MIDI file that strikes one bell several times, a second apart (Standard MIDI Files 1.0, format 0).</summary>
    public void Notes(string path, int strokes) => _work.Add(() =>
    {
        // 96 ticks a quarter at 120 a minute: 192 ticks a second, as a number of two bytes.
        byte[] second = [0x81, 0x40];
        byte[] track = [.. Enumerable.Range(0, strokes).SelectMany(n => (byte[])[0, 0x90, 60, 100, .. second, 0x80, 60, 0]), 0, 0xFF, 0x2F, 0];
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllBytes(path, [.. "MThd"u8, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96, .. "MTrk"u8, 0, 0, (byte)(track.Length >> 8), (byte)track.Length, .. track]);
    });

    /// <summary>The same file again under another name.</summary>
    public void Duplicate(string path, string of)
    {
        _known[path] = _known[of];
        _copies.Add((of, path));
    }

    /// <summary>A clip of a whole file, or of a part of it given in seconds.</summary>
    public ClipToPlace Clip(string path, string documentFolder, double from = 0, double? length = null, double gap = 0)
    {
        var (rate, samples) = _known[path];
        var start = (long)(from * rate);
        return new ClipToPlace(
            Path.GetFileNameWithoutExtension(path),
            MediaUrl.From(path, documentFolder),
            rate,
            samples,
            start,
            length is { } seconds ? Math.Min((long)(seconds * rate), samples - start) : samples - start,
            (long)(gap * rate));
    }

    /// <summary>Writes everything that was asked for, on all cores.</summary>
    public void WriteAll()
    {
        Parallel.ForEach(_work, work => work());
        foreach (var (of, path) in _copies)
        {
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            File.Copy(of, path);
        }
    }

    /// <summary>Packs a WAV as FLAC in another place, sample for sample, and lets it go.</summary>
    public static void Pack(string path, string to)
    {
        var header = MediaHeaderReader.ReadFile(path)!;
        using (var reader = SoundReader.Open(path, header))
        {
            var samples = new float[reader.LengthSamples * reader.Channels];
            reader.Read(samples);
            using var stream = File.Create(to);
            // A float holds 24 bits to the bit.
            FlacFile.Write(stream, reader.SampleRate, reader.Channels, header.BitsPerSample, Array.ConvertAll(samples, s => (int)Math.Clamp(s * 2147483648.0, int.MinValue, int.MaxValue)));
        }
        File.SetLastWriteTimeUtc(to, File.GetLastWriteTimeUtc(path));
        File.Delete(path);
    }

    private readonly List<(string Of, string Path)> _copies = [];

    private void Add(
        string path, PcmFormat format, int length, DateTime changed, BroadcastExtension? bext, Func<float[][]> render, (string, ReadOnlyMemory<byte>)[]? chunks = null)
    {
        _known[path] = (format.SampleRate, length);
        _work.Add(() =>
        {
            var channels = render();
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            using (var stream = new FileStream(path, FileMode.CreateNew, FileAccess.Write, FileShare.None, 1 << 20))
            using (var writer = new WavWriter(stream, format, bext, chunks))
            {
                writer.Write(Interleave(channels, format));
            }
            File.SetLastWriteTimeUtc(path, DateTime.SpecifyKind(changed, DateTimeKind.Utc));
        });
    }

    private static int[] Interleave(float[][] channels, PcmFormat format)
    {
        var scale = (1 << (format.BitsPerSample - 1)) - 1;
        var samples = new int[channels[0].Length * channels.Length];
        for (var c = 0; c < channels.Length; c++)
        {
            for (var i = 0; i < channels[c].Length; i++)
            {
                // Loud passages are bent, not cut off.
                samples[(i * channels.Length) + c] = (int)(Math.Tanh(channels[c][i]) * scale);
            }
        }
        return samples;
    }
}
