using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Bundles over the API: what each choice weighs, whom it is for, and what does not fit to them.</summary>
public sealed class BundleFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(outsideFiles: 2, samplesEach: 48_000);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Bundles => $"/api/sessions/{_session.Id}/bundles";

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private Task<JsonNode> Plan(string recipient, params string[] parts) =>
        App.Post($"{Bundles}/plan", new { shelfId = _session.OutboxId, path = "", parts, recipient, note = "" }, Cancel);

    private async Task<JsonNode> Keep(object recipient)
    {
        using var answer = await App.Client.PutAsJsonAsync("/api/recipients", recipient, Cancel);
        return JsonNode.Parse(await answer.Content.ReadAsStringAsync(Cancel))!;
    }

    private static string Warnings(JsonNode plan) => string.Join(" ", plan["warnings"]!.AsArray().Select(r => r!.GetValue<string>()));

    /// <summary>What the parts were said to weigh is what the plan packs, printed tracks included, to three in a hundred of the file that comes of it.</summary>
    [Fact]
    public async Task WhatItWeighsIsToldBefore()
    {
        var parts = await App.Get($"{Bundles}/parts", Cancel);
        var all = parts["parts"]!.AsArray().Select(p => p!).ToList();
        Assert.Contains(all, p => p["part"]?.GetValue<string>() == "PrintedTracks");
        var told = all.Sum(p => p["bytes"]!.GetValue<long>());
        var plan = await Plan("", [.. all.Select(p => p["part"]?.GetValue<string>()).OfType<string>()]);
        await App.Apply(plan, Cancel);
        var bundle = Assert.Single((await App.Get(Bundles, Cancel)).AsArray())!;
        Assert.InRange(bundle["bytes"]!.GetValue<long>(), told * 0.97, told * 1.03);
    }

    private Task<JsonNode> Plan(string form, long partBytes, bool packsSound) =>
        App.Post($"{Bundles}/plan", new { shelfId = _session.OutboxId, path = "", parts = (string[]?)null, recipient = "", note = "", form, partBytes, packsSound }, Cancel);

    /// <summary>Each part is downloaded by itself, and goes on at the byte where it was cut off (RFC 9110, section 14); nothing else of the shelf is.</summary>
    [Fact]
    public async Task PartsAreDownloadedOneByOne()
    {
        await App.Apply(await Plan("Parts", 100_000, false), Cancel);
        var bundle = Assert.Single((await App.Get(Bundles, Cancel)).AsArray())!;
        var files = bundle["files"]!.AsArray().Select(f => f!.GetValue<string>()).ToList();
        Assert.Contains("Check sums.sha512", files);
        var parts = files.Where(f => f.Contains(".zip.", StringComparison.Ordinal)).ToList();
        Assert.True(parts.Count > 1);
        Assert.True(bundle["there"]!.GetValue<bool>());
        var address = $"{Bundles}/{bundle["planId"]!.GetValue<Guid>()}/files/";
        // As whoever gets it finds it, and so again after one part went.
        var opened = await App.Get($"{Bundles}/{bundle["planId"]!.GetValue<Guid>()}/opened", Cancel);
        Assert.All(opened["tracks"]!.AsArray(), t => Assert.True(t!["opening"]!.GetValue<string>() is "Sounds" or "Quiet", t.ToJsonString()));
        Assert.Equal(files.Count, opened["handedOver"]!.AsArray().Count);
        var whole = await App.Client.GetByteArrayAsync(new Uri(address + Uri.EscapeDataString(parts[0]), UriKind.Relative), Cancel);
        Assert.Equal(100_000, whole.Length);
        using var request = new HttpRequestMessage(HttpMethod.Get, new Uri(address + Uri.EscapeDataString(parts[0]), UriKind.Relative));
        request.Headers.Range = new(60_000, null);
        using var rest = await App.Client.SendAsync(request, Cancel);
        Assert.Equal(206, (int)rest.StatusCode);
        Assert.Equal(whole[60_000..], await rest.Content.ReadAsByteArrayAsync(Cancel));
        // What somebody put in its place, or beside it, and leads elsewhere is not sent.
        File.CreateSymbolicLink(Path.Combine(_session.Outbox, bundle["name"]!.GetValue<string>(), "elsewhere.zip.001"), "/etc/hostname");
        foreach (var other in new[] { "elsewhere.zip.001", "nothing.zip.001", "..%2Fsomebody.txt", "%2Fetc%2Fpasswd" })
        {
            using var none = await App.Client.GetAsync(new Uri(address + other, UriKind.Relative), Cancel);
            Assert.Equal(404, (int)none.StatusCode);
        }
    }

    /// <summary>A folder stands where it was packed, and is no download; packed away by somebody it is said not to be there.</summary>
    [Fact]
    public async Task AFolderStandsWhereItWasPacked()
    {
        await App.Apply(await Plan("Folder", 0, true), Cancel);
        var bundle = Assert.Single((await App.Get(Bundles, Cancel)).AsArray())!;
        Assert.Empty(bundle["files"]!.AsArray());
        Assert.True(bundle["there"]!.GetValue<bool>());
        using var none = await App.Client.GetAsync(new Uri($"{Bundles}/{bundle["planId"]!.GetValue<Guid>()}/file", UriKind.Relative), Cancel);
        Assert.Equal(404, (int)none.StatusCode);
        Directory.Delete(Path.Combine(_session.Outbox, bundle["name"]!.GetValue<string>()), true);
        using var gone = await App.Client.GetAsync(new Uri($"{Bundles}/{bundle["planId"]!.GetValue<Guid>()}/opened", UriKind.Relative), Cancel);
        Assert.Equal(404, (int)gone.StatusCode);
        Assert.False(Assert.Single((await App.Get(Bundles, Cancel)).AsArray())!["there"]!.GetValue<bool>());
        Assert.Contains("A part has at least", (await Plan("Parts", 5, false))["refusals"]!.ToJsonString(), StringComparison.Ordinal);
    }

    /// <summary>Of a recipient is kept what they have and do; it is there after a restart, says what to send them, and can be forgotten.</summary>
    [Fact]
    public async Task WhatIsKnownOfSomebodyIsKept()
    {
        var idris = new { name = " Idris Falk ", work = "Mix", readsDocument = true, hasStockContent = true, system = "Windows", limitBytes = 25_000_000L, has = new[] { "Loft chamber", " loft chamber", "" } };
        var all = (await Keep(idris)).AsArray();
        Assert.Equal(["Idris Falk", "Myself, as an archive", "A stranger with another program"], all.Select(r => r!["recipient"]!["name"]!.GetValue<string>()));
        Assert.Equal("""["Loft chamber"]""", all[0]!["recipient"]!["has"]!.ToJsonString());
        Assert.Equal(["Renders", "Bounces", "Video", "OtherFiles"], all[0]!["parts"]!.AsArray().Select(p => p!.GetValue<string>()));
        Assert.Contains("PrintedTracks", all[2]!["parts"]!.ToJsonString(), StringComparison.Ordinal);
        Assert.Contains("KeptSaves", all[1]!["parts"]!.ToJsonString(), StringComparison.Ordinal);
        App.Dispose();
        _session.Restart();
        Assert.Equal(3, (await App.Get("/api/recipients", Cancel)).AsArray().Count);
        // The same name in other letters is the same person.
        Assert.Equal(3, (await Keep(new { name = "IDRIS FALK", work = "Listen", readsDocument = true, hasStockContent = false, system = "Any", has = Array.Empty<string>() })).AsArray().Count);
        using var gone = await App.Client.DeleteAsync(new Uri("/api/recipients/idris%20falk", UriKind.Relative), Cancel);
        Assert.Equal(2, (await App.Get("/api/recipients", Cancel)).AsArray().Count);
        using var none = await App.Client.DeleteAsync(new Uri("/api/recipients/idris%20falk", UriKind.Relative), Cancel);
        Assert.Equal(404, (int)none.StatusCode);
    }

    /// <summary>What does not fit to whom it is for is said before it is packed: too large, not to be read, and each goes once it is mended.</summary>
    [Fact]
    public async Task WhatDoesNotFitToThemIsSaid()
    {
        await Keep(new { name = "Idris Falk", work = "Mix", readsDocument = false, hasStockContent = false, system = "Windows", limitBytes = 1000L, has = Array.Empty<string>() });
        var plan = await Plan("idris falk");
        Assert.Contains("what reaches Idris Falk is at most 1 kB", Warnings(plan), StringComparison.Ordinal);
        // With each goes what can be done about it; what nothing can be done about in one step is a warning alone.
        var findings = plan["findings"]!.AsArray().ToDictionary(f => f!["sentence"]!.GetValue<string>(), f => f!["remedies"]!.ToJsonString());
        Assert.Equal("""["InParts","PackSound"]""", findings.Single(f => f.Key.Contains("at most 1 kB", StringComparison.Ordinal)).Value);
        Assert.Equal("""["PrintTracks"]""", findings.Single(f => f.Key.Contains("no program that reads", StringComparison.Ordinal)).Value);
        Assert.All(findings.Keys, s => Assert.Contains(s, Warnings(plan), StringComparison.Ordinal));
        Assert.Contains("Idris Falk has no program that reads the document.", Warnings(plan), StringComparison.Ordinal);
        Assert.DoesNotContain("no program that reads", Warnings(await Plan("idris falk", "PrintedTracks")), StringComparison.Ordinal);
        Assert.DoesNotContain("Idris", Warnings(await Plan("somebody")), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("""{"name":" ","work":"Mix","readsDocument":true,"hasStockContent":false,"system":"Any","limitBytes":null,"has":[]}""")]
    [InlineData("""{"name":"x","work":"Mix","readsDocument":true,"hasStockContent":false,"system":"Any","limitBytes":-1,"has":[]}""")]
    [InlineData("""{"name":"x","work":"Dance","readsDocument":true,"hasStockContent":false,"system":"Any","limitBytes":null,"has":[]}""")]
    [InlineData("""{"name":"x","work":"Mix","readsDocument":true,"hasStockContent":false,"system":"Any","limitBytes":null,"has":null}""")]
    public async Task WhatMakesNoSenseIsRefused(string body)
    {
        using var content = new StringContent(body, System.Text.Encoding.UTF8, "application/json");
        using var answer = await App.Client.PutAsync(new Uri("/api/recipients", UriKind.Relative), content, Cancel);
        Assert.Equal(400, (int)answer.StatusCode);
    }
}
