namespace NeatCrate.Core.Documents;

/// <summary>What was read of a document, and what makes reading it again after a save cost what changed.</summary>
/// <param name="Facts">What it says.</param>
public sealed record DocumentReading(DocumentFacts Facts)
{
    /// <summary>The items on its tracks; null where it is not likely to be read again.</summary>
    internal IReadOnlyList<KnownItem>? Items { get; init; }

    /// <summary>Of a document of which nothing is known but what it points at.</summary>
    /// <param name="document">The document.</param>
    public static DocumentReading Of(IMediaPointers document)
    {
        ArgumentNullException.ThrowIfNull(document);
        var tracks = document as ITracks;
        return new DocumentReading(new DocumentFacts
        {
            References = document.References,
            Clips = tracks is null ? [] : [.. TrackClips.In(tracks)],
            Tracks = tracks is null ? [] : [.. tracks.Tracks],
            UnfollowedReferences = new Dictionary<string, int>(),
            MayPointElsewhere = document.MayPointElsewhere,
            Names = (document as NamingDocument)?.Names,
            Name = "",
            SessionId = null,
            Settings = null,
            GlobalStart = default,
            Layout = null,
            TakesTracks = tracks?.TakesTracks ?? false,
        });
    }
}
