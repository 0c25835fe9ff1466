using NeatCrate.Core.SetUp;

namespace NeatCrate.Core.Tests.SetUp;

public sealed class SessionNameTests
{
    private static readonly DateOnly Today = new(2026, 10, 20);

    [Theory]
    [InlineData("261014 Net Mender", "Net Mender")]
    [InlineData("2026-10-14_Net Mender v3", "Net Mender")]
    [InlineData("The Ninth Bell 2026-10-11_231502", "The Ninth Bell")]
    [InlineData("261014", "261014")]
    [InlineData("v2", "v2")]
    public void ATitleIsTheNameWithoutDateAndVersion(string name, string title) => Assert.Equal(title, SessionName.Title(name));

    [Fact]
    public void AFixKeepsThePartsAsFarAsTheyStillMakeTheName()
    {
        NamePart[] parts = [new(NamePartKind.Date, "YYMMDD"), new(NamePartKind.Song, "Fog: Signal")];
        Assert.Equal([parts[0], parts[1] with { Text = "Fog Signal" }], SessionName.PartsOf(parts, " ", "261020 Fog Signal", Today));
        Assert.Equal(
            [parts[0], parts[1] with { Text = "Fog Signal" }, new(NamePartKind.FreeText, "2")], SessionName.PartsOf(parts, " ", "261020 Fog Signal 2", Today));
        Assert.Equal([new(NamePartKind.FreeText, "other")], SessionName.PartsOf(parts, "_", "other", Today));
    }

    private static readonly DateOnly Day = new(2026, 10, 4);

    private static string Build(string separator, params (NamePartKind Kind, string Text)[] parts) =>
        SessionName.Build(parts.Select(p => new NamePart(p.Kind, p.Text)), separator, Day);

    [Fact]
    public void PartsStandInTheOrderTheyWerePutIn()
    {
        Assert.Equal("261004 Low Water", Build(" ", (NamePartKind.Date, "YYMMDD"), (NamePartKind.Song, " Low Water ")));
        Assert.Equal("Saltmarsh Quartet_2026-10-04_Low Water_v2", Build("_", (NamePartKind.Artist, "Saltmarsh Quartet"), (NamePartKind.Date, "YYYY-MM-DD"), (NamePartKind.Song, "Low Water"), (NamePartKind.Version, "2")));
        Assert.Equal("041026-rough-take away", Build("-", (NamePartKind.Date, "DDMMYY"), (NamePartKind.Version, "rough"), (NamePartKind.Artist, ""), (NamePartKind.FreeText, "take away")));
    }

    /// <summary>Common practice: year, month and day in two digits each, in front, so that names sort by time.</summary>
    [Theory]
    [InlineData("YYMMDD")]
    [InlineData("YYYY-MM-DD")]
    public void NamesWithTheYearInFrontSortByTime(string order)
    {
        DateOnly[] days = [new(2025, 12, 31), new(2026, 1, 2), new(2026, 1, 12), new(2026, 10, 4)];
        var names = days.Select(d => SessionName.Build([new NamePart(NamePartKind.Date, order)], " ", d)).ToList();
        Assert.Equal(names, names.Order(StringComparer.Ordinal));
    }

    [Fact]
    public void ADateAndAVersionAloneSayNothing()
    {
        Assert.True(SessionName.SaysNothing([new(NamePartKind.Date, "YYMMDD"), new(NamePartKind.Version, "2"), new(NamePartKind.Song, " ")]));
        Assert.False(SessionName.SaysNothing([new(NamePartKind.WorkingTitle, "Tar")]));
    }
}
