using System.Collections.Concurrent;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.CopyIn;

/// <summary>
/// Copies in by itself, for the sessions that were set so, what stands outside as soon as a document that was saved points
/// at it. What was copied in so and taken back by the user is not copied in again unasked.
/// </summary>
public sealed partial class CopyInByItself : EverySecond
{
    private const int MostNamed = 5;

    private readonly SessionService _sessions;
    private readonly ShelfService _shelves;
    private readonly KeptSessions _kept;
    private readonly CopyInChoices _choices;
    private readonly IIdentities _identities;
    private readonly Runner _runner;
    private readonly PlanJobs _jobs;
    private readonly NoticeService _notices;
    private readonly ILogger _logger;
    private readonly ConcurrentDictionary<Guid, bool> _planning = new();

    // Looked at when a document was saved, or the choice was made anew; all of them at the start.
    private readonly ConcurrentDictionary<Guid, bool> _waiting = new();
    private bool _hasLooked;

    /// <summary>Makes it listen to what changes in the sessions.</summary>
    public CopyInByItself(
        SessionService sessions, ShelfService shelves, KeptSessions kept, CopyInChoices choices, IIdentities identities, Runner runner, PlanJobs jobs, NoticeService notices, TimeProvider time,
        ILogger<CopyInByItself> logger)
        : base(time, logger)
    {
        (_sessions, _shelves, _kept, _choices, _identities, _runner, _jobs, _notices, _logger) = (sessions, shelves, kept, choices, identities, runner, jobs, notices, logger);
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
        // The plan looks at every file; whether there is anything to plan, the kept inventory knows.
        if (!Waiting(session, choice, _sessions.Glance(session, _shelves.All(), cancel)).Any())
        {
            return;
        }
        if (_planning.TryAdd(session.Id, true))
        {
            _ = CopyIn(session, cancel);
        }
        else
        {
            // What it is planned from may be older than what was just saved.
            Hear(session.Id);
        }
    }

    /// <summary>What stands outside and is to be copied in, and was not so once before.</summary>
    private IEnumerable<InventoryFile> Waiting(SessionRow session, CopyInChoice choice, SessionInventory inventory)
    {
        var outside = _choices.OutsideOf(session.Id, _sessions, _shelves.All());
        return inventory.Files.Where(f => choice.Concerns(f) && !choice.Handled.Contains(f.Path) && !outside.IsLeftOut(f));
    }

    private async Task CopyIn(SessionRow session, CancellationToken cancel)
    {
        var name = Path.GetFileName(session.Folder);
        try
        {
            List<InventoryFile> waiting = [];
            var plan = await _jobs.Begin($"Plan to copy in by itself what stands outside '{name}'", session, job =>
            {
                // It may have waited for other work: what was chosen meanwhile counts.
                var (choice, inventory) = (_choices.Of(session.Id), _sessions.InventoryOf(session, job.Cancel));
                waiting = choice.ByItself ? [.. Waiting(session, choice, inventory)] : [];
                return CopyInPlanner.Plan(
                    new CopyInRequest(session.Id, inventory, _shelves.All(), new WatchedIdentities(_identities, job))
                    {
                        Chosen = waiting.Select(f => f.Path).ToHashSet(StringComparer.Ordinal),
                        OlderDocuments = choice.OlderDocuments,
                    },
                    job.Cancel);
            }, cancel);
            if (waiting.Count > 0)
            {
                await Apply(plan, session, name, waiting);
            }
        }
        catch (OperationCanceledException)
        {
            // The application ends; the next start looks again.
        }
        catch (Exception e)
        {
            // The last stop of a background task: whatever it is, the user must hear of it.
            LogFailed(_logger, name, e);
            _notices.Tell(session.Id, $"In '{name}' nothing could be copied in automatically: {Problems.Describe(e).Title} It is tried again when the document is saved.");
        }
        finally
        {
            _planning.TryRemove(session.Id, out _);
        }
    }

    private async Task Apply(Plan plan, SessionRow session, string name, List<InventoryFile> waiting)
    {
        var chosen = waiting.Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
        var names = string.Join(", ", waiting.Take(MostNamed).Select(f => $"'{f.Name}'")) + (waiting.Count > MostNamed ? $" and {waiting.Count - MostNamed} more" : "");
        if (_runner.Refusals(plan) is [var refusal, ..])
        {
            if (refusal.Code == FaultCode.InstrumentStays)
            {
                // What cannot come in today cannot at the next save: it is told once.
                _choices.Change(session.Id, c => c with { Handled = c.Handled.Union(chosen) });
                _notices.Tell(session.Id, $"In '{name}' {names} could not be copied in automatically: {Sentences.Of(refusal)}");
                return;
            }
            // Told once; tried again when the document is saved the next time, or room was made.
            _notices.Tell(session.Id, $"In '{name}' {names} could not be copied in automatically: {Sentences.Of(refusal)} It is tried again when the document is saved.");
            return;
        }
        _choices.Change(session.Id, c => c with { Handled = c.Handled.Union(chosen) });
        _notices.Tell(session.Id, $"In '{name}' {ByteText.Count(waiting.Count, "file")} stood outside and {(waiting.Count == 1 ? "is" : "are")} copied in by itself: {names}. The history can take it back.");
        if ((await _jobs.Apply(plan with { By = Who.ByItself }).Ended).Message is { } message)
        {
            // Not all of it came in: the next time that the document is saved, what is left is tried again.
            _choices.Change(session.Id, c => c with { Handled = c.Handled.Except(chosen) });
            _notices.Tell(session.Id, $"Copying in by itself did not come to its end in '{name}'. {message}");
        }
    }

    [LoggerMessage(Level = LogLevel.Error, Message = "Copying in by itself failed in {Session}")]
    private static partial void LogFailed(ILogger logger, string session, Exception exception);
}
