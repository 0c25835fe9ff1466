using System.Runtime.CompilerServices;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Contents;

/// <summary>A vault, a bundle and plans as the version before wrote them (backups without the pointers and folders, plans of version 2): read for ever.</summary>
public sealed class EarlierTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private static string Earlier([CallerFilePath] string here = "") => Path.Combine(Path.GetDirectoryName(here)!, "Earlier");

    private FolderStore Vault()
    {
        var place = _temp.Folder("outbox", VaultNames.FolderName);
        DiskTree.Copy(Path.Combine(Earlier(), "vault"), place);
        return new FolderStore(place, new QuickFiles());
    }

    private Plan Read(string name) => PlanJson.Read(File.ReadAllText(Path.Combine(Earlier(), name + ".json")).Replace("ROOT", _temp.Path, StringComparison.Ordinal));

    private static SessionInventory Inventory(string folder) => new InventoryReader(new HeaderCache()).Read(folder, null, [], TestContext.Current.CancellationToken);

    /// <summary>Nobody wrote down where pointers led: those that lead up and out are known by their ends, and nothing is silent.</summary>
    [Fact]
    public void ABackupComesBackWithAllThatItPointsAt()
    {
        var vault = new BackupVault(Vault());
        var manifest = vault.Manifest(Assert.Single(vault.Backups()).Name);
        Assert.Null(manifest.Header.Stood);
        Assert.Equal(["Bounces"], manifest.Folders.Where(f => f.IsEmpty).Select(f => f.Path));
        var parent = _temp.Folder("a", "b", "c");
        new MemoryJournal().Apply(RestorePlanner.Whole(manifest, vault.Store, parent, "back", []));
        var there = Inventory(Path.Combine(parent, "back"));
        Assert.Equal(4, there.Files.Length);
        Assert.All(there.Files, f => Assert.Equal((Standing.Inside, FileUse.Placed), (f.Standing, f.Use)));
        Assert.Empty(VaultCheck.Run(vault, null, null, long.MaxValue, null, TestContext.Current.CancellationToken).Findings);
    }

    [Fact]
    public void ABundleIsRead()
    {
        var contents = new BagContainer(Path.Combine(Earlier(), "bundle.zip"), new DurableFiles()).Read();
        using var reading = new OriginReading(new DurableFiles());
        Assert.Equal("261014 Net Mender", contents.Folder);
        Assert.Equal(["261014 Net Mender.otio", "Audio/Cello 01.wav", "Audio/Cello 02.wav", "Audio/gull.wav", "Audio/tide.wav"], contents.Entries.Select(e => e.Path));
        Assert.All(contents.Entries, e => Assert.Equal(e.Sha512, ContentHash.Of(MemorySink.Read(e.Origin, 1 << 20, reading))));
        Assert.Equal(["Bounces"], contents.EmptyFolders);
    }

    /// <summary>A restore that was planned by the version before is applied by this one.</summary>
    [Fact]
    public void APlanThatBringsASessionBackIsApplied()
    {
        Vault();
        _temp.Folder("card");
        var plan = Read("restore") with { Held = [] };
        Assert.Equal(5, plan.Steps.OfType<MakeFileStep>().Count());
        Assert.Contains(plan.Steps.OfType<MakeFileStep>(), s => s.Origin is VaultContent { Name: var name } && name.StartsWith("content/", StringComparison.Ordinal));
        var journal = new MemoryJournal();
        journal.Apply(plan);
        Assert.Equal(4, Directory.GetFiles(Path.Combine(_temp.Path, "card", "back"), "*.wav", SearchOption.AllDirectories).Length);
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.False(Directory.Exists(Path.Combine(_temp.Path, "card", "back")));
        // What is written now is read again, and says the same.
        Assert.Equal(PlanJson.Write(plan), PlanJson.Write(PlanJson.Read(PlanJson.Write(plan))));
    }

    [Fact]
    public void PlansOfABundleAndOfAConversionAreRead()
    {
        var contents = Assert.IsType<PackBundleStep>(Assert.Single(Read("bundle").Steps)).Contents;
        Assert.Equal([("261014 Net Mender/Audio/Cello 01.wav", 1280L)], contents.Entries.Where(e => e.PayloadPath.EndsWith("01.wav", StringComparison.Ordinal)).Select(e => (e.PayloadPath, e.Bytes)));
        Assert.Single(contents.Entries, e => e.Origin is GivenBytes given && given.Content.Length == e.Bytes);
        Assert.All(contents.Entries.Select(e => e.Origin).OfType<WholeFile>(), f => Assert.StartsWith(_temp.Path, f.Path, StringComparison.Ordinal));
        var converted = Assert.Single(Read("convert").Steps.OfType<MakeFileStep>(), s => s.Transform is ConvertRate { SampleRate: 48000 });
        Assert.Equal(Path.Combine(_temp.Path, "library", "low.wav"), Assert.IsType<WholeFile>(Assert.IsType<Transformed>(converted.Origin).From).Path);
    }
}
