using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Vault;

public sealed class BackupVaultTests : IDisposable
{
    private readonly VaultFixture _fixture = new();

    [Fact]
    public void OneWholeSessionComesBackBySha512sumAndCpAlone()
    {
        _fixture.Put("Audio/Cello 01.wav", 200_000, 1);
        _fixture.Put("Audio/tide, low & 'slow' (2)  .wav", 1000, 2);
        _fixture.Put("Notes/Größe ö.txt", 10, 3);
        _fixture.Put("Notes/empty.txt", []);
        Directory.CreateDirectory(Path.Combine(_fixture.Folder, "Bounces"));
        var made = _fixture.BackUp();
        Assert.Equal(VaultFixture.Bytes(_fixture.Folder), VaultFixture.Bytes(_fixture.RestoreByHand(made.Name!)));
        Assert.Equal(["Bounces"], _fixture.Vault.Manifest(made.Name!).Folders.Where(f => f.IsEmpty).Select(f => f.Path));
    }

    /// <summary>coreutils escapes three characters in names; its own check must read ours as it reads its own.</summary>
    [Theory]
    [InlineData("line\nfeed.wav")]
    [InlineData("back\\slash.wav")]
    [InlineData("both\\n\n.wav")]
    public void OddNamesAreWrittenAsSha512sumWritesThem(string name)
    {
        _fixture.Put(name, 100, 4);
        var manifest = _fixture.Vault.Store.Read(_fixture.BackUp().Name!);
        var path = Path.Combine(_fixture.Root, "list.sha512");
        File.WriteAllBytes(path, manifest);
        Assert.Contains(": OK", Tool.RunIn(_fixture.Folder, "sha512sum", "-c", "--strict", path), StringComparison.Ordinal);
        var theirs = Tool.RunIn(_fixture.Folder, "sha512sum", name).TrimEnd('\n');
        Assert.Contains(theirs, File.ReadAllText(path).Split('\n'));
        Assert.Equal([name], BackupManifest.Read(manifest, "x").Entries.Select(e => e.Path));
    }

    [Fact]
    public void TheTenthBackupWithOneNewTakeCostsOneTake()
    {
        for (var n = 0; n < 5; n++)
        {
            _fixture.Put($"Audio/Voice {n:00}.wav", 300_000, n);
        }
        for (var n = 0; n < 9; n++)
        {
            _fixture.BackUp();
        }
        var before = Held();
        // The same sound once more under another name costs nothing at all.
        File.Copy(Path.Combine(_fixture.Folder, "Audio/Voice 00.wav"), Path.Combine(_fixture.Folder, "Audio/again.wav"));
        _fixture.Put("Audio/Voice 05.wav", 300_000, 5);
        var tenth = _fixture.BackUp();
        Assert.Equal(300_000, tenth.Manifest.Header.NewBytes);
        Assert.InRange(Held() - before, 300_000, 306_000);
        Assert.Equal(10, _fixture.Vault.Backups().Length);

        long Held() => new DirectoryInfo(_fixture.VaultFolder).EnumerateFiles("*", SearchOption.AllDirectories).Sum(f => f.Length);
    }

    [Fact]
    public void SeveralSessionsShareOneVault()
    {
        _fixture.Put("Audio/tide.wav", 50_000, 1);
        _fixture.BackUp();
        var other = _fixture.BackUp(_fixture.Request() with { Session = Guid.NewGuid(), Folder = "261004 Net Mender" });
        Assert.Equal(0, other.Manifest.Header.NewBytes);
        Assert.Equal("backups/261004 Net Mender/", other.Name![..26]);
        Assert.Equal(2, _fixture.Vault.Backups().Select(b => b.Header!.Session).Distinct().Count());
    }

    [Fact]
    public void NothingOtherwiseIsNoNewBackup()
    {
        _fixture.Put("Audio/a.wav", 1000, 1);
        _fixture.BackUp();
        Assert.Null(_fixture.BackUp(_fixture.Request(onlyIfChanged: true)).Name);
        _fixture.Put("Audio/a.wav", 1000, 2);
        Assert.NotNull(_fixture.BackUp(_fixture.Request(onlyIfChanged: true)).Name);
    }

    /// <summary>A file that was written over with its size and time put back is not seen by these; by content it is.</summary>
    [Fact]
    public void ByContentNothingThatIsRememberedIsBelieved()
    {
        var path = _fixture.Put("Audio/a.wav", 1000, 1);
        // In whole steps of 100 ns, so that it can be put back as it was.
        File.SetLastWriteTimeUtc(path, new DateTime(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc));
        _fixture.BackUp();
        var facts = FileFacts.Of(path)!.Value;
        _fixture.Notes.Note(path, facts, _fixture.Vault.Manifest(_fixture.Vault.Backups()[0].Name).Entries[0].Hash);
        var stream = File.OpenWrite(path);
        stream.WriteByte(99);
        stream.Dispose();
        File.SetLastWriteTimeUtc(path, facts.ModifiedUtc);
        Assert.Null(_fixture.BackUp(_fixture.Request(onlyIfChanged: true)).Name);
        Assert.NotNull(_fixture.BackUp(_fixture.Request(onlyIfChanged: true, byContent: true)).Name);
    }

