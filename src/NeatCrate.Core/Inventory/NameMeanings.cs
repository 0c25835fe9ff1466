using NeatCrate.Core.Documents;
using NeatCrate.Core.Names;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>A file that a name in a document means.</summary>
/// <param name="Path">Absolute path of the file, or where it should be; as it is written where that is no place here.</param>
/// <param name="Written">The name as the document writes it.</param>
/// <param name="Times">How often it is named so.</param>
/// <param name="Knowledge"><see cref="UseKnowledge.Named"/>, or <see cref="UseKnowledge.MayBeNamed"/> where it is open which of several is meant, or whether the name still counts.</param>
public sealed record NameMeaning(string Path, string Written, int Times, UseKnowledge Knowledge);

/// <summary>The media files of a session folder by their names.</summary>
internal sealed class FolderNames
{
    private readonly Dictionary<string, List<string>> _byName = new(StringComparer.Ordinal);
    private readonly HashSet<string> _paths = new(StringComparer.Ordinal);

    /// <summary>Takes them in.</summary>
    /// <param name="paths">Absolute paths of the media files in the folder.</param>
    public FolderNames(IEnumerable<string> paths)
    {
        foreach (var path in paths)
        {
            _paths.Add(path);
            var key = Key(Path.GetFileName(path));
            (_byName.TryGetValue(key, out var those) ? those : _byName[key] = []).Add(path);
        }
    }

    /// <summary>How many there are.</summary>
    public int Count => _paths.Count;

    /// <summary>True where a media file stands at a path in the folder.</summary>
    public bool Holds(string path) => _paths.Contains(path);

    /// <summary>The files of a name, whatever Unicode form it has.</summary>
    public IReadOnlyList<string> Of(string name) => _byName.GetValueOrDefault(Key(name)) ?? [];

    /// <summary>The same name in another Unicode form is the same name.</summary>
    public static string Key(string name) => PortableName.Composed(name);
}

/// <summary>
/// What the names in a document of any program mean (common practice, told in docs/names.md): a path that leads to a file means that
/// file; one that could be followed here and leads nowhere is missing, whatever else has its name; one of another machine means the file
/// whose end of path agrees by folder and name; a bare name means the one file of that name in the session folder.
/// </summary>
/// <param name="session">Absolute path of the session folder.</param>
/// <param name="media">The media files in it.</param>
/// <param name="audio">Name of the folder for audio in it.</param>
/// <param name="exists">Whether a file stands at a path outside of it.</param>
/// <param name="shelves">All known shelves.</param>
internal sealed class NameMeanings(string session, FolderNames media, string audio, Func<string, bool> exists, IReadOnlyList<Shelf> shelves)
{
    // Many names lead to few folders, each of which is asked for once.
    private readonly Dictionary<string, bool> _foldersHere = new(StringComparer.Ordinal);

    // So many have to lead to a file before something is supposed to stand before each of them.
    private const int LeastSupposed = 2;

    // So many names have to agree before what they say goes before what one name says.
    private const int LeastVotes = 2;

    /// <summary>What one reading of a name leads to.</summary>
    /// <param name="Reading">The reading.</param>
    /// <param name="Files">Absolute paths of the files that it may mean; none where it leads to none.</param>
    /// <param name="Agreed">How many folders of a path of another machine agree; 0 where it is none of these.</param>
    /// <param name="From">The folder of that machine that stands for the session folder; null where the path does not reach up to it.</param>
    private sealed record Led(NameReading Reading, IReadOnlyList<string> Files, int Agreed = 0, string? From = null)
    {
        public WrittenPath Path => Reading.Path;
    }

    private sealed class Name(FoundName found)
    {
        public FoundName Found => found;

        public List<Led> Readings { get; init; } = [];

        /// <summary>The reading that counts.</summary>
        public Led Chosen { get; set; } = null!;
    }

