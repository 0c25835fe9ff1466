using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Backups;

/// <summary>What became of a track, or of a clip, from one version to another.</summary>
public enum VersionChange
{
    /// <summary>Only the later version has it.</summary>
    Added,

    /// <summary>Only the earlier version has it.</summary>
    Gone,

    /// <summary>It plays the same at another time, or on another track.</summary>
    Moved,

    /// <summary>It plays another part, or is otherwise in something else.</summary>
    Changed,
}

/// <summary>A clip that is otherwise.</summary>
/// <param name="Change">What became of it.</param>
/// <param name="Name">Its name, or that of the file that it plays.</param>
/// <param name="Path">Absolute path of the file that it plays, as far as a pointer tells; null for none.</param>
/// <param name="Before">Where it began, in seconds from the start of the timeline; null where it was not, or nobody knows.</param>
/// <param name="After">Where it begins.</param>
/// <param name="OtherTrack">For one that moved to another track: the track that it came from.</param>
public sealed record ClipDifference(VersionChange Change, string Name, string? Path, double? Before, double? After, string? OtherTrack = null);

/// <summary>A track that is otherwise.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Change">Added, gone, or changed in its clips.</param>
/// <param name="Clips">Its clips that are otherwise, by time.</param>
/// <param name="Same">How many clips are as they were.</param>
public sealed record TrackDifference(string Name, VersionChange Change, ImmutableArray<ClipDifference> Clips, int Same);

/// <summary>A media file that only one of two versions uses.</summary>
/// <param name="Path">Absolute path, as far as a pointer tells.</param>
/// <param name="IsNewlyUsed">True where only the later version uses it.</param>
public sealed record FileDifference(string Path, bool IsNewlyUsed);

/// <summary>What differs between two versions of a session document.</summary>
/// <param name="Tracks">Tracks that are otherwise, in the later version's order, then those that are gone.</param>
/// <param name="Files">Files that only one of them uses, by path.</param>
/// <param name="Others">True where the documents differ in something that is told by none of these.</param>
public sealed record VersionDifference(ImmutableArray<TrackDifference> Tracks, ImmutableArray<FileDifference> Files, bool Others);

/// <summary>Compares two versions of a session document in a musician's terms. A pure function.</summary>
public static class VersionComparison
{
    /// <summary>Two places on a timeline that differ by less are the same, in seconds: less than a sample at any rate in use.</summary>
    private const double SameTime = 1e-6;

    /// <summary>Compares.</summary>
    /// <param name="before">The earlier version.</param>
    /// <param name="after">The later one.</param>
    /// <param name="sessionFolder">Absolute path of the session folder, from which pointers lead.</param>
    public static VersionDifference Compare(ITracks before, ITracks after, string sessionFolder)
    {
        ArgumentNullException.ThrowIfNull(before);
        ArgumentNullException.ThrowIfNull(after);
        var (then, now) = (Tracks(before, sessionFolder), Tracks(after, sessionFolder));
        var pairs = Pair(then, now);
        var compared = pairs.ConvertAll(p => (p.Before, p.After, Clips: Compare(p.Before?.Clips ?? [], p.After?.Clips ?? [])));
        AcrossTracks(compared.ConvertAll(c => ((c.After ?? c.Before)!.Name, c.Clips)));
        var tracks = compared
            .Select(c => new TrackDifference(
                (c.After ?? c.Before)!.Name, c.Before is null ? VersionChange.Added : c.After is null ? VersionChange.Gone : VersionChange.Changed,
                [.. c.Clips.Differences.OrderBy(d => d.After ?? d.Before ?? 0)], c.Clips.Same))
            .Where(t => t.Change != VersionChange.Changed || t.Clips.Length > 0).ToImmutableArray();
        return new VersionDifference(tracks, Files(Used(before, sessionFolder), Used(after, sessionFolder)), tracks.IsEmpty && !before.ToBytes().AsSpan().SequenceEqual(after.ToBytes()));
    }

    /// <summary>Compares two of which one at least is only known by what it names.</summary>
    /// <param name="then">Absolute paths of the files that the earlier one names or plays.</param>
    /// <param name="now">The same of the later one.</param>
    /// <param name="isSame">Whether the two are the same to the byte.</param>
    public static VersionDifference CompareFiles(IReadOnlySet<string> then, IReadOnlySet<string> now, bool isSame)
    {
        var files = Files(then, now);
        return new VersionDifference([], files, files.IsEmpty && !isSame);
    }

    private static ImmutableArray<FileDifference> Files(IReadOnlySet<string> then, IReadOnlySet<string> now) =>
        [.. now.Except(then).Select(f => new FileDifference(f, true)).Concat(then.Except(now).Select(f => new FileDifference(f, false))).OrderBy(f => f.Path, StringComparer.Ordinal)];

    /// <summary>Absolute paths, in order, of the media that a document on the disk plays and that are not there now.</summary>
    /// <exception cref="FaultException">It cannot be read, or is of a format that nobody reads.</exception>
    public static ImmutableArray<string> NotThere(string path, string sessionFolder) =>
        [.. Used(DocumentFormats.ReadFile<IMediaPointers>(path), sessionFolder).Where(p => !File.Exists(p)).Order(StringComparer.Ordinal)];

    /// <summary>Absolute paths of all media that a version's clips play.</summary>
    public static IReadOnlySet<string> Used(IMediaPointers document, string sessionFolder)
    {
        ArgumentNullException.ThrowIfNull(document);
        return document.References.Where(r => r.Placed).Select(r => PathOf(r.TargetUrl, sessionFolder)).OfType<string>().ToHashSet(StringComparer.Ordinal);
    }

