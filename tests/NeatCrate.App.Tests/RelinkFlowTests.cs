using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Microsoft.Extensions.Logging.Abstractions;
using NeatCrate.App.Jobs;
using NeatCrate.App.Relink;
using NeatCrate.App.Scans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Tests.Jobs;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Missing files over the API: matched, read to make sure, looked for elsewhere, marked, and put in their place.</summary>
public sealed class RelinkFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 4800);
    private string _library = "";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Relink => $"/api/sessions/{_session.Id}/relink";

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        var shelf = (await App.Get("/api/shelves", Cancel)).AsArray().Single(s => s!["name"]!.GetValue<string>() == "Loft samples")!;
        _library = shelf["root"]!.GetValue<string>();
        foreach (var file in Outside)
        {
            // Long enough ago that what is read of it is trusted.
            File.SetLastWriteTimeUtc(file, new DateTime(2026, 10, 1, 8, 0, 0, DateTimeKind.Utc).AddSeconds(file[^5]).AddTicks(1_234_567));
        }
        await App.Scan(shelf["id"]!.GetValue<string>(), Cancel);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task Rescan()
    {
        foreach (var shelf in (await App.Get("/api/shelves", Cancel)).AsArray().Where(s => s!["connected"]!.GetValue<bool>()))
        {
            await App.Scan(shelf!["id"]!.GetValue<string>(), Cancel);
        }
    }

    private async Task<(int Status, string Detail)> SaySame(string added)
    {
        var (status, problem) = await App.PostRefused($"/api/shelves/{added}/same", new { isSame = true }, Cancel);
        return (status, (problem["detail"] ?? problem["title"])!.GetValue<string>());
    }

    private static JsonNode Lost(JsonNode relink, string name) => relink["lost"]!.AsArray().Single(l => l!["name"]!.GetValue<string>() == name)!;

    private string[] Outside => [.. Directory.GetFiles(_library, "*.wav").Order(StringComparer.Ordinal)];

    /// <summary>Read before it went, it is known by its sound, whatever it is called: it is read to make sure, and then certain.</summary>
    [Fact]
    public async Task WhatWasReadBeforeIsCertainUnderAnotherNameOnceItIsReadAgain()
    {
        var path = Outside[0];
        var file = (await App.Get($"/api/sessions/{_session.Id}/files?take=100", Cancel))["files"]!.AsArray().Single(f => f!["name"]!.GetValue<string>() == Path.GetFileName(path))!;
        await App.Get($"/api/sessions/{_session.Id}/files/{file["id"]}/identities", Cancel);
        var renamed = Path.Combine(_library, "another name.wav");
        File.Move(path, renamed);
        await Rescan();
        var before = await App.Get(Relink, Cancel);
        var lost = Lost(before, Path.GetFileName(path));
        Assert.Equal("None", lost["best"]?["certainty"]?.GetValue<string>() ?? "None");
        Assert.InRange(before["toReadFiles"]!.GetValue<int>(), 1, 10);
        await App.JobOver(await App.Post($"{Relink}/read", null, Cancel), Cancel);
        var after = Lost(await App.Get(Relink, Cancel), Path.GetFileName(path));
        Assert.Equal(("SameBytes", "another name.wav", "Renamed"), (after["best"]!["certainty"]!.GetValue<string>(), after["best"]!["facts"]!["name"]!.GetValue<string>(), after["whereabouts"]!.GetValue<string>()));
        // It is heard and seen where it is now.
        var heard = await App.Client.GetAsync($"{Relink}/found/{after["best"]!["id"]}/audio", Cancel);
        Assert.Equal(File.ReadAllBytes(renamed), await heard.Content.ReadAsByteArrayAsync(Cancel));
        Assert.NotEmpty(await App.Client.GetByteArrayAsync($"{Relink}/found/{after["best"]!["id"]}/peaks", Cancel));

        var plan = await App.Post($"{Relink}/plan", new { choices = new[] { new { lostId = after["id"]!.GetValue<string>(), foundId = (string?)null, way = "CopyIn" } }, olderDocuments = true, along = Array.Empty<string>(), way = "CopyIn" }, Cancel);
        Assert.StartsWith("Relink 1 file; copy in 1", plan["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        await App.Apply(plan, Cancel);
        Assert.DoesNotContain((await App.Get(Relink, Cancel))["lost"]!.AsArray(), l => l!["id"]!.GetValue<string>() == after["id"]!.GetValue<string>());
    }

    /// <summary>What the catalogue saw in the session's own folder, and is gone from it, as after an undo, stands in no one's way.</summary>
    [Fact]
    public async Task WhatWentFromTheSessionsOwnFolderIsNoMatch()
    {
        var path = Outside[0];
        var (moved, copy) = (Path.Combine(Directory.CreateDirectory(Path.Combine(_library, "moved")).FullName, Path.GetFileName(path)), Path.Combine(Directory.CreateDirectory(Path.Combine(_session.Folder, "Audio")).FullName, Path.GetFileName(path)));
        File.Move(path, moved);
        File.Copy(moved, copy);
        await Rescan();
        Assert.True(Lost(await App.Get(Relink, Cancel), Path.GetFileName(path))["best"]!["isInside"]!.GetValue<bool>());
        File.Delete(copy);
        var best = Lost(await App.Get(Relink, Cancel), Path.GetFileName(path))["best"]!;
        Assert.Equal((false, "OnlyOneThatFits"), (best["isInside"]!.GetValue<bool>(), best["certainty"]!.GetValue<string>()));
    }

    /// <summary>A place on no shelf is searched; what is found is a match, what is not is remembered with the place.</summary>
    [Fact]
    public async Task APlaceIsSearchedAndRemembered()
    {
        var (found, gone) = (Outside[0], Outside[1]);
        var place = Path.Combine(_session.Root, "somebody else's disk");
        Directory.CreateDirectory(Path.Combine(place, "deep"));
        File.Move(found, Path.Combine(place, "deep", Path.GetFileName(found)));
        File.Delete(gone);
        await Rescan();
        var ended = await App.JobOver(await App.Post($"{Relink}/search", new { places = new[] { place } }, Cancel), Cancel);
        Assert.Equal("Done", ended["state"]!.GetValue<string>());
        var relink = await App.Get(Relink, Cancel);
        Assert.Equal(Path.GetFileName(found), Lost(relink, Path.GetFileName(found))["best"]!["facts"]!["name"]!.GetValue<string>());
        var searched = Assert.Single(relink["searched"]!.AsArray())!;
        Assert.Equal((true, 1), (searched["isWhole"]!.GetValue<bool>(), searched["files"]!.GetValue<int>()));
        Assert.Contains(searched["notFound"]!.AsArray(), n => n!.GetValue<string>() == Path.GetFileName(gone));
    }

    /// <summary>A missing file was seen last by the scan before the one that did not find it.</summary>
    [Fact]
    public async Task WhenItWasSeenLastIsTold()
    {
        var (path, between) = (Outside[0], DateTimeOffset.UtcNow);
        File.Delete(path);
        await Rescan();
        var details = await App.Get($"{Relink}/lost/{Lost(await App.Get(Relink, Cancel), Path.GetFileName(path))["id"]}", Cancel);
        Assert.InRange(details["lastSeen"]!.GetValue<DateTimeOffset>(), between - TimeSpan.FromMinutes(2), between);
        Assert.InRange(details["foundGone"]!.GetValue<DateTimeOffset>(), between.AddSeconds(-1), DateTimeOffset.UtcNow);
    }

    /// <summary>What documents use is read while nothing else is done: gone and back under another name, it is certain without having been asked for before.</summary>
    [Fact]
    public async Task WhatIsUsedIsReadAtRestAndKnownAgain()
    {
        await App.Get($"/api/sessions/{_session.Id}/files?take=100", Cancel);
        Assert.Equal(3, await AtRest.Read(App, Cancel));
        Assert.Equal(0, await AtRest.Read(App, Cancel));
        var path = Outside[0];
        File.Move(path, Path.Combine(_library, "under another name.wav"));
        await Rescan();
        Assert.True((await App.Get($"{Relink}/lost/{Lost(await App.Get(Relink, Cancel), Path.GetFileName(path))["id"]}", Cancel))["isIdentified"]!.GetValue<bool>());
        // A file that changed is due again.
        File.SetLastWriteTimeUtc(Outside[0], new DateTime(2026, 10, 2, 8, 0, 0, DateTimeKind.Utc));
        await App.Get($"/api/sessions/{_session.Id}/files?take=100", Cancel);
        Assert.Equal(1, await AtRest.Read(App, Cancel));
    }

    /// <summary>A drive gets another mount point, and its shelf is told so: what was known at the old path is known still, and all of it is certain at once.</summary>
    [Fact]
    public async Task AShelfThatIsToldToStandElsewhereKeepsWhatWasKnown()
    {
        await App.Get($"/api/sessions/{_session.Id}/files?take=100", Cancel);
        await AtRest.Read(App, Cancel);
        var shelf = (await App.Get("/api/shelves", Cancel)).AsArray().Single(s => s!["name"]!.GetValue<string>() == "Loft samples")!;
        // Called otherwise, so that nothing but their sound tells what they are.
        var moved = _library + " moved/of another name";
        Directory.CreateDirectory(Path.GetDirectoryName(moved)!);
        Directory.Move(_library, moved);
        (await App.Client.PutAsJsonAsync($"/api/shelves/{shelf["id"]}", new { name = "Loft samples", kind = "OwnLibrary", path = moved }, Cancel)).EnsureSuccessStatusCode();
        await Rescan();
        var relink = await App.Until(Relink, r => r["counts"]!["certain"]!.GetValue<int>() == 3, Cancel);
        Assert.All(relink["lost"]!.AsArray(), f => Assert.Equal("SameBytes", f!["best"]!["certainty"]!.GetValue<string>()));
        // Written over at its new place, it is what no document was ever saved with.
        var over = Directory.GetFiles(moved).Order(StringComparer.Ordinal).First();
        var bytes = await File.ReadAllBytesAsync(over, Cancel);
        bytes[^1] ^= 1;
        await File.WriteAllBytesAsync(over, bytes, Cancel);
        File.SetLastWriteTimeUtc(over, DateTime.UtcNow.AddHours(1));
        ((HostedApp)App).Service<KeptIdentities>().Identify(over, null, null, Cancel);
        await Rescan();
        await App.Until(Relink, r => r["counts"]!["certain"]!.GetValue<int>() == 2, Cancel);
    }

    /// <summary>
    /// A drive gets another mount point and is added as a new shelf, while the old one stays away: what both hold tells that it may be the
    /// same, and once somebody says so all that was known is known of it.
    /// </summary>
    [Fact]
    public async Task ADriveThatIsAddedOnceMoreTakesTheOldShelfsPlace()
    {
        await App.Get($"/api/sessions/{_session.Id}/files?take=100", Cancel);
        await AtRest.Read(App, Cancel);
        var old = (await Shelves()).Single(s => Name(s) == "Loft samples");
        var moved = _library + " moved/of another name";
        Directory.CreateDirectory(Path.GetDirectoryName(moved)!);
        Directory.Move(_library, moved);
        File.WriteAllText(Path.Combine(moved, "one more.txt"), "");
        await App.Until("/api/shelves", s => s.AsArray().Any(o => Name(o!) == "Loft samples" && !o!["connected"]!.GetValue<bool>()), Cancel);
        // A drive that holds as many other files is not asked about.
        var other = Directory.CreateDirectory(_library + " other").FullName;
        Array.ForEach(Directory.GetFiles(moved, "*.wav"), f => File.Copy(f, Path.Combine(other, "copy of " + Path.GetFileName(f))));
        await App.AddShelf("Other", "OwnLibrary", other, Cancel);
        var added = await App.AddShelf("Loft again", "OwnLibrary", moved, Cancel);
        await App.Until("/api/shelves", s => s.AsArray().All(o => !o!["connected"]!.GetValue<bool>() || o["scanned"] is not null), Cancel);
        var known = old["files"]!.GetValue<int>();
        Assert.Equal($$"""{"name":"Loft samples","known":{{known}},"atSamePlaces":{{known}}}""", (await Shelves()).Single(s => Name(s) == "Loft again")["mayBe"]!.ToJsonString());
        Assert.Single(await Shelves(), s => s["mayBe"] is not null);

        // Somebody tidied it up in the meantime: more than half of it is no longer there.
        var files = Directory.GetFiles(moved, "*.wav", SearchOption.AllDirectories);
        Array.ForEach(files, f => File.Move(f, f + ".aside"));
        await App.Post($"/api/shelves/{added}/scan", null, Cancel);
        await App.Until("/api/shelves/scans", s => s.AsArray().All(n => n!["state"]!.GetValue<string>() == "Done"), Cancel);
        Assert.Equal((404, $"No shelf that is away stands in '{moved}' (any more)."), await SaySame(added));
        Array.ForEach(files, f => File.Move(f + ".aside", f));
        await App.Post($"/api/shelves/{added}/scan", null, Cancel);
        await App.Until("/api/shelves/scans", s => s.AsArray().All(n => n!["state"]!.GetValue<string>() == "Done"), Cancel);

        await App.Post($"/api/shelves/{added}/same", new { isSame = true }, Cancel);
        var now = await Shelves();
        Assert.DoesNotContain(now, s => Name(s) == "Loft again");
        Assert.Equal((moved, old["id"]!.GetValue<string>()), (now.Single(s => Name(s) == "Loft samples")["root"]!.GetValue<string>(), now.Single(s => Name(s) == "Loft samples")["id"]!.GetValue<string>()));
        var relink = await App.Until(Relink, r => r["counts"]!["certain"]!.GetValue<int>() == 3, Cancel);
        Assert.All(relink["lost"]!.AsArray(), f => Assert.Equal("SameBytes", f!["best"]!["certainty"]!.GetValue<string>()));

        async Task<List<JsonNode>> Shelves() => [.. (await App.Get("/api/shelves", Cancel)).AsArray().Select(s => s!)];
        static string Name(JsonNode shelf) => shelf["name"]!.GetValue<string>();
    }

    /// <summary>A drive and its copy: the old one is away, the copy is another, and neither is asked about again.</summary>
    [Fact]
    public async Task ACopyOfADriveIsAnotherDriveOnceThatWasSaid()
    {
        var moved = _library + " moved";
        Directory.Move(_library, moved);
        await App.Until("/api/shelves", s => s.AsArray().Any(o => !o!["connected"]!.GetValue<bool>()), Cancel);
        var added = await App.AddShelf("Copy", "OwnLibrary", moved, Cancel);
        await App.Until("/api/shelves", s => s.AsArray().Any(o => o!["mayBe"] is not null), Cancel);
        await App.Post($"/api/shelves/{added}/same", new { isSame = false }, Cancel);
        Assert.DoesNotContain((await App.Get("/api/shelves", Cancel)).AsArray(), s => s!["mayBe"] is not null);
        await App.Post($"/api/shelves/{added}/scan", null, Cancel);
        await App.Until("/api/shelves/scans", s => s.AsArray().All(n => n!["state"]!.GetValue<string>() == "Done"), Cancel);
        Assert.DoesNotContain((await App.Get("/api/shelves", Cancel)).AsArray(), s => s!["mayBe"] is not null);
        Assert.Equal(404, (await SaySame(added)).Status);
        // The old one comes back: there is nothing to ask any more.
        Tool.Run("cp", "-a", moved, _library);
        await App.Until("/api/shelves", s => s.AsArray().All(o => o!["connected"]!.GetValue<bool>()), Cancel);
    }

    /// <summary>A session drive: its sessions go along, and one that was put on the list from both places stops it with nothing changed.</summary>
    [Fact]
    public async Task SessionsOnADriveThatIsAddedOnceMoreGoAlong()
    {
        var dock = Directory.CreateDirectory(Path.Combine(_session.Root, "dock")).FullName;
        var moved = Path.Combine(dock, "drive");
        // In two places at once, as a drive in a dock and over the network.
        Tool.Run("cp", "-a", _session.Drive, moved);
        var parent = await App.AddShelf("Dock", "SessionDrive", dock, Cancel);
        var again = await App.Adopt(parent, $"drive/{Path.GetFileName(_session.Folder)}", Cancel);
        Assert.NotEqual(_session.Id, again);
        (await App.Client.DeleteAsync($"/api/shelves/{parent}", Cancel)).EnsureSuccessStatusCode();
        Directory.Delete(_session.Drive, recursive: true);
        await App.Until("/api/shelves", s => s.AsArray().Any(o => o!["id"]!.GetValue<string>() == _session.DriveId && !o["connected"]!.GetValue<bool>()), Cancel);
        var added = await App.AddShelf("Again", "SessionDrive", moved, Cancel);
        await App.Until("/api/shelves", s => s.AsArray().Any(o => o!["mayBe"] is not null), Cancel);
        Assert.Equal(
            (400, $"'{Path.GetFileName(_session.Folder)}' is on the list of sessions from both places. Take one of them off the list first; no file is touched by that."),
            await SaySame(added));
        Assert.Contains((await App.Get("/api/shelves", Cancel)).AsArray(), s => s!["mayBe"] is not null);
        (await App.Client.DeleteAsync($"/api/sessions/{again}", Cancel)).EnsureSuccessStatusCode();
        await App.Post($"/api/shelves/{added}/same", new { isSame = true }, Cancel);
        Assert.Equal(Path.Combine(moved, Path.GetFileName(_session.Folder)), (await App.Get($"/api/sessions/{_session.Id}", Cancel))["session"]!["folder"]!.GetValue<string>());
    }

    /// <summary>It begins after two minutes of rest, stops where other work begins, and goes on later; stopped by somebody it stays so.</summary>
    [Fact]
    public async Task ReadingAtRestGivesWayAndGoesOnLater()
    {
        // Large enough that it is still being read when the other work begins.
        using (var large = File.OpenWrite(Outside[0]))
        {
            large.SetLength(400_000_000);
        }
        File.SetLastWriteTimeUtc(Outside[0], new DateTime(2026, 10, 2, 8, 0, 0, DateTimeKind.Utc));
        await App.Get($"/api/sessions/{_session.Id}/files?take=100", Cancel);
        var (app, clock) = ((HostedApp)App, new HandClock());
        var engine = app.Service<WorkEngine>();
        using var atRest = new IdentitiesAtRest(
            app.Service<SessionService>(), app.Service<ShelfService>(), app.Service<KeptSessions>(), app.Service<KeptIdentities>(), engine, app.Service<RecordingGuard>(), clock, NullLogger<IdentitiesAtRest>.Instance);

        async Task<Guid?> LookAfter(TimeSpan time)
        {
            clock.Passed += time;
            await atRest.LookNow(Cancel);
            return engine.All().FirstOrDefault(j => j.Sentence.Contains("while nothing else is done", StringComparison.Ordinal))?.Id;
        }

        async Task<JobState> Ended(Guid? id) => Enum.Parse<JobState>((await App.JobOver(new JsonObject { ["id"] = id!.Value.ToString() }, Cancel))["state"]!.GetValue<string>());

        Assert.Null(await LookAfter(TimeSpan.FromSeconds(110)));
        var first = await LookAfter(TimeSpan.FromSeconds(11));
        Assert.NotNull(first);
        var other = new Stop("other work");
        var job = engine.Start(other);
        Assert.Equal(first, await LookAfter(TimeSpan.Zero));
        Assert.Equal(JobState.Cancelled, await Ended(first));
        Assert.Equal(first, await LookAfter(TimeSpan.FromMinutes(10)));
        other.Go.Set();
        await job.Ended.WaitAsync(Cancel);
        Assert.Equal(first, await LookAfter(TimeSpan.FromSeconds(119)));
        Assert.Equal(first, await LookAfter(TimeSpan.FromSeconds(119)));
        var second = await LookAfter(TimeSpan.FromSeconds(2));
        Assert.NotEqual(first, second);
        engine.Cancel(second!.Value);
        Assert.Equal(JobState.Cancelled, await Ended(second));
        await LookAfter(TimeSpan.Zero);
        Assert.Equal(second, await LookAfter(TimeSpan.FromHours(1)));
    }

    /// <summary>Time passes when it is told to.</summary>
    private sealed class HandClock : TimeProvider
    {
        public TimeSpan Passed { get; set; }

        public override long TimestampFrequency => TimeSpan.TicksPerSecond;

        public override long GetTimestamp() => Passed.Ticks;
    }

    /// <summary>A drive that is back is looked at before it is told what is back with it: what was deleted meanwhile is not promised.</summary>
    [Fact]
    public async Task OnlyWhatIsThereIsToldToBeBack()
    {
        var elsewhere = _library + " unplugged";
        var watch = ((HostedApp)App).Service<ShelfWatch>();
        await watch.LookNow(Cancel);
        Directory.Move(_library, elsewhere);
        await watch.LookNow(Cancel);
        await App.Until($"/api/sessions/{_session.Id}", s => s["session"]!["attention"]!.GetValue<string>() == "Silent", Cancel);
        File.Delete(Path.Combine(elsewhere, "sample 00.wav"));
        Directory.Move(elsewhere, _library);
        await watch.LookNow(Cancel);
        Assert.Equal("'Loft samples' is back: 2 files of this session are there again.", Assert.Single((await App.Get("/api/notices", Cancel)).AsArray())!["text"]!.GetValue<string>());
    }

    [Fact]
    public async Task AMarkStopsTheAskingAndCanBeTakenOff()
    {
        var path = Outside[0];
        File.Delete(path);
        await Rescan();
        var lost = Lost(await App.Get(Relink, Cancel), Path.GetFileName(path));
        await App.Client.SendAsync(Marking(lost, "Gone", "burnt"), Cancel);
        var marked = Lost(await App.Get(Relink, Cancel), Path.GetFileName(path));
        Assert.Equal(("Gone", "burnt"), (marked["mark"]!.GetValue<string>(), marked["note"]!.GetValue<string>()));
        Assert.Contains("1 left as it is", (await App.Get(Relink, Cancel))["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        await App.Client.SendAsync(Marking(lost, "None", null), Cancel);
        Assert.Equal("None", Lost(await App.Get(Relink, Cancel), Path.GetFileName(path))["mark"]!.GetValue<string>());
    }

    private HttpRequestMessage Marking(JsonNode lost, string mark, string? note) => new(HttpMethod.Post, $"{Relink}/marks")
    {
        Content = System.Net.Http.Json.JsonContent.Create(new { lostIds = new[] { lost["id"]!.GetValue<string>() }, mark, note }),
    };

    [Fact]
    public async Task WhatMakesNoSenseIsRefusedWithASentence()
    {
        var nothing = new { choices = Array.Empty<object>(), olderDocuments = true, along = Array.Empty<string>(), way = "CopyIn" };
        Assert.Equal("Nothing is chosen. Choose what takes the place of a missing file.", (await App.Post($"{Relink}/plan", nothing, Cancel))["refusals"]![0]!.GetValue<string>());
        Assert.Equal(404, (await App.PostRefused($"{Relink}/plan", nothing with { choices = [new { lostId = "no such file", foundId = (string?)null, way = "CopyIn" }] }, Cancel)).Status);
        Assert.Equal(400, (await App.PostRefused($"{Relink}/plan", new { choices = new[] { new { } }, olderDocuments = true, along = Array.Empty<string>(), way = "CopyIn" }, Cancel)).Status);
        foreach (var places in (string[][])[["/no/such/folder"], []])
        {
            Assert.Equal(400, (await App.PostRefused($"{Relink}/search", new { places }, Cancel)).Status);
        }
        Assert.Equal(404, (int)(await App.Client.GetAsync($"{Relink}/lost/no-such-file", Cancel)).StatusCode);
        Assert.Equal(404, (int)(await App.Client.GetAsync($"{Relink}/found/no-such-file/audio", Cancel)).StatusCode);
    }

    /// <summary>What is noted of an identity is asked of those missing files alone that it concerns, and they are judged as if all were judged anew.</summary>
    [Fact]
    public async Task AnIdentityIsTakenInWhereItConcerns()
    {
        var app = (HostedApp)App;
        var (identities, relink, row) = (app.Service<KeptIdentities>(), app.Service<RelinkService>(), app.Service<SessionService>().Get(Guid.Parse(_session.Id)));
        void Identify(string path) => identities.Identify(path, NeatCrate.Core.Media.MediaHeaderReader.ReadFile(path), null, Cancel);
        string Put(string from, params string[] to)
        {
            var path = Path.Combine([_library, .. to]);
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            File.Copy(from, path);
            File.SetLastWriteTimeUtc(path, new DateTime(2026, 10, 1, 8, 0, to.Length, DateTimeKind.Utc));
            return path;
        }
        var outside = Outside;
        Identify(outside[0]);
        // Known by its identity and called otherwise; moved; there twice; of no concern; and in the session's own folder.
        string[] files =
        [
            Put(outside[0], "another name.wav"), Put(outside[1], "moved", "sample 01.wav"), Put(outside[2], "a", "sample 02.wav"), Put(outside[2], "b", "sample 02.wav"),
            Put(outside[1], "gull.wav"), Path.Combine(Directory.CreateDirectory(Path.Combine(_session.Folder, "Audio")).FullName, "sample 00.wav"),
        ];
        File.Copy(outside[2], files[^1]);
        File.SetLastWriteTimeUtc(files[^1], new DateTime(2026, 10, 1, 9, 0, 0, DateTimeKind.Utc));
        using (var stream = File.Create(files[4]))
        using (var writer = new NeatCrate.Core.Media.WavWriter(stream, new NeatCrate.Core.Media.PcmFormat(44100, 1, 24)))
        {
            writer.Write(new int[77]);
        }
        File.SetLastWriteTimeUtc(files[4], new DateTime(2026, 10, 1, 9, 0, 0, DateTimeKind.Utc));
        Array.ForEach(outside, File.Delete);
        await Rescan();

        static List<string> Text(LostFiles lost) =>
            [.. lost.Entries.Select(e => $"{e.File.Path}: {string.Join("; ", e.Matches.All.Select(m => $"{m.File.Path} {m.Certainty} {m.IsRival} {string.Concat(m.Evidence.Select(v => (int)v.Verdict))}"))}"), .. lost.Moves.Select(m => m.Move.ToString())];
        LostFiles Anew() => new RelinkService(
            app.Service<SessionService>(), app.Service<ShelfService>(), app.Service<FormerRoots>(), app.Service<Catalogue>(), identities, app.Service<KeptCopies>(), app.Service<RelinkNotes>()).Of(row, Cancel);
        var before = relink.Of(row, Cancel);
        Assert.Equal(3, before.Entries.Count);
        var changed = 0;
        foreach (var file in files)
        {
            var revision = identities.Revision;
            Identify(file);
            Assert.NotEqual(revision, identities.Revision);
            var after = relink.Of(row, Cancel);
            Assert.Equal(Text(Anew()), Text(after));
            Assert.Equal(Path.GetFileName(file) == "gull.wav", ReferenceEquals(before, after));
            changed += Text(before).SequenceEqual(Text(after)) ? 0 : 1;
            before = after;
        }
        Assert.InRange(changed, 3, files.Length);
        Assert.Equal(NeatCrate.Core.Relink.Certainty.SameBytes, before.Entries.Single(e => e.File.Name == "sample 00.wav").Matches.Best!.Certainty);
    }
}
