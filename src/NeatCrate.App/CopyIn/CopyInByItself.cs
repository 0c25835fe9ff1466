using System.Collections.Concurrent;
using NeatCrate.App.Hosting;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;

namespace NeatCrate.App.CopyIn;

/// <summary>
/// Copies in by itself, for the sessions that were set so, what stands outside as soon as a document that was saved points
/// at it. What was copied in so and taken back by the user is not copied in again unasked.
/// </summary>
public sealed class CopyInByItself(
    SessionService sessions, ShelfService shelves, CopyInChoices choices, IIdentities identities, Runner runner, JobRunner jobs, NoticeService notices, TimeProvider time, ILogger<CopyInByItself> logger)
    : EverySecond(time, logger)
{
    private const int MostNamed = 5;

    // Looked at again only when a document was saved, or the choice was made anew.
    private readonly ConcurrentDictionary<Guid, string> _lookedAt = new();

    /// <inheritdoc/>
    protected override Task Look(CancellationToken cancel)
    {
        foreach (var session in sessions.All())
        {
            if (choices.Of(session.Id) is { ByItself: true } choice)
            {
                Look(session, choice, cancel);
            }
            else
            {
                _lookedAt.TryRemove(session.Id, out _);
            }
        }
        return Task.CompletedTask;
    }

    private void Look(SessionRow session, CopyInChoice choice, CancellationToken cancel)
    {
        if (!Directory.Exists(session.Folder))
        {
            return;
        }
        var state = string.Join('|', SessionFolder.Documents(session.Folder).Select(d => $"{d} {FileFacts.Of(d)?.ModifiedUtc.Ticks}"));
        if (_lookedAt.GetValueOrDefault(session.Id) == state)
        {
            return;
        }
        _lookedAt[session.Id] = state;
        var (inventory, known, others) = (sessions.Take(session, cancel), shelves.All(), sessions.OtherFolders(session.Id));
        var waiting = inventory.Files
            .Where(f => CopyInRequest.IsConcerned(f, choice.OlderDocuments) && !choice.Handled.Contains(f.Path) && choice.Marks.Takes(f.Path, Origin.Of(f.Path, known, others)))
            .ToList();
        if (waiting.Count == 0)
        {
            return;
        }
        var chosen = waiting.Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
        var plan = CopyInPlanner.Plan(
            new CopyInRequest(session.Id, inventory, known, identities) { Chosen = chosen, OlderDocuments = choice.OlderDocuments }, cancel);
        var name = Path.GetFileName(session.Folder);
        var names = string.Join(", ", waiting.Take(MostNamed).Select(f => $"'{f.Name}'")) + (waiting.Count > MostNamed ? $" and {waiting.Count - MostNamed} more" : "");
        if (runner.Refusals(plan) is [var refusal, ..])
        {
            // Told once; tried again when the document is saved the next time, or room was made.
            notices.Tell(session.Id, $"In '{name}' {names} could not be copied in automatically: {Sentences.Of(refusal)} It is tried again when the document is saved.");
            return;
        }
        choices.Change(session.Id, c => c with { Handled = c.Handled.Union(chosen) });
        notices.Tell(session.Id, $"In '{name}' {ByteText.Count(waiting.Count, "file")} stood outside and {(waiting.Count == 1 ? "is" : "are")} copied in by itself: {names}. The history can take it back.");
        jobs.Enqueue(plan, job =>
        {
            if (job.Message is { } message)
            {
                // Not all of it came in: the next time that the document is saved, what is left is tried again.
                choices.Change(session.Id, c => c with { Handled = c.Handled.Except(chosen) });
                notices.Tell(session.Id, $"Copying in by itself did not come to its end in '{name}'. {message}");
            }
        });
    }
}
