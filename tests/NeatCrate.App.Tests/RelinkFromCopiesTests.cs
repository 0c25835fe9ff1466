using System.Text.Json.Nodes;
using NeatCrate.App.Bundles;
using NeatCrate.App.Scans;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>Missing files that a vault or a bundle holds: known at once, heard, and brought back byte for byte.</summary>
public sealed class RelinkFromCopiesTests : IAsyncLifetime
{
    private readonly LiveSession _session = new(2, 48_000);
    private byte[] _whole = [];

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Relink => $"/api/sessions/{_session.Id}/relink";

    private string Vault => Path.Combine(_session.Root, "vault");

    private string Lost => Path.Combine(_session.Folder, "Audio", "sample 00.wav");

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        foreach (var file in Directory.GetFiles(_session.Library))
        {
            // Long enough ago that what is read of it is trusted.
            File.SetLastWriteTimeUtc(file, new DateTime(2026, 10, 1, 8, 0, 0, DateTimeKind.Utc));
        }
        await App.Apply(await _session.PlanCopyIn(Cancel), Cancel);
        await App.Scan(_session.DriveId, Cancel);
        // From here on only the copies inside hold the sound.
        foreach (var file in Directory.GetFiles(_session.Library))
        {
            File.Delete(file);
        }
        await App.Scan(Text((await App.Get("/api/shelves", Cancel)).AsArray().Single(s => Text(s!, "name") == "Loft samples")!, "id"), Cancel);
        _whole = File.ReadAllBytes(Lost);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private static string Text(JsonNode node, string member) => node[member]?.GetValue<string>() ?? "";

    private async Task<JsonNode> LostOne() => Assert.Single((await App.Get(Relink, Cancel))["lost"]!.AsArray(), l => Text(l!, "name") == "sample 00.wav")!;

    private async Task<JsonNode> Best() => (await LostOne())["best"]!;

