using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.CopyIn;

/// <summary>Where the outside files of one session come from, and which of them somebody left out.</summary>
/// <param name="shelves">All known shelves.</param>
/// <param name="sessions">Folders of all known sessions; what stands outside is not in its own one.</param>
/// <param name="marks">What was taken and left out.</param>
public sealed class OutsideFiles(IReadOnlyList<Shelf> shelves, IReadOnlyList<string> sessions, CopyInMarks marks)
{
    private readonly (Guid Id, string Name, ShelfKind Kind, string Root)[] _shelves = [.. shelves.Select(s => (s.Id, s.Name, s.Kind, s.Root))];

    /// <summary>What was taken and left out.</summary>
    public CopyInMarks Marks => marks;

    /// <summary>Where a file comes from; null for one that is inside, or belongs there.</summary>
    public Origin? OriginOf(InventoryFile file)
    {
        ArgumentNullException.ThrowIfNull(file);
        return file.Standing is Standing.Outside or Standing.Away && !file.BelongsInside ? Origin.Of(file.Path, shelves, sessions) : null;
    }

    /// <summary>True for a file that stands outside because somebody chose so.</summary>
    public bool IsLeftOut(InventoryFile file) => IsLeftOut(file, OriginOf(file));

    /// <summary>The same where it is known already where the file comes from.</summary>
    public bool IsLeftOut(InventoryFile file, Origin? origin)
    {
        ArgumentNullException.ThrowIfNull(file);
        return origin is not null && !marks.Includes(file, origin);
    }

    /// <summary>True where every file comes from the same place by both, whatever is left out.</summary>
    public bool HasSamePlaces(OutsideFiles other)
    {
        ArgumentNullException.ThrowIfNull(other);
        return _shelves.AsSpan().SequenceEqual(other._shelves) && (ReferenceEquals(sessions, other.Sessions) || sessions.SequenceEqual(other.Sessions, StringComparer.Ordinal));
    }

    private IReadOnlyList<string> Sessions => sessions;
}
