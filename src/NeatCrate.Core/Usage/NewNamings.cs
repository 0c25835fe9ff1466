using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Usage;

/// <summary>
/// The steps that make new versions of the documents that other programs work in, naming files where they stand then. A document that
/// cannot be written so goes on naming them where they were, which is told; where none can be, nothing is done.
/// </summary>
/// <param name="Steps">The steps; none where no name has to change.</param>
/// <param name="Remarks">What is made, and what goes on naming files where they were.</param>
/// <param name="Refusals">Why no document can be written so.</param>
internal sealed record NewNamings(IReadOnlyList<PlanStep> Steps, IReadOnlyList<Fault> Remarks, IReadOnlyList<Fault> Refusals)
{
    /// <summary>How many new versions are made.</summary>
    public int Versions => Steps.OfType<MakeFileStep>().Count(s => s.Origin is FileRanges);

    /// <summary>Works them out.</summary>
    /// <param name="inventory">The inventory of the session.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="newPlaces">Where files stand then, by where they are named now: absolute paths.</param>
    public static NewNamings Of(SessionInventory inventory, IReadOnlyList<Shelf> shelves, IReadOnlyDictionary<string, string> newPlaces)
    {
        var (steps, made, stay) = (new List<PlanStep>(), new List<Fault>(), new List<(InventoryDocument Document, Fault Why)>());
        foreach (var document in inventory.Documents.Where(d => d.IsNaming && (d.Current || d.CountsNow)))
        {
            try
            {
                // Before it is read: what is saved from here on ends the plan.
                var state = FileState.Of(document.Path);
                if (NamedAnew.Of(document, inventory, shelves, newPlaces) is { } anew)
                {
                    var name = Path.GetFileName(document.Path);
                    var version = VersionName.Free(document.Path, VersionNaming.NextNumber, default, document.ModifiedUtc);
                    steps.Add(new MakeFileStep(
                        Path.Combine(inventory.Folder, version), $"'{name}' with {ByteText.Count(anew.Names.Length, "name")} changed: {string.Join("; ", anew.Names.Select(n => $"'{n.Was}' is '{n.Is}'"))}",
                        new FileRanges(document.Path, state, [FilePiece.Of(anew.After)]) { KeepsTime = false }, anew.After.Length));
                    if (document.Current)
                    {
                        steps.Add(SessionCardStep.State(inventory.Folder, version));
                    }
                    made.Add(new Fault(FaultCode.NewVersionIsNamedAnew) { Name = name, Other = version, Count = anew.Names.Length });
                }
            }
            catch (FaultException e)
            {
                stay.Add((document, e.Fault));
            }
        }
        return steps.Count == 0
            ? new NewNamings([], [], [.. stay.Select(s => s.Why)])
            : new NewNamings(steps, [.. made, .. stay.Select(s => new Fault(FaultCode.StaysNamedIn) { Path = s.Document.Path, Reasons = [s.Why] })], []);
    }
}
