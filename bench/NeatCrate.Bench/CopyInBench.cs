using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.Bench;

/// <summary>
/// 2 GB copied in by the runner, hashed, flushed, read back and compared, with journal and document, against cp(1) followed
/// by sha512sum(1) of both sides.
/// </summary>
internal static class CopyInBench
{
    private const int Files = 20;
    private const long BytesEach = 100_000_000;
    private const int Rate = 48_000;
    private const int Runs = 3;

    public static void Run(string folder)
    {
        var (drive, library) = (Path.Combine(folder, "drive"), Path.Combine(folder, "library"));
        Directory.CreateDirectory(drive);
        Directory.CreateDirectory(library);
        var samples = (int)(BytesEach / 3);
        MakeSounds(library, samples);
        var run = 0;
        var copied = Path.Combine(folder, "copied");
        var reference = Figures.Fastest(
            Runs,
            () => Tool.Run("sh", "-c", $"cp -r '{library}' '{copied}' && sync -f '{copied}' && cat '{library}'/* | sha512sum && cat '{copied}'/* | sha512sum"),
            () => Remove(copied));
        Remove(copied);
        using var files = StoreFiles.Open(Path.Combine(folder, "data"));
        var runner = new Runner(new PlanJournal(files, TimeProvider.System), new DurableFiles());
        var ours = Figures.Fastest(
            Runs,
            () => CopyIn(Path.Combine(drive, $"{run}"), drive, library, runner),
            () =>
            {
                Remove(Path.Combine(drive, $"{run++}"));
                MakeSession(Path.Combine(drive, $"{run}"), library, samples);
            });
        Figures.Row("copy in of 2 GB in 20 files, verified, with journal", ours, "`cp` and `sha512sum` of both sides", reference, "less than 1");
    }

    private static void MakeSounds(string library, int samples)
    {
        var random = new Random(5);
        var block = Enumerable.Range(0, Rate).Select(_ => random.Next(-8_000_000, 8_000_000)).ToArray();
        for (var f = 0; f < Files; f++)
        {
            using var stream = File.Create(Path.Combine(library, $"sample {f:00}.wav"));
            using var writer = new WavWriter(stream, new PcmFormat(Rate, 1, 24));
            block[0] = f;
            for (var written = 0; written < samples; written += Rate)
            {
                writer.Write(block.AsSpan(0, Math.Min(Rate, samples - written)));
            }
        }
    }

    private static void MakeSession(string folder, string library, int samples)
    {
        Directory.CreateDirectory(folder);
        var document = SessionDocument.Create(Guid.NewGuid(), "bench", new SessionSettings(), SessionLayout.Default, ["Samples"]);
        foreach (var path in Directory.EnumerateFiles(library))
        {
            ClipBuilder.Place(document.Root, "Samples", new ClipToPlace("", MediaUrl.From(path, folder), Rate, samples, 0, samples));
        }
        File.WriteAllBytes(Path.Combine(folder, "bench.otio"), document.ToUtf8());
    }

    private static void CopyIn(string session, string drive, string library, Runner runner)
    {
        Shelf[] shelves = [new(Guid.NewGuid(), "Drive", ShelfKind.SessionDrive, drive), new(Guid.NewGuid(), "Library", ShelfKind.OwnLibrary, library)];
        var inventory = new InventoryReader(new HeaderCache()).Read(session, null, shelves);
        runner.Apply(CopyInPlanner.Plan(new CopyInRequest(Guid.NewGuid(), inventory, shelves, new FreshIdentities())));
    }

    private static void Remove(string folder)
    {
        if (Directory.Exists(folder))
        {
            Directory.Delete(folder, recursive: true);
        }
    }
}
