using NeatCrate.App.Sessions;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;

namespace NeatCrate.App.CopyIn;

/// <summary>Where the outside files of one session come from, and which of them somebody left out.</summary>
public sealed class OutsideFiles(IReadOnlyList<Shelf> shelves, IReadOnlyList<string> otherSessions, CopyInMarks marks)
{
    /// <summary>As things are now.</summary>
    public static OutsideFiles Of(Guid sessionId, SessionService sessions, IReadOnlyList<Shelf> shelves, CopyInChoices choices)
    {
        ArgumentNullException.ThrowIfNull(sessions);
        ArgumentNullException.ThrowIfNull(choices);
        return new OutsideFiles(shelves, sessions.OtherFolders(sessionId), choices.Of(sessionId).Marks);
    }

    /// <summary>Where a file comes from; null for one that is inside, or belongs there.</summary>
    public Origin? OriginOf(InventoryFile file)
    {
        ArgumentNullException.ThrowIfNull(file);
        return file.Standing is Standing.Outside or Standing.Away && !file.BelongsInside ? Origin.Of(file.Path, shelves, otherSessions) : null;
    }

    /// <summary>True for a file that stands outside because somebody chose so.</summary>
    public bool IsLeftOut(InventoryFile file) => OriginOf(file) is { } origin && !marks.Takes(file.Path, origin);
}
