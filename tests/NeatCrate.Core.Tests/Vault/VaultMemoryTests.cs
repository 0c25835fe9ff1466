using System.Diagnostics;
using System.Text;
using NeatCrate.Core.Healing;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Vault;

/// <summary>What is remembered of a vault: what was let go is told from what was lost, and one vault from another.</summary>
public sealed class VaultMemoryTests : IDisposable
{
    private readonly VaultFixture _fixture = new();
    private readonly MemoryStore _store = new();
    private readonly VaultMemory _memory;

    public VaultMemoryTests() => _memory = new VaultMemory(_store);

    public void Dispose() => _fixture.Dispose();

    private TakenIn Look() => _memory.TakeIn(_fixture.Vault, again: false);

    private IEnumerable<string> Remembered => _memory.Lists.Backups().Select(b => b.Name);

    private string PathOf(string name) => Path.Combine(_fixture.VaultFolder, name);

    private VaultSource Memory => new("what was remembered", _memory.Lists, isOfThisVault: true);

    /// <summary>A list that is gone without a word: damage, no sweep, and the list comes back with what it named, though that is gone from the vault as well.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void AListThatIsGoneWithoutBeingLetGoIsLostAndComesBack(bool isContentGone)
    {
        var path = _fixture.Put("b.wav", 4000, 2);
        var older = _fixture.BackUp();
        var content = older.Manifest.Entries.Single(e => e.Path == "b.wav").Hash;
        File.Move(path, Path.Combine(_fixture.Root, "b.wav"));
        _fixture.Put("a.wav", 3000, 1);
        _fixture.BackUp();
        Assert.Empty(Look().Lost);
        File.Delete(PathOf(older.Name!));
        if (isContentGone)
        {
            File.Delete(PathOf(VaultNames.Of(content)));
        }
        Assert.Equal([older.Name!], Look().Lost);
        Assert.Equal([older.Name!], Look().Lost);
        Assert.Equal(FaultCode.ManifestMissing, Assert.Throws<FaultException>(() => VaultSweep.Run(_fixture.Vault, [], _memory.Lists, null, TestContext.Current.CancellationToken)).Fault.Code);
        Assert.Equal(isContentGone, !File.Exists(PathOf(VaultNames.Of(content))));
        var finding = Assert.Single(_fixture.Check(remembered: _memory.Lists).Findings);
        Assert.Equal((older.Name, VaultDamage.ManifestMissing), (finding.Name, finding.Damage));
        // The session moved the file, and has it still.
        var session = new FilesSource("the session", new Dictionary<ContentHash, string> { [content] = Path.Combine(_fixture.Root, "b.wav") }, new Files.QuickFiles());
        Assert.All(_fixture.Heal([finding], [session, Memory]), h => Assert.NotNull(h.HealedFrom));
        Assert.Empty(Look().Lost);
        Assert.Empty(_fixture.Check(remembered: _memory.Lists).Findings);
        Assert.Equal(4000, VaultFixture.Bytes(_fixture.Vault, older.Name!).Count == 1 ? _fixture.Vault.Store.Size(VaultNames.Of(content)) : 0);
    }

    /// <summary>What nobody has any more is told with the list that comes back; the rest of it is not swept.</summary>
    [Fact]
    public void AListComesBackWithoutWhatNobodyHasAndThatIsTold()
    {
        _fixture.Put("a.wav", 3000, 1);
        _fixture.Put("b.wav", 4000, 2);
        var made = _fixture.BackUp();
        Look();
        File.Delete(PathOf(made.Name!));
        File.Delete(PathOf(VaultNames.Of(made.Manifest.Entries.Single(e => e.Path == "b.wav").Hash)));
        var healed = _fixture.Heal(_fixture.Check(remembered: _memory.Lists).Findings, [Memory]);
        Assert.Equal([new Sufferer(made.Name!, "b.wav")], Assert.Single(healed, h => h.HealedFrom is null).Finding.Sufferers);
        Assert.Equal([made.Name!], _fixture.Vault.Backups().Select(b => b.Name));
        Assert.Equal(0, VaultSweep.Run(_fixture.Vault, [], _memory.Lists, null, TestContext.Current.CancellationToken).Objects);
        Assert.Equal(VaultDamage.ContentMissing, Assert.Single(_fixture.Check(remembered: _memory.Lists).Findings).Damage);
    }

