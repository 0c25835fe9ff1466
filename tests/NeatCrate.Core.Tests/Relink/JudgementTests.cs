using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Tests.Relink;

/// <summary>Names, paths, evidence and rules, each by a table.</summary>
public sealed class JudgementTests
{
    // As most drives keep times: closer than in seconds.
    private static readonly DateTime Then = new DateTime(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc).AddTicks(1_234_567);
    private static readonly DateTime InSeconds = new(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc);

    [Theory]
    [InlineData("tide.wav", "tide.wav", NameLikeness.Same)]
    [InlineData("Tide.WAV", "tide.wav", NameLikeness.WrittenOtherwise)]
    [InlineData("Dvo\u0159\u00e1k.wav", "Dvor\u030ca\u0301k.wav", NameLikeness.WrittenOtherwise)]
    [InlineData("fog%20signal.wav", "fog signal.wav", NameLikeness.WrittenOtherwise)]
    [InlineData("bottle: high?.wav", "bottle_ high_.wav", NameLikeness.WrittenOtherwise)]
    [InlineData("caf%E9 noir.wav", "caf\u00e9 noir.wav", NameLikeness.WrittenOtherwise)]
    [InlineData("caf%C3%A9.wav", "caf\u00e9.wav", NameLikeness.WrittenOtherwise)]
    [InlineData("caf%u00e9.wav", "caf\u00e9.wav", NameLikeness.WrittenOtherwise)]
    [InlineData("100%u.wav", "100%u.wav", NameLikeness.Same)]
    [InlineData("caf%E9.wav", "caf%E8.wav", NameLikeness.Other)]
    [InlineData("tide.wav", "tide.flac", NameLikeness.OtherExtension)]
    [InlineData("tide.wav", "tide (2).wav", NameLikeness.Numbered)]
    [InlineData("tide.wav", "tide copy.wav", NameLikeness.Numbered)]
    [InlineData("tide 2.wav", "tide.wav", NameLikeness.Numbered)]
    [InlineData("Voice 01.wav", "Voice 02.wav", NameLikeness.Other)]
    [InlineData("tide.wav", "ride.wav", NameLikeness.Other)]
    public void NamesAreComparedAcrossSystems(string lost, string found, NameLikeness likeness) =>
        Assert.Equal(likeness, new ComparedPath("/a/" + lost).Compare(new ComparedPath("/b/" + found)));

    [Theory]
    [InlineData(@"C:\Sounds\Sea\tide.wav", "/Sounds/Sea/tide.wav")]
    [InlineData(@"\\studio\share\tide.wav", "/studio/share/tide.wav")]
    [InlineData("file:///C:/Sounds/my%20tide.wav", "/Sounds/my tide.wav")]
    [InlineData(@"/drive/Session/Audio\tide.wav", "/drive/Session/Audio/tide.wav")]
    [InlineData("/drive/odd\\name/tide.wav", "/drive/odd\\name/tide.wav")]
    public void PathsOfOtherSystemsAreRead(string path, string plain) => Assert.Equal(plain, OtherSystem.Plain(path));

    [Theory]
    [InlineData(@".\Audio\in 1.wav", "Audio|in 1.wav")]
    [InlineData("/drive/Session/./Audio/in 1.wav", "drive|Session|Audio|in 1.wav")]
    [InlineData(@"/drive/Session/.\Audio\in 1.wav", "drive|Session|Audio|in 1.wav")]
    public void AFolderThatIsWrittenAsItselfIsNone(string path, string parts) => Assert.Equal(parts.Split('|'), OtherSystem.Parts(path));

    [Fact]
    public void AMoveLeavesOutWhatIsAlikeBelow()
    {
        var move = FolderMove.Of(new ComparedPath("/mnt/old/Bells/low/a.wav"), new ComparedPath("/media/new/bells/low/a.wav"));
        Assert.Equal(new FolderMove("/mnt/old", "/media/new"), move);
        Assert.Null(FolderMove.Of(new ComparedPath("/a/b/c.wav"), new ComparedPath("/a/b/d.wav")));
    }

    private static KnownFile Sound(long bytes = 14_400, int rate = 48000, long samples = 4800, int days = 0, string container = "WAV") => new(bytes, Then.AddDays(days), container, rate, 1, 24, samples);

