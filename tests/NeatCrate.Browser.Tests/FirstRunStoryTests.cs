using System.Diagnostics;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>Somebody who is new, without the demo: from an empty page to a session that is backed up, and settings that hold from then on.</summary>
public sealed class FirstRunStoryTests : IDisposable
{
    private readonly Browser _browser = Browser.WithoutDemo();

    public void Dispose() => _browser.Dispose();

    /// <summary>One step after the other, without a manual: the page says which one is next, and is gone once all are done.</summary>
    [Fact]
    public void FromAnEmptyPageToABackedUpSession()
    {
        var (drive, vault) = (_browser.Scratch("Studio drive"), _browser.Scratch("Safe"));
        var folder = Path.Combine(drive, "261130 Net Mender");
        Directory.CreateDirectory(Path.Combine(folder, "Audio"));
        File.WriteAllBytes(Path.Combine(folder, "Net Mender.otio"), SessionDocument.Create(Guid.NewGuid(), "Net Mender", new SessionSettings(), SessionLayout.Default, ["Cello"]).ToUtf8());
        File.WriteAllText(Path.Combine(folder, "Audio", "lyrics.txt"), "the net is torn");
        var watch = Stopwatch.StartNew();
        _browser.Open("/");
        _browser.See("Four steps to a session that is safe", ".loading-bay-steps");
        Assert.Equal("1", Next());
        Add(drive, "Sessions live here");
        _browser.See("Done: Studio drive", ".loading-bay-steps");
        Assert.Equal("2", Next());
        Add(vault, "Backups go here");
        // Both stand on one drive here, and that is said before anybody relies on it.
        _browser.See("On one drive with “Studio drive”: if that drive dies, both are gone.", ".loading-bay-steps");
        Assert.Equal("3", Next());
        _browser.Click("Adopt a folder that you have");
        _browser.Choose(".shelves-folder-picker", "Studio drive");
        _browser.OpenFolder("261130 Net Mender");
        _browser.Click("Adopt this folder");
        _browser.Find(".session-route");
        _browser.Find("[aria-label='Neat Crate, to the loading bay']").Click();
        _browser.See("Not safe yet", ".loading-bay-steps");
        Assert.Equal("4", Next());
        _browser.Click("Go to its station Back up", ".loading-bay-steps");
        _browser.Click("Full backup now");
        _browser.See("Backed up", ".page");
        _browser.Find("[aria-label='Neat Crate, to the loading bay']").Click();
        _browser.See("Net Mender", ".loading-bay-crates");
        _browser.SeeNoMore("Not safe yet");
        Assert.Empty(_browser.All(".loading-bay-steps"));
        Assert.NotEmpty(Directory.GetFiles(vault, "*", SearchOption.AllDirectories));
        Assert.InRange(watch.Elapsed.TotalSeconds, 0, 120);
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>What is chosen once holds: the folder of new sessions, the room, the keys, and the rules of backups.</summary>
    [Fact]
    public async Task WhatIsSetHoldsFromThenOn()
    {
        var drive = _browser.Scratch("Studio drive");
        Directory.CreateDirectory(Path.Combine(drive, "2026"));
        var cancel = TestContext.Current.CancellationToken;
        await _browser.App.AddShelf("First drive", "SessionDrive", _browser.Scratch("First drive"), cancel);
        await _browser.App.AddShelf("Studio drive", "SessionDrive", drive, cancel);
        _browser.Open("/settings");
        _browser.Choose(".shelves-folder-picker", "Studio drive");
        _browser.OpenFolder("2026");
        _browser.Pick("Night");
        _browser.Find("html[data-room=night]");
        var wanted = _browser.Field("Wanted places for each file");
        wanted.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        wanted.SendKeys("3" + OpenQA.Selenium.Keys.Tab);
        _browser.Wait(() => Wanted().Result == 3 ? this : null, "for the rule to be kept");
        _browser.Open("/new");
        _browser.Find("html[data-room=night]");
        _browser.Find(".set-up-name-field").SendKeys("Low Water");
        _browser.See("Studio drive / 2026 / ", ".set-up-preview");
        _browser.Click("Make the session");
        _browser.Click("Open it");
        _browser.Find(".session-route");
        _browser.Keys("6");
        _browser.Pick("Places and rules");
        Assert.Equal("3", _browser.Field("Wanted places for each file").GetAttribute("value"));
        _browser.Open("/settings");
        _browser.See("The keys 1 to 7");
        _browser.Script("[...document.querySelectorAll('label')].find(l => l.textContent.includes('The keys 1 to 7')).click()");
        _browser.Open(_browser.SessionOf("Low Water") + "/set-up");
        _browser.See("Set up", ".page-head");
        _browser.Keys("6");
        _browser.Keys("?");
        _browser.See("undo the last applied plan", ".top-strip-keys");
        _browser.See("The session's tree, its settings", ".top-strip-help-here");
        Assert.EndsWith("/set-up", _browser.Place, StringComparison.Ordinal);
        Assert.Empty(_browser.Troubles());
        async Task<int> Wanted() => (int)(await _browser.App.Get("/api/backups/standard", cancel))["wanted"]!;
    }

    private string Next() => _browser.Find("[aria-current=step] .loading-bay-step-number").Text;

    private void Add(string folder, string word)
    {
        _browser.Find("[aria-current=step] input").SendKeys(folder);
        _browser.Click(word, ".loading-bay-steps");
    }
}
