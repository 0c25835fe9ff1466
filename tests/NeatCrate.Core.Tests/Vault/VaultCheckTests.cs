using NeatCrate.Core.Healing;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Tests.Vault;

public sealed class VaultCheckTests : IDisposable
{
    private const int Places = 200;

    private readonly VaultFixture _fixture = new();

    /// <summary>One bit at a random place of a vault, 200 times: found each time, healed from a second vault, and nothing else is touched.</summary>
    [Fact]
    public void OneFlippedBitAnywhereIsFoundAndHealed()
    {
        var random = new Random(20261017);
        for (var n = 0; n < 12; n++)
        {
            _fixture.Put($"Audio/Voice {n:00}.wav", 200 + random.Next(4000), n);
        }
        _fixture.BackUp();
        _fixture.Put("Audio/Voice 03.wav", 2500, 99);
        _fixture.BackUp();
        var second = Path.Combine(_fixture.Root, "second");
        DiskTree.Copy(_fixture.VaultFolder, second);
        var other = new VaultSource("the second vault", new BackupVault(new FolderStore(second, new QuickFiles())));
        var files = Directory.EnumerateFiles(_fixture.VaultFolder, "*", SearchOption.AllDirectories).Where(f => new FileInfo(f).Length > 0 && Path.GetFileName(f) != VaultNames.Identity).Order(StringComparer.Ordinal).ToList();
        var all = files.Sum(f => new FileInfo(f).Length);
        for (var n = 0; n < Places; n++)
        {
            var before = DiskTree.Of(_fixture.VaultFolder);
            var at = random.NextInt64(all);
            // The small files are seldom met by chance; each has its turn.
            var file = n < files.Count ? files[n] : files.First(f => (at -= new FileInfo(f).Length) < 0);
            var bytes = File.ReadAllBytes(file);
            var (place, bit, times) = (random.Next(bytes.Length), random.Next(8), File.GetLastWriteTimeUtc(file));
            bytes[place] ^= (byte)(1 << bit);
            File.WriteAllBytes(file, bytes);
            File.SetLastWriteTimeUtc(file, times);
            var name = Path.GetRelativePath(_fixture.VaultFolder, file);
            var finding = Assert.Single(_fixture.Check().Findings);
            Assert.Equal(name, finding.Name);
            var healed = Assert.Single(_fixture.Heal([finding], [other]));
            Assert.NotNull(healed.HealedFrom);
            Assert.Empty(_fixture.Check().Findings);
            Assert.Equal(WithoutTimeOf(before, name), WithoutTimeOf(DiskTree.Of(_fixture.VaultFolder), name));
        }
    }

    [Fact]
    public void DamageIsNamedByFileAndByWhichBackupsSuffer()
    {
        _fixture.Put("Audio/tide.wav", 1000, 1);
        var first = _fixture.BackUp();
        File.Move(Path.Combine(_fixture.Folder, "Audio/tide.wav"), Path.Combine(_fixture.Folder, "Audio/tide 2.wav"));
        var second = _fixture.BackUp();
        var content = Path.Combine(_fixture.VaultFolder, VaultNames.Of(first.Manifest.Entries[0].Hash));
        File.Delete(content);
        var finding = Assert.Single(_fixture.Check().Findings);
        Assert.Equal((VaultDamage.ContentMissing, 1000), (finding.Damage, finding.Bytes));
        Assert.Equal([new Sufferer(first.Name!, "Audio/tide.wav"), new Sufferer(second.Name!, "Audio/tide 2.wav")], finding.Sufferers);
        // The session's own file has it still.
        var session = new FilesSource("the session", new Dictionary<ContentHash, string> { [finding.Hash!.Value] = Path.Combine(_fixture.Folder, "Audio/tide 2.wav") }, new QuickFiles());
        Assert.Equal("the session", Assert.Single(_fixture.Heal([finding], [session])).HealedFrom);
        Assert.Empty(_fixture.Check().Findings);
    }