    private static NotedIdentities Noted(int seed, bool silent = false) => new((UInt128)seed, new SoundIdentity((UInt128)seed), new SampleIdentity((UInt128)seed), silent);

    private static LostFile Lost(KnownFile? known = null, NotedIdentities? noted = null, StatedLength? stated = null, string path = "/shelf/Sea/low/tide.wav") =>
        new(path, known, noted ?? NotedIdentities.None, stated, null, "/sessions/one");

    private static FoundFile Found(string path, KnownFile? known = null, NotedIdentities? noted = null, bool isThere = true, bool isKept = false) =>
        new(path, known ?? Sound(), noted ?? NotedIdentities.None, isThere, isKept, null);

    public static TheoryData<string, Certainty> Cases => new()
    {
        { "same bytes, other name", Certainty.SameBytes },
        { "same sound, other words around it", Certainty.SameSound },
        { "same samples, other format", Certainty.SameSamples },
        { "same name, other sound", Certainty.None },
        { "same name, length and format, other sound", Certainty.None },
        { "same silence, other name", Certainty.None },
        { "same silence, same name", Certainty.SameSilence },
        { "seen before: size, time and name", Certainty.OnlyOneThatFits },
        { "seen before: time in seconds, other folder", Certainty.None },
        { "seen before: time in seconds, folder of that name", Certainty.OnlyOneThatFits },
        { "seen before: time in seconds, kept closer by one of the drives", Certainty.None },
        { "seen before: a time that another one has as well", Certainty.None },
        { "seen before: another time", Certainty.None },
        { "seen before: two of them", Certainty.None },
        { "seen before: two of them, one on a drive that is away", Certainty.None },
        { "document alone: in place, written otherwise", Certainty.OnlyOneThatFits },
        { "document alone: folder agrees", Certainty.None },
        { "document alone: other folder", Certainty.None },
        { "document alone: length in frames", Certainty.None },
        { "identity known, found not read", Certainty.None },
        { "other rate", Certainty.None },
    };

    [Theory]
    [MemberData(nameof(Cases))]
    public void RulesMakeCertain(string what, Certainty certainty)
    {
        var stated = new StatedLength(0.1, 48000);
        (LostFile Lost, FoundFile[] Found) Case() => what switch
        {
            "same bytes, other name" => (Lost(Sound(), Noted(1)), [Found("/x/else.wav", noted: Noted(1))]),
            "same sound, other words around it" => (Lost(Sound(), Noted(1)), [Found("/x/tide.wav", Sound(15_000), Noted(1) with { Bytes = 9 })]),
            "same samples, other format" => (Lost(Sound(), Noted(1)), [Found("/x/tide.flac", Sound(9_000, container: "FLAC"), new NotedIdentities(7, new SoundIdentity(8), new SampleIdentity(1)))]),
            "same name, other sound" => (Lost(Sound(), Noted(1)), [Found("/x/tide.wav", Sound(samples: 5000), Noted(2))]),
            "same name, length and format, other sound" => (Lost(Sound(), Noted(1)), [Found("/shelf2/Sea/low/tide.wav", noted: Noted(2))]),
            "same silence, other name" => (Lost(Sound(), Noted(1, silent: true)), [Found("/x/else.wav", noted: Noted(1, silent: true))]),
            "same silence, same name" => (Lost(Sound(), Noted(1, silent: true)), [Found("/x/tide.wav", noted: Noted(1, silent: true))]),
            "seen before: size, time and name" => (Lost(Sound()), [Found("/x/tide.wav")]),
            "seen before: time in seconds, other folder" => (Lost(Sound() with { ModifiedUtc = InSeconds }), [Found("/x/tide.wav", Sound() with { ModifiedUtc = InSeconds })]),
            "seen before: time in seconds, folder of that name" => (Lost(Sound() with { ModifiedUtc = InSeconds }), [Found("/x/low/tide.wav", Sound() with { ModifiedUtc = InSeconds })]),
            "seen before: time in seconds, kept closer by one of the drives" => (Lost(Sound()), [Found("/x/tide.wav", Sound() with { ModifiedUtc = InSeconds })]),
            "seen before: a time that another one has as well" => (Lost(Sound()), [Found("/x/low/tide.wav"), Found("/x/low/ebb.wav")]),
            "seen before: another time" => (Lost(Sound()), [Found("/shelf2/Sea/low/tide.wav", Sound(days: 3))]),
            "seen before: two of them" => (Lost(Sound()), [Found("/x/tide.wav"), Found("/y/tide.wav")]),
            "seen before: two of them, one on a drive that is away" => (Lost(Sound()), [Found("/x/tide.wav"), Found("/card/tide.wav", isThere: false)]),
            "document alone: in place, written otherwise" => (Lost(stated: stated), [Found("/shelf/SEA/low/Tide.wav")]),
            "document alone: folder agrees" => (Lost(stated: stated), [Found("/other/Sea/low/tide.wav")]),
            "document alone: other folder" => (Lost(stated: stated), [Found("/other/tide.wav")]),
            "document alone: length in frames" => (Lost(stated: new StatedLength(0.1, 25)), [Found("/other/Sea/low/tide.wav")]),
            "identity known, found not read" => (Lost(Sound(), Noted(1)), [Found("/x/tide.wav")]),
            "other rate" => (Lost(Sound()), [Found("/x/tide.wav", Sound(rate: 44100))]),
            _ => throw new ArgumentOutOfRangeException(nameof(what), what, "There is no such case."),
        };
        var (lost, found) = Case();
        var matches = Matcher.Of(lost, found);
        Assert.Equal(certainty, matches.All[0].Certainty);
        // Of two that fit as well, reading tells whether they are one.
        Assert.Equal(what is "identity known, found not read" or "seen before: two of them" or "seen before: two of them, one on a drive that is away", matches.All[0].IsWorthReading(lost));
        // What is known to be another sound is shown as that, and is no answer to where the file is.
        Assert.Equal(what.Contains("other sound", StringComparison.Ordinal), matches.Best is null);
        Assert.Equal(what.Contains("other sound", StringComparison.Ordinal), matches.Whereabouts == Whereabouts.AnotherVersion);
    }

