using System.Collections.Immutable;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Backups;

/// <summary>Says what of a session goes into a full backup: all files of its folder, and outside media by choice.</summary>
public static class SessionBackup
{
    /// <summary>What is to be backed up.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="withOutside">Whether media that stand outside go along, so that the backup is complete by itself.</param>
    /// <param name="now">The time.</param>
    /// <param name="last">The last backup of the session in the vault: what is away now is taken over from it; null for none.</param>
    public static BackupRequest Request(Guid sessionId, SessionInventory inventory, IReadOnlyList<Shelf> shelves, bool withOutside, DateTimeOffset now, BackupManifest? last = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        var contents = ContentsReader.Read(inventory, shelves, new ContentsChoice { Outside = withOutside, OutsideFolder = BackupManifest.OutsideFolder });
        var before = last?.Entries.Where(e => e.Outside is not null).DistinctBy(e => e.Outside).ToDictionary(e => e.Outside!, StringComparer.Ordinal) ?? [];
        // What only older versions of the document miss inside is told with these; here it would be told with every backup.
        var couldNotGo = contents.CouldNotGo.Where(l => l.Place is not null || !(l.IsOlderOnly || l.Why is WhyLeftOut.Missing or WhyLeftOut.Away && Path.IsPathRooted(l.Path))).ToList();
        return new BackupRequest(
            sessionId,
            contents.Folder,
            [.. contents.Entries.Select(e => new BackupSource(e.Here!, e.Path, e.Outside is not null))],
            [.. contents.Folders.Select(f => new BackupFolder(f.Path, f.Mode, f.Time, f.IsEmpty))],
            now.UtcDateTime,
            now.LocalDateTime)
        {
            Document = contents.Document,
            Stood = contents.Stood,
            Pointers = [.. contents.Pointers!.Value.Select(p => new BackupPointers(p.Document, [.. p.Pointers.Select(r => new BackupPointer(r.Url, r.Path))]))],
            LeftOut = [.. couldNotGo.Select(l => new BackupLeftOut(l.Place ?? l.Path, Word(l.Why))
            {
                TakenOver = l.Place is { } place && before.TryGetValue(l.Here!, out var entry) ? entry with { Path = place } : null,
            })],
        };
    }

    /// <summary>The reason as a manifest has it.</summary>
    private static string Word(WhyLeftOut why) => why switch
    {
        WhyLeftOut.Missing => BackupLeftOut.Missing,
        WhyLeftOut.Away => BackupLeftOut.Away,
        WhyLeftOut.LinkedFolder => BackupLeftOut.LinkedFolder,
        WhyLeftOut.LinkToNothing => BackupLeftOut.LinkToNothing,
        WhyLeftOut.NotAFile => BackupLeftOut.NotAFile,
        WhyLeftOut.NameNotText => BackupLeftOut.NameNotText,
        _ => BackupLeftOut.Unreadable,
    };
}
