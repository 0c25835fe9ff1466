namespace NeatCrate.Core.Shelves;

/// <summary>Whether a shelf is there, and how much room it has.</summary>
/// <param name="IsConnected">True while its top folder can be reached.</param>
/// <param name="FreeBytes">Free bytes on its drive; null while it is away.</param>
/// <param name="TotalBytes">Size of its drive in bytes; null while it is away.</param>
/// <param name="Answers">False where the drive did not answer in time, as a network drive does whose other end is gone. It counts as away.</param>
public sealed record ShelfState(bool IsConnected, long? FreeBytes, long? TotalBytes, bool Answers = true)
{
    /// <summary>A shelf that is away.</summary>
    public static ShelfState Away { get; } = new(false, null, null);

    /// <summary>A shelf whose drive does not answer.</summary>
    public static ShelfState Silent { get; } = new(false, null, null, false);

    /// <summary>Looks, however long that takes.</summary>
    /// <param name="root">Absolute path of the shelf's top folder.</param>
    public static ShelfState Of(string root)
    {
        if (!Directory.Exists(root))
        {
            return Away;
        }
        try
        {
            var drive = new DriveInfo(root);
            return new ShelfState(true, drive.AvailableFreeSpace, drive.TotalSize);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // It left in between.
            return Away;
        }
    }
}