    /// <summary>Recorded, or written, after the document was saved last: it cannot be the file that the document was saved with, whatever agrees.</summary>
    [Theory]
    [InlineData(0, null, true)]
    [InlineData(-400, null, true)]
    [InlineData(1, null, false)]
    [InlineData(400, null, false)]
    [InlineData(0, "2026-10-14|20:00:00", true)]
    [InlineData(0, "2026-10-15|09:59:00", true)]
    [InlineData(0, "2026-10-15|10:01:00", false)]
    [InlineData(0, "2026:11:20|08-00-00", false)]
    [InlineData(-400, "2027-01-01|00:00:00", false)]
    [InlineData(0, "no date|at all", true)]
    public void WhatWasRecordedAfterTheSaveIsAnother(int minutes, string? made, bool isCertain)
    {
        var lost = Lost(stated: new StatedLength(0.1, 48000)) with { SavedUtc = Then };
        var found = Found("/shelf/sea/low/tide.wav", Sound() with { ModifiedUtc = Then.AddMinutes(minutes) }, made is null ? null : NotedIdentities.None with { Origin = $"recorder|ref|{made}" });
        var match = Matcher.Of(lost, [found]).Best!;
        Assert.Equal(isCertain ? Certainty.OnlyOneThatFits : Certainty.None, match.Certainty);
        Assert.Equal(isCertain ? Verdict.Unknown : Verdict.Differs, match[EvidenceKind.Age]);
        // Neighbours that moved along are of the same evening, and do not help.
        var neighbours = Enumerable.Range(0, 9).Select(n => (Lost: Lost(stated: new StatedLength(0.1 + (n * 0.01), 48000), path: $"/shelf/Sea/Audio/tide {n} low.wav") with { SavedUtc = Then },
            Found: Found($"/other/Sea/Audio/tide {n} low.wav", found.Known with { LengthSamples = 4800 + (480 * n) }, found.Noted))).ToList();
        Assert.Equal(isCertain ? 9 : 0, FolderMoves.Along([.. neighbours.Select(n => Matcher.Of(n.Lost, neighbours.Select(m => m.Found)))]).Count(m => m.Best!.IsCertain));
        // The very bytes are the file whenever they were written.
        Assert.Equal(Certainty.SameBytes, Matcher.Of(lost with { Noted = Noted(1) }, [found with { Noted = Noted(1) }]).Best!.Certainty);
    }

