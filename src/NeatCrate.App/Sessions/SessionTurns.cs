using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>
/// Which sessions a watch looks at this time: all of few; of many a share in turn, and those that are awake. Looking at a thousand that rest
/// several times a second would never let the machine rest. Not for several threads at once.
/// </summary>
/// <param name="most">So many in turn, and all where there are no more.</param>
public sealed class SessionTurns(int most)
{
    private int _turn;

    /// <summary>Those of this time.</summary>
    /// <param name="sessions">All of them, in an order that stays.</param>
    /// <param name="isAwake">True where something happened lately, so that more is likely to: such a session is looked at each time.</param>
    public IEnumerable<SessionRow> Next(IReadOnlyList<SessionRow> sessions, Func<SessionRow, bool> isAwake)
    {
        ArgumentNullException.ThrowIfNull(sessions);
        ArgumentNullException.ThrowIfNull(isAwake);
        if (sessions.Count <= most)
        {
            return sessions;
        }
        var from = _turn % sessions.Count;
        _turn = (from + most) % sessions.Count;
        return Enumerable.Range(from, most).Select(n => sessions[n % sessions.Count]).Union(sessions.Where(isAwake));
    }
}
