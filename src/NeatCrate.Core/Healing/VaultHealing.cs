using System.Collections.Immutable;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Healing;

/// <summary>What became of one finding.</summary>
/// <param name="Finding">What was wrong.</param>
/// <param name="HealedFrom">Name of where it was healed from; null where nothing had it.</param>
public sealed record Healed(VaultFinding Finding, string? HealedFrom);

/// <summary>Mends what a check found, from any other place that has the same content. What is healthy is not touched.</summary>
public static class VaultHealing
{
    /// <summary>Mends.</summary>
    /// <param name="vault">The vault.</param>
    /// <param name="findings">What was found.</param>
    /// <param name="sources">Where to look, in this order.</param>
    /// <param name="reading">What they are read with.</param>
    /// <param name="progress">Told how far it is.</param>
    /// <param name="cancel">Stops between two findings.</param>
    /// <exception cref="FaultException">Another writer is at work, or the vault refuses.</exception>
    public static ImmutableArray<Healed> Run(BackupVault vault, IReadOnlyList<VaultFinding> findings, IReadOnlyList<IHealingSource> sources, OriginReading reading, Action<VaultProgress>? progress)
    {
        ArgumentNullException.ThrowIfNull(vault);
        ArgumentNullException.ThrowIfNull(findings);
        ArgumentNullException.ThrowIfNull(sources);
        ArgumentNullException.ThrowIfNull(reading);
        using var held = vault.LockToWrite();
        var done = ImmutableArray.CreateBuilder<Healed>();
        // Asked before the first list is mended: who counts on what was found before is not known of one that was damaged then.
        var isNamedByNone = findings.Any(f => f.Hash is not null && f.Sufferers.IsEmpty) && findings.All(f => f.Damage is not (VaultDamage.ManifestDamaged or VaultDamage.ManifestMissing)) && VaultCheck.UnreadableManifests(vault) == 0;
        foreach (var finding in findings)
        {
            reading.Cancel.ThrowIfCancellationRequested();
            progress?.Invoke(new VaultProgress(done.Count, findings.Count, 0, 0, finding.Name));
            if (finding.Damage is VaultDamage.ManifestDamaged or VaultDamage.ManifestMissing)
            {
                done.AddRange(HealManifest(vault, finding, sources, reading));
                continue;
            }
            done.Add(new Healed(finding, finding.Damage switch
            {
                VaultDamage.ReadMeDamaged => HealReadMe(vault),
                // Whoever took the lock gave it one: a vault is known by its lists as well.
                VaultDamage.IdentityDamaged => "Neat Crate",
                _ => HealContent(vault, finding, sources, isNamedByNone, reading),
            }));
        }
        vault.Store.Flush();
        return done.ToImmutable();
    }

    private static string HealReadMe(BackupVault vault)
    {
        Replace(vault, VaultNames.ReadMe, VaultNames.ReadMeText.Span);
        return "Neat Crate";
    }

    /// <summary>
    /// Puts a list back. One that is remembered of this vault comes back after what it names and is gone was brought again from wherever
    /// it is; what cannot be had is told, and the rest must not be swept. One of elsewhere may be of another backup that has the same name:
    /// it is taken only where all that it names is here.
    /// </summary>
    private static IEnumerable<Healed> HealManifest(BackupVault vault, VaultFinding finding, IReadOnlyList<IHealingSource> sources, OriginReading reading)
    {
        foreach (var source in sources)
        {
            var (bytes, manifest) = ManifestOf(source, finding.Name);
            if (bytes is null || manifest is null)
            {
                continue;
            }
            var gone = manifest.Entries.Where(e => !IsHere(vault, e)).DistinctBy(e => e.Hash)
                .Select(e => new VaultFinding(VaultNames.Of(e.Hash), VaultDamage.ContentMissing, e.Bytes, [new Sufferer(finding.Name, e.Path)])).ToList();
            if (source.IsOfThisVault || gone.Count == 0)
            {
                var brought = gone.ConvertAll(g => new Healed(g, HealContent(vault, g, sources, false, reading)));
                Replace(vault, finding.Name, bytes);
                return [.. brought, new Healed(finding, source.Name)];
            }
        }
        return [new Healed(finding, null)];
    }

    private static (byte[]? Bytes, BackupManifest? Manifest) ManifestOf(IHealingSource source, string name)
    {
        try
        {
            return source.Manifest(name) is { } bytes ? (bytes, BackupManifest.Read(bytes, name)) : default;
        }
        catch (Exception e) when (IsOfSource(e))
        {
            // Damaged there as well, or not to be read: the next one may have it.
            return default;
        }
    }

    /// <summary>Content of another size than it must have is not here.</summary>
    private static bool IsHere(BackupVault vault, BackupEntry entry) => vault.Store.Size(VaultNames.Of(entry.Hash)) == entry.Bytes;

    private static void Replace(BackupVault vault, string name, ReadOnlySpan<byte> bytes)
    {
        using var made = vault.Store.Begin(bytes.Length);
        made.Write(bytes);
        made.Keep(name, replaces: true);
    }

    private static string? HealContent(BackupVault vault, VaultFinding finding, IReadOnlyList<IHealingSource> sources, bool isNamedByNone, OriginReading reading)
    {
        if (finding.Hash is not { } hash || VaultCheck.Holds(vault.Store, finding.Name, hash, null, reading.Cancel))
        {
            // Whole by now: a backup may have brought it again.
            return finding.Hash is null ? null : "the vault itself";
        }
        foreach (var source in sources)
        {
            try
            {
                if (source.Find(hash, finding.Bytes) is { } origin && TryCopy(vault, finding.Name, hash, origin, reading))
                {
                    return source.Name;
                }
            }
            catch (Exception e) when (IsOfSource(e))
            {
                // It cannot be read there: the next one may have it.
            }
        }
        if (finding.Sufferers.IsEmpty)
        {
            // Left there, the next backup would take it for content that the vault has.
            if (isNamedByNone)
            {
                vault.Store.Remove(finding.Name);
                return "nothing, since no backup holds it";
            }
            // The list that names it may be the damaged one, and most of it may sound as it did.
            vault.Store.MoveAside(finding.Name);
        }
        return null;
    }

    /// <summary>Whatever a source makes of being damaged: it must keep nobody from the next one. What the vault itself refuses ends the work.</summary>
    private static bool IsOfSource(Exception e) =>
        e is not OperationCanceledException and not FaultException { Fault.Code: FaultCode.NoSpace or FaultCode.ReadOnlyDrive or FaultCode.CannotWrite or FaultCode.ReadBackDiffers or FaultCode.VaultBusy };

    /// <summary>Copies where the source holds what is missing. The damaged one goes only once the good one is written.</summary>
    private static bool TryCopy(BackupVault vault, string name, ContentHash expected, FileOrigin from, OriginReading reading)
    {
        using var made = vault.Store.Begin(0);
        using var sink = new HashingSink(made.Write);
        from.WriteTo(sink, reading);
        return sink.TakeSha512() == expected && made.Keep(name, replaces: true);
    }
}