    /// <summary>A file that is not what was backed up heals nothing, and the damaged one stays for whoever can do something with it.</summary>
    [Fact]
    public void WhatIsSomethingElseHealsNothing()
    {
        var path = _fixture.Put("a.wav", 1000, 1);
        var made = _fixture.BackUp();
        var content = Path.Combine(_fixture.VaultFolder, VaultNames.Of(made.Manifest.Entries[0].Hash));
        File.WriteAllText(content, "damaged");
        _fixture.Put("a.wav", 1000, 2);
        var finding = Assert.Single(_fixture.Check().Findings);
        var session = new FilesSource("the session", new Dictionary<ContentHash, string> { [finding.Hash!.Value] = path }, new QuickFiles());
        Assert.Null(Assert.Single(_fixture.Heal([finding], [session])).HealedFrom);
        Assert.Equal("damaged", File.ReadAllText(content));
    }

    /// <summary>The next backup of a file whose content was cut, emptied or grown in the vault brings it again, whether the file was touched or not.</summary>
    [Theory]
    [InlineData(5, false)]
    [InlineData(0, false)]
    [InlineData(2000, false)]
    [InlineData(5, true)]
    [InlineData(0, true)]
    [InlineData(2000, true)]
    public void ContentOfAnotherSizeIsNoCopy(int bytes, bool isTouched)
    {
        var path = _fixture.Put("a.wav", 1000, 1);
        var made = _fixture.BackUp();
        File.WriteAllBytes(Path.Combine(_fixture.VaultFolder, VaultNames.Of(made.Manifest.Entries[0].Hash)), new byte[bytes]);
        if (isTouched)
        {
            File.SetLastWriteTimeUtc(path, new DateTime(2026, 10, 18, 0, 0, 0, DateTimeKind.Utc));
        }
        var again = _fixture.BackUp();
        Assert.Equal(1000, again.Manifest.Header.NewBytes);
        Assert.Empty(_fixture.Check().Findings);
        Assert.Equal(VaultFixture.Bytes(_fixture.Folder), VaultFixture.Bytes(_fixture.Vault, again.Name!));
    }

    /// <summary>While a list cannot be read, or could not when the damage was found, nobody knows who counts on damaged content: it stands aside.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void DamagedContentStandsAsideWhileAListIsDamaged(bool isListMended)
    {
        _fixture.Put("a.wav", 1000, 1);
        var made = _fixture.BackUp();
        var hash = made.Manifest.Entries[0].Hash;
        var list = Path.Combine(_fixture.VaultFolder, made.Name!);
        var whole = File.ReadAllBytes(list);
        Flip(hash);
        var content = File.ReadAllBytes(Path.Combine(_fixture.VaultFolder, VaultNames.Of(hash)));
        File.WriteAllBytes(list, [.. whole[..^3], 0, .. whole[^2..]]);
        var store = new MemoryStore();
        store.Put(made.Name!, whole);
        var healed = _fixture.Heal(_fixture.Check().Findings, isListMended ? [new VaultSource("what was remembered", new BackupVault(store))] : []);
        Assert.Equal(isListMended, healed.Single(h => h.Finding.Damage == VaultDamage.ManifestDamaged).HealedFrom is not null);
        Assert.Null(healed.Single(h => h.Finding.Damage == VaultDamage.ContentDamaged).HealedFrom);
        var aside = Path.Combine(_fixture.VaultFolder, "damaged", VaultNames.Of(hash));
        Assert.Equal(content, File.ReadAllBytes(aside));
        Assert.Equal(isListMended ? VaultDamage.ContentMissing : VaultDamage.ManifestDamaged, Assert.Single(_fixture.Check().Findings).Damage);
        // A later backup brings it again, and what stood aside goes.
        var later = _fixture.BackUp();
        Assert.False(File.Exists(aside));
        Assert.Equal(VaultFixture.Bytes(_fixture.Folder), VaultFixture.Bytes(_fixture.Vault, later.Name!));
    }

