using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Usage;

/// <summary>Where what a reference plays stands then.</summary>
/// <param name="Path">Absolute path of the file.</param>
/// <param name="Range">The range that is available in it; null where that stays as it is.</param>
/// <param name="Cut">What was cut off its front, for a clip that counts from the file's first sample; null for nothing.</param>
public sealed record NewPlace(string Path, AvailableRange? Range = null, FrontCut? Cut = null);

/// <summary>
/// What a document must say once files that it points at stand elsewhere: worked out here for everybody who moves, copies,
/// converts, repairs, trims or packs files. Pointers and the ranges available at them change, and every other byte stays.
/// </summary>
/// <param name="Pointers">The pointers that change: each once where all references that have it change alike, otherwise one for each reference.</param>
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
        ArgumentNullException.ThrowIfNull(newPlace);
        return Of(document, sessionFolder, shelves, (_, path) => newPlace(path) is { } place ? new NewPlace(place) : null, folderThen);
    }

    /// <summary>Works it out where references to one file may part ways, or the new files hold other ranges.</summary>
    /// <param name="document">The document.</param>
    /// <param name="sessionFolder">Absolute path of the session folder that it stands in.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="newPlace">Where what a reference plays stands then, for the reference and the absolute path of its file now; null for one that is left as it is.</param>
    /// <param name="folderThen">Absolute path of the folder that the document is read from then; null for where it is read from now.</param>
    /// <returns>Null where nothing changes.</returns>
    /// <exception cref="FaultException">The document cannot be read.</exception>
    public static Repointing? Of(
        InventoryDocument document, string sessionFolder, IReadOnlyList<Shelf> shelves, Func<MediaReference, string, NewPlace?> newPlace, string? folderThen = null)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(newPlace);
        if (document.IsNaming)
        {
            // Nothing is known of a document of another program but what it names; it is never written.
            return null;
        }
        var bytes = ReadableFile.ReadAll(document.Path, DocumentFormats.MostBytes);
        var format = DocumentFormats.Of(document.Path) ?? OpenTimeline.Format;
        var read = DocumentFormats.Read<IRepointable>(document.Path, bytes);
        var folder = folderThen ?? ReadFrom(document, sessionFolder);
        var asked = new List<(string Url, NewPointer? Pointer)>();
        var count = read.Repoint(reference =>
        {
            var url = reference.TargetUrl;
            var path = ReferencedPath.Of(url, document, sessionFolder, shelves);
            var place = newPlace(reference, path);
            // A relative pointer at the same place stays as it is written, unless it leads out of a folder that is left.
            var stays = place?.Path == path && !MediaUrl.IsAbsolute(url) && (folderThen is null || ShelfPath.IsWithin(path, sessionFolder));
            var pointer = place is null || (stays && place.Range is null && place.Cut is null)
                ? null
                : new NewPointer(url, stays ? url : format.PointerTo(place.Path, folder), place.Path, place.Range, null, place.Cut);
            asked.Add((url, pointer));
            return pointer?.Says;
        });
        return count == 0 ? null : new Repointing(Told(asked), count, ByteIdentity.Of(bytes), read.ToBytes());
    }

    /// <summary>
    /// Works out what a document must say once files are gone from it: entries of its list go, and clips play another file with
    /// the same sound where there is one.
    /// </summary>
    /// <param name="document">The document.</param>
    /// <param name="sessionFolder">Absolute path of the session folder that it stands in.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="goes">Whether a file goes, by its absolute path.</param>
    /// <param name="instead">The absolute path of the file that clips play instead; null for none: then their pointers stay as they are.</param>
    /// <returns>The step, the entries that go as they stood, with the absolute paths that they point at, and the list before that; null where nothing changes.</returns>
    /// <exception cref="FaultException">The document cannot be read.</exception>
    public static (RepointDocumentStep Step, IReadOnlyList<(string Path, string Reference)> Entries, IReadOnlyList<string> Before)? Unlisting(
        InventoryDocument document, string sessionFolder, IReadOnlyList<Shelf> shelves, Predicate<string> goes, Func<string, string?> instead)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(goes);
        ArgumentNullException.ThrowIfNull(instead);
        if (document.IsNaming)
        {
            return null;
        }
        var bytes = ReadableFile.ReadAll(document.Path, DocumentFormats.MostBytes);
        var read = DocumentFormats.Read<IMediaList>(document.Path, bytes);
        var paths = new Dictionary<string, string>(StringComparer.Ordinal);
        string PathOf(string url) => paths.TryGetValue(url, out var path) ? path : paths[url] = ReferencedPath.Of(url, document, sessionFolder, shelves);
        var (pointers, count) = (new List<NewPointer>(), 0);
        foreach (var url in read.References.Where(r => !r.IsOnList).Select(r => r.TargetUrl).Distinct(StringComparer.Ordinal))
        {
            if (goes(PathOf(url)) && instead(PathOf(url)) is { } other)
            {
                pointers.Add(new NewPointer(url, OpenTimeline.Format.PointerTo(other, ReadFrom(document, sessionFolder)), other));
                count += read.References.Count(r => !r.IsOnList && r.TargetUrl == url);
            }
        }
        var before = read.ListedUrls;
        var removed = read.Unlist(url => goes(PathOf(url)));
        if (pointers.Count == 0 && removed.Count == 0)
        {
            return null;
        }
        string[] reasons =
        [
            .. removed.Count > 0 ? new[] { $"{ByteText.Count(removed.Count, "file")} taken off the list" } : [],
            .. count > 0 ? new[] { $"{ByteText.Count(count, "reference")} re-pointed to the same sound" } : [],
        ];
        var step = new RepointDocumentStep(document.Path, string.Join("; ", reasons) + (document.Current ? "" : ", an older version"), ByteIdentity.Of(bytes), [.. pointers], bytes.Length)
        {
            Unlisted = [.. removed.Select(r => r.Url).Distinct(StringComparer.Ordinal)],
        };
        return (step, [.. removed.Select(r => (PathOf(r.Url), r.Reference))], before);
    }

    private static List<NewPointer> Told(List<(string Url, NewPointer? Pointer)> asked)
    {
        var alike = asked.GroupBy(a => a.Url, a => a.Pointer, StringComparer.Ordinal).Where(g => g.Distinct().Count() == 1).Select(g => g.Key).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. asked.Where(a => a.Pointer is not null && alike.Contains(a.Url)).Select(a => a.Pointer!).Distinct(),
            .. asked.Select((a, at) => a.Pointer is not null && !alike.Contains(a.Url) ? a.Pointer with { Reference = at } : null).OfType<NewPointer>(),
        ];
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
        ArgumentNullException.ThrowIfNull(newPlaces);
        return Step(document, inventory, shelves, (_, path) => newPlaces.TryGetValue(path, out var place) ? new NewPlace(place) : null, at);
    }

    /// <summary>The step where references to one file may part ways, or the new files hold other ranges.</summary>
    /// <param name="document">The document.</param>
    /// <param name="inventory">The inventory of its session.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="newPlace">As for <see cref="Of(InventoryDocument, string, IReadOnlyList{Shelf}, Func{MediaReference, string, NewPlace?}, string?)"/>.</param>
    /// <param name="at">What it is pointed at, as "the copies".</param>
    public static RepointDocumentStep? Step(
        InventoryDocument document, SessionInventory inventory, IReadOnlyList<Shelf> shelves, Func<MediaReference, string, NewPlace?> newPlace, string at)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        return Of(document, inventory.Folder, shelves, newPlace) is not { } change
            ? null
            : new RepointDocumentStep(
                document.Path, $"{ByteText.Count(change.Count, "reference")} re-pointed to {at}" + (document.Current ? "" : ", an older version"), change.Before, [.. change.Pointers], change.After.Length);
    }

    /// <summary>An older version is written as if it stood at the top level, as all else in it is, so that it can be gone back to.</summary>
    private static string ReadFrom(InventoryDocument document, string sessionFolder) => document.Current ? Path.GetDirectoryName(document.Path)! : sessionFolder;
}
