namespace NeatCrate.App.Hosting;

/// <summary>Something that is looked at every second, as long as the application runs.</summary>
public abstract partial class EverySecond(TimeProvider time, ILogger logger) : BackgroundService
{
    private static readonly TimeSpan Every = TimeSpan.FromSeconds(1);

    /// <summary>Looks at once, not within a second: what leaves and comes back in between is seen to do both.</summary>
    public Task LookNow(CancellationToken cancel) => Look(cancel);

    /// <summary>Looks once.</summary>
    protected abstract Task Look(CancellationToken cancel);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Every, time);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                await Look(stoppingToken);
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
