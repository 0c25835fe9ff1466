using NeatCrate.Core.Inventory;

namespace NeatCrate.Core.Record;

/// <summary>What tells which take a recording is.</summary>
public enum TakeEvidence
{
    /// <summary>The session's list says so.</summary>
    List,

    /// <summary>The recorder wrote the track's name into the file (iXML).</summary>
    Ixml,

    /// <summary>The file is named after a track.</summary>
    Name,

    /// <summary>Nothing: it turned up in the audio folder, and no track fits.</summary>
    None,
}

/// <summary>One recorded pass on a track.</summary>
/// <param name="File">The recording.</param>
/// <param name="Track">Name of its track; null where none fits.</param>
/// <param name="Number">Its number on the track; null where none is known.</param>
/// <param name="Pass">The pass of the song, which takes on other tracks share; null where none is known.</param>
/// <param name="Evidence">What tells all this.</param>
/// <param name="StartSamples">
/// Where it belongs on the timeline: its time reference less the session's start, in samples at the file's rate (EBU Tech
/// 3285, TimeReference); null without a time reference.
/// </param>
/// <param name="RepairedAs">Name of the copy on which a recording that was cut off was repaired; null where there is none.</param>
public sealed record Take(InventoryFile File, string? Track, int? Number, int? Pass, TakeEvidence Evidence, long? StartSamples, string? RepairedAs)
{
    /// <summary>True for a recording that was cut off and is not repaired yet.</summary>
    public bool NeedsRepair => File.Header is { Unfinished: true } && RepairedAs is null;

    /// <summary>True for a whole recording that is on no list yet; while it grows, it does not wait to be put on one.</summary>
    public bool IsOnNoList => File.Use is FileUse.Stray or FileUse.Unknown && File.Header is not { Unfinished: true };
}
