using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Contents;

/// <summary>What it takes to bring contents back.</summary>
/// <param name="Steps">The steps; none where something stands in the way.</param>
/// <param name="Remarks">What whoever applies them should know.</param>
/// <param name="Refusals">Why they cannot be made.</param>
public sealed record ReturnSteps(ImmutableArray<PlanStep> Steps, ImmutableArray<Fault> Remarks, ImmutableArray<Fault> Refusals);

/// <summary>
/// Plans how contents come back, out of whatever holds them: a backup, a bundle, a folder. Every file has the bytes, the time and the
/// permissions that it had; documents are pointed, where they must be, at what their pointers led to then.
/// </summary>
/// <param name="contents">What comes.</param>
/// <param name="reading">What origins are read with.</param>
/// <param name="holds">Whether a file holds a content now.</param>
public sealed class ReturnPlanner(SessionContents contents, OriginReading reading, Func<string, ContentHash, bool> holds)
{
    private readonly Dictionary<string, ContentEntry> _outside = contents.Entries.Where(e => e.Outside is not null).DistinctBy(e => e.Outside).ToDictionary(e => e.Outside!, StringComparer.Ordinal);
    private readonly HashSet<string> _paths = [.. contents.Entries.Select(e => e.Path)];
    private readonly Dictionary<string, OutsideNow> _states = new(StringComparer.Ordinal);

    /// <summary>What stands where media outside stood.</summary>
    private enum OutsideNow
    {
        Same,
        Another,
        Nothing,
    }

    /// <summary>All of it into an empty place.</summary>
    /// <param name="parent">Absolute path of the folder that the session folder comes into.</param>
    /// <param name="name">Name of the session folder.</param>
    /// <param name="sessions">Absolute paths of the known sessions' folders.</param>
    public ReturnSteps Whole(string parent, string name, IEnumerable<string> sessions)
    {
        ArgumentNullException.ThrowIfNull(sessions);
        var folder = Path.Combine(parent, name);
        var refusals = Refusals(parent, name, folder, sessions).ToList();
        var remarks = new List<Fault>();
        if (!contents.LeftOut.IsEmpty)
        {
            remarks.Add(new Fault(FaultCode.BackupLeftOut) { Names = [.. contents.LeftOut.Select(l => l.Path)] });
        }
        if (refusals.Count > 0)
        {
            return new ReturnSteps([], [.. remarks], [.. refusals]);
        }
        var documents = new Dictionary<string, GivenBytes>(StringComparer.Ordinal);
        var missed = new HashSet<string>(StringComparer.Ordinal);
        foreach (var entry in contents.Entries.Where(IsPointing))
        {
            if (Repointed(entry, folder, missed) is { } changed)
            {
                documents[entry.Path] = changed;
            }
        }
        // What is still where documents point at would be a stray beside them.
        var stays = contents.Entries.Where(e => e.Outside is not null && contents.Pointers is not null && StateOf(e) == OutsideNow.Same).ToList();
        var coming = contents with
        {
            Entries = [.. contents.Entries.Except(stays).Select(e => documents.TryGetValue(e.Path, out var given) ? e with { Origin = given, Bytes = given.Content.Length } : e)],
        };
        refusals.AddRange(coming.Entries.SelectMany(e => e.Origin.Refusals(reading)).Distinct());
        remarks.AddRange(Remarks(stays, coming, documents, missed));
        IEnumerable<PlanStep> steps = refusals.Count > 0 ? [] : FolderContainer.Steps(
            coming, folder, [], e => e.Origin is GivenBytes ? "as it was, pointing at what it pointed at" : "as it was");
        return new ReturnSteps([.. steps], [.. remarks], [.. refusals]);
    }

