using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Usage;

/// <summary>
/// What a document must say once files that it points at stand elsewhere: worked out here for everybody who moves, copies,
/// converts or packs files. Pointers change, and every other byte stays.
/// </summary>
/// <param name="Pointers">The pointers that change, each once.</param>
/// <param name="Count">How many references that are.</param>
/// <param name="Before">Identity of the document as it is.</param>
/// <param name="After">Its bytes afterwards.</param>
public sealed record Repointing(IReadOnlyList<NewPointer> Pointers, int Count, ByteIdentity Before, byte[] After)
{
    /// <summary>Works it out. The document is read anew, so that what was known of it stays as it is.</summary>
    /// <param name="document">The document.</param>
    /// <param name="sessionFolder">Absolute path of the session folder that it stands in.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="newPlace">
    /// The absolute path at which a file stands then, for the path at which it is now; null for one that is left as it is. The
    /// same path makes an absolute pointer a relative one.
    /// </param>
    /// <param name="folderThen">Absolute path of the folder that the document is read from then; null for where it is read from now.</param>
    /// <returns>Null where no pointer changes.</returns>
    /// <exception cref="FaultException">The document cannot be read.</exception>
    public static Repointing? Of(InventoryDocument document, string sessionFolder, IReadOnlyList<Shelf> shelves, Func<string, string?> newPlace, string? folderThen = null)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(newPlace);
        var bytes = ReadableFile.ReadAll(document.Path, SessionDocument.MostBytes);
        var format = DocumentFormats.Of(document.Path) ?? OpenTimeline.Format;
        var read = format.Read(bytes);
        var folder = folderThen ?? ReadFrom(document, sessionFolder);
        var pointers = new Dictionary<string, NewPointer>(StringComparer.Ordinal);
        var count = read.Repoint(url =>
        {
            var path = ReferencedPath.Of(url, document, sessionFolder, shelves);
            if (newPlace(path) is not { } place || (place == path && !IsAbsolute(url)))
            {
                return null;
            }
            return (pointers[url] = new NewPointer(url, format.PointerTo(place, folder), place)).NewUrl;
        });
        return count == 0 ? null : new Repointing([.. pointers.Values], count, ByteIdentity.Of(bytes), read.ToBytes());
    }

    /// <summary>The step that points a document at files that its plan brings in; null where it points at none of them.</summary>
    /// <param name="document">The document.</param>
    /// <param name="inventory">The inventory of its session.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="newPlaces">Where files stand then, by where they stand now: absolute paths.</param>
    /// <param name="at">What it is pointed at, as "the copies".</param>
    public static RepointDocumentStep? Step(
        InventoryDocument document, SessionInventory inventory, IReadOnlyList<Shelf> shelves, IReadOnlyDictionary<string, string> newPlaces, string at)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(newPlaces);
        return Of(document, inventory.Folder, shelves, newPlaces.GetValueOrDefault) is not { } change
            ? null
            : new RepointDocumentStep(
                document.Path, $"{ByteText.Count(change.Count, "reference")} pointed at {at}" + (document.Current ? "" : ", an older version"), change.Before, [.. change.Pointers], change.After.Length);
    }

    /// <summary>An older version is written as if it stood at the top level, as all else in it is, so that it can be gone back to.</summary>
    private static string ReadFrom(InventoryDocument document, string sessionFolder) => document.Current ? Path.GetDirectoryName(document.Path)! : sessionFolder;

    private static bool IsAbsolute(string url) => url.StartsWith("file:", StringComparison.OrdinalIgnoreCase) || url.StartsWith('/');
}
