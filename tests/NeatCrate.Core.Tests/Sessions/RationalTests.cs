using CsCheck;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Sessions;

public sealed class RationalTests
{
    private static readonly Gen<double> Finite = Gen.Double[-1e9, 1e9];

    [Fact]
    public void ADoubleBecomesExactlyItself() => Finite.Sample(d => Rational.FromDouble(d).ToDouble() == d);

    [Fact]
    public void SumsAndProductsAreExact() =>
        Gen.Select(Finite, Finite, Finite).Sample((a, b, c) =>
        {
            var (x, y, z) = (Rational.FromDouble(a), Rational.FromDouble(b), Rational.FromDouble(c));
            return (x + y) - y == x && x * (y + z) == (x * y) + (x * z) && (y == Rational.Zero || x / y * y == x);
        });

    [Fact]
    public void FloorAndCeilingStandOnBothSides() => Finite.Sample(d =>
    {
        var (floor, ceiling) = (Rational.FromDouble(d).Floor(), Rational.FromDouble(d).Ceiling());
        return floor == (long)Math.Floor(d) && ceiling == (long)Math.Ceiling(d);
    });

    /// <summary>SMPTE ST 12-1: the rate called 29.97 is 30000/1001, and 23.976 is 24000/1001.</summary>
    [Theory]
    [InlineData(29.97, "30000/1001")]
    [InlineData(29.97002997002997, "30000/1001")]
    [InlineData(23.976, "24000/1001")]
    [InlineData(59.94, "60000/1001")]
    [InlineData(25, "25")]
    [InlineData(48000, "48000")]
    [InlineData(12.5, "25/2")]
    public void RatesWrittenAsDecimalsMeanTheirFractions(double written, string meant) =>
        Assert.Equal(meant, Rational.RateFromDouble(written).ToString());

    [Theory]
    [InlineData(double.NaN)]
    [InlineData(double.PositiveInfinity)]
    public void WhatIsNoNumberIsRefused(double value) => Assert.Throws<ArgumentOutOfRangeException>(() => Rational.FromDouble(value));
}
