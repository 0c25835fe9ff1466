using NeatCrate.App.Words;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.App.Plans;

/// <summary>A place as it is shown: shelf and path on it, or an absolute path.</summary>
public sealed record PlaceView(string? Shelf, string Path);

/// <summary>A step of a plan.</summary>
/// <param name="Verb">What it does: "copy", "make folder".</param>
public sealed record StepView(string Verb, PlaceView? From, PlaceView To, long Bytes, string Reason);

/// <summary>A plan to be read before it is applied.</summary>
/// <param name="IsForGood">True when something in it cannot be undone, which is said before anything else.</param>
/// <param name="StepCount">Number of steps in all; of a long plan only the first are shown.</param>
/// <param name="ContentCount">Number of files in the bundle in all.</param>
/// <param name="Findings">The warnings for which there is a remedy.</param>
public sealed record PlanView(
    Guid Id,
    PlanKind Kind,
    Guid? SessionId,
    string Sentence,
    long Bytes,
    IReadOnlyList<StepView> Steps,
    IReadOnlyList<string> Contents,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<string> Refusals,
    bool IsForGood,
    int StepCount,
    int ContentCount,
    IReadOnlyList<PlanFinding> Findings);

/// <summary>A plan that has ended.</summary>
/// <param name="Undone">True once it was undone; an undo, once that was redone.</param>
/// <param name="CanRedo">True for the undo that can be redone next.</param>
/// <param name="By">Who asked for it, by name; null where nobody wrote that down.</param>
public sealed record HistoryView(Guid PlanId, PlanKind? Kind, string Sentence, string State, DateTimeOffset Ended, string? Note, bool Undone, bool CanUndo, bool CanRedo, string? By);

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
            [.. plan.Steps.OfType<IPackingStep>().SelectMany(s => s.Contents.Entries).Take(MostSteps).Select(e => e.PayloadPath)],
            [.. plan.IsForGood ? [ForGood(plan)] : Array.Empty<string>(), .. plan.Remarks.Select(Sentences.Of)],
            [.. plan.Refusals.Select(Sentences.Of)],
            plan.IsForGood,
            plan.Steps.Length,
            plan.Steps.OfType<IPackingStep>().Sum(s => s.Contents.Entries.Length),
            [.. plan.Remarks.Select(r => new PlanFinding(Sentences.Of(r), Remedies.Of(r), r.Names)).Where(f => f.Remedies.Count > 0)]);
    }

    /// <summary>A place as it is shown.</summary>
    public static PlaceView Place(string path, IReadOnlyList<Shelf> shelves) =>
        Shelf.Holding(shelves, path) is { } shelf ? new PlaceView(shelf.Name, shelf.Relative(path)) : new PlaceView(null, path);

    private static string ForGood(Plan plan)
    {
        var steps = plan.Steps.Where(s => s.IsForGood).ToList();
        return $"This cannot be undone: {ByteText.Count(steps.Count, "file")} will be gone for good.";
    }

    /// <summary>A step as it is shown.</summary>
    public static StepView Step(PlanStep step, IReadOnlyList<Shelf> shelves) => new(
        step.Verb, step.SourcePath is { } source ? Place(source, shelves) : null, Place(step.Destination, shelves), step.FileBytes, step.Reason);
}
