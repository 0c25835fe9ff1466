using System.Globalization;
using System.IO.Hashing;
using System.Text;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Listing;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.App.Purge;

/// <summary>A group of what could go.</summary>
/// <param name="Group">Which.</param>
/// <param name="Files">How many files, or folders, are in it.</param>
/// <param name="Bytes">Their bytes.</param>
/// <param name="OnlyByName">How many of them go only where somebody names them.</param>
/// <param name="OnlyByNameBytes">Their bytes.</param>
public sealed record PurgeGroupView(PurgeGroup Group, int Files, long Bytes, int OnlyByName, long OnlyByNameBytes);

/// <summary>What could go out of a session, and what is held.</summary>
/// <param name="Revision">Another text where anything is otherwise.</param>
/// <param name="Sentence">All of it in a sentence.</param>
/// <param name="Refusal">Why nothing is set aside here; null where something can be.</param>
/// <param name="Groups">The groups in their order; those that hold nothing are left out.</param>
/// <param name="HeldFiles">How many files are set aside.</param>
/// <param name="HeldFolders">How many empty folders are set aside.</param>
/// <param name="HeldBytes">Bytes that are set aside.</param>
/// <param name="ToReadFiles">How many files may hold the same sound as another, and were not read yet.</param>
/// <param name="ToReadBytes">Their bytes.</param>
/// <param name="Weights">The session's media by use, with what else stands in its folder.</param>
public sealed record PurgeInfoView(
    string Revision,
    string Sentence,
    string? Refusal,
    IReadOnlyList<PurgeGroupView> Groups,
    int HeldFiles,
    int HeldFolders,
    long HeldBytes,
    int ToReadFiles,
    long ToReadBytes,
    ScaleView Weights);

/// <summary>What a session's folder weighs.</summary>
/// <param name="Weights">Its media, by where they stand and what they are used for.</param>
/// <param name="OtherBytes">Bytes of other files in the folder.</param>
/// <param name="Total">All bytes in the folder.</param>
public sealed record ScaleView(IReadOnlyList<WeightView> Weights, long OtherBytes, long Total);

/// <summary>A reason why a file counts as used or not.</summary>
/// <param name="Protects">True where it may not be set aside for it.</param>
/// <param name="Text">The reason in words.</param>
public sealed record PurgeReasonView(UseReason Why, bool Protects, string Text);

/// <summary>A file of a session, or an empty folder, that could go, or that says why not.</summary>
/// <param name="File">The file as lists show it.</param>
/// <param name="Group">The group in which it could go; null where it may not.</param>
/// <param name="Reasons">Why it counts as used, or not.</param>
/// <param name="IsOnlyByName">True where it goes only where somebody names it.</param>
/// <param name="KeptBeside">Name of the take on its track that is placed or kept.</param>
/// <param name="SameAs">Path, from the session folder, of the file that holds the same sound and stays.</param>
/// <param name="Part">By what it stands together with others of its group; see the list's runs.</param>
/// <param name="AlsoIn">Names of other sessions that hold the same sound, each for itself: that is told, and nothing is merged.</param>
public sealed record PurgeFileView(
    FileView File, PurgeGroup? Group, string? Part, IReadOnlyList<PurgeReasonView> Reasons, bool IsOnlyByName, string? KeptBeside, string? SameAs, IReadOnlyList<string> AlsoIn);

/// <summary>A part of a list of what could go.</summary>
/// <param name="Total">How many files the list has.</param>
/// <param name="Runs">What stands together in it, where it is sorted by group.</param>
/// <param name="Files">The files of the part.</param>
public sealed record PurgeFilesView(int Total, IReadOnlyList<PurgeRun> Runs, IReadOnlyList<PurgeFileView> Files);

/// <summary>What choices would do.</summary>
/// <param name="Plan">The plan.</param>
/// <param name="Files">How many files are chosen.</param>
/// <param name="Bytes">Their bytes.</param>
/// <param name="After">What the session weighs then.</param>
public sealed record PurgePlanView(PlanView Plan, int Files, long Bytes, ScaleView After);

/// <summary>A file or an empty folder that is set aside.</summary>
/// <param name="File">The file as lists show it.</param>
/// <param name="Held">Its path from the holding place, by which it is named.</param>
/// <param name="From">The path from the session folder that it goes back to.</param>
/// <param name="SetAside">When it was set aside.</param>
/// <param name="Why">The group that it was set aside with; null where that is not known.</param>
public sealed record HeldFileView(FileView File, string Held, string From, DateTimeOffset SetAside, PurgeGroup? Why);

/// <summary>A part of what is set aside.</summary>
/// <param name="Total">How many there are.</param>
/// <param name="Files">Those of the part.</param>
public sealed record HeldFilesView(int Total, IReadOnlyList<HeldFileView> Files);

