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
        _browser.Find(".name-field").SendKeys("The Ninth Bell");
        _browser.Find("[aria-label='Move working title left']").Click();
        _browser.See($"The Ninth Bell {DateTime.Now:yyMMdd}", ".preview");
        _browser.Field("Tracks").SendKeys("Voice,Cello,Hurdy-gurdy,");
        _browser.See("25.9 MB a minute", ".budget");
        _browser.See("after 8:17:06", ".budget");
        _browser.Field("Save these choices as").SendKeys("Loft quartet");
        _browser.Click("Save", ".preset-bar");
        _browser.See("Loft quartet", ".preset-bar");
        _browser.Click("Make default", ".preset-bar");
        _browser.See("Loft quartet (studio default)", ".preset-bar");

        _browser.Open("/new");
        _browser.See("Loft quartet (studio default)", ".preset-bar");
        _browser.See("25.9 MB a minute", ".budget");
        _browser.Click("Lamplighters of Orrin Quay", ".folder-picker");
        TheTreeIsNamedInPlace();
        _browser.Click("Make the session");
        _browser.See("Done.", ".tray");
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
        _browser.See("The sub-folder 'Notes' stands in the tree twice.", ".tray");
        audio.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        audio.SendKeys("Takes");
        _browser.Click("Add a folder", ".tree");
        _browser.Find("[aria-label='Folder of your own 2']").SendKeys("Notes/Lyrics");
        _browser.See("with 6 sub-folders", ".tray");
    }

    [Fact]
    public void TheNumberOfTracksAndTheirMirrorAreSetUp()
    {
        _browser.Open("/new");
        _browser.Find(".name-field").SendKeys("Fog Signal");
        var number = _browser.Field("Number of tracks");
        number.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        number.SendKeys("8" + OpenQA.Selenium.Keys.Tab);
        _browser.See("Track 8", ".track-fields");
        // 8 mono tracks at 48 kHz and 24 bit: 8 x 8.64 MB a minute.
        _browser.See("69.1 MB a minute", ".budget");
        _browser.ChooseFor("Second copy of takes on", "Vault");
        _browser.Click("Make the session");
        _browser.Click("Open it");
        _browser.See("no takes yet", ".route");
        _browser.Keys("2");
        _browser.See("Vault; on the same drive: no protection if it fails", ".deck");
        Assert.Equal(8, _browser.All(".armed li").Count);
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void ANewVersionIsStartedAndTheOlderOnePutAway()
    {
        _browser.Open("/");
        _browser.Wait(() => _browser.All(".crate h2 a").FirstOrDefault(a => a.Text == "Fog Signal"), "for Fog Signal").Click();
        _browser.Pick("Versions");
        _browser.See("Older documents/Fog Signal 2026-10-19_220000.otio", ".documents");
        _browser.Click("Start today's document");
        _browser.See($"Start '{DateTime.Now:yyMMdd} Fog Signal' as the current document; 1 older document goes", ".tray");
        _browser.Click("Start version", ".tray");
        _browser.See("Done.", ".tray");
        _browser.See($"{DateTime.Now:yyMMdd} Fog Signal.otio", ".documents .current");
        Assert.True(File.Exists(Path.Combine(Parent, "261019 Fog Signal", "Older documents", "261019 Fog Signal.otio")));

        _browser.Pick("Settings");
        var tempo = _browser.Field("Tempo");
        tempo.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        tempo.SendKeys("54" + OpenQA.Selenium.Keys.Tab);
        _browser.Click("Change settings", ".tray");
        _browser.See("Done.", ".tray");
        _browser.See("54 in 4/4", ".route");
        _browser.Pick("History");
        _browser.See("Change this session's settings", ".history");
        // The list has the page to itself, and the tray lies at its foot.
        Assert.Equal(true, _browser.Script("""
            return getComputedStyle(document.querySelector('.history')).maxHeight === 'none'
              && Math.abs(document.querySelector('.tray').getBoundingClientRect().bottom - innerHeight) < 2;
            """));
        Assert.Empty(_browser.Troubles());
    }
}
