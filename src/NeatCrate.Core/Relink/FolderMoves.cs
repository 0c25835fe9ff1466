using System.Collections.Immutable;
using NeatCrate.Core.Shelves;

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

    /// <summary>What tells one sound of a name from another one.</summary>
    private static readonly ImmutableArray<EvidenceKind> Speaking =
        [EvidenceKind.Samples, EvidenceKind.Length, EvidenceKind.Rate, EvidenceKind.Channels, EvidenceKind.Format, EvidenceKind.Origin, EvidenceKind.TimeReference];

    /// <summary>
    /// Judges again with the moves that other files tell of: of several files that fit as well, the one that moved along with its
    /// neighbours is put first. What an identity makes certain stays so.
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
        // A sound that is known to have moved carries its neighbours along, whatever the folders are called; a silence is like any other.
        var carried = ordered.Where(m => m.Best is { Certainty: Certainty.SameBytes or Certainty.SameSound or Certainty.SameSamples }).Select(MoveOf).OfType<FolderMove>().ToHashSet();
        var fits = ordered.Where(Fits).Where(m => MoveOf(m) is not null).GroupBy(m => MoveOf(m)!).ToList();
        var together = fits.SelectMany(g => Together([.. g], carried.Contains(g.Key))).ToHashSet();
        return OneForOne([.. ordered.Select(m => together.Contains(m) && !m.Best!.IsCertain && !m.Lost.Noted.Any ? m with { All = [m.Best with { Certainty = EvidenceRules.WithNeighbours.Gives }, .. m.All.Skip(1)] } : m)]);
    }

    /// <summary>Those of the files that fit along one move that moved together beyond doubt.</summary>
    /// <param name="fits">The files.</param>
    /// <param name="isCarried">Whether a sound that is known moved along it.</param>
    private static List<Matches> Together(List<Matches> fits, bool isCarried)
    {
        var near = isCarried ? fits : fits.FindAll(m => TellingFolders.AreShared(m.Lost.At, m.Best!.File.At));
        return Lengths(isCarried ? near : near.Where(IsCalledByMore)) >= EvidenceRules.NeighboursThatTell ? near : [];
    }

    /// <summary>A name that ends in a number tells nothing: takes are counted in every session, and sounds in every pack.</summary>
    private static bool IsCalledByMore(Matches matches) => !LooseName.EndsInANumber(matches.Lost.Name);

    /// <summary>
    /// One found file is not certain for two missing ones unless an identity says so. What loses its certainty may be another file as well,
    /// so that this is asked again until nothing changes.
    /// </summary>
    private static Matches[] OneForOne(Matches[] matches)
    {
        while (true)
        {
            var wanted = matches.SelectMany(m => Wanted(m).Select(path => (Path: path, m.Lost))).ToLookup(w => w.Path, w => w.Lost.Path, StringComparer.Ordinal);
            var isChanged = false;
            for (var n = 0; n < matches.Length; n++)
            {
                if (matches[n].Best is { } best && IsByFitAlone(best) && wanted[best.File.Path].Where(l => l != matches[n].Lost.Path).Distinct().ToImmutableArray() is { IsEmpty: false } others)
                {
                    matches[n] = matches[n] with { All = [best with { Certainty = Certainty.None, AlsoWantedAt = others }, .. matches[n].All.Skip(1)] };
                    isChanged = true;
                }
            }
            if (!isChanged)
            {
                return matches;
            }
        }
    }

    /// <summary>The found files that a missing one may be: the one that it surely is, or every one of its name against which nothing is known.</summary>
    private static IEnumerable<string> Wanted(Matches matches) => matches.Best is { IsCertain: true } sure ? [sure.File.Path] : matches.All.Where(MayBe).Select(m => m.File.Path);

    private static bool MayBe(Match match) => match.File.Copy is null && match[EvidenceKind.Name] == Verdict.Agrees && Speaking.All(k => match[k] != Verdict.Differs);

    private static bool IsByFitAlone(Match match) => match.Certainty is Certainty.OnlyOneThatFits or Certainty.MovedTogether;

    private static FolderMove? MoveOf(Matches matches) => FolderMove.Of(matches.Lost.At, matches.Best!.File.At);

    private static int Lengths(IEnumerable<Matches> matches) => matches.Select(m => m.Best!.File.Known.LengthSamples).Distinct().Count();

    /// <summary>The moves that best matches tell of, those of the most files first.</summary>
    public static IReadOnlyList<MovedFiles> Of(IEnumerable<Matches> matches) =>
    [
        .. matches.Where(m => m.Whereabouts is Whereabouts.Moved or Whereabouts.WrittenOtherwise)
            .Select(m => (Move: FolderMove.Of(m.Lost.At, m.Best!.File.At), Matches: m)).Where(m => m.Move is not null)
            .GroupBy(m => m.Move!, m => m.Matches).Select(g => new MovedFiles(g.Key, [.. g]))
            .OrderByDescending(m => m.Files.Length).ThenBy(m => m.Move.From, StringComparer.Ordinal).ThenBy(m => m.Move.To, StringComparer.Ordinal),
    ];

    /// <summary>Whether the best fits by all that is known without an identity, and no other does.</summary>
    private static bool Fits(Matches matches) => matches.Best is { File.IsOfOtherSession: false } best && IsFit(best) && Matcher.Different(matches.All.Where(IsFit).Select(m => m.File)) == 1;

    // What is kept in a backup moved nowhere.
    private static bool IsFit(Match match) => match.File.Copy is null && EvidenceRules.WithNeighbours.Agrees(match.Evidence);

    /// <summary>A file of another length did not move along, whatever it is called.</summary>
    private static bool MayHaveMoved(Match match) => match[EvidenceKind.Length] != Verdict.Differs;

    private static ImmutableArray<Match> Ordered(Matches matches, Dictionary<FolderMove, double> votes)
    {
        var isNamed = matches.All.Any(m => m.IsNamedSo);
        return [.. matches.All.OrderBy(m => m.IsOtherSound).ThenByDescending(m => m.IsKeptUnderItsName).ThenBy(m => isNamed && m.IsByFormatAlone).ThenByDescending(m => m.Score + ByVotes(matches, m, votes))];
    }

    private static double ByVotes(Matches matches, Match match, Dictionary<FolderMove, double> votes) =>
        !MayHaveMoved(match) ? 0 : FolderMove.Of(matches.Lost.At, match.File.At) is { } move ? Math.Min(MostByVotes, ScoreOfAVote * votes.GetValueOrDefault(move)) : MostByVotes;
}
