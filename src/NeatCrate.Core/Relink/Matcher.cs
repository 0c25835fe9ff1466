using System.Collections.Immutable;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Relink;

/// <summary>What happened to a file, as far as its best match tells.</summary>
public enum Whereabouts
{
    /// <summary>It stands where it should; the document writes the place otherwise.</summary>
    WrittenOtherwise,

    /// <summary>It stands in another folder.</summary>
    Moved,

    /// <summary>It stands in its folder under another name.</summary>
    Renamed,

    /// <summary>It stands in another folder under another name.</summary>
    MovedAndRenamed,

    /// <summary>It is in a backup, or in a bundle.</summary>
    Kept,

    /// <summary>It is on a shelf that is away.</summary>
    Away,

    /// <summary>A file of its name is there, and sounds otherwise: cut, lengthened, converted, or another take.</summary>
    AnotherVersion,

    /// <summary>Nothing that is known fits.</summary>
    NoTrace,
}

/// <summary>A found file that may be a lost one.</summary>
/// <param name="File">The found file.</param>
/// <param name="Evidence">Each piece of evidence.</param>
/// <param name="Score">By what matches are ordered.</param>
/// <param name="Certainty">Why it is certain, or that it is not.</param>
public sealed record Match(FoundFile File, ImmutableArray<Evidence> Evidence, int Score, Certainty Certainty)
{
    /// <summary>True where the evidence leaves no choice.</summary>
    public bool IsCertain => Certainty != Certainty.None;

    /// <summary>What a piece of evidence says.</summary>
    public Verdict this[EvidenceKind kind] => Evidence[(int)kind].Verdict;

    /// <summary>Where other missing files are, as their documents say, that this found file may be as well; without an identity it is certain for none of them.</summary>
    public ImmutableArray<string> AlsoWantedAt { get; init; } = [];

    /// <summary>True where the samples of both are known and are not the same: it is another sound, whatever it is called.</summary>
    public bool IsOtherSound => this[EvidenceKind.Samples] == Verdict.Differs;

    /// <summary>True where it fits as well as another one does, of which nobody knows whether it is the same: reading both tells.</summary>
    public bool IsRival { get; init; }

    /// <summary>True under the very name, where the length does not speak against it.</summary>
    public bool IsNamedSo => this[EvidenceKind.Name] == Verdict.Agrees && this[EvidenceKind.Length] != Verdict.Differs && !IsOtherSound;

    /// <summary>True where nothing but length and format speaks for it, and neither name nor what was noted: it comes behind one of the very name.</summary>
    public bool IsByFormatAlone => this[EvidenceKind.Name] == Verdict.Differs && Telling.All(k => this[k] != Verdict.Agrees);

    private static readonly ImmutableArray<EvidenceKind> Telling =
        [EvidenceKind.Bytes, EvidenceKind.Sound, EvidenceKind.Samples, EvidenceKind.Size, EvidenceKind.Changed, EvidenceKind.Origin, EvidenceKind.TimeReference];

    /// <summary>
    /// True for a copy in a backup or a bundle under the very name and of the very size: no header of it was read, so that its score is low,
    /// and yet that says more than what is merely alike.
    /// </summary>
    public bool IsKeptUnderItsName => File.Copy is not null && this[EvidenceKind.Name] == Verdict.Agrees && this[EvidenceKind.Size] == Verdict.Agrees;

    /// <summary>True where reading the file would tell whether it is the one: an identity of the lost one is known and none of this file.</summary>
    public bool IsWorthReading(LostFile lost)
    {
        ArgumentNullException.ThrowIfNull(lost);
        return !IsCertain && File.IsThere && ((IsRival && File.Copy is null && File.Noted.Bytes is null) || (lost.Noted.Any && (File.Copy is { } copy
            // Of what is kept its bytes alone are read, and another size is another file.
            ? this[EvidenceKind.Bytes] == Verdict.Unknown && lost.Noted.Bytes is not null && copy.Bytes == lost.Known?.Bytes
            : (lost.Noted.Bytes is not null && File.Noted.Bytes is null) || (lost.Noted.Sound is not null && File.Noted.Sound is null) || (lost.Noted.Samples is not null && File.Noted.Samples is null))));
    }
}

/// <summary>The matches of a lost file, the best first.</summary>
/// <param name="Lost">The lost file.</param>
/// <param name="Matches">Those worth showing.</param>
public sealed record Matches(LostFile Lost, ImmutableArray<Match> All)
{
    /// <summary>The best; null where nothing fits, and where what is called alike is known to be another sound.</summary>
    public Match? Best => All.IsEmpty || All[0].IsOtherSound ? null : All[0];

    /// <summary>
    /// Where there is no best: a file of its very name that is known to be another sound. Cut, lengthened, converted or played anew it may be
    /// what is wanted all the same; somebody has to hear it. What another session uses is that one's own.
    /// </summary>
    public Match? AnotherVersion => Best is null ? All.FirstOrDefault(m => m[EvidenceKind.Name] == Verdict.Agrees && !m.File.IsOfOtherSession) : null;

    /// <summary>What is shown first of it.</summary>
    public Match? Shown => Best ?? AnotherVersion;