    /// <summary>What the names of one document mean.</summary>
    /// <param name="names">The names.</param>
    /// <param name="folder">Absolute path of the folder that the document stands in.</param>
    public IReadOnlyList<NameMeaning> Of(IReadOnlyCollection<FoundName> names, string folder)
    {
        var all = names.Select(n => new Name(n) { Readings = [.. n.Readings.Select(r => Follow(r, folder, n))] }).ToList();
        var votes = new Dictionary<string, int>(StringComparer.Ordinal);
        foreach (var name in all)
        {
            name.Chosen = name.Readings.Find(r => r.Files.Count > 0 && !r.Reading.IsSupposed) ?? name.Readings[0];
            if (name.Chosen.Files.Count > 0)
            {
                votes[name.Chosen.Reading.Left] = votes.GetValueOrDefault(name.Chosen.Reading.Left) + 1;
            }
        }
        var supposed = all.Where(n => n.Chosen.Files.Count == 0).SelectMany(n => n.Readings.Where(r => r.Reading.IsSupposed && r.Files.Count > 0)).GroupBy(r => r.Reading.Left).ToList();
        if (supposed.MaxBy(g => g.Count()) is { } most && most.Count() >= LeastSupposed && most.Count() > votes.Values.Sum())
        {
            votes[most.Key] = most.Count();
        }
        foreach (var name in all)
        {
            name.Chosen = Agreed(name, votes);
        }
        KeepTheNearest(all);
        var roots = KeepToOneRoot(all);
        return [.. Meant(all, roots, folder)];
    }

    /// <summary>All file names that the names may have: where one of these comes or goes, they may mean something else.</summary>
    public static IEnumerable<string> NamesIn(IEnumerable<FoundName> names) =>
        names.SelectMany(n => n.Readings).Select(r => FolderNames.Key(r.Path.Name)).Distinct(StringComparer.Ordinal);

    // ----- readings

    /// <summary>Whether a path outside of the session folder is one of this machine, so that it can be followed: a shelf holds it, or its folder is there.</summary>
    private bool IsPlaceHere(string path) => Path.GetDirectoryName(path) is { } of
        && (_foldersHere.TryGetValue(of, out var isHere) ? isHere : _foldersHere[of] = Shelf.Holding(shelves, path) is not null || Directory.Exists(of));

    private Led Follow(NameReading reading, string folder, FoundName name)
    {
        var path = reading.Path;
        Led To(string? file) => new(reading, file is null ? [] : [file]);
        switch (path.Root)
        {
            case PathRoot.Absolute:
                var absolute = Path.GetFullPath(path.Plain);
                if (Stands(absolute) is { } there)
                {
                    return To(there);
                }
                return ShelfPath.IsWithin(absolute, session) || IsPlaceHere(absolute) ? To(null) : FromElsewhere(reading);
            case PathRoot.OtherMachine:
                return FromElsewhere(reading);
            case PathRoot.Relative:
                return To(new[] { folder, session, Path.Combine(session, audio) }.Select(b => Stands(Path.GetFullPath(path.Plain, b))).FirstOrDefault(f => f is not null));
            default:
                var those = media.Of(path.Name);
                return new Led(reading, those.Count > 1 ? ByFolder(those, name) : those);
        }
    }

    /// <summary>The file at a path, in whatever Unicode form it is written; null where none stands there.</summary>
    private string? Stands(string path)
    {
        if (!ShelfPath.IsWithin(path, session))
        {
            return exists(path) ? path : null;
        }
        return media.Holds(path) ? path : media.Of(Path.GetFileName(path)).FirstOrDefault(f => FolderNames.Key(f) == FolderNames.Key(path));
    }

