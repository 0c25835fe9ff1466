using NeatCrate.Core.Inventory;
using NeatCrate.Core.Names;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Usage;

/// <summary>How another program's document writes places: a name that leads elsewhere is written as the one that it takes the place of.</summary>
internal sealed class WrittenPlaces
{
    private readonly SessionInventory _inventory;
    private readonly string _folder;
    private readonly HashSet<string> _withFolder;
    private readonly List<(string Prefix, int Times)> _elsewhere;

    /// <summary>Learns how a document writes places from all that it names.</summary>
    /// <param name="inventory">The inventory of its session.</param>
    /// <param name="folder">Absolute path of the folder that it stands in.</param>
    /// <param name="meanings">What it names.</param>
    public WrittenPlaces(SessionInventory inventory, string folder, IReadOnlyList<NameMeaning> meanings)
    {
        (_inventory, _folder) = (inventory, folder);
        _withFolder = meanings.Where(m => WrittenPath.Of(m.Written) is { Root: not PathRoot.Bare }).Select(m => m.Path).ToHashSet(StringComparer.Ordinal);
        _elsewhere = [.. meanings.Select(SessionFolderIn).OfType<string>().GroupBy(p => p, StringComparer.Ordinal).Select(g => (g.Key, g.Count())).OrderByDescending(g => g.Item2)];
    }

    /// <summary>The name of a file that takes the place of another one; null where nothing tells how that would be written.</summary>
    /// <param name="meaning">The name as it is, and what it means.</param>
    /// <param name="place">Absolute path of the file.</param>
    public string? Of(NameMeaning meaning, string place)
    {
        var written = WrittenPath.Of(meaning.Written);
        switch (written?.Root)
        {
            case PathRoot.Bare:
                // A folder may stand anywhere beside a bare name: only in the same one nothing else has to change.
                return Path.GetDirectoryName(place) == Path.GetDirectoryName(meaning.Path) || _withFolder.Contains(meaning.Path) ? Path.GetFileName(place) : null;
            case PathRoot.Relative:
                return Relative(meaning, written, place);
            case PathRoot.Absolute when Path.GetFullPath(written.Plain) == meaning.Path && IsOfThisMachine(written) && meaning.Written.EndsWith(written.Plain, StringComparison.Ordinal):
                return meaning.Written[..^written.Plain.Length] + place;
            case PathRoot.Absolute or PathRoot.OtherMachine:
                return Elsewhere(meaning.Written, place);
            default:
                return null;
        }
    }

    // Drives and folders go; where they stood on this machine stays ("/home/tove", "/media/tove"), and another one has other such places.
    private static bool IsOfThisMachine(WrittenPath path) => Directory.Exists("/" + string.Join('/', path.Folders.Take(2)));

    private string? Relative(NameMeaning meaning, WrittenPath written, string place)
    {
        string[] bases = [_folder, _inventory.Folder, Path.Combine(_inventory.Folder, _inventory.Layout.Audio)];
        var from = bases.FirstOrDefault(b => Path.GetFullPath(written.Plain, b) == meaning.Path);
        // Out of the session folder a relative name holds no longer than drives stand as they do now.
        return from is null || !ShelfPath.IsWithin(place, _inventory.Folder) ? null : Joined(Leading(meaning.Written), SeparatorIn(meaning.Written), Path.GetRelativePath(from, place));
    }

    private string? Elsewhere(string written, string place)
    {
        if (!ShelfPath.IsWithin(place, _inventory.Folder))
        {
            return null;
        }
        var prefix = _elsewhere.FirstOrDefault(p => IsUrl(p.Prefix) == IsUrl(written) && SeparatorIn(p.Prefix) == SeparatorIn(written)).Prefix;
        return prefix is null ? null : Joined(prefix, SeparatorIn(written), Path.GetRelativePath(_inventory.Folder, place));
    }

    /// <summary>What another machine calls the session folder, by a name that leads into it; null for another name.</summary>
    private string? SessionFolderIn(NameMeaning meaning)
    {
        var written = WrittenPath.Of(meaning.Written);
        if (written is not { Root: PathRoot.OtherMachine or PathRoot.Absolute } || !ShelfPath.IsWithin(meaning.Path, _inventory.Folder) || Path.GetFullPath(written.Plain, "/") == meaning.Path)
        {
            return null;
        }
        var inside = Path.GetRelativePath(_inventory.Folder, meaning.Path);
        var plain = meaning.Written.Replace(SeparatorIn(meaning.Written), '/');
        return plain.EndsWith("/" + inside, StringComparison.Ordinal) ? meaning.Written[..^inside.Length] : null;
    }

    private static string? Joined(string before, char separator, string path) =>
        separator != '/' && path.Contains(separator, StringComparison.Ordinal) ? null : before + path.Replace('/', separator);

    private static string Leading(string written) => written switch
    {
        ['.', '/' or '\\', ..] => written[..2],
        [':', ..] => ":",
        _ => "",
    };

    private static bool IsUrl(string written) => written.StartsWith("file:", StringComparison.OrdinalIgnoreCase);

    private static char SeparatorIn(string written)
    {
        if (written.Contains('/', StringComparison.Ordinal))
        {
            return '/';
        }
        return written.Contains('\\', StringComparison.Ordinal) ? '\\' : written.Contains(':', StringComparison.Ordinal) ? ':' : '/';
    }
}
