using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Sessions on a shelf over the API: found, told as what they are, and adopted together.</summary>
public sealed class SessionsOnShelvesFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 4800);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Url => $"/api/adopt/found/{_session.DriveId}";

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    /// <summary>A session in the document of another program: one sound inside, one that is missing.</summary>
    private string OtherProgram(params string[] path)
    {
        var folder = Path.Combine([_session.Drive, .. path]);
        Directory.CreateDirectory(folder);
        File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(folder, "in.wav"));
        File.WriteAllText(Path.Combine(folder, "song.loft"), $"<s f=\"in.wav\"/><s f=\"out.wav\"/><!-- {path[^1]} -->");
        return folder;
    }

    private async Task<JsonNode[]> Find()
    {
        var job = await App.JobOver(await App.Post(Url, null, Cancel), Cancel);
        Assert.Equal("Done", job["state"]!.GetValue<string>());
        return await Found();
    }

    private async Task<JsonNode[]> Found() => [.. (await App.Get(Url, Cancel))["found"]!.AsArray().Select(f => f!)];

    private static string[] Told(IEnumerable<JsonNode> found) => [.. found.Select(f => $"{f["as"]} {f["path"]}{(f["of"] is { } of ? $" of {of}" : "")}")];

    private Task<JsonNode> Begin(params string[] paths) => App.Post("/api/adopt/many", new { shelfId = _session.DriveId, paths }, Cancel);

    private async Task<JsonNode[]> Sessions() => [.. (await App.Get("/api/sessions", Cancel)).AsArray().Select(s => s!)];

    private static string Everything(string folder) => string.Join('\n', new DirectoryInfo(folder).EnumerateFileSystemInfos("*", SearchOption.AllDirectories)
        .Select(f => $"{f.FullName} {f.LastWriteTimeUtc.Ticks} {(f as FileInfo)?.Length}").Order(StringComparer.Ordinal));

    [Fact]
    public async Task TheyAreFoundWithWhatIsWrongAndAdoptedTogether()
    {
        var before = await App.Get(Url, Cancel);
        Assert.Equal((true, 0, false), (before["began"] is null, before["found"]!.AsArray().Count, before["isWhole"]!.GetValue<bool>()));
        OtherProgram("2024", "Winter");
        OtherProgram("2024", "Spring");
        Tree.Copy(_session.Folder, Path.Combine(_session.Drive, "Again"));
        var found = await Find();
        Assert.Equal(
            ["Session 2024/Spring", "Session 2024/Winter", $"Known {LiveSession.Name} of {LiveSession.Name}", $"Copy Again of {LiveSession.Name}"],
            Told(found.OrderBy(f => f["path"]!.GetValue<string>(), StringComparer.Ordinal)).OrderBy(t => t.StartsWith("Copy", StringComparison.Ordinal)));
        var winter = found.Single(f => f["path"]!.GetValue<string>() == "2024/Winter");
        Assert.Equal(
            ("1 file is missing.", true, "song.loft", 1),
            (winter["says"]!.GetValue<string>(), winter["isByNames"]!.GetValue<bool>(), winter["documents"]![0]!.GetValue<string>(), winter["media"]!.GetValue<int>()));
        var all = Everything(_session.Drive);
        var job = await App.JobOver(await Begin("2024/Spring", "2024/Winter", "2024/Winter", "2024/Gone"), Cancel);
        Assert.Equal("Done", job["state"]!.GetValue<string>());
        Assert.StartsWith("2 sessions were adopted; nothing in them was changed. 'Gone' was not: ", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(all, Everything(_session.Drive));
        Assert.Equal(["Spring", "Winter", LiveSession.Name], (await Sessions()).Select(s => s["name"]!.GetValue<string>()).OrderBy(n => n is LiveSession.Name).ThenBy(n => n));
        // Known at once, without a search.
        var known = (await Found()).Single(f => f["path"]!.GetValue<string>() == "2024/Winter");
        Assert.Equal(("Known", (await Sessions()).Single(s => s["name"]!.GetValue<string>() == "Winter")["id"]!.GetValue<string>()), (known["as"]!.GetValue<string>(), known["knownAs"]!.GetValue<string>()));
    }

    /// <summary>What was found stays known; what has gone since is not offered, and once a scan finds other files it is said that it may be otherwise.</summary>
    [Fact]
    public async Task WhatWasFoundIsKnownAfterARestart()
    {
        OtherProgram("2024", "Winter");
        OtherProgram("2024", "Spring");
        var locked = OtherProgram("2024", "Late");
        File.WriteAllText(Path.Combine(locked, "song.otio"), "{");
        await App.Scan(_session.DriveId, Cancel);
        var before = string.Join('\n', (await Find()).Select(f => f.ToJsonString()));
        async Task<(bool, bool)> IsWholeAndOutdated() => await App.Get(Url, Cancel) is var told ? (told["isWhole"]!.GetValue<bool>(), told["isOutdated"]!.GetValue<bool>()) : default;
        Assert.Equal((true, false), await IsWholeAndOutdated());
        App.Dispose();
        _session.Restart();
        Assert.Equal(before, string.Join('\n', (await Found()).Select(f => f.ToJsonString())));
        Assert.Equal((true, false), await IsWholeAndOutdated());
        Directory.Delete(Path.Combine(_session.Drive, "2024", "Spring"), recursive: true);
        Assert.DoesNotContain(await Found(), f => f["path"]!.GetValue<string>() == "2024/Spring");
        await App.Scan(_session.DriveId, Cancel);
        Assert.Equal((true, true), await IsWholeAndOutdated());
        await Find();
        Assert.Equal((true, false), await IsWholeAndOutdated());
    }

    /// <summary>Who stops while many are adopted is told how many were, exactly those are known, nothing in any folder changed, and the others are adopted later.</summary>
    [Fact]
    public async Task AdoptingManyIsStopped()
    {
        const int Many = 150;
        var paths = Enumerable.Range(0, Many).Select(n => $"Songs/{n:000}").ToArray();
        foreach (var path in paths)
        {
            OtherProgram("Songs", path[6..]);
        }
        var all = Everything(Path.Combine(_session.Drive, "Songs"));
        var begun = await Begin(paths);
        await App.Until($"/api/jobs/{begun["id"]}", j => j["filesDone"]!.GetValue<long>() > 2, Cancel);
        await App.Post($"/api/jobs/{begun["id"]}/cancel", null, Cancel);
        var job = await App.JobOver(begun, Cancel);
        Assert.Equal("Cancelled", job["state"]!.GetValue<string>());
        var known = (await Sessions()).Length - 1;
        Assert.InRange(known, 1, Many - 1);
        Assert.Equal($"Stopped. {known} session{(known == 1 ? " was" : "s were")} adopted by then, and nothing in any folder was changed.", job["message"]!.GetValue<string>());
        Assert.Equal(all, Everything(Path.Combine(_session.Drive, "Songs")));
        Assert.Equal("Done", (await App.JobOver(await Begin(paths), Cancel))["state"]!.GetValue<string>());
        Assert.Equal(Many + 1, (await Sessions()).Length);
    }

    /// <summary>Two who press at once mean one search, and one session for each folder.</summary>
    [Fact]
    public async Task TwoAtOnceAreOne()
    {
        foreach (var n in Enumerable.Range(0, 12))
        {
            OtherProgram("Songs", $"{n:00}");
        }
        var searches = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => App.Post(Url, null, Cancel)));
        await App.JobOver(searches[0], Cancel);
        Assert.Equal(12, (await Find()).Count(f => f["as"]!.GetValue<string>() == "Session"));
        var paths = Enumerable.Range(0, 12).Select(n => $"Songs/{n:00}").ToArray();
        var jobs = await Task.WhenAll(Enumerable.Range(0, 3).Select(_ => Begin(paths)));
        foreach (var job in jobs)
        {
            Assert.Equal("Done", (await App.JobOver(job, Cancel))["state"]!.GetValue<string>());
        }
        Assert.Equal(13, (await Sessions()).Select(s => s["folder"]!.GetValue<string>()).Distinct().Count());
        Assert.Equal(13, (await Sessions()).Length);
    }

    /// <summary>A known session that was moved goes on as that one, also among many.</summary>
    [Fact]
    public async Task OneThatWasMovedGoesOnWithItsHistory()
    {
        OtherProgram("Songs", "One");
        Directory.Move(_session.Folder, Path.Combine(_session.Drive, "Songs", "Moved"));
        Assert.Equal(["Session Songs/Moved", "Session Songs/One"], Told(await Find()));
        await App.JobOver(await Begin("Songs/Moved", "Songs/One"), Cancel);
        Assert.Equal(2, (await Sessions()).Length);
        Assert.Contains(await Sessions(), s => s["id"]!.GetValue<string>() == _session.Id && s["name"]!.GetValue<string>() == "Moved");
    }

    /// <summary>While the drive of a session is away, a copy of it that is adopted elsewhere is another session: the history stays with the one that comes back.</summary>
    [Fact]
    public async Task ACopyThatIsAdoptedWhileTheDriveIsAwayTakesNothingFromIt()
    {
        var other = Directory.CreateDirectory(Path.Combine(_session.Root, "other")).FullName;
        Tree.Copy(_session.Folder, Path.Combine(other, "Again"));
        var shelf = await App.AddShelf("Other", "SessionDrive", other, Cancel);
        Directory.Move(_session.Drive, _session.Drive + " away");
        await App.JobOver(await App.Post($"/api/adopt/found/{shelf}", null, Cancel), Cancel);
        Assert.Equal([$"Copy Again of Session drive: {LiveSession.Name}"], Told((await App.Get($"/api/adopt/found/{shelf}", Cancel))["found"]!.AsArray().Select(f => f!)));
        await App.JobOver(await App.Post("/api/adopt/many", new { shelfId = shelf, paths = Enumerable.Repeat("Again", 1) }, Cancel), Cancel);
        Directory.Move(_session.Drive + " away", _session.Drive);
        Assert.Equal(2, (await Sessions()).Length);
        Assert.Contains(await Sessions(), s => s["id"]!.GetValue<string>() == _session.Id && s["folder"]!.GetValue<string>() == _session.Folder);
    }

    /// <summary>A folder of sessions and one that is not there are told with their reasons; where none is adopted, the work failed.</summary>
    [Fact]
    public async Task WhatIsNotAdoptedIsToldWithItsReason()
    {
        Tree.Copy(_session.Folder, Path.Combine(_session.Drive, "Year", "Song"));
        var job = await App.JobOver(await Begin(["Year", .. Enumerable.Range(0, 6).Select(n => $"gone {n}")]), Cancel);
        Assert.Equal("Failed", job["state"]!.GetValue<string>());
        var message = job["message"]!.GetValue<string>();
        Assert.StartsWith("0 sessions were adopted; nothing in them was changed. 'Year' was not: This folder holds the folders of sessions", message, StringComparison.Ordinal);
        Assert.EndsWith("2 others were not, either.", message, StringComparison.Ordinal);
        Assert.Single(await Sessions());
    }

    [Fact]
    public async Task WhatMakesNoSenseIsRefused()
    {
        var vault = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(_session.Root, "vault")).FullName, Cancel);
        Assert.Equal(400, (await App.PostRefused($"/api/adopt/found/{vault}", null, Cancel)).Status);
        Assert.Equal(404, (await App.PostRefused($"/api/adopt/found/{Guid.NewGuid()}", null, Cancel)).Status);
        Assert.Equal(400, (await App.PostRefused("/api/adopt/many", new { shelfId = _session.DriveId, paths = Array.Empty<string>() }, Cancel)).Status);
        Assert.Equal(404, (await App.PostRefused("/api/adopt/many", new { shelfId = Guid.NewGuid(), paths = Enumerable.Repeat("a", 1) }, Cancel)).Status);
        var job = await App.JobOver(await Begin("../library", "/etc", ""), Cancel);
        Assert.Equal("Failed", job["state"]!.GetValue<string>());
        Assert.Single(await Sessions());
    }

    /// <summary>A drive that leaves: it cannot be searched, and what was found on it stays on the list.</summary>
    [Fact]
    public async Task WhatWasFoundStaysWhileTheDriveIsAway()
    {
        OtherProgram("Songs", "One");
        await Find();
        Directory.Move(_session.Drive, _session.Drive + " away");
        Assert.NotEqual(202, (await App.PostRefused(Url, null, Cancel)).Status);
        var view = await App.Get(Url, Cancel);
        Assert.Equal((false, 2), (view["connected"]!.GetValue<bool>(), view["found"]!.AsArray().Count));
        var job = await App.JobOver(await Begin("Songs/One"), Cancel);
        Assert.Equal("Failed", job["state"]!.GetValue<string>());
        Directory.Move(_session.Drive + " away", _session.Drive);
        Assert.Single(await Sessions());
    }
}
