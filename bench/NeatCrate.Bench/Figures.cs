using System.Diagnostics;
using System.Globalization;

namespace NeatCrate.Bench;

/// <summary>Measures, and prints the figures as rows of a Markdown table.</summary>
internal static class Figures
{
    /// <summary>Prints the table's head.</summary>
    public static void Begin()
    {
        Console.WriteLine($"{Environment.ProcessorCount} processors, {DateTime.UtcNow:yyyy-MM-dd}");
        Console.WriteLine();
        Console.WriteLine("| what | time | against | ratio | goal |");
        Console.WriteLine("|---|---|---|---|---|");
    }

    /// <summary>Seconds of the fastest of several runs; what else the machine did meanwhile only makes runs slower.</summary>
    public static double Fastest(int runs, Action run, Action? before = null)
    {
        var fastest = double.MaxValue;
        for (var i = 0; i < runs; i++)
        {
            before?.Invoke();
            fastest = Math.Min(fastest, Seconds(run));
        }
        return fastest;
    }

    /// <summary>Seconds that one run takes.</summary>
    public static double Seconds(Action run)
    {
        var watch = Stopwatch.StartNew();
        run();
        return watch.Elapsed.TotalSeconds;
    }

    /// <summary>Prints one row.</summary>
    /// <param name="what">What was measured.</param>
    /// <param name="seconds">How long it took.</param>
    /// <param name="against">What it is compared with.</param>
    /// <param name="reference">How long that took, in seconds; null where there is nothing to compare with.</param>
    /// <param name="goal">The ratio that is to be held.</param>
    public static void Row(string what, double seconds, string against, double? reference, string goal) => Console.WriteLine(string.Create(
        CultureInfo.InvariantCulture,
        $"| {what} | {seconds:0.000} s | {(reference is { } r ? $"{against}: {r:0.000} s" : against)} | {(reference is { } t ? $"{seconds / t:0.00}" : "")} | {goal} |"));
}
