namespace NeatCrate.Core.Media;

/// <summary>What happens to material that is read at another rate than its own (common practice).</summary>
public static class Varispeed
{
    /// <summary>How many times faster it plays: the rate it is read at over its own.</summary>
    public static double Speed(int ownRate, int readAtRate) => readAtRate / (double)ownRate;

    /// <summary>How many semitones higher it sounds: 12·log2 of the speed.</summary>
    public static double Semitones(int ownRate, int readAtRate) => 12 * Math.Log2(Speed(ownRate, readAtRate));
}
