namespace NeatCrate.StandIns.Demo;

/// <summary>Random numbers that are the same on every machine and in every version (SplitMix64).</summary>
internal sealed class Noise(ulong seed)
{
    private ulong _state = seed;

    /// <summary>A number from -1 to 1.</summary>
    public double Next()
    {
        _state += 0x9E3779B97F4A7C15;
        var z = _state;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
        z ^= z >> 31;
        return ((z >> 11) / (double)(1UL << 52)) - 1;
    }

    /// <summary>A seed that follows from a text.</summary>
    public static ulong Seed(string text)
    {
        // FNV-1a, 64 bits.
        var hash = 14695981039346656037UL;
        foreach (var c in text)
        {
            hash = (hash ^ c) * 1099511628211UL;
        }
        return hash;
    }
}
