using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests.Hosting;

/// <summary>What every answer carries, and how a request that makes no sense is answered.</summary>
public sealed class AnswersTests(AnswersTests.Known known) : IClassFixture<AnswersTests.Known>
{
    /// <summary>One application with one session, for all of these.</summary>
    public sealed class Known : IAsyncLifetime
    {
        internal LiveSession Session { get; } = new(1, 4800);

        public async ValueTask InitializeAsync() => await Session.Know(TestContext.Current.CancellationToken);

        public ValueTask DisposeAsync()
        {
            Session.Dispose();
            return ValueTask.CompletedTask;
        }
    }

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => known.Session.App;

    private async Task<HttpResponseMessage> Send(string method, string path, Action<HttpRequestMessage>? change = null, string? body = null)
    {
        using var client = new HttpClient(new SocketsHttpHandler { AutomaticDecompression = DecompressionMethods.None }) { BaseAddress = App.Address };
        using var request = new HttpRequestMessage(new HttpMethod(method), path.Replace("{session}", known.Session.Id, StringComparison.Ordinal).Replace("{shelf}", known.Session.DriveId, StringComparison.Ordinal));
        request.Headers.Add("X-Neat-Crate", "1");
        if (body is not null)
        {
            request.Content = new StringContent(body, Encoding.UTF8, "application/json");
        }
        change?.Invoke(request);
        return await client.SendAsync(request, Cancel);
    }

    [Theory]
    [InlineData("/api/shelves")]
    [InlineData("/API/Shelves")]
    [InlineData("/api/shelves/")]
    public async Task TheProofOfOriginIsAskedForHoweverTheAddressIsWritten(string path)
    {
        using var answer = await Send("POST", path, r => r.Headers.Remove("X-Neat-Crate"), """{"name":"x","kind":"Outbox","path":"/"}""");
        Assert.Equal(HttpStatusCode.Forbidden, answer.StatusCode);
    }

    [Theory]
    [InlineData("xn--")]
    [InlineData("xn--a")]
    [InlineData("[::")]
    [InlineData("a b")]
    public async Task AHostThatIsNoNameIsRefused(string host)
    {
        using var answer = await Send("GET", "/api/sessions", r => r.Headers.TryAddWithoutValidation("Host", host));
        Assert.True(answer.StatusCode is HttpStatusCode.Forbidden or HttpStatusCode.BadRequest, $"{answer.StatusCode}");
    }

    /// <summary>W3C, Fetch Metadata Request Headers: a page of elsewhere that reads without sending an origin, as an image does.</summary>
    [Theory]
    [InlineData("cross-site", HttpStatusCode.Forbidden)]
    [InlineData("same-site", HttpStatusCode.Forbidden)]
    [InlineData("same-origin", HttpStatusCode.OK)]
    [InlineData("none", HttpStatusCode.OK)]
    public async Task WhatABrowserCallsCrossSiteIsNotAnswered(string site, HttpStatusCode expected)
    {
        using var answer = await Send("GET", "/api/sessions", r => r.Headers.Add("Sec-Fetch-Site", site));
        Assert.Equal(expected, answer.StatusCode);
    }

    [Theory]
    [InlineData("GET", "/", 200)]
    [InlineData("GET", "/api/sessions", 200)]
    [InlineData("GET", "/api/sessions/00000000-0000-0000-0000-000000000000", 404)]
    [InlineData("GET", "/api/nothing", 404)]
    [InlineData("POST", "/api/set-up/plan", 400)]
    [InlineData("GET", "/health", 200)]
    public async Task EveryAnswerIsProtected(string method, string path, int status)
    {
        using var answer = await Send(method, path, body: method == "POST" ? "{" : null);
        Assert.Equal(status, (int)answer.StatusCode);
        Assert.Contains("frame-ancestors 'none'", Assert.Single(answer.Headers.GetValues("Content-Security-Policy")), StringComparison.Ordinal);
        Assert.Equal("nosniff", Assert.Single(answer.Headers.GetValues("X-Content-Type-Options")));
        Assert.False(answer.Headers.Contains("Server"));
    }

    [Fact]
    public async Task ItTellsThatItIsHealthy()
    {
        using var answer = await Send("GET", "/health");
        Assert.Equal("Healthy", await answer.Content.ReadAsStringAsync(Cancel));
    }