    /// <summary>Another vault's backup of the same name is not put in the place of a lost one, though all that it names could be had.</summary>
    [Fact]
    public void AListOfAnotherVaultIsNotTaken()
    {
        _fixture.Put("a.wav", 3000, 1);
        var made = _fixture.BackUp();
        Look();
        using var other = new VaultFixture();
        other.Put("c.wav", 2000, 3);
        Assert.Equal(made.Name, other.BackUp().Name);
        File.Delete(PathOf(made.Name!));
        var findings = _fixture.Check(remembered: _memory.Lists).Findings;
        Assert.Null(Assert.Single(_fixture.Heal(findings, [new VaultSource("another vault", other.Vault)])).HealedFrom);
        Assert.False(File.Exists(PathOf(made.Name!)));
        Assert.Equal("what was remembered", Assert.Single(_fixture.Heal(findings, [new VaultSource("another vault", other.Vault), Memory])).HealedFrom);
        Assert.Equal(File.ReadAllBytes(PathOf(made.Name!)), _memory.Lists.Store.Read(made.Name!));
    }

    /// <summary>Two lists of a vault are swapped, or one stands over the other: letting the older go would let the newer go. Nothing goes, the check tells it, and both come back.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void AListUnderTheNameOfAnotherIsNotThatOne(bool swapped)
    {
        _fixture.Put("a.wav", 3000, 1);
        var older = _fixture.BackUp();
        _fixture.Put("a.wav", 3000, 2);
        var newer = _fixture.BackUp(_fixture.Request() with { MadeLocal = older.Manifest.Header.Made.AddHours(1) });
        Look();
        var (one, other) = (File.ReadAllBytes(PathOf(older.Name!)), File.ReadAllBytes(PathOf(newer.Name!)));
        File.WriteAllBytes(PathOf(older.Name!), other);
        File.WriteAllBytes(PathOf(newer.Name!), swapped ? one : other);
        foreach (var going in new string[][] { [older.Name!], [] })
        {
            Assert.Equal(FaultCode.ManifestDamaged, Assert.Throws<FaultException>(() => VaultSweep.Run(_fixture.Vault, going, _memory.Lists, null, TestContext.Current.CancellationToken)).Fault.Code);
        }
        Assert.All(older.Manifest.Entries.Concat(newer.Manifest.Entries), e => Assert.True(File.Exists(PathOf(VaultNames.Of(e.Hash)))));
        var findings = _fixture.Check(remembered: _memory.Lists).Findings;
        Assert.Equal(swapped ? [older.Name!, newer.Name!] : [older.Name!], findings.Where(f => f.Damage == VaultDamage.ManifestDamaged).Select(f => f.Name).Order(StringComparer.Ordinal));
        Assert.All(_fixture.Heal(findings, [Memory]), h => Assert.NotNull(h.HealedFrom));
        Assert.Equal([one, other], new[] { older, newer }.Select(m => File.ReadAllBytes(PathOf(m.Name!))));
        Assert.Empty(_fixture.Check(remembered: _memory.Lists).Findings);
        // A remembered list that is damaged itself accuses none.
        _memory.Lists.Store.Put(older.Name!, one.AsSpan(0, one.Length / 2));
        Assert.Empty(_fixture.Check(remembered: _memory.Lists).Findings);
        Assert.Equal(1, VaultSweep.Run(_fixture.Vault, [older.Name!], _memory.Lists, null, TestContext.Current.CancellationToken).Backups);
    }

