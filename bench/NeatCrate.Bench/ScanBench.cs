using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.Bench;

/// <summary>A shelf of 100,000 audio files, scanned into the catalogue for the first and for the second time, against find(1) on the same tree.</summary>
internal static class ScanBench
{
    private const int Folders = 2_000;
    private const int FilesInEach = 50;
    private const int Runs = 15;

    public static void Run(string folder)
    {
        var shelf = Path.Combine(folder, "shelf");
        MakeShelf(shelf);
        Find(shelf);
        var data = 0;
        StoreFiles? files = null;
        try
        {
            void Fresh()
            {
                files?.Dispose();
                files = StoreFiles.Open(Path.Combine(folder, $"data {data++}"));
            }
            void Scan()
            {
                using var sink = new Catalogue(files!, TimeProvider.System).BeginScan(Guid.Empty);
                if (ShelfScanner.Scan(shelf, new HashSet<string>(), sink).Files != Folders * FilesInEach)
                {
                    throw new InvalidOperationException("Not every file was scanned.");
                }
                sink.End();
            }
            Fresh();
            Scan();
            // In turn, so that all three meet the machine in the same moods.
            var (find, first, second) = (double.MaxValue, double.MaxValue, double.MaxValue);
            for (var run = 0; run < Runs; run++)
            {
                find = Math.Min(find, Figures.Seconds(() => Find(shelf)));
                Fresh();
                first = Math.Min(first, Figures.Seconds(Scan));
                second = Math.Min(second, Figures.Seconds(Scan));
            }
            Figures.Row("first scan of 100,000 audio files, with headers, into the catalogue", first, "`find -printf`", find, "at most 3.5");
            Figures.Row("second scan, nothing changed", second, "`find -printf`", find, "at most 0.5");
        }
        finally
        {
            files?.Dispose();
        }
    }

    private static void MakeShelf(string shelf)
    {
        for (var d = 0; d < Folders; d++)
        {
            var folder = Directory.CreateDirectory(Path.Combine(shelf, $"set {d % 40:00}", $"day {d:0000}")).FullName;
            for (var f = 0; f < FilesInEach; f++)
            {
                using var stream = File.Create(Path.Combine(folder, $"hit {f:00}.wav"));
                using var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24));
                writer.Write(new int[100 + f]);
            }
        }
    }

    /// <summary>Size, time and inode of every file, as a scan needs them.</summary>
    private static void Find(string shelf) => Tool.Run("sh", "-c", $"find '{shelf}' -type f -printf '%p %s %T@ %i\\n' > /dev/null");
}
