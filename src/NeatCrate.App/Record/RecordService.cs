using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;
using NeatCrate.StandIns.Record;
using NeatCrate.Store;

namespace NeatCrate.App.Record;

/// <summary>What the recorder is to do.</summary>
/// <param name="Tracks">Names of the armed tracks.</param>
/// <param name="Seconds">It stops by itself after so much sound.</param>
/// <param name="FromSeconds">Where on the timeline the pass starts.</param>
/// <param name="Pass">Number of the pass; null for the next one.</param>
/// <param name="Speed">How many times faster than real.</param>
/// <param name="CutPowerAfter">Its power is cut after so many seconds; null for never.</param>
public sealed record RecordRequest(IReadOnlyList<string> Tracks, double Seconds, double FromSeconds, int? Pass, double Speed, double? CutPowerAfter);

/// <summary>Works the recorder: one at a time, into one session, mirrored to another shelf where the session says so.</summary>
public sealed partial class RecordService(
    RecordingGuard guard, SessionWatch watch, MirrorLedger ledger, NoticeService notices, WorkEngine engine, IHubContext<JobsHub> hub, TimeProvider time, ILogger<RecordService> logger)
    : IHostedService, IDisposable
{
    private const int LeastRate = 8_000;
    private const int MostRate = 768_000;

    private static readonly TimeSpan TellEvery = TimeSpan.FromMilliseconds(200);

    private readonly Lock _lock = new();
    private Running? _running;
    private Task _followed = Task.CompletedTask;

    private sealed record Running(Guid SessionId, string Session, Recorder Recorder);

    /// <summary>What the recorder is doing; null when nothing was recorded since the start.</summary>
    public RecordingView? Current => _running is { } running ? View(running) : null;

    /// <summary>Starts to record.</summary>
    /// <exception cref="PlanRefusedException">The recorder runs already, or the session cannot be recorded into.</exception>
    /// <exception cref="IOException">A file cannot be made.</exception>
    public RecordingView Start(SessionRow session, SessionInventory inventory, IReadOnlyList<Shelf> shelves, RecordRequest request)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(request);
        if (inventory.Document is not { } document)
        {
            throw new PlanRefusedException("Takes are kept with a session document, and this folder has none that can be read. Save one first.");
        }
        var audio = Path.Combine(inventory.Folder, inventory.Layout.Audio);
        if (!ShelfPath.IsWithin(RealPath.Of(audio), RealPath.Of(inventory.Folder)))
        {
            throw new PlanRefusedException($"The audio folder '{inventory.Layout.Audio}' leads out of the session by a link. Takes must land inside.");
        }
        lock (_lock)
        {
            if (_running is { Recorder.State: RecorderState.Recording } other)
            {
                throw new PlanRefusedException(new Fault(FaultCode.RecorderBusy) { Name = other.Session });
            }
            var settings = document.Settings ?? new SessionSettings();
            if (settings.BitDepth is not (16 or 24 or 32) || settings.SampleRate is < LeastRate or > MostRate)
            {
                // Refused before a file is made.
                throw new PlanRefusedException($"The session is set to {RateText.Of(settings.SampleRate)} and {settings.BitDepth} bit, which no recorder can write. Change its settings first.");
            }
            var mirror = settings.MirrorShelfId is { } id ? shelves.FirstOrDefault(s => s.Id == id) : null;
            var takes = TakeFinder.Find(inventory);
            ArmedTrack[] tracks = [.. TakeNames.For(request.Tracks, takes, inventory.Folder, inventory.Layout.Audio, mirror).Select(t => new ArmedTrack(t.Track, t.Number, t.Path, t.MirrorPath))];
            var reference = (document.GlobalStart.Seconds + Rational.FromDouble(request.FromSeconds)) * Rational.FromInt64(settings.SampleRate);
            var name = Path.GetFileName(session.Folder);
            guard.RecorderIn = name;
            Recorder? recorder = null;
            // Before the first of them is there: a look in between would take it for one that was cut off.
            watch.Write(session, tracks.Select(t => t.Path));
            try
            {
                recorder = Recorder.Start(
                    new RecorderPass(
                        document.Name.Length > 0 ? document.Name : name,
                        request.Pass ?? TakeFinder.NextPass(takes),
                        settings.SampleRate,
                        settings.BitDepth,
                        request.Seconds,
                        request.Speed,
                        (ulong)Math.Max(0, reference.Floor()),
                        time.GetLocalNow(),
                        tracks,
                        mirror?.Root,
                        request.CutPowerAfter),
                    time);
                if (mirror is not null)
                {
                    ledger.Begin(session.Id, mirror.Id, tracks.Select(t => new MirrorGap(t.Path, t.MirrorPath!)));
                }
                _running = new Running(session.Id, name, recorder);
            }
            catch
            {
                guard.RecorderIn = null;
                recorder?.Dispose();
                watch.Settle(session.Id, tracks.Select(t => t.Path));
                throw;
            }
            _followed = Follow(_running);
            return View(_running);
        }
    }

    /// <summary>Stops the recorder; the files become whole.</summary>
    public async Task<RecordingView?> Stop(Guid sessionId) => await End(sessionId, r => r.Stop());

    /// <summary>Cuts the recorder's power: the files stay as they are.</summary>
    public async Task<RecordingView?> CutPower(Guid sessionId) => await End(sessionId, r => r.CutPower());

    /// <summary>Looks after takes that were being mirrored when the application was killed.</summary>
    public Task StartAsync(CancellationToken cancellationToken)
    {
        Verify(null, null);
        return Task.CompletedTask;
    }

    /// <summary>At the end, the recorder is stopped and its files become whole.</summary>
    public async Task StopAsync(CancellationToken cancellationToken)
    {
        _running?.Recorder.Stop();
        await Task.WhenAny(_followed, Task.Delay(Timeout.Infinite, cancellationToken));
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _running?.Recorder.Dispose();
    }

    private async Task<RecordingView?> End(Guid sessionId, Action<Recorder> end)
    {
        if (_running is not { } running || running.SessionId != sessionId)
        {
            throw new PlanRefusedException(new Fault(FaultCode.RecorderElsewhere));
        }
        end(running.Recorder);
        await _followed;
        return View(running);
    }

    /// <summary>Tells the pages how the recording goes, and afterwards looks after its mirror.</summary>
    private async Task Follow(Running running)
    {
        try
        {
            while (!running.Recorder.Ended.IsCompleted)
            {
                await hub.Clients.All.SendAsync("recording", View(running));
                await Task.WhenAny(running.Recorder.Ended, Task.Delay(TellEvery, time));
            }
            await running.Recorder.Ended;
        }
        catch (Exception e)
        {
            // Whatever ended the recorder, the user must hear of it, and the rest of the work must go on.
            LogRecorderFailed(logger, running.Session, e);
            notices.Tell(running.SessionId, $"The recorder ended unexpectedly in '{running.Session}': {Problems.Describe(e).Title} What was recorded until then is in the audio folder.");
        }
        finally
        {
            lock (_lock)
            {
                // Somebody may have started the next pass in the last instant.
                guard.RecorderIn = ReferenceEquals(_running, running) ? null : guard.RecorderIn;
            }
        }
        watch.Settle(running.SessionId, running.Recorder.Progress.Select(p => p.Track.Path));
        await hub.Clients.All.SendAsync("recording", View(running));
        Verify(running.SessionId, running.Session);
    }

    /// <summary>Reads takes back and compares them with their mirror, once nothing records any more.</summary>
    private void Verify(Guid? sessionId, string? session) => engine.Start(new Verifying(this, sessionId, session) { SessionId = sessionId });

    private sealed class Verifying(RecordService record, Guid? sessionId, string? session)
        : Work(JobWork.Check, session is null ? "Read mirrored takes back" : $"Read the mirrored takes of '{session}' back")
    {
        // What is not verified stays open, and is looked at again at the next start.
        public override string WhenCancelled => "Stopped. What was not read back is looked at again at the next start.";

        public override WorkEnd Run(Job job)
        {
            job.HoldWhileRecording();
            record.ReadBack(sessionId, session, job.Cancel);
            return WorkEnd.Done;
        }
    }

    private void ReadBack(Guid? sessionId, string? session, CancellationToken cancel)
    {
        var gaps = ledger.Verify(sessionId, cancel);
        if (gaps.Count > 0)
        {
            notices.Tell(sessionId, $"{ByteText.Count(gaps.Count, "take")}{(session is null ? "" : $" of '{session}'")} did not reach the mirror whole: {string.Join(", ", gaps)}. "
                + "Nothing is lost: the session has all of it. Once the mirror's shelf is there, the Record station copies what is missing.");
        }
        if (sessionId is { } id)
        {
            watch.Tell(id);
        }
    }

    private static RecordingView View(Running running) => RecordViews.Recording(running.SessionId, running.Session, running.Recorder);

    [LoggerMessage(Level = LogLevel.Error, Message = "The recorder ended unexpectedly in {Session}")]
    private static partial void LogRecorderFailed(ILogger logger, string session, Exception exception);
}