    /// <summary>Single files, each to the place that it had. What is there as it was stays; another file in that place stays as well.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="paths">Paths from the session folder.</param>
    /// <param name="beside">What is put behind the name of a file whose place is taken.</param>
    public ReturnSteps Files(string folder, IReadOnlyCollection<string> paths, string beside)
    {
        ArgumentNullException.ThrowIfNull(paths);
        var chosen = contents.Entries.Where(e => paths.Contains(e.Path)).ToList();
        var (steps, refusals, remarks, there) = (new List<PlanStep>(), new List<Fault>(), new List<Fault>(), new List<string>());
        if (paths.Except(chosen.Select(c => c.Path)).Order(StringComparer.Ordinal).ToImmutableArray() is { Length: > 0 } unknown)
        {
            refusals.Add(new Fault(FaultCode.NotInTheVersion) { Names = unknown });
        }
        var folders = new HashSet<string>(StringComparer.Ordinal);
        var names = new Dictionary<string, FreeNames>(StringComparer.Ordinal);
        var modes = contents.Folders.DistinctBy(f => f.Path).ToDictionary(f => Path.Combine(folder, f.Path), StringComparer.Ordinal);
        foreach (var entry in chosen)
        {
            var place = Path.Combine(folder, entry.Path);
            if (FileFacts.OfName(place) is not null)
            {
                if (entry.Sha512 is { } hash && holds(place, hash))
                {
                    there.Add(entry.Path);
                    continue;
                }
                place = Beside(place, beside, names);
                remarks.Add(new Fault(FaultCode.ComesBackBeside) { Name = entry.Path, Other = Path.GetFileName(place) });
            }
            steps.AddRange(MissingFolders.Steps(Path.GetDirectoryName(place)!, folder, "as it was").Where(s => folders.Add(s.Destination)).Select(s => s with { Mode = modes.GetValueOrDefault(s.Destination)?.Mode }));
            refusals.AddRange(entry.Origin.Refusals(reading));
            steps.Add(new MakeFileStep(place, "as it was", entry.Origin, entry.Bytes));
        }
        if (there.Count > 0)
        {
            remarks.Add(new Fault(FaultCode.ThereAlready) { Names = [.. there] });
        }
        return new ReturnSteps(refusals.Count > 0 ? [] : [.. steps], [.. remarks], [.. refusals]);
    }

    private static string Beside(string place, string beside, Dictionary<string, FreeNames> names)
    {
        var folder = Path.GetDirectoryName(place)!;
        if (!names.TryGetValue(folder, out var free))
        {
            names[folder] = free = FreeNames.In(folder);
        }
        return Path.Combine(folder, free.ClaimAsItIs($"{Path.GetFileNameWithoutExtension(place)} {beside}{Path.GetExtension(place)}"));
    }

    private IEnumerable<Fault> Refusals(string parent, string name, string folder, IEnumerable<string> sessions)
    {
        if (!Directory.Exists(parent))
        {
            yield return new Fault(FaultCode.NoSuchFolder) { Path = parent };
        }
        else if (sessions.FirstOrDefault(s => ShelfPath.IsWithin(RealPath.Of(parent), RealPath.Of(s))) is { } session)
        {
            yield return new Fault(FaultCode.RestoreIntoSession) { Path = session };
        }
        else if (VaultAbove(RealPath.Of(parent)) is { } vault)
        {
            yield return new Fault(FaultCode.RestoreIntoVault) { Path = vault };
        }
        else if (FileFacts.OfName(folder) is not null && (!Directory.Exists(folder) || Directory.EnumerateFileSystemEntries(folder).Any()))
        {
            yield return new Fault(FaultCode.PlaceNotEmpty) { Path = folder };
        }
        if (PortableName.Problems(name) is { Count: > 0 } problems && (name != contents.Folder || !SessionLayout.IsBelow(name) || name.Contains('/', StringComparison.Ordinal)))
        {
            foreach (var problem in problems)
            {
                yield return problem;
            }
        }
    }

    /// <summary>The vault that a folder stands in; null for none.</summary>
    private static string? VaultAbove(string folder)
    {
        for (var at = folder; at is not null; at = Path.GetDirectoryName(at))
        {
            if (Path.GetFileName(at) == VaultNames.FolderName)
            {
                return at;
            }
        }
        return null;
    }

    private IEnumerable<Fault> Remarks(List<ContentEntry> stays, SessionContents coming, Dictionary<string, GivenBytes> documents, HashSet<string> missed)
    {
        if (stays.Count > 0)
        {
            yield return new Fault(FaultCode.StillOutside) { Names = [.. stays.Select(s => Path.GetFileName(s.Outside!))] };
        }
        var back = coming.Entries.Where(e => e.Outside is not null).ToList();
        if (back.Where(e => StateOf(e) == OutsideNow.Another).Select(e => Path.GetFileName(e.Outside!)).ToImmutableArray() is { Length: > 0 } another)
        {
            yield return new Fault(FaultCode.AnotherStandsOutside) { Names = another };
        }
        if (documents.Count > 0 && back.Count(e => StateOf(e) != OutsideNow.Same) is > 0 and var gone)
        {
            yield return new Fault(FaultCode.PointsAtWhatCameBack) { Count = gone, Names = [.. documents.Keys.Order(StringComparer.Ordinal)] };
        }
        if (missed.Count > 0)
        {
            yield return new Fault(FaultCode.OutsideNotThere) { Names = [.. missed.Order(StringComparer.Ordinal).Select(m => Path.GetFileName(m))] };
        }
    }

