using System.Globalization;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Printing;

/// <summary>What is to be said of a track that is printed, or is not.</summary>
public enum PrintNoteKind
{
    /// <summary>A clip's file is missing, away or cannot be read: silence stands in its place.</summary>
    Silent,

    /// <summary>A clip plays on past an end of its file: silence stands there.</summary>
    PastEnd,

    /// <summary>A clip is switched off, and left out.</summary>
    MutedClip,

    /// <summary>An effect, which is not in the print.</summary>
    Effect,

    /// <summary>A file was converted to the rate of the print.</summary>
    Converted,

    /// <summary>Integers of more bits than a 32-bit float holds exactly.</summary>
    Rounded,

    /// <summary>An effect that bends time: the track cannot be printed.</summary>
    TimeEffect,

    /// <summary>A clip plays MIDI, an instrument or something else that is no sound by itself: the track cannot be printed.</summary>
    NoSound,

    /// <summary>A file of another rate, and nobody chose to convert it: the track cannot be printed.</summary>
    OtherRate,

    /// <summary>Files of several numbers of channels, of which none is one: the track cannot be printed.</summary>
    OtherChannels,

    /// <summary>Nothing tells where in its file a clip begins: the track cannot be printed.</summary>
    StartUnknown,

    /// <summary>Nothing tells how long something on it lasts, so that nobody knows where what comes after it stands: the track cannot be printed.</summary>
    LengthUnknown,

    /// <summary>The track is switched off, and left out.</summary>
    MutedTrack,

    /// <summary>The track holds pictures, and is left out.</summary>
    Pictures,

    /// <summary>Nothing is placed on the track, and it is left out.</summary>
    Empty,
}

/// <summary>Something that is to be said of a track that is printed, or is not.</summary>
/// <param name="Kind">What.</param>
/// <param name="Name">The clip, the file or the effect that it is about.</param>
/// <param name="Seconds">Where on the timeline, where that says something.</param>
/// <param name="LastsSeconds">For how long.</param>
public sealed record PrintNote(PrintNoteKind Kind, string? Name = null, double? Seconds = null, double? LastsSeconds = null)
{
    /// <summary>True where the track cannot be printed for it: a print would sound otherwise than the track does, and look as if it did not.</summary>
    public bool Prevents => Kind is PrintNoteKind.TimeEffect or PrintNoteKind.NoSound or PrintNoteKind.OtherRate or PrintNoteKind.OtherChannels or PrintNoteKind.StartUnknown or PrintNoteKind.LengthUnknown;

    /// <summary>True where the track is left out for it, as the session leaves it out.</summary>
    public bool LeavesOut => Kind is PrintNoteKind.MutedTrack or PrintNoteKind.Pictures or PrintNoteKind.Empty;

    /// <summary>What it says, for people.</summary>
    public string Sentence => Kind switch
    {
        PrintNoteKind.Silent => $"silent where '{Name}' should play{Where}",
        PrintNoteKind.PastEnd => $"silent past the end of '{Name}'{Where}",
        PrintNoteKind.MutedClip => $"'{Name}'{Where} is switched off, and left out",
        PrintNoteKind.Effect => $"without its effect '{Name}'",
        PrintNoteKind.Converted => $"'{Name}' was converted to the rate of the session",
        PrintNoteKind.Rounded => $"'{Name}' has integers of 32 bits, of which the lowest are rounded",
        PrintNoteKind.TimeEffect => $"'{Name}' changes its speed",
        PrintNoteKind.NoSound => $"'{Name}' is no sound by itself",
        PrintNoteKind.OtherRate => $"'{Name}' has another sample rate",
        PrintNoteKind.OtherChannels => $"'{Name}' has another number of channels",
        PrintNoteKind.StartUnknown => $"nothing tells where in its file '{Name}' begins",
        PrintNoteKind.LengthUnknown => Name is null ? "nothing tells how long what it holds lasts" : $"nothing tells how long '{Name}' lasts",
        PrintNoteKind.MutedTrack => "switched off in the session",
        PrintNoteKind.Pictures => "holds pictures",
        _ => "nothing is placed on it",
    };

    private string Where => Seconds is not { } at ? ""
        : LastsSeconds is { } lasts ? string.Create(CultureInfo.InvariantCulture, $" ({DurationText.Of(at)}, for {lasts:0.###} s)")
        : $" ({DurationText.Of(at)})";
}
