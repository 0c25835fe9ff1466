using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

public sealed class AppFixture : IDisposable
{
    private readonly TempFolder _temp = new();

    public AppFixture()
    {
        App = HostedApp.Start(_temp.Folder("data"));
        Drive = _temp.Folder("drive");
    }

    internal RunningApp App { get; }

    public string Drive { get; }

    public string Data => Path.Combine(_temp.Path, "data");

    public void Dispose()
    {
        App.Dispose();
        _temp.Dispose();
    }
}

/// <summary>What keeps other web pages, other machines and odd paths out.</summary>
public sealed class SafetyTests(AppFixture fixture) : IClassFixture<AppFixture>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => fixture.App;

    private async Task<HttpStatusCode> Send(HttpMethod method, string path, Action<HttpRequestMessage> change, bool withProof = true)
    {
        using var client = new HttpClient { BaseAddress = App.Address };
        using var request = new HttpRequestMessage(method, path);
        if (method == HttpMethod.Post)
        {
            request.Content = JsonContent.Create(new { name = "x", kind = "Outbox", path = "/nowhere" });
        }
        if (withProof)
        {
            request.Headers.Add("X-Neat-Crate", "1");
        }
        change(request);
        using var response = await client.SendAsync(request, Cancel);
        return response.StatusCode;
    }

    [Theory]
    [InlineData("crate.example")]
    [InlineData("127.0.0.1.crate.example")]
    [InlineData("192.168.1.5")]
    public async Task AnotherHostNameIsRefused(string host) =>
        Assert.Equal(HttpStatusCode.Forbidden, await Send(HttpMethod.Get, "/api/sessions", r => r.Headers.Host = host));

    [Fact]
    public async Task LocalhostByNameIsThisMachine() =>
        Assert.Equal(HttpStatusCode.OK, await Send(HttpMethod.Get, "/api/sessions", r => r.Headers.Host = $"localhost:{App.Address.Port}"));

    [Theory]
    [InlineData("http://crate.example")]
    [InlineData("null")]
    [InlineData("http://127.0.0.1:1")]
    public async Task APageFromElsewhereIsRefusedEvenToRead(string origin)
    {
        Assert.Equal(HttpStatusCode.Forbidden, await Send(HttpMethod.Get, "/api/sessions", r => r.Headers.Add("Origin", origin)));
        Assert.Equal(HttpStatusCode.Forbidden, await Send(HttpMethod.Post, "/api/shelves", r => r.Headers.Add("Origin", origin)));
        Assert.Equal(HttpStatusCode.Forbidden, await Send(HttpMethod.Get, "/hubs/jobs", r => r.Headers.Add("Origin", origin)));
    }

    [Fact]
    public async Task AChangingRequestNeedsTheProofOfOrigin()
    {
        Assert.Equal(HttpStatusCode.Forbidden, await Send(HttpMethod.Post, "/api/shelves", _ => { }, withProof: false));
        Assert.Equal(HttpStatusCode.Forbidden, await Send(HttpMethod.Delete, $"/api/shelves/{Guid.NewGuid()}", _ => { }, withProof: false));
        Assert.Equal(HttpStatusCode.BadRequest, await Send(HttpMethod.Post, "/api/shelves", _ => { }));
        Assert.Equal(HttpStatusCode.NotFound, await Send(HttpMethod.Delete, $"/api/shelves/{Guid.NewGuid()}", _ => { }));
    }

    [Fact]
    public async Task ItListensOnLoopbackAlone()
    {
        Assert.Equal("127.0.0.1", App.Address.Host);
        var listening = await File.ReadAllTextAsync("/proc/net/tcp", Cancel);
        // 0100007F is 127.0.0.1 in the kernel's own order of bytes.
        Assert.Contains($"0100007F:{App.Address.Port:X4} 00000000:0000 0A", listening, StringComparison.Ordinal);
        Assert.DoesNotContain($"00000000:{App.Address.Port:X4} 00000000:0000 0A", listening, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("..")]
    [InlineData("../data")]
    [InlineData("/etc")]
    [InlineData("out")]
    [InlineData("a\0b")]
    public async Task PathsStayOnTheirShelf(string path)
    {
        var drive = Directory.CreateDirectory(Path.Combine(fixture.Drive, Guid.NewGuid().ToString("N"))).FullName;
        Directory.CreateSymbolicLink(Path.Combine(drive, "out"), "/etc");
        var shelf = await App.AddShelf("Drive", "SessionDrive", drive, Cancel);
        using var response = await App.Client.GetAsync($"/api/shelves/{shelf}/folders?path={Uri.EscapeDataString(path)}", Cancel);
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
        var (status, _) = await App.PostRefused("/api/adopt", new { shelfId = shelf, path }, Cancel);
        Assert.Equal(400, status);
    }

    /// <summary>The simulated drives are the demo's own; nothing else on this machine is moved by that request.</summary>
    [Theory]
    [InlineData("unplug")]
    [InlineData("plug")]
    public async Task OnlyTheDemosDrivesCanBeUnplugged(string request)
    {
        var drive = Directory.CreateDirectory(Path.Combine(fixture.Drive, Guid.NewGuid().ToString("N"))).FullName;
        var shelf = await App.AddShelf("Card", "Removable", drive, Cancel);
        Assert.Equal(404, (await App.PostRefused($"/api/shelves/{shelf}/{request}", null, Cancel)).Status);
        Assert.True(Directory.Exists(drive));
    }

    [Theory]
    [InlineData("/api/nothing/here")]
    [InlineData("/api/sessions/00000000-0000-0000-0000-000000000000")]
    public async Task UnknownAddressesAnswerWithAProblemAndNotWithAPage(string path)
    {
        using var response = await App.Client.GetAsync(path, Cancel);
        Assert.Equal(HttpStatusCode.NotFound, response.StatusCode);
        Assert.Equal("application/problem+json", response.Content.Headers.ContentType!.MediaType);
    }

    [Fact]
    public async Task InputThatMakesNoSenseIsRefusedWithASentence()
    {
        var shelf = await App.AddShelf("Odd", "SessionDrive", Directory.CreateDirectory(Path.Combine(fixture.Drive, "odd")).FullName, Cancel);
        var preset = (await App.Get("/api/set-up/presets", Cancel))[0]!;
        JsonObject Choice(int rate, string signature)
        {
            var settings = preset["settings"]!.DeepClone();
            settings["sampleRate"] = rate;
            settings["timeSignature"] = signature;
            return new JsonObject
            {
                ["nameParts"] = preset["nameParts"]!.DeepClone(),
                ["separator"] = " ",
                ["shelfId"] = shelf,
                ["parentPath"] = "",
                ["settings"] = settings,
                ["layout"] = preset["layout"]!.DeepClone(),
                ["tracks"] = new JsonArray(),
            };
        }
        Assert.Equal(400, (await App.PostRefused("/api/set-up/plan", Choice(7, "4/4"), Cancel)).Status);
        Assert.Equal(400, (await App.PostRefused("/api/set-up/plan", Choice(48000, "four"), Cancel)).Status);
        Assert.Equal(400, (await App.PostRefused("/api/set-up/plan", new { name = 3 }, Cancel)).Status);
        await App.Post("/api/set-up/plan", Choice(48000, "4/4"), Cancel);
    }

    [Fact]
    public void ASecondProcessOnTheSameDataSaysSoAndEnds()
    {
        var (code, output) = AppProcess.StartRefused(fixture.Data, "--no-demo");
        Assert.Equal(3, code);
        Assert.Contains("is running with the data folder", output, StringComparison.Ordinal);
        Assert.Equal(2, AppProcess.StartRefused(fixture.Data, "--nonsense").Code);
    }
}
