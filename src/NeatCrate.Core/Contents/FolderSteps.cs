using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Contents;

/// <summary>The steps that make the folders of contents where they come to stand.</summary>
public static class FolderSteps
{
    /// <summary>Makes the steps, each folder after the one above it. Those that are there are left as they are.</summary>
    /// <param name="folder">Absolute path of the session folder then.</param>
    /// <param name="folders">The folders, with what each had.</param>
    /// <param name="more">Paths of others that are to be there, from the session folder.</param>
    /// <param name="reason">What they are for.</param>
    public static IReadOnlyList<MakeFolderStep> Of(string folder, IEnumerable<ContentFolder> folders, IEnumerable<string> more, string reason)
    {
        ArgumentNullException.ThrowIfNull(folders);
        var known = folders.DistinctBy(f => f.Path).ToDictionary(f => f.Path, StringComparer.Ordinal);
        var all = known.Keys.Concat(more).SelectMany(WithThoseAbove).Append("").Distinct(StringComparer.Ordinal).Order(StringComparer.Ordinal);
        return
        [
            .. all.Select(f => (Path: f.Length == 0 ? folder : Path.Combine(folder, f), Known: known.GetValueOrDefault(f))).Where(f => !Directory.Exists(f.Path))
                .Select(f => new MakeFolderStep(f.Path, f.Path == folder ? "the session folder" : reason) { Mode = f.Known?.Mode, Time = f.Known?.Time }),
        ];
    }

    private static IEnumerable<string> WithThoseAbove(string folder)
    {
        for (var at = folder; !string.IsNullOrEmpty(at); at = Path.GetDirectoryName(at))
        {
            yield return at;
        }
    }
}
