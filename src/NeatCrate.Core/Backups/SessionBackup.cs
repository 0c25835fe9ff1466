using System.Collections.Immutable;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Backups;

/// <summary>Says what of a session goes into a full backup: all files of its folder, and outside media by choice.</summary>
public static class SessionBackup
{
    /// <summary>What is to be backed up.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="emptyFolders">Absolute paths of the folders in it that hold nothing.</param>
    /// <param name="withOutside">Whether media that stand outside go along, so that the backup is complete by itself.</param>
    /// <param name="now">The time.</param>
    public static BackupRequest Request(Guid sessionId, SessionInventory inventory, IEnumerable<string> emptyFolders, bool withOutside, DateTimeOffset now)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(emptyFolders);
        var unreadable = new List<string>();
        var sources = SessionFolder.Files(inventory.Folder, fault => unreadable.Add(Path.GetRelativePath(inventory.Folder, fault.Path!)))
            .Where(f => !IsLeftHome(f.Name) && !IsCache(f.Path, inventory))
            .Select(f => new BackupSource(f.Path, Path.GetRelativePath(inventory.Folder, f.Path)));
        var outside = withOutside ? Outside(inventory) : [];
        return new BackupRequest(
            sessionId,
            Path.GetFileName(inventory.Folder),
            [.. sources.Concat(outside).OrderBy(s => s.Path, StringComparer.Ordinal)],
            [.. emptyFolders.Where(f => !IsCache(f, inventory)).Select(f => Path.GetRelativePath(inventory.Folder, f)).Order(StringComparer.Ordinal)],
            now.UtcDateTime,
            now.LocalDateTime)
        {
            Document = inventory.Current is { } current ? Path.GetRelativePath(inventory.Folder, current.Path) : null,
            Unreadable = [.. unreadable],
        };
    }

    /// <summary>What systems and our own unfinished work leave behind; it comes again by itself, or is of no use.</summary>
    private static bool IsLeftHome(string name) => Litter.IsFile(name)
        || (name.StartsWith(".neat-crate-", StringComparison.Ordinal) && Path.GetExtension(name) is ".part" or ".open" or ".new");

    private static bool IsCache(string path, SessionInventory inventory) => ShelfPath.IsWithin(path, Path.Combine(inventory.Folder, inventory.Layout.WaveformCache));

    private static List<BackupSource> Outside(SessionInventory inventory)
    {
        var names = new FreeNames([]);
        // In the order of their paths, so that each has the same name in the next backup.
        return [.. inventory.Standing(Standing.Outside).OrderBy(f => f.Path, StringComparer.Ordinal)
            .Select(f => new BackupSource(f.Path, $"{BackupManifest.OutsideFolder}/{names.ClaimAsItIs(f.Name)}", IsOutside: true))];
    }
}
