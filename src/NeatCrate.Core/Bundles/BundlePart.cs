using System.Collections.Immutable;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Printing;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Bundles;

/// <summary>What of a session goes along in a bundle, or does not, by choice. What a current document plays always goes, but for what belongs to one of these.</summary>
public enum BundlePart
{
    /// <summary>Takes and other media in the folder that no document places.</summary>
    Unplaced,

    /// <summary>Sound printed of tracks, where nothing places it.</summary>
    Renders,

    /// <summary>Finished mixes.</summary>
    Bounces,

    /// <summary>Moving pictures, placed or not.</summary>
    Video,

    /// <summary>Older versions of the document, and the media that only they need.</summary>
    OlderVersions,

    /// <summary>Kept saves of the document.</summary>
    KeptSaves,

    /// <summary>What else people keep in the folder: lyrics, charts, notes.</summary>
    OtherFiles,

    /// <summary>What stands on shelves of content that comes with programs.</summary>
    StockContent,

    /// <summary>Each track as one continuous file, for whoever cannot read the document.</summary>
    PrintedTracks,
}

/// <summary>How much of a session one part is.</summary>
/// <param name="Part">The part; null for what always goes.</param>
/// <param name="Files">Number of files.</param>
/// <param name="Bytes">Their bytes.</param>
public sealed record BundlePartWeight(BundlePart? Part, int Files, long Bytes);

/// <summary>Which part a file belongs to.</summary>
public static class BundleParts
{
    /// <summary>What goes along where nobody chose: everything but finished mixes, prints and one's own way back.</summary>
    public static ImmutableHashSet<BundlePart> Standard { get; } =
        [BundlePart.Unplaced, BundlePart.Renders, BundlePart.Video, BundlePart.OlderVersions, BundlePart.OtherFiles, BundlePart.StockContent];

    /// <summary>The part of a media file; null for one that always goes.</summary>
    /// <param name="file">The file.</param>
    /// <param name="shelves">All known shelves.</param>
    public static BundlePart? Of(InventoryFile file, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(file);
        if (MediaFiles.KindOf(file.Name) == MediaKind.Video)
        {
            return BundlePart.Video;
        }
        if (file.Standing != Standing.Inside)
        {
            return shelves.Any(s => s.Id == file.ShelfId && s.Kind == ShelfKind.StockContent) ? BundlePart.StockContent : file.Use == FileUse.OlderOnly ? BundlePart.OlderVersions : null;
        }
        return file.Use switch
        {
            FileUse.Bounce => BundlePart.Bounces,
            FileUse.OlderOnly => BundlePart.OlderVersions,
            FileUse.Listed or FileUse.Stray or FileUse.NamedNowhere => file.RenderOf is null ? BundlePart.Unplaced : BundlePart.Renders,
            _ => null,
        };
    }

    /// <summary>The contents of the session with these parts in.</summary>
    /// <param name="parts">The parts.</param>
    /// <param name="leftOutKinds">Kinds of files outside that stay out.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="packed">What goes in the place of sound that is packed.</param>
    internal static ContentsChoice Choice(
        IReadOnlySet<BundlePart> parts, IReadOnlySet<CopyKind> leftOutKinds, IReadOnlyList<Shelf> shelves, IReadOnlyDictionary<string, ImmutableArray<InsteadOf>> packed) => new()
        {
            Instead = packed,
            // What is set aside is on its way out.
            Stay = [ContentRole.SetAside, .. parts.Contains(BundlePart.KeptSaves) ? Array.Empty<ContentRole>() : [ContentRole.KeptSave], .. parts.Contains(BundlePart.OtherFiles) ? Array.Empty<ContentRole>() : [ContentRole.Other],
            .. parts.Contains(BundlePart.Bounces) ? Array.Empty<ContentRole>() : [ContentRole.Bounce]],
            InsideStays = f => Of(f, shelves) is { } part && !parts.Contains(part),
            Outside = true,
            OutsideStays = f => leftOutKinds.Contains(CopyKinds.Of(f)) || (Of(f, shelves) is { } part && !parts.Contains(part)),
            Documents = Documents(parts),
            Portable = true,
            Repoints = true,
        };

    /// <summary>Which documents go along; null for all.</summary>
    internal static Predicate<InventoryDocument>? Documents(IReadOnlySet<BundlePart> parts) => parts.Contains(BundlePart.OlderVersions) ? null : d => d.Current || d.CountsNow;

    /// <summary>How much each part is, the choice being free. The folder is looked through.</summary>
    /// <param name="inventory">The session.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="leftOutKinds">Kinds of files outside that stay out.</param>
    /// <param name="print">Its tracks as they would be printed; null where that cannot be.</param>
    /// <param name="printing">How they would be.</param>
    /// <param name="sizes">How large sound gets that is packed; null where it goes as it is.</param>
    /// <param name="chosen">The parts that are chosen, by which it is decided whether sound can be packed.</param>
    /// <param name="cancel">Stops the looking.</param>
    /// <exception cref="FaultException">A document that is to be re-pointed cannot be read.</exception>
    public static ImmutableArray<BundlePartWeight> Weigh(
        SessionInventory inventory, IReadOnlyList<Shelf> shelves, IReadOnlySet<CopyKind> leftOutKinds, SessionPrint? print, PrintChoice printing, PackedSizes? sizes = null,
        IReadOnlySet<BundlePart>? chosen = null, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        var files = inventory.Files.ToDictionary(f => f.Path, StringComparer.Ordinal);
        var older = inventory.Documents.Where(d => !d.Current && !d.CountsNow).Select(d => d.Path).ToHashSet(StringComparer.Ordinal);
        BundlePart? PartOf(ContentEntry entry) => entry.Role switch
        {
            ContentRole.KeptSave => BundlePart.KeptSaves,
            ContentRole.Other => BundlePart.OtherFiles,
            ContentRole.Document => older.Contains(entry.Here!) ? BundlePart.OlderVersions : null,
            _ => entry.Here is { } here && files.TryGetValue(here, out var file) ? Of(file, shelves) : null,
        };
        var all = ContentsReader.Read(inventory, shelves, Choice(
            Enum.GetValues<BundlePart>().ToImmutableHashSet(), leftOutKinds, shelves, LosslessPacking.Of(inventory, sizes, Documents(chosen ?? Standard), cancel)));
        var prints = PrintedFolder.Of(print, all.Folder, printing);
        return
        [
            .. all.Entries.GroupBy(PartOf).Select(g => new BundlePartWeight(g.Key, g.Count(), g.Sum(e => e.Bytes))).OrderBy(w => w.Part is null ? -1 : (int)w.Part),
            .. print is not null && print.Printed.Any() ? new[] { new BundlePartWeight(BundlePart.PrintedTracks, prints.Count, prints.Sum(p => p.Bytes)) } : [],
        ];
    }
}
