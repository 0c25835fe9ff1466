using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>What a document says of the part of a recording that a media file holds (OpenTimelineIO, "available_range").</summary>
/// <param name="Start">Where the file's first sample stands in the clip's own time, in units of 1/<paramref name="Rate"/> s; null to leave what the document says, and to leave out all of this where it says nothing: nothing is made up.</param>
/// <param name="Length">The file's length, in units of 1/<paramref name="Rate"/> s.</param>
/// <param name="Rate">Units in a second; the file's sample rate in Hz.</param>
public sealed record AvailableRange(long? Start, long Length, int Rate);

/// <summary>What a reference is to say from now on.</summary>
/// <param name="Url">Its pointer, as it is to be written.</param>
/// <param name="Range">
/// The range that is available there; null to leave what the document says. A format that states none for its references has
/// nowhere to write it, and leaves it out.
/// </param>
/// <param name="Cut">
/// What was cut off the front of the file, for a clip that counts from the file's first sample: its source range, and the markers
/// on it, begin so much sooner from then on. Null to leave them.
/// </param>
public sealed record NewReference(string Url, AvailableRange? Range = null, FrontCut? Cut = null);

/// <summary>What was cut off the front of a media file.</summary>
/// <param name="Samples">How many samples of each channel.</param>
/// <param name="Rate">The file's sample rate in Hz.</param>
public sealed record FrontCut(long Samples, int Rate)
{
    /// <summary>The same in seconds, exactly.</summary>
    internal Rational Seconds => new(Samples, Rate);
}
