using NeatCrate.Core.Plans;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Tests.Words;

public sealed class DurationTextTests
{
    [Theory]
    [InlineData(0, "0:00", "0:00.0")]
    [InlineData(59.96, "0:59", "0:59.9")]
    [InlineData(75 * 60, "1:15:00", "1:15:00.0")]
    [InlineData(3599.99, "59:59", "59:59.9")]
    [InlineData(3700, "1:01:40", "1:01:40.0")]
    [InlineData(90061.25, "25:01:01", "25:01:01.2")]
    [InlineData(double.NaN, "0:00", "0:00.0")]
    [InlineData(-4, "0:00", "0:00.0")]
    public void HoursAreToldFromAnHourOn(double seconds, string toTheSecond, string toTheTenth)
    {
        Assert.Equal(toTheSecond, DurationText.Of(seconds));
        Assert.Equal(toTheTenth, DurationText.OfTenths(seconds));
    }
}
