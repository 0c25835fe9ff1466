using NeatCrate.Core.Contents;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Healing;

/// <summary>Where content, or a manifest, may be found that a vault has lost.</summary>
public interface IHealingSource
{
    /// <summary>What is told of it: a session, a vault, a bundle.</summary>
    string Name { get; }

    /// <summary>Whence the bytes of this content may come; null where it has none. Whether it is the one is looked at while it is copied.</summary>
    /// <exception cref="FaultException">It cannot be looked into.</exception>
    FileOrigin? Find(ContentHash hash, long bytes);

    /// <summary>The bytes of a manifest of this name; null where it has none.</summary>
    byte[]? Manifest(string name) => null;

    /// <summary>True where its manifests are surely those of the vault that is mended, and not of another one's backup of the same name.</summary>
    bool IsOfThisVault => false;
}

/// <summary>Files elsewhere that held the same content once, as those of a session.</summary>
/// <param name="name">What is told of it.</param>
/// <param name="paths">Absolute path of the file that held a content.</param>
/// <param name="files">The durable layer.</param>
public sealed class FilesSource(string name, IReadOnlyDictionary<ContentHash, string> paths, IDurableFiles files) : IHealingSource
{
    /// <inheritdoc/>
    public string Name => name;

    /// <inheritdoc/>
    public FileOrigin? Find(ContentHash hash, long bytes) =>
        paths.TryGetValue(hash, out var path) && files.Look(path) is { IsRegular: true } facts && (bytes == 0 || facts.Bytes == bytes) ? new WholeFile(path, new FileState(facts.Bytes, facts.ModifiedUtc)) : null;
}

/// <summary>Another vault, whatever backups it has; or what is remembered of this one.</summary>
/// <param name="name">What is told of it.</param>
/// <param name="vault">The vault.</param>
/// <param name="isOfThisVault">True for what is remembered of the vault that is mended.</param>
public sealed class VaultSource(string name, BackupVault vault, bool isOfThisVault = false) : IHealingSource
{
    /// <inheritdoc/>
    public bool IsOfThisVault => isOfThisVault;

    /// <inheritdoc/>
    public string Name => name;

    /// <inheritdoc/>
    public FileOrigin? Find(ContentHash hash, long bytes) =>
        vault.Store.Size(VaultNames.Of(hash)) is { } there && (bytes == 0 || there == bytes) ? new VaultContent(vault.Store.Place, VaultNames.Of(hash), there, hash.ToString(), "", default) : null;

    /// <inheritdoc/>
    public byte[]? Manifest(string name) => vault.Store.Size(name) is null ? null : vault.Store.Read(name);
}

/// <summary>A container that states the SHA-512 of what it holds, as a bundle.</summary>
/// <param name="container">The container; it is read when it is first asked.</param>
public sealed class ContainerSource(IContentContainer container) : IHealingSource
{
    private readonly Lazy<Dictionary<ContentHash, FileOrigin>> _origins = new(() => container.Read().Entries.Where(e => e.Sha512 is not null).DistinctBy(e => e.Sha512).ToDictionary(e => e.Sha512!.Value, e => e.Origin));

    /// <inheritdoc/>
    public string Name => container.Name;

    /// <inheritdoc/>
    public FileOrigin? Find(ContentHash hash, long bytes) => _origins.Value.GetValueOrDefault(hash);
}
