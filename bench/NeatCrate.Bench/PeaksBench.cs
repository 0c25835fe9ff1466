using NeatCrate.Core.Media;

namespace NeatCrate.Bench;

/// <summary>The outline of five minutes of stereo at 48 kHz and 24 bit.</summary>
internal static class PeaksBench
{
    private const int Seconds = 300;
    private const int Rate = 48_000;

    public static void Run(string folder)
    {
        Directory.CreateDirectory(folder);
        var path = Path.Combine(folder, "mix.wav");
        using (var stream = File.Create(path))
        using (var writer = new WavWriter(stream, new PcmFormat(Rate, 2, 24)))
        {
            var random = new Random(3);
            for (var s = 0; s < Seconds; s++)
            {
                writer.Write([.. Enumerable.Range(0, 2 * Rate).Select(_ => random.Next(-8_000_000, 8_000_000))]);
            }
        }
        var header = MediaHeaderReader.ReadFile(path)!;
        var peaks = Figures.Fastest(5, () =>
        {
            using var reader = SoundReader.Open(path, header);
            Peaks.Of(reader);
        });
        Figures.Row("outline of 5 minutes, stereo, 24 bit, 48 kHz (86 MB)", peaks, "its own length", Seconds, "");
    }
}
