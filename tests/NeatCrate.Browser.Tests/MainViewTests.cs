using System.Globalization;
using System.Text.Json.Nodes;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>What must hold on every main view: it can be read by everybody, and worked without a mouse.</summary>
public sealed class MainViewTests(Browser browser) : IClassFixture<Browser>
{
    private string Session(string song)
    {
        // What another test left half done in this tab is none of this one's business.
        browser.ForgetTheTab();
        return browser.SessionOf(song);
    }

    /// <summary>Chooses a row of the list, wherever on the page it lies at this size.</summary>
    private void ChooseRow(int at)
    {
        browser.Wait(() => browser.All(".files-rows .files-row[id]").Count > at ? this : null, "for the rows");
        browser.Script($"document.querySelectorAll('.files-rows .files-row[id]')[{at}].click()");
    }

    private void GoTo(string view)
    {
        switch (view)
        {
            case "loading bay":
                browser.Open("/");
                browser.See("need you", ".page-head");
                break;
            case "new session":
                browser.Open("/new");
                browser.Find(".set-up-name-field").SendKeys("The Ninth Bell reprise");
                browser.See("documents from earlier days", ".set-up-tree");
                browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
                break;
            case "adopt":
                browser.Open("/adopt");
                browser.Choose(".shelves-folder-picker", "Session drive");
                browser.Click("Lamplighters of Orrin Quay", ".shelves-folder-picker");
                browser.OpenFolder("261019 Fog Signal");
                browser.See("261019 Fog Signal.otio", ".adopt-findings");
                break;
            case "record":
                browser.Open(Session("Net Mender") + "/record");
                browser.See("Record", ".record-deck-actions");
                ChooseRow(0);
                browser.Find(".files-file-tag");
                break;
            case "take log":
                browser.Open(Session("The Ninth Bell") + "/record");
                browser.Pick("Take log");
                browser.See("dBFS", ".take-log");
                browser.Script("document.querySelector('.take-log-take-cell').click()");
                browser.See("keeper", ".take-log-log-tools");
                break;
            case "settings":
                browser.Open("/settings");
                browser.See("Thinning", ".settings");
                break;
            case "shelves":
                browser.Open("/shelves");
                browser.See("Old laptop", ".shelves");
                break;
            case "found sessions":
                browser.Open("/shelves");
                browser.Wait(() => browser.All(".shelves-shelf").FirstOrDefault(s => s.Text.StartsWith("Attic drive", StringComparison.Ordinal)), "for the attic drive")!
                    .FindElement(OpenQA.Selenium.By.CssSelector("a[href$='/sessions']")).Click();
                browser.See("11 new sessions", ".page-head");
                browser.See("Second Lantern", ".found-sessions-found");
                break;
            case "a shelf":
                browser.Open("/shelves");
                browser.Click("Session drive", ".shelves");
                browser.See("lost for good.", ".shelf-page-sum");
                break;
            case "set up":
                browser.Open(Session("Tar and Twine") + "/set-up");
                browser.See("missing", ".weighbridge");
                ChooseRow(0);
                browser.Find(".files-file-tag");
                break;
            case "copy in":
                browser.Open(Session("Net Mender") + "/copy-in");
                browser.See("Copy 3 files", ".plans-tray");
                browser.Click("4 steps");
                ChooseRow(2);
                browser.Find(".files-file-tag");
                break;
            case "something new":
                browser.Open(Session("Net Mender") + "/copy-in");
                browser.Pick("Something new");
                browser.See("bell buoy.wav", "[data-list=catalogue]");
                ChooseRow(0);
                browser.Find(".files-file-tag");
                break;
            case "relink":
                browser.Open(Session("Tar and Twine") + "/relink");
                browser.See("12 found for certain", ".page-head");
                browser.Wait(() => browser.All(".files-rows .files-row[id]").FirstOrDefault(r => r.Text.StartsWith("winch.wav", StringComparison.Ordinal)), "for the winch");
                browser.Script("[...document.querySelectorAll('.files-rows .files-row[id]')].find(r => r.textContent.startsWith('winch.wav')).click()");
                browser.Find(".relink-evidence");
                break;
            case "where to look":
                browser.Open(Session("Tar and Twine") + "/relink");
                browser.Pick("Where to look");
                browser.See("Every shelf is known without searching", ".relink-look");
                break;
            case "logbook":
                browser.Open(Session("Fog Signal") + "/backups");
                browser.See("kept save", ".backups-logbook");
                browser.Script("[...document.querySelectorAll('[data-version]')].find(b => b.ariaLabel.includes('string edits')).click()");
                browser.See("gone, was at", ".backups-difference");
                break;
            case "how safe":
                browser.Open(Session("The Ninth Bell") + "/backups");
                browser.Pick("How safe");
                browser.See("only here", ".files-rows");
                break;
            case "backup places":
                browser.Open(Session("Fog Signal") + "/backups");
                browser.Pick("Places and rules");
                browser.See("Verify all of it", ".backups-places");
                break;
            case "purge":
                browser.Open(Session("The Ninth Bell") + "/purge");
                browser.See("MB, could go", ".page-head");
                browser.Script("document.querySelector('[aria-label=\"Remove: Takes nobody placed\"]').click()");
                browser.See("Set aside 111 files", ".plans-tray");
                ChooseRow(2);
                browser.Find(".files-file-tag");
                break;
            case "trim":
                browser.Open(Session("The Ninth Bell") + "/purge");
                browser.Pick("Trim");
                browser.See("Trim 5 files", ".plans-tray");
                ChooseRow(0);
                browser.Find(".files-file-tag");
                break;
            case "bundle":
                browser.Open(Session("Low Water") + "/bundle");
                browser.See("Pack ", ".plans-tray");
                break;
            default:
                throw new ArgumentOutOfRangeException(nameof(view), view, null);
        }
    }

