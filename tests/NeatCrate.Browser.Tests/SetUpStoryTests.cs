namespace NeatCrate.Browser.Tests;

/// <summary>Setting up the way a studio does: a preset made and used, another version started, settings changed.</summary>
public sealed class SetUpStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Parent => Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay");

    [Fact]
    public void APresetIsMadeAndUsed()
    {
        _browser.Open("/new");
        _browser.Find(".set-up-name-field").SendKeys("The Ninth Bell");
        _browser.Find("[aria-label='Move working title left']").Click();
        _browser.See($"The Ninth Bell {DateTime.Now:yyMMdd}", ".set-up-preview");
        _browser.Field("Tracks").SendKeys("Voice,Cello,Hurdy-gurdy,");
        _browser.See("25.9 MB a minute", ".set-up-budget");
        _browser.See("after 8:17:06", ".set-up-budget");
        _browser.Field("Save these choices as").SendKeys("Loft quartet");
        _browser.Click("Save", ".set-up-preset-bar");
        _browser.See("Loft quartet", ".set-up-preset-bar");
        _browser.Click("Make default", ".set-up-preset-bar");
        _browser.See("Loft quartet (studio default)", ".set-up-preset-bar");

        _browser.Open("/new");
        _browser.See("Loft quartet (studio default)", ".set-up-preset-bar");
        _browser.See("25.9 MB a minute", ".set-up-budget");
        _browser.Click("Lamplighters of Orrin Quay", ".shelves-folder-picker");
        TheTreeIsNamedInPlace();
        _browser.Click("Make the session");
        _browser.See("Done.", ".plans-tray");
        var folder = Path.Combine(Parent, $"The Ninth Bell {DateTime.Now:yyMMdd}");
        Assert.True(Directory.Exists(Path.Combine(folder, "Takes")));
        Assert.True(Directory.Exists(Path.Combine(folder, "Notes", "Lyrics")));
        Assert.False(Directory.Exists(Path.Combine(folder, "Audio")));
        Assert.Empty(_browser.Troubles());
    }

    private void TheTreeIsNamedInPlace()
    {
        var audio = _browser.Find("[aria-label='Folder for takes and samples']");
        audio.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        audio.SendKeys("Notes");
        _browser.See("The sub-folder 'Notes' stands in the tree twice.", ".plans-tray");
        audio.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        audio.SendKeys("Takes");
        _browser.Click("Add a folder", ".set-up-tree");
        _browser.Find("[aria-label='Folder of your own 2']").SendKeys("Notes/Lyrics");
        _browser.See("with 6 sub-folders", ".plans-tray");
    }

    [Fact]
    public void TheNumberOfTracksAndTheirMirrorAreSetUp()
    {
        _browser.Open("/new");
        _browser.Find(".set-up-name-field").SendKeys("Fog Signal");
        var number = _browser.Field("Number of tracks");
        number.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        number.SendKeys("8" + OpenQA.Selenium.Keys.Tab);
        _browser.See("Track 8", ".set-up-track-fields");
        // 8 mono tracks at 48 kHz and 24 bit: 8 x 8.64 MB a minute.
        _browser.See("69.1 MB a minute", ".set-up-budget");
        _browser.ChooseFor("Second copy of takes on", "Vault");
        _browser.Click("Make the session");
        _browser.Click("Open it");
        _browser.See("no takes yet", ".session-route");
        _browser.Keys("2");
        // The demo's drives are drives of their own, also for a mirror.
        _browser.See("Vault", ".record-deck");
        Assert.DoesNotContain("on the same drive", _browser.Find(".record-deck").Text, StringComparison.Ordinal);
        Assert.Equal(8, _browser.All(".record-armed li").Count);
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void ANewVersionIsStartedAndTheOlderOnePutAway()
    {
        _browser.Open("/");
        _browser.Wait(() => _browser.All(".loading-bay-crate h2 a").FirstOrDefault(a => a.Text == "Fog Signal"), "for Fog Signal").Click();
        _browser.Pick("Versions");
        _browser.See("Older documents/Fog Signal 2026-10-19_220000.otio", ".set-up-documents");
        _browser.Click("Start today's document");
        _browser.See($"Start '{DateTime.Now:yyMMdd} Fog Signal' as the current document; 1 older document goes", ".plans-tray");
        _browser.Click("Start version", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See($"{DateTime.Now:yyMMdd} Fog Signal.otio", ".set-up-documents .set-up-current");
        Assert.True(File.Exists(Path.Combine(Parent, "261019 Fog Signal", "Older documents", "261019 Fog Signal.otio")));

        _browser.Pick("Settings");
        var tempo = _browser.Field("Tempo");
        tempo.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        tempo.SendKeys("54" + OpenQA.Selenium.Keys.Tab);
        _browser.Click("Change settings", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("54 in 4/4", ".session-route");
        _browser.Pick("History");
        _browser.See("Change this session's settings", ".plans-history");
        // The list has the page to itself, and the tray lies at its foot.
        Assert.Equal(true, _browser.Script("""
            return getComputedStyle(document.querySelector('.plans-history')).maxHeight === 'none'
              && Math.abs(document.querySelector('.plans-tray').getBoundingClientRect().bottom - innerHeight) < 2;
            """));
        Assert.Empty(_browser.Troubles());
    }
}
