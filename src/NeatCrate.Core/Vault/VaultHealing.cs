using System.Collections.Immutable;

namespace NeatCrate.Core.Vault;

/// <summary>Where content, or a manifest, may be found that a vault has lost.</summary>
public interface IHealingSource
{
    /// <summary>What is told of it: a session, a vault, a bundle.</summary>
    string Name { get; }

    /// <summary>Opens what may be the content of this hash; null where it has none. Whether it is the one is looked at while it is copied.</summary>
    Stream? Open(ContentHash hash, long bytes);

    /// <summary>The bytes of a manifest of this name; null where it has none.</summary>
    byte[]? Manifest(string name);
}

/// <summary>What became of one finding.</summary>
/// <param name="Finding">What was wrong.</param>
/// <param name="HealedFrom">Name of where it was healed from; null where nothing had it.</param>
public sealed record Healed(VaultFinding Finding, string? HealedFrom);

/// <summary>Files elsewhere that held the same content once, as those of a session.</summary>
/// <param name="name">What is told of it.</param>
/// <param name="paths">Absolute path of the file that held a content.</param>
/// <param name="files">The durable layer.</param>
public sealed class FilesSource(string name, IReadOnlyDictionary<ContentHash, string> paths, IDurableFiles files) : IHealingSource
{
    /// <inheritdoc/>
    public string Name => name;

    /// <inheritdoc/>
    public Stream? Open(ContentHash hash, long bytes)
    {
        if (!paths.TryGetValue(hash, out var path) || files.Look(path) is not { IsRegular: true } facts || (bytes > 0 && facts.Bytes != bytes))
        {
            return null;
        }
        var file = files.OpenSource(path);
        return new SourceStream(file, path, file.Facts.Bytes, ownsFile: true);
    }

    /// <inheritdoc/>
    public byte[]? Manifest(string name) => null;
}

/// <summary>Another vault as a source.</summary>
public sealed class VaultSource(string name, BackupVault vault) : IHealingSource
{
    /// <inheritdoc/>
    public string Name => name;

    /// <inheritdoc/>
    public Stream? Open(ContentHash hash, long bytes) => vault.Store.Size(VaultNames.Of(hash)) is null ? null : vault.Store.Open(VaultNames.Of(hash));

    /// <inheritdoc/>
    public byte[]? Manifest(string name) => vault.Store.Size(name) is null ? null : vault.Store.Read(name);
}

/// <summary>Mends what a check found, from any other place that has the same content. What is healthy is not touched.</summary>
public static class VaultHealing
{
    /// <summary>Mends.</summary>
    /// <param name="vault">The vault.</param>
    /// <param name="findings">What was found.</param>
    /// <param name="sources">Where to look, in this order.</param>
    /// <param name="progress">Told how far it is.</param>
    /// <param name="cancel">Stops between two findings.</param>
    /// <exception cref="FaultException">Another writer is at work, or the vault refuses.</exception>
    public static ImmutableArray<Healed> Run(BackupVault vault, IReadOnlyList<VaultFinding> findings, IReadOnlyList<IHealingSource> sources, Action<VaultProgress>? progress, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(vault);
        ArgumentNullException.ThrowIfNull(findings);
        ArgumentNullException.ThrowIfNull(sources);
        using var held = vault.LockToWrite();
        var done = ImmutableArray.CreateBuilder<Healed>();
        // Asked before the first list is mended: who counts on what was found before is not known of one that was damaged then.
        var isNamedByNone = findings.Any(f => f.Hash is not null && f.Sufferers.IsEmpty) && findings.All(f => f.Damage != VaultDamage.ManifestDamaged) && VaultCheck.UnreadableManifests(vault) == 0;
        foreach (var finding in findings)
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Invoke(new VaultProgress(done.Count, findings.Count, 0, 0, finding.Name));
            done.Add(new Healed(finding, finding.Damage switch
            {
                VaultDamage.ReadMeDamaged => HealReadMe(vault),
                VaultDamage.ManifestDamaged => HealManifest(vault, finding, sources),
                _ => HealContent(vault, finding, sources, isNamedByNone, cancel),
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

    private static string? HealManifest(BackupVault vault, VaultFinding finding, IReadOnlyList<IHealingSource> sources)
    {
        foreach (var source in sources)
        {
            try
            {
                if (source.Manifest(finding.Name) is { } bytes && BackupManifest.Read(bytes, finding.Name) is { } manifest && manifest.Entries.All(e => IsHere(vault, e)))
                {
                    Replace(vault, finding.Name, bytes);
                    return source.Name;
                }
            }
            catch (FaultException e) when (e.Fault.Code is FaultCode.ManifestDamaged or FaultCode.CannotRead or FaultCode.NotThere)
            {
                // Damaged there as well: the next one may have it.
            }
        }
        return null;
    }

    /// <summary>A manifest of the same name that names other content is the one of another backup.</summary>
    private static bool IsHere(BackupVault vault, BackupEntry entry) => vault.Store.Size(VaultNames.Of(entry.Hash)) is not null;

    private static void Replace(BackupVault vault, string name, ReadOnlySpan<byte> bytes)
    {
        using var made = vault.Store.Begin(bytes.Length);
        made.Write(bytes);
        made.Keep(name, replaces: true);
    }

    private static string? HealContent(BackupVault vault, VaultFinding finding, IReadOnlyList<IHealingSource> sources, bool isNamedByNone, CancellationToken cancel)
    {
        if (finding.Hash is not { } hash || VaultCheck.Holds(vault.Store, finding.Name, hash, null, cancel))
        {
            // Whole by now: a backup may have brought it again.
            return finding.Hash is null ? null : "the vault itself";
        }
        foreach (var source in sources)
        {
            try
            {
                using var from = source.Open(hash, finding.Bytes);
                if (from is not null && TryCopy(vault, finding.Name, hash, from, cancel))
                {
                    return source.Name;
                }
            }
            catch (IOException e) when (e is not FaultException { Fault.Code: FaultCode.NoSpace or FaultCode.ReadOnlyDrive or FaultCode.CannotWrite or FaultCode.ReadBackDiffers })
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

    /// <summary>Copies where the source holds what is missing. The damaged one goes only once the good one is written.</summary>
    private static bool TryCopy(BackupVault vault, string name, ContentHash expected, Stream from, CancellationToken cancel)
    {
        using var made = vault.Store.Begin(0);
        return ContentHash.OfStream(from, part => made.Write(part.Span), cancel) == expected && made.Keep(name, replaces: true);
    }
}