    /// <summary>
    /// Loaded once: nothing is cut off at the side at 1280x800, and the plan's button is in sight; axe-core (Deque) with the WCAG 2 A and AA
    /// rules finds nothing serious in either room; and at every size, also at 200 % zoom of 1280x800, the list is seen and bounded and the
    /// plan's button can be reached.
    /// </summary>
    [Theory]
    [InlineData("loading bay")]
    [InlineData("new session")]
    [InlineData("set up")]
    [InlineData("record")]
    [InlineData("take log")]
    [InlineData("adopt")]
    [InlineData("copy in")]
    [InlineData("something new")]
    [InlineData("bundle")]
    [InlineData("relink")]
    [InlineData("where to look")]
    [InlineData("purge")]
    [InlineData("logbook")]
    [InlineData("how safe")]
    [InlineData("backup places")]
    [InlineData("trim")]
    [InlineData("shelves")]
    [InlineData("found sessions")]
    [InlineData("a shelf")]
    [InlineData("settings")]
    public void EveryViewIsReadByEverybodyAndFitsEverySize(string view)
    {
        GoTo(view);
        FitsThePage();
        foreach (var night in new[] { false, true })
        {
            browser.Room(night);
            browser.Find($"html[data-room={(night ? "night" : "day")}]");
            Assert.Empty(Violations(impact => impact is "serious" or "critical"));
        }
        browser.Room(false);
        FitsEverySize(view);
    }

    private void FitsThePage()
    {
        Assert.Equal(1280L, browser.Script("return document.documentElement.scrollWidth"));
        Assert.Equal(true, browser.Script("""
            const list = document.querySelector('.files-scroller');
            const button = document.querySelector('.plans-tray .ant-btn-primary');
            return (!list || list.scrollWidth <= list.clientWidth) && (!button || button.getBoundingClientRect().bottom <= innerHeight);
            """));
    }

