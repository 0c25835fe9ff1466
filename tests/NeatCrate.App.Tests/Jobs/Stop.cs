using NeatCrate.App.Jobs;

namespace NeatCrate.App.Tests.Jobs;

/// <summary>Work that waits at its beginning until it is let go.</summary>
internal sealed class Stop(string name, JobWork kind = JobWork.Check, bool isBrief = false, Exception? error = null) : Work(kind, name)
{
    public TaskCompletionSource Begun { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);

    public ManualResetEventSlim Go { get; } = new();

    public override bool IsBrief => isBrief;

    public override WorkEnd Run(Job job)
    {
        Begun.SetResult();
        Go.Wait(job.Cancel);
        job.Report(1, 2, 10, 20, "file");
        return error is null ? WorkEnd.Done : throw error;
    }
}
