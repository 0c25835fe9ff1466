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
        _browser.See("Make the session folder", ".tray");
        _browser.Click("Make the session");
        _browser.See("Done.", ".tray");
        Assert.True(Directory.Exists(Path.Combine(Parent, $"The Ninth Bell {DateTime.Now:yyMMdd}", "Audio")));
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
        _browser.Click("Start the version", ".tray");
        _browser.See("Done.", ".tray");
        _browser.See($"{DateTime.Now:yyMMdd} Fog Signal.otio", ".documents .current");
        Assert.True(File.Exists(Path.Combine(Parent, "261019 Fog Signal", "Older documents", "261019 Fog Signal.otio")));

        _browser.Pick("Settings");
        var tempo = _browser.Field("Tempo");
        tempo.SendKeys(OpenQA.Selenium.Keys.Control + "a");
        tempo.SendKeys("54" + OpenQA.Selenium.Keys.Tab);
        _browser.Click("Change the settings", ".tray");
        _browser.See("Done.", ".tray");
        _browser.See("54 in 4/4", ".route");
        _browser.Pick("History");
        _browser.See("Write other settings", ".history");
        Assert.Empty(_browser.Troubles());
    }
}
