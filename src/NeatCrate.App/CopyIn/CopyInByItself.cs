using System.Collections.Concurrent;
using NeatCrate.App.Hosting;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.CopyIn;

/// <summary>
/// Copies in by itself, for the sessions that were set so, what stands outside as soon as a document that was saved points
/// at it. What was copied in so and taken back by the user is not copied in again unasked.
/// </summary>
public sealed class CopyInByItself : EverySecond
{
    private const int MostNamed = 5;

    private readonly SessionService _sessions;
    private readonly ShelfService _shelves;
    private readonly KeptSessions _kept;
    private readonly CopyInChoices _choices;
    private readonly IIdentities _identities;
    private readonly Runner _runner;
    private readonly JobRunner _jobs;
    private readonly NoticeService _notices;

    // Looked at when a document was saved, or the choice was made anew; all of them at the start.
    private readonly ConcurrentDictionary<Guid, bool> _waiting = new();
    private bool _hasLooked;

    /// <summary>Makes it listen to what changes in the sessions.</summary>
    public CopyInByItself(
        SessionService sessions, ShelfService shelves, KeptSessions kept, CopyInChoices choices, IIdentities identities, Runner runner, JobRunner jobs, NoticeService notices, TimeProvider time,
        ILogger<CopyInByItself> logger)
        : base(time, logger)
    {
        (_sessions, _shelves, _kept, _choices, _identities, _runner, _jobs, _notices) = (sessions, shelves, kept, choices, identities, runner, jobs, notices);
        kept.Changed += Hear;
        _choices.WayChanged += Hear;
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        _kept.Changed -= Hear;
        _choices.WayChanged -= Hear;
        base.Dispose();
    }

    /// <inheritdoc/>
    protected override Task Look(CancellationToken cancel)
    {
        if (!_hasLooked)
        {
            _hasLooked = true;
            foreach (var session in _sessions.All())
            {
                Hear(session.Id);
            }
        }
        foreach (var id in _waiting.Keys)
        {
            _waiting.TryRemove(id, out _);
            if (_choices.Of(id) is { ByItself: true } choice && _sessions.All().FirstOrDefault(s => s.Id == id) is { } session && Directory.Exists(session.Folder))
            {
                Look(session, choice, cancel);
            }
        }
        return Task.CompletedTask;
    }

    private void Hear(Guid id, SessionNews news)
    {
        if (news.Documents)
        {
            Hear(id);
        }
    }

    private void Hear(Guid id) => _waiting[id] = true;

    private void Look(SessionRow session, CopyInChoice choice, CancellationToken cancel)
    {
        var (inventory, known, others) = (_sessions.Take(session, cancel), _shelves.All(), _sessions.OtherFolders(session.Id));
        var waiting = inventory.Files
            .Where(f => CopyInRequest.IsConcerned(f, choice.OlderDocuments) && !choice.Handled.Contains(f.Path) && choice.Marks.Takes(f.Path, Origin.Of(f.Path, known, others)))
            .ToList();
        if (waiting.Count == 0)
        {
            return;
        }
        var chosen = waiting.Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
        var plan = CopyInPlanner.Plan(
            new CopyInRequest(session.Id, inventory, known, _identities) { Chosen = chosen, OlderDocuments = choice.OlderDocuments }, cancel);
        var name = Path.GetFileName(session.Folder);
        var names = string.Join(", ", waiting.Take(MostNamed).Select(f => $"'{f.Name}'")) + (waiting.Count > MostNamed ? $" and {waiting.Count - MostNamed} more" : "");
        if (_runner.Refusals(plan) is [var refusal, ..])
        {
            // Told once; tried again when the document is saved the next time, or room was made.
            _notices.Tell(session.Id, $"In '{name}' {names} could not be copied in automatically: {Sentences.Of(refusal)} It is tried again when the document is saved.");
            return;
        }
        _choices.Change(session.Id, c => c with { Handled = c.Handled.Union(chosen) });
        _notices.Tell(session.Id, $"In '{name}' {ByteText.Count(waiting.Count, "file")} stood outside and {(waiting.Count == 1 ? "is" : "are")} copied in by itself: {names}. The history can take it back.");
        _jobs.Enqueue(plan, job =>
        {
            if (job.Message is { } message)
            {
                // Not all of it came in: the next time that the document is saved, what is left is tried again.
                _choices.Change(session.Id, c => c with { Handled = c.Handled.Except(chosen) });
                _notices.Tell(session.Id, $"Copying in by itself did not come to its end in '{name}'. {message}");
            }
        });
    }
}
