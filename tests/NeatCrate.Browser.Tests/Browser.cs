using System.Text.Json.Nodes;
using NeatCrate.Testing;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Interactions;
using OpenQA.Selenium.Support.UI;

namespace NeatCrate.Browser.Tests;

/// <summary>The application with its demo, and a browser that looks at it as a user does.</summary>
public sealed class Browser : IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    private readonly TempFolder _temp = new();
    private readonly ChromeDriver _driver;

    public Browser()
        : this(demo: true)
    {
    }

    private Browser(bool demo)
    {
        if (demo)
        {
            DemoData.CopyTo(Path.Combine(_temp.Path, "data"));
        }
        App = HostedApp.Start(Path.Combine(_temp.Path, "data"), demo);
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(
            "--headless=new", "--no-sandbox", "--disable-gpu", "--force-prefers-reduced-motion", "--no-first-run", "--hide-scrollbars", "--window-size=1280,800",
            "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1", $"--user-data-dir={_temp.Folder("profile")}");
        options.SetLoggingPreference(LogType.Browser, LogLevel.Warning);
        _driver = new ChromeDriver(ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver"), options);
        _driver.Manage().Timeouts().AsynchronousJavaScript = 3 * Patience;
        // The window alone gives a lower page: the size that must work well is set exactly.
        Cdp("Emulation.setDeviceMetricsOverride", ("width", 1280), ("height", 800), ("deviceScaleFactor", 1), ("mobile", false));
    }

    /// <summary>As on a machine of somebody who is new: nothing is known yet.</summary>
    public static Browser WithoutDemo() => new(demo: false);

    internal HostedApp App { get; }

    /// <summary>Folder of a demo shelf on disk.</summary>
    public string Shelf(string name) => Path.Combine(_temp.Path, "data", "demo", "shelves", name);

    public string Scratch(string name) => _temp.Folder(name);

    public void Open(string path) => _driver.Navigate().GoToUrl(new Uri(App.Address, path));

    /// <summary>The address of a session, by the end of its name.</summary>
    public string SessionOf(string song)
    {
        using var answer = App.Client.Send(new HttpRequestMessage(HttpMethod.Get, new Uri("/api/sessions", UriKind.Relative)));
        var sessions = JsonNode.Parse(answer.EnsureSuccessStatusCode().Content.ReadAsStream())!.AsArray();
        return "/sessions/" + sessions.Single(s => s!["name"]!.GetValue<string>().EndsWith(song, StringComparison.Ordinal))!["id"]!.GetValue<string>();
    }

    /// <summary>Lets the tab forget what stands half done in it.</summary>
    public void ForgetTheTab()
    {
        if (_driver.Url.StartsWith(App.Address.AbsoluteUri, StringComparison.Ordinal))
        {
            Script("sessionStorage.clear()");
        }
    }

    public string Place => new Uri(_driver.Url).AbsolutePath;

    public IWebElement Find(string css) => Wait(() => _driver.FindElements(By.CssSelector(css)).FirstOrDefault(e => e.Displayed), $"to see {css}");

    public IReadOnlyList<IWebElement> All(string css) => _driver.FindElements(By.CssSelector(css));

    /// <summary>Waits until the page, or a part of it, says something.</summary>
    public void See(string text, string within = "body") =>
        Wait(() => All(within).Any(e => e.Text.Contains(text, StringComparison.Ordinal)) ? this : null, $"to read '{text}' in {within}");

    /// <summary>Waits until something is no longer said.</summary>
    public void SeeNoMore(string text, string within = "body") =>
        Wait(() => All(within).All(e => !e.Text.Contains(text, StringComparison.Ordinal)) ? this : null, $"to read '{text}' no more in {within}");

    /// <summary>Clicks a button or a link by what it says.</summary>
    public void Click(string text, string within = "body") => Wait(
        () =>
        {
            var target = All($"{within} button, {within} a").FirstOrDefault(e => Says(e, text));
            target?.Click();
            return target;
        },
        $"to click '{text}' in {within}");

    /// <summary>True for what can be pressed and says so. What the page drew anew meanwhile is not it: where rows come many times a second, one of them must not end the search.</summary>
    private static bool Says(IWebElement e, string text)
    {
        try
        {
            return e.Displayed && e.Enabled && (e.Text.Trim() == text || Said(e) == text);
        }
        catch (StaleElementReferenceException)
        {
            return false;
        }
    }

    /// <summary>What a button says without the key that stands on it.</summary>
    private static string Said(IWebElement button) => button.FindElements(By.TagName("kbd")).FirstOrDefault() is { } key ? button.Text[..^key.Text.Length].Trim() : "";

    /// <summary>Chooses from the menu at the end of a row what is rarely done with it.</summary>
    public void FromMenu(string row, string action)
    {
        Find($"[aria-label='More for {row}']").Click();
        Choose(action);
    }

    /// <summary>Chooses from a menu that is open.</summary>
    public void Choose(string action) => Wait(
        () =>
        {
            var target = All(".ant-dropdown-menu-item").FirstOrDefault(e => e.Displayed && e.Text == action);
            target?.Click();
            return target;
        },
        $"to choose '{action}'");

    /// <summary>Chooses from a list that opens: by the title of the option.</summary>
    public void Choose(string within, string option)
    {
        Find($"{within} .ant-select").Click();
        Find($".ant-select-item-option[title=\"{option}\"]").Click();
    }

    /// <summary>Chooses from the list that a label belongs to: by the title of the option.</summary>
    public void ChooseFor(string label, string option)
    {
        var id = Field(label).GetAttribute("id");
        Find($".ant-select:has([id=\"{id}\"])").Click();
        Find($".ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option[title=\"{option}\"]").Click();
    }

    /// <summary>Ticks a box by what stands beside it, or takes its tick away.</summary>
    public void Tick(string label) => Wait(
        () =>
        {
            var box = All(".ant-checkbox-wrapper").FirstOrDefault(b => b.Text == label);
            box?.Click();
            return box;
        },
        $"to tick '{label}'");

    /// <summary>Opens a folder in the folder picker.</summary>
    public void OpenFolder(string name) => Wait(
        () =>
        {
            var folder = All(".shelves-folder-picker ul li button").FirstOrDefault(b => b.Text.StartsWith(name, StringComparison.Ordinal));
            folder?.Click();
            return folder;
        },
        $"for the folder {name}");

    /// <summary>Picks one of the choices that stand side by side.</summary>
    public void Pick(string choice) => Wait(
        () =>
        {
            var target = All(".choices label, .choices button").FirstOrDefault(e => e.Text == choice);
            target?.Click();
            return target;
        },
        $"to pick '{choice}'");

    /// <summary>The field that a label belongs to.</summary>
    public IWebElement Field(string label) => Wait(
        () => All("label").FirstOrDefault(l => l.Text == label)?.GetAttribute("for") is { } id ? _driver.FindElement(By.Id(id)) : null, $"for the field '{label}'");

    public void Keys(string keys) => new Actions(_driver).SendKeys(keys).Perform();

    /// <summary>Presses the other mouse button.</summary>
    public void OtherButton(IWebElement on) => new Actions(_driver).ContextClick(on).Perform();

    /// <summary>Presses something while a modifier is held.</summary>
    public void ClickWith(string modifier, IWebElement on) => new Actions(_driver).KeyDown(modifier).Click(on).KeyUp(modifier).Perform();

    public void Chord(string modifier, string key) => new Actions(_driver).KeyDown(modifier).SendKeys(key).KeyUp(modifier).Perform();

    public void Chord(string modifier, string other, string key) =>
        new Actions(_driver).KeyDown(modifier).KeyDown(other).SendKeys(key).KeyUp(other).KeyUp(modifier).Perform();

    public object? Script(string script) => _driver.ExecuteScript(script);

    public object? ScriptAsync(string script) => _driver.ExecuteAsyncScript(script);

    /// <summary>The day or the night room, as the system would ask for it.</summary>
    public void Room(bool night) => Cdp("Emulation.setEmulatedMedia", ("features", new object[] { new Dictionary<string, object> { ["name"] = "prefers-color-scheme", ["value"] = night ? "dark" : "light" } }));

    /// <summary>Lets every answer come so much later, in milliseconds; also those that the browser has kept from before.</summary>
    public void Slow(int latency)
    {
        Cdp("Network.enable");
        Cdp("Network.setCacheDisabled", ("cacheDisabled", latency > 0));
        Cdp("Network.emulateNetworkConditions", ("offline", false), ("latency", latency), ("downloadThroughput", -1), ("uploadThroughput", -1));
    }

    /// <summary>Lets requests for addresses of these forms fail; without any, none.</summary>
    public void Block(params string[] addresses)
    {
        Cdp("Network.enable");
        Cdp("Network.setBlockedURLs", ("urls", addresses));
    }

    /// <summary>Another size of the window, in CSS pixels; half of it each way is what one sees at 200 % zoom.</summary>
    public void Resize(int width, int height) => Cdp("Emulation.setDeviceMetricsOverride", ("width", width), ("height", height), ("deviceScaleFactor", 1), ("mobile", false));

    /// <summary>The page as it would be printed.</summary>
    public void Print(bool on) => Cdp("Emulation.setEmulatedMedia", ("media", on ? "print" : ""));

    public string Title => _driver.Title;

    public void Shoot(string path) => _driver.GetScreenshot().SaveAsFile(path);

    /// <summary>What went wrong in the page since the last call: no error may pass unseen.</summary>
    public IReadOnlyList<string> Troubles() => [.. _driver.Manage().Logs.GetLog(LogType.Browser).Select(l => $"{l.Level} {l.Message}")];

    public T Wait<T>(Func<T?> look, string what)
        where T : class
    {
        var wait = new WebDriverWait(_driver, Patience) { PollingInterval = TimeSpan.FromMilliseconds(50), Message = $"Waited {what}; the page says: " };
        wait.IgnoreExceptionTypes(typeof(StaleElementReferenceException), typeof(ElementClickInterceptedException), typeof(ElementNotInteractableException));
        try
        {
            return wait.Until(_ => look())!;
        }
        catch (WebDriverTimeoutException e)
        {
            throw new InvalidOperationException($"Waited {what}, in vain. The page says:\n{_driver.FindElement(By.TagName("body")).Text}", e);
        }
    }

    public void Dispose()
    {
        _driver.Quit();
        _driver.Dispose();
        App.Dispose();
        _temp.Dispose();
    }

    private void Cdp(string command, params (string Name, object Value)[] parameters) =>
        _driver.ExecuteCdpCommand(command, parameters.ToDictionary(p => p.Name, p => (object?)p.Value));
}
