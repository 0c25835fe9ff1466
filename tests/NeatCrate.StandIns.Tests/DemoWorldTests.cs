using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.StandIns.Demo;
using NeatCrate.Testing;

namespace NeatCrate.StandIns.Tests;

public sealed class DemoWorldFixture : IDisposable
{
    private readonly TempFolder _temp = new();

    public DemoWorldFixture() => DemoWorld.Make(Root);

    public string Root => Path.Combine(_temp.Path, "demo");

    public void Dispose() => _temp.Dispose();
}

public sealed class DemoWorldTests(DemoWorldFixture demo) : IClassFixture<DemoWorldFixture>
{
    private Shelf[] Shelves => [.. DemoWorld.Shelves(demo.Root).Select(s => new Shelf(Guid.NewGuid(), s.Name, s.Kind, s.Root))];

    private SessionInventory Take(string song) => new InventoryReader(new HeaderCache()).Read(
        DemoWorld.SessionFolders(demo.Root).Single(f => f.EndsWith(song, StringComparison.Ordinal)), null, Shelves, TestContext.Current.CancellationToken);

    private static IEnumerable<string> Files(string root) => Directory.EnumerateFiles(root, "*.wav", SearchOption.AllDirectories);

    [Fact]
    public void TheDemoIsTheSameEveryTime()
    {
        using var again = new TempFolder();
        Assert.True(DemoWorld.Make(Path.Combine(again.Path, "demo")));
        var (one, other) = (WithoutContent(demo.Root), WithoutContent(Path.Combine(again.Path, "demo")));
        Assert.Equal(one.Keys, other.Keys);
        foreach (var sound in one.Keys.Where(k => k.EndsWith(".wav", StringComparison.Ordinal)))
        {
            Assert.Equal(one[sound], other[sound]);
        }
    }

    /// <summary>Documents point at drives by their whole paths, so the vault holds others under other names in another folder.</summary>
    private static SortedDictionary<string, string> WithoutContent(string root)
    {
        var tree = Tree.Of(root);
        foreach (var content in tree.Keys.Where(k => k.StartsWith("shelves/Vault/Neat Crate vault/content/", StringComparison.Ordinal)).ToList())
        {
            tree.Remove(content);
        }
        return tree;
    }

    /// <summary>Four evenings of Fog Signal and one of Low Water stand in the vault, whole.</summary>
    [Fact]
    public void ItsVaultIsWhole()
    {
        var vault = new BackupVault(new FolderStore(Path.Combine(demo.Root, "shelves", "Vault", VaultNames.FolderName), new DurableFiles()));
        Assert.Equal(["261005 Low Water", .. Enumerable.Repeat("261019 Fog Signal", 4)], vault.Backups().Select(b => b.Header!.Folder).Order());
        Assert.Empty(VaultCheck.Run(vault, null, null, long.MaxValue, null, TestContext.Current.CancellationToken).Findings);
    }

    [Fact]
    public void ItStaysWithin150MBAndIsNotMadeTwice()
    {
        Assert.InRange(Directory.EnumerateFiles(demo.Root, "*", SearchOption.AllDirectories).Sum(f => new FileInfo(f).Length), 60_000_000, 150_000_000);
        Assert.False(DemoWorld.Make(demo.Root));
    }

    [Fact]
    public void OneThatWasCutOffInTheMakingIsMadeAgain()
    {
        using var temp = new TempFolder();
        var root = temp.Folder("demo");
        File.WriteAllText(Path.Combine(root, "half"), "");
        Assert.True(DemoWorld.Make(root));
        Assert.False(File.Exists(Path.Combine(root, "half")));
    }

    [Theory]
    [InlineData("Low Water", Attention.InOrder, "Everything is inside, nothing is missing.")]
    [InlineData("Net Mender", Attention.AtRisk, "3 files stand outside the session folder, 1.6 MB.")]
    [InlineData("Tar and Twine", Attention.Silent, "16 files are missing; 3 files are on 'Old laptop', which is away.")]
    [InlineData("The Ninth Bell", Attention.Heavy, "Everything is inside; 117 of 124 files are placed nowhere, 46.9 MB.")]
    [InlineData("Fog Signal", Attention.InOrder, "Everything is inside, only older versions miss 4 files.")]
    public void EachSessionTellsItsOwnStory(string song, Attention attention, string sentence)
    {
        var status = SessionStatus.Of(Take(song));
        Assert.Equal((attention, sentence), (status.Attention, status.Sentence));
        Assert.Empty(Take(song).Remarks);
    }