    /// <summary>What happened to it, as far as the best tells.</summary>
    public Whereabouts Whereabouts
    {
        get
        {
            if (Best is not { } best)
            {
                return AnotherVersion is null ? Whereabouts.NoTrace : Whereabouts.AnotherVersion;
            }
            if (!best.File.IsThere)
            {
                return Whereabouts.Away;
            }
            if (best.File.Copy is not null)
            {
                return Whereabouts.Kept;
            }
            var isNamed = best[EvidenceKind.Name] == Verdict.Agrees;
            var move = FolderMove.Of(Lost.At, best.File.At);
            var isSameFolder = move is null || move.IsWrittenOtherwise;
            return (isSameFolder, isNamed) switch
            {
                (true, true) => Whereabouts.WrittenOtherwise,
                (true, false) => Whereabouts.Renamed,
                (false, true) => Whereabouts.Moved,
                _ => Whereabouts.MovedAndRenamed,
            };
        }
    }
}

/// <summary>
/// Judges which found files may be a lost one, by evidence. Pure: everything it judges by is handed to it. What is certain by
/// itself is decided by <see cref="EvidenceRules.Certain"/> alone; a score only orders. What its neighbours add is <see cref="FolderMoves"/>' to say.
/// </summary>
public static class Matcher
{
    private const int MostShown = 12;
    private const int MostToRead = 250;

    /// <summary>Judges.</summary>
    /// <param name="lost">The lost file.</param>
    /// <param name="candidates">Files that may be it.</param>
    public static Matches Of(LostFile lost, IEnumerable<FoundFile> candidates)
    {
        ArgumentNullException.ThrowIfNull(lost);
        ArgumentNullException.ThrowIfNull(candidates);
        var judged = candidates.Where(c => c.Path != lost.Path).DistinctBy(c => c.Path).Select(c => (File: c, Evidence: EvidenceReader.Compare(lost, c))).ToList();
        // Where files have one time whatever they are called, as when they were unpacked or copied at once, it tells none from another.
        var isTimeShared = judged.Exists(j => j.Evidence[(int)EvidenceKind.Changed].Verdict == Verdict.Agrees && j.Evidence[(int)EvidenceKind.Name].Verdict != Verdict.Agrees);
        var rules = EvidenceRules.Certain.Where(r => !(isTimeShared && r.OnlyWithoutIdentity && r.Needs.Contains(EvidenceKind.Changed))).ToList();
        var fits = rules.Where(r => r.OnlyOne).ToDictionary(r => r, r => Different(judged.Where(j => j.File.Copy is null && Fits(r, lost, j.File, j.Evidence)).Select(j => j.File)));
        Certainty CertaintyOf(FoundFile found, ImmutableArray<Evidence> evidence) =>
            rules.Find(r => Fits(r, lost, found, evidence) && (!r.OnlyOne || fits[r] == 1) && !(r.OnlyWithoutIdentity && found.IsOfOtherSession))?.Gives ?? Certainty.None;
        var all = judged.Select(j => new Match(j.File, j.Evidence, Score(j.Evidence), CertaintyOf(j.File, j.Evidence)) { IsRival = fits.Any(f => f.Value > 1 && Fits(f.Key, lost, j.File, j.Evidence)) }).ToList();
        var isNamed = all.Exists(m => m.IsNamedSo);
        var matches = all
            // One that has the name is shown even if all else speaks against it: somebody would find it by hand, and wonder.
            .Where(m => m.Score >= EvidenceRules.LeastScore || m.IsCertain || m[EvidenceKind.Name] == Verdict.Agrees)
            .OrderByDescending(m => m.IsCertain).ThenBy(m => m.IsOtherSound)
            // Of files that are certain one that can be had comes before one that cannot, and one to work with before one that is kept for safety.
            .ThenBy(m => m.IsCertain && !m.File.IsThere).ThenBy(m => m.IsCertain && m.File.IsKept).ThenBy(m => m.Certainty)
            .ThenByDescending(m => m.IsKeptUnderItsName).ThenBy(m => isNamed && m.IsByFormatAlone)
            .ThenByDescending(m => m.Score).ThenByDescending(m => m.File.IsThere).ThenBy(m => m.File.IsKept)
            .ThenByDescending(m => ShelfPath.IsWithin(m.File.Path, lost.Session)).ThenBy(m => m.File.Path, StringComparer.Ordinal);
        return new Matches(lost, [.. matches.Take(lost.Noted.Any ? MostToRead : MostShown)]);
    }

    private static int Score(ImmutableArray<Evidence> evidence) => evidence.Sum(e => e.Verdict switch
    {
        Verdict.Agrees => EvidenceRules.Weights[e.Kind].Agrees,
        Verdict.Nearly => EvidenceRules.Weights[e.Kind].Nearly,
        Verdict.Differs => EvidenceRules.Weights[e.Kind].Differs,
        _ => 0,
    });

    private static bool Fits(CertaintyRule rule, LostFile lost, FoundFile found, ImmutableArray<Evidence> evidence) =>
        (rule.Silence is not { } silent || silent == (lost.Noted.IsSilent || found.Noted.IsSilent))
        && (!rule.OnlyWithoutIdentity || !lost.Noted.Any)
        && (!rule.InPlace || FolderMove.Of(lost.At, found.At) is not { IsWrittenOtherwise: false })
        && (!rule.SharesAFolder || TellingFolders.AreShared(lost.At, found.At))
        && (!rule.ExactTime || (lost.Known?.ModifiedUtc == found.Known.ModifiedUtc && found.Known.ModifiedUtc.Ticks % TimeSpan.TicksPerSecond != 0))
        && rule.Agrees(evidence);

    /// <summary>How many different files these are: copies whose bytes are known to be the same count once.</summary>
    internal static int Different(IEnumerable<FoundFile> files) => files.Select(f => f.Noted.Bytes is { } hash ? $"{f.Known.Bytes} {hash}" : f.Path).Distinct(StringComparer.Ordinal).Count();
}
