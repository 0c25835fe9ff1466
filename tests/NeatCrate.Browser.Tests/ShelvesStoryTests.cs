namespace NeatCrate.Browser.Tests;

/// <summary>A drive is unplugged, and what that costs is seen at once; it comes back, and all is well.</summary>
public sealed class ShelvesStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private OpenQA.Selenium.IWebElement Shelf(string name) => _browser.Wait(
        () => _browser.All(".shelves-shelf").FirstOrDefault(s => s.Text.StartsWith(name, StringComparison.Ordinal)), $"for the shelf {name}");

    private void Press(string shelf, string button) => _browser.Wait(
        () =>
        {
            var target = Shelf(shelf).FindElements(OpenQA.Selenium.By.TagName("button")).FirstOrDefault(b => b.Text == button);
            target?.Click();
            return target;
        },
        $"to press {button} at {shelf}");

    [Fact]
    public void ADriveLeavesAndComesBack()
    {
        _browser.Open("/shelves");
        _browser.See("Tar and Twine needs 3 files from it", ".shelves-shelf.shelves-is-away");
        _browser.FromMenu("Field card", "Unplug");
        _browser.Wait(() => Shelf("Field card").Text.Contains("away", StringComparison.Ordinal) ? this : null, "for the card to be away");
        _browser.Click("Loading bay");
        _browser.See("1 file is on 'Field card', which is away; 2 files stand outside", ".loading-bay-crate");

        // Somebody plugs it in again, without Neat Crate: the page hears of it by itself.
        var card = _browser.Shelf("Field card");
        Directory.Move(card.Replace("/shelves/", "/unplugged/", StringComparison.Ordinal), card);
        _browser.SeeNoMore("which is away", ".loading-bay-crate[data-attention=AtRisk]");
        _browser.See("3 files stand outside the session folder, 1.6 MB.", ".loading-bay-crate");

        _browser.Click("Shelves");
        Press("Old laptop", "Plug in");
        _browser.Wait(() => Shelf("Old laptop").Text.Contains("free", StringComparison.Ordinal) ? this : null, "for the laptop to be there");
        _browser.FromMenu("Old laptop", "Change");
        _browser.Find(".ant-modal #name").SendKeys(OpenQA.Selenium.Keys.Control + "a");
        _browser.Find(".ant-modal #name").SendKeys("Wren's old laptop" + OpenQA.Selenium.Keys.Enter);
        Shelf("Wren's old laptop");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>The place of a shelf is gone to level by level.</summary>
    [Fact]
    public void AShelfIsFoundByBrowsing()
    {
        var folder = _browser.Scratch("Harbour takes");
        _browser.Open("/shelves");
        _browser.See("Old laptop", ".shelves");
        _browser.Field("Name").SendKeys("Harbour");
        _browser.Click("Browse", ".shelves-add-shelf");
        _browser.See("/", ".shelves-machine-folder");
        _browser.Field("Folder").SendKeys(Path.GetDirectoryName(folder)!);
        _browser.Click("Harbour takes", ".shelves-machine-folder");
        Assert.Equal(folder, _browser.Field("Folder").GetAttribute("value"));
        _browser.See("No folders in here.", ".shelves-machine-folder");
        _browser.Click("↑ one level up", ".shelves-machine-folder");
        _browser.Click("Harbour takes", ".shelves-machine-folder");
        _browser.Click("Add", ".shelves-add-shelf");
        _browser.See("Harbour", ".shelves");
        Assert.All(_browser.Troubles(), t => Assert.Contains("400", t, StringComparison.Ordinal));
    }
}
