using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Core.Words;

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
        var copies = new Dictionary<string, NewPlace>(StringComparer.Ordinal);
        foreach (var take in takes)
        {
            var destination = Path.Combine(
                Path.GetDirectoryName(take.File.Path)!, Path.GetFileNameWithoutExtension(take.File.Name) + TakeFinder.RepairedSuffix + Path.GetExtension(take.File.Name));
            try
            {
                var pieces = WavRepair.Pieces(take.File.Path, take.File.Header!);
                steps.Add(new MakeFileStep(destination, Found(take.File.Header!), new FileRanges(take.File.Path, FileState.Of(take.File.Path), [.. pieces]), pieces.Sum(p => p.Length)));
                // A document that tells a length tells the one that the broken header had.
                copies[take.File.Path] = new NewPlace(destination, new AvailableRange(null, WavRepair.WholeSamples(take.File.Header!), take.File.Header!.SampleRate));
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
        // In older versions the take is as silent as in the current one, which comes last: until then it points at what is surely there.
        var documents = inventory.Documents.Where(d => copies.Count > 0 && d.Document is not null).OrderBy(d => d.Current);
        steps.AddRange(documents.Select(d => Repointing.Step(d, inventory, shelves, (_, path) => copies.GetValueOrDefault(path), "the repaired copies")).OfType<RepointDocumentStep>());
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
}