    /// <summary>Cut, lengthened, at another rate or in fewer bits, under its very name: no answer by itself, and not without a trace.</summary>
    [Fact]
    public void AnotherVersionOfItIsShown()
    {
        var lost = Lost(Sound(), Noted(1));
        foreach (var known in new[] { Sound(samples: 2000), Sound(samples: 9000), Sound(rate: 44100), Sound() with { BitsPerSample = 16 } })
        {
            var matches = Matcher.Of(lost, [Found("/x/tide.wav", known, Noted(2)), Found("/x/else.wav", Sound(), Noted(3))]);
            Assert.Null(matches.Best);
            Assert.Equal(("/x/tide.wav", Whereabouts.AnotherVersion), (matches.Shown!.File.Path, matches.Whereabouts));
            Assert.False(matches.Shown.IsCertain);
        }
        // Another session's take has the name by right.
        Assert.Equal(Whereabouts.NoTrace, Matcher.Of(lost, [Found("/x/tide.wav", noted: Noted(2)) with { IsOfOtherSession = true }]).Whereabouts);
        Assert.Equal(Whereabouts.NoTrace, Matcher.Of(lost, [Found("/x/else.wav", noted: Noted(2))]).Whereabouts);
    }

    /// <summary>Two unread copies of one sound are one file once they were read, and two others stay two.</summary>
    [Theory]
    [InlineData(1, 1, true)]
    [InlineData(1, 2, false)]
    public void RivalsThatAreTheSameAreOne(int one, int other, bool isCertain)
    {
        var lost = Lost(Sound());
        FoundFile[] unread = [Found("/x/tide.wav"), Found("/y/tide.wav")];
        Assert.All(Matcher.Of(lost, unread).All, m => Assert.True(m.IsRival && m.IsWorthReading(lost)));
        FoundFile[] read = [unread[0] with { Noted = Noted(one) }, unread[1] with { Noted = Noted(other) }];
        Assert.All(Matcher.Of(lost, read).All, m => Assert.False(m.IsWorthReading(lost)));
        Assert.Equal(isCertain, Matcher.Of(lost, read).Best!.IsCertain);
        // Alone, and fitting by itself, one needs no reading.
        Assert.False(Matcher.Of(lost, [unread[0]]).All[0].IsWorthReading(lost));
    }

    /// <summary>A file of the very name comes before one that is merely as long; and not where its length is another.</summary>
    [Fact]
    public void TheVeryNameComesBeforeTheSameLength()
    {
        var lost = Lost(stated: new StatedLength(0.1, 48000), path: "/shelf/Sea/low/tide.wav");
        var asLong = Found("/shelf/Sea/low/other.wav", Sound());
        Assert.Equal("/z/tide.wav", Matcher.Of(lost, [asLong, Found("/z/tide.wav", KnownFile.Of(900, Then, null))]).Best!.File.Path);
        Assert.Equal(asLong.Path, Matcher.Of(lost, [asLong, Found("/z/tide.wav", Sound(samples: 9000))]).Best!.File.Path);
    }

    private static readonly ContentHash One = ContentHash.Of([1]);
    private static readonly ContentHash Two = ContentHash.Of([2]);

    private static FoundFile Kept(string name, ContentHash content, long bytes = 14_400) =>
        Found($"/vault/backups/one/{name}", KnownFile.Of(bytes, Then, null), isKept: true) with { Copy = new KeptCopy("the backup", "/vault/content", null, content, bytes, Then, null) };

