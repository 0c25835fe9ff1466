using NeatCrate.StandIns.Demo;

namespace NeatCrate.StandIns.Record;

/// <summary>What a player plays into the recorder for as long as it runs: a phrase of the song, over and over, each take a little different.</summary>
internal sealed class TakeSound
{
    private const double PhraseSeconds = 8;

    private readonly float[] _phrase;
    private int _at;

    /// <param name="song">Name of the session's song; one that the demo does not know is played as <em>Net Mender</em>.</param>
    /// <param name="track">Name of the track, which tells the instrument.</param>
    /// <param name="take">Number of the take.</param>
    /// <param name="rate">Sample rate in Hz.</param>
    public TakeSound(string song, string track, int take, int rate)
    {
        var played = Song.All.FirstOrDefault(s => song.Contains(s.Name, StringComparison.OrdinalIgnoreCase)) ?? Song.NetMender;
        var voice = Player(track);
        var seed = Noise.Seed($"{song}/{track}/{take}");
        _phrase = Synthesiser.Render(voice, played.Part(voice, PhraseSeconds, seed), (int)(PhraseSeconds * rate), rate, seed);
        for (var i = 0; i < _phrase.Length; i++)
        {
            _phrase[i] = MathF.Tanh(_phrase[i]);
        }
    }

    /// <summary>The next samples, from -1 to 1.</summary>
    public void Next(Span<float> to)
    {
        while (!to.IsEmpty)
        {
            var count = Math.Min(to.Length, _phrase.Length - _at);
            _phrase.AsSpan(_at, count).CopyTo(to);
            to = to[count..];
            _at = (_at + count) % _phrase.Length;
        }
    }

    private static Voice Player(string track)
    {
        bool Is(params string[] words) => words.Any(w => track.Contains(w, StringComparison.OrdinalIgnoreCase));
        return Is("gurdy") ? Voice.HurdyGurdy
            : Is("cello") ? Voice.Cello
            : Is("voice", "vocal", "sing") ? Voice.Hum
            : Is("drum", "hand", "percussion") ? Voice.Drum
            : Voice.Plucked;
    }
}
