using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.SignalR.Client;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>The way through by the application's own requests, without a browser.</summary>
public sealed class SessionFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 60_000);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<string[]> Standings() =>
        [.. (await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]!.AsArray().Select(f => f!["standing"]!.GetValue<string>())];

    /// <summary>A list comes in parts, in the order, the groups and the words that are asked for; what is beyond a part is found by its place.</summary>
    [Fact]
    public async Task AListComesInParts()
    {
        var address = $"/api/sessions/{_session.Id}/files";
        string Names(JsonNode part) => string.Join(' ', part["files"]!.AsArray().Select(f => f!["name"]!.GetValue<string>()[..9]));
        var part = await App.Get($"{address}?order=Name&descending=true&skip=1&take=1&marks=CopyIn", Cancel);
        Assert.Equal(("sample 01", 3, 3, 3, 3), (Names(part), part["total"]!.GetValue<int>(), part["all"]!.GetValue<int>(), part["markable"]!.GetValue<int>(), part["marked"]!.GetValue<int>()));
        var words = await App.Get($"{address}?text=02+LOFT", Cancel);
        Assert.Equal(("sample 02", 1, 3), (Names(words), words["total"]!.GetValue<int>(), words["all"]!.GetValue<int>()));
        Assert.Equal(3, (await App.Get($"{address}?segment=Inside.Placed&segment=Outside.Placed", Cancel))["total"]!.GetValue<int>());
        Assert.Empty((await App.Get($"{address}?segment=Inside.Placed", Cancel))["files"]!.AsArray());
        var group = Assert.Single((await App.Get($"{address}?grouping=StandsOn&take=0", Cancel))["groups"]!.AsArray())!;
        Assert.Equal(("Loft samples", 3), (group["title"]!.GetValue<string>(), group["files"]!.GetValue<int>()));
        var ids = (await App.Get($"{address}/ids?order=Name", Cancel)).AsArray();
        Assert.Equal(3, ids.Count);
        Assert.Equal(0, (await App.Get($"{address}/{ids[2]}/position?order=Name&descending=true", Cancel))["index"]!.GetValue<int>());
        Assert.Null((await App.Get($"{address}/{ids[2]}/position?segment=Missing.Placed", Cancel))["index"]);
        var details = await App.Get($"{address}/{ids[2]}", Cancel);
        Assert.Equal((Path.Combine(_session.Library, "sample 02.wav"), "Loft samples"), (details["path"]!.GetValue<string>(), details["origin"]!["name"]!.GetValue<string>()));
        Assert.Equal(HttpStatusCode.NotFound, (await App.Client.GetAsync($"{address}/0000000000000000", Cancel)).StatusCode);
    }

    /// <summary>A page that is open and told of a new file asks for what is in sight of it: it is there, and it is little.</summary>
    [Fact]
    public async Task WhatChangedIsInSightAtOnce()
    {
        var address = $"/api/sessions/{_session.Id}";
        var before = await App.Get(address, Cancel);
        Directory.CreateDirectory(Path.Combine(_session.Folder, "Audio"));
        File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(_session.Folder, "Audio", "new.wav"));
        var after = await App.Get(address, Cancel);
        Assert.True(after["revision"]!.GetValue<long>() > before["revision"]!.GetValue<long>());
        Assert.NotEqual(before["fingerprint"]!.GetValue<string>(), after["fingerprint"]!.GetValue<string>());
        Assert.Equal(before["outside"]!["fingerprint"]!.GetValue<string>(), after["outside"]!["fingerprint"]!.GetValue<string>());
        Assert.Equal((0, 1), (before["takes"]!["waiting"]!.GetValue<int>(), after["takes"]!["waiting"]!.GetValue<int>()));
        Assert.Contains("new.wav", (await App.Get($"{address}/files", Cancel))["files"]!.AsArray().Select(f => f!["name"]!.GetValue<string>()));
        File.Delete(Path.Combine(_session.Folder, "Audio", "new.wav"));
        Assert.Equal(before["fingerprint"]!.GetValue<string>(), (await App.Get(address, Cancel))["fingerprint"]!.GetValue<string>());
    }

    /// <summary>A file says who uses it: older versions, and other sessions by name.</summary>
    [Fact]
    public async Task AFileNamesEveryVersionAndSessionThatUsesIt()
    {
        var plan = await App.Post($"/api/sessions/{_session.Id}/version/plan", new { naming = "NextNumber", archiveOlder = true }, Cancel);
        Assert.Equal("Done", (await App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        var other = Path.Combine(_session.Drive, "261005 Low Water");
        Directory.CreateDirectory(other);
        var document = SessionDocument.Create(Guid.NewGuid(), "Low Water", new SessionSettings(), SessionLayout.Default, ["Voice"]);
        var sample = Path.Combine(_session.Library, "sample 01.wav");
        ClipBuilder.Place(document.Root, "Voice", new ClipToPlace("x", MediaUrl.From(sample, other), 48000, 100, 0, 100));
        await File.WriteAllBytesAsync(Path.Combine(other, "Low Water.otio"), document.ToUtf8(), Cancel);
        await App.Adopt(_session.DriveId, "261005 Low Water", Cancel);
        var file = (await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]!.AsArray().Single(f => f!["name"]!.GetValue<string>() == "sample 01.wav")!;
        var uses = (await App.Get($"/api/sessions/{_session.Id}/files/{file["id"]}/uses", Cancel)).AsArray();
        Assert.Equal(
            [("261014 Net Mender", "261014 Net Mender v2.otio", true, 1, "Samples"), ("261014 Net Mender", "261014 Net Mender.otio", false, 1, "Samples"), ("261005 Low Water", "Low Water.otio", true, 1, "Voice")],
            uses.Select(u => (u!["session"]!.GetValue<string>(), u["document"]!.GetValue<string>(), u["isCurrent"]!.GetValue<bool>(), u["placed"]!.GetValue<int>(), u["tracks"]![0]!.GetValue<string>())));
    }

    /// <summary>A session whose drive is away when the application starts needs its files as before: no undo takes them away.</summary>
    [Fact]
    public async Task ASessionThatIsAwayAtTheStartStillNeedsItsFiles()
    {
        var copying = await _session.PlanCopyIn(Cancel);
        Assert.Equal("Done", (await App.Apply(copying, Cancel))["state"]!.GetValue<string>());
        var card = Directory.CreateDirectory(_session.Drive + " card").FullName;
        var other = Path.Combine(card, "261005 Low Water");
        Directory.CreateDirectory(other);
        var document = SessionDocument.Create(Guid.NewGuid(), "Low Water", new SessionSettings(), SessionLayout.Default, ["Voice"]);
        ClipBuilder.Place(document.Root, "Voice", new ClipToPlace("x", MediaUrl.From(Path.Combine(_session.Folder, "Audio", "sample 01.wav"), other), 48000, 100, 0, 100));
        await File.WriteAllBytesAsync(Path.Combine(other, "Low Water.otio"), document.ToUtf8(), Cancel);
        await App.Adopt(await App.AddShelf("Field card", "Removable", card, Cancel), "261005 Low Water", Cancel);
        _session.App.Dispose();
        Directory.Move(card, card + " away");
        _session.Restart();
        var undo = await App.Post($"/api/plans/{copying["id"]}/undo", null, Cancel);
        Assert.Contains(undo["refusals"]!.AsArray(), r => r!.GetValue<string>().Contains("Low Water", StringComparison.Ordinal));
    }

    [Fact]
    public async Task CopyInUndoAndCopyInAgain()
    {
        var before = Tree.Of(_session.Drive);
        var library = Tree.Of(_session.Library);
        var plan = await _session.PlanCopyIn(Cancel);
        Assert.Equal("Done", (await App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        Assert.Equal(["Inside", "Inside", "Inside"], await Standings());
        var undo = await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel);
        Assert.Equal("Done", (await App.Apply(undo, Cancel))["state"]!.GetValue<string>());
        Assert.Equal(before.Keys, Tree.Of(_session.Drive).Keys);
        Assert.Equal(["Outside", "Outside", "Outside"], await Standings());
        Assert.Equal("Done", (await App.Apply(await _session.PlanCopyIn(Cancel), Cancel))["state"]!.GetValue<string>());
        Assert.Equal(["Inside", "Inside", "Inside"], await Standings());
        Assert.Equal(library, Tree.Of(_session.Library));
        var history = (await App.Get($"/api/sessions/{_session.Id}/history", Cancel)).AsArray();
        Assert.Equal(["CopyIn", "Undo", "CopyIn"], history.Select(h => h!["kind"]!.GetValue<string>()));
        Assert.Equal([true, false, false], history.Select(h => h!["canUndo"]!.GetValue<bool>()));
    }

    [Fact]
    public async Task APlanIsAppliedOnceAndOnlyIfItWasShown()
    {
        var plan = await _session.PlanCopyIn(Cancel);
        await App.Apply(plan, Cancel);
        Assert.Equal(404, (await App.PostRefused($"/api/plans/{plan["id"]}/apply", null, Cancel)).Status);
        Assert.Equal(404, (await App.PostRefused($"/api/plans/{Guid.NewGuid()}/apply", null, Cancel)).Status);
        Assert.Equal(404, (await App.PostRefused($"/api/plans/{Guid.NewGuid()}/undo", null, Cancel)).Status);
    }

    [Fact]
    public async Task APlanThatWentStaleIsRefusedAndNothingIsChanged()
    {
        var plan = await _session.PlanCopyIn(Cancel);
        File.SetLastWriteTimeUtc(Path.Combine(_session.Library, "sample 01.wav"), DateTime.UtcNow);
        var before = Tree.Of(_session.Root + "/drive");
        var job = await App.Apply(plan, Cancel);
        Assert.Equal("Failed", job["state"]!.GetValue<string>());
        Assert.Contains("Nothing was changed. 'sample 01.wav' has changed", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(before, Tree.Of(_session.Drive));
    }

    [Fact]
    public async Task ABundleIsPackedDownloadedUnpackedAndAdoptedWithNothingMissing()
    {
        var plan = await _session.PlanBundle(Cancel);
        await App.Apply(plan, Cancel);
        var bundle = Assert.Single((await App.Get($"/api/sessions/{_session.Id}/bundles", Cancel)).AsArray())!;
        Assert.True(bundle["there"]!.GetValue<bool>());
        using var download = await App.Client.GetAsync($"/api/sessions/{_session.Id}/bundles/{bundle["planId"]}/file", Cancel);
        Assert.Equal("application/zip", download.Content.Headers.ContentType!.MediaType);
        var zip = Path.Combine(_session.Root, "received.zip");
        await File.WriteAllBytesAsync(zip, await download.Content.ReadAsByteArrayAsync(Cancel), Cancel);
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", zip), StringComparison.Ordinal);
        Tool.Run("unzip", "-q", zip, "-d", Path.Combine(_session.Drive, "received"));
        var bag = Assert.Single(Directory.GetDirectories(Path.Combine(_session.Drive, "received")));
        Tool.RunIn(bag, "sha512sum", "--strict", "--quiet", "-c", "manifest-sha512.txt");
        var adopted = await App.Adopt(_session.DriveId, $"received/{Path.GetFileName(bag)}/data/261014 Net Mender", Cancel);
        Assert.NotEqual(_session.Id, adopted);
        // The originals are gone, and still nothing is missing from what was received.
        Directory.Delete(_session.Library, recursive: true);
        Directory.Delete(_session.Folder, recursive: true);
        var label = (await App.Get($"/api/sessions/{adopted}", Cancel))["session"]!;
        Assert.Equal("Everything is inside, nothing is missing.", LiveSession.Sentence(label));
        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await App.Client.GetAsync($"/api/sessions/{_session.Id}", Cancel)).StatusCode);
    }

    [Fact]
    public async Task ABundleInsideTheSessionIsRefusedWithTheReason()
    {
        var plan = await App.Post(
            $"/api/sessions/{_session.Id}/bundles/plan", new { shelfId = _session.DriveId, path = "261014 Net Mender" }, Cancel);
        Assert.Contains("inside the session's own folder", plan["refusals"]![0]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(409, (await App.PostRefused($"/api/plans/{plan["id"]}/apply", null, Cancel)).Status);
    }

    [Fact]
    public async Task ANewSessionIsMadeKnownAndForgottenWhenItIsTakenBack()
    {
        var preset = (await App.Get("/api/set-up/presets", Cancel))[0]!.AsObject();
        preset["settings"]!["sampleRate"] = 96000;
        preset["nameParts"]!.AsArray()[1]!["text"] = "Low Water";
        preset["tracks"] = new JsonArray("Voice");
        preset["shelfId"] = _session.DriveId;
        preset["parentPath"] = "";
        var view = await App.Post("/api/set-up/plan", preset, Cancel);
        var name = $"{DateTime.Now:yyMMdd} Low Water";
        Assert.Equal(Path.Combine(_session.Drive, name), view["fullPath"]!.GetValue<string>());
        Assert.Equal(["261014 Net Mender"], view["before"]!.AsArray().Concat(view["after"]!.AsArray()).Select(n => n!.GetValue<string>()));
        // 96 kHz, 24 bit, mono, for the four minutes of the preset.
        Assert.Equal(288_000 * 240, view["budget"]!["expectedBytes"]!.GetValue<long>());
        var plan = view["plan"]!;
        var job = await App.Apply(plan, Cancel);
        var session = await App.Get($"/api/sessions/{job["sessionId"]}", Cancel);
        Assert.Equal(96000, session["session"]!["sampleRate"]!.GetValue<int>());
        Assert.Equal("Voice", session["trackNames"]![0]!.GetValue<string>());
        await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        Assert.False(Directory.Exists(Path.Combine(_session.Drive, name)));
        Assert.Equal(HttpStatusCode.NotFound, (await App.Client.GetAsync($"/api/sessions/{job["sessionId"]}", Cancel)).StatusCode);
    }

    /// <summary>Which kinds stay out is kept in a preset, and holds in the session that is made with it, over an undo, a redo and another choice.</summary>
    [Fact]
    public async Task AKindThatAPresetLeavesOutStaysOutInTheNewSession()
    {
        var preset = (await App.Get("/api/set-up/presets", Cancel))[0]!.AsObject();
        Assert.Empty(preset["leftOutKinds"]!.AsArray());
        preset["leftOutKinds"] = new JsonArray("Video", "ImpulseResponses", "Video");
        (await App.Client.PutAsJsonAsync("/api/set-up/presets", preset, Cancel)).EnsureSuccessStatusCode();
        preset = (await App.Get("/api/set-up/presets", Cancel))[0]!.AsObject();
        string Kinds(JsonNode of) => string.Join(' ', of["leftOutKinds"]!.AsArray());
        Assert.Equal("ImpulseResponses Video", Kinds(preset));
        preset["nameParts"]!.AsArray()[1]!["text"] = "Low Water";
        preset["shelfId"] = _session.DriveId;
        preset["parentPath"] = "";
        var plan = (await App.Post("/api/set-up/plan", preset, Cancel))["plan"]!;
        // Each letter plans anew; what was planned first is applied.
        preset["leftOutKinds"] = new JsonArray();
        await App.Post("/api/set-up/plan", preset, Cancel);
        var id = (await App.Apply(plan, Cancel))["sessionId"]!.GetValue<string>();
        Task<JsonNode> Way() => App.Get($"/api/sessions/{id}/copy-in", Cancel);
        Assert.Equal("ImpulseResponses Video", Kinds(await Way()));
        var way = (await Way()).AsObject();
        way["leftOutKinds"] = new JsonArray("Other");
        (await App.Client.PutAsJsonAsync($"/api/sessions/{id}/copy-in", way, Cancel)).EnsureSuccessStatusCode();
        var undo = await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel);
        await App.Apply(undo, Cancel);
        await App.Apply(await App.Post($"/api/plans/{undo["id"]}/redo", null, Cancel), Cancel);
        Assert.Equal("Other", Kinds(await Way()));
    }

    [Fact]
    public async Task ANewVersionPutsTheOlderDocumentAwayAndItsUndoBringsItBack()
    {
        var before = Tree.Of(_session.Folder);
        var plan = await App.Post($"/api/sessions/{_session.Id}/version/plan", new { naming = "Today", archiveOlder = true }, Cancel);
        await App.Apply(plan, Cancel);
        var documents = (await App.Get($"/api/sessions/{_session.Id}", Cancel))["documents"]!.AsArray();
        Assert.Equal(
            [($"{DateTime.Now:yyMMdd} Net Mender.otio", true), ("Older documents/261014 Net Mender.otio", false)],
            documents.Select(d => (d!["path"]!.GetValue<string>(), d["current"]!.GetValue<bool>())));
        Assert.Equal(["Outside", "Outside", "Outside"], await Standings());
        await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        Assert.Equal(before, Tree.Of(_session.Folder));
    }

    [Fact]
    public async Task SettingsChangeInOneSessionAndArePutBack()
    {
        var settings = (await App.Get($"/api/sessions/{_session.Id}", Cancel))["settings"]!;
        var same = await App.Post($"/api/sessions/{_session.Id}/settings/plan", new { settings, newTracks = Array.Empty<string>() }, Cancel);
        Assert.Equal("These are the session's settings already.", same["refusals"]![0]!.GetValue<string>());
        settings["sampleRate"] = 96000;
        var plan = await App.Post($"/api/sessions/{_session.Id}/settings/plan", new { settings, newTracks = Array.Empty<string>() }, Cancel);
        Assert.Contains("12.00 semitones sharp (100.0 % fast)", plan["warnings"]![0]!.GetValue<string>(), StringComparison.Ordinal);
        await App.Apply(plan, Cancel);
        Assert.Equal(96000, (await App.Get($"/api/sessions/{_session.Id}", Cancel))["settings"]!["sampleRate"]!.GetValue<int>());
        await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        Assert.Equal(48000, (await App.Get($"/api/sessions/{_session.Id}", Cancel))["settings"]!["sampleRate"]!.GetValue<int>());
        settings["sampleRate"] = 48000;
        await App.Apply(await App.Post($"/api/sessions/{_session.Id}/settings/plan", new { settings, newTracks = new JsonArray("Oud") }, Cancel), Cancel);
        Assert.Equal(["Samples", "Oud"], (await App.Get($"/api/sessions/{_session.Id}", Cancel))["trackNames"]!.AsArray().Select(t => t!.GetValue<string>()));
    }

    [Fact]
    public async Task PresetsAreKeptReplacedMadeDefaultAndRemoved()
    {
        async Task<string[]> Send(HttpMethod method, string path, JsonNode? body = null)
        {
            using var request = new HttpRequestMessage(method, path) { Content = body is null ? null : System.Net.Http.Json.JsonContent.Create(body) };
            using var response = await App.Client.SendAsync(request, Cancel);
            Assert.True(response.IsSuccessStatusCode, path);
            return [.. JsonNode.Parse(await response.Content.ReadAsStringAsync(Cancel))!.AsArray().Select(p => $"{p!["name"]}{(p["isDefault"]!.GetValue<bool>() ? "*" : "")}")];
        }
        Assert.Equal(["Plain song*"], await Send(HttpMethod.Get, "/api/set-up/presets"));
        var preset = (await App.Get("/api/set-up/presets", Cancel))[0]!;
        preset["name"] = "Loft quartet";
        preset["isDefault"] = false;
        Assert.Equal(["Plain song*", "Loft quartet"], await Send(HttpMethod.Put, "/api/set-up/presets", preset));
        preset["tracks"] = new JsonArray("Cello");
        Assert.Equal(["Plain song*", "Loft quartet"], await Send(HttpMethod.Put, "/api/set-up/presets", preset));
        Assert.Equal("Cello", (await App.Get("/api/set-up/presets", Cancel))[1]!["tracks"]![0]!.GetValue<string>());
        Assert.Equal(["Loft quartet*", "Plain song"], await Send(HttpMethod.Put, "/api/set-up/presets/Loft%20quartet/default"));
        // The default one may go as well: another takes its place.
        Assert.Equal(["Plain song*"], await Send(HttpMethod.Delete, "/api/set-up/presets/loft%20QUARTET"));
        using var gone = await App.Client.DeleteAsync("/api/set-up/presets/nobody", Cancel);
        Assert.Equal(HttpStatusCode.NotFound, gone.StatusCode);
    }

    [Fact]
    public async Task ProgressIsHeardAndJobsOfOneSessionWaitForEachOther()
    {
        var heard = new List<JsonObject>();
        await using var hub = new HubConnectionBuilder().WithUrl(new Uri(App.Address, "/hubs/jobs")).Build();
        hub.On<JsonObject>("job", job =>
        {
            lock (heard)
            {
                heard.Add(job);
            }
        });
        await hub.StartAsync(Cancel);
        var first = await App.Post($"/api/plans/{(await _session.PlanBundle(Cancel))["id"]}/apply", null, Cancel);
        var second = await App.Post($"/api/plans/{(await _session.PlanCopyIn(Cancel))["id"]}/apply", null, Cancel);
        Assert.Equal("Done", (await App.JobOver(second, Cancel))["state"]!.GetValue<string>());
        // By then the one before it is over as well.
        Assert.Equal("Done", (await App.Get($"/api/jobs/{first["id"]}", Cancel))["state"]!.GetValue<string>());
        string Sequence()
        {
            lock (heard)
            {
                return string.Join(' ', heard.Where(j => j["work"]!.GetValue<string>() is "Apply" && j["state"]!.GetValue<string>() is "Done").Select(j => j["kind"]!.GetValue<string>()));
            }
        }
        while (Sequence().Split(' ').Length < 2)
        {
            await Task.Delay(10, Cancel);
        }
        Assert.Equal("Bundle CopyIn", Sequence());
    }
}

/// <summary>Work that is long enough to be stopped in its middle.</summary>
public sealed class LongWorkTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(40, 700_000, inProcessOfItsOwn: true);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task CancellingInTheMiddlePutsEverythingBack()
    {
        var before = Tree.Of(_session.Drive);
        var job = await _session.App.Post($"/api/plans/{(await _session.PlanCopyIn(Cancel))["id"]}/apply", null, Cancel);
        while (job["filesDone"]!.GetValue<int>() < 3)
        {
            Assert.True(job["state"]!.GetValue<string>() is "Queued" or "Running");
            job = await _session.App.Get($"/api/jobs/{job["id"]}", Cancel);
        }
        await _session.App.Post($"/api/jobs/{job["id"]}/cancel", null, Cancel);
        Assert.Equal("Cancelled", (await _session.App.JobOver(job, Cancel))["state"]!.GetValue<string>());
        Assert.Equal(before, Tree.Of(_session.Drive));
    }

    [Fact]
    public async Task AStopInTheMiddlePutsEverythingBackBeforeItEnds()
    {
        var before = Tree.Of(_session.Drive);
        var job = await _session.App.Post($"/api/plans/{(await _session.PlanCopyIn(Cancel))["id"]}/apply", null, Cancel);
        while (job["filesDone"]!.GetValue<int>() < 3)
        {
            Assert.True(job["state"]!.GetValue<string>() is "Queued" or "Running");
            job = await _session.App.Get($"/api/jobs/{job["id"]}", Cancel);
        }
        _session.Process.Terminate();
        Assert.Equal(before, Tree.Of(_session.Drive));
    }
}
