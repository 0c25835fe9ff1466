using System.Collections.Immutable;
using System.IO.Compression;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Bundles;

/// <summary>A bundle whose sound is packed without loss: it opens as it is, and comes back bit for bit by tools that are not ours.</summary>
public sealed class PackedBundleTests : IDisposable
{
    private static readonly DateTimeOffset Now = new(2026, 10, 14, 23, 30, 5, TimeSpan.FromHours(2));

    private readonly SessionFixture _session = new();
    private readonly PackedSizes _sizes = new();

    public void Dispose() => _session.Dispose();

    /// <summary>A tone, as sox makes it: it gets smaller.</summary>
    private static string Tone(string path, int hertz, string? bits = "24")
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        Tool.Run("sox", ["-R", "-n", .. bits is null ? ["-e", "floating-point", "-b", "32"] : new[] { "-b", bits }, "-r", "48000", "-c", "1", path, "synth", "0.5", "sine", $"{hertz}"]);
        File.SetLastWriteTimeUtc(path, new DateTime(2026, 10, 14, 20, 0, hertz % 60, DateTimeKind.Utc));
        return path;
    }

    private Plan Plan(ImmutableHashSet<BundlePart>? parts = null) => BundlePlanner.Plan(new BundleRequest(
        _session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, parts ?? BundleParts.Standard, null, null, Now)
    { Packing = _sizes });

    private static List<string> Names(Plan plan) =>
        [.. Assert.IsType<PackBundleStep>(Assert.Single(plan.Steps)).Contents.Entries.Select(e => e.PayloadPath[(e.PayloadPath.IndexOf('/', StringComparison.Ordinal) + 1)..]).Order(StringComparer.Ordinal)];

    private string Unpacked(Plan plan)
    {
        new MemoryJournal().Apply(plan);
        var folder = Directory.CreateDirectory(Path.Combine(_session.Root, "unpacked")).FullName;
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", plan.Steps[0].Destination), StringComparison.Ordinal);
        Tool.Run("unzip", "-q", plan.Steps[0].Destination, "-d", folder);
        return Assert.Single(Directory.GetDirectories(folder));
    }

    private void Fill()
    {
        _session.Place(Tone(_session.Inside("Audio", "It's a 'take' $(rm) 01.wav"), 440), "Cello")
            .Place(Tone(Path.Combine(_session.Card, "tide.wav"), 220))
            .Place(Tone(_session.Inside("Audio", "old tape.aiff"), 330, "16"))
            .Place(Tone(_session.Inside("Audio", "float.wav"), 550, null))
            .Place(SessionFixture.Sound(_session.Inside("Audio", "noise.wav"), seed: 3))
            .Save();
        _session.Save(_session.Inside("Older documents", SessionFixture.Name + " 2026-10-13_230000.otio"));
    }

    /// <summary>
    /// Whoever unpacks it has a session in which nothing is missing; every packed file passes flac -t; the script that lies in it brings all of them back as
    /// they were, by flac, and sha512sum agrees. What gets no smaller, and what FLAC does not hold, goes as it is.
    /// </summary>
    [Fact]
    public void ItOpensAsItIsAndComesBackBitForBit()
    {
        Fill();
        var before = Tree.Of(_session.Root);
        var plan = Plan();
        Assert.Equal(["Audio/It's a 'take' $(rm) 01.flac", "Audio/float.wav", "Audio/noise.wav", "Audio/old tape.flac", "Audio/tide.flac"], Names(plan).Where(n => n.StartsWith("Audio", StringComparison.Ordinal)));
        var bag = Unpacked(plan);
        var there = _session.Inventory(Path.Combine(bag, "data", SessionFixture.Name));
        Assert.Equal(5, there.Files.Count(f => f is { Standing: Standing.Inside, Use: FileUse.Placed, Problem: null }));
        Assert.Equal(5, there.Files.Length);
        Assert.DoesNotContain("FAILED", Tool.RunIn(bag, "sha512sum", "--strict", "-c", "manifest-sha512.txt"), StringComparison.Ordinal);
        Assert.DoesNotContain("FAILED", Tool.RunIn(bag, "sha512sum", "--strict", "-c", "tagmanifest-sha512.txt"), StringComparison.Ordinal);
        var payload = Directory.EnumerateFiles(Path.Combine(bag, "data"), "*", SearchOption.AllDirectories).Sum(f => new FileInfo(f).Length);
        Assert.Contains($"Payload-Oxum: {payload}.", File.ReadAllText(Path.Combine(bag, "bag-info.txt")), StringComparison.Ordinal);
        var packed = Directory.EnumerateFiles(bag, "*.flac", SearchOption.AllDirectories).ToList();
        packed.ForEach(f => Tool.Run("flac", "--test", "--silent", f));
        // Packed ones have the time of what they were.
        Assert.Equal(new DateTime(2026, 10, 14, 20, 0, 20, DateTimeKind.Utc), File.GetLastWriteTimeUtc(packed.Single(f => f.EndsWith("01.flac", StringComparison.Ordinal))));
        Assert.Contains("3 sound files are packed as FLAC without loss", File.ReadAllText(Path.Combine(bag, "packing-slip.txt")), StringComparison.Ordinal);
        Assert.DoesNotContain("->  Audio/old tape", File.ReadAllText(Path.Combine(bag, "packing-slip.txt")), StringComparison.Ordinal);
        Assert.Contains("Field card: tide.wav  ->  Audio/tide.wav", File.ReadAllText(Path.Combine(bag, "packing-slip.txt")), StringComparison.Ordinal);
        var told = Tool.RunIn(bag, "sh", "bring-back-sound.sh");
        Assert.Equal(3, told.Split('\n').Count(l => l.EndsWith(": OK", StringComparison.Ordinal)));
        foreach (var (original, name) in new[] { (_session.Inside("Audio", "It's a 'take' $(rm) 01.wav"), "It's a 'take' $(rm) 01.wav"), (Path.Combine(_session.Card, "tide.wav"), "tide.wav"), (_session.Inside("Audio", "old tape.aiff"), "old tape.aiff") })
        {
            Assert.Equal(File.ReadAllBytes(original), File.ReadAllBytes(Path.Combine(there.Folder, "Audio", name)));
        }
        Directory.Delete(Path.Combine(_session.Root, "unpacked"), true);
        File.Delete(plan.Steps[0].Destination);
        Assert.Equal(before, Tree.Of(_session.Root));
    }

    /// <summary>Two that become one name both go, each under a name of its own, and the document finds both.</summary>
    [Fact]
    public void TwoThatWantOneNameBothGo()
    {
        _session.Place(Tone(_session.Inside("Audio", "a.wav"), 440), "Cello").Place(Tone(_session.Inside("Audio", "a.aiff"), 220)).Place(Tone(_session.Inside("Audio", "a.flac"), 330)).Save();
        var bag = Unpacked(Plan());
        var there = _session.Inventory(Path.Combine(bag, "data", SessionFixture.Name));
        Assert.Equal(3, there.Files.Count(f => f is { Standing: Standing.Inside, Use: FileUse.Placed, Problem: null }));
        Assert.Equal(2, Tool.RunIn(bag, "sh", "bring-back-sound.sh").Split('\n').Count(l => l.EndsWith(": OK", StringComparison.Ordinal)));
    }

    /// <summary>A document that cannot be pointed at what files become keeps them as they are; where it stays home, nothing hinders.</summary>
    [Fact]
    public void ADocumentThatCannotBePointedKeepsSoundAsItIs()
    {
        Fill();
        Assert.DoesNotContain(Plan().Remarks, r => r.Code is FaultCode.PackingNeedsDocument or FaultCode.KeptSavesPointAtUnpacked);
        var older = _session.Inside("Older documents", SessionFixture.Name + " 2026-10-13_230000.otio");
        File.WriteAllText(older, "{ half of it");
        var plan = Plan();
        Assert.Equal(Path.GetFileName(older), Assert.Single(plan.Remarks, r => r.Code == FaultCode.PackingNeedsDocument).Name);
        Assert.DoesNotContain(Names(plan), n => n.EndsWith(".flac", StringComparison.Ordinal));
        Assert.Contains("Audio/tide.flac", Names(Plan(BundleParts.Standard.Remove(BundlePart.OlderVersions))));
    }

    [Fact]
    public void KeptSavesAreSaidToPointAtWhatIsPacked()
    {
        Fill();
        Directory.CreateDirectory(_session.Inside("Document backups"));
        File.Copy(_session.DocumentPath, _session.Inside("Document backups", SessionFixture.Name + " 2026-10-14_200000.otio"));
        Assert.Contains(Plan(BundleParts.Standard.Add(BundlePart.KeptSaves)).Remarks, r => r.Code == FaultCode.KeptSavesPointAtUnpacked);
    }

    /// <summary>What an instrument plays stays what its program reads.</summary>
    [Fact]
    public void SamplesOfInstrumentsGoAsTheyAre()
    {
        Tone(_session.Inside("Audio", "hit.wav"), 440);
        File.WriteAllText(_session.Inside("Audio", "drum.sfz"), "<region> sample=hit.wav\n");
        _session.Place(Tone(_session.Inside("Audio", "line.wav"), 220)).Save();
        var names = Names(Plan());
        Assert.Equal((true, true), (names.Contains("Audio/hit.wav"), names.Contains("Audio/line.flac")));
    }

    /// <summary>What stands outside and is packed is weighed as what it is: stock content stays stock content.</summary>
    [Fact]
    public void WhatIsPackedIsWeighedAsWhatItIs()
    {
        var stock = new Shelf(Guid.NewGuid(), "Stock", ShelfKind.StockContent, Directory.CreateDirectory(Path.Combine(_session.Root, "stock")).FullName);
        Shelf[] shelves = [.. _session.Shelves, stock];
        _session.Place(Tone(Path.Combine(stock.Root, "kick.wav"), 80)).Place(Tone(_session.Inside("Audio", "line.wav"), 220)).Save();
        var inventory = new InventoryReader(new HeaderCache()).Read(_session.Folder, null, shelves, TestContext.Current.CancellationToken);
        BundlePartWeight Stock(PackedSizes? sizes) =>
            Assert.Single(BundleParts.Weigh(inventory, shelves, ImmutableHashSet<CopyKind>.Empty, null, new(), sizes, cancel: TestContext.Current.CancellationToken), w => w.Part == BundlePart.StockContent);
        Assert.Equal((1, 1), (Stock(null).Files, Stock(_sizes).Files));
        Assert.InRange(Stock(_sizes).Bytes, 1, Stock(null).Bytes - 1);
    }

    /// <summary>What the parts were said to weigh is what the bundle is, to three in a hundred.</summary>
    [Fact]
    public void WhatItWeighsIsToldBefore()
    {
        for (var n = 0; n < 6; n++)
        {
            var path = _session.Inside("Audio", $"line {n}.wav");
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            Tool.Run("sox", "-R", "-n", "-b", "24", "-r", "48000", "-c", "2", path, "synth", n < 4 ? "20" : "150", n < 4 ? "pluck" : "triangle", $"{110 * (n + 1)}", "tremolo", $"{n + 1}");
            _session.Place(path);
        }
        _session.Save();
        var told = BundleParts.Weigh(_session.Inventory(), _session.Shelves, ImmutableHashSet<CopyKind>.Empty, null, new(), _sizes, cancel: TestContext.Current.CancellationToken).Sum(w => w.Bytes);
        var plan = Plan();
        new MemoryJournal().Apply(plan);
        Assert.InRange(new FileInfo(plan.Steps[0].Destination).Length, told * 0.97, told * 1.03);
        // What was foretold is not what is: the bag says what is in it (RFC 8493, section 2.2.2).
        using var zip = ZipFile.OpenRead(plan.Steps[0].Destination);
        var payload = zip.Entries.Where(e => e.FullName.Contains("/data/", StringComparison.Ordinal) && !e.FullName.EndsWith('/')).ToList();
        Assert.Contains($"Payload-Oxum: {payload.Sum(e => e.Length)}.{payload.Count}\n", Tool.Run("unzip", "-p", plan.Steps[0].Destination, "*/bag-info.txt"), StringComparison.Ordinal);
    }
}
