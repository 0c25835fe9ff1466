using System.Diagnostics;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Store;

namespace NeatCrate.Bench;

/// <summary>A minute of stereo from 44.1 to 48 kHz, as a plan makes it: read, converted, written, flushed, read back and compared.</summary>
internal static class ConvertBench
{
    private const int Seconds = 60;
    private const int Rate = 44_100;

    public static void Run(string folder)
    {
        Directory.CreateDirectory(folder);
        var source = Path.Combine(folder, "mix.wav");
        using (var stream = File.Create(source))
        using (var writer = new WavWriter(stream, new PcmFormat(Rate, 2, 24)))
        {
            var random = new Random(3);
            for (var s = 0; s < Seconds; s++)
            {
                writer.Write([.. Enumerable.Range(0, 2 * Rate).Select(_ => random.Next(-8_000_000, 8_000_000))]);
            }
        }
        var (ours, theirs) = (Path.Combine(folder, "ours.wav"), Path.Combine(folder, "theirs.wav"));
        using var files = StoreFiles.Open(Path.Combine(folder, "data"));
        var runner = new Runner(new PlanJournal(files, TimeProvider.System), new DurableFiles());
        var converted = Figures.Fastest(3, () => Convert(runner, source, ours), () => File.Delete(ours));
        var sox = Figures.Fastest(3, () => Sox(source, theirs), () => File.Delete(theirs));
        Figures.Row("converting 60 s of stereo from 44.1 to 48 kHz, by a plan", converted, "`sox rate -v`", sox, "at most 2");
    }

    private static void Convert(Runner runner, string source, string destination)
    {
        var plan = new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Import,
            Sentence = "bench",
            WritableRoots = [Path.GetDirectoryName(destination)!],
            Steps = [new MakeFileStep(destination, "bench", new Transformed(new WholeFile(source, FileState.Of(source)), new ConvertRate(48_000)), 0)],
        };
        if (runner.Apply(plan).Outcome != PlanOutcome.Applied)
        {
            throw new InvalidOperationException("The plan was not applied.");
        }
    }

    private static void Sox(string source, string destination)
    {
        using var sox = Process.Start("sox", ["-D", source, "-e", "floating-point", "-b", "32", destination, "rate", "-v", "48000"]);
        sox.WaitForExit();
        if (sox.ExitCode != 0)
        {
            throw new InvalidOperationException("sox failed.");
        }
    }
}
