using System.Collections.Immutable;
using System.Diagnostics;
using System.Globalization;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Files;
using NeatCrate.Core.Origins;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Vault;
using NeatCrate.Store;

namespace NeatCrate.Bench;

/// <summary>
/// Bundles: music of 24 bits packed without loss (proven by decoding, flushed, read back and compared) against zip -9 and 7-Zip, which do none of that; and one of
/// 5 GB and one of 70,000 files, with what the process holds at most (to be run with the application's own setting: DOTNET_gcServer=0 DOTNET_GCConserveMemory=9).
/// </summary>
internal static class BundleBench
{
    private const int Songs = 24;
    private const int Seconds = 60;
    private const int Large = 300;
    private const int SongBytes = 17_280_080;
    private const int Many = 70_000;

    public static void Run(string folder)
    {
        var sound = Directory.CreateDirectory(Path.Combine(folder, "sound")).FullName;
        // A held note with its overtones and a slow swell, and far below it the noise of a room: sox makes the same each time (-R).
        Parallel.For(0, Songs, n => Tool("sh", folder, "-c", string.Create(CultureInfo.InvariantCulture,
            $"sox -R -m -v 0.5 '|sox -R -n -r 48000 -c 2 -b 32 -p synth {Seconds} sawtooth {70 + (n * 11)} synth {Seconds} sine mix {140.5 + (n * 7)} tremolo 0.3 50 lowpass 2500 gain -3' -v 0.004 '|sox -R -n -r 48000 -c 2 -b 32 -p synth {Seconds} pinknoise' -b 24 'sound/{n:00}.wav'")));
        using var files = StoreFiles.Open(Path.Combine(folder, "data"));
        var runner = new Runner(new PlanJournal(files, TimeProvider.System), new DurableFiles());
        var songs = Directory.GetFiles(sound).Order(StringComparer.Ordinal).ToList();
        var before = songs.Sum(s => new FileInfo(s).Length);
        string Made(string name) => Path.Combine(folder, name);

        var packed = Figures.Fastest(2, () => Pack(runner, Made("ours.zip"), songs.Select(s => Entry(s, isPacked: true))), () => File.Delete(Made("ours.zip")));
        var zip = Figures.Fastest(1, () => Tool("zip", folder, "-9", "-q", "-r", Made("theirs.zip"), "sound"), () => File.Delete(Made("theirs.zip")));
        Tool("7zz", folder, "a", "-bso0", "-bsp0", Made("theirs.7z"), "sound");
        Figures.Row($"packing {before / 1e6:0} MB of music, 24 bits, without loss", packed, "`zip -9`", zip, "at most 1.0");
        var (ours, theirs, seven) = (new FileInfo(Made("ours.zip")).Length, new FileInfo(Made("theirs.zip")).Length, new FileInfo(Made("theirs.7z")).Length);
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| its bytes | {ours / 1e6:0} MB | `zip -9`; `7zz a` | {theirs / 1e6:0}; {seven / 1e6:0} MB | {ours / (double)theirs:0.00}; {ours / (double)seven:0.00} | at most 0.67 of zip |"));

    }

    public static void Memory(string folder)
    {
        Directory.CreateDirectory(folder);
        using var files = StoreFiles.Open(Path.Combine(folder, "data"));
        var runner = new Runner(new PlanJournal(files, TimeProvider.System), new DurableFiles());
        string Made(string name) => Path.Combine(folder, name);
        var song = Made("song.wav");
        File.WriteAllBytes(song, new byte[SongBytes]);
        var copies = Directory.CreateDirectory(Path.Combine(folder, "large")).FullName;
        var large = Enumerable.Range(0, Large).Select(n => Path.Combine(copies, $"{n:000}.wav")).ToList();
        large.ForEach(l => Tool("ln", folder, song, l));
        var stored = Figures.Fastest(1, () => Pack(runner, Made("large.zip"), large.Select(l => Entry(l, isPacked: false))), () => File.Delete(Made("large.zip")));
        Figures.Row($"a bundle of {large.Sum(l => new FileInfo(l).Length) / 1e9:0.0} GB, sound as it is", stored, "", null, "");
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| the process held at most | {Held()} MB | | | | at most 300 MB |"));
        var small = Directory.CreateDirectory(Path.Combine(folder, "small")).FullName;
        Enumerable.Range(0, Many).ToList().ForEach(n => File.WriteAllText(Path.Combine(small, $"note {n:00000}.txt"), $"a few words, and a number: {n}"));
        var many = Figures.Fastest(1, () => Pack(runner, Made("many.zip"), Directory.EnumerateFiles(small).Select(l => Entry(l, isPacked: false))), () => File.Delete(Made("many.zip")));
        Figures.Row($"a bundle of {Many} files", many, "", null, "");
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| the process held at most | {Held()} MB | | | | at most 300 MB |"));
    }

    private static long Held()
    {
        using var process = Process.GetCurrentProcess();
        return process.PeakWorkingSet64 / 1_000_000;
    }

    private static BundleEntry Entry(string path, bool isPacked)
    {
        var whole = new WholeFile(path, FileState.Of(path));
        return isPacked
            ? new BundleEntry($"Low Water/Audio/{Path.GetFileNameWithoutExtension(path)}.flac", new PackedSound(whole, Path.GetExtension(path)), whole.Expected.Bytes, default)
            : new BundleEntry($"Low Water/Audio/{Path.GetFileName(path)}", whole, whole.Expected.Bytes, default);
    }

    private static void Pack(Runner runner, string destination, IEnumerable<BundleEntry> entries)
    {
        var contents = new BundleContents("Low Water", [.. entries], [], ImmutableArray<KeyValuePair<string, string>>.Empty, "slip\n"u8.ToArray(), "{}"u8.ToArray(), DateTimeOffset.UnixEpoch);
        var result = runner.Apply(new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Bundle,
            Sentence = "",
            WritableRoots = [Path.GetDirectoryName(destination)!],
            Steps = [new PackBundleStep(destination, "", contents)],
        });
        if (result.Outcome != PlanOutcome.Applied)
        {
            throw new InvalidOperationException($"The bundle was not packed: {result.Cause}");
        }
    }

    private static void Tool(string tool, string folder, params string[] arguments)
    {
        using var process = Process.Start(new ProcessStartInfo(tool, arguments) { WorkingDirectory = folder })!;
        process.WaitForExit();
        if (process.ExitCode != 0)
        {
            throw new InvalidOperationException($"{tool} ended with {process.ExitCode}.");
        }
    }
}
