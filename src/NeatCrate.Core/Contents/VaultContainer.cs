using System.Collections.Immutable;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Contents;

/// <summary>A full backup in a vault.</summary>
/// <param name="manifest">The backup.</param>
/// <param name="store">The vault's folder, by the name that origins give it.</param>
public sealed class VaultContainer(BackupManifest manifest, string store) : IContentContainer
{
    /// <inheritdoc/>
    public string Name => $"the backup of {manifest.Header.Made.ToLocalTime():yyyy-MM-dd HH:mm}";

    /// <inheritdoc/>
    public SessionContents Read() => new()
    {
        Folder = manifest.Header.Folder,
        Stood = manifest.Header.Stood,
        Document = manifest.Header.Document,
        Entries = [.. manifest.Entries.Select(Entry)],
        Folders = [.. manifest.Folders.Select(f => new ContentFolder(f.Path, f.Mode, f.Time, f.IsEmpty))],
        LeftOut = [.. manifest.Header.LeftOut.Select((path, n) => new LeftOutContent(path, ContentRole.Other, WhyOf(n < manifest.Header.LeftOutWhy.Length ? manifest.Header.LeftOutWhy[n] : "")))],
        Pointers = manifest.Header.Stood is null ? null : [.. manifest.Pointers.Select(p => new DocumentPointers(p.Document, [.. p.Pointers.Select(r => new ResolvedPointer(r.Url, r.Path))]))],
    };

    /// <summary>A file of the backup.</summary>
    public ContentEntry Entry(BackupEntry entry)
    {
        ArgumentNullException.ThrowIfNull(entry);
        var marks = new KeptMarks(entry.ModifiedUtc, entry.ModifiedRest, entry.Mode);
        return new ContentEntry(entry.Path, RoleOf(entry), new VaultContent(store, VaultNames.Of(entry.Hash), entry.Bytes, entry.Hash.ToString(), entry.Path, marks), entry.Bytes, marks)
        {
            Outside = entry.Outside,
            Sha512 = entry.Hash,
        };
    }

    private static ContentRole RoleOf(BackupEntry entry) =>
        entry.Outside is not null ? ContentRole.Media
        : ShelfPath.IsWithin(entry.Path, SessionLayout.DocumentBackups) ? ContentRole.KeptSave
        : SessionFolder.IsDocument(Path.GetFileName(entry.Path)) ? ContentRole.Document
        : Media.MediaFiles.KindOf(entry.Path) is not null ? ContentRole.Media
        : ContentRole.Other;

    private static WhyLeftOut WhyOf(string word) => word switch
    {
        BackupLeftOut.Missing => WhyLeftOut.Missing,
        BackupLeftOut.Away => WhyLeftOut.Away,
        BackupLeftOut.LinkedFolder => WhyLeftOut.LinkedFolder,
        BackupLeftOut.LinkToNothing => WhyLeftOut.LinkToNothing,
        BackupLeftOut.NotAFile => WhyLeftOut.NotAFile,
        BackupLeftOut.NameNotText => WhyLeftOut.NameNotText,
        _ => WhyLeftOut.CannotBeRead,
    };
}
