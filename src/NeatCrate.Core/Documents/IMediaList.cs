namespace NeatCrate.Core.Documents;

/// <summary>A document that keeps a list of files that belong to the session, whether a clip plays them or not; it is ours to change.</summary>
public interface IMediaList : IRepointable
{
    /// <summary>The pointers on the list, in its order; empty for an entry that has none.</summary>
    IReadOnlyList<string> ListedUrls { get; }

    /// <summary>Takes entries off the list.</summary>
    /// <param name="isOf">Tells by the pointer which entries.</param>
    /// <returns>The entries as they stood, in the order of the list.</returns>
    IReadOnlyList<UnlistedEntry> Unlist(Func<string, bool> isOf);

    /// <summary>Puts an entry on the list.</summary>
    /// <param name="reference">The entry, as it stood.</param>
    /// <param name="at">Its place on the list, counted from 0; null, or beyond the end, for the end.</param>
    /// <exception cref="UnreadableDocumentException">The entry makes no sense.</exception>
    void List(string reference, int? at);
}
