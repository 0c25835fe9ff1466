using System.Collections.Immutable;

namespace NeatCrate.Core.Vault;

/// <summary>What a look at a vault brought.</summary>
/// <param name="Changed">Whether something is remembered that was not, or the other way round.</param>
/// <param name="Lost">Names of manifests that are gone without having been let go: that is damage, and they stay remembered.</param>
public sealed record TakenIn(bool Changed, ImmutableArray<string> Lost);

/// <summary>
/// What is remembered of the manifests of a vault, so that it is known what it holds while it is away, and so that a list that is gone
/// can be put back. A list is forgotten only where the vault states that its backup was let go.
/// </summary>
/// <param name="here">Where it is remembered.</param>
public sealed class VaultMemory(IObjectStore here)
{
    /// <summary>The remembered manifests, as those of a vault.</summary>
    public BackupVault Lists { get; } = new(here);

    /// <summary>True for a manifest that was tried and could not be read, so that it need not be tried at each look; by name and size in bytes.</summary>
    private readonly HashSet<(string Name, long Bytes)> _unreadable = [];

    /// <summary>Whether anything is remembered.</summary>
    public bool IsEmpty => Manifests(here).Count == 0;

    /// <summary>Whether a vault is surely the one that is remembered: by its identity, or by a manifest that both have.</summary>
    /// <param name="vault">The vault that is there.</param>
    public bool Knows(BackupVault vault)
    {
        ArgumentNullException.ThrowIfNull(vault);
        if (vault.Identity() is { } there && Lists.Identity() == there)
        {
            return true;
        }
        // Two vaults that get a backup of one session in one second give it one name.
        var met = Manifests(vault.Store);
        return Manifests(here).Any(k => met.TryGetValue(k.Key, out var bytes) && bytes == k.Value && IsTheSame(vault, k.Key));
    }

    private bool IsTheSame(BackupVault vault, string name)
    {
        try
        {
            return vault.Bytes(name).AsSpan().SequenceEqual(Lists.Bytes(name));
        }
        catch (FaultException)
        {
            // What cannot be read tells nothing.
            return false;
        }
    }

    /// <summary>
    /// Whether another vault stands where this one stood, as where drives take turns. A vault is known by its identity; where one of the
    /// two has none, or the identities differ because one was lost and made anew, by a manifest that both have.
    /// </summary>
    /// <param name="vault">The vault that is there.</param>
    public bool IsAnother(BackupVault vault)
    {
        ArgumentNullException.ThrowIfNull(vault);
        // One that has neither an identity nor a list may be this one, of which all that went.
        return !IsEmpty && !Knows(vault) && ((vault.Identity() is not null && Lists.Identity() is not null) || Manifests(vault.Store).Count > 0);
    }

    /// <summary>Takes in what the vault has now. A manifest that is damaged there stays as it was known.</summary>
    /// <param name="vault">The vault, which is this one.</param>
    /// <param name="again">Whether what could not be read is tried again.</param>
    /// <exception cref="FaultException">The vault cannot be looked into.</exception>
    public TakenIn TakeIn(BackupVault vault, bool again)
    {
        ArgumentNullException.ThrowIfNull(vault);
        if (again)
        {
            _unreadable.Clear();
        }
        var (there, known) = (Manifests(vault.Store), Manifests(here));
        var changed = TakeIdentity(vault);
        foreach (var (name, bytes) in there.Where(t => !known.ContainsKey(t.Key) && !_unreadable.Contains((t.Key, t.Value))))
        {
            try
            {
                var content = vault.Bytes(name);
                BackupManifest.Read(content, name);
                changed |= here.Put(name, content);
            }
            catch (FaultException e) when (e.Fault.Code is FaultCode.ManifestDamaged or FaultCode.ManifestOfLaterVersion)
            {
                // The check of the vault tells of it.
                _unreadable.Add((name, bytes));
            }
        }
        var lost = ImmutableArray.CreateBuilder<string>();
        var aside = vault.ManifestsAside().ToHashSet(StringComparer.Ordinal);
        foreach (var gone in known.Keys.Where(h => !there.ContainsKey(h) && !aside.Contains(h)).Order(StringComparer.Ordinal))
        {
            if (vault.WasLetGo(gone))
            {
                here.Remove(gone);
                changed = true;
            }
            else
            {
                lost.Add(gone);
            }
        }
        return new TakenIn(changed, lost.ToImmutable());
    }

    private bool TakeIdentity(BackupVault vault)
    {
        if (vault.Identity() is not { } identity || Lists.Identity() == identity)
        {
            return false;
        }
        Lists.Identify(identity);
        return true;
    }

    private static Dictionary<string, long> Manifests(IObjectStore store) =>
        VaultNames.Manifests(store).ToDictionary(o => o.Name, o => o.Bytes, StringComparer.Ordinal);
}
