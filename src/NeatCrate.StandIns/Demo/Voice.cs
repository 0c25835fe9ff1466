namespace NeatCrate.StandIns.Demo;

/// <summary>What makes the sound.</summary>
internal enum Voice
{
    /// <summary>Hurdy-gurdy: a drone and a buzzing melody string.</summary>
    HurdyGurdy,

    /// <summary>Cello: bowed, with vibrato.</summary>
    Cello,

    /// <summary>A voice humming.</summary>
    Hum,

    /// <summary>A string plucked with a finger.</summary>
    Plucked,

    /// <summary>A frame drum.</summary>
    Drum,

    /// <summary>A bottle struck with a stick.</summary>
    Bottle,

    /// <summary>A bell on a buoy.</summary>
    Bell,

    /// <summary>The tide on shingle.</summary>
    Tide,

    /// <summary>A rope under load.</summary>
    Rope,
}

/// <summary>A note: start and length in seconds, pitch in Hz, loudness from 0 to 1.</summary>
internal readonly record struct Note(double Start, double Length, double Pitch, double Loudness);

/// <summary>Turns notes into samples, the same ones every time.</summary>
internal static class Synthesiser
{
    private const int TableSize = 4096;

    private static readonly double[] Sine = Table([1]);
    private static readonly double[] Bowed = Table([1, .62, .41, .33, .2, .16, .11, .08, .06, .04]);
    private static readonly double[] Buzzing = Table([.7, .5, .62, .4, .45, .3, .28, .22, .2, .16, .14, .1, .08]);
    private static readonly double[] Humming = Table([1, .45, .12, .2, .09, .03]);

    // Partials of struck things stand in no whole ratios: those of a bar, a bell and a bottle differ.
    private static readonly (double Ratio, double Level, double Decay)[] BellPartials =
        [(0.5, .5, .5), (1, 1, .8), (1.19, .6, 1), (1.5, .4, 1.3), (2, .7, 1.6), (2.67, .3, 2.4), (3.01, .25, 3)];

    private static readonly (double Ratio, double Level, double Decay)[] BottlePartials = [(1, 1, 7), (2.71, .35, 12), (5.15, .15, 18)];

    /// <summary>Renders notes to samples from -1 to 1.</summary>
    /// <param name="voice">What makes the sound.</param>
    /// <param name="notes">What it plays.</param>
    /// <param name="samples">Length in samples.</param>
    /// <param name="rate">Sample rate in Hz.</param>
    /// <param name="seed">Seed of all that is left to chance.</param>
    public static float[] Render(Voice voice, IEnumerable<Note> notes, int samples, int rate, ulong seed)
    {
        var sound = new float[samples];
        var noise = new Noise(seed);
        foreach (var note in notes)
        {
            var from = (int)(note.Start * rate);
            var length = Math.Min((int)(note.Length * rate), samples - from);
            if (from < 0 || length <= 0)
            {
                continue;
            }
            Play(voice, note, sound.AsSpan(from, length), rate, noise);
        }
        return sound;
    }

    private static void Play(Voice voice, Note note, Span<float> to, int rate, Noise noise)
    {
        switch (voice)
        {
            case Voice.HurdyGurdy:
                Sustained(Buzzing, note, to, rate, noise, attack: .03, vibrato: .001, breath: .02);
                break;
            case Voice.Cello:
                Sustained(Bowed, note, to, rate, noise, attack: .12, vibrato: .005, breath: .015);
                break;
            case Voice.Hum:
                Sustained(Humming, note, to, rate, noise, attack: .09, vibrato: .007, breath: .03);
                break;
            case Voice.Plucked:
                Struck([(1, 1, 3), (2, .5, 5), (3, .3, 7), (4, .12, 9)], note, to, rate, noise, click: .15);
                break;
            case Voice.Drum:
                Drum(note, to, rate, noise);
                break;
            case Voice.Bottle:
                Struck(BottlePartials, note, to, rate, noise, click: .2);
                break;
            case Voice.Bell:
                Struck(BellPartials, note, to, rate, noise, click: .05);
                break;
            case Voice.Tide:
                Tide(note, to, rate, noise);
                break;
            case Voice.Rope:
                Rope(note, to, rate, noise);
                break;
            default:
                throw new ArgumentOutOfRangeException(nameof(voice), voice, null);
        }
    }

