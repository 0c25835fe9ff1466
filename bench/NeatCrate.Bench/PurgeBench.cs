using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.Bench;

/// <summary>How long it takes to say what uses what in a large session, and again when one document changed.</summary>
internal static class PurgeBench
{
    private const int Files = 20_000;
    private const int Documents = 50;
    private const int Clips = 5_000;
    private const int Rate = 48_000;

    public static void Run(string folder)
    {
        Directory.CreateDirectory(Path.Combine(folder, "Audio"));
        for (var n = 0; n < Files; n++)
        {
            using var stream = File.Create(Sound(folder, n));
            using var writer = new WavWriter(stream, new PcmFormat(Rate, 1, 16));
            writer.Write(new int[200]);
        }
        for (var d = 0; d < Documents; d++)
        {
            WriteDocument(folder, d, 0);
        }
        var kept = new KeptInventory(folder, new HeaderCache());
        var first = Figures.Seconds(() => Look(kept));
        Figures.Row($"first look at {Files:N0} files and {Documents} documents of {Clips:N0} clips", first, "headers and documents read", null, "");
        PurgeWorld? world = null;
        Figures.Row("what uses what, of all of them", Figures.Seconds(() => world = World(kept)), "", null, "1 s");
        Figures.Row("judged: why each counts, and in which group it could go", Figures.Fastest(3, () => PurgeJudge.Judge(world!)), "", null, "");
        var edit = 0;
        var again = Figures.Fastest(
            5,
            () =>
            {
                Look(kept);
                world = World(kept);
            },
            () => WriteDocument(folder, 0, ++edit));
        var path = Document(folder, 0);
        var reading = Figures.Fastest(3, () => SessionDocument.Parse(File.ReadAllBytes(path)));
        Figures.Row("what uses what, after one document changed", again, "of it, reading that document", reading, "0.05 s");
        Directory.Delete(folder, recursive: true);
        Directory.CreateDirectory(folder);
        Trim(folder);
    }

    /// <summary>A gigabyte, of which nine tenths are kept, written, read back and compared, against a copy of the kept bytes by cp(1).</summary>
    private static void Trim(string folder)
    {
        const int Each = 20;
        const int Samples = 50_000_000 / 3;
        var session = Directory.CreateDirectory(Path.Combine(folder, "261014 Net Mender", "Audio")).Parent!.FullName;
        var document = SessionDocument.Create(Guid.NewGuid(), "Net Mender", new SessionSettings(), SessionLayout.Default, ["Cello"]);
        var random = new Random(5);
        var block = Enumerable.Range(0, Rate).Select(_ => random.Next(-8_000_000, 8_000_000)).ToArray();
        for (var n = 0; n < Each; n++)
        {
            var path = Path.Combine(session, "Audio", $"Cello {n:00}.wav");
            using (var stream = File.Create(path))
            using (var writer = new WavWriter(stream, new PcmFormat(Rate, 1, 24)))
            {
                block[0] = n;
                for (var written = 0; written < Samples; written += Rate)
                {
                    writer.Write(block.AsSpan(0, Math.Min(Rate, Samples - written)));
                }
            }
            ClipBuilder.Place(document.Root, "Cello", new ClipToPlace($"{n}", MediaUrl.From(path, session), Rate, Samples, Samples / 20, (long)(Samples * .9)));
        }
        File.WriteAllBytes(Path.Combine(session, "261014 Net Mender.otio"), document.ToUtf8());
        var kept = new KeptInventory(session, new HeaderCache());
        Look(kept);
        var to = Directory.CreateDirectory(Path.Combine(folder, "copies")).FullName;
        using var files = StoreFiles.Open(Path.Combine(folder, "data"));
        var runner = new Runner(new PlanJournal(files, TimeProvider.System), new DurableFiles());
        var run = 0;
        Plan Planned() => TrimPlanner.Plan(new TrimRequest(Guid.NewGuid(), World(kept), [], new TrimChoice(0), DateTime.UtcNow) { CopyTo = to, CopyName = $"trimmed {run}" });
        var plan = Planned();
        var ours = Figures.Fastest(3, () => runner.Apply(plan), () =>
        {
            run++;
            plan = Planned();
        });
        var (source, copied) = (Path.Combine(to, $"trimmed {run}", "Audio"), Path.Combine(folder, "copied"));
        var copying = $"cp -r '{source}' '{copied}' && sync -f '{copied}'";
        // dd(1) with nocache and nothing to copy drops a file from the cache, so that cmp(1) reads what is on disk.
        var comparing = $"for f in '{copied}'/*; do dd if=\"$f\" iflag=nocache count=0 status=none && cmp \"$f\" \"{source}/${{f##*/}}\"; done";
        double Reference(string work) => Figures.Fastest(3, () => Tool.Run("sh", "-c", work), () =>
        {
            if (Directory.Exists(copied))
            {
                Directory.Delete(copied, recursive: true);
            }
        });
        Figures.Row("trim 1 GB, nine tenths kept, verified, with journal", ours, "`cp` of the kept bytes, flushed and not compared", Reference(copying), "");
        Figures.Row("", ours, "the same, read back from the disk and compared", Reference($"{copying} && {comparing}"), "1.3");
    }

    private static string Sound(string folder, int n) => Path.Combine(folder, "Audio", $"{n:00000}.wav");

    private static string Document(string folder, int number) =>
        number == 0 ? Path.Combine(folder, "261020 session.otio") : Path.Combine(folder, "Older documents", $"session 2026-10-01_{number:000000}.otio");

    private static void WriteDocument(string folder, int number, int edit)
    {
        var document = SessionDocument.Create(new Guid(number, 0, 0, new byte[8]), $"{number}", new SessionSettings(), SessionLayout.Default, ["Voice"]);
        for (var c = 0; c < Clips; c++)
        {
            var at = ((number * 397) + (c * 3) + (c == 17 ? edit : 0)) % Files;
            ClipBuilder.Place(document.Root, "Voice", new ClipToPlace("clip", MediaUrl.From(Sound(folder, at), folder), Rate, 200, 10, 100));
        }
        var path = Document(folder, number);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllBytes(path, document.ToUtf8());
    }

    private static SessionInventory Look(KeptInventory kept) => kept.Look(null, [], LookDepth.Folders, DateTime.UtcNow);

    private static PurgeWorld World(KeptInventory kept)
    {
        var inventory = kept.Last!;
        return new PurgeWorld(
            inventory, kept.ByDocument(), Array.Empty<UsePlace>().ToLookup(u => u.Path), new Dictionary<string, TakeLabel>(), kept.Others());
    }
}
