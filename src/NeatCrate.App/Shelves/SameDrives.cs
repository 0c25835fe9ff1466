using NeatCrate.App.Ground;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Shelves;

/// <summary>A shelf that is away, and may stand here under another path.</summary>
/// <param name="Shelf">The shelf that is away.</param>
/// <param name="Known">Files known on it.</param>
/// <param name="AtSamePlaces">How many of them stand here at the same places, as long and as old.</param>
public sealed record SameDrive(Shelf Shelf, int Known, int AtSamePlaces);

/// <summary>
/// A drive that is mounted under another path than before may be added as a new shelf, while the old one stays away with all that was known
/// by it. What both hold tells; whether they are one is for the user to say, since a copy of a drive holds the same.
/// </summary>
public sealed class SameDrives(ShelfService shelves, Catalogue catalogue, StoredSettings settings)
{
    private readonly KeyedSettings<Kept> _known = new(settings, "same drive ", new Kept(null, 0, 0));

    private sealed record Kept(Guid? Other, int Known, int AtSamePlaces);

    /// <summary>Looks, after the first scan of a shelf, whether one that is away stands there.</summary>
    /// <param name="shelfId">The shelf that was scanned.</param>
    public void Look(Guid shelfId)
    {
        var best = shelves.All().Where(s => s.Id != shelfId && !s.IsConnected).Select(s => Compare(s, shelfId)).OfType<SameDrive>().MaxBy(s => s.AtSamePlaces);
        if (best is not null)
        {
            _known.Change(shelfId, _ => new Kept(best.Shelf.Id, best.Known, best.AtSamePlaces));
        }
    }

    /// <summary>The shelf that may stand here, as long as it is away; null where there is none, or it was said that it is another.</summary>
    /// <param name="shelf">The newer shelf.</param>
    /// <param name="all">All known shelves.</param>
    public SameDrive? Of(Shelf shelf, IReadOnlyList<Shelf> all)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return shelf.IsConnected && _known.Of(shelf.Id) is { Other: { } other } kept && all.FirstOrDefault(s => s.Id == other) is { IsConnected: false } away
            ? new SameDrive(away, kept.Known, kept.AtSamePlaces)
            : null;
    }

    /// <summary>Takes in that it is another drive.</summary>
    /// <param name="shelfId">The newer shelf.</param>
    public void Deny(Guid shelfId) => _known.Change(shelfId, _ => new Kept(null, 0, 0));

    /// <summary>The same, looked at again: what was so at the scan may be otherwise by now.</summary>
    /// <param name="shelfId">The newer shelf.</param>
    /// <exception cref="NotKnownException">It is not known, or no shelf that is away stands there any more.</exception>
    public SameDrive Now(Guid shelfId)
    {
        var shelf = shelves.Get(shelfId);
        return Of(shelf, shelves.All()) is { } kept && Compare(kept.Shelf, shelfId) is { } now ? now : throw new NotKnownException($"No shelf that is away stands in '{shelf.Root}' (any more).");
    }

    /// <summary>More than half of what was known at the same places, as long and as old: that is no chance.</summary>
    private SameDrive? Compare(Shelf away, Guid shelfId)
    {
        var (known, same) = catalogue.Compare(away.Id, shelfId);
        return 2 * same > known ? new SameDrive(away, known, same) : null;
    }
}
