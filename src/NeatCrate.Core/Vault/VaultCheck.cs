using System.Collections.Immutable;

namespace NeatCrate.Core.Vault;

/// <summary>What is wrong with an object of a vault.</summary>
public enum VaultDamage
{
    /// <summary>Content is not what its name says.</summary>
    ContentDamaged,

    /// <summary>Content that a backup names is not there.</summary>
    ContentMissing,

    /// <summary>A manifest is not what was written.</summary>
    ManifestDamaged,

    /// <summary>A manifest that is remembered is gone, and its backup was not let go.</summary>
    ManifestMissing,

    /// <summary>The README is not what was written.</summary>
    ReadMeDamaged,

    /// <summary>What tells this vault from others is not what was written.</summary>
    IdentityDamaged,
}

/// <summary>A file of a backup that suffers from damage.</summary>
/// <param name="Backup">Name of the backup's manifest.</param>
/// <param name="Path">Path of the file, from the session folder.</param>
public readonly record struct Sufferer(string Backup, string Path);

/// <summary>Something that is wrong in a vault.</summary>
/// <param name="Name">Name of the object.</param>
/// <param name="Damage">What is wrong with it.</param>
/// <param name="Bytes">Size in bytes that it should have; 0 where that is not known.</param>
/// <param name="Sufferers">Which files of which backups hold it; empty for content that no backup names.</param>
public sealed record VaultFinding(string Name, VaultDamage Damage, long Bytes, ImmutableArray<Sufferer> Sufferers)
{
    /// <summary>The content that should be there; null for what is no content.</summary>
    public ContentHash? Hash => VaultNames.TryHash(Name, out var hash) ? hash : null;
}

/// <summary>What was found, and how far the reading came.</summary>
/// <param name="Findings">What is wrong, by name.</param>
/// <param name="Read">Bytes of content that were read.</param>
/// <param name="Objects">How much content was read.</param>
/// <param name="Next">Name of the content with which the next share begins; null when the last one was read.</param>
/// <param name="Vault">What tells the vault that was read from all others; null where nothing did.</param>
public sealed record VaultCheckResult(ImmutableArray<VaultFinding> Findings, long Read, int Objects, string? Next, Guid? Vault)
{
    /// <summary>Names of what stands in the vault and is none of its own. It stays.</summary>
    public ImmutableArray<string> Foreign { get; init; } = [];
}

/// <summary>
/// Reads a vault again and holds it against its names and manifests. Manifests, README and what is there at all are looked at
/// whole each time; content is read in shares. Changes nothing.
/// </summary>
public static class VaultCheck
{
    private const int AtOnce = 2;