    /// <summary>A backup is made, and remembered, while a check begins: it is in the vault, and is not missed.</summary>
    [Fact]
    public void ABackupThatIsMadeWhileACheckBeginsIsNotMissed()
    {
        _fixture.Put("a.wav", 3000, 1);
        _fixture.BackUp();
        Look();
        _store.WhenListed = () =>
        {
            _fixture.Put("a.wav", 3000, 2);
            _fixture.BackUp();
            Look();
        };
        Assert.Empty(_fixture.Check(remembered: _memory.Lists).Findings);
        Assert.Equal(2, Remembered.Count());
    }

    [Fact]
    public void WhatWasLetGoIsForgotten()
    {
        _fixture.Put("a.wav", 3000, 1);
        var first = _fixture.BackUp();
        _fixture.Put("a.wav", 3000, 2);
        var second = _fixture.BackUp();
        Look();
        VaultSweep.Run(_fixture.Vault, [first.Name!], _memory.Lists, null, TestContext.Current.CancellationToken);
        // Also before anybody looked again: it was let go, and is not lost.
        Assert.Equal(0, VaultSweep.Run(_fixture.Vault, [], _memory.Lists, null, TestContext.Current.CancellationToken).Backups);
        var taken = Look();
        Assert.True(taken.Changed);
        Assert.Empty(taken.Lost);
        Assert.Equal([second.Name!], Remembered);
        // No later one gets a name that was let go, whatever the clock says.
        _fixture.Put("a.wav", 3000, 3);
        var again = _fixture.BackUp(_fixture.Request() with { MadeLocal = first.Manifest.Header.Made });
        Assert.NotEqual(first.Name, again.Name);
        Assert.Empty(Look().Lost);
        Assert.Equal(2, Remembered.Count());
    }

    /// <summary>Killed before each call of a sweep in turn: nothing that it let go is taken for lost, and nothing that it did not is forgotten.</summary>
    [Fact]
    public void ASweepThatIsCutOffAnywhereIsUnderstood()
    {
        for (var cut = 0; ; cut++)
        {
            using var fixture = new VaultFixture();
            var memory = new VaultMemory(new MemoryStore());
            fixture.Put("a.wav", 300, 1);
            var first = fixture.BackUp();
            fixture.Put("a.wav", 300, 2);
            var second = fixture.BackUp();
            memory.TakeIn(fixture.Vault, false);
            var (calls, isOver) = (0, true);
            var files = new Files.FaultyFiles { Before = (_, path) => { if (calls++ >= cut) { isOver = false; throw new FaultException(FaultCode.CannotWrite, path); } } };
            try
            {
                VaultSweep.Run(fixture.Open(files), [first.Name!], memory.Lists, null, TestContext.Current.CancellationToken);
            }
            catch (FaultException e) when (e.Fault.Code == FaultCode.CannotWrite)
            {
                // Cut off.
            }
            Assert.Empty(memory.TakeIn(fixture.Vault, true).Lost);
            Assert.Equal(fixture.Vault.Backups().Select(b => b.Name), memory.Lists.Backups().Select(b => b.Name));
            Assert.Contains(memory.Lists.Backups(), b => b.Name == second.Name);
            if (isOver)
            {
                Assert.True(cut > 10);
                return;
            }
        }
    }

    /// <summary>Two drives take turns in one place: each is known for what it is, and nothing of one is called lost because the other stands there.</summary>
    [Fact]
    public void AnotherVaultIsToldFromThisOne()
    {
        using var other = new VaultFixture();
        Assert.False(_memory.IsAnother(other.Vault));
        _fixture.Put("a.wav", 3000, 1);
        _fixture.BackUp();
        Look();
        Assert.True(_memory.Knows(_fixture.Vault));
        // An empty place may be this vault, of which all went; one that was begun is not.
        Assert.False(_memory.IsAnother(other.Vault));
        Assert.False(_memory.Knows(other.Vault));
        using (other.Vault.LockToWrite())
        {
        }
        Assert.True(_memory.IsAnother(other.Vault));
        other.Put("b.wav", 3000, 1);
        other.BackUp(other.Request() with { Folder = "Other" });
        Assert.True(_memory.IsAnother(other.Vault));
        // Neither is known any more by its identity: their lists tell them apart, and the one from itself.
        File.Delete(Path.Combine(other.VaultFolder, VaultNames.Identity));
        File.WriteAllText(PathOf(VaultNames.Identity), "no JSON");
        Assert.True(_memory.IsAnother(other.Vault));
        Assert.False(_memory.IsAnother(_fixture.Vault));
        _fixture.Put("a.wav", 3000, 2);
        _fixture.BackUp();
        Assert.NotNull(_fixture.Vault.Identity());
        Assert.False(_memory.IsAnother(_fixture.Vault));
        Look();
        Assert.Equal(_fixture.Vault.Identity(), _memory.Lists.Identity());
    }

