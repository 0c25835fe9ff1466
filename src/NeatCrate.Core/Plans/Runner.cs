using NeatCrate.Core.Bundles;
using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Plans;

/// <summary>How an unfinished plan was dealt with after a crash.</summary>
/// <param name="Plan">The plan.</param>
/// <param name="Finished">True when it was finished; false when it was taken back whole.</param>
/// <param name="Problem">Why neither could be done yet; the plan stays open and is tried again.</param>
public sealed record Recovered(Plan Plan, bool Finished, string? Problem);

/// <summary>
/// The one place where people's files are changed. A plan is applied whole or not at all: what is cancelled, fails
/// or is cut off is taken back step by step.
/// </summary>
public sealed class Runner(IJournal journal)
{
    // A drive filled to the last byte is trouble for everybody else who writes there.
    private const long SpaceMargin = 1_000_000;

    /// <summary>Why a plan cannot be applied now, each a sentence; empty when it can.</summary>
    public static IReadOnlyList<string> Refusals(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        var refusals = new List<string>(plan.Refusals);
        var roots = plan.WritableRoots.Select(ShelfPath.Real).ToList();
        var parents = new Dictionary<string, bool>(StringComparer.Ordinal);
        var vacated = new HashSet<string>(StringComparer.Ordinal);
        foreach (var step in plan.Steps)
        {
            var parent = Path.GetDirectoryName(step.Destination)!;
            if (!parents.TryGetValue(parent, out var allowed))
            {
                parents[parent] = allowed = roots.Exists(r => ShelfPath.IsWithin(ShelfPath.Real(parent), r));
            }
            if (step is MoveFileStep move)
            {
                // What is moved leaves its place, so that must be one that the plan may change as well.
                allowed = allowed && roots.Exists(r => ShelfPath.IsWithin(ShelfPath.Real(Path.GetDirectoryName(move.Source)!), r));
            }
            refusals.AddRange(allowed
                ? WorkOf(step).Refusals(step, vacated.Contains(step.Destination))
                : [$"'{step.Destination}' is not in a place that this plan may change."]);
            if (((step as MoveFileStep)?.Source ?? (step as RemoveCopyStep)?.Destination) is { } left)
            {
                vacated.Add(left);
            }
        }
        refusals.AddRange(SpaceRefusals(plan));
        return refusals;
    }

    /// <summary>Applies a plan.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="progress">Told how far the work is, often.</param>
    /// <param name="cancel">Takes everything back.</param>
    /// <exception cref="PlanRefusedException">The plan cannot be applied now; nothing was done.</exception>
    /// <exception cref="OperationCanceledException">The work was cancelled, and taken back.</exception>
    /// <exception cref="IOException">A step failed; everything was taken back, or the message says what was not.</exception>
    /// <returns>What had to be left out of a plan that keeps part of its work; empty when it was applied whole.</returns>
    public IReadOnlyList<LeftOutStep> Apply(Plan plan, Action<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var refusals = Refusals(plan);
        if (refusals.Count > 0)
        {
            throw new PlanRefusedException(refusals);
        }
        var run = new PlanRun(plan, journal, progress, cancel);
        journal.Begin(plan);
        try
        {
            run.DoSteps();
            journal.Commit(plan.Id);
        }
        catch (Exception e)
        {
            TakeBackAfter(e, plan, run.Records);
            journal.Close(plan.Id, e is OperationCanceledException ? PlanOutcome.Cancelled : PlanOutcome.Failed, e.Message);
            throw;
        }
        TidyUp(plan);
        journal.Close(plan.Id, PlanOutcome.Applied, LeftOutStep.Sentence(plan, run.LeftOut));
        return run.LeftOut;
    }

