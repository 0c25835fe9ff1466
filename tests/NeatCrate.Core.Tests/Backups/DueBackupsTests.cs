using NeatCrate.Core.Backups;

namespace NeatCrate.Core.Tests.Backups;

public sealed class DueBackupsTests
{
    [Theory]
    [InlineData("22:00", "2026-10-19 21:59", null, false)]
    [InlineData("22:00", "2026-10-19 22:00", null, true)]
    [InlineData("22:00", "2026-10-19 23:30", "2026-10-19", false)]
    [InlineData("22:00", "2026-10-20 08:00", "2026-10-19", false)]
    [InlineData("22:00", "2026-10-20 22:00", "2026-10-19", true)]
    [InlineData("25:00", "2026-10-20 22:00", null, false)]
    [InlineData(null, "2026-10-20 22:00", null, false)]
    public void TheDailyOneIsDueOnceADay(string? at, string now, string? last, bool isDue) =>
        Assert.Equal(isDue, DueBackups.IsDailyDue(at, DateTime.Parse(now, null), last is null ? null : DateOnly.Parse(last, null)));

    /// <summary>It waits for its drive; after each failure the pause is twice as long, to an hour.</summary>
    [Fact]
    public void WhatIsDueWaitsAndTriesAgain()
    {
        var (due, at) = (new DueBackup(), new DateTime(2026, 10, 19, 22, 0, 0, DateTimeKind.Utc));
        Assert.False(due.MayTry(isVaultThere: false, at));
        Assert.True(due.MayTry(isVaultThere: true, at));
        Assert.False(due.HasFailed);
        foreach (var minutes in new[] { 1, 2, 4, 8, 16, 32, 60, 60, 60 })
        {
            due.Fail(at);
            Assert.True(due.HasFailed);
            Assert.False(due.MayTry(isVaultThere: true, at.AddMinutes(minutes).AddSeconds(-1)));
            at = at.AddMinutes(minutes);
            Assert.True(due.MayTry(isVaultThere: true, at));
            Assert.False(due.MayTry(isVaultThere: false, at));
        }
    }

    [Fact]
    public void EachRestIsToldOnceAndTheOneAtTheStartNever()
    {
        var (watch, start) = (new RestWatch(), new DateTime(2026, 10, 19, 20, 0, 0, DateTimeKind.Utc));
        bool At(long revision, int minutes) => watch.HasComeToRest(revision, start.AddMinutes(minutes));
        Assert.False(At(7, 0));
        Assert.False(At(7, 90));
        Assert.False(At(8, 91));
        Assert.False(At(8, 120));
        Assert.True(At(8, 121));
        Assert.False(At(8, 300));
        Assert.False(At(9, 301));
        Assert.False(At(10, 325));
        Assert.False(At(10, 354));
        Assert.True(At(10, 355));
    }
}