    private void FitsEverySize(string view)
    {
        try
        {
            foreach (var (width, height) in new[] { (640, 400), (800, 600), (1024, 700), (1440, 900), (1920, 1080) })
            {
                browser.Resize(width, height);
                browser.Wait(() => browser.Script($"return innerWidth === {width} ? 'there' : null"), "for the size");
                string Amiss() => (string)browser.Script("""
                    const beyond = [...document.querySelectorAll('body *')].filter(e => {
                      const box = e.getBoundingClientRect();
                      return box.width > 0 && box.right > innerWidth + 1 && !e.closest('.files-scroller, .take-log-scroller, .unseen, .ant-notification') && getComputedStyle(e).visibility === 'visible';
                    });
                    const list = document.querySelector('.files-scroller');
                    const button = document.querySelector('.plans-tray .ant-btn-primary');
                    button?.scrollIntoView({ block: 'nearest' });
                    const box = button?.getBoundingClientRect();
                    return [
                      ...beyond.slice(0, 3).map(e => `beyond the edge: ${e.tagName} ${e.className}`),
                      ...(list && (list.clientHeight < 90 || list.clientHeight > innerHeight) ? [`list of ${list.clientHeight}`] : []),
                      ...(box && (box.bottom > innerHeight + 1 || box.top < 0) ? ['the button is out of reach'] : []),
                    ].join('; ');
                    """)!;
                var found = "";
                for (var look = 0; look < 10 && (look == 0 || found.Length > 0); look++)
                {
                    // What is laid out by measuring itself has its turn, on a busy machine a few, before it is looked at.
                    browser.ScriptAsync("const done = arguments[arguments.length - 1]; requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(() => done('drawn'), 50))));");
                    found = Amiss();
                }
                Assert.True(found.Length == 0, $"{view} at {width}x{height}: {found}");
                Assert.Empty(Violations(impact => impact is "serious" or "critical"));
            }
        }
        finally
        {
            browser.Resize(1280, 800);
        }
    }

    /// <summary>
    /// Forty-eight tracks, names without a break and letters of many languages: nothing runs over its neighbour or out of the window, and
    /// every letter is of the fonts that come along.
    /// </summary>
    [Fact]
    public async Task LongNamesAndManyTracksFit()
    {
        var cancel = TestContext.Current.CancellationToken;
        var name = "261102 " + string.Concat(Enumerable.Repeat("DvořákŁódźŐŠĞİ", 6));
        var folder = Path.Combine(browser.Shelf("Session drive"), name);
        Directory.CreateDirectory(Path.Combine(folder, "Audio"));
        var tracks = Enumerable.Range(1, 48).Select(n => $"Track {n} " + new string('w', 40)).ToArray();
        await File.WriteAllBytesAsync(
            Path.Combine(folder, "s.otio"), SessionDocument.Create(Guid.NewGuid(), name, new SessionSettings(), SessionLayout.Default, tracks).ToUtf8(), cancel);
        await File.WriteAllBytesAsync(Path.Combine(folder, "Audio", new string('n', 180) + ".wav"), [], cancel);
        var shelf = (await browser.App.Get("/api/shelves", cancel)).AsArray().Single(s => s!["name"]!.GetValue<string>() == "Session drive")!["id"]!.GetValue<string>();
        var id = await browser.App.Adopt(shelf, name, cancel);
        try
        {
            foreach (var (width, height) in new[] { (800, 600), (1280, 800), (1920, 1080) })
            {
                browser.Resize(width, height);
                foreach (var page in new[] { "/", $"/sessions/{id}/set-up", $"/sessions/{id}/record", $"/sessions/{id}/bundle" })
                {
                    browser.Open(page);
                    browser.See("DvořákŁódź");
                    if (page.EndsWith("/record", StringComparison.Ordinal))
                    {
                        // What is planned names the file, too.
                        browser.See("nnnn", ".plans-tray");
                    }
                    browser.ScriptAsync("const done = arguments[arguments.length - 1]; document.fonts.ready.then(() => requestAnimationFrame(() => requestAnimationFrame(() => done('drawn'))));");
                    var found = (string)browser.Script("""
                        const wrong = [];
                        for (const e of document.querySelectorAll('body *')) {
                          const box = e.getBoundingClientRect();
                          if (box.width > 0 && box.right > innerWidth + 1 && !e.closest('.files-scroller, .take-log-scroller, .unseen')) wrong.push(`beyond: ${e.className} ${e.textContent.slice(0, 40)}`);
                        }
                        // What stands beside a name is not written over.
                        for (const line of document.querySelectorAll('.loading-bay-crate, .top-strip, .page-head, .record-armed > *')) {
                          const parts = [...line.children].map(c => c.getBoundingClientRect()).filter(b => b.width > 0 && b.height > 0);
                          for (const a of parts) for (const b of parts)
                            if (a !== b && Math.min(a.right, b.right) - Math.max(a.left, b.left) > 2 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 2)
                              wrong.push(`over: ${line.className}`);
                        }
                        return [...new Set(wrong)].slice(0, 5).join(' | ');
                        """)!;
                    Assert.True(found.Length == 0, $"{page} at {width}: {found}");
                }
            }
            browser.Open($"/sessions/{id}/record");
            // All tracks can be armed with their whole name to be read, and a good many are in sight at once.
            browser.Wait(() => browser.All(".record-armed input[type=checkbox]").Count == 48 ? this : null, "for all tracks");
            Assert.Equal("", browser.Script("return [...document.querySelectorAll('.record-armed label')].filter(l => l.scrollWidth > l.clientWidth + 1 && !l.title).map(l => l.textContent).join()"));
            Assert.InRange((long)browser.Script("return Math.round(document.querySelector('.record-armed').getBoundingClientRect().height)")!, 200, 2000);
            foreach (var face in new[] { "600 16px 'Barlow Condensed'", "14px 'Instrument Sans Variable'", "12px 'IBM Plex Mono'" })
            {
                Assert.True((bool)browser.ScriptAsync($"const done = arguments[arguments.length - 1]; document.fonts.load(\"{face}\", 'DvořákŁódźŐŠĞİ').then(f => done(f.length > 0 && document.fonts.check(\"{face}\", 'DvořákŁódźŐŠĞİ')));")!, face);
            }
        }
        finally
        {
            browser.Resize(1280, 800);
        }
    }