    /// <summary>Two vaults get a backup of folders of one name in one second: their lists have one name and one size, and are of two vaults.</summary>
    [Fact]
    public void ListsOfOneNameAndOneSizeAreOfTwoVaults()
    {
        using var other = new VaultFixture();
        _fixture.Put("a.wav", 3000, 1);
        other.Put("b.wav", 3000, 2);
        // A time that ends in a nought is written shorter: the two lists are to be equally long.
        foreach (var path in new[] { Path.Combine(_fixture.Folder, "a.wav"), Path.Combine(other.Folder, "b.wav"), _fixture.Folder, other.Folder })
        {
            File.SetLastWriteTimeUtc(path, new DateTime(2026, 10, 14, 23, 30, 5, DateTimeKind.Utc));
        }
        var (one, two) = (_fixture.BackUp(), other.BackUp());
        Look();
        Assert.Equal((one.Name, _fixture.Vault.Store.Size(one.Name!)), (two.Name, other.Vault.Store.Size(two.Name!)));
        Assert.True(_memory.IsAnother(other.Vault));
        Assert.False(_memory.Knows(other.Vault));
    }

    /// <summary>One bit of what tells a vault from others is another one: it passes for no other vault, is found, and is written anew.</summary>
    [Fact]
    public void ADamagedIdentityIsFoundAndWrittenAnew()
    {
        _fixture.Put("a.wav", 3000, 1);
        _fixture.BackUp();
        Look();
        var (path, was) = (PathOf(VaultNames.Identity), _fixture.Vault.Identity());
        var whole = File.ReadAllBytes(path);
        for (var at = 0; at < whole.Length; at++)
        {
            var bytes = (byte[])whole.Clone();
            bytes[at] ^= 1;
            File.WriteAllBytes(path, bytes);
            Assert.Null(_fixture.Vault.Identity());
            Assert.False(_memory.IsAnother(_fixture.Vault));
            Assert.Equal(VaultDamage.IdentityDamaged, Assert.Single(_fixture.Check().Findings).Damage);
        }
        Assert.NotNull(Assert.Single(_fixture.Heal(_fixture.Check().Findings, [])).HealedFrom);
        Assert.Empty(_fixture.Check().Findings);
        Assert.NotEqual(was, _fixture.Vault.Identity());
        Assert.True(_memory.Knows(_fixture.Vault));
    }

    /// <summary>The clock goes back two days: the backup that was made last is the newest all the same, and is not the first to go.</summary>
    [Fact]
    public void WhatFollowsWhatIsNotTheClocksToSay()
    {
        _fixture.Put("a.wav", 3000, 1);
        var before = Enumerable.Range(0, 3).Select(_ => _fixture.BackUp(_fixture.Request() with { After = Highest() })).ToList();
        var request = _fixture.Request();
        var last = _fixture.BackUp(request with { MadeUtc = request.MadeUtc.AddDays(-2), MadeLocal = request.MadeLocal.AddDays(-2), After = Highest() });
        var listed = _fixture.Vault.Backups();
        Assert.Equal([last.Name, .. before.Select(b => b.Name).Reverse()], listed.Select(b => b.Name));
        Assert.True(listed[0].Follows > listed[1].Follows);
        var verdicts = Thinning.Judge(listed.Select(b => new ThinningCandidate(b.Name, b.Header!.Made, false) { Follows = b.Follows }), new ThinningPolicy(1, 0, 0), request.MadeLocal);
        Assert.Equal((last.Name, ThinningReason.OneOfTheLast), (verdicts[0].Candidate.Name, verdicts[0].Reason));

        long Highest() => _fixture.Vault.Backups().Max(b => b.Header?.Number) ?? 0;
    }

