using NeatCrate.Core.Documents;
using OpenQA.Selenium;

namespace NeatCrate.Browser.Tests;

/// <summary>The take log in the browser, worked by the keyboard alone: keepers, notes, takes placed, moved, taken off, and undone.</summary>
public sealed class TakeLogStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Document => Path.Combine(_browser.Shelf("Session drive"), "Lamplighters of Orrin Quay", "261012 The Ninth Bell", "261012 The Ninth Bell.otio");

    private IWebElement Grid => _browser.Find(".take-log-log-grid");

    private MediaReference[] Of(string name) => [.. SessionDocument.ReadFile(Document).References.Where(r => r.TargetUrl.EndsWith(Uri.EscapeDataString(name), StringComparison.Ordinal))];

    private void Write()
    {
        _browser.Find(".plans-tray .ant-btn-primary:not(:disabled)");
        _browser.Chord(Keys.Control, Keys.Enter);
        _browser.See("Done.", ".plans-tray");
        _browser.Click("Close", ".plans-tray");
    }

    [Fact]
    public void AKeeperIsMarkedATakePlacedMovedTakenOffAndUndoneByTheKeyboardAlone()
    {
        var session = _browser.SessionOf("The Ninth Bell");
        _browser.Open(session + "/record");
        _browser.Pick("Take log");
        _browser.See("pass 7", ".take-log");
        // How loud each take is, as SoX measures it.
        _browser.See("dBFS", ".take-log");
        var before = File.ReadAllBytes(Document);

        // To the Cello's third take: down the track of the voice, along the pass.
        Grid.SendKeys(Keys.ArrowDown);
        _browser.See("Voice, take 1", ".take-log-log-of");
        _browser.Keys(Keys.ArrowDown);
        _browser.Keys(Keys.ArrowDown);
        _browser.See("Voice, take 3", ".take-log-log-of");
        _browser.Keys(Keys.ArrowRight);
        _browser.See("Cello, take 3", ".take-log-log-of");
        // Listening goes along: through the pass, and back.
        _browser.Keys(" ");
        _browser.See("Cello 03.wav", ".listening-sound-in-hand");
        _browser.Keys(Keys.ArrowRight);
        _browser.See("Hurdy-gurdy 03.wav", ".listening-sound-in-hand");
        _browser.Keys(Keys.ArrowLeft);
        _browser.See("Cello 03.wav", ".listening-sound-in-hand");
        _browser.Keys(" ");

        _browser.Keys("k");
        _browser.See("keep", ".take-log-take-cell.take-log-active");
        _browser.Keys("n");
        _browser.Keys("breath before the bridge" + Keys.Enter);
        _browser.See("breath before the bridge", ".take-log-take-cell.take-log-active");
        _browser.See("Mark 1 keeper; write 1 note", ".plans-tray");
        // Elsewhere and back: what is half done is there.
        _browser.Find(".session-route a[href$=bundle]").Click();
        _browser.See("what is ticked here, and a packing slip", ".page");
        _browser.Find(".session-route a[href$=record]").Click();
        _browser.See("Mark 1 keeper; write 1 note", ".plans-tray");
        Assert.Equal(before, File.ReadAllBytes(Document));
        Write();
        Assert.Equal((true, "breath before the bridge"), Assert.Single(Of("Cello 03.wav"), r => !r.Placed).Take is { } label ? (label.IsKeeper, label.Note) : default);

        // Placed at a time, moved to another, taken off.
        Grid.SendKeys(Keys.Escape);
        _browser.Wait(() => _browser.All(".take-log-take-cell").FirstOrDefault(c => c.Text.StartsWith("take 3", StringComparison.Ordinal) && c.Text.Contains("keep", StringComparison.Ordinal)), "for the take").Click();
        _browser.Keys("t");
        _browser.Keys("1:00" + Keys.Enter);
        _browser.See("at 1:00", ".take-log-take-cell.take-log-active");
        _browser.See("Place 1 take", ".plans-tray");
        Write();
        Assert.Equal("Cello", Assert.Single(Of("Cello 03.wav"), r => r.Placed).Track);
        _browser.Wait(() => _browser.All(".take-log-take-cell.take-log-changed").Count == 0 ? this : null, "for the change to be told as done");
        _browser.See("at 1:00", ".take-log-take-cell.take-log-active");
        Grid.SendKeys("t");
        _browser.Keys("1:30" + Keys.Enter);
        _browser.See("Move 1 take", ".plans-tray");
        Write();
        _browser.See("at 1:30", ".take-log-take-cell.take-log-active");
        Grid.SendKeys("u");
        _browser.See("Take 1 take off its track", ".plans-tray");
        Write();
        Assert.DoesNotContain(Of("Cello 03.wav"), r => r.Placed);

        // All of it is undone, the last first.
        foreach (var undo in new[] { "Undo: Take 1 take off", "Undo: Move 1 take", "Undo: Place 1 take", "Undo: Mark 1 keeper" })
        {
            _browser.Chord(Keys.Control, "z");
            _browser.See(undo, ".plans-tray");
            _browser.Chord(Keys.Control, Keys.Enter);
            _browser.See("Done.", ".plans-tray");
            _browser.Click("Close", ".plans-tray");
        }
        Assert.Equal(before, File.ReadAllBytes(Document));
        // And what was undone last is done once more.
        _browser.Open(session + "/set-up");
        _browser.Pick("History");
        _browser.Click("Redo", ".plans-history");
        _browser.See("Redo: Mark 1 keeper; write 1 note", ".plans-tray");
        _browser.Click("Redo", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.True(Assert.Single(Of("Cello 03.wav"), r => !r.Placed).Take!.IsKeeper);
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void WhatCannotBePlacedIsSaidAndSeveralAreMarkedAtOnce()
    {
        var session = _browser.SessionOf("The Ninth Bell");
        _browser.Open(session + "/record");
        _browser.Pick("Take log");
        _browser.See("pass 7", ".take-log");
        Grid.SendKeys(Keys.ArrowDown);
        _browser.Keys(Keys.ArrowRight);
        _browser.See("Cello, take 1", ".take-log-log-of");
        _browser.Keys("p");
        // Another take plays there.
        _browser.See("'Cello 06' plays on 'Cello' from", ".plans-tray");
        Assert.False(_browser.Find(".plans-tray .ant-btn-primary").Enabled);
        _browser.Click("Discard", ".plans-tray");
        _browser.See("Nothing is to change.", ".plans-tray");
        Grid.SendKeys(Keys.Shift + Keys.ArrowDown);
        _browser.See("2 takes", ".take-log-log-of");
        _browser.Keys("k");
        _browser.See("Mark 2 keepers", ".plans-tray");
        Assert.Equal(2, _browser.All(".take-log-take-cell.take-log-changed .take-log-keeper").Count);
        Assert.Empty(_browser.Troubles());
    }
}
