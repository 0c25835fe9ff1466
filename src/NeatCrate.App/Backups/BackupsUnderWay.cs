using System.Data.Common;
using System.Globalization;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>
/// Remembers the full backups that somebody asked for, until they are over: one that ends with the machine or the application is told of at the
/// next start, with what was said of it. Those that are due by themselves are due again by themselves.
/// </summary>
public sealed class BackupsUnderWay(StoredSettings settings, SessionService sessions, VaultService vaults, NoticeService notices, IHostApplicationLifetime lifetime, TimeProvider time) : IHostedService
{
    private const string Prefix = "backup under way ";

    private sealed record Asked(Guid Session, string Vault, string? Note, DateTimeOffset At);

    /// <summary>Takes note of one that begins, and forgets it when it is over.</summary>
    /// <param name="session">Of which session.</param>
    /// <param name="vault">Name of the vault.</param>
    /// <param name="note">What is said of it.</param>
    /// <param name="start">Starts it; what it is given says that the backup is made, before anybody is told so.</param>
    public Job Follow(SessionRow session, string vault, string? note, Func<Action, Job> start)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(start);
        var key = Prefix + Guid.NewGuid();
        settings.Write(key, new Asked(session.Id, vault, note, time.GetLocalNow()));
        var job = start(() =>
        {
            try
            {
                settings.Forget(key);
            }
            catch (Exception e) when (e is DbException or FaultException)
            {
                // The backup is made all the same; it is tried once more when the job is over.
            }
        });
        _ = Forget(key, job);
        return job;
    }

    private async Task Forget(string key, Job job)
    {
        await job.Ended;
        // What ends because all ends was cut off, and not stopped by anybody.
        if (!lifetime.ApplicationStopping.IsCancellationRequested)
        {
            settings.Forget(key);
        }
    }

    /// <summary>Tells of those that were cut off.</summary>
    public Task StartAsync(CancellationToken cancellationToken)
    {
        foreach (var (key, asked) in settings.ReadAll<Asked>(Prefix))
        {
            // It may have been whole a moment before all ended: what the vault lists counts, whatever is remembered here.
            if (sessions.All().FirstOrDefault(s => s.Id == asked.Session) is { } session && !IsListed(session, asked))
            {
                var said = string.IsNullOrWhiteSpace(asked.Note) ? "" : $" Its note was: {asked.Note.Trim()}";
                notices.Tell(
                    session.Id,
                    string.Create(CultureInfo.InvariantCulture, $"The full backup of '{Path.GetFileName(session.Folder)}' into '{asked.Vault}' of {asked.At:yyyy-MM-dd HH:mm} was cut off, and does not count. Earlier ones are not touched by it. Back up again.{said}"));
            }
            settings.Forget(key);
        }
        return Task.CompletedTask;
    }

    private bool IsListed(SessionRow session, Asked asked)
    {
        try
        {
            return vaults.All().Where(v => v.IsConnected && v.Name == asked.Vault)
                .SelectMany(v => vaults.In(v)).Any(b => b.Header is { } header && header.Made >= asked.At.UtcDateTime && (header.Note ?? "") == (asked.Note ?? "").Trim() && vaults.IsOf(b, session));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or FaultException)
        {
            // What cannot be looked at cannot be said to be whole.
            return false;
        }
    }

    /// <summary>Nothing is to be done.</summary>
    public Task StopAsync(CancellationToken cancellationToken) => Task.CompletedTask;
}