    /// <summary>A list that is larger than it can be is damage, and is neither read whole nor at each look.</summary>
    [Fact]
    public void AListThatIsLargerThanItCanBeIsDamaged()
    {
        _fixture.Put("a.wav", 3000, 1);
        var made = _fixture.BackUp();
        using (var file = File.OpenWrite(PathOf(made.Name!)))
        {
            file.SetLength(900_000_000);
        }
        var (before, watch) = (GC.GetTotalAllocatedBytes(), Stopwatch.StartNew());
        Assert.Equal(FaultCode.ManifestDamaged, Assert.Throws<FaultException>(() => _fixture.Vault.Manifest(made.Name!)).Fault.Code);
        Look();
        Assert.Equal(VaultDamage.ManifestDamaged, Assert.Single(_fixture.Check().Findings).Damage);
        Assert.InRange(GC.GetTotalAllocatedBytes() - before, 0, 100_000_000);
        // A beginning that never ends is read to an end.
        File.WriteAllText(PathOf(made.Name!), "# neat-crate backup 1\n# ");
        using (var file = File.OpenWrite(PathOf(made.Name!)))
        {
            file.SetLength(900_000_000);
        }
        before = GC.GetTotalAllocatedBytes();
        Assert.NotNull(Assert.Single(_fixture.Vault.Backups()).Problem);
        Assert.InRange(GC.GetTotalAllocatedBytes() - before, 0, 400_000_000);
    }

    [Theory]
    [InlineData(129, 1, false)]
    [InlineData(128, 1, true)]
    [InlineData(1, 255, true)]
    [InlineData(1, 256, false)]
    [InlineData(20, 250, false)]
    [InlineData(16, 250, true)]
    public void NamesAndFoldersAreBounded(int parts, int bytes, bool isTaken)
    {
        var path = string.Join('/', Enumerable.Repeat(new string('x', bytes), parts));
        var manifest = new BackupManifest(
            new BackupHeader { Session = Guid.NewGuid(), Folder = "x", Made = DateTime.UnixEpoch, Files = 1, Bytes = 0, NewBytes = 0 },
            [new BackupEntry(path, ContentHash.Of([]), 0, DateTime.UnixEpoch, 0x1A4)],
            []);
        var written = manifest.ToUtf8();
        if (isTaken)
        {
            Assert.Equal(path, BackupManifest.Read(written, "x").Entries[0].Path);
        }
        else
        {
            Assert.Equal(FaultCode.ManifestDamaged, Assert.Throws<FaultException>(() => BackupManifest.Read(written, "x")).Fault.Code);
        }
    }

    /// <summary>The vault's folder is taken away in the middle of a backup: it is not begun anew in its place.</summary>
    [Fact]
    public void AVaultThatLeavesMeanwhileIsNotBegunAnew()
    {
        _fixture.Put("a.wav", 3000, 1);
        _fixture.BackUp();
        _fixture.Put("b.wav", 5000, 2);
        var away = _fixture.VaultFolder + " away";
        // What a writer that was killed left is removed once the lock is held: in that moment the folder goes.
        File.WriteAllText(PathOf($"incoming/{Guid.NewGuid():N}.part"), "left");
        var files = new Files.FaultyFiles { After = (call, _) => { if (call == "remove" && !Directory.Exists(away)) { Directory.Move(_fixture.VaultFolder, away); } } };
        Assert.Equal(FaultCode.RootGone, Assert.Throws<FaultException>(() => _fixture.BackUp(vault: _fixture.Open(files))).Fault.Code);
        Assert.False(Directory.Exists(_fixture.VaultFolder));
    }

