using System.Globalization;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>What the loss of a drive means for one session.</summary>
/// <param name="StandsOnIt">True where the session itself stands on the drive.</param>
/// <param name="Lost">What is lost for good.</param>
/// <param name="ComesBack">What a vault on another drive holds.</param>
/// <param name="Silent">What it plays from there, where it stands elsewhere itself.</param>
/// <param name="OnlyOnceThen">What stands elsewhere, and has its only copies there.</param>
public sealed record SessionLossView(Guid SessionId, string Name, bool StandsOnIt, AmountView Lost, AmountView ComesBack, AmountView Silent, AmountView OnlyOnceThen);

/// <summary>What would be lost, were the drive of a shelf to die.</summary>
/// <param name="Name">The shelf's name.</param>
/// <param name="Beside">Names of the other shelves on the same drive, which die with it.</param>
/// <param name="Sessions">The sessions that it concerns, those that lose most first; files of several count in each.</param>
/// <param name="NotKnown">Names of sessions that cannot be looked at: of them nothing is known.</param>
public sealed record DriveLossView(
    Guid ShelfId, string Name, ShelfKind Kind, bool Connected, IReadOnlyList<string> Beside, AmountView Lost, AmountView ComesBack, AmountView Silent, AmountView OnlyOnceThen,
    IReadOnlyList<SessionLossView> Sessions, IReadOnlyList<string> NotKnown);

/// <summary>Tells what would be lost with a drive.</summary>
public sealed class DriveLosses(SessionService sessions, SessionFiles files, ShelfService shelves, ShelfDrives shelfDrives, BackupService backups)
{
    private static readonly string[] Columns = ["Session", "File", "Path", "If the drive dies", "Goes silent", "Bytes", "Held in"];

    private sealed record Looked(Shelf Shelf, DrivesNow Drives, string Drive, IReadOnlyList<Shelf> Known, IReadOnlyList<SessionLoss> Losses, IReadOnlyList<string> NotKnown);

    /// <summary>As things are now.</summary>
    /// <exception cref="Ground.NotKnownException">There is no such shelf.</exception>
    public DriveLossView Of(Guid shelfId, CancellationToken cancel)
    {
        var look = Look(shelfId, cancel);
        var ids = sessions.All().ToDictionary(s => s.Folder, s => s.Id, StringComparer.Ordinal);
        AmountView Sum(Func<LostWithDrive, bool> which) => View(DriveLoss.Sum(look.Losses, which));
        return new DriveLossView(
            shelfId, look.Shelf.Name, look.Shelf.Kind, look.Shelf.IsConnected, [.. look.Known.Where(s => s.Id != shelfId && look.Drives.Of(s.Id) == look.Drive).Select(s => s.Name)],
            Sum(f => f.Loss == LossOfFile.Lost), Sum(f => f.Loss == LossOfFile.ComesBack), Sum(f => f.GoesSilent), Sum(f => f.Loss == LossOfFile.OnlyOnceThen),
            [
                .. look.Losses.Where(l => ids.ContainsKey(l.Session.Folder)).Select(l => new SessionLossView(
                    ids[l.Session.Folder], Path.GetFileName(l.Session.Folder), l.Session.Drive == look.Drive,
                    View(l.Of(LossOfFile.Lost)), View(l.Of(LossOfFile.ComesBack)), View(l.Silent), View(l.Of(LossOfFile.OnlyOnceThen)))),
            ],
            look.NotKnown);
    }

    /// <summary>The same as a table, a line for each file of each session (CSV, RFC 4180).</summary>
    /// <returns>Its name and its bytes.</returns>
    /// <exception cref="Ground.NotKnownException">There is no such shelf.</exception>
    public (string Name, byte[] Bytes) Report(Guid shelfId, CancellationToken cancel)
    {
        var look = Look(shelfId, cancel);
        return (
            $"If {look.Shelf.Name} dies.csv",
            Csv.Write(Columns, look.Losses.SelectMany(l => l.Files.Select(f => Line(l, f, look.Drive)))));
    }

    private static string[] Line(SessionLoss loss, LostWithDrive file, string drive) =>
    [
        Path.GetFileName(loss.Session.Folder),
        file.Judged.File.Name,
        file.Judged.File.Path,
        file.Loss switch
        {
            LossOfFile.Lost => "lost for good",
            LossOfFile.ComesBack => "comes back from a backup",
            _ => "is in one place only then",
        },
        file.GoesSilent ? "yes" : "",
        file.Judged.File.Known?.Bytes.ToString(CultureInfo.InvariantCulture) ?? "",
        string.Join("; ", file.Judged.Vaults.Where(v => v.Drive != drive).Select(v => v.Name)),
    ];

    private Looked Look(Guid shelfId, CancellationToken cancel)
    {
        var (shelf, known) = (shelves.Get(shelfId), shelves.All());
        var drives = shelfDrives.Of(known);
        var judged = sessions.All().AsParallel().AsOrdered().WithCancellation(cancel).Select(row => (Row: row, Session: Judge(row, known, drives, cancel))).ToList();
        var drive = drives.Of(shelfId);
        return new Looked(
            shelf, drives, drive, known, DriveLoss.Of([.. judged.Select(j => j.Session).OfType<SessionOnDrive>()], drive), [.. judged.Where(j => j.Session is null).Select(j => Path.GetFileName(j.Row.Folder))]);
    }

    /// <summary>Null where it cannot be looked at, as while its drive is away and was never seen since the start.</summary>
    private SessionOnDrive? Judge(SessionRow row, IReadOnlyList<Shelf> known, DrivesNow drives, CancellationToken cancel)
    {
        try
        {
            return new SessionOnDrive(row.Folder, drives.Of(row.Folder), backups.SafetyOf(row, files.Glance(row, known, cancel).Inventory, drives));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    private static AmountView View((int Files, long Bytes) sum) => new(sum.Files, sum.Bytes);
}
