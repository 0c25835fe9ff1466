using System.Net.Http.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Two things at once over the API, and what was left of one while another one is asked for.</summary>
public sealed partial class WhileTests : IDisposable
{
    private static readonly string[] Strays = ["Strays"];
    private static readonly string[] Nothing = [];

    [GeneratedRegex(@"Make the plan again\..*(Nothing was changed\.|Everything is as it was before\.|that save stays as it is\.)$|Nothing was changed\.")]
    private static partial Regex PlanAgain();

    private LiveSession? _session;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session!.App;

    public void Dispose() => _session?.Dispose();

    private async Task<LiveSession> Live(int outsideFiles, int samplesEach) => _session = await new LiveSession(outsideFiles, samplesEach).Know(Cancel);

    /// <summary>
    /// A plan was cut off and could not be undone, as when its drive left. What it had made so far is taken for what stands in the
    /// session by the next plan; that one must not run on after the first one was undone, or a document points at what is not there.
    /// </summary>
    [Fact]
    public async Task APlanThatCountsOnWhatAnUnfinishedOneLeftIsMadeAgain()
    {
        var session = await Live(3, 4800);
        var (source, left) = (Path.Combine(session.Library, "sample 00.wav"), Path.Combine(session.Folder, "Audio", "sample 00.wav"));
        Directory.CreateDirectory(Path.Combine(session.Folder, "Audio"));
        var before = Tree.Of(session.Drive);
        var cutOff = new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.CopyIn,
            Sentence = "Copy one in.",
            SessionId = Guid.Parse(session.Id),
            WritableRoots = [session.Folder],
            Steps = [MakeFileStep.Copy(left, "test", source, Core.Files.FileState.Of(source))],
        };
        var journal = ((HostedApp)App).Service<PlanJournal>();
        journal.Begin(cutOff);
        File.Copy(source, left);
        journal.Record(cutOff.Id, new StepRecord(0, StepState.Done, ByteIdentity.OfFile(left, cancel: Cancel)));
        var plan = await session.PlanCopyIn(Cancel);
        Assert.DoesNotContain(plan["steps"]!.AsArray(), s => s!["verb"]!.GetValue<string>() == "copy" && s.ToJsonString().Contains("sample 00", StringComparison.Ordinal));
        var job = await App.Apply(plan, Cancel);
        Assert.Equal("Failed", job["state"]!.GetValue<string>());
        Assert.Contains("Nothing was changed.", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Contains("Make the plan again.", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(before, Tree.Of(session.Drive));
        Assert.Equal("Done", (await App.Apply(await session.PlanCopyIn(Cancel), Cancel))["state"]!.GetValue<string>());
        Assert.Equal(3, Directory.GetFiles(Path.Combine(session.Folder, "Audio")).Length);
        Assert.All((await App.Get($"/api/sessions/{session.Id}/files", Cancel))["files"]!.AsArray(), f => Assert.Equal("Inside", f!["standing"]!.GetValue<string>()));
    }

    /// <summary>A session becomes known while the watch over all of them asks which there are: what is kept of it stays.</summary>
    [Fact]
    public async Task ASessionThatBecomesKnownMeanwhileIsNotForgotten()
    {
        var session = await Live(1, 4800);
        var (kept, sessions) = (((HostedApp)App).Service<KeptSessions>(), ((HostedApp)App).Service<SessionService>());
        var known = sessions.All();
        Guid[] became = [];
        Assert.Empty(kept.Keep(() =>
        {
            var before = known.Select(s => s.Id).ToList();
            var row = new SessionRow { Id = Guid.NewGuid(), Folder = session.Library };
            became = [row.Id];
            kept.Of(row);
            return before;
        }));
        Assert.NotNull(kept.Of(became[0]));
        Assert.Equal(became, kept.Keep(() => known.Select(s => s.Id)));
        Assert.Null(kept.Of(became[0]));
    }

    /// <summary>Two sessions are bundled into one place at once: the one that begins later does not take the first one for one that was cut off.</summary>
    [Fact]
    public async Task TwoPlansInOnePlaceAtOnceBothGoThrough()
    {
        var session = await Live(4, 6_000_000);
        Assert.Equal("Done", (await App.Apply(await session.PlanCopyIn(Cancel), Cancel))["state"]!.GetValue<string>());
        const string Other = "261015 Low Water";
        Directory.CreateDirectory(Path.Combine(session.Drive, Other));
        await File.WriteAllBytesAsync(Path.Combine(session.Drive, Other, Other + ".otio"), SessionDocument.Create(Guid.NewGuid(), Other, new SessionSettings(), SessionLayout.Default, ["Voice"]).ToUtf8(), Cancel);
        var other = await App.Adopt(session.DriveId, Other, Cancel);
        var first = await session.PlanBundle(Cancel);
        var second = await App.Post($"/api/sessions/{other}/bundles/plan", new { shelfId = session.OutboxId, path = "", recipient = "Idris Falk", note = "" }, Cancel);
        var running = await App.Post($"/api/plans/{first["id"]}/apply", null, Cancel);
        await App.Until($"/api/jobs/{running["id"]}", j => j["bytesDone"]!.GetValue<long>() > 0, Cancel);
        JsonNode[] jobs = [await App.Apply(second, Cancel), await App.JobOver(running, Cancel)];
        Assert.All(jobs, j => Assert.Equal(("Done", ""), (j["state"]!.GetValue<string>(), j["state"]!.GetValue<string>() == "Done" ? "" : j["message"]!.GetValue<string>())));
        Assert.Equal(2, Directory.GetFiles(session.Outbox, "*.zip", SearchOption.AllDirectories).Length);
    }

    /// <summary>Planned in one second, for one place: each bundle has a name of its own, and both are packed.</summary>
    [Fact]
    public async Task BundlesThatArePlannedInOneSecondAreBothPacked()
    {
        var session = await Live(2, 4800);
        JsonNode[] plans = [await session.PlanBundle(Cancel), await session.PlanBundle(Cancel), await session.PlanBundle(Cancel)];
        foreach (var plan in plans)
        {
            Assert.Equal("Done", (await App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        }
        Assert.Equal(3, Directory.GetFiles(session.Outbox, "*.zip").Length);
    }

    /// <summary>Whatever long work runs, a save that stands for a moment is kept meanwhile, and the work goes through.</summary>
    [Theory]
    [InlineData("backup")]
    [InlineData("bundle")]
    [InlineData("check")]
    [InlineData("scan")]
    [InlineData("copy in")]
    [InlineData("restore")]
    [InlineData("read")]
    public async Task ASaveIsKeptWhileLongWorkRuns(string work)
    {
        var session = await Live(6, 4_000_000);
        var backups = $"/api/sessions/{session.Id}/backups";
        var vault = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(session.Root, "vault")).FullName, Cancel);
        if (work is "restore" or "read")
        {
            await App.Apply(await session.PlanCopyIn(Cancel), Cancel);
        }
        if (work is "check" or "restore")
        {
            await FullBackup(session, vault);
        }
        if (work == "read")
        {
            // Two of one size, which only reading tells apart.
            foreach (var sample in Directory.GetFiles(Path.Combine(session.Folder, "Audio")))
            {
                File.Copy(sample, sample.Replace("sample", "again", StringComparison.Ordinal));
            }
        }
        var plan = work switch
        {
            "bundle" => await session.PlanBundle(Cancel),
            "copy in" => await session.PlanCopyIn(Cancel),
            "restore" => await App.Post($"/api/sessions/{session.Id}/versions/session/plan", new { version = NewestFull(await App.Get(backups, Cancel)), shelfId = session.DriveId, path = "", name = "came back" }, Cancel),
            _ => null,
        };
        var document = Path.Combine(session.Folder, "261014 Net Mender.otio");
        var text = await File.ReadAllTextAsync(document, Cancel);
        // The state that was there when the session became known is kept first.
        await App.Until(backups, b => b["versions"]!.AsArray().Any(v => v!["kind"]!.GetValue<string>() == "Document"), Cancel);
        var running = work switch
        {
            "backup" => await App.Post($"{backups}/full", new { vaultId = vault, note = "", byContent = false }, Cancel),
            "bundle" or "copy in" or "restore" => await App.Post($"/api/plans/{plan!["id"]}/apply", null, Cancel),
            "read" => await App.Post($"/api/sessions/{session.Id}/purge/read", null, Cancel),
            "check" => await App.Post($"/api/vaults/{vault}/check", null, Cancel),
            _ => await App.Post($"/api/shelves/{session.DriveId}/scan", null, Cancel),
        };
        for (var n = 0; n < 3; n++)
        {
            var saved = text.Replace("\"Samples\"", $"\"Samples\", \"note\": \"{work} {n}\"", StringComparison.Ordinal);
            await File.WriteAllTextAsync(document + ".new", saved, Cancel);
            File.Move(document + ".new", document, overwrite: true);
            await App.Until(backups, b => Kept(session).Contains(saved), Cancel);
        }
        if (work == "scan")
        {
            await App.ScansOver(Cancel);
            return;
        }
        var job = await App.JobOver(running, Cancel);
        // What goes by a document that was saved after the plan was made is planned again.
        Assert.True(job["state"]!.GetValue<string>() == "Done" || (work is "bundle" or "copy in" && PlanAgain().IsMatch(job["message"]!.GetValue<string>())), job.ToJsonString());
    }

    private static string NewestFull(JsonNode backups) => backups["versions"]!.AsArray().Last(v => v!["kind"]!.GetValue<string>() == "Full")!["key"]!.GetValue<string>();

    private async Task<JsonNode> FullBackup(LiveSession session, string vault) =>
        await App.JobOver(await App.Post($"/api/sessions/{session.Id}/backups/full", new { vaultId = vault, note = "", byContent = false }, Cancel), Cancel);

    /// <summary>Files are set aside while a backup of the same session runs: one waits for the other, and the backup is the session of one moment.</summary>
    [Fact]
    public async Task ABackupIsOfOneMomentWhateverPlanIsAppliedMeanwhile()
    {
        var session = await Live(5, 4_000_000);
        await App.Apply(await session.PlanCopyIn(Cancel), Cancel);
        var vault = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(session.Root, "vault")).FullName, Cancel);
        foreach (var name in Enumerable.Range(0, 5))
        {
            var stray = Path.Combine(session.Folder, "Audio", $"stray {name}.wav");
            File.Copy(Path.Combine(session.Folder, "Audio", $"sample 0{name}.wav"), stray);
            File.AppendAllText(stray, $"{name}");
            File.SetLastWriteTimeUtc(stray, new DateTime(2026, 10, 1, 8, 0, 0, DateTimeKind.Utc));
        }
        var plan = await App.Post($"/api/sessions/{session.Id}/purge/plan", new { groups = Strays, except = Nothing, also = Nothing, depth = "SetAside", instrumentsAreThere = false, olderVersions = true, otherSessions = true }, Cancel);
        var before = Files(session.Folder);
        var backup = await App.Post($"/api/sessions/{session.Id}/backups/full", new { vaultId = vault, note = "", byContent = false }, Cancel);
        await App.Until($"/api/jobs/{backup["id"]}", j => j["bytesDone"]!.GetValue<long>() > 0 || j["state"]!.GetValue<string>() == "Done", Cancel);
        Assert.Equal("Done", (await App.Apply(plan["plan"]!, Cancel))["state"]!.GetValue<string>());
        Assert.Equal("Done", (await App.JobOver(backup, Cancel))["state"]!.GetValue<string>());
        Assert.Equal(5, Directory.GetFiles(Path.Combine(session.Folder, "Set aside", "Audio")).Length);
        await App.Apply(await App.Post($"/api/sessions/{session.Id}/versions/session/plan", new { version = NewestFull(await App.Get($"/api/sessions/{session.Id}/backups", Cancel)), shelfId = session.DriveId, path = "", name = "came back" }, Cancel), Cancel);
        var back = Files(Path.Combine(session.Drive, "came back"));
        Assert.True(back.SequenceEqual(before) || back.SequenceEqual(Files(session.Folder)), string.Join('\n', back));
    }

    /// <summary>Two sessions are backed up into one vault at once, and one of them into another as well: each backup is whole.</summary>
    [Fact]
    public async Task SessionsAreBackedUpIntoOneVaultAtOnce()
    {
        var session = await Live(4, 2_000_000);
        await App.Apply(await session.PlanCopyIn(Cancel), Cancel);
        var copies = Directory.CreateDirectory(Path.Combine(session.Root, "copies")).FullName;
        Tool.Run("cp", "-a", session.Folder, copies);
        var other = await App.Adopt(await App.AddShelf("Copies", "SessionDrive", copies, Cancel), LiveSession.Name, Cancel);
        List<string> vaults = [];
        foreach (var name in new[] { "one", "two" })
        {
            vaults.Add(await App.AddShelf(name, "Vault", Directory.CreateDirectory(Path.Combine(session.Root, name)).FullName, Cancel));
        }
        List<JsonNode> jobs = [];
        foreach (var (of, into) in new[] { (session.Id, vaults[0]), (other, vaults[0]), (session.Id, vaults[1]), (other, vaults[1]) })
        {
            jobs.Add(await App.Post($"/api/sessions/{of}/backups/full", new { vaultId = into, note = "", byContent = false }, Cancel));
        }
        foreach (var job in jobs)
        {
            var over = await App.JobOver(job, Cancel);
            Assert.True(over["state"]!.GetValue<string>() == "Done", over.ToJsonString());
        }
        foreach (var of in new[] { session.Id, other })
        {
            await App.Until($"/api/sessions/{of}/backups", b => b["vaults"]!.AsArray().All(v => v!["backups"]!.GetValue<int>() == 1 && v["allBackups"]!.GetValue<int>() == 2 && v["damaged"]!.AsArray().Count == 0), Cancel);
        }
        foreach (var vault in vaults)
        {
            Assert.Contains("All of it is whole.", (await App.JobOver(await App.Post($"/api/vaults/{vault}/check", null, Cancel), Cancel))["message"]!.GetValue<string>(), StringComparison.Ordinal);
        }
    }

    /// <summary>Of two vaults one is away: what it holds is still told of, the other one goes on, and when it is back nothing of it is damaged.</summary>
    [Fact]
    public async Task OfTwoVaultsOneIsAway()
    {
        var session = await Live(2, 48_000);
        await App.Apply(await session.PlanCopyIn(Cancel), Cancel);
        var backups = $"/api/sessions/{session.Id}/backups";
        var (here, drawer) = (Path.Combine(session.Root, "one"), Path.Combine(session.Root, "drawer"));
        var one = await App.AddShelf("one", "Vault", Directory.CreateDirectory(here).FullName, Cancel);
        var two = await App.AddShelf("two", "Vault", Directory.CreateDirectory(Path.Combine(session.Root, "two")).FullName, Cancel);
        await FullBackup(session, one);
        Directory.Move(here, drawer);
        await App.Until(backups, b => b["vaults"]!.AsArray().Any(v => !v!["connected"]!.GetValue<bool>()), Cancel);
        Assert.Equal("Done", (await FullBackup(session, two))["state"]!.GetValue<string>());
        var away = await App.Until(backups, b => b["versions"]!.AsArray().Count(v => v!["kind"]!.GetValue<string>() == "Full") == 2, Cancel);
        Assert.Equal(["one true", "two false"], away["versions"]!.AsArray().Where(v => v!["kind"]!.GetValue<string>() == "Full").Select(v => $"{v!["vault"]} {v["isAway"]}").Order(StringComparer.Ordinal));
        Assert.All(away["vaults"]!.AsArray(), v => Assert.Empty(v!["damaged"]!.AsArray()));
        // What could be let go of there cannot be now, and that is said.
        using (var refused = await App.Client.PostAsJsonAsync($"{backups}/thinning/{one}", new { keys = Nothing }, Cancel))
        {
            var text = await refused.Content.ReadAsStringAsync(Cancel);
            Assert.True(!refused.IsSuccessStatusCode || (await App.JobOver(JsonNode.Parse(text)!, Cancel))["state"]!.GetValue<string>() == "Failed", text);
        }
        // Nothing was begun in the place of the one that is away.
        Assert.False(Directory.Exists(here));
        Directory.Move(drawer, here);
        var back = await App.Until(backups, b => b["vaults"]!.AsArray().All(v => v!["connected"]!.GetValue<bool>() && v["backups"]!.GetValue<int>() == 1), Cancel);
        Assert.All(back["vaults"]!.AsArray(), v => Assert.Empty(v!["damaged"]!.AsArray()));
        Assert.Contains("All of it is whole.", (await App.JobOver(await App.Post($"/api/vaults/{one}/check", null, Cancel), Cancel))["message"]!.GetValue<string>(), StringComparison.Ordinal);
    }

    /// <summary>One of two documents is of a size that none has: the other one is kept, at once.</summary>
    [Fact]
    public async Task ADocumentOfAbsurdSizeHoldsUpNoOther()
    {
        var session = await Live(1, 4800);
        var document = Path.Combine(session.Folder, "261014 Net Mender.otio");
        var text = await File.ReadAllTextAsync(document, Cancel);
        var broken = Path.Combine(session.Folder, "broken.otio");
        await File.WriteAllTextAsync(broken, text.Replace("\"Samples\"", "\"Broken\"", StringComparison.Ordinal), Cancel);
        await App.Until($"/api/sessions/{session.Id}/backups", b => b["versions"]!.AsArray().Count == 2, Cancel);
        File.Delete(broken);
        // A terabyte of nothing, which takes no room.
        using (var huge = File.Create(broken))
        {
            huge.SetLength(1L << 40);
        }
        for (var n = 0; n < 2; n++)
        {
            var saved = text.Replace("\"Samples\"", $"\"Samples\", \"note\": \"{n}\"", StringComparison.Ordinal);
            await File.WriteAllTextAsync(document, saved, Cancel);
            await App.Until($"/api/sessions/{session.Id}/backups", _ => Kept(session).Contains(saved), Cancel);
        }
    }

    private static string[] Files(string folder) =>
        [.. Tree.Of(folder).Where(e => !e.Key.StartsWith("Document backups", StringComparison.Ordinal) && e.Value != "folder").Select(e => $"{e.Key} {e.Value}").Order(StringComparer.Ordinal)];

    private static HashSet<string> Kept(LiveSession session) => Directory.Exists(Path.Combine(session.Folder, "Document backups"))
        ? [.. Directory.GetFiles(Path.Combine(session.Folder, "Document backups"), "*.otio").Select(File.ReadAllText)]
        : [];
}
