using System.Text.RegularExpressions;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Inventory;

/// <summary>The kinds in which people think of what is copied into a session, and what may stay where it is.</summary>
public enum CopyKind
{
    /// <summary>Recordings and samples.</summary>
    Audio,

    /// <summary>Sample instruments, and the samples that only they play.</summary>
    Instruments,

    /// <summary>The sound of rooms, by their names.</summary>
    ImpulseResponses,

    /// <summary>Moving pictures.</summary>
    Video,

    /// <summary>Everything else.</summary>
    Other,
}

/// <summary>Of which kind a file is.</summary>
public static partial class CopyKinds
{
    /// <summary>All kinds, in the order in which they are shown.</summary>
    public static IReadOnlyList<CopyKind> All { get; } = Enum.GetValues<CopyKind>();

    /// <summary>The kind of a file. No format says of a sound that it is an impulse response; its name or that of a folder does (common practice).</summary>
    /// <param name="file">The file.</param>
    public static CopyKind Of(InventoryFile file)
    {
        ArgumentNullException.ThrowIfNull(file);
        return MediaFiles.KindOf(file.Name) switch
        {
            _ when file.IsOnlySample => CopyKind.Instruments,
            MediaKind.Instrument => CopyKind.Instruments,
            MediaKind.Video => CopyKind.Video,
            MediaKind.Audio => ImpulseResponse().IsMatch(file.Path) ? CopyKind.ImpulseResponses : CopyKind.Audio,
            _ => CopyKind.Other,
        };
    }

    [GeneratedRegex(@"(?<![\p{L}\d])(irs?|impulses?|impulse[ _-]?responses?|convolution)(?![\p{L}])", RegexOptions.IgnoreCase)]
    private static partial Regex ImpulseResponse();
}
