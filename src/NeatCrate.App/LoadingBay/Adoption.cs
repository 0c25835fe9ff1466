using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.LoadingBay;

/// <summary>Makes folders known as sessions, one or many. Nothing in them is changed.</summary>
public sealed class Adoption(SessionService sessions, SessionFiles files, KeptSessions kept, ShelfService shelves, WorkEngine engine, TimeProvider time)
{
    // So many reasons are read; the rest is a number.
    private const int MostReasons = 5;

    // Two folders at once are as much as a drive takes.
    private const int AtOnce = 2;

    private readonly Lock _one = new();

    /// <summary>A folder on a shelf that may be a session's own.</summary>
    /// <exception cref="NotKnownException">There is no such shelf.</exception>
    /// <exception cref="PathNotOnShelfException">It is the shelf itself, is not on it, or not there.</exception>
    public (Shelf Shelf, string Folder) Folder(Guid shelfId, string path)
    {
        var shelf = shelves.Get(shelfId);
        var folder = ShelfPath.Resolve(shelf, path);
        return folder != shelf.Root && Directory.Exists(folder)
            ? (shelf, folder)
            : throw new PathNotOnShelfException($"There is no session folder '{path}' on the shelf '{shelf.Name}'.");
    }

    /// <summary>Makes a folder known as a session; a known session that was moved here goes on as that one, with its history.</summary>
    /// <param name="shelfId">The shelf on which it stands.</param>
    /// <param name="path">Path of the folder on it.</param>
    /// <param name="document">Which of its documents the session is worked in; null for the newest.</param>
    /// <param name="cancel">Stops while the folder is looked at; then nothing is known of it.</param>
    /// <returns>Its label.</returns>
    /// <exception cref="IOException">It cannot be looked at, or is not adopted as one session.</exception>
    public SessionView Adopt(Guid shelfId, string path, string? document, CancellationToken cancel)
    {
        var (shelf, folder) = Folder(shelfId, path);
        if (document is not null && !File.Exists(ShelfPath.Resolve(shelf, path + "/" + document)))
        {
            throw new PathNotOnShelfException($"There is no document '{document}' in the folder.");
        }
        // Looked at before it is known: what cannot be looked at at all is not put on the list.
        var taken = kept.Begin(folder);
        var inventory = taken.Look(document, shelves.All(), LookDepth.Files, time.GetUtcNow().UtcDateTime, cancel);
        if (FolderLook.At(inventory, shelves.All()).SessionFolders is { Length: > 0 } below)
        {
            throw new PathNotOnShelfException($"This folder holds the folders of sessions, as '{below[0]}'. Adopt each of them by itself.");
        }
        if (shelves.VaultIn(folder) is { } vault)
        {
            throw new PathNotOnShelfException($"The vault '{vault.Name}' stands in this folder: its backups would be backed up into themselves. Move the vault out of it first, and tell its shelf where it is.");
        }
        // Two who adopt at once adopt one session, and one that was moved goes on in one place.
        SessionRow row;
        lock (_one)
        {
            if (inventory.Document?.SessionId is { } identity
                && sessions.All().FirstOrDefault(s => s.DocumentSessionId == identity && s.Folder != folder && SessionService.RecognisedBy(s).IsGone(shelves.All())) is { } lost)
            {
                if (At(folder) is { } known)
                {
                    sessions.Forget(known.Id);
                }
                sessions.Move(lost.Id, folder);
                row = sessions.Get(lost.Id);
            }
            else
            {
                row = sessions.Know(folder, document: document);
            }
        }
        kept.TakeIn(row, taken);
        var (now, overview) = files.Glance(row, shelves.All(), CancellationToken.None);
        return SessionViews.Label(row, now, overview, shelf.Name, null);
    }

    private SessionRow? At(string folder) => sessions.All().FirstOrDefault(s => s.Folder == folder);

    /// <summary>Begins to adopt many folders of a shelf, two at a time; what is known already stays as it is.</summary>
    /// <exception cref="NotKnownException">There is no such shelf.</exception>
    public Job AdoptMany(Guid shelfId, IReadOnlyList<string> paths)
    {
        ArgumentNullException.ThrowIfNull(paths);
        return engine.Start(new Many(this, shelves.Get(shelfId), [.. paths.Distinct(StringComparer.Ordinal)]) { ShelfId = shelfId });
    }

    private sealed class Many(Adoption adoption, Shelf shelf, IReadOnlyList<string> paths)
        : Work(JobWork.Adopt, $"Adopt {ByteText.Count(paths.Count, "session")} on '{shelf.Name}'")
    {
        private int _adopted;

        private string Adopted => $"{ByteText.Count(_adopted, "session")} {(_adopted == 1 ? "was" : "were")} adopted";

        public override string WhenCancelled => $"Stopped. {Adopted} by then, and nothing in any folder was changed.";

        public override string WhenFailed(Exception cause) =>
            $"{Adopted} by then, and nothing in any folder was changed. {Problems.Describe(cause is AggregateException { InnerException: { } inner } ? inner : cause).Title}";

        public override WorkEnd Run(Job job)
        {
            var (not, done) = (new SortedDictionary<int, string>(), 0);
            Parallel.ForEach(paths.Index(), new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = job.Cancel }, at =>
            {
                job.Report(Volatile.Read(ref done), paths.Count, 0, 0, at.Item);
                try
                {
                    adoption.Adopt(shelf.Id, at.Item, null, job.Cancel);
                    Interlocked.Increment(ref _adopted);
                }
                catch (Exception e) when (e is IOException or UnauthorizedAccessException or NotKnownException)
                {
                    lock (not)
                    {
                        not[at.Index] = $"'{Path.GetFileName(at.Item)}' was not: {(FaultException.Of(e, at.Item) is { } fault ? Sentences.Of(fault) : Problems.Describe(e).Title)}";
                    }
                }
                Interlocked.Increment(ref done);
            });
            var rest = not.Count > MostReasons ? $" {ByteText.Count(not.Count - MostReasons, "other")} {(not.Count - MostReasons == 1 ? "was" : "were")} not, either." : "";
            return new WorkEnd(
                _adopted == 0 && not.Count > 0 ? JobState.Failed : JobState.Done,
                string.Join(' ', [$"{Adopted}; nothing in {(paths.Count == 1 ? "it" : "them")} was changed.", .. not.Values.Take(MostReasons)]) + rest);
        }
    }
}
