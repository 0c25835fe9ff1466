using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>
/// Which sessions a watch looks at this time: all of few; of many a share in turn, and those in which something happened last. Looking at a
/// thousand that rest several times a second would never let the machine rest. Not for several threads at once.
/// </summary>
/// <param name="most">So many in turn, and all where there are no more.</param>
/// <param name="mostAwake">So many at the most besides.</param>
public sealed class SessionTurns(int most, int mostAwake)
{
    private int _turn;

    /// <summary>Those of this time.</summary>
    /// <param name="sessions">All of them, in an order that stays.</param>
    /// <param name="happened">When something happened in it, where that was lately, so that more is likely to; the greater the later, and null where it rests.</param>
    public IEnumerable<SessionRow> Next(IReadOnlyList<SessionRow> sessions, Func<SessionRow, long?> happened)
    {
        ArgumentNullException.ThrowIfNull(sessions);
        ArgumentNullException.ThrowIfNull(happened);
        if (sessions.Count <= most)
        {
            return sessions;
        }
        var from = _turn % sessions.Count;
        _turn = (from + most) % sessions.Count;
        return Enumerable.Range(from, most).Select(n => sessions[n % sessions.Count])
            .Union(sessions.Select(s => (Session: s, At: happened(s))).Where(s => s.At is not null).OrderByDescending(s => s.At).Take(mostAwake).Select(s => s.Session));
    }
}
