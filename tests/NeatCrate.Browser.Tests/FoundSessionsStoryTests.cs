using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>An old drive full of sessions of several programs: found, ticked, adopted together, and what one of them lacks put back and heard.</summary>
public sealed class FoundSessionsStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    /// <summary>By the address that its link leads to: rows above may still grow while drives are looked at, and a press would meet another one.</summary>
    private void OpenTheAtticDrive()
    {
        _browser.Open("/shelves");
        _browser.Open(new Uri(_browser.Wait(
            () => _browser.All(".shelves-shelf").FirstOrDefault(s => s.Text.StartsWith("Attic drive", StringComparison.Ordinal))?.FindElement(OpenQA.Selenium.By.CssSelector("a[href$='/sessions']")).GetAttribute("href"),
            "for the attic drive")!).AbsolutePath);
    }

    private void Narrow(string text) => _browser.Find("input[aria-label='Filter by folder or document']").SendKeys(text);

    /// <summary>What was packed of such a session is unpacked elsewhere, told as a copy, and adopted with nothing missing; unzip(1) and sha512sum(1) read the bundle.</summary>
    [Fact]
    public void ACompleteOneIsPackedAndArrivesWhole()
    {
        OpenTheAtticDrive();
        _browser.See("11 new sessions", ".page-head");
        _browser.Click("Tick none");
        Narrow("winter");
        _browser.Find("input[aria-label='Adopt 2023/231102 Winter Ferry']").Click();
        _browser.Click("Adopt 1 session", ".page-actions");
        _browser.See("1 session was adopted; nothing in it was changed.", ".page");
        _browser.Open(_browser.SessionOf("Winter Ferry") + "/bundle");
        _browser.Choose(".shelves-folder-picker", "Outbox");
        _browser.See("Pack ", ".plans-tray");
        _browser.Click("Pack the bundle");
        _browser.See("Done.", ".plans-tray");

        var received = Directory.CreateDirectory(Path.Combine(_browser.Shelf("Attic drive"), "From the attic")).FullName;
        Tool.Run("unzip", "-q", Assert.Single(Directory.GetFiles(_browser.Shelf("Outbox"))), "-d", received);
        var bag = Path.Combine(received, "231102 Winter Ferry");
        Tool.RunIn(bag, "sha512sum", "--strict", "--quiet", "-c", "manifest-sha512.txt");
        OpenTheAtticDrive();
        _browser.Find(".page-actions .ant-btn:not(:disabled)");
        _browser.Click("Look again");
        _browser.See("a copy of 2023/231102 Winter Ferry", ".found-sessions-found");
        _browser.Click("Tick none");
        Narrow("from the attic");
        _browser.Find("input[aria-label='Adopt From the attic/231102 Winter Ferry/data/231102 Winter Ferry']").Click();
        _browser.Click("Adopt 1 session", ".page-actions");
        _browser.See("1 session was adopted", ".page");
        _browser.Wait(() => _browser.All(".found-sessions-row").FirstOrDefault(r => r.Text.Contains("From the attic", StringComparison.Ordinal))?.FindElements(OpenQA.Selenium.By.TagName("a")).FirstOrDefault(), "for it to be known")!.Click();
        _browser.See("Everything that is named is inside, nothing is missing; 4 of 4 files are named.", ".top-strip");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>What stands outside of several sessions comes in by one press: a plan for each, and what came of each on one page.</summary>
    [Fact]
    public void WhatStandsOutsideOfManyComesInAtOnce()
    {
        _browser.Open("/");
        _browser.See("7 sessions", ".page-head");
        _browser.Click("Choose several");
        _browser.Click("Tick all 7");
        _browser.Click("Relink", ".loading-bay-chosen");
        _browser.See("a match that somebody must compare.", ".many-sessions-many");
        _browser.Open("/");
        _browser.Click("Choose several");
        _browser.Click("Tick all 7");
        _browser.Click("Copy in", ".loading-bay-chosen");
        _browser.See("Each is a plan of its own, and is undone by itself.", ".page-head");
        _browser.Wait(() => _browser.All(".many-sessions-many summary") is [var remarks, ..] ? remarks : null, "for remarks")!.Click();
        _browser.Find(".page-actions .ant-btn-primary:not(:disabled)").Click();
        _browser.See(" done", ".page .ant-alert");
        Assert.True(File.Exists(Path.Combine(_browser.Shelf("Session drive"), "Tove Lindqvist", "261110 Breakwater", "Audio", "tide.wav")));
        _browser.Click("Report", ".many-sessions-many");
        _browser.See("copy", ".page");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Of a hundred crates only those near what is in sight are drawn, wherever the page stands; Tab passes through all of them; the line above narrows them; on paper stand all.</summary>
    [Fact]
    public async Task OfManyCratesOnlyThoseNearAreDrawn()
    {
        const int Many = 100;
        var cancel = TestContext.Current.CancellationToken;
        var drive = _browser.Scratch("many");
        var sound = Directory.GetFiles(_browser.Shelf("Session drive"), "*.wav", SearchOption.AllDirectories).MinBy(f => new FileInfo(f).Length)!;
        var paths = Enumerable.Range(0, Many).Select(n => $"song {n:000}").ToArray();
        foreach (var path in paths)
        {
            var folder = Directory.CreateDirectory(Path.Combine(drive, path)).FullName;
            File.Copy(sound, Path.Combine(folder, "in.wav"));
            await File.WriteAllTextAsync(Path.Combine(folder, "song.loft"), $"<s f=\"in.wav\"/><!-- {path} -->", cancel);
        }
        var shelfId = await _browser.App.AddShelf("Many", "SessionDrive", drive, cancel);
        await _browser.App.JobOver(await _browser.App.Post("/api/adopt/many", new { shelfId, paths }, cancel), cancel);
        _browser.Open("/");
        _browser.See("107 sessions", ".page-head");
        // Down to the end in twenty steps, a moment each: what is in sight is there, and never all.
        var (most, height) = _browser.ScriptAsync("""
            const done = arguments[arguments.length - 1];
            const page = document.querySelector('main');
            let [most, n] = [0, 0];
            const step = () => {
              most = Math.max(most, document.querySelectorAll('.loading-bay-crate').length);
              if (n++ === 20) { done([most, page.scrollHeight]); return; }
              page.scrollTop = n * (page.scrollHeight - page.clientHeight) / 20;
              setTimeout(step, 60);
            };
            step();
            """) is IReadOnlyList<object> and [long drawn, long high] ? (drawn, high) : default;
        Assert.InRange(most, 12, 72);
        // What is not drawn takes its room, so that the page is as long as all of them.
        Assert.InRange(height, 107 * 70, 107 * 160);
        Assert.Contains(_browser.All(".loading-bay-crate"), c => c.Text.Contains("Fog Signal", StringComparison.Ordinal));
        // From the last crate of a block Tab goes on in the next, though that was out of sight.
        var reached = (long)_browser.ScriptAsync("""
            const done = arguments[arguments.length - 1];
            const page = document.querySelector('main');
            page.scrollTop = 0;
            setTimeout(() => {
              const block = document.querySelector('.loading-bay-crates');
              const links = block.querySelectorAll('.loading-bay-crate a');
              links[links.length - 1].focus();
              setTimeout(() => done(document.querySelectorAll('.loading-bay-crates').length), 200);
            }, 200);
            """)!;
        Assert.True(reached > 1, "The next block is not there to be reached.");
        // On paper all of them stand.
        Assert.Equal(107L, _browser.Script("window.dispatchEvent(new Event('beforeprint')); return document.querySelectorAll('.loading-bay-crate').length;"));
        // The line above shows those that it tells of, and all of them again.
        _browser.Wait(() => _browser.All(".page-head p button").FirstOrDefault(b => b.Text.EndsWith("files only here", StringComparison.Ordinal)), "for the sum").Click();
        _browser.Wait(() => _browser.All(".page-head button[aria-pressed=true]").Any(o => o.Text.Contains("only here", StringComparison.Ordinal)) ? this : null, "for those that are only here");
        _browser.See("only here", ".loading-bay-arrange");
        _browser.All(".page-head p button")[0].Click();
        _browser.SeeNoMore("only here", ".loading-bay-arrange");
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void SixOfTheAtticDriveAreAdoptedAndWhatOneLacksComesBack()
    {
        OpenTheAtticDrive();
        _browser.See("11 new sessions, 619 kB; 2 of them lack files; 1 is a copy or the like.", ".page-head");
        _browser.See("2 files are missing.", ".found-sessions-found");
        _browser.Find("input[aria-label='Adopt 2019/190921 Second Lantern']:checked");
        _browser.Find("input[aria-label='Adopt 2026/261019 Fog Signal']:not(:checked)");

        // Six by hand: none, two by the filter, then a run of four with Shift.
        _browser.Click("Tick none");
        _browser.Find(".page-actions .ant-btn-primary:disabled");
        _browser.Pick("lack files 2");
        _browser.Click("Tick all");
        _browser.Pick("All 12");
        _browser.Find("input[aria-label='Adopt 2020/200620 Rope Walk']").Click();
        _browser.ClickWith(OpenQA.Selenium.Keys.Shift, _browser.Find("input[aria-label='Adopt 2021/211108 Brass Weather']"));
        _browser.Click("Adopt 6 sessions", ".page-actions");
        _browser.See("6 sessions were adopted; nothing in them was changed.", ".page");
        _browser.See("5 new sessions", ".page-head");
        _browser.See("6 known already", ".page-head");

        _browser.Click("To the loading bay");
        _browser.See("13 sessions", ".page-head");
        _browser.Click("Second Lantern");
        _browser.See("2 files are missing.", ".top-strip");
        var lantern = Path.Combine(_browser.Shelf("Attic drive"), "2019", "190921 Second Lantern");
        Assert.False(File.Exists(Path.Combine(lantern, "Sounds", "Bell 01.wav")));
        _browser.Open(_browser.SessionOf("Second Lantern") + "/relink");
        _browser.Click("Use all 2");
        _browser.See("put back 2", ".plans-tray");
        _browser.Click("Relink", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.True(File.Exists(Path.Combine(lantern, "Sounds", "Bell 01.wav")));
        _browser.See("Everything that is named is inside, nothing is missing; 4 of 4 files are named.", ".top-strip");

        // All six of that drive at once: a full backup of each.
        _browser.Open("/");
        _browser.See("13 sessions", ".page-head");
        _browser.Find("select[aria-label=Shelf]").SendKeys("Attic drive");
        _browser.Wait(() => _browser.All(".loading-bay-crate").Count == 6 ? this : null, "for those of the attic drive");
        _browser.Click("Choose several");
        _browser.Click("Tick all 6");
        _browser.Click("Full backup of 6 sessions");
        _browser.See("6 full backups begun.");
        _browser.Wait(() => _browser.All(".loading-bay-crate").Count == 6 && _browser.All(".loading-bay-crate .loading-bay-saved").All(s => s.Text.Contains("full just now", StringComparison.Ordinal)) ? this : null, "for all six to be backed up");
        Assert.Equal(6, Directory.GetDirectories(Path.Combine(_browser.Shelf("Vault"), "Neat Crate vault", "backups")).Count(f => !f.EndsWith("Low Water", StringComparison.Ordinal) && !f.EndsWith("Fog Signal", StringComparison.Ordinal)));
        Assert.Empty(_browser.Troubles());
    }
}