    /// <summary>Twelve on the attic drive that nobody knows: eleven sessions, of which two lack files, a copy of one that is known, and sounds that are none.</summary>
    [Fact]
    public void TheAtticDriveHoldsSessionsOfSeveralPrograms()
    {
        var root = DemoWorld.Shelves(demo.Root).Single(s => s.Name == "Attic drive").Root;
        var found = new System.Collections.Concurrent.ConcurrentBag<FoundSession>();
        new SessionSearch(new InventoryReader(new HeaderCache()), Shelves, new HashSet<string>()).Look(root, _ => { }, found.Add, TestContext.Current.CancellationToken);
        var fog = DemoWorld.SessionFolders(demo.Root).Single(f => f.EndsWith("Fog Signal", StringComparison.Ordinal));
        var told = FoundSessions.Tell(found, root, [new KnownSession(Guid.NewGuid(), fog, Take("Fog Signal").Document!.SessionId, null)], Shelves).OrderBy(t => t.Found.Folder, StringComparer.Ordinal).ToList();
        Assert.Equal([.. Enumerable.Repeat(FoundAs.Session, 11), FoundAs.Copy], told.Select(t => t.As));
        Assert.Equal(5, told.Select(t => Path.GetExtension(t.Found.Documents[0])).Distinct().Count());
        Assert.Equal(
            ["190921 Second Lantern: 2 files are missing.", "220226 The Long Slip: 1 file is missing."],
            told.Where(t => t.As == FoundAs.Session && t.Found.Status.Attention != Attention.InOrder).Select(t => $"{Path.GetFileName(t.Found.Folder)}: {t.Found.Status.Sentence}"));
        Assert.All(told.Where(t => t.As == FoundAs.Session), t => Assert.Equal(t.Found.Status.Attention == Attention.InOrder ? 4 : t.Found.Media, t.Found.Media));
    }

    [Fact]
    public void TheTrapsAreSet()
    {
        var headers = Files(demo.Root).ToDictionary(f => f, WavHeaderReader.ReadFile);
        Assert.Contains(headers, h => h.Value.SampleRate == 44100);
        Assert.Contains(headers, h => h.Value.Chunks.Any(c => c.Id == "quay" && c.Bytes % 2 == 1));
        Assert.Contains(headers.Keys, f => f.Contains('?', StringComparison.Ordinal));
        Assert.All(headers, h => Assert.Empty(h.Value.Remarks));
        var identities = headers.Keys.ToDictionary(f => f, f => ByteIdentity.OfFile(f, null, TestContext.Current.CancellationToken));
        // One content under two names, and one name for two contents.
        Assert.Contains(identities.GroupBy(i => i.Value), g => g.Select(i => Path.GetFileName(i.Key)).Distinct().Count() > 1);
        Assert.Contains(identities.GroupBy(i => Path.GetFileName(i.Key)), g => g.Select(i => i.Value).Distinct().Count() > 1);
    }

    /// <summary>SoX's own measure: every take sounds, none clips, and one ends in silence.</summary>
    [Fact]
    public void TheSoundsCanBeHeard()
    {
        foreach (var file in Files(Path.Combine(demo.Root, "shelves")).Where(f => f.Contains("01.wav", StringComparison.Ordinal) || !f.Contains("Audio", StringComparison.Ordinal)))
        {
            var peak = double.Parse(
                Tool.Run("sox", file, "-n", "stat").Split('\n').Single(l => l.StartsWith("Maximum amplitude", StringComparison.Ordinal)).Split(':')[1],
                System.Globalization.CultureInfo.InvariantCulture);
            Assert.True(peak is > 0.05 and < 0.999, $"{Path.GetFileName(file)} peaks at {peak}");
        }
        var kept = Files(demo.Root).Single(f => f.EndsWith("The Ninth Bell/Audio/Voice 11.wav", StringComparison.Ordinal));
        Assert.Matches(@"Maximum amplitude:\s+0.000000", Tool.Run("sox", kept, "-n", "trim", "-2", "stat"));
    }
}
