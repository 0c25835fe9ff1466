namespace NeatCrate.StandIns.Demo;

/// <summary>A song of the demo: what each player plays.</summary>
/// <param name="Name">Name of the song.</param>
/// <param name="Date">Date of its session, as YYMMDD.</param>
/// <param name="Tempo">Beats per minute.</param>
/// <param name="TimeSignature">Time signature.</param>
/// <param name="Root">Pitch of the drone in Hz.</param>
/// <param name="Melody">Steps of the scale, one a beat; a step below 0 rests.</param>
internal sealed record Song(string Name, string Date, double Tempo, string TimeSignature, double Root, int[] Melody)
{
    // Dorian: what a hurdy-gurdy's keys give over its drone.
    private static readonly double[] Scale = [1, 9 / 8.0, 6 / 5.0, 4 / 3.0, 3 / 2.0, 5 / 3.0, 16 / 9.0];

    public static Song LowWater { get; } = new("Low Water", "261005", 66, "3/4", 73.42, [0, 4, 3, 2, 4, 5, 4, -1, 3, 2, 1, 0, 2, 1, 0, -1]);

    public static Song TarAndTwine { get; } = new("Tar and Twine", "261008", 104, "6/8", 82.41, [0, 2, 4, 4, 3, 2, 3, 1, -1, 1, 2, 3, 4, 5, 4, 2]);

    public static Song TheNinthBell { get; } = new("The Ninth Bell", "261012", 58, "4/4", 65.41, [4, -1, 3, 2, 0, -1, 1, 2, 4, 5, 4, -1, 2, 1, 0, -1]);

    public static Song NetMender { get; } = new("Net Mender", "261014", 92, "6/8", 73.42, [0, 1, 2, 0, 4, 3, 2, 1, 2, 3, 4, 2, 5, 4, 2, 0]);

    public static Song FogSignal { get; } = new("Fog Signal", "261019", 50, "4/4", 61.74, [0, -1, -1, 0, 2, -1, -1, 1, 0, -1, -1, 4, 3, -1, 1, 0]);

    /// <summary>The organ at the chapel, by a visiting engineer.</summary>
    public static Song Breakwater { get; } = new("Breakwater", "261110", 54, "4/4", 65.41, [0, 2, 4, -1, 3, 1, 2, -1, 4, 5, 6, -1, 4, 2, 0, -1]);

    /// <summary>A small loop of hers.</summary>
    public static Song FerryBellLoop { get; } = new("Ferry Bell Loop", "261112", 90, "4/4", 98, [0, -1, 4, -1, 2, -1, 4, -1]);

    /// <summary>Where the timelines of all sessions start, in seconds since midnight: at one o'clock, as is common practice.</summary>
    public const int SessionStart = 3600;

    /// <summary>All songs of the EP.</summary>
    public static IReadOnlyList<Song> All { get; } = [LowWater, TarAndTwine, TheNinthBell, NetMender, FogSignal];

    /// <summary>Name of its folder and its document.</summary>
    public string Folder => $"{Date} {Name}";

    /// <summary>The midnight that its takes count their time from.</summary>
    public DateTime Day => DateTime.ParseExact("20" + Date, "yyyyMMdd", System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>What a player plays in one take; every take is a little different.</summary>
    public IEnumerable<Note> Part(Voice voice, double seconds, ulong seed)
    {
        var feel = new Noise(seed ^ 0x5EED);
        var beat = 60 / Tempo;
        var octave = voice switch { Voice.Cello => 2, Voice.Hum => 4, Voice.HurdyGurdy => 4, Voice.Plucked => 4, _ => 1 };
        if (voice == Voice.HurdyGurdy)
        {
            yield return new Note(0, seconds, Root * 2, .5);
            yield return new Note(0, seconds, Root * 3, .3);
        }
        for (var n = 0; n * beat < seconds - .1; n++)
        {
            var step = Melody[n % Melody.Length];
            var start = Math.Max(0, (n * beat) + (.012 * feel.Next()));
            var loudness = .75 + (.2 * feel.Next());
            if (voice == Voice.Drum)
            {
                yield return new Note(start, .6, n % 3 == 0 ? 78 : 118, n % 3 == 0 ? loudness : loudness * .55);
            }
            else if (step >= 0 && (voice != Voice.Cello || n % 2 == 0))
            {
                var held = voice == Voice.Cello ? 2 * beat : beat;
                var pitch = Root * octave * Scale[step % Scale.Length] * (1 + (.0015 * feel.Next()));
                yield return new Note(start, Math.Min(held * .97, seconds - start), pitch, loudness);
            }
        }
    }
}