    private sealed record Clip(string Name, string? Path, string Range, double? Start, string Text);

    private sealed record Track(string Name, List<Clip> Clips);

    private sealed class ClipsCompared
    {
        public List<ClipDifference> Differences { get; } = [];

        public List<Clip> Gone { get; } = [];

        public List<Clip> Added { get; } = [];

        public int Same { get; set; }
    }

    private static List<Track> Tracks(ITracks document, string folder) => [.. document.TopTracks.Select(t => new Track(t["name"]?.AsText ?? "", [.. Clips(t, folder)]))];

    private static IEnumerable<Clip> Clips(JsonItem track, string folder)
    {
        Rational? at = Rational.Zero;
        foreach (var item in track["children"]?.Items ?? [])
        {
            if (item.Kind == JsonKind.Map && !ClipPlacer.IsGap(item) && !ClipPlacer.Is(item, "Transition"))
            {
                var url = ClipPlacer.Is(item, "Clip") ? ClipPlacer.Reference(item)?["target_url"]?.AsText : null;
                var path = url is null ? null : PathOf(url, folder);
                var name = item["name"]?.AsText is { Length: > 0 } named ? named : path is null ? "" : Path.GetFileName(path);
                yield return new Clip(name, path, item["source_range"]?.ToText() ?? "", at?.ToDouble(), item.ToText());
            }
            at = at is { } before && ClipPlacer.LengthOf(item) is { } length ? before + length : null;
        }
    }

    private static string? PathOf(string url, string folder) => MediaUrl.Candidates(url, folder) is [var path, ..] ? path : null;

    /// <summary>Tracks of the same name belong together, the first to the first; what is left over is added or gone.</summary>
    private static List<(Track? Before, Track? After)> Pair(List<Track> then, List<Track> now)
    {
        var left = then.ToList();
        var pairs = new List<(Track? Before, Track? After)>();
        foreach (var track in now)
        {
            var same = left.Find(t => t.Name == track.Name);
            if (same is not null)
            {
                left.Remove(same);
            }
            pairs.Add((same, track));
        }
        pairs.AddRange(left.Select(t => ((Track?)t, (Track?)null)));
        return pairs;
    }

    /// <summary>First what is the same in all, then what plays the same elsewhere, then what plays the same file there, or goes by the same name.</summary>
    private static ClipsCompared Compare(List<Clip> before, List<Clip> after)
    {
        var compared = new ClipsCompared();
        var (left, open) = (before.ToList(), after.ToList());
        compared.Same = Match(left, open, (b, a) => b.Text == a.Text && At(b, a), null);
        Match(left, open, (b, a) => b.Path == a.Path && b.Range == a.Range && b.Name == a.Name && At(b, a), (b, a) => compared.Differences.Add(Difference(VersionChange.Changed, b, a)));
        Match(left, open, (b, a) => b.Path == a.Path && b.Range == a.Range && b.Path is not null, (b, a) => compared.Differences.Add(Difference(VersionChange.Moved, b, a)));
        Match(left, open, (b, a) => b.Path == a.Path && b.Path is not null && At(b, a), (b, a) => compared.Differences.Add(Difference(VersionChange.Changed, b, a)));
        Match(left, open, (b, a) => b.Name == a.Name && b.Name.Length > 0 && (b.Path == a.Path || At(b, a)), (b, a) => compared.Differences.Add(Difference(VersionChange.Changed, b, a)));
        compared.Gone.AddRange(left);
        compared.Added.AddRange(open);
        return compared;
    }

    private static int Match(List<Clip> before, List<Clip> after, Func<Clip, Clip, bool> belong, Action<Clip, Clip>? matched)
    {
        var count = 0;
        for (var n = 0; n < after.Count; n++)
        {
            if (before.FindIndex(b => belong(b, after[n])) is var at && at >= 0)
            {
                matched?.Invoke(before[at], after[n]);
                before.RemoveAt(at);
                after.RemoveAt(n--);
                count++;
            }
        }
        return count;
    }

    /// <summary>What is gone from one track and stands on another one, playing the same, has moved.</summary>
    private static void AcrossTracks(List<(string Name, ClipsCompared Clips)> tracks)
    {
        foreach (var (_, to) in tracks)
        {
            foreach (var clip in to.Added.ToList())
            {
                var from = tracks.Find(t => t.Clips.Gone.Exists(g => IsSame(g, clip)));
                if (from.Clips is { } clips && clips.Gone.Find(g => IsSame(g, clip)) is { } gone)
                {
                    clips.Gone.Remove(gone);
                    to.Added.Remove(clip);
                    to.Differences.Add(Difference(VersionChange.Moved, gone, clip) with { OtherTrack = from.Name });
                }
            }
        }
        foreach (var (_, clips) in tracks)
        {
            clips.Differences.AddRange(clips.Gone.Select(g => Difference(VersionChange.Gone, g, null)));
            clips.Differences.AddRange(clips.Added.Select(a => Difference(VersionChange.Added, null, a)));
        }

        static bool IsSame(Clip one, Clip other) => one.Path is not null && one.Path == other.Path && one.Range == other.Range;
    }

    private static ClipDifference Difference(VersionChange change, Clip? before, Clip? after) => new(change, (after ?? before)!.Name, (after ?? before)!.Path, before?.Start, after?.Start);

    private static bool At(Clip before, Clip after) => before.Start is { } b && after.Start is { } a ? Math.Abs(b - a) < SameTime : before.Start is null && after.Start is null;
}
