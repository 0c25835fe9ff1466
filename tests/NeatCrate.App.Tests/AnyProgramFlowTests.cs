using System.IO.Compression;
using System.Text;
using System.Text.Json.Nodes;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>A session in the document of another program, over the API: adopted, seen through by what it names, copied in, put back, and never cleaned on a guess.</summary>
public sealed class AnyProgramFlowTests : IAsyncLifetime
{
    private const string Name = "261110 Breakwater";

    private readonly LiveSession _session = new(3, 4800);
    private string _id = "";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private RunningApp App => _session.App;

    private string Folder => Path.Combine(_session.Drive, Name);

    private string Document => Path.Combine(Folder, "Breakwater.desk");

    private string Url => $"/api/sessions/{_id}";

    public async ValueTask InitializeAsync()
    {
        await _session.Know(Cancel);
        Directory.CreateDirectory(Path.Combine(Folder, "Audio"));
        foreach (var name in new[] { "Great 01.wav", "Great 02.wav", "Swell 01.wav" })
        {
            File.Copy(Path.Combine(_session.Library, "sample 00.wav"), Path.Combine(Folder, "Audio", name));
        }
        Save("Audio/Great 01.wav", "Audio/Great 02.wav", "Audio/Great 01.wav", "Audio/sample 02.wav", Path.Combine(_session.Library, "sample 01.wav"));
        await ScanAll();
        _id = await App.Adopt(_session.DriveId, Name, Cancel);
    }

    public ValueTask DisposeAsync()
    {
        _session.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task ScanAll()
    {
        foreach (var shelf in (await App.Get("/api/shelves", Cancel)).AsArray())
        {
            await App.Scan(shelf!["id"]!.GetValue<string>(), Cancel);
        }
    }

    private void Save(params string[] names)
    {
        using var packed = File.Create(Document);
        using var gzip = new GZipStream(packed, CompressionLevel.Optimal);
        gzip.Write(Encoding.UTF8.GetBytes($"<desk>{string.Concat(names.Select(n => $"<sound place=\"{n}\"/>"))}</desk>"));
    }

    private async Task<JsonNode[]> Files() => [.. (await App.Get($"{Url}/files", Cancel))["files"]!.AsArray().Select(f => f!)];

    private async Task<string[]> Told() =>
        [.. (await Files()).Select(f => $"{f["standing"]} {f["use"]} {f["namedTimes"]} {f["name"]}").Order(StringComparer.Ordinal)];

    private async Task<string> Says() => LiveSession.Sentence((await App.Get(Url, Cancel))["session"]!);

