using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>A file of ours in a session folder is taken away, cut, swapped or made something else: what is said stays true, and nothing else goes.</summary>
public sealed class TakenAwayInSessionTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 48_000);
    private string _vaultId = "";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Api => $"/api/sessions/{_session.Id}";

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        _vaultId = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(_session.Root, "vault")).FullName, Cancel);
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    [Theory]
    [InlineData("Set aside/.neat-crate-set-aside.json")]
    [InlineData("Set aside/Audio/again.wav")]
    [InlineData(".neat-crate.json")]
    [InlineData("Document backups/*.otio")]
    [InlineData("Document backups/*.note.txt")]
    [InlineData("*.otio")]
    public async Task Explore(string pattern)
    {
        var o = TestContext.Current.TestOutputHelper!;
        var audio = Path.Combine(_session.Folder, "Audio");
        var stray = Path.Combine(audio, "again.wav");
        File.Copy(Path.Combine(audio, "sample 00.wav"), stray);
        File.SetLastWriteTimeUtc(stray, new DateTime(2026, 10, 1, 8, 0, 0, DateTimeKind.Utc));
        await App.Post($"{Api}/backups/keep", new { note = "before the mix" }, Cancel);
        var before = Tree.Of(_session.Folder);
        o.WriteLine(string.Join("\n", before.Keys));
        var asked = new { groups = new[] { "Strays" }, except = Array.Empty<string>(), also = Array.Empty<string>(), depth = "SetAside", instrumentsAreThere = false, olderVersions = true, otherSessions = true };
        var plan = await App.Post($"{Api}/purge/plan", asked, Cancel);
        o.WriteLine((await App.Apply(plan["plan"]!, Cancel)).ToJsonString());
        var version = await App.Post($"{Api}/version/plan", new { naming = "NextNumber", archiveOlder = true }, Cancel);
        o.WriteLine((await App.Apply(version, Cancel)).ToJsonString());
        o.WriteLine(string.Join("\n", Tree.Of(_session.Folder).Keys));
        var outside = Path.Combine(_session.Root, "somebody's.txt");
        File.WriteAllText(outside, "somebody's own");
        var files = Directory.GetFiles(Path.Combine(_session.Folder, Path.GetDirectoryName(pattern)!), Path.GetFileName(pattern)).Order(StringComparer.Ordinal).ToArray();
        if (files.Length == 0) { o.WriteLine("NOTHING MATCHES"); return; }
        foreach (var damage in new[] { "removed", "emptied", "cut", "swapped", "link", "folder" })
        {
            o.WriteLine("=== " + damage);
            var path = files[0];
            var neighbour = Directory.GetFiles(_session.Folder, "*", SearchOption.AllDirectories).Order(StringComparer.Ordinal).First(f => f != path && Path.GetExtension(f) == Path.GetExtension(path) || f != path && f.Contains(".neat-crate", StringComparison.Ordinal));
            var (whole, other) = (File.ReadAllBytes(path), File.ReadAllBytes(neighbour));
            var then = Tree.Of(_session.Folder);
            Damage(path, damage, outside, neighbour);
            var damaged = Tree.Of(_session.Folder);
            foreach (var page in new[] { "", "/files", "/backups", "/backups/safety", "/backups/thinning", "/purge", "/purge/held", "/purge/files?everything=true", "/purge/trim", "/relink", "/copy-in", "/bundles", "/history", "/record" })
            {
                using var answer = await App.Client.GetAsync(Api + page, Cancel);
                var text = await answer.Content.ReadAsStringAsync(Cancel);
                if (!answer.IsSuccessStatusCode) o.WriteLine($"!!! {page}: {(int)answer.StatusCode} {text}");
                else if (page is "" or "/purge" or "/purge/held") o.WriteLine($"{page}: {text[..Math.Min(900, text.Length)]}");
            }
            foreach (var (what, body) in new (string, object)[]
            {
                ("backups/keep", new { note = "now" }), ("purge/plan", asked), ("purge/put-back/plan", new { held = (string[]?)null }), ("purge/empty/plan", new { held = (string[]?)null }), ("version/plan", new { naming = "NextNumber", archiveOlder = true }),
            })
            {
                using var answer = await App.Client.PostAsync($"{Api}/{what}", System.Net.Http.Json.JsonContent.Create(body), Cancel);
                var text = await answer.Content.ReadAsStringAsync(Cancel);
                o.WriteLine($"POST {what}: {(int)answer.StatusCode} {text[..Math.Min(500, text.Length)]}");
            }
            var backup = await App.JobOver(await App.Post($"{Api}/backups/full", new { vaultId = _vaultId, note = "", byContent = false }, Cancel), Cancel);
            o.WriteLine($"backup {backup["state"]} {backup["message"]}");
            var after = Tree.Of(_session.Folder);
            foreach (var k in damaged.Keys.Union(after.Keys).Where(k => damaged.GetValueOrDefault(k) != after.GetValueOrDefault(k))) o.WriteLine($"CHANGED {k}: {damaged.GetValueOrDefault(k)} -> {after.GetValueOrDefault(k)}");
            Assert.Equal("somebody's own", File.ReadAllText(outside));
            RemoveWhatever(path);
            File.WriteAllBytes(path, whole);
            File.WriteAllBytes(neighbour, other);
        }
    }

    private static void RemoveWhatever(string path)
    {
        if (Directory.Exists(path) && new FileInfo(path).LinkTarget is null) Directory.Delete(path, recursive: true);
        else File.Delete(path);
    }

    private static void Damage(string path, string damage, string outside, string neighbour)
    {
        var bytes = File.ReadAllBytes(path);
        File.Delete(path);
        switch (damage)
        {
            case "emptied": File.WriteAllBytes(path, []); break;
            case "cut": File.WriteAllBytes(path, bytes[..(bytes.Length / 2)]); break;
            case "swapped": File.Move(neighbour, path); File.WriteAllBytes(neighbour, bytes); break;
            case "link": File.CreateSymbolicLink(path, outside); break;
            case "folder": File.WriteAllBytes(Path.Combine(Directory.CreateDirectory(path).FullName, "somebody's.txt"), bytes); break;
            default: break;
        }
    }
}
