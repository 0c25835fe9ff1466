using System.Collections.Concurrent;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>
/// Watches the documents of all known sessions and keeps each state that stood for a moment, whichever program saved it. While
/// something records nothing is kept; what is there when it stops is kept then.
/// </summary>
public sealed partial class DocumentKeeper(
    SessionService sessions, ShelfService shelves, KeptSessions kept, DocumentPlaces places, SecondPlaces seconds, SavedWithout without, BackupChoices choices, RecordingGuard guard, NoticeService notices, IHubContext<JobsHub> hub, TimeProvider time,
    DocumentKindChoices kinds, ILogger<DocumentKeeper> logger) : BackgroundService
{
    // A state that stands for a second is seen three times.
    private static readonly TimeSpan LookEvery = TimeSpan.FromMilliseconds(250);
    private const int TurnsASecond = 4;
    // On each drive; of more than that, each that rests has its turn after a few seconds.
    private const int MostLookedAt = 40;
    private const int MostAwake = 15;
    // Who saved a moment ago will save again.
    private static readonly TimeSpan StaysAwake = TimeSpan.FromMinutes(10);
    private static readonly TimeSpan Settled = TimeSpan.FromMilliseconds(400);
    private static readonly TimeSpan AfterFailure = TimeSpan.FromSeconds(10);
    private static readonly TimeSpan Standard = TimeSpan.FromMinutes(10);

    private readonly ConcurrentDictionary<Guid, Watched> _watched = new();

    // By shelf; by session where that stands on none.
    private readonly ConcurrentDictionary<Guid, DriveLook> _looks = new();

    private IReadOnlyList<Shelf>? _known;
    private int _turn;
    private OnDrives? _onDrives;

    private sealed record OnDrives(IReadOnlyList<SessionRow> Rows, IReadOnlyList<Shelf> Shelves, IReadOnlyDictionary<Guid, List<SessionRow>> Drives);

    private sealed class DriveLook
    {
        public SessionTurns Turns { get; } = new(MostLookedAt, MostAwake);

        public int IsBusy;
    }

    private sealed class Watched(string folder, DocumentKindChoices kinds)
    {
        public Lock Lock { get; } = new();

        public DocumentWatch Watch { get; } = new(Settled);

        public string Folder => folder;

        public SessionDocuments Documents { get; } = new(folder, () => kinds.Now);

        /// <summary>When documents that could not be kept are tried again, by path.</summary>
        public Dictionary<string, DateTime> NotBefore { get; } = new(StringComparer.Ordinal);

        /// <summary>True where our own place may keep what the session's folder does not: so it is at the start.</summary>
        public bool IsToGoIn { get; set; } = true;

        public DateTime SessionNotBefore { get; set; }

        /// <summary>When something happened in it, as it was last looked at; null for longer ago, or not looked at yet.</summary>
        public long? HappenedAt { get; set; }

        public int IsBusy;
    }

    /// <summary>Keeps the current document's state now, with a note.</summary>
    /// <returns>The kept state; null where the document changed at this moment, or there is none.</returns>
    /// <exception cref="FaultException">A place refuses, or something records.</exception>
    public KeptDocument? KeepNow(SessionRow session, string document, string? note)
    {
        ArgumentNullException.ThrowIfNull(session);
        KeptDocument? state;
        lock (WatchedOf(session).Lock)
        {
            var all = places.Of(session);
            var (primary, beside) = choices.Of(session.Id).KeepsInSession ? (all.Session, all.Own) : (all.Own, all.Session);
            if (!primary.TryKeep(document, note, out state, beside: beside))
            {
                return null;
            }
            NoteMissing(session, primary, beside, state!);
        }
        seconds.See(session, isDue: true);
        Tell(session.Id);
        return state;
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
        // Which drives answer is asked once a second: each is asked by a thread of its own.
        var known = _known is null || _turn++ % TurnsASecond == 0 ? _known = shelves.All() : _known;
        var rows = sessions.All();
        if (_onDrives is not { } onDrives || !ReferenceEquals(onDrives.Rows, rows) || !ReferenceEquals(onDrives.Shelves, known))
        {
            _onDrives = onDrives = new OnDrives(rows, known, ByDrive(rows, known));
        }
        // One drive after the other would wait for one that is slow; a thread for each session costs more than all that it looks at.
        foreach (var (drive, on) in onDrives.Drives)
        {
            var look = _looks.GetOrAdd(drive, _ => new DriveLook());
            if (Interlocked.Exchange(ref look.IsBusy, 1) == 0)
            {
                _ = Task.Run(() => Look(on, look, cancel), CancellationToken.None);
            }
        }
    }

    private static Dictionary<Guid, List<SessionRow>> ByDrive(IReadOnlyList<SessionRow> rows, IReadOnlyList<Shelf> known)
    {
        var drives = new Dictionary<Guid, List<SessionRow>>();
        foreach (var session in rows)
        {
            var shelf = Shelf.Holding(known, session.Folder);
            // A drive that does not answer would hold up the watch over all others.
            if (shelf is { IsConnected: false })
            {
                continue;
            }
            (drives.TryGetValue(shelf?.Id ?? session.Id, out var on) ? on : drives[shelf?.Id ?? session.Id] = []).Add(session);
        }
        return drives;
    }

    private long? HappenedAt(SessionRow session) => _watched.GetValueOrDefault(session.Id)?.HappenedAt;

    private void Look(List<SessionRow> sessionsOn, DriveLook look, CancellationToken cancel)
    {
        try
        {
            foreach (var session in look.Turns.Next(sessionsOn, HappenedAt))
            {
                Look(session, WatchedOf(session), cancel);
            }
        }
        finally
        {
            Volatile.Write(ref look.IsBusy, 0);
        }
    }

    private Watched WatchedOf(SessionRow session) => _watched.AddOrUpdate(session.Id, _ => new Watched(session.Folder, kinds), (_, w) => w.Folder == session.Folder ? w : new Watched(session.Folder, kinds));

    /// <summary>Looks at the documents of a session; what is to be kept is kept by a thread of its own, so that a long one holds up no other session.</summary>
    private void Look(SessionRow session, Watched watched, CancellationToken cancel)
    {
        // Where something of it is being kept, it is looked at again after that.
        if (Interlocked.Exchange(ref watched.IsBusy, 1) != 0)
        {
            return;
        }
        var goesOn = false;
        try
        {
            var now = time.GetUtcNow().UtcDateTime;
            if (!watched.Lock.TryEnter())
            {
                return;
            }
            IReadOnlyList<string> due;
            try
            {
                due = watched.Watch.Look(watched.Documents.Look(now), now, LongestOf(session.Id));
                watched.HappenedAt = watched.Watch.HappenedAt(now, StaysAwake);
            }
            finally
            {
                watched.Lock.Exit();
            }
            // The disk belongs to the take.
            if (guard.What is not null)
            {
                return;
            }
            goesOn = due.Count > 0 || IsDueToGoIn(watched, now);
            if (goesOn)
            {
                _ = Task.Run(() => Keep(session, watched, due, now, cancel), CancellationToken.None);
            }
            else
            {
                seconds.See(session, isDue: false);
            }
        }
        catch (Exception e)
        {
            Failed(session, e);
        }
        finally
        {
            if (!goesOn)
            {
                Volatile.Write(ref watched.IsBusy, 0);
            }
        }
    }

    private void Keep(SessionRow session, Watched watched, IReadOnlyList<string> due, DateTime now, CancellationToken cancel)
    {
        try
        {
            bool isNews;
            lock (watched.Lock)
            {
                isNews = KeepAll(session, watched, due, now);
                isNews |= BringIntoSession(session, watched, now, cancel);
            }
            seconds.See(session, isNews);
            if (isNews)
            {
                Tell(session.Id);
            }
        }
        catch (OperationCanceledException)
        {
            // The application ends; the next start looks again.
        }
        catch (Exception e)
        {
            Failed(session, e);
        }
        finally
        {
            Volatile.Write(ref watched.IsBusy, 0);
        }
    }

    private void Failed(SessionRow session, Exception cause)
    {
        if (Directory.Exists(session.Folder))
        {
            LogFailed(logger, session.Folder, cause);
        }
    }

    private static bool IsDueToGoIn(Watched watched, DateTime now) => watched.IsToGoIn && now >= watched.SessionNotBefore;

    /// <summary>Keeps each document by itself: one that cannot be read, or kept, holds up no other.</summary>
    private bool KeepAll(SessionRow session, Watched watched, IReadOnlyList<string> due, DateTime now)
    {
        var isNews = false;
        foreach (var path in due.Where(p => !watched.NotBefore.TryGetValue(p, out var again) || now >= again))
        {
            try
            {
                isNews |= Keep(session, watched, path);
                watched.NotBefore.Remove(path);
            }
            catch (Exception e) when (FaultException.Of(e, path) is not null)
            {
                if (watched.NotBefore.TryAdd(path, now + AfterFailure))
                {
                    LogFailed(logger, path, e);
                    notices.Tell(session.Id, $"The save of '{Path.GetFileName(path)}' could not be kept: {Problems.Describe(e).Title} It is tried again every few seconds; the document itself is as it was saved.");
                }
                watched.NotBefore[path] = now + AfterFailure;
            }
        }
        return isNews;
    }

    /// <summary>Keeps a document's state in our own place, first and at once.</summary>
    private bool Keep(SessionRow session, Watched watched, string path)
    {
        var all = places.Of(session);
        var before = all.Own.All();
        if (!all.Own.TryKeep(path, null, out var state, choices.Of(session.Id).KeepsInSession ? all.Session : null, all.Session))
        {
            // It is being saved again; the next look sees it.
            return false;
        }
        watched.Watch.Kept(path);
        watched.IsToGoIn = true;
        if (before.Contains(state!))
        {
            return false;
        }
        NoteMissing(session, all.Own, all.Session, state!);
        return true;
    }

    /// <summary>Brings what our own place keeps into the session's folder. While that refuses, keeping goes on.</summary>
    private bool BringIntoSession(SessionRow session, Watched watched, DateTime now, CancellationToken cancel)
    {
        if (!IsDueToGoIn(watched, now))
        {
            return false;
        }
        var (all, choice) = (places.Of(session), choices.Of(session.Id));
        try
        {
            var came = 0;
            // Until something is saved, a session's folder is left as it is.
            if (choice.KeepsInSession && (all.Session.All().Length > 0 || all.Own.All().GroupBy(k => k.Document, StringComparer.Ordinal).Any(g => g.Count() > 1)))
            {
                came = all.Session.CatchUp(all.Own, cancel);
                if (choice.SecondShelf is null)
                {
                    all.Own.LetGo(all.Session);
                }
            }
            (watched.IsToGoIn, watched.SessionNotBefore) = (false, default);
            return came > 0;
        }
        catch (Exception e) when (FaultException.Of(e) is not null)
        {
            if (watched.SessionNotBefore == default)
            {
                LogFailed(logger, session.Folder, e);
                notices.Tell(session.Id, $"Saves cannot be kept in the folder of '{Path.GetFileName(session.Folder)}': {Problems.Describe(e).Title} They are kept in Neat Crate's own data folder, and it is tried again every few seconds.");
            }
            watched.SessionNotBefore = now + AfterFailure;
            return false;
        }
    }

    /// <summary>Notes what the document of a state misses, where that was kept now and not before.</summary>
    private void NoteMissing(SessionRow session, KeptDocuments primary, KeptDocuments beside, KeptDocument state)
    {
        var kept = primary.All();
        if (kept.Contains(state))
        {
            without.Note(session, state.Name, primary.PathOf(state.Name), kept.Concat(beside.All()).Select(k => k.Name).ToHashSet(StringComparer.Ordinal), document => NamedNow(session, document));
        }
    }

    /// <summary>What a document of another program names. What came together with the save is looked at first: a bare name may mean it.</summary>
    private IReadOnlySet<string>? NamedNow(SessionRow session, byte[] document)
    {
        var known = shelves.All();
        return new NamedFiles(sessions.Glance(session, known, CancellationToken.None), known).In(document);
    }

    private TimeSpan LongestOf(Guid id) => kept.Of(id)?.Last?.Document?.Settings is { } settings ? TimeSpan.FromMinutes(settings.BackupMinutes) : Standard;

    private void Tell(Guid id) => _ = hub.Clients.All.SendAsync("backups", id);

    [LoggerMessage(Level = LogLevel.Error, Message = "The watch over documents failed for once")]
    private static partial void LogTurnFailed(ILogger logger, Exception exception);

    [LoggerMessage(Level = LogLevel.Error, Message = "A save in {Folder} could not be kept")]
    private static partial void LogFailed(ILogger logger, string folder, Exception exception);
}
