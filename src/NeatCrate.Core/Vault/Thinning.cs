using System.Collections.Immutable;
using System.Globalization;

namespace NeatCrate.Core.Vault;

/// <summary>How many backups are kept.</summary>
/// <param name="Last">So many of the newest are all kept.</param>
/// <param name="Hours">For so many hours back, the newest of each hour.</param>
/// <param name="Days">For so many days back, the newest of each day; of each week after that.</param>
public sealed record ThinningPolicy(int Last = 10, int Hours = 24, int Days = 30);

/// <summary>A backup that is judged.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Made">When it was made, in local time.</param>
/// <param name="HasNote">True where somebody said something of it.</param>
public sealed record ThinningCandidate(string Name, DateTime Made, bool HasNote)
{
    /// <summary>By what follows what; its time, where nothing else tells that.</summary>
    public DateTime Follows { get; init; } = Made;
}

/// <summary>Why a backup stays, or goes.</summary>
public enum ThinningReason
{
    /// <summary>It is one of the newest.</summary>
    OneOfTheLast,

    /// <summary>It is the newest of its hour.</summary>
    NewestOfItsHour,

    /// <summary>It is the newest of its day.</summary>
    NewestOfItsDay,

    /// <summary>It is the newest of its week.</summary>
    NewestOfItsWeek,

    /// <summary>Somebody said something of it.</summary>
    HasNote,

    /// <summary>No other one that stays holds some media.</summary>
    AloneHoldsMedia,

    /// <summary>It cannot be read, so that nobody can say what goes with it.</summary>
    Unreadable,

    /// <summary>A newer one of the same hour, day or week stays.</summary>
    ANewerOneStays,
}

/// <summary>What becomes of a backup.</summary>
/// <param name="Candidate">The backup.</param>
/// <param name="Stays">Whether it stays.</param>
/// <param name="Reason">Why.</param>
/// <param name="Alone">Paths of the media that it alone holds.</param>
public sealed record ThinningVerdict(ThinningCandidate Candidate, bool Stays, ThinningReason Reason, ImmutableArray<string> Alone);

/// <summary>Media in a backup.</summary>
public readonly record struct HeldMedia(ContentHash Hash, string Path);

/// <summary>
/// Says which backups stay (common practice): the last ones, then the newest of each hour for a day, of each day for a month, of
/// each week after; what has a note, and what alone holds some media. A pure function: nothing is read or removed by it.
/// </summary>
public static class Thinning
{
    /// <summary>Judges.</summary>
    /// <param name="candidates">The backups, in any order.</param>
    /// <param name="policy">How many are kept.</param>
    /// <param name="now">The local time.</param>
    /// <param name="media">The media in one; null for backups of documents, which hold none. It throws for one that cannot be read.</param>
    /// <returns>A verdict on each, the newest first.</returns>
    public static ImmutableArray<ThinningVerdict> Judge(
        IEnumerable<ThinningCandidate> candidates, ThinningPolicy policy, DateTime now, Func<ThinningCandidate, IEnumerable<HeldMedia>>? media = null)
    {
        ArgumentNullException.ThrowIfNull(candidates);
        ArgumentNullException.ThrowIfNull(policy);
        var order = candidates.OrderByDescending(c => c.Follows).ThenByDescending(c => c.Name, StringComparer.Ordinal).ToList();
        var (hours, days, weeks) = (new HashSet<DateTime>(), new HashSet<DateTime>(), new HashSet<(int, int)>());
        var verdicts = order.Select((c, n) =>
        {
            var reason = ByTime(c, n, policy, now, hours, days, weeks) ?? (c.HasNote ? ThinningReason.HasNote : ThinningReason.ANewerOneStays);
            return new ThinningVerdict(c, reason != ThinningReason.ANewerOneStays, reason, []);
        }).ToList();
        return media is null ? [.. verdicts] : KeepTheOnlyOnes(verdicts, media);
    }

    /// <summary>Each is the newest of its hour, day and week if none was before it; which of these counts follows from its age.</summary>
    private static ThinningReason? ByTime(ThinningCandidate candidate, int place, ThinningPolicy policy, DateTime now, HashSet<DateTime> hours, HashSet<DateTime> days, HashSet<(int, int)> weeks)
    {
        var made = candidate.Made;
        var isNewestOfHour = hours.Add(made.Date.AddHours(made.Hour));
        var isNewestOfDay = days.Add(made.Date);
        var isNewestOfWeek = weeks.Add((ISOWeek.GetYear(made), ISOWeek.GetWeekOfYear(made)));
        return place < policy.Last ? ThinningReason.OneOfTheLast
            : isNewestOfHour && now - made <= TimeSpan.FromHours(policy.Hours) ? ThinningReason.NewestOfItsHour
            : isNewestOfDay && now - made <= TimeSpan.FromDays(policy.Days) ? ThinningReason.NewestOfItsDay
            : isNewestOfWeek ? ThinningReason.NewestOfItsWeek
            : null;
    }

    /// <summary>Of those that would go, the newest that holds media which nothing that stays holds, stays too; and so on.</summary>
    private static ImmutableArray<ThinningVerdict> KeepTheOnlyOnes(List<ThinningVerdict> verdicts, Func<ThinningCandidate, IEnumerable<HeldMedia>> media)
    {
        var held = new HashSet<ContentHash>();
        foreach (var stays in verdicts.Where(v => v.Stays))
        {
            if (Media(stays.Candidate, media) is { } its)
            {
                held.UnionWith(its.Select(m => m.Hash));
            }
        }
        return [.. verdicts.Select(v =>
        {
            if (v.Stays)
            {
                return v;
            }
            if (Media(v.Candidate, media) is not { } its)
            {
                return v with { Stays = true, Reason = ThinningReason.Unreadable };
            }
            var alone = its.Where(m => !held.Contains(m.Hash)).ToList();
            held.UnionWith(alone.Select(m => m.Hash));
            return alone.Count == 0 ? v : v with { Stays = true, Reason = ThinningReason.AloneHoldsMedia, Alone = [.. alone.Select(m => m.Path)] };
        })];
    }

    private static IEnumerable<HeldMedia>? Media(ThinningCandidate candidate, Func<ThinningCandidate, IEnumerable<HeldMedia>> media)
    {
        try
        {
            return [.. media(candidate)];
        }
        catch (FaultException)
        {
            return null;
        }
    }
}
