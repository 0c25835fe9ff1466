using System.Globalization;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;

namespace NeatCrate.Bench;

/// <summary>What odd and large things take in memory: a file of as many channels as its header can name, a document of 50 MB, and a history of large plans.</summary>
internal static class MemoryBench
{
    private const int Plans = 100;
    private const int Steps = 10_000;

    public static void Run(string folder)
    {
        Directory.CreateDirectory(folder);
        Outline(Path.Combine(folder, "channels.wav"));
        Document(folder);
        History(Path.Combine(folder, "data"));
    }

    private static void Outline(string path)
    {
        // As many as the header's field of two bytes can name, of one byte each (Microsoft, Multimedia Programming Interface 1.0, "WAVE").
        const int Channels = ushort.MaxValue;
        const int Samples = 960;
        using (var writer = new BinaryWriter(File.Create(path)))
        {
            writer.Write("RIFF"u8);
            writer.Write(36 + (Channels * Samples));
            writer.Write("WAVEfmt "u8);
            writer.Write(16);
            writer.Write((short)1);
            writer.Write(ushort.MaxValue);
            writer.Write(48000);
            writer.Write(unchecked((int)(48000L * Channels)));
            writer.Write(ushort.MaxValue);
            writer.Write((short)8);
            writer.Write("data"u8);
            writer.Write(Channels * Samples);
            for (var n = 0; n < Samples; n++)
            {
                writer.Write(new byte[Channels]);
            }
        }
        var header = MediaHeaderReader.ReadFile(path)!;
        var (_, most) = Peak(() =>
        {
            using var reader = SoundReader.Open(path, header);
            Peaks.Of(reader);
        });
        Row($"outline of {Channels:N0} channels ({new FileInfo(path).Length / 1_000_000} MB): memory at most", most / 1e6, "MB", "at most 100 MB");
    }

    private static void Document(string folder)
    {
        var document = SessionDocument.Create(Guid.NewGuid(), "Large", new SessionSettings(), SessionLayout.Default, ["Cello"]);
        for (var n = 0; n < 25_000; n++)
        {
            ClipBuilder.Place(document.Root, "Cello", new ClipToPlace($"Cello {n}", MediaUrl.From(Path.Combine(folder, "Audio", $"Cello {n % 500:000}.wav"), folder), 48000, 480_000, n, 48_000));
        }
        var bytes = document.ToUtf8();
        document = null;
        var (seconds, most) = Peak(() => SessionDocument.Parse(bytes));
        Row($"document of {bytes.Length / 1_000_000} MB, read in {seconds:0.0} s: memory for each of its bytes", most / (double)bytes.Length, "bytes", "at most 10");
    }

    private static void History(string folder)
    {
        using var files = StoreFiles.Open(folder);
        var journal = new PlanJournal(files, TimeProvider.System);
        var session = Guid.NewGuid();
        for (var p = 0; p < Plans; p++)
        {
            var plan = new Plan
            {
                Id = Guid.NewGuid(),
                Kind = PlanKind.CopyIn,
                SessionId = session,
                Sentence = $"Copy {Steps} files.",
                WritableRoots = ["/drive/song"],
                Steps = [.. Enumerable.Range(0, Steps).Select(n => MakeFileStep.Copy($"/drive/song/Audio/sample {n:00000}.wav", "stands outside", $"/library/set {n % 40:00}/sample {n:00000}.wav", new FileState(48_000, DateTime.UnixEpoch)))],
            };
            journal.Begin(plan);
            journal.Commit(plan.Id);
            journal.Settle(plan.Id, PlanOutcome.Applied, []);
            journal.Close(plan.Id);
        }
        journal.History(session, Plans);
        var before = GC.GetAllocatedBytesForCurrentThread();
        journal.History(session, Plans);
        var allocated = GC.GetAllocatedBytesForCurrentThread() - before;
        Figures.Row($"history of {Plans} plans of {Steps:N0} steps", Figures.Fastest(10, () => journal.History(session, Plans)), "", null, "at most 0.050 s");
        Row("memory for it", allocated / 1e6, "MB", "at most 10 MB");
    }

    /// <summary>How long something takes, and by how much the memory of the process grows meanwhile at the most.</summary>
    private static (double Seconds, long Bytes) Peak(Action run)
    {
        GC.Collect(2, GCCollectionMode.Aggressive, blocking: true, compacting: true);
        var (before, most, over) = (Environment.WorkingSet, 0L, false);
        var watching = new Thread(() =>
        {
            while (!Volatile.Read(ref over))
            {
                most = Math.Max(most, Environment.WorkingSet - before);
                Thread.Sleep(1);
            }
        });
        watching.Start();
        var seconds = Figures.Seconds(run);
        most = Math.Max(most, Environment.WorkingSet - before);
        Volatile.Write(ref over, true);
        watching.Join();
        return (seconds, most);
    }

    private static void Row(string what, double figure, string unit, string goal) => Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| {what} | {figure:0.0} {unit} | | | {goal} |"));
}
