using System.Collections.Immutable;

namespace NeatCrate.Core.Relink;

/// <summary>By what a lost file and a found one are compared.</summary>
public enum EvidenceKind
{
    /// <summary>All bytes.</summary>
    Bytes,

    /// <summary>Format and audio data, whatever is written around them.</summary>
    Sound,

    /// <summary>The samples, however they are stored.</summary>
    Samples,

    /// <summary>The name.</summary>
    Name,

    /// <summary>The folders above it.</summary>
    Folder,

    /// <summary>Size in bytes.</summary>
    Size,

    /// <summary>Length in samples; as the document states it where nothing else is known.</summary>
    Length,

    /// <summary>Sample rate.</summary>
    Rate,

    /// <summary>Number of channels.</summary>
    Channels,

    /// <summary>Bit depth.</summary>
    Depth,

    /// <summary>File format.</summary>
    Format,

    /// <summary>Time of the last change.</summary>
    Changed,

    /// <summary>Who made it, by what reference and when (EBU Tech 3285).</summary>
    Origin,

    /// <summary>Its first sample since midnight (EBU Tech 3285).</summary>
    TimeReference,

    /// <summary>Whether it was there when a document that uses the lost one was saved last: it differs where it was recorded, or written, after that.</summary>
    Age,
}

/// <summary>What a piece of evidence says.</summary>
public enum Verdict
{
    /// <summary>It is not known of one of the two.</summary>
    Unknown,

    /// <summary>They agree.</summary>
    Agrees,

    /// <summary>They agree nearly: a name with a copy's number, a length to within what the document can say.</summary>
    Nearly,

    /// <summary>They differ.</summary>
    Differs,
}

/// <summary>One piece of evidence.</summary>
public readonly record struct Evidence(EvidenceKind Kind, Verdict Verdict);

/// <summary>Why a match is certain.</summary>
public enum Certainty
{
    /// <summary>It is not: somebody has to compare.</summary>
    None,

    /// <summary>The bytes are the same.</summary>
    SameBytes,

    /// <summary>Format and audio data are the same.</summary>
    SameSound,

    /// <summary>The samples are the same.</summary>
    SameSamples,

    /// <summary>The same silence, under the same name: all that can be known of silence.</summary>
    SameSilence,

    /// <summary>No identity was ever known; name, exact length and format agree with this one file alone, and nothing speaks against it.</summary>
    OnlyOneThatFits,

    /// <summary>No identity was ever known; name, exact length and format agree with this one file alone, and so they do for its neighbours, which moved to the same place.</summary>
    MovedTogether,
}

/// <summary>A rule that makes a match certain.</summary>
/// <param name="Gives">What it makes of it.</param>
/// <param name="Needs">What must agree, each of these.</param>
/// <param name="Refuses">What must not differ.</param>
/// <param name="Silence">Whether it holds for silence: null for both, true for silence alone, false for sound alone.</param>
/// <param name="OnlyWithoutIdentity">True where it holds only for a file of which no identity was ever known.</param>
/// <param name="OnlyOne">True where no other file may fit as well.</param>
/// <param name="InPlace">True where it holds only for a file that stands where it should, however the document writes that place.</param>
/// <param name="SharesAFolder">True where a folder right above both has to have the same name, and one that tells (<see cref="TellingFolders"/>).</param>
/// <param name="ExactTime">True where both times have to be the same, and to be told closer than in seconds.</param>
public sealed record CertaintyRule(
    Certainty Gives, IReadOnlyList<EvidenceKind> Needs, IReadOnlyList<EvidenceKind> Refuses, bool? Silence = null, bool OnlyWithoutIdentity = false, bool OnlyOne = false, bool InPlace = false, bool SharesAFolder = false, bool ExactTime = false)
{
    /// <summary>True where everything that is needed agrees, and nothing that is refused differs.</summary>
    /// <param name="evidence">Each piece of evidence, in the order of <see cref="EvidenceKind"/>.</param>
    public bool Agrees(ImmutableArray<Evidence> evidence) =>
        Needs.All(k => evidence[(int)k].Verdict == Verdict.Agrees) && Refuses.All(k => evidence[(int)k].Verdict != Verdict.Differs);
}

/// <summary>What evidence weighs, and what makes a match certain. docs/relinking.md says the same in words.</summary>
public static class EvidenceRules
{
    /// <summary>Times no further apart are the same.</summary>
    public static TimeSpan SameTime => FileFacts.CoarsestStep;

