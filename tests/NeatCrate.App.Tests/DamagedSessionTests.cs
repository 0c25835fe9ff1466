using System.Net;
using System.Text;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>One damaged session, document or file harms no other, and can be taken off the list again.</summary>
public sealed class DamagedSessionTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(1, 4800);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private string Folder(string name) => Directory.CreateDirectory(Path.Combine(_session.Drive, name)).FullName;

    public static TheoryData<string> Damages => new()
    {
        """{"OTIO_SCHEMA":"Timeline.1","name":"x","metadata":{"neat_crate":{"session_id":"\ud800"}}}""",
        """{"OTIO_SCHEMA":"Timeline.1","name":"x","metadata":{"neat_crate":{"session_id":"BYTE"}}}""",
        """{"OTIO_SCHEMA":"Timeline.1","name":"x","metadata":{"neat_crate":{"sample_rate":48000,"time_signature":"\udfff","mirror_shelf":"\ud800"}}}""",
        """{"OTIO_SCHEMA":"Timeline.1","name":"x","metadata":{"neat_crate":{"folders":{"audio":"\ud800","others":["BYTE"]}}}}""",
        """{"OTIO_SCHEMA":"Timeline.1","\ud800":1,"tracks":[],"global_start_time":{"rate":1,"value":1e308}}""",
        """{"OTIO_SCHEMA":"Timeline.1","name":"\ud800","tracks":null,"metadata":{"neat_crate":{"sample_rate":1e300,"tempo":1e400,"bit_depth":-4}}}""",
        """[[[[""",
        "",
    };

    [Theory]
    [MemberData(nameof(Damages))]
    public async Task ADamagedDocumentTakesNothingElseDown(string content)
    {
        var bytes = Encoding.UTF8.GetBytes(content);
        if (content.IndexOf("BYTE", StringComparison.Ordinal) is > 0 and var at)
        {
            bytes[at] = 0xFF;
        }
        await File.WriteAllBytesAsync(Path.Combine(Folder("damaged"), "x.otio"), bytes, Cancel);
        await App.Post("/api/adopt/look", new { shelfId = _session.DriveId, path = "damaged" }, Cancel);
        var id = await App.Adopt(_session.DriveId, "damaged", Cancel);
        foreach (var path in new[] { "/api/sessions", "/api/shelves", "/api/shelves/needs", $"/api/sessions/{_session.Id}", $"/api/sessions/{id}", $"/api/sessions/{id}/record", $"/api/sessions/{id}/history" })
        {
            using var answer = await App.Client.GetAsync(path, Cancel);
            Assert.True(answer.IsSuccessStatusCode, $"{path}: {await answer.Content.ReadAsStringAsync(Cancel)}");
        }
        Assert.Equal(2, (await App.Get("/api/sessions", Cancel)).AsArray().Count);
        // What is asked of it works, or is refused with a sentence.
        foreach (var (path, body) in new (string, object)[]
        {
            ("copy-in/plan", new { }), ("version/plan", new { naming = "NextNumber", archiveOlder = true }), ("record/takes/plan", new { leftOut = Array.Empty<string>() }),
            ("bundles/plan", new { shelfId = _session.OutboxId, path = "" }),
        })
        {
            using var answer = await App.Client.PostAsync($"/api/sessions/{id}/{path}", System.Net.Http.Json.JsonContent.Create(body), Cancel);
            Assert.True((int)answer.StatusCode is < 500, $"{path}: {answer.StatusCode} {await answer.Content.ReadAsStringAsync(Cancel)}");
        }
        using var forgotten = await App.Client.DeleteAsync($"/api/sessions/{id}", Cancel);
        Assert.True(forgotten.IsSuccessStatusCode);
        Assert.Single((await App.Get("/api/sessions", Cancel)).AsArray());
    }

    public static TheoryData<string> SenselessPointers => new()
    {
        "", ".", "..", "/", "//", "file:", "file:///", "file://", "file://elsewhere/a.wav", "http://elsewhere/a.wav", "%", "%00.wav", "%zz.wav", "%ff%fe.wav", "\\u0000", "a\\u0000b.wav", "\\ud800.wav",
        "../../../../../../../../etc/passwd", "Audio/", "Audio//..", "Audio/../../..", "C:\\\\takes\\\\a.wav", "?", "#", "a.wav?b=c#d", " ", "\\n", new string('x', 5000), new string('/', 5000),
    };

    /// <summary>Pointers to nothing that could be a file: whatever is asked of the session is answered, at once and when the document is saved again.</summary>
    [Theory]
    [MemberData(nameof(SenselessPointers))]
    public async Task APointerThatMakesNoSenseBreaksNothing(string target)
    {
        var document = Path.Combine(Folder("senseless"), "x.otio");
        Task Save(int n) => File.WriteAllTextAsync(
            document,
            $$$$"""{"OTIO_SCHEMA":"Timeline.1","name":"x{{{{n}}}}","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Audio","name":"Cello","children":[{"OTIO_SCHEMA":"Clip.1","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"{{{{target}}}}"}}]}]}}""",
            Cancel);
        await Save(0);
        await App.Post("/api/adopt/look", new { shelfId = _session.DriveId, path = "senseless" }, Cancel);
        var id = await App.Adopt(_session.DriveId, "senseless", Cancel);
        for (var n = 1; n <= 2; n++)
        {
            foreach (var path in new[] { "", "/files", "/copy-in", "/relink", "/purge", "/purge/files?everything=true", "/purge/trim", "/backups", "/backups/safety", "/bundles", "/history" })
            {
                using var answer = await App.Client.GetAsync($"/api/sessions/{id}{path}", Cancel);
                Assert.True(answer.IsSuccessStatusCode, $"{path}: {await answer.Content.ReadAsStringAsync(Cancel)}");
            }
            foreach (var (path, body) in new (string, object)[]
            {
                ("copy-in/plan", new { }), ("bundles/plan", new { shelfId = _session.OutboxId, path = "" }), ("backups/keep", new { note = "now" }),
            })
            {
                using var answer = await App.Client.PostAsync($"/api/sessions/{id}/{path}", System.Net.Http.Json.JsonContent.Create(body), Cancel);
                Assert.True((int)answer.StatusCode is < 500, $"{path}: {answer.StatusCode} {await answer.Content.ReadAsStringAsync(Cancel)}");
            }
            await Save(n);
        }
    }

    [Fact]
    public async Task AFolderThatCannotBeOpenedIsNotPutOnTheList()
    {
        // A link in place of a folder leads out of the shelf; nothing of it is known afterwards.
        Directory.CreateSymbolicLink(Path.Combine(_session.Drive, "elsewhere"), "/etc");
        Assert.Equal(400, (await App.PostRefused("/api/adopt", new { shelfId = _session.DriveId, path = "elsewhere" }, Cancel)).Status);
        Assert.Single((await App.Get("/api/sessions", Cancel)).AsArray());
    }

    /// <summary>A recorder that is given settings that no recorder knows makes no file.</summary>
    [Theory]
    [InlineData("\"sample_rate\": 2147483647, \"bit_depth\": 24")]
    [InlineData("\"sample_rate\": 48000, \"bit_depth\": 999")]
    [InlineData("\"sample_rate\": -1, \"bit_depth\": -1")]
    public async Task AbsurdSettingsLeaveNoFilesOfARecording(string settings)
    {
        var folder = Folder("absurd");
        await File.WriteAllTextAsync(
            Path.Combine(folder, "x.otio"),
            $$$"""{"OTIO_SCHEMA":"Timeline.1","name":"x","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Audio","name":"Cello","children":[]}]},"metadata":{"neat_crate":{ {{{settings}}} } } }""",
            Cancel);
        var id = await App.Adopt(_session.DriveId, "absurd", Cancel);
        var choice = new { tracks = new[] { "Cello" }, seconds = 0.5, fromSeconds = 0, pass = (int?)null, speed = 50, cutPowerAfter = (double?)null };
        using var answer = await App.Client.PostAsync($"/api/sessions/{id}/record/start", System.Net.Http.Json.JsonContent.Create(choice), Cancel);
        Assert.NotEqual(HttpStatusCode.InternalServerError, answer.StatusCode);
        if (!answer.IsSuccessStatusCode)
        {
            Assert.Equal(["x.otio"], Directory.GetFiles(folder, "*", SearchOption.AllDirectories).Select(Path.GetFileName));
            return;
        }
        // Settings of use were taken in their place: what is recorded then can be read.
        await App.Until("/api/recording", r => r["recording"] is null || r["recording"]!["state"]!.GetValue<string>() == "Finished", Cancel);
        Assert.All(Directory.GetFiles(folder, "*.wav", SearchOption.AllDirectories), f => Tool.Run("soxi", f));
    }
}
