using System.Collections.Concurrent;
using System.Data.Common;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.Scans;

/// <summary>How far a scan is.</summary>
public enum ScanState
{
    /// <summary>Waits for another scan to end.</summary>
    Waiting,

    /// <summary>Looks through the folders.</summary>
    Looking,

    /// <summary>Reads headers of what is new or changed.</summary>
    Reading,

    /// <summary>Holds still because something records; its message says what.</summary>
    Held,

    /// <summary>Done.</summary>
    Done,

    /// <summary>Failed; what the catalogue knew is kept.</summary>
    Failed,

    /// <summary>Cancelled; what was found by then is kept.</summary>
    Cancelled,
}

/// <summary>A scan of a shelf as the pages see it.</summary>
/// <param name="ToRead">Files whose header has to be read; 0 until all folders were looked at.</param>
/// <param name="Current">The folder at hand, from the shelf's top.</param>
/// <param name="Found">Sessions that were found again, each a sentence.</param>
public sealed record ScanView(
    Guid ShelfId, ScanState State, int Folders, int Files, int ToRead, int Read, double? SecondsLeft, string Current, string? Message, IReadOnlyList<string> Found);

/// <summary>Scans shelves in the background, each at most once at a time.</summary>
public sealed partial class ShelfScans(
    ShelfService shelves, Catalogue catalogue, SessionFinder finder, SameDrives same, WorkEngine engine, IHubContext<JobsHub> hub, ILogger<ShelfScans> logger) : IHostedService
{
    // Two drives can be read at once; more would only make each of them slower.
    private const int AtOnce = 2;

    private readonly ConcurrentDictionary<Guid, Scan> _scans = new();
    private readonly Lock _lock = new();

    /// <summary>The last scan of each shelf since the application was started, running or over.</summary>
    public IReadOnlyList<ScanView> All() => [.. _scans.Values.Select(s => s.View)];

    /// <summary>Begins to scan a shelf, unless it is being scanned already.</summary>
    /// <exception cref="NotKnownException">There is no such shelf.</exception>
    /// <exception cref="FaultException">It is away.</exception>
    public ScanView Start(Guid shelfId)
    {
        var shelf = shelves.Get(shelfId);
        if (!shelf.IsConnected)
        {
            throw new FaultException(new Fault(FaultCode.ShelfAway) { Name = shelf.Name });
        }
        lock (_lock)
        {
            return Running(shelfId)?.View ?? Begin(shelf);
        }
    }

    /// <summary>Begins to scan a shelf, if it is there: one may leave between two looks, which is no reason for anything to stop.</summary>
    public void StartIfThere(Guid shelfId)
    {
        try
        {
            Start(shelfId);
        }
        catch (Exception e) when (e is FaultException { Fault.Code: FaultCode.ShelfAway } or NotKnownException)
        {
            // It is scanned when it is back.
        }
    }

    /// <summary>Looks again at the shelves on which a plan changed files, where they were scanned before.</summary>
    public void LookAgain(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        try
        {
            var (known, scanned) = (shelves.All(), catalogue.LastScans());
            var changed = plan.Steps.SelectMany(s => s.Changes);
            foreach (var shelf in changed.Select(p => Shelf.Holding(known, p)).OfType<Shelf>().DistinctBy(s => s.Id).Where(s => s.IsConnected && scanned.ContainsKey(s.Id)))
            {
                LookAgain(shelf);
            }
        }
        catch (DbException e)
        {
            // The plan is applied, whatever becomes of the catalogue; the next scan finds what it did.
            LogNotAgain(logger, plan.Sentence, e);
        }
    }

    private void LookAgain(Shelf shelf)
    {
        lock (_lock)
        {
            if (Running(shelf.Id) is { } running)
            {
                // It may have passed by already.
                running.IsStale = true;
            }
            else
            {
                Begin(shelf);
            }
        }
    }

    /// <summary>Asks a scan to stop. What it found by then is kept.</summary>
    public void Cancel(Guid shelfId)
    {
        if (_scans.TryGetValue(shelfId, out var scan))
        {
            engine.Stop(scan.Job);
        }
    }

    /// <summary>Forgets what is known of a shelf, once a scan of it has ended.</summary>
    public void Forget(Guid shelfId)
    {
        Cancel(shelfId);
        if (_scans.TryRemove(shelfId, out var scan))
        {
            scan.Job.Ended.Wait();
        }
        catalogue.Forget(shelfId);
    }

    /// <summary>At the start, what changed while nobody looked is looked for.</summary>
    public Task StartAsync(CancellationToken cancellationToken)
    {
        foreach (var shelf in shelves.All())
        {
            StartIfThere(shelf.Id);
        }
        return Task.CompletedTask;
    }

    /// <summary>The engine for work ends what runs.</summary>
    public Task StopAsync(CancellationToken cancellationToken) => Task.CompletedTask;

    private Scan? Running(Guid shelfId) => _scans.GetValueOrDefault(shelfId) is { IsEnding: false } scan && !scan.Job.View.IsOver ? scan : null;

    private ScanView Begin(Shelf shelf)
    {
        var scan = new Scan(shelf, catalogue.LastScans().GetValueOrDefault(shelf.Id)?.Files ?? 0, this) { ShelfId = shelf.Id, MostAtOnce = AtOnce };
        scan.Job = engine.Start(scan);
        _scans[shelf.Id] = scan;
        return scan.View;
    }

    private void Tell(ScanView view) => _ = hub.Clients.All.SendAsync("scan", view);

    private WorkEnd Run(Scan scan, Job job)
    {
        while (true)
        {
            var others = shelves.All().Where(s => s.Id != scan.Shelf.Id).Select(s => s.Root).ToHashSet(StringComparer.Ordinal);
            scan.Begin(job);
            ScanResult result;
            using (var sink = catalogue.BeginScan(scan.Shelf.Id))
            {
                // Told by every thread of the scan: one that has to wait for a recording holds still there, and so do all.
                result = ShelfScanner.Scan(scan.Shelf.Root, others, sink, progress => scan.Report(job, progress), job.Cancel);
                sink.End();
            }
            var isFirst = !catalogue.LastScans().ContainsKey(scan.Shelf.Id);
            catalogue.EndScan(scan.Shelf.Id, result);
            if (isFirst)
            {
                same.Look(scan.Shelf.Id);
            }
            catalogue.GetReady();
            scan.Found(result, finder.Look([scan.Shelf], job.Cancel));
            lock (_lock)
            {
                if (!scan.IsStale)
                {
                    scan.IsEnding = true;
                    return new WorkEnd(
                        JobState.Done, $"{ByteText.Count(result.Files, "file")} in {ByteText.Count(result.Folders, "folder")}, {ByteText.Of(result.Bytes)}; {result.Changed} new or changed.");
                }
                scan.IsStale = false;
            }
        }
    }

    [LoggerMessage(Level = LogLevel.Error, Message = "The shelves could not be looked at again after: {Sentence}")]
    private static partial void LogNotAgain(ILogger logger, string sentence, Exception exception);

    private sealed class Scan(Shelf shelf, int filesBefore, ShelfScans scans) : Work(JobWork.Scan, $"Scan '{shelf.Name}'")
    {
        private readonly Lock _lock = new();
        private ScanPhase _phase;

        public Shelf Shelf => shelf;

        public Job Job { get; set; } = null!;

        /// <summary>True where something changed on the shelf since it began: then it begins once more.</summary>
        public bool IsStale { get; set; }

        /// <summary>True once it does not begin again, whatever changes.</summary>
        public bool IsEnding { get; set; }

        public ScanView View { get; private set; } = new(shelf.Id, ScanState.Waiting, 0, 0, 0, 0, null, "", null, []);

        public override string WhenCancelled => "Stopped. What was found by then is kept.";

        public override WorkEnd Run(Job job) => scans.Run(this, job);

        public override string WhenFailed(Exception cause) => FaultException.Of(cause) is { } fault ? Sentences.Of(fault) : "The scan failed: " + cause.Message;

        public override void Told(JobView view)
        {
            lock (_lock)
            {
                View = View with
                {
                    State = view.State switch
                    {
                        JobState.Queued => ScanState.Waiting,
                        JobState.Running => _phase == ScanPhase.Looking ? ScanState.Looking : ScanState.Reading,
                        JobState.Held => ScanState.Held,
                        JobState.Done => ScanState.Done,
                        JobState.Cancelled => ScanState.Cancelled,
                        _ => ScanState.Failed,
                    },
                    SecondsLeft = view.SecondsLeft,
                    Current = view.Current,
                    Message = view.Message,
                };
                scans.Tell(View);
            }
        }

        public void Begin(Job job)
        {
            _phase = ScanPhase.Looking;
            job.BeginAnew();
        }

        /// <summary>While folders are looked through, the number of files at the last scan tells how many there will be.</summary>
        public void Report(Job job, ScanProgress progress)
        {
            bool isOther;
            lock (_lock)
            {
                View = View with { Folders = progress.Folders, Files = progress.Files, ToRead = progress.ToRead, Read = progress.Read };
                (isOther, _phase) = (_phase != progress.Phase, progress.Phase);
            }
            // Outside of the lock, which the job takes when it tells of itself.
            if (isOther)
            {
                job.BeginAnew();
            }
            var (done, all) = progress.Phase == ScanPhase.Looking ? (progress.Files, filesBefore) : (progress.Read, progress.ToRead);
            job.Report(done, Math.Max(done, all), 0, 0, progress.Current);
        }

        public void Found(ScanResult result, IReadOnlyList<string> found)
        {
            lock (_lock)
            {
                View = View with { Folders = result.Folders, Files = result.Files, ToRead = result.Changed, Read = result.Changed, Found = [.. View.Found, .. found] };
            }
        }
    }
}
