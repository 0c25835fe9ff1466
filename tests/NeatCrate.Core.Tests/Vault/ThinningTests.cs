using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Tests.Vault;

public sealed class ThinningTests
{
    private static readonly DateTime Now = new(2026, 10, 21, 12, 0, 0);

    /// <summary>The rule as it stands in the calculations of the trade (common practice): the last ten, then hours for a day, days for a month, weeks.</summary>
    [Theory]
    [InlineData("2026-10-21 11:50", ThinningReason.OneOfTheLast)]
    [InlineData("2026-10-21 09:55", ThinningReason.NewestOfItsHour)]
    [InlineData("2026-10-21 09:20", ThinningReason.ANewerOneStays)]
    [InlineData("2026-10-20 13:00", ThinningReason.NewestOfItsHour)]
    [InlineData("2026-10-20 11:00", ThinningReason.ANewerOneStays)]
    [InlineData("2026-10-19 23:00", ThinningReason.NewestOfItsDay)]
    [InlineData("2026-10-19 08:00", ThinningReason.ANewerOneStays)]
    [InlineData("2026-09-02 10:00", ThinningReason.NewestOfItsWeek)]
    [InlineData("2026-09-01 10:00", ThinningReason.ANewerOneStays)]
    [InlineData("2026-08-31 10:00", ThinningReason.ANewerOneStays)]
    [InlineData("2026-08-30 10:00", ThinningReason.NewestOfItsWeek)]
    public void EachIsKeptForAReasonOrGoes(string made, ThinningReason reason)
    {
        string[] all =
        [
            .. Enumerable.Range(0, 10).Select(n => $"2026-10-21 11:{50 - n}"), "2026-10-21 09:55", "2026-10-21 09:20", "2026-10-20 13:00", "2026-10-20 11:00", "2026-10-19 23:00", "2026-10-19 08:00",
            "2026-09-02 10:00", "2026-09-01 10:00", "2026-08-31 10:00", "2026-08-30 10:00",
        ];
        var verdicts = Thinning.Judge(all.Select(a => Of(a)), new ThinningPolicy(), Now);
        Assert.Equal(reason, verdicts.Single(v => v.Candidate.Name == made).Reason);
        Assert.Equal(all.Length, verdicts.Length);
        Assert.All(verdicts, v => Assert.Equal(v.Reason != ThinningReason.ANewerOneStays, v.Stays));
    }

    [Fact]
    public void NumbersAreSettings()
    {
        var all = Enumerable.Range(0, 60).Select(n => Of(Now.AddMinutes(-n).ToString("yyyy-MM-dd HH:mm", null)));
        Assert.Equal(1 + 1, Thinning.Judge(all, new ThinningPolicy(1, 24, 30), Now).Count(v => v.Stays));
        Assert.Equal(60, Thinning.Judge(all, new ThinningPolicy(100), Now).Count(v => v.Stays));
    }

    [Fact]
    public void WhatSomebodySaidSomethingOfStays()
    {
        var verdicts = Thinning.Judge([Of("2026-10-19 08:00", true), Of("2026-10-19 09:00"), Of("2026-10-19 07:00")], new ThinningPolicy(0, 0, 30), Now);
        Assert.Equal([ThinningReason.NewestOfItsDay, ThinningReason.HasNote, ThinningReason.ANewerOneStays], verdicts.Select(v => v.Reason));
    }

    /// <summary>Of two that hold the only copies of a take, the newer one stays; the media are named.</summary>
    [Fact]
    public void WhatAloneHoldsMediaStaysAndSaysWhich()
    {
        var (take, other) = (new HeldMedia(ContentHash.Of("take"u8), "Audio/lost take.wav"), new HeldMedia(ContentHash.Of("other"u8), "Audio/other.wav"));
        var media = new Dictionary<string, HeldMedia[]>
        {
            ["2026-10-19 23:00"] = [other],
            ["2026-10-19 12:00"] = [other],
            ["2026-10-19 11:00"] = [take, other],
            ["2026-10-19 10:00"] = [take],
        };
        var verdicts = Thinning.Judge(media.Keys.Select(k => Of(k)), new ThinningPolicy(0, 0, 30), Now, c => media[c.Name]);
        Assert.Equal([ThinningReason.NewestOfItsDay, ThinningReason.ANewerOneStays, ThinningReason.AloneHoldsMedia, ThinningReason.ANewerOneStays], verdicts.Select(v => v.Reason));
        Assert.Equal(["Audio/lost take.wav"], verdicts[2].Alone);
    }

    [Fact]
    public void WhatCannotBeReadStays()
    {
        var verdicts = Thinning.Judge([Of("2026-10-19 23:00"), Of("2026-10-19 12:00")], new ThinningPolicy(0, 0, 30), Now, c => c.Made.Hour == 12 ? throw new FaultException(FaultCode.ManifestDamaged) : []);
        Assert.Equal([ThinningReason.NewestOfItsDay, ThinningReason.Unreadable], verdicts.Select(v => v.Reason));
    }

    private static ThinningCandidate Of(string made, bool hasNote = false) => new(made, DateTime.Parse(made, null), hasNote);
}
