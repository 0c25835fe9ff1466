using NeatCrate.App.CopyIn;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Relink;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.LoadingBay;

/// <summary>What is done in many sessions at once.</summary>
public enum ManyWork
{
    /// <summary>What stands outside is copied in, as each session was set.</summary>
    CopyIn,

    /// <summary>What is missing, and was found for certain, comes back.</summary>
    Relink,
}

/// <summary>The plan of one of many sessions.</summary>
/// <param name="SessionId">The session.</param>
/// <param name="Name">Its name.</param>
/// <param name="PlanId">The plan, to be applied; null where there is nothing to do, or something stands in its way.</param>
/// <param name="Sentence">What it does, why not, or that there is nothing to do.</param>
/// <param name="IsRefused">True where something stands in its way.</param>
/// <param name="Bytes">How much it copies.</param>
/// <param name="Warnings">What should be known before it is applied.</param>
public sealed record ManyPlanView(Guid SessionId, string Name, Guid? PlanId, string Sentence, bool IsRefused, long Bytes, IReadOnlyList<string> Warnings);

/// <summary>Plans for many sessions at once, a plan of its own for each: what goes wrong in one of them stays there.</summary>
public sealed class ManyPlans(
    SessionService sessions, ShelfService shelves, CopyInChoices choices, RelinkService relink, IIdentities identities, IFileUsers users, PlanService plans, WorkEngine engine)
{
    // Of such there is nothing to do, which is no trouble.
    private static readonly HashSet<FaultCode> Nothing = [FaultCode.NothingOutside, FaultCode.CopiesAreInside, FaultCode.NothingIsMissing, FaultCode.MatchesToCompare];

    /// <summary>Makes them, one after the other, as one piece of work.</summary>
    /// <param name="chosen">The sessions.</param>
    /// <param name="work">What is to be done.</param>
    /// <param name="way">How found files come back, but for documents that only name them: there they are put back.</param>
    /// <param name="asked">Ends when nobody waits for it any more.</param>
    /// <exception cref="NotKnownException">One of the sessions is not known.</exception>
    /// <exception cref="FaultException">It was stopped (<see cref="FaultCode.PlanningStopped"/>).</exception>
    public async Task<IReadOnlyList<ManyPlanView>> Make(IReadOnlyCollection<Guid> chosen, ManyWork work, RelinkWay way, CancellationToken asked)
    {
        ArgumentNullException.ThrowIfNull(chosen);
        List<SessionRow> rows = [.. chosen.Distinct().Select(sessions.Get)];
        var what = work == ManyWork.CopyIn ? "to copy in what stands outside" : "what takes the place of what is missing from";
        var planning = new AskedWork<List<ManyPlanView>>(JobWork.Planning, $"Plan {what} {ByteText.Count(rows.Count, "session")}", job =>
        {
            var made = new List<ManyPlanView>();
            foreach (var row in rows)
            {
                job.Report(made.Count, rows.Count, 0, 0, Path.GetFileName(row.Folder));
                made.Add(One(row, work, way, job));
            }
            return made;
        })
        { Reads = [.. rows.Select(r => r.Folder)] };
        return await planning.In(engine, asked) ?? throw new FaultException(new Fault(FaultCode.PlanningStopped));
    }

    private ManyPlanView One(SessionRow row, ManyWork work, RelinkWay way, Job job)
    {
        var name = Path.GetFileName(row.Folder);
        ManyPlanView Without(Fault why) => new(row.Id, name, null, Sentences.Of(why), !Nothing.Contains(why.Code), 0, []);
        try
        {
            var reading = new WatchedIdentities(identities, job);
            var lost = work == ManyWork.Relink ? relink.Of(row, job.Cancel) : null;
            if (lost is not null && !lost.Entries.Any(IsCertain))
            {
                var asking = lost.Entries.Count(e => e.Asks);
                return Without(asking == 0 ? new Fault(FaultCode.NothingIsMissing) : new Fault(FaultCode.MatchesToCompare) { Count = asking, Number = lost.Entries.Count(e => e.Asks && e.Matches.Best is { File.IsThere: true }) });
            }
            var plan = plans.Keep(lost is null ? CopyInEndpoints.MakePlan(row, sessions, shelves, choices, reading, job.Cancel) : Relinked(row, lost, way, reading, job.Cancel));
            return plan.Refusals is [var refusal, ..]
                ? Without(refusal)
                : new ManyPlanView(row.Id, name, plan.Id, plan.Sentence, false, plan.Bytes, [.. plan.Remarks.Select(Sentences.Of)]);
        }
        catch (Exception e) when (FaultException.Of(e, row.Folder) is { } fault)
        {
            // Its drive is away, or it is damaged: the others are planned all the same.
            return Without(fault);
        }
    }

    private static bool IsCertain(LostEntry entry) => entry.Asks && entry.Matches.Best is { IsCertain: true, File.IsThere: true };

    /// <summary>What was found for certain, and is there: what somebody would have to compare is left to the station.</summary>
    private Plan Relinked(SessionRow row, LostFiles lost, RelinkWay way, IIdentities reading, CancellationToken cancel)
    {
        var isNaming = lost.Inventory.IsByNames;
        RelinkChoice[] certain =
        [
            .. lost.Entries.Where(IsCertain)
                .Select(e => new RelinkChoice(e.File.Id, null, isNaming ? RelinkWay.PutBack : way)),
        ];
        return RelinkEndpoints.Make(row, new RelinkAsked(certain, true, [], way), sessions, relink, shelves, reading, users, cancel);
    }
}
