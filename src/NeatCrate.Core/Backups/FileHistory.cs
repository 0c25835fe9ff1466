using System.Collections.Immutable;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Backups;

/// <summary>What a version says of files.</summary>
/// <param name="Key">What it is known by.</param>
/// <param name="Saved">When it is from, in local time.</param>
/// <param name="Uses">Absolute paths of the media that its document plays, or names; null where it has none that can be read.</param>
/// <param name="Holds">Absolute paths of the files that were there; null for one of a document alone, which does not know.</param>
public sealed record VersionFiles(string Key, DateTime Saved, IReadOnlySet<string>? Uses, IReadOnlySet<string>? Holds)
{
    /// <summary>True where its document is of another program: it names those files, and whether it plays them is not known.</summary>
    public bool IsByNames { get; init; }
}

/// <summary>When a file was used, and there, as far as versions tell.</summary>
/// <param name="LastUsed">Key of the newest version that plays or names it; null for none.</param>
/// <param name="NotUsedSince">Key of the oldest version after that, which does not play it any more.</param>
/// <param name="LastThere">Key of the newest full backup that holds it.</param>
/// <param name="NotThereSince">Key of the oldest full backup after that, which does not hold it any more.</param>
/// <param name="Asked">How many versions were looked at.</param>
/// <param name="Unreadable">How many of them could not be read.</param>
public sealed record FileHistory(string? LastUsed, string? NotUsedSince, string? LastThere, string? NotThereSince, int Asked, int Unreadable)
{
    /// <summary>True where <see cref="LastUsed"/> only names it, or where no version that can be read does more than name files.</summary>
    public bool IsByNames { get; init; }

    private static readonly ImmutableHashSet<string> NoFiles = [];

    /// <summary>Asks all versions.</summary>
    /// <param name="path">Absolute path of the file.</param>
    /// <param name="versions">The versions, in any order.</param>
    public static FileHistory Of(string path, IEnumerable<VersionFiles> versions) => Of([path], versions)[0];

    /// <summary>Asks all versions for several files.</summary>
    /// <param name="paths">Absolute paths of the files.</param>
    /// <param name="versions">The versions, in any order.</param>
    /// <returns>In the order of <paramref name="paths"/>.</returns>
    public static ImmutableArray<FileHistory> Of(IEnumerable<string> paths, IEnumerable<VersionFiles> versions)
    {
        ArgumentNullException.ThrowIfNull(paths);
        ArgumentNullException.ThrowIfNull(versions);
        var order = versions.OrderByDescending(v => v.Saved).ThenByDescending(v => v.Key, StringComparer.Ordinal).ToImmutableArray();
        var read = order.Where(v => v.Uses is not null).ToList();
        var unreadable = order.Count(v => v.Uses is null && v.Holds is null);
        return
        [
            .. paths.Select(path =>
            {
                var (used, notUsed) = Last(read, v => v.Uses!.Contains(path));
                var (there, notThere) = Last(order.Where(v => v.Holds is not null), v => v.Holds!.Contains(path));
                return new FileHistory(used, notUsed, there, notThere, order.Length, unreadable) { IsByNames = used is null ? read.Count > 0 && read.TrueForAll(v => v.IsByNames) : read.Find(v => v.Key == used)!.IsByNames };
            }),
        ];
    }

    /// <summary>Absolute paths of the files that versions play or hold, by parts of their names, whether the session knows them still or not.</summary>
    /// <param name="text">Words, each of which must stand in the name; case and the form of composed letters do not matter.</param>
    /// <param name="versions">The versions.</param>
    /// <returns>By name, then by path; none where there is no word.</returns>
    public static ImmutableArray<string> Named(string text, IEnumerable<VersionFiles> versions)
    {
        ArgumentNullException.ThrowIfNull(text);
        ArgumentNullException.ThrowIfNull(versions);
        var words = PortableName.ClashKey(text).Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var all = words.Length == 0 ? [] : versions.SelectMany(v => (v.Uses ?? NoFiles).Concat(v.Holds ?? NoFiles)).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. all.Select(p => (Path: p, Key: PortableName.ClashKey(Path.GetFileName(p)))).Where(f => words.All(w => f.Key.Contains(w, StringComparison.Ordinal)))
                .OrderBy(f => f.Key, StringComparer.Ordinal).ThenBy(f => f.Path, StringComparer.Ordinal).Select(f => f.Path),
        ];
    }

    private static (string? Last, string? NotSince) Last(IEnumerable<VersionFiles> newestFirst, Func<VersionFiles, bool> has)
    {
        string? after = null;
        foreach (var version in newestFirst)
        {
            if (has(version))
            {
                return (version.Key, after);
            }
            after = version.Key;
        }
        return (null, null);
    }
}
