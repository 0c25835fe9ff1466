using Microsoft.EntityFrameworkCore;
using NeatCrate.App.Ground;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Shelves;

/// <summary>The known shelves.</summary>
public sealed class ShelfService(StoreFiles files, ShelfStates states)
{
    private int _changes;

    private static readonly string[] SystemFolders = ["/proc", "/sys", "/dev", "/run/udev", "/boot"];

    private readonly ReadOnce<IReadOnlyList<Shelf>> _known = new(() =>
    {
        using var db = files.NewDb();
        return [.. db.Shelves.AsNoTracking().OrderBy(s => s.Position).AsEnumerable().Select(s => s.ToShelf())];
    });

    /// <summary>Grows when a shelf is found to have come or gone: what was worked out before that is of another time.</summary>
    public int Changes => _changes;

    /// <summary>Says that a shelf came or went. To be said before anybody is told, since whoever hears of it asks at once, and not again soon.</summary>
    public void NoteChange() => Interlocked.Increment(ref _changes);

    /// <summary>All shelves in the order in which they are shown, each as it is now.</summary>
    public IReadOnlyList<Shelf> All()
    {
        var known = _known.Value;
        return [.. known.Zip(states.Of([.. known.Select(s => s.Root)]), (shelf, state) => shelf with { State = state })];
    }

    /// <summary>One shelf.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public Shelf Get(Guid id) => All().FirstOrDefault(s => s.Id == id) ?? throw new NotKnownException("This shelf is not known (any more).");

    /// <summary>Makes a folder known as a shelf. The folder is not touched.</summary>
    /// <exception cref="PathNotOnShelfException">The path is no folder, or is a shelf already.</exception>
    public Shelf Add(string name, ShelfKind kind, string path)
    {
        ArgumentNullException.ThrowIfNull(name);
        return Know(name.Trim(), kind, Root(path, null, kind));
    }

    /// <summary>The top folder that a shelf is to have.</summary>
    /// <param name="path">What was asked for.</param>
    /// <param name="own">The shelf that is to have it; null for a new one.</param>
    /// <param name="kind">What it is for.</param>
    private string Root(string path, Guid? own, ShelfKind kind)
    {
        if (!Path.IsPathRooted(path) || !Directory.Exists(path))
        {
            throw new PathNotOnShelfException($"There is no folder '{path}' on this machine. Give its whole path, from the first slash.");
        }
        var root = Path.TrimEndingDirectorySeparator(Path.GetFullPath(path));
        if ((WhyNot(root) ?? WhyNoVault(root, kind)) is { } why)
        {
            throw new PathNotOnShelfException(why);
        }
        return All().FirstOrDefault(s => s.Root == root && s.Id != own) is { } known ? throw new PathNotOnShelfException($"This folder is the shelf '{known.Name}' already.") : root;
    }

    /// <summary>Why a folder is no place for files, or null.</summary>
    private string? WhyNot(string root)
    {
        var (real, data) = (RealPath.Of(root), RealPath.Of(files.Folder));
        if (real == "/" || SystemFolders.Any(f => ShelfPath.IsWithin(real, f)))
        {
            return $"'{root}' belongs to the operating system. Choose the folder of a drive, or one in which files of yours are.";
        }
        return ShelfPath.IsWithin(real, data) || ShelfPath.IsWithin(data, real)
            ? $"Neat Crate keeps its own data in '{files.Folder}', which must not be on a shelf: it is tidied up. Choose another folder."
            : null;
    }

    /// <summary>Why a folder is no place for a vault, or null: what goes into backups must not hold them.</summary>
    private string? WhyNoVault(string root, ShelfKind kind)
    {
        if (kind != ShelfKind.Vault)
        {
            return null;
        }
        var (real, known) = (RealPath.Of(root), All());
        using var db = files.NewDb();
        return db.Sessions.Select(s => s.Folder).AsEnumerable().FirstOrDefault(f => ShelfPath.IsWithin(real, RealOf(f, known))) is { } session
            ? $"'{root}' lies in the session '{Path.GetFileName(session)}': its backups would be backed up into themselves. Choose a folder outside of it, best on another drive."
            : null;
    }

    /// <summary>The vault that stands in a folder; null where none does.</summary>
    /// <param name="folder">Absolute path.</param>
    public Shelf? VaultIn(string folder)
    {
        var (real, known) = (RealPath.Of(folder), All());
        return known.FirstOrDefault(s => s.Kind == ShelfKind.Vault && ShelfPath.IsWithin(RealOf(s.Root, known), real));
    }

    /// <summary>A path with its links followed; of what is away as it is written, since a drive that does not answer would be waited for.</summary>
    private static string RealOf(string path, IReadOnlyList<Shelf> known) => Shelf.Holding(known, path) is { IsConnected: false } ? path : RealPath.Of(path);

