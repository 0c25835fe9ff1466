using NeatCrate.Core.Media;

namespace NeatCrate.Core.Inventory;

/// <summary>What is known of a file: as it is, or as it was when its shelf was last scanned, and then it may have changed since.</summary>
/// <param name="Bytes">Size in bytes.</param>
/// <param name="ModifiedUtc">Time of the last change.</param>
/// <param name="Container">Name of the format, as <see cref="MediaHeader.Container"/> has it; null for what is no sound that was understood.</param>
/// <param name="SampleRate">Sample rate in Hz.</param>
/// <param name="Channels">Number of channels.</param>
/// <param name="BitsPerSample">Meaningful bits per sample.</param>
/// <param name="LengthSamples">Length in samples per channel.</param>
public sealed record KnownFile(
    long Bytes, DateTime ModifiedUtc, string? Container, int? SampleRate, int? Channels, int? BitsPerSample, long? LengthSamples)
{
    /// <summary>What a file's state and header tell.</summary>
    /// <param name="bytes">Size in bytes.</param>
    /// <param name="modifiedUtc">Time of the last change.</param>
    /// <param name="header">Its header; null for what is no sound that was understood.</param>
    public static KnownFile Of(long bytes, DateTime modifiedUtc, MediaHeader? header) =>
        new(bytes, modifiedUtc, header?.Container, header?.SampleRate, header?.Channels, header?.BitsPerSample, header?.LengthSamples);

    /// <summary>Length in seconds, or null where it is not known.</summary>
    public double? LengthSeconds => LengthSamples / (double?)SampleRate;
}

/// <summary>Remembers what stands on shelves, also while they are away.</summary>
public interface IShelfMemory
{
    /// <summary>What is known of files of a shelf.</summary>
    /// <param name="shelfId">The shelf.</param>
    /// <param name="paths">Paths from the shelf's top folder, with slashes.</param>
    /// <returns>By path; files of which nothing is known are left out.</returns>
    IReadOnlyDictionary<string, KnownFile> Recall(Guid shelfId, IReadOnlyCollection<string> paths);
}