    /// <summary>A page whose answer is late says what it waits for.</summary>
    [Fact]
    public void APageThatWaitsSaysSo()
    {
        var session = Session("Low Water");
        browser.Slow(700);
        try
        {
            browser.Open(session + "/set-up");
            browser.See("One moment.");
            browser.See("Set up", ".page-head");
        }
        finally
        {
            browser.Slow(0);
        }
    }

    /// <summary>On paper a list stands whole and on white, without the tools.</summary>
    [Theory]
    [InlineData("set up")]
    [InlineData("take log")]
    [InlineData("shelves")]
    public void WhatIsPrintedIsThePageWithoutItsTools(string view)
    {
        GoTo(view);
        browser.Print(true);
        try
        {
            var found = (string)browser.Script("""
                const seen = e => e && e.getBoundingClientRect().height > 0;
                const tools = ['.top-strip', '.session-route', '.plans-tray', '.files-list-tools', '.take-log-log-tools'].filter(s => seen(document.querySelector(s)));
                const cut = ['.page', '.files-scroller', '.take-log-scroller'].map(s => document.querySelector(s)).filter(e => e && (e.scrollHeight > e.clientHeight + 2 || getComputedStyle(e).overflowY !== 'visible'));
                return `${tools} ${cut.map(e => e.className)} ${getComputedStyle(document.body).backgroundColor} ${seen(document.querySelector('h1'))}`;
                """)!;
            Assert.Equal("  rgb(255, 255, 255) true", found);
        }
        finally
        {
            browser.Print(false);
        }
    }

    /// <summary>The tracks of a new session are in sight at once.</summary>
    [Fact]
    public void TheTracksOfANewSessionAreInSight()
    {
        GoTo("new session");
        Assert.Equal(true, browser.Script("return document.querySelector('.set-up-track-fields').getBoundingClientRect().bottom < document.querySelector('.plans-tray').getBoundingClientRect().top"));
    }

    /// <summary>The first page asks for little: few files of code, and no more of it than is read before anything is seen.</summary>
    [Fact]
    public void TheFirstPageIsSmall()
    {
        GoTo("loading bay");
        var asked = (string)browser.Script("""
            const code = performance.getEntriesByType('resource').filter(r => new URL(r.name).pathname.endsWith('.js'));
            return `${code.length} ${code.reduce((sum, r) => sum + r.encodedBodySize, 0)}`;
            """)!;
        var (files, bytes) = (int.Parse(asked.Split(' ')[0], CultureInfo.InvariantCulture), int.Parse(asked.Split(' ')[1], CultureInfo.InvariantCulture));
        Assert.InRange(files, 1, 15);
        Assert.InRange(bytes, 100_000, 260_000);
    }

