using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;

namespace NeatCrate.App.Plans;

/// <summary>What a step does.</summary>
public enum StepKind
{
    /// <summary>Makes a folder.</summary>
    MakeFolder,

    /// <summary>Copies a file.</summary>
    CopyFile,

    /// <summary>Gives a file another place.</summary>
    MoveFile,

    /// <summary>Puts a file together from another one.</summary>
    AssembleFile,

    /// <summary>Makes a copy at another sample rate.</summary>
    ConvertFile,

    /// <summary>Writes the document.</summary>
    WriteDocument,

    /// <summary>Points a document at copies.</summary>
    RepointDocument,

    /// <summary>Takes a copy away again.</summary>
    RemoveCopy,

    /// <summary>Takes an empty folder away again.</summary>
    RemoveFolder,

    /// <summary>Packs a bundle.</summary>
    PackBundle,
}

/// <summary>A place as it is shown: shelf and path on it, or an absolute path.</summary>
public sealed record PlaceView(string? Shelf, string Path);

/// <summary>A step of a plan.</summary>
public sealed record StepView(StepKind Kind, PlaceView? From, PlaceView To, long Bytes, string Reason);

/// <summary>A plan to be read before it is applied.</summary>
public sealed record PlanView(
    Guid Id,
    PlanKind Kind,
    Guid? SessionId,
    string Sentence,
    long Bytes,
    IReadOnlyList<StepView> Steps,
    IReadOnlyList<string> Contents,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<string> Refusals);

/// <summary>A plan that has ended.</summary>
public sealed record HistoryView(Guid PlanId, PlanKind Kind, string Sentence, string State, DateTimeOffset Ended, string? Note, bool Undone, bool CanUndo);

/// <summary>Makes views of plans.</summary>
public static class PlanViews
{
    // A plan can have tens of thousands of steps; a page needs to show the first few hundred to be believed.
    private const int MostSteps = 2000;

    /// <summary>The view of a plan.</summary>
    public static PlanView View(Plan plan, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(plan);
        return new PlanView(
            plan.Id,
            plan.Kind,
            plan.SessionId,
            plan.Sentence,
            plan.Bytes,
            [.. plan.Steps.Take(MostSteps).Select(s => Step(s, shelves))],
            [.. plan.Steps.OfType<PackBundleStep>().SelectMany(s => s.Contents.Entries).Take(MostSteps).Select(e => e.PayloadPath)],
            plan.Warnings,
            plan.Refusals);
    }

    /// <summary>A place as it is shown.</summary>
    public static PlaceView Place(string path, IReadOnlyList<Shelf> shelves) =>
        Shelf.Holding(shelves, path) is { } shelf ? new PlaceView(shelf.Name, shelf.Relative(path)) : new PlaceView(null, path);

    private static StepView Step(PlanStep step, IReadOnlyList<Shelf> shelves) => new(
        step switch
        {
            MakeFolderStep => StepKind.MakeFolder,
            CopyFileStep => StepKind.CopyFile,
            MoveFileStep => StepKind.MoveFile,
            AssembleFileStep => StepKind.AssembleFile,
            ConvertFileStep => StepKind.ConvertFile,
            WriteDocumentStep => StepKind.WriteDocument,
            RepointDocumentStep => StepKind.RepointDocument,
            RemoveCopyStep => StepKind.RemoveCopy,
            RemoveFolderStep => StepKind.RemoveFolder,
            PackBundleStep => StepKind.PackBundle,
            _ => throw new ArgumentException($"A step of the kind {step.GetType().Name} cannot be shown.", nameof(step)),
        },
        step.SourcePath is { } source ? Place(source, shelves) : null,
        Place(step.Destination, shelves),
        step.WritesBytes,
        step.Reason);
}
