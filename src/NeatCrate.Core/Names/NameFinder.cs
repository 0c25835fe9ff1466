namespace NeatCrate.Core.Names;

/// <summary>
/// Finds the names of media files in the bytes of a document of any program, without knowing its format: as text of any encoding, escaped
/// or not, packed or not. What it finds is weaker knowledge than reading a document: a name says that a file is named, not that it plays.
/// </summary>
public static class NameFinder
{
    /// <summary>A file of more bytes is not looked through: it holds something else than a session.</summary>
    public const long MostBytes = 128L * 1024 * 1024;

    /// <summary>Looks through a document. No bytes let it fail.</summary>
    /// <param name="bytes">The document.</param>
    /// <param name="cancel">Stops between two pieces.</param>
    /// <exception cref="OperationCanceledException">It was stopped.</exception>
    public static FoundNames Find(byte[] bytes, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(bytes);
        var bounds = new NameBounds();
        var runs = new NameRuns(bounds);
        new PackedPieces(runs, bounds, cancel).Look(bytes, "", 0);
        var (isMention, isList) = Mentions.In(bytes);
        return new FoundNames(runs.ToNames(), bounds.IsWhole, isMention, isList, DocumentText.IsLikely(bytes));
    }
}
