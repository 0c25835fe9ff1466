using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>Takes the pictures in docs/screenshots anew. Run by scripts/screenshots.sh only.</summary>
public sealed class Screenshots : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    [Fact(Explicit = true)]
    public void TakeThemAll()
    {
        _browser.Open("/");
        _browser.See("need you");
        Shoot("loading-bay-day");

        _browser.Open("/new");
        _browser.Find(".set-up-name-field").SendKeys("The Ninth Bell reprise");
        _browser.Click("Lamplighters of Orrin Quay", ".shelves-folder-picker");
        _browser.See("The Ninth Bell reprise", ".set-up-preview");
        _browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
        Shoot("new-session");

        var drive = _browser.Shelf("Session drive");
        Tree.Copy(Path.Combine(drive, "Lamplighters of Orrin Quay", "261005 Low Water"), Path.Combine(drive, "Sketches"));
        foreach (var file in new[] { "261019 Fog Signal.otio", "Audio/Bell 01.wav", "Audio/Cello 01.wav" })
        {
            File.Copy(Path.Combine(drive, "Lamplighters of Orrin Quay", "261019 Fog Signal", file), Path.Combine(drive, "Sketches", file), overwrite: true);
        }
        _browser.Open("/adopt");
        _browser.Choose(".shelves-folder-picker", "Session drive");
        _browser.OpenFolder("Sketches");
        _browser.Click("Plan a folder for each");
        _browser.See("Give '261005 Low Water' its own folder", ".plans-tray");
        Shoot("adopt");

        _browser.Open(_browser.SessionOf("The Ninth Bell") + "/record");
        _browser.See("take 73 next", ".record-armed");
        foreach (var track in _browser.All(".record-armed input[type=checkbox]"))
        {
            track.Click();
        }
        _browser.ChooseFor("Demo speed", "20×");
        _browser.Click("Record 4 tracks", ".record-deck");
        _browser.See("0:4", ".record-counter");
        Shoot("recording", moving: true);
        _browser.Click("Stop", ".record-deck");
        _browser.See("Add 35 takes", ".plans-tray");
        _browser.Pick("Take log");
        _browser.See("dBFS", ".take-log");
        _browser.All(".take-log-take-cell")[7].Click();
        _browser.Keys("k");
        _browser.Keys("n");
        _browser.Keys("breath before the bridge" + OpenQA.Selenium.Keys.Enter);
        _browser.See("Mark 1 keeper", ".plans-tray");
        Shoot("take-log");
        _browser.Click("Discard", ".plans-tray");

        _browser.Open(_browser.SessionOf("Breakwater") + "/set-up");
        _browser.See("named nowhere", ".weighbridge");
        _browser.Room(true);
        _browser.Find("html[data-room=night]");
        Shoot("set-up-night");
        _browser.Room(false);

        var netMender = _browser.SessionOf("Net Mender");
        _browser.Open(netMender + "/copy-in");
        _browser.See("Copy 3 files", ".plans-tray");
        _browser.All(".files-rows .files-row")[0].Click();
        _browser.Find(".files-file-tag .listening-outline");
        Shoot("copy-in");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("nothing outside", ".session-route");
        _browser.Click("Close", ".plans-tray");

        _browser.Pick("Something new");
        _browser.Keys("/");
        _browser.Keys("buoy");
        _browser.SeeNoMore("Cello", "[data-list=catalogue]");
        _browser.All("[data-list=catalogue] .files-rows .files-row")[0].Click();
        _browser.Find(".files-file-tag .listening-outline");
        _browser.Keys(OpenQA.Selenium.Keys.Enter);
        _browser.See("Copy 1 file", ".plans-tray");
        _browser.Room(true);
        _browser.Find("html[data-room=night]");
        Shoot("import-night");
        _browser.Room(false);

        _browser.Open(_browser.SessionOf("Tar and Twine") + "/relink");
        _browser.See("12 found for certain", ".page-head");
        _browser.See("Relink 12 files", ".plans-tray");
        Shoot("relink");
        _browser.Script("[...document.querySelectorAll('.files-rows .files-row[id]')].find(r => r.textContent.startsWith('winch.wav')).click()");
        _browser.Find(".relink-tags .listening-outline");
        _browser.Room(true);
        _browser.Find("html[data-room=night]");
        Shoot("relink-night");
        _browser.Room(false);

        _browser.Open(_browser.SessionOf("The Ninth Bell") + "/purge");
        _browser.See("MB, could go", ".page-head");
        _browser.Script("document.querySelector('[aria-label=\"Remove: Takes nobody placed\"]').click()");
        _browser.See("set aside", ".purge-scales");
        _browser.Script("document.querySelectorAll('.files-rows .files-row[id]')[2].click()");
        _browser.Find(".files-file-tag .listening-outline");
        Shoot("purge");
        _browser.Pick("Trim");
        _browser.See("Trim 5 files", ".plans-tray");
        _browser.Find(".listening-outline");
        _browser.Room(true);
        _browser.Find("html[data-room=night]");
        Shoot("trim-night");
        _browser.Room(false);

        _browser.Open(_browser.SessionOf("Fog Signal") + "/backups");
        _browser.See("kept save", ".backups-logbook");
        _browser.Script("[...document.querySelectorAll('[data-version]')].find(b => b.ariaLabel.includes('string edits')).click()");
        _browser.See("gone, was at", ".backups-difference");
        _browser.Pick("Tracks");
        _browser.Wait(() => _browser.All(".backups-ways-back .ant-checkbox-wrapper").FirstOrDefault(c => c.Text == "Cello"), "for the track").Click();
        _browser.See("back into", ".plans-tray");
        Shoot("logbook");

        _browser.Open(_browser.SessionOf("Low Water") + "/bundle");
        _browser.ChooseFor("For", "Idris Falk");
        _browser.Tick("Printed tracks");
        _browser.See("4 tracks printed", ".plans-tray");
        Shoot("bundle");
        _browser.Open("/shelves");
        _browser.See("Old laptop", ".shelves");
        Shoot("shelves");
        _browser.Click("Field card", ".shelves");
        _browser.See("lost for good.", ".shelf-page-sum");
        Shoot("shelf");
        _browser.Open("/shelves");
        _browser.Wait(() => _browser.All(".shelves-shelf").FirstOrDefault(r => r.Text.StartsWith("Attic drive", StringComparison.Ordinal)), "for the attic drive")!
            .FindElement(OpenQA.Selenium.By.LinkText("Find sessions")).Click();
        _browser.See("11 new sessions", ".page-head");
        Shoot("found-sessions");
        _browser.Click("Adopt 11 sessions", ".page-actions");
        _browser.See("11 sessions were adopted", ".page");
        _browser.Click("To the loading bay");
        _browser.See("Kelp Road");
        _browser.Click("Choose several");
        foreach (var song in new[] { "190921 Second Lantern", "220226 The Long Slip" })
        {
            _browser.Find($"input[aria-label='Choose {song}']").Click();
        }
        _browser.See("Full backup of 2 sessions");
        _browser.Room(true);
        _browser.Find("html[data-room=night]");
        Shoot("loading-bay-night");
        _browser.Room(false);
        _browser.Open("/settings");
        _browser.See("Thinning", ".settings");
        Shoot("settings");
    }

    private void Shoot(string name, bool moving = false)
    {
        // Fonts, moving parts and the pointer's own marks have come to rest.
        var rest = moving ? "return document.fonts.status === 'loaded' ? 'still' : null" : "return document.fonts.status === 'loaded' && document.getAnimations().length === 0 ? 'still' : null";
        _browser.Wait(() => _browser.Script(rest), "for the page to come to rest");
        _browser.Shoot(Path.Combine(AppProcess.Repository, "docs", "screenshots", name + ".png"));
    }
}
