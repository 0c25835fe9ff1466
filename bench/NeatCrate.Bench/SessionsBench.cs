using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Bench;

/// <summary>The application as pages ask it, in a process of its own: the loading bay, a large session, and what it costs at rest.</summary>
internal static class SessionsBench
{
    private const int Looks = 10;

    public static void LoadingBay(string folder)
    {
        using var app = Start(folder, sessions: 200, files: 100);
        Get(app, "/api/sessions");
        Row("loading bay of 200 sessions of 100 files, nothing changed", Figures.Fastest(Looks, () => Get(app, "/api/sessions")), "at most 0.050 s");
        var n = 0;
        Row(
            "the same after one file came", Figures.Fastest(Looks, () => Get(app, "/api/sessions"), () => Sound(Path.Combine(folder, "drive", "song 007", "Audio", $"new {n++}.wav"))), "at most 0.150 s");
    }

    /// <summary>A drive full of sessions, half of them of programs that nobody knows: scanned, found, adopted together, and the loading bay with all of them.</summary>
    public static void Found(string folder)
    {
        const int Sessions = 1_000;
        const int Files = 300;
        var drive = Path.Combine(folder, "drive");
        for (var s = 0; s < Sessions; s++)
        {
            Session(Path.Combine(drive, $"{2000 + (s % 20)}", $"song {s:0000}"), Files, isRead: s % 2 == 0);
        }
        using var app = AppProcess.Start(Path.Combine(folder, "data"), "--no-demo");
        var shelf = app.AddShelf("Drive", "SessionDrive", drive, default).GetAwaiter().GetResult();
        var scan = Figures.Seconds(() => app.ScansOver(default).GetAwaiter().GetResult());
        JsonNode Over(string path, object? body) => app.JobOver(app.Post(path, body, default).GetAwaiter().GetResult(), default).GetAwaiter().GetResult();
        Figures.Row(
            $"{Sessions:N0} sessions of {Files} files found, half of them of unknown programs", Figures.Seconds(() => Over($"/api/adopt/found/{shelf}", null)), "the scan before", scan, "at most 2");
        var paths = Json(app, $"/api/adopt/found/{shelf}")["found"]!.AsArray().Select(f => f!["path"]!.GetValue<string>()).ToArray();
        if (paths.Length != Sessions)
        {
            throw new InvalidOperationException($"{paths.Length} sessions were found.");
        }
        Row("the same adopted together", Figures.Seconds(() => Over("/api/adopt/many", new { shelfId = shelf, paths })), "at most 60 s");
        var bytes = Page(app, ["/api/sessions"]);
        Row($"loading bay of {Sessions:N0} sessions, {bytes:N0} bytes as sent", Figures.Fastest(Looks, () => Page(app, ["/api/sessions"])), "at most 0.100 s and 100,000 bytes");
        var n = 0;
        Row("the same after one file came", Figures.Fastest(Looks, () => Page(app, ["/api/sessions"]), () => Sound(Path.Combine(drive, "2007", "song 0007", "Audio", $"new {n++}.wav"))), "at most 0.150 s");
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| memory with them | {Memory(app) / 1_000_000} MB | | | at most 600 MB |"));
        Thread.Sleep(TimeSpan.FromSeconds(60));
        var before = app.ProcessorTime;
        Thread.Sleep(TimeSpan.FromSeconds(20));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| at rest with them | {5 * (app.ProcessorTime - before).TotalSeconds:0.00} % of a core | | | at most 1 % |"));
    }

    public static void Large(string folder)
    {
        const int Files = 50_000;
        using var app = Start(folder, sessions: 1, files: Files);
        var session = Json(app, "/api/sessions")[0]!["id"]!.GetValue<string>();
        string[] page = [$"/api/sessions/{session}", $"/api/sessions/{session}/files"];
        var bytes = page.Sum(p => Get(app, p));
        Row($"session of {Files:N0} files: first page, {bytes:N0} bytes", Figures.Fastest(Looks, () => Page(app, page)), "at most 0.100 s and 200,000 bytes");
        var n = 0;
        var told = 0L;
        var seconds = Figures.Fastest(
            Looks, () => told = Page(app, page), () => Sound(Path.Combine(folder, "drive", "song 000", "Audio", $"new {n++}.wav")));
        Row($"the same after one file came, {told:N0} bytes as sent", seconds, "at most 2 s and 20,000 bytes");
        Row("the last page of the same", Figures.Fastest(Looks, () => Get(app, $"{page[1]}?skip={Files - 100}")), "at most 0.100 s");
        Row("another order, asked for the first time", Figures.Fastest(1, () => Get(app, $"{page[1]}?order=Name")), "");
        var outside = Json(app, $"{page[1]}?segment=Outside.Placed")["files"]![0]!["id"]!.GetValue<string>();
        var taken = false;
        Row("marking one", Figures.Fastest(Looks, () => Post(app, $"{page[0]}/copy-in/marks", new { fileIds = new[] { outside }, taken }), () => taken = !taken), "at most 0.050 s");
        Parallel.For(0, 8, _ => Page(app, page));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| memory after eight looks at once | {Memory(app) / 1_000_000} MB | | | at most 600 MB |"));
    }

    public static void AtRest(string folder)
    {
        AtRest(Path.Combine(folder, "many"), 20, 1_000, 0, "at most 0.5 %");
        AtRest(Path.Combine(folder, "top"), 1, 100, 20_000, "at most 1 %");
    }