    /// <summary>With popups open axe finds nothing of any severity.</summary>
    [Theory]
    [InlineData("keys")]
    [InlineData("open")]
    [InlineData("jobs")]
    [InlineData("removal")]
    [InlineData("remove from list")]
    [InlineData("change a shelf")]
    [InlineData("a list that opens")]
    [InlineData("how the list is sorted")]
    [InlineData("the menu of a file")]
    public void AxeFindsNothingWithAPopupOpen(string popup)
    {
        switch (popup)
        {
            case "keys":
                GoTo("copy in");
                browser.Keys("?");
                browser.See("undo the last applied plan", ".top-strip-keys");
                break;
            case "open":
                GoTo("set up");
                browser.Keys("o");
                browser.See("261019 Fog Signal", ".top-strip-quick-open");
                break;
            case "jobs":
                GoTo("copy in");
                browser.Keys("j");
                browser.Find(".jobs");
                break;
            case "removal":
                GoTo("new session");
                browser.Click("Save", ".set-up-preset-bar");
                browser.See("Replace the preset");
                break;
            case "remove from list":
                GoTo("loading bay");
                browser.FromMenu("261019 Fog Signal", "Remove from list");
                browser.See("No file is touched.");
                break;
            case "a list that opens":
                GoTo("new session");
                browser.Find(".shelves-folder-picker .ant-select").Click();
                browser.Find(".ant-select-item-option[title='Session drive']");
                break;
            case "the menu of a file":
                GoTo("set up");
                browser.OtherButton(browser.Find(".files-rows .files-row"));
                browser.See("Copy path", ".ant-dropdown");
                break;
            case "how the list is sorted":
                GoTo("set up");
                browser.Click("View", ".files-list-tools");
                browser.See("Sort by", ".files-view-menu");
                break;
            default:
                GoTo("shelves");
                browser.FromMenu("Old laptop", "Change");
                browser.See("Where a drive is found elsewhere", ".ant-modal");
                break;
        }
        foreach (var night in new[] { false, true })
        {
            browser.Room(night);
            browser.Find($"html[data-room={(night ? "night" : "day")}]");
            Assert.Empty(Violations(_ => true));
        }
        browser.Room(false);
    }

    /// <summary>What axe finds on the page as it is, by the rules of WCAG 2 A and AA.</summary>
    private IReadOnlyList<string> Violations(Func<string, bool> counts)
    {
        // Colours that are still on their way would be measured half-way.
        browser.Wait(() => browser.Script("return document.getAnimations().length === 0 ? 'still' : null"), "for the page to come to rest");
        browser.Script(File.ReadAllText(Path.Combine(AppProcess.Repository, "src", "web", "node_modules", "axe-core", "axe.min.js")));
        var found = JsonNode.Parse((string)browser.ScriptAsync(
            "const done = arguments[arguments.length - 1]; axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'] }).then(r => done(JSON.stringify(r)));")!)!;
        Assert.NotEmpty(found["passes"]!.AsArray());
        return [.. found["violations"]!.AsArray().Where(v => counts(v!["impact"]!.GetValue<string>()))
            .Select(v => $"{v!["id"]}: {v["nodes"]![0]!["html"]} {v["nodes"]![0]!["failureSummary"]}")];
    }

