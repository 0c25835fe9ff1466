using System.Globalization;
using System.Runtime.InteropServices;
using NeatCrate.Core.Media;
using NeatCrate.Core.Printing;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Printing;

/// <summary>Printed tracks against sox (Debian), which cuts the same ranges out of the same files and joins them.</summary>
public sealed class TrackPrinterAgainstSoxTests : IDisposable
{
    private const int FileLength = 12_000;

    private readonly SessionFixture _session = new();
    private readonly List<(string File, string Url)> _whole = [];
    private readonly List<(string File, string Url)> _floating = [];

    public TrackPrinterAgainstSoxTests()
    {
        // Samples of both signs, far enough from full scale that two of them added do not reach it.
        var audio = Directory.CreateDirectory(_session.Inside("Audio")).FullName;
        string Made(string name, int bits, int seed)
        {
            var (path, random) = (Path.Combine(audio, name), new Random(seed));
            using var stream = File.Create(path);
            using var writer = new WavWriter(stream, new PcmFormat(PrintedDocument.Rate, 1, bits));
            if (bits == 32)
            {
                writer.Write([.. Enumerable.Range(0, FileLength).Select(_ => random.Next(-3_000_000, 3_000_000) / 8_388_608f)]);
            }
            else
            {
                writer.Write([.. Enumerable.Range(0, FileLength).Select(_ => random.Next(-3_000_000, 3_000_000) >> (24 - bits))]);
            }
            return name;
        }
        void Whole(string name) => _whole.Add((name, "Audio/" + name));
        Whole(Made("voice.wav", 24, 1));
        Whole(Made("cello.wav", 24, 2));
        foreach (var (name, seed) in new[] { ("gurdy.aiff", 3), ("drums.flac", 4) })
        {
            var wav = Path.Combine(audio, Made("made.wav", 24, seed));
            Tool.Run("sox", wav, "-b", "24", Path.Combine(audio, name));
            File.Delete(wav);
            Whole(name);
        }
        _floating.Add((Made("print.wav", 32, 5), "Audio/print.wav"));
        _floating.Add((Made("old.wav", 16, 6), "Audio/old.wav"));
    }

    public void Dispose() => _session.Dispose();

    /// <summary>Two hundred random documents: integers, floating point, AIFF, FLAC, times in frames and samples, gaps, what is switched off, nested tracks and stacks, crossfades.</summary>
    [Fact]
    public void OutsideOfCrossfadesEverySampleIsWhatSoxCutsAndJoins()
    {
        var (tracks, crossfaded, samples, floats) = (0, 0, 0L, 0);
        for (var seed = 0; seed < 200; seed++)
        {
            var document = Random(new Random(seed));
            File.WriteAllText(_session.DocumentPath, document.ToJson(24));
            var printed = TrackPrinter.Of(_session.Inventory(), _session.Shelves, new PrintChoice(), DateTimeOffset.UnixEpoch)!;
            Assert.Equal(document.Tracks.Max(t => t.End), printed.LengthSamples);
            foreach (var (track, model) in printed.Tracks.Zip(document.Tracks))
            {
                if (model.Pieces.TrueForAll(p => p.Input is null))
                {
                    Assert.Equal(PrintNoteKind.Empty, Assert.Single(track.Notes).Kind);
                    continue;
                }
                Assert.True(track.Print is not null, $"document {seed}: {string.Join("; ", track.Notes.Select(n => n.Sentence))}");
                var ours = Path.Combine(_session.Root, "ours.wav");
                File.WriteAllBytes(ours, Written(track.Print!));
                var (got, wanted) = (Samples(ours), Samples(Expected(model, printed.LengthSamples)));
                Assert.Equal(printed.LengthSamples, got.Length);
                for (var n = 0; n < got.Length; n++)
                {
                    if (got[n] != wanted[n] && !model.Crossfades.Any(c => n >= c.From && n < c.To))
                    {
                        Assert.Fail($"Document {seed}, '{track.Name}', sample {n}: {got[n]}, and not {wanted[n]}.");
                    }
                }
                (tracks, crossfaded, samples, floats) = (tracks + 1, crossfaded + model.Crossfades.Count, samples + got.Length, floats + (track.Print!.Format.BitsPerSample == 32 ? 1 : 0));
            }
        }
        TestContext.Current.TestOutputHelper?.WriteLine($"{tracks} tracks, {floats} of them in floating point, {crossfaded} crossfades, {samples} samples");
        // The documents are of every kind, and not all of one.
        Assert.True(floats > tracks / 5 && floats < tracks * 4 / 5 && crossfaded > tracks / 3, $"{tracks} tracks, {floats} of them in floating point, {crossfaded} crossfades, {samples} samples");
    }