    private static void Sustained(double[] table, Note note, Span<float> to, int rate, Noise noise, double attack, double vibrato, double breath)
    {
        var (phase, rough) = (0.0, 0.0);
        var release = Math.Min(.12 * rate, to.Length / 2.0);
        for (var i = 0; i < to.Length; i++)
        {
            var t = i / (double)rate;
            var depth = vibrato * Math.Min(1, t * 3);
            phase += note.Pitch * (1 + (depth * Lookup(Sine, t * 5.3))) / rate;
            rough += (noise.Next() - rough) * .2;
            var envelope = Math.Min(1, t / attack) * Math.Min(1, (to.Length - i) / release);
            to[i] += (float)(note.Loudness * envelope * ((.22 * Lookup(table, phase)) + (breath * rough)));
        }
    }

    private static void Struck((double Ratio, double Level, double Decay)[] partials, Note note, Span<float> to, int rate, Noise noise, double click)
    {
        foreach (var (ratio, level, decay) in partials)
        {
            var (phase, envelope) = (0.0, note.Loudness * level * .3);
            var fade = Math.Exp(-decay / rate);
            var step = note.Pitch * ratio / rate;
            for (var i = 0; i < to.Length; i++)
            {
                to[i] += (float)(envelope * Lookup(Sine, phase));
                phase += step;
                envelope *= fade;
            }
        }
        var burst = Math.Min(to.Length, rate / 100);
        for (var i = 0; i < burst; i++)
        {
            to[i] += (float)(note.Loudness * click * noise.Next() * (1 - (i / (double)burst)));
        }
    }

    private static void Drum(Note note, Span<float> to, int rate, Noise noise)
    {
        var (phase, skin) = (0.0, 0.0);
        for (var i = 0; i < to.Length; i++)
        {
            var t = i / (double)rate;
            phase += note.Pitch * (1 + (.8 * Math.Exp(-t * 40))) / rate;
            skin += (noise.Next() - skin) * .35;
            to[i] += (float)(note.Loudness * ((.55 * Lookup(Sine, phase) * Math.Exp(-t * 9)) + (.3 * skin * Math.Exp(-t * 45))));
        }
    }

    private static void Tide(Note note, Span<float> to, int rate, Noise noise)
    {
        var (low, lower) = (0.0, 0.0);
        for (var i = 0; i < to.Length; i++)
        {
            var t = i / (double)rate;
            var swell = Math.Pow(.5 - (.5 * Lookup(Sine, (t / note.Length) + .25)), 1.5);
            low += (noise.Next() - low) * (.05 + (.25 * swell));
            lower += (low - lower) * .01;
            to[i] += (float)(note.Loudness * swell * .9 * (low - lower));
        }
    }

    private static void Rope(Note note, Span<float> to, int rate, Noise noise)
    {
        // Stick and slip: short strokes of a low resonance, closer together as the load grows.
        var (next, age) = (0.0, 1.0);
        for (var i = 0; i < to.Length; i++)
        {
            var t = i / (double)rate;
            if (t >= next)
            {
                next = t + .012 + (.05 * (1 - (t / note.Length))) + (.01 * noise.Next());
                age = 0;
            }
            age += 1.0 / rate;
            to[i] += (float)(note.Loudness * .5 * Math.Exp(-age * 160) * (Lookup(Sine, age * note.Pitch * (1 + t)) + (.3 * noise.Next())));
        }
    }

    private static double Lookup(double[] table, double phase)
    {
        var at = (phase - Math.Floor(phase)) * TableSize;
        var index = (int)at;
        var fraction = at - index;
        return (table[index & (TableSize - 1)] * (1 - fraction)) + (table[(index + 1) & (TableSize - 1)] * fraction);
    }

    private static double[] Table(double[] harmonics)
    {
        var table = new double[TableSize];
        for (var i = 0; i < TableSize; i++)
        {
            for (var h = 0; h < harmonics.Length; h++)
            {
                table[i] += harmonics[h] * Math.Sin(2 * Math.PI * (h + 1) * i / TableSize);
            }
        }
        return table;
    }
}
