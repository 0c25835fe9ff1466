using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>Takes the inventory of a folder that nobody keeps one of. Reading never changes anything.</summary>
/// <param name="headers">Headers that were read before.</param>
/// <param name="memory">What is known of files on shelves that are away.</param>
/// <param name="kinds">What was said of kinds of file, at this moment; null for nothing.</param>
public sealed class InventoryReader(HeaderCache headers, IShelfMemory? memory = null, Func<DocumentKinds>? kinds = null)
{
    /// <summary>What was said of kinds of file, at this moment.</summary>
    public DocumentKinds Kinds => kinds?.Invoke() ?? DocumentKinds.Unsaid;

    /// <summary>Takes the inventory of a session.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="documentName">File name of a document that was chosen on this machine; null for none. What the session card states goes before.</param>
    /// <param name="shelves">All known shelves, connected or away.</param>
    /// <param name="cancel">Stops between two files.</param>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public SessionInventory Read(string folder, string? documentName, IReadOnlyList<Shelf> shelves, CancellationToken cancel = default) =>
        new KeptInventory(folder, headers, memory, kinds).Look(documentName, shelves, LookDepth.Files, DateTime.UtcNow, cancel);
}
