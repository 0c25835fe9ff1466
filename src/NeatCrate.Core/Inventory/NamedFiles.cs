using System.IO.Hashing;
using System.Text;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Names;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>
/// Which files states of another program's document name that are not on the inventory: older versions of it, and one that is yet to be.
/// Names are followed from where the document stands, among the media files that the session has, or had with that state.
/// </summary>
public sealed class NamedFiles
{
    private readonly SessionInventory _inventory;
    private readonly IReadOnlyList<Shelf> _shelves;
    private readonly string[] _media;
    private readonly Lazy<FolderNames> _names;
    private readonly Lazy<ulong> _fingerprint;

    /// <summary>Looks from a session as it is now.</summary>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelves">All known shelves.</param>
    public NamedFiles(SessionInventory inventory, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        (_inventory, _shelves) = (inventory, shelves);
        _media = [.. inventory.Files.Where(f => f.Standing == Standing.Inside && f.BelongsInside && f.Use != FileUse.SetAside && MediaFiles.KindOf(f.Name) is not null).Select(f => f.Path)];
        _names = new(() => new FolderNames(_media));
        _fingerprint = new(HashOfMedia);
    }

    /// <summary>Another number once a name may mean another file, as some came or went.</summary>
    public ulong Fingerprint => _fingerprint.Value;

    private ulong HashOfMedia()
    {
        var hash = new XxHash64();
        foreach (var path in _media)
        {
            hash.Append(Encoding.UTF8.GetBytes(path));
            hash.Append("\n"u8);
        }
        return hash.GetCurrentHashAsUInt64();
    }

    /// <summary>The files that a state of a document names; null where it could not be looked through to its end, or names none: then nobody can say.</summary>
    /// <param name="document">The state's bytes.</param>
    /// <param name="held">Absolute paths of the files that a full backup holds beside it; null for what the session has now.</param>
    /// <returns>Absolute paths, without those of which it is open whether they are meant.</returns>
    public IReadOnlySet<string>? In(byte[] document, IReadOnlySet<string>? held = null)
    {
        var found = NameFinder.Find(document);
        if (!found.IsWhole || found.IsMention || found.Names.IsEmpty)
        {
            return null;
        }
        var meanings = held is null ? Meanings(new HashSet<string>()) : new NameMeanings(_inventory.Folder, new FolderNames(held.Where(p => MediaFiles.KindOf(p) is not null && ShelfPath.IsWithin(p, _inventory.Folder))), _inventory.Layout.Audio, p => held.Contains(p) || File.Exists(p), _shelves);
        return meanings.Of(found.Names, _inventory.Folder).Where(m => m.Knowledge == UseKnowledge.Named).Select(m => m.Path).ToHashSet(StringComparer.Ordinal);
    }

    /// <summary>What names mean, once other files are there as well.</summary>
    /// <param name="come">Absolute paths of those.</param>
    internal NameMeanings Meanings(IReadOnlySet<string> come) => new(
        _inventory.Folder, come.Count == 0 ? _names.Value : new FolderNames(_media.Concat(come.Where(p => ShelfPath.IsWithin(p, _inventory.Folder))).Distinct(StringComparer.Ordinal)), _inventory.Layout.Audio,
        p => come.Contains(p) || File.Exists(p), _shelves);
}
