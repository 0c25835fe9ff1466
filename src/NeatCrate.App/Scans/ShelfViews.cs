using NeatCrate.App.Ground;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Shelves;
using NeatCrate.StandIns.Drives;
using NeatCrate.Store;

namespace NeatCrate.App.Scans;

/// <summary>Makes views of shelves.</summary>
public sealed class ShelfViews(SessionService sessions, Catalogue catalogue, ShelfService known, SameDrives same, ShelfDrives drives, AppOptions options)
{
    /// <summary>Shelves as the pages see them.</summary>
    public ShelfView[] Of(IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(shelves);
        var (folders, scans, unreadable, all) = (sessions.Folders(), catalogue.LastScans(), catalogue.ProblemCounts(), known.All());
        var on = drives.Of(all);
        return [.. shelves.Select(s => View(s, on.Of(s.Id), folders, scans.GetValueOrDefault(s.Id), unreadable.GetValueOrDefault(s.Id), same.Of(s, all)))];
    }

    /// <summary>Top folder of the demo.</summary>
    public static string DemoRoot(AppOptions options)
    {
        ArgumentNullException.ThrowIfNull(options);
        return Path.Combine(options.DataFolder, "demo");
    }

    /// <summary>True for a drive of the demo, which can be unplugged and plugged in here.</summary>
    public static bool IsSimulated(Shelf shelf, AppOptions options)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        return shelf.Kind == ShelfKind.Removable && DemoDrives.IsOne(DemoRoot(options), shelf.Root);
    }

    private ShelfView View(Shelf shelf, string drive, IReadOnlyList<string> sessionFolders, ScanRow? scan, int unreadable, SameDrive? same) => new(
        shelf.Id, shelf.Name, shelf.Kind, shelf.Root, drive, shelf.IsConnected, shelf.FreeBytes, shelf.TotalBytes, sessionFolders.Count(shelf.Holds), IsSimulated(shelf, options),
        scan?.Files, scan?.Bytes, scan is null ? null : DateTimeOffset.FromUnixTimeMilliseconds(scan.EndedMs), unreadable,
        same is null ? null : new SameDriveView(same.Shelf.Name, same.Known, same.AtSamePlaces));
}
