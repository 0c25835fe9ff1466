using NeatCrate.Core.Documents;
using NeatCrate.Core.Purge;

namespace NeatCrate.Core.Tests.Purge;

/// <summary>What stands together in the list of what could go: takes by track or by pass, bounces by the month they are from.</summary>
public sealed class PurgeQueryTests
{
    private static PurgeItem Take(string track, int pass, long bytes = 10) =>
        new($"/s/Audio/{track} {pass:00}.wav", bytes, DateTime.UnixEpoch, [], PurgeGroup.UnplacedTakes) { Take = new TakeLabel(track, pass, pass) };

    private static PurgeItem Bounce(string name, int year, int month, int day) =>
        new($"/s/Bounces/{name}.wav", 5, new DateTime(year, month, day, 12, 0, 0, DateTimeKind.Utc), [], PurgeGroup.Bounces);

    private static readonly PurgeItem[] Items =
        [Bounce("b", 2026, 10, 3), Take("Voice", 2), Take("Cello", 2), Bounce("a", 2026, 10, 20), Take("Voice", 1), Bounce("z", 2025, 12, 31), Take("Cello", 3, 7)];

    private static string[] Runs(PurgeQuery query) => [.. query.Runs(query.Of(Items, "/s")).Select(r => $"{r.Group} {r.Part}: {r.Files}, {r.Bytes}")];

    [Fact]
    public void TakesStandTogetherByTrackAndBouncesByMonth() => Assert.Equal(
        ["UnplacedTakes Cello: 2, 17", "UnplacedTakes Voice: 2, 20", "Bounces 2025-12: 1, 5", "Bounces 2026-10: 2, 10"], Runs(new PurgeQuery()));

    [Fact]
    public void ByPassAllTracksOfOneStandTogether()
    {
        var query = new PurgeQuery(PurgeGroup.UnplacedTakes, ByPass: true);
        Assert.Equal(["UnplacedTakes pass 1: 1, 10", "UnplacedTakes pass 2: 2, 20", "UnplacedTakes pass 3: 1, 7"], Runs(query));
        Assert.Equal(["Voice 01.wav", "Cello 02.wav", "Voice 02.wav", "Cello 03.wav"], query.Of(Items, "/s").Select(i => Path.GetFileName(i.Path)));
    }

    [Fact]
    public void TheOldestBounceIsFirst() => Assert.Equal(
        ["z.wav", "b.wav", "a.wav"], new PurgeQuery(PurgeGroup.Bounces).Of(Items, "/s").Select(i => Path.GetFileName(i.Path)));

    [Fact]
    public void InAnotherOrderNothingStandsTogether() => Assert.Empty(Runs(new PurgeQuery(Order: PurgeOrder.Bytes)));
}