    /// <summary>Checks.</summary>
    /// <param name="vault">The vault.</param>
    /// <param name="remembered">What is remembered of its manifests; null where nothing is.</param>
    /// <param name="from">Name of the content to begin with; null for the first.</param>
    /// <param name="share">Bytes of content to read at the most, and one object at the least.</param>
    /// <param name="progress">Told how far it is, by several threads.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="FaultException">The vault cannot be reached.</exception>
    public static VaultCheckResult Run(BackupVault vault, BackupVault? remembered, string? from, long share, Action<VaultProgress>? progress, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(vault);
        var identity = vault.Identity();
        var findings = new List<VaultFinding>();
        var expected = new Dictionary<ContentHash, long>();
        // What is remembered first: a backup that is made meanwhile is in the vault before it is remembered.
        var known = remembered?.ManifestNames() ?? [];
        var manifests = VaultNames.Manifests(vault.Store).Select(o => o.Name).Order(StringComparer.Ordinal).ToList();
        // One that stands aside was damaged, and whoever mended it was killed before the whole one had its name.
        var aside = vault.ManifestsAside().Except(manifests, StringComparer.Ordinal).ToList();
        findings.AddRange(aside.Select(name => new VaultFinding(name, VaultDamage.ManifestDamaged, 0, [new Sufferer(name, "")])));
        findings.AddRange(known.Except(manifests, StringComparer.Ordinal).Except(aside, StringComparer.Ordinal).Where(name => !vault.WasLetGo(name))
            .Select(name => new VaultFinding(name, VaultDamage.ManifestMissing, 0, [new Sufferer(name, "")])));
        CheckReadMe(vault, findings);
        if (identity is null && vault.Store.Size(VaultNames.Identity) is { } size)
        {
            findings.Add(new VaultFinding(VaultNames.Identity, VaultDamage.IdentityDamaged, size, []));
        }
        var whole = new List<string>();
        foreach (var name in manifests)
        {
            cancel.ThrowIfCancellationRequested();
            try
            {
                foreach (var entry in vault.ManifestAsRemembered(name, remembered).Entries)
                {
                    expected[entry.Hash] = entry.Bytes;
                }
                whole.Add(name);
            }
            catch (FaultException e) when (e.Fault.Code is FaultCode.ManifestDamaged)
            {
                findings.Add(new VaultFinding(name, VaultDamage.ManifestDamaged, 0, [new Sufferer(name, "")]));
            }
        }
        var stored = vault.Store.List(VaultNames.Content).Where(o => VaultNames.TryHash(o.Name, out _)).OrderBy(o => o.Name, StringComparer.Ordinal).ToList();
        var there = new HashSet<ContentHash>();
        foreach (var one in stored)
        {
            VaultNames.TryHash(one.Name, out var hash);
            there.Add(hash);
        }
        var bad = new Dictionary<string, (VaultDamage Damage, long Bytes)>(StringComparer.Ordinal);
        foreach (var (hash, bytes) in expected.Where(e => !there.Contains(e.Key)))
        {
            bad[VaultNames.Of(hash)] = (VaultDamage.ContentMissing, bytes);
        }
        var (share1, next) = Share(stored, from, share);
        Read(vault, share1, expected, bad, progress, cancel);
        findings.AddRange(Findings(vault, whole, bad));
        return new VaultCheckResult([.. findings.OrderBy(f => f.Name, StringComparer.Ordinal)], share1.Sum(o => o.Bytes), share1.Count, next, identity) { Foreign = Foreign(vault.Store) };
    }

    private static ImmutableArray<string> Foreign(IObjectStore store)
    {
        var found = ImmutableArray.CreateBuilder<string>();
        try
        {
            found.AddRange(store.List("").Select(o => o.Name).Where(name => name != VaultNames.ReadMe && !VaultNames.IsOurs(name)));
        }
        catch (FaultException)
        {
            // Our own folders could be read: somebody else's that cannot be looked into is no business of the vault's.
        }
        found.Sort(StringComparer.Ordinal);
        return found.ToImmutable();
    }

    private static void CheckReadMe(BackupVault vault, List<VaultFinding> findings)
    {
        if (vault.Store.Size(VaultNames.ReadMe) is null || !vault.Store.Read(VaultNames.ReadMe).AsSpan().SequenceEqual(VaultNames.ReadMeText.Span))
        {
            findings.Add(new VaultFinding(VaultNames.ReadMe, VaultDamage.ReadMeDamaged, VaultNames.ReadMeText.Length, []));
        }
    }

    private static (List<StoredObject> Share, string? Next) Share(List<StoredObject> stored, string? from, long share)
    {
        var first = from is null ? 0 : stored.FindIndex(o => string.CompareOrdinal(o.Name, from) >= 0);
        if (first < 0)
        {
            return ([], null);
        }
        var taken = new List<StoredObject>();
        var bytes = 0L;
        var at = first;
        for (; at < stored.Count && (taken.Count == 0 || bytes + stored[at].Bytes <= share); at++)
        {
            taken.Add(stored[at]);
            bytes += stored[at].Bytes;
        }
        return (taken, at < stored.Count ? stored[at].Name : null);
    }

