using System.Globalization;
using System.Text.RegularExpressions;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Record;

/// <summary>Finds the takes among a session's files, whichever program recorded them.</summary>
public static partial class TakeFinder
{
    /// <summary>What is added to the name of a recording when it is repaired on a copy.</summary>
    public const string RepairedSuffix = " repaired";

    /// <summary>The takes of a session, in the order of its files.</summary>
    public static IReadOnlyList<Take> Find(SessionInventory inventory)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        var inside = inventory.Standing(Standing.Inside).ToDictionary(f => f.Path, StringComparer.Ordinal);
        return [.. inventory.Files.Select(f => Of(f, inventory, inside.GetValueOrDefault)).OfType<Take>()];
    }

    /// <summary>The take that a file is; null for one that is none.</summary>
    /// <param name="file">The file.</param>
    /// <param name="inventory">The inventory that it is from.</param>
    /// <param name="find">Finds a file of the inventory by its path.</param>
    public static Take? Of(InventoryFile file, SessionInventory inventory, Func<string, InventoryFile?> find)
    {
        ArgumentNullException.ThrowIfNull(file);
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(find);
        return IsCandidate(file, inventory)
            ? TakeOf(file, inventory.Document?.Tracks ?? [], inventory.Document?.GlobalStart ?? default, p => find(p) is { } other && IsCandidate(other, inventory))
            : null;
    }

    /// <summary>The path of the recording of which a file is the repaired copy; null for any other file.</summary>
    public static string? OriginalOf(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        var stem = Path.GetFileNameWithoutExtension(path);
        return stem.EndsWith(RepairedSuffix, StringComparison.Ordinal)
            ? Path.Combine(Path.GetDirectoryName(path) ?? "", stem[..^RepairedSuffix.Length] + Path.GetExtension(path))
            : null;
    }

    private static bool IsCandidate(InventoryFile file, SessionInventory inventory) =>
        file.Standing == Standing.Inside && MediaFiles.KindOf(file.Path) == MediaKind.Audio
        && (file.ListedTake is not null || ShelfPath.IsWithin(file.Path, Path.Combine(inventory.Folder, inventory.Layout.Audio)));

    /// <summary>The track and the number that a file's name tells; null where it tells none.</summary>
    /// <param name="name">The file's name, with or without extension.</param>
    /// <param name="tracks">Names of the session's tracks.</param>
    public static (string? Track, int? Number) FromName(string name, IReadOnlyList<string> tracks)
    {
        ArgumentNullException.ThrowIfNull(tracks);
        var stem = Words(Path.GetFileNameWithoutExtension(name));
        // The longest name wins, so that "Cello low 02" is not taken for a take of "Cello".
        var track = tracks.Where(t => t.Length > 0 && Holds(stem, Words(t))).MaxBy(t => t.Length);
        if (track is null)
        {
            return (null, null);
        }
        var rest = stem.Replace(Words(track), " ", StringComparison.OrdinalIgnoreCase);
        var number = NumberPattern().Matches(rest).LastOrDefault();
        return (track, number is null ? null : int.Parse(number.Value, CultureInfo.InvariantCulture));
    }

    /// <summary>The number of the next take on a track.</summary>
    public static int NextNumber(IEnumerable<Take> takes, string track) =>
        1 + takes.Where(t => string.Equals(t.Track, track, StringComparison.OrdinalIgnoreCase)).Select(t => t.Number ?? 0).DefaultIfEmpty().Max();

    /// <summary>The number of the next pass of the song.</summary>
    public static int NextPass(IEnumerable<Take> takes) => 1 + takes.Select(t => t.Pass ?? 0).DefaultIfEmpty().Max();

    private static Take? TakeOf(InventoryFile file, IReadOnlyList<string> tracks, ExactTime sessionStart, Predicate<string> isThere)
    {
        var (track, number, pass, evidence) = Label(file, tracks);
        if (evidence == TakeEvidence.None && file.Use is not (FileUse.Stray or FileUse.Named or FileUse.NamedNowhere or FileUse.Unknown))
        {
            // What stands on the list without a track is a sample that was copied in.
            return null;
        }
        var repaired = Path.Combine(Path.GetDirectoryName(file.Path)!, Path.GetFileNameWithoutExtension(file.Path) + RepairedSuffix + Path.GetExtension(file.Path));
        return new Take(file, track, number, pass, evidence, Start(file.Header, sessionStart), isThere(repaired) ? Path.GetFileName(repaired) : null);
    }

    private static (string? Track, int? Number, int? Pass, TakeEvidence Evidence) Label(InventoryFile file, IReadOnlyList<string> tracks)
    {
        if (file.ListedTake is { } listed)
        {
            return (listed.Track, listed.Number, listed.Pass, TakeEvidence.List);
        }
        var (namedTrack, namedNumber) = FromName(file.Name, tracks);
        var pass = Number(PassPattern().Match(file.Header?.Broadcast?.Description ?? "")) ?? Number(PassPattern().Match(file.Header?.Ixml?.Note ?? ""));
        if (file.Header?.Ixml is { Tracks: [{ Name.Length: > 0 } first, ..] } ixml)
        {
            var known = tracks.FirstOrDefault(t => Words(t).Equals(Words(first.Name), StringComparison.OrdinalIgnoreCase)) ?? first.Name;
            return (known, int.TryParse(ixml.Take, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : namedNumber, pass, TakeEvidence.Ixml);
        }
        return (namedTrack, namedNumber, pass, namedTrack is null ? TakeEvidence.None : TakeEvidence.Name);
    }

    private static long? Start(MediaHeader? header, ExactTime sessionStart) => header?.Broadcast is { } broadcast
        && Rational.FromUInt64(broadcast.TimeReference) - (sessionStart.Seconds * Rational.FromInt64(header.SampleRate)) is var start
        // A time reference of more than 63 bits is no time of any day: it is as good as none.
        && start < Rational.FromInt64(long.MaxValue)
        ? start.Floor()
        : null;

    private static int? Number(Match match) => match.Success ? int.Parse(match.Groups[1].Value, CultureInfo.InvariantCulture) : null;

    /// <summary>The words of a name with one space between them.</summary>
    private static string Words(string name) => SeparatorPattern().Replace(name, " ").Trim();

    /// <summary>True when a track's name stands in a file's name as words of its own; a number may follow at once.</summary>
    private static bool Holds(string stem, string track)
    {
        for (var at = 0; track.Length > 0 && (at = stem.IndexOf(track, at, StringComparison.OrdinalIgnoreCase)) >= 0; at++)
        {
            var end = at + track.Length;
            if ((at == 0 || !char.IsLetterOrDigit(stem[at - 1])) && (end == stem.Length || !char.IsLetter(stem[end])))
            {
                return true;
            }
        }
        return false;
    }

    [GeneratedRegex(@"[\s_.\-]+")]
    private static partial Regex SeparatorPattern();

    [GeneratedRegex(@"\d{1,6}")]
    private static partial Regex NumberPattern();

    [GeneratedRegex(@"\bpass (\d{1,4})\b", RegexOptions.IgnoreCase)]
    private static partial Regex PassPattern();
}
