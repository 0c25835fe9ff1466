namespace NeatCrate.StandIns.Record;

/// <summary>A track that is armed.</summary>
/// <param name="Name">Name of the track.</param>
/// <param name="Take">Number of the take on its track.</param>
/// <param name="Path">The new file; its name must be free.</param>
/// <param name="MirrorPath">The same again on another shelf; null without a mirror.</param>
public sealed record ArmedTrack(string Name, int Take, string Path, string? MirrorPath);

/// <summary>What the recorder is to do.</summary>
/// <param name="Song">Name of the song.</param>
/// <param name="Pass">Number of the pass of the song.</param>
/// <param name="SampleRate">Sample rate in Hz.</param>
/// <param name="BitDepth">Bits per sample: 16, 24, or 32 of floating point.</param>
/// <param name="Seconds">It stops by itself after so much sound.</param>
/// <param name="Speed">How many times faster than real it records.</param>
/// <param name="TimeReference">Samples since midnight at which the pass starts on the timeline (EBU Tech 3285).</param>
/// <param name="Started">Local date and time.</param>
/// <param name="Tracks">The armed tracks.</param>
/// <param name="MirrorRoot">Top folder of the mirror's drive, which is never made: while it is not there, the drive is away. Null without a mirror.</param>
/// <param name="CutPowerAfter">Its power is cut after so many seconds of sound; null for never.</param>
public sealed record RecorderPass(
    string Song,
    int Pass,
    int SampleRate,
    int BitDepth,
    double Seconds,
    double Speed,
    ulong TimeReference,
    DateTimeOffset Started,
    IReadOnlyList<ArmedTrack> Tracks,
    string? MirrorRoot = null,
    double? CutPowerAfter = null);

/// <summary>How the mirror of a take fares.</summary>
public enum MirrorState
{
    /// <summary>There is none.</summary>
    None,

    /// <summary>It gets everything that the take gets.</summary>
    Following,

    /// <summary>It went away; the take goes on without it.</summary>
    Gone,
}

/// <summary>How far one take is.</summary>
/// <param name="Track">The track.</param>
/// <param name="Samples">Samples recorded.</param>
/// <param name="Mirror">How its mirror fares.</param>
/// <param name="MirrorSamples">Samples that reached the mirror.</param>
/// <param name="Problem">Why the take itself stopped early; null while nothing is wrong.</param>
public sealed record TakeProgress(ArmedTrack Track, long Samples, MirrorState Mirror, long MirrorSamples, string? Problem);

/// <summary>How the recorder ended, or that it has not.</summary>
public enum RecorderState
{
    /// <summary>It records.</summary>
    Recording,

    /// <summary>It was stopped, or the length was reached; the files are whole.</summary>
    Finished,

    /// <summary>Its power was cut; the files are as it left them.</summary>
    PowerCut,
}
