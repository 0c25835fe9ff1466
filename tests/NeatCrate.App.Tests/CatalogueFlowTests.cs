using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.App.Scans;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Shelves and their catalogue over the API: scanned, searched, heard, away, forgotten.</summary>
public sealed class CatalogueFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 4800);
    private string _libraryId = "";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        _libraryId = (await Shelf("Loft samples"))["id"]!.GetValue<string>();
        await App.Scan(_libraryId, Cancel);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<JsonNode> Shelf(string name) =>
        (await App.Get("/api/shelves", Cancel)).AsArray().Single(s => s!["name"]!.GetValue<string>() == name)!;

    private async Task<string[]> Search(string query) =>
        [.. (await App.Get($"/api/catalogue?{query}", Cancel))["files"]!.AsArray().Select(f => f!["path"]!.GetValue<string>())];

    [Fact]
    public async Task AShelfThatIsAddedIsScannedByItselfAndSaysWhatIsOnIt()
    {
        var kit = Path.Combine(_session.Root, "kit");
        Directory.CreateDirectory(kit);
        Tool.Run("sox", "-n", "-r", "44100", "-c", "2", Path.Combine(kit, "oar thump.flac"), "synth", "3", "sine", "90");
        File.WriteAllText(Path.Combine(kit, "broken.wav"), "RIFF");
        var id = await App.AddShelf("House kit", "StockContent", kit, Cancel);
        var shelf = (await App.Until("/api/shelves", s => s.AsArray().Any(x => x!["name"]!.GetValue<string>() == "House kit" && x["files"] is not null), Cancel))
            .AsArray().Single(s => s!["id"]!.GetValue<string>() == id)!;
        Assert.Equal((2, 1), (shelf["files"]!.GetValue<int>(), shelf["unreadable"]!.GetValue<int>()));
        Assert.Equal(["oar thump.flac"], await Search("text=OAR&kind=Audio&container=FLAC&sampleRate=44100&minSeconds=2&maxSeconds=4"));
        var unreadable = Assert.Single((await App.Get($"/api/shelves/{id}/unreadable", Cancel)).AsArray())!;
        Assert.Equal(("broken.wav", "The file is too short to be a WAV file."), (unreadable["path"]!.GetValue<string>(), unreadable["reason"]!.GetValue<string>()));
        var facets = await App.Get("/api/catalogue/facets", Cancel);
        Assert.Equal(["FLAC", "WAV"], facets["containers"]!.AsArray().Select(c => c!.GetValue<string>()));
    }

    /// <summary>A drive that is mounted elsewhere: what is known of it, and the sessions on it, go along.</summary>
    [Fact]
    public async Task AShelfThatIsFoundAtAnotherPlaceTakesItsSessionsAlong()
    {
        var drive = await Shelf("Session drive");
        var (before, after) = (drive["root"]!.GetValue<string>(), _session.Root + "/mounted elsewhere");
        Directory.Move(before, after);
        var change = $"/api/shelves/{drive["id"]}";
        async Task<HttpResponseMessage> Put(object body) => await App.Client.PutAsJsonAsync(change, body, Cancel);
        using (var nowhere = await Put(new { name = "Session drive", kind = "SessionDrive", path = after + "/nowhere" }))
        using (var taken = await Put(new { name = "Session drive", kind = "SessionDrive", path = _session.Library }))
        {
            Assert.Equal((HttpStatusCode.BadRequest, HttpStatusCode.BadRequest), (nowhere.StatusCode, taken.StatusCode));
        }
        Assert.Equal(before, (await Shelf("Session drive"))["root"]!.GetValue<string>());
        using (var changed = await Put(new { name = "Studio drive", kind = "Removable", path = after }))
        {
            Assert.Equal(HttpStatusCode.OK, changed.StatusCode);
        }
        var shelf = await Shelf("Studio drive");
        Assert.Equal(("Removable", after, 1), (shelf["kind"]!.GetValue<string>(), shelf["root"]!.GetValue<string>(), shelf["sessions"]!.GetValue<int>()));
        var session = (await App.Get($"/api/sessions/{_session.Id}", Cancel))["session"]!;
        Assert.StartsWith(after, session["folder"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("AtRisk", session["attention"]!.GetValue<string>());
    }

    [Fact]
    public async Task TheCatalogueAnswersWhileTheShelfIsAwayAndNoticesWhatChangedWhenItIsBack()
    {
        var away = _session.Library + " away";
        JsonNode File00(JsonNode session) => session["files"]!.AsArray().Single(f => f!["name"]!.GetValue<string>() == "sample 00.wav")!;
        var there = File00(await App.Get($"/api/sessions/{_session.Id}/files", Cancel));
        var outline = await App.Client.GetByteArrayAsync(new Uri($"/api/sessions/{_session.Id}/files/{there["id"]}/peaks", UriKind.Relative), Cancel);
        Directory.Move(_session.Library, away);

        // The session knows of them what the catalogue knows; the outline that was made once is kept, no other is there.
        var whole = await App.Get($"/api/sessions/{_session.Id}", Cancel);
        var files = await App.Get($"/api/sessions/{_session.Id}/files", Cancel);
        var gone = File00(files);
        Assert.Equal(("Away", 4800), (gone["standing"]!.GetValue<string>(), gone["lengthSamples"]!.GetValue<long>()));
        Assert.All(
            ["bytes", "changed", "container", "sampleRate", "bitDepth", "channels", "seconds", "used"],
            fact => Assert.Equal(there[fact]!.ToJsonString(), gone[fact]!.ToJsonString()));
        Assert.Equal(0, whole["session"]!["weights"]!.AsArray().Single(w => w!["standing"]!.GetValue<string>() == "Away")!["notKnown"]!.GetValue<int>());
        Assert.Equal(outline, await App.Client.GetByteArrayAsync(new Uri($"/api/sessions/{_session.Id}/files/{gone["id"]}/peaks", UriKind.Relative), Cancel));
        var other = files["files"]!.AsArray().Single(f => f!["name"]!.GetValue<string>() == "sample 01.wav")!["id"];
        Assert.Equal(204, (int)(await App.Client.GetAsync(new Uri($"/api/sessions/{_session.Id}/files/{other}/peaks", UriKind.Relative), Cancel)).StatusCode);

        var found = (await App.Get("/api/catalogue?text=sample", Cancel))["files"]!.AsArray();
        Assert.Equal(3, found.Count);
        Assert.All(found, f => Assert.False(f!["connected"]!.GetValue<bool>()));
        Assert.Equal(outline, await App.Client.GetByteArrayAsync(new Uri($"/api/catalogue/{found[0]!["id"]}/peaks", UriKind.Relative), Cancel));
        using (var heard = await App.Client.GetAsync(new Uri($"/api/catalogue/{found[0]!["id"]}/audio", UriKind.Relative), Cancel))
        {
            Assert.Equal(503, (int)heard.StatusCode);
            Assert.Contains("which is away", await heard.Content.ReadAsStringAsync(Cancel), StringComparison.Ordinal);
        }
        Assert.Equal(503, (await App.PostRefused($"/api/shelves/{_libraryId}/scan", null, Cancel)).Status);
        // The watch has to see it away before it can see it come.
        await ((HostedApp)App).Service<ShelfWatch>().LookNow(Cancel);
        File.Delete(Path.Combine(away, "sample 01.wav"));
        Directory.Move(away, _session.Library);
        await App.Until("/api/catalogue?text=sample", c => c["total"]!.GetValue<int>() == 2, Cancel);
    }

    [Fact]
    public async Task WhatStandsInTheSessionIsFoundOnlyWhenItsShelfIsAskedForAndIsTold()
    {
        File.Copy(Path.Combine(_session.Library, "sample 01.wav"), Path.Combine(_session.Folder, "sample 09.wav"));
        await App.Scan(_session.DriveId, Cancel);
        async Task<string> Inside(string query) => string.Join(
            ", ", (await App.Get($"/api/catalogue?text=sample{query}", Cancel))["files"]!.AsArray().Where(f => f!["inside"]!.GetValue<bool>()).Select(f => f!["name"]));
        Assert.Equal("sample 09.wav", await Inside($"&sessionId={_session.Id}&shelfId={_session.DriveId}"));
        Assert.Equal("", await Inside(""));
        Assert.Equal(4, (await Search("text=sample")).Length);
        Assert.DoesNotContain("261014 Net Mender/sample 09.wav", await Search($"text=sample&sessionId={_session.Id}"));
        Assert.Equal(3, (await Search($"text=sample&sessionId={_session.Id}")).Length);
        Assert.Equal(404, (int)(await App.Client.GetAsync(new Uri($"/api/catalogue?sessionId={Guid.NewGuid()}", UriKind.Relative), Cancel)).StatusCode);
    }

    /// <summary>Whoever looks for something new means samples: takes of other sessions come by their names, or with their shelf.</summary>
    [Fact]
    public async Task TakesOfOtherSessionsAreFoundByTheirNames()
    {
        var other = Directory.CreateDirectory(Path.Combine(_session.Drive, "other year", "Low Water")).FullName;
        File.WriteAllBytes(Path.Combine(other, "Low Water.otio"), SessionDocument.Create(Guid.NewGuid(), "Low Water", new SessionSettings(), SessionLayout.Default, ["Voice"]).ToUtf8());
        File.Copy(Path.Combine(_session.Library, "sample 01.wav"), Path.Combine(other, "take 10.wav"));
        File.Copy(Path.Combine(_session.Library, "sample 01.wav"), Path.Combine(_session.Drive, "other year", "loose 10.wav"));
        await App.Adopt(_session.DriveId, "other year/Low Water", Cancel);
        await App.Scan(_session.DriveId, Cancel);
        var offered = await Search($"sessionId={_session.Id}");
        Assert.DoesNotContain("other year/Low Water/take 10.wav", offered);
        Assert.Contains("other year/loose 10.wav", offered);
        Assert.Contains("other year/Low Water/take 10.wav", await Search($"text=take&sessionId={_session.Id}"));
        Assert.Contains("other year/Low Water/take 10.wav", await Search($"sessionId={_session.Id}&shelfId={_session.DriveId}"));
        Assert.Contains("other year/Low Water/take 10.wav", await Search(""));
    }

    [Fact]
    public async Task AShelfNamesTheSessionsThatDependOnIt()
    {
        var need = Assert.Single((await App.Get("/api/shelves/needs", Cancel)).AsArray())!;
        Assert.Equal((_libraryId, 3), (need["shelfId"]!.GetValue<string>(), need["files"]!.GetValue<int>()));
        var session = Assert.Single(need["sessions"]!.AsArray())!;
        Assert.Equal((_session.Id, "261014 Net Mender", 3), (session["sessionId"]!.GetValue<string>(), session["name"]!.GetValue<string>(), session["files"]!.GetValue<int>()));
    }

    [Fact]
    public async Task AForgottenShelfIsForgottenByTheCatalogueAndNoFileIsTouched()
    {
        var before = Tree.Of(_session.Library);
        using var response = await App.Client.DeleteAsync(new Uri($"/api/shelves/{_libraryId}", UriKind.Relative), Cancel);
        Assert.Equal(204, (int)response.StatusCode);
        Assert.Empty(await Search("text=sample"));
        Assert.Equal(before, Tree.Of(_session.Library));
    }

    [Fact]
    public async Task SoundsOfTheCatalogueAreSeenAndHeardInRanges()
    {
        var id = (await App.Get("/api/catalogue?text=sample+00", Cancel))["files"]![0]!["id"];
        var peaks = await App.Client.GetByteArrayAsync(new Uri($"/api/catalogue/{id}/peaks?stretches=50", UriKind.Relative), Cancel);
        Assert.Equal(100, peaks.Length);
        using var request = new HttpRequestMessage(HttpMethod.Get, $"/api/catalogue/{id}/audio");
        request.Headers.Range = new System.Net.Http.Headers.RangeHeaderValue(0, 3);
        using var response = await App.Client.SendAsync(request, Cancel);
        Assert.Equal((206, "RIFF"), ((int)response.StatusCode, await response.Content.ReadAsStringAsync(Cancel)));
    }

    [Fact]
    public async Task BackupsAndBundlesAreFoundOnlyWhenTheirShelfIsAskedFor()
    {
        File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(_session.Outbox, "sent.wav"));
        await App.Scan(_session.OutboxId, Cancel);
        Assert.Empty(await Search("text=sent"));
        Assert.Equal(["sent.wav"], await Search($"text=sent&shelfId={_session.OutboxId}"));
    }

    [Fact]
    public async Task WhatAPlanPutsOnAShelfIsInTheCatalogueAndWhatIsTakenBackIsNot()
    {
        await App.Scan(_session.DriveId, Cancel);
        var search = $"/api/catalogue?text=sample&shelfId={_session.DriveId}";
        Assert.Equal(0, (await App.Get(search, Cancel))["total"]!.GetValue<int>());
        var plan = await _session.PlanCopyIn(Cancel);
        await App.Apply(plan, Cancel);
        await App.Until(search, c => c["total"]!.GetValue<int>() == 3, Cancel);
        await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        await App.Until(search, c => c["total"]!.GetValue<int>() == 0, Cancel);
    }

    [Fact]
    public async Task OutlinesOfASessionsFilesGoToItsOwnCacheFolderWhereItHasOne()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        var file = (await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]![0]!["id"];
        var cache = Path.Combine(_session.Folder, ".waveforms");
        await App.Client.GetByteArrayAsync(new Uri($"/api/sessions/{_session.Id}/files/{file}/peaks", UriKind.Relative), Cancel);
        // Looking makes no folder in anybody's session.
        Assert.False(Directory.Exists(cache));
        Directory.CreateDirectory(cache);
        var other = (await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]![1]!["id"];
        await App.Client.GetByteArrayAsync(new Uri($"/api/sessions/{_session.Id}/files/{other}/peaks", UriKind.Relative), Cancel);
        Assert.EndsWith(".peaks", Assert.Single(Directory.EnumerateFiles(cache)), StringComparison.Ordinal);
        Assert.Equal(["Audio", ".waveforms"], Directory.EnumerateDirectories(_session.Folder).Select(d => Path.GetFileName(d)).OrderDescending(StringComparer.Ordinal).ToArray());
    }

    [Fact]
    public async Task BothIdentitiesAreToldWhenTheyAreAskedFor()
    {
        var file = (await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]![0]!;
        var told = await App.Get($"/api/sessions/{_session.Id}/files/{file["id"]}/identities", Cancel);
        var details = await App.Get($"/api/sessions/{_session.Id}/files/{file["id"]}", Cancel);
        Assert.Equal(Core.Media.ByteIdentity.OfFile(details["path"]!.GetValue<string>(), null, Cancel).Hex, told["bytes"]!.GetValue<string>());
        Assert.Equal(32, told["sound"]!.GetValue<string>().Length);
    }
}
