using NeatCrate.Core.Json;

namespace NeatCrate.Core.Documents;

/// <summary>A document whose tracks can be compared, and taken over into another one.</summary>
public interface ITracks : IRepointable
{
    /// <summary>Names of the tracks in document order.</summary>
    IReadOnlyList<string> Tracks { get; }

    /// <summary>The tracks of the top stack, with all that they hold.</summary>
    IEnumerable<JsonItem> TopTracks { get; }

    /// <summary>True when it has a stack of tracks that tracks can be added to.</summary>
    bool TakesTracks { get; }

    /// <summary>Adds a track of another document at the end, with all that it holds, under a name of its own.</summary>
    /// <exception cref="InvalidOperationException">The document has no stack of tracks to add to.</exception>
    void AddTrackAsItIs(JsonItem track, string name);
}