    private static void AtRest(string folder, int sessions, int files, int atTop, string goal)
    {
        var drive = Directory.CreateDirectory(Path.Combine(folder, "drive", "song 000")).FullName;
        for (var n = 0; n < atTop; n++)
        {
            File.WriteAllText(Path.Combine(drive, $"note {n:00000}.txt"), "x");
        }
        using var app = Start(folder, sessions, files);
        Get(app, "/api/sessions");
        // What is compiled at first is compiled better when it was used for a while; that is no rest yet.
        Thread.Sleep(TimeSpan.FromSeconds(60));
        var before = app.ProcessorTime;
        Thread.Sleep(TimeSpan.FromSeconds(20));
        var share = (app.ProcessorTime - before).TotalSeconds / 20;
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| at rest with {sessions} sessions of {files:N0} files{(atTop > 0 ? $", {atTop:N0} more at the top" : "")} | {100 * share:0.00} % of a core | | | {goal} |"));
    }

    private static void Row(string what, double seconds, string goal) => Figures.Row(what, seconds, "", null, goal);

    private static long Memory(AppProcess app) => app.Memory;

    private static long Get(AppProcess app, string path)
    {
        using var answer = app.Client.GetAsync(new Uri(path, UriKind.Relative)).GetAwaiter().GetResult();
        answer.EnsureSuccessStatusCode();
        return answer.Content.ReadAsByteArrayAsync().GetAwaiter().GetResult().LongLength;
    }

    /// <summary>What a page asks for when it is opened, packed as a browser asks for it.</summary>
    private static long Page(AppProcess app, string[] parts)
    {
        var bytes = 0L;
        foreach (var part in parts)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, new Uri(part, UriKind.Relative));
            request.Headers.AcceptEncoding.ParseAdd("gzip, deflate, br");
            using var answer = app.Client.SendAsync(request).GetAwaiter().GetResult();
            answer.EnsureSuccessStatusCode();
            bytes += answer.Content.ReadAsByteArrayAsync().GetAwaiter().GetResult().LongLength;
        }
        return bytes;
    }

    private static void Post(AppProcess app, string path, object body)
    {
        using var answer = app.Client.PostAsJsonAsync(path, body).GetAwaiter().GetResult();
        answer.EnsureSuccessStatusCode();
    }

    private static JsonNode Json(AppProcess app, string path) => app.Client.GetFromJsonAsync<JsonNode>(path).GetAwaiter().GetResult()!;

    private static AppProcess Start(string folder, int sessions, int files)
    {
        var drive = Directory.CreateDirectory(Path.Combine(folder, "drive")).FullName;
        for (var s = 0; s < sessions; s++)
        {
            Session(Path.Combine(drive, $"song {s:000}"), files);
        }
        var app = AppProcess.Start(Path.Combine(folder, "data"), "--no-demo");
        var shelf = app.AddShelf("Drive", "SessionDrive", drive, default).GetAwaiter().GetResult();
        app.ScansOver(default).GetAwaiter().GetResult();
        for (var s = 0; s < sessions; s++)
        {
            app.Adopt(shelf, $"song {s:000}", default).GetAwaiter().GetResult();
        }
        return app;
    }

    /// <summary>A session with half of its files placed, a fifth listed, and the rest strays.</summary>
    private static void Session(string folder, int files, bool isRead = true)
    {
        var document = SessionDocument.Create(Guid.NewGuid(), Path.GetFileName(folder), new SessionSettings(), SessionLayout.Default, ["Cello"]);
        for (var n = 0; n < files; n++)
        {
            var path = Path.Combine(folder, "Audio", $"part {n / 500:000}", $"Cello {n:00000}.wav");
            Sound(path);
            if (n % 10 < 5)
            {
                ClipBuilder.Place(document.Root, "Cello", new ClipToPlace($"{n}", MediaUrl.From(path, folder), 48000, 480, 0, 480));
            }
            else if (n % 10 < 7)
            {
                ClipBuilder.List(document.Root, MediaUrl.From(path, folder), 480, 48000);
            }
        }
        if (!isRead)
        {
            File.WriteAllText(Path.Combine(folder, "song.loft"), string.Concat(Enumerable.Range(0, files - 3).Select(n => $"<sound from=\"{n}\" file=\"Audio/part 000/Cello {n:00000}.wav\"/>")) + $"<!-- {folder} -->");
            return;
        }
        // One that stands outside, to be marked.
        var sample = Path.Combine(folder, "..", "Samples", "sample.wav");
        Sound(sample);
        ClipBuilder.Place(document.Root, "Cello", new ClipToPlace("sample", MediaUrl.From(Path.GetFullPath(sample), folder), 48000, 480, 0, 480));
        File.WriteAllBytes(Path.Combine(folder, Path.GetFileName(folder) + ".otio"), document.ToUtf8());
    }

    private static readonly byte[] Tone = MakeTone();

    private static byte[] MakeTone()
    {
        using var stream = new MemoryStream();
        using (var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24)))
        {
            writer.Write([.. Enumerable.Range(0, 480).Select(n => n * 1000)]);
        }
        return stream.ToArray();
    }

    private static void Sound(string path)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllBytes(path, Tone);
    }
}