    /// <summary>The ring of the keyboard and the borders of fields are drawn in the colours that are measured to stand out 3 : 1.</summary>
    [Fact]
    public void RingsAndBordersHaveTheirColours()
    {
        foreach (var night in new[] { false, true })
        {
            browser.Room(night);
            GoTo("new session");
            browser.Find($"html[data-room={(night ? "night" : "day")}]");
            browser.Keys(OpenQA.Selenium.Keys.Tab);
            var drawn = (string)browser.Script("""
                const colour = name => { const e = document.createElement('i'); e.style.color = `var(--${name})`; document.body.append(e); const c = getComputedStyle(e).color; e.remove(); return c; };
                const field = getComputedStyle(document.querySelector('.set-up-preset-bar .ant-input')).borderTopColor;
                const ringed = document.querySelector('.top-strip-mark'); ringed.focus({ focusVisible: true });
                const ring = getComputedStyle(ringed);
                return `${field === colour('edge')} ${ring.outlineColor === colour('ring')} ${ring.outlineWidth}`;
                """)!;
            Assert.Equal("true true 2px", drawn);
        }
        browser.Room(false);
    }

    [Fact]
    public void TheListIsWorkedByTheKeyboardAlone()
    {
        browser.Open(Session("Net Mender") + "/copy-in");
        browser.See("Copy 3 files", ".plans-tray");
        browser.Find("[role=grid]").SendKeys(OpenQA.Selenium.Keys.ArrowDown);
        browser.See("tide.wav", ".files-file-tag");
        browser.Keys(OpenQA.Selenium.Keys.ArrowDown);
        browser.See("net drum low.wav", ".files-file-tag");
        browser.Keys(OpenQA.Selenium.Keys.Enter);
        browser.See("Copy 2 files", ".plans-tray");
        // Marks are remembered: the next one who looks here finds it as it was.
        browser.Keys(OpenQA.Selenium.Keys.Enter);
        browser.See("Copy 3 files", ".plans-tray");
        browser.Chord(OpenQA.Selenium.Keys.Shift, OpenQA.Selenium.Keys.ArrowUp);
        browser.Wait(() => browser.All(".files-row.files-selected").Count > 1 ? this : null, "for both rows to be selected");
        Assert.Equal(2, browser.All(".files-row.files-selected").Count);
        browser.Keys(OpenQA.Selenium.Keys.Escape);
        browser.Wait(() => browser.All(".files-file-tag").Count == 0 ? this : null, "for the tag to close");
        browser.Keys("/");
        browser.Keys("cello");
        browser.See("2 of 9 files", ".files-list-count");
        browser.Keys(OpenQA.Selenium.Keys.Escape);
        browser.See("9 files", ".files-list-count");
        browser.Keys("7");
        browser.See("Bundle", ".page-head");
        browser.Keys("?");
        browser.See("undo the last applied plan", ".top-strip-keys");
    }

    [Fact]
    public void FilesAreHeardWithTheSpaceBarAndTheNextOneWithTheArrow()
    {
        browser.Open(Session("Net Mender") + "/copy-in");
        browser.See("Copy 3 files", ".plans-tray");
        browser.Find(".files-rows .listening-outline.listening-in-use");
        browser.Find("[role=grid]").SendKeys(OpenQA.Selenium.Keys.ArrowDown);
        browser.See("tide.wav", ".files-file-tag");
        browser.Keys(" ");
        browser.See("Pause", ".listening-listen-tools");
        browser.Find(".files-row.files-playing");
        browser.Wait(() => browser.Find(".listening-listen-tools .mono").Text.StartsWith("0:01", StringComparison.Ordinal) ? this : null, "for a second of sound");
        browser.Keys(OpenQA.Selenium.Keys.ArrowDown);
        browser.See("net drum low.wav", ".files-file-tag");
        browser.See("Pause", ".listening-listen-tools");
        browser.Keys(" ");
        browser.See("Listen", ".listening-listen-tools");
        // The place can be gone to by the keyboard.
        browser.Script("document.querySelector('.listening-listen-wave input').focus()");
        browser.Keys(OpenQA.Selenium.Keys.End);
        browser.See("0:01 / 0:01", ".listening-listen-tools");
        Assert.Empty(browser.Troubles());
    }

