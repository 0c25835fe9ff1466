using NeatCrate.App.Sessions;
using NeatCrate.Store;

namespace NeatCrate.App.Tests.Sessions;

public sealed class SessionTurnsTests
{
    private static List<SessionRow> Rows(int count) => [.. Enumerable.Range(0, count).Select(n => new SessionRow { Id = Guid.NewGuid(), Folder = $"/s/{n:000}" })];

    [Fact]
    public void OfManyEachHasItsTurnAndThoseThatAreAwakeEachTime()
    {
        var (rows, turns) = (Rows(120), new SessionTurns(50, 2));
        var awake = new[] { rows[0], rows[119] };
        var seen = Enumerable.Range(0, 3).Select(_ => turns.Next(rows, r => awake.Contains(r) ? 1 : null).ToList()).ToList();
        Assert.All(seen, s => Assert.Superset(awake.ToHashSet(), s.ToHashSet()));
        Assert.All(seen, s => Assert.InRange(s.Count, 50, 52));
        Assert.All(seen, s => Assert.Distinct(s));
        Assert.Equal(rows.ToHashSet(), seen.SelectMany(s => s).ToHashSet());
    }

    /// <summary>Where something happened in very many, those in which it happened last are looked at each time, and the others in their turn.</summary>
    [Fact]
    public void OfManyThatAreAwakeTheLastAre()
    {
        var (rows, turns) = (Rows(400), new SessionTurns(50, 2));
        var seen = turns.Next(rows, r => rows.IndexOf(r)).ToList();
        Assert.Equal([.. rows[..50], rows[399], rows[398]], seen);
    }

    [Fact]
    public void OfFewAllAreLookedAtEachTime()
    {
        var (rows, turns) = (Rows(50), new SessionTurns(50, 2));
        Assert.Equal(rows, turns.Next(rows, _ => null));
        Assert.Equal(rows, turns.Next(rows, _ => null));
        // Some went meanwhile.
        Assert.Equal(rows[..7], turns.Next(rows[..7], _ => null));
    }

    /// <summary>Where there are fewer sessions than there were, none is asked for that is gone.</summary>
    [Fact]
    public void SessionsThatWentTakeNoTurn()
    {
        var (rows, turns) = (Rows(400), new SessionTurns(50, 2));
        for (var n = 0; n < 6; n++)
        {
            _ = turns.Next(rows, _ => null).ToList();
        }
        Assert.Equal(rows[..60].ToHashSet(), Enumerable.Range(0, 2).SelectMany(_ => turns.Next(rows[..60], _ => null).ToList()).ToHashSet());
    }
}
