using System.Globalization;
using System.IO.Compression;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Bench;

/// <summary>The application as the relinking page asks it: the answer after one identity was noted, and what a bundle of very many files on a shelf takes in memory.</summary>
internal static class RelinkAgainBench
{
    private const int Sessions = 17;
    private const int Missing = 200;
    private const int Packed = 60_000;

    public static void Run(string folder)
    {
        var library = Directory.CreateDirectory(Path.Combine(folder, "library")).FullName;
        var drive = Directory.CreateDirectory(Path.Combine(folder, "drive")).FullName;
        for (var s = 0; s < Sessions; s++)
        {
            Session(Path.Combine(drive, $"song {s:00}"), library, s);
        }
        using var app = AppProcess.Start(Path.Combine(folder, "data"), "--no-demo");
        var shelf = app.AddShelf("Drive", "SessionDrive", drive, default).GetAwaiter().GetResult();
        app.AddShelf("Library", "OwnLibrary", library, default).GetAwaiter().GetResult();
        app.ScansOver(default).GetAwaiter().GetResult();
        for (var s = 0; s < Sessions; s++)
        {
            app.Adopt(shelf, $"song {s:00}", default).GetAwaiter().GetResult();
        }
        List<string> pages = [.. Get(app, "/api/sessions").AsArray().Select(s => $"/api/sessions/{s!["id"]!.GetValue<string>()}/relink")];
        Figures.Row($"relink, first answer for one of {Sessions} sessions with {Sessions * Missing:N0} missing files, those that moved along in the others counted", Figures.Seconds(() => Get(app, pages[0])), "", null, "");
        pages.ForEach(p => Get(app, p));
        Figures.Row("the same, nothing changed", Figures.Fastest(5, () => Get(app, pages[0])), "", null, "");
        var at = 0;
        Figures.Row("the same after the identities of two files were noted", Figures.Fastest(5, () => Get(app, pages[0]), () => Read(app, pages[++at])), "", null, "at most 0.050 s");
        var before = app.Memory;
        Bundle(Path.Combine(drive, "large.zip"));
        // It is read within a second after it appeared.
        Thread.Sleep(TimeSpan.FromSeconds(10));
        pages.ForEach(p => Get(app, p));
        Thread.Sleep(TimeSpan.FromSeconds(5));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| more memory with a bundle of {Packed:N0} files on a shelf, {Sessions} sessions asked | {(app.Memory - before) / 1e6:0} MB | | | at most 20 MB |"));
    }

    /// <summary>A session that misses files which stand elsewhere in the library; one of them twice, so that reading tells.</summary>
    private static void Session(string folder, string library, int number)
    {
        var document = SessionDocument.Create(Guid.NewGuid(), Path.GetFileName(folder), new SessionSettings(), SessionLayout.Default, ["Cello"]);
        for (var n = 0; n < Missing; n++)
        {
            var name = $"tide {number:00} {n:000}.wav";
            Sound(Path.Combine(library, "moved", $"set {number:00}", name), 480 + n);
            ClipBuilder.Place(document.Root, "Cello", new ClipToPlace($"{n}", MediaUrl.From(Path.Combine(library, "before", $"set {number:00}", name), folder), 48000, 480 + n, 0, 480));
        }
        Sound(Path.Combine(library, "again", $"tide {number:00} 000.wav"), 480);
        Directory.CreateDirectory(folder);
        File.WriteAllBytes(Path.Combine(folder, Path.GetFileName(folder) + ".otio"), document.ToUtf8());
    }

    private static void Sound(string path, int samples)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        using (var stream = File.Create(path))
        using (var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24)))
        {
            writer.Write(new int[samples].Select((_, n) => (n * 997) + path.Length + samples).ToArray());
        }
        File.SetLastWriteTimeUtc(path, new DateTime(2026, 10, 1, 12, 0, samples % 60, DateTimeKind.Utc));
    }

    private static void Bundle(string path)
    {
        using var archive = ZipFile.Open(path, ZipArchiveMode.Create);
        var manifest = new StringBuilder();
        for (var n = 0; n < Packed; n++)
        {
            archive.CreateEntry($"bag/data/song/Audio/part {n / 500:000}/gull {n:00000}.wav", CompressionLevel.NoCompression);
            manifest.Append(CultureInfo.InvariantCulture, $"{n:x128}  data/song/Audio/part {n / 500:000}/gull {n:00000}.wav\n");
        }
        using var stream = archive.CreateEntry("bag/manifest-sha512.txt").Open();
        stream.Write(Encoding.UTF8.GetBytes(manifest.ToString()));
    }

    private static void Read(AppProcess app, string page)
    {
        using var answer = app.Client.PostAsync(new Uri($"{page}/read", UriKind.Relative), null).GetAwaiter().GetResult();
        answer.EnsureSuccessStatusCode();
        var job = answer.Content.ReadFromJsonAsync<JsonNode>().GetAwaiter().GetResult()!["id"]!.GetValue<string>();
        while (Get(app, $"/api/jobs/{job}")["state"]!.GetValue<string>() is "Running" or "Waiting" or "Queued")
        {
            Thread.Sleep(20);
        }
    }

    private static JsonNode Get(AppProcess app, string path) => app.Client.GetFromJsonAsync<JsonNode>(new Uri(path, UriKind.Relative)).GetAwaiter().GetResult()!;
}
