using System.Collections.Concurrent;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.Relink;

/// <summary>
/// Reads what documents use while nobody needs the disk, so that each sound is recognised under any name should it go missing. It
/// begins when nothing was done for a while, gives way to all other work between two stretches of a file, and never reads while something
/// records. Whoever stops it is not asked again until the next start.
/// </summary>
public sealed class IdentitiesAtRest(
    SessionService sessions, ShelfService shelves, KeptSessions kept, KeptIdentities identities, WorkEngine engine, RecordingGuard guard, TimeProvider time, ILogger<IdentitiesAtRest> logger)
    : EverySecond(time, logger)
{
    // Long enough that nobody waits in the middle of something.
    private static readonly TimeSpan RestsAfter = TimeSpan.FromMinutes(2);

    // What could not be read is not tried again and again.
    private readonly ConcurrentDictionary<(string Path, long Bytes, DateTime ModifiedUtc), bool> _unreadable = new();
    private readonly TimeProvider _time = time;
    private long _restsSince = time.GetTimestamp();
    private string? _doneAt;
    private Job? _job;
    private bool _gaveWay;
    private bool _isUnwanted;

    /// <summary>Begins at once, without waiting for rest.</summary>
    /// <returns>The work; null where everything is known.</returns>
    public Job? Begin(CancellationToken cancel)
    {
        var due = Due(cancel);
        _gaveWay = false;
        return _job = due.Count == 0 ? null : engine.Start(new Noting(this, due) { By = Who.ByItself });
    }

    /// <inheritdoc/>
    protected override Task Look(CancellationToken cancel)
    {
        if (guard.What is not null || !engine.IsIdle(_job))
        {
            _restsSince = _time.GetTimestamp();
            if (_job is { View.IsOver: false } running)
            {
                _gaveWay = true;
                engine.Stop(running);
            }
            return Task.CompletedTask;
        }
        if (_job is { } ended)
        {
            if (!ended.View.IsOver)
            {
                return Task.CompletedTask;
            }
            _isUnwanted |= ended.View.State == JobState.Cancelled && !_gaveWay;
            _job = null;
            _restsSince = _time.GetTimestamp();
        }
        var revision = string.Join(' ', sessions.All().Select(s => kept.Of(s.Id)?.Revision));
        if (_isUnwanted || revision == _doneAt || _time.GetElapsedTime(_restsSince) < RestsAfter)
        {
            return Task.CompletedTask;
        }
        if (Begin(cancel) is null)
        {
            // Asked again when something changed.
            _doneAt = revision;
        }
        return Task.CompletedTask;
    }

    /// <summary>What documents use, is there, and was not read in the state that it is in.</summary>
    private List<InventoryFile> Due(CancellationToken cancel)
    {
        var (known, due) = (shelves.All(), new Dictionary<string, InventoryFile>(StringComparer.Ordinal));
        foreach (var session in sessions.All())
        {
            cancel.ThrowIfCancellationRequested();
            var used = (kept.Of(session.Id)?.Last?.Files ?? []).Where(f => f is
            {
                Standing: Standing.Inside or Standing.Outside, Use: FileUse.Placed or FileUse.Named or FileUse.OlderOnly or FileUse.Listed, Header: not null, ModifiedUtc: not null,
            }).ToList();
            var places = used.ConvertAll(f => KeptIdentities.PlaceOf(known, f.Path));
            var noted = identities.Recall(places);
            foreach (var (n, file) in used.Index())
            {
                if (noted.GetValueOrDefault(places[n])?.Of(file.Bytes, file.ModifiedUtc!.Value) is null && !_unreadable.ContainsKey((file.Path, file.Bytes, file.ModifiedUtc!.Value)))
                {
                    due.TryAdd(file.Path, file);
                }
            }
        }
        return [.. due.Values];
    }

    private sealed class Noting(IdentitiesAtRest rest, IReadOnlyList<InventoryFile> files)
        : Work(JobWork.Check, $"Read {ByteText.Count(files.Count, "file")}, {ByteText.Of(files.Sum(f => f.Bytes))}, while nothing else is done, to know them again should they go missing")
    {
        public override string WhenCancelled => "Stopped. What was read by then is known.";

        public override WorkEnd Run(Job job)
        {
            var (read, bytes, all) = (0, 0L, files.Sum(f => f.Bytes));
            foreach (var (n, file) in files.Index())
            {
                job.Report(n, files.Count, bytes, all, file.Name);
                try
                {
                    PlaceSearch.Read(file.Path, new WatchedIdentities(rest.Identities, job), job.Cancel);
                    read++;
                }
                catch (Exception e) when (FaultException.Of(e, file.Path) is not null)
                {
                    // It is told where it is used; here it is only not tried again in this state.
                    rest._unreadable[(file.Path, file.Bytes, file.ModifiedUtc!.Value)] = true;
                }
                bytes += file.Bytes;
            }
            return new WorkEnd(JobState.Done, $"{ByteText.Count(read, "file")} read.");
        }
    }

    private KeptIdentities Identities => identities;
}
