using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>Takes the inventory of a folder that nobody keeps one of. Reading never changes anything.</summary>
public sealed class InventoryReader(HeaderCache headers, IShelfMemory? memory = null)
{
    /// <summary>Takes the inventory of a session.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="documentName">File name of a document that was chosen on this machine; null for none. What the session card states goes before.</param>
    /// <param name="shelves">All known shelves, connected or away.</param>
    /// <param name="cancel">Stops between two files.</param>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public SessionInventory Read(string folder, string? documentName, IReadOnlyList<Shelf> shelves, CancellationToken cancel = default) =>
        new KeptInventory(folder, headers, memory).Look(documentName, shelves, LookDepth.Files, DateTime.UtcNow, cancel);
}
