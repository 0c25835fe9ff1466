using System.IO.Hashing;
using System.Runtime.InteropServices;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;

namespace NeatCrate.Core.Listing;

/// <summary>What one place holds of a session's outside files.</summary>
/// <param name="Origin">The place.</param>
/// <param name="Files">Files that stand outside.</param>
/// <param name="Bytes">Their bytes.</param>
/// <param name="LeftOut">How many of them were left out.</param>
/// <param name="Away">Files that are away.</param>
/// <param name="AwayBytes">Their bytes as they were last seen; null where that is not known of all.</param>
public sealed record OriginWeight(Origin Origin, int Files, long Bytes, int LeftOut, int Away, long? AwayBytes);

/// <summary>What the files of a session come to, without the files.</summary>
public sealed record SessionOverview
{
    /// <summary>The one line that says how the session is.</summary>
    public required SessionStatus Status { get; init; }

    /// <summary>The weights, in the order of standing and use.</summary>
    public required IReadOnlyList<(FileSegment Segment, Weight Weight)> Weights { get; init; }

    /// <summary>How many files there are that the current document needs, that stand outside, and that nobody left there.</summary>
    public required int AtRiskFiles { get; init; }

    /// <summary>Takes, those among them that grow, that were cut off, and that wait to be put on the list.</summary>
    public required (int Files, int Growing, int CutOff, int Waiting) Takes { get; init; }

    /// <summary>Files outside that are to be copied in, their bytes, and those among them that only older versions use.</summary>
    public required (int Files, long Bytes, int OlderOnly) Taken { get; init; }

    /// <summary>Files outside that were left out.</summary>
    public required int LeftOut { get; init; }

    /// <summary>Names of the first files that the current document needs, that stand outside, and that nobody left there.</summary>
    public required IReadOnlyList<string> AtRisk { get; init; }

    /// <summary>The places that outside files come from, loose ones last.</summary>
    public required IReadOnlyList<OriginWeight> Origins { get; init; }

    /// <summary>Another number where any file is another, stands elsewhere or changed.</summary>
    public required ulong Fingerprint { get; init; }

    /// <summary>Another number where any take is another, changed, or is used otherwise.</summary>
    public required ulong TakesFingerprint { get; init; }

    /// <summary>Another number where any outside file is another, changed, or was marked otherwise.</summary>
    public required ulong OutsideFingerprint { get; init; }
}

/// <summary>Counts files in and out, so that the overview of a session follows a change without asking for all files.</summary>
/// <param name="outside">Which outside files are left out.</param>
public sealed class OverviewCounter(OutsideFiles outside)
{
    private readonly SessionTally _tally = new();
    private readonly Dictionary<string, PlaceCount> _places = new(StringComparer.Ordinal);
    private readonly SortedSet<string> _atRisk = new(StringComparer.Ordinal);
    private (int Files, int Growing, int CutOff, int Waiting) _takes;
    private (int Files, long Bytes, int OlderOnly) _taken;
    private int _leftOut;
    private ulong _fingerprint;
    private ulong _takesFingerprint;
    private ulong _outsideFingerprint;

    private sealed record PlaceCount(Origin Origin, int Files, long Bytes, int LeftOut, int Away, long AwayBytes, int AwayNotKnown);

    /// <summary>How many takes there are.</summary>
    public int Takes => _takes.Files;

    /// <summary>What was counted so far.</summary>
    /// <param name="inventory">The inventory that the files are of.</param>
    /// <param name="mostNamed">So many files are named that are at risk, by the order of their paths.</param>
    public SessionOverview Overview(SessionInventory inventory, int mostNamed) => new()
    {
        Status = SessionStatus.Of(inventory, _tally),
        Weights = [.. _tally.Weights.Select(w => (new FileSegment(w.Key.Standing, w.Key.Use), w.Value))],
        AtRiskFiles = _tally.AtRisk,
        Takes = _takes,
        Taken = _taken,
        LeftOut = _leftOut,
        AtRisk = [.. _atRisk.Take(mostNamed).Select(p => Path.GetFileName(p))],
        Origins = [.. _places.Values.OrderBy(p => p.Origin.Kind).ThenBy(p => p.Origin.Name, StringComparer.Ordinal)
            .Select(p => new OriginWeight(p.Origin, p.Files, p.Bytes, p.LeftOut, p.Away, p.AwayNotKnown > 0 ? null : p.AwayBytes))],
        Fingerprint = _fingerprint,
        TakesFingerprint = _takesFingerprint,
        OutsideFingerprint = _outsideFingerprint,
    };

    /// <summary>Counts a file in, or out as it was counted in.</summary>
    /// <param name="listed">The file.</param>
    /// <param name="sign">1 for in, -1 for out.</param>
    public void Count(ListedFile listed, int sign)
    {
        ArgumentNullException.ThrowIfNull(listed);
        var file = listed.File;
        var isLeftOut = outside.IsLeftOut(file, listed.Origin);
        _tally.Count(file, isLeftOut, sign);
        Add(ref _fingerprint, sign, file, (int)file.Standing);
        if (listed.Take is not null)
        {
            _takes = (_takes.Files + sign, _takes.Growing + (listed.IsGrowing ? sign : 0), _takes.CutOff + (listed.NeedsRepair ? sign : 0), _takes.Waiting + (listed.IsWaiting ? sign : 0));
            Add(ref _takesFingerprint, sign, file, ((int)file.Use << 1) | (listed.IsGrowing ? 1 : 0));
        }
        if (file.Standing == Standing.Outside)
        {
            Add(ref _outsideFingerprint, sign, file, isLeftOut ? 1 : 0);
            if (file.IsNeededNow && !isLeftOut)
            {
                _ = sign > 0 ? _atRisk.Add(file.Path) : _atRisk.Remove(file.Path);
            }
            if (isLeftOut)
            {
                _leftOut += sign;
            }
            else
            {
                _taken = (_taken.Files + sign, _taken.Bytes + (sign * file.Bytes), _taken.OlderOnly + (file.Use == FileUse.OlderOnly ? sign : 0));
            }
        }
        if (listed.Origin is { } origin)
        {
            CountAt(origin, listed, isLeftOut, sign);
        }
    }

    private void CountAt(Origin origin, ListedFile listed, bool isLeftOut, int sign)
    {
        var (file, known) = (listed.File, listed.File.Known);
        var place = _places.GetValueOrDefault(origin.Place) ?? new PlaceCount(origin, 0, 0, 0, 0, 0, 0);
        place = file.Standing == Standing.Outside
            ? place with { Files = place.Files + sign, Bytes = place.Bytes + (sign * file.Bytes), LeftOut = place.LeftOut + (isLeftOut ? sign : 0) }
            : place with { Away = place.Away + sign, AwayBytes = place.AwayBytes + (sign * (known?.Bytes ?? 0)), AwayNotKnown = place.AwayNotKnown + (known is null ? sign : 0) };
        if (place.Files + place.Away == 0)
        {
            _places.Remove(origin.Place);
        }
        else
        {
            _places[origin.Place] = place;
        }
    }

    /// <summary>A sum of hashes: the same whatever the order, and a file can be taken out of it again.</summary>
    private static void Add(ref ulong sum, int sign, InventoryFile file, int state)
    {
        var hash = XxHash64.HashToUInt64(MemoryMarshal.AsBytes(file.Path.AsSpan()), (file.ModifiedUtc?.Ticks ?? 0) ^ ((long)state << 56) ^ (file.Bytes << 3));
        sum = unchecked(sign > 0 ? sum + hash : sum - hash);
    }
}