/// <summary>Makes views of what could go.</summary>
public static class PurgeViewMaker
{
    /// <summary>What could go out of a session, and what is held.</summary>
    public static PurgeInfoView View(JudgedSession judged)
    {
        ArgumentNullException.ThrowIfNull(judged);
        var inventory = judged.World.Inventory;
        List<PurgeGroupView> groups =
        [
            .. judged.Items.Where(i => i.Group is not null).GroupBy(i => i.Group!.Value).OrderBy(g => g.Key)
                .Select(g => new PurgeGroupView(g.Key, g.Count(), g.Sum(i => i.Bytes), g.Count(i => i.IsOnlyByName), g.Where(i => i.IsOnlyByName).Sum(i => i.Bytes))),
        ];
        var held = inventory.Held.Files;
        var isByNames = inventory is { IsByNames: true, Named.Tells: true };
        var byHand = groups.Find(g => g.Group == PurgeGroup.NamedNowhere)?.Files ?? 0;
        if (inventory.UnknownFolders.Contains(inventory.Folder))
        {
            // What else could go elsewhere stays beside what is not known.
            groups.RemoveAll(g => g.Group != PurgeGroup.NamedNowhere);
        }
        var refusal = byHand > 0 && inventory.HeldProblem is null ? null : isByNames
            ? new Fault(FaultCode.NamedNowhereIsNotUnused)
            : inventory.UnknownFolders.Contains(inventory.Folder) ? new Fault(FaultCode.UseCannotBeKnown) { Names = inventory.UnknownFor } : inventory.HeldProblem;
        return new PurgeInfoView(
            Fingerprint(judged),
            (byHand > 0 ? ByHand(byHand) : isByNames ? "" : Sentence(groups, judged)) + Unlisted(inventory),
            refusal is null ? null : Words.Sentences.Of(refusal),
            groups,
            held.Count(f => !f.IsFolder),
            held.Count(f => f.IsFolder),
            HeldBytes(judged),
            judged.ToRead.Count,
            judged.ToRead.Sum(f => f.Bytes),
            Scale(judged, []));
    }

    /// <summary>What the session's folder weighs once files are set aside.</summary>
    /// <param name="judged">The session.</param>
    /// <param name="going">What is set aside.</param>
    public static ScaleView Scale(JudgedSession judged, IReadOnlyCollection<PurgeItem> going)
    {
        ArgumentNullException.ThrowIfNull(judged);
        ArgumentNullException.ThrowIfNull(going);
        var inside = judged.Items.Where(i => i.File is not null).ToDictionary(i => i.Path, i => i.File!.Use, StringComparer.Ordinal);
        foreach (var item in going.Where(g => g.File is not null))
        {
            inside[item.Path] = FileUse.SetAside;
        }
        var moved = going.Where(g => g.File is null).Sum(g => g.Bytes);
        var heldOthers = HeldBytes(judged) - judged.Items.Where(i => i.File?.Use == FileUse.SetAside).Sum(i => i.Bytes);
        var others = judged.World.Inventory.Others.Bytes - heldOthers;
        List<WeightView> weights =
        [
            .. judged.Items.Where(i => i.File is not null).GroupBy(i => inside[i.Path]).OrderBy(g => g.Key)
                .Select(g => new WeightView(Standing.Inside, g.Key, g.Count(), g.Sum(i => i.Bytes), 0)),
        ];
        if (moved + heldOthers > 0)
        {
            var at = weights.FindIndex(w => w.Use == FileUse.SetAside);
            var count = going.Count(g => g.File is null && !g.IsFolder);
            if (at < 0)
            {
                weights.Add(new WeightView(Standing.Inside, FileUse.SetAside, count, moved + heldOthers, 0));
            }
            else
            {
                weights[at] = weights[at] with { Files = weights[at].Files + count, Bytes = weights[at].Bytes + moved + heldOthers };
            }
        }
        return new ScaleView(weights, others - moved, weights.Sum(w => w.Bytes) + others - moved);
    }

    /// <summary>One of the judged files.</summary>
    public static PurgeFileView View(PurgeItem item, string? part, IReadOnlyList<string> alsoIn, JudgedSession judged, SessionListing listing, OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(item);
        ArgumentNullException.ThrowIfNull(judged);
        var folder = judged.World.Inventory.Folder;
        return new PurgeFileView(
            File(item.Path, item.Bytes, item.IsFolder ? null : item.ModifiedUtc, folder, listing, outside),
            item.Group,
            part,
            [.. item.Reasons.Select(r => new PurgeReasonView(r.Why, r.Protects, PurgeWords.Of(r)))],
            item.IsOnlyByName,
            item.KeptBeside,
            item.SameAs is { } same ? Path.GetRelativePath(folder, same) : null,
            alsoIn);
    }

