using System.Collections.Immutable;

namespace NeatCrate.Core.Relink;

/// <summary>Files that moved together.</summary>
/// <param name="Move">From where to where.</param>
/// <param name="Files">The files whose best match tells of that move.</param>
public sealed record MovedFiles(FolderMove Move, ImmutableArray<Matches> Files);

/// <summary>One leads to many: a folder that was renamed, or a drive that has another place, moved all its files alike.</summary>
public static class FolderMoves
{
    // What the neighbours say weighs more than a name that stands in many folders, and less than any identity.
    private const double ScoreOfAVote = 12;
    private const double MostByVotes = 120;

    /// <summary>
    /// Judges again with the moves that other files tell of: of several files that fit as well, the one that moved along with its
    /// neighbours is put first. What is certain stays so.
    /// </summary>
    /// <param name="matches">The matches of each lost file by itself.</param>
    public static IReadOnlyList<Matches> Along(IReadOnlyList<Matches> matches)
    {
        ArgumentNullException.ThrowIfNull(matches);
        var votes = new Dictionary<FolderMove, double>();
        foreach (var one in matches)
        {
            // Each file has one vote: one that may be in several places shares it among them, so that only a place that many share has many.
            var moves = one.All.Where(m => m.File.Copy is null && m.IsCertain == one.Best?.IsCertain && m[EvidenceKind.Name] == Verdict.Agrees && MayHaveMoved(m))
                .Select(m => FolderMove.Of(one.Lost.At, m.File.At)).OfType<FolderMove>().Distinct().ToList();
            foreach (var move in moves)
            {
                votes[move] = votes.GetValueOrDefault(move) + (1.0 / moves.Count);
            }
        }
        List<Matches> ordered = [.. matches.Select(m => m.All.Length < 2 || m.Best is not { IsCertain: false } ? m : m with { All = Ordered(m, votes) })];
        var together = ordered.Where(Fits).GroupBy(m => FolderMove.Of(m.Lost.At, m.Best!.File.At))
            .Where(g => g.Key is not null && g.Select(m => m.Best!.File.Known.LengthSamples).Distinct().Count() >= EvidenceRules.NeighboursThatTell).SelectMany(g => g).ToHashSet();
        return [.. ordered.Select(m => together.Contains(m) && !m.Best!.IsCertain && !m.Lost.Noted.Any ? m with { All = [m.Best with { Certainty = EvidenceRules.WithNeighbours.Gives }, .. m.All.Skip(1)] } : m)];
    }

    /// <summary>The moves that best matches tell of, those of the most files first.</summary>
    public static IReadOnlyList<MovedFiles> Of(IEnumerable<Matches> matches) =>
    [
        .. matches.Where(m => m.Whereabouts is Whereabouts.Moved or Whereabouts.WrittenOtherwise)
            .Select(m => (Move: FolderMove.Of(m.Lost.At, m.Best!.File.At), Matches: m)).Where(m => m.Move is not null)
            .GroupBy(m => m.Move!, m => m.Matches).Select(g => new MovedFiles(g.Key, [.. g]))
            .OrderByDescending(m => m.Files.Length).ThenBy(m => m.Move.From, StringComparer.Ordinal).ThenBy(m => m.Move.To, StringComparer.Ordinal),
    ];

    /// <summary>Whether the best fits by all that is known without an identity, and no other does.</summary>
    private static bool Fits(Matches matches) => matches.Best is { } best && IsFit(best) && matches.All.Count(IsFit) == 1;

    // What is kept in a backup moved nowhere.
    private static bool IsFit(Match match) => match.File.Copy is null && EvidenceRules.WithNeighbours.Agrees(match.Evidence);

    /// <summary>A file of another length did not move along, whatever it is called.</summary>
    private static bool MayHaveMoved(Match match) => match[EvidenceKind.Length] != Verdict.Differs;

    private static ImmutableArray<Match> Ordered(Matches matches, Dictionary<FolderMove, double> votes) =>
        [.. matches.All.OrderBy(m => m.IsOtherSound).ThenByDescending(m => m.IsKeptUnderItsName).ThenByDescending(m => m.Score + (!MayHaveMoved(m) ? 0 : FolderMove.Of(matches.Lost.At, m.File.At) is { } move ? Math.Min(MostByVotes, ScoreOfAVote * votes.GetValueOrDefault(move)) : MostByVotes))];
}
