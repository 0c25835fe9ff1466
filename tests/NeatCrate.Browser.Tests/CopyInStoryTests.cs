using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>The Copy-in station in the browser: by place, from the catalogue, and from the user's own computer.</summary>
public sealed class CopyInStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Audio => Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay", "261014 Net Mender", "Audio");

    private void OpenStation()
    {
        _browser.Open("/");
        _browser.Click("Copy in", ".loading-bay-crate");
        _browser.See("Copy 3 files", ".plans-tray");
    }

    [Fact]
    public void APlaceIsLeftOutByAMarkThatIsRememberedAndTheRestIsCopiedInAndTakenBack()
    {
        OpenStation();
        _browser.Wait(() => _browser.All(".copy-in-origins li").FirstOrDefault(l => l.Text.StartsWith("House kit", StringComparison.Ordinal)), "for the place")
            .FindElement(OpenQA.Selenium.By.CssSelector(".ant-checkbox")).Click();
        _browser.See("left out: this session depends on it", ".copy-in-origins");
        _browser.See("Copy 2 files, 1.5 MB, from 2 shelves; document re-pointed; originals untouched.", ".plans-tray");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("1 left out by choice", ".session-route");
        _browser.See("Everything is inside but 1 file left outside by choice, on 'House kit'", ".top-strip-open-label");

        // Another day: the mark is still there.
        _browser.Open("/");
        _browser.See("left outside by choice, on 'House kit'", ".loading-bay-crate");
        _browser.Open(Session());
        _browser.See("left out: this session depends on it", ".copy-in-origins");
        _browser.See("Every file outside is left out.", ".plans-tray");
        _browser.Chord(OpenQA.Selenium.Keys.Control, "z");
        _browser.See("Undo: Copy 2 files", ".plans-tray");
        _browser.Chord(OpenQA.Selenium.Keys.Control, OpenQA.Selenium.Keys.Enter);
        _browser.See("2 outside, 1.5 MB", ".session-route");
        Assert.False(File.Exists(Path.Combine(Audio, "tide.wav")));

        // The file alone, against the mark of its place.
        _browser.Click("Close", ".plans-tray");
        _browser.Find("[aria-label='Mark bottle: high?.wav']").Click();
        _browser.See("Copy 3 files", ".plans-tray");
        // The last mark is nearer than the last plan.
        _browser.Find("[role=grid]").SendKeys(OpenQA.Selenium.Keys.Escape);
        _browser.Chord(OpenQA.Selenium.Keys.Control, "z");
        _browser.See("Copy 2 files", ".plans-tray");
        _browser.Chord(OpenQA.Selenium.Keys.Control, OpenQA.Selenium.Keys.Shift, "z");
        _browser.See("Copy 3 files", ".plans-tray");
        Assert.Empty(_browser.Troubles());
    }

    private string Session() => new Uri(_browser.Wait(() => _browser.All(".loading-bay-crate h2 a").FirstOrDefault(a => a.Text == "Net Mender"), "for the session").GetAttribute("href")!).AbsolutePath + "/copy-in";

    [Fact]
    public void ASampleIsFoundHeardAndTakenIn()
    {
        OpenStation();
        _browser.Pick("Something new");
        _browser.See("bell buoy.wav", "[data-list=catalogue]");
        _browser.Keys("/");
        _browser.Keys("card RoPe");
        _browser.SeeNoMore("bell buoy.wav", "[data-list=catalogue]");
        _browser.See("rope creak", "[data-list=catalogue]");
        _browser.Wait(() => _browser.All("[data-list=catalogue] .files-rows .files-row").FirstOrDefault(r => r.Text.StartsWith("rope creak", StringComparison.Ordinal)), "for the sample").Click();
        _browser.See("Listen", ".files-file-tag");
        _browser.Keys(" ");
        _browser.See("Pause", ".files-file-tag");
        _browser.Find("[data-list=catalogue] .files-row.files-playing");
        _browser.Keys(" ");
        _browser.See("Listen", ".files-file-tag");
        _browser.Keys(OpenQA.Selenium.Keys.Enter);
        _browser.See("Copy 1 file", ".plans-tray");
        _browser.Pick("place on track");
        // The first time that is free is proposed; where somebody types one that is taken, it is one press away.
        _browser.See("from 0:13.0; originals untouched.", ".plans-tray");
        _browser.Find("[aria-label='Time on the track']").SendKeys(OpenQA.Selenium.Keys.Control + "a");
        _browser.Find("[aria-label='Time on the track']").SendKeys("0:00");
        _browser.See("plays on", ".plans-tray");
        _browser.Click("Place at 0:13");
        _browser.See("from 0:13.0; originals untouched.", ".plans-tray");
        _browser.Find("[aria-label='Time on the track']").SendKeys(OpenQA.Selenium.Keys.Control + "a");
        _browser.Find("[aria-label='Time on the track']").SendKeys("2:30.5");
        _browser.See("from 2:30.5; originals untouched.", ".plans-tray");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.Contains(Directory.EnumerateFiles(Audio), f => Path.GetFileName(f).StartsWith("rope creak", StringComparison.Ordinal));
        _browser.Click("Undo", ".plans-tray");
        _browser.See("Undo:", ".plans-tray");
        _browser.Click("Undo", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.DoesNotContain(Directory.EnumerateFiles(Audio), f => Path.GetFileName(f).StartsWith("rope creak", StringComparison.Ordinal));
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Nobody looks for the right station with a file in hand: wherever it falls it waits at Copy in, and outside of a session it is said where it can go.</summary>
    [Fact]
    public void AFileThatIsDroppedAnywhereWaitsAtCopyIn()
    {
        const string drop = """
            const dropped = new DataTransfer();
            dropped.items.add(new File(['a letter'], 'letter.txt'));
            const over = new DragEvent('dragover', { dataTransfer: dropped, bubbles: true, cancelable: true });
            document.querySelector('.page').dispatchEvent(over);
            window.drop = () => document.querySelector('.page').dispatchEvent(new DragEvent('drop', { dataTransfer: dropped, bubbles: true, cancelable: true }));
            """;
        _browser.Open(_browser.SessionOf("The Ninth Bell") + "/purge");
        _browser.See("could go", ".page-head");
        _browser.Script(drop);
        _browser.See("Drop to bring them to “The Ninth Bell”", ".copy-in-drop-over");
        _browser.Script("window.drop()");
        _browser.See("'letter.txt' is no media file", ".copy-in-drop-zone");
        Assert.EndsWith("/copy-in", _browser.Place, StringComparison.Ordinal);
        Assert.Empty(_browser.All(".copy-in-drop-over"));
        _browser.Open("/");
        _browser.See("need you", ".page-head");
        _browser.Script(drop + "window.drop();");
        _browser.See("Nothing was taken in. Open the session that these files belong to");
        Assert.All(_browser.Troubles(), t => Assert.Contains("409", t, StringComparison.Ordinal));
    }

    [Fact]
    public void AFileIsDroppedFromTheComputer()
    {
        var folder = _browser.Scratch("desktop");
        var kept = Path.Combine(folder, "oar: thump.wav");
        Tool.Run("sox", "-n", "-r", "44100", "-b", "16", "-c", "1", kept, "synth", "2", "sine", "90");
        OpenStation();
        _browser.Pick("Something new");
        _browser.Find(".copy-in-drop-zone");
        // The page gets what a drop brings it.
        _browser.Script($$"""
            const bytes = Uint8Array.from(atob('{{Convert.ToBase64String(File.ReadAllBytes(kept))}}'), c => c.charCodeAt(0));
            const dropped = new DataTransfer();
            dropped.items.add(new File([bytes], 'oar: thump.wav'));
            dropped.items.add(new File(['not a sound'], 'letter.txt'));
            document.querySelector('.copy-in-drop-zone').dispatchEvent(new DragEvent('drop', { dataTransfer: dropped, bubbles: true, cancelable: true }));
            """);
        _browser.See("oar thump.wav", ".copy-in-drop-zone");
        _browser.See("'letter.txt' is no media file", ".copy-in-drop-zone");
        _browser.See("1.47 semitones sharp", ".plans-tray");
        _browser.Wait(() => _browser.All(".copy-in-import-ways label").FirstOrDefault(l => l.Text == "1 file at another rate: add a copy at 48 kHz"), "for the offer to convert").Click();
        _browser.See("1 converted copy", ".plans-tray");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.Equal(File.ReadAllBytes(kept), File.ReadAllBytes(Path.Combine(Audio, "oar thump.wav")));
        Assert.Contains("48000", Tool.Run("soxi", "-r", Path.Combine(Audio, "oar thump 48k.wav")), StringComparison.Ordinal);
        // The one refusal is of the letter, and is meant to be.
        Assert.All(_browser.Troubles(), t => Assert.Contains("409", t, StringComparison.Ordinal));
    }
}
