using System.Collections.Immutable;
using NeatCrate.Core.Arrivals;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Relink;

/// <summary>How a found file comes back to its session.</summary>
public enum RelinkWay
{
    /// <summary>It is copied into the session folder, and the documents are re-pointed to the copy.</summary>
    CopyIn,

    /// <summary>It stays where it is, and the documents are re-pointed to it.</summary>
    Repoint,

    /// <summary>It is copied to the very place where the documents expect it, and no document is touched.</summary>
    PutBack,
}

/// <summary>A lost file and the found one that is taken for it.</summary>
/// <param name="Lost">The lost file.</param>
/// <param name="Found">The found file, as it was when it was judged.</param>
/// <param name="Way">How it comes back.</param>
public sealed record Relinking(LostFile Lost, FoundFile Found, RelinkWay Way)
{
    /// <summary>True where nothing tells for certain that they are the same, and nobody compared them either.</summary>
    public bool IsGuess { get; init; }
}

/// <summary>A session whose files are relinked.</summary>
/// <param name="Id">The session.</param>
/// <param name="Inventory">Its inventory.</param>
/// <param name="Files">What is taken for what.</param>
public sealed record RelinkedSession(Guid Id, SessionInventory Inventory, IReadOnlyList<Relinking> Files);

/// <summary>What is to be relinked.</summary>
/// <param name="Sessions">The sessions; the first is the one that the plan is of.</param>
/// <param name="Shelves">All known shelves.</param>
/// <param name="Identities">Tells which files are the same.</param>
public sealed record RelinkRequest(IReadOnlyList<RelinkedSession> Sessions, IReadOnlyList<Shelf> Shelves, IIdentities Identities)
{
    /// <summary>Whether the sessions' older documents are re-pointed too.</summary>
    public bool OlderDocuments { get; init; } = true;

    /// <summary>
    /// Whether documents of other programs are written anew beside themselves where what they name comes back to another place. Then all
    /// of it is done or nothing is, since they would name what was left out.
    /// </summary>
    public bool NewVersions { get; init; }

    /// <summary>Tells who misses what comes back; null where nobody does.</summary>
    public IFileUsers? Users { get; init; }
}