    [Fact]
    public async Task AnswersAreCompressedForWhomeverTakesThat()
    {
        using var plain = await Send("GET", "/api/sessions/{session}");
        using var compressed = await Send("GET", "/api/sessions/{session}", r => r.Headers.Add("Accept-Encoding", "gzip, deflate, br"));
        Assert.Equal(["gzip"], compressed.Content.Headers.ContentEncoding);
        var (all, few) = ((await plain.Content.ReadAsByteArrayAsync(Cancel)).Length, (await compressed.Content.ReadAsByteArrayAsync(Cancel)).Length);
        Assert.True(few < all, $"{few} bytes instead of {all}");
    }

    [Fact]
    public async Task ABrowserKeepsForEverWhatNeverChangesAndAsksForAllElse()
    {
        using var page = await Send("GET", "/");
        Assert.True(page.Headers.CacheControl!.NoCache);
        var script = System.Text.RegularExpressions.Regex.Match(await page.Content.ReadAsStringAsync(Cancel), "/assets/[^\"]+\\.js").Value;
        using var asset = await Send("GET", script);
        Assert.Equal((HttpStatusCode.OK, TimeSpan.FromDays(365)), (asset.StatusCode, asset.Headers.CacheControl!.MaxAge));
    }

    public static TheoryData<string, string, string?> Nonsense => new()
    {
        { "POST", "/api/sessions/{session}/copy-in/marks", "{}" },
        { "POST", "/api/sessions/{session}/copy-in/marks", """{"place":null,"fileIds":[null],"taken":true}""" },
        { "POST", "/api/sessions/{session}/copy-in/marks", """{"place":"/a","fileIds":["b"],"taken":true}""" },
        { "POST", "/api/sessions/{session}/record/takes/plan", """{"leftOut":[null]}""" },
        { "GET", "/api/sessions/{session}/files?order=Sideways", null },
        { "GET", "/api/sessions/{session}/files?order=99", null },
        { "GET", "/api/sessions/{session}/files?segment=Inside", null },
        { "GET", "/api/sessions/{session}/files?segment=9.9", null },
        { "GET", "/api/sessions/{session}/files?skip=1e9", null },
        { "GET", "/api/sessions/{session}/files?text=" + new string('a', 1001), null },
        { "GET", "/api/sessions/{session}/files/ids?grouping=Sideways", null },
        { "POST", "/api/sessions/{session}/import/plan", "{}" },
        { "POST", "/api/sessions/{session}/import/plan", """{"catalogueIds":null,"uploadIds":[],"byReference":false,"convert":false,"track":null,"atSeconds":0}""" },
        { "POST", "/api/sessions/{session}/import/plan", """{"catalogueIds":[1e99],"uploadIds":[],"byReference":false,"convert":false,"track":null,"atSeconds":0}""" },
        { "POST", "/api/sessions/{session}/import/plan", $$"""{"catalogueIds":[{{string.Join(',', Enumerable.Range(0, 20_000))}}],"uploadIds":[],"byReference":false,"convert":false,"track":null,"atSeconds":0}""" },
        { "POST", "/api/sessions/{session}/import/plan", """{"catalogueIds":[],"uploadIds":["x"],"byReference":"yes","convert":false,"track":null,"atSeconds":"NaN"}""" },
        { "POST", "/api/sessions/{session}/record/start", """{"tracks":[null],"seconds":1,"fromSeconds":0,"pass":null,"speed":1,"cutPowerAfter":null}""" },
        { "POST", "/api/sessions/{session}/record/start", """{"tracks":[],"seconds":-1,"fromSeconds":0,"pass":0,"speed":1e9,"cutPowerAfter":null}""" },
        { "POST", "/api/sessions/{session}/record/takes/plan", "[]" },
        { "POST", "/api/sessions/{session}/version/plan", """{"naming":99,"archiveOlder":true}""" },
        { "POST", "/api/sessions/{session}/version/plan", """{"naming":"Soon","archiveOlder":true}""" },
        { "POST", "/api/sessions/{session}/version/plan", "" },
        { "POST", "/api/sessions/{session}/settings/plan", """{"settings":null,"newTracks":[]}""" },
        { "POST", "/api/sessions/{session}/settings/plan", """{"settings":{"sampleRate":48000,"bitDepth":99,"tempo":-1,"timeSignature":"four"},"newTracks":[null]}""" },
        { "POST", "/api/sessions/{session}/bundles/plan", """{"shelfId":"{shelf}","path":null}""" },
        { "PUT", "/api/sessions/{session}/document", """{"document":"../../etc/passwd"}""" },
        { "PUT", "/api/sessions/{session}/document", "{}" },
        { "POST", "/api/shelves", """{"name":"x","kind":99,"path":"/tmp"}""" },
        { "POST", "/api/shelves", """{"name":"","kind":"Outbox","path":"/tmp"}""" },
        { "POST", "/api/shelves", """{"name":"x","kind":"Outbox","path":"relative"}""" },
        { "POST", "/api/adopt", """{"shelfId":"{shelf}"}""" },
        { "POST", "/api/adopt/look", """{"shelfId":"no","path":""}""" },
        { "GET", "/api/catalogue?order=99", null },
        { "GET", "/api/catalogue?order=Sideways", null },
        { "GET", "/api/catalogue?minSeconds=NaN", null },
        { "GET", "/api/catalogue?skip=1e9", null },
        { "GET", "/api/catalogue?text=" + string.Join('+', Enumerable.Repeat("a", 400)), null },
        { "GET", "/api/catalogue/0/audio", null },
        { "GET", "/api/catalogue/9999999999999999999999/audio", null },
        { "GET", "/api/sessions/{session}/record?armed=many", null },
        { "GET", "/api/sessions/none", null },
        { "GET", "/api/shelves/{shelf}/folders?path=%00", null },
        { "POST", "/api/plans/{session}/apply", null },
        { "DELETE", "/api/notices/none", null },
        { "PUT", "/api/set-up/presets", """{"name":"x"}""" },
    };

