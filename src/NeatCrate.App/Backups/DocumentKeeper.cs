using System.Collections.Concurrent;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>
/// Watches the documents of all known sessions and keeps each state that stood for a moment, whichever program saved it. While
/// something records nothing is kept; what is there when it stops is kept then.
/// </summary>
public sealed partial class DocumentKeeper(
    SessionService sessions, ShelfService shelves, KeptSessions kept, DocumentPlaces places, SavedWithout without, BackupChoices choices, RecordingGuard guard, NoticeService notices, IHubContext<JobsHub> hub, TimeProvider time,
    ILogger<DocumentKeeper> logger) : BackgroundService
{
    // A state that stands for a second is seen three times.
    private static readonly TimeSpan LookEvery = TimeSpan.FromMilliseconds(250);
    private static readonly TimeSpan Settled = TimeSpan.FromMilliseconds(400);
    private static readonly TimeSpan AfterFailure = TimeSpan.FromSeconds(10);
    private static readonly TimeSpan Standard = TimeSpan.FromMinutes(10);

    private readonly ConcurrentDictionary<Guid, Watched> _watched = new();

    private sealed class Watched
    {
        public Lock Lock { get; } = new();

        public DocumentWatch Watch { get; } = new(Settled);

        public string Folder { get; set; } = "";

        public DateTime NotBefore { get; set; }

        public bool SecondWasThere { get; set; }

        public int IsBusy;
    }

    /// <summary>Keeps the current document's state now, with a note.</summary>
    /// <returns>The kept state; null where the document changed at this moment, or there is none.</returns>
    /// <exception cref="FaultException">A place refuses, or something records.</exception>
    public KeptDocument? KeepNow(SessionRow session, string document, string? note)
    {
        ArgumentNullException.ThrowIfNull(session);
        lock (WatchedOf(session).Lock)
        {
            var all = places.Of(session);
            var (primary, beside) = choices.Of(session.Id).KeepsInSession ? (all.Session, all.Own) : (all.Own, all.Session);
            if (!primary.TryKeep(document, note, out var state, beside: beside))
            {
                return null;
            }
            NoteMissing(session, primary, beside, state!);
            places.CatchUp(session, CancellationToken.None);
            Tell(session.Id);
            return state;
        }
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(LookEvery, time);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                LookAtAll(stoppingToken);
            }
            catch (Exception e) when (!stoppingToken.IsCancellationRequested)
            {
                // One turn that fails must not end the watch, and with it the application.
                LogTurnFailed(logger, e);
            }
        }
    }

    private void LookAtAll(CancellationToken cancel)
    {
        var known = shelves.All();
        foreach (var session in sessions.All())
        {
            // A drive that does not answer would hold up the watch over all others.
            if (Shelf.Holding(known, session.Folder) is { IsConnected: false })
            {
                continue;
            }
            var watched = WatchedOf(session);
            if (Interlocked.Exchange(ref watched.IsBusy, 1) == 0)
            {
                _ = Task.Run(() => Look(session, watched, cancel), CancellationToken.None);
            }
        }
    }

    private Watched WatchedOf(SessionRow session) => _watched.AddOrUpdate(session.Id, _ => new Watched { Folder = session.Folder }, (_, w) => w.Folder == session.Folder ? w : new Watched { Folder = session.Folder });

    private void Look(SessionRow session, Watched watched, CancellationToken cancel)
    {
        var now = time.GetUtcNow().UtcDateTime;
        try
        {
            lock (watched.Lock)
            {
                var due = watched.Watch.Look(SessionDocuments.Seen(session.Folder), now, LongestOf(session.Id));
                // The disk belongs to the take.
                if (guard.What is not null || now < watched.NotBefore)
                {
                    return;
                }
                Keep(session, watched, due, cancel);
                CatchUp(session, watched, due.Count > 0, cancel);
            }
        }
        catch (OperationCanceledException)
        {
            // The application ends; the next start looks again.
        }
        catch (Exception e)
        {
            watched.NotBefore = now + AfterFailure;
            if (Directory.Exists(session.Folder))
            {
                LogFailed(logger, session.Folder, e);
                notices.Tell(session.Id, $"A save in '{Path.GetFileName(session.Folder)}' could not be kept: {Problems.Describe(e).Title} It is tried again every few seconds; the document itself is as it was saved.");
            }
        }
        finally
        {
            Volatile.Write(ref watched.IsBusy, 0);
        }
    }

    private void Keep(SessionRow session, Watched watched, IReadOnlyList<string> due, CancellationToken cancel)
    {
        if (due.Count == 0)
        {
            return;
        }
        var (all, keepsInSession) = (places.Of(session), choices.Of(session.Id).KeepsInSession);
        var isNews = false;
        foreach (var path in due)
        {
            var before = all.Own.All();
            if (!all.Own.TryKeep(path, null, out var state, keepsInSession ? all.Session : null, all.Session))
            {
                // It is being saved again; the next look sees it.
                continue;
            }
            watched.Watch.Kept(path);
            if (!before.Contains(state!))
            {
                isNews = true;
                NoteMissing(session, all.Own, all.Session, state!);
            }
        }
        if (keepsInSession)
        {
            var (own, inSession) = (all.Own.All(), all.Session.All());
            // Until something is saved, a session's folder is left as it is.
            if (inSession.Length > 0 || own.GroupBy(k => k.Document, StringComparer.Ordinal).Any(g => g.Count() > 1))
            {
                isNews |= all.Session.CatchUp(all.Own, cancel) > 0;
                all.Own.LetGo(all.Session, all.SecondThere);
            }
        }
        if (isNews)
        {
            Tell(session.Id);
        }
    }

    /// <summary>Notes what the document of a state misses, where that was kept now and not before.</summary>
    private void NoteMissing(SessionRow session, KeptDocuments primary, KeptDocuments beside, KeptDocument state)
    {
        var kept = primary.All();
        if (kept.Contains(state))
        {
            without.Note(session, state.Name, primary.PathOf(state.Name), kept.Concat(beside.All()).Select(k => k.Name).ToHashSet(StringComparer.Ordinal));
        }
    }

    private void CatchUp(SessionRow session, Watched watched, bool isDue, CancellationToken cancel)
    {
        if (choices.Of(session.Id).SecondShelf is null)
        {
            // Looked at four times a second: mostly there is none.
            watched.SecondWasThere = false;
            return;
        }
        var isThere = places.Of(session).SecondThere is not null;
        var isBack = isThere && !watched.SecondWasThere;
        watched.SecondWasThere = isThere;
        if (isThere && (isDue || isBack) && places.CatchUp(session, cancel) > 0)
        {
            Tell(session.Id);
        }
    }

    private TimeSpan LongestOf(Guid id) => kept.Of(id)?.Last?.Document?.Settings is { } settings ? TimeSpan.FromMinutes(settings.BackupMinutes) : Standard;

    private void Tell(Guid id) => _ = hub.Clients.All.SendAsync("backups", id);

    [LoggerMessage(Level = LogLevel.Error, Message = "The watch over documents failed for once")]
    private static partial void LogTurnFailed(ILogger logger, Exception exception);

    [LoggerMessage(Level = LogLevel.Error, Message = "A save in {Folder} could not be kept")]
    private static partial void LogFailed(ILogger logger, string folder, Exception exception);
}
