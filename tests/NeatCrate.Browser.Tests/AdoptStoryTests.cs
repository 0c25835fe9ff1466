using NeatCrate.Testing;

namespace NeatCrate.Browser.Tests;

/// <summary>Folders as people have them: two songs in one, a document on the desktop, a session that was renamed.</summary>
public sealed class AdoptStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Drive => _browser.Shelf("Session drive");

    private string Session(string name) => Path.Combine(Drive, "Lamplighters of Orrin Quay", name);

    private void GoTo(string folder)
    {
        _browser.Open("/adopt");
        _browser.Choose(".shelves-folder-picker", "Session drive");
        _browser.OpenFolder(folder);
    }

    [Fact]
    public void TwoSongsInOneFolderGetAFolderEach()
    {
        Tree.Copy(Session("261005 Low Water"), Path.Combine(Drive, "Sketches"));
        File.Copy(Session("261019 Fog Signal/261019 Fog Signal.otio"), Path.Combine(Drive, "Sketches", "261019 Fog Signal.otio"));
        File.Copy(Session("261019 Fog Signal/Audio/Bell 01.wav"), Path.Combine(Drive, "Sketches", "Audio", "Bell 01.wav"));
        GoTo("Sketches");
        _browser.See("2 sessions share this folder", ".adopt-findings");
        _browser.Click("Plan a folder for each");
        _browser.See("Give '261005 Low Water' its own folder; 'Fog Signal' stays", ".plans-tray");
        _browser.Click("Give each its own folder", ".plans-tray");
        _browser.See("Done.", ".plans-tray");
        _browser.SeeNoMore("2 sessions share this folder", ".adopt-findings");
        Assert.True(File.Exists(Path.Combine(Drive, "261005 Low Water", "261005 Low Water.otio")));
        Assert.True(File.Exists(Path.Combine(Drive, "261005 Low Water", "Audio", "Voice 01.wav")));
        _browser.Open("/");
        _browser.See("8 sessions");
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void ADocumentOnTheDesktopComesHome()
    {
        var stray = Path.Combine(Drive, "Desktop", "261020 Net Mender.otio");
        Directory.CreateDirectory(Path.GetDirectoryName(stray)!);
        File.WriteAllText(stray, File.ReadAllText(Session("261014 Net Mender/261014 Net Mender.otio")) + "\n");
        GoTo("Desktop");
        _browser.See("“261020 Net Mender.otio” strayed from its folder.", ".adopt-findings");
        _browser.Click("Plan to bring it home");
        _browser.See("so the current document", ".plans-tray");
        _browser.Click("Bring it home", ".plans-tray");
        _browser.Click("Open the session", ".plans-tray");
        _browser.See("3 files stand outside", ".top-strip-open-label");
        _browser.Keys("1");
        _browser.See("current document 261020 Net Mender.otio", ".set-up-sheet-bar");
        Assert.False(File.Exists(stray));
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public void ASessionThatWasRenamedIsRecognised()
    {
        _browser.Open("/");
        _browser.See("Net Mender");
        Directory.Move(Session("261014 Net Mender"), Session("261014 The Mender"));
        _browser.Open("/");
        _browser.See("'261014 Net Mender' was moved or renamed", ".top-strip-notice");
        _browser.Wait(() => _browser.All(".loading-bay-crate h2 a").FirstOrDefault(a => a.Text == "The Mender"), "for The Mender").Click();
        _browser.See("3 files stand outside", ".top-strip-open-label");
        Assert.Empty(_browser.Troubles());
    }
}
