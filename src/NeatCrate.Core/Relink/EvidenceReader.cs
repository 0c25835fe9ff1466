using System.Collections.Immutable;
using NeatCrate.Core.Inventory;

namespace NeatCrate.Core.Relink;

/// <summary>Compares a lost file with a found one, piece by piece.</summary>
public static class EvidenceReader
{
    // A document in frames cannot say a length any closer than to a frame of the slowest rate in use.
    private const double FrameSeconds = 1 / 23.0;

    /// <summary>Each piece of evidence, in the order of <see cref="EvidenceKind"/>.</summary>
    public static ImmutableArray<Evidence> Compare(LostFile lost, FoundFile found)
    {
        ArgumentNullException.ThrowIfNull(lost);
        ArgumentNullException.ThrowIfNull(found);
        var (known, now) = (lost.Known, found.Known);
        return
        [
            OfBytes(lost, found),
            Of(EvidenceKind.Sound, lost.Noted.Sound?.Hash, found.Noted.Sound?.Hash),
            Of(EvidenceKind.Samples, lost.Noted.Samples?.Hash, found.Noted.Samples?.Hash),
            new(EvidenceKind.Name, OfName(lost.At.Compare(found.At))),
            new(EvidenceKind.Folder, OfFolders(lost.At, found.At)),
            Of(EvidenceKind.Size, known?.Bytes, now.Bytes),
            new(EvidenceKind.Length, OfLength(lost, now)),
            new(EvidenceKind.Rate, OfRate(lost, now)),
            Of(EvidenceKind.Channels, known?.Channels, now.Channels),
            Of(EvidenceKind.Depth, known?.BitsPerSample, now.BitsPerSample),
            new(EvidenceKind.Format, found.Copy is not null && now.Container is null ? Verdict.Unknown : OfFormat(lost, now)),
            new(EvidenceKind.Changed, known is null ? Verdict.Unknown : IsSameTime(known.ModifiedUtc, now.ModifiedUtc) ? Verdict.Agrees : Verdict.Differs),
            Of(EvidenceKind.Origin, lost.Noted.Origin, found.Noted.Origin),
            Of(EvidenceKind.TimeReference, lost.Noted.TimeReference, found.Noted.TimeReference),
            new(EvidenceKind.Age, OfAge(lost, found)),
        ];
    }

    /// <summary>The same but for what a coarser drive cut off of one of them: FAT keeps two seconds, others a second, ten milliseconds (exFAT), a millisecond or a microsecond.</summary>
    private static bool IsSameTime(DateTime one, DateTime other) => (one - other).Duration().Ticks <= Math.Max(StepOf(one), StepOf(other));

    private static long StepOf(DateTime time)
    {
        var ticks = time.Ticks;
        return ticks % TimeSpan.TicksPerSecond == 0 ? EvidenceRules.SameTime.Ticks
            : ticks % (10 * TimeSpan.TicksPerMillisecond) == 0 ? 10 * TimeSpan.TicksPerMillisecond
            : ticks % TimeSpan.TicksPerMillisecond == 0 ? TimeSpan.TicksPerMillisecond
            : ticks % TimeSpan.TicksPerMicrosecond == 0 ? TimeSpan.TicksPerMicrosecond
            : 0;
    }

    // A date in a file is local time of wherever it was recorded: at the most so far ahead of UTC.
    private static readonly TimeSpan FarthestZone = TimeSpan.FromHours(14);

    /// <summary>A file that was recorded, or written, after the last save cannot be the one that the document was saved with.</summary>
    private static Verdict OfAge(LostFile lost, FoundFile found) =>
        lost.SavedUtc is not { } saved ? Verdict.Unknown
        : found.Known.ModifiedUtc - saved > EvidenceRules.SameTime || (found.Noted.MadeLocal is { } made && made - FarthestZone > saved) ? Verdict.Differs
        : Verdict.Unknown;

    /// <summary>By our own identity of the bytes, and where one of them lacks it, by the SHA-512 of a backup or a bundle.</summary>
    private static Evidence OfBytes(LostFile lost, FoundFile found) =>
        Of(EvidenceKind.Bytes, lost.Noted.Bytes, found.Noted.Bytes) is { Verdict: not Verdict.Unknown } told ? told : Of(EvidenceKind.Bytes, lost.Content, found.Copy?.Content);

    private static Evidence Of<T>(EvidenceKind kind, T? lost, T? found) where T : struct, IEquatable<T> =>
        new(kind, lost is not { } a || found is not { } b ? Verdict.Unknown : a.Equals(b) ? Verdict.Agrees : Verdict.Differs);

    private static Evidence Of(EvidenceKind kind, string? lost, string? found) =>
        new(kind, lost is null || found is null ? Verdict.Unknown : lost == found ? Verdict.Agrees : Verdict.Differs);

    private static Verdict OfName(NameLikeness likeness) => likeness switch
    {
        NameLikeness.Same or NameLikeness.WrittenOtherwise => Verdict.Agrees,
        NameLikeness.Numbered or NameLikeness.OtherExtension => Verdict.Nearly,
        _ => Verdict.Differs,
    };

    /// <summary>Two folders above it alike agree; one alone, as "Audio" may be, agrees nearly.</summary>
    private static Verdict OfFolders(ComparedPath lost, ComparedPath found) => lost.CommonFolders(found) switch
    {
        0 => Verdict.Differs,
        1 => Verdict.Nearly,
        _ => Verdict.Agrees,
    };

    private static Verdict OfLength(LostFile lost, KnownFile found)
    {
        if (lost.Known?.LengthSamples is { } before && found.LengthSamples is { } now)
        {
            return before == now ? Verdict.Agrees : Verdict.Differs;
        }
        if (lost.Stated is not { } stated || found is not { LengthSamples: { } length, SampleRate: { } rate })
        {
            return Verdict.Unknown;
        }
        var apart = Math.Abs((stated.Seconds * rate) - length);
        // Stated in samples it is exact; in frames it is as near as frames can say.
        return apart < 0.5 && stated.SampleRate is not null ? Verdict.Agrees
            : apart <= FrameSeconds * rate ? Verdict.Nearly
            : Verdict.Differs;
    }

    private static Verdict OfRate(LostFile lost, KnownFile found)
    {
        var before = lost.Known?.SampleRate ?? lost.Stated?.SampleRate;
        return before is null || found.SampleRate is null ? Verdict.Unknown : before == found.SampleRate ? Verdict.Agrees : Verdict.Differs;
    }

    private static Verdict OfFormat(LostFile lost, KnownFile found) =>
        lost.Known?.Container is { } before
            ? before == found.Container ? Verdict.Agrees : Verdict.Differs
            : string.Equals(Path.GetExtension(lost.Name), Extension(found), StringComparison.OrdinalIgnoreCase) || Extension(found) is null ? Verdict.Unknown : Verdict.Differs;

    /// <summary>The extension that files of a format have, where there is one alone.</summary>
    private static string? Extension(KnownFile found) => found.Container switch
    {
        "WAV" or "RF64" or "BW64" => ".wav",
        "FLAC" => ".flac",
        "MP3" => ".mp3",
        _ => null,
    };
}
