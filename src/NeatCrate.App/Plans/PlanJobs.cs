using System.Collections.Concurrent;
using NeatCrate.App.Jobs;
using NeatCrate.App.Scans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Plans;

/// <summary>Makes plans and applies them, both as work that waits for what else goes on in the same folders.</summary>
public sealed partial class PlanJobs(
    WorkEngine engine, Runner runner, PlanService plans, AppliedPlans applied, ShelfScans scans, SessionService sessions, ShelfService shelves, ILogger<PlanJobs> logger)
{
    /// <summary>Plans that this process began, but for those that were left open: what is being applied is nothing to recover.</summary>
    private readonly ConcurrentDictionary<Guid, bool> _begun = new();

    /// <summary>Puts a plan in line to be applied.</summary>
    public Job Apply(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        var session = plan.SessionId is { } id ? sessions.All().FirstOrDefault(s => s.Id == id)?.Folder : null;
        return engine.Start(new Applying(plan, this)
        {
            SessionId = plan.SessionId,
            Reads = session is null ? [] : [session],
            Changes = Places(plan, [.. sessions.Folders()]),
        });
    }

    /// <summary>Makes a plan that a page asked for.</summary>
    /// <param name="sentence">What is planned, for whoever has to wait.</param>
    /// <param name="session">The session that it is about; null for none.</param>
    /// <param name="make">Makes it. Everything that it is made of is looked at in here, after what else goes on in the folder.</param>
    /// <param name="asked">Ends when nobody waits for it any more.</param>
    /// <exception cref="FaultException">It was stopped (<see cref="FaultCode.PlanningStopped"/>), or whatever making it throws.</exception>
    public async Task<PlanView> Make(string sentence, SessionRow? session, Func<Job, Plan> make, CancellationToken asked) =>
        PlanViews.View(plans.Keep(await Begin(sentence, session, make, asked)), shelves.All());

    /// <summary>Makes a plan that is not shown to anybody.</summary>
    /// <exception cref="FaultException">It was stopped (<see cref="FaultCode.PlanningStopped"/>), or whatever making it throws.</exception>
    public async Task<Plan> Begin(string sentence, SessionRow? session, Func<Job, Plan> make, CancellationToken asked)
    {
        var planning = new AskedWork<Plan>(JobWork.Planning, sentence, make) { SessionId = session?.Id, Reads = session is null ? [] : [session.Folder] };
        return await planning.In(engine, asked) ?? throw new FaultException(new Fault(FaultCode.PlanningStopped));
    }

    /// <summary>The session folders, and where there is none the single places, that a plan changes.</summary>
    private static string[] Places(Plan plan, IReadOnlyList<string> folders) =>
        [.. plan.Steps.SelectMany(s => s.Changes).Select(c => folders.FirstOrDefault(f => ShelfPath.IsWithin(c, f)) ?? c).Distinct(StringComparer.Ordinal)];

    private static bool SharesPlaces(Plan one, Plan other) =>
        (one.SessionId is { } id && id == other.SessionId) || one.WritableRoots.Any(r => other.WritableRoots.Any(o => ShelfPath.IsWithin(r, o) || ShelfPath.IsWithin(o, r)));

    private WorkEnd Run(Plan plan, Job job)
    {
        PlanResult? result = null;
        try
        {
            job.HoldWhileRecording();
            // What an earlier failure could not put back must be dealt with before anything new is changed.
            if (applied.Recover(runner, p => !_begun.ContainsKey(p.Id) && SharesPlaces(p, plan)))
            {
                // What was planned took what the unfinished one had left for what is there.
                throw new PlanRefusedException([new Fault(FaultCode.UndoneMeanwhile)]);
            }
            job.BeginAnew();
            result = Apply(plan, job);
            return After(plan, result);
        }
        catch (PlanRefusedException e)
        {
            return new WorkEnd(JobState.Failed, "Nothing was changed. " + Sentences.Of(e.Reasons));
        }
        catch (Exception e) when (result is not null)
        {
            // It went through, or was taken back, whatever comes after it.
            LogFailed(logger, plan.Sentence, e);
            return new WorkEnd(StateOf(result), Sentences.Of(plan, result));
        }
    }

    private PlanResult Apply(Plan plan, Job job)
    {
        var isOver = false;
        _begun[plan.Id] = true;
        try
        {
            var result = runner.Apply(plan, p => job.Report(p.StepsDone, plan.Steps.Length, p.WorkDone, p.Work, p.Current), job.Cancel);
            isOver = !result.IsOpen;
            return result;
        }
        finally
        {
            // One that is open still is recovered by the next one in its places.
            if (!isOver)
            {
                _begun.TryRemove(plan.Id, out _);
            }
        }
    }

    private WorkEnd After(Plan plan, PlanResult result)
    {
        if (result.Error is { } error)
        {
            LogFailed(logger, plan.Sentence, error);
        }
        var sentence = Sentences.Of(plan, result);
        if (result.Outcome != PlanOutcome.Applied)
        {
            return new WorkEnd(StateOf(result), sentence);
        }
        if (!applied.After(plan))
        {
            sentence = $"{sentence} All of it was done; the list of sessions follows at the next start.".TrimStart();
        }
        scans.LookAgain(plan);
        return new WorkEnd(JobState.Done, sentence);
    }

    private static JobState StateOf(PlanResult result) => result.Outcome switch
    {
        PlanOutcome.Applied => JobState.Done,
        PlanOutcome.Cancelled => JobState.Cancelled,
        _ => JobState.Failed,
    };

    [LoggerMessage(Level = LogLevel.Error, Message = "A plan failed: {Sentence}")]
    private static partial void LogFailed(ILogger logger, string sentence, Exception exception);

    private sealed class Applying(Plan plan, PlanJobs jobs) : Work(JobWork.Apply, plan.Sentence)
    {
        public override Plan Plan => plan;

        public override WorkEnd Run(Job job) => jobs.Run(plan, job);
    }
}
