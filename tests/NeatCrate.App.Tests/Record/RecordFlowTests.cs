using System.Text.Json.Nodes;
using NeatCrate.App.Scans;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests.Record;

/// <summary>Recording by the application's own requests: takes, mirror, cut-offs, and work that holds still meanwhile.</summary>
public sealed class RecordFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 60_000);

    private static readonly object OneTrack = new { tracks = new[] { "Oud" }, seconds = 5, fromSeconds = 0, speed = 1 };

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Path(string rest = "") => $"/api/sessions/{_session.Id}{rest}";

    private string Take(string name) => System.IO.Path.Combine(_session.Folder, "Audio", name);

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private Task<JsonNode> Start(double seconds, params string[] tracks) =>
        App.Post(Path("/record/start"), new { tracks, seconds, fromSeconds = 0, pass = (int?)null, speed = 50, cutPowerAfter = (double?)null }, Cancel);

    private Task<JsonNode> Until(string path, Func<JsonNode, bool> holds) => App.Until(path, holds, Cancel);

    private Task<JsonNode> UntilEnded() => Until("/api/recording", r => r["recording"]!["state"]!.GetValue<string>() != "Recording");

    private async Task<JsonNode> FileNamed(string name) =>
        (await App.Get(Path("/files"), Cancel))["files"]!.AsArray().Single(f => f!["name"]!.GetValue<string>() == name)!;

    private async Task<string> Apply(string plan) => (await App.Apply(await App.Post(Path(plan), new { leftOut = Array.Empty<string>() }, Cancel), Cancel))["state"]!.GetValue<string>();

    /// <summary>Makes the library the session's mirror; it is a shelf that can be taken away.</summary>
    private async Task<string> MirrorTo(string folder)
    {
        var shelf = await App.AddShelf("Second drive", "Removable", folder, Cancel);
        var settings = (await App.Get(Path(), Cancel))["settings"]!;
        settings["mirrorShelfId"] = shelf;
        await App.Apply(await App.Post(Path("/settings/plan"), new { settings, newTracks = Array.Empty<string>() }, Cancel), Cancel);
        return System.IO.Path.Combine(folder, "Mirrored takes", "261014 Net Mender");
    }

    [Fact]
    public async Task TakesLandGetNumbersAndGoOnTheList()
    {
        await Start(6, "Samples", "Oud");
        await UntilEnded();
        await Start(6, "Samples");
        await UntilEnded();
        Assert.Equal(["Oud 01.wav", "Samples 01.wav", "Samples 02.wav"], Directory.GetFiles(System.IO.Path.Combine(_session.Folder, "Audio")).Select(System.IO.Path.GetFileName).Order());
        Assert.Equal("288000", Tool.Run("soxi", "-s", Take("Samples 02.wav")).Trim());
        var take = (await FileNamed("Samples 02.wav"))["take"]!;
        Assert.Equal(("Samples", 2, 2, 0.0), (take["track"]!.GetValue<string>(), take["number"]!.GetValue<int>(), take["pass"]!.GetValue<int>(), take["startSeconds"]!.GetValue<double>()));
        Assert.Equal("Done", await Apply("/record/takes/plan"));
        Assert.Equal("Listed", (await FileNamed("Oud 01.wav"))["use"]!.GetValue<string>());
        var record = await App.Get(Path("/record?armed=2"), Cancel);
        Assert.Equal([("Samples", 3), ("Oud", 2)], record["tracks"]!.AsArray().Select(t => (t!["name"]!.GetValue<string>(), t["nextTake"]!.GetValue<int>())));
        Assert.Equal((3, 0), (record["nextPass"]!.GetValue<int>(), record["waiting"]!.GetValue<int>()));
        // 48 kHz, 24 bit, two mono tracks.
        Assert.Equal(288_000, record["bytesPerSecond"]!.GetValue<long>());
    }

    [Fact]
    public async Task OneRecorderAtATimeAndOnlyWithADocument()
    {
        await Start(80_000, "Samples");
        Assert.Equal(409, (await App.PostRefused(Path("/record/start"), OneTrack, Cancel)).Status);
        await App.Post(Path("/record/stop"), null, Cancel);
        Assert.Equal(409, (await App.PostRefused(Path("/record/stop").Replace(_session.Id, Guid.NewGuid().ToString(), StringComparison.Ordinal), null, Cancel)).Status);
        Directory.Delete(System.IO.Path.Combine(_session.Folder), recursive: true);
        Directory.CreateDirectory(_session.Folder);
        var (status, problem) = await App.PostRefused(Path("/record/start"), OneTrack, Cancel);
        Assert.Equal((409, true), (status, problem["title"]!.GetValue<string>().Contains("Save one first", StringComparison.Ordinal)));
    }

    [Fact]
    public async Task TakesNeverLandOutsideTheSession()
    {
        var elsewhere = Directory.CreateDirectory(System.IO.Path.Combine(_session.Root, "elsewhere")).FullName;
        Directory.CreateSymbolicLink(System.IO.Path.Combine(_session.Folder, "Audio"), elsewhere);
        var (status, problem) = await App.PostRefused(Path("/record/start"), OneTrack, Cancel);
        Assert.Equal((409, true), (status, problem["title"]!.GetValue<string>().Contains("leads out of the session by a link", StringComparison.Ordinal)));
        Assert.Empty(Directory.GetFileSystemEntries(elsewhere));
    }

    [Fact]
    public async Task TheMirrorIsReadBackAndAGapIsMadeGoodLater()
    {
        var drive = Directory.CreateDirectory(System.IO.Path.Combine(_session.Root, "second")).FullName;
        var mirror = await MirrorTo(drive);
        await Start(5, "Samples");
        await UntilEnded();
        await Until(Path("/record"), r => r["mirror"]!["verified"]!.GetValue<int>() == 1);
        // All folders of the tests are on one drive: such a mirror protects nothing, and it is told.
        Assert.True((await App.Get(Path("/record"), Cancel))["mirror"]!["onSameDrive"]!.GetValue<bool>());
        Tool.Run("cmp", Take("Samples 01.wav"), System.IO.Path.Combine(mirror, "Samples 01.wav"));

        // The second drive leaves in the middle of the next take.
        await Start(80_000, "Samples");
        await Until("/api/recording", r => r["recording"]!["seconds"]!.GetValue<double>() > 5);
        Directory.Move(drive, drive + " unplugged");
        await Until("/api/recording", r => r["recording"]!["takes"]![0]!["mirror"]!.GetValue<string>() == "Gone");
        await App.Post(Path("/record/stop"), null, Cancel);
        var gap = await Until(Path("/record"), r => r["mirror"]!["gaps"]!.AsArray().Count == 1);
        Assert.Equal("Samples 02.wav", gap["mirror"]!["gaps"]![0]!.GetValue<string>());
        Assert.False(gap["mirror"]!["connected"]!.GetValue<bool>());
        await Until("/api/notices", all => all.AsArray().Any(n =>
            n!["text"]!.GetValue<string>().StartsWith("1 take of '261014 Net Mender' did not reach the mirror whole: Samples 02.wav", StringComparison.Ordinal)));
        var away = await App.Post(Path("/record/mirror/plan"), null, Cancel);
        Assert.Contains("is away", away["refusals"]![0]!.GetValue<string>(), StringComparison.Ordinal);

        // Seen to be away before it comes back, however busy this machine is.
        var watch = ((HostedApp)App).Service<ShelfWatch>();
        await watch.LookNow(Cancel);
        Directory.Move(drive + " unplugged", drive);
        await watch.LookNow(Cancel);
        await Until("/api/notices", all => all.AsArray().Any(n =>
            n!["text"]!.GetValue<string>().StartsWith("The mirror's shelf 'Second drive' is back, and 1 take is not whole on it.", StringComparison.Ordinal)));
        var plan = await App.Post(Path("/record/mirror/plan"), null, Cancel);
        Assert.Equal("Done", (await App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        Tool.Run("cmp", Take("Samples 02.wav"), System.IO.Path.Combine(mirror, "Samples 02.wav"));
        Assert.True(File.Exists(System.IO.Path.Combine(mirror, "Samples 02 cut off.wav")));
        Assert.Empty((await App.Get(Path("/record"), Cancel))["mirror"]!["gaps"]!.AsArray());
        await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        Assert.Single((await App.Get(Path("/record"), Cancel))["mirror"]!["gaps"]!.AsArray());
    }

    [Fact]
    public async Task ARecordingThatWasCutOffIsToldAndRepairedOnACopy()
    {
        await Start(80_000, "Samples");
        await Until("/api/recording", r => r["recording"]!["seconds"]!.GetValue<double>() > 5);
        await App.Post(Path("/record/cut-power"), null, Cancel);
        var file = await FileNamed("Samples 01.wav");
        Assert.True(file["take"]!["needsRepair"]!.GetValue<bool>());
        Assert.Equal("Done", await Apply("/record/repair/plan"));
        Assert.Equal(file["lengthSamples"]!.GetValue<long>(), long.Parse(Tool.Run("soxi", "-s", Take("Samples 01 repaired.wav")), System.Globalization.CultureInfo.InvariantCulture));
        Assert.Equal("Samples 01 repaired.wav", (await FileNamed("Samples 01.wav"))["take"]!["repairedAs"]!.GetValue<string>());
        Assert.Equal((0, 1), ((await App.Get(Path("/record"), Cancel))["cutOff"]!.GetValue<int>(), (await App.Get(Path("/record"), Cancel))["waiting"]!.GetValue<int>()));
    }

    [Fact]
    public async Task WorkHoldsStillWhileTheRecorderRunsAndGoesOnAfterwards()
    {
        Directory.CreateDirectory(System.IO.Path.Combine(_session.Folder, "Audio"));
        var plan = await _session.PlanCopyIn(Cancel);
        await Start(80_000, "Samples");
        var job = await App.Post($"/api/plans/{plan["id"]}/apply", null, Cancel);
        job = await Until($"/api/jobs/{job["id"]}", j => j["state"]!.GetValue<string>() == "Held");
        Assert.Equal("Waits: the recorder runs in '261014 Net Mender'.", job["message"]!.GetValue<string>());
        Assert.Equal(0, job["bytesDone"]!.GetValue<long>());
        Assert.Equal("Outside", (await FileNamed("sample 00.wav"))["standing"]!.GetValue<string>());
        await App.Post(Path("/record/stop"), null, Cancel);
        Assert.Equal("Done", (await App.JobOver(job, Cancel))["state"]!.GetValue<string>());
        Assert.Equal("Inside", (await FileNamed("sample 00.wav"))["standing"]!.GetValue<string>());
    }

    [Fact]
    public async Task AHeldJobCanBeCancelled()
    {
        var plan = await _session.PlanCopyIn(Cancel);
        await Start(80_000, "Samples");
        var job = await App.Post($"/api/plans/{plan["id"]}/apply", null, Cancel);
        await Until($"/api/jobs/{job["id"]}", j => j["state"]!.GetValue<string>() == "Held");
        await App.Post($"/api/jobs/{job["id"]}/cancel", null, Cancel);
        Assert.Equal("Cancelled", (await App.JobOver(job, Cancel))["state"]!.GetValue<string>());
    }

    /// <summary>Another program records: a file in the audio folder grows, slowly.</summary>
    [Fact]
    public async Task WhatAnotherProgramRecordsIsNoticedHoldsWorkAndIsListedByItsName()
    {
        Directory.CreateDirectory(System.IO.Path.Combine(_session.Folder, "Audio"));
        using var stop = new CancellationTokenSource();
        var writing = Task.Run(
            async () =>
            {
                await using var stream = new FileStream(Take("samples-07.wav"), FileMode.CreateNew, FileAccess.Write, FileShare.ReadWrite, 0);
                using var writer = new Core.Media.WavWriter(stream, new Core.Media.PcmFormat(48000, 1, 24));
                while (!stop.IsCancellationRequested)
                {
                    writer.Write(new int[4800]);
                    await Task.Delay(50, Cancel);
                }
            },
            Cancel);
        await Until(Path("/files"), s => s["files"]!.AsArray().Any(f => f!["name"]!.GetValue<string>() == "samples-07.wav" && f["growing"]!.GetValue<bool>()));
        var job = await App.Post($"/api/plans/{(await _session.PlanCopyIn(Cancel))["id"]}/apply", null, Cancel);
        job = await Until($"/api/jobs/{job["id"]}", j => j["state"]!.GetValue<string>() == "Held");
        Assert.Equal("Waits: 'samples-07.wav' is growing in '261014 Net Mender'.", job["message"]!.GetValue<string>());
        await stop.CancelAsync();
        await writing;
        Assert.Equal("Done", (await App.JobOver(job, Cancel))["state"]!.GetValue<string>());
        var take = (await FileNamed("samples-07.wav"))["take"]!;
        Assert.Equal(("Samples", 7, "Name", true), (take["track"]!.GetValue<string>(), take["number"]!.GetValue<int>(), take["evidence"]!.GetValue<string>(), take["isWaiting"]!.GetValue<bool>()));
        Assert.Equal("Done", await Apply("/record/takes/plan"));
    }

    [Fact]
    public async Task AKillInTheMiddleLeavesTheTakeToBeRepaired()
    {
        _session.MoveToItsOwnProcess();
        var drive = Directory.CreateDirectory(System.IO.Path.Combine(_session.Root, "second")).FullName;
        await MirrorTo(drive);
        await Start(80_000, "Samples");
        await Until("/api/recording", r => r["recording"]!["seconds"]!.GetValue<double>() > 5);
        _session.Process.Kill();
        App.Dispose();
        _session.Restart();
        var record = await Until(Path("/record"), r => r["cutOff"]!.GetValue<int>() == 1);
        Assert.Equal("Done", await Apply("/record/repair/plan"));
        Assert.True(long.Parse(Tool.Run("soxi", "-s", Take("Samples 01 repaired.wav")), System.Globalization.CultureInfo.InvariantCulture) > 5 * 48000);
        // Whether the last block reached the mirror is chance; that it was looked at is not.
        await Until(Path("/record"), r => r["mirror"]!["verified"]!.GetValue<int>() + r["mirror"]!["gaps"]!.AsArray().Count == 1);
        Assert.Equal(1, record["mirror"]!["connected"]!.GetValue<bool>() ? 1 : 0);
    }

    [Fact]
    public async Task WhenTheApplicationEndsTheTakeIsWhole()
    {
        _session.MoveToItsOwnProcess();
        await Start(80_000, "Samples");
        await Until("/api/recording", r => r["recording"]!["seconds"]!.GetValue<double>() > 5);
        _session.Process.Terminate();
        Assert.False(Core.Media.WavHeaderReader.ReadFile(Take("Samples 01.wav")).Unfinished);
    }
}
