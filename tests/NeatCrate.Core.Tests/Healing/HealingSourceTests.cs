using System.Collections.Immutable;
using NeatCrate.Core.Healing;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Tests.Vault;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Healing;

/// <summary>Damaged content comes back from whatever has it, and a source that is damaged itself keeps nobody from the next.</summary>
public sealed class HealingSourceTests : IDisposable
{
    private readonly VaultFixture _fixture = new();
    private readonly VaultFinding _finding;
    private readonly string _second;

    public HealingSourceTests()
    {
        _fixture.Put("Audio/tide.wav", 4000, 1);
        _fixture.Put("Audio/wind.wav", 4000, 2);
        var made = _fixture.BackUp();
        _second = Path.Combine(_fixture.Root, "second");
        DiskTree.Copy(_fixture.VaultFolder, _second);
        var content = Path.Combine(_fixture.VaultFolder, VaultNames.Of(made.Manifest.Entries.Single(e => e.Path == "Audio/tide.wav").Hash));
        var bytes = File.ReadAllBytes(content);
        bytes[300] ^= 4;
        File.WriteAllBytes(content, bytes);
        _finding = Assert.Single(_fixture.Check().Findings);
    }

    public void Dispose() => _fixture.Dispose();

    private VaultSource Second => new("the second vault", new BackupVault(new FolderStore(_second, new QuickFiles())));

    /// <summary>A bundle made by general tools (zip, sha512sum), its sound stored as it is.</summary>
    private string Bundle()
    {
        var bag = Path.Combine(_fixture.Root, "made", "bag");
        DiskTree.Copy(_fixture.Folder, Path.Combine(bag, "data", "Fog Signal"));
        Tool.Run("sh", "-c", $"cd '{bag}' && find data -type f -print0 | xargs -0 sha512sum > manifest-sha512.txt");
        var bundle = Path.Combine(_fixture.Root, "bag.zip");
        Tool.RunIn(Path.Combine(_fixture.Root, "made"), "zip", "-q", "-0", "-r", bundle, "bag");
        return bundle;
    }

    private static BundleSource Source(string bundle) => new(bundle, FileState.Of(bundle), BagReader.Read(bundle, new QuickFiles()));

    private string? Heal(params IHealingSource[] sources)
    {
        var from = Assert.Single(_fixture.Heal([_finding], sources)).HealedFrom;
        Assert.Equal(from is null, _fixture.Check().Findings.Length > 0);
        return from;
    }

    [Fact]
    public void ABundleHeals()
    {
        Assert.Equal("the bundle 'bag.zip'", Heal(Source(Bundle()), Second));
    }

    /// <summary>A bag of anybody's, whose payload is no session folder.</summary>
    [Fact]
    public void ABagWithoutAFolderHeals()
    {
        var bag = Directory.CreateDirectory(Path.Combine(_fixture.Root, "made", "flat", "data")).FullName;
        File.Copy(Path.Combine(_fixture.Folder, "Audio", "tide.wav"), Path.Combine(bag, "x.bin"));
        Tool.Run("sh", "-c", $"cd '{Path.GetDirectoryName(bag)}' && sha512sum data/x.bin > manifest-sha512.txt");
        var bundle = Path.Combine(_fixture.Root, "flat.zip");
        Tool.RunIn(Path.Combine(_fixture.Root, "made"), "zip", "-q", "-r", bundle, "flat");
        Assert.Equal("the bundle 'flat.zip'", Heal(Source(bundle)));
    }

    /// <summary>A bundle that was written over since it was read is left for the next.</summary>
    [Fact]
    public void ABundleThatChangedSinceIsLeftForTheNext()
    {
        var bundle = Bundle();
        var known = Source(bundle);
        File.AppendAllText(bundle, "more");
        Assert.Equal("the second vault", Heal(known, Second));
    }

    /// <summary>Each byte that leads to the entry in turn is another one, in the directory and in the entry's own header.</summary>
    [Fact]
    public void ADamagedBundleIsLeftForTheNext()
    {
        var bundle = Bundle();
        var whole = File.ReadAllBytes(bundle);
        var name = System.Text.Encoding.UTF8.GetBytes("bag/data/Fog Signal/Audio/tide.wav");
        var (local, listed) = (whole.AsSpan().IndexOf(name), whole.AsSpan().LastIndexOf(name));
        Assert.True(local > 0 && listed > local);
        var damaged = _fixture.Vault.Store.Read(_finding.Name);
        var left = 0;
        foreach (var at in Enumerable.Range(local - 30, 30 + name.Length).Concat(Enumerable.Range(listed - 46, 46)))
        {
            var bytes = (byte[])whole.Clone();
            bytes[at] ^= 0xFF;
            File.WriteAllBytes(bundle, bytes);
            File.WriteAllBytes(Path.Combine(_fixture.VaultFolder, _finding.Name), damaged);
            left += Heal(Source(bundle), Second) == "the second vault" ? 1 : 0;
        }
        Assert.InRange(left, 20, 200);
    }

    [Fact]
    public void ASourceThatThrowsWhateverIsLeftForTheNext()
    {
        foreach (var thrown in new Exception[] { new InvalidDataException(), new NotSupportedException(), new UnauthorizedAccessException(), new FaultException(FaultCode.SourceUnreadable, "x") })
        {
            File.WriteAllText(Path.Combine(_fixture.VaultFolder, _finding.Name), "damaged");
            Assert.Equal("the second vault", Heal(new Throwing(thrown), Second));
        }
        // Who stops the work means all of it.
        File.WriteAllText(Path.Combine(_fixture.VaultFolder, _finding.Name), "damaged");
        Assert.Throws<OperationCanceledException>(() => Heal(new Throwing(new OperationCanceledException()), Second));
    }

    /// <summary>What the other vault has under the name is damaged as well: it is no copy, and what is there stays.</summary>
    [Fact]
    public void ADamagedVaultHealsNothing()
    {
        var other = Path.Combine(_second, _finding.Name);
        var (whole, here) = (File.ReadAllBytes(other), File.ReadAllBytes(Path.Combine(_fixture.VaultFolder, _finding.Name)));
        foreach (var bytes in new[] { whole[..^1], [], [.. whole, 0], here })
        {
            File.WriteAllBytes(other, bytes);
            Assert.Null(Heal(Second));
            Assert.Equal(here, File.ReadAllBytes(Path.Combine(_fixture.VaultFolder, _finding.Name)));
        }
    }

    private sealed class Throwing(Exception thrown) : IHealingSource
    {
        public string Name => "one that throws";

        public FileOrigin? Find(ContentHash hash, long bytes) => throw thrown;
    }
}
