using NeatCrate.Core.Relink;

namespace NeatCrate.Store.Tests.Relink;

/// <summary>What is taken for what, over more than two thousand missing files of which the right answer is known.</summary>
public sealed class TroublesTests(ITestOutputHelper output)
{
    [Fact]
    public void NothingWrongIsEverCertainAndWhatExistsIsFound()
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        using var set = new TroubleSet();
        output.WriteLine($"made in {watch.Elapsed}");
        Assert.InRange(set.Troubles.Count, 2000, int.MaxValue);
        Assert.InRange(set.Troubles.Select(t => t.Kind).Distinct().Count(), 24, int.MaxValue);
        var lost = set.Troubles.Select(t => t.Lost).ToList();
        var first = Judge(set, lost);
        output.WriteLine($"judged at {watch.Elapsed}");
        var before = Tell(set, first, "as it is known, without reading any file");
        // Whoever makes sure reads what may be it.
        foreach (var path in first.SelectMany(m => m.All.Where(a => a.IsWorthReading(m.Lost)).Select(a => a.File.Path)).Distinct(StringComparer.Ordinal))
        {
            set.Read(path);
        }
        output.WriteLine($"read at {watch.Elapsed}");
        var after = Tell(set, Judge(set, lost), "once the likely ones were read");
        Assert.Equal((0, 0), (before.Wrong, after.Wrong));
        Assert.InRange(before.Found, 0.95, 1);
        Assert.InRange(after.Found, 0.99, 1);
        Assert.True(after.Certain > before.Certain, "Reading made nothing certain.");
    }

    private static IReadOnlyList<Matches> Judge(TroubleSet set, List<LostFile> lost) =>
        FolderMoves.Along([.. lost.Zip(set.Suggestions.Suggest(lost), (l, found) => Matcher.Of(l, found))]);

    private (int Wrong, double Found, int Certain) Tell(TroubleSet set, IReadOnlyList<Matches> judged, string when)
    {
        output.WriteLine(when);
        output.WriteLine($"{"kind",-42} {"missing",8} {"exist",6} {"found",6} {"certain",8} {"wrong",6}");
        var (wrongs, exists, founds, certains) = (0, 0, 0, 0);
        foreach (var kind in set.Troubles.Zip(judged).GroupBy(t => t.First.Kind))
        {
            var (exist, found, certain, wrong) = (0, 0, 0, 0);
            foreach (var (trouble, matches) in kind)
            {
                var isRight = matches.Best is { } best && trouble.Right.Contains(best.File.Path);
                exist += trouble.Right.Count > 0 ? 1 : 0;
                found += isRight ? 1 : 0;
                certain += matches.Best is { IsCertain: true } && isRight ? 1 : 0;
                if (matches.Best is { IsCertain: true } taken && !isRight)
                {
                    wrong++;
                    output.WriteLine($"  wrong: {trouble.Lost.Path} ({trouble.Knew}) taken for {taken.File.Path}: {taken.Certainty}");
                }
            }
            output.WriteLine($"{kind.Key,-42} {kind.Count(),8} {exist,6} {found,6} {certain,8} {wrong,6}");
            (wrongs, exists, founds, certains) = (wrongs + wrong, exists + exist, founds + found, certains + certain);
        }
        output.WriteLine($"{"all",-42} {set.Troubles.Count,8} {exists,6} {founds,6} {certains,8} {wrongs,6}");
        return (wrongs, founds / (double)exists, certains);
    }
}
