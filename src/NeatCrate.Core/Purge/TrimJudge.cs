using System.Collections.Immutable;
using System.Numerics;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Purge;

/// <summary>How many files a file becomes of which several parts are in use.</summary>
public enum TrimPieces
{
    /// <summary>One, from the first part to the end of the last.</summary>
    OneFile,

    /// <summary>One for each part.</summary>
    OnePerPart,
}

/// <summary>How files are trimmed.</summary>
/// <param name="HandleSeconds">What is kept before and after each part in use, in seconds.</param>
/// <param name="JoinSeconds">Parts that are no further apart than this, handles counted, are kept as one, in seconds.</param>
/// <param name="Pieces">How many files a file becomes.</param>
/// <param name="OlderVersions">Whether older versions count.</param>
public sealed record TrimChoice(double HandleSeconds = 2, double JoinSeconds = 1, TrimPieces Pieces = TrimPieces.OneFile, bool OlderVersions = true)
{
    /// <summary>Longest handle, and widest gap that is joined, in seconds.</summary>
    public const double MostSeconds = 3600;
}

/// <summary>Why a file is left whole.</summary>
public enum LeftWhole
{
    /// <summary>It is not: something of it goes.</summary>
    No,

    /// <summary>All of it is in use, handles counted.</summary>
    AllInUse,

    /// <summary>Its format cannot be cut to the sample.</summary>
    Format,

    /// <summary>It is not known for certain which of its samples are played.</summary>
    NotKnown,

    /// <summary>Another session uses it.</summary>
    Shared,

    /// <summary>A kept save plays it, which is never pointed elsewhere.</summary>
    KeptSave,
}

/// <summary>A file that clips play, and what trimming would leave of it.</summary>
/// <param name="File">The file.</param>
/// <param name="Used">The parts in use over all documents that count, in samples, in order and apart.</param>
/// <param name="Kept">The parts that are kept, handles and joins counted: each a file of its own.</param>
/// <param name="Left">Why it is left whole.</param>
public sealed record TrimmedFile(InventoryFile File, ImmutableArray<SampleRange> Used, ImmutableArray<SampleRange> Kept, LeftWhole Left)
{
    /// <summary>Bytes that it has then, its head counted once for each file that it becomes.</summary>
    public long BytesAfter => Left != LeftWhole.No || File.Header is not { LengthSamples: > 0 } header
        ? File.Bytes
        : Kept.Sum(k => File.Bytes - header.DataBytes + (long)((double)header.DataBytes * k.Length / header.LengthSamples!.Value));
}

/// <summary>Says of each file that clips play what trimming would leave of it.</summary>
public static class TrimJudge
{
    /// <summary>Judges the files inside that clips of the documents that count play, in the order of the inventory.</summary>
    /// <param name="world">What the judgement is made of.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="choice">How files are trimmed.</param>
    /// <param name="inPlace">True where the files themselves are replaced, so that other sessions that use them would miss them.</param>
    public static IReadOnlyList<TrimmedFile> Judge(PurgeWorld world, IReadOnlyList<Shelf> shelves, TrimChoice choice, bool inPlace)
    {
        ArgumentNullException.ThrowIfNull(world);
        ArgumentNullException.ThrowIfNull(choice);
        var inventory = world.Inventory;
        var files = inventory.Standing(Standing.Inside).Where(f => MediaFiles.KindOf(f.Path) == MediaKind.Audio).ToDictionary(f => f.Path, StringComparer.Ordinal);
        var played = Counted(inventory, choice).SelectMany(d => References(d, inventory, shelves)).Where(r => r.Reference.Placed && files.ContainsKey(r.Path)).ToLookup(r => r.Path, r => r.Reference, StringComparer.Ordinal);
        return [.. files.Values.Where(f => played.Contains(f.Path)).Select(f => Judge(f, [.. played[f.Path]], world, choice, inPlace))];
    }

    /// <summary>The documents that count.</summary>
    internal static IEnumerable<InventoryDocument> Counted(SessionInventory inventory, TrimChoice choice) =>
        inventory.Documents.Where(d => d.Document is not null && (d.Current || choice.OlderVersions));

