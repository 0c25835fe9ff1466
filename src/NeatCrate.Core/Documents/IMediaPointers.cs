namespace NeatCrate.Core.Documents;

/// <summary>What a file points at: the part that every document has that can be read at all.</summary>
public interface IMediaPointers
{
    /// <summary>Every pointer at a media file, in the order of the document, each with how much is known of that use.</summary>
    IReadOnlyList<MediaReference> References { get; }

    /// <summary>True where it may point at more than was understood, so that nobody can say what it does not use.</summary>
    bool MayPointElsewhere { get; }
}
