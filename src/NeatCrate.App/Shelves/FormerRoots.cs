using System.Collections.Immutable;
using NeatCrate.App.Ground;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Shelves;

/// <summary>
/// Remembers where shelves stood before they were told to stand elsewhere: documents still point there, and what was known of a file
/// at its old path is known of it by its place on the shelf.
/// </summary>
public sealed class FormerRoots(StoredSettings settings)
{
    private const int Most = 16;

    private readonly KeyedSettings<Of> _known = new(settings, "former roots ", new Of([]));

    private sealed record Of(ImmutableArray<string> Roots);

    /// <summary>Takes in that a shelf stands elsewhere from now on.</summary>
    /// <param name="shelfId">The shelf.</param>
    /// <param name="root">Absolute path of the top folder that it had.</param>
    public void Note(Guid shelfId, string root) => _known.Change(shelfId, k => new Of([.. k.Roots.Remove(root).Prepend(root).Take(Most)]));

    /// <summary>The shelf that stood where a path leads, and the path from its top; null where none did. The deepest counts.</summary>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="path">Absolute path, or a pointer that is none here.</param>
    public (Guid ShelfId, string Path)? PlaceOf(IEnumerable<Shelf> shelves, string path)
    {
        ArgumentNullException.ThrowIfNull(shelves);
        return shelves.SelectMany(s => _known.Of(s.Id).Roots.Where(r => ShelfPath.IsWithin(path, r) && path != r).Select(r => (s.Id, Root: r))).OrderByDescending(s => s.Root.Length)
            .Select(s => ((Guid, string)?)(s.Id, Path.GetRelativePath(s.Root, path))).FirstOrDefault();
    }
}
