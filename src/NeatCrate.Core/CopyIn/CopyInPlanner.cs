using NeatCrate.Core.Arrivals;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.CopyIn;

/// <summary>What is to be copied in.</summary>
/// <param name="SessionId">The session.</param>
/// <param name="Inventory">Its inventory.</param>
/// <param name="Shelves">All known shelves.</param>
/// <param name="Identities">Tells which files are the same.</param>
public sealed record CopyInRequest(Guid SessionId, SessionInventory Inventory, IReadOnlyList<Shelf> Shelves, IIdentities Identities)
{
    /// <summary>Paths of the outside files to copy in; null for all.</summary>
    public IReadOnlySet<string>? Chosen { get; init; }

    /// <summary>Whether the session's other documents count: what they point at is copied in, and they are pointed at the copies.</summary>
    public bool OlderDocuments { get; init; } = true;

    /// <summary>
    /// Whether documents of other programs are written anew beside themselves, naming the copies. Then all of it is done or nothing is,
    /// since they would name what was left out.
    /// </summary>
    public bool NewVersions { get; init; }

    /// <summary>True for a file that stands outside, and is pointed at by a document that counts.</summary>
    public static bool IsConcerned(InventoryFile file, bool olderDocuments)
    {
        ArgumentNullException.ThrowIfNull(file);
        return file.Standing == Standing.Outside && (olderDocuments || file.IsNeededNow);
    }
}

