using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>What would be lost with a drive, over the API: everything in these tests stands on one drive, so that only a drive that is away is another.</summary>
public sealed class DriveLossFlowTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(3, 4800);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private Task<JsonNode> Loss() => App.Get($"/api/shelves/{_session.DriveId}/loss", Cancel);

    private static (int, bool) FilesOf(JsonNode node, string figure) => (node[figure]!["files"]!.GetValue<int>(), node[figure]!["bytes"]!.GetValue<long>() > 0);

    /// <summary>A backup on the same drive is lost with it, and nothing goes silent where the session goes along.</summary>
    [Fact]
    public async Task WhatIsOnTheDriveIsLostBackupAndAll()
    {
        var vault = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(_session.Root, "vault")).FullName, Cancel);
        await App.JobOver(await App.Post($"/api/sessions/{_session.Id}/backups/full", new { vaultId = vault, note = "" }, Cancel), Cancel);
        var loss = await Loss();
        Assert.Equal(["Loft samples", "Outbox", "Vault"], loss["beside"]!.AsArray().Select(b => b!.GetValue<string>()));
        Assert.Equal(((3, true), (0, false), (0, false), (0, false)), (FilesOf(loss, "lost"), FilesOf(loss, "comesBack"), FilesOf(loss, "silent"), FilesOf(loss, "onlyOnceThen")));
        var session = Assert.Single(loss["sessions"]!.AsArray())!;
        Assert.Equal((_session.Id, LiveSession.Name, true), (session["sessionId"]!.GetValue<string>(), session["name"]!.GetValue<string>(), session["standsOnIt"]!.GetValue<bool>()));
        Assert.Empty(loss["notKnown"]!.AsArray());
    }

    [Fact]
    public async Task TheListCanBeTakenAlong()
    {
        using var answer = await App.Client.GetAsync(new Uri($"/api/shelves/{_session.DriveId}/loss.csv", UriKind.Relative), Cancel);
        Assert.Equal("text/csv", answer.Content.Headers.ContentType!.MediaType);
        Assert.Contains("If Session drive dies.csv", answer.Content.Headers.ContentDisposition!.ToString(), StringComparison.Ordinal);
        var lines = (await answer.Content.ReadAsStringAsync(Cancel)).TrimEnd().Split("\r\n");
        Assert.Equal(4, lines.Length);
        Assert.EndsWith("Session,File,Path,If the drive dies,Goes silent,Bytes,Held in", lines[0], StringComparison.Ordinal);
        Assert.StartsWith($"{LiveSession.Name},sample 00.wav,{_session.Library}/sample 00.wav,lost for good,,", lines[1], StringComparison.Ordinal);
    }

    /// <summary>A session that cannot be looked at is named, so that nobody takes the sums for all.</summary>
    [Fact]
    public async Task WhatCannotBeLookedAtIsNamed()
    {
        Directory.Move(_session.Folder, _session.Folder + " gone");
        var loss = await Loss();
        Assert.Equal([LiveSession.Name], loss["notKnown"]!.AsArray().Select(n => n!.GetValue<string>()));
        Assert.Empty(loss["sessions"]!.AsArray());
        using var answer = await App.Client.GetAsync(new Uri($"/api/shelves/{Guid.NewGuid()}/loss", UriKind.Relative), Cancel);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, answer.StatusCode);
    }
}
