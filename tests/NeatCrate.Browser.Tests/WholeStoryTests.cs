using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>The whole way through in the browser: set up, copy in, undo, bundle, receive.</summary>
public sealed class WholeStoryTests : IDisposable
{
    private static readonly string[] Sources = ["Field card", "Loft samples", "House kit"];

    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Drive => _browser.Shelf("Session drive");

    private string NetMender => Path.Combine(Drive, "Lamplighters of Orrin Quay", "261014 Net Mender");

    [Fact]
    public void FromTheLoadingBayToABundleThatArrivesWhole()
    {
        TheLoadingBayTellsWhatEachSessionNeeds();
        ANewSessionIsSeenBeforeItIsMade();
        SamplesAreCopiedInTakenBackAndCopiedInAgain();
        ABundleIsPackedOutsideTheSession();
        WhatWasPackedArrivesWhole();
        Assert.Empty(_browser.Troubles());
    }

    private void TheLoadingBayTellsWhatEachSessionNeeds()
    {
        _browser.Open("/");
        _browser.See("7 sessions, 106.5 MB; 6 need you; 147 files only here.");
        Assert.Equal(
            [
                "2 files are missing; 1 file stands outside the session folder, 1.3 MB.",
                "16 files are missing; 3 files are on 'Old laptop', which is away.",
                "3 files stand outside the session folder, 1.6 MB.",
                "Everything that is named is inside, nothing is missing; 3 of 3 files are named.",
                "Everything is inside; 117 of 124 files are placed nowhere, 46.9 MB.",
                "Everything is inside, nothing is missing.",
                "Everything is inside, only older versions miss 4 files.",
            ],
            _browser.All(".loading-bay-crate .loading-bay-sentence").Select(e => e.Text));
    }

    private void ANewSessionIsSeenBeforeItIsMade()
    {
        _browser.Click("New session");
        _browser.Find(".set-up-name-field").SendKeys("Tar and Twine: reprise");
        _browser.See("':' is not allowed in names on Windows.", ".set-up-checks");
        _browser.Click("Lamplighters of Orrin Quay", ".shelves-folder-picker");
        // One press takes the name that other systems accept.
        var name = $"{DateTime.Now:yyMMdd} Tar and Twine reprise";
        _browser.Click($"Use “{name}”", ".set-up-checks");
        var folder = Path.Combine(Drive, "Lamplighters of Orrin Quay", name);
        _browser.See($"Session drive / Lamplighters of Orrin Quay / {name}", ".set-up-preview");
        Assert.Equal(folder, _browser.Find(".set-up-preview .path").GetAttribute("title"));
        _browser.See("documents from earlier days", ".set-up-tree");
        _browser.See(name + ".otio", ".set-up-tree");
        // The date and the title are still parts of the name, each on its own.
        Assert.Equal(2, _browser.All(".set-up-name-parts li").Count);
        _browser.See("261019 Fog Signal", ".set-up-neighbours");
        Assert.False(Directory.Exists(folder));
        _browser.Click("Make the session");
        _browser.See("Done.", ".plans-tray");
        Assert.True(File.Exists(Path.Combine(folder, name + ".otio")));
        Assert.True(Directory.Exists(Path.Combine(folder, "Audio")));
        _browser.Click("Open it");
        _browser.See("Everything is inside, nothing is missing.", ".top-strip-open-label");
    }

