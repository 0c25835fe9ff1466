using System.Runtime.ExceptionServices;

namespace NeatCrate.App.Jobs;

/// <summary>Work whose result a request waits for. It is mostly over at once; where it is not, the pages see it as any other.</summary>
/// <param name="kind">What it does.</param>
/// <param name="sentence">The same in a sentence, for the user.</param>
/// <param name="ask">Does it.</param>
public sealed class AskedWork<T>(JobWork kind, string sentence, Func<Job, T> ask) : Work(kind, sentence)
    where T : class
{
    private T? _result;
    private ExceptionDispatchInfo? _error;

    /// <inheritdoc/>
    public override bool IsBrief => true;

    /// <inheritdoc/>
    public override WorkEnd Run(Job job)
    {
        try
        {
            _result = ask(job);
            return WorkEnd.Done;
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            // Whoever asked is told, as of any request that fails.
            _error = ExceptionDispatchInfo.Capture(e);
            return new WorkEnd(JobState.Failed, WhenFailed(e));
        }
    }

    /// <summary>Runs it and waits for its result.</summary>
    /// <param name="engine">The engine for work.</param>
    /// <param name="asked">Ends when nobody waits any more; then the work is stopped.</param>
    /// <returns>The result; null where somebody stopped the work.</returns>
    /// <exception cref="OperationCanceledException">Nobody waits any more.</exception>
    public async Task<T?> In(WorkEngine engine, CancellationToken asked)
    {
        ArgumentNullException.ThrowIfNull(engine);
        var job = engine.Start(this);
        await using var stopped = asked.Register(() => engine.Stop(job));
        await job.Ended;
        asked.ThrowIfCancellationRequested();
        _error?.Throw();
        return _result;
    }
}
