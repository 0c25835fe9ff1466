using System.Globalization;
using NeatCrate.App.Words;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Plans;

/// <summary>What a plan that was applied did, file by file.</summary>
/// <param name="Session">Name of the session's folder.</param>
/// <param name="Lines">What was done to each file; folders that were made for it, and our own lists, are left out.</param>
public sealed record ReportView(Guid PlanId, string Session, PlanKind Kind, string Sentence, DateTimeOffset Ended, IReadOnlyList<StepView> Lines);

/// <summary>Reports on work that was done, for whoever asks later: to be printed, or for a spreadsheet.</summary>
public static class PlanReport
{
    private static readonly string[] Columns = ["When (UTC)", "Session", "What", "File", "To", "Bytes", "Why"];

    /// <summary>The report on a plan that was applied.</summary>
    public static ReportView View((HistoryEntry Entry, long EndedMs) reported, IReadOnlyList<Shelf> shelves)
    {
        var (entry, ended) = reported;
        var leftOut = entry.Records.Where(r => r.State == StepState.LeftOut).Select(r => r.Index).ToHashSet();
        return new ReportView(
            entry.Plan.Id,
            Path.GetFileName(entry.Plan.WritableRoots[0]),
            entry.Plan.Kind,
            entry.Plan.Sentence,
            DateTimeOffset.FromUnixTimeMilliseconds(ended),
            [.. entry.Plan.Steps.Where((s, n) => !leftOut.Contains(n) && !IsOurOwn(s)).Select(s => PlanViews.Step(s, shelves))]);
    }

    /// <summary>Reports as one table, in their order.</summary>
    public static byte[] Write(params IEnumerable<ReportView> reports) => Csv.Write(Columns, reports.SelectMany(Rows));

    private static IEnumerable<string[]> Rows(ReportView report)
    {
        var when = report.Ended.UtcDateTime.ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture);
        return report.Lines.Select(l => (string[])
            [when, report.Session, l.Verb, Text(l.From ?? l.To), l.From is null ? "" : Text(l.To), l.Bytes.ToString(CultureInfo.InvariantCulture), l.Reason]);
    }

    private static bool IsOurOwn(PlanStep step) =>
        step is MakeFolderStep or RemoveFolderStep or RemoveOwnFileStep || Path.GetFileName(step.Destination).StartsWith(".neat-crate", StringComparison.Ordinal);

    private static string Text(PlaceView place) => place.Shelf is null ? place.Path : $"{place.Shelf}: {place.Path}";
}
