using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>A document in which we keep what we know of a session, its settings, its takes and its list, and whose tracks take clips of ours.</summary>
public interface ISessionNotes : IMediaList, ITracks
{
    /// <summary>What it says, to be kept without its text.</summary>
    DocumentFacts Facts { get; }

    /// <summary>Changes the settings, and nothing else. One that another program wrote gets our notes.</summary>
    void Change(SessionSettings settings);

    /// <summary>Gives the timeline another name, as a new version of the document has it.</summary>
    void Rename(string name);

    /// <summary>Adds an empty audio track at the end.</summary>
    /// <exception cref="InvalidOperationException">The document has no stack of tracks to add to.</exception>
    void AddTrack(string name);

    /// <summary>Places a clip on a track; nothing that plays is moved or covered.</summary>
    /// <param name="track">Name of the track.</param>
    /// <param name="clip">The clip.</param>
    /// <param name="at">Where it is to start, from the start of the timeline.</param>
    /// <exception cref="CannotPlaceException">Something plays there, or what the track holds has no known length.</exception>
    void PlaceClip(string track, ClipToPlace clip, ExactTime at);

    /// <summary>The first time from which a track is free for so long, in seconds from the start of the timeline, to the tenth.</summary>
    /// <param name="track">Name of the track; of one that is not there all is free.</param>
    /// <param name="seconds">How long it has to be free, in seconds.</param>
    /// <exception cref="CannotPlaceException">What the track holds has no known length.</exception>
    double FreeFrom(string track, double seconds);

    /// <summary>Takes clips off the tracks of the top stack, so that nothing else moves.</summary>
    /// <param name="isOf">Tells by the pointer which clips.</param>
    /// <returns>How many were taken off.</returns>
    /// <exception cref="CannotPlaceException">A transition plays on one, or its length is not known.</exception>
    int TakeClipsOff(Func<string, bool> isOf);

    /// <summary>Puts a file at the end of the list without placing it.</summary>
    /// <param name="targetUrl">Where the file is.</param>
    /// <param name="fileLength">Its length in samples, or null where it is not known.</param>
    /// <param name="rate">Its sample rate in Hz.</param>
    /// <param name="take">Which take it is, if it is one.</param>
    void List(string targetUrl, long? fileLength, int rate, TakeLabel? take);

    /// <summary>Writes on an entry of the list which take it is, whether it is kept, and the note on it. What says the same already stays as it is.</summary>
    /// <param name="at">Its place on the list, counted from 0.</param>
    /// <param name="take">What to write.</param>
    void Label(int at, TakeLabel take);
}
