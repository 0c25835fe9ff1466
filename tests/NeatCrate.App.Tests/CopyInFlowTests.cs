using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>The Copy-in station over the API: places, marks that are remembered, copying in by itself, the report.</summary>
public sealed class CopyInFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 4800);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Url => $"/api/sessions/{_session.Id}";

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<JsonNode[]> Files() => [.. (await App.Get($"{Url}/files", Cancel))["files"]!.AsArray().Select(f => f!)];

    private async Task Put(string url, object body)
    {
        using var response = await App.Client.PutAsJsonAsync(url, body, Cancel);
        Assert.True(response.IsSuccessStatusCode, $"{(int)response.StatusCode}");
    }

    private static int Copies(JsonNode plan) => plan["steps"]!.AsArray().Count(s => s!["verb"]!.GetValue<string>() == "copy");

    private static readonly string[] AudioOnly = ["Audio"];

    /// <summary>A kind that is left out is a dependency in every list, stays so over a restart, and out of bundles.</summary>
    [Fact]
    public async Task AKindStaysOutAtCopyInAndInBundles()
    {
        var kinds = (await App.Get($"{Url}/copy-in/kinds", Cancel)).AsArray().Where(k => k!["files"]!.GetValue<int>() > 0).Select(k => $"{k!["kind"]} {k["files"]}");
        Assert.Equal(["Audio 3"], kinds);
        await Put($"{Url}/copy-in", new { olderDocuments = true, byItself = false, leftOutKinds = AudioOnly });
        Assert.Equal(3, (await Files()).Count(f => f["leftOut"]!.GetValue<bool>()));
        Assert.Equal(0, Copies(await App.Post($"{Url}/copy-in/plan", null, Cancel)));
        _session.App.Dispose();
        _session.Restart();
        Assert.Equal(["Audio"], (await App.Get($"{Url}/copy-in", Cancel))["leftOutKinds"]!.AsArray().Select(k => k!.GetValue<string>()));
        var bundle = await App.Post($"{Url}/bundles/plan", new { shelfId = _session.OutboxId, path = "" }, Cancel);
        Assert.Contains("3 unavailable", bundle["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        await Put($"{Url}/copy-in", new { olderDocuments = true, byItself = false, leftOutKinds = AudioOnly[1..] });
        Assert.Equal(3, Copies(await App.Post($"{Url}/copy-in/plan", null, Cancel)));
    }

    [Fact]
    public async Task MarksAreRememberedAndWhatIsLeftOutIsADependencyNotAWorry()
    {
        var files = await Files();
        Assert.All(files, f => Assert.False(f["leftOut"]!.GetValue<bool>()));
        var from = Assert.Single((await App.Get(Url, Cancel))["origins"]!.AsArray())!;
        Assert.Equal(("OwnLibrary", "Loft samples", 3, 0), (from["origin"]!["kind"]!.GetValue<string>(), from["origin"]!["name"]!.GetValue<string>(), from["files"]!.GetValue<int>(), from["leftOut"]!.GetValue<int>()));
        var place = from["origin"]!["place"]!.GetValue<string>();
        string[] ids = [.. files.Select(f => f["id"]!.GetValue<string>())];
        await App.Post($"{Url}/copy-in/marks", new { place, fileIds = (string[]?)null, taken = false }, Cancel);
        Assert.Equal("No chosen file stands outside the session folder.", (await _session.PlanCopyIn(Cancel))["refusals"]![0]!.GetValue<string>());
        await App.Post($"{Url}/copy-in/marks", new { place = (string?)null, fileIds = ids[..1], taken = true }, Cancel);
        _session.App.Dispose();
        _session.Restart();
        Assert.Equal([false, true, true], (await Files()).Select(f => f["leftOut"]!.GetValue<bool>()));
        Assert.Equal("Done", (await App.Apply(await _session.PlanCopyIn(Cancel), Cancel))["state"]!.GetValue<string>());
        var session = (await App.Get(Url, Cancel))["session"]!;
        // What is inside is in no backup yet; what is left out by choice is no worry.
        Assert.Equal(("OnlyHere", "Everything is inside but 2 files left outside by choice, on 'Loft samples', nothing is missing."), (session["attention"]!.GetValue<string>(), LiveSession.Sentence(session)));
    }

    /// <summary>Who asked stands in the work and in the history.</summary>
    [Fact]
    public async Task WhoAskedIsWrittenDown()
    {
        Assert.Equal(Environment.UserName, (await App.Apply(await _session.PlanCopyIn(Cancel), Cancel))["by"]!.GetValue<string>());
        Assert.Equal(Environment.UserName, (await App.Get($"{Url}/history", Cancel))[0]!["by"]!.GetValue<string>());
    }

    [Fact]
    public async Task OlderVersionsCountByChoice()
    {
        // The newest version points at nothing any more; the older one still does.
        var current = SessionDocument.Create(Guid.NewGuid(), "261015 Net Mender", new SessionSettings(), SessionLayout.Default, ["Samples"]);
        File.WriteAllBytes(Path.Combine(_session.Folder, "261015 Net Mender.otio"), current.ToUtf8());
        Assert.Equal(3, Copies(await _session.PlanCopyIn(Cancel)));
        await Put($"{Url}/copy-in", new { olderDocuments = false, byItself = false });
        Assert.Equal(0, Copies(await _session.PlanCopyIn(Cancel)));
    }

    [Fact]
    public async Task ASessionThatIsSetSoCopiesInByItselfOnceAndNotAgainWhatWasTakenBack()
    {
        await Put($"{Url}/copy-in", new { olderDocuments = true, byItself = true });
        await App.Until($"{Url}/files", s => s["files"]!.AsArray().All(f => f!["standing"]!.GetValue<string>() == "Inside"), Cancel);
        var notice = await App.Until("/api/notices", n => n.AsArray().Count > 0, Cancel);
        Assert.Contains("'sample 00.wav', 'sample 01.wav', 'sample 02.wav'", notice[0]!["text"]!.GetValue<string>(), StringComparison.Ordinal);
        var applied = (await App.Until($"{Url}/history", h => h.AsArray().Count > 0, Cancel))[0]!;
        await App.Apply(await App.Post($"/api/plans/{applied["planId"]}/undo", null, Cancel), Cancel);
        // Long enough for the watch to look twice.
        await Task.Delay(2500, Cancel);
        Assert.All(await Files(), f => Assert.Equal("Outside", f["standing"]!.GetValue<string>()));
        // A new file that the document is saved with is another matter.
        var fresh = Path.Combine(_session.Library, "fresh.wav");
        Tool.Run("sox", "-n", "-r", "48000", "-b", "24", "-c", "1", fresh, "synth", "0.2", "sine", "300");
        var path = Path.Combine(_session.Folder, "261014 Net Mender.otio");
        var document = SessionDocument.ReadFile(path);
        ClipBuilder.Place(document.Root, "Samples", new ClipToPlace("fresh", MediaUrl.From(fresh, _session.Folder), 48000, 9600, 0, 9600));
        await File.WriteAllBytesAsync(path, document.ToUtf8(), Cancel);
        await App.Until($"{Url}/files", s => s["files"]!.AsArray().Count(f => f!["name"]!.GetValue<string>() == "fresh.wav") == 1
            && s["files"]!.AsArray().Any(f => f!["name"]!.GetValue<string>() == "fresh.wav" && f["standing"]!.GetValue<string>() == "Inside"), Cancel);
        Assert.Equal(3, (await Files()).Count(f => f["standing"]!.GetValue<string>() == "Outside"));
    }

    [Fact]
    public async Task ANewVersionNamesWhatStandsOutside()
    {
        var plan = await App.Post($"{Url}/version/plan", new { naming = "NextNumber", archiveOlder = false }, Cancel);
        Assert.Equal(
            "3 files stand outside the session, and the new version points there too: 'sample 00.wav', 'sample 01.wav' and 'sample 02.wav'.",
            Assert.Single(plan["warnings"]!.AsArray())!.GetValue<string>());
    }

    /// <summary>The report as Python's csv module reads it (RFC 4180).</summary>
    [Fact]
    public async Task TheReportIsReadByOthers()
    {
        Directory.CreateDirectory(Path.Combine(_session.Folder, "Audio"));
        File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(_session.Folder, "Audio", "=cmd, \"ü\".wav"));
        using var response = await App.Client.GetAsync(new Uri($"{Url}/inventory.csv", UriKind.Relative), Cancel);
        Assert.Equal("text/csv", response.Content.Headers.ContentType!.MediaType);
        Assert.StartsWith("261014 Net Mender inventory ", response.Content.Headers.ContentDisposition!.FileName!.Trim('"'), StringComparison.Ordinal);
        var path = Path.Combine(_session.Root, "report.csv");
        await File.WriteAllBytesAsync(path, await response.Content.ReadAsByteArrayAsync(Cancel), Cancel);
        var read = JsonNode.Parse(Tool.Run("python3", "-c", "import csv,json,sys; print(json.dumps(list(csv.DictReader(open(sys.argv[1], encoding='utf-8-sig', newline='')))))", path))!.AsArray();
        Assert.Equal(4, read.Count);
        var sample = read.Single(r => r!["Name"]!.GetValue<string>() == "sample 01.wav")!;
        Assert.Equal(
            ("Outside", "Placed", "1", "Loft samples", "48000", "4800", "0.100"),
            (sample["Standing"]!.GetValue<string>(), sample["Use"]!.GetValue<string>(), sample["Placed times"]!.GetValue<string>(), sample["Shelf"]!.GetValue<string>(),
                sample["Sample rate"]!.GetValue<string>(), sample["Length in samples"]!.GetValue<string>(), sample["Length in seconds"]!.GetValue<string>()));
        // A name that a spreadsheet would take for a formula is text.
        Assert.Contains(read, r => r!["Name"]!.GetValue<string>() == "'=cmd, \"ü\".wav");
    }
}
