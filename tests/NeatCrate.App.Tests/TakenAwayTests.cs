using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Something of ours is taken away, or swapped with something else of ours: what is said stays true, and what can be had again comes back.</summary>
public sealed class TakenAwayTests : IAsyncLifetime
{
    private const string Name = "261014 Net Mender";

    private readonly LiveSession _session = new(2, 48_000);
    private string _vaultId = "";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Backups => $"/api/sessions/{_session.Id}/backups";

    private string Drive => Path.Combine(_session.Root, "vault");

    private string Vault => Path.Combine(Drive, "Neat Crate vault");

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        _vaultId = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Drive).FullName, Cancel);
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private static string Text(JsonNode node, string member) => node[member]?.GetValue<string>() ?? "";

    private static int Fulls(JsonNode backups) => backups["versions"]!.AsArray().Count(v => Text(v!, "kind") == "Full");

    private static int Damaged(JsonNode backups) => backups["vaults"]![0]!["damaged"]!.AsArray().Count;

    private async Task<JsonNode> FullBackup(string? session = null) =>
        await App.JobOver(await App.Post($"/api/sessions/{session ?? _session.Id}/backups/full", new { vaultId = _vaultId, note = "", byContent = false }, Cancel), Cancel);

    private Task<JsonNode> Check() => Over($"/api/vaults/{_vaultId}/check", null);

    private async Task<JsonNode> Over(string url, object? body) => await App.JobOver(await App.Post(url, body, Cancel), Cancel);

    private List<string> Lists() => [.. Directory.GetFiles(Path.Combine(Vault, "backups"), "*.sha512", SearchOption.AllDirectories).Order(StringComparer.Ordinal)];

    private long Content() => Directory.GetFiles(Path.Combine(Vault, "content"), "*", SearchOption.AllDirectories).Sum(f => new FileInfo(f).Length);

    /// <summary>The list of the one backup that holds a take vanishes: it is told, nothing is swept, and the check puts it back.</summary>
    [Fact]
    public async Task AListOfAVaultThatVanishesIsToldAndComesBack()
    {
        await FullBackup();
        var older = Assert.Single(Lists());
        var whole = File.ReadAllBytes(older);
        File.Delete(Path.Combine(_session.Folder, "Audio", "sample 00.wav"));
        await FullBackup();
        await App.Until(Backups, b => Fulls(b) == 2, Cancel);
        var content = Content();
        File.Delete(older);
        var told = await App.Until(Backups, b => Damaged(b) == 1, Cancel);
        Assert.Equal(1, Fulls(told));
        Assert.StartsWith("A vault is damaged in 1 place.", Text(told["status"]!, "sentence"), StringComparison.Ordinal);
        var thinned = await Over($"{Backups}/thinning/{_vaultId}", new { keys = Array.Empty<string>() });
        Assert.Equal("Failed", Text(thinned, "state"));
        Assert.Contains("is gone from the vault, and nobody deleted it", Text(thinned, "message"), StringComparison.Ordinal);
        Assert.Equal(content, Content());
        var check = await Check();
        Assert.Contains("1 damaged file mended, from what was remembered of it.", Text(check, "message"), StringComparison.Ordinal);
        Assert.Equal(whole, File.ReadAllBytes(older));
        await App.Until(Backups, b => Damaged(b) == 0 && Fulls(b) == 2, Cancel);
        Assert.Equal("Done", Text(await Over($"{Backups}/thinning/{_vaultId}", new { keys = Array.Empty<string>() }), "state"));
    }

    /// <summary>All lists at once, with their folder: the vault is not whole, and says so.</summary>
    [Fact]
    public async Task AVaultWithoutAnyListIsNotWhole()
    {
        await FullBackup();
        await App.Until(Backups, b => Fulls(b) == 1, Cancel);
        Directory.Delete(Path.Combine(Vault, "backups"), recursive: true);
        await App.Until(Backups, b => Fulls(b) == 0 && Damaged(b) == 1 && b["status"]!["safety"]!["onlyHere"]!["files"]!.GetValue<int>() == 2, Cancel);
        Assert.DoesNotContain("All of it is whole", Text(await Check(), "message"), StringComparison.Ordinal);
        await App.Until(Backups, b => Fulls(b) == 1 && Damaged(b) == 0 && b["status"]!["safety"]!["onlyHere"]!["files"]!.GetValue<int>() == 0, Cancel);
    }

    /// <summary>What is let go by choice is let go: nothing is told of it, and no check brings it back.</summary>
    [Fact]
    public async Task WhatIsLetGoStaysGone()
    {
        await FullBackup();
        await FullBackup();
        var choice = (await App.Get(Backups, Cancel))["choice"]!;
        (choice["keepLast"], choice["keepHours"], choice["keepDays"]) = (1, 0, 0);
        (await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).EnsureSuccessStatusCode();
        var going = (await App.Get($"{Backups}/thinning/{_vaultId}", Cancel)).AsArray().Where(t => !t!["stays"]!.GetValue<bool>()).Select(t => Text(t!, "key")).ToArray();
        Assert.Single(going);
        Assert.StartsWith("1 backup deleted", Text(await Over($"{Backups}/thinning/{_vaultId}", new { keys = going }), "message"), StringComparison.Ordinal);
        await App.Until(Backups, b => Fulls(b) == 1 && Damaged(b) == 0, Cancel);
        Assert.Contains("All of it is whole.", Text(await Check(), "message"), StringComparison.Ordinal);
        Assert.Single(Lists());
    }

    /// <summary>Two drives take turns in one place: each is known by what it holds, neither is called damaged, and nothing of the other's is forgotten.</summary>
    [Fact]
    public async Task DrivesThatTakeTurnsAreToldApart()
    {
        await FullBackup();
        var first = Assert.Single(Lists());
        var (one, other) = (Drive + " one", Drive + " two");
        await Swap(null, one);
        Directory.CreateDirectory(Drive);
        await App.Until(Backups, b => b["vaults"]![0]!["connected"]!.GetValue<bool>(), Cancel);
        await FullBackup();
        await FullBackup();
        await App.Until(Backups, b => Fulls(b) == 2 && Damaged(b) == 0, Cancel);
        for (var turn = 0; turn < 2; turn++)
        {
            await Swap(one, other);
            await App.Until(Backups, b => Fulls(b) == 1 && Damaged(b) == 0, Cancel);
            Assert.Equal("Done", Text(await Over($"{Backups}/thinning/{_vaultId}", new { keys = Array.Empty<string>() }), "state"));
            Assert.Contains("All of it is whole.", Text(await Check(), "message"), StringComparison.Ordinal);
            await Swap(other, one);
            await App.Until(Backups, b => Fulls(b) == 2 && Damaged(b) == 0, Cancel);
            Assert.Contains("All of it is whole.", Text(await Check(), "message"), StringComparison.Ordinal);
        }
        // A list of the first one vanishes while that lies in the drawer: it is missed when it comes back.
        File.Delete(first.Replace(Drive, one, StringComparison.Ordinal));
        await Swap(one, other);
        await App.Until(Backups, b => Fulls(b) == 0 && Damaged(b) == 1, Cancel);

        async Task Swap(string? comes, string aside)
        {
            Directory.Move(Drive, aside);
            if (comes is not null)
            {
                // Whoever changes drives takes a second for it; a machine that is too quick for that is told nothing either.
                Directory.Move(comes, Drive);
            }
            await Task.CompletedTask;
        }
    }

    /// <summary>The folder of a session is copied and made known: the backups are of the one that they were made of, and thinning one leaves the other's alone.</summary>
    [Fact]
    public async Task BackupsOfACopyAreNotTheOriginals()
    {
        await FullBackup();
        // As deep as the original, so that its pointers lead where those lead.
        var copies = Directory.CreateDirectory(Path.Combine(_session.Root, "copies")).FullName;
        var copy = Path.Combine(copies, Name);
        Tool.Run("cp", "-a", _session.Folder, copy);
        var known = await App.Adopt(await App.AddShelf("Copies", "SessionDrive", copies, Cancel), Name, Cancel);
        await App.Until(Backups, b => Fulls(b) == 1, Cancel);
        await App.Until($"/api/sessions/{known}/backups", b => Fulls(b) == 0 && Text(b["status"]!, "sentence").Contains("No full backup yet.", StringComparison.Ordinal), Cancel);
        await FullBackup(known);
        await App.Until($"/api/sessions/{known}/backups", b => Fulls(b) == 1, Cancel);
        await App.Until(Backups, b => Fulls(b) == 1, Cancel);
        Assert.Single((await App.Get($"{Backups}/thinning/{_vaultId}", Cancel)).AsArray());
    }

    /// <summary>What somebody put into a vault stays, whatever is done there, and the check names it.</summary>
    [Fact]
    public async Task WhatIsNotTheVaultsStaysAndIsTold()
    {
        await FullBackup();
        string[] foreign = ["backups/holiday.txt", $"content/{Path.GetFileName(Directory.GetDirectories(Path.Combine(Vault, "content"))[0])}/somebody's.txt", "holiday/beach.jpg"];
        foreach (var name in foreign)
        {
            Directory.CreateDirectory(Path.GetDirectoryName(Path.Combine(Vault, name))!);
            File.WriteAllText(Path.Combine(Vault, name), name);
        }
        File.AppendAllText(Path.Combine(_session.Folder, "Audio", "sample 00.wav"), "x");
        Assert.Equal("Done", Text(await FullBackup(), "state"));
        await App.Until(Backups, b => Fulls(b) == 2, Cancel);
        Assert.Equal("Done", Text(await Over($"{Backups}/thinning/{_vaultId}", new { keys = (await App.Get($"{Backups}/thinning/{_vaultId}", Cancel)).AsArray().Select(t => Text(t!, "key")).Take(1).ToArray() }), "state"));
        var check = Text(await Check(), "message");
        Assert.EndsWith($"All of it is whole. 3 files in the vault are none of its own, and stay: '{foreign[0]}', '{foreign[1]}' and '{foreign[2]}'.", check, StringComparison.Ordinal);
        Assert.All(foreign, name => Assert.Equal(name, File.ReadAllText(Path.Combine(Vault, name))));
    }

    /// <summary>
    /// A file of ours is removed, emptied, cut, swapped with another of ours, made a link or a folder: every page is answered, what can be had
    /// again comes back with a check or is told, a new backup is whole, and what a link leads to is left alone.
    /// </summary>
    [Theory]
    [InlineData("README.txt")]
    [InlineData("content/*/*")]
    [InlineData("backups/*/*.sha512")]
    [InlineData("let-go/*/*.sha512")]
    [InlineData("identity.json")]
    [InlineData("vault.lock")]
    public async Task WhateverHappensToAFileOfAVaultIsMendedOrTold(string pattern)
    {
        await FullBackup();
        await FullBackup();
        var choice = (await App.Get(Backups, Cancel))["choice"]!;
        (choice["keepLast"], choice["keepHours"], choice["keepDays"]) = (1, 0, 0);
        (await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).EnsureSuccessStatusCode();
        var going = (await App.Get($"{Backups}/thinning/{_vaultId}", Cancel)).AsArray().Where(t => !t!["stays"]!.GetValue<bool>()).Select(t => Text(t!, "key")).ToArray();
        await Over($"{Backups}/thinning/{_vaultId}", new { keys = going });
        await App.Until(Backups, b => Fulls(b) == 1 && Damaged(b) == 0, Cancel);
        // Lists are named by the second: the next one is another.
        await Task.Delay(1100, Cancel);
        var outside = Path.Combine(_session.Root, "somebody's.txt");
        File.WriteAllText(outside, "somebody's own");
        foreach (var damage in Damage.Kinds)
        {
            var path = AllMatching(pattern).First();
            var neighbour = AllMatching(pattern).Concat(Directory.GetFiles(Vault, "*", SearchOption.AllDirectories).Order(StringComparer.Ordinal)).First(f => f != path && new FileInfo(f).Length > 0);
            var (whole, other) = (File.ReadAllBytes(path), File.ReadAllBytes(neighbour));
            Damage.Do(path, damage, outside, neighbour);
            foreach (var page in new[] { "", "/backups", "/backups/safety", $"/backups/thinning/{_vaultId}", "/purge", "/relink", "/files" })
            {
                using var answer = await App.Client.GetAsync($"/api/sessions/{_session.Id}{page}", Cancel);
                Assert.True(answer.IsSuccessStatusCode, $"{damage}, {page}: {await answer.Content.ReadAsStringAsync(Cancel)}");
            }
            var (backup, check) = (await FullBackup(), await Check());
            var said = $"{damage}: {Text(backup, "message")} {Text(check, "message")}";
            Assert.Equal("somebody's own", File.ReadAllText(outside));
            if (!pattern.StartsWith("let-go", StringComparison.Ordinal) && (new FileInfo(path).LinkTarget is not null || Directory.Exists(path)))
            {
                // Nothing of ours can stand there: so it is said, and nothing is touched until somebody puts it right.
                Assert.True(pattern is "vault.lock" or "README.txt", said);
                Assert.Equal(("Failed", true), (Text(backup, "state"), Text(backup, "message").Contains(pattern, StringComparison.Ordinal)));
                Damage.RemoveWhatever(path);
                File.WriteAllBytes(path, whole);
                (backup, check) = (await FullBackup(), await Check());
            }
            Assert.Equal((damage, "Done", "Done"), (damage, Text(backup, "state"), Text(check, "state")));
            switch (pattern)
            {
                case "identity.json":
                    // One that is gone is one anew.
                    Assert.StartsWith("{\"vault\":", File.ReadAllText(path), StringComparison.Ordinal);
                    break;
                case "vault.lock":
                    break;
                case "let-go/*/*.sha512":
                    // What it says of is gone, and remembered as let go.
                    Damage.RemoveWhatever(path);
                    File.WriteAllBytes(path, whole);
                    break;
                default:
                    Assert.True(File.ReadAllBytes(path).SequenceEqual(whole) && File.ReadAllBytes(neighbour).SequenceEqual(other), said);
                    break;
            }
            await App.Until(Backups, b => Damaged(b) == 0, Cancel);
            Assert.Contains("All of it is whole.", Text(await Check(), "message"), StringComparison.Ordinal);
        }
        var newest = Text((await App.Get(Backups, Cancel))["versions"]!.AsArray().Last(v => Text(v!, "kind") == "Full")!, "key");
        await App.Apply(await App.Post($"/api/sessions/{_session.Id}/versions/session/plan", new { version = newest, shelfId = _session.DriveId, path = "", name = "came back" }, Cancel), Cancel);
        Assert.Equal(Tree.Of(_session.Folder), Tree.Of(Path.Combine(_session.Drive, "came back")));
    }

    private IEnumerable<string> AllMatching(string pattern)
    {
        var parts = pattern.Split('/');
        var folders = parts.SkipLast(1).Aggregate(new List<string> { Vault }, (above, part) => [.. above.SelectMany(f => Directory.GetDirectories(f, part))]);
        return folders.SelectMany(f => Directory.GetFiles(f, parts[^1])).Order(StringComparer.Ordinal);
    }

    /// <summary>The vault's drive is away when the hour comes: the backup waits, that is told once, and it is made when the drive is back.</summary>
    [Fact]
    public async Task ADailyBackupWaitsForItsDrive()
    {
        Directory.Move(Drive, Drive + " away");
        await App.Until(Backups, b => !b["vaults"]![0]!["connected"]!.GetValue<bool>(), Cancel);
        var choice = (await App.Get(Backups, Cancel))["choice"]!;
        (choice["dailyAt"], choice["whenPluggedIn"]) = ("00:00", false);
        (await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).EnsureSuccessStatusCode();
        await App.Until("/api/notices", n => n.AsArray().Count(t => Text(t!, "text").Contains("waits for its drive: 'Vault' is away", StringComparison.Ordinal)) == 1, Cancel);
        // It cannot be written to at first, and the day is not over for that.
        Directory.CreateDirectory(Path.Combine(Drive + " away", "Neat Crate vault"));
        File.WriteAllText(Path.Combine(Drive + " away", "Neat Crate vault", "somebody's.txt"), "");
        Directory.Move(Drive + " away", Drive);
        await App.Until("/api/notices", n => n.AsArray().Any(t => Text(t!, "text").Contains("that was due failed", StringComparison.Ordinal)), Cancel);
        Assert.Single((await App.Get("/api/notices", Cancel)).AsArray(), t => Text(t!, "text").Contains("waits for its drive", StringComparison.Ordinal));
        Assert.Equal(0, Fulls(await App.Get(Backups, Cancel)));
    }

    [Fact]
    public async Task ADailyBackupIsMadeWhenItsDriveComesBack()
    {
        Directory.Move(Drive, Drive + " away");
        await App.Until(Backups, b => !b["vaults"]![0]!["connected"]!.GetValue<bool>(), Cancel);
        var choice = (await App.Get(Backups, Cancel))["choice"]!;
        (choice["dailyAt"], choice["whenPluggedIn"]) = ("00:00", false);
        (await App.Client.PutAsJsonAsync($"{Backups}/choice", choice, Cancel)).EnsureSuccessStatusCode();
        await App.Until("/api/notices", n => n.AsArray().Count > 0, Cancel);
        Directory.Move(Drive + " away", Drive);
        await App.Until(Backups, b => Fulls(b) == 1, Cancel);
        // Once made it is not due again.
        await Task.Delay(2500, Cancel);
        Assert.Equal(1, Fulls(await App.Get(Backups, Cancel)));
    }
}
