using NeatCrate.Core.Listing;
using NeatCrate.Core.Record;
using NeatCrate.StandIns.Record;

namespace NeatCrate.App.Record;

/// <summary>A track of the Record station.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Takes">How many takes it has.</param>
/// <param name="NextTake">The number of the next one.</param>
public sealed record RecordTrackView(string Name, int Takes, int NextTake);

/// <summary>Where takes are recorded a second time.</summary>
public sealed record MirrorView(Guid ShelfId, string ShelfName, bool Connected, bool OnSameDrive, int Verified, IReadOnlyList<string> Gaps);

/// <summary>The Record station.</summary>
/// <param name="Tracks">The session's tracks.</param>
/// <param name="NextPass">The number of the next pass.</param>
/// <param name="SampleRate">Sample rate in Hz.</param>
/// <param name="BitDepth">Bits per sample.</param>
/// <param name="WhyNot">Why nothing can be recorded here; null when it can.</param>
/// <param name="SecondsLeft">Recording time left on the session's drive with the armed tracks; null with none.</param>
/// <param name="MirrorSecondsLeft">The same on the mirror's own drive.</param>
/// <param name="BytesPerSecond">Data rate of the armed tracks.</param>
/// <param name="Mirror">The mirror, if the session has one.</param>
/// <param name="Waiting">Takes that wait to be put on the list.</param>
/// <param name="CutOff">Recordings that were cut off and not repaired.</param>
/// <param name="Growing">Names of files that something writes at this moment.</param>
public sealed record RecordView(
    IReadOnlyList<RecordTrackView> Tracks,
    int NextPass,
    int SampleRate,
    int BitDepth,
    string? WhyNot,
    double? SecondsLeft,
    double? MirrorSecondsLeft,
    long BytesPerSecond,
    MirrorView? Mirror,
    int Waiting,
    int CutOff,
    IReadOnlyList<string> Growing);

/// <summary>How far one take is.</summary>
public sealed record RecordingTakeView(string Track, int Take, string FileName, double Seconds, long Bytes, MirrorState Mirror, string? Problem);

/// <summary>What the recorder is doing, or did last.</summary>
public sealed record RecordingView(
    Guid SessionId, string Session, RecorderState State, int Pass, double Seconds, double Length, double Speed, IReadOnlyList<RecordingTakeView> Takes);

/// <summary>Makes views of what is recorded.</summary>
public static class RecordViews
{
    /// <summary>What the recorder is doing.</summary>
    public static RecordingView Recording(Guid sessionId, string session, Recorder recorder)
    {
        ArgumentNullException.ThrowIfNull(recorder);
        var pass = recorder.Pass;
        var frame = pass.BitDepth / 8;
        var takes = recorder.Progress;
        return new RecordingView(
            sessionId,
            session,
            recorder.State,
            pass.Pass,
            takes.Select(t => t.Samples).DefaultIfEmpty().Max() / (double)pass.SampleRate,
            pass.Seconds,
            pass.Speed,
            [.. takes.Select(t => new RecordingTakeView(
                t.Track.Name, t.Track.Take, Path.GetFileName(t.Track.Path), t.Samples / (double)pass.SampleRate, t.Samples * frame, t.Mirror, t.Problem))]);
    }
}
