using System.Text.Json.Nodes;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests.Record;

/// <summary>More sessions than are looked at in a second: each has its turn, and one in which something happens is not lost sight of.</summary>
public sealed class SessionWatchTests : IAsyncLifetime
{
    private const int Sessions = 230;

    private readonly LiveSession _session = new(1, 480);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task OfManyEachHasItsTurn()
    {
        var paths = Enumerable.Range(0, Sessions).Select(n => $"{n:000}").ToArray();
        foreach (var path in paths)
        {
            var folder = Directory.CreateDirectory(Path.Combine(_session.Drive, path)).FullName;
            File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(folder, "in.wav"));
            File.WriteAllText(Path.Combine(folder, "song.loft"), $"<s f=\"in.wav\"/><!-- {path} -->");
        }
        var app = (HostedApp)_session.App;
        await app.JobOver(await app.Post("/api/adopt/many", new { shelfId = _session.DriveId, paths }, Cancel), Cancel);
        var ids = (await app.Get("/api/sessions", Cancel)).AsArray().ToDictionary(s => s!["name"]!.GetValue<string>(), s => s!["id"]!.GetValue<Guid>());
        Assert.Equal(Sessions + 1, ids.Count);
        var kept = app.Service<KeptSessions>();
        long Revision(string name) => kept.Of(ids[name])!.Revision;
        string[] some = ["000", "115", "229", LiveSession.Name];
        // What they were adopted with has to be over first: an awake session is looked at in any case.
        var before = some.ToDictionary(n => n, Revision);
        foreach (var name in some)
        {
            File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(_session.Drive, name, "came.wav"));
        }
        Assert.True(SpinWait.SpinUntil(() => some.All(n => Revision(n) > before[n]), TimeSpan.FromSeconds(20)), "Not every session had its turn.");
        // The same of their saves, more of which stand on one drive than are looked at at once.
        static string Kept(string folder) => Path.Combine(folder, SessionLayout.DocumentBackups);
        foreach (var name in some[..3])
        {
            var folder = Path.Combine(_session.Drive, name);
            var held = Directory.Exists(Kept(folder)) ? Directory.GetFiles(Kept(folder), "song*").Length : 0;
            File.AppendAllText(Path.Combine(folder, "song.loft"), "<!-- saved again -->");
            Assert.True(SpinWait.SpinUntil(() => Directory.Exists(Kept(folder)) && Directory.GetFiles(Kept(folder), "song*").Length > held, TimeSpan.FromSeconds(20)), $"The save of '{name}' was not kept.");
        }
    }
}
