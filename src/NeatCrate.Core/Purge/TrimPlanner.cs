using System.Collections.Immutable;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Purge;

/// <summary>What is to be trimmed.</summary>
/// <param name="SessionId">The session.</param>
/// <param name="World">What the judgement is made of.</param>
/// <param name="Shelves">All known shelves.</param>
/// <param name="Choice">How files are trimmed.</param>
/// <param name="NowUtc">The time.</param>
public sealed record TrimRequest(Guid SessionId, PurgeWorld World, IReadOnlyList<Shelf> Shelves, TrimChoice Choice, DateTime NowUtc)
{
    /// <summary>Absolute path of the folder in which the copy of the session is made; null to trim the session itself.</summary>
    public string? CopyTo { get; init; }

    /// <summary>Name of the copy's folder.</summary>
    public string CopyName { get; init; } = "";

    /// <summary>Absolute paths of the files to trim; null for all that can be.</summary>
    public IReadOnlySet<string>? Chosen { get; init; }
}

/// <summary>
/// Plans how files are cut to the parts that documents use, with handles. The standard is a copy of the session elsewhere, which
/// leaves this one as it is; in place the originals are set aside, not gone. Every clip of every document that counts plays the
/// same samples afterwards.
/// </summary>
public static class TrimPlanner
{
    /// <summary>What is added to the name of a file that is trimmed in place.</summary>
    public const string TrimmedSuffix = " trimmed";

    /// <summary>Makes the plan. Headers are read, and nothing is changed.</summary>
    public static Plan Plan(TrimRequest request)
    {
        ArgumentNullException.ThrowIfNull(request);
        var inPlace = request.CopyTo is null;
        var judged = TrimJudge.Judge(request.World, request.Shelves, request.Choice, inPlace);
        var trimmed = judged.Where(j => j.Left == LeftWhole.No && (request.Chosen?.Contains(j.File.Path) ?? true)).ToList();
        var refusals = Refusals(request, trimmed).ToList();
        if (refusals.Count > 0)
        {
            return Make(request, "Nothing is trimmed.", [], [], refusals);
        }
        var remarks = Remarks(judged);
        remarks.AddRange(Uncounted(request, trimmed, inPlace));
        return inPlace ? new InPlace(request, trimmed).Plan(remarks) : new Elsewhere(request, trimmed).Plan(remarks);
    }

    private static IEnumerable<Fault> Refusals(TrimRequest request, List<TrimmedFile> trimmed)
    {
        var inventory = request.World.Inventory;
        if (inventory.UnknownFolders.Contains(inventory.Folder))
        {
            yield return new Fault(FaultCode.UseCannotBeKnown) { Names = inventory.UnknownFor };
            yield break;
        }
        if (trimmed.Count == 0)
        {
            yield return new Fault(FaultCode.NothingToTrim);
        }
        foreach (var growing in request.World.Growing)
        {
            yield return new Fault(FaultCode.StillGrowing) { Path = growing };
        }
        if (request.CopyTo is not { } folder)
        {
            if (inventory.HeldProblem is { } problem)
            {
                yield return problem;
            }
            yield break;
        }
        if (!Directory.Exists(folder))
        {
            yield return new Fault(FaultCode.NoSuchFolder) { Path = folder };
        }
        else if (ShelfPath.IsWithin(RealPath.Of(folder), RealPath.Of(inventory.Folder)))
        {
            yield return new Fault(FaultCode.CopyInsideSession) { Path = inventory.Folder };
        }
        if (PortableName.Problems(request.CopyName) is { Count: > 0 } problems)
        {
            yield return problems[0];
        }
    }

    /// <summary>Versions that do not count: in place they miss what goes, and in a copy they are left out.</summary>
    private static IEnumerable<Fault> Uncounted(TrimRequest request, List<TrimmedFile> trimmed, bool inPlace)
    {
        var inventory = request.World.Inventory;
        if (inPlace && KeptSavesMissing.Of(request.World, trimmed.Select(t => t.File.Path)) is { } saves)
        {
            yield return saves;
        }
        if (request.Choice.OlderVersions)
        {
            yield break;
        }
        if (!inPlace && inventory.Documents.Where(d => !d.Current && d.Document is not null).Select(d => Path.GetFileNameWithoutExtension(d.Path)).ToImmutableArray() is { Length: > 0 } behind)
        {
            yield return new Fault(FaultCode.VersionsStayBehind) { Names = behind };
        }
        var missing = trimmed.Select(t => request.World.Uses.GetValueOrDefault(t.File.Path)?.Where(u => !u.IsCurrent).Select(u => Path.GetFileNameWithoutExtension(u.Document)) ?? []).Where(d => d.Any()).ToList();
        if (inPlace && missing.Count > 0)
        {
            yield return new Fault(FaultCode.MissedBy) { Count = missing.Count, Names = [.. missing.SelectMany(m => m).Distinct(StringComparer.Ordinal)] };
        }
    }

