using NeatCrate.App.Shelves;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Usage;

namespace NeatCrate.App.Sessions;

/// <summary>Tells the runner which documents of all known sessions point at a file that is to be removed.</summary>
public sealed class DocumentUsers(SessionService sessions, ShelfService shelves) : IFileUsers
{
    private readonly DocumentPointers _pointers = new();

    /// <inheritdoc/>
    public IReadOnlyList<FileUser> PointingAt(IReadOnlySet<string> paths, IReadOnlyDictionary<string, byte[]> rewritten) =>
        _pointers.At(sessions.Folders(), shelves.All(), paths, rewritten);
}
