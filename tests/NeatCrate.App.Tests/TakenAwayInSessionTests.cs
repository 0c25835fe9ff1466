using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>
/// A file of ours in a session folder is removed, emptied, cut, swapped with another of ours, made a link or a folder: every page and every
/// plan is answered in words, what is said is true, nobody else's file is touched, and once it is put right all is as it was.
/// </summary>
public sealed class TakenAwayInSessionTests : IAsyncLifetime
{
    private static readonly string[] HeldPlans = ["purge/put-back/plan", "purge/empty/plan"];

    private readonly LiveSession _session = new(3, 48_000);
    private string _vaultId = "";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Api => $"/api/sessions/{_session.Id}";

    private string Second => Path.Combine(_session.Root, "second");

    private string Outside => Path.Combine(_session.Root, "somebody's.txt");

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        // The state that was there when the session became known is kept first.
        await App.Until($"{Api}/backups", b => b["versions"]!.AsArray().Any(v => Text(v!, "kind") == "Document"), Cancel);
        _vaultId = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(_session.Root, "vault")).FullName, Cancel);
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await ChooseSecond(await App.AddShelf("Second", "SessionDrive", Directory.CreateDirectory(Second).FullName, Cancel));
        var stray = Path.Combine(_session.Folder, "Audio", "again.wav");
        File.Copy(Path.Combine(_session.Folder, "Audio", "sample 00.wav"), stray);
        File.SetLastWriteTimeUtc(stray, new DateTime(2026, 10, 1, 8, 0, 0, DateTimeKind.Utc));
        File.WriteAllText(Outside, "somebody's own");
        await App.Post($"{Api}/backups/keep", new { note = "before the mix" }, Cancel);
        Assert.Equal("Done", Text(await App.Apply((await App.Post($"{Api}/purge/plan", Asked, Cancel))["plan"]!, Cancel), "state"));
        Assert.Equal("Done", Text(await App.Apply(await App.Post($"{Api}/version/plan", Version, Cancel), Cancel), "state"));
        await App.Post($"{Api}/backups/keep", new { note = "the version" }, Cancel);
        await App.Until($"{Api}/backups", b => b["status"]!["secondBehind"]!.GetValue<int>() == 0 && Directory.GetFiles(Second, "*.note.txt", SearchOption.AllDirectories).Length == 2, Cancel);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task ChooseSecond(string? shelf)
    {
        var choice = (await App.Get($"{Api}/backups", Cancel))["choice"]!;
        choice["secondShelf"] = shelf;
        (await App.Client.PutAsJsonAsync($"{Api}/backups/choice", choice, Cancel)).EnsureSuccessStatusCode();
    }

    private static object Asked => new { groups = new[] { "Strays" }, except = Array.Empty<string>(), also = Array.Empty<string>(), depth = "SetAside", instrumentsAreThere = false, olderVersions = true, otherSessions = true };

    private static object Version => new { naming = "NextNumber", archiveOlder = true };

    private static string Text(JsonNode node, string member) => node[member]?.GetValue<string>() ?? "";

    [Fact]
    public Task TheListOfWhatIsSetAside() => Each("Set aside/.neat-crate-set-aside.json", async (damage, answers) =>
    {
        if (damage == "removed")
        {
            // What is on no list is not set aside; it is a file of the session, and no plan lets go of it for good.
            Assert.Equal("Nothing is deleted.", Text(answers["purge/empty/plan"], "sentence"));
            Assert.EndsWith(" 1 file in 'Set aside' is on no list of what is set aside, and counts as a file of the session.", Text(await App.Get($"{Api}/purge", Cancel), "sentence"), StringComparison.Ordinal);
            return;
        }
        Assert.Contains("cannot be used", Text(await App.Get($"{Api}/purge", Cancel), "refusal"), StringComparison.Ordinal);
        foreach (var plan in new[] { answers["purge/plan"]["plan"]!, answers["purge/put-back/plan"], answers["purge/empty/plan"] })
        {
            Assert.Contains("Nothing counts as set aside until it can; the files are where they are.", Assert.Single(plan["refusals"]!.AsArray())!.GetValue<string>(), StringComparison.Ordinal);
        }
    });

    [Fact]
    public Task AFileThatIsSetAside() => Each("Set aside/Audio/again.wav", (damage, answers) =>
    {
        var isFile = damage is "emptied" or "cut" or "swapped";
        foreach (var plan in HeldPlans)
        {
            Assert.Equal(isFile ? "" : "'Audio/again.wav' is no longer where it was set aside.", string.Join(' ', answers[plan]["refusals"]!.AsArray()));
        }
        return Task.CompletedTask;
    });

    [Fact]
    public Task TheSessionCard() => Each(".neat-crate.json", async (damage, answers) =>
    {
        var remarks = (await App.Get(Api, Cancel))["remarks"]!.ToJsonString();
        Assert.Equal(damage != "removed", remarks.Contains("which should state the current version, cannot be used", StringComparison.Ordinal));
        var plan = answers["version/plan"];
        if (damage is "folder" or "link")
        {
            Assert.Contains("Move it out of the folder first.", Text(plan, "title"), StringComparison.Ordinal);
            return;
        }
        Assert.StartsWith("Start '261014 Net Mender v3' as the current document", Text(plan, "sentence"), StringComparison.Ordinal);
    });

    /// <summary>It is told, and had from the second place, from which it comes back with the next save; what stood in its place by then stays beside it.</summary>
    [Fact]
    public Task AKeptSave()
    {
        var name = Path.GetFileName(First("Document backups/*.note.txt"))[..^".note.txt".Length];
        var path = Path.Combine(_session.Folder, "Document backups", name);
        var whole = File.ReadAllBytes(path);
        return Each(
            $"Document backups/{name}",
            async (damage, answers) =>
            {
                // The note that was kept meanwhile brought it up to date.
                await App.Until($"{Api}/backups", b => damage == "removed" || (File.Exists(path) && File.ReadAllBytes(path).SequenceEqual(whole)), Cancel);
                Assert.Equal(Math.Min(Array.IndexOf(Damage.Kinds, damage) + 1, 5), Directory.GetFileSystemEntries(Path.GetDirectoryName(path)!, name + "*.changed").Length);
            },
            async damage =>
            {
                var backups = await App.Get($"{Api}/backups", Cancel);
                // It is told until it is there again.
                Assert.True(damage == "removed" || Text(backups["status"]!, "sentence").Contains("no longer what was kept", StringComparison.Ordinal) || File.ReadAllBytes(path).SequenceEqual(whole));
                var version = backups["versions"]!.AsArray().Single(v => Text(v!, "key") == "document/" + name)!;
                Assert.True(version["isInSecond"]!.GetValue<bool>());
                Assert.Equal("before the mix", Text(version, "note"));
                var content = await App.Get($"{Api}/versions/content?version={Uri.EscapeDataString("document/" + name)}", Cancel);
                Assert.Equal(("Samples", null), (content["tracks"]!.AsArray().Single()!.GetValue<string>(), content["problem"]));
            });
    }

    [Fact]
    public async Task WithoutASecondPlaceAKeptSaveThatWasChangedIsTold()
    {
        await ChooseSecond(null);
        // Of the earlier document Neat Crate's own place holds the newest state, which this one is, as long as nothing else was saved there.
        var path = First("Document backups/*.otio");
        var ownPlace = Path.Combine(_session.Root, "data", "document-backups");
        string[] own = Directory.Exists(ownPlace) ? Directory.GetFiles(ownPlace, Path.GetFileName(path), SearchOption.AllDirectories) : [];
        File.WriteAllText(path, "{}");
        var backups = await App.Get($"{Api}/backups", Cancel);
        var told = own.Length > 0 ? "another copy of it is whole" : "no other copy of it is there";
        Assert.StartsWith($"'{Path.GetFileName(path)}' is a kept save that is no longer what was kept; {told}.", Text(backups["status"]!, "sentence"), StringComparison.Ordinal);
        Assert.True(backups["status"]!["worry"]!.GetValue<bool>());
        Assert.Equal(own.Length, backups["versions"]!.AsArray().Count(v => Text(v!, "key") == "document/" + Path.GetFileName(path)));
        Assert.Equal("{}", File.ReadAllText(path));
    }

    [Fact]
    public async Task ANoteBesideAKeptSave()
    {
        static string Places(JsonNode backups) => string.Join('\n', backups["versions"]!.AsArray().Where(v => Text(v!, "kind") == "Document").Select(v => $"{v!["key"]} {v["isHere"]} {v["isInSecond"]}"));
        var before = Places(await App.Get($"{Api}/backups", Cancel));
        Assert.Contains("true true", before, StringComparison.Ordinal);
        await Each("Document backups/*.note.txt", async (damage, answers) =>
        {
            // No state is lost or doubted for its note.
            var backups = await App.Get($"{Api}/backups", Cancel);
            Assert.Equal(before, Places(backups));
            Assert.DoesNotContain("no longer what was kept", Text(backups["status"]!, "sentence"), StringComparison.Ordinal);
        });
    }

    [Fact]
    public Task TheDocument() => Each("261014 Net Mender v2.otio", async (damage, answers) =>
    {
        var refusal = Text(await App.Get($"{Api}/purge", Cancel), "refusal");
        Assert.Contains(damage is "removed" or "folder" ? "There is no document in the folder that can be read" : "'261014 Net Mender v2.otio' cannot be read, so nobody can say what it uses.", refusal, StringComparison.Ordinal);
        Assert.Equal("No version is started.", Text(answers["version/plan"], "sentence"));
        Assert.Equal("Nothing is set aside.", Text(answers["purge/plan"]["plan"]!, "sentence"));
    });

    /// <summary>Damage.Kinds a file in every way, one at a time, and puts it right again.</summary>
    private async Task Each(string pattern, Func<string, IReadOnlyDictionary<string, JsonNode>, Task> look, Func<string, Task>? first = null)
    {
        var path = First(pattern);
        var neighbour = First(pattern switch
        {
            ".neat-crate.json" => "Set aside/.neat-crate-set-aside.json",
            _ when pattern.StartsWith("Document backups", StringComparison.Ordinal) && pattern.EndsWith(".otio", StringComparison.Ordinal) => "Document backups/* v2 *.otio",
            _ when path.EndsWith(".json", StringComparison.Ordinal) || path.EndsWith(".otio", StringComparison.Ordinal) => ".neat-crate.json",
            _ => "Audio/*.wav",
        });
        var (whole, time, other) = (File.ReadAllBytes(path), File.GetLastWriteTimeUtc(path), File.ReadAllBytes(neighbour));
        foreach (var damage in Damage.Kinds)
        {
            TestContext.Current.TestOutputHelper!.WriteLine(damage);
            await App.Until("/api/jobs", j => j.AsArray().All(n => Text(n!, "state") is not ("Queued" or "Running")), Cancel);
            Damage.Do(path, damage, Outside, neighbour);
            await (first?.Invoke(damage) ?? Task.CompletedTask);
            var damaged = Tree.Of(_session.Folder);
            var answers = await AskEverything();
            await look(damage, answers);
            var backup = await App.JobOver(await App.Post($"{Api}/backups/full", new { vaultId = _vaultId, note = "", byContent = false }, Cancel), Cancel);
            Assert.True(Text(backup, "state") == "Done", $"{damage}: {backup.ToJsonString()}");
            // Nothing that was there is touched by any of this; a document that was changed is kept, in a file of its own.
            var after = Tree.Of(_session.Folder);
            Assert.All(damaged.Where(e => !e.Key.StartsWith("Document backups", StringComparison.Ordinal)), e => Assert.Equal(e, after.SingleOrDefault(a => a.Key == e.Key)));
            Assert.Equal("somebody's own", File.ReadAllText(Outside));
            Damage.RemoveWhatever(path);
            File.WriteAllBytes(path, whole);
            File.SetLastWriteTimeUtc(path, time);
            File.WriteAllBytes(neighbour, other);
        }
        await AskEverything();
        // All is as it was: what was set aside comes back, and nothing is told of the kept saves.
        Assert.Equal("Done", Text(await App.Apply(await App.Post($"{Api}/purge/put-back/plan", new { held = (string[]?)null }, Cancel), Cancel), "state"));
        Assert.Equal(File.ReadAllBytes(Path.Combine(_session.Folder, "Audio", "sample 00.wav")), File.ReadAllBytes(Path.Combine(_session.Folder, "Audio", "again.wav")));
        await App.Until($"{Api}/backups", b => !Text(b["status"]!, "sentence").Contains("no longer what was kept", StringComparison.Ordinal), Cancel);
    }

    /// <summary>Every page and every plan: answered, and in words.</summary>
    private async Task<IReadOnlyDictionary<string, JsonNode>> AskEverything()
    {
        foreach (var page in new[] { "", "/files", "/backups", "/backups/safety", "/backups/thinning", "/purge", "/purge/held", "/purge/files?everything=true", "/purge/trim", "/relink", "/copy-in", "/bundles", "/history", "/record" })
        {
            using var answer = await App.Client.GetAsync(Api + page, Cancel);
            var text = await answer.Content.ReadAsStringAsync(Cancel);
            Assert.True(answer.IsSuccessStatusCode && !text.Contains("\\u0022Code", StringComparison.Ordinal), $"{page}: {text}");
        }
        var answers = new Dictionary<string, JsonNode>(StringComparer.Ordinal);
        foreach (var (what, body) in new (string, object)[]
        {
            ("backups/keep", new { note = "now" }), ("purge/plan", Asked), ("purge/put-back/plan", new { held = (string[]?)null }), ("purge/empty/plan", new { held = (string[]?)null }), ("version/plan", Version),
        })
        {
            using var answer = await App.Client.PostAsync($"{Api}/{what}", JsonContent.Create(body), Cancel);
            var text = await answer.Content.ReadAsStringAsync(Cancel);
            Assert.True((int)answer.StatusCode is < 500 and not 404 && !text.Contains("\\u0022Code", StringComparison.Ordinal), $"{what}: {(int)answer.StatusCode} {text}");
            answers[what] = JsonNode.Parse(text)!;
        }
        return answers;
    }

    /// <summary>The first file of a form, by name: absolute path.</summary>
    private string First(string pattern) =>
        Directory.GetFiles(Path.Combine(_session.Folder, Path.GetDirectoryName(pattern)!), Path.GetFileName(pattern), new EnumerationOptions { AttributesToSkip = FileAttributes.None }).Order(StringComparer.Ordinal).First();
}
