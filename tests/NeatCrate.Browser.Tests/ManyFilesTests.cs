using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Browser.Tests;

/// <summary>Lists of many files: of a session with 50,000, which never stands still for long, and of the catalogue, both of which come in parts.</summary>
public sealed class ManyFilesTests : IDisposable
{
    private const int Files = 50_000;

    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    [Fact]
    public async Task TheListMakesOnlyWhatIsInSightAndFiltersAll()
    {
        var cancel = TestContext.Current.CancellationToken;
        var (_, id) = await AdoptBig(Files, cancel);
        _browser.Open($"/sessions/{id}/set-up");
        _browser.See("50,000 files", ".files-list-count");

        // Through the whole list in forty jumps, a frame each: only what is in sight is ever made, wherever the list stands.
        var most = (long)_browser.ScriptAsync("""
            const done = arguments[arguments.length - 1];
            const scroller = document.querySelector('.files-scroller');
            let [most, n] = [0, 0];
            const step = () => {
              most = Math.max(most, document.querySelectorAll('.files-rows .files-row').length);
              if (n++ === 40) { done(most); return; }
              scroller.scrollTop = n * (scroller.scrollHeight - scroller.clientHeight) / 40;
              requestAnimationFrame(step);
            };
            requestAnimationFrame(step);
            """)!;
        Assert.InRange(most, 5, 100);
        _browser.See("take 49999.wav", ".files-rows");

        _browser.Keys("/");
        _browser.Keys("4999");
        // Five that end so, and ten that begin so.
        _browser.See("15 of 50,000 files", ".files-list-count");
        Assert.Equal(15, _browser.All(".files-rows .files-row").Count);
        _browser.Keys(OpenQA.Selenium.Keys.Escape);
        _browser.See("50,000 files", ".files-list-count");
        // The keyboard reaches the last of them at once.
        _browser.Keys(OpenQA.Selenium.Keys.Home);
        _browser.See("take 00000.wav", ".files-rows");
        _browser.Keys(OpenQA.Selenium.Keys.End);
        _browser.See("take 49999.wav", ".files-row.files-active");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>A take that grows stands in the list while it grows, and its size goes along: what is told many times is asked for once at a time.</summary>
    [Fact]
    public async Task ATakeThatGrowsIsInTheListOfABigSessionWhileItGrows()
    {
        var cancel = TestContext.Current.CancellationToken;
        var (_, id) = await AdoptBig(20_000, cancel);
        _browser.Open($"/sessions/{id}/record");
        _browser.See("20,000 files", ".files-list-count");
        var path = Path.Combine(_browser.Shelf("Session drive"), "261101 Big", "Audio", "Voice 01.wav");
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        // Another program records: a header first, then samples, many times a second.
        var recording = Task.Run(
            async () =>
            {
                await using var stream = new FileStream(path, FileMode.Create, FileAccess.Write, FileShare.Read);
                using var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24));
                while (!ends.IsCancellationRequested)
                {
                    writer.Write(new int[4800]);
                    await stream.FlushAsync(CancellationToken.None);
                    await Task.Delay(50, CancellationToken.None);
                }
            },
            cancel);
        try
        {
            _browser.See("Voice 01.wav", ".files-rows");
            _browser.See("growing", ".files-rows");
            string Size() => _browser.Wait(() => _browser.All(".files-rows .files-row").FirstOrDefault(r => r.Text.Contains("Voice 01.wav", StringComparison.Ordinal)), "for the take").Text;
            var first = Size();
            _browser.Wait(() => Size() != first ? this : null, "for its size to grow");
            // Questions that are asked again before they are answered are answered never; of these most are, however busy the machine is.
            var given = (string)_browser.Script("""
                const asked = performance.getEntriesByType('resource').filter(r => r.name.includes('/files?') || r.name.endsWith('/sessions'));
                return `${asked.length} ${asked.filter(r => r.responseStatus === 200).length}`;
                """)!;
            var (asked, answered) = (int.Parse(given.Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture), int.Parse(given.Split(' ')[1], System.Globalization.CultureInfo.InvariantCulture));
            Assert.InRange(answered, asked / 2, asked);
        }
        finally
        {
            await ends.CancelAsync();
            await recording;
        }
        _browser.SeeNoMore("growing", ".files-rows");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Work on thousands of files leaves the page free: it asks for little meanwhile, and says that it stops before the server has heard of it.</summary>
    [Fact]
    public async Task WorkOfManyFilesIsStoppedAtOnceAndAsksForLittle()
    {
        var (_, id) = await AdoptBig(2_500, TestContext.Current.CancellationToken);
        _browser.Open($"/sessions/{id}/bundle");
        _browser.See("Pack 2,50", ".plans-tray");
        _browser.Wait(() => _browser.Find(".plans-tray .ant-btn-primary").Enabled ? this : null, "for the plan");
        // In the page itself: no browser that is driven from outside is as quick as a hand on a key.
        // Where the server is as quick, it is stopped already.
        Assert.Matches("Stopping|Cancelled", (string)_browser.ScriptAsync("""
            const done = arguments[arguments.length - 1];
            const tray = () => document.querySelector('.plans-tray');
            const cancel = () => [...tray().querySelectorAll('button')].find(b => b.textContent === 'Cancel' && !b.disabled && tray().querySelector('[role=progressbar]'));
            performance.clearResourceTimings();
            const look = () => {
              const button = cancel();
              if (!button) return requestAnimationFrame(look);
              button.click();
              requestAnimationFrame(() => requestAnimationFrame(() => done(tray().textContent)));
            };
            tray().querySelector('.ant-btn-primary').click();
            look();
            """)!);
        _browser.SeeNoMore("Stopping", ".plans-tray");
        _browser.See("Close", ".plans-tray");
        Assert.Empty(Directory.GetFileSystemEntries(_browser.Shelf("Outbox")));
        Assert.InRange((long)_browser.Script("return performance.getEntriesByType('resource').filter(r => r.name.includes('/api/')).length")!, 1, 25);
        Assert.Empty(_browser.Troubles());
    }