    /// <summary>One that is set aside.</summary>
    public static HeldFileView View(HeldFile held, JudgedSession judged, SessionListing listing, OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(held);
        ArgumentNullException.ThrowIfNull(judged);
        var folder = judged.World.Inventory.Folder;
        var path = Path.Combine(HoldingPlace.FolderIn(folder), held.Held);
        var facts = FileFacts.Of(path);
        return new HeldFileView(
            File(path, held.IsFolder ? 0 : facts?.Bytes ?? 0, held.IsFolder ? null : facts?.ModifiedUtc, folder, listing, outside), held.Held, held.Path, held.SetAside,
            Enum.TryParse<PurgeGroup>(held.Why, out var why) && Enum.IsDefined(why) ? why : null);
    }

    /// <summary>The file as lists show it; what is no media is shown by its name and size alone.</summary>
    private static FileView File(string path, long bytes, DateTime? modified, string folder, SessionListing listing, OutsideFiles outside) =>
        listing.Find(path, outside) is { } listed
            ? FileViews.File(listed, outside)
            : new FileView(
                InventoryFile.IdOf(path), Path.GetFileName(path), Path.GetRelativePath(folder, path), Standing.Inside, FileUse.Stray, 0, 0, null, true, bytes, modified, null, null, null, null, null, null,
                [], null, [], null, null, false, false);

    private static long HeldBytes(JudgedSession judged)
    {
        var holding = HoldingPlace.FolderIn(judged.World.Inventory.Folder);
        var held = judged.World.Inventory.Held.Files.Where(f => !f.IsFolder).Select(f => Path.Combine(holding, f.Held)).ToHashSet(StringComparer.Ordinal);
        return judged.Items.Where(i => held.Contains(i.Path)).Sum(i => i.Bytes) + judged.World.Entries.Files.Where(f => held.Contains(f.Path)).Sum(f => f.Facts.Bytes);
    }

    /// <summary>Waveform caches are made while somebody looks: that makes no plan one of before.</summary>
    private static string Fingerprint(JudgedSession judged)
    {
        var hash = new XxHash64();
        foreach (var item in judged.Items.Where(i => i.Group != PurgeGroup.Caches))
        {
            hash.Append(Encoding.UTF8.GetBytes($"{item.Path}\n{item.Bytes} {item.ModifiedUtc.Ticks} {item.Group}\n{string.Join('\n', item.Reasons.Select(PurgeWords.Of))}\n"));
        }
        hash.Append(Encoding.UTF8.GetBytes(string.Join('\n', judged.World.Inventory.Held.Files.Select(f => f.Held))));
        return hash.GetCurrentHashAsUInt64().ToString("x16", CultureInfo.InvariantCulture);
    }

    /// <summary>What stands in the holding place and on no list: once its list is gone, nothing else says that it was set aside.</summary>
    private static string ByHand(int files) =>
        $"Nothing is proposed here: a file that is named nowhere may be used all the same. Nearly all others are named, so {(files == 1 ? "it" : $"each of the {ByteText.Number(files)}")} can be set aside by hand{(files == 1 ? "" : ", one at a time")}.";

    private static string Unlisted(SessionInventory inventory)
    {
        var place = HoldingPlace.FolderIn(inventory.Folder);
        var files = inventory.HeldProblem is null ? inventory.Standing(Standing.Inside).Count(f => f.Use != FileUse.SetAside && ShelfPath.IsWithin(f.Path, place)) : 0;
        return files == 0
            ? ""
            : $" {ByteText.Count(files, "file")} in '{Path.GetFileName(place)}' {(files == 1 ? "is" : "are")} on no list of what is set aside, and {(files == 1 ? "counts as a file" : "count as files")} of the session.";
    }

    private static string Sentence(List<PurgeGroupView> all, JudgedSession judged)
    {
        // What nobody hears is told in its row.
        var groups = all.Where(g => g.Group is not (PurgeGroup.Caches or PurgeGroup.Litter or PurgeGroup.EmptyFolders)).ToList();
        var (files, bytes) = (groups.Sum(g => g.Files - g.OnlyByName), groups.Sum(g => g.Bytes - g.OnlyByNameBytes));
        var named = groups.Sum(g => g.OnlyByName);
        // The session's own sentence counts these too, as placed nowhere: without a word the two figures would only differ.
        var elsewhere = judged.Items.Count(i => i.Group is null && i.File is { Standing: Standing.Inside, Use: FileUse.Listed or FileUse.Stray });
        string[] parts =
        [
            .. named == 0 ? Array.Empty<string>() : [$"{ByteText.Count(named, "keeper or render", "keepers or renders")} must be ticked one by one"],
            .. elsewhere == 0 ? Array.Empty<string>() : [$"{ByteText.Number(elsewhere)} more {(elsewhere == 1 ? "is" : "are")} used elsewhere"],
        ];
        var rest = parts.Length == 0 ? "" : $" {string.Join("; ", parts)}.";
        return files == 0 ? $"Nothing left to remove.{rest}" : $"{ByteText.Count(files, "file")}, {ByteText.Of(bytes)}, could go: nothing that counts uses {(files == 1 ? "it" : "them")}.{rest}";
    }
}
