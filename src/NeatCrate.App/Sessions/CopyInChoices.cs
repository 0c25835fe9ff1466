using System.Collections.Immutable;
using NeatCrate.App.Ground;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>What was chosen for copying in, for one session.</summary>
/// <param name="OlderDocuments">Whether older versions of the document count.</param>
/// <param name="ByItself">Whether what stands outside is copied in as soon as the document points at it.</param>
/// <param name="Places">Taken or left out, by place.</param>
/// <param name="Files">Taken or left out, by absolute path.</param>
/// <param name="Handled">Paths that were copied in by itself once; what was taken back is not copied in again unasked.</param>
public sealed record CopyInChoice(
    bool OlderDocuments, bool ByItself, ImmutableDictionary<string, bool> Places, ImmutableDictionary<string, bool> Files, ImmutableHashSet<string> Handled)
{
    /// <summary>What holds until somebody chooses.</summary>
    public static CopyInChoice Standard { get; } =
        new(true, false, ImmutableDictionary<string, bool>.Empty, ImmutableDictionary<string, bool>.Empty, []);

    /// <summary>Whether documents of other programs get a new version beside them that names the copies; never where that is done by itself.</summary>
    public bool NewVersions { get; init; }

    /// <summary>Kinds that stay out, at Copy in and in bundles.</summary>
    public ImmutableHashSet<CopyKind> LeftOutKinds { get; init; } = [];

    /// <summary>The marks.</summary>
    public CopyInMarks Marks => new(Places, Files) { LeftOutKinds = LeftOutKinds };

    /// <summary>True for a file that is copied in unless it is left out.</summary>
    public bool Concerns(InventoryFile file) => CopyInRequest.IsConcerned(file, OlderDocuments);
}

/// <summary>Remembers for every session what was chosen for copying in.</summary>
public sealed class CopyInChoices(StoredSettings choices)
{
    private const string Prefix = "copy-in ";

    private const int MostPrepared = 100;

    private readonly Lock _one = new();
    private readonly Queue<(Guid SessionId, CopyKind[] LeftOut)> _prepared = new();
    private readonly KeyedSettings<CopyInChoice> _known = new(choices, Prefix, CopyInChoice.Standard);

    /// <summary>Told after it was chosen otherwise how a session is copied in.</summary>
    public event Action<Guid>? WayChanged;

    /// <summary>What was chosen for a session.</summary>
    public CopyInChoice Of(Guid sessionId) => _known.Of(sessionId);

    /// <summary>What stays out as a choice is kept: each kind once, in their order.</summary>
    public static CopyKind[] KindsOf(IEnumerable<CopyKind>? chosen)
    {
        CopyKind[] kinds = [.. (chosen ?? []).Distinct().Order()];
        Requests.Require(kinds.All(Enum.IsDefined), "A kind is not known.");
        return kinds;
    }

    /// <summary>Says which kinds stay out in a session that is planned; nothing is kept of it before there is one.</summary>
    public void Prepare(Guid sessionId, CopyKind[] leftOut)
    {
        lock (_one)
        {
            // Each letter of a name makes a plan, of which the last is applied.
            _prepared.Enqueue((sessionId, leftOut));
            while (_prepared.Count > MostPrepared)
            {
                _prepared.Dequeue();
            }
        }
    }

    /// <summary>Keeps what was said while a session was planned, now that it is there.</summary>
    public void Begin(Guid sessionId)
    {
        CopyKind[] leftOut;
        lock (_one)
        {
            leftOut = _prepared.FirstOrDefault(p => p.SessionId == sessionId).LeftOut ?? [];
        }
        if (leftOut.Length > 0)
        {
            // One that was taken back and made again may have been set otherwise in between.
            Change(sessionId, c => ReferenceEquals(c, CopyInChoice.Standard) ? c with { LeftOutKinds = [.. leftOut] } : c);
        }
    }

    /// <summary>Where the outside files of a session come from, and which are left out.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="sessions">All known sessions.</param>
    /// <param name="shelves">All known shelves.</param>
    public OutsideFiles OutsideOf(Guid sessionId, SessionService sessions, IReadOnlyList<Shelf> shelves)
    {
        ArgumentNullException.ThrowIfNull(sessions);
        return new OutsideFiles(shelves, sessions.Folders(), Of(sessionId).Marks);
    }

    /// <summary>Changes what was chosen.</summary>
    public CopyInChoice Change(Guid sessionId, Func<CopyInChoice, CopyInChoice> change)
    {
        var (before, changed) = _known.Change(sessionId, change);
        if ((changed.ByItself, changed.OlderDocuments) != (before.ByItself, before.OlderDocuments))
        {
            WayChanged?.Invoke(sessionId);
        }
        return changed;
    }
}
