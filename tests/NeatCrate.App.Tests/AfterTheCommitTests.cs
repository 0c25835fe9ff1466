using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>
/// The database fails at chosen moments of a plan; a trigger in it refuses what is written then. What is told must be what
/// is on disk, and what follows from a plan that went through is done at the next start at the latest.
/// </summary>
public sealed class AfterTheCommitTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(2, 4800, inProcessOfItsOwn: true);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    public async ValueTask InitializeAsync() => await _session.Know(Cancel);

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private void InDatabase(string sql)
    {
        using var db = new SqliteConnection($"Data Source={Path.Combine(_session.Root, "data", "neat-crate.db")};Pooling=False");
        db.Open();
        using var command = db.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    private void Refuse(string what) => InDatabase($"CREATE TRIGGER refused BEFORE {what} BEGIN SELECT RAISE(FAIL, 'disk I/O error'); END");

    private void Restart()
    {
        _session.Process.Kill();
        App.Dispose();
        InDatabase("DROP TRIGGER IF EXISTS refused");
        _session.Restart();
    }

    private async Task<JsonNode> SetUp()
    {
        var preset = (await App.Get("/api/set-up/presets", Cancel))[0]!.AsObject();
        preset["nameParts"]!.AsArray()[1]!["text"] = "Low Water";
        preset["tracks"] = new JsonArray("Voice");
        preset["shelfId"] = _session.DriveId;
        preset["parentPath"] = "";
        return (await App.Post("/api/set-up/plan", preset, Cancel))["plan"]!;
    }

    private async Task<string[]> Sessions() => [.. (await App.Get("/api/sessions", Cancel)).AsArray().Select(s => s!["name"]!.GetValue<string>()).Order()];

    [Fact]
    public async Task APlanThatWentThroughIsToldAsThatThoughItCouldNotBeClosed()
    {
        var plan = await _session.PlanCopyIn(Cancel);
        Refuse("UPDATE ON Plans WHEN NEW.State = 'Applied'");
        var job = await App.Apply(plan, Cancel);
        Assert.Equal("Done", job["state"]!.GetValue<string>());
        Assert.DoesNotContain("Everything is as it was", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Contains("All of it was done.", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(2, Directory.GetFiles(Path.Combine(_session.Folder, "Audio")).Length);
        Restart();
        Assert.All((await App.Get($"/api/sessions/{_session.Id}/files", Cancel))["files"]!.AsArray(), f => Assert.Equal("Inside", f!["standing"]!.GetValue<string>()));
        Assert.True((await App.Get($"/api/sessions/{_session.Id}/history", Cancel))[0]!["canUndo"]!.GetValue<bool>());
    }

    [Fact]
    public async Task APlanThatCouldNotBeCommittedIsTakenBackAndToldSo()
    {
        var before = Tree.Of(_session.Drive).Keys.ToList();
        Refuse("UPDATE ON Plans WHEN NEW.State = 'Committed'");
        var job = await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        Assert.Equal("Failed", job["state"]!.GetValue<string>());
        Assert.Contains("Everything is as it was before.", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(before, Tree.Of(_session.Drive).Keys);
    }

    [Fact]
    public async Task APlanThatCouldNotBeBegunChangedNothing()
    {
        var before = Tree.Of(_session.Drive);
        Refuse("INSERT ON Plans");
        var job = await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        Assert.Equal("Failed", job["state"]!.GetValue<string>());
        Assert.StartsWith("Nothing was changed. Neat Crate's own database cannot be read or written now", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(before, Tree.Of(_session.Drive));
    }

    [Fact]
    public async Task ANewSessionThatCouldNotBePutOnTheListIsThereAtTheNextStart()
    {
        Refuse("INSERT ON Sessions");
        var job = await App.Apply(await SetUp(), Cancel);
        Assert.Equal("Done", job["state"]!.GetValue<string>());
        Assert.Contains("follows at the next start", job["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Single(await Sessions());
        Restart();
        Assert.Equal(["261014 Net Mender", $"{DateTime.Now:yyMMdd} Low Water"], await Sessions());
    }

    [Fact]
    public async Task ASessionThatWasUndoneIsNoGhostAfterTheNextStart()
    {
        var plan = await SetUp();
        await App.Apply(plan, Cancel);
        Refuse("DELETE ON Sessions");
        var job = await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        Assert.Equal("Done", job["state"]!.GetValue<string>());
        Assert.Equal(2, (await Sessions()).Length);
        Restart();
        Assert.Equal(["261014 Net Mender"], await Sessions());
    }

    /// <summary>One refusal must not mean never again: once there is room, what is outside is copied in by itself after all.</summary>
    [Fact]
    public async Task WhatCouldNotBeCopiedInByItselfIsTriedAgainWhenTheDocumentIsSaved()
    {
        var blocked = Path.Combine(_session.Folder, "Audio");
        await File.WriteAllTextAsync(blocked, "a file in place of the folder", Cancel);
        using (var way = await App.Client.PutAsync($"/api/sessions/{_session.Id}/copy-in", System.Net.Http.Json.JsonContent.Create(new { olderDocuments = true, byItself = true }), Cancel))
        {
            Assert.True(way.IsSuccessStatusCode);
        }
        await App.Until("/api/notices", n => n.AsArray().Any(t => t!["text"]!.GetValue<string>().Contains("could not be copied in automatically", StringComparison.Ordinal)), Cancel);
        File.Delete(blocked);
        File.SetLastWriteTimeUtc(Path.Combine(_session.Folder, "261014 Net Mender.otio"), DateTime.UtcNow);
        await App.Until($"/api/sessions/{_session.Id}/files", s => s["files"]!.AsArray().All(f => f!["standing"]!.GetValue<string>() == "Inside"), Cancel);
    }
}