    [Fact]
    public async Task WhatItNamesIsKnownAndTheRestIsNotUnused()
    {
        Assert.Equal(
            ["Inside Named 1 Great 02.wav", "Inside Named 2 Great 01.wav", "Inside NamedNowhere 0 Swell 01.wav", "Missing Named 1 sample 02.wav", "Outside Named 1 sample 01.wav"], await Told());
        Assert.StartsWith("1 file is missing; 1 file stands outside the session folder", await Says(), StringComparison.Ordinal);
        var session = await App.Get(Url, Cancel);
        Assert.Equal(("Breakwater.desk", true), (session["session"]!["document"]!.GetValue<string>(), session["documents"]![0]!["isNaming"]!.GetValue<bool>()));
        Assert.Contains(session["remarks"]!.AsArray(), r => r!.GetValue<string>().Contains("2 of the 3 media files here are named in it", StringComparison.Ordinal));
        var purge = await App.Get($"{Url}/purge", Cancel);
        // All others are named: by hand, and never with its group, one that is named nowhere could go.
        Assert.Equal((null, "Nothing is proposed here: a file that is named nowhere may be used all the same. Nearly all others are named, so it can be set aside by hand."), (purge["refusal"]?.GetValue<string>(), purge["sentence"]!.GetValue<string>()));
        Assert.Equal("NamedNowhere 1 1", Assert.Single(purge["groups"]!.AsArray()) is { } group ? $"{group["group"]} {group["files"]} {group["onlyByName"]}" : "");
        File.Copy(Path.Combine(Folder, "Audio", "Swell 01.wav"), Path.Combine(Folder, "Audio", "Swell 02.wav"));
        purge = await App.Get($"{Url}/purge", Cancel);
        Assert.Contains("named nowhere may be used all the same", purge["refusal"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Empty(purge["groups"]!.AsArray());
    }

    /// <summary>The document is never written: what is copied in stays named where it was, and the plan says so before.</summary>
    [Fact]
    public async Task CopiesAreMadeAndTheDocumentGoesOnNamingTheOriginals()
    {
        var before = await File.ReadAllBytesAsync(Document, Cancel);
        var plan = await App.Post($"{Url}/copy-in/plan", new { olderDocuments = true }, Cancel);
        Assert.Empty(plan["refusals"]!.AsArray());
        Assert.Contains(plan["warnings"]!.AsArray(), r => r!.GetValue<string>().Contains("'Breakwater.desk' goes on naming the original", StringComparison.Ordinal));
        Assert.EndsWith("no document is changed; originals untouched.", plan["sentence"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("Done", (await App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        Assert.Equal(before, await File.ReadAllBytesAsync(Document, Cancel));
        Assert.True(File.Exists(Path.Combine(Folder, "Audio", "sample 01.wav")));
        // It is still named outside, and nothing claims otherwise.
        Assert.Contains("Outside Named 1 sample 01.wav", await Told());
        Assert.Contains("already", (await App.Post($"{Url}/copy-in/plan", new { olderDocuments = true }, Cancel))["refusals"]![0]!.GetValue<string>(), StringComparison.Ordinal);
    }

    /// <summary>A missing one is put back to where it is named; any other place is refused, since nobody can tell the document.</summary>
    [Fact]
    public async Task AMissingFileIsPutBackToWhereItIsNamed()
    {
        var lost = (await App.Get($"{Url}/relink", Cancel))["lost"]!.AsArray().Single(l => l!["name"]!.GetValue<string>() == "sample 02.wav")!;
        async Task<JsonNode> Plan(string way) => await App.Post(
            $"{Url}/relink/plan",
            new { choices = new[] { new { lostId = lost["id"]!.GetValue<string>(), foundId = (string?)null, way, compared = true } }, olderDocuments = true, along = Array.Empty<string>(), way }, Cancel);
        Assert.Contains("which is never changed", (await Plan("CopyIn"))["refusals"]![0]!.GetValue<string>(), StringComparison.Ordinal);
        var plan = await Plan("PutBack");
        Assert.Equal("Done", (await App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        Assert.Contains("Inside Named 1 sample 02.wav", await Told());
    }

    /// <summary>
    /// What its kept saves name tells what came, what went, and when a file was last named; the same document under another name
    /// stands for a new day's version, byte for byte.
    /// </summary>
    [Fact]
    public async Task ItsVersionsTellWhatTheyName()
    {
        await App.Post($"{Url}/backups/keep", new { note = "first" }, Cancel);
        Save("Audio/Great 01.wav", "Audio/Swell 01.wav", "Audio/sample 02.wav", Path.Combine(_session.Library, "sample 01.wav"));
        var versions = (await App.Until($"{Url}/backups", b => b["versions"]!.AsArray().Count == 2, Cancel))["versions"]!.AsArray();
        var (now, then) = (versions[0]!["key"]!.GetValue<string>(), versions[1]!["key"]!.GetValue<string>());
        var compared = await App.Get($"{Url}/versions/compare?one={Uri.EscapeDataString(then)}&other={Uri.EscapeDataString(now)}", Cancel);
        Assert.Equal("1 file newly named, 1 file no longer named.", compared["sentence"]!.GetValue<string>());
        Assert.Equal(["- Audio/Great 02.wav", "+ Audio/Swell 01.wav"], compared["files"]!.AsArray().Select(f => $"{(f!["isNewlyUsed"]!.GetValue<bool>() ? '+' : '-')} {f["path"]}"));
        var change = (await App.Get($"{Url}/versions/changes?from={Uri.EscapeDataString(then)}&take=5", Cancel))[1]!;
        Assert.Equal((1, 1), (change["came"]!.GetValue<int>(), change["went"]!.GetValue<int>()));
        var history = (await App.Get($"{Url}/versions/files?name=great", Cancel))["files"]!.AsArray().Select(f => $"{f!["name"]}: {f["history"]!["sentence"]}").ToArray();
        Assert.StartsWith("Great 01.wav: It is named now. It is there now.", history[0], StringComparison.Ordinal);
        Assert.StartsWith("Great 02.wav: It was last named on ", history[1], StringComparison.Ordinal);
        // Where a file comes that a bare name may mean, what was known of versions is asked anew.
        Directory.CreateDirectory(Path.Combine(Folder, "Loose"));
        Save("Audio/Great 01.wav", "Great 03.wav");
        File.Copy(Path.Combine(Folder, "Audio", "Great 01.wav"), Path.Combine(Folder, "Loose", "Great 03.wav"));
        await App.Until($"{Url}/backups", b => b["versions"]!.AsArray().Count == 3, Cancel);
        Assert.Equal(["Loose/Great 03.wav"], (await App.Get($"{Url}/versions/files?name=great 03", Cancel))["files"]!.AsArray().Select(f => f!["place"]!.GetValue<string>()));
        File.Move(Path.Combine(Folder, "Loose", "Great 03.wav"), Path.Combine(Folder, "Great 03.wav"));
        Assert.Equal(["Great 03.wav"], (await App.Get($"{Url}/versions/files?name=great 03", Cancel))["files"]!.AsArray().Select(f => f!["place"]!.GetValue<string>()));
        await App.Apply(await App.Post($"{Url}/version/plan", new { naming = "NextNumber", archiveOlder = false }, Cancel), Cancel);
        Assert.Equal(File.ReadAllBytes(Document), File.ReadAllBytes(Path.Combine(Folder, "Breakwater v2.desk")));
        Assert.Equal("Breakwater v2.desk", (await App.Get(Url, Cancel))["documents"]!.AsArray().Single(d => d!["current"]!.GetValue<bool>())!["path"]!.GetValue<string>());
    }

    /// <summary>A save that names what was not there then is known by that, though the file came since; a sound that came with its save was there.</summary>
    [Fact]
    public async Task WhatWasMissingAtASaveIsNoted()
    {
        async Task<string[]> Keep(int count) => [.. (await App.Until($"{Url}/backups", b => b["versions"]!.AsArray().Count == count, Cancel))["versions"]!.AsArray().Select(v => v!["key"]!.GetValue<string>())];
        await App.Post($"{Url}/backups/keep", new { note = "first" }, Cancel);
        File.Copy(Path.Combine(Folder, "Audio", "Great 01.wav"), Path.Combine(Folder, "Audio", "Brief.wav"));
        Save("Audio/Great 01.wav", "Audio/Later.wav", "Brief.wav");
        await Keep(2);
        File.Copy(Path.Combine(Folder, "Audio", "Great 01.wav"), Path.Combine(Folder, "Audio", "Later.wav"));
        Save("Audio/Great 01.wav");
        var versions = await Keep(3);
        var compared = await App.Get($"{Url}/versions/compare?one={Uri.EscapeDataString(versions[1])}&other={Uri.EscapeDataString(versions[0])}", Cancel);
        Assert.Equal(
            [("Brief.wav", true, true), ("Later.wav", false, true)],
            compared["files"]!.AsArray().Select(f => (f!["name"]!.GetValue<string>(), f["wasThere"]!.GetValue<bool>(), f["isThere"]!.GetValue<bool>())).Order());
    }

    /// <summary>It has no identity of its own, and is recognised all the same once its folder was moved.</summary>
    [Fact]
    public async Task AFolderThatWasMovedIsRecognisedByItsDocument()
    {
        await App.Get(Url, Cancel);
        // A scan that runs still would find the folder before this test asks for one.
        await App.ScansOver(Cancel);
        var moved = Path.Combine(_session.Drive, "2026", "The breakwater");
        Directory.CreateDirectory(Path.GetDirectoryName(moved)!);
        Directory.Move(Folder, moved);
        var scan = await App.Scan(_session.DriveId, Cancel);
        Assert.Contains($"it stands in '{moved}' now, and keeps its history", Assert.Single(scan["found"]!.AsArray())!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(moved, (await App.Get(Url, Cancel))["session"]!["folder"]!.GetValue<string>());
    }

    /// <summary>A save by its program is seen, and what changed in it is known at once.</summary>
    [Fact]
    public async Task ASaveOfItsProgramIsSeen()
    {
        Save("Audio/Great 01.wav", "Audio/Great 02.wav", "Audio/Swell 01.wav");
        Assert.Equal(["Inside Named 1 Great 01.wav", "Inside Named 1 Great 02.wav", "Inside Named 1 Swell 01.wav"], await Told());
        Assert.Equal("Everything that is named is inside, nothing is missing; 3 of 3 files are named.", await Says());
        File.Delete(Path.Combine(Folder, "Audio", "Swell 01.wav"));
        Assert.Contains("Missing Named 1 Swell 01.wav", await Told());
        File.Delete(Document);
        Assert.Equal(["Inside Unknown 0 Great 01.wav", "Inside Unknown 0 Great 02.wav"], await Told());
    }
}
