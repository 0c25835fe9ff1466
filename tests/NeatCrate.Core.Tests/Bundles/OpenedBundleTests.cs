using System.Text.Json.Nodes;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Plans;

namespace NeatCrate.Core.Tests.Bundles;

/// <summary>A bundle as whoever gets it finds it: by what stands in it, and by nothing that we know.</summary>
public sealed class OpenedBundleTests : IDisposable
{
    private static readonly DateTimeOffset Now = new(2026, 10, 14, 23, 30, 5, TimeSpan.FromHours(2));

    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private string Pack(BundleForm form = BundleForm.OneFile, bool isPacked = false, IReadOnlySet<CopyKind>? leftOut = null)
    {
        var plan = BundlePlanner.Plan(new BundleRequest(_session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard.Add(BundlePart.PrintedTracks), "Idris Falk", null, Now)
        {
            Form = form,
            PartBytes = BundlePlanner.LeastPartBytes,
            Packing = isPacked ? new PackedSizes() : null,
            LeftOutKinds = leftOut ?? new HashSet<CopyKind>(),
        });
        new MemoryJournal().Apply(plan);
        return plan.Steps[0].Destination;
    }

    private static OpenedBundle Open(string path, Recipient? recipient = null)
    {
        using var bag = new PackedBag(path, new DurableFiles());
        return OpenedBundle.Of(bag, name => recipient?.Name == name ? recipient : null);
    }

    private static Recipient Idris(bool reads = true, long? limit = null, params string[] has) => new("Idris Falk", RecipientWork.Mix, reads, false, RecipientSystem.Any, limit, [.. has]);

