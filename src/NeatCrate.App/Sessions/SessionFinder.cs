using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Shelves;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>Finds known sessions again whose folder was moved or renamed, so that they keep their history.</summary>
public sealed class SessionFinder(SessionService sessions, ShelfService shelves, NoticeService notices, WorkEngine engine, TimeProvider time)
{
    // Looking through a drive takes a while; a session that is nowhere is not looked for at every turn.
    private static readonly TimeSpan Rest = TimeSpan.FromMinutes(1);

    private readonly Lock _lock = new();
    private Job? _looking;
    private DateTimeOffset _lastLooked;

    /// <summary>Begins to look for all sessions whose folder is gone, on all shelves, unless that was done a moment ago. The pages hear of what is found.</summary>
    public void LookNowAndThen()
    {
        lock (_lock)
        {
            if (_looking is null or { View.IsOver: true } && time.GetUtcNow() - _lastLooked > Rest && Lost().Count > 0)
            {
                _lastLooked = time.GetUtcNow();
                _looking = engine.Start(new Looking(this));
            }
        }
    }

    private IReadOnlyList<string> LookEverywhere(CancellationToken cancel) => Look(shelves.All(), cancel);

    private sealed class Looking(SessionFinder finder) : Work(JobWork.Search, "Look for sessions that were moved or renamed")
    {
        public override WorkEnd Run(Job job)
        {
            job.HoldWhileRecording();
            return new WorkEnd(JobState.Done, string.Join(' ', finder.LookEverywhere(job.Cancel)));
        }
    }

    /// <summary>Looks for all sessions whose folder is gone.</summary>
    /// <param name="where">The shelves to look on.</param>
    /// <param name="cancel">Stops between two folders.</param>
    /// <returns>What was found, each a sentence.</returns>
    public IReadOnlyList<string> Look(IReadOnlyList<Shelf> where, CancellationToken cancel)
    {
        var all = sessions.All();
        var known = all.Select(s => s.Folder).Where(Directory.Exists).ToHashSet(StringComparer.Ordinal);
        var told = new List<string>();
        foreach (var found in SessionRecognition.Look(Lost(), known, where, cancel))
        {
            var name = Path.GetFileName(found.Session.Folder);
            if (found.Folders is [var folder])
            {
                sessions.Move(found.Session.Id, folder);
                told.Add($"'{name}' was moved or renamed: it stands in '{folder}' now, and keeps its history.");
            }
            else
            {
                told.Add($"'{name}' is no longer in its place, and {found.Folders.Count} folders hold it: {string.Join(", ", found.Folders.Select(f => $"'{f}'"))}. "
                    + "Adopt the one that you want to go on with.");
            }
            notices.Tell(found.Session.Id, told[^1]);
        }
        return told;
    }

    /// <summary>Sessions whose shelf is there, and their folder is not, as far as there is something to recognise them by.</summary>
    private List<KnownSession> Lost()
    {
        var known = shelves.All();
        return [.. sessions.All().Select(SessionService.RecognisedBy).Where(s => (s.DocumentSessionId ?? (object?)s.Document) is not null && s.IsGone(known))];
    }
}