    private static byte[] Written(PrintedTrack print)
    {
        using var reading = new OriginReading(new DurableFiles(), cancel: TestContext.Current.CancellationToken);
        var bytes = MemorySink.Read(print, int.MaxValue, reading);
        Assert.Equal(print.Bytes, bytes.Length);
        return bytes;
    }

    private PrintedDocument Random(Random random)
    {
        var document = new PrintedDocument();
        for (var t = random.Next(1, 3); t > 0; t--)
        {
            var track = document.Model($"Track {t}");
            var sources = random.Next(2) == 0 ? _whole : [.. _whole, .. _floating];
            (string File, string Url) Any() => sources[random.Next(sources.Count)];
            var clips = random.Next(2, 6);
            for (var c = 0; c < clips; c++)
            {
                var units = Units.All[random.Next(Units.All.Length)];
                // A tenth of a second at the most, and as much in front of and behind it for a crossfade.
                var most = (units.Over / units.Under / 12) + 1;
                var (start, length) = (random.NextInt64(1, most), random.NextInt64(1, most));
                var (source, other) = (Any(), Any());
                switch (random.Next(10))
                {
                    case 0:
                        track.Stack(source, other, FileLength, random.Next(0, 4000), random.Next(100, 4000));
                        break;
                    case 1:
                        track.Nested(source, other, FileLength, random.Next(3000, 5900), random.Next(500, 4000));
                        break;
                    case 2:
                        track.Gap(length, units);
                        break;
                    default:
                        track.Clip(source.File, source.Url, FileLength, start, length, units, isOn: random.Next(12) > 0);
                        break;
                }
                if (c < clips - 1 && random.Next(3) == 0)
                {
                    track.Crossfade(random.Next(0, 40), random.Next(1, 40), Units.All[0]);
                }
            }
        }
        return document;
    }

    private string Expected(PrintedTrackModel model, long length)
    {
        var arguments = new List<string>();
        var at = 0L;
        foreach (var (from, to, input) in model.Pieces.Append((length, length, null)))
        {
            if (from > at)
            {
                arguments.AddRange("-t", "sox", Silence(from - at));
            }
            if (to > from)
            {
                // Without its type told, sox does not open what is shorter than it wants to look at.
                arguments.AddRange("-t", "sox", input ?? Silence(to - from));
            }
            at = to;
        }
        var joined = Path.Combine(_session.Root, "joined.wav");
        Tool.RunIn(_session.Inside("Audio"), "sox", [.. arguments, "-b", "32", "-e", "signed-integer", joined]);
        return joined;
    }

    private static string Silence(long samples) => string.Create(CultureInfo.InvariantCulture, $"|sox -n -r 48000 -c 1 -b 32 -p trim 0s {samples}s");

    private int[] Samples(string path)
    {
        var raw = Path.Combine(_session.Root, "samples.raw");
        Tool.Run("sox", "-D", path, "-t", "raw", "-e", "signed-integer", "-b", "32", "-L", raw);
        return MemoryMarshal.Cast<byte, int>(File.ReadAllBytes(raw)).ToArray();
    }
}
