using NeatCrate.App.Notices;
using NeatCrate.App.Record;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Plans;
using NeatCrate.Core.SetUp;

namespace NeatCrate.App.Plans;

/// <summary>Keeps the list of known sessions in step with plans that were applied or recovered.</summary>
public sealed class AppliedPlans(SessionService sessions, MirrorLedger mirrors, NoticeService notices)
{
    /// <summary>What follows from a plan that was applied.</summary>
    public void After(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        mirrors.After(plan);
        switch (plan.Kind)
        {
            case PlanKind.SetUp:
                sessions.Know(plan.Steps.OfType<MakeFolderStep>().First().Destination, plan.SessionId);
                break;
            case PlanKind.Separate:
                foreach (var folder in SeparatePlanner.NewFolders(plan))
                {
                    sessions.Know(folder);
                }
                break;
            case PlanKind.Version or PlanKind.BringHome when plan.SessionId is { } id:
                // What was started or came home is worked in, if it is the newest, whatever was chosen before.
                sessions.Choose(id, null);
                break;
            case PlanKind.Undo:
                ForgetTakenBack(plan);
                break;
        }
    }

    /// <summary>Sessions whose folder was made by a plan and is gone with it.</summary>
    private void ForgetTakenBack(Plan undo)
    {
        var gone = undo.Steps.OfType<RemoveFolderStep>().Select(s => s.Destination).Where(d => !Directory.Exists(d)).ToHashSet(StringComparer.Ordinal);
        foreach (var session in sessions.All().Where(s => gone.Contains(s.Folder)))
        {
            sessions.Forget(session.Id);
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