    /// <summary>Which of several files of one name is meant, by the folder that stands beside the name; all of them where that does not say.</summary>
    private IReadOnlyList<string> ByFolder(IReadOnlyList<string> files, FoundName name)
    {
        foreach (var text in name.Beside)
        {
            var parts = Parts(text);
            if (parts.Length == 0)
            {
                continue;
            }
            var those = files.Where(f => FoldersOf(f) is var folders && folders.Length > 0 && Agreeing(parts, folders) > 0).ToList();
            if (those.Count == 1)
            {
                return those;
            }
            if (those.Count > 1 && those.Where(f => Agreeing(parts, FoldersOf(f)) == those.Max(t => Agreeing(parts, FoldersOf(t)))).ToList() is { Count: 1 } one)
            {
                return one;
            }
        }
        return files;
    }

    private static string[] Parts(string text) => text.Split(['/', '\\', ':', '='], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);

    private string[] FoldersOf(string file) => Path.GetRelativePath(session, Path.GetDirectoryName(file)!) is var relative && relative == "." ? [] : relative.Split('/');

    /// <summary>How many folders two paths have in common, counted from their ends.</summary>
    private static int Agreeing(IReadOnlyList<string> one, string[] other)
    {
        var n = 0;
        while (n < one.Count && n < other.Length && FolderNames.Key(one[^(n + 1)]).Equals(FolderNames.Key(other[^(n + 1)]), StringComparison.OrdinalIgnoreCase))
        {
            n++;
        }
        return n;
    }

    /// <summary>The file in the session folder whose path ends as one of another machine does; the session folder's own name counts as its last.</summary>
    private Led FromElsewhere(NameReading reading)
    {
        var path = reading.Path;
        var best = new List<(string File, int Agreed, int Inside)>();
        var most = 0;
        foreach (var file in media.Of(path.Name))
        {
            var inside = FoldersOf(file);
            var agreed = Agreeing(path.Folders, [Path.GetFileName(session), .. inside]);
            // All of the way up to the session folder says more than one folder of that name somewhere in it.
            var weight = (2 * agreed) + (agreed >= inside.Length ? 1 : 0);
            if (agreed == 0 || weight < most)
            {
                continue;
            }
            if (weight > most)
            {
                best.Clear();
                most = weight;
            }
            best.Add((file, agreed, inside.Length));
        }
        return new Led(
            reading, [.. best.Select(b => b.File)], best.Select(b => b.Agreed).FirstOrDefault(),
            best is [var only] && only.Agreed >= only.Inside ? string.Join('/', path.Folders[..^Math.Min(only.Inside, path.Folders.Length)]) : null);
    }

    // ----- what names say together

    /// <summary>The reading that counts: names that a program writes alike stand behind the same text.</summary>
    private static Led Agreed(Name name, Dictionary<string, int> votes)
    {
        var (chosen, own) = (name.Chosen, votes.GetValueOrDefault(name.Chosen.Reading.Left));
        var other = name.Readings.Where(r => r.Reading.Left.Length > 0 && votes.GetValueOrDefault(r.Reading.Left) >= LeastVotes)
            .OrderByDescending(r => votes[r.Reading.Left]).FirstOrDefault();
        if (other is null || other.Reading.Left == chosen.Reading.Left)
        {
            return chosen;
        }
        if (chosen.Files.Count == 0)
        {
            return other;
        }
        // A part of a longer name is not that name, though a file is called so.
        return other.Reading.Left.Length < chosen.Reading.Left.Length && votes[other.Reading.Left] >= 2 * own ? other : chosen;
    }

    /// <summary>
    /// Where names lead from one folder of another machine into the session, one from another folder there is another file, though its
    /// last folder and its name agree. Gives the folders that count as the session's own.
    /// </summary>
    private HashSet<string> KeepToOneRoot(List<Name> all)
    {
        var roots = all.Where(n => n.Chosen.From is not null).GroupBy(n => n.Chosen.From!, StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.Count(), StringComparer.Ordinal);
        if (roots.Count == 0)
        {
            return [];
        }
        var most = roots.MaxBy(r => r.Value);
        var own = roots.Where(r => most.Value < LeastVotes || r.Key == most.Key || LastOf(r.Key) == LastOf(most.Key) || LastOf(r.Key) == Path.GetFileName(session))
            .Select(r => r.Key).ToHashSet(StringComparer.Ordinal);
        foreach (var name in all.Where(n => n.Chosen.From is { } from && !own.Contains(from)))
        {
            name.Chosen = name.Chosen with { Files = [], From = null };
        }
        return own;
    }

