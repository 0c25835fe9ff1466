using System.Globalization;

namespace NeatCrate.Core.Words;

/// <summary>Figures as they are written in sentences.</summary>
public static class ByteText
{
    private static readonly (double Unit, string Format)[] Units = [(1e3, "0 kB"), (1e6, "0.0 MB"), (1e9, "0.00 GB"), (1e12, "#,##0.00 TB")];

    /// <summary>
    /// A size in decimal units: kilobytes whole, megabytes to the tenth, more to the hundredth, as "48.1 MB". A unit begins where the one
    /// before would be written with four figures.
    /// </summary>
    public static string Of(long bytes)
    {
        if (bytes < 1000)
        {
            return string.Create(CultureInfo.InvariantCulture, $"{bytes} B");
        }
        var n = 0;
        while (n < Units.Length - 1 && Math.Round(bytes / Units[n].Unit, n, MidpointRounding.AwayFromZero) >= 1000)
        {
            n++;
        }
        return Math.Round(bytes / Units[n].Unit, Math.Min(n, 2), MidpointRounding.AwayFromZero).ToString(Units[n].Format, CultureInfo.InvariantCulture);
    }

    /// <summary>A number with thousands apart.</summary>
    public static string Number(long number) => number.ToString("N0", CultureInfo.InvariantCulture);

    /// <summary>A number with its noun: "1 file", "6 files".</summary>
    public static string Count(long number, string noun) => Count(number, noun, noun + "s");

    /// <summary>A number with its noun in either form.</summary>
    public static string Count(long number, string one, string several) => string.Create(CultureInfo.InvariantCulture, $"{number:N0} {(number == 1 ? one : several)}");
}
