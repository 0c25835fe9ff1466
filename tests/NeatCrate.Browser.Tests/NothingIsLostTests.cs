using System.Diagnostics;
using OpenQA.Selenium;

namespace NeatCrate.Browser.Tests;

/// <summary>Nothing typed, planned or running is lost or done by mistake: slow answers, missing code, a server that is gone, dialogs, hidden rows.</summary>
public sealed class NothingIsLostTests : IDisposable
{
    private static readonly string[] OneTrack = ["Cello"];

    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Lamplighters => Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay");

    /// <summary>What has the keyboard, as it is written there.</summary>
    private string? InHand() => _browser.Script("return document.activeElement.innerText") as string;

    private IWebElement TrayButton => _browser.Find(".plans-tray .ant-btn-primary");

    private void SeeEnabled(bool isEnabled) => _browser.Wait(() => TrayButton.Enabled == isEnabled ? this : null, $"for the plan to be {(isEnabled ? "ready" : "held back")}");

    /// <summary>A plan is applied only when it was made for exactly the choices in sight, by button and by key alike.</summary>
    [Fact]
    public void APlanForOtherChoicesIsNotApplied()
    {
        var folder = _browser.Shelf("Session drive");
        _browser.Open("/new");
        _browser.Find(".set-up-name-field").SendKeys("Gull");
        SeeEnabled(true);
        var before = Directory.GetDirectories(folder);
        _browser.Slow(4000);
        _browser.Find(".set-up-name-field").SendKeys(" and Lantern");
        Assert.False(TrayButton.Enabled);
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.Find(".set-up-name-field").SendKeys("s");
        Assert.Equal(before, Directory.GetDirectories(folder));
        _browser.See("Gull and Lanterns", ".plans-tray");
        SeeEnabled(true);
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.See("Done.", ".plans-tray");
        Assert.EndsWith(" Gull and Lanterns", Assert.Single(Directory.GetDirectories(folder).Except(before)), StringComparison.Ordinal);
        _browser.Slow(0);
    }

    [Fact]
    public void APageThatCannotBeLoadedSaysSoAndWhatWasTypedIsThereAfterwards()
    {
        _browser.Open(_browser.SessionOf("Low Water") + "/bundle");
        _browser.Field("Note on the packing slip").SendKeys("The choir comes in on the third bell.");
        _browser.Block("*/assets/RecordStation*");
        _browser.Find(".session-route a[href$=record]").Click();
        _browser.See("This page could not be shown.");
        _browser.See("Loading bay", ".top-strip");
        _browser.See("Bundle", ".session-route");
        _browser.Block();
        _browser.Click("Load the page again");
        _browser.See("Armed tracks");
        _browser.Find(".session-route a[href$=bundle]").Click();
        Assert.Equal("The choir comes in on the third bell.", _browser.Field("Note on the packing slip").GetAttribute("value"));
        _browser.Troubles();
    }

    [Fact]
    public void WhileTheServerIsGoneThePageSaysSoAndNothingIsLost()
    {
        _browser.Open("/new");
        _browser.Find(".set-up-name-field").SendKeys("Fog Horn");
        _browser.See("Fog Horn", ".plans-tray");
        SeeEnabled(true);
        _browser.App.Stop();
        var watch = Stopwatch.StartNew();
        _browser.See("Connection lost.", ".top-strip-lost");
        // Within two seconds of the end, and the time that it takes to look.
        Assert.InRange(watch.Elapsed.TotalSeconds, 0, 3);
        Assert.Matches(@"You see what was known at \d\d:\d\d:\d\d\.", _browser.Find(".top-strip-lost").Text);
        SeeEnabled(false);
        _browser.Find(".set-up-name-field").SendKeys("s");
        _browser.App.StartAgain();
        _browser.SeeNoMore("Connection lost.");
        Assert.Equal("Fog Horns", _browser.Find(".set-up-name-field").GetAttribute("value"));
        _browser.See("Fog Horns", ".plans-tray");
        SeeEnabled(true);

        _browser.Open(_browser.SessionOf("Net Mender") + "/record");
        _browser.Find(".record-armed input[type=checkbox]").Click();
        _browser.Wait(() => _browser.Find(".record-deck-actions button").Enabled ? this : null, "to be able to record");
        _browser.App.Stop();
        _browser.Wait(() => _browser.Find(".record-deck-actions button").Enabled ? null : this, "for recording to be off");
        _browser.App.StartAgain();
        _browser.Wait(() => _browser.Find(".record-deck-actions button").Enabled ? this : null, "to be able to record again");
        _browser.Troubles();
    }

