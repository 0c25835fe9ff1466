using NeatCrate.App.Ground;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Scans;

/// <summary>Finds files of the catalogue on their shelves.</summary>
public sealed class CatalogueFiles(Catalogue catalogue, ShelfService shelves)
{
    /// <summary>Absolute path of a file; it is there, and stays on its shelf.</summary>
    /// <exception cref="NotKnownException">The catalogue holds no such file, or it is no longer in its place.</exception>
    /// <exception cref="FaultException">Its shelf is away.</exception>
    public string PathOf(long id) => PathsOf([id])[0];

    /// <inheritdoc cref="PathOf"/>
    /// <returns>Paths in the order of the identities.</returns>
    public IReadOnlyList<string> PathsOf(IReadOnlyList<long> ids) => [.. Find(ids).Select(f => PathOn(f.Shelf, f.File.Path))];

    /// <summary>Files and the shelves that they are on, which may be away, in the order of the identities.</summary>
    /// <exception cref="NotKnownException">The catalogue does not hold one of them.</exception>
    public IReadOnlyList<(Shelf Shelf, CatalogueFile File)> Find(IReadOnlyList<long> ids)
    {
        ArgumentNullException.ThrowIfNull(ids);
        var (found, known) = (catalogue.Get(ids).ToDictionary(f => f.Id), shelves.All());
        return [.. ids.Select(id => found.TryGetValue(id, out var file) && known.FirstOrDefault(s => s.Id == file.ShelfId) is { } shelf
            ? (shelf, file)
            : throw new NotKnownException("The catalogue does not hold this file (any more)."))];
    }

    /// <summary>Absolute path of a file on its shelf; it is there, and stays on the shelf.</summary>
    /// <exception cref="NotKnownException">It is no longer in its place.</exception>
    /// <exception cref="FaultException">The shelf is away.</exception>
    public static string PathOn(Shelf shelf, string relative)
    {
        if (!shelf.IsConnected)
        {
            throw new FaultException(new Fault(FaultCode.ShelfAway) { Name = shelf.Name, Path = relative });
        }
        var path = ShelfPath.Resolve(shelf, relative);
        return File.Exists(path) ? path : throw new NotKnownException($"'{relative}' is no longer in its place on '{shelf.Name}'. Scan the shelf to see what changed.");
    }
}
