using System.Diagnostics;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.Bench;

/// <summary>1,000 missing files against catalogues of 10,000, 100,000 and 500,000: how soon all of them are judged, and what that holds in memory.</summary>
internal static class RelinkBench
{
    private const int Missing = 1_000;
    private const int FilesInEach = 50;
    private const int Walks = 20;

    private static readonly string[] Kinds = ["bottle", "rope", "gravel", "mallet", "tin", "gull", "harbour", "bell", "plank", "chain"];

    public static void Run(string folder)
    {
        foreach (var rows in new[] { 10_000, 100_000, 500_000 })
        {
            Judge(Path.Combine(folder, $"{rows}"), rows);
        }
    }

    private static void Judge(string folder, int rows)
    {
        using var files = StoreFiles.Open(folder);
        var (catalogue, identities) = (new Catalogue(files, TimeProvider.System), new KeptIdentities(files, TimeProvider.System));
        var shelf = new Shelf(Guid.NewGuid(), "Library", ShelfKind.OwnLibrary, Directory.CreateDirectory(Path.Combine(folder, "library")).FullName);
        using (var scan = catalogue.BeginScan(shelf.Id))
        {
            for (var f = 0; f < rows / FilesInEach; f++)
            {
                scan.Put(new ScannedFolder($"moved/set {f % 40:00}/day {f:00000}", (UInt128)f, null, [.. Enumerable.Range(0, FilesInEach).Select(n => Sound(f, n))], [], []));
            }
            scan.End();
        }
        var lost = Enumerable.Range(0, Missing).Select(n => Lost(shelf, n * (rows / Missing))).ToList();
        catalogue.GetReady();
        var before = Held();
        var cold = Figures.Seconds(() => All(lost[..1]));
        var all = Figures.Fastest(5, () => All(lost));
        Figures.Row($"first answer of {Missing:N0} missing files among {rows:N0}, cold", cold, "", null, rows == 100_000 ? "at most 0.300 s" : "");
        Figures.Row($"all {Missing:N0} of them", all, "", null, rows == 100_000 ? "at most 1.000 s" : "");
        if (rows == 100_000)
        {
            BesideOthers(shelf, rows, all);
        }
        Console.WriteLine($"held for it: {(Held() - before) / 1e6:0} MB; certain: {All(lost).Count(m => m.Best is { IsCertain: true })} of {Missing}");

        IReadOnlyList<Matches> All(List<LostFile> some) =>
            FolderMoves.Along([.. some.Zip(new CatalogueSuggestions(catalogue, identities, [shelf]).Suggest(some), (l, found) => Matcher.Of(l, found))]);
    }

    /// <summary>What else finds files that moved: one find(1) by name for each, or reading everything with sha1sum(1), as who looks for equal files does.</summary>
    private static void BesideOthers(Shelf shelf, int rows, double all)
    {
        for (var f = 0; f < rows / FilesInEach; f++)
        {
            var day = Directory.CreateDirectory(Path.Combine(shelf.Root, $"moved/set {f % 40:00}/day {f:00000}")).FullName;
            for (var n = 0; n < FilesInEach; n++)
            {
                File.WriteAllBytes(Path.Combine(day, NameOf(f, n)), new byte[FactsOf(f, n).Bytes]);
            }
        }
        var walks = Figures.Fastest(2, () =>
        {
            for (var n = 0; n < Walks; n++)
            {
                Tool.Run("find", shelf.Root, "-name", NameOf(n, n));
            }
        });
        Figures.Row($"the same against {Walks} of them by name", all, "`find -name`, once for each", walks, "");
        var hashing = Figures.Seconds(() => Tool.Run("sh", "-c", $"find '{shelf.Root}' -type f -print0 | xargs -0 sha1sum > /dev/null"));
        Figures.Row("the same against reading everything, 5 kB each", all, "`sha1sum` of all", hashing, "");
        Directory.Delete(shelf.Root, recursive: true);
    }

    private static long Held()
    {
        GC.Collect();
        using var process = Process.GetCurrentProcess();
        return process.WorkingSet64;
    }

    private static string NameOf(int folder, int n) => $"{Kinds[n % Kinds.Length]} {((folder * 31) + n) % 5000:00000}.wav";

    private static (long Bytes, DateTime Changed, long Samples) FactsOf(int folder, int n) =>
        (4800 + (folder * 7 % 1000) + n, DateTime.UnixEpoch.AddSeconds((folder * 100L) + n).AddTicks(1_234_567), 4800 + ((folder * 13) + n) % 90_000);

    private static ScannedFile Sound(int folder, int n)
    {
        var (bytes, changed, samples) = FactsOf(folder, n);
        return new ScannedFile(new FolderFile(NameOf(folder, n), bytes, changed, n, true), MediaKind.Audio, new ScannedSound("WAV", 48000, 1, 24, samples, ""), null);
    }

    private static LostFile Lost(Shelf shelf, int at)
    {
        var (folder, n) = (at / FilesInEach, at % FilesInEach);
        var (bytes, changed, samples) = FactsOf(folder, n);
        return new LostFile(
            Path.Combine(shelf.Root, $"before/set {folder % 40:00}/day {folder:00000}", NameOf(folder, n)), new KnownFile(bytes, changed, "WAV", 48000, 1, 24, samples), NotedIdentities.None, null, null, "/sessions/one");
    }
}