    /// <summary>Makes a folder known as a shelf, connected or away.</summary>
    public Shelf Know(string name, ShelfKind kind, string root)
    {
        using var db = files.NewDb();
        var row = new ShelfRow { Id = Guid.NewGuid(), Name = name, Kind = kind, Root = root, Position = (db.Shelves.Max(s => (int?)s.Position) ?? 0) + 1 };
        db.Shelves.Add(row);
        db.SaveChanges();
        _known.Changed();
        return row.ToShelf();
    }

    /// <summary>
    /// Gives a shelf another name, kind or place: a drive may be mounted elsewhere one day. The sessions that stand on it go
    /// along. No file is touched.
    /// </summary>
    /// <param name="id">The shelf.</param>
    /// <param name="name">Its name.</param>
    /// <param name="kind">What it is for.</param>
    /// <param name="path">Absolute path of its top folder; null for the one that it has.</param>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    /// <exception cref="PathNotOnShelfException">The path is no folder, or is another shelf.</exception>
    public Shelf Change(Guid id, string name, ShelfKind kind, string? path)
    {
        ArgumentNullException.ThrowIfNull(name);
        var before = Get(id);
        var root = path is null || path == before.Root ? null : Root(path, id, kind);
        if (root is null && kind != before.Kind && WhyNoVault(before.Root, kind) is { } why)
        {
            throw new PathNotOnShelfException(why);
        }
        using var db = files.NewDb();
        using var transaction = db.Database.BeginTransaction();
        var row = db.Shelves.FirstOrDefault(s => s.Id == id) ?? throw new NotKnownException("This shelf is not known (any more).");
        (row.Name, row.Kind) = (name.Trim(), kind);
        if (root is not null)
        {
            Move(db, row, root);
        }
        db.SaveChanges();
        transaction.Commit();
        _known.Changed();
        return row.ToShelf();
    }

    /// <summary>A shelf that is away stands where a newer one was added: it stands there from now on, and the newer one is no more. No file is touched.</summary>
    /// <param name="id">The shelf that is away.</param>
    /// <param name="newer">The newer one.</param>
    /// <exception cref="NotKnownException">One of them is not known.</exception>
    /// <exception cref="PathNotOnShelfException">A session is on the list from both places.</exception>
    public Shelf TakeOver(Guid id, Guid newer)
    {
        var root = Get(newer).Root;
        if (WhyNoVault(root, Get(id).Kind) is { } why)
        {
            throw new PathNotOnShelfException(why);
        }
        using var db = files.NewDb();
        using var transaction = db.Database.BeginTransaction();
        var row = db.Shelves.FirstOrDefault(s => s.Id == id) ?? throw new NotKnownException("This shelf is not known (any more).");
        db.Shelves.Where(s => s.Id == newer).ExecuteDelete();
        Move(db, row, root);
        if (db.ChangeTracker.Entries<SessionRow>().Select(e => e.Entity).GroupBy(s => s.Folder, StringComparer.Ordinal).FirstOrDefault(g => g.Count() > 1) is { } both)
        {
            throw new PathNotOnShelfException($"'{Path.GetFileName(both.Key)}' is on the list of sessions from both places. Take one of them off the list first; no file is touched by that.");
        }
        db.SaveChanges();
        transaction.Commit();
        _known.Changed();
        return row.ToShelf();
    }

    /// <summary>A shelf stands elsewhere, and the sessions on it with it.</summary>
    private static void Move(NeatCrateDb db, ShelfRow row, string root)
    {
        // Those on a shelf within this one stand where they stood.
        var within = db.Shelves.Where(s => s.Id != row.Id).AsEnumerable().Select(s => s.Root).Where(r => ShelfPath.IsWithin(r, row.Root)).ToList();
        foreach (var session in db.Sessions.AsEnumerable().Where(s => ShelfPath.IsWithin(s.Folder, row.Root) && !within.Exists(r => ShelfPath.IsWithin(s.Folder, r))).ToList())
        {
            session.Folder = Path.Combine(root, Path.GetRelativePath(row.Root, session.Folder));
        }
        row.Root = root;
    }

    /// <summary>Forgets a shelf. No file is touched.</summary>
    /// <exception cref="NotKnownException">There is none with this identity.</exception>
    public void Forget(Guid id)
    {
        using var db = files.NewDb();
        var forgotten = db.Shelves.Where(s => s.Id == id).ExecuteDelete();
        _known.Changed();
        if (forgotten == 0)
        {
            throw new NotKnownException("This shelf is not known (any more).");
        }
    }
}
