using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;

namespace NeatCrate.Core.Tests.Relink;

/// <summary>
/// Small worlds in which every sound is known to whoever made them, and to the matcher only what a studio would know: names, folders, lengths,
/// times, sessions, what is missing besides, and what was read, in every combination. Whatever is certain has to be the very sound.
/// </summary>
public sealed class WorldsOfTroubleTests(ITestOutputHelper output)
{
    private const int Files = 5;
    private const int Rate = 48_000;

    private static readonly DateTime Then = new DateTime(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc).AddTicks(1_234_567);
    private static readonly DateTime InSeconds = new(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc);

    /// <summary>How files are called: as takes and packs count them, as stems of every song, and as nothing else.</summary>
    private static readonly Dictionary<string, string[]> Names = new()
    {
        ["counting"] = ["Audio 01.wav", "Audio 02.wav", "Audio 03.wav", "Audio 04.wav", "Audio 05.wav"],
        ["counting by copies"] = ["Kick.wav", "Kick (2).wav", "Kick (3).wav", "Kick (4).wav", "Kick (5).wav"],
        ["counting by takes"] = ["Cello_01-03.wav", "Cello_01-04.wav", "Voice_02-01.wav", "Voice_02-02.wav", "Bow_7.wav"],
        ["as in every song"] = ["Bass.wav", "Drums.wav", "Keys.wav", "Voice.wav", "Strings.wav"],
        ["its own"] = ["tide that turns.wav", "net in the wind.wav", "fog over the quay.wav", "oar on stone.wav", "gull far off.wav"],
    };

    /// <summary>Where the missing ones should be, and where the found ones are.</summary>
    private static readonly Dictionary<string, (string From, string To)> Places = new()
    {
        ["another session, both 'Audio'"] = ("/sessions/one/Audio", "/elsewhere/two/Audio"),
        ["another song, both 'Stems'"] = ("/old/Song A/Stems", "/new/Song B/Stems"),
        ["two packs, both 'Samples/Drums'"] = ("/packs/A/Samples/Drums", "/packs/B/Samples/Drums"),
        ["two packs, both 'Kit 1'"] = ("/packs/A/Kit 1", "/packs/B/Kit 1"),
        ["two days, both 'Takes'"] = ("/card/Monday/Takes", "/card/Tuesday/Takes"),
        ["beside, another name"] = ("/packs/Bells", "/packs/Buoys"),
        ["nothing alike"] = ("/gone/taken", "/there/found"),
        ["a drive of another system"] = (@"E:\Recordings\Loops", "/library/Recordings/Loops"),
        ["the same folder of its own name"] = ("/old/Net Mender bells", "/new/Net Mender bells"),
        ["in place, written otherwise"] = ("/library/BELLS/low", "/library/Bells/low"),
    };

    private static readonly Dictionary<string, int[]> Lengths = new()
    {
        ["one length"] = [4800, 4800, 4800, 4800, 4800],
        ["two lengths"] = [4800, 9600, 4800, 9600, 4800],
        ["each its own"] = [4800, 5311, 7019, 9600, 12_345],
    };

    private static readonly string[] Knowledge = ["document", "document and its save", "seen, times in seconds", "seen, times closer", "identified"];

    /// <summary>What stands there: the sounds themselves, others of the same names and lengths, or nothing but what somebody recorded later.</summary>
    private static readonly string[] Truths = ["the same", "others", "others, recorded later", "the same and others beside", "others, of a known session", "all but one of the same", "one file for two"];

    private static readonly bool[] Readings = [false, true];

    private sealed record World(string Names, string Place, string Length, string Knowledge, string Truth, bool IsRead)
    {
        /// <summary>
        /// Another sound of exactly the length where the missing one should be, or with neighbours of their own names and lengths in a folder of its
        /// own name: another edition of the same thing, which nothing but an identity, or a time, tells apart.
        /// </summary>
        public bool IsAnotherEdition => Truth is "others" or "all but one of the same" && Knowledge is not ("identified" or "seen, times closer")
            && (Place == "in place, written otherwise"
                || (Place == "the same folder of its own name" && (Knowledge == "seen, times in seconds" || (Length == "each its own" && Names is "its own" or "as in every song"))));
    }

    private static IEnumerable<World> Worlds() =>
        from names in Names.Keys
        from place in Places.Keys
        from length in Lengths.Keys
        from knowledge in Knowledge
        from truth in Truths
        from isRead in Readings
        select new World(names, place, length, knowledge, truth, isRead);

    private sealed record Judged(World World, int Sound, Matches Matches, IReadOnlyDictionary<string, int> Sounds)
    {
        public bool IsCertain => Matches.Best is { IsCertain: true };

        public bool IsRight => Matches.Best is { } best && Sounds[best.File.Path] == Sound;
    }

    private static KnownFile Known(int samples, DateTime time) => new(44 + (3 * samples), time, "WAV", Rate, 1, 24, samples);

    private static NotedIdentities Noted(int sound) => new((UInt128)(1000 + sound), new SoundIdentity((UInt128)(1000 + sound)), new SampleIdentity((UInt128)(1000 + sound)));