/// <summary>Plans how files that stand outside come into the session folder, and how its documents point at them there.</summary>
public static class CopyInPlanner
{
    /// <summary>Makes the plan. Nothing is changed; files of equal size are read to tell whether they are the same.</summary>
    /// <param name="request">What is to be copied in.</param>
    /// <param name="cancel">Stops the reading.</param>
    public static Plan Plan(CopyInRequest request, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(request);
        var inventory = request.Inventory;
        var refusals = new List<Fault>();
        var outside = inventory.Files
            .Where(f => CopyInRequest.IsConcerned(f, request.OlderDocuments) && (request.Chosen?.Contains(f.Path) ?? true)).ToList();
        if (inventory.Document is null && !inventory.IsByNames)
        {
            refusals.Add(inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder });
        }
        else if (outside.Count == 0)
        {
            refusals.Add(new Fault(FaultCode.NothingOutside));
        }
        if (refusals.Count > 0)
        {
            return Make(request, "Nothing to copy in.", [], [], refusals);
        }
        var audio = AudioFolder.In(inventory);
        var destinations = new Destinations(inventory, audio, request.Identities, cancel);
        var instruments = new ArrivingInstruments(inventory, outside, destinations);
        outside.RemoveAll(instruments.Stay.Contains);
        if (outside.Count == 0)
        {
            return Make(request, "Nothing to copy in.", [], [], [.. instruments.Remarks]);
        }
        var steps = new List<PlanStep>();
        if (outside.Exists(f => destinations[f].IsCopied))
        {
            steps.AddRange(MissingFolders.Steps(audio, inventory.Folder, "takes and samples"));
        }
        steps.AddRange(instruments.Folders(audio));
        steps.AddRange(outside.Where(f => destinations[f].IsCopied && !instruments.Changed.ContainsKey(f.Path)).Select(f => Copy(f, destinations[f].Path)));
        // An instrument plays its samples once they are there.
        steps.AddRange(instruments.Steps());
        var documents = inventory.Documents.Where(d => d.Document is not null && (d.Current || request.OlderDocuments)).ToList();
        // The current one last: until then it points at what is surely there.
        var places = outside.ToDictionary(f => f.Path, f => destinations[f].Path, StringComparer.Ordinal);
        steps.AddRange(documents.OrderBy(d => d.Current).Select(d => Repointing.Step(d, inventory, request.Shelves, places, "the copies")).OfType<RepointDocumentStep>());
        var anew = request.NewVersions ? NewNamings.Of(inventory, request.Shelves, places) : new NewNamings([], [], []);
        steps.AddRange(anew.Steps);
        if (anew.Refusals.Count > 0)
        {
            return Make(request, "Nothing to copy in.", [], [], [.. anew.Refusals]);
        }
        if (steps.Count == 0)
        {
            return Make(request, "Nothing to copy in.", [], [], [new Fault(FaultCode.CopiesAreInside) { Count = outside.Count, Names = outside.Exists(f => f.NamedTimes > 0) ? inventory.NamingNow : [] }]);
        }
        IEnumerable<Fault> named = anew.Steps.Count > 0 ? anew.Remarks : ArrivalRemarks.StayNamed(outside, inventory);
        return Make(request, Sentence(outside, destinations, steps, anew), steps, [.. named, .. instruments.Remarks, .. Remarks(request, outside, destinations)], refusals, isWhole: anew.Steps.Count > 0 || instruments.Any);
    }

    private static MakeFileStep Copy(InventoryFile file, string destination)
    {
        var source = RealPath.Of(file.Path);
        var renamed = Path.GetFileName(destination) == file.Name ? "" : $", as '{Path.GetFileName(destination)}'";
        return MakeFileStep.Copy(destination, $"stands outside, on {file.ShelfName ?? "no shelf"}{renamed}", source, FileState.Of(source));
    }

    private static string Sentence(List<InventoryFile> outside, Destinations destinations, List<PlanStep> steps, NewNamings named)
    {
        var copies = outside.Where(f => destinations[f].IsCopied).ToList();
        var reused = outside.Count - copies.Count;
        var places = copies.Select(f => f.ShelfId).Distinct().Count();
        var copied = copies.Count == 0
            ? "Nothing to copy"
            : $"Copy {ByteText.Count(copies.Count, "file")}, {ByteText.Of(copies.Sum(f => f.Bytes))}, from {places} {(places == 1 ? "shelf" : "shelves")}";
        var used = reused == 0 ? "" : $"; the session already has {ByteText.Count(reused, "file")}";
        // An instrument is re-pointed as a document is, and is none to whoever reads this.
        var (instruments, documents) = (steps.OfType<RepointDocumentStep>().Count(s => InstrumentRepointing.IsInstrument(s.Destination)), steps.OfType<RepointDocumentStep>().Count(s => !InstrumentRepointing.IsInstrument(s.Destination)));
        var repointed = documents switch { 0 => "no document is changed", 1 => "document re-pointed", _ => $"{documents} documents re-pointed" };
        var anew = named.Versions is var versions and > 0 ? $"; {ByteText.Count(versions, "new version")} beside the old" : "";
        var played = instruments == 0 ? "" : $"; {ByteText.Count(instruments, "instrument")} re-pointed";
        return $"{copied}{used}{anew}{played}; {repointed}; originals untouched.";
    }

    private static IEnumerable<Fault> Remarks(CopyInRequest request, List<InventoryFile> outside, Destinations destinations)
    {
        var inventory = request.Inventory;
        foreach (var file in outside)
        {
            if (inventory.Document?.Settings is { } settings && file.Header is { } header && header.SampleRate != settings.SampleRate)
            {
                yield return ArrivalRemarks.RateDiffers(file.Name, header, settings.SampleRate, FaultCode.TakenAsItIs);
            }
            foreach (var remark in ArrivalRemarks.Of(file.Name, destinations[file]))
            {
                yield return remark;
            }
        }
        foreach (var document in inventory.Documents.Where(d => request.OlderDocuments && !d.Current && d.Document is null))
        {
            yield return new Fault(FaultCode.OlderDocumentStays) { Name = Path.GetFileName(document.Path) };
        }
    }

    private static Plan Make(CopyInRequest request, string sentence, IEnumerable<PlanStep> steps, IEnumerable<Fault> remarks, List<Fault> refusals, bool isWhole = false) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.CopyIn,
        SessionId = request.SessionId,
        Sentence = sentence,
        WritableRoots = [request.Inventory.Folder],
        Steps = [.. steps],
        KeepsPart = !isWhole,
        Remarks = [.. remarks],
        Refusals = [.. refusals],
    };
}