    /// <summary>Of two paths of other machines that lead to one file, the one that agrees less means another one.</summary>
    private static void KeepTheNearest(List<Name> all)
    {
        foreach (var rivals in all.Where(n => n.Chosen is { Agreed: > 0, Files.Count: 1 }).GroupBy(n => n.Chosen.Files[0], StringComparer.Ordinal))
        {
            var best = rivals.Max(n => n.Chosen.Agreed);
            foreach (var name in rivals.Where(n => n.Chosen.Agreed < best))
            {
                name.Chosen = name.Chosen with { Files = [], From = null };
            }
        }
    }

    private static string LastOf(string folder) => folder[(folder.LastIndexOf('/') + 1)..];

    // ----- meanings

    private IEnumerable<NameMeaning> Meant(List<Name> all, HashSet<string> roots, string folder)
    {
        var paths = new Dictionary<string, HashSet<string>>(StringComparer.Ordinal);
        foreach (var name in all.Where(n => n.Chosen.Path.Root != PathRoot.Bare && Counts(n)))
        {
            var key = FolderNames.Key(name.Chosen.Path.Name);
            (paths.TryGetValue(key, out var those) ? those : paths[key] = new(StringComparer.Ordinal)).UnionWith(Places(name.Chosen, roots, folder));
        }
        foreach (var name in all.Where(Counts))
        {
            var places = Places(name.Chosen, roots, folder);
            // A bare name beside a path of the same name is what the program shows of that.
            if (name.Chosen.Path.Root == PathRoot.Bare && paths.TryGetValue(FolderNames.Key(name.Chosen.Path.Name), out var pathed))
            {
                places = pathed.Count == 1 ? [.. pathed] : [.. pathed.Intersect(places)];
            }
            var knowledge = name.Found.IsLeftOver || places.Count > 1 ? UseKnowledge.MayBeNamed : UseKnowledge.Named;
            foreach (var place in places)
            {
                yield return new NameMeaning(place, name.Chosen.Reading.Text, name.Found.Times, knowledge);
            }
        }
    }

    /// <summary>What was left over and leads nowhere says nothing: whatever it named is not missing by it.</summary>
    private static bool Counts(Name name) => name.Chosen.Files.Count > 0 || !(name.Found.IsLeftOver || name.Found.IsTail);

    private IReadOnlyList<string> Places(Led led, HashSet<string> roots, string folder) => led.Files.Count > 0 ? led.Files : [Expected(led, roots, folder)];

    /// <summary>Where a file should be that is not there.</summary>
    private string Expected(Led led, HashSet<string> roots, string folder)
    {
        var path = led.Path;
        switch (path.Root)
        {
            case PathRoot.Absolute when ShelfPath.IsWithin(Path.GetFullPath(path.Plain), session) || IsPlaceHere(Path.GetFullPath(path.Plain)):
                return Path.GetFullPath(path.Plain);
            case PathRoot.Relative:
                return Path.GetFullPath(path.Plain, folder);
            case PathRoot.Bare:
                return Path.Combine(session, audio, path.Name);
            default:
                // In the same folder of the other machine as those that are here: it stands beside them.
                var root = roots.Where(r => path.Plain.TrimStart('/').StartsWith(r + "/", StringComparison.Ordinal)).MaxBy(r => r.Length);
                if (root is not null)
                {
                    return Path.GetFullPath(path.Plain.TrimStart('/')[(root.Length + 1)..], session);
                }
                var own = path.Folders.LastIndexOf(Path.GetFileName(session));
                return own >= 0 ? Path.Combine([session, .. path.Folders[(own + 1)..].Where(f => f != ".."), path.Name]) : led.Reading.Text;
        }
    }
}