    /// <summary>Another vault is put in the place of this one in the middle of a backup, or of a check: no list goes into it, and nothing is said of it.</summary>
    [Fact]
    public void AVaultThatIsExchangedMeanwhileGetsNothing()
    {
        using var other = new VaultFixture();
        other.Put("b.wav", 3000, 2);
        other.BackUp();
        _fixture.Put("a.wav", 3000, 1);
        _fixture.BackUp();
        var checkedVault = _fixture.Check().Vault;
        Assert.Equal(_fixture.Vault.Identity(), checkedVault);
        _fixture.Vault.RequireSame(checkedVault);
        var (before, away) = (VaultFixture.Bytes(other.VaultFolder), _fixture.VaultFolder + " away");
        _fixture.Put("c.wav", 5000, 3);
        // All content is in, and is made safe: then the drive is changed.
        var files = new Files.FaultyFiles { After = (call, path) => { if (call == "flush folder" && path.EndsWith("incoming", StringComparison.Ordinal) && !Directory.Exists(away)) { Exchange(); } } };
        Assert.Contains(Assert.Throws<FaultException>(() => _fixture.BackUp(vault: _fixture.Open(files))).Fault.Code, new[] { FaultCode.VaultExchanged, FaultCode.NotThere });
        Assert.Equal(before, VaultFixture.Bytes(_fixture.VaultFolder));
        Assert.Equal(FaultCode.VaultExchanged, Assert.Throws<FaultException>(() => _fixture.Vault.RequireSame(checkedVault)).Fault.Code);
        // One that nothing told from others, as those of before, may be any.
        _fixture.Vault.RequireSame(null);

        void Exchange()
        {
            Directory.Move(_fixture.VaultFolder, away);
            Tool.Run("cp", "-a", other.VaultFolder, _fixture.VaultFolder);
        }
    }

    /// <summary>What tells the vault from others cannot be read: it is known by its lists, is told as damaged, and is written anew; the vault is not lost for that.</summary>
    [Fact]
    public void AnIdentityThatCannotBeReadStopsNothing()
    {
        _fixture.Put("a.wav", 3000, 1);
        _fixture.BackUp();
        Look();
        var files = new Files.FaultyFiles { OnRead = (path, _, _) => { if (Path.GetFileName(path) == VaultNames.Identity) { throw new FaultException(FaultCode.CannotRead, path); } } };
        Assert.Null(_fixture.Open(files).Identity());
        Assert.False(_memory.IsAnother(_fixture.Open(files)));
        Assert.Equal(VaultDamage.IdentityDamaged, Assert.Single(_fixture.Check(_fixture.Open(files)).Findings).Damage);
        Assert.NotNull(_fixture.BackUp(vault: _fixture.Open(files)).Name);
    }

    [Fact]
    public void AFolderWithTheNameOfAVaultThatHoldsSomethingElseIsNone()
    {
        Directory.CreateDirectory(_fixture.VaultFolder);
        File.WriteAllText(PathOf("mine.txt"), "somebody's");
        _fixture.Put("a.wav", 3000, 1);
        Assert.Equal(FaultCode.NoVault, Assert.Throws<FaultException>(() => _fixture.BackUp()).Fault.Code);
        File.Delete(PathOf("mine.txt"));
        // What is ours does not count as somebody's when only the README went.
        _fixture.BackUp();
        VaultSweep.Run(_fixture.Vault, [.. _fixture.Vault.Backups().Select(b => b.Name)], null, null, TestContext.Current.CancellationToken);
        File.Delete(PathOf(VaultNames.ReadMe));
        _fixture.BackUp();
        Assert.Equal(VaultNames.ReadMeText.ToArray(), Encoding.UTF8.GetBytes(File.ReadAllText(PathOf(VaultNames.ReadMe))));
    }
}
