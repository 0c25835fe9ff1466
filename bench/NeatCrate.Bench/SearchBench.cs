using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.Bench;

/// <summary>Searches among 500,000 files of the catalogue: the first and the last page, of little and of much, and twenty at once.</summary>
internal static class SearchBench
{
    private const int Folders = 10_000;
    private const int FilesInEach = 50;
    private const int Runs = 10;
    private const int AtOnce = 20;

    private static readonly string[] Kinds = ["bottle", "rope", "gravel", "mallet", "tin", "gull", "harbour", "bell", "plank", "chain"];

    public static void Run(string folder)
    {
        using var files = StoreFiles.Open(folder);
        var catalogue = new Catalogue(files, TimeProvider.System);
        using (var scan = catalogue.BeginScan(Guid.NewGuid()))
        {
            for (var f = 0; f < Folders; f++)
            {
                scan.Put(new ScannedFolder($"{Kinds[f % Kinds.Length]} set {f % 40:00}/day {f:00000}", (UInt128)f, null, [.. Enumerable.Range(0, FilesInEach).Select(n => Sound(f, n))], [], []));
            }
            scan.End();
        }
        Figures.Row("making ready for searches among 500,000 files", Figures.Seconds(catalogue.GetReady), "", null, "");
        const int Last = (Folders * FilesInEach) - 100;
        Pages("all of them", new CatalogueQuery { Take = 100 }, Last);
        Pages("all of them by length", new CatalogueQuery { Take = 100, Order = CatalogueOrder.Length }, Last);
        Pages("“wav”, which all of them hold", new CatalogueQuery { Take = 100, Text = "wav" }, Last);
        Pages("“bottle 7”, which many hold", new CatalogueQuery { Take = 100, Text = "bottle 7" }, 1000);
        Pages("“mallet 00421”, which few hold", new CatalogueQuery { Take = 100, Text = "mallet 00421" }, 0);
        var slowest = 0.0;
        Parallel.For(0, AtOnce, new ParallelOptions { MaxDegreeOfParallelism = AtOnce }, n =>
        {
            var seconds = Figures.Seconds(() => catalogue.Find(new CatalogueQuery { Text = $"{Kinds[n % Kinds.Length]} {n}", Take = 100, Order = (CatalogueOrder)(n % 7) }));
            lock (Kinds)
            {
                slowest = Math.Max(slowest, seconds);
            }
        });
        Figures.Row("twenty searches at once, the slowest", slowest, "", null, "at most 0.500 s");
        var day = 0;
        Figures.Row("the next search after a folder changed", Figures.Fastest(Runs, () => catalogue.Find(new CatalogueQuery { Text = "gull", Take = 100 }), Change), "", null, "at most 0.100 s");

        void Change()
        {
            using var scan = catalogue.BeginScan(Guid.NewGuid());
            scan.Put(new ScannedFolder($"new day {day}", 1, null, [Sound(0, day++)], [], []));
            scan.End();
        }

        void Pages(string what, CatalogueQuery query, int last)
        {
            catalogue.Find(query);
            Figures.Row($"{what}: first page", Figures.Fastest(Runs, () => catalogue.Find(query)), "", null, "at most 0.100 s");
            Figures.Row($"{what}: last page", Figures.Fastest(Runs, () => catalogue.Find(query with { Skip = last })), "", null, "at most 0.100 s");
        }
    }

    private static ScannedFile Sound(int folder, int n) => new(
        new FolderFile($"{Kinds[n % Kinds.Length]} {((folder * 31) + n) % 1000:00000}.wav", 4800 + (folder * 7 % 1000), DateTime.UnixEpoch.AddSeconds(folder), n, true),
        MediaKind.Audio, new ScannedSound("WAV", 48000, 1, 24, 4800 + ((folder * 13) + n) % 9000, ""), null);
}
