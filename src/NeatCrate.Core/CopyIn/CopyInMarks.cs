using System.Collections.Immutable;
using NeatCrate.Core.Inventory;

namespace NeatCrate.Core.CopyIn;

/// <summary>
/// Which outside files of a session are to be copied in: all, but for those that somebody left out, a whole place at once
/// or file by file. What turns up later is taken, since disk space is cheaper than silence.
/// </summary>
/// <param name="Places">Taken or left out, by <see cref="Origin.Place"/>.</param>
/// <param name="Files">Taken or left out, by absolute path; stronger than the mark of its place.</param>
public sealed record CopyInMarks(ImmutableDictionary<string, bool> Places, ImmutableDictionary<string, bool> Files)
{
    /// <summary>Everything is taken.</summary>
    public static CopyInMarks Everything { get; } = new(ImmutableDictionary<string, bool>.Empty, ImmutableDictionary<string, bool>.Empty);

    /// <summary>Kinds that stay out, wherever they come from; a mark of a file itself is stronger.</summary>
    public ImmutableHashSet<CopyKind> LeftOutKinds { get; init; } = [];

    /// <summary>Whether a file is to be copied in.</summary>
    public bool Includes(InventoryFile file, Origin origin)
    {
        ArgumentNullException.ThrowIfNull(file);
        ArgumentNullException.ThrowIfNull(origin);
        return Files.TryGetValue(file.Path, out var marked) ? marked : Places.GetValueOrDefault(origin.Place, true) && (LeftOutKinds.IsEmpty || !LeftOutKinds.Contains(CopyKinds.Of(file)));
    }

    /// <summary>Marks a whole place; marks of its files give way.</summary>
    /// <param name="place">The place.</param>
    /// <param name="files">Absolute paths of the files that come from there.</param>
    /// <param name="taken">Whether they are taken.</param>
    public CopyInMarks MarkPlace(string place, IEnumerable<string> files, bool taken) => this with { Places = Places.SetItem(place, taken), Files = Files.RemoveRange(files) };

    /// <summary>Marks single files.</summary>
    public CopyInMarks MarkFiles(IEnumerable<string> files, bool taken) => this with { Files = Files.SetItems(files.Select(f => KeyValuePair.Create(f, taken))) };
}
