using System.Net.Http.Headers;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Taking files into a session over the API: from the catalogue and from the user's computer.</summary>
public sealed class ImportFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(1, 4800);
    private string _foreign = "";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Url => $"/api/sessions/{_session.Id}";

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        _foreign = Path.Combine(_session.Library, "bottle.wav");
        Tool.Run("sox", "-n", "-r", "44100", "-b", "16", "-c", "1", _foreign, "synth", "1", "sine", "440");
        var library = (await App.Get("/api/shelves", Cancel)).AsArray().Single(s => s!["name"]!.GetValue<string>() == "Loft samples")!;
        await App.Scan(library["id"]!.GetValue<string>(), Cancel);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<JsonNode> Plan(long[] catalogueIds, string[] uploadIds, bool byReference = false, bool convert = false, string? track = null, double atSeconds = 0) =>
        await App.Post($"{Url}/import/plan", new ImportBody(catalogueIds, uploadIds, byReference, convert, track, atSeconds), Cancel);

    private sealed record ImportBody(long[] CatalogueIds, string[] UploadIds, bool ByReference, bool Convert, string? Track, double AtSeconds);

    private async Task<long> Find(string text) => (await App.Get($"/api/catalogue?text={text}", Cancel))["files"]![0]!["id"]!.GetValue<long>();

    private async Task<string> PathOf(JsonNode file) => (await App.Get($"{Url}/files/{file["id"]}", Cancel))["path"]!.GetValue<string>();

    private async Task<JsonNode> FileNamed(string name) =>
        (await App.Get($"{Url}/files", Cancel))["files"]!.AsArray().Single(f => f!["name"]!.GetValue<string>() == name)!;

    private async Task<HttpResponseMessage> Upload(string name, byte[] bytes)
    {
        using var content = new ByteArrayContent(bytes);
        content.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        return await App.Client.PostAsync(new Uri($"{Url}/import/uploads?name={Uri.EscapeDataString(name)}", UriKind.Relative), content, Cancel);
    }

    private async Task<JsonNode> Uploaded(string name, byte[] bytes)
    {
        using var response = await Upload(name, bytes);
        var text = await response.Content.ReadAsStringAsync(Cancel);
        Assert.True(response.IsSuccessStatusCode, text);
        return JsonNode.Parse(text)!;
    }

    [Fact]
    public async Task ASampleIsFoundConvertedPlacedAndTakenBack()
    {
        var before = Tree.Of(_session.Library);
        var plan = await Plan([await Find("bottle")], [], convert: true, track: "Samples", atSeconds: 5.25);
        Assert.Contains("placed on 'Samples' from 0:05.2", plan["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("Done", (await App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        var converted = await FileNamed("bottle 48k.wav");
        Assert.Equal(("Inside", "Placed", 48000, 48000L), (converted["standing"]!.GetValue<string>(), converted["use"]!.GetValue<string>(), converted["sampleRate"]!.GetValue<int>(), converted["lengthSamples"]!.GetValue<long>()));
        Assert.Equal("Listed", (await FileNamed("bottle.wav"))["use"]!.GetValue<string>());
        // SoX reads what we wrote, and hears the same note.
        Assert.Contains("48000", Tool.Run("soxi", await PathOf(converted)), StringComparison.Ordinal);
        await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        Assert.Empty(Directory.EnumerateFiles(_session.Folder, "bottle*", SearchOption.AllDirectories));
        Assert.Equal(before, Tree.Of(_session.Library));
    }

    [Fact]
    public async Task AFreeTimeIsProposedWhereSomethingPlaysAndIsTaken()
    {
        async Task<double> Free(double seconds) => (await App.Get($"{Url}/import/free?track=Samples&seconds={seconds}", Cancel))["seconds"]!.GetValue<double>();
        var id = await Find("bottle");
        var first = await Free(1);
        Assert.Equal("Done", (await App.Apply(await Plan([id], [], track: "Samples", atSeconds: first), Cancel))["state"]!.GetValue<string>());
        Assert.NotEmpty((await Plan([id], [], track: "Samples", atSeconds: first))["refusals"]!.AsArray());
        var next = await Free(1);
        Assert.True(next >= first + 1, $"{next}");
        Assert.Empty((await Plan([id], [], track: "Samples", atSeconds: next))["refusals"]!.AsArray());
        Assert.Equal(0, (await App.Get($"{Url}/import/free?track=a+new+one&seconds=1", Cancel))["seconds"]!.GetValue<double>());
    }

    [Fact]
    public async Task PointingWithoutCopyingLeavesTheFileOutsideAndSaysSo()
    {
        var plan = await Plan([await Find("bottle")], [], byReference: true);
        Assert.Contains(plan["warnings"]!.AsArray(), w => w!.GetValue<string>().Contains("stays outside", StringComparison.Ordinal));
        await App.Apply(plan, Cancel);
        Assert.Equal(("Outside", "Listed"), await FileNamed("bottle.wav") is var f ? (f["standing"]!.GetValue<string>(), f["use"]!.GetValue<string>()) : default);
    }

    [Fact]
    public async Task AFileFromTheUsersComputerComesInUnderANameThatIsAcceptedEverywhere()
    {
        var upload = await Uploaded("..\\..\\Desktop\\rope: creak?.wav", await File.ReadAllBytesAsync(_foreign, Cancel));
        Assert.Equal(("rope creak.wav", 44100), (upload["name"]!.GetValue<string>(), upload["sampleRate"]!.GetValue<int>()));
        var plan = await Plan([], [upload["id"]!.GetValue<string>()], byReference: true);
        // There is nothing that could be pointed at: it is copied all the same.
        Assert.StartsWith("Copy 1 file", plan["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        await App.Apply(plan, Cancel);
        var file = await FileNamed("rope creak.wav");
        Assert.Equal(await File.ReadAllBytesAsync(_foreign, Cancel), await File.ReadAllBytesAsync(await PathOf(file), Cancel));
        Assert.StartsWith(_session.Folder, await PathOf(file), StringComparison.Ordinal);
        Assert.Equal("Done", (await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel))["state"]!.GetValue<string>());
    }

    [Theory]
    [InlineData("notes.txt", 409, "no media file")]
    [InlineData("", 409, "no media file")]
    [InlineData("..", 409, "no media file")]
    public async Task WhatIsNoMediaIsRefused(string name, int status, string why)
    {
        using var response = await Upload(name, [1, 2, 3]);
        Assert.Equal(status, (int)response.StatusCode);
        Assert.Contains(why, await response.Content.ReadAsStringAsync(Cancel), StringComparison.Ordinal);
        Assert.False(Directory.Exists(Path.Combine(_session.Root, "data", "uploads")));
    }

    [Fact]
    public async Task ABrokenFileIsTakenAndToldAndOneThatIsInsideAlreadyIsNotCopiedAgain()
    {
        var broken = await Uploaded("broken.wav", [1, 2, 3]);
        Assert.Contains("too short", broken["problem"]!.GetValue<string>(), StringComparison.Ordinal);
        var same = await Uploaded("other name.wav", await File.ReadAllBytesAsync(Path.Combine(_session.Library, "sample 00.wav"), Cancel));
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        var plan = await Plan([], [broken["id"]!.GetValue<string>(), same["id"]!.GetValue<string>()]);
        Assert.Equal(1, plan["steps"]!.AsArray().Count(s => s!["verb"]!.GetValue<string>() == "copy"));
        Assert.Contains(plan["warnings"]!.AsArray(), w => w!.GetValue<string>() == "'other name.wav' is inside already, as 'sample 00.wav'. That one is used.");
    }

    [Fact]
    public async Task AFileThatStopsOnTheWayLeavesNothingBehind()
    {
        using var stop = new CancellationTokenSource(TimeSpan.FromMilliseconds(300));
        using var content = new StreamContent(new EndlessStream(stop.Token));
        content.Headers.ContentLength = 1_000_000_000;
        await Assert.ThrowsAnyAsync<Exception>(() => App.Client.PostAsync(new Uri($"{Url}/import/uploads?name=big.wav", UriKind.Relative), content, Cancel));
        var uploads = Path.Combine(_session.Root, "data", "uploads");
        await App.Until("/api/shelves", _ => !Directory.Exists(uploads) || !Directory.EnumerateFileSystemEntries(uploads).Any(), Cancel);
    }

    private sealed class EndlessStream(CancellationToken stop) : Stream
    {
        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position { get => throw new NotSupportedException(); set => throw new NotSupportedException(); }

        public override int Read(byte[] buffer, int offset, int count) => stop.IsCancellationRequested ? throw new IOException("the cable is out") : Math.Min(count, 4096);

        public override void Flush()
        {
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }

    [Fact]
    public async Task WhatIsNoLongerAtHandIsSaidSo()
    {
        async Task<(int Status, JsonNode Problem)> Refused(long catalogueId) => await App.PostRefused(
            $"{Url}/import/plan", new ImportBody([catalogueId], [], false, false, null, 0), Cancel);
        Assert.Equal(404, (await Refused(999_999)).Status);
        var id = await Find("bottle");
        File.Delete(_foreign);
        var (status, problem) = await Refused(id);
        Assert.Equal(404, status);
        Assert.Contains("Scan the shelf", problem["title"]!.GetValue<string>(), StringComparison.Ordinal);
    }
}
