using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;
using OpenQA.Selenium;

namespace NeatCrate.Browser.Tests;

/// <summary>What is missing is found, compared, and brought back.</summary>
public sealed class RelinkStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private IWebElement Row(string name) =>
        _browser.Wait(() => _browser.All(".files-rows .files-row[id]").FirstOrDefault(r => r.Text.StartsWith(name, StringComparison.Ordinal)), $"for the row of {name}");

    private void Scan(string shelf)
    {
        _browser.Open("/shelves");
        var row = _browser.Wait(() => _browser.All(".shelves-shelf").FirstOrDefault(s => s.Text.StartsWith(shelf, StringComparison.Ordinal)), $"for {shelf}");
        row.FindElements(By.TagName("button")).First(b => b.Text == "Scan").Click();
        _browser.Wait(() => _browser.All(".shelves-shelf").FirstOrDefault(s => s.Text.StartsWith(shelf, StringComparison.Ordinal) && s.Text.Contains("scanned just now", StringComparison.Ordinal)), "for the scan");
    }

    /// <summary>The folder was renamed: one line brings back what lay in it, here and in the other session, and one undo takes both back.</summary>
    [Fact]
    public void ARenamedFolderComesBackByOneLineInTwoSessions()
    {
        // The loading bay leads here by the button on its crate.
        _browser.Open("/");
        _browser.Click("Find the missing files", ".loading-bay-crate:has([aria-label='More for 261008 Tar and Twine'])");
        _browser.See("16 missing: 12 found for certain", ".page-head");
        _browser.See("3 files are on 'Old laptop', which is away.", ".page-head");
        _browser.See("12 files moved from Loft samples: Bells to Loft samples: Tuned bells", ".relink-together");
        // What is certain is taken already; the other session joins by one mark.
        _browser.See("Relink 12 files; copy in 12", ".plans-tray");
        _browser.Wait(() => _browser.All(".relink-together .ant-checkbox-wrapper").FirstOrDefault(c => c.Text == "Also relink 4 in Fog Signal"), "for the other session").Click();
        _browser.See("Relink 16 files in 2 sessions; copy in 16", ".plans-tray");
        _browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.See("Done.", ".plans-tray");
        _browser.See("4 missing:", ".page-head");
        _browser.See("4 missing, 3 away", ".session-route");
        var session = Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay");
        Assert.Equal(12, Directory.GetFiles(Path.Combine(session, "261008 Tar and Twine", "Audio"), "small bell*").Length);
        Assert.Equal(4, Directory.GetFiles(Path.Combine(session, "261019 Fog Signal", "Audio"), "small bell*").Length);
        _browser.Click("Undo", ".plans-tray");
        _browser.See("Undo: Relink 16 files in 2 sessions", ".plans-tray");
        _browser.Click("Undo", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("16 missing: 12 found for certain", ".page-head");
        Assert.Empty(Directory.GetFiles(Path.Combine(session, "261008 Tar and Twine", "Audio"), "small bell*"));
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>The same name, as long, and another sound: it is never taken by itself, the evidence says why, it is heard, and left.</summary>
    [Fact]
    public void AnImpostorIsRefusedByEarAndEye()
    {
        _browser.Open(_browser.SessionOf("Tar and Twine") + "/relink");
        _browser.See("16 missing: 12 found for certain", ".page-head");
        // Whatever takes many at once takes what is certain; what is taken unheard by a hand of its own is named in the plan.
        _browser.See("Clear 12 certain", ".files-rows");
        var all = _browser.Find("[aria-label='Mark all shown files']");
        all.Click();
        _browser.SeeNoMore("Relink 12 files", ".plans-tray");
        _browser.Find("[aria-label='Mark all shown files']").Click();
        _browser.See("Relink 12 files", ".plans-tray");
        _browser.Script("document.querySelector('.files-scroller').scrollTop = 0");
        _browser.Keys("/");
        _browser.Keys("machines/winch");
        Row("winch.wav").FindElement(By.CssSelector("input[type=checkbox]")).Click();
        _browser.See("Relink 13 files", ".plans-tray");
        _browser.See("1 file is not certain, and nobody compared it: 'winch.wav'.", ".plans-tray");
        Row("winch.wav").FindElement(By.CssSelector("input[type=checkbox]")).Click();
        _browser.See("Relink 12 files", ".plans-tray");
        _browser.Keys("/");
        _browser.Chord(Keys.Control, "a");
        _browser.Keys("winch");
        _browser.See("2 of 19 files", ".files-list-count");
        _browser.Keys(Keys.Escape);
        _browser.Keys("/");
        _browser.Keys("machines/winch");
        var row = Row("winch.wav");
        Assert.Contains("to compare", row.Text, StringComparison.Ordinal);
        Assert.False(row.FindElement(By.CssSelector("input[type=checkbox]")).Selected);
        row.Click();
        _browser.See("winch.wav", ".relink-tags");
        string Line(string title) => _browser.Wait(() => _browser.All(".relink-evidence tr").FirstOrDefault(r => r.Text.StartsWith(title, StringComparison.Ordinal)), $"for the line {title}").Text;
        Assert.Contains("agrees", Line("Name"), StringComparison.Ordinal);
        Assert.Contains("agrees", Line("Length"), StringComparison.Ordinal);
        Assert.Contains("differs", Line("Folder"), StringComparison.Ordinal);
        Assert.Contains("not known", Line("Sound"), StringComparison.Ordinal);
        _browser.Click("Listen", ".relink-tags");
        _browser.See("Pause", ".relink-tags");
        _browser.Click("Pause", ".relink-tags");
        _browser.See("Relink 12 files", ".plans-tray");
        // It stays on the record, and asks no more.
        _browser.Click("Give up on this file", ".relink-tags");
        _browser.Find("[aria-label=Note]").SendKeys("The winch was scrapped.");
        _browser.Click("Mark it as gone", ".ant-popover");
        _browser.See("given up: The winch was scrapped.", ".files-rows");
        _browser.See("1 left as it is", ".page-head");
        _browser.Click("Ask again", ".relink-tags");
        _browser.SeeNoMore("left as it is", ".page-head");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Twenty pairs of which none is certain, judged by keys alone: each decision leads to the next pair, wherever in the list it stands.</summary>
    [Fact]
    public async Task TwentyPairsAreJudgedByKeys()
    {
        const int pairs = 20;
        var cancel = TestContext.Current.CancellationToken;
        var folder = Path.Combine(_browser.Shelf("Session drive"), "261102 Pairs");
        var names = Enumerable.Range(1, pairs).Select(n => $"oar {n:00}.wav").ToList();
        var document = SessionDocument.Create(Guid.NewGuid(), "261102 Pairs", new SessionSettings(), SessionLayout.Default, ["Oars"]);
        Directory.CreateDirectory(Path.Combine(folder, "Audio"));
        var library = Directory.CreateDirectory(Path.Combine(_browser.Shelf("Loft samples"), "Boats")).FullName;
        foreach (var (n, name) in names.Index())
        {
            document.PlaceClip("Oars", new ClipToPlace(name, $"Audio/{name}", 48000, 48000, 0, 48000), ExactTime.From(n, 1));
            Tool.Run("sox", "-n", "-r", "48000", "-b", "16", "-c", "1", Path.Combine(library, name), "synth", "1", "sine", $"{200 + (10 * n)}");
        }
        File.WriteAllBytes(Path.Combine(folder, "261102 Pairs.otio"), document.ToUtf8());
        string Shelf(System.Text.Json.Nodes.JsonArray all, string name) => all.Single(s => s!["name"]!.GetValue<string>() == name)!["id"]!.GetValue<string>();
        var shelves = (await _browser.App.Get("/api/shelves", cancel)).AsArray();
        await _browser.App.Scan(Shelf(shelves, "Loft samples"), cancel);
        var id = await _browser.App.Adopt(Shelf(shelves, "Session drive"), "261102 Pairs", cancel);

        _browser.Open($"/sessions/{id}/relink");
        Row(names[0]).Click();
        string Head() => _browser.Find(".relink-tags-head h2").Text;
        void At(string name) => _browser.Wait(() => Head() == name ? this : null, $"for {name}");
        At(names[0]);
        _browser.See($"Compare next ({pairs - 1})", ".relink-tags-head");
        foreach (var (n, name) in names.Index())
        {
            At(name);
            // The one that is judged is never judged unseen.
            Assert.Equal(true, _browser.Script("""
                const [row, box] = [document.querySelector('.files-row.files-active'), document.querySelector('.files-scroller')].map(e => e.getBoundingClientRect());
                return row.top >= box.top && row.bottom <= box.bottom + 1;
                """));
            // Every fourth is another sound, heard and left.
            if (n % 4 == 3)
            {
                _browser.Keys("b");
                _browser.See("Pause", ".relink-tags");
                _browser.Keys("b");
                _browser.Keys("l");
            }
            else
            {
                _browser.Keys("k");
            }
        }
        _browser.See("Relink 15 files; copy in 15", ".plans-tray");
        // Each had both in sight: the plan names none as not compared.
        Assert.DoesNotContain("nobody compared", _browser.Find(".plans-tray").Text, StringComparison.Ordinal);
        _browser.SeeNoMore("Compare next", ".relink-tags-head");
        _browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.See("Done.", ".plans-tray");
        Assert.Equal(names.Where((_, n) => n % 4 != 3), Directory.EnumerateFiles(Path.Combine(folder, "Audio")).Select(f => Path.GetFileName(f)!).Order(StringComparer.Ordinal));
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>While its drive is away a file waits; when the drive is back, so is the file, and it is told.</summary>
    [Fact]
    public void WhatIsOnADriveThatLeftIsThereAgainWhenItIsBack()
    {
        var session = _browser.SessionOf("Net Mender");
        _browser.Open(session + "/relink");
        _browser.See("Nothing is missing.", ".page-head");
        _browser.Open("/shelves");
        void Simulate(string what) => _browser.Wait(() => _browser.All(".shelves-shelf").FirstOrDefault(s => s.Text.StartsWith("Field card", StringComparison.Ordinal)), "for the card")
            .FindElements(By.TagName("button")).First(b => b.Text == what).Click();
        _browser.FromMenu("Field card", "Unplug");
        _browser.Open(session + "/relink");
        _browser.See("1 file is on 'Field card', which is away.", ".page-head");
        _browser.See("Field card is away. 1 file stands on it. Plug it in to have what is on it.", ".relink-together");
        Assert.Contains("waits for “Field card”", Row("tide.wav").Text, StringComparison.Ordinal);
        _browser.Open("/shelves");
        Simulate("Plug in");
        _browser.See("'Field card' is back: 1 file of this session is there again.", ".top-strip-notice");
        _browser.Open(session + "/relink");
        _browser.See("Nothing is missing.", ".page-head");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>A drive is mounted elsewhere and added once more: it is asked whether it is the same, and what was away is there again.</summary>
    [Fact]
    public async Task ADriveThatWasAddedOnceMoreIsSaidToBeTheSame()
    {
        Scan("Field card");
        using var elsewhere = new TempFolder();
        var moved = Path.Combine(elsewhere.Path, "CARD_2");
        Tool.Run("mv", _browser.Shelf("Field card"), moved);
        await _browser.App.AddShelf("Card again", "Removable", moved, TestContext.Current.CancellationToken);
        _browser.Open("/shelves");
        _browser.See("of “Field card”, which is away, stand here at the same places. Is it the same drive?", ".shelves-may-be");
        _browser.Click("The same drive", ".shelves-may-be");
        _browser.SeeNoMore("Card again");
        var card = _browser.Wait(() => _browser.All(".shelves-shelf").FirstOrDefault(s => s.Text.StartsWith("Field card", StringComparison.Ordinal) && s.Text.Contains("scanned just now", StringComparison.Ordinal)), "for the card");
        Assert.Contains("CARD_2", card.Text, StringComparison.Ordinal);
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>What was deleted here stands in the vault as a plain copy: it is put back where the document expects it, byte by byte, along with what is certain besides.</summary>
    [Fact]
    public void AFileIsBroughtBackFromABackup()
    {
        var folder = Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay", "261019 Fog Signal");
        var (lost, document) = (Path.Combine(folder, "Audio", "Cello 01.wav"), Path.Combine(folder, "261019 Fog Signal.otio"));
        var sound = File.ReadAllBytes(lost);
        int Pointers() => File.ReadAllText(document).Split("Audio/Cello%2001.wav").Length;
        var pointers = Pointers();
        Scan("Session drive");
        File.Delete(lost);
        _browser.Open(_browser.SessionOf("Fog Signal") + "/relink");
        Assert.Contains("Cello 01.wav", Row("Cello 01.wav").Text, StringComparison.Ordinal);
        Row("Cello 01.wav").Click();
        // The backup noted its bytes while it was there: it is certain, and put back by itself where it was.
        _browser.See("the backup of 2026-10-23 23:36", ".relink-tags");
        _browser.See("certain: the same bytes", ".relink-tags");
        _browser.See("put back 1, 2.3 MB", ".plans-tray");
        // Another file is compared with the missing sound by ear, which the backup lends.
        _browser.Wait(() => _browser.All(".relink-others button").FirstOrDefault(b => b.Text.StartsWith("Hurdy-gurdy 01.wav", StringComparison.Ordinal)), "for the other file").Click();
        _browser.See("The missing sound, heard from the backup of 2026-10-23 23:36:", ".relink-tags");
        _browser.See("Relink 5 files; copy in 4, 620 kB; put back 1, 2.3 MB; document re-pointed", ".plans-tray");
        _browser.Wait(() => _browser.All(".plans-tray .ant-btn-primary:not(:disabled)").FirstOrDefault(b => b.Text == "Relink"), "to be able to relink").Click();
        _browser.See("Done.", ".plans-tray");
        Assert.Equal(sound, File.ReadAllBytes(lost));
        Assert.InRange(pointers, 2, int.MaxValue);
        Assert.Equal(pointers, Pointers());
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>A search is stopped, said to be so, and gone on in another place, where the file is.</summary>
    [Fact]
    public void ASearchIsStoppedAndGoneOnElsewhere()
    {
        var (wrong, right) = (_browser.Scratch("wrong"), _browser.Scratch("right"));
        Core.Media.MediaHeader Sound(string path)
        {
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            using (var stream = File.Create(path))
            using (var writer = new Core.Media.WavWriter(stream, new Core.Media.PcmFormat(48000, 1, 24)))
            {
                writer.Write(new int[161_760]);
            }
            return Core.Media.MediaHeaderReader.ReadFile(path)!;
        }
        Sound(Path.Combine(wrong, "else.wav"));
        Sound(Path.Combine(right, "deep", "ferry horn.wav"));
        // While something records nobody reads other disks: the search waits, and can be stopped.
        _browser.Open(_browser.SessionOf("Net Mender") + "/record");
        _browser.Find(".record-armed input[type=checkbox]").Click();
        _browser.Click("Record 1 track", ".record-deck-actions");
        _browser.See("Stop", ".record-deck-actions");
        _browser.Open(_browser.SessionOf("Tar and Twine") + "/relink");
        _browser.Pick("Where to look");
        _browser.Find("#place-to-search").SendKeys(wrong);
        _browser.Click("Search", ".relink-look");
        _browser.See("Waits:", ".relink-look");
        _browser.Click("Stop", ".relink-look");
        _browser.See("stopped before its end", ".relink-searched");
        _browser.Find("#place-to-search").SendKeys(wrong);
        _browser.See("and stopped: ", ".relink-look");
        _browser.Open(_browser.SessionOf("Net Mender") + "/record");
        _browser.Click("Stop", ".record-deck-actions");
        _browser.See("Record 1 track", ".record-deck-actions");

        _browser.Open(_browser.SessionOf("Tar and Twine") + "/relink");
        _browser.Pick("Where to look");
        _browser.Find("#place-to-search").SendKeys(right);
        _browser.Click("Search", ".relink-look");
        _browser.See("something was found for 1 of", ".relink-look");
        _browser.Pick("What is missing");
        _browser.Keys("/");
        _browser.Keys("ferry");
        Row("ferry horn.wav").Click();
        _browser.Click("Use this one", ".relink-tags");
        _browser.See("Relink 13 files", ".plans-tray");
        Assert.Empty(_browser.Troubles());
    }
}
