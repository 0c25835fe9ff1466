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

/// <summary>A bundle, wherever in it the content stands. What it states of itself was read before; each file is held to it when it is copied.</summary>
/// <param name="path">Absolute path of the bundle.</param>
/// <param name="state">The bundle as it was when it was read.</param>
/// <param name="entries">What its manifest names.</param>
public sealed class BundleSource(string path, FileState state, IEnumerable<BagEntry> entries) : IHealingSource
{
    private readonly ILookup<ContentHash, BagEntry> _entries = entries.ToLookup(e => e.Hash);

    /// <inheritdoc/>
    public string Name => $"the bundle '{Path.GetFileName(path)}'";

    /// <inheritdoc/>
    public FileOrigin? Find(ContentHash hash, long bytes) =>
        _entries[hash].FirstOrDefault() is { } entry ? new ArchiveEntry(path, state, entry.Name, entry.Bytes, hash.ToString()) : null;
}