    private static void Read(
        BackupVault vault, List<StoredObject> share, Dictionary<ContentHash, long> expected, Dictionary<string, (VaultDamage Damage, long Bytes)> bad, Action<VaultProgress>? progress, CancellationToken cancel)
    {
        var (files, bytes, all) = (0, 0L, share.Sum(o => o.Bytes));
        Parallel.ForEach(share, new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = cancel }, one =>
        {
            VaultNames.TryHash(one.Name, out var hash);
            if (!Holds(vault.Store, one.Name, hash, count => progress?.Invoke(new VaultProgress(Volatile.Read(ref files), share.Count, Interlocked.Add(ref bytes, count), all, one.Name)), cancel))
            {
                lock (bad)
                {
                    bad[one.Name] = (VaultDamage.ContentDamaged, expected.GetValueOrDefault(hash));
                }
            }
            Interlocked.Increment(ref files);
        });
    }

    /// <summary>True when an object is there and holds what it must. One that the drive does not give is as good as damaged.</summary>
    public static bool Holds(IObjectStore store, string name, ContentHash expected, Action<long>? read, CancellationToken cancel)
    {
        try
        {
            using var stream = store.Open(name);
            return ContentHash.OfStream(stream, part => read?.Invoke(part.Length), cancel) == expected;
        }
        catch (FaultException e) when (IsUnreadable(e))
        {
            return false;
        }
    }

    /// <summary>True where an object is gone, or its drive does not give it.</summary>
    internal static bool IsUnreadable(FaultException refused) =>
        refused.Fault.IsOfSource || refused.Fault.Code is FaultCode.CannotRead or FaultCode.NotThere or FaultCode.NotAllowed or FaultCode.NotARegularFile;

    /// <summary>Damage with whoever suffers from it. Only where there is any, manifests are read once more.</summary>
    private static IEnumerable<VaultFinding> Findings(BackupVault vault, List<string> manifests, Dictionary<string, (VaultDamage Damage, long Bytes)> bad)
    {
        if (bad.Count == 0)
        {
            return [];
        }
        var sufferers = SufferersOf(manifests.Select(name => (name, vault.Manifest(name))), bad.Keys);
        return bad.Select(b => new VaultFinding(b.Key, b.Value.Damage, b.Value.Bytes, [.. sufferers[b.Key]]));
    }

    /// <summary>
    /// The same findings with whoever suffers now: a backup that was made while the vault was read may count on what was found damaged.
    /// A manifest that cannot be read names nothing here; it is a finding of its own.
    /// </summary>
    /// <param name="vault">The vault.</param>
    /// <param name="findings">What a check found.</param>
    /// <exception cref="FaultException">The vault cannot be reached.</exception>
    public static ImmutableArray<VaultFinding> SufferersNow(BackupVault vault, IReadOnlyList<VaultFinding> findings)
    {
        ArgumentNullException.ThrowIfNull(vault);
        ArgumentNullException.ThrowIfNull(findings);
        var sufferers = SufferersOf(Whole(vault), [.. findings.Where(f => f.Hash is not null).Select(f => f.Name)]);
        return [.. findings.Select(f => f.Hash is null ? f : f with { Sufferers = [.. sufferers[f.Name]] })];
    }

    /// <summary>How many manifests of a vault cannot be read.</summary>
    /// <exception cref="FaultException">The vault cannot be reached.</exception>
    internal static int UnreadableManifests(BackupVault vault) => VaultNames.Manifests(vault.Store).Count() - Whole(vault).Count();

    private static IEnumerable<(string Name, BackupManifest Manifest)> Whole(BackupVault vault)
    {
        foreach (var name in VaultNames.Manifests(vault.Store).Select(o => o.Name).Order(StringComparer.Ordinal))
        {
            BackupManifest manifest;
            try
            {
                manifest = vault.Manifest(name);
            }
            catch (FaultException e) when (e.Fault.Code is FaultCode.ManifestDamaged)
            {
                continue;
            }
            yield return (name, manifest);
        }
    }

    private static ILookup<string, Sufferer> SufferersOf(IEnumerable<(string Name, BackupManifest Manifest)> manifests, IReadOnlyCollection<string> contents)
    {
        var wanted = contents.ToHashSet(StringComparer.Ordinal);
        return manifests.SelectMany(m => m.Manifest.Entries.Select(e => (Content: VaultNames.Of(e.Hash), Sufferer: new Sufferer(m.Name, e.Path))))
            .Where(s => wanted.Contains(s.Content)).ToLookup(s => s.Content, s => s.Sufferer, StringComparer.Ordinal);
    }
}