    private static IEnumerable<Judged> Judge(World world)
    {
        var (names, place, lengths) = (Names[world.Names], Places[world.Place], Lengths[world.Length]);
        var saved = InSeconds.AddDays(3);
        // What a card or an archive wrote has one time for all; a drive keeps each one's own.
        DateTime Time(int n) => world.Knowledge == "seen, times in seconds" ? InSeconds : Then.AddSeconds(n).AddTicks(n * 7);
        var sounds = new Dictionary<string, int>(StringComparer.Ordinal);
        var found = new List<FoundFile>();
        void Put(string path, int sound, int samples, DateTime time, bool isOfOther = false)
        {
            sounds[path] = sound;
            found.Add(new FoundFile(path, Known(samples, time), world.IsRead ? Noted(sound) : NotedIdentities.None, true, false, null) { IsOfOtherSession = isOfOther });
        }
        for (var n = 0; n < Files; n++)
        {
            var path = $"{place.To}/{names[n]}";
            // Another sound was written at another time, but where all have that of an archive.
            var otherTime = world.Knowledge == "seen, times in seconds" ? InSeconds : Then.AddSeconds(n).AddTicks(500 + n);
            switch (world.Truth)
            {
                case "the same":
                    Put(path, n, lengths[n], Time(n));
                    break;
                case "others":
                    Put(path, 100 + n, lengths[n], otherTime);
                    break;
                case "others, recorded later":
                    Put(path, 100 + n, lengths[n], saved.AddHours(n + 1));
                    break;
                case "others, of a known session":
                    Put(path, 100 + n, lengths[n], otherTime, isOfOther: true);
                    break;
                case "the same and others beside":
                    Put(path, n, lengths[n], Time(n));
                    Put($"/twin{place.To}/{names[n]}", 100 + n, lengths[n], otherTime);
                    break;
                case "all but one of the same":
                    Put(path, n == 0 ? 100 : n, lengths[n], n == 0 ? otherTime : Time(n));
                    break;
                case "one file for two" when n % 2 == 0:
                    Put(path, n, lengths[n], Time(n));
                    break;
            }
        }
        LostFile Lost(string path, int sound, int n) => new(
            path,
            world.Knowledge.StartsWith("document", StringComparison.Ordinal) ? null : Known(lengths[n], Time(n)),
            world.Knowledge == "identified" ? Noted(sound) : NotedIdentities.None,
            new StatedLength(lengths[n] / (double)Rate, Rate), null, "/sessions/one")
        {
            SavedUtc = world.Knowledge == "document" && world.Truth != "others, recorded later" ? null : saved,
        };
        var separator = place.From.Contains('\\', StringComparison.Ordinal) ? '\\' : '/';
        List<LostFile> lost = [.. Enumerable.Range(0, Files).Select(n => Lost($"{place.From}{separator}{names[n]}", n, n))];
        List<int> wanted = [.. Enumerable.Range(0, Files)];
        if (world.Truth == "one file for two")
        {
            // The same names from another folder, of other sounds: one file may be either.
            lost.AddRange(Enumerable.Range(0, Files).Select(n => Lost($"{place.From} right{separator}{names[n]}", 200 + n, n)));
            wanted.AddRange(Enumerable.Range(0, Files).Select(n => 200 + n));
        }
        var judged = FolderMoves.Along([.. lost.Select(l => Matcher.Of(l, found))]);
        return judged.Zip(wanted, (m, sound) => new Judged(world, sound, m, sounds));
    }

    [Fact]
    public void WhatIsCertainIsTheVerySound()
    {
        var judged = Worlds().Where(w => !w.IsAnotherEdition).SelectMany(Judge).ToList();
        Print("names", judged, j => j.World.Names);
        Print("places", judged, j => j.World.Place);
        Print("lengths", judged, j => j.World.Length);
        Print("what is known", judged, j => j.World.Knowledge);
        Print("what stands there", judged, j => j.World.Truth);
        foreach (var wrong in judged.Where(j => j.IsCertain && !j.IsRight).GroupBy(j => j.World).Take(40))
        {
            output.WriteLine($"wrong: {wrong.Key}, {wrong.First().Matches.Best!.Certainty}");
        }
        Assert.Equal(0, judged.Count(j => j.IsCertain && !j.IsRight));
        Assert.InRange(judged.Count, 20_000, int.MaxValue);
        // Timid is allowed; blind is not: what is there is what is shown first, and what was identified and read is certain.
        var there = judged.Where(j => j.Sounds.Values.Contains(j.Sound)).ToList();
        Assert.InRange(there.Count(j => j.IsRight) / (double)there.Count, 0.85, 1);
        Assert.All(there.Where(j => j.World is { Knowledge: "identified", IsRead: true }), j => Assert.True(j is { IsCertain: true, IsRight: true }));
        Assert.InRange(judged.Count(j => j.IsCertain), 2_000, int.MaxValue);
    }

    private void Print(string what, List<Judged> judged, Func<Judged, string> kind)
    {
        output.WriteLine($"{what,-40} {"missing",8} {"exist",7} {"found",7} {"certain",8} {"wrong",6}");
        foreach (var group in judged.GroupBy(kind))
        {
            output.WriteLine(
                $"{group.Key,-40} {group.Count(),8} {group.Count(j => j.Sounds.Values.Contains(j.Sound)),7} {group.Count(j => j.IsRight),7} {group.Count(j => j.IsCertain),8} {group.Count(j => j.IsCertain && !j.IsRight),6}");
        }
    }
}