    /// <summary>A server that hangs cuts no connection: that it does not answer is told within two seconds all the same, that it is gone once no busy one would take so long, and it is there again by itself.</summary>
    [Fact]
    public void AServerThatHangsIsToldOf()
    {
        using var way = new FlakyWay(_browser.App.Address);
        _browser.Open(new Uri(way.Address, "/new").ToString());
        _browser.Find(".set-up-name-field").SendKeys("Fog Horn");
        _browser.See("Fog Horn", ".plans-tray");
        SeeEnabled(true);
        way.FallSilent();
        var watch = Stopwatch.StartNew();
        _browser.See("does not answer at once", ".top-strip-notice");
        // Two seconds, and the time that it takes to look.
        Assert.InRange(watch.Elapsed.TotalSeconds, 0, 3);
        // It may be merely busy: what is planned can be applied still.
        Assert.True(TrayButton.Enabled);
        way.SpeakAgain();
        _browser.SeeNoMore("does not answer at once");
        Assert.Empty(_browser.All(".top-strip-lost"));
        way.FallSilent();
        _browser.See("Connection lost.", ".top-strip-lost");
        SeeEnabled(false);
        way.SpeakAgain();
        _browser.SeeNoMore("Connection lost.");
        Assert.Equal("Fog Horn", _browser.Find(".set-up-name-field").GetAttribute("value"));
        SeeEnabled(true);
    }

    /// <summary>A key that comes before the plan is neither swallowed without a word nor applies what nobody saw.</summary>
    [Fact]
    public void AKeyThatComesBeforeThePlanIsAnswered()
    {
        using var way = new FlakyWay(_browser.App.Address);
        _browser.Open(new Uri(way.Address, "/new").ToString());
        _browser.Find(".set-up-name-field").SendKeys("Fog");
        SeeEnabled(true);
        way.FallSilent();
        _browser.Find(".set-up-name-field").SendKeys(" Horn");
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.See("One moment: what you chose is still being worked out.", ".plans-tray");
        way.SpeakAgain();
        _browser.See("Fog Horn", ".plans-tray");
        SeeEnabled(true);
        _browser.SeeNoMore("One moment", ".plans-tray");
        Assert.DoesNotContain("Done.", _browser.Find(".plans-tray").Text, StringComparison.Ordinal);
    }

