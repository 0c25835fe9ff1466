using System.Globalization;
using System.Numerics;

namespace NeatCrate.Core.Sessions;

/// <summary>An exact fraction in lowest terms. Times in a document are never rounded on the way.</summary>
public readonly struct Rational : IEquatable<Rational>, IComparable<Rational>
{
    private readonly BigInteger _denominatorLessOne;

    /// <summary>Makes the fraction in lowest terms, with a positive denominator.</summary>
    /// <exception cref="DivideByZeroException">The denominator is 0.</exception>
    public Rational(BigInteger numerator, BigInteger denominator)
    {
        if (denominator.IsZero)
        {
            throw new DivideByZeroException("A fraction cannot have the denominator 0.");
        }
        var divisor = BigInteger.GreatestCommonDivisor(numerator, denominator) * denominator.Sign;
        Numerator = numerator / divisor;
        _denominatorLessOne = (denominator / divisor) - BigInteger.One;
    }

    private Rational(BigInteger whole) => Numerator = whole;

    /// <summary>The number above the line.</summary>
    public BigInteger Numerator { get; }

    /// <summary>The number below the line; always positive.</summary>
    public BigInteger Denominator => _denominatorLessOne + BigInteger.One;

    /// <summary>Zero.</summary>
    public static Rational Zero => default;

    /// <summary>The exact value of a double, which is a whole number over a power of two.</summary>
    /// <exception cref="ArgumentOutOfRangeException">The double is not a finite number.</exception>
    public static Rational FromDouble(double value)
    {
        if (!double.IsFinite(value))
        {
            throw new ArgumentOutOfRangeException(nameof(value), value, "Only finite numbers are times.");
        }
        if (Math.Abs(value) < 1L << 53 && value == Math.Floor(value))
        {
            // Nearly every time in a document is a whole number of samples or frames.
            return FromInt64((long)value);
        }
        var bits = BitConverter.DoubleToInt64Bits(value);
        var exponent = (int)((bits >> 52) & 0x7FF);
        var mantissa = bits & 0xFFFFFFFFFFFFF;
        mantissa = exponent == 0 ? mantissa : mantissa | (1L << 52);
        var shift = Math.Max(exponent, 1) - 1075;
        var signed = new BigInteger(bits < 0 ? -mantissa : mantissa);
        return shift >= 0 ? new Rational(signed << shift, BigInteger.One) : new Rational(signed, BigInteger.One << -shift);
    }

    /// <summary>
    /// The rate that a document's number stands for. Rates such as 23.976 are written as decimals but mean a whole
    /// number times 1000/1001 (SMPTE ST 12-1); anything else is taken for exactly what it says.
    /// </summary>
    public static Rational RateFromDouble(double value)
    {
        if (value == Math.Floor(value))
        {
            return FromDouble(value);
        }
        var nominal = Math.Ceiling(value);
        return Math.Abs((nominal * 1000 / 1001) - value) < 0.001 && nominal is >= 24 and <= 240
            ? new Rational((BigInteger)nominal * 1000, 1001)
            : FromDouble(value);
    }

    /// <summary>The greatest whole number that is not above this; the last one of 64 bits for what lies beyond.</summary>
    public long Floor() => Saturated(Numerator >= 0 ? Numerator / Denominator : -((-Numerator + Denominator - 1) / Denominator));

    /// <summary>The least whole number that is not below this; the last one of 64 bits for what lies beyond.</summary>
    public long Ceiling() => Saturated(Numerator > 0 ? (Numerator + Denominator - 1) / Denominator : -(-Numerator / Denominator));

    private static long Saturated(BigInteger whole) => whole > long.MaxValue ? long.MaxValue : whole < long.MinValue ? long.MinValue : (long)whole;

    /// <summary>The nearest double.</summary>
    public double ToDouble() => (double)Numerator / (double)Denominator;

    /// <inheritdoc/>
    public int CompareTo(Rational other) => (Numerator * other.Denominator).CompareTo(other.Numerator * Denominator);

    /// <inheritdoc/>
    public bool Equals(Rational other) => Numerator == other.Numerator && _denominatorLessOne == other._denominatorLessOne;

    /// <inheritdoc/>
    public override bool Equals(object? obj) => obj is Rational other && Equals(other);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Numerator, _denominatorLessOne);

    /// <summary>The fraction as <c>n/d</c>, or <c>n</c> when it is whole.</summary>
    public override string ToString() => Denominator.IsOne
        ? Numerator.ToString(CultureInfo.InvariantCulture)
        : string.Create(CultureInfo.InvariantCulture, $"{Numerator}/{Denominator}");

    /// <summary>A whole number as a fraction.</summary>
    public static Rational FromInt64(long value) => new(value);

    /// <summary>A whole number as a fraction.</summary>
    public static Rational FromUInt64(ulong value) => new(value);

    /// <summary>The sum.</summary>
    public static Rational Add(Rational a, Rational b) => a + b;

    /// <summary>The difference.</summary>
    public static Rational Subtract(Rational a, Rational b) => a - b;

    /// <summary>The product.</summary>
    public static Rational Multiply(Rational a, Rational b) => a * b;

    /// <summary>The quotient.</summary>
    public static Rational Divide(Rational a, Rational b) => a / b;

    /// <summary>The opposite.</summary>
    public static Rational Negate(Rational a) => -a;

    /// <inheritdoc/>
    public static Rational operator +(Rational a, Rational b) =>
        new((a.Numerator * b.Denominator) + (b.Numerator * a.Denominator), a.Denominator * b.Denominator);

    /// <inheritdoc/>
    public static Rational operator -(Rational a, Rational b) => a + -b;

    /// <inheritdoc/>
    public static Rational operator -(Rational a) => new(-a.Numerator, a.Denominator);

    /// <inheritdoc/>
    public static Rational operator *(Rational a, Rational b) => new(a.Numerator * b.Numerator, a.Denominator * b.Denominator);

    /// <inheritdoc/>
    public static Rational operator /(Rational a, Rational b) => new(a.Numerator * b.Denominator, a.Denominator * b.Numerator);

    /// <inheritdoc/>
    public static bool operator ==(Rational a, Rational b) => a.Equals(b);

    /// <inheritdoc/>
    public static bool operator !=(Rational a, Rational b) => !a.Equals(b);

    /// <inheritdoc/>
    public static bool operator <(Rational a, Rational b) => a.CompareTo(b) < 0;

    /// <inheritdoc/>
    public static bool operator >(Rational a, Rational b) => a.CompareTo(b) > 0;

    /// <inheritdoc/>
    public static bool operator <=(Rational a, Rational b) => a.CompareTo(b) <= 0;

    /// <inheritdoc/>
    public static bool operator >=(Rational a, Rational b) => a.CompareTo(b) >= 0;
}