    /// <summary>
    /// Deals with plans that a crash cut off: what was committed is finished, everything else is taken back. A plan
    /// whose folder cannot be reached stays open.
    /// </summary>
    /// <param name="which">Which plans to look at; null for all. Plans that are being applied must not be among them.</param>
    public IReadOnlyList<Recovered> Recover(Func<Plan, bool>? which = null)
    {
        var recovered = new List<Recovered>();
        foreach (var open in journal.Unfinished().Where(o => which?.Invoke(o.Plan) ?? true))
        {
            try
            {
                if (open.Plan.WritableRoots.FirstOrDefault(r => !Directory.Exists(r)) is { } gone)
                {
                    throw new DirectoryNotFoundException($"'{gone}' cannot be reached.");
                }
                if (open.Committed)
                {
                    TidyUp(open.Plan);
                    journal.Close(open.Plan.Id, PlanOutcome.Applied, null);
                }
                else
                {
                    TakeBack(open.Plan, open.Records);
                    journal.Close(open.Plan.Id, PlanOutcome.TakenBack, "The work was cut off; everything was put back as it was.");
                }
                recovered.Add(new Recovered(open.Plan, open.Committed, null));
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                recovered.Add(new Recovered(open.Plan, open.Committed, e.Message));
            }
        }
        return recovered;
    }

    private static void TakeBackAfter(Exception cause, Plan plan, IEnumerable<StepRecord> records)
    {
        try
        {
            TakeBack(plan, records);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // The plan stays open in the journal, so that a later try can still put everything back.
            throw new IOException($"{cause.Message} Not everything could be put back yet: {e.Message} It is tried again before the next change.", cause);
        }
    }

    private static void TakeBack(Plan plan, IEnumerable<StepRecord> records)
    {
        // What was left out was taken back at once; what stands in its place by now is somebody else's.
        foreach (var record in records.Where(r => r.State != StepState.LeftOut).OrderByDescending(r => r.Index))
        {
            var step = plan.Steps[record.Index];
            WorkOf(step).TakeBack(step, record, StepContext.Temporary(plan.Id, record.Index, step.Destination));
        }
    }

    private static void TidyUp(Plan plan)
    {
        for (var i = 0; i < plan.Steps.Length; i++)
        {
            var step = plan.Steps[i];
            WorkOf(step).TidyUp(step, StepContext.Temporary(plan.Id, i, step.Destination));
        }
    }

    private static IEnumerable<string> SpaceRefusals(Plan plan)
    {
        foreach (var drive in plan.Steps.Where(s => s.WritesBytes > 0).GroupBy(s => FileStat.Of(FileCalls.ExistingParent(s.Destination))?.Drive))
        {
            var needed = drive.Sum(s => s.WritesBytes);
            var free = new DriveInfo(FileCalls.ExistingParent(drive.First().Destination)).AvailableFreeSpace;
            if (needed + SpaceMargin > free)
            {
                yield return $"There is not enough space: {ByteText.Of(needed)} are needed, {ByteText.Of(free)} are free.";
            }
        }
    }

    internal static IStepWork WorkOf(PlanStep step) => step switch
    {
        MakeFolderStep => MakeFolder,
        CopyFileStep => CopyFile,
        MoveFileStep => MoveFile,
        AssembleFileStep => AssembleFile,
        ConvertFileStep => ConvertFile,
        WriteDocumentStep => WriteDocument,
        RepointDocumentStep => RepointDocument,
        RemoveCopyStep => RemoveCopy,
        RemoveFolderStep => RemoveFolder,
        PackBundleStep => PackBundle,
        _ => throw new ArgumentException($"There is no work for a step of the kind {step.GetType().Name}.", nameof(step)),
    };

    private static readonly MakeFolderWork MakeFolder = new();
    private static readonly CopyFileWork CopyFile = new();
    private static readonly MoveFileWork MoveFile = new();
    private static readonly AssembleFileWork AssembleFile = new();
    private static readonly ConvertFileWork ConvertFile = new();
    private static readonly WriteDocumentWork WriteDocument = new();
    private static readonly RepointDocumentWork RepointDocument = new(WriteDocument);
    private static readonly RemoveCopyWork RemoveCopy = new();
    private static readonly RemoveFolderWork RemoveFolder = new();
    private static readonly PackBundleWork PackBundle = new();
}
