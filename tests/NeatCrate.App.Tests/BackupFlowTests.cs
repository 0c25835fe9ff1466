using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.App.Backups;
using NeatCrate.App.Scans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Backing up over the API: saves are kept, second places catch up, vaults are filled, checked and brought back from.</summary>
public sealed class BackupFlowTests : IAsyncLifetime
{
    private const string Name = "261014 Net Mender";

    private static readonly string[] OneTrack = ["Samples"];
    private static readonly string[] OneTake = ["Oud"];
    private static readonly string[] OneLost = ["Audio/sample 00.wav"];

    private readonly LiveSession _session = new(2, 48_000);
    private string _vaultId = "";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Backups => $"/api/sessions/{_session.Id}/backups";

    private string Document => Path.Combine(_session.Folder, Name + ".otio");

    private string Kept => Path.Combine(_session.Folder, "Document backups");

    private string Vault => Path.Combine(_session.Root, "vault");

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        _vaultId = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Vault).FullName, Cancel);
        await UntilKept(d => d.Count == 1);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private static string Text(JsonNode version, string member) => version[member]?.GetValue<string>() ?? "";

    /// <summary>Waits until so many saves are kept, and all of them in the session's folder: they come there a moment after the own place has them.</summary>
    private Task<JsonNode> UntilInSession(int saves) => UntilKept(d => d.Count == saves && Directory.Exists(Kept) && Directory.GetFiles(Kept, "*.otio").Length == saves);

    private static List<JsonNode> Versions(JsonNode backups, string kind) => [.. backups["versions"]!.AsArray().Where(v => Text(v!, "kind") == kind).Select(v => v!)];

    private Task<JsonNode> UntilKept(Func<List<JsonNode>, bool> holds) => App.Until(Backups, b => holds(Versions(b, "Document")), Cancel);

    /// <summary>What is kept of the documents' states, wherever; the bytes, not what is said of them.</summary>
    private async Task<HashSet<string>> Contents()
    {
        var own = Path.Combine(_session.Root, "data", "document-backups", _session.Id);
        await Task.Yield();
        // What goes from the own place is in the session's by then, so that is looked into last.
        return [.. new[] { own, Kept }.Where(Directory.Exists).SelectMany(Directory.GetFiles).Where(f => !f.EndsWith(".txt", StringComparison.Ordinal) && !f.EndsWith(".part", StringComparison.Ordinal)).Select(TextOf).OfType<string>()];
    }

    private static string? TextOf(string path)
    {
        try
        {
            return File.ReadAllText(path);
        }
        catch (FileNotFoundException)
        {
            return null;
        }
    }

    /// <summary>Saved as many programs do it: the new file beside the old, then over it. Nobody ever sees half of it.</summary>
    private static void InOneStep(string path, string text)
    {
        File.WriteAllText(path + ".new", text);
        File.Move(path + ".new", path, overwrite: true);
    }

    private string Save(string note)
    {
        var text = File.ReadAllText(Document).Replace("\"Samples\"", $"\"Samples\", \"note\": \"{note}\"", StringComparison.Ordinal);
        InOneStep(Document, text);
        return text;
    }

    private async Task<JsonNode> FullBackup(string note = "")
    {
        var job = await App.JobOver(await App.Post($"{Backups}/full", new { vaultId = _vaultId, note, byContent = false }, Cancel), Cancel);
        Assert.Equal("Done", Text(job, "state"));
        return job;
    }

    /// <summary>Waits until the state that a document has now is kept; a busy machine may make more than one state of what came before.</summary>
    private async Task UntilNowIsKept(string document)
    {
        var (name, text) = (Path.GetFileName(document), File.ReadAllText(document));
        await UntilKept(d => d.Any(v => Text(v, "document") == name) && Contents().Result.Contains(text));
    }

    /// <summary>A second place that refuses, a session folder that takes none, a document with a name of the greatest length: whatever it is, every save of every document is kept.</summary>
    [Theory]
    [InlineData("second")]
    [InlineData("session")]
    [InlineData("name")]
    public async Task WhatRefusesHoldsUpNoSave(string what)
    {
        var second = Directory.CreateDirectory(Path.Combine(_session.Root, "second")).FullName;
        if (what == "second")
        {
            File.WriteAllText(Path.Combine(second, "Neat Crate document backups"), "in the way");
            var shelf = await App.AddShelf("Studio B", "Removable", second, Cancel);
            var choice = (await App.Get(Backups, Cancel))["choice"]!;
            choice["secondShelf"] = shelf;
            (await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).EnsureSuccessStatusCode();
        }
        else if (what == "session")
        {
            File.WriteAllText(Kept, "in the way");
        }
        else
        {
            File.WriteAllText(Path.Combine(_session.Folder, new string('x', 245) + ".otio"), "{}");
        }
        var states = new HashSet<string>();
        for (var n = 0; n < 5; n++)
        {
            states.Add(Save($"state {n}"));
            await UntilNowIsKept(Document);
        }
        await App.Until(Backups, b => Versions(b, "Document").Count(v => Text(v, "document") == Name + ".otio") >= 6, Cancel);
        Assert.Superset(states, await Contents());
    }

    /// <summary>Ten saves in a burst, one by replace and rename, one in place with its time put back, one of a format that nobody reads: no state that stood is lost.</summary>
    [Fact]
    public async Task EverySaveOfAnyProgramIsKept()
    {
        Assert.False(Directory.Exists(Kept));
        var states = new HashSet<string> { File.ReadAllText(Document) };
        for (var n = 0; n < 10; n++)
        {
            File.WriteAllText(Document, $"{{\"burst\": {n}}}");
        }
        states.Add(File.ReadAllText(Document));
        await UntilNowIsKept(Document);
        InOneStep(Document, "{\"replaced\": true}");
        states.Add(File.ReadAllText(Document));
        await UntilNowIsKept(Document);
        var time = File.GetLastWriteTimeUtc(Document);
        File.WriteAllText(Document, "{\"replaced\": trüe}"[..17]);
        File.SetLastWriteTimeUtc(Document, time);
        states.Add(File.ReadAllText(Document));
        await UntilNowIsKept(Document);
        var foreign = Path.Combine(_session.Folder, "mix.song-of-another-program");
        foreach (var text in new[] { "one", "two" })
        {
            File.WriteAllText(foreign, text);
            states.Add(text);
            await UntilNowIsKept(foreign);
        }
        Assert.Superset(states, await Contents());
        // Saved again as it was, in one step: nothing new is kept, and nothing twice.
        var before = Versions(await App.Get(Backups, Cancel), "Document").Count;
        Assert.InRange(before, states.Count, int.MaxValue);
        InOneStep(foreign, "one");
        await Task.Delay(1500, Cancel);
        Assert.Equal(before, Versions(await App.Get(Backups, Cancel), "Document").Count);
        var kept = Directory.GetFiles(Kept).Select(File.ReadAllText).ToList();
        Assert.Equal(kept.Distinct(), kept);
    }

    /// <summary>What was saved while the application did not run is noticed at its start, and the state before is there as well.</summary>
    [Fact]
    public async Task ASaveWhileTheApplicationIsDownIsNoticed()
    {
        var before = File.ReadAllText(Document);
        App.Dispose();
        var after = Save("while it was down");
        _session.Restart();
        await UntilKept(d => d.Count == 2);
        Assert.Superset(new HashSet<string> { before, after }, await Contents());
    }

    [Fact]
    public async Task ASecondPlaceThatWasAwayCatchesUp()
    {
        var second = Directory.CreateDirectory(Path.Combine(_session.Root, "second")).FullName;
        var shelf = await App.AddShelf("Studio B", "Removable", second, Cancel);
        var choice = (await App.Get(Backups, Cancel))["choice"]!;
        choice["secondShelf"] = shelf;
        (await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).EnsureSuccessStatusCode();
        Save("first");
        await App.Until(Backups, b => Versions(b, "Document") is { Count: 2 } all && all.TrueForAll(v => v["isInSecond"]!.GetValue<bool>()), Cancel);
        Directory.Move(second, second + " unplugged");
        await App.Until(Backups, b => b["status"]!["secondIsAway"]!.GetValue<bool>(), Cancel);
        Save("second");
        var behind = await App.Until(Backups, b => Versions(b, "Document").Count == 3 && b["status"]!["secondBehind"]!.GetValue<int>() == 1, Cancel);
        Assert.Contains("'Studio B' is away and lacks 1 kept save.", Text(behind["status"]!, "sentence"), StringComparison.Ordinal);
        Directory.Move(second + " unplugged", second);
        await App.Until(Backups, b => b["status"]!["secondBehind"]!.GetValue<int>() == 0 && !b["status"]!["secondIsAway"]!.GetValue<bool>(), Cancel);
        var there = Directory.GetFiles(Path.Combine(second, "Neat Crate document backups", Name), "*.otio");
        Assert.Equal(3, there.Length);
        Assert.Contains(there, f => File.ReadAllText(f) == File.ReadAllText(Document));
    }

    [Fact]
    public async Task OnlyHereBecomesTwoPlacesAndTheSessionComesBack()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        var status = (await App.Get(Backups, Cancel))["status"]!;
        Assert.Equal((2, true), (status["safety"]!["onlyHere"]!["files"]!.GetValue<int>(), status["worry"]!.GetValue<bool>()));
        await UntilInSession(2);
        await FullBackup("after copying in");
        // The vault is on the session's own drive: that is no second place.
        status = (await App.Get(Backups, Cancel))["status"]!;
        Assert.Equal((0, 2, 0, true), (status["safety"]!["onlyHere"]!["files"]!.GetValue<int>(), status["safety"]!["onOneDrive"]!["files"]!.GetValue<int>(), status["safety"]!["safe"]!["files"]!.GetValue<int>(), status["worry"]!.GetValue<bool>()));
        Assert.Contains(" are on one drive only, backup and all.", Text(status, "sentence"), StringComparison.Ordinal);
        // Each of the demo's shelves is a simulated drive of its own.
        var other = Directory.CreateDirectory(Path.Combine(_session.Root, "data", "demo", "shelves", "Other vault")).FullName;
        var otherId = ((HostedApp)App).Service<ShelfService>().Know("Other vault", ShelfKind.Vault, other).Id;
        Assert.Equal("Done", Text(await App.JobOver(await App.Post($"{Backups}/full", new { vaultId = otherId, note = "", byContent = false }, Cancel), Cancel), "state"));
        var backups = await App.Until(Backups, b => !b["status"]!["worry"]!.GetValue<bool>(), Cancel);
        Assert.Equal([false, true], backups["vaults"]!.AsArray().OrderBy(v => Text(v!, "name"), StringComparer.Ordinal).Select(v => v!["sharesDrive"]!.GetValue<bool>()));
        status = backups["status"]!;
        // Away, it is on another drive still; and so it is after a start.
        Directory.Move(other, other + " away");
        await App.Until(Backups, b => b["vaults"]!.AsArray().Any(v => !v!["connected"]!.GetValue<bool>()), Cancel);
        Assert.Equal(Text(status, "sentence"), Text((await App.Get(Backups, Cancel))["status"]!, "sentence"));
        Assert.Equal((0, 2, false), (status["safety"]!["onlyHere"]!["files"]!.GetValue<int>(), status["safety"]!["safe"]!["files"]!.GetValue<int>(), status["worry"]!.GetValue<bool>()));
        Assert.StartsWith("Every file is in 2 places or more.", Text(status, "sentence"), StringComparison.Ordinal);
        Assert.Contains("nothing new", (await FullBackup())["message"]!.GetValue<string>().Replace("0 B of it new", "nothing new", StringComparison.Ordinal), StringComparison.Ordinal);
        var full = Versions(await App.Get(Backups, Cancel), "Full")[^1];
        Assert.Equal("after copying in", Text(full, "note"));
        var plan = await App.Post($"/api/sessions/{_session.Id}/versions/session/plan", new { version = Text(full, "key"), shelfId = _session.DriveId, path = "", name = "came back" }, Cancel);
        await App.Apply(plan, Cancel);
        var (was, now) = (Tree.Of(_session.Folder), Tree.Of(Path.Combine(_session.Drive, "came back")));
        Assert.Equal(was.Where(f => f.Value != "folder"), now.Where(f => f.Value != "folder"));
        // It is a session of its own on the loading bay, and the other one is as it was.
        Assert.Equal(["261014 Net Mender", "came back"], (await App.Get("/api/sessions", Cancel)).AsArray().Select(s => Text(s!, "name")).Order());
    }

    /// <summary>One press at the loading bay: each session of which something is only here goes into a vault, and one that is being backed up is left to that.</summary>
    [Fact]
    public async Task WhatIsOnlyHereIsBackedUpOnOnePress()
    {
        async Task<int> OnlyHere() => (await App.Get("/api/sessions", Cancel)).AsArray()[0]!["backup"]!["safety"]!["onlyHere"]!["files"]!.GetValue<int>();
        Assert.True(await OnlyHere() > 0);
        // Two press at once: one of them begins it.
        var both = await Task.WhenAll(App.Post("/api/backups/only-here", null, Cancel), App.Post("/api/backups/only-here", null, Cancel));
        var (begun, again) = both[0]["jobs"]!.AsArray().Count > 0 ? (both[0]["jobs"]!.AsArray(), both[1]["jobs"]!.AsArray()) : (both[1]["jobs"]!.AsArray(), both[0]["jobs"]!.AsArray());
        Assert.Equal("Done", (await App.JobOver(Assert.Single(begun)!, Cancel))["state"]!.GetValue<string>());
        Assert.Empty(again);
        Assert.Equal(0, await OnlyHere());
        Assert.Single(Versions(await App.Get(Backups, Cancel), "Full"));
        // All drives of the tests are one: what a vault on it holds by now is no safer for being there twice, and that is said.
        var left = await App.Post("/api/backups/only-here", null, Cancel);
        Assert.Empty(left["jobs"]!.AsArray());
        Assert.Equal([Name], left["without"]!.AsArray().Select(n => n!.GetValue<string>()));
    }

    /// <summary>Those that were chosen are backed up, each once, also into a vault on their own drive; one that is not known stops all before any is begun.</summary>
    [Fact]
    public async Task ChosenOnesAreBackedUpTogether()
    {
        Tree.Copy(_session.Folder, Path.Combine(_session.Drive, "Again"));
        var again = await App.Adopt(_session.DriveId, "Again", Cancel);
        Task<JsonNode> Begin(params string[] ids) => App.Post("/api/backups/many", new { sessionIds = ids }, Cancel);
        Assert.Equal(404, (await App.PostRefused("/api/backups/many", new { sessionIds = new[] { again, Guid.NewGuid().ToString() } }, Cancel)).Status);
        Assert.DoesNotContain((await App.Get("/api/jobs", Cancel)).AsArray(), j => Text(j!, "work") == "Backup");
        var both = await Task.WhenAll(Begin(again, _session.Id, again), Begin(again, _session.Id));
        var begun = both.SelectMany(b => b["jobs"]!.AsArray()).Select(j => j!).ToList();
        Assert.Equal(new[] { again, _session.Id }.Order(), begun.Select(j => Text(j, "sessionId")).Distinct().Order());
        foreach (var job in begun)
        {
            Assert.Equal("Done", Text(await App.JobOver(job, Cancel), "state"));
        }
        Assert.All(both, b => Assert.Empty(b["without"]!.AsArray()));
        Assert.NotEmpty(Versions(await App.Get($"/api/sessions/{again}/backups", Cancel), "Full"));
        // What has a backup on its own drive is backed up again there when somebody asks for it.
        Assert.Single((await Begin(_session.Id))["jobs"]!.AsArray());
    }

    [Fact]
    public async Task VersionsAreComparedAndATrackComesBack()
    {
        var first = Versions(await App.Get(Backups, Cancel), "Document")[0];
        var text = File.ReadAllText(Document);
        var document = JsonNode.Parse(text)!;
        document["tracks"]!["children"]![0]!["children"]!.AsArray().RemoveAt(1);
        File.WriteAllText(Document, document.ToJsonString());
        await UntilKept(d => d.Count == 2);
        var compared = await App.Get($"/api/sessions/{_session.Id}/versions/compare?one={Uri.EscapeDataString(Text(first, "key"))}", Cancel);
        Assert.StartsWith("1 clip gone, ", Text(compared, "sentence"), StringComparison.Ordinal);
        var lost = (await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]!.AsArray();
        Assert.Single(lost);
        await App.Apply(await App.Post($"/api/sessions/{_session.Id}/versions/tracks/plan", new { version = Text(first, "key"), tracks = OneTrack }, Cancel), Cancel);
        Assert.Equal(2, (await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]!.AsArray().Count);
        Assert.Contains("Samples (from ", File.ReadAllText(Document), StringComparison.Ordinal);
    }

    /// <summary>A save that our own place lets go, since the session has it by now, is still read by whoever found it there a moment ago.</summary>
    [Fact]
    public async Task ASaveThatMovesOnMeanwhileIsStillRead()
    {
        var app = (HostedApp)App;
        var (row, versions) = (app.Service<SessionService>().Get(Guid.Parse(_session.Id)), app.Service<VersionService>());
        var places = app.Service<DocumentPlaces>().Of(row);
        var own = Directory.GetFiles(places.Own.Folder, "*.otio").Single();
        var inSession = Path.Combine(Directory.CreateDirectory(Kept).FullName, Path.GetFileName(own));
        var found = versions.Get(row, "document/" + Path.GetFileName(own));
        Assert.Equal(own, found.State!.Path);
        File.Move(own, inSession);
        Assert.Equal(File.ReadAllBytes(inSession), versions.BytesOf(found));
        Assert.Equal(inSession, versions.DocumentOf(found).Origin.Source);
        File.Delete(inSession);
        Assert.Throws<FaultException>(() => versions.BytesOf(found));
    }

    /// <summary>What each save changed is told for all of them at once, and worked out once.</summary>
    [Fact]
    public async Task WhatEachSaveChangedIsKnownForGood()
    {
        var document = JsonNode.Parse(File.ReadAllText(Document))!;
        var clips = document["tracks"]!["children"]![0]!["children"]!.AsArray();
        var gone = clips[1]!.DeepClone();
        clips.RemoveAt(1);
        File.WriteAllText(Document, document.ToJsonString());
        await UntilKept(d => d.Count == 2);
        clips.Insert(1, gone);
        clips.Insert(1, gone.DeepClone());
        File.WriteAllText(Document, document.ToJsonString());
        await UntilKept(d => d.Count == 3);
        // Saves of one second say the same time, and stand in their order, the newest first.
        var oldest = Text(Versions(await App.Get(Backups, Cancel), "Document")[^1], "key");
        async Task<string> Told(int take = 100) => string.Join(
            "; ", (await App.Get($"/api/sessions/{_session.Id}/versions/changes?from={Uri.EscapeDataString(oldest)}&take={take}", Cancel)).AsArray().Select(c => $"{c!["came"]} {c["went"]} {c["otherwise"]}"));
        Assert.Equal("  ; 0 1 1; 2 0 0", await Told());
        Assert.Equal("  ; 0 1 1", await Told(2));
        int Remembered() => ((HostedApp)App).Service<StoredSettings>().ReadAll<object>("save change ").Count;
        Assert.Equal(2, Remembered());
        Assert.Equal(503, (int)(await App.Client.GetAsync(new Uri($"/api/sessions/{_session.Id}/versions/changes?from=document/none", UriKind.Relative), Cancel)).StatusCode);
    }

    /// <summary>Saves of one second stand in the order in which they were kept: the one that got a number came after the one without.</summary>
    [Fact]
    public async Task SavesOfOneSecondStandInTheirOrder()
    {
        var kept = new List<string>();
        for (var n = 0; n < 8; n++)
        {
            Save($"save {n}");
            kept.Add(Text(await App.Post($"{Backups}/keep", new { note = $"note {n}" }, Cancel), "key"));
        }
        Assert.Contains(kept, k => k.EndsWith(").otio", StringComparison.Ordinal));
        var told = Versions(await App.Get(Backups, Cancel), "Document").Select(v => Text(v, "key")).Where(kept.Contains).ToList();
        Assert.Equal(kept, Enumerable.Reverse(told));
    }

    /// <summary>No backup starts while the recorder runs; what is due, and what was saved meanwhile, follows when it stops.</summary>
    [Fact]
    public async Task NothingIsBackedUpWhileTheRecorderRuns()
    {
        await App.Post($"/api/sessions/{_session.Id}/record/start", new { tracks = OneTake, seconds = 60, fromSeconds = 0, pass = (int?)null, speed = 1, cutPowerAfter = (double?)null }, Cancel);
        var job = await App.Post($"{Backups}/full", new { vaultId = _vaultId, note = "", byContent = false }, Cancel);
        Save("while it runs");
        await App.Until("/api/jobs", j => j.AsArray().Any(x => Text(x!, "id") == Text(job, "id") && Text(x!, "state") == "Held"), Cancel);
        var (status, problem) = await App.PostRefused($"{Backups}/keep", new { note = "now" }, Cancel);
        Assert.Equal(409, status);
        Assert.Contains("while the recorder runs", Text(problem, "title"), StringComparison.Ordinal);
        await Task.Delay(1500, Cancel);
        Assert.Single(Versions(await App.Get(Backups, Cancel), "Document"));
        Assert.False(Directory.Exists(Path.Combine(Vault, "Neat Crate vault", "backups")));
        await App.Post($"/api/sessions/{_session.Id}/record/stop", null, Cancel);
        await App.JobOver(job, Cancel);
        await UntilKept(d => d.Count == 2);
        Assert.Contains("Audio/Oud 01.wav", File.ReadAllText(Assert.Single(Directory.GetFiles(Path.Combine(Vault, "Neat Crate vault", "backups", Name)))), StringComparison.Ordinal);
    }

    [Fact]
    public async Task DamageIsFoundToldAndMendedFromTheSession()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await UntilInSession(2);
        await FullBackup();
        var content = Directory.GetFiles(Path.Combine(Vault, "Neat Crate vault", "content"), "*", SearchOption.AllDirectories).MaxBy(f => new FileInfo(f).Length)!;
        var whole = File.ReadAllBytes(content);
        File.WriteAllBytes(content, [.. whole[..^1], (byte)(whole[^1] ^ 1)]);
        var job = await App.JobOver(await App.Post($"/api/vaults/{_vaultId}/check", null, Cancel), Cancel);
        Assert.Contains($"1 damaged file mended, from the session '{Name}'.", Text(job, "message"), StringComparison.Ordinal);
        Assert.Equal(whole, File.ReadAllBytes(content));
        // With no other place that has it, it is told, and counts as no place any more.
        var found = (await App.Get(Backups, Cancel))["vaults"]![0]!["checkedWhole"]!.ToString();
        File.WriteAllBytes(content, [.. whole[..^1], (byte)(whole[^1] ^ 1)]);
        var sounds = Directory.GetFiles(Path.Combine(_session.Folder, "Audio")).ToDictionary(f => f, File.ReadAllBytes);
        foreach (var sound in sounds.Keys)
        {
            File.AppendAllText(sound, "more");
        }
        job = await App.JobOver(await App.Post($"/api/vaults/{_vaultId}/check", null, Cancel), Cancel);
        Assert.Equal("Failed", Text(job, "state"));
        Assert.Contains("sample 0", Text(job, "message"), StringComparison.Ordinal);
        var vault = (await App.Get(Backups, Cancel))["vaults"]![0]!;
        Assert.Single(vault["damaged"]!.AsArray());
        // It is not said to have been found whole at this time.
        Assert.Equal(found, vault["checkedWhole"]!.ToString());
        // A share without it does not hide it.
        var (backups, shelf) = (((HostedApp)App).Service<BackupService>(), ((HostedApp)App).Service<VaultService>().Get(Guid.Parse(_vaultId)));
        var told = new List<string>();
        for (var share = 0; share < 3; share++)
        {
            told.Add((await backups.Check(shelf, 1).Ended.WaitAsync(Cancel)).Message ?? "");
        }
        Assert.Contains(told, t => t.EndsWith("All of that is whole; 1 file found damaged before is damaged still.", StringComparison.Ordinal));
        Assert.DoesNotContain(told, t => t.Contains("All of it is whole", StringComparison.Ordinal));
        // The sound is there again as it was: the next backup does not count on what is damaged, and writes it anew.
        foreach (var (path, bytes) in sounds)
        {
            File.WriteAllBytes(path, bytes);
        }
        await FullBackup();
        Assert.Equal(whole, File.ReadAllBytes(content));
    }

    /// <summary>A vault in a session would be backed up into itself: neither a new shelf there becomes one, nor one that is there already.</summary>
    [Fact]
    public async Task NoVaultStandsInASession()
    {
        var inside = Directory.CreateDirectory(Path.Combine(_session.Folder, "Vault")).FullName;
        var (status, problem) = await App.PostRefused("/api/shelves", new { name = "V", kind = "Vault", path = inside }, Cancel);
        Assert.Equal(400, status);
        Assert.Contains($"lies in the session '{Name}'", Text(problem, "title"), StringComparison.Ordinal);
        var shelf = await App.AddShelf("Notes", "OwnLibrary", inside, Cancel);
        Assert.Equal(400, (int)(await App.Client.PutAsJsonAsync($"/api/shelves/{shelf}", new { name = "Notes", kind = "Vault", path = (string?)null }, Cancel)).StatusCode);
        Assert.True((await App.Client.PutAsJsonAsync($"/api/shelves/{shelf}", new { name = "Notes too", kind = "OwnLibrary", path = (string?)null }, Cancel)).IsSuccessStatusCode);
        // And no session is made of a folder in which one stands, through a link either.
        var later = Directory.CreateDirectory(Path.Combine(_session.Drive, "later")).FullName;
        File.Copy(Document, Path.Combine(later, "later.otio"));
        Directory.CreateSymbolicLink(Path.Combine(_session.Root, "by another name"), later);
        var vault = await App.AddShelf("V", "Vault", Directory.CreateDirectory(Path.Combine(_session.Root, "by another name", "Vault")).FullName, Cancel);
        (status, problem) = await App.PostRefused("/api/adopt", new { shelfId = _session.DriveId, path = "later" }, Cancel);
        Assert.Equal(400, status);
        Assert.StartsWith("The vault 'V' stands in this folder", Text(problem, "title"), StringComparison.Ordinal);
        Assert.Single((await App.Get("/api/sessions", Cancel)).AsArray());
        (await App.Client.DeleteAsync($"/api/shelves/{vault}", Cancel)).EnsureSuccessStatusCode();
        await App.Adopt(_session.DriveId, "later", Cancel);
    }

    /// <summary>Two sessions whose folders have one name share a second place, and nothing of one stands in the other's.</summary>
    [Fact]
    public async Task SessionsOfOneNameKeepTheirSavesApart()
    {
        var again = Directory.CreateDirectory(Path.Combine(_session.Drive, "other year", Name)).FullName;
        File.WriteAllBytes(Path.Combine(again, Name + ".otio"), SessionDocument.Create(Guid.NewGuid(), "another", new SessionSettings(), SessionLayout.Default, ["Voice"]).ToUtf8());
        var other = await App.Adopt(_session.DriveId, $"other year/{Name}", Cancel);
        var second = Directory.CreateDirectory(Path.Combine(_session.Root, "second")).FullName;
        var shelf = await App.AddShelf("Studio B", "Removable", second, Cancel);
        foreach (var id in new[] { _session.Id, other })
        {
            var choice = (await App.Get($"/api/sessions/{id}/backups", Cancel))["choice"]!;
            choice["secondShelf"] = shelf;
            (await App.Client.PutAsJsonAsync($"/api/sessions/{id}/backups/choice", choice, Cancel)).EnsureSuccessStatusCode();
            await App.Until($"/api/sessions/{id}/backups", b => Versions(b, "Document") is { Count: > 0 } all && all.TrueForAll(v => v["isInSecond"]!.GetValue<bool>()), Cancel);
        }
        var places = ((HostedApp)App).Service<DocumentPlaces>();
        var folders = ((HostedApp)App).Service<NeatCrate.App.Sessions.SessionService>().All().Select(s => (s.Folder, Place: places.Of(s).Second!.Folder)).ToList();
        Assert.Equal(2, folders.Select(f => f.Place).Distinct().Count());
        Assert.All(folders, f => Assert.Equal(File.ReadAllBytes(Path.Combine(f.Folder, Name + ".otio")), File.ReadAllBytes(Assert.Single(Directory.GetFiles(f.Place, "*.otio")))));
    }

    /// <summary>Each kept save is read once for what it uses, with word of how far that is; what was read when it is stopped stays known.</summary>
    [Fact]
    public async Task WhatKeptSavesUseIsReadOnceAndCanBeStopped()
    {
        for (var n = 2; n <= 4; n++)
        {
            File.WriteAllText(Document, File.ReadAllText(Document).Replace("}", "} ", StringComparison.Ordinal));
            await UntilKept(d => d.Count == n);
        }
        var versions = ((HostedApp)App).Service<VersionService>();
        var row = ((HostedApp)App).Service<NeatCrate.App.Sessions.SessionService>().All().Single();
        var saves = versions.SavesOf(row);
        Assert.Equal(4, saves.Length);
        var told = new List<int>();
        using var stopped = new CancellationTokenSource();
        Assert.Throws<OperationCanceledException>(() => versions.UsesIn(row, saves, n =>
        {
            told.Add(n);
            if (n == 1)
            {
                stopped.Cancel();
            }
        }, stopped.Token));
        Assert.Equal([0, 1], told);
        told.Clear();
        var uses = versions.UsesIn(row, saves, told.Add, Cancel);
        Assert.Equal([2, 3], told);
        Assert.All(uses, u => Assert.Equal(4, u.Count()));
        Assert.NotEmpty(uses);
        versions.UsesIn(row, saves, told.Add, Cancel);
        Assert.Equal([2, 3], told);
    }

    /// <summary>Names are given when one knows what a save was: afterwards, and in all places that hold it.</summary>
    [Fact]
    public async Task ASaveIsNamedAfterwards()
    {
        var second = Directory.CreateDirectory(Path.Combine(_session.Root, "second")).FullName;
        var choice = (await App.Get(Backups, Cancel))["choice"]!;
        choice["secondShelf"] = await App.AddShelf("Studio B", "Removable", second, Cancel);
        (await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).EnsureSuccessStatusCode();
        File.WriteAllText(Document, File.ReadAllText(Document).Replace("}", "} ", StringComparison.Ordinal));
        var saves = Versions(await App.Until(Backups, b => Versions(b, "Document") is { Count: 2 } all && all.TrueForAll(v => v["isInSecond"]!.GetValue<bool>()), Cancel), "Document");
        var key = Text(saves[0], "key");
        foreach (var note in new[] { "before the string edits", " after all, the last good one " })
        {
            (await Say(key, note)).EnsureSuccessStatusCode();
            Assert.Equal(note.Trim(), Text(Versions(await App.Get(Backups, Cancel), "Document").Single(v => Text(v, "key") == key), "note"));
        }
        var name = key["document/".Length..] + ".note.txt";
        foreach (var file in Directory.GetFiles(_session.Root, name, SearchOption.AllDirectories))
        {
            Assert.Equal("after all, the last good one\n", File.ReadAllText(file));
        }
        Assert.Single(Directory.GetFiles(second, name, SearchOption.AllDirectories));
        Assert.Equal(HttpStatusCode.BadRequest, (await Say(key, "  ")).StatusCode);
        // As with whatever is asked of a version that is not there any more.
        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await Say("document/none 2026-10-01_120000.otio", "x")).StatusCode);
        Task<HttpResponseMessage> Say(string version, string note) => App.Client.PutAsJsonAsync($"/api/sessions/{_session.Id}/versions/note", new { version, note }, Cancel);
    }

    /// <summary>What is standard holds for the sessions of today, too; what was chosen for one holds for it whatever becomes standard.</summary>
    [Fact]
    public async Task WhatIsStandardHoldsWhereNothingElseWasChosen()
    {
        var again = Directory.CreateDirectory(Path.Combine(_session.Drive, "other year", Name)).FullName;
        File.WriteAllBytes(Path.Combine(again, Name + ".otio"), SessionDocument.Create(Guid.NewGuid(), "another", new SessionSettings(), SessionLayout.Default, ["Voice"]).ToUtf8());
        var other = await App.Adopt(_session.DriveId, $"other year/{Name}", Cancel);
        async Task<JsonNode> Of(object session) => (await App.Get($"/api/sessions/{session}/backups", Cancel))["choice"]!;
        var own = await Of(other);
        own["wanted"] = 3;
        (await App.Client.PutAsJsonAsync($"/api/sessions/{other}/backups/choice", own, Cancel)).EnsureSuccessStatusCode();
        var standard = await App.Get("/api/backups/standard", Cancel);
        (standard["wanted"], standard["dailyAt"]) = (4, "23:30");
        (await App.Client.PutAsJsonAsync("/api/backups/standard", standard, Cancel)).EnsureSuccessStatusCode();
        Assert.Equal((4, "23:30"), (((int)(await Of(_session.Id))["wanted"]!), (string?)(await Of(_session.Id))["dailyAt"]));
        Assert.Equal((3, null), (((int)(await Of(other))["wanted"]!), (string?)(await Of(other))["dailyAt"]));
        standard["secondShelf"] = _session.DriveId;
        Assert.Equal(HttpStatusCode.BadRequest, (await App.Client.PutAsJsonAsync("/api/backups/standard", standard, Cancel)).StatusCode);
        standard["secondShelf"] = null;
        standard["dailyAt"] = "24:00";
        Assert.Equal(HttpStatusCode.BadRequest, (await App.Client.PutAsJsonAsync("/api/backups/standard", standard, Cancel)).StatusCode);
        Assert.Equal("23:30", (string?)(await App.Get("/api/backups/standard", Cancel))["dailyAt"]);
    }

    /// <summary>A vault takes hours to be read: a backup into it does not wait for that.</summary>
    [Fact]
    public async Task ABackupIsMadeWhileItsVaultIsChecked()
    {
        await FullBackup();
        var large = Path.Combine(Vault, "Neat Crate vault", "content", "ff", new string('f', 128));
        Directory.CreateDirectory(Path.GetDirectoryName(large)!);
        using (var file = File.Create(large))
        {
            // Nothing is written of it, and all of it is read.
            file.SetLength(200L << 30);
        }
        var check = await App.Post($"/api/vaults/{_vaultId}/check", null, Cancel);
        Task<JsonNode> Until(string state) => App.Until($"/api/jobs/{Text(check, "id")}", j => Text(j, "state") == state, Cancel);
        await App.Until($"/api/jobs/{Text(check, "id")}", j => j["bytesDone"]!.GetValue<long>() > 0, Cancel);
        Save("while it is checked");
        await UntilInSession(2);
        await FullBackup();
        await Until("Running");
        await App.Post($"/api/jobs/{Text(check, "id")}/cancel", null, Cancel);
        await Until("Cancelled");
        Assert.Equal(2, Versions(await App.Get(Backups, Cancel), "Full").Count);
    }

    /// <summary>The session lost the file as well: a bundle in the outbox has it still.</summary>
    [Fact]
    public async Task DamageIsMendedFromABundle()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await FullBackup();
        await App.Apply(await _session.PlanBundle(Cancel), Cancel);
        var content = Directory.GetFiles(Path.Combine(Vault, "Neat Crate vault", "content"), "*", SearchOption.AllDirectories).MaxBy(f => new FileInfo(f).Length)!;
        var whole = File.ReadAllBytes(content);
        File.Delete(content);
        Directory.Delete(Path.Combine(_session.Folder, "Audio"), recursive: true);
        var job = await App.JobOver(await App.Post($"/api/vaults/{_vaultId}/check", null, Cancel), Cancel);
        Assert.Contains("1 damaged file mended, from the bundle '261014 Net Mender", Text(job, "message"), StringComparison.Ordinal);
        Assert.Equal(whole, File.ReadAllBytes(content));
    }

    /// <summary>A kept save is a document alone; what it played and was not there at that moment is told all the same.</summary>
    [Fact]
    public async Task WhatWasMissingAtASaveIsToldLater()
    {
        var sample = Directory.GetFiles(_session.Library).Order(StringComparer.Ordinal).First();
        File.Move(sample, sample + ".elsewhere");
        Save("without it");
        // It is looked at just after the save is kept.
        var without = ((HostedApp)App).Service<SavedWithout>();
        await UntilKept(d => d.Count == 2 && d.TrueForAll(v => without.WasThere(Guid.Parse(_session.Id), Text(v, "key")["document/".Length..], sample) is not null));
        File.Move(sample + ".elsewhere", sample);
        InOneStep(Document, System.Text.Encoding.UTF8.GetString(SessionDocument.Create(Guid.NewGuid(), Name, new SessionSettings(), SessionLayout.Default, ["Samples"]).ToUtf8()));
        var saves = Versions(await UntilKept(d => d.Count == 3), "Document").OrderBy(v => Text(v, "saved"), StringComparer.Ordinal).ThenBy(v => Text(v, "key").Length).ToList();
        async Task<(bool? WasThere, bool IsThere)> Told(JsonNode save)
        {
            var compared = await App.Get($"/api/sessions/{_session.Id}/versions/compare?one={Uri.EscapeDataString(Text(save, "key"))}", Cancel);
            var file = compared["files"]!.AsArray().Single(f => Text(f!, "name") == Path.GetFileName(sample))!;
            return (file["wasThere"]?.GetValue<bool>(), file["isThere"]!.GetValue<bool>());
        }
        Assert.Equal((true, true), await Told(saves[0]));
        Assert.Equal((false, true), await Told(saves[1]));
        // Known as well after the application ended, and of this session alone.
        var reread = new SavedWithout(((HostedApp)App).Service<StoredSettings>());
        bool? Noted(Guid session, int save) => reread.WasThere(session, Text(saves[save], "key")["document/".Length..], sample);
        Assert.Equal((true, false, null), (Noted(Guid.Parse(_session.Id), 0), Noted(Guid.Parse(_session.Id), 1), Noted(Guid.NewGuid(), 1)));
    }

    /// <summary>A file that neither the session nor its folder knows any more is found by its name, with when it was used and there last.</summary>
    [Fact]
    public async Task AFileThatIsGoneFromTheSessionIsFoundInItsVersions()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await FullBackup();
        // Kept saves are told apart from backups by the second.
        await Task.Delay(1100, Cancel);
        File.Delete(Path.Combine(_session.Folder, "Audio", "sample 00.wav"));
        InOneStep(Document, System.Text.Encoding.UTF8.GetString(SessionDocument.Create(SessionDocument.ReadFile(Document).SessionId!.Value, Name, new SessionSettings(), SessionLayout.Default, ["Samples"]).ToUtf8()));
        await UntilNowIsKept(Document);
        await App.Until($"/api/sessions/{_session.Id}/files?take=100", f => f["files"]!.AsArray().All(x => Text(x!, "name") != "sample 00.wav"), Cancel);
        async Task<JsonNode> Found(string name) => await App.Get($"/api/sessions/{_session.Id}/versions/files?name={Uri.EscapeDataString(name)}", Cancel);
        var found = await Found("00 SAMPLE");
        // As it stood outside at first, and inside later.
        Assert.Equal(2, found["total"]!.GetValue<int>());
        var inside = found["files"]!.AsArray().Single(f => Text(f!, "place") == "Audio/sample 00.wav")!;
        Assert.Matches(@"^It was last used on \d{4}-\d\d-\d\d \d\d:\d\d, and no longer on .* It was last there on \d{4}-\d\d-\d\d \d\d:\d\d, in 'Vault'\. \d+ versions asked\.$", Text(inside["history"]!, "sentence"));
        Assert.Equal("Full", Text(inside["history"]!["lastThere"]!, "kind"));
        // Nothing in the session knows the sample outside any more, and it stands where it stood.
        var outside = found["files"]!.AsArray().Single(f => Text(f!, "place").StartsWith('/'))!;
        Assert.Contains("It is there now.", Text(outside["history"]!, "sentence"), StringComparison.Ordinal);
        var other = (await Found("sample 01"))["files"]!.AsArray().Single(f => Text(f!, "place") == "Audio/sample 01.wav")!;
        Assert.Contains("It is there now.", Text(other["history"]!, "sentence"), StringComparison.Ordinal);
        Assert.Empty((await Found("  "))["files"]!.AsArray());
        Assert.Empty((await Found("sample 99"))["files"]!.AsArray());
    }

    /// <summary>Files that came out of a version go again by the undo, and come once more by the redo; what was there stays all the while.</summary>
    [Fact]
    public async Task FilesOutOfAVersionAreUndoneAndRedone()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await FullBackup();
        var (lost, other) = (Path.Combine(_session.Folder, "Audio", "sample 00.wav"), Path.Combine(_session.Folder, "Audio", "sample 01.wav"));
        var (whole, beside) = (File.ReadAllBytes(lost), File.ReadAllBytes(other));
        File.Delete(lost);
        var version = Text(Versions(await App.Get(Backups, Cancel), "Full")[0], "key");
        var plan = await App.Post($"/api/sessions/{_session.Id}/versions/files/plan", new { version, paths = OneLost }, Cancel);
        Assert.Equal("Done", Text(await App.Apply(plan, Cancel), "state"));
        Assert.Equal(whole, File.ReadAllBytes(lost));
        var undo = await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel);
        Assert.Equal("Done", Text(await App.Apply(undo, Cancel), "state"));
        Assert.False(File.Exists(lost));
        Assert.Equal("Done", Text(await App.Apply(await App.Post($"/api/plans/{undo["id"]}/redo", null, Cancel), Cancel), "state"));
        Assert.Equal(whole, File.ReadAllBytes(lost));
        Assert.Equal(beside, File.ReadAllBytes(other));
    }

    /// <summary>By choice nothing is kept in the session's folder.</summary>
    [Fact]
    public async Task SavesAreKeptElsewhereByChoice()
    {
        var choice = (await App.Get(Backups, Cancel))["choice"]!;
        choice["keepsInSession"] = false;
        (await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).EnsureSuccessStatusCode();
        var before = File.ReadAllText(Document);
        var after = Save("elsewhere");
        await UntilKept(d => d.Count == 2);
        Assert.False(Directory.Exists(Kept));
        Assert.Superset(new HashSet<string> { before, after }, await Contents());
        choice["wanted"] = 0;
        Assert.Equal(400, (int)(await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).StatusCode);
    }

    /// <summary>Whoever hears that a drive left asks at once, and not again soon: vaults are told as they are from then on, not as a moment ago.</summary>
    [Fact]
    public async Task AVaultIsToldAsItIsOnceItsLeavingIsNews()
    {
        await FullBackup();
        var (watch, vaults) = (((HostedApp)App).Service<ShelfWatch>(), ((HostedApp)App).Service<VaultService>());
        await watch.LookNow(Cancel);
        Assert.True(Assert.Single(vaults.All()).IsConnected);
        Directory.Move(Vault, Vault + " unplugged");
        await watch.LookNow(Cancel);
        Assert.False(Assert.Single(vaults.All()).IsConnected);
    }

    [Fact]
    public async Task AVaultThatComesBackGetsWhatItMissed()
    {
        await FullBackup();
        Directory.Move(Vault, Vault + " unplugged");
        await App.Until(Backups, b => !b["vaults"]![0]!["connected"]!.GetValue<bool>(), Cancel);
        // What it holds is known while it is away.
        Assert.True(Versions(await App.Get(Backups, Cancel), "Full")[0]["isAway"]!.GetValue<bool>());
        Save("while it was away");
        await UntilKept(d => d.Count == 2);
        await ((HostedApp)App).Service<BackupSchedule>().LookNow(Cancel);
        Directory.Move(Vault + " unplugged", Vault);
        await App.Until(Backups, b => Versions(b, "Full").Count == 2, Cancel);
    }

    /// <summary>A vault that somebody deleted holds nothing, and one that cannot be looked into keeps nobody from their sessions.</summary>
    [Fact]
    public async Task AVaultThatIsGoneIsNoPlace()
    {
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await FullBackup();
        var folder = Path.Combine(Vault, "Neat Crate vault");
        Directory.Move(folder, folder + " elsewhere");
        await App.Until(Backups, b => b["status"]!["safety"]!["onlyHere"]!["files"]!.GetValue<int>() == 2 && Versions(b, "Full").Count == 0, Cancel);
        // What was known of it waits for it.
        Directory.Move(folder + " elsewhere", folder);
        await App.Until(Backups, b => b["status"]!["safety"]!["onlyHere"]!["files"]!.GetValue<int>() == 0 && Versions(b, "Full").Count == 1, Cancel);
        Directory.Delete(Path.Combine(folder, "backups"), recursive: true);
        File.CreateSymbolicLink(Path.Combine(folder, "backups"), Path.Combine(folder, "backups"));
        var label = (await App.Get("/api/sessions", Cancel))[0]!;
        Assert.NotEqual("Unreadable", Text(label, "attention"));
    }

    [Fact]
    public async Task KeptStatesAreThinnedOutByAPlanThatNamesThem()
    {
        Directory.CreateDirectory(Kept);
        for (var n = 0; n < 15; n++)
        {
            File.WriteAllText(Path.Combine(Kept, $"{Name} 2026-10-14_20{n:00}00.otio"), $"state {n}");
        }
        var thinning = (await App.Get($"{Backups}/thinning", Cancel)).AsArray();
        var going = thinning.Where(t => !t!["stays"]!.GetValue<bool>()).Select(t => "document/" + Text(t!, "key")).ToArray();
        Assert.Equal(6, going.Length);
        var plan = await App.Post($"{Backups}/thinning/plan", new { keys = going }, Cancel);
        Assert.True(plan["isForGood"]!.GetValue<bool>());
        await App.Apply(plan, Cancel);
        // The state of the document that the application kept at its start comes in beside them, now or a moment later.
        Assert.Equal(9, Directory.GetFiles(Kept, $"{Name} 2026-10-14_*").Length);
    }
}
