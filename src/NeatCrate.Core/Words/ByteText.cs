using System.Globalization;

namespace NeatCrate.Core.Words;

/// <summary>Figures as they are written in sentences.</summary>
public static class ByteText
{
    /// <summary>A size in decimal units, as "48.1 MB".</summary>
    public static string Of(long bytes) => bytes switch
    {
        < 1_000 => $"{bytes} bytes",
        < 1_000_000 => string.Create(CultureInfo.InvariantCulture, $"{bytes / 1e3:0.#} kB"),
        < 1_000_000_000 => string.Create(CultureInfo.InvariantCulture, $"{bytes / 1e6:0.#} MB"),
        < 1_000_000_000_000 => string.Create(CultureInfo.InvariantCulture, $"{bytes / 1e9:0.##} GB"),
        _ => string.Create(CultureInfo.InvariantCulture, $"{bytes / 1e12:0.##} TB"),
    };

    /// <summary>A number with its noun: "1 file", "6 files".</summary>
    public static string Count(long number, string noun) =>
        string.Create(CultureInfo.InvariantCulture, $"{number} {noun}{(number == 1 ? "" : "s")}");
}
