using System.Collections.Immutable;
using System.Globalization;
using NeatCrate.App.Ground;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;
using NeatCrate.StandIns.Drives;
using NeatCrate.Store;

namespace NeatCrate.App.Shelves;

/// <summary>Knows which shelves are on one drive, those that are away among them. The demo's drives are simulated: each is one of its own.</summary>
public sealed class ShelfDrives(StoredSettings settings, AppOptions options)
{
    private const string Key = "drives of shelves";

    private readonly Lock _lock = new();
    private ShelvesOnDrives? _known;

    private sealed record Kept(ImmutableDictionary<Guid, Guid> Labels);

    /// <summary>As things are now.</summary>
    /// <param name="shelves">All known shelves, connected or away.</param>
    public DrivesNow Of(IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(shelves);
        List<(Guid, string?)> now = [.. shelves.Select(s => (s.Id, s.IsConnected ? DriveAt(s.Root) : null))];
        lock (_lock)
        {
            var before = _known ??= settings.Read<Kept>(Key) is { Labels: { } kept } ? new ShelvesOnDrives(kept) : ShelvesOnDrives.Unknown;
            _known = before.With(now);
            if (_known != before)
            {
                settings.Write(Key, new Kept(_known.Labels));
            }
            return new DrivesNow(_known, shelves, DriveAt);
        }
    }

    /// <summary>What tells the drive of a folder or file from others at this moment; null where nothing is there.</summary>
    private string? DriveAt(string path)
    {
        var demo = Path.Combine(options.DataFolder, "demo");
        // The shelf of the demo in which it stands, however deep.
        for (var at = path; ShelfPath.IsWithin(at, demo) && at != demo; at = Path.GetDirectoryName(at)!)
        {
            if (DemoDrives.IsOne(demo, at))
            {
                return at;
            }
        }
        return FileFacts.Of(path) is { Device: var device } ? device.ToString(CultureInfo.InvariantCulture) : null;
    }
}

/// <summary>Which drive things are on, at one moment.</summary>
/// <param name="known">What is known of shelves.</param>
/// <param name="shelves">All known shelves.</param>
/// <param name="driveAt">What tells the drive of a path from others at this moment.</param>
public sealed class DrivesNow(ShelvesOnDrives known, IReadOnlyList<Shelf> shelves, Func<string, string?> driveAt)
{
    private readonly Lazy<Dictionary<string, Guid>> _there = new(() => shelves.Where(s => s.IsConnected).Select(s => (s.Id, Drive: driveAt(s.Root))).Where(s => s.Drive is not null)
        .DistinctBy(s => s.Drive).ToDictionary(s => s.Drive!, s => s.Id, StringComparer.Ordinal));

    /// <summary>Another text where a shelf is on another drive.</summary>
    public string Revision => string.Join(' ', shelves.Select(s => known.Of(s.Id)));

    /// <summary>What the drive of a shelf is called.</summary>
    public string Of(Guid shelf) => known.Of(shelf);

    /// <summary>What the drive is called on which a path is; its own name where no shelf is on it.</summary>
    public string Of(string path) => Shelf.Holding(shelves, path) is { } shelf ? Of(shelf.Id)
        : driveAt(path) is not { } drive ? path
        : _there.Value.TryGetValue(drive, out var beside) ? Of(beside) : drive;

    /// <summary>What the drive is called on which a file of a session stands.</summary>
    public string Of(InventoryFile file)
    {
        ArgumentNullException.ThrowIfNull(file);
        return file.ShelfId is { } shelf ? Of(shelf) : Of(file.Path);
    }
}
