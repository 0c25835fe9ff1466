using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Record;

namespace NeatCrate.Core.Listing;

/// <summary>A media file with all that a list shows of it.</summary>
/// <param name="File">The file.</param>
/// <param name="Take">Which take it is; null for none.</param>
/// <param name="Origin">Where it comes from; null for one that is inside, or belongs there.</param>
/// <param name="IsGrowing">True while something writes it.</param>
public sealed record ListedFile(InventoryFile File, Take? Take, Origin? Origin, bool IsGrowing)
{
    /// <summary>True for a recording that was cut off and is not repaired yet.</summary>
    public bool NeedsRepair => Take is { NeedsRepair: true } && !IsGrowing;

    /// <summary>True for a take that waits to be put on the list.</summary>
    public bool IsWaiting => Take is { IsOnNoList: true } && !IsGrowing;

    /// <summary>Where it stands, in the words of the list.</summary>
    public string StandsOn => File.BelongsInside ? "this session" : File.ShelfName ?? "no shelf";
}