    /// <summary>A copy in a backup is certain by its SHA-512 alone, whatever it is called; by its name and size it may be the one, and comes before what is merely alike.</summary>
    [Fact]
    public void ACopyInABackupIsCertainByItsContentAlone()
    {
        var lost = Lost(Sound(), Noted(1)) with { Content = One };
        Assert.Equal(Certainty.SameBytes, Matcher.Of(lost, [Kept("else.wav", One)]).All[0].Certainty);
        Assert.Equal(Whereabouts.Kept, Matcher.Of(lost, [Kept("else.wav", One)]).Whereabouts);
        Assert.Equal(Certainty.None, Matcher.Of(lost, [Kept("tide.wav", Two)]).All[0].Certainty);
        Assert.Equal(Certainty.None, Matcher.Of(lost with { Content = null }, [Kept("tide.wav", One)]).All[0].Certainty);
        // What is alike in all but its name would score higher.
        Assert.Equal("tide.wav", Matcher.Of(lost with { Content = null }, [Found("/sessions/one/tide 2.wav"), Kept("tide.wav", One)]).All[0].File.Name);
        // It is read for its bytes where these can tell, and size and what is known of them leave it open.
        Assert.True(Matcher.Of(lost with { Content = null }, [Kept("tide.wav", One)]).All[0].IsWorthReading(lost));
        Assert.False(Matcher.Of(lost, [Kept("tide.wav", Two)]).All[0].IsWorthReading(lost));
        Assert.False(Matcher.Of(lost with { Content = null }, [Kept("tide.wav", One, 99)]).All[0].IsWorthReading(lost));
        // Beside it, the only other file that fits is still the only one.
        Assert.Equal(Certainty.OnlyOneThatFits, Matcher.Of(Lost(Sound()), [Found("/x/tide.wav"), Kept("tide.wav", One)]).All[0].Certainty);
    }

    /// <summary>Of files that are surely it, one that can be had comes first, and one to work with before one that is kept for safety.</summary>
    [Fact]
    public void OfTheSameFilesTheHandiestIsFirst()
    {
        var matches = Matcher.Of(Lost(Sound(), Noted(1)), [Found("/away/tide.wav", noted: Noted(1), isThere: false), Found("/vault/tide.wav", noted: Noted(1), isKept: true), Found("/here/other.wav", noted: Noted(1))]);
        Assert.Equal(["/here/other.wav", "/vault/tide.wav", "/away/tide.wav"], matches.All.Select(m => m.File.Path));
    }

    private static Matches Document(string lost, int samples, params FoundFile[] found) => Matcher.Of(Lost(stated: new StatedLength(samples / 48000.0, 48000), path: lost), found);

    /// <summary>Three neighbours of different lengths in one new place tell where the fourth is, where a folder above is called the same; one alone does not.</summary>
    [Theory]
    [InlineData(4, 1, "/old/Bells", "/shelf/Bells", Certainty.MovedTogether)]
    [InlineData(40, 1, "/old/Bells", "/shelf/Bells", Certainty.None, "bell {0}.wav")]
    [InlineData(40, 1, "/old/Bells", "/shelf/Bells", Certainty.None, "bell_{0} (2).wav")]
    [InlineData(2, 1, "/old/Bells", "/shelf/Bells", Certainty.None)]
    [InlineData(4, 0, "/old/Bells", "/shelf/Bells", Certainty.None)]
    [InlineData(4, 1, "/old/Taken", "/sessions/two/Audio", Certainty.None)]
    [InlineData(4, 1, "/old/Audio", "/sessions/two/Audio", Certainty.None)]
    [InlineData(4, 1, "/old/audio", "/sessions/two/Audio", Certainty.None)]
    [InlineData(40, 1, "/shelf/Bells", "/shelf/Bells and buoys", Certainty.None)]
    [InlineData(40, 1, "/packs/A/Samples/Kit 2", "/packs/B/Samples/Kit 2", Certainty.None)]
    [InlineData(40, 1, "/packs/A/Bells/Kit 2", "/packs/B/Bells/Kit 2", Certainty.MovedTogether)]
    [InlineData(8, 1, "/old/Bells", "/shelf/Bells and buoys", Certainty.None)]
    [InlineData(8, 1, "/sessions/one/Audio", "/sessions/one/Takes", Certainty.None)]
    public void NeighboursThatMovedTogetherTell(int files, int longer, string from, string to, Certainty certainty, string name = "bell {0} low.wav")
    {
        var matches = Enumerable.Range(0, files).Select(n => Document($"{from}/{Name(n)}", 4800 + (n * longer), Found($"{to}/{Name(n)}", Sound(samples: 4800 + (n * longer)))));
        Assert.All(FolderMoves.Along([.. matches]), m => Assert.Equal(certainty, m.Best!.Certainty));
        string Name(int n) => string.Format(System.Globalization.CultureInfo.InvariantCulture, name, n);
    }