    [Fact]
    public void ASegmentOfTheWeighbridgeFiltersTheList()
    {
        browser.Open(Session("The Ninth Bell") + "/set-up");
        browser.See("124 files", ".files-list-count");
        browser.Wait(() => browser.All(".weighbridge-figures button").FirstOrDefault(b => b.Text.StartsWith("placed", StringComparison.Ordinal)), "for the placed segment").Click();
        browser.See("4 of 124 files", ".files-list-count");
        Assert.All(browser.All(".files-rows .files-c-use"), u => Assert.Equal("placed", u.Text));
        // What the bar tells apart by its pattern, the figures below it tell apart by the same.
        Assert.Equal(true, browser.Script("""
            const looks = of => [...document.querySelectorAll(of)].map(e => getComputedStyle(e)).map(s => `${s.backgroundColor} ${s.backgroundImage} ${s.borderTopStyle}`);
            const [bar, figures] = [looks('.weighbridge-beam .weighbridge-load'), looks('.weighbridge-figures .weighbridge-swatch')];
            return bar.length >= 4 && new Set(bar).size === bar.length && bar.join() === figures.join();
            """));
    }

    /// <summary>Columns are hidden, drawn wider and sorted, by the keyboard too, and all of that is remembered.</summary>
    [Fact]
    public void ColumnsAreAsSomebodyWantsThemAndStaySo()
    {
        browser.Open(Session("The Ninth Bell") + "/set-up");
        browser.See("124 files", ".files-list-count");
        browser.Click("View", ".files-list-tools");
        browser.See("Sort by", ".files-view-menu");
        browser.Script("[...document.querySelectorAll('.files-view-menu label')].find(l => l.textContent.trim() === 'Length').querySelector('input').focus()");
        browser.Keys(" ");
        browser.Wait(() => browser.All("th[aria-sort=ascending]").FirstOrDefault(h => h.Text == "Length"), "for the length to be sorted by");
        browser.Script("[...document.querySelectorAll('.files-view-menu fieldset:last-child label')].find(l => l.textContent.trim() === 'Format').querySelector('input').click()");
        browser.Wait(() => browser.All(".files-grid th").All(h => h.Text != "Format") ? this : null, "for the format to be hidden");
        // Drawn by its edge, forty pixels wider.
        double Width() => Convert.ToDouble(browser.Script("return document.querySelector('th.files-c-name').getBoundingClientRect().width"), System.Globalization.CultureInfo.InvariantCulture);
        browser.Keys(OpenQA.Selenium.Keys.Escape);
        var before = Width();
        browser.Script("""
            const edge = document.querySelector('th.files-c-name .files-column-edge');
            edge.setPointerCapture = () => {};
            const at = (type, x) => edge.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: x, pointerId: 1 }));
            at('pointerdown', 300); at('pointermove', 340); at('lostpointercapture', 340);
            """);
        browser.Wait(() => Math.Abs(Width() - before - 40) < 1.5 ? this : null, "for the name to be wider");
        browser.Open(browser.Place);
        browser.See("124 files", ".files-list-count");
        browser.Wait(() => Math.Abs(Width() - before - 40) < 1.5 ? this : null, "for the name to be as wide as before");
        Assert.DoesNotContain(browser.All(".files-grid th"), h => h.Text == "Format");
        browser.Find("th.files-c-num[aria-sort=ascending]");
        browser.Click("View", ".files-list-tools");
        browser.Click("As at first", ".files-view-menu");
        browser.Wait(() => browser.All(".files-grid th").Any(h => h.Text == "Format") ? this : null, "for the format to be back");
        browser.Script("localStorage.clear()");
    }

    [Fact]
    public void TheRoomIsRemembered()
    {
        browser.Open("/");
        browser.Click("Night");
        browser.Open("/shelves");
        browser.Find("html[data-room=night]");
        browser.Click("Day");
        browser.Find("html[data-room=day]");
        // The other tests go by the system's wish again.
        browser.Script("localStorage.clear()");
    }

    [Fact]
    public void AnAddressThatIsNotThereSaysSo()
    {
        browser.Open("/sessions/00000000-0000-0000-0000-000000000000/set-up");
        browser.See("This session is not known");
        browser.Open("/nowhere");
        browser.See("There is nothing at this address.");
        // Those are meant, and are not to be found by another test.
        Assert.All(browser.Troubles(), t => Assert.Contains("404", t, StringComparison.Ordinal));
    }
}