    /// <summary>Whoever goes to another station by its number hears where they are, and the next tab goes on from there.</summary>
    [Fact]
    public void TheHeadingOfAStationHasTheKeyboard()
    {
        _browser.Open(_browser.SessionOf("Net Mender") + "/set-up");
        _browser.See("Set up", "h1");
        foreach (var (number, title) in new[] { ("3", "Copy in"), ("5", "Purge"), ("6", "Back up") })
        {
            _browser.Keys(number);
            _browser.Wait(() => _browser.Script("return document.activeElement.tagName + ' ' + document.activeElement.textContent") is string at && at == $"H1 {title}" ? this : null, $"for the keyboard on {title}");
        }
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Where what had the keyboard goes away, something near it has the keyboard next: nobody starts again at the top of the page.</summary>
    [Fact]
    public void TheKeyboardIsNeverLost()
    {
        void HasKeyboard(string within) => _browser.Wait(
            () => _browser.Script($"return document.activeElement.closest(\"{within}\") ? 'there' : null") is string ? this : null, $"for the keyboard to be in {within}");
        _browser.Open(_browser.SessionOf("Net Mender") + "/copy-in");
        SeeEnabled(true);
        _browser.Find(".plans-tray .ant-btn-primary").SendKeys(Keys.Enter);
        _browser.See("Done.", ".plans-tray");
        HasKeyboard(".plans-tray");
        // The next key presses nothing that takes back what was done a moment ago.
        _browser.Keys(Keys.Space);
        _browser.Keys(Keys.Enter);
        Assert.StartsWith("Done.", _browser.Find(".plans-tray").Text, StringComparison.Ordinal);
        _browser.Wait(() => _browser.All(".plans-tray button").FirstOrDefault(b => b.Text == "Undo"), "for undo").SendKeys(Keys.Enter);
        SeeEnabled(true);
        HasKeyboard(".plans-tray");
        _browser.Find(".plans-tray .ant-btn-primary").SendKeys(Keys.Enter);
        _browser.See("Done.", ".plans-tray");
        _browser.Wait(() => _browser.All(".plans-tray button").FirstOrDefault(b => b.Text == "Close"), "for close").SendKeys(Keys.Enter);
        SeeEnabled(true);
        HasKeyboard(".plans-tray");

        _browser.Find("[role=grid]").SendKeys(Keys.ArrowDown);
        _browser.Find("[aria-label='Close the file tag']").SendKeys(Keys.Enter);
        HasKeyboard("[role=grid]");
        _browser.Script("document.querySelector('[aria-label^=Jobs], .top-strip button').focus()");
        _browser.Keys("?");
        _browser.Find(".top-strip-keys");
        _browser.Keys(Keys.Escape);
        HasKeyboard(".top-strip");

        _browser.Find(".session-route a[href$=record]").Click();
        _browser.Find(".record-armed input[type=checkbox]").Click();
        _browser.Wait(() => _browser.Find(".record-deck-actions button").Enabled ? this : null, "to be able to record");
        _browser.Find(".record-deck-actions .ant-btn-primary").SendKeys(Keys.Enter);
        _browser.See("Stop", ".record-deck-actions");
        HasKeyboard(".record-deck-actions");
        _browser.Wait(() => _browser.All(".record-deck-actions button").FirstOrDefault(b => b.Text == "Stop"), "to stop").SendKeys(Keys.Enter);
        _browser.See("Record 1 track", ".record-deck-actions");
        HasKeyboard(".record-deck-actions");
    }

    /// <summary>Work that ends while nobody looks is told by the page's title until somebody does, and by the system where somebody chose that; how far it is, is announced by quarters.</summary>
    [Fact]
    public void WhatEndedWhileNobodyLookedIsToldByTheTitle()
    {
        _browser.Open(_browser.SessionOf("Net Mender") + "/copy-in");
        SeeEnabled(true);
        _browser.Script("""
            window.said = [];
            new MutationObserver(() => document.querySelectorAll('.plans-tray [role=status]').forEach(e => window.said.at(-1) === e.textContent || window.said.push(e.textContent)))
              .observe(document.body, { childList: true, subtree: true, characterData: true });
            Object.defineProperty(document, 'hidden', { configurable: true, get: () => true });
            """);
        // The system's own notices cannot be seen by a browser without a screen: what the page asks of it stands in their place.
        _browser.Script("""
            window.told = [];
            window.Notification = class {
              static permission = 'granted';
              static requestPermission = async () => 'granted';
              constructor(title, { body }) { window.told.push(`${title}: ${body}`); }
              addEventListener() {}
            };
            """);
        _browser.Keys("j");
        _browser.Find(".jobs-jobs .ant-checkbox-wrapper, .jobs .ant-checkbox-wrapper").Click();
        _browser.Find(".ant-popover .ant-checkbox-checked");
        _browser.Keys(Keys.Escape);
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.Wait(() => _browser.Script("return window.told.join()") is string told && told.StartsWith("Done: Copy 3 files", StringComparison.Ordinal) ? this : null, "for the system to be asked to tell");
        _browser.Wait(() => _browser.Title.StartsWith("Done · ", StringComparison.Ordinal) ? this : null, "for the title to tell");
        var said = (IReadOnlyCollection<object>)_browser.Script("return window.said")!;
        Assert.All(said.SkipLast(1), s => Assert.Matches("^((0|25|50|75|100) % done|starting|.*waits.*)$", (string)s));
        Assert.StartsWith("Done.", (string)said.Last(), StringComparison.Ordinal);
        _browser.Script("delete document.hidden; document.dispatchEvent(new Event('visibilitychange'))");
        _browser.Wait(() => _browser.Title.StartsWith("Copy in, ", StringComparison.Ordinal) ? this : null, "for the title of the page");
    }

    [Fact]
    public void NothingBehindAnOpenDialogIsApplied()
    {
        _browser.Open(_browser.SessionOf("Net Mender") + "/copy-in");
        _browser.See("Copy 3 files", ".plans-tray");
        SeeEnabled(true);
        _browser.Keys("?");
        _browser.See("undo the last applied plan", ".top-strip-keys");
        _browser.Keys("1");
        _browser.Chord(Keys.Control, "z");
        // What has the keyboard in the dialog is pressed: its own button.
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.Wait(() => _browser.All(".top-strip-keys").Any(k => k.Displayed) ? null : this, "for the dialog to close");
        _browser.See("Copy 3 files", ".plans-tray");
        Assert.False(File.Exists(Path.Combine(Lamplighters, "261014 Net Mender", "Audio", "tide.wav")));
        Assert.EndsWith("/copy-in", _browser.Place, StringComparison.Ordinal);
        // With Cmd it goes as with Ctrl, once no dialog is open.
        _browser.Chord(Keys.Meta, Keys.Enter);
        _browser.See("Done.", ".plans-tray");
    }

    [Fact]
    public void RowsThatAreFilteredAwayAreNotActedOn()
    {
        _browser.Open(_browser.SessionOf("Net Mender") + "/copy-in");
        _browser.See("Copy 3 files", ".plans-tray");
        _browser.Find("[role=grid]").SendKeys(Keys.Control + "a");
        _browser.See("9 selected", ".files-list-only");
        _browser.Keys("/");
        _browser.Keys("cello");
        _browser.See("2 of 9 files", ".files-list-count");
        _browser.SeeNoMore("selected", ".files-file-list");
        _browser.Find("[role=grid]").SendKeys(Keys.Enter);
        _browser.Keys("/");
        _browser.Keys(Keys.Escape);
        _browser.See("9 files", ".files-list-count");
        _browser.See("Copy 3 files", ".plans-tray");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>What alone is shown is said above the list also when it is gone, with one press back to everything.</summary>
    [Fact]
    public void TheListIsNeverEmptyWithoutAWayBack()
    {
        _browser.Open(_browser.SessionOf("Net Mender") + "/copy-in");
        _browser.See("Copy 3 files", ".plans-tray");
        foreach (var part in new[] { "outside", "listed, not placed" })
        {
            _browser.Wait(() => _browser.All(".weighbridge-figures button").FirstOrDefault(b => b.Text.StartsWith(part, StringComparison.Ordinal)), $"for the part {part}").Click();
        }
        _browser.See("Only outside and listed, not placed", ".files-list-only");
        _browser.See("6 of 9 files", ".files-list-count");
        _browser.Wait(() => _browser.All(".weighbridge-beam button").FirstOrDefault(b => b.GetAttribute("aria-label")!.StartsWith("listed", StringComparison.Ordinal)), "for the beam").Click();
        _browser.See("3 of 9 files", ".files-list-count");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("No file is outside now.", ".files-list-empty");
        _browser.Click("Show everything", ".files-list-only");
        _browser.See("9 files", ".files-list-count");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Drafts, sheets, filters and sorting are as they were on coming back, and after the page was loaded anew.</summary>
    [Fact]
    public void WhatIsHalfDoneIsThereOnComingBack()
    {
        var session = _browser.SessionOf("Fog Signal");
        _browser.Open(session + "/set-up");
        _browser.Pick("Settings");
        var tempo = _browser.Field("Tempo");
        tempo.SendKeys(Keys.Control + "a");
        tempo.SendKeys("54" + Keys.Tab);
        _browser.See("Change this session's settings", ".plans-tray");
        _browser.Find(".session-route a[href$=copy-in]").Click();
        _browser.Pick("Something new");
        _browser.Find("[aria-label='Search the catalogue']").SendKeys("bell buoy");
        _browser.Wait(() => _browser.All("[data-list=catalogue] .files-rows .files-row").Count == 1 ? this : null, "for the one sample");
        _browser.Find("[aria-label='Mark bell buoy.wav']").Click();
        _browser.See("Copy 1 file", ".plans-tray");
        _browser.Find(".session-route a[href$=set-up]").Click();
        _browser.See("Change this session's settings", ".plans-tray");
        _browser.Open(session + "/copy-in");
        _browser.See("Copy 1 file", ".plans-tray");
        Assert.Equal("bell buoy", _browser.Find("[aria-label='Search the catalogue']").GetAttribute("value"));
        // What came in waits no more.
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.Click("Close", ".plans-tray");
        _browser.See("Mark files to copy in", ".plans-tray");
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public async Task NamesAndTitlesThatWereTypedStay()
    {
        _browser.Open("/new");
        _browser.Find(".set-up-name-field").SendKeys("Gull");
        var number = _browser.Field("Number of tracks");
        number.SendKeys(Keys.Control + "a");
        number.SendKeys("12" + Keys.Tab);
        _browser.See("Track 12", ".set-up-track-fields");
        // On the way to 24 stands 2: it is not acted on.
        number.SendKeys(Keys.Control + "a");
        number.SendKeys("2");
        _browser.See("Track 12", ".set-up-track-fields");
        number.SendKeys("4" + Keys.Tab);
        _browser.See("Track 24", ".set-up-track-fields");
        number.SendKeys(Keys.Control + "a");
        number.SendKeys("3" + Keys.Enter);
        _browser.SeeNoMore("Track 12", ".set-up-track-fields");
        _browser.ChooseFor("Preset", "Plain song");
        Assert.Equal("Gull", _browser.Find(".set-up-name-field").GetAttribute("value"));
        // Saving over a preset asks first, and no preset holds the title of a song.
        _browser.Click("Save", ".set-up-preset-bar");
        _browser.See("Replace the preset “Plain song”?");
        _browser.Click("Cancel", ".ant-popover");
        _browser.Field("Save these choices as").SendKeys("Harbour");
        _browser.Click("Save", ".set-up-preset-bar");
        _browser.See("The preset “Harbour” is kept.");
        Assert.DoesNotContain("Gull", await _browser.App.Client.GetStringAsync("/api/set-up/presets", TestContext.Current.CancellationToken), StringComparison.Ordinal);
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Work that was begun is followed from every page: notice, title, the list of jobs, undo from there.</summary>
    [Fact]
    public async Task WorkIsFollowedFromEveryPage()
    {
        var netMender = _browser.SessionOf("Net Mender");
        _browser.Open(netMender + "/copy-in");
        _browser.See("Copy 3 files", ".plans-tray");
        SeeEnabled(true);
        Assert.Equal("Copy in, Net Mender · Neat Crate", _browser.Title);
        // While something records, it waits, so that one can go elsewhere meanwhile.
        var record = $"/api/sessions/{_browser.SessionOf("Low Water").Split('/')[2]}/record";
        await _browser.App.Post($"{record}/start", new { tracks = OneTrack, seconds = 300, fromSeconds = 0, speed = 1 }, TestContext.Current.CancellationToken);
        _browser.Open(netMender + "/copy-in");
        SeeEnabled(true);
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Waits", ".plans-tray");
        Assert.Equal("0 % · Copy in, Net Mender · Neat Crate", _browser.Title);
        _browser.Find(".top-strip-top-links a[href='/shelves']").Click();
        // Not before the other page is there: as long as the tray is in sight, it is the tray that tells.
        _browser.See("Old laptop", ".shelves");
        _browser.See("1 job · 0 %", ".top-strip");
        // The notice stays for a while only: it is looked for from the moment of the stop.
        var stop = _browser.App.Post($"{record}/stop", null, TestContext.Current.CancellationToken);
        _browser.See("Copy 3 files", ".ant-notification");
        await stop;
        Assert.Equal("Shelves · Neat Crate", _browser.Title);
        _browser.Keys("j");
        _browser.See("done, just now", ".jobs");
        _browser.Click("Undo", ".jobs");
        _browser.See("Undo: Copy 3 files", ".plans-tray");
        _browser.Click("Undo", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.False(File.Exists(Path.Combine(Lamplighters, "261014 Net Mender", "Audio", "tide.wav")));
        // What has been undone offers it no more.
        _browser.Keys("j");
        _browser.See("Undo: Copy 3 files", ".jobs");
        _browser.Wait(() => _browser.All(".jobs button").Count == 0 ? this : null, "for no undo to be offered");
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void WhatIsHeardCanBeStoppedOnEveryPage()
    {
        _browser.Open(_browser.SessionOf("Low Water") + "/set-up");
        _browser.Find(".files-rows .files-row").Click();
        _browser.Click("Listen", ".listening-listen-tools");
        _browser.Find(".listening-sound-in-hand");
        _browser.Find(".session-route a[href$=bundle]").Click();
        _browser.See("Pause", ".listening-sound-in-hand");
        _browser.Click("Stop", ".listening-sound-in-hand");
        _browser.Wait(() => _browser.All(".listening-sound-in-hand").Count == 0 ? this : null, "for silence");
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void ASessionIsOpenedByItsNameTakenOffTheListAndAdoptedAgain()
    {
        _browser.Open("/shelves");
        _browser.See("Old laptop", ".shelves");
        _browser.Keys("o");
        _browser.Find("[aria-label='Name of a session']").SendKeys("fog");
        _browser.See("261019 Fog Signal", ".top-strip-quick-open");
        _browser.Keys(Keys.Enter);
        _browser.See("Fog Signal", ".top-strip-open-label");
        _browser.Open("/");
        _browser.Wait(() => _browser.All(".loading-bay-crate").FirstOrDefault(c => c.Text.Contains("Fog Signal", StringComparison.Ordinal)), "for the crate");
        _browser.Script("document.querySelector('[aria-label=\"More for 261019 Fog Signal\"]').focus()");
        // By keys alone: the menu opens with its first entry, and goes round to its last.
        _browser.Keys(Keys.Enter);
        _browser.Wait(() => InHand() is "Back up" ? this : null, "for the menu");
        // A menu that has only just opened may not hear the first press.
        _browser.Wait(
            () =>
            {
                if (InHand() is "Back up")
                {
                    _browser.Keys(Keys.ArrowUp);
                }
                return InHand() is "Remove from list" ? this : null;
            },
            "for its last entry");
        _browser.Keys(Keys.Enter);
        _browser.Click("Remove from list", ".ant-popover");
        _browser.SeeNoMore("Fog Signal", ".loading-bay-crates");
        Assert.True(File.Exists(Path.Combine(Lamplighters, "261019 Fog Signal", "261019 Fog Signal.otio")));

        // The folder above holds the folders of five sessions, and is none itself.
        _browser.Open("/adopt");
        _browser.Choose(".shelves-folder-picker", "Session drive");
        _browser.OpenFolder("Lamplighters of Orrin Quay");
        _browser.See("The folders of 5 sessions stand in here.", ".adopt-findings");
        Assert.DoesNotContain(_browser.All(".adopt-findings button"), b => b.Text == "Adopt this folder");
        _browser.Click("261019 Fog Signal", ".adopt-findings");
        _browser.Click("Adopt this folder", ".adopt-findings");
        _browser.See("Fog Signal", ".top-strip-open-label");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>The first page is there soon: at most 230 kB of code and styles before it is drawn, compressed. What is fetched afterwards holds nothing up.</summary>
    [Fact]
    public async Task TheFirstPageIsSmall()
    {
        _browser.Open("/");
        _browser.See("need you", ".page-head");
        var page = await _browser.App.Client.GetStringAsync("/", TestContext.Current.CancellationToken);
        var first = string.Join(',', System.Text.RegularExpressions.Regex.Matches(page, "\"(/assets/[^\"]+\\.(?:js|css))\"").Select(m => $"'{m.Groups[1].Value}'"));
        var sizes = (string)_browser.Script($$"""
            const first = [{{first}}].map(a => new URL(a, location).href);
            return performance.getEntriesByType('resource').filter(r => first.includes(r.name)).map(r => r.encodedBodySize).join();
            """)!;
        var bytes = sizes.Split(',').Select(int.Parse).ToList();
        Assert.InRange(bytes.Count, 3, 40);
        Assert.InRange(bytes.Sum(), 100_000, 230_000);
    }
}