    [Fact]
    public void AFileThatCannotBeReadIsLeftOutAndNamed()
    {
        _fixture.Put("Audio/good.wav", 1000, 1);
        _fixture.Put("Audio/gone.wav", 1000, 2);
        _fixture.Put("Audio/growing.wav", 1000, 3);
        var request = _fixture.Request();
        File.Delete(Path.Combine(_fixture.Folder, "Audio/gone.wav"));
        var files = new FaultyFiles { OnRead = (path, _, _) => Grow(path) };
        var made = _fixture.BackUp(request, files: files);
        Assert.Equal(["Audio/gone.wav", "Audio/growing.wav"], _fixture.Vault.Manifest(made.Name!).Header.LeftOut);
        Assert.Equal(["Audio/good.wav"], made.Manifest.Entries.Select(e => e.Path));

        static void Grow(string path)
        {
            if (path.EndsWith("growing.wav", StringComparison.Ordinal))
            {
                File.AppendAllText(path, "more");
            }
        }
    }

    [Fact]
    public void AVaultOfAnotherFormatOrAnotherFolderIsLeftAlone()
    {
        _fixture.Put("a.wav", 10, 1);
        Directory.CreateDirectory(_fixture.VaultFolder);
        File.WriteAllText(Path.Combine(_fixture.VaultFolder, "my own.txt"), "mine");
        Assert.Equal(FaultCode.NoVault, Assert.Throws<FaultException>(() => _fixture.BackUp()).Fault.Code);
        File.Delete(Path.Combine(_fixture.VaultFolder, "my own.txt"));
        File.WriteAllText(Path.Combine(_fixture.VaultFolder, VaultNames.ReadMe), "Neat Crate vault, format 2\n");
        Assert.Equal(FaultCode.VaultOfOtherFormat, Assert.Throws<FaultException>(() => _fixture.BackUp()).Fault.Code);
        Assert.Equal([VaultNames.ReadMe, "vault.lock"], Directory.EnumerateFiles(_fixture.VaultFolder).Select(f => Path.GetFileName(f)).Order());
    }

    [Theory]
    [InlineData("../escape.wav")]
    [InlineData("/etc/passwd")]
    [InlineData("a/../../b")]
    public void AManifestWhosePathsLeadOutIsUnusable(string path)
    {
        var manifest = new BackupManifest(
            new BackupHeader { Session = Guid.NewGuid(), Folder = "x", Made = DateTime.UtcNow, Files = 1, Bytes = 1, NewBytes = 1 }, [new BackupEntry(path, ContentHash.Of("x"u8), 1, DateTime.UtcNow, 420)], []);
        Assert.Equal(FaultCode.ManifestDamaged, Assert.Throws<FaultException>(() => BackupManifest.Read(manifest.ToUtf8(), "x")).Fault.Code);
    }

    [Fact]
    public void WhatSweepGivesBackIsNamedByNoBackupThatStays()
    {
        _fixture.Put("Audio/old.wav", 50_000, 1);
        _fixture.Put("Audio/both.wav", 70_000, 2);
        var first = _fixture.BackUp().Name!;
        File.Delete(Path.Combine(_fixture.Folder, "Audio/old.wav"));
        var second = _fixture.BackUp().Name!;
        Assert.Equal(new Swept(1, 1, 50_000), VaultSweep.Run(_fixture.Vault, [first], null, null, TestContext.Current.CancellationToken));
        Assert.Equal([second], _fixture.Vault.Backups().Select(b => b.Name));
        Assert.Empty(_fixture.Check().Findings);
        Assert.Equal(VaultFixture.Bytes(_fixture.Folder), VaultFixture.Bytes(_fixture.Vault, second));
    }

    /// <summary>What a manifest that cannot be read names, nobody knows: nothing is given back, nothing goes.</summary>
    /// <summary>A list that is let go is safely gone before any of its content goes: a power cut between leaves no list of what is not there.</summary>
    [Fact]
    public void AListIsSafelyGoneBeforeItsContentGoes()
    {
        _fixture.Put("a.wav", 3000, 1);
        var first = _fixture.BackUp().Name!;
        _fixture.Put("a.wav", 3000, 2);
        _fixture.BackUp();
        var files = new FaultyFiles();
        VaultSweep.Run(_fixture.Open(files), [first], null, null, TestContext.Current.CancellationToken);
        int At(string call, string what, int from = 0) => files.Calls.FindIndex(from, c => c.Call == call && c.Path.Contains(what, StringComparison.Ordinal));
        var (list, content) = (At("remove", ".sha512"), At("remove", "/content/"));
        Assert.True(list >= 0 && list < content);
        Assert.InRange(At("flush folder", "/backups/", list), list, content);
        // That it is let go is written down, and safe, before the list goes.
        Assert.InRange(At("flush folder", "/let-go"), 0, list);
    }

