using System.Text.Json.Nodes;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Purge over the API: judged, set aside, put back, emptied, trimmed, and reported on.</summary>
public sealed class PurgeFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(2, 480_000);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Purge => $"/api/sessions/{_session.Id}/purge";

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        var placed = Path.Combine(Audio, "sample 00.wav");
        File.Copy(placed, Path.Combine(Audio, "again.wav"));
        File.WriteAllBytes(Path.Combine(Audio, "drip.wav"), [.. File.ReadAllBytes(placed)[..^60_000]]);
        foreach (var file in Directory.GetFiles(Audio))
        {
            File.SetLastWriteTimeUtc(file, new DateTime(2026, 10, 1, 8, 0, 0, DateTimeKind.Utc));
        }
        Directory.CreateDirectory(Path.Combine(_session.Folder, "Charts"));
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private string Audio => Path.Combine(_session.Folder, "Audio");

    private static object Asked(params string[] groups) => new
    {
        groups,
        except = Array.Empty<string>(),
        also = Array.Empty<string>(),
        depth = "SetAside",
        instrumentsAreThere = false,
        olderVersions = true,
        otherSessions = true,
    };

    private static string Group(JsonNode info, string group) => string.Join(' ', info["groups"]!.AsArray().Where(g => g!["group"]!.GetValue<string>() == group).Select(g => $"{g!["files"]} {g["bytes"]}"));

    [Fact]
    public async Task ASoundThatIsThereTwiceIsFoundByReadingAndBecomesOne()
    {
        var before = await App.Get(Purge, Cancel);
        Assert.Equal("", Group(before, "SameSound"));
        Assert.InRange(before["toReadFiles"]!.GetValue<int>(), 2, 3);
        await App.JobOver(await App.Post($"{Purge}/read", null, Cancel), Cancel);
        var after = await App.Get(Purge, Cancel);
        Assert.StartsWith("1 ", Group(after, "SameSound"), StringComparison.Ordinal);
        Assert.Equal(0, after["toReadFiles"]!.GetValue<int>());
        Assert.StartsWith("1 ", Group(after, "EmptyFolders"), StringComparison.Ordinal);
        var list = await App.Get($"{Purge}/files?group=SameSound", Cancel);
        var row = Assert.Single(list["files"]!.AsArray())!;
        Assert.Equal(("again.wav", "Audio/sample 00.wav"), (row["file"]!["name"]!.GetValue<string>(), row["sameAs"]!.GetValue<string>()));
    }

    /// <summary>What two sessions hold each for itself is told by name, as long as it stands there; nothing is merged.</summary>
    [Fact]
    public async Task WhatAnotherSessionHoldsForItselfIsTold()
    {
        const string Other = "261005 Low Water";
        var (folder, copy) = (Path.Combine(_session.Drive, Other), Path.Combine(_session.Drive, Other, "Audio", "tide.wav"));
        Directory.CreateDirectory(Path.GetDirectoryName(copy)!);
        File.Copy(Path.Combine(Audio, "sample 00.wav"), copy);
        var document = SessionDocument.Create(Guid.NewGuid(), Other, new SessionSettings(), SessionLayout.Default, ["Samples"]);
        ClipBuilder.Place(document.Root, "Samples", new ClipToPlace("tide", MediaUrl.From(copy, folder), 48000, 480_000, 0, 480_000));
        File.WriteAllBytes(Path.Combine(folder, Other + ".otio"), document.ToUtf8());
        var other = await App.Adopt(_session.DriveId, Other, Cancel);
        await App.Get($"/api/sessions/{other}/files", Cancel);
        await App.Get($"/api/sessions/{_session.Id}/files", Cancel);
        await AtRest.Read(App, Cancel);
        async Task<string[]> AlsoIn() => [.. (await App.Get($"{Purge}/files?everything=true", Cancel))["files"]!.AsArray()
            .SelectMany(f => f!["alsoIn"]!.AsArray().Select(s => $"{f["file"]!["name"]} in {s}"))];
        Assert.Equal(["sample 00.wav in 261005 Low Water"], await AlsoIn());
        File.Delete(copy);
        Assert.Empty(await AlsoIn());
    }

    [Fact]
    public async Task WhatGoesIsWeighedSetAsidePutBackAndReportedOn()
    {
        await App.JobOver(await App.Post($"{Purge}/read", null, Cancel), Cancel);
        var before = Tree.Of(_session.Folder);
        var planned = await App.Post($"{Purge}/plan", Asked("Strays", "SameSound", "EmptyFolders"), Cancel);
        Assert.Equal(2, planned["files"]!.GetValue<int>());
        var (then, held) = (planned["after"]!, planned["after"]!["weights"]!.AsArray().Single(w => w!["use"]!.GetValue<string>() == "SetAside")!);
        Assert.Equal(planned["bytes"]!.GetValue<long>(), held["bytes"]!.GetValue<long>());
        Assert.Equal(before.Count(e => e.Value != "folder"), then["weights"]!.AsArray().Sum(w => w!["files"]!.GetValue<int>()) + 1);
        await App.Apply(planned["plan"]!, Cancel);
        var info = await App.Get(Purge, Cancel);
        Assert.Equal((2, 1), (info["heldFiles"]!.GetValue<int>(), info["heldFolders"]!.GetValue<int>()));
        Assert.False(File.Exists(Path.Combine(Audio, "again.wav")));
        // The report names every file, as a page and as a table.
        var report = await App.Get($"/api/plans/{planned["plan"]!["id"]}/report", Cancel);
        Assert.Equal(["Charts", "again.wav", "drip.wav"], report["lines"]!.AsArray().Where(l => l!["from"] is not null).Select(l => Path.GetFileName(l!["from"]!["path"]!.GetValue<string>())).Order(StringComparer.Ordinal));
        var csv = await App.Client.GetStringAsync($"/api/plans/{planned["plan"]!["id"]}/report.csv", Cancel);
        Assert.Contains("set aside", csv, StringComparison.Ordinal);
        Assert.Contains("drip.wav", csv, StringComparison.Ordinal);
        // And back: the tree is what it was.
        var listed = await App.Get($"{Purge}/held", Cancel);
        Assert.Equal(3, listed["total"]!.GetValue<int>());
        await App.Apply(await App.Post($"{Purge}/put-back/plan", new { held = (string[]?)null }, Cancel), Cancel);
        Assert.Equal(before, Tree.Of(_session.Folder));
    }

    /// <summary>A full backup takes along what is set aside: after it, emptying says that a backup holds it.</summary>
    [Fact]
    public async Task AFullBackupHoldsWhatIsSetAside()
    {
        var vault = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(_session.Root, "vault")).FullName, Cancel);
        await App.Apply((await App.Post($"{Purge}/plan", Asked("Strays"), Cancel))["plan"]!, Cancel);
        var plan = await App.Post($"{Purge}/empty/plan", new { held = (string[]?)null }, Cancel);
        Assert.Contains("no backup holds", plan["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        var made = await App.JobOver(await App.Post($"/api/sessions/{_session.Id}/backups/full", new { vaultId = vault, note = "before emptying", byContent = false }, Cancel), Cancel);
        Assert.Equal("Done", made["state"]!.GetValue<string>());
        Assert.EndsWith("read back and compared.", made["message"]!.GetValue<string>(), StringComparison.Ordinal);
        plan = await App.Post($"{Purge}/empty/plan", new { held = (string[]?)null }, Cancel);
        Assert.Matches("a backup holds (it|each of them)", plan["sentence"]!.GetValue<string>());
    }

    /// <summary>What is said before deleting for good was looked at just then: content that is gone, of another size or, by choice, with other bytes is no backup; nor is one that is away.</summary>
    [Theory]
    [InlineData("gone", false)]
    [InlineData("cut", false)]
    [InlineData("bytes", true)]
    [InlineData("manifest", false)]
    [InlineData("away", false)]
    public async Task BeforeEmptyingTheBackupIsLookedAt(string what, bool byContent)
    {
        var place = Directory.CreateDirectory(Path.Combine(_session.Root, "vault")).FullName;
        var vault = await App.AddShelf("Vault", "Vault", place, Cancel);
        await App.Apply((await App.Post($"{Purge}/plan", Asked("Strays"), Cancel))["plan"]!, Cancel);
        await App.JobOver(await App.Post($"/api/sessions/{_session.Id}/backups/full", new { vaultId = vault, note = "", byContent = false }, Cancel), Cancel);
        async Task<string> Sentence() => (await App.Post($"{Purge}/empty/plan", new { held = (string[]?)null, byContent }, Cancel))["sentence"]!.GetValue<string>();
        Assert.Contains("a backup holds", await Sentence(), StringComparison.Ordinal);
        foreach (var file in Directory.GetFiles(place, what == "manifest" ? "*.sha512" : "*", SearchOption.AllDirectories).Where(f => what == "manifest" || f.Contains("/content/", StringComparison.Ordinal)))
        {
            var bytes = File.ReadAllBytes(file);
            switch (what)
            {
                case "gone" or "manifest":
                    File.Delete(file);
                    break;
                case "cut":
                    File.WriteAllBytes(file, bytes[..1]);
                    break;
                case "bytes":
                    bytes[^1] ^= 1;
                    File.WriteAllBytes(file, bytes);
                    break;
            }
        }
        if (what == "away")
        {
            Directory.Move(place, place + " unplugged");
        }
        Assert.Contains("no backup holds", await Sentence(), StringComparison.Ordinal);
    }

    /// <summary>Emptying tells which files no backup holds: a plain copy on a vault is one, also under another name.</summary>
    [Fact]
    public async Task EmptyingTellsWhatNoBackupHolds()
    {
        var vault = Path.Combine(_session.Root, "vault");
        Directory.CreateDirectory(vault);
        File.Copy(Path.Combine(Audio, "again.wav"), Path.Combine(vault, "kept.wav"));
        var shelf = await App.AddShelf("Vault", "Vault", vault, Cancel);
        await App.Scan(shelf, Cancel);
        await App.Apply((await App.Post($"{Purge}/plan", Asked("Strays"), Cancel))["plan"]!, Cancel);
        var plan = await App.Post($"{Purge}/empty/plan", new { held = (string[]?)null }, Cancel);
        Assert.True(plan["isForGood"]!.GetValue<bool>());
        var warnings = string.Join(' ', plan["warnings"]!.AsArray().Select(w => w!.GetValue<string>()));
        Assert.Contains("This cannot be undone: 2 files will be gone for good.", warnings, StringComparison.Ordinal);
        Assert.Contains("No backup holds one of them", warnings, StringComparison.Ordinal);
        Assert.Contains("'drip.wav'", warnings, StringComparison.Ordinal);
        Assert.DoesNotContain("'again.wav'", warnings, StringComparison.Ordinal);
        await App.Apply(plan, Cancel);
        Assert.Equal(["sample 00.wav", "sample 01.wav"], Directory.GetFiles(_session.Folder, "*.wav", SearchOption.AllDirectories).Select(Path.GetFileName).Order());
        var (status, _) = await App.PostRefused($"/api/plans/{(await App.Post($"{Purge}/put-back/plan", new { held = (string[]?)null }, Cancel))["id"]}/apply", null, Cancel);
        Assert.Equal(409, status);
    }

    /// <summary>A document that nobody can read: nothing is set aside, and one hears why.</summary>
    [Fact]
    public async Task BesideADocumentThatNobodyCanReadNothingIsSetAside()
    {
        File.WriteAllText(Path.Combine(_session.Folder, "Net Mender.xyz"), "a document of another program");
        var info = await App.Get(Purge, Cancel);
        Assert.Contains("'Net Mender.xyz' cannot be read", info["refusal"]!.GetValue<string>(), StringComparison.Ordinal);
        var planned = (await App.Post($"{Purge}/plan", Asked("Litter", "EmptyFolders"), Cancel))["plan"]!;
        Assert.Contains("'Net Mender.xyz' cannot be read", planned["refusals"]![0]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(409, (await App.PostRefused($"/api/plans/{planned["id"]}/apply", null, Cancel)).Status);
    }

    [Fact]
    public async Task ATrimmedCopyIsMadeElsewhere()
    {
        var document = Directory.GetFiles(_session.Folder, "*.otio").Single();
        // One clip is made shorter: two seconds from the third second on.
        var text = JsonNode.Parse(File.ReadAllText(document))!;
        var clip = text["tracks"]!["children"]![0]!["children"]![0]!;
        clip["source_range"]!["start_time"]!["value"] = 144_000;
        clip["source_range"]!["duration"]!["value"] = 96_000;
        File.WriteAllText(document, text.ToJsonString());
        var list = await App.Get($"{Purge}/trim?handle=0.5", Cancel);
        Assert.Equal((2, 1), (list["total"]!.GetValue<int>(), list["trimmed"]!.GetValue<int>()));
        Assert.Equal(120_000, list["files"]![0]!["kept"]![0]!["start"]!.GetValue<long>());
        var asked = new { how = new { handle = .5, join = 1, pieces = "OneFile", olderVersions = true, inPlace = false }, except = Array.Empty<string>(), shelfId = _session.OutboxId, path = "", name = "Net Mender trimmed" };
        var before = Tree.Of(_session.Folder);
        await App.Apply(await App.Post($"{Purge}/trim/plan", asked, Cancel), Cancel);
        Assert.Equal(before, Tree.Of(_session.Folder));
        Assert.Equal("144000", Tool.Run("soxi", "-s", Path.Combine(_session.Outbox, "Net Mender trimmed", "Audio", "sample 00.wav")).Trim());
        Assert.Equal(400, (await App.PostRefused($"{Purge}/trim/plan", new { how = new { handle = -1, join = 1, pieces = "OneFile", olderVersions = true, inPlace = true }, except = Array.Empty<string>() }, Cancel)).Status);
    }

    [Theory]
    [InlineData("files?group=Nothing")]
    [InlineData("files?order=9")]
    [InlineData("trim?handle=NaN")]
    [InlineData("trim?join=1e9")]
    [InlineData("trim?pieces=7")]
    public async Task SenselessQuestionsAreRefused(string question)
    {
        using var response = await App.Client.GetAsync($"{Purge}/{question}", Cancel);
        Assert.Equal(400, (int)response.StatusCode);
    }
}
