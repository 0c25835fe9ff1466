using NeatCrate.Core.Files;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Origins;

/// <summary>
/// What origins are read with, for as long as a plan or a check takes: an archive is opened and its directory read once, however many
/// entries are taken out of it. Not for several threads at once.
/// </summary>
/// <param name="files">The disk.</param>
/// <param name="stores">Opens a store by its name; null for stores in folders alone.</param>
/// <param name="cancel">Stops the reading between two blocks of bytes.</param>
public sealed class OriginReading(IDurableFiles files, Func<string, IObjectStore>? stores = null, CancellationToken cancel = default) : IDisposable
{
    private readonly Dictionary<string, OpenArchive> _archives = new(StringComparer.Ordinal);
    private readonly Dictionary<string, IObjectStore> _stores = new(StringComparer.Ordinal);

    /// <summary>The disk.</summary>
    public IDurableFiles Files => files;

    /// <summary>Stops the reading between two blocks of bytes.</summary>
    public CancellationToken Cancel => cancel;

    /// <summary>A store, by what origins name it.</summary>
    public IObjectStore Store(string name)
    {
        if (!_stores.TryGetValue(name, out var store))
        {
            _stores[name] = store = stores?.Invoke(name) ?? new FolderStore(name, files);
        }
        return store;
    }

    /// <summary>An archive, opened as it was seen.</summary>
    /// <exception cref="FaultException">It cannot be read, or is not what was seen.</exception>
    internal OpenArchive Archive(string path, FileState expected)
    {
        if (_archives.TryGetValue(path, out var known) && known.State == expected)
        {
            return known;
        }
        known?.Dispose();
        _archives.Remove(path);
        return _archives[path] = new OpenArchive(path, expected, files);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var archive in _archives.Values)
        {
            archive.Dispose();
        }
        _archives.Clear();
    }
}
