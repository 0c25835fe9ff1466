using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>What must hold on every main view: it can be read by everybody, and worked without a mouse.</summary>
public sealed class MainViewTests(Browser browser) : IClassFixture<Browser>
{
    private string Session(string song)
    {
        browser.Open("/");
        // What another test left half done in this tab is none of this one's business.
        browser.Script("sessionStorage.clear()");
        return browser.SessionOf(song);
    }

    /// <summary>Chooses a row of the list, wherever on the page it lies at this size.</summary>
    private void ChooseRow(int at)
    {
        browser.Wait(() => browser.All(".rows .row[id]").Count > at ? this : null, "for the rows");
        browser.Script($"document.querySelectorAll('.rows .row[id]')[{at}].click()");
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
                browser.Find(".name-field").SendKeys("The Ninth Bell reprise");
                browser.See("documents from earlier days", ".tree");
                browser.Find(".tray .ant-btn-primary:not(:disabled)");
                break;
            case "adopt":
                browser.Open("/adopt");
                browser.Choose(".folder-picker", "Session drive");
                browser.Click("Lamplighters of Orrin Quay", ".folder-picker");
                browser.OpenFolder("261019 Fog Signal");
                browser.See("261019 Fog Signal.otio", ".findings");
                break;
            case "record":
                browser.Open(Session("Net Mender") + "/record");
                browser.See("Record", ".deck-actions");
                ChooseRow(0);
                browser.Find(".file-tag");
                break;
            case "take log":
                browser.Open(Session("The Ninth Bell") + "/record");
                browser.Pick("Take log");
                browser.See("dBFS", ".take-log");
                browser.Script("document.querySelector('.take-cell').click()");
                browser.See("keeper", ".log-tools");
                break;
            case "shelves":
                browser.Open("/shelves");
                browser.See("Old laptop", ".shelves");
                break;
            case "set up":
                browser.Open(Session("Tar and Twine") + "/set-up");
                browser.See("missing", ".weighbridge");
                ChooseRow(0);
                browser.Find(".file-tag");
                break;
            case "copy in":
                browser.Open(Session("Net Mender") + "/copy-in");
                browser.See("Copy 3 files", ".tray");
                browser.Click("4 steps");
                ChooseRow(2);
                browser.Find(".file-tag");
                break;
            case "something new":
                browser.Open(Session("Net Mender") + "/copy-in");
                browser.Pick("Something new");
                browser.See("bell buoy.wav", ".of-catalogue");
                ChooseRow(0);
                browser.Find(".file-tag");
                break;
            case "bundle":
                browser.Open(Session("Low Water") + "/bundle");
                browser.See("Pack ", ".tray");
                break;
            default:
                throw new ArgumentOutOfRangeException(nameof(view), view, null);
        }
    }

    /// <summary>axe-core (Deque) with the WCAG 2 A and AA rules: nothing serious, in both rooms.</summary>
    [Theory]
    [InlineData("loading bay")]
    [InlineData("new session")]
    [InlineData("shelves")]
    [InlineData("set up")]
    [InlineData("record")]
    [InlineData("take log")]
    [InlineData("adopt")]
    [InlineData("copy in")]
    [InlineData("something new")]
    [InlineData("bundle")]
    public void AxeFindsNothingSeriousByDayOrNight(string view)
    {
        foreach (var night in new[] { false, true })
        {
            browser.Room(night);
            GoTo(view);
            browser.Find($"html[data-room={(night ? "night" : "day")}]");
            Assert.Empty(Violations(impact => impact is "serious" or "critical"));
        }
        browser.Room(false);
    }

    /// <summary>At 1280x800 nothing is cut off at the side, and the plan's button is in sight.</summary>
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
    public void EverythingFitsThePage(string view)
    {
        GoTo(view);
        Assert.Equal(1280L, browser.Script("return document.documentElement.scrollWidth"));
        Assert.Equal(true, browser.Script("""
            const list = document.querySelector('.scroller');
            const button = document.querySelector('.tray .ant-btn-primary');
            return (!list || list.scrollWidth <= list.clientWidth) && (!button || button.getBoundingClientRect().bottom <= innerHeight);
            """));
    }

    /// <summary>Nothing is cut off at the side, the list is seen and bounded, and the plan's button can be reached: at every size, also at 200 % zoom of 1280x800.</summary>
    [Theory]
    [InlineData(640, 400)]
    [InlineData(800, 600)]
    [InlineData(1024, 700)]
    [InlineData(1440, 900)]
    [InlineData(1920, 1080)]
    public void EveryViewFitsEverySize(int width, int height)
    {
        browser.Resize(width, height);
        try
        {
            foreach (var view in new[] { "loading bay", "new session", "set up", "record", "take log", "adopt", "copy in", "something new", "bundle", "shelves" })
            {
                GoTo(view);
                var found = (string)browser.Script("""
                    const beyond = [...document.querySelectorAll('body *')].filter(e => {
                      const box = e.getBoundingClientRect();
                      return box.width > 0 && box.right > innerWidth + 1 && !e.closest('.scroller, .unseen, .ant-notification') && getComputedStyle(e).visibility === 'visible';
                    });
                    const list = document.querySelector('.scroller');
                    const button = document.querySelector('.tray .ant-btn-primary');
                    button?.scrollIntoView({ block: 'nearest' });
                    const box = button?.getBoundingClientRect();
                    return [
                      ...beyond.slice(0, 3).map(e => `beyond the edge: ${e.tagName} ${e.className}`),
                      ...(list && (list.clientHeight < 90 || list.clientHeight > innerHeight) ? [`list of ${list.clientHeight}`] : []),
                      ...(box && (box.bottom > innerHeight + 1 || box.top < 0) ? ['the button is out of reach'] : []),
                    ].join('; ');
                    """)!;
                Assert.True(found.Length == 0, $"{view} at {width}x{height}: {found}");
            }
        }
        finally
        {
            browser.Resize(1280, 800);
        }
    }

    /// <summary>The tracks of a new session are in sight at once.</summary>
    [Fact]
    public void TheTracksOfANewSessionAreInSight()
    {
        GoTo("new session");
        Assert.Equal(true, browser.Script("return document.querySelector('.track-fields').getBoundingClientRect().bottom < document.querySelector('.tray').getBoundingClientRect().top"));
    }

    /// <summary>With popups open axe finds nothing of any severity.</summary>
    [Theory]
    [InlineData("keys")]
    [InlineData("open")]
    [InlineData("jobs")]
    [InlineData("removal")]
    [InlineData("take off")]
    [InlineData("change a shelf")]
    public void AxeFindsNothingWithAPopupOpen(string popup)
    {
        switch (popup)
        {
            case "keys":
                GoTo("copy in");
                browser.Keys("?");
                browser.See("undo the last applied plan", ".keys");
                break;
            case "open":
                GoTo("set up");
                browser.Keys("o");
                browser.See("261019 Fog Signal", ".quick-open");
                break;
            case "jobs":
                GoTo("copy in");
                browser.Keys("j");
                browser.Find(".jobs");
                break;
            case "removal":
                GoTo("new session");
                browser.Click("Save", ".preset-bar");
                browser.See("Replace the preset");
                break;
            case "take off":
                GoTo("loading bay");
                browser.Script("document.querySelector('.take-off').click()");
                browser.See("No file is touched.");
                break;
            default:
                GoTo("shelves");
                browser.Click("Change", ".shelves");
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
                const field = getComputedStyle(document.querySelector('.preset-bar .ant-input')).borderTopColor;
                const ringed = document.querySelector('.mark'); ringed.focus({ focusVisible: true });
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
        browser.See("Copy 3 files", ".tray");
        browser.Find("[role=grid]").SendKeys(OpenQA.Selenium.Keys.ArrowDown);
        browser.See("tide.wav", ".file-tag");
        browser.Keys(OpenQA.Selenium.Keys.ArrowDown);
        browser.See("net drum low.wav", ".file-tag");
        browser.Keys(OpenQA.Selenium.Keys.Enter);
        browser.See("Copy 2 files", ".tray");
        // Marks are remembered: the next one who looks here finds it as it was.
        browser.Keys(OpenQA.Selenium.Keys.Enter);
        browser.See("Copy 3 files", ".tray");
        browser.Chord(OpenQA.Selenium.Keys.Shift, OpenQA.Selenium.Keys.ArrowUp);
        browser.Wait(() => browser.All(".row.selected").Count > 1 ? this : null, "for both rows to be selected");
        Assert.Equal(2, browser.All(".row.selected").Count);
        browser.Keys(OpenQA.Selenium.Keys.Escape);
        browser.Wait(() => browser.All(".file-tag").Count == 0 ? this : null, "for the tag to close");
        browser.Keys("/");
        browser.Keys("cello");
        browser.See("2 of 9 files", ".list-count");
        browser.Keys(OpenQA.Selenium.Keys.Escape);
        browser.See("9 files", ".list-count");
        browser.Keys("4");
        browser.See("Bundle", ".station-head");
        browser.Keys("?");
        browser.See("undo the last applied plan", ".keys");
    }

    [Fact]
    public void FilesAreHeardWithTheSpaceBarAndTheNextOneWithTheArrow()
    {
        browser.Open(Session("Net Mender") + "/copy-in");
        browser.See("Copy 3 files", ".tray");
        browser.Find(".rows .outline.in-use");
        browser.Find("[role=grid]").SendKeys(OpenQA.Selenium.Keys.ArrowDown);
        browser.See("tide.wav", ".file-tag");
        browser.Keys(" ");
        browser.See("Pause", ".listen-tools");
        browser.Find(".row.playing");
        browser.Wait(() => browser.Find(".listen-tools .mono").Text.StartsWith("0:01", StringComparison.Ordinal) ? this : null, "for a second of sound");
        browser.Keys(OpenQA.Selenium.Keys.ArrowDown);
        browser.See("net drum low.wav", ".file-tag");
        browser.See("Pause", ".listen-tools");
        browser.Keys(" ");
        browser.See("Listen", ".listen-tools");
        // The place can be gone to by the keyboard.
        browser.Script("document.querySelector('.listen-wave input').focus()");
        browser.Keys(OpenQA.Selenium.Keys.End);
        browser.See("0:01 / 0:01", ".listen-tools");
        Assert.Empty(browser.Troubles());
    }

    [Fact]
    public void ASegmentOfTheWeighbridgeFiltersTheList()
    {
        browser.Open(Session("The Ninth Bell") + "/set-up");
        browser.See("25 files", ".list-count");
        browser.Wait(() => browser.All(".figures button").FirstOrDefault(b => b.Text.StartsWith("placed", StringComparison.Ordinal)), "for the placed segment").Click();
        browser.See("3 of 25 files", ".list-count");
        Assert.All(browser.All(".rows .c-use"), u => Assert.Equal("placed", u.Text));
        // What the bar tells apart by its pattern, the figures below it tell apart by the same.
        Assert.Equal(true, browser.Script("""
            const looks = of => [...document.querySelectorAll(of)].map(e => getComputedStyle(e)).map(s => `${s.backgroundColor} ${s.backgroundImage} ${s.borderTopStyle}`);
            const [bar, figures] = [looks('.beam .load'), looks('.figures .swatch')];
            return bar.length >= 4 && new Set(bar).size === bar.length && bar.join() === figures.join();
            """));
    }

    /// <summary>Columns are hidden, drawn wider and sorted, by the keyboard too, and all of that is remembered.</summary>
    [Fact]
    public void ColumnsAreAsSomebodyWantsThemAndStaySo()
    {
        browser.Open(Session("The Ninth Bell") + "/set-up");
        browser.See("25 files", ".list-count");
        browser.Click("View", ".list-tools");
        browser.See("Sort by", ".view-menu");
        browser.Script("[...document.querySelectorAll('.view-menu label')].find(l => l.textContent.trim() === 'Length').querySelector('input').focus()");
        browser.Keys(" ");
        browser.Wait(() => browser.All("th[aria-sort=ascending]").FirstOrDefault(h => h.Text == "Length"), "for the length to be sorted by");
        browser.Script("[...document.querySelectorAll('.view-menu fieldset:last-child label')].find(l => l.textContent.trim() === 'Format').querySelector('input').click()");
        browser.Wait(() => browser.All(".grid th").All(h => h.Text != "Format") ? this : null, "for the format to be hidden");
        // Drawn by its edge, forty pixels wider.
        double Width() => Convert.ToDouble(browser.Script("return document.querySelector('th.c-name').getBoundingClientRect().width"), System.Globalization.CultureInfo.InvariantCulture);
        browser.Keys(OpenQA.Selenium.Keys.Escape);
        var before = Width();
        browser.Script("""
            const edge = document.querySelector('th.c-name .column-edge');
            edge.setPointerCapture = () => {};
            const at = (type, x) => edge.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: x, pointerId: 1 }));
            at('pointerdown', 300); at('pointermove', 340); at('lostpointercapture', 340);
            """);
        browser.Wait(() => Math.Abs(Width() - before - 40) < 1.5 ? this : null, "for the name to be wider");
        browser.Open(browser.Place);
        browser.See("25 files", ".list-count");
        browser.Wait(() => Math.Abs(Width() - before - 40) < 1.5 ? this : null, "for the name to be as wide as before");
        Assert.DoesNotContain(browser.All(".grid th"), h => h.Text == "Format");
        browser.Find("th.c-num[aria-sort=ascending]");
        browser.Click("View", ".list-tools");
        browser.Click("As at first", ".view-menu");
        browser.Wait(() => browser.All(".grid th").Any(h => h.Text == "Format") ? this : null, "for the format to be back");
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