    private void Fill()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), 20_000, seed: 1), "Cello")
            .Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), 20_000, seed: 2))
            .Place(SessionFixture.Sound(_session.Inside("Audio", "50% wet #1.wav"), 20_000, seed: 4))
            .Save();
    }

    /// <summary>In every form, packed or not, all tracks sound there, and nothing that the manifest names is missing.</summary>
    [Theory]
    [InlineData(BundleForm.OneFile, false)]
    [InlineData(BundleForm.OneFile, true)]
    [InlineData(BundleForm.Folder, true)]
    [InlineData(BundleForm.Parts, false)]
    public void WhatIsWholeSounds(BundleForm form, bool isPacked)
    {
        Fill();
        var path = Pack(form, isPacked);
        // Nothing of the session is left here: only what was handed over counts.
        Directory.Delete(_session.Folder, true);
        File.Delete(Path.Combine(_session.Card, "tide.wav"));
        var opened = Open(path, Idris());
        Assert.Equal(("Idris Falk", $"data/{SessionFixture.Name}/{SessionFixture.Name}.otio", true), (opened.Recipient, opened.Document, opened.ReadsDocument));
        Assert.Equal([("Cello", TrackOpening.Sounds), ("Samples", TrackOpening.Sounds)], opened.Tracks.Select(t => (t.Name, t.Opening)));
        Assert.Equal(["01 Cello.wav", "02 Samples.wav"], opened.Prints);
        Assert.Empty(opened.NotThere);
        Assert.Empty(opened.TooLarge);
        var bytes = form == BundleForm.OneFile ? new FileInfo(path).Length : Directory.EnumerateFiles(path, "*", SearchOption.AllDirectories).Sum(f => new FileInfo(f).Length);
        Assert.Equal((bytes, bytes * 8 / 20e6), (opened.HandedOver.Sum(h => h.Bytes), opened.TransferSeconds));
    }

    /// <summary>What is missing here, or stays by its kind, is silent there, and named with its track.</summary>
    [Fact]
    public void WhatIsNotInItIsSilentThere()
    {
        Fill();
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "IR", "hall.wav"), seed: 3)).Place(_session.Inside("Audio", "gone #2.wav"), "Cello").Save();
        var opened = Open(Pack(leftOut: new HashSet<CopyKind> { CopyKind.ImpulseResponses }), Idris());
        Assert.Equal([TrackOpening.InPart, TrackOpening.InPart], opened.Tracks.Select(t => t.Opening));
        Assert.Equal(["gone #2.wav", "hall.wav"], opened.Tracks.SelectMany(t => t.Lacks));
    }

    /// <summary>Notes are silent without an instrument, and beside sound they are a part that is.</summary>
    [Fact]
    public void NotesNeedAnInstrument()
    {
        Directory.CreateDirectory(_session.Inside("Audio"));
        File.WriteAllBytes(_session.Inside("Audio", "line.mid"), [.. "MThd"u8, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96, .. "MTrk"u8, 0, 0, 0, 4, 0, 0xFF, 0x2F, 0]);
        _session.Place(_session.Inside("Audio", "line.mid"), "Cello").Place(_session.Inside("Audio", "line.mid")).Place(SessionFixture.Sound(_session.Inside("Audio", "hum.wav"), seed: 1)).Save();
        var tracks = Open(Pack(), Idris()).Tracks;
        Assert.Equal([(TrackOpening.Silent, 1), (TrackOpening.InPart, 1)], tracks.Select(t => (t.Opening, t.ForInstruments)));
        Assert.All(tracks, t => Assert.Empty(t.Lacks));
    }

    /// <summary>Effects that they do not have, a document that they do not read, and files that do not reach them.</summary>
    [Fact]
    public void WhatTheyLackIsSaid()
    {
        Fill();
        var document = JsonNode.Parse(File.ReadAllBytes(_session.DocumentPath))!;
        document["tracks"]!["children"]![0]!["effects"] = JsonNode.Parse("""[{"OTIO_SCHEMA":"Effect.1","name":"","effect_name":"Loft chamber","metadata":{}}]""");
        File.WriteAllText(_session.DocumentPath, document.ToJsonString());
        var path = Pack();
        Assert.Equal(["Loft chamber"], Open(path, Idris()).Tracks[0].Effects);
        Assert.Empty(Open(path, Idris(has: "loft chamber")).Tracks[0].Effects);
        var opened = Open(path, Idris(reads: false, limit: 1000));
        Assert.False(opened.ReadsDocument);
        Assert.Equal(Path.GetFileName(path), Assert.Single(opened.TooLarge).Name);
    }

    /// <summary>What was taken out of it since, cut or swapped shows: in a folder the file, in a file the whole.</summary>
    [Fact]
    public void WhatIsNoLongerInItIsSaid()
    {
        Fill();
        var folder = Pack(BundleForm.Folder);
        File.Delete(Path.Combine(folder, "data", SessionFixture.Name, "Audio", "tide.wav"));
        var opened = Open(folder);
        Assert.Equal([$"data/{SessionFixture.Name}/Audio/tide.wav"], opened.NotThere);
        Assert.Equal(["tide.wav"], opened.Tracks[1].Lacks);
        File.WriteAllText(Path.Combine(folder, "packing-slip.json"), "{ half");
        Assert.Equal(FaultCode.ArchiveEntryDamaged, Assert.Throws<FaultException>(() => Open(folder)).Fault.Code);
        var file = Pack();
        File.WriteAllBytes(file, File.ReadAllBytes(file)[..^100]);
        Assert.Equal(FaultCode.SourceUnreadable, Assert.Throws<FaultException>(() => Open(file)).Fault.Code);
        Directory.Delete(folder, true);
        var parts = Pack(BundleForm.Parts);
        File.Delete(Path.Combine(parts, SessionFixture.Name + ".zip.002"));
        Assert.Equal(FaultCode.SourceUnreadable, Assert.Throws<FaultException>(() => Open(parts)).Fault.Code);
        Assert.Equal(FaultCode.SourceGone, Assert.Throws<FaultException>(() => Open(folder)).Fault.Code);
    }
}