    /// <summary>What merely counts proves nothing, and is carried along by three neighbours that are called by more.</summary>
    [Theory]
    [InlineData(3, Certainty.MovedTogether)]
    [InlineData(2, Certainty.None)]
    public void NamesThatCountAreCarriedByOthers(int called, Certainty certainty)
    {
        var names = Enumerable.Range(0, called).Select(n => $"bell {n} low.wav").Append("bell 01.wav").Append("bell 02.wav").ToList();
        var matches = names.Select((name, n) => Document($"/old/Bells/{name}", 4800 + n, Found($"/shelf/Bells/{name}", Sound(samples: 4800 + n))));
        Assert.All(FolderMoves.Along([.. matches]), m => Assert.Equal(certainty, m.Best!.Certainty));
    }

    /// <summary>One whose sound is known carries its neighbours along, whatever the folder is called now; one that is known to be another, or is silence, carries none.</summary>
    [Theory]
    [InlineData(1, false, Certainty.MovedTogether)]
    [InlineData(2, false, Certainty.None)]
    [InlineData(1, true, Certainty.None)]
    public void OneKnownSoundCarriesItsNeighbours(int noted, bool isSilent, Certainty certainty)
    {
        var neighbours = Enumerable.Range(0, 3).Select(n => Document($"/shelf/Bells/bell {n}.wav", 4800 + n, Found($"/shelf/Bells and buoys/bell {n}.wav", Sound(samples: 4800 + n))));
        var known = Matcher.Of(Lost(Sound(), Noted(1, isSilent), path: "/shelf/Bells/tide.wav"), [Found("/shelf/Bells and buoys/tide.wav", noted: Noted(noted, isSilent))]);
        Assert.All(FolderMoves.Along([.. neighbours, known]).Take(3), m => Assert.Equal(certainty, m.Best!.Certainty));
    }

    /// <summary>Of which a sound is known, that one is asked for and not its neighbours: it stays to be read, while they moved together.</summary>
    [Fact]
    public void AKnownSoundIsNotMadeCertainByItsNeighbours()
    {
        var neighbours = Enumerable.Range(0, 8).Select(n => Document($"/old/Bells/bell {n} low.wav", 4800 + n, Found($"/shelf/Bells/bell {n} low.wav", Sound(samples: 4800 + n))));
        // By its format and length in a document it would fit; what it holds was noted once, and nobody read the one that stands there.
        var known = Matcher.Of(
            Lost(null, Noted(1), new StatedLength(4900 / 48000.0, 48000), path: "/old/Bells/tide low.wav"), [Found("/shelf/Bells/tide low.wav", Sound(samples: 4900))]);
        var judged = FolderMoves.Along([.. neighbours, known]);
        Assert.All(judged.Take(8), m => Assert.Equal(Certainty.MovedTogether, m.Best!.Certainty));
        Assert.Equal(Certainty.None, judged[8].Best!.Certainty);
    }

    /// <summary>What stands in another session's folder is at most to compare, by every rule without an identity; an identity still tells.</summary>
    [Fact]
    public void AnotherSessionsFileIsCertainByItsIdentityAlone()
    {
        FoundFile Theirs(string path, KnownFile? known = null, NotedIdentities? noted = null) => Found(path, known, noted) with { IsOfOtherSession = true };
        Assert.All(
            FolderMoves.Along([.. Enumerable.Range(0, 4).Select(n => Document($"/old/Bells/bell {n} low.wav", 4800 + n, Theirs($"/sessions/two/Bells/bell {n} low.wav", Sound(samples: 4800 + n))))]),
            m => Assert.False(m.Best!.IsCertain));
        Assert.False(Matcher.Of(Lost(Sound()), [Theirs("/sessions/two/tide.wav")]).Best!.IsCertain);
        Assert.False(Document("/sessions/two/Sea/low/tide.wav", 4800, Theirs("/sessions/two/sea/low/tide.wav")).Best!.IsCertain);
        Assert.Equal(Certainty.SameBytes, Matcher.Of(Lost(Sound(), Noted(1)), [Theirs("/sessions/two/tide.wav", noted: Noted(1))]).Best!.Certainty);
        // It is a rival of one that stands elsewhere all the same.
        Assert.False(Matcher.Of(Lost(Sound()), [Theirs("/sessions/two/tide.wav"), Found("/x/tide.wav")]).Best!.IsCertain);
    }

