using System.Globalization;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Record;

/// <summary>The file of a take that is about to be recorded.</summary>
/// <param name="Track">Name of its track.</param>
/// <param name="Number">Its number on the track.</param>
/// <param name="Path">Absolute path of the file.</param>
/// <param name="MirrorPath">Absolute path of its mirror; null for none.</param>
public sealed record NewTake(string Track, int Number, string Path, string? MirrorPath);

/// <summary>Gives out the files of new takes: the track's name and the next number, free in the session and on its mirror.</summary>
public static class TakeNames
{
    /// <summary>The armed tracks with their files.</summary>
    /// <param name="tracks">Names of the tracks.</param>
    /// <param name="takes">Takes that are there.</param>
    /// <param name="sessionFolder">Absolute path of the session folder.</param>
    /// <param name="audioFolder">The audio folder in it.</param>
    /// <param name="mirror">The mirror's shelf, if there is one.</param>
    public static IReadOnlyList<NewTake> For(IReadOnlyList<string> tracks, IReadOnlyList<Take> takes, string sessionFolder, string audioFolder, Shelf? mirror)
    {
        ArgumentNullException.ThrowIfNull(tracks);
        ArgumentNullException.ThrowIfNull(takes);
        var folder = Path.Combine(sessionFolder, audioFolder);
        var mirrorFolder = mirror is null ? null : MirrorPlanner.FolderFor(mirror, sessionFolder);
        var taken = Keys(folder).Union(Keys(mirrorFolder)).ToHashSet(StringComparer.Ordinal);
        var armed = new List<NewTake>();
        foreach (var track in tracks)
        {
            var number = TakeFinder.NextNumber(takes, track);
            while (!taken.Add(PortableName.ClashKey(Name(track, number))))
            {
                number++;
            }
            var name = Name(track, number);
            armed.Add(new NewTake(track, number, Path.Combine(folder, name), mirrorFolder is null ? null : Path.Combine(mirrorFolder, name)));
        }
        return armed;
    }

    private static string Name(string track, int number) =>
        PortableName.Suggest(track) + " " + number.ToString("00", CultureInfo.InvariantCulture) + ".wav";

    private static IEnumerable<string> Keys(string? folder) =>
        Directory.Exists(folder) ? Directory.EnumerateFileSystemEntries(folder).Select(e => PortableName.ClashKey(Path.GetFileName(e))) : [];
}
