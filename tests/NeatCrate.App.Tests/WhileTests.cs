using System.Text.Json.Nodes;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Two things at once over the API, and what was left of one while another one is asked for.</summary>
public sealed class WhileTests : IDisposable
{
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
        var second = await App.Post($"/api/sessions/{other}/bundles/plan", new { shelfId = session.OutboxId, path = "", includeBounces = false, recipient = "Idris Falk", note = "" }, Cancel);
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
    public async Task ASaveIsKeptWhileLongWorkRuns(string work)
    {
        var session = await Live(6, 4_000_000);
        var backups = $"/api/sessions/{session.Id}/backups";
        var vault = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(session.Root, "vault")).FullName, Cancel);
        if (work == "check")
        {
            await App.JobOver(await App.Post($"{backups}/full", new { vaultId = vault, note = "", byContent = false }, Cancel), Cancel);
        }
        var plan = work == "bundle" ? await session.PlanBundle(Cancel) : null;
        var document = Path.Combine(session.Folder, "261014 Net Mender.otio");
        var text = await File.ReadAllTextAsync(document, Cancel);
        // The state that was there when the session became known is kept first.
        await App.Until(backups, b => b["versions"]!.AsArray().Any(v => v!["kind"]!.GetValue<string>() == "Document"), Cancel);
        var running = work switch
        {
            "backup" => await App.Post($"{backups}/full", new { vaultId = vault, note = "", byContent = false }, Cancel),
            "bundle" => await App.Post($"/api/plans/{plan!["id"]}/apply", null, Cancel),
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
        // A bundle of a document that was saved after the plan was made is planned again.
        Assert.True(job["state"]!.GetValue<string>() == "Done" || (work == "bundle" && job["message"]!.GetValue<string>().Contains("Nothing was changed.", StringComparison.Ordinal)), job.ToJsonString());
    }

    private static HashSet<string> Kept(LiveSession session) => Directory.Exists(Path.Combine(session.Folder, "Document backups"))
        ? [.. Directory.GetFiles(Path.Combine(session.Folder, "Document backups"), "*.otio").Select(File.ReadAllText)]
        : [];
}
