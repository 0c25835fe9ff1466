using NeatCrate.Core.Documents;
using OpenQA.Selenium;

namespace NeatCrate.Browser.Tests;

/// <summary>The way back to the hour when it was still there, a second place that catches up, and "only here" that becomes two.</summary>
public sealed class BackupStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Folder(string song) => Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay", song);

    private void Mark(string label, bool both = false) =>
        _browser.Script($"[...document.querySelectorAll('[data-version]')].find(b => b.ariaLabel.includes('{label}')).dispatchEvent(new MouseEvent('click', {{ bubbles: true, shiftKey: {(both ? "true" : "false")} }}))");

    private void Apply()
    {
        _browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.See("Done.", ".plans-tray");
    }

    /// <summary>A clip was lost on the third evening; nobody noticed until the fifth. One goes back until a save still has it, and brings that one track back.</summary>
    [Fact]
    public void ALostClipIsFoundInTheLogbookAndItsTrackComesBack()
    {
        var document = Path.Combine(Folder("261019 Fog Signal"), "261019 Fog Signal.otio");
        _browser.Open(_browser.SessionOf("Fog Signal") + "/backups");
        _browser.See("Every file is in 2 places or more.", ".page-head");
        // The evening before has not got it any more, the note of the third has.
        Mark("Thu 22 Oct, 20:44");
        _browser.Find(".backups-chosen-versions");
        _browser.See("changed", ".backups-difference");
        Assert.DoesNotContain("Cello 02", _browser.Find(".backups-difference").Text, StringComparison.Ordinal);
        Mark("before the string edits");
        _browser.See("“Cello 02” gone, was at 0:15", ".backups-difference");
        _browser.See("Audio/Cello 02.wav no longer used", ".backups-difference");
        // One knows what a save was when one needs it.
        _browser.Click("Change the note", ".backups-chosen-versions");
        _browser.Find("[aria-label='What this save is']").SendKeys(Keys.Control + "a");
        _browser.Find("[aria-label='What this save is']").SendKeys("the last with the cello" + Keys.Enter);
        _browser.See("“the last with the cello”", ".backups-chosen-versions");
        _browser.See("the last with the cello", ".backups-logbook");
        _browser.Pick("Tracks");
        _browser.Wait(() => _browser.All(".backups-ways-back .ant-checkbox-wrapper").FirstOrDefault(c => c.Text == "Cello"), "for the track").Click();
        _browser.See("Bring 'Cello (from 2026-10-21 20.44)' back into '261019 Fog Signal.otio' as a new track", ".plans-tray");
        Apply();
        var now = SessionDocument.ReadFile(document);
        Assert.Contains("Cello (from 2026-10-21 20.44)", now.Tracks);
        Assert.Contains(TrackClips.In(now), c => c.TargetUrl.Contains("Cello%2002", StringComparison.Ordinal));
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Asked by name alone, all versions tell which was the last that plays a file, and lead there.</summary>
    [Fact]
    public void TheLastVersionThatPlaysAFileIsFoundByItsName()
    {
        _browser.Open(_browser.SessionOf("Fog Signal") + "/backups");
        _browser.Field("Find when a file was last used").SendKeys("cello 02");
        _browser.See("It was last used on", ".backups-file-of-versions");
        _browser.See("and no longer on", ".backups-file-of-versions");
        _browser.Click("Last that plays it: Wed 21 Oct, 20:44");
        _browser.See("“Cello 02” gone, was at 0:15", ".backups-difference");
        var field = _browser.Field("Find when a file was last used");
        field.SendKeys(Keys.Control + "a");
        field.SendKeys("never there");
        _browser.See("No version that can be read plays or holds such a file.", ".backups-files-of-versions");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Four hundred saves of one day are a band, in which the one that lost clips shows itself: the band, the loss, and what went, in two presses.</summary>
    [Fact]
    public void ALossAmongFourHundredSavesShowsItself()
    {
        var kept = Path.Combine(Folder("261019 Fog Signal"), "Document backups");
        byte[] Of(string time) => File.ReadAllBytes(Path.Combine(kept, $"261019 Fog Signal 2026-10-{time}.otio"));
        var (before, after) = (Of("21_204400"), Of("21_213700"));
        for (var n = 0; n < 400; n++)
        {
            var at = new DateTime(2026, 10, 17, 16, 0, 0).AddMinutes(n);
            var path = Path.Combine(kept, $"261019 Fog Signal {at:yyyy-MM-dd_HHmmss}.otio");
            File.WriteAllBytes(path, n < 250 ? before : after);
            File.SetLastWriteTime(path, at);
        }
        _browser.App.Stop();
        _browser.App.StartAgain();
        _browser.Open(_browser.SessionOf("Fog Signal") + "/backups");
        _browser.See("400 marks", ".backups-logbook");
        // What each changed stands under it without pointing; of the day one is a loss.
        Assert.Equal("−1", _browser.Find(".backups-band .backups-mark-lost").Text);
        Assert.Single(_browser.All(".backups-band .backups-went"));
        _browser.Find(".backups-band").Click();
        _browser.See("All days", ".backups-logbook");
        // Each has room enough to be hit (WCAG 2.2, 2.5.8).
        Assert.Equal(true, _browser.Script("""
            const boxes = [...document.querySelectorAll('.backups-mark')].map(m => m.getBoundingClientRect());
            return boxes.length === 400 && boxes.every((a, n) => boxes.every((b, m) => n === m || Math.abs(a.top - b.top) > 1 || Math.abs(a.left - b.left) >= 23.5));
            """));
        var loss = _browser.Find(".backups-mark-place:has(.backups-went) .backups-mark");
        Assert.StartsWith("Kept save, Sat 17 Oct, 20:10: 1 clip gone", loss.GetAttribute("aria-label"), StringComparison.Ordinal);
        _browser.Script("document.querySelector('.backups-mark-place:has(.backups-went)').scrollIntoView({ block: 'center' })");
        loss.Click();
        _browser.See("Sat 17 Oct, 20:10", ".backups-chosen-versions");
        // By keys: back to the save before it, which still has what went, and to all days.
        _browser.Keys(Keys.ArrowLeft);
        _browser.Keys(Keys.Enter);
        _browser.See("Sat 17 Oct, 20:09", ".backups-chosen-versions");
        _browser.See("“Cello 02” gone", ".backups-difference");
        _browser.Keys("-");
        _browser.See("400 marks", ".backups-logbook");
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void TwoVersionsAreComparedAndOneComesBackBesideTheCurrent()
    {
        var folder = Folder("261019 Fog Signal");
        _browser.Open(_browser.SessionOf("Fog Signal") + "/backups");
        _browser.See("kept save", ".backups-logbook");
        Mark("before the string edits");
        _browser.Find(".backups-chosen-versions");
        Mark("Wed 21 Oct, 21:37", both: true);
        _browser.See("What differs between the two", ".backups-chosen-versions");
        _browser.See("1 clip gone, 1 file no longer used.", ".backups-difference");
        // By keys alone: from the chosen mark to the one before it.
        _browser.Script("document.querySelector('.backups-is-chosen').focus()");
        _browser.Keys(Keys.ArrowLeft);
        _browser.Keys(Keys.Enter);
        _browser.See("Bring back", ".backups-chosen-versions");
        _browser.Pick("The document");
        _browser.See("beside the current document; nothing is changed or replaced", ".plans-tray");
        _browser.See("'261019 Fog Signal.otio' stays the current document.", ".plans-tray");
        Apply();
        Assert.Single(Directory.GetFiles(folder, "*restored*.otio"));
        _browser.Open(_browser.SessionOf("Fog Signal") + "/set-up");
        _browser.Pick("Versions");
        _browser.See("261019 Fog Signal.otio", ".set-up-documents .set-up-current");
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void OnlyHereBecomesTwoPlaces()
    {
        _browser.Open("/");
        _browser.See("9 only here, 13.7 MB", ".loading-bay-crates");
        _browser.Open(_browser.SessionOf("Net Mender") + "/backups");
        _browser.See("9 only here, 13.7 MB", ".session-route");
        _browser.Pick("How safe");
        _browser.See("only here", ".files-rows");
        _browser.Find("input[aria-label='Note']").SendKeys("before the mix leaves");
        _browser.Click("Full backup now");
        // It is seen through where it was begun, and put away there.
        _browser.See("Backed up.", ".backups-goes");
        _browser.See("read back and compared", ".backups-goes");
        _browser.Click("Close", ".backups-goes");
        _browser.SeeNoMore("Backed up.");
        // So is the next one.
        _browser.Click("Full backup now");
        _browser.See("0 B of it new", ".backups-goes");
        _browser.Click("Close", ".backups-goes");
        _browser.See("Every file is in 2 places or more.", ".page-head");
        _browser.See("Every file is in as many places as you want.");
        _browser.See("full just now", ".session-route");
        _browser.Pick("All files");
        _browser.See("2: here, Vault", ".files-rows");
        _browser.All(".files-rows .files-row[id]")[0].Click();
        _browser.See("It is there now.", ".backups-history");
        // It stands in the logbook with what was said of it, and all of the session comes back from it.
        _browser.Pick("Logbook");
        Mark("before the mix leaves");
        _browser.Pick("The whole session");
        _browser.Choose(".backups-ways-back", "Outbox");
        var name = _browser.Field("Name of the folder");
        name.SendKeys(Keys.Control + "a");
        name.SendKeys("261014 Net Mender again");
        _browser.See("each checked", ".plans-tray");
        Apply();
        Assert.Equal(
            Directory.GetFiles(Path.Combine(Folder("261014 Net Mender"), "Audio")).Length, Directory.GetFiles(Path.Combine(_browser.Shelf("Outbox"), "261014 Net Mender again", "Audio")).Length);
        _browser.Open("/");
        _browser.See("Net Mender again", ".loading-bay-crates");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>The second place and the vault are unplugged, work goes on, and both catch up once they are back.</summary>
    [Fact]
    public void WhatWasUnpluggedCatchesUp()
    {
        var (vault, card) = (_browser.Shelf("Vault"), _browser.Shelf("Field card"));
        var document = Path.Combine(Folder("261019 Fog Signal"), "261019 Fog Signal.otio");
        _browser.Open(_browser.SessionOf("Fog Signal") + "/backups");
        _browser.Pick("Places and rules");
        _browser.ChooseFor("Second place, on another drive", "Field card");
        _browser.See("Field card holds all of them.", ".backups-places");
        var held = Directory.GetFiles(Path.Combine(card, "Neat Crate document backups", "261019 Fog Signal")).Length;
        Directory.Move(vault, vault + " unplugged");
        Directory.Move(card, card + " unplugged");
        _browser.See("(away)", ".backups-vault");
        File.WriteAllText(document, File.ReadAllText(document).Replace("\"Bell\"", "\"Bells\"", StringComparison.Ordinal));
        _browser.See("second place 1 behind", ".session-route");
        _browser.See("Field card is away and lacks 1 kept save.", ".backups-places");
        _browser.Pick("Logbook");
        _browser.Find(".backups-gap");
        Directory.Move(card + " unplugged", card);
        Directory.Move(vault + " unplugged", vault);
        _browser.SeeNoMore("behind", ".session-route");
        _browser.Wait(() => Directory.GetFiles(Path.Combine(card, "Neat Crate document backups", "261019 Fog Signal")).Length == held + 1 ? this : null, "for the card to hold the save");
        _browser.See("full just now", ".session-route");
        Assert.Empty(_browser.Troubles());
    }
}
