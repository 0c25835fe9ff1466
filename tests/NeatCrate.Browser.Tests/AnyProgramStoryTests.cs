using System.IO.Compression;

namespace NeatCrate.Browser.Tests;

/// <summary>A session of a visiting engineer, in the document of a program that nobody here knows: what it lacks is seen, copied in, put back and heard, and nothing is cleaned on a guess.</summary>
public sealed class AnyProgramStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Folder => Path.Combine(_browser.Shelf("Session drive"), "Tove Lindqvist", "261110 Breakwater");

    private string Document => Path.Combine(Folder, "261110 Breakwater.desk");

    [Fact]
    public void WhatItNamesIsSeenCopiedInPutBackAndHeard()
    {
        var before = File.ReadAllBytes(Document);
        var session = _browser.SessionOf("Breakwater");
        _browser.Open(session + "/set-up");
        _browser.See("2 files are missing; 1 file stands outside the session folder, 1.3 MB.", ".top-strip");
        _browser.See("6 of the 7 media files here are named in it. What is not may be used all the same.");
        _browser.See("named nowhere", ".files-rows");

        _browser.Open(session + "/copy-in");
        _browser.See("no document is changed; originals untouched.", ".plans-tray");
        _browser.See("'261110 Breakwater.desk' goes on naming the original", ".plans-tray");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.True(File.Exists(Path.Combine(Folder, "Audio", "tide.wav")));

        _browser.Open(session + "/relink");
        _browser.See("Each comes back as a copy in the place where the document names it.");
        _browser.Click("Use all 2");
        _browser.See("Relink 2 files; put back 2", ".plans-tray");
        _browser.Click("Relink", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.See("1 file stands outside the session folder, 1.3 MB.", ".top-strip");
        Assert.True(File.Exists(Path.Combine(Folder, "Audio", "Pedal 02.wav")));

        _browser.Open(session + "/set-up");
        _browser.Wait(() => _browser.All(".files-row").FirstOrDefault(r => r.Text.Contains("Pedal 02.wav", StringComparison.Ordinal)), "for what came back")!.Click();
        _browser.Click("Listen", ".listening-listen-tools");
        _browser.See("Pedal 02.wav", ".listening-sound-in-hand");
        _browser.Click("Stop", ".listening-sound-in-hand");

        // What nothing names may play all the same: nothing is proposed, and the reason stands there. The copy is named nowhere, too.
        _browser.Open(session + "/purge");
        _browser.See("Nothing is proposed here: a file that is named nowhere may be used all the same. Where at least 95 of 100 others are named");
        _browser.See("Nothing could go here.");
        Assert.Equal(before, File.ReadAllBytes(Document));
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>The document is text: a new version beside it names the copy, the old one stays as it is, and all of it is undone.</summary>
    [Fact]
    public void ANewVersionNamesTheCopyAndTheOldOneStays()
    {
        var before = File.ReadAllBytes(Document);
        var session = _browser.SessionOf("Breakwater");
        _browser.Open(session + "/copy-in");
        _browser.Wait(() => _browser.All(".ant-checkbox-wrapper").FirstOrDefault(c => c.Text == "Start a new version that names the copies"), "for the choice").Click();
        _browser.See("1 new version beside the old", ".plans-tray");
        _browser.See("'261110 Breakwater v2.desk' is '261110 Breakwater.desk' with 1 name changed and all else as it is.", ".plans-tray");
        _browser.Click("Copy in", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        var version = Path.Combine(Folder, "261110 Breakwater v2.desk");
        var (was, now) = (Unpacked(Document), Unpacked(version));
        var lines = was.Split('\n').Zip(now.Split('\n')).Where(l => l.First != l.Second).ToList();
        Assert.Contains("<place>Audio/tide.wav</place>", Assert.Single(lines).Second, StringComparison.Ordinal);
        Assert.Equal(before, File.ReadAllBytes(Document));
        // What is missing stays missing; nothing that the new version names stands outside.
        _browser.See("2 files are missing", ".top-strip");
        _browser.SeeNoMore("1 file stands outside", ".top-strip");
        _browser.Click("Undo", ".plans-tray");
        _browser.See("Undo: Copy 1 file", ".plans-tray");
        _browser.Click("Undo", ".plans-tray");
        _browser.See("1 file stands outside", ".top-strip");
        Assert.False(File.Exists(version));
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Where nearly all others are named, what is named nowhere goes by hand, comes back, and is not deleted while it is the only one.</summary>
    [Fact]
    public void WhatIsNamedNowhereGoesByHandAndIsNotDeletedWithoutABackup()
    {
        _browser.Open(_browser.SessionOf("Breakwater") + "/purge");
        _browser.See("Nothing is proposed here: a file that is named nowhere may be used all the same. Nearly all others are named, so it can be set aside by hand");
        Assert.All(_browser.All(".purge-groups input[type=checkbox]"), c => Assert.False(c.Enabled));
        _browser.Wait(() => _browser.All(".files-row").FirstOrDefault(r => r.Text.Contains("Swell 03.wav", StringComparison.Ordinal)), "for what is named nowhere")!.FindElement(OpenQA.Selenium.By.CssSelector("input[type=checkbox]")).Click();
        _browser.See("'Swell 03.wav' may be used all the same.", ".plans-tray");
        _browser.Click("Set aside", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.True(File.Exists(Path.Combine(Folder, "Set aside", "Audio", "Swell 03.wav")));
        _browser.Pick("Set aside (1)");
        _browser.Pick("Empty");
        _browser.See("no backup holds it. It is deleted only once a full backup does.", ".plans-tray");
        _browser.Pick("Put back");
        _browser.Click("Put back", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        Assert.True(File.Exists(Path.Combine(Folder, "Audio", "Swell 03.wav")));
        Assert.Empty(_browser.Troubles());
    }

    private static string Unpacked(string path)
    {
        using var text = new StreamReader(new GZipStream(File.OpenRead(path), CompressionMode.Decompress));
        return text.ReadToEnd();
    }

    /// <summary>Where a file is taken for a document and is none, it is said once, and taken back in Settings.</summary>
    [Fact]
    public void WhatIsNoDocumentIsSaidAndTakenBack()
    {
        var session = _browser.SessionOf("Ferry Bell Loop");
        _browser.Open(session + "/set-up");
        _browser.See("3 of 3 files are named.", ".top-strip");
        _browser.Pick("Versions");
        _browser.FromMenu("261112 Ferry Bell Loop.loop", "This is no document");
        _browser.See("files that only they use are called unused");
        _browser.Click("They are none");
        _browser.See("Files ending in .loop are no documents.");
        _browser.SeeNoMore("3 of 3 files are named.", ".top-strip");
        _browser.Open("/settings");
        _browser.See(".loop", "[aria-label='What was said']");
        _browser.Click("Guess again");
        _browser.SeeNoMore(".loop", ".settings");
        _browser.Find("input[aria-label='Ending of the names']").SendKeys("wav");
        _browser.Click("Say so");
        _browser.See("Of '.wav' nothing can be said here");
        _browser.Open(session + "/set-up");
        _browser.See("3 of 3 files are named.", ".top-strip");
        Assert.DoesNotContain(_browser.Troubles(), t => !t.Contains("400", StringComparison.Ordinal));
    }
}