    [Fact]
    public void NothingIsSweptWhileAManifestCannotBeRead()
    {
        _fixture.Put("a.wav", 1000, 1);
        var first = _fixture.BackUp().Name!;
        _fixture.Put("b.wav", 1000, 2);
        var second = _fixture.BackUp().Name!;
        Damage(second, 40);
        var before = Tree.Of(_fixture.VaultFolder);
        Assert.Equal(FaultCode.ManifestDamaged, Assert.Throws<FaultException>(() => VaultSweep.Run(_fixture.Vault, [first], null, null, TestContext.Current.CancellationToken)).Fault.Code);
        Assert.Equal(before, Tree.Of(_fixture.VaultFolder));
    }

    /// <summary>While a backup is being made, nobody sweeps the content that it counts on, and the other way round.</summary>
    [Fact]
    public void ASweepNeverRacesABackup()
    {
        _fixture.Put("a.wav", 1000, 1);
        FaultCode? met = null;
        var files = new FaultyFiles { After = (call, _) => met ??= call == "rename" ? Assert.Throws<FaultException>(() => VaultSweep.Run(_fixture.Open(), [], null, null, CancellationToken.None)).Fault.Code : null };
        _fixture.BackUp(vault: _fixture.Open(files));
        Assert.Equal(FaultCode.VaultBusy, met);
        Assert.Empty(_fixture.Check().Findings);
    }

    [Fact]
    public void CutOffItGoesOnWhereItWas()
    {
        for (var n = 0; n < 6; n++)
        {
            _fixture.Put($"{n}.wav", 100_000, n);
        }
        using var cancel = new CancellationTokenSource();
        var writer = new BackupWriter(_fixture.Vault, new QuickFiles(), _fixture.Notes);
        Assert.ThrowsAny<OperationCanceledException>(() => writer.Write(_fixture.Request(), p => CancelAfter(p, cancel), cancel.Token));
        Assert.Empty(_fixture.Vault.Backups());
        var made = _fixture.BackUp();
        Assert.InRange(made.Manifest.Header.NewBytes, 0, 400_000);
        Assert.Equal(VaultFixture.Bytes(_fixture.Folder), VaultFixture.Bytes(_fixture.Vault, made.Name!));

        static void CancelAfter(VaultProgress progress, CancellationTokenSource cancel)
        {
            if (progress.FilesDone >= 3)
            {
                cancel.Cancel();
            }
        }
    }

    /// <summary>What a killed writer put had its name, and no power cut had tried it yet: once a backup counts on it, none may take it.</summary>
    [Fact]
    public void WhatAKilledWriterLeftIsMadeSafeBeforeABackupCountsOnIt()
    {
        for (var n = 0; n < 4; n++)
        {
            _fixture.Put($"{n}.wav", 5000 + n, n);
        }
        Directory.CreateDirectory(_fixture.VaultFolder);
        var files = new PowerCutFiles(_fixture.VaultFolder);
        // Killed before anything was flushed but the files themselves; the machine goes on.
        var killed = false;
        files.After = (call, path) => killed |= call == "rename" && path.Contains("incoming", StringComparison.Ordinal) && files.Calls.Count(c => c.Call == "rename") > 3;
        var before = files.Before!;
        files.Before = (call, path) =>
        {
            before(call, path);
            if (killed)
            {
                throw new IOException("killed");
            }
        };
        Assert.ThrowsAny<Exception>(() => _fixture.BackUp(vault: _fixture.Open(files)));
        Assert.True(killed);
        (killed, files.After) = (false, null);
        files.Before = before;
        var made = _fixture.BackUp(vault: _fixture.Open(files));
        files.Lose(Unflushed.Lost, 1);
        Assert.Equal(VaultFixture.Bytes(_fixture.Folder), VaultFixture.Bytes(_fixture.Vault, made.Name!));
        Assert.Empty(_fixture.Check().Findings);
    }

    [Fact]
    public void AFullDriveEndsTheBackupAndLeavesTheOthersWhole()
    {
        _fixture.Put("a.wav", 1000, 1);
        _fixture.BackUp();
        _fixture.Put("b.wav", 1000, 2);
        var files = new FaultyFiles { Before = (call, path) => Full(call, path) };
        Assert.Equal(FaultCode.NoSpace, Assert.Throws<FaultException>(() => _fixture.BackUp(vault: _fixture.Open(files))).Fault.Code);
        Assert.Single(_fixture.Vault.Backups());
        Assert.Empty(_fixture.Check().Findings);

        static void Full(string call, string path)
        {
            if (call == "write")
            {
                throw new FaultException(FaultCode.NoSpace, path);
            }
        }
    }

    public void Dispose() => _fixture.Dispose();

    private void Damage(string name, int at)
    {
        var path = Path.Combine(_fixture.VaultFolder, name);
        var bytes = File.ReadAllBytes(path);
        bytes[at] ^= 1;
        File.WriteAllBytes(path, bytes);
    }
}