    /// <summary>The references of a document with the absolute paths that they mean.</summary>
    internal static IEnumerable<(MediaReference Reference, string Path)> References(InventoryDocument document, SessionInventory inventory, IReadOnlyList<Shelf> shelves)
    {
        var paths = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var reference in document.Document?.References ?? [])
        {
            if (!paths.TryGetValue(reference.TargetUrl, out var path))
            {
                paths[reference.TargetUrl] = path = ReferencedPath.Of(reference.TargetUrl, document, inventory.Folder, shelves);
            }
            yield return (reference, path);
        }
    }

    /// <summary>The samples that a reference plays.</summary>
    internal static SampleRange RangeOf(MediaReference reference, InventoryFile file) => SampleRange.Of(
        reference.Source, reference.AvailableStart, file.Header!.SampleRate, file.Header.LengthSamples!.Value, file.Header.Broadcast?.TimeReference ?? 0);

    private static TrimmedFile Judge(InventoryFile file, List<MediaReference> references, PurgeWorld world, TrimChoice choice, bool inPlace)
    {
        if (file.Header is not { } header || !CutFile.CanCut(header))
        {
            return new TrimmedFile(file, [], [], LeftWhole.Format);
        }
        var length = header.LengthSamples!.Value;
        ImmutableArray<SampleRange> used = [.. SampleRange.Union(references.Select(r => RangeOf(r, file)))];
        TrimmedFile Whole(LeftWhole why) => new(file, used, [new SampleRange(0, length)], why);
        if (inPlace && world.Others.Contains(file.Path))
        {
            return Whole(LeftWhole.Shared);
        }
        if (inPlace && world.Counting.KeptSaves && world.KeptSaves.Contains(file.Path))
        {
            return Whole(LeftWhole.KeptSave);
        }
        if (!IsCertain(file, references, world) || GrainOf(references, header.SampleRate) is not { } grain)
        {
            return Whole(LeftWhole.NotKnown);
        }
        var kept = Kept(used, length, header.SampleRate, grain, choice);
        return kept is [{ Start: 0 } only] && only.Length == length ? Whole(LeftWhole.AllInUse) : new TrimmedFile(file, used, kept, LeftWhole.No);
    }

    /// <summary>
    /// Whether it is known for certain which of its samples are played, and whether documents can say where these stand afterwards. A clip
    /// has one source range for all of its references: where one of them does not say at which time its file begins, the range would have
    /// to move by what is cut off that file alone, and the others would play something else.
    /// </summary>
    private static bool IsCertain(InventoryFile file, List<MediaReference> references, PurgeWorld world) =>
        !world.Inventory.IsUseUnknown(file.Path) && !world.Growing.Contains(file.Path)
        && file.Remarks.All(r => r.Code is not (FaultCode.SampleOfInstrument or FaultCode.BehindALink))
        && (world.Uses.GetValueOrDefault(file.Path) ?? []).All(u => u.IsKnownToTheSample)
        && references.TrueForAll(r => r.AvailableStart is not null || !r.SharesClip)
        && references.TrueForAll(r => r.AvailableStart is null || NewStart(r.AvailableStart.Value, 0, 0, file.Header!.SampleRate) is not null);

    /// <summary>
    /// Where cuts can be made, in samples: what a document must say then has to be exact in its own units. A clip that counts from
    /// the file's first sample in other units than samples allows cuts only where a whole number of both meet.
    /// </summary>
    /// <returns>Null where that is further apart than a second.</returns>
    private static long? GrainOf(List<MediaReference> references, int rate)
    {
        var grain = BigInteger.One;
        foreach (var units in references.Where(r => r.AvailableStart is null && r.SourceRate is not null).Select(r => r.SourceRate!.Value).Distinct())
        {
            var step = (Rational.FromInt64(rate) / Rational.RateFromDouble(units)).Numerator;
            grain = grain * step / BigInteger.GreatestCommonDivisor(grain, step);
            if (grain > rate)
            {
                return null;
            }
        }
        return (long)grain;
    }

    /// <summary>What a document says of a cut file's range, in units in which it is exact; null where there are none.</summary>
    internal static AvailableRange? NewStart(ExactTime start, long cut, long length, int rate)
    {
        const int MostParts = 1000;
        var samples = (start.Seconds * Rational.FromInt64(rate)) + Rational.FromInt64(cut);
        if (samples.Denominator > MostParts || (long)samples.Denominator * rate > int.MaxValue || BigInteger.Abs(samples.Numerator) > long.MaxValue)
        {
            return null;
        }
        var parts = (int)samples.Denominator;
        return new AvailableRange((long)samples.Numerator, length * parts, rate * parts);
    }

    private static ImmutableArray<SampleRange> Kept(ImmutableArray<SampleRange> used, long length, int rate, long grain, TrimChoice choice)
    {
        if (used.IsEmpty)
        {
            // Clips of no length play nothing of it; it stays, since they are there.
            return [new SampleRange(0, length)];
        }
        var (handle, join) = ((long)Math.Round(choice.HandleSeconds * rate), (long)Math.Round(choice.JoinSeconds * rate));
        var wide = used.Select(u =>
        {
            var from = Math.Max(0, u.Start - handle);
            from -= from % grain;
            return new SampleRange(from, Math.Min(length, u.End + handle) - from);
        }).ToList();
        var kept = new List<SampleRange>();
        foreach (var range in wide)
        {
            if (kept.Count > 0 && (choice.Pieces == TrimPieces.OneFile || range.Start - kept[^1].End <= join))
            {
                kept[^1] = kept[^1] with { Length = Math.Max(kept[^1].End, range.End) - kept[^1].Start };
            }
            else
            {
                kept.Add(range);
            }
        }
        return [.. kept];
    }
}