    [Fact]
    public async Task TheCatalogueIsSortedAsAWholeAndComesToItsEnd()
    {
        var cancel = TestContext.Current.CancellationToken;
        var (shelf, id) = await AdoptBig(2_500, cancel);
        await _browser.App.Scan(shelf, cancel);
        // As another session sees it that asks for the drive: takes of other sessions are not offered to it unasked.
        _browser.Open(_browser.SessionOf("Net Mender") + "/copy-in");
        _browser.Pick("Something new");
        _browser.Find("[data-list=catalogue]");
        _browser.Choose(".copy-in-catalogue-search", "Session drive");
        _browser.See("2,6", ".files-list-count");
        _browser.Wait(() => _browser.All("[data-list=catalogue] th button").FirstOrDefault(b => b.Text == "Name"), "for the head of the column").Click();
        // The last by name of all, which stood in no part that came at first.
        _browser.See("Voice 7", "[data-list=catalogue] .files-rows");
        _browser.Find("[data-list=catalogue] .files-rows .files-row").Click();
        // The keyboard reaches the end at once, and half of the way what came in no part yet.
        _browser.Keys(OpenQA.Selenium.Keys.End);
        _browser.See("Bell 01.wav", ".files-row.files-active");
        _browser.Keys(OpenQA.Selenium.Keys.Home);
        _browser.Find("[data-list=catalogue] .files-row.files-active[aria-rowindex='2']");
        _browser.Script("const s = document.querySelector('.files-scroller'); s.scrollTop = s.scrollHeight / 2");
        _browser.See("take 0", "[data-list=catalogue] .files-rows");
        // One in the middle of those that are made: the first stand behind the head.
        _browser.Wait(() => _browser.All("[data-list=catalogue] .files-rows .files-row") is { Count: > 20 } rows ? rows[rows.Count / 2] : null, "for rows of the session").Click();
        _browser.Find("[data-list=catalogue] .files-row.files-active .standing-mark-standing[data-standing=Outside]");

        // A long list of what a bundle holds is cut; what is counted is the whole of it.
        _browser.Open($"/sessions/{id}/bundle");
        _browser.See("Pack 2,50", ".plans-tray");
        _browser.Click("1 step", ".plans-tray");
        _browser.See("2,50", ".plans-steps summary");
        _browser.See("And 50", ".plans-steps");
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Makes a session of so many files on the session drive and adopts it; gives the identities of the shelf and of the session.</summary>
    private async Task<(string Shelf, string Session)> AdoptBig(int files, CancellationToken cancel)
    {
        MakeSession(Path.Combine(_browser.Shelf("Session drive"), "261101 Big"), files);
        var shelf = (await _browser.App.Get("/api/shelves", cancel)).AsArray().Single(s => s!["name"]!.GetValue<string>() == "Session drive")!["id"]!.GetValue<string>();
        return (shelf, await _browser.App.Adopt(shelf, "261101 Big", cancel));
    }

    private static void MakeSession(string folder, int files)
    {
        var audio = Directory.CreateDirectory(Path.Combine(folder, "Audio")).FullName;
        using var stream = new MemoryStream();
        using (var writer = new WavWriter(stream, new PcmFormat(48000, 1, 16)))
        {
            writer.Write(new int[480]);
        }
        var bytes = stream.ToArray();
        Parallel.For(0, files, n => File.WriteAllBytes(Path.Combine(audio, $"take {n:00000}.wav"), bytes));
        File.WriteAllBytes(
            Path.Combine(folder, "261101 Big.otio"),
            SessionDocument.Create(Guid.NewGuid(), "261101 Big", new SessionSettings(), SessionLayout.Default, ["Voice"]).ToUtf8());
    }
}