    private async Task FullBackup()
    {
        var vault = await App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Vault).FullName, Cancel);
        var job = await App.JobOver(await App.Post($"/api/sessions/{_session.Id}/backups/full", new { vaultId = vault, note = "", byContent = false }, Cancel), Cancel);
        Assert.Equal("Done", Text(job, "state"));
    }

    private async Task<JsonNode> Plan(string way) => await App.Post(
        $"{Relink}/plan", new { choices = new[] { new { lostId = Text(await LostOne(), "id"), foundId = (string?)null, way } }, olderDocuments = true, along = Array.Empty<string>(), way }, Cancel);

    [Fact]
    public async Task WhatAVaultHoldsIsCertainHeardAndPutBack()
    {
        await FullBackup();
        File.Delete(Lost);
        var lost = await LostOne();
        Assert.Equal(("SameBytes", "Kept", true), (Text(lost["best"]!, "certainty"), Text(lost, "whereabouts"), lost["best"]!["isThere"]!.GetValue<bool>()));
        Assert.StartsWith("the backup of 20", Text(lost["best"]!, "keptIn"), StringComparison.Ordinal);
        Assert.Equal(("Vault", 48_000), (Text(lost["best"]!, "shelfName"), lost["best"]!["facts"]!["lengthSamples"]!.GetValue<int>()));
        Assert.StartsWith("1 missing: 1 found for certain.", Text(await App.Get(Relink, Cancel), "sentence"), StringComparison.Ordinal);
        // The missing sound is heard and seen out of the vault.
        JsonNode details = null!;
        // The list of the backup is taken in within a second.
        for (var n = 0; n < 100 && details?["history"] is null; n++)
        {
            await Task.Delay(100, Cancel);
            details = await App.Get($"{Relink}/lost/{Text(lost, "id")}", Cancel);
        }
        Assert.Equal(Text(lost["best"]!, "keptIn"), Text(details, "heardFrom"));
        Assert.Matches(@"It was last there on \d{4}-\d\d-\d\d \d\d:\d\d, in 'Vault'\.", Text(details, "history"));
        Assert.Equal(_whole, await App.Client.GetByteArrayAsync($"{Relink}/lost/{Text(lost, "id")}/audio", Cancel));
        Assert.NotEmpty(await App.Client.GetByteArrayAsync($"{Relink}/lost/{Text(lost, "id")}/peaks", Cancel));
        // No document can point at it there.
        Assert.Contains("No document can point at 'sample 00.wav' in the backup of", (await Plan("Repoint"))["refusals"]![0]!.GetValue<string>(), StringComparison.Ordinal);

        var document = File.ReadAllBytes(Path.Combine(_session.Folder, LiveSession.Name + ".otio"));
        var plan = await Plan("PutBack");
        Assert.StartsWith("Relink 1 file; put back 1, ", Text(plan, "sentence"), StringComparison.Ordinal);
        Assert.Equal("Done", Text(await App.Apply(plan, Cancel), "state"));
        Assert.Equal(_whole, File.ReadAllBytes(Lost));
        Assert.Equal(new DateTime(2026, 10, 1, 8, 0, 0, DateTimeKind.Utc), File.GetLastWriteTimeUtc(Lost));
        Assert.Equal(document, File.ReadAllBytes(Path.Combine(_session.Folder, LiveSession.Name + ".otio")));
        Assert.Empty((await App.Get(Relink, Cancel))["lost"]!.AsArray());
        var undo = await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel);
        await App.Apply(undo, Cancel);
        Assert.False(File.Exists(Lost));
        var redo = await App.Post($"/api/plans/{undo["id"]}/redo", null, Cancel);
        await App.Apply(redo, Cancel);
        Assert.Equal(_whole, File.ReadAllBytes(Lost));
        // A document that came to need it since then keeps it from going.
        File.Copy(Path.Combine(_session.Folder, LiveSession.Name + ".otio"), Path.Combine(_session.Folder, "another.otio"));
        await App.Get($"/api/sessions/{_session.Id}/files", Cancel);
        var again = await App.Post($"/api/plans/{redo["id"]}/undo", null, Cancel);
        var (status, problem) = await App.PostRefused($"/api/plans/{again["id"]}/apply", null, Cancel);
        Assert.Equal((409, "StillUsed"), (status, Text(problem, "code")));
        Assert.Equal(_whole, File.ReadAllBytes(Lost));
    }

    [Fact]
    public async Task CopiedInOutOfAVaultTheDocumentPointsAtTheCopy()
    {
        await FullBackup();
        File.Delete(Lost);
        // Another sound stands under the name that it would have.
        File.WriteAllBytes(Lost, _whole[..^300]);
        File.SetLastWriteTimeUtc(Lost, new DateTime(2026, 10, 2, 8, 0, 0, DateTimeKind.Utc));
        File.Move(Lost, Path.Combine(_session.Folder, "Audio", "sample 00 other.wav"));
        Assert.Equal("Done", Text(await App.Apply(await Plan("CopyIn"), Cancel), "state"));
        Assert.Equal(_whole, File.ReadAllBytes(Lost));
        Assert.Empty((await App.Get(Relink, Cancel))["lost"]!.AsArray());
    }

    /// <summary>Damaged content is found out when it is written: nothing comes, and what is there stays.</summary>
    [Fact]
    public async Task DamagedContentNeverComesBackAsTheFile()
    {
        await FullBackup();
        File.Delete(Lost);
        var content = Directory.GetFiles(Path.Combine(Vault, "Neat Crate vault", "content"), "*", SearchOption.AllDirectories).Single(f => File.ReadAllBytes(f).AsSpan().SequenceEqual(_whole));
        var damaged = (byte[])_whole.Clone();
        damaged[^1] ^= 1;
        File.WriteAllBytes(content, damaged);
        var ended = await App.Apply(await Plan("PutBack"), Cancel);
        Assert.Equal("Failed", Text(ended, "state"));
        Assert.Contains("is damaged", Text(ended, "message"), StringComparison.Ordinal);
        Assert.False(File.Exists(Lost));
    }

    [Fact]
    public async Task AVaultThatIsAwayIsNamed()
    {
        await FullBackup();
        File.Delete(Lost);
        Assert.True((await Best())["isThere"]!.GetValue<bool>());
        Directory.Move(Vault, Vault + " unplugged");
        await ((HostedApp)App).Service<ShelfWatch>().LookNow(Cancel);
        var lost = await LostOne();
        Assert.Equal(("Away", "Vault", false), (Text(lost, "whereabouts"), Text(lost["best"]!, "shelfName"), lost["best"]!["isThere"]!.GetValue<bool>()));
        Assert.Contains("1 on 'Vault', which is away", Text(await App.Get(Relink, Cancel), "sentence"), StringComparison.Ordinal);
    }

    /// <summary>Read while it was there, it is told from the bundle's by reading that, and is certain then.</summary>
    [Fact]
    public async Task WhatABundleHoldsIsReadToMakeSureAndPutBack()
    {
        var file = (await App.Get($"/api/sessions/{_session.Id}/files?take=100", Cancel))["files"]!.AsArray().Single(f => Text(f!, "name") == "sample 00.wav")!;
        await App.Get($"/api/sessions/{_session.Id}/files/{file["id"]}/identities", Cancel);
        await App.Apply(await _session.PlanBundle(Cancel), Cancel);
        File.Delete(Lost);
        // What is called an archive and is none keeps nobody from the others.
        File.WriteAllBytes(Path.Combine(_session.Outbox, "a.zip"), []);
        await ((HostedApp)App).Service<BundleWatch>().LookNow(Cancel);
        var best = await Best();
        Assert.Equal(("None", true), (Text(best, "certainty"), best["worthReading"]!.GetValue<bool>()));
        Assert.StartsWith("the bundle '261014 Net Mender", Text(best, "keptIn"), StringComparison.Ordinal);
        // Heard and seen out of the bundle.
        Assert.Equal(_whole, await App.Client.GetByteArrayAsync($"{Relink}/found/{Text(best, "id")}/audio", Cancel));
        Assert.NotEmpty(await App.Client.GetByteArrayAsync($"{Relink}/found/{Text(best, "id")}/peaks", Cancel));
        await App.JobOver(await App.Post($"{Relink}/read", null, Cancel), Cancel);
        Assert.Equal("SameBytes", Text(await Best(), "certainty"));
        var plan = await Plan("PutBack");
        Assert.Equal("Done", Text(await App.Apply(plan, Cancel), "state"));
        Assert.Equal(_whole, File.ReadAllBytes(Lost));
        // What came out of a bundle goes again, whatever became of the bundle.
        Directory.Delete(_session.Outbox, recursive: true);
        await App.Apply(await App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel), Cancel);
        Assert.False(File.Exists(Lost));
    }

    /// <summary>A bundle stands where somebody sorted it to, on a drive that leaves, and the application ends in between.</summary>
    [Fact]
    public async Task ABundleFarDownOnAShelfIsKnownAfterAScanAndStillWhenItsDriveLeft()
    {
        await App.Apply(await _session.PlanBundle(Cancel), Cancel);
        var bundle = Assert.Single(Directory.GetFiles(_session.Outbox, "*.zip"));
        var below = Directory.CreateDirectory(Path.Combine(_session.Outbox, "sent", "2026")).FullName;
        File.Move(bundle, Path.Combine(below, "for Idris.ZIP"));
        File.Delete(Lost);
        await App.Scan(_session.OutboxId, Cancel);
        await ((HostedApp)App).Service<BundleWatch>().LookNow(Cancel);
        Assert.Equal("the bundle 'for Idris.ZIP'", Text(await Best(), "keptIn"));

        App.Dispose();
        Directory.Move(_session.Outbox, _session.Outbox + " unplugged");
        _session.Restart();
        await ((HostedApp)App).Service<BundleWatch>().LookNow(Cancel);
        var lost = await LostOne();
        Assert.Equal(("Away", "the bundle 'for Idris.ZIP'", false), (Text(lost, "whereabouts"), Text(lost["best"]!, "keptIn"), lost["best"]!["isThere"]!.GetValue<bool>()));

        Directory.Move(_session.Outbox + " unplugged", _session.Outbox);
        await ((HostedApp)App).Service<ShelfWatch>().LookNow(Cancel);
        Assert.Equal("Done", Text(await App.Apply(await Plan("PutBack"), Cancel), "state"));
        Assert.Equal(_whole, File.ReadAllBytes(Lost));
        // What is gone after the next scan is known no more.
        Directory.Delete(below, recursive: true);
        await App.Scan(_session.OutboxId, Cancel);
        await ((HostedApp)App).Service<BundleWatch>().LookNow(Cancel);
        File.Delete(Lost);
        Assert.Equal("", Text(await Best(), "keptIn"));
    }

    /// <summary>A bundle whose manifest states another SHA-512 than its file has does not give it out.</summary>
    [Fact]
    public async Task ABundleThatIsNotWhatItStatesGivesNothing()
    {
        await App.Apply(await _session.PlanBundle(Cancel), Cancel);
        var bundle = Assert.Single(Directory.GetFiles(_session.Outbox, "*.zip"));
        var bag = Path.Combine(_session.Root, "bag");
        Tool.Run("unzip", "-q", bundle, "-d", bag);
        var packed = Directory.GetFiles(bag, "sample 00.wav", SearchOption.AllDirectories).Single();
        var other = File.ReadAllBytes(packed);
        other[^1] ^= 1;
        File.WriteAllBytes(packed, other);
        File.Delete(bundle);
        Tool.RunIn(bag, "zip", "-q", "-r", bundle, ".");
        File.Delete(Lost);
        await ((HostedApp)App).Service<BundleWatch>().LookNow(Cancel);
        var ended = await App.Apply(await Plan("PutBack"), Cancel);
        Assert.Equal("Failed", Text(ended, "state"));
        Assert.False(File.Exists(Lost));
    }
}
