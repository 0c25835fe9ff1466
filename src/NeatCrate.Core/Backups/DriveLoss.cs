using NeatCrate.Core.Inventory;

namespace NeatCrate.Core.Backups;

/// <summary>A session with the judged places of its files, as far as the loss of a drive goes.</summary>
/// <param name="Folder">Absolute path of its folder.</param>
/// <param name="Drive">The drive on which it stands.</param>
/// <param name="Files">Its media files, and where each is.</param>
public sealed record SessionOnDrive(string Folder, string Drive, IReadOnlyList<SafeFile> Files);

/// <summary>What becomes of a file when a drive dies.</summary>
public enum LossOfFile
{
    /// <summary>It stands there, or missing as it is was kept there, and nowhere else: it is lost for good.</summary>
    Lost,

    /// <summary>It stands there, and a vault on another drive holds it.</summary>
    ComesBack,

    /// <summary>It stands elsewhere, and its only copies were there: from then on it is in one place.</summary>
    OnlyOnceThen,
}

/// <summary>A file that the loss of a drive concerns.</summary>
/// <param name="Judged">The file.</param>
/// <param name="Loss">What becomes of it.</param>
/// <param name="GoesSilent">True where a session that stands on another drive plays it from there.</param>
public sealed record LostWithDrive(SafeFile Judged, LossOfFile Loss, bool GoesSilent);

/// <summary>What the loss of a drive means for one session.</summary>
/// <param name="Session">The session.</param>
/// <param name="Files">The files that it concerns; the others stay as they are.</param>
public sealed record SessionLoss(SessionOnDrive Session, IReadOnlyList<LostWithDrive> Files)
{
    /// <summary>Files with such a fate, and their bytes.</summary>
    public (int Files, long Bytes) Of(LossOfFile loss) => DriveLoss.Sum(Files.Where(f => f.Loss == loss));

    /// <summary>Files that go silent, and their bytes.</summary>
    public (int Files, long Bytes) Silent => DriveLoss.Sum(Files.Where(f => f.GoesSilent));
}

/// <summary>What would be lost, and what would go silent, were a drive to die.</summary>
public static class DriveLoss
{
    /// <summary>Judges every session.</summary>
    /// <param name="sessions">All known sessions.</param>
    /// <param name="drive">The drive, by the name by which <see cref="SafeFile"/> tells drives apart.</param>
    /// <returns>The sessions that it concerns, those that lose most first.</returns>
    public static IReadOnlyList<SessionLoss> Of(IReadOnlyCollection<SessionOnDrive> sessions, string drive)
    {
        ArgumentNullException.ThrowIfNull(sessions);
        ArgumentNullException.ThrowIfNull(drive);
        // What the backup of one session holds is not lost for another one that plays it too.
        var elsewhere = sessions.SelectMany(s => s.Files).Where(f => f.Vaults.Any(v => v.Drive != drive)).Select(f => f.File.Path).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. sessions.Select(s => new SessionLoss(s, [.. s.Files.Select(f => Of(f, s.Drive, drive, elsewhere)).OfType<LostWithDrive>()]))
                .Where(l => l.Files.Count > 0)
                .OrderByDescending(l => l.Of(LossOfFile.Lost).Files).ThenByDescending(l => l.Silent.Files).ThenByDescending(l => l.Files.Count).ThenBy(l => l.Session.Folder, StringComparer.Ordinal),
        ];
    }

    /// <summary>Files and bytes of all sessions together, each file once, however many play it.</summary>
    /// <param name="losses">The sessions.</param>
    /// <param name="which">Which files.</param>
    public static (int Files, long Bytes) Sum(IEnumerable<SessionLoss> losses, Func<LostWithDrive, bool> which) =>
        Sum(losses.SelectMany(l => l.Files).Where(which).DistinctBy(f => f.Judged.File.Path, StringComparer.Ordinal));

    internal static (int Files, long Bytes) Sum(IEnumerable<LostWithDrive> files) =>
        files.Aggregate((Files: 0, Bytes: 0L), (sum, f) => (sum.Files + 1, sum.Bytes + (f.Judged.File.Known?.Bytes ?? 0)));

    private static LostWithDrive? Of(SafeFile file, string home, string drive, HashSet<string> elsewhere)
    {
        var (isElsewhere, isIn) = (elsewhere.Contains(file.File.Path), file.Vaults.Any(v => v.Drive == drive));
        if (file.File.Standing == Standing.Missing)
        {
            // It stands nowhere; as long as a vault holds it, it can come back.
            return isIn && !isElsewhere ? new LostWithDrive(file, LossOfFile.Lost, false) : null;
        }
        if (file.Drive == drive)
        {
            return new LostWithDrive(file, isElsewhere ? LossOfFile.ComesBack : LossOfFile.Lost, home != drive && file.File.IsNeededNow);
        }
        return isIn && !isElsewhere ? new LostWithDrive(file, LossOfFile.OnlyOnceThen, false) : null;
    }
}
