namespace NeatCrate.Core.Shelves;

/// <summary>What a shelf is for.</summary>
public enum ShelfKind
{
    /// <summary>Where session folders live.</summary>
    SessionDrive,

    /// <summary>One's own sample library.</summary>
    OwnLibrary,

    /// <summary>Content that comes with programs.</summary>
    StockContent,

    /// <summary>A drive that comes and goes.</summary>
    Removable,

    /// <summary>Where full backups live.</summary>
    Vault,

    /// <summary>Where bundles wait to be sent.</summary>
    Outbox,
}

/// <summary>A place where files live that Neat Crate knows.</summary>
/// <param name="Id">Identity of the shelf.</param>
/// <param name="Name">Name shown to people.</param>
/// <param name="Kind">What it is for.</param>
/// <param name="Root">Absolute path of its top folder, without a slash at the end.</param>
public sealed record Shelf(Guid Id, string Name, ShelfKind Kind, string Root)
{
    private readonly ShelfState? _state;

    /// <summary>How it was when it was looked at; without one it is looked at whenever that is asked for.</summary>
    public ShelfState State
    {
        get => _state ?? ShelfState.Of(Root);
        init => _state = value;
    }

    /// <summary>True while the shelf's top folder can be reached.</summary>
    public bool IsConnected => State.IsConnected;

    /// <summary>Free bytes on the drive that the shelf is on, or null while it is away.</summary>
    public long? FreeBytes => State.FreeBytes;

    /// <summary>Size of the drive in bytes, or null while the shelf is away.</summary>
    public long? TotalBytes => State.TotalBytes;

    /// <summary>True when an absolute path lies on the shelf, going by the path alone.</summary>
    public bool Holds(string path) => ShelfPath.IsWithin(path, Root);

    /// <summary>The path from the shelf's top folder.</summary>
    public string Relative(string path) => Path.GetRelativePath(Root, path);

    /// <summary>The shelf whose root is nearest above a path, or null when none holds it.</summary>
    public static Shelf? Holding(IEnumerable<Shelf> shelves, string path) =>
        shelves.Where(s => s.Holds(path)).MaxBy(s => s.Root.Length);
}
