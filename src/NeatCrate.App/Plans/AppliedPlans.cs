using NeatCrate.App.Notices;
using NeatCrate.App.Record;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Plans;

namespace NeatCrate.App.Plans;

/// <summary>Keeps the list of known sessions in step with plans that were applied or recovered.</summary>
public sealed class AppliedPlans(SessionService sessions, MirrorLedger mirrors, NoticeService notices)
{
    /// <summary>What follows from a plan that was applied.</summary>
    public void After(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        mirrors.After(plan);
        if (plan.Kind == PlanKind.SetUp)
        {
            sessions.Know(plan.Steps.OfType<MakeFolderStep>().First().Destination, plan.SessionId);
        }
        else if (plan.Kind == PlanKind.Undo && plan.SessionId is { } id && sessions.All().FirstOrDefault(s => s.Id == id) is { } session
            && !Directory.Exists(session.Folder))
        {
            sessions.Forget(id);
        }
    }

    /// <summary>Deals with plans that were cut off, and tells the user.</summary>
    public void Recover(Runner runner, Func<Plan, bool>? which = null)
    {
        ArgumentNullException.ThrowIfNull(runner);
        foreach (var recovered in runner.Recover(which))
        {
            if (recovered.Problem is { } problem)
            {
                notices.Tell(recovered.Plan.SessionId, $"This work was cut off and could not be put back yet: {recovered.Plan.Sentence} {problem} It is tried again at the next start.");
                continue;
            }
            if (recovered.Finished)
            {
                After(recovered.Plan);
            }
            notices.Tell(recovered.Plan.SessionId, recovered.Finished
                ? $"Neat Crate was stopped in the last moment of this work; it is finished now: {recovered.Plan.Sentence}"
                : $"Neat Crate was stopped in the middle of this work: {recovered.Plan.Sentence} Everything was put back as it was; nothing was lost. You can do it again.");
        }
    }
}