    private static List<Fault> Remarks(IReadOnlyList<TrimmedFile> judged)
    {
        List<Fault> remarks = [];
        foreach (var (why, code) in new[] { (LeftWhole.Format, FaultCode.LeftWholeLossy), (LeftWhole.NotKnown, FaultCode.LeftWholeUnknown), (LeftWhole.Shared, FaultCode.LeftWholeShared), (LeftWhole.KeptSave, FaultCode.LeftWholeKeptSave) })
        {
            if (judged.Where(j => j.Left == why).Select(j => j.File.Name).ToImmutableArray() is { Length: > 0 } names)
            {
                remarks.Add(new Fault(code) { Names = names });
            }
        }
        return remarks;
    }

    private static Plan Make(TrimRequest request, string sentence, IEnumerable<PlanStep> steps, IEnumerable<Fault> remarks, List<Fault> refusals) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.Trim,
        SessionId = request.SessionId,
        Sentence = sentence,
        WritableRoots = [request.CopyTo ?? request.World.Inventory.Folder],
        Steps = refusals.Count > 0 ? [] : [.. steps],
        KeepsFolderTimes = request.CopyTo is null,
        Remarks = [.. remarks],
        Refusals = [.. refusals],
    };

    /// <summary>What a reference to a file says that becomes one file or several: the one that holds what the reference plays.</summary>
    private static NewPlace Place(MediaReference reference, TrimmedFile file, IReadOnlyList<string> paths)
    {
        var rate = file.File.Header!.SampleRate;
        var range = reference.Placed ? TrimJudge.RangeOf(reference, file.File) : default;
        var piece = Math.Max(0, file.Kept.FindIndex(k => k.Start <= range.Start && range.End <= k.End && reference.Placed));
        var kept = file.Kept[piece];
        return reference.AvailableStart is { } start
            ? new NewPlace(paths[piece], TrimJudge.NewStart(start, kept.Start, kept.Length, rate))
            : new NewPlace(paths[piece], null, reference.Placed && kept.Start > 0 ? new FrontCut(kept.Start, rate) : null);
    }

    private static int FindIndex(this ImmutableArray<SampleRange> ranges, Predicate<SampleRange> match)
    {
        for (var n = 0; n < ranges.Length; n++)
        {
            if (match(ranges[n]))
            {
                return n;
            }
        }
        return -1;
    }

    private static string Reason(TrimmedFile file, int piece)
    {
        var rate = file.File.Header!.SampleRate;
        var kept = file.Kept[piece];
        return $"{DurationText.OfTenths(kept.Start / (double)rate)} to {DurationText.OfTenths(kept.End / (double)rate)} of {DurationText.OfTenths(file.File.Header.LengthSeconds ?? 0)}";
    }

    private static string Saving(List<TrimmedFile> trimmed, long after) =>
        $"Trim {ByteText.Count(trimmed.Count, "file")} to the parts in use, {ByteText.Of(trimmed.Sum(t => t.File.Bytes))} to {ByteText.Of(after)}";

    /// <summary>The session itself: new files beside the old ones, documents re-pointed, originals set aside.</summary>
    private sealed class InPlace(TrimRequest request, List<TrimmedFile> trimmed)
    {
        private readonly SessionInventory _inventory = request.World.Inventory;
        private readonly Dictionary<string, FreeNames> _names = new(StringComparer.Ordinal);

        public Plan Plan(List<Fault> remarks)
        {
            var holding = HoldingPlace.FolderIn(_inventory.Folder);
            var (made, moves, folders, known) = (new List<MakeFileStep>(), new List<PlanStep>(), new List<PlanStep>(), new HashSet<string>(StringComparer.Ordinal));
            var held = _inventory.Held.Files.ToBuilder();
            var places = new Dictionary<string, (TrimmedFile File, List<string> Paths)>(StringComparer.Ordinal);
            var uncounted = _inventory.Documents.Where(d => !d.Current && !request.Choice.OlderVersions).Select(d => d.Path).ToImmutableArray();
            foreach (var file in trimmed)
            {
                var (path, folder) = (file.File.Path, Path.GetDirectoryName(file.File.Path)!);
                var stem = Path.GetFileNameWithoutExtension(path) + TrimmedSuffix;
                List<string> paths = [.. file.Kept.Select((_, n) => Path.Combine(folder, NamesIn(folder).Claim(file.Kept.Length == 1 ? stem + Path.GetExtension(path) : $"{stem} {n + 1}{Path.GetExtension(path)}")))];
                made.AddRange(paths.Select((p, n) => CutFile.Step(p, Reason(file, n), path, file.File.Header!, file.Kept[n])));
                places[path] = (file, paths);
                var relative = Path.GetRelativePath(_inventory.Folder, path);
                var aside = Path.Combine(holding, Path.GetDirectoryName(relative)!);
                folders.AddRange(MissingFolders.Steps(aside, _inventory.Folder, "where what is set aside is held", f => Path.Combine(_inventory.Folder, Path.GetRelativePath(holding, f))).Where(s => known.Add(s.Destination)));
                var destination = Path.Combine(aside, NamesIn(aside).ClaimAsItIs(Path.GetFileName(path)));
                moves.Add(new SetAsideStep(destination, "trimmed; the original is held", path, new FileState(file.File.Bytes, file.File.ModifiedUtc ?? default), uncounted));
                held.Add(new HeldFile(Path.GetRelativePath(holding, destination), relative, false, request.NowUtc, nameof(PlanKind.Trim), []));
            }
            var documents = TrimJudge.Counted(_inventory, request.Choice).OrderBy(d => d.Current).Select(d => Repointing.Step(
                d, _inventory, request.Shelves, (reference, path) => places.TryGetValue(path, out var place) ? Place(reference, place.File, place.Paths) : null, "what was trimmed")).OfType<RepointDocumentStep>();
            return Make(
                request, $"{Saving(trimmed, made.Sum(m => m.Bytes))}; {(trimmed.Count == 1 ? "the original is" : "the originals are")} set aside, nothing is deleted.",
                [.. folders, .. made, .. documents, .. moves, .. HoldingChange.List(_inventory, held.ToImmutable())], remarks, []);
        }

        private FreeNames NamesIn(string folder) => _names.TryGetValue(folder, out var names) ? names : _names[folder] = FreeNames.In(folder);
    }

    /// <summary>A copy of the whole session elsewhere, with what is trimmed in place of the originals.</summary>
    private sealed class Elsewhere(TrimRequest request, List<TrimmedFile> trimmed)
    {
        private readonly SessionInventory _inventory = request.World.Inventory;
        private readonly string _copy = Path.Combine(request.CopyTo!, request.CopyName);
        private readonly Dictionary<string, TrimmedFile> _trimmed = trimmed.ToDictionary(t => t.File.Path, StringComparer.Ordinal);
        private readonly ImmutableDictionary<string, ImmutableArray<InsteadOf>> _parts = trimmed.ToImmutableDictionary(t => t.File.Path, Parts);

        public Plan Plan(List<Fault> remarks)
        {
            var counted = TrimJudge.Counted(_inventory, request.Choice).Select(d => d.Path).ToHashSet(StringComparer.Ordinal);
            var contents = ContentsReader.Read(_inventory, request.Shelves, new ContentsChoice
            {
                Stay = [ContentRole.KeptSave, ContentRole.SetAside],
                Documents = d => counted.Contains(d.Path) || d.Document is null,
                Repoints = true,
                ReadFrom = _copy,
                PointsOut = true,
                Instead = _parts,
                PlaceOf = (reference, path, paths) => Place(reference, _trimmed[path], paths),
            });
            remarks.AddRange(LeftOutRemarks.Of(contents));
            var cut = contents.Entries.Where(e => _trimmed.ContainsKey(e.Here!)).Sum(e => e.Bytes);
            return Make(
                request, $"{Saving(trimmed, cut)}, in a copy of the session, {ByteText.Of(contents.Entries.Sum(e => e.Bytes))}; this session is left as it is.",
                FolderContainer.Steps(contents, _copy, _inventory.Layout.All, Reason), remarks, []);
        }

        private static ImmutableArray<InsteadOf> Parts(TrimmedFile file) =>
            [.. file.Kept.Select(k => CutFile.Step(file.File.Path, "", file.File.Path, file.File.Header!, k)).Select(s => new InsteadOf(s.Origin, s.Bytes))];

        private string Reason(ContentEntry entry) =>
            _trimmed.TryGetValue(entry.Here!, out var file) ? TrimPlanner.Reason(file, _parts[entry.Here!].Index().First(p => ReferenceEquals(p.Item.Origin, entry.Origin)).Index)
            : entry.Origin is GivenBytes ? "re-pointed at what comes along"
            : "comes along as it is";
    }
}
