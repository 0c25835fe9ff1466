using System.Globalization;

namespace NeatCrate.Core.Words;

/// <summary>Sample rates as they are written in sentences.</summary>
public static class RateText
{
    /// <summary>A rate in samples a second as "44.1 kHz".</summary>
    public static string Of(long samplesPerSecond) => string.Create(CultureInfo.InvariantCulture, $"{samplesPerSecond / 1000m:0.###} kHz");
}
