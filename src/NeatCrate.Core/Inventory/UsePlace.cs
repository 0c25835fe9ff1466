using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Inventory;

/// <summary>One place at which a document uses a file.</summary>
/// <param name="Path">Absolute path of the file.</param>
/// <param name="SessionFolder">Absolute path of the session's folder.</param>
/// <param name="Document">Absolute path of the document.</param>
/// <param name="IsCurrent">True where it is the session's current document.</param>
/// <param name="IsPlaced">True where a clip plays it; false where it is only on the list.</param>
/// <param name="Track">Name of the track.</param>
/// <param name="Clip">Name of the clip.</param>
/// <param name="Range">The samples that the clip plays; null where it plays none, or the file's length is not known.</param>
public sealed record UsePlace(string Path, string SessionFolder, string Document, bool IsCurrent, bool IsPlaced, string? Track, string? Clip, SampleRange? Range)
{
    /// <summary>The document as it is shown: session and name.</summary>
    public string Shown => $"{System.IO.Path.GetFileName(SessionFolder)}: {System.IO.Path.GetFileNameWithoutExtension(Document)}";
}