/// <summary>Plans how found files take the place of lost ones.</summary>
public static class RelinkPlanner
{
    /// <summary>Makes the plan. Nothing is changed; files of equal size are read to tell whether they are the same.</summary>
    /// <param name="request">What is to be relinked.</param>
    /// <param name="cancel">Stops the reading.</param>
    public static Plan Plan(RelinkRequest request, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(request);
        var (copies, documents, remarks, refusals, roots) = (new List<PlanStep>(), new List<RepointDocumentStep>(), new List<Fault>(), new List<Fault>(), new List<string>());
        var (made, versions, chosen) = (new HashSet<string>(StringComparer.Ordinal), new List<PlanStep>(), new List<Relinking>());
        foreach (var session in request.Sessions)
        {
            roots.Add(session.Inventory.Folder);
            // Its instrument goes on looking for a sample where it was.
            var samples = session.Inventory.Files.Where(f => f.IsOnlySample).Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
            var files = session.Files.DistinctBy(f => f.Lost.Path).Select(f => samples.Contains(f.Lost.Path) ? f with { Way = RelinkWay.PutBack } : f).ToList();
            chosen.AddRange(files);
            refusals.AddRange(files.Select(NotAsFound).OfType<Fault>());
            if (!request.NewVersions)
            {
                refusals.AddRange(files.Where(f => f.Way != RelinkWay.PutBack).Select(f => NamedIn(f.Lost, session.Inventory)).OfType<Fault>());
            }
            if (refusals.Count > 0)
            {
                continue;
            }
            var places = new Dictionary<string, string>(StringComparer.Ordinal);
            CopyIn(session, [.. files.Where(f => f.Way == RelinkWay.CopyIn)], request, places, made, copies, remarks, cancel);
            foreach (var file in files.Where(f => f.Way == RelinkWay.Repoint))
            {
                places[file.Lost.Path] = file.Found.Path;
            }
            foreach (var file in files.Where(f => f.Way == RelinkWay.PutBack))
            {
                PutBack(file, request.Shelves, roots, made, copies, refusals);
            }
            // The current one last: until then it points at what is surely there.
            documents.AddRange(session.Inventory.Documents.Where(d => d.Document is not null && (d.Current || request.OlderDocuments)).OrderBy(d => d.Current)
                .Select(d => Repointing.Step(d, session.Inventory, request.Shelves, places, "what was found")).OfType<RepointDocumentStep>());
            if (request.NewVersions && places.Count > 0 && NewNamings.Of(session.Inventory, request.Shelves, places) is var anew)
            {
                versions.AddRange(anew.Steps);
                remarks.AddRange(anew.Remarks);
                refusals.AddRange(anew.Refusals);
            }
            remarks.AddRange(session.Inventory.Documents.Where(d => places.Count > 0 && request.OlderDocuments && !d.Current && d.Document is null)
                .Select(d => new Fault(FaultCode.OlderDocumentStays) { Name = Path.GetFileName(d.Path) }));
            remarks.AddRange(files.SelectMany(Remarks));
        }
        if (chosen.Count == 0)
        {
            refusals.Add(new Fault(FaultCode.NothingToRelink));
        }
        if (chosen.Where(c => c.IsGuess).Select(c => c.Lost.Name).ToImmutableArray() is { IsEmpty: false } guessed)
        {
            remarks.Insert(0, new Fault(FaultCode.NotCompared) { Names = guessed });
        }
        var isRefused = refusals.Count > 0;
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Relink,
            SessionId = request.Sessions.Count > 0 ? request.Sessions[0].Id : null,
            Sentence = Sentence(request.Sessions, chosen, copies, documents, versions),
            WritableRoots = [.. roots.Distinct(StringComparer.Ordinal)],
            Steps = isRefused ? [] : [.. MissingNow.Noted(copies, request.Users), .. versions, .. documents],
            KeepsPart = versions.Count == 0,
            Remarks = [.. remarks],
            Refusals = [.. refusals.Distinct()],
        };
    }

    /// <summary>What stands against another place for a file: a document of another program names it, and goes on doing so.</summary>
    private static Fault? NamedIn(LostFile lost, SessionInventory inventory) => inventory.Files.FirstOrDefault(f => f.Path == lost.Path) is { Use: FileUse.Named } file
        ? new Fault(FaultCode.NamesAreNotRepointed) { Name = file.Name, Names = inventory.NamingNow } : null;

    /// <summary>What was judged is only good for the file as it was then.</summary>
    private static Fault? NotAsFound(Relinking file)
    {
        var found = file.Found;
        if (found.Copy is { } copy)
        {
            return file.Way == RelinkWay.Repoint ? new Fault(FaultCode.KeptCannotBePointedAt) { Name = file.Lost.Name, Other = copy.Holder } : WhyNot(copy, file.Lost.Name);
        }
        if (FileFacts.Of(found.Path) is not { IsRegular: true } now)
        {
            return new Fault(FaultCode.NotThere) { Path = found.Path };
        }
        return now.Bytes == found.Known.Bytes && now.ModifiedUtc == found.Known.ModifiedUtc ? null : new Fault(FaultCode.SourceChanged) { Path = found.Path };
    }

    private static Fault? WhyNot(KeptCopy copy, string name)
    {
        try
        {
            copy.Origin(name);
            return null;
        }
        catch (FaultException e)
        {
            return e.Fault;
        }
    }

    private static void CopyIn(
        RelinkedSession session, List<Relinking> files, RelinkRequest request, Dictionary<string, string> places, HashSet<string> made, List<PlanStep> steps, List<Fault> remarks, CancellationToken cancel)
    {
        if (files.Count == 0)
        {
            return;
        }
        var inventory = session.Inventory;
        var audio = AudioFolder.In(inventory);
        var destinations = new Destinations(inventory, audio, request.Identities, cancel);
        var held = inventory.Held.PathsIn(inventory.Folder);
        var folders = false;
        var copied = new HashSet<string>(StringComparer.Ordinal);
        foreach (var file in files)
        {
            if (file.Found.Copy is { } copy)
            {
                // Did the session have these bytes inside, that file would have been found first.
                var place = destinations.NewPath(PortableName.Suggest(file.Lost.Name));
                places[file.Lost.Path] = place;
                MakeAudioFolder();
                steps.Add(BringBack(copy, place, file));
                remarks.AddRange(ArrivalRemarks.Of(file.Lost.Name, new Destination(place, true, null)));
                continue;
            }
            var source = Arriving(file.Found);
            if (ShelfPath.IsWithin(RealPath.Of(source.Path), RealPath.Of(inventory.Folder)) && !held.Contains(source.Path))
            {
                // It is in already, and not set aside; only the pointer is wrong.
                places[file.Lost.Path] = source.Path;
                continue;
            }
            // A lost file comes back under its own name where the format is still the same.
            var likeness = file.Lost.At.Compare(file.Found.At);
            var destination = destinations.Add(source, likeness is NameLikeness.Numbered or NameLikeness.WrittenOtherwise ? PortableName.Suggest(file.Lost.Name) : null);
            places[file.Lost.Path] = destination.Path;
            if (!destination.IsCopied || !copied.Add(destination.Path))
            {
                continue;
            }
            MakeAudioFolder();
            var real = RealPath.Of(source.Path);
            steps.Add(MakeFileStep.Copy(destination.Path, $"taken for '{file.Lost.Name}', which was missing", real, FileState.Of(real)));
            remarks.AddRange(ArrivalRemarks.Of(source.Name, destination).Where(r => r.Code != FaultCode.ComesInAs || Path.GetFileName(destination.Path) != file.Lost.Name));
        }
        void MakeAudioFolder()
        {
            if (!folders)
            {
                folders = true;
                steps.AddRange(MissingFolders.Steps(audio, inventory.Folder, "takes and samples").Where(s => made.Add(s.Destination)));
            }
        }
    }

    /// <summary>Out of a backup or a bundle, held to the SHA-512 that was stated when it went in.</summary>
    private static MakeFileStep BringBack(KeptCopy copy, string place, Relinking file) =>
        new(place, $"from {copy.Holder}, for '{file.Lost.Name}', which was missing", copy.Origin(file.Lost.Name), copy.Bytes);

    /// <summary>The found file as one that comes in; one whose sound cannot be read is copied as it is.</summary>
    private static InventoryFile Arriving(FoundFile found) => new()
    {
        Path = found.Path,
        Standing = Standing.Outside,
        Use = FileUse.Placed,
        ShownPath = found.Path,
        BelongsInside = false,
        Bytes = found.Known.Bytes,
        ModifiedUtc = found.Known.ModifiedUtc,
        Header = HeaderCache.ReadNow(found.Path).Header,
    };

    private static void PutBack(Relinking file, IReadOnlyList<Shelf> shelves, List<string> roots, HashSet<string> made, List<PlanStep> steps, List<Fault> refusals)
    {
        var place = file.Lost.Path;
        var root = ShelfPath.IsWithin(place, file.Lost.Session) ? file.Lost.Session : Shelf.Holding(shelves, place) is { IsConnected: true } shelf ? shelf.Root : null;
        if (!place.StartsWith('/') || root is null)
        {
            refusals.Add(new Fault(FaultCode.NoPlaceToPutBack) { Name = file.Lost.Name, Path = place });
            return;
        }
        if (FileFacts.Of(place) is not null)
        {
            refusals.Add(new Fault(FaultCode.NameTaken) { Path = place });
            return;
        }
        roots.Add(root);
        steps.AddRange(MissingFolders.Steps(Path.GetDirectoryName(place)!, root, "where the document expects it").Where(s => made.Add(s.Destination)));
        if (file.Found.Copy is { } copy)
        {
            steps.Add(BringBack(copy, place, file));
            return;
        }
        var source = RealPath.Of(file.Found.Path);
        steps.Add(MakeFileStep.Copy(place, "put back where the document expects it", source, FileState.Of(source)));
    }

    private static IEnumerable<Fault> Remarks(Relinking file)
    {
        var (lost, found) = (file.Lost, file.Found);
        if (lost.Known?.SampleRate is { } before && found.Known.SampleRate is { } now && before != now)
        {
            yield return new Fault(FaultCode.FoundAtOtherRate) { Name = lost.Name, Count = now, Expected = before };
        }
        if (lost.NeededSeconds is { } needed && found.Known.LengthSeconds is { } length && length + (1.0 / (found.Known.SampleRate ?? 1)) < needed)
        {
            yield return new Fault(FaultCode.FoundIsShorter) { Name = lost.Name, Seconds = length, UntilSeconds = needed };
        }
    }

    private static string Sentence(IReadOnlyList<RelinkedSession> sessions, List<Relinking> chosen, List<PlanStep> copies, List<RepointDocumentStep> documents, List<PlanStep> versions)
    {
        var back = chosen.Where(c => c.Way == RelinkWay.PutBack).Select(c => c.Lost.Path).ToHashSet(StringComparer.Ordinal);
        var made = copies.OfType<MakeFileStep>().ToLookup(m => back.Contains(m.Destination));
        var parts = new List<string> { $"Relink {ByteText.Count(chosen.Count, "file")}" + (sessions.Count > 1 ? $" in {sessions.Count} sessions" : "") };
        foreach (var (isBack, what) in new[] { (false, "copy in"), (true, "put back") })
        {
            if (made[isBack].Any())
            {
                parts.Add($"{what} {made[isBack].Count()}, {ByteText.Of(made[isBack].Sum(m => m.Bytes))}");
            }
        }
        if (versions.Count(v => v is MakeFileStep { Origin: FileRanges }) is var anew and > 0)
        {
            parts.Add($"{ByteText.Count(anew, "new version")} beside the old");
        }
        parts.Add(documents.Count == 0 ? "no document is touched" : documents.Count == 1 ? "document re-pointed" : $"{documents.Count} documents re-pointed");
        return string.Join("; ", parts) + "; originals untouched.";
    }
}
