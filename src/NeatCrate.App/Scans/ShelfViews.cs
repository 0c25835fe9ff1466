using NeatCrate.App.Ground;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.StandIns.Drives;
using NeatCrate.Store;

namespace NeatCrate.App.Scans;

/// <summary>Makes views of shelves.</summary>
public sealed class ShelfViews(SessionService sessions, Catalogue catalogue, AppOptions options)
{
    /// <summary>Shelves as the pages see them.</summary>
    public ShelfView[] Of(IReadOnlyList<Shelf> shelves)
    {
        var (folders, scans, unreadable) = (sessions.Folders(), catalogue.LastScans(), catalogue.ProblemCounts());
        return [.. shelves.Select(s => View(s, folders, scans.GetValueOrDefault(s.Id), unreadable.GetValueOrDefault(s.Id)))];
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

    private ShelfView View(Shelf shelf, IReadOnlyList<string> sessionFolders, ScanRow? scan, int unreadable) => new(
        shelf.Id, shelf.Name, shelf.Kind, shelf.Root, shelf.IsConnected, shelf.FreeBytes, shelf.TotalBytes, sessionFolders.Count(shelf.Holds), IsSimulated(shelf, options),
        scan?.Files, scan?.Bytes, scan is null ? null : DateTimeOffset.FromUnixTimeMilliseconds(scan.EndedMs), unreadable);
}
