using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>A night of recording: takes land and are listed, one is cut off and repaired, another program's take turns up.</summary>
public sealed class RecordStoryTests : IDisposable
{
    private static readonly string[] OneTrack = ["Voice"];

    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Audio => Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay", "261005 Low Water", "Audio");

    private void Type(string field, string text)
    {
        var input = _browser.Field(field);
        input.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        input.SendKeys(text + OpenQA.Selenium.Keys.Tab);
    }

    private void Arm(string track) => _browser.Wait(
        () => _browser.All(".record-armed label").FirstOrDefault(l => l.Text.StartsWith(track, StringComparison.Ordinal)), $"to arm {track}").Click();

    [Fact]
    public void FromTheFirstTakeToTheRepairedOne()
    {
        _browser.Open("/");
        _browser.Wait(() => _browser.All(".loading-bay-crate h2 a").FirstOrDefault(a => a.Text == "Low Water"), "for Low Water").Click();
        _browser.See("Low Water", ".top-strip-open-label");
        _browser.Keys("2");
        _browser.See("take 2 next", ".record-armed");
        TakesLandAndGoOnTheList();
        TheRecorderLosesItsPower();
        AnotherProgramsTakeTurnsUp();
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Work that waits for the recorder says so, is there again after the page was loaded anew, and goes on when the recorder stops.</summary>
    [Fact]
    public async Task WorkThatWaitsForTheRecorderIsFoundAgain()
    {
        var cancel = TestContext.Current.CancellationToken;
        var sessions = (await _browser.App.Get("/api/sessions", cancel)).AsArray();
        string Id(string name) => sessions.Single(s => s!["name"]!.GetValue<string>().EndsWith(name, StringComparison.Ordinal))!["id"]!.GetValue<string>();
        await _browser.App.Post(
            $"/api/sessions/{Id("Low Water")}/record/start", new { tracks = OneTrack, seconds = 600, fromSeconds = 0, pass = (int?)null, speed = 1, cutPowerAfter = (double?)null }, cancel);
        _browser.Open($"/sessions/{Id("Net Mender")}/copy-in");
        _browser.See("Copy 3 files", ".plans-tray");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Waits: the recorder runs in '261005 Low Water'.", ".plans-tray");
        _browser.Open($"/sessions/{Id("Net Mender")}/set-up");
        _browser.See("Waits: the recorder runs in '261005 Low Water'.", ".plans-tray");
        _browser.See("1 job", ".top-strip");
        await _browser.App.Post($"/api/sessions/{Id("Low Water")}/record/stop", null, cancel);
        _browser.See("Done. Copy 3 files", ".plans-tray");
        Assert.Empty(_browser.Troubles());
    }

    private void TakesLandAndGoOnTheList()
    {
        Arm("Cello");
        Arm("Voice");
        _browser.See("2 tracks at 17.3 MB a minute", ".record-deck");
        Type("Length", "0:20");
        _browser.ChooseFor("Demo speed", "50×");
        _browser.Click("Record 2 tracks", ".record-deck");
        _browser.See("Add 2 takes, ", ".plans-tray");
        Assert.Equal("960000", Tool.Run("soxi", "-s", Path.Combine(Audio, "Cello 02.wav")).Trim());
        _browser.See("2 takes not in the session", ".session-route");
        _browser.Click("Add to session", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("6 takes", ".session-route");
        _browser.See("take 3 next", ".record-armed");
        _browser.Click("Undo", ".plans-tray");
        _browser.See("Undo:", ".plans-tray");
        _browser.Click("Undo", ".plans-tray");
        _browser.See("2 takes not in the session", ".session-route");
        _browser.Click("Close", ".plans-tray");
        _browser.Click("Add to session", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
    }

    private void TheRecorderLosesItsPower()
    {
        // Long enough that nothing but the lost power ends it, however slow the machine.
        Type("Length", "200:00");
        _browser.Click("Record 2 tracks", ".record-deck");
        // While it records, every page says so.
        _browser.See("recording", ".top-strip-recorder-runs");
        _browser.See("take 3", ".record-running-takes");
        _browser.Wait(() => _browser.All(".files-rows .files-odd").FirstOrDefault(o => o.Text == "growing"), "to see a file grow");
        _browser.Click("Cut the recorder's power", ".record-deck");
        _browser.See("2 recordings were cut off. The sound up to then is there.", ".record-tasks");
        _browser.Click("Repair on copies", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.True(File.Exists(Path.Combine(Audio, "Cello 03.wav")));
        Assert.Matches(@"Frames\s*: [1-9]", Tool.Run("sndfile-info", Path.Combine(Audio, "Cello 03 repaired.wav")));
        _browser.Click("Close", ".plans-tray");
        _browser.See("Add 2 takes, ", ".plans-tray");
        _browser.See("Cello 03 repaired", ".plans-tray");
    }

    private void AnotherProgramsTakeTurnsUp()
    {
        Tool.Run("sox", "-n", "-r", "44100", "-b", "24", Path.Combine(Audio, "hurdy gurdy_9.wav"), "synth", "2", "sine", "196");
        _browser.See("Add 3 takes, ", ".plans-tray");
        _browser.See("'hurdy gurdy_9.wav' is at 44.1 kHz, the session at 48 kHz", ".plans-tray");
        _browser.Wait(() => _browser.All(".files-rows tr").FirstOrDefault(r => r.Text.StartsWith("hurdy gurdy_9.wav", StringComparison.Ordinal) && r.Text.Contains("Hurdy-gurdy", StringComparison.Ordinal)), "for its track");
    }
}
