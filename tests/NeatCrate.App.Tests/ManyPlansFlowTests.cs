using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Many sessions at once over the API: a plan for each, applied together; what is wrong with one stays there.</summary>
public sealed class ManyPlansFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 4800);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<string> Other(string name, string document)
    {
        var folder = Path.Combine(_session.Drive, name);
        Directory.CreateDirectory(folder);
        File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(folder, "in.wav"));
        File.WriteAllText(Path.Combine(folder, "song.loft"), $"<s f=\"in.wav\"/>{document}<!-- {name} -->");
        return await App.Adopt(_session.DriveId, name, Cancel);
    }

    private async Task<JsonNode[]> Plan(string work, params string[] sessionIds) => [.. (await App.Post("/api/many/plans", new { sessionIds, work, way = "CopyIn" }, Cancel)).AsArray().Select(p => p!)];

    private async Task<JsonNode[]> Apply(IEnumerable<JsonNode> plans)
    {
        var begun = (await App.Post("/api/many/apply", new { planIds = plans.Select(p => p["planId"]?.GetValue<string>()).OfType<string>().ToArray() }, Cancel)).AsArray().Select(b => b!).ToArray();
        foreach (var job in begun.Where(b => b["job"] is not null))
        {
            Assert.Equal("Done", (await App.JobOver(job["job"]!, Cancel))["state"]!.GetValue<string>());
        }
        return begun;
    }

    private static string[] Told(IEnumerable<JsonNode> plans) => [.. plans.Select(p => $"{p["name"]}: {(p["planId"] is not null ? "plan" : p["isRefused"]!.GetValue<bool>() ? "refused" : "nothing")}")];

    [Fact]
    public async Task EachHasItsPlanAndWhatIsWrongWithOneStaysThere()
    {
        var named = await Other("Winter", $"<s f=\"{Path.Combine(_session.Library, "sample 01.wav")}\"/>");
        var whole = await Other("Spring", "");
        var gone = await Other("Gone", "");
        Directory.Delete(Path.Combine(_session.Drive, "Gone"), true);
        var before = Tree.Of(_session.Drive);
        var plans = await Plan("CopyIn", _session.Id, named, whole, gone, named);
        Assert.Equal([$"{LiveSession.Name}: plan", "Winter: plan", "Spring: nothing", "Gone: refused"], Told(plans));
        Assert.StartsWith("Copy 3 files", plans[0]["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Contains("goes on naming the original", Assert.Single(plans[1]["warnings"]!.AsArray())!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("No chosen file stands outside the session folder.", plans[2]["sentence"]!.GetValue<string>());
        Assert.Equal(before, Tree.Of(_session.Drive));
        Assert.All(await Apply(plans), b => Assert.Null(b["problem"]));
        Assert.Equal(3, Directory.GetFiles(Path.Combine(_session.Folder, "Audio")).Length);
        Assert.Single(Directory.GetFiles(Path.Combine(_session.Drive, "Winter"), "sample 01.wav", SearchOption.AllDirectories));
        // One report on all of them, for a spreadsheet; a plan that was never applied has none.
        using var asked = await App.Client.PostAsJsonAsync("/api/many/report.csv", new { planIds = plans[..2].Select(p => p["planId"]!.GetValue<string>()) }, Cancel);
        var lines = (await asked.Content.ReadAsStringAsync(Cancel)).Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)[1..];
        Assert.Equal([LiveSession.Name, LiveSession.Name, LiveSession.Name, LiveSession.Name, "Winter"], lines.Select(l => l.Split(',')[1]).Order(StringComparer.Ordinal));
        Assert.Equal(404, (await App.PostRefused("/api/many/report.csv", new { planIds = new[] { Guid.NewGuid() } }, Cancel)).Status);
        // Two tabs: what one has applied, the other does not apply once more, and hears of it.
        Assert.All(await Apply(plans), b => Assert.Equal((true, "This plan is no longer at hand. Make the plan again."), (b["job"] is null, b["problem"]!.GetValue<string>())));
        // Each is undone by itself.
        await App.Apply(await App.Post($"/api/plans/{plans[1]["planId"]}/undo", null, Cancel), Cancel);
        Assert.Empty(Directory.GetFiles(Path.Combine(_session.Drive, "Winter"), "sample 01.wav", SearchOption.AllDirectories));
        Assert.Equal(3, Directory.GetFiles(Path.Combine(_session.Folder, "Audio")).Length);
    }

    /// <summary>Only what is certain comes back; a document that only names its files has them where it names them. What somebody must compare is told.</summary>
    [Fact]
    public async Task WhatIsCertainComesBackInEach()
    {
        var (named, open, whole) = (await Other("Winter", "<s f=\"Snd/out.wav\"/>"), await Other("Spring", "<s f=\"sample 01.wav\"/><s f=\"nowhere.wav\"/>"), await Other("Whole", ""));
        var sample = Path.Combine(_session.Library, "sample 00.wav");
        Directory.CreateDirectory(Path.Combine(_session.Drive, "Winter", "Snd"));
        File.Copy(Path.Combine(_session.Library, "sample 02.wav"), Path.Combine(_session.Drive, "Winter", "Snd", "out.wav"));
        foreach (var file in new[] { sample, Path.Combine(_session.Drive, "Winter", "Snd", "out.wav") })
        {
            // Long enough ago that what is read of it is trusted.
            File.SetLastWriteTimeUtc(file, new DateTime(2026, 10, 1, 8, 0, 0, DateTimeKind.Utc).AddTicks(1_234_567));
        }
        await ScanAll();
        await Identify(_session.Id, "sample 00.wav");
        await Identify(named, "out.wav");
        var moved = Directory.CreateDirectory(Path.Combine(_session.Library, "moved")).FullName;
        File.Move(Path.Combine(_session.Drive, "Winter", "Snd", "out.wav"), Path.Combine(moved, "kept.wav"));
        File.Move(sample, Path.Combine(moved, "another name.wav"));
        await ScanAll();
        foreach (var id in new[] { _session.Id, named })
        {
            await App.JobOver(await App.Post($"/api/sessions/{id}/relink/read", null, Cancel), Cancel);
        }
        var plans = await Plan("Relink", _session.Id, named, open, whole);
        Assert.Equal([$"{LiveSession.Name}: plan", "Winter: plan", "Spring: nothing", "Whole: nothing"], Told(plans));
        Assert.Equal("2 files are missing; 1 of them has a match that somebody must compare.", plans[2]["sentence"]!.GetValue<string>());
        Assert.Equal("Nothing is missing.", plans[3]["sentence"]!.GetValue<string>());
        Assert.Contains("put back 1", plans[1]["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        await Apply(plans);
        Assert.True(File.Exists(Path.Combine(_session.Folder, "Audio", "another name.wav")));
        Assert.True(File.Exists(Path.Combine(_session.Drive, "Winter", "Snd", "out.wav")));
        Assert.False(File.Exists(Path.Combine(_session.Drive, "Spring", "sample 01.wav")));
    }

    private async Task Identify(string sessionId, string name)
    {
        var file = (await App.Get($"/api/sessions/{sessionId}/files?take=100", Cancel))["files"]!.AsArray().Single(f => f!["name"]!.GetValue<string>() == name)!;
        await App.Get($"/api/sessions/{sessionId}/files/{file["id"]}/identities", Cancel);
    }

    private async Task ScanAll()
    {
        foreach (var shelf in (await App.Get("/api/shelves", Cancel)).AsArray())
        {
            await App.Scan(shelf!["id"]!.GetValue<string>(), Cancel);
        }
    }

    [Fact]
    public async Task WhatIsSenselessIsRefused()
    {
        Assert.Equal(400, (await App.PostRefused("/api/many/plans", new { sessionIds = Array.Empty<string>(), work = "CopyIn" }, Cancel)).Status);
        Assert.Equal(404, (await App.PostRefused("/api/many/plans", new { sessionIds = new[] { Guid.NewGuid() }, work = "CopyIn" }, Cancel)).Status);
    }
}
