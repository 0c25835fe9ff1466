using System.Collections.Concurrent;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.Core.Plans;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>
/// Brings second places of kept saves up to date, each as work of its own: it holds no lock that a look at the documents needs, so that a
/// drive that is slow, full or hangs keeps no save from being kept in the session.
/// </summary>
public sealed class SecondPlaces(DocumentPlaces places, WorkEngine engine, NoticeService notices, IHubContext<JobsHub> hub, TimeProvider time)
{
    private static readonly TimeSpan FirstPause = TimeSpan.FromSeconds(10);
    private static readonly TimeSpan LongestPause = TimeSpan.FromMinutes(10);

    private readonly ConcurrentDictionary<Guid, Place> _places = new();

    private sealed class Place
    {
        public Lock Lock { get; } = new();

        public bool IsGoing { get; set; }

        public bool IsDue { get; set; }

        public bool WasThere { get; set; }

        public DateTimeOffset NotBefore { get; set; }

        public TimeSpan Pause { get; set; }
    }

    /// <summary>Sees to the second place of a session: what is due goes there as soon as it is there and takes it.</summary>
    /// <param name="session">The session.</param>
    /// <param name="isDue">Whether something was kept that it may lack.</param>
    public void See(SessionRow session, bool isDue)
    {
        ArgumentNullException.ThrowIfNull(session);
        if (!places.HaveSecond(session))
        {
            // Looked at four times a second: mostly there is none.
            _places.TryRemove(session.Id, out _);
            return;
        }
        var place = _places.GetOrAdd(session.Id, _ => new Place());
        var isThere = places.Of(session).SecondThere is not null;
        lock (place.Lock)
        {
            // One that came back missed what was kept meanwhile.
            place.IsDue |= isDue || (isThere && !place.WasThere);
            place.WasThere = isThere;
            if (!isThere || !place.IsDue || place.IsGoing || time.GetUtcNow() < place.NotBefore)
            {
                return;
            }
            (place.IsGoing, place.IsDue) = (true, false);
        }
        engine.Start(new CatchingUp(this, session, place) { SessionId = session.Id, By = Who.ByItself });
    }

    private WorkEnd Run(SessionRow session, Place place, Job job)
    {
        var isDone = false;
        try
        {
            job.HoldWhileRecording();
            var came = places.CatchUp(session, (done, all, name) => job.Report(done, all, 0, 0, name), job.Cancel);
            isDone = true;
            place.Pause = TimeSpan.Zero;
            if (came > 0)
            {
                _ = hub.Clients.All.SendAsync("backups", session.Id);
            }
            return WorkEnd.Done;
        }
        finally
        {
            lock (place.Lock)
            {
                place.IsGoing = false;
                if (!isDone)
                {
                    // Told once, and tried again after longer and longer pauses.
                    place.IsDue = true;
                    place.Pause = place.Pause == TimeSpan.Zero ? FirstPause : TimeSpan.FromTicks(Math.Min(LongestPause.Ticks, 2 * place.Pause.Ticks));
                    place.NotBefore = time.GetUtcNow() + place.Pause;
                }
            }
        }
    }

    private void TellFailed(SessionRow session, Place place, Exception cause)
    {
        if (place.Pause <= FirstPause)
        {
            notices.Tell(session.Id, $"The second place does not take the saves of '{Path.GetFileName(session.Folder)}': {Problems.Describe(cause).Title} They are kept in the session, and it is tried again.");
        }
    }

    private sealed class CatchingUp(SecondPlaces seconds, SessionRow session, Place place)
        : Work(JobWork.CatchUp, $"Bring the kept saves of '{Path.GetFileName(session.Folder)}' to their second place")
    {
        public override bool IsBrief => true;

        public override string WhenCancelled => "Stopped. What is at the second place by now stays, and the rest follows.";

        public override string WhenFailed(Exception cause) => "The second place does not take them. " + Problems.Describe(cause).Title + " They are kept in the session, and it is tried again.";

        public override WorkEnd Run(Job job)
        {
            try
            {
                return seconds.Run(session, place, job);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                seconds.TellFailed(session, place, e);
                throw;
            }
        }
    }
}
