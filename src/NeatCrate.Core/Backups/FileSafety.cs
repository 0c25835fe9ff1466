using System.Collections.Immutable;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Backups;

/// <summary>A vault as far as the safety of files goes.</summary>
/// <param name="Shelf">The shelf that it is on.</param>
/// <param name="Name">Name of the shelf.</param>
/// <param name="IsAwayFromHouse">True where it is kept away from the house.</param>
/// <param name="Entries">By path, what its backups of the session hold of a file.</param>
/// <param name="Outside">The same of what stands outside, by absolute path.</param>
/// <param name="Damaged">Content of which a check found that it is not whole: it holds nothing safe.</param>
public sealed record VaultHolding(
    Guid Shelf, string Name, bool IsAwayFromHouse, IReadOnlyDictionary<string, ImmutableArray<BackupEntry>> Entries, IReadOnlyDictionary<string, ImmutableArray<BackupEntry>> Outside, IReadOnlySet<ContentHash> Damaged)
{
    /// <summary>The drive that it is on, as <see cref="ShelvesOnDrives"/> tells drives apart.</summary>
    public string Drive { get; init; } = Shelf.ToString();

    /// <summary>Takes in what the backups of a session in one vault hold.</summary>
    public static VaultHolding Of(Guid shelf, string name, bool isAwayFromHouse, IEnumerable<BackupManifest> backups, IReadOnlySet<ContentHash> damaged)
    {
        ArgumentNullException.ThrowIfNull(backups);
        var (inside, outside) = (new Dictionary<string, HashSet<BackupEntry>>(StringComparer.Ordinal), new Dictionary<string, HashSet<BackupEntry>>(StringComparer.Ordinal));
        foreach (var entry in backups.SelectMany(b => b.Entries))
        {
            var (into, key) = entry.Outside is { } path ? (outside, path) : (inside, entry.Path);
            if (!into.TryGetValue(key, out var entries))
            {
                into[key] = entries = [];
            }
            entries.Add(entry);
        }
        return new VaultHolding(shelf, name, isAwayFromHouse, Frozen(inside), Frozen(outside), damaged);

        static Dictionary<string, ImmutableArray<BackupEntry>> Frozen(Dictionary<string, HashSet<BackupEntry>> entries) => entries.ToDictionary(e => e.Key, e => e.Value.ToImmutableArray(), StringComparer.Ordinal);
    }

    /// <summary>True where it holds a file as it is now, told by path, size and time of the last change; verified when it was written, and not found damaged since.</summary>
    internal bool Holds(InventoryFile file, string sessionFolder)
    {
        var held = ShelfPath.IsWithin(file.Path, sessionFolder) ? Entries.GetValueOrDefault(Path.GetRelativePath(sessionFolder, file.Path)) : Outside.GetValueOrDefault(file.Path);
        // Of one that is not there, any is better than none.
        return !held.IsDefault && held.Any(e => (!SafeFile.IsThere(file) || (e.Bytes == file.Bytes && e.ModifiedUtc == file.ModifiedUtc)) && !Damaged.Contains(e.Hash));
    }
}

/// <summary>How safe a file is.</summary>
/// <param name="File">The file.</param>
/// <param name="Drive">The drive on which it stands.</param>
/// <param name="Vaults">The vaults that hold it as it is.</param>
public sealed record SafeFile(InventoryFile File, string Drive, ImmutableArray<VaultHolding> Vaults)
{
    /// <summary>In how many places it is: on the drive where it stands, and on that of each vault. Two copies on one drive are one place: what takes one of them takes both.</summary>
    public int Places => Vaults.Select(v => v.Drive).Concat(IsThere(File) ? [Drive] : []).Distinct(StringComparer.Ordinal).Count();

    /// <summary>How many copies of it there are, the file itself among them.</summary>
    public int Copies => (IsThere(File) ? 1 : 0) + Vaults.Length;

    /// <summary>True for a file that can be reached where it stands.</summary>
    internal static bool IsThere(InventoryFile file) => file.Standing is Standing.Inside or Standing.Outside;

    /// <summary>True where one of them is away from the house.</summary>
    public bool IsAwayFromHouse => Vaults.Any(v => v.IsAwayFromHouse);
}

/// <summary>How safe the files of a session are, in numbers.</summary>
/// <param name="Wanted">In so many places each is wanted.</param>
/// <param name="OnlyHere">How many are where they stand and nowhere else, with their bytes.</param>
/// <param name="OnOneDrive">How many have copies, all of which are on the drive on which they stand, with their bytes.</param>
/// <param name="TooFew">How many are in fewer places than wanted, with their bytes; those only here among them.</param>
/// <param name="Safe">How many are in as many as wanted, with their bytes.</param>
/// <param name="AwayFromHouse">How many of all are away from the house as well.</param>
/// <param name="Lost">How many are missing, and in no vault: they count in no other figure, and those that older versions alone play in none.</param>
public sealed record SafetyTally(int Wanted, (int Files, long Bytes) OnlyHere, (int Files, long Bytes) OnOneDrive, (int Files, long Bytes) TooFew, (int Files, long Bytes) Safe, int AwayFromHouse, int Lost);

/// <summary>Counts the verified places that hold each media file of a session (common practice: three copies, on two kinds of drive, one away from the house).</summary>
public static class FileSafety
{
    /// <summary>Judges each media file; of one that is missing or away, the vaults that hold it.</summary>
    /// <param name="inventory">The session's inventory.</param>
    /// <param name="vaults">What vaults hold.</param>
    /// <param name="driveOf">On which drive a file stands.</param>
    /// <param name="before">What was judged before of the same vaults: files that are as they were then are not judged again.</param>
    public static ImmutableArray<SafeFile> Judge(SessionInventory inventory, IReadOnlyList<VaultHolding> vaults, Func<InventoryFile, string> driveOf, ImmutableArray<SafeFile> before = default)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(driveOf);
        var known = new Dictionary<InventoryFile, SafeFile>(ReferenceEqualityComparer.Instance);
        foreach (var file in before.IsDefault ? [] : before)
        {
            known[file.File] = file;
        }
        return [.. inventory.Files.Select(f => known.GetValueOrDefault(f) ?? new SafeFile(f, driveOf(f), [.. vaults.Where(v => v.Holds(f, inventory.Folder))]))];
    }

    /// <summary>What they come to.</summary>
    public static SafetyTally Tally(IEnumerable<SafeFile> files, int wanted)
    {
        ArgumentNullException.ThrowIfNull(files);
        (int Files, long Bytes) onlyHere = default, oneDrive = default, few = default, safe = default;
        var (away, lost) = (0, 0);
        foreach (var file in files)
        {
            if (!SafeFile.IsThere(file.File))
            {
                lost += file.File is { Standing: Standing.Missing, Use: not FileUse.OlderOnly } && file.Vaults.IsEmpty ? 1 : 0;
                continue;
            }
            var bytes = file.File.Bytes;
            if (file.Copies == 1)
            {
                onlyHere = (onlyHere.Files + 1, onlyHere.Bytes + bytes);
            }
            else if (file.Places == 1)
            {
                oneDrive = (oneDrive.Files + 1, oneDrive.Bytes + bytes);
            }
            if (file.Places < wanted)
            {
                few = (few.Files + 1, few.Bytes + bytes);
            }
            else
            {
                safe = (safe.Files + 1, safe.Bytes + bytes);
            }
            away += file.IsAwayFromHouse ? 1 : 0;
        }
        return new SafetyTally(wanted, onlyHere, oneDrive, few, safe, away, lost);
    }
}