    /// <summary>A list whose mending was cut off, so that it stands aside alone, is damage: it is told, healed, and keeps a sweep from its content.</summary>
    [Fact]
    public void AListThatStandsAsideAloneIsDamageAndIsMended()
    {
        _fixture.Put("a.wav", 1000, 1);
        var made = _fixture.BackUp();
        var store = new MemoryStore();
        store.Put(made.Name!, _fixture.Vault.Store.Read(made.Name!));
        _fixture.Vault.Store.MoveAside(made.Name!);
        Assert.Equal(FaultCode.ManifestDamaged, Assert.Throws<FaultException>(() => VaultSweep.Run(_fixture.Vault, [], null, null, TestContext.Current.CancellationToken)).Fault.Code);
        var finding = Assert.Single(_fixture.Check().Findings);
        Assert.Equal((made.Name, VaultDamage.ManifestDamaged), (finding.Name, finding.Damage));
        _fixture.Heal([finding], [new VaultSource("what was remembered", new BackupVault(store))]);
        Assert.Empty(_fixture.Check().Findings);
        Assert.Equal(0, VaultSweep.Run(_fixture.Vault, [], null, null, TestContext.Current.CancellationToken).Objects);
        Assert.Empty(_fixture.Vault.Store.List("damaged/"));
    }

    /// <summary>The next backup of the same file writes what a check found damaged again, though its size is right.</summary>
    [Fact]
    public void DamagedContentIsBroughtAgainByTheNextBackup()
    {
        _fixture.Put("a.wav", 1000, 1);
        var made = _fixture.BackUp();
        Flip(made.Manifest.Entries[0].Hash);
        var finding = Assert.Single(_fixture.Check().Findings);
        _fixture.BackUp(_fixture.Request() with { Damaged = [finding.Hash!.Value] });
        Assert.Empty(_fixture.Check().Findings);
    }

    /// <summary>Damaged content that no backup names goes, so that no later one takes it for its own.</summary>
    [Fact]
    public void DamagedContentThatNobodyNamesGoes()
    {
        _fixture.Put("a.wav", 1000, 1);
        var made = _fixture.BackUp();
        File.Delete(Path.Combine(_fixture.VaultFolder, made.Name!));
        Flip(made.Manifest.Entries[0].Hash);
        _fixture.Heal(_fixture.Check().Findings, []);
        _fixture.BackUp();
        Assert.Empty(_fixture.Check().Findings);
    }

    /// <summary>A backup is made between the check and the mending, and takes what was found damaged for its own: it is healed, and does not go.</summary>
    [Fact]
    public void WhatABackupCameToCountOnMeanwhileIsHealed()
    {
        var path = _fixture.Put("a.wav", 1000, 1);
        var made = _fixture.BackUp();
        var hash = made.Manifest.Entries[0].Hash;
        File.Delete(Path.Combine(_fixture.VaultFolder, made.Name!));
        Flip(hash);
        var found = _fixture.Check().Findings;
        Assert.Empty(Assert.Single(found).Sufferers);
        var later = _fixture.BackUp();
        var now = VaultCheck.SufferersNow(_fixture.Vault, found);
        Assert.Equal([new Sufferer(later.Name!, "a.wav")], Assert.Single(now).Sufferers);
        var session = new FilesSource("the session", new Dictionary<ContentHash, string> { [hash] = path }, new QuickFiles());
        Assert.Equal("the session", Assert.Single(_fixture.Heal(now, [session])).HealedFrom);
        Assert.Empty(_fixture.Check().Findings);
    }

    private void Flip(ContentHash hash)
    {
        var path = Path.Combine(_fixture.VaultFolder, VaultNames.Of(hash));
        var bytes = File.ReadAllBytes(path);
        bytes[500] ^= 1;
        File.WriteAllBytes(path, bytes);
    }

    [Fact]
    public void AShareEachDayReadsAllInTheEnd()
    {
        for (var n = 0; n < 10; n++)
        {
            _fixture.Put($"{n}.wav", 1000, n);
        }
        _fixture.BackUp();
        var (read, from, days) = (0, (string?)null, 0);
        do
        {
            var share = VaultCheck.Run(_fixture.Vault, null, from, 3000, null, TestContext.Current.CancellationToken);
            (read, from, days) = (read + share.Objects, share.Next, days + 1);
        }
        while (from is not null);
        Assert.Equal((10, 4), (read, days));
    }

    public void Dispose() => _fixture.Dispose();

    private static Dictionary<string, string> WithoutTimeOf(IEnumerable<KeyValuePair<string, string>> tree, string name) =>
        tree.ToDictionary(e => e.Key, e => e.Key == name ? e.Value[..e.Value.IndexOf(" at ", StringComparison.Ordinal)] : e.Value);
}
