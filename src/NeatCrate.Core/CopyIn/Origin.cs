using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.CopyIn;

/// <summary>Where files that stand outside come from.</summary>
public enum OriginKind
{
    /// <summary>The folder of another session.</summary>
    OtherSession,

    /// <summary>One's own sample library.</summary>
    OwnLibrary,

    /// <summary>Content that comes with programs; it can stay out when the other person owns it too.</summary>
    StockContent,

    /// <summary>A drive that comes and goes.</summary>
    Removable,

    /// <summary>Anywhere else.</summary>
    Loose,
}

/// <summary>One place that outside files come from.</summary>
/// <param name="Kind">What kind of place.</param>
/// <param name="Name">Name of the session, the shelf, or the folder.</param>
/// <param name="Place">Absolute path of the session folder, of the shelf's top folder, or of the folder: what makes it one place.</param>
public sealed record Origin(OriginKind Kind, string Name, string Place)
{
    /// <summary>Where a file comes from that stands outside a session, or is away.</summary>
    /// <param name="path">Absolute path of the file.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="otherSessions">Folders of all other known sessions.</param>
    public static Origin Of(string path, IReadOnlyList<Shelf> shelves, IEnumerable<string> otherSessions)
    {
        ArgumentNullException.ThrowIfNull(path);
        ArgumentNullException.ThrowIfNull(shelves);
        ArgumentNullException.ThrowIfNull(otherSessions);
        if (otherSessions.Where(s => ShelfPath.IsWithin(path, s)).MaxBy(s => s.Length) is { } session)
        {
            return new Origin(OriginKind.OtherSession, Path.GetFileName(session), session);
        }
        var shelf = Shelf.Holding(shelves, path);
        OriginKind? kind = shelf?.Kind switch
        {
            ShelfKind.OwnLibrary => OriginKind.OwnLibrary,
            ShelfKind.StockContent => OriginKind.StockContent,
            ShelfKind.Removable => OriginKind.Removable,
            _ => null,
        };
        var folder = Path.GetDirectoryName(path) ?? path;
        return kind is { } known ? new Origin(known, shelf!.Name, shelf.Root) : new Origin(OriginKind.Loose, shelf is null ? folder : $"{shelf.Name}: {shelf.Relative(folder)}", folder);
    }
}
