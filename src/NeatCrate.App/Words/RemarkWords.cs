using System.Collections.Immutable;

namespace NeatCrate.App.Words;

/// <summary>What is remarked of a file in a word or two, for a row of a list; the sentence stands in its tag.</summary>
public static class RemarkWords
{
    /// <summary>The word for the remark that matters most; of several it says that there are more.</summary>
    /// <param name="remarks">What is remarked; at least one thing.</param>
    public static string Of(ImmutableArray<Fault> remarks)
    {
        var words = remarks.Select(WordOf).Distinct(StringComparer.Ordinal).ToList();
        return words.Count > 1 ? $"{words[0]} +{words.Count - 1}" : words[0];
    }

    private static string WordOf(Fault remark) => remark.Code switch
    {
        FaultCode.SampleOfInstrument => "of an instrument",
        FaultCode.WrittenOtherwise => "written otherwise",
        FaultCode.BehindALink => "behind a link",
        FaultCode.SizesNeverWritten => "never closed",
        FaultCode.EndsInMidSample or FaultCode.ChunkCutShort => "cut short",
        FaultCode.BytesAfterChunks or FaultCode.BytesBetweenFrames or FaultCode.BroadcastChunkTooShort or FaultCode.ChunksPassedOver or FaultCode.IxmlUnreadable
            or FaultCode.PacketsDisagree or FaultCode.PadByteMissing or FaultCode.SamplesDisagree => "unusual file",
        // What is left says why other systems do not take the name.
        _ => "name not for all systems",
    };
}
