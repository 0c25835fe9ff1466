using System.Net;
using System.Net.Http.Headers;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Sounds seen and heard: outlines, ranges, and what a browser cannot play decoded on the way.</summary>
public sealed class ListeningTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(1, 48_000);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        Directory.CreateDirectory(Path.Combine(_session.Folder, "Audio"));
        Tool.Run("sox", "-n", "-r", "48000", "-b", "24", "-c", "2", Path.Combine(_session.Folder, "Audio", "tone.aiff"), "synth", "1", "sine", "440", "gain", "-6");
        Tool.Run("sox", Path.Combine(_session.Folder, "Audio", "tone.aiff"), Path.Combine(_session.Folder, "Audio", "tone.flac"));
        File.WriteAllText(Path.Combine(_session.Folder, "Audio", "broken.flac"), "no sound");
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<JsonNode> FileNamed(string name) =>
        (await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]!.AsArray().Single(f => f!["name"]!.GetValue<string>() == name)!;

    private async Task<HttpResponseMessage> Get(string name, string what, RangeHeaderValue? range = null)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, $"/api/sessions/{_session.Id}/files/{(await FileNamed(name))["id"]}/{what}");
        request.Headers.Range = range;
        return await App.Client.SendAsync(request, Cancel);
    }

    [Fact]
    public async Task EveryFormatIsTold()
    {
        foreach (var (name, container) in new[] { ("sample 00.wav", "WAV"), ("tone.aiff", "AIFF"), ("tone.flac", "FLAC") })
        {
            var file = await FileNamed(name);
            Assert.Equal((container, 48000, 48000L), (file["container"]!.GetValue<string>(), file["sampleRate"]!.GetValue<int>(), file["lengthSamples"]!.GetValue<long>()));
        }
        Assert.Contains("does not start as a FLAC", (await FileNamed("broken.flac"))["problem"]!.GetValue<string>(), StringComparison.Ordinal);
    }

    /// <summary>How loud a file is, kept, and made again where what was kept is cut short. SoX made the tone 6 dB below full scale.</summary>
    [Fact]
    public async Task TheLevelOfAToneIsToldAlsoWhenWhatWasKeptIsDamaged()
    {
        var cache = Directory.CreateDirectory(Path.Combine(_session.Folder, ".waveforms")).FullName;
        foreach (var state in new[] { "made", "kept", "damaged" })
        {
            if (state == "damaged")
            {
                File.WriteAllBytes(Assert.Single(Directory.EnumerateFiles(cache, "*.level")), [1, 2]);
            }
            using var response = await Get("tone.aiff", "level");
            var level = JsonNode.Parse(await response.Content.ReadAsStringAsync(Cancel))!;
            Assert.Equal(-6, level["decibels"]!.GetValue<double>(), 0.02);
            Assert.False(level["isClipped"]!.GetValue<bool>());
        }
        using var broken = await Get("broken.flac", "level");
        Assert.Equal(HttpStatusCode.NotFound, broken.StatusCode);
    }

    /// <summary>Folders of the machine are told, and what is none is answered as such.</summary>
    [Theory]
    [InlineData("relative", 400)]
    [InlineData("/no such folder", 400)]
    [InlineData("/%00", 400)]
    [InlineData("/", 200)]
    [InlineData("", 200)]
    public async Task FoldersOfTheMachineAreTold(string path, int expected)
    {
        using var response = await App.Client.GetAsync(new Uri($"/api/machine/folders?path={path}", UriKind.Relative), Cancel);
        Assert.Equal(expected, (int)response.StatusCode);
    }

    [Theory]
    [InlineData("tone.aiff")]
    [InlineData("tone.flac")]
    public async Task TheOutlineOfAToneReachesItsLoudness(string name)
    {
        foreach (var _ in new[] { "made", "kept" })
        {
            using var response = await Get(name, "peaks?stretches=100");
            var pairs = await response.Content.ReadAsByteArrayAsync(Cancel);
            Assert.Equal(200, pairs.Length);
            // -6 dB is half of full scale: 127 times 10^(-6/20) is 63.6.
            Assert.All(pairs.Chunk(2), p => Assert.Equal(((sbyte)-64, (sbyte)64), ((sbyte)p[0], (sbyte)p[1])));
        }
        Assert.Single(Directory.GetFiles(Path.Combine(_session.Root, "data", "peaks")));
        Assert.DoesNotContain(Directory.EnumerateFileSystemEntries(_session.Folder, "*", SearchOption.AllDirectories), f => f.Contains("peaks", StringComparison.Ordinal));
    }

    [Fact]
    public async Task WhileSomethingRecordsNoOutlineIsMade()
    {
        await App.Post($"/api/sessions/{_session.Id}/record/start", new { tracks = new JsonArray("Samples"), seconds = 80_000, fromSeconds = 0, speed = 20 }, Cancel);
        using var during = await Get("tone.flac", "peaks");
        Assert.Equal(HttpStatusCode.NoContent, during.StatusCode);
        await App.Post($"/api/sessions/{_session.Id}/record/stop", null, Cancel);
        using var after = await Get("tone.flac", "peaks");
        Assert.Equal(HttpStatusCode.OK, after.StatusCode);
    }

    /// <summary>A row asks for the outline of a file that is being set aside at this moment: there is none, and it is no error.</summary>
    [Fact]
    public async Task AFileThatJustLeftHasNoOutline()
    {
        var address = new Uri($"/api/sessions/{_session.Id}/files/{(await FileNamed("tone.flac"))["id"]}/peaks", UriKind.Relative);
        File.Delete(Path.Combine(_session.Folder, "Audio", "tone.flac"));
        Assert.Equal(HttpStatusCode.NoContent, (await App.Client.GetAsync(address, Cancel)).StatusCode);
        await App.Get($"/api/sessions/{_session.Id}/files", Cancel);
        Assert.Equal(HttpStatusCode.NoContent, (await App.Client.GetAsync(address, Cancel)).StatusCode);
    }

    /// <summary>A file is found without looking at the whole session again, but never as it was before it changed.</summary>
    [Fact]
    public async Task AFileThatChangedIsHeardAndSeenAsItIsNow()
    {
        using var before = await Get("tone.flac", "peaks?stretches=10");
        var path = Path.Combine(_session.Folder, "Audio", "tone.flac");
        var id = (await FileNamed("tone.flac"))["id"];
        Tool.Run("sox", "-n", "-r", "48000", "-b", "24", path, "synth", "2", "sine", "440", "gain", "-20");
        var address = $"/api/sessions/{_session.Id}/files/{id}";
        // -20 dB is a tenth of full scale.
        Assert.Equal(13, (sbyte)(await App.Client.GetByteArrayAsync($"{address}/peaks?stretches=10", Cancel))[1]);
        Assert.Equal(await File.ReadAllBytesAsync(path, Cancel), await App.Client.GetByteArrayAsync($"{address}/audio", Cancel));
        File.Delete(path);
        using var gone = await App.Client.GetAsync($"{address}/audio", Cancel);
        Assert.Equal(HttpStatusCode.NotFound, gone.StatusCode);
    }

    [Fact]
    public async Task WhatABrowserPlaysComesAsItIsInAnyRange()
    {
        using var response = await Get("sample 00.wav", "audio", new RangeHeaderValue(1000, 1999));
        Assert.Equal((HttpStatusCode.PartialContent, "audio/wav"), (response.StatusCode, response.Content.Headers.ContentType!.MediaType));
        Assert.Equal(File.ReadAllBytes(Path.Combine(_session.Library, "sample 00.wav"))[1000..2000], await response.Content.ReadAsByteArrayAsync(Cancel));
        using var flac = await Get("tone.flac", "audio");
        Assert.Equal("audio/flac", flac.Content.Headers.ContentType!.MediaType);
    }

    [Fact]
    public async Task WhatABrowserCannotPlayIsDecodedOnTheWay()
    {
        using var response = await Get("tone.aiff", "audio");
        var path = Path.Combine(_session.Root, "heard.wav");
        await File.WriteAllBytesAsync(path, await response.Content.ReadAsByteArrayAsync(Cancel), Cancel);
        Assert.Equal("48000", Tool.Run("soxi", "-s", path).Trim());
        using var range = await Get("tone.aiff", "audio", new RangeHeaderValue(100_001, 100_100));
        Assert.Equal(HttpStatusCode.PartialContent, range.StatusCode);
        Assert.Equal(File.ReadAllBytes(path)[100_001..100_101], await range.Content.ReadAsByteArrayAsync(Cancel));
    }

    [Theory]
    [InlineData("peaks", HttpStatusCode.NoContent)]
    [InlineData("level", HttpStatusCode.NoContent)]
    [InlineData("audio", HttpStatusCode.NotFound)]
    public async Task WhatHoldsNoSoundIsNotSent(string what, HttpStatusCode whereUnknown)
    {
        using var broken = await Get("broken.flac", what);
        Assert.Equal(HttpStatusCode.NotFound, broken.StatusCode);
        using var unknown = await App.Client.GetAsync($"/api/sessions/{_session.Id}/files/0000000000000000/{what}", Cancel);
        Assert.Equal(whereUnknown, unknown.StatusCode);
    }
}
