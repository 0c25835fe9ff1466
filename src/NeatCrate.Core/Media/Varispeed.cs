using System.Globalization;

namespace NeatCrate.Core.Media;

/// <summary>What happens to material that is read at another rate than its own (common practice).</summary>
public static class Varispeed
{
    /// <summary>How many times faster it plays: the rate it is read at over its own.</summary>
    public static double Speed(int ownRate, int readAtRate) => readAtRate / (double)ownRate;

    /// <summary>How many semitones higher it sounds: 12·log2 of the speed.</summary>
    public static double Semitones(int ownRate, int readAtRate) => 12 * Math.Log2(Speed(ownRate, readAtRate));

    /// <summary>Both in words, as "1.0884 times too fast, 1.47 semitones too high".</summary>
    public static string Describe(int ownRate, int readAtRate)
    {
        var speed = Speed(ownRate, readAtRate);
        var semitones = Semitones(ownRate, readAtRate);
        return speed > 1
            ? string.Create(CultureInfo.InvariantCulture, $"{speed:0.0000} times too fast, {semitones:0.00} semitones too high")
            : string.Create(CultureInfo.InvariantCulture, $"{1 / speed:0.0000} times too slow, {-semitones:0.00} semitones too low");
    }
}