    /// <summary>
    /// So many neighbours of different lengths have to fit in one place before a file that fits there, too, is certain: one name of one length
    /// may be a chance, and not so many. A name that ends in a number counts for none: such stand in every session and in every pack.
    /// </summary>
    public const int NeighboursThatTell = 3;

    private static IReadOnlyList<EvidenceKind> NothingAgainst { get; } =
        [EvidenceKind.Size, EvidenceKind.Channels, EvidenceKind.Depth, EvidenceKind.Format, EvidenceKind.Changed, EvidenceKind.Origin, EvidenceKind.TimeReference, EvidenceKind.Age];

    /// <summary>
    /// The rules for a file by itself, the strongest first. A score never makes a match certain, and no name does. Common practice: "a file found again is
    /// trusted when name, length, format and sound agree".
    /// </summary>
    public static IReadOnlyList<CertaintyRule> Certain { get; } =
    [
        new(Certainty.SameBytes, [EvidenceKind.Bytes], [], Silence: false),
        new(Certainty.SameSound, [EvidenceKind.Sound], [EvidenceKind.Samples], Silence: false),
        new(Certainty.SameSamples, [EvidenceKind.Samples], [], Silence: false),
        new(Certainty.SameSilence, [EvidenceKind.Bytes, EvidenceKind.Name], [], Silence: true, OnlyOne: true),
        // Seen before, and never read: size and time stand for the sound. No two files have one time to the step of 100 ns; what a card, an archive or
        // another system wrote has its time in seconds, which "Kick 01.wav" of two packs may share: there a folder has to have the same name, too.
        new(
            Certainty.OnlyOneThatFits, [EvidenceKind.Name, EvidenceKind.Length, EvidenceKind.Rate, EvidenceKind.Size, EvidenceKind.Changed], NothingAgainst,
            OnlyWithoutIdentity: true, OnlyOne: true, ExactTime: true),
        new(
            Certainty.OnlyOneThatFits, [EvidenceKind.Name, EvidenceKind.Length, EvidenceKind.Rate, EvidenceKind.Size, EvidenceKind.Changed], NothingAgainst,
            OnlyWithoutIdentity: true, OnlyOne: true, SharesAFolder: true),
        // Known from the document alone: "Audio 08.wav" of just that length stands in more than one place, whatever the folders above are called.
        new(Certainty.OnlyOneThatFits, [EvidenceKind.Name, EvidenceKind.Length, EvidenceKind.Rate], NothingAgainst, OnlyWithoutIdentity: true, OnlyOne: true, InPlace: true),
    ];

    /// <summary>What makes a file certain, where it holds for so many of its neighbours as well.</summary>
    public static CertaintyRule WithNeighbours { get; } = new(Certainty.MovedTogether, [EvidenceKind.Name, EvidenceKind.Length, EvidenceKind.Rate], NothingAgainst, OnlyWithoutIdentity: true, OnlyOne: true);

    /// <summary>What each verdict adds to the score, by which matches are ordered; an unknown adds nothing.</summary>
    public static IReadOnlyDictionary<EvidenceKind, (int Agrees, int Nearly, int Differs)> Weights { get; } = new Dictionary<EvidenceKind, (int, int, int)>
    {
        [EvidenceKind.Bytes] = (2000, 0, -20),
        [EvidenceKind.Sound] = (1500, 0, -60),
        [EvidenceKind.Samples] = (1500, 0, -700),
        [EvidenceKind.Name] = (200, 130, -60),
        [EvidenceKind.Folder] = (80, 40, -10),
        [EvidenceKind.Size] = (60, 0, -10),
        [EvidenceKind.Length] = (140, 40, -200),
        [EvidenceKind.Rate] = (30, 0, -60),
        [EvidenceKind.Channels] = (15, 0, -60),
        [EvidenceKind.Depth] = (10, 0, -20),
        [EvidenceKind.Format] = (15, 0, -15),
        [EvidenceKind.Changed] = (50, 0, -5),
        [EvidenceKind.Origin] = (80, 0, -30),
        [EvidenceKind.TimeReference] = (80, 0, -120),
        [EvidenceKind.Age] = (0, 0, -40),
    };

    /// <summary>Below this score a file is not shown as a match: a name alone with everything else against it.</summary>
    public const int LeastScore = 60;
}
