using System.IO.Compression;
using System.Text.RegularExpressions;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Bundles;

public sealed partial class BundlePlannerTests : IDisposable
{
    private static readonly DateTimeOffset Now = new(2026, 10, 14, 23, 30, 5, TimeSpan.FromHours(2));

    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private Plan Plan(string? destination = null, bool bounces = false) => BundlePlanner.Plan(new BundleRequest(
        _session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], destination ?? _session.Outbox, bounces ? BundleParts.Standard.Add(BundlePart.Bounces) : BundleParts.Standard, "Idris Falk", "Mix as you like.", Now));

    /// <summary>What stays out by its kind is a dependency that is named; what goes is pointed at beside the document.</summary>
    [Fact]
    public void WhatStaysOutByItsKindIsNamed()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "IR", "hall.wav"), seed: 3)).Place(SessionFixture.Sound(Path.Combine(_session.Library, "drip.wav"), seed: 4)).Save();
        var plan = BundlePlanner.Plan(new BundleRequest(_session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, null, null, Now)
        {
            LeftOutKinds = new HashSet<CopyKind> { CopyKind.ImpulseResponses },
        });
        Assert.Contains("1 file from outside included", plan.Sentence, StringComparison.Ordinal);
        Assert.Contains("1 unavailable", plan.Sentence, StringComparison.Ordinal);
        Assert.Contains(plan.Remarks, r => r.Code == FaultCode.SilentInBundle && r.Names.Single().Contains("hall.wav (placed once; on 'Loft samples', left out by its kind)", StringComparison.Ordinal));
        var entries = plan.Steps.OfType<PackBundleStep>().Single().Contents.Entries.Select(e => Path.GetFileName(e.PayloadPath)).ToList();
        Assert.Equal((true, false), (entries.Contains("drip.wav"), entries.Contains("hall.wav")));
    }

    private string Pack(bool bounces = false)
    {
        var plan = Plan(bounces: bounces);
        new MemoryJournal().Apply(plan);
        return plan.Steps[0].Destination;
    }

    private string Unpack(string bundle)
    {
        var folder = Directory.CreateDirectory(Path.Combine(_session.Root, "unpacked")).FullName;
        Tool.Run("unzip", "-q", bundle, "-d", folder);
        return Assert.Single(Directory.GetDirectories(folder));
    }

    private void Fill()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), seed: 1), "Cello")
            .Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 2))
            .Place(SessionFixture.Sound(Path.Combine(_session.Library, "bottle: high?.wav"), seed: 3))
            .Place(SessionFixture.Sound(_session.Inside("Audio", "50% wet.wav"), seed: 4))
            .Save();
        SessionFixture.Sound(_session.Inside("Bounces", "mix.wav"), seed: 5);
        SessionFixture.Sound(_session.Inside(".waveforms", "cache.wav"), seed: 6);
        Directory.CreateDirectory(_session.Inside("Notes"));
        File.WriteAllText(_session.Inside("Notes", "Text für alle.txt"), "la la");
        _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
    }

    /// <summary>Checks by tools that are not ours: Info-ZIP's unzip -t, 7-Zip is not needed; GNU sha512sum -c on the manifests.</summary>
    /// <summary>Kept saves are one's own way back, and nobody else's; the slip says that they stayed.</summary>
    [Fact]
    public void KeptSavesStayHome()
    {
        _session.Save();
        Directory.CreateDirectory(_session.Inside("Document backups"));
        File.Copy(_session.DocumentPath, _session.Inside("Document backups", "261014 Net Mender 2026-10-14_200000.otio"));
        var contents = Assert.IsType<PackBundleStep>(Assert.Single(Plan().Steps)).Contents;
        Assert.DoesNotContain(contents.Entries, e => e.PayloadPath.Contains("Document backups", StringComparison.Ordinal));
        Assert.Contains("kept saves of the document", System.Text.Encoding.UTF8.GetString(contents.SlipText), StringComparison.Ordinal);
    }

    [Fact]
    public void UnzipAndSha512sumAgreeWithTheBundle()
    {
        Fill();
        var bundle = Pack();
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", bundle), StringComparison.Ordinal);
        var bag = Unpack(bundle);
        Assert.DoesNotContain("FAILED", Tool.RunIn(bag, "sha512sum", "--strict", "-c", "manifest-sha512.txt"), StringComparison.Ordinal);
        Assert.DoesNotContain("FAILED", Tool.RunIn(bag, "sha512sum", "--strict", "-c", "tagmanifest-sha512.txt"), StringComparison.Ordinal);
    }

    /// <summary>RFC 8493, section 3: what makes a bag complete and valid.</summary>
    [Fact]
    public void TheBagKeepsTheRulesOfRFC8493()
    {
        Fill();
        var bag = Unpack(Pack());
        Assert.Equal("BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n", File.ReadAllText(Path.Combine(bag, "bagit.txt")));
        var listed = File.ReadAllLines(Path.Combine(bag, "manifest-sha512.txt")).Select(l => ManifestLine().Match(l)).ToList();
        Assert.All(listed, m => Assert.True(m.Success));
        // Every payload file is listed once, and nothing else is.
        var payload = Directory.EnumerateFiles(Path.Combine(bag, "data"), "*", SearchOption.AllDirectories).Select(f => Path.GetRelativePath(bag, f)).Order(StringComparer.Ordinal).ToList();
        Assert.Equal(payload, listed.Select(m => m.Groups["path"].Value).Order(StringComparer.Ordinal));
        var bytes = payload.Sum(f => new FileInfo(Path.Combine(bag, f)).Length);
        Assert.Contains($"Payload-Oxum: {bytes}.{payload.Count}", File.ReadAllText(Path.Combine(bag, "bag-info.txt")), StringComparison.Ordinal);
        Assert.Contains("Bagging-Date: 2026-10-14", File.ReadAllText(Path.Combine(bag, "bag-info.txt")), StringComparison.Ordinal);
        var tags = File.ReadAllLines(Path.Combine(bag, "tagmanifest-sha512.txt")).Select(l => ManifestLine().Match(l).Groups["path"].Value);
        Assert.Equal(["bag-info.txt", "bagit.txt", "manifest-sha512.txt", "packing-slip.html", "packing-slip.json", "packing-slip.txt"], tags.Order(StringComparer.Ordinal));
    }

    [Theory]
    [InlineData("data/50% wet.wav", "data/50%25 wet.wav")]
    [InlineData("data/a\nb\rc", "data/a%0Ab%0Dc")]
    [InlineData("data/ü b.wav", "data/ü b.wav")]
    public void ManifestsEncodeLineBreaksAndPercentSignsAndOnlyThose(string path, string encoded) =>
        Assert.Equal(encoded, BagTags.EncodePath(path));

    [Fact]
    public void TheUnpackedSessionHasNothingMissingAndNothingOutside()
    {
        Fill();
        var before = Tree.Of(_session.Folder);
        var bag = Unpack(Pack());
        var there = _session.Inventory(Path.Combine(bag, "data", SessionFixture.Name));
        Assert.All(there.Files, f => Assert.Equal(Standing.Inside, f.Standing));
        Assert.Equal(
            ["Audio/50- wet.wav", "Audio/Cello 01.wav", "Audio/bottle high.wav", "Audio/tide.wav"],
            there.Files.Where(f => f.Use == FileUse.Placed).Select(f => f.ShownPath).Order(StringComparer.Ordinal));
        Assert.Equal(2, there.Documents.Length);
        Assert.True(Directory.Exists(Path.Combine(there.Folder, "Notes")));
        // The session itself is as it was.
        Assert.Equal(before, Tree.Of(_session.Folder));
        var slip = File.ReadAllText(Path.Combine(bag, "packing-slip.txt"));
        Assert.Contains("Nothing that the document points at is missing.", slip, StringComparison.Ordinal);
        Assert.Contains("Field card: tide.wav  ->  Audio/tide.wav", slip, StringComparison.Ordinal);
        Assert.Contains("Mix as you like.", slip, StringComparison.Ordinal);
    }

    [Fact]
    public void BouncesStayHomeUnlessAskedForAndCachesAlways()
    {
        Fill();
        Assert.Contains("1 bounce in 'Bounces'", File.ReadAllText(Path.Combine(Unpack(Pack()), "packing-slip.txt")), StringComparison.Ordinal);
        using var with = ZipFile.OpenRead(Pack(bounces: true));
        Assert.Contains(with.Entries, e => e.FullName.EndsWith("Bounces/mix.wav", StringComparison.Ordinal));
        Assert.DoesNotContain(with.Entries, e => e.FullName.Contains(".waveforms", StringComparison.Ordinal));
    }

    [Fact]
    public void WhatCannotGoAlongIsWarnedOfAndStandsOnTheSlip()
    {
        _session.Place(_session.Inside("Audio", "gone.wav")).Place(Path.Combine(_session.Laptop, "gull.wav")).Save();
        Assert.Equal(2, Assert.Single(Plan().Remarks, r => r.Code == FaultCode.SilentInBundle).Names.Length);
        var slip = File.ReadAllText(Path.Combine(Unpack(Pack()), "packing-slip.txt"));
        Assert.Contains("NOT INSIDE", slip, StringComparison.Ordinal);
        Assert.Contains("gull.wav (placed once; on 'Old laptop', which is not connected)", slip, StringComparison.Ordinal);
    }

    [Fact]
    public void APlaceInsideTheSessionIsRefusedWithTheReason()
    {
        Fill();
        Assert.Equal((FaultCode.BundleInsideSession, _session.Folder), Refused(_session.Inside("Bounces")));
        Directory.CreateSymbolicLink(Path.Combine(_session.Outbox, "link"), _session.Folder);
        Assert.Equal((FaultCode.BundleInsideSession, _session.Folder), Refused(Path.Combine(_session.Outbox, "link")));
        Assert.Equal((FaultCode.NoSuchFolder, Path.Combine(_session.Outbox, "nowhere")), Refused(Path.Combine(_session.Outbox, "nowhere")));
    }

    private (FaultCode, string?) Refused(string place) => Assert.Single(Plan(place).Refusals) is var fault ? (fault.Code, fault.Path) : default;

    [Fact]
    public void AFileThatChangesBeforeItIsPackedStopsTheBundle()
    {
        Fill();
        var plan = Plan();
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), samples: 10, seed: 1);
        Assert.Throws<PlanRefusedException>(() => new MemoryJournal().Apply(plan));
        Assert.Empty(Directory.GetFileSystemEntries(_session.Outbox));
    }

    [Fact]
    public void NamesThatClashOnOtherSystemsBothGoAlong()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Take.wav"), seed: 1))
            .Place(SessionFixture.Sound(_session.Inside("Audio", "take.wav"), seed: 2))
            .Save();
        var there = _session.Inventory(Path.Combine(Unpack(Pack()), "data", SessionFixture.Name));
        Assert.Equal(["Audio/Take.wav", "Audio/take 2.wav"], there.Files.Select(f => f.ShownPath).Order(StringComparer.Ordinal));
        Assert.All(there.Files, f => Assert.Equal((Standing.Inside, 1), (f.Standing, f.PlacedTimes)));
    }

    [Fact]
    public void AnAbsolutePointerAtAFileInsideBecomesARelativeOneInTheBundle()
    {
        var take = SessionFixture.Sound(_session.Inside("Audio", "take.wav"));
        _session.Place(take, url: "file://" + take.Replace(" ", "%20", StringComparison.Ordinal)).Save();
        var there = _session.Inventory(Path.Combine(Unpack(Pack()), "data", SessionFixture.Name));
        Assert.Equal("Audio/take.wav", Assert.Single(Assert.Single(there.Files).TargetUrls));
    }

    [GeneratedRegex("^[0-9a-f]{128}  (?<path>.+)$")]
    private static partial Regex ManifestLine();
}
