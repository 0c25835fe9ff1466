using NeatCrate.Core.Names;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>What a session document says, without its text: this is kept, the text is read again when it is to be changed.</summary>
public sealed record DocumentFacts
{
    /// <summary>Every pointer at a media file, in document order.</summary>
    public required IReadOnlyList<MediaReference> References { get; init; }

    /// <summary>Clips on the tracks of the top stack, with where they begin.</summary>
    public required IReadOnlyList<PlacedClip> Clips { get; init; }

    /// <summary>Names of the tracks in document order.</summary>
    public required IReadOnlyList<string> Tracks { get; init; }

    /// <summary>Kinds of media reference that are kept but cannot be followed, with how often they stand in the document.</summary>
    public required IReadOnlyDictionary<string, int> UnfollowedReferences { get; init; }

    /// <summary>True where references of a kind stand in it that cannot be followed, and may be of sound.</summary>
    public required bool MayPointElsewhere { get; init; }

    /// <summary>The name of the timeline.</summary>
    public required string Name { get; init; }

    /// <summary>The session's identity, where we gave it one.</summary>
    public required Guid? SessionId { get; init; }

    /// <summary>The settings that it carries; null where it does not carry ours.</summary>
    public required SessionSettings? Settings { get; init; }

    /// <summary>Where the session's timeline starts, from midnight.</summary>
    public required ExactTime GlobalStart { get; init; }

    /// <summary>The folder layout that it carries; null where it does not carry ours.</summary>
    public required SessionLayout? Layout { get; init; }

    /// <summary>The folder that it names for waveform caches where that is, or holds, another folder of the session; null otherwise.</summary>
    public string? CacheInUse { get; init; }

    /// <summary>What is named in it, for a document of which nothing else is understood; null for any other.</summary>
    public FoundNames? Names { get; init; }

    /// <summary>True when it has a stack of tracks that tracks can be added to.</summary>
    public required bool TakesTracks { get; init; }
}
