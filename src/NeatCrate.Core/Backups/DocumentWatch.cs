namespace NeatCrate.Core.Backups;

/// <summary>A document as it was seen.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Facts">What the system knows of it.</param>
/// <param name="StatusChange">When the system last noted a change of it, in steps of 100 ns; it shows a save in place whose time was put back.</param>
public readonly record struct SeenDocument(string Path, FileFacts Facts, long? StatusChange);

/// <summary>
/// Says which documents of a session are to be kept now, from looking at them again and again: a state that has stood still for
/// a moment, once. Saves in quick bursts become one state, the last; a document that never stands still is taken all the same
/// after a while. Touches nothing. Not for several threads at once.
/// </summary>
/// <param name="settled">A state has to stand still for so long.</param>
public sealed class DocumentWatch(TimeSpan settled)
{
    private readonly Dictionary<string, State> _states = new(StringComparer.Ordinal);

    private sealed class State
    {
        public required SeenDocument Seen { get; set; }

        public DateTime Since { get; set; }

        /// <summary>Since when no state of it was kept; null where the one in sight is.</summary>
        public DateTime? UnkeptSince { get; set; }

        /// <summary>When it was looked at last.</summary>
        public DateTime Looked { get; set; }

        /// <summary>When the one that was kept is to be compared once more; null for never.</summary>
        public DateTime? AgainAt { get; set; }
    }

    /// <summary>
    /// When something happened, where that was lately, so that more is likely to: the greatest number where a state waits to be kept, or to be
    /// compared once more, else the time of the last save in steps of 100 ns; null where it is longer ago.
    /// </summary>
    /// <param name="nowUtc">The time.</param>
    /// <param name="lately">So long ago at the most; a clock that went back counts as well.</param>
    public long? HappenedAt(DateTime nowUtc, TimeSpan lately)
    {
        long? last = null;
        foreach (var state in _states.Values)
        {
            if (state.UnkeptSince is not null || state.AgainAt is not null)
            {
                return long.MaxValue;
            }
            var saved = state.Seen.Facts.ModifiedUtc;
            last = (nowUtc - saved).Duration() < lately ? Math.Max(last ?? 0, saved.Ticks) : last;
        }
        return last;
    }

    /// <summary>Takes in what is there now.</summary>
    /// <param name="seen">The documents.</param>
    /// <param name="nowUtc">The time.</param>
    /// <param name="longest">After so long without a kept state, one that does not stand still is kept as well; zero for never.</param>
    /// <returns>Absolute paths of those whose state is to be kept now.</returns>
    public IReadOnlyList<string> Look(IEnumerable<SeenDocument> seen, DateTime nowUtc, TimeSpan longest)
    {
        ArgumentNullException.ThrowIfNull(seen);
        var (due, there) = (new List<string>(), new HashSet<string>(StringComparer.Ordinal));
        foreach (var one in seen)
        {
            there.Add(one.Path);
            if (!_states.TryGetValue(one.Path, out var state))
            {
                _states[one.Path] = state = new State { Seen = one, Since = nowUtc, UnkeptSince = nowUtc };
            }
            else if (state.Seen != one)
            {
                (state.Seen, state.Since) = (one, nowUtc);
                state.UnkeptSince ??= nowUtc;
            }
            state.Looked = nowUtc;
            if (state.AgainAt <= nowUtc)
            {
                (state.AgainAt, state.UnkeptSince) = (null, state.UnkeptSince ?? nowUtc);
            }
            if (state.UnkeptSince is { } since && (nowUtc - state.Since >= settled || (longest > TimeSpan.Zero && nowUtc - since >= longest)))
            {
                due.Add(one.Path);
            }
        }
        foreach (var gone in _states.Keys.Where(p => !there.Contains(p)).ToList())
        {
            _states.Remove(gone);
        }
        return due;
    }

    /// <summary>
    /// Says that the state in sight was kept. Where its time is of whole seconds, and was not over yet, another save of the same size may
    /// follow that shows in nothing but the bytes: so it is due once more when the next save must have another time.
    /// </summary>
    public void Kept(string path)
    {
        if (_states.TryGetValue(path, out var state))
        {
            state.UnkeptSince = null;
            var saved = state.Seen.Facts.ModifiedUtc;
            state.AgainAt = saved.Ticks % TimeSpan.TicksPerSecond == 0 && state.Looked < saved + FileFacts.CoarsestStep ? saved + FileFacts.CoarsestStep : null;
        }
    }
}