    private void SamplesAreCopiedInTakenBackAndCopiedInAgain()
    {
        var originals = Sources.ToDictionary(s => s, s => Tree.Of(_browser.Shelf(s)));
        // Outlines that were looked at are kept; nothing of the session itself differs.
        IEnumerable<string> InSession() => Tree.Of(NetMender).Keys.Where(k => !k.EndsWith(".peaks", StringComparison.Ordinal));
        var before = InSession().ToList();
        _browser.Open("/");
        _browser.Click("Copy in", ".loading-bay-crate");
        _browser.See("outside\n3", ".weighbridge");
        _browser.See("tide.wav", ".files-rows");
        Assert.Equal(
            ["260927/tide.wav", "Drums/net drum low.wav", "Struck bottles/bottle: high?.wav"],
            _browser.All(".files-rows .files-c-name").Take(3).Select(c => c.GetAttribute("title")));
        _browser.See("Copy 3 files, 1.6 MB, from 3 shelves; document re-pointed; originals untouched.", ".plans-tray");
        _browser.Click("4 steps");
        _browser.See("Field card: 260927/tide.wav", ".plans-steps");
        _browser.See("Session drive: Lamplighters of Orrin Quay/261014 Net Mender/Audio/tide.wav", ".plans-steps");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("nothing outside", ".session-route");
        Assert.True(File.Exists(Path.Combine(NetMender, "Audio", "bottle high.wav")));

        _browser.Chord(OpenQA.Selenium.Keys.Control, "z");
        _browser.See("Undo: Copy 3 files", ".plans-tray");
        _browser.Chord(OpenQA.Selenium.Keys.Control, OpenQA.Selenium.Keys.Enter);
        _browser.See("Done.", ".plans-tray");
        _browser.See("3 outside, 1.6 MB", ".session-route");
        Assert.Equal(before, InSession());

        _browser.Click("Close", ".plans-tray");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("nothing outside", ".session-route");
        Assert.All(originals, o => Assert.Equal(o.Value, Tree.Of(_browser.Shelf(o.Key))));
    }

    private void ABundleIsPackedOutsideTheSession()
    {
        _browser.Click("To the bundle");
        _browser.See("Pack 10 files", ".plans-tray");
        _browser.Choose(".shelves-folder-picker", "Session drive");
        _browser.Click("Lamplighters of Orrin Quay", ".shelves-folder-picker");
        _browser.OpenFolder("261014 Net Mender");
        _browser.See("inside the session's own folder", ".plans-tray");
        Assert.False(_browser.Find(".plans-tray .ant-btn-primary").Enabled);
        _browser.Choose(".shelves-folder-picker", "Outbox");
        _browser.See("Pack 10 files", ".plans-tray");
        _browser.Field("For").SendKeys("Idris Falk");
        _browser.Click("Pack the bundle");
        _browser.See("Done.", ".plans-tray");
        Assert.StartsWith("/api/sessions/", new Uri(_browser.Wait(() => _browser.All(".plans-tray a").FirstOrDefault(a => a.Text == "Download"), "for the download").GetAttribute("href")!).AbsolutePath, StringComparison.Ordinal);
        _browser.See("261014 Net Mender", ".bundles-packed");
    }

    private void WhatWasPackedArrivesWhole()
    {
        var bundle = Assert.Single(Directory.GetFiles(_browser.Shelf("Outbox")));
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", bundle), StringComparison.Ordinal);
        var received = Directory.CreateDirectory(Path.Combine(Drive, "From Wren")).FullName;
        Tool.Run("unzip", "-q", bundle, "-d", received);
        var bag = Path.Combine(received, "261014 Net Mender");
        Tool.RunIn(bag, "sha512sum", "--strict", "--quiet", "-c", "manifest-sha512.txt");
        Tool.RunIn(bag, "sha512sum", "--strict", "--quiet", "-c", "tagmanifest-sha512.txt");
        Assert.Contains("For        Idris Falk", File.ReadAllText(Path.Combine(bag, "packing-slip.txt")), StringComparison.Ordinal);

        _browser.Open("/");
        _browser.Click("Adopt a folder");
        _browser.Choose(".shelves-folder-picker", "Session drive");
        foreach (var folder in new[] { "From Wren", "261014 Net Mender", "data" })
        {
            _browser.OpenFolder(folder);
            _browser.See(folder, ".shelves-folder-picker .ant-breadcrumb");
        }
        _browser.OpenFolder("261014 Net Mender");
        _browser.See("Everything is inside", ".adopt-findings");
        _browser.See("This is a copy: the same session is known already", ".adopt-findings");
        _browser.Click("Adopt this folder");
        _browser.See("From Wren / 261014 Net Mender / data / 261014 Net Mender", ".page-head");
        _browser.SeeNoMore("missing", ".weighbridge");
        _browser.See("nothing missing", ".session-route");
        _browser.See("nothing outside", ".session-route");
    }
}
