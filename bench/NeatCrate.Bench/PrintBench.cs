using System.Diagnostics;
using System.Globalization;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Origins;
using NeatCrate.Core.Plans;
using NeatCrate.Store;

namespace NeatCrate.Bench;

/// <summary>Tracks of an hour, each of sixty clips with pauses between them, printed by a plan (written, flushed, read back and compared), and cut and joined by sox.</summary>
internal static class PrintBench
{
    private const int Tracks = 2;
    private const int Clips = 60;
    private const int Rate = 48_000;
    private const int ClipSamples = 55 * Rate;
    private const int PauseSamples = 5 * Rate;

    public static void Run(string folder)
    {
        Directory.CreateDirectory(folder);
        var take = Path.Combine(folder, "take.wav");
        using (var stream = File.Create(take))
        using (var writer = new WavWriter(stream, new PcmFormat(Rate, 1, 24)))
        {
            var random = new Random(3);
            for (var s = 0; s < 600; s++)
            {
                writer.Write([.. Enumerable.Range(0, Rate).Select(_ => random.Next(-8_000_000, 8_000_000))]);
            }
        }
        using var files = StoreFiles.Open(Path.Combine(folder, "data"));
        var runner = new Runner(new PlanJournal(files, TimeProvider.System), new DurableFiles());
        string Made(string by, int track) => Path.Combine(folder, $"{by} {track}.wav");
        void Remove(string by) => Enumerable.Range(0, Tracks).ToList().ForEach(t => File.Delete(Made(by, t)));
        var ours = Figures.Fastest(2, () => Print(runner, take, [.. Enumerable.Range(0, Tracks).Select(t => Made("ours", t))]), () => Remove("ours"));
        var sox = Figures.Fastest(2, () => Enumerable.Range(0, Tracks).ToList().ForEach(t => Sox(take, Made("theirs", t))), () => Remove("theirs"));
        var alone = Figures.Fastest(2, () => Reckon(take));
        Figures.Row("a track of an hour, reckoned and written nowhere", alone, "", null, "");
        Figures.Row($"printing {Tracks} tracks of an hour, by a plan", ours, "`sox` cutting and joining the same", sox, "at most 0.7");
    }

    private static long StartOf(int clip) => clip * 7L * Rate;

    private static PrintedTrack Track(string take)
    {
        var source = new WholeFile(take, FileState.Of(take));
        return new PrintedTrack(
            new PcmFormat(Rate, 1, 24),
            (long)Clips * (ClipSamples + PauseSamples),
            new BroadcastExtension("", "", "", "", "", 0),
            CrossfadeLaw.EqualGain,
            [.. Enumerable.Range(0, Clips).Select(c => new PrintedPiece((long)c * (ClipSamples + PauseSamples), ClipSamples, source, StartOf(c)))]);
    }

    private static void Reckon(string take)
    {
        using var reading = new OriginReading(new DurableFiles());
        Track(take).WriteTo(new Nowhere(), reading);
    }

    private sealed class Nowhere : IByteSink
    {
        public long Length { get; private set; }

        public Stream? Seekable => null;

        public void Write(ReadOnlySpan<byte> bytes) => Length += bytes.Length;

        public string Scratch(ScratchUse use) => throw new NotSupportedException();
    }

    private static void Print(Runner runner, string take, IReadOnlyList<string> destinations)
    {
        var print = Track(take);
        var plan = new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Bundle,
            Sentence = "bench",
            WritableRoots = [Path.GetDirectoryName(take)!],
            Steps = [.. destinations.Select(d => new MakeFileStep(d, "bench", print, print.Bytes))],
        };
        if (runner.Apply(plan).Outcome != PlanOutcome.Applied)
        {
            throw new InvalidOperationException("The plan was not applied.");
        }
    }

    private static void Sox(string take, string destination)
    {
        List<string> arguments = ["-D"];
        for (var c = 0; c < Clips; c++)
        {
            arguments.AddRange("-t", "sox", string.Create(CultureInfo.InvariantCulture, $"|sox -V1 {take} -p trim {StartOf(c)}s {ClipSamples}s"));
            arguments.AddRange("-t", "sox", string.Create(CultureInfo.InvariantCulture, $"|sox -n -r {Rate} -c 1 -p trim 0s {PauseSamples}s"));
        }
        using var sox = Process.Start("sox", [.. arguments, "-b", "24", destination]);
        sox.WaitForExit();
        if (sox.ExitCode != 0)
        {
            throw new InvalidOperationException("sox failed.");
        }
    }
}
