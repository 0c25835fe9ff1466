using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Record;

/// <summary>Plans how recordings that were cut off become readable: the header is put right on a copy, the original is kept.</summary>
public static class RepairPlanner
{
    /// <summary>Makes the plan.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="growing">Paths of files that something writes at this moment.</param>
    /// <param name="chosen">Paths of the recordings to repair; null for all that were cut off.</param>
    public static Plan Plan(
        Guid sessionId, SessionInventory inventory, IReadOnlyList<Shelf> shelves, IReadOnlySet<string> growing, IReadOnlySet<string>? chosen = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(growing);
        var takes = TakeFinder.Find(inventory).Where(t => t.NeedsRepair && (chosen?.Contains(t.File.Path) ?? true)).ToList();
        var refusals = takes.Where(t => growing.Contains(t.File.Path)).Select(t => new Fault(FaultCode.StillGrowing) { Path = t.File.Path }).ToList();
        var steps = new List<PlanStep>();
        var copies = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var take in takes)
        {
            var destination = Path.Combine(
                Path.GetDirectoryName(take.File.Path)!, Path.GetFileNameWithoutExtension(take.File.Name) + TakeFinder.RepairedSuffix + Path.GetExtension(take.File.Name));
            try
            {
                var pieces = WavRepair.Pieces(take.File.Path, take.File.Header!);
                steps.Add(new MakeFileStep(destination, Found(take.File.Header!), new FileRanges(take.File.Path, FileState.Of(take.File.Path), [.. pieces]), pieces.Sum(p => p.Length)));
                copies[take.File.Path] = destination;
            }
            catch (IOException e)
            {
                refusals.Add(new Fault(FaultCode.CannotBeRepaired) { Path = take.File.Path, Reasons = [FaultException.Of(e, take.File.Path)!] });
            }
        }
        if (takes.Count == 0)
        {
            refusals.Add(new Fault(FaultCode.NothingCutOff));
        }
        if (copies.Count > 0 && Repoint(inventory, shelves, copies) is { } write)
        {
            steps.Add(write);
        }
        var count = ByteText.Count(takes.Count, "recording");
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Repair,
            SessionId = sessionId,
            Sentence = takes.Count == 0
                ? "Nothing to repair."
                : $"Make {(takes.Count == 1 ? "a readable copy" : "readable copies")} of {count} that {(takes.Count == 1 ? "was" : "were")} cut off, "
                    + $"{ByteText.Of(steps.Sum(s => s.WritesBytes))}; {(takes.Count == 1 ? "the original is" : "the originals are")} kept as {(takes.Count == 1 ? "it is" : "they are")}.",
            WritableRoots = [inventory.Folder],
            Steps = refusals.Count > 0 ? [] : [.. steps],
            Refusals = [.. refusals],
        };
    }

    private static string Found(MediaHeader header) =>
        $"{DurationText.Of(WavRepair.WholeSamples(header) / (double)header.SampleRate)} of sound {(header.Broadcast is null ? "is" : "and its time are")} in it";

    private static ReplaceDocumentStep? Repoint(SessionInventory inventory, IReadOnlyList<Shelf> shelves, Dictionary<string, string> copies)
    {
        if (inventory.Document is null || inventory.Current is not { } current)
        {
            return null;
        }
        var bytes = ReadableFile.ReadAll(current.Path, SessionDocument.MostBytes);
        var document = SessionDocument.Parse(bytes);
        var count = document.Repoint(url => copies.TryGetValue(ReferencedPath.Of(url, current, inventory.Folder, shelves), out var copy)
            ? MediaUrl.From(copy, Path.GetDirectoryName(current.Path)!)
            : null);
        return count == 0
            ? null
            : new ReplaceDocumentStep(current.Path, $"{ByteText.Count(count, "reference")} pointed at the repaired copies", document.ToUtf8(), ByteIdentity.Of(bytes));
    }
}
