using System.Collections.Immutable;
using System.Globalization;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Tests.Vault;

/// <summary>
/// Edits, backups, thinning, full disks, pulled drives, kills and power cuts, as they come. After each round every backup that the vault
/// lists must give back, byte for byte, what it was made of.
/// </summary>
public sealed class VaultRoundsTests : IDisposable
{
    private readonly VaultFixture _fixture = new();

    [Fact]
    public void EveryBackupThatIsListedRestoresByteForByte()
    {
        var rounds = int.Parse(Environment.GetEnvironmentVariable("NEAT_CRATE_VAULT_ROUNDS") ?? "30", CultureInfo.InvariantCulture);
        var random = new Random(4711);
        var made = new Dictionary<string, ImmutableSortedDictionary<string, string>>();
        var (faults, thinned) = (0, 0);
        var memory = new VaultMemory(new MemoryStore());
        for (var round = 0; round < rounds; round++)
        {
            Edit(random);
            var was = VaultFixture.Bytes(_fixture.Folder);
            var files = Files(random, round);
            var vault = _fixture.Open(files);
            try
            {
                if (random.Next(4) == 0 && made.Count > 2)
                {
                    var going = made.Keys.Where(_ => random.Next(3) == 0).ToList();
                    thinned += going.Count;
                    VaultSweep.Run(vault, going, memory.Lists, null, TestContext.Current.CancellationToken);
                    Forget(going);
                }
                else
                {
                    var result = _fixture.BackUp(vault: vault);
                    made[result.Name!] = was;
                }
            }
            catch (Exception e) when (e is IOException or AggregateException)
            {
                faults++;
            }
            if (files is PowerCutFiles cut)
            {
                cut.Lose((Unflushed)random.Next(4), round);
            }
            // Whatever was cut off: what was let go is never taken for lost.
            Assert.Empty(memory.TakeIn(_fixture.Vault, again: true).Lost);
            // A backup whose last call was cut off may exist or not; one that went may be there still. Whatever is listed is whole.
            var listed = _fixture.Vault.Backups();
            foreach (var backup in listed)
            {
                Assert.True(backup.Problem is null, $"round {round}: {backup.Problem}");
                made.TryAdd(backup.Name, was);
                Assert.Equal(made[backup.Name], VaultFixture.Bytes(_fixture.Vault, backup.Name));
            }
            Forget(made.Keys.Except(listed.Select(l => l.Name)).ToList());
            Assert.DoesNotContain(_fixture.Check().Findings, f => f.Sufferers.Length > 0);
        }
        Assert.True(faults > rounds / 6 && thinned > 0, $"{faults} faults, {thinned} thinned");
        var last = _fixture.BackUp();
        Assert.Equal(VaultFixture.Bytes(_fixture.Folder), VaultFixture.Bytes(_fixture.RestoreByHand(last.Name!)));

        void Forget(List<string> names) => names.ForEach(n => made.Remove(n));
    }

    public void Dispose() => _fixture.Dispose();

    private void Edit(Random random)
    {
        for (var n = random.Next(1, 4); n > 0; n--)
        {
            var name = $"Audio/Voice {random.Next(12):00}.wav";
            if (random.Next(5) == 0)
            {
                File.Delete(Path.Combine(_fixture.Folder, name));
            }
            else
            {
                _fixture.Put(name, random.Next(1, 20_000), random.Next(30));
            }
        }
        _fixture.Put("261017 Fog Signal.otio", random.Next(1, 500), random.Next());
    }

    private FaultyFiles Files(Random random, int round)
    {
        var at = random.Next(60);
        switch (round % 5)
        {
            case 0:
                return new QuickFiles();
            case 1:
                return Refusing(at, FaultCode.NoSpace);
            case 2:
                return Refusing(at, FaultCode.RootGone);
            default:
                Directory.CreateDirectory(_fixture.VaultFolder);
                var files = new PowerCutFiles(_fixture.VaultFolder);
                files.CutBefore(at);
                return files;
        }
    }

    /// <summary>From a call on nothing goes any more: the disk is full, or the drive was pulled.</summary>
    private static QuickFiles Refusing(int from, FaultCode code)
    {
        var left = from;
        return new QuickFiles { Before = (call, path) => _ = Interlocked.Decrement(ref left) < 0 && (code != FaultCode.NoSpace || call is "write" or "create" or "make folder") ? throw new FaultException(code, path) : 0 };
    }
}
