using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.SetUp;

/// <summary>Plans the start of a new version: the current document again under a new name, the older ones into the archive by choice.</summary>
public static class VersionPlanner
{
    /// <summary>Makes the plan.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="naming">How the new version is named.</param>
    /// <param name="archiveOlder">Whether the documents that are older from then on move to the folder for them.</param>
    /// <param name="today">The local date.</param>
    /// <param name="isLeftOut">True for an outside file that somebody chose to leave outside; null when nobody chose.</param>
    public static Plan Plan(
        Guid sessionId, SessionInventory inventory, VersionNaming naming, bool archiveOlder, DateOnly today, Func<InventoryFile, bool>? isLeftOut = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        var refusals = new List<Fault>();
        var steps = new List<PlanStep>();
        var name = "";
        if (inventory.Current is not { } current || (inventory.Document is null && !inventory.IsByNames))
        {
            refusals.Add(inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder });
        }
        else
        {
            var fileName = VersionName.Free(current.Path, naming, today, current.ModifiedUtc);
            name = Path.GetFileNameWithoutExtension(fileName);
            var destination = Path.Combine(inventory.Folder, fileName);
            steps.Add(current.IsNaming ? Again(current, destination) : NewDocument(current, destination, name));
            steps.AddRange(archiveOlder ? Archive(inventory) : []);
            steps.Add(SessionCardStep.State(inventory.Folder, Path.GetFileName(destination)));
        }
        var archived = steps.OfType<MoveFileStep>().Count();
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Version,
            SessionId = sessionId,
            Sentence = refusals.Count > 0 ? "No version is started." : $"Start '{name}' as the current document"
                + (archived > 0 ? $"; {ByteText.Count(archived, "older document")} {(archived == 1 ? "goes" : "go")} to '{inventory.Layout.OlderDocuments}'" : "") + "; no sound is changed.",
            WritableRoots = [inventory.Folder],
            Steps = [.. steps],
            Remarks = [.. OutsideRemark(inventory, isLeftOut)],
            Refusals = [.. refusals],
        };
    }

    /// <summary>A new version is a moment to think of what would be silent one day: the files by name.</summary>
    private static IEnumerable<Fault> OutsideRemark(SessionInventory inventory, Func<InventoryFile, bool>? isLeftOut)
    {
        var outside = inventory.Standing(Standing.Outside).Where(f => f.IsNeededNow && !(isLeftOut?.Invoke(f) ?? false)).ToList();
        if (outside.Count > 0)
        {
            yield return new Fault(FaultCode.VersionPointsOutside) { Names = [.. outside.Select(f => f.Name)] };
        }
    }

    private static IEnumerable<PlanStep> Archive(SessionInventory inventory)
    {
        var folder = Path.Combine(inventory.Folder, inventory.Layout.OlderDocuments);
        foreach (var step in MissingFolders.Steps(folder, inventory.Folder, "documents from earlier days"))
        {
            yield return step;
        }
        var names = FreeNames.In(folder);
        foreach (var document in inventory.Documents.Where(d => Path.GetDirectoryName(d.Path) == inventory.Folder && d.Identity != default && !d.CountsNow))
        {
            yield return new MoveFileStep(Path.Combine(folder, names.Claim(Path.GetFileName(document.Path))), "older from now on", document.Path, FileState.Of(document.Path));
        }
    }

    /// <summary>Another program's document again under the new name, byte for byte: what it calls itself is not known.</summary>
    private static MakeFileStep Again(InventoryDocument current, string destination)
    {
        var state = FileState.Of(current.Path);
        return new MakeFileStep(destination, "the current document from now on, byte for byte", new FileRanges(current.Path, state, [new FilePiece(null, 0, state.Bytes)]) { KeepsTime = false }, state.Bytes);
    }

    /// <summary>The current document again under the new name. It must still be what it was when the plan was made: a save in between is part of the version.</summary>
    private static MakeFileStep NewDocument(InventoryDocument current, string destination, string name)
    {
        var state = FileState.Of(current.Path);
        var bytes = ReadableFile.ReadAll(current.Path, DocumentFormats.MostBytes);
        var document = DocumentFormats.Read<ISessionNotes>(current.Path, bytes);
        document.Rename(name);
        var content = document.ToBytes();
        return new MakeFileStep(destination, "the current document from now on", new FileRanges(current.Path, state, [FilePiece.Of(content)]) { KeepsTime = false }, content.Length);
    }
}
