using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.SetUp;

/// <summary>Where takes are mirrored to.</summary>
/// <param name="OnSameDrive">True when it is the drive of the session itself, which then takes everything twice.</param>
/// <param name="FreeBytes">Free bytes on the mirror's own drive.</param>
public readonly record struct MirrorPlace(bool OnSameDrive, long FreeBytes)
{
    /// <summary>The place of a mirror for a session; null without one, and while its shelf is away.</summary>
    /// <param name="mirror">The mirror's shelf.</param>
    /// <param name="place">Absolute path of a folder on the session's drive.</param>
    public static MirrorPlace? Of(Shelf? mirror, string place) =>
        mirror is { IsConnected: true } ? new MirrorPlace(FileFacts.AreOnOneDrive(mirror.Root, place), mirror.FreeBytes ?? 0) : null;
}

/// <summary>How much sound a session makes, and how long it can go on. All rates and limits: common practice and EBU Tech 3306.</summary>
/// <param name="BytesPerSecond">Data rate of all tracks together: sample rate × bytes per sample, for each mono track.</param>
/// <param name="ExpectedBytes">Bytes of the expected length on all tracks once through.</param>
/// <param name="SecondsLeft">Recording time left on the session's drive, in seconds; null with no track.</param>
/// <param name="MirrorSecondsLeft">Recording time left on the mirror's own drive, in seconds; null without one.</param>
/// <param name="SecondsToLimit">Time until one take's file reaches 4 GiB, where it becomes RF64, in seconds.</param>
public sealed record RecordingBudget(long BytesPerSecond, long ExpectedBytes, double? SecondsLeft, double? MirrorSecondsLeft, double SecondsToLimit)
{
    /// <summary>Reckons the budget.</summary>
    /// <param name="tracks">Number of mono tracks that record at once.</param>
    /// <param name="sampleRate">Sample rate in Hz.</param>
    /// <param name="bitDepth">Bits per sample.</param>
    /// <param name="expectedSeconds">Expected length in seconds.</param>
    /// <param name="freeBytes">Free bytes on the session's drive.</param>
    /// <param name="mirror">Where takes are mirrored to, if anywhere.</param>
    public static RecordingBudget Of(int tracks, int sampleRate, int bitDepth, double expectedSeconds, long freeBytes, MirrorPlace? mirror = null)
    {
        var track = new PcmFormat(sampleRate, 1, bitDepth).BytesPerSecond;
        var all = track * tracks;
        // A mirror on the same drive counts twice; one on another drive bounds separately.
        var written = mirror is { OnSameDrive: true } ? 2 * all : all;
        return new RecordingBudget(
            all,
            (long)Math.Ceiling(all * expectedSeconds),
            written == 0 ? null : freeBytes / (double)written,
            mirror is { OnSameDrive: false } other && all > 0 ? other.FreeBytes / (double)all : null,
            (WavWriter.RiffLimitBytes - WavWriter.HeaderBytes) / (double)track);
    }
}
