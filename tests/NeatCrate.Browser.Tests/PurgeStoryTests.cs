using OpenQA.Selenium;

namespace NeatCrate.Browser.Tests;

/// <summary>What is dead weight goes without fear: judged by ear and keyboard, set aside, put back, emptied, trimmed, refused.</summary>
public sealed class PurgeStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Folder => Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay", "261012 The Ninth Bell");

    private int Takes => Directory.GetFiles(Path.Combine(Folder, "Audio"), "*.wav").Length;

    private IWebElement Grid => _browser.Find("[role=grid]");

    private IWebElement Row(string name) =>
        _browser.Wait(() => _browser.All(".files-rows .files-row[id]").FirstOrDefault(r => r.Text.StartsWith(name, StringComparison.Ordinal)), $"for the row of {name}");

    private void Tick(string group) =>
        _browser.Wait(() => _browser.All($"[aria-label='Remove: {group}']") is [var box, ..] ? box : null, $"for '{group}'").FindElement(By.XPath("./..")).Click();

    private void Apply()
    {
        _browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.See("Done.", ".plans-tray");
    }

    /// <summary>A vocal day of 120 takes: one tick, some kept by ear and by key, set aside, and all of it put back.</summary>
    [Fact]
    public void AVocalDayIsPurgedByEarAndKeyboardAndPutBack()
    {
        _browser.Open(_browser.SessionOf("The Ninth Bell") + "/purge");
        _browser.See("113 files, 44.1 MB, could go", ".page-head");
        _browser.See("2 keepers stay unless you tick them", ".purge-groups");
        var all = Takes;
        Tick("Takes nobody placed");
        _browser.See("Set aside 111 files, 42.9 MB", ".plans-tray");
        // The scales moved.
        _browser.See("+ 42.9 MB set aside", ".purge-scales");
        // The first is heard, kept, and the next follows; the one after goes.
        _browser.Script("document.querySelector('.files-scroller').scrollTop = 0");
        Row("Cello 01.wav").Click();
        Grid.SendKeys(" ");
        _browser.See("Cello 01.wav", ".listening-sound-in-hand");
        _browser.Keys("k");
        _browser.See("Cello 02.wav", ".listening-sound-in-hand");
        _browser.Keys("l");
        _browser.See("Cello 03.wav", ".listening-sound-in-hand");
        _browser.See("Set aside 110 files", ".plans-tray");
        _browser.See("“Cello 06.wav” is kept", ".files-file-tag");
        // The last tick is taken back and made again; what was set aside before it is nobody's concern.
        _browser.Chord(Keys.Control, "z");
        _browser.See("Set aside 111 files", ".plans-tray");
        _browser.Chord(Keys.Control, Keys.Shift, "z");
        _browser.See("Set aside 110 files", ".plans-tray");
        _browser.Keys(" ");
        Apply();
        Assert.Equal(all - 110, Takes);
        Assert.True(File.Exists(Path.Combine(Folder, "Audio", "Cello 01.wav")));
        Assert.True(File.Exists(Path.Combine(Folder, "Set aside", "Audio", "Cello 02.wav")));
        _browser.See("110 set aside", ".session-route");
        _browser.Pick("Set aside (110)");
        _browser.See("Put 110 files", ".plans-tray");
        Apply();
        Assert.Equal(all, Takes);
        Assert.False(Directory.Exists(Path.Combine(Folder, "Set aside")));
        _browser.See("Nothing is set aside.", ".page-head");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>What yesterday's version or another song needs is not among what could go, and one sees why.</summary>
    [Fact]
    public void WhatIsNeededElsewhereStaysAndSaysWhy()
    {
        _browser.Open(_browser.SessionOf("The Ninth Bell") + "/purge");
        _browser.See("MB, could go", ".page-head");
        _browser.Wait(() => _browser.All(".ant-checkbox-wrapper").FirstOrDefault(c => c.Text == "also what stays"), "for the choice").Click();
        _browser.Find("input[aria-label='Filter files']").SendKeys("Voice 20");
        _browser.See("used by another session: '261005 Low Water'", ".files-rows");
        var filter = _browser.Find("input[aria-label='Filter files']");
        filter.SendKeys(Keys.Control + "a");
        filter.SendKeys("Voice 09");
        _browser.See("placed in an older version: 'The Ninth Bell 2026-10-11_231502'", ".files-rows");
        Assert.Empty(_browser.All(".files-rows .files-row input[type=checkbox]:not(:disabled)"));
        // The one render goes only by name, and only once somebody said who opens the session next.
        filter.SendKeys(Keys.Control + "a");
        filter.SendKeys("print");
        Row("Bells (print).wav").FindElement(By.CssSelector("input[type=checkbox]")).Click();
        _browser.See("Does the next person own the instruments?", ".plans-tray");
        Assert.False(_browser.Find(".plans-tray .ant-btn-primary").Enabled);
        _browser.Wait(() => _browser.All(".ant-checkbox-wrapper").FirstOrDefault(c => c.Text.StartsWith("The next person owns", StringComparison.Ordinal)), "for the answer").Click();
        _browser.See("Set aside 1 file", ".plans-tray");
        _browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>A vocal day is judged by keys from the first take to the last: the one that is judged is in sight each time, and the two that follow it, while the tag opens beside the list and the plan grows below it.</summary>
    [Fact]
    public void WhatIsJudgedIsAlwaysInSight()
    {
        _browser.Open(_browser.SessionOf("The Ninth Bell") + "/purge");
        _browser.See("113 files, 44.1 MB, could go", ".page-head");
        // The list gets the room: ten rows at the size that must work well.
        // What passes by, as word that the machine is slow, goes before they are counted.
        _browser.Wait(() => (long)_browser.Script("return Math.floor(document.querySelector('.files-scroller').clientHeight / 32)")! is >= 10 and <= 100 ? this : null, "for ten rows");
        Row("Cello 01.wav").Click();
        var seen = new HashSet<string>();
        for (var n = 0; n < 120; n++)
        {
            var name = (string)_browser.Wait(
                () => _browser.Script("""
                    const row = document.querySelector('.files-row.files-active');
                    const box = document.querySelector('.files-scroller').getBoundingClientRect();
                    const at = row?.getBoundingClientRect();
                    const head = document.querySelector('.files-head').getBoundingClientRect().height;
                    return at && at.top >= box.top + head - 1 && at.bottom <= box.bottom + 1 ? row.querySelector('.files-c-name').textContent : null;
                    """) as string,
                $"for the row that is judged to be in sight, after {n}");
            seen.Add(name);
            _browser.Keys(n % 3 == 0 ? "k" : "l");
        }
        Assert.InRange(seen.Count, 110, 120);
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>A document that nobody can read in the folder: nothing is set aside, and one hears why.</summary>
    [Fact]
    public void APurgeIsRefusedWithTheReason()
    {
        var session = _browser.SessionOf("The Ninth Bell");
        File.WriteAllText(Path.Combine(Folder, "bell sketch.xyz"), "of another program");
        _browser.Open(session + "/purge");
        _browser.See("'bell sketch.xyz' cannot be read, so nobody can say what it uses.", ".page");
        Assert.All(_browser.All(".purge-groups input[type=checkbox]"), c => Assert.False(c.Enabled));
        _browser.See("Nothing is set aside here.", ".plans-tray");
        // Moved out of the folder, it stands in nothing's way.
        File.Delete(Path.Combine(Folder, "bell sketch.xyz"));
        _browser.See("Tick a group", ".plans-tray");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Emptied: the warning says what cannot be undone and what no backup holds; the history's report says it afterwards.</summary>
    [Fact]
    public void WhatIsHeldIsEmptiedWithTheWarningAndReportedOn()
    {
        var session = _browser.SessionOf("The Ninth Bell");
        _browser.Open(session + "/purge");
        _browser.See("MB, could go", ".page-head");
        Tick("Tried and left");
        _browser.See("Set aside 1 file", ".plans-tray");
        Apply();
        _browser.Pick("Set aside (1)");
        _browser.Pick("Empty");
        _browser.See("This cannot be undone: 1 file will be gone for good.", ".plans-tray");
        _browser.See("No backup holds one of them", ".plans-tray");
        _browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
        _browser.Click("Delete for good", ".plans-tray");
        _browser.See("Done. Delete 1 file for good", ".plans-tray");
        Assert.False(File.Exists(Path.Combine(Folder, "Set aside", "Audio", "rope creak.wav")));
        _browser.Open(session + "/set-up");
        _browser.Pick("History");
        _browser.Find(".plans-history a[href*=report]").Click();
        _browser.See("rope creak.wav", ".page");
        _browser.See("delete for good", ".page");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Trimmed: drawn first, handles changed, applied to a copy; the session itself is left as it is.</summary>
    [Fact]
    public void FilesAreTrimmedOnACopy()
    {
        _browser.Open(_browser.SessionOf("The Ninth Bell") + "/purge");
        _browser.See("MB, could go", ".page-head");
        _browser.Pick("Trim");
        _browser.See("5 of 6 files that clips play can be trimmed", ".page");
        // A line has no height, and so is not displayed to whoever asks that way.
        _browser.Wait(() => _browser.All(".listening-strike") is [var struck, ..] ? struck : null, "for what goes to be struck");
        _browser.See("8.6 MB to 7.6 MB", ".plans-tray");
        var handles = _browser.Find(".purge-trim input[role=spinbutton]");
        handles.SendKeys(Keys.Control + "a");
        handles.SendKeys("0.5" + Keys.Tab);
        _browser.See("8.6 MB to 6.", ".plans-tray");
        var before = Directory.GetFiles(Folder, "*", SearchOption.AllDirectories).Where(f => !f.Contains(".waveforms", StringComparison.Ordinal)).ToDictionary(f => f, f => new FileInfo(f).LastWriteTimeUtc);
        Apply();
        var copy = Path.Combine(_browser.Shelf("Outbox"), "261012 The Ninth Bell trimmed", "Audio", "Voice 11.wav");
        Assert.InRange(new FileInfo(copy).Length, 1_000_000, 1_400_000);
        Assert.Equal(before, Directory.GetFiles(Folder, "*", SearchOption.AllDirectories).Where(f => !f.Contains(".waveforms", StringComparison.Ordinal)).ToDictionary(f => f, f => new FileInfo(f).LastWriteTimeUtc));
        Assert.Empty(_browser.Troubles());
    }
}