    /// <summary>One found file that two missing ones may be is certain for neither, and each is told of the other.</summary>
    [Fact]
    public void OneFileIsNotCertainForTwo()
    {
        var there = Found("/shelf/Sea/low/tide_.wav");
        var (colon, question) = ("/shelf/Sea/low/tide%3A.wav", "/shelf/Sea/low/tide%3F.wav");
        Assert.True(Assert.Single(FolderMoves.Along([Document(colon, 4800, there)])).Best!.IsCertain);
        var both = FolderMoves.Along([Document(colon, 4800, there), Document(question, 4800, there)]);
        Assert.All(both, m => Assert.Equal(Certainty.None, m.Best!.Certainty));
        Assert.Equal([question], both[0].Best!.AlsoWantedAt);
        Assert.Equal([colon], both[1].Best!.AlsoWantedAt);
        // Of another length it is not the other one, and of an unknown length it may be.
        Assert.True(FolderMoves.Along([Document(colon, 4800, there), Document(question, 9600, there)])[0].Best!.IsCertain);
        Assert.False(FolderMoves.Along([Document(colon, 4800, there), Matcher.Of(Lost(path: question), [there])])[0].Best!.IsCertain);
        // Where an identity says which one it is, that one has it.
        var known = FolderMoves.Along([Document(colon, 4800, there with { Noted = Noted(1) }), Matcher.Of(Lost(Sound(), Noted(1), path: question), [there with { Noted = Noted(1) }])]);
        Assert.Equal([Certainty.None, Certainty.SameBytes], known.Select(m => m.Best!.Certainty));
        // Two of one name that stand where each should be are not in each other's way.
        FoundFile[] sides = [Found("/new/Pack/Left/x.wav"), Found("/new/Pack/Right/x.wav")];
        Assert.All(FolderMoves.Along([Document("/new/pack/left/x.wav", 4800, sides), Document("/new/pack/right/x.wav", 4800, sides)]), m => Assert.True(m.Best!.IsCertain));
        // Where one of them is gone, the other one may be either.
        Assert.All(FolderMoves.Along([Document("/new/pack/left/x.wav", 4800, sides[0]), Document("/new/pack/right/x.wav", 4800, sides[0])]), m => Assert.False(m.Best!.IsCertain));
    }

    /// <summary>Another session's takes have the same names and other lengths: they did not move along, however many there are.</summary>
    [Fact]
    public void WhatHasAnotherLengthDidNotMoveAlong()
    {
        var matches = Enumerable.Range(1, 6).Select(n => Matcher.Of(
            Lost(stated: new StatedLength(0.1, 48000), path: $"/one/Audio/Cello {n}.wav"), [Found($"/other/Audio/Cello {n}.wav", Sound(samples: 9000)), Found($"/card/VC_{n}.flac", Sound(9_000, container: "FLAC"))]));
        Assert.All(FolderMoves.Along([.. matches]), m => Assert.Equal("/card", Path.GetDirectoryName(m.Best!.File.Path)));
    }

    [Fact]
    public void OfSeveralPlacesTheOneThatTheNeighboursMovedToIsFirst()
    {
        var stated = new StatedLength(0.1, 48000);
        var sure = Enumerable.Range(0, 5).Select(n => Matcher.Of(Lost(stated: stated, path: $"/old/Bells/bell {n}.wav"), [Found($"/z/new/Bells/bell {n}.wav")]));
        var torn = Matcher.Of(Lost(stated: stated, path: "/old/Bells/Audio 01.wav"), [Found("/a/Bells/Audio 01.wav"), Found("/z/new/Bells/Audio 01.wav")]);
        Assert.Equal("/a/Bells/Audio 01.wav", torn.Best!.File.Path);
        var along = FolderMoves.Along([.. sure, torn]);
        Assert.Equal("/z/new/Bells/Audio 01.wav", along[^1].Best!.File.Path);
        var moved = FolderMoves.Of(along)[0];
        Assert.Equal((new FolderMove("/old", "/z/new"), 6), (moved.Move, moved.Files.Length));
    }
}
