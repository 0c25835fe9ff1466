namespace NeatCrate.App.Ground;

/// <summary>Something that is looked at every second, as long as the application runs.</summary>
public abstract partial class EverySecond(TimeProvider time, ILogger logger) : BackgroundService
{
    private static readonly TimeSpan Every = TimeSpan.FromSeconds(1);

    private readonly SemaphoreSlim _one = new(1);

    /// <summary>Looks at once, not within a second: what leaves and comes back in between is seen to do both. Waits for a look that goes on.</summary>
    public async Task LookNow(CancellationToken cancel)
    {
        await _one.WaitAsync(cancel);
        try
        {
            await Look(cancel);
        }
        finally
        {
            _one.Release();
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        _one.Dispose();
        base.Dispose();
        GC.SuppressFinalize(this);
    }

    /// <summary>Looks once; no two looks at a time.</summary>
    protected abstract Task Look(CancellationToken cancel);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Every, time);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                await LookNow(stoppingToken);
            }
            catch (Exception e) when (!stoppingToken.IsCancellationRequested)
            {
                // One turn that fails, or is given up by whoever it asked, must not end the watch, and with it the application.
                LogFailed(logger, GetType().Name, e);
            }
        }
    }

    [LoggerMessage(Level = LogLevel.Error, Message = "{Watch} failed for once")]
    private static partial void LogFailed(ILogger logger, string watch, Exception exception);
}