    [Theory]
    [MemberData(nameof(Nonsense))]
    public async Task ARequestThatMakesNoSenseIsRefusedWithASentence(string method, string path, string? body)
    {
        using var answer = await Send(method, path, body: body?.Replace("{shelf}", known.Session.DriveId, StringComparison.Ordinal));
        Assert.InRange((int)answer.StatusCode, 400, 499);
        Assert.Equal("application/problem+json", answer.Content.Headers.ContentType?.MediaType);
        var problem = JsonNode.Parse(await answer.Content.ReadAsStringAsync(Cancel))!;
        Assert.True(problem["title"]!.GetValue<string>().Length > 8, problem.ToJsonString());
        // The application goes on.
        using var after = await Send("GET", "/health");
        Assert.Equal(HttpStatusCode.OK, after.StatusCode);
    }

    [Theory]
    [InlineData("/")]
    [InlineData("/proc")]
    [InlineData("/sys/class")]
    [InlineData("/dev")]
    public async Task TheOperatingSystemsOwnFoldersAreNoShelves(string path)
    {
        var (status, problem) = await App.PostRefused("/api/shelves", new { name = "x", kind = "OwnLibrary", path }, Cancel);
        Assert.Equal(400, status);
        Assert.Contains("belongs to the operating system", problem["title"]!.GetValue<string>(), StringComparison.Ordinal);
    }

    /// <summary>Housekeeping deletes there: no take may ever stand in its way, by a link neither.</summary>
    [Fact]
    public async Task TheDataFolderIsNoShelfNorInOneNorAboveOne()
    {
        var root = known.Session.Root;
        Directory.CreateSymbolicLink(Path.Combine(root, "by a link"), Path.Combine(root, "data"));
        Directory.CreateDirectory(Path.Combine(root, "data", "uploads"));
        foreach (var path in new[] { root, Path.Combine(root, "data"), Path.Combine(root, "data", "uploads"), Path.Combine(root, "by a link") })
        {
            var (status, problem) = await App.PostRefused("/api/shelves", new { name = "x", kind = "SessionDrive", path }, Cancel);
            Assert.Equal(400, status);
            Assert.Contains("Neat Crate keeps its own data", problem["title"]!.GetValue<string>(), StringComparison.Ordinal);
        }
    }

    [Fact]
    public async Task SoundThatCannotBeReadIsSaidToBeUnreadable()
    {
        await File.WriteAllTextAsync(Path.Combine(known.Session.Library, "broken.wav"), "RIFF, but not really", Cancel);
        var library = (await App.Get("/api/shelves", Cancel)).AsArray().Single(s => s!["name"]!.GetValue<string>() == "Loft samples")!["id"]!.GetValue<string>();
        await App.Scan(library, Cancel);
        var file = Assert.Single((await App.Get("/api/catalogue?text=broken", Cancel))["files"]!.AsArray())!;
        using var answer = await Send("GET", $"/api/catalogue/{file["id"]}/audio");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, answer.StatusCode);
        Assert.Equal("MediaStartsOtherwise", JsonNode.Parse(await answer.Content.ReadAsStringAsync(Cancel))!["code"]!.GetValue<string>());
    }
}