    // ----- where pointers led then, and lead now

    /// <summary>Documents that can be pointed elsewhere; kept states are never changed.</summary>
    private static bool IsPointing(ContentEntry entry) => entry.Role == ContentRole.Document && SessionFolder.IsDocument(Path.GetFileName(entry.Path));

    /// <summary>The document with its pointers leading to what they led to then; null where it can come as it is.</summary>
    private GivenBytes? Repointed(ContentEntry entry, string folder, HashSet<string> missed)
    {
        IRepointable document;
        try
        {
            document = DocumentFormats.Read<IRepointable>(entry.Path, MemorySink.Read(entry.Origin, DocumentFormats.MostBytes, reading));
        }
        catch (FaultException)
        {
            // One that nobody can read comes as it is; one whose content is damaged is told of when it is copied.
            return null;
        }
        var then = contents.Pointers?.FirstOrDefault(p => p.Document == entry.Path)?.Pointers.ToDictionary(p => p.Url, p => p.Path, StringComparer.Ordinal);
        // A document among the older ones points as if it stood at the top.
        var changed = document.Repoint(reference =>
        {
            var led = contents.Pointers is null ? Guessed(reference.TargetUrl, folder) : then?.GetValueOrDefault(reference.TargetUrl);
            return led is not null && PlaceOf(led, folder, missed) is { } place && MediaUrl.Candidates(reference.TargetUrl, folder) is var means && (means.Count == 0 || means[0] != place) ? new NewReference(MediaUrl.From(place, folder)) : null;
        });
        return changed == 0 ? null : new GivenBytes(document.ToBytes()) { Marks = entry.Marks };
    }

    /// <summary>Where what stood at a path stands now.</summary>
    private string PlaceOf(string path, string folder, HashSet<string> missed)
    {
        if (_outside.TryGetValue(path, out var outside))
        {
            return StateOf(outside) == OutsideNow.Same ? path : Path.Combine(folder, outside.Path);
        }
        var relative = contents.Stood is { } stood && ShelfPath.IsWithin(path, stood) ? Path.GetRelativePath(stood, path) : null;
        if (relative is not null && _paths.Contains(relative))
        {
            return Path.Combine(folder, relative);
        }
        if (FileFacts.Of(path) is not null)
        {
            return path;
        }
        missed.Add(path);
        return relative is null ? path : Path.Combine(folder, relative);
    }

    /// <summary>Where nobody wrote down where pointers led: what stood outside is known by its path, or by the end of it where the pointer leads up first.</summary>
    private string? Guessed(string url, string folder)
    {
        if (MediaUrl.Candidates(url, folder).FirstOrDefault(_outside.ContainsKey) is { } known)
        {
            return known;
        }
        var end = "/" + Uri.UnescapeDataString(url).TrimStart('.', '/');
        var fitting = MediaUrl.IsAbsolute(url) || !url.StartsWith("../", StringComparison.Ordinal) ? [] : _outside.Keys.Where(o => o.EndsWith(end, StringComparison.Ordinal)).Take(2).ToList();
        return fitting is [var only] ? only : null;
    }

    /// <summary>What stands where it stood: known by size and time, and by its content where the time is another.</summary>
    private OutsideNow StateOf(ContentEntry entry)
    {
        if (!_states.TryGetValue(entry.Outside!, out var state))
        {
            _states[entry.Outside!] = state = FileFacts.Of(entry.Outside!) switch
            {
                null or { IsRegular: false } => OutsideNow.Nothing,
                { } facts when facts.Bytes == entry.Bytes && (facts.ModifiedUtc == entry.Marks.ModifiedUtc || (entry.Sha512 is { } hash && holds(entry.Outside!, hash))) => OutsideNow.Same,
                _ => OutsideNow.Another,
            };
        }
        return state;
    }
}
