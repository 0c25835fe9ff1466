using System.Text.Json.Nodes;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Folders that exist: looked at, adopted, put in order, and found again.</summary>
public sealed class AdoptFlowTests : IAsyncLifetime
{
    private const string Name = "261014 Net Mender";

    private readonly LiveSession _session = new(3, 6_000);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private Task<JsonNode> Look(string path) => App.Post("/api/adopt/look", new { shelfId = _session.DriveId, path }, Cancel);

    private async Task<string[]> Sessions() => [.. (await App.Get("/api/sessions", Cancel)).AsArray().Select(s => s!["name"]!.GetValue<string>()).Order()];

    private static void Document(string path, params string[] media)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var document = SessionDocument.Create(Guid.NewGuid(), Path.GetFileNameWithoutExtension(path), new SessionSettings(), SessionLayout.Default, ["Voice"]);
        foreach (var file in media)
        {
            ClipBuilder.Place(document.Root, "Voice", new ClipToPlace(file, MediaUrl.From(file, Path.GetDirectoryName(path)!), 48000, 100, 0, 100));
        }
        File.WriteAllBytes(path, document.ToUtf8());
    }

    [Fact]
    public async Task SessionsThatShareAFolderAreToldAndTakenApartAndPutBack()
    {
        var media = Path.Combine(_session.Folder, "Audio", "water.wav");
        Directory.CreateDirectory(Path.GetDirectoryName(media)!);
        File.Copy(Path.Combine(_session.Library, "sample 00.wav"), media);
        Document(Path.Combine(_session.Folder, "261005 Low Water.otio"), media);
        var look = await Look(Name);
        Assert.Equal(_session.Id, look["knownAs"]!.GetValue<string>());
        Assert.Equal(["Low Water", "Net Mender"], look["sessions"]!.AsArray().Select(s => s!.GetValue<string>()).Order());
        Assert.Equal(2, (await App.Get($"/api/sessions/{_session.Id}", Cancel))["sharedBy"]!.AsArray().Count);
        var plan = await App.Post("/api/adopt/separate/plan", new { shelfId = _session.DriveId, path = Name }, Cancel);
        Assert.Equal("Done", (await App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        Assert.Equal(["261005 Low Water", Name], await Sessions());
        Assert.Empty((await App.Get($"/api/sessions/{_session.Id}", Cancel))["sharedBy"]!.AsArray());
        await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        Assert.Equal([Name], await Sessions());
    }

    [Fact]
    public async Task AStrayDocumentIsShownItsHomeAndBroughtThere()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        var stray = Path.Combine(_session.Drive, "Desktop", "261020 Net Mender.otio");
        Directory.CreateDirectory(Path.GetDirectoryName(stray)!);
        File.WriteAllText(stray, File.ReadAllText(Path.Combine(_session.Folder, Name + ".otio")) + "\n");
        var found = Assert.Single((await Look("Desktop"))["documents"]!.AsArray())!;
        Assert.True(found["strayed"]!.GetValue<bool>());
        var home = Assert.Single(found["homes"]!.AsArray())!.GetValue<string>();
        Assert.Equal(_session.Folder, home);
        var plan = await App.Post("/api/adopt/bring-home/plan", new { shelfId = _session.DriveId, path = "Desktop", document = "261020 Net Mender.otio", home }, Cancel);
        Assert.Equal(_session.Id, plan["sessionId"]!.GetValue<string>());
        await App.Apply(plan, Cancel);
        Assert.Equal("261020 Net Mender.otio", (await App.Get($"/api/sessions/{_session.Id}", Cancel))["session"]!["document"]!.GetValue<string>());
    }

    [Theory]
    [InlineData("../data/x.otio", null)]
    [InlineData("x.otio", "/etc")]
    public async Task AStrayIsOnlyTakenFromAndBroughtToShelves(string document, string? home)
    {
        Directory.CreateDirectory(Path.Combine(_session.Drive, "Desktop"));
        var request = new { shelfId = _session.DriveId, path = "Desktop", document, home = home ?? _session.Folder };
        Assert.Equal(400, (await App.PostRefused("/api/adopt/bring-home/plan", request, Cancel)).Status);
    }

    [Fact]
    public async Task AFolderThatWasMovedIsRecognisedAndKeepsItsHistory()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await App.Get($"/api/sessions/{_session.Id}", Cancel);
        // A scan that runs still would find the folder before this test asks for one.
        await App.ScansOver(Cancel);
        var moved = Path.Combine(_session.Drive, "2026", "The Net Mender");
        Directory.CreateDirectory(Path.GetDirectoryName(moved)!);
        Directory.Move(_session.Folder, moved);
        var scan = await App.Scan(_session.DriveId, Cancel);
        Assert.Contains($"it stands in '{moved}' now, and keeps its history", Assert.Single(scan["found"]!.AsArray())!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(moved, (await App.Get($"/api/sessions/{_session.Id}", Cancel))["session"]!["folder"]!.GetValue<string>());
        // The history came along, and what it tells can still be undone.
        var applied = Assert.Single((await App.Get($"/api/sessions/{_session.Id}/history", Cancel)).AsArray())!;
        var undo = await App.Post($"/api/plans/{applied["planId"]}/undo", null, Cancel);
        Assert.Equal("Done", (await App.Apply(undo, Cancel))["state"]!.GetValue<string>());
        Assert.False(File.Exists(Path.Combine(moved, "Audio", "sample 00.wav")));
        // Moved once more, it is found again by itself, when the sessions are listed.
        Directory.Move(moved, Path.Combine(_session.Drive, "Once more"));
        await App.Until("/api/sessions", all => all[0]!["name"]!.GetValue<string>() == "Once more", Cancel);
    }

    [Fact]
    public async Task AdoptingTheNewPlaceOfALostSessionGoesOnWithIt()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await App.Get($"/api/sessions/{_session.Id}", Cancel);
        // A scan that runs still would find the folder before this test asks for one.
        await App.ScansOver(Cancel);
        Directory.Move(_session.Folder, Path.Combine(_session.Drive, "a"));
        Tree.Copy(Path.Combine(_session.Drive, "a"), Path.Combine(_session.Drive, "b"));
        var scan = await App.Scan(_session.DriveId, Cancel);
        Assert.Contains("2 folders hold it", Assert.Single(scan["found"]!.AsArray())!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(_session.Id, await App.Adopt(_session.DriveId, "b", Cancel));
        Assert.Equal(["b"], await Sessions());
        // The other one is a copy now, and says so.
        Assert.Contains((await Look("a"))["remarks"]!.AsArray(), r => r!.GetValue<string>().StartsWith("This is a copy", StringComparison.Ordinal));
    }

    [Fact]
    public async Task TheDocumentThatIsWorkedInCanBeChosen()
    {
        var older = Path.Combine(_session.Folder, "older.otio");
        File.Copy(Path.Combine(_session.Folder, Name + ".otio"), older);
        File.SetLastWriteTimeUtc(older, DateTime.UtcNow.AddDays(-3));
        async Task<string> Current() => (await App.Get($"/api/sessions/{_session.Id}", Cancel))["session"]!["document"]!.GetValue<string>();
        Assert.Equal(Name + ".otio", await Current());
        using (var chosen = await App.Client.PutAsync($"/api/sessions/{_session.Id}/document", System.Net.Http.Json.JsonContent.Create(new { document = "older.otio" }), Cancel))
        {
            Assert.Equal(System.Net.HttpStatusCode.Accepted, chosen.StatusCode);
            var job = await App.JobOver(System.Text.Json.Nodes.JsonNode.Parse(await chosen.Content.ReadAsStringAsync(Cancel))!, Cancel);
            Assert.Equal("Done", job["state"]!.GetValue<string>());
        }
        Assert.Equal("older.otio", await Current());
        // The choice stands in the session's own folder, and can be undone.
        Assert.Contains("\"current_document\": \"older.otio\"", await File.ReadAllTextAsync(Path.Combine(_session.Folder, ".neat-crate.json"), Cancel), StringComparison.Ordinal);
        Assert.Equal("CurrentDocument", (await App.Get($"/api/sessions/{_session.Id}/history", Cancel))[0]!["kind"]!.GetValue<string>());
        using var none = await App.Client.PutAsync($"/api/sessions/{_session.Id}/document", System.Net.Http.Json.JsonContent.Create(new { document = "../x.otio" }), Cancel);
        Assert.Equal(System.Net.HttpStatusCode.BadRequest, none.StatusCode);
        // A new version is worked in, whatever was chosen before.
        await App.Apply(await App.Post($"/api/sessions/{_session.Id}/version/plan", new { naming = "Today", archiveOlder = false }, Cancel), Cancel);
        Assert.Equal($"{DateTime.Now:yyMMdd} older.otio", await Current());
    }

    [Fact]
    public async Task AFolderWithoutAReadableDocumentIsAdoptedAndNothingInItIsCalledUnused()
    {
        var folder = Path.Combine(_session.Drive, "foreign");
        Directory.CreateDirectory(folder);
        File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(folder, "take.wav"));
        File.WriteAllText(Path.Combine(folder, "session.bin"), "of another program");
        Assert.Empty((await Look("foreign"))["documents"]!.AsArray());
        var id = await App.Adopt(_session.DriveId, "foreign", Cancel);
        Assert.Equal(["Unknown"], (await App.Get($"/api/sessions/{id}/files", Cancel))["files"]!.AsArray().Select(f => f!["use"]!.GetValue<string>()));
    }
}
