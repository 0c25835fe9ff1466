using System.Collections.Concurrent;
using System.Data.Common;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Hosting;
using NeatCrate.App.Jobs;
using NeatCrate.App.Record;
using NeatCrate.App.Sessions;
using NeatCrate.App.Words;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.Shelves;

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
    ShelfService shelves, Catalogue catalogue, SessionFinder finder, RecordingGuard guard, IHubContext<JobsHub> hub, TimeProvider time, ILogger<ShelfScans> logger)
    : IHostedService, IDisposable
{
    // Two drives can be read at once; more would only make each of them slower.
    private const int AtOnce = 2;

    private static readonly TimeSpan TellEvery = TimeSpan.FromMilliseconds(100);

    private readonly ConcurrentDictionary<Guid, Scan> _scans = new();
    private readonly SemaphoreSlim _places = new(AtOnce);
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
            scan.Cancel.Cancel();
        }
    }

    /// <summary>Forgets what is known of a shelf, once a scan of it has ended.</summary>
    public void Forget(Guid shelfId)
    {
        Cancel(shelfId);
        if (_scans.TryRemove(shelfId, out var scan))
        {
            scan.Work.Wait();
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

    /// <inheritdoc/>
    public Task StopAsync(CancellationToken cancellationToken)
    {
        foreach (var scan in _scans.Values)
        {
            scan.Cancel.Cancel();
        }
        return Task.WhenAny(Task.WhenAll(_scans.Values.Select(s => s.Work)), Task.Delay(Timeout.Infinite, cancellationToken));
    }

    /// <inheritdoc/>
    public void Dispose() => _places.Dispose();

    private Scan? Running(Guid shelfId) => _scans.GetValueOrDefault(shelfId) is { IsOver: false } running ? running : null;

    private ScanView Begin(Shelf shelf)
    {
        var scan = new Scan(shelf, catalogue.LastScans().GetValueOrDefault(shelf.Id)?.Files, time);
        _scans[shelf.Id] = scan;
        scan.Work = Task.Factory.StartNew(() => Run(scan), CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
        return scan.View;
    }

    private void Run(Scan scan)
    {
        var hasPlace = false;
        try
        {
            _places.Wait(scan.Cancel.Token);
            hasPlace = true;
            Work(scan);
        }
        catch (OperationCanceledException)
        {
            scan.End(ScanState.Cancelled, "Stopped. What was found by then is kept.");
        }
        catch (Exception e) when (FaultException.Of(e) is not null)
        {
            scan.End(ScanState.Failed, Sentences.Of(FaultException.Of(e)!));
        }
        catch (Exception e)
        {
            // The last stop of a background thread: whatever it is, the user must hear of it.
            LogFailed(logger, scan.Shelf.Name, e);
            scan.End(ScanState.Failed, "The scan failed: " + e.Message);
        }
        finally
        {
            if (hasPlace)
            {
                _places.Release();
            }
        }
        Tell(scan);
    }

    private void Work(Scan scan)
    {
        while (true)
        {
            var others = shelves.All().Where(s => s.Id != scan.Shelf.Id).Select(s => s.Root).ToHashSet(StringComparer.Ordinal);
            scan.Begin();
            Tell(scan);
            ScanResult result;
            using (var sink = catalogue.BeginScan(scan.Shelf.Id))
            {
                result = ShelfScanner.Scan(scan.Shelf.Root, others, sink, progress => Report(scan, progress), scan.Cancel.Token);
                sink.End();
            }
            catalogue.EndScan(scan.Shelf.Id, result);
            catalogue.GetReady();
            scan.Found(result, finder.Look([scan.Shelf], scan.Cancel.Token));
            lock (_lock)
            {
                if (!scan.IsStale)
                {
                    scan.End(ScanState.Done, $"{ByteText.Count(result.Files, "file")} in {ByteText.Count(result.Folders, "folder")}, {ByteText.Of(result.Bytes)}; {result.Changed} new or changed.");
                    return;
                }
                scan.IsStale = false;
            }
        }
    }

    /// <summary>Told by every thread of the scan: one that has to wait for a recording holds still here, and so do all.</summary>
    private void Report(Scan scan, ScanProgress progress)
    {
        if (guard.WaitUntilQuiet(scan.Cancel.Token, what =>
        {
            scan.Hold($"Waits: {what}.");
            Tell(scan);
        }))
        {
            scan.GoOn();
        }
        if (scan.Progress(progress, TellEvery))
        {
            Tell(scan);
        }
    }

    private void Tell(Scan scan) => _ = hub.Clients.All.SendAsync("scan", scan.View);

    [LoggerMessage(Level = LogLevel.Error, Message = "The scan of '{Shelf}' failed")]
    private static partial void LogFailed(ILogger logger, string shelf, Exception exception);

    [LoggerMessage(Level = LogLevel.Error, Message = "The shelves could not be looked at again after: {Sentence}")]
    private static partial void LogNotAgain(ILogger logger, string sentence, Exception exception);

    private sealed class Scan(Shelf shelf, int? filesBefore, TimeProvider time)
    {
        private readonly Lock _lock = new();
        private long _phaseBegun;
        private long _told;

        public Shelf Shelf => shelf;

        public CancellationTokenSource Cancel { get; } = new();

        public Task Work { get; set; } = Task.CompletedTask;

        /// <summary>True where something changed on the shelf since it began: then it begins once more.</summary>
        public bool IsStale { get; set; }

        public ScanView View { get; private set; } = new(shelf.Id, ScanState.Waiting, 0, 0, 0, 0, null, "", null, []);

        public bool IsOver => View.State is ScanState.Done or ScanState.Failed or ScanState.Cancelled;

        public void Begin()
        {
            _phaseBegun = time.GetTimestamp();
            View = View with { State = ScanState.Looking };
        }

        public void Hold(string why)
        {
            lock (_lock)
            {
                View = View with { State = ScanState.Held, Message = why, SecondsLeft = null };
            }
        }

        public void GoOn()
        {
            lock (_lock)
            {
                // How long the rest takes is judged anew from here.
                _phaseBegun = time.GetTimestamp();
                View = View with { State = View.ToRead > 0 ? ScanState.Reading : ScanState.Looking, Message = null };
            }
        }

        public void Found(ScanResult result, IReadOnlyList<string> found) =>
            View = View with { Folders = result.Folders, Files = result.Files, ToRead = result.Changed, Read = result.Changed, Found = [.. View.Found, .. found] };

        public void End(ScanState state, string message) => View = View with { State = state, Message = message, Current = "", SecondsLeft = null };

        /// <summary>Takes in how far the scan is.</summary>
        /// <returns>True when it is time to tell the pages.</returns>
        public bool Progress(ScanProgress progress, TimeSpan tellEvery)
        {
            lock (_lock)
            {
                var now = time.GetTimestamp();
                var state = progress.Phase == ScanPhase.Looking ? ScanState.Looking : ScanState.Reading;
                if (state == ScanState.Reading && View.State == ScanState.Looking)
                {
                    _phaseBegun = now;
                }
                if (time.GetElapsedTime(_told, now) < tellEvery && state == View.State)
                {
                    return false;
                }
                _told = now;
                View = View with
                {
                    State = state,
                    Folders = progress.Folders,
                    Files = progress.Files,
                    ToRead = progress.ToRead,
                    Read = progress.Read,
                    SecondsLeft = Left(progress, time.GetElapsedTime(_phaseBegun, now).TotalSeconds),
                    Current = progress.Current,
                };
                return true;
            }
        }

        /// <summary>While folders are looked through, the number of files at the last scan tells how many there will be.</summary>
        private double? Left(ScanProgress progress, double seconds)
        {
            var (done, all) = progress.Phase == ScanPhase.Looking ? (progress.Files, filesBefore ?? 0) : (progress.Read, progress.ToRead);
            return seconds > 0.2 && done > 0 && all > 0 ? seconds / done * Math.Max(0, all - done) : null;
        }
    }
}
