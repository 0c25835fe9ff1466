using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>What is said of a kind of file over the API: it holds at once, for all sessions, and after a restart.</summary>
public sealed class DocumentKindFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(1, 4800);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<int> Say(string ending, bool? isDocument)
    {
        using var answer = await _session.App.Client.PutAsJsonAsync(new Uri($"/api/document-kinds/{ending}", UriKind.Relative), new { isDocument }, Cancel);
        return (int)answer.StatusCode;
    }

    private async Task<string[]> Said() => [.. (await _session.App.Get("/api/document-kinds", Cancel)).AsArray().Select(k => $"{k!["ending"]} {k["isDocument"]}")];

    private async Task<bool> IsUnsure() => (await _session.App.Get($"/api/sessions/{_session.Id}", Cancel))["remarks"]!.AsArray().Any(r => r!.GetValue<string>().Contains("'a.loft'", StringComparison.Ordinal));

    [Fact]
    public async Task ItHoldsAtOnceAndAfterARestart()
    {
        File.WriteAllText(Path.Combine(_session.Folder, "a.loft"), "nothing that looks like a name");
        Assert.True(await IsUnsure());
        Assert.Equal(200, await Say(".LOFT", false));
        Assert.False(await IsUnsure());
        Assert.Equal([".loft false"], await Said());
        _session.App.Dispose();
        _session.Restart();
        Assert.False(await IsUnsure());
        Assert.Equal([".loft false"], await Said());
        Assert.Equal(200, await Say(".loft", null));
        Assert.True(await IsUnsure());
        Assert.Empty(await Said());
    }

    [Theory]
    [InlineData(".wav")]
    [InlineData(".otio")]
    [InlineData("loft")]
    public async Task OfSomeKindsNothingCanBeSaid(string ending)
    {
        Assert.Equal(400, await Say(ending, false));
        Assert.Empty(await Said());
    }
}
