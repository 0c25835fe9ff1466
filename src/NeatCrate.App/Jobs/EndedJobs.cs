using System.Data.Common;
using System.Text.Json;
using NeatCrate.Store;

namespace NeatCrate.App.Jobs;

/// <summary>
/// Remembers the work that somebody asked for, and what failed, once it is over: whoever comes back in the morning, after the machine was off, finds in
/// the list of jobs what became of it.
/// </summary>
public sealed partial class EndedJobs(StoredSettings settings, ILogger<EndedJobs> logger)
{
    private const string Key = "jobs that are over";

    /// <summary>So many are remembered.</summary>
    public const int Most = 50;

    private readonly Lock _lock = new();
    private IReadOnlyList<JobView>? _known;

    /// <summary>Those that are remembered, the newest first.</summary>
    public IReadOnlyList<JobView> All()
    {
        lock (_lock)
        {
            return _known ??= Read();
        }
    }

    /// <summary>Remembers one that is over, where anybody would look for it.</summary>
    public void Remember(JobView job)
    {
        ArgumentNullException.ThrowIfNull(job);
        var isAsked = job.Work == JobWork.Apply || (job.Work == JobWork.Backup && !job.IsByItself);
        if (!isAsked && job.State != JobState.Failed)
        {
            return;
        }
        lock (_lock)
        {
            _known = [job, .. All().Where(j => j.Id != job.Id).Take(Most - 1)];
            try
            {
                settings.Write(Key, _known.ToArray());
            }
            catch (Exception e) when (e is DbException or FaultException)
            {
                // The work is done all the same, and told; only after a restart this list will not have it.
                LogNotRemembered(logger, e);
            }
        }
    }

    private JobView[] Read()
    {
        try
        {
            return settings.Read<JobView[]>(Key) ?? [];
        }
        catch (JsonException e)
        {
            LogNotRemembered(logger, e);
            return [];
        }
    }

    [LoggerMessage(Level = LogLevel.Warning, Message = "The list of jobs could not be kept or read")]
    private static partial void LogNotRemembered(ILogger logger, Exception exception);
}
