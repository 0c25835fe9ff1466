using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.App.Words;
using NeatCrate.Core.Plans;
using NeatCrate.Core.SetUp;
using NeatCrate.Store;

namespace NeatCrate.App.Plans;

/// <summary>
/// Does what follows from plans that were applied: sessions known, forgotten, chosen. The journal knows of which plans that
/// is still to be done, so that a kill in between loses none of it; doing it twice does no harm.
/// </summary>
public sealed partial class AppliedPlans(SessionService sessions, CopyInChoices choices, MirrorLedger mirrors, NoticeService notices, PlanJournal journal, ILogger<AppliedPlans> logger)
{
    /// <summary>What follows from a plan that was applied.</summary>
    /// <returns>False when it could not be done yet; it is done at the next start.</returns>
    public bool After(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        try
        {
            Follow(plan);
            journal.Follow(plan.Id);
            return true;
        }
        catch (Exception e)
        {
            // The plan is applied, and must not be told as failed for what comes after it.
            LogNotFollowed(logger, plan.Sentence, e);
            return false;
        }
    }

    /// <summary>Deals with plans that were cut off, and tells the user.</summary>
    /// <returns>True when one was finished or taken back, so that what was looked at before is otherwise now.</returns>
    public bool Recover(Runner runner, Func<Plan, bool>? which = null)
    {
        ArgumentNullException.ThrowIfNull(runner);
        var all = runner.Recover(which);
        foreach (var recovered in all)
        {
            Tell(recovered);
        }
        if (which is null)
        {
            foreach (var plan in journal.NotFollowed())
            {
                After(plan);
            }
        }
        return all.Any(r => r.Plan is not null && r.Problem is null);
    }

    private void Tell(Recovered recovered)
    {
        if (recovered.Plan is not { } plan)
        {
            journal.SetApart(recovered.PlanId, recovered.Problem!);
            notices.Tell(null, Sentences.Of(recovered.Problem!));
            return;
        }
        if (recovered.Problem is { } problem)
        {
            notices.Tell(plan.SessionId, $"This work was cut off and could not be undone yet: {plan.Sentence} {Sentences.Of(problem)} It is tried again at the next start.");
            return;
        }
        if (recovered.Finished)
        {
            After(plan);
            notices.Tell(plan.SessionId, $"Neat Crate was stopped in the last moment of this work; it is finished now: {plan.Sentence}");
            return;
        }
        notices.Tell(plan.SessionId, $"Neat Crate was stopped in the middle of this work: {plan.Sentence} " + (recovered.Remains.IsEmpty
            ? "It was undone: everything is as it was before. You can do it again."
            : $"It was undone, but: {Sentences.Of(recovered.Remains)}"));
    }

    private void Follow(Plan plan)
    {
        mirrors.After(plan);
        switch (plan.Kind)
        {
            case PlanKind.SetUp:
                // The session's own folder is the first that is made. One that was undone since is not known again.
                if (plan.Steps.OfType<MakeFolderStep>().First().Destination is var made && Directory.Exists(made))
                {
                    choices.Begin(sessions.Know(made, plan.SessionId).Id);
                }
                break;
            case PlanKind.Separate:
                foreach (var folder in SeparatePlanner.NewFolders(plan).Where(Directory.Exists))
                {
                    sessions.Know(folder);
                }
                break;
            case PlanKind.RestoreSession:
                // Its own folder is the first below the root of the plan, whether it was there and empty or not.
                var root = plan.WritableRoots[0];
                if (Path.Combine(root, Path.GetRelativePath(root, plan.Steps[0].Destination).Split('/')[0]) is var back && Directory.Exists(back))
                {
                    sessions.Know(back);
                }
                break;
            case PlanKind.Version or PlanKind.BringHome or PlanKind.CurrentDocument when plan.SessionId is { } id:
                // What was chosen on this machine before gives way to what is stated in the folder.
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

    [LoggerMessage(Level = LogLevel.Error, Message = "What follows from a plan could not be done yet: {Sentence}")]
    private static partial void LogNotFollowed(ILogger logger, string sentence, Exception exception);
}
