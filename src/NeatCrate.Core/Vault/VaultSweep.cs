using System.Text;

namespace NeatCrate.Core.Vault;

/// <summary>What letting backups go gave back.</summary>
/// <param name="Backups">How many went.</param>
/// <param name="Objects">How much content no backup named any more.</param>
/// <param name="Bytes">Its bytes.</param>
public readonly record struct Swept(int Backups, int Objects, long Bytes);

/// <summary>
/// Lets backups of a vault go, and gives the space of content back that none of the others names. Under the vault's lock, so that no
/// backup that is being made loses what it counts on; and only while every manifest that stays can be read.
/// </summary>
public static class VaultSweep
{
    /// <summary>Lets backups go, and sweeps.</summary>
    /// <param name="vault">The vault.</param>
    /// <param name="going">Names of the manifests that go; none to sweep only.</param>
    /// <param name="remembered">What is remembered of the manifests, null for nothing: one that is gone without having been let go names what nobody knows, and one that is another would go in its place.</param>
    /// <param name="progress">Told how far it is.</param>
    /// <param name="cancel">Stops; what is left is swept the next time.</param>
    /// <exception cref="FaultException">Another writer is at work, or a manifest cannot be read: then nothing was removed.</exception>
    public static Swept Run(BackupVault vault, IReadOnlyCollection<string> going, BackupVault? remembered, Action<VaultProgress>? progress, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(vault);
        ArgumentNullException.ThrowIfNull(going);
        using var held = vault.LockToWrite();
        var gone = going.ToHashSet(StringComparer.Ordinal);
        var known = remembered?.ManifestNames() ?? [];
        var manifests = VaultNames.Manifests(vault.Store).Select(o => o.Name).ToList();
        var named = new HashSet<ContentHash>();
        // A list that stands aside is damaged, and names what nobody can read: it keeps everything, as one in its place does.
        var aside = vault.ManifestsAside().Except(manifests, StringComparer.Ordinal).ToList();
        if (aside.Find(m => !gone.Contains(m)) is { } unreadable)
        {
            throw new FaultException(FaultCode.ManifestDamaged, $"{vault.Store.Place}/{unreadable}");
        }
        if (known.Except(manifests, StringComparer.Ordinal).FirstOrDefault(m => !gone.Contains(m) && !vault.WasLetGo(m)) is { } lost)
        {
            throw new FaultException(FaultCode.ManifestMissing, $"{vault.Store.Place}/{lost}");
        }
        foreach (var name in manifests)
        {
            cancel.ThrowIfCancellationRequested();
            if (!gone.Contains(name))
            {
                named.UnionWith(vault.ManifestAsRemembered(name, remembered).Entries.Select(e => e.Hash));
            }
            else if (IsReadable(vault, name))
            {
                // One that goes may be damaged, but must not be another than was chosen.
                vault.ManifestAsRemembered(name, remembered);
            }
        }
        // Written down first: a list that is gone without that was lost.
        var backups = 0;
        foreach (var name in manifests.Concat(aside).Where(gone.Contains))
        {
            vault.Store.Put(VaultNames.LetGoOf(name), Encoding.UTF8.GetBytes(name + "\n"));
        }
        vault.Store.Flush();
        foreach (var name in manifests.Where(gone.Contains))
        {
            vault.Store.Remove(name);
            backups++;
        }
        foreach (var name in aside)
        {
            vault.Store.Remove($"{IObjectStore.Damaged}/{name}");
            backups++;
        }
        // A backup that is gone must be gone before its content is.
        vault.Store.Flush();
        var (objects, bytes) = (0, 0L);
        foreach (var one in vault.Store.List(VaultNames.Content).ToList())
        {
            if (cancel.IsCancellationRequested)
            {
                break;
            }
            if (VaultNames.TryHash(one.Name, out var hash) && !named.Contains(hash))
            {
                vault.Store.Remove(one.Name);
                (objects, bytes) = (objects + 1, bytes + one.Bytes);
                progress?.Invoke(new VaultProgress(objects, 0, bytes, 0, one.Name));
            }
        }
        // Damaged content that stood aside while a list was damaged: all lists were read now.
        foreach (var one in vault.Store.List($"{IObjectStore.Damaged}/{VaultNames.Content}").ToList())
        {
            if (VaultNames.TryHash(one.Name[(IObjectStore.Damaged.Length + 1)..], out var hash) && !named.Contains(hash))
            {
                vault.Store.Remove(one.Name);
            }
        }
        vault.Store.Flush();
        return new Swept(backups, objects, bytes);
    }

    private static bool IsReadable(BackupVault vault, string name)
    {
        try
        {
            vault.Manifest(name);
            return true;
        }
        catch (FaultException e) when (e.Fault.Code is FaultCode.ManifestDamaged)
        {
            return false;
        }
    }
}
