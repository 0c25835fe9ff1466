namespace NeatCrate.Core.Relink;

/// <summary>A folder whose files stand in another one now.</summary>
/// <param name="From">Where they were: absolute path, as <see cref="OtherSystem.Plain"/> writes it.</param>
/// <param name="To">Where they are: absolute path.</param>
public sealed record FolderMove(string From, string To)
{
    /// <summary>True where both mean one folder, but for the way it is written.</summary>
    public bool IsWrittenOtherwise => OtherSystem.Parts(From).Select(LooseName.OfFolder).SequenceEqual(OtherSystem.Parts(To).Select(LooseName.OfFolder));

    /// <summary>
    /// The move that a match tells of: the topmost folders that differ, with what is alike below them left out. Null where the folder
    /// is the same, and the file alone has another name.
    /// </summary>
    /// <param name="lost">Where the file should be.</param>
    /// <param name="found">Where it is.</param>
    public static FolderMove? Of(ComparedPath lost, ComparedPath found)
    {
        ArgumentNullException.ThrowIfNull(lost);
        ArgumentNullException.ThrowIfNull(found);
        var common = lost.CommonFolders(found);
        var (before, now) = ("/" + string.Join('/', lost.Folders[..^common]), "/" + string.Join('/', found.Folders[..^common]));
        return before == now ? null : new FolderMove(before, now);
    }
}
