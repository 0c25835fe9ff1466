using System.Collections.Immutable;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Jobs;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.Relink;

/// <summary>Looks for missing files where no shelf is, and reads what may be one to make sure: both as work that can be followed and stopped.</summary>
public sealed class RelinkSearches(RelinkService relink, RelinkNotes notes, IIdentities identities, IDurableFiles files, WorkEngine engine, IHubContext<JobsHub> hub, TimeProvider time)
{
    private static readonly TimeSpan TellEvery = TimeSpan.FromMilliseconds(400);

    // More copies of one name than this are told apart by eye.
    private const int MostReadForOne = 40;

    /// <summary>Searches places for what a session misses.</summary>
    /// <param name="row">The session.</param>
    /// <param name="lost">What is looked for.</param>
    /// <param name="places">Absolute paths of folders.</param>
    public Job Search(SessionRow row, IReadOnlyList<LostFile> lost, IReadOnlyList<string> places)
    {
        ArgumentNullException.ThrowIfNull(row);
        return engine.Start(new Searching(this, row, lost, places) { SessionId = row.Id, MostAtOnce = 1, Reads = [.. places] });
    }

    /// <summary>What has to be read to make sure of matches: each file once.</summary>
    public static IReadOnlyList<FoundFile> ToRead(LostFiles lost)
    {
        ArgumentNullException.ThrowIfNull(lost);
        return
        [
            .. lost.Entries.Where(e => e.Asks && e.Matches.Best is { IsCertain: false })
                .SelectMany(e => e.Matches.All.Where(m => m.IsWorthReading(e.Matches.Lost)).Take(MostReadForOne)).Select(m => m.File).DistinctBy(f => f.Path),
        ];
    }

    /// <summary>Reads what may be a missing file, so that what is the same becomes certain.</summary>
    public Job Read(SessionRow row, LostFiles lost)
    {
        ArgumentNullException.ThrowIfNull(row);
        return engine.Start(new Reading(this, row, ToRead(lost)) { SessionId = row.Id, MostAtOnce = 1 });
    }

    private void Tell(SessionRow row) => _ = hub.Clients.All.SendAsync("session", new { id = row.Id });

    private WorkEnd Run(SessionRow row, IReadOnlyList<LostFile> lost, IReadOnlyList<string> places, Job job)
    {
        var (folders, files, some) = (0, 0, new HashSet<string>(StringComparer.Ordinal));
        foreach (var place in places)
        {
            var told = new List<FoundFile>();
            var (last, progress) = (time.GetTimestamp(), default(SearchProgress));
            void Found(FoundFile file)
            {
                told.RemoveAll(t => t.Path == file.Path);
                told.Add(file);
                relink.Found(row.Id, file);
                if (time.GetElapsedTime(last) > TellEvery)
                {
                    last = time.GetTimestamp();
                    Tell(row);
                }
            }
            var phase = SearchPhase.Names;
            void Report(SearchProgress now)
            {
                if (now.Phase != phase)
                {
                    phase = now.Phase;
                    job.BeginAnew();
                }
                progress = now;
                job.Report(now.ToDo > 0 ? now.Done : now.Files, now.ToDo, 0, 0, now.Current, now.ToDo > 0 ? null : now.Share);
            }
            try
            {
                var result = PlaceSearch.Run(lost, place, new WatchedIdentities(identities, job), Found, Report, job.Cancel);
                Remember(place, true, result.Unreadable);
                (folders, files) = (folders + result.Folders, files + result.Files);
            }
            catch (OperationCanceledException)
            {
                // What was looked at by then is remembered as that, so that nobody takes it for the whole place.
                Remember(place, false, 0);
                Tell(row);
                throw;
            }
            void Remember(string path, bool isWhole, int unreadable)
            {
                // A file that is as long and called otherwise may be another's: it is in the list, and does not count as the one.
                var without = lost.Where(l => Matcher.Of(l, told).Best is not { } best || (!best.IsCertain && best[EvidenceKind.Name] == Verdict.Differs)).Select(l => l.Path).ToImmutableArray();
                some.UnionWith(lost.Select(l => l.Path).Except(without));
                notes.Remember(row.Id, new SearchedPlace(path, time.GetUtcNow(), isWhole, progress.Folders, progress.Files, unreadable, lost.Count - without.Length, without));
            }
        }
        Tell(row);
        return new WorkEnd(JobState.Done, $"{ByteText.Count(files, "file")} in {ByteText.Count(folders, "folder")} looked at; something was found for {some.Count} of {lost.Count}.");
    }

    private sealed class Searching(RelinkSearches searches, SessionRow row, IReadOnlyList<LostFile> lost, IReadOnlyList<string> places)
        : Work(JobWork.Search, $"Search {string.Join(", ", places.Select(Path.GetFileName))} for {ByteText.Count(lost.Count, "missing file")} of '{Path.GetFileName(row.Folder)}'")
    {
        public override string WhenCancelled => "Stopped. What was found by then is kept.";

        public override WorkEnd Run(Job job) => searches.Run(row, lost, places, job);
    }

    private sealed class Reading(RelinkSearches searches, SessionRow row, IReadOnlyList<FoundFile> files)
        : Work(JobWork.Check, $"Read {ByteText.Count(files.Count, "file")}, {ByteText.Of(files.Sum(f => f.Known.Bytes))}, to make sure what is missing from '{Path.GetFileName(row.Folder)}'")
    {
        public override string WhenCancelled => "Stopped. What was read by then is known.";

        public override WorkEnd Run(Job job)
        {
            var (read, bytes, all) = (0, 0L, files.Sum(f => f.Known.Bytes));
            // A bundle is opened once, however much is read out of it.
            using var reading = new OriginReading(searches.Files, cancel: job.Cancel);
            foreach (var (n, file) in files.Index())
            {
                job.Report(n, files.Count, bytes, all, file.Name);
                try
                {
                    var noted = file.Copy is { } copy
                        ? new NotedIdentities(copy.Identify(file.Name, reading).Hash, null, null)
                        : PlaceSearch.Read(file.Path, new WatchedIdentities(searches.Identities, job), job.Cancel);
                    if (file.ShelfId is null || file.Copy is not null)
                    {
                        searches.Found(row, file with { Noted = noted });
                    }
                    read++;
                }
                catch (Exception e) when (FaultException.Of(e, file.Path) is not null)
                {
                    // It stays one to compare: what cannot be read is never certain.
                }
                bytes += file.Known.Bytes;
            }
            searches.Tell(row);
            return new WorkEnd(JobState.Done, $"{ByteText.Count(read, "file")} read.");
        }
    }

    private IIdentities Identities => identities;

    private IDurableFiles Files => files;

    private void Found(SessionRow row, FoundFile file) => relink.Found(row.Id, file);
}
