namespace NeatCrate.Core.Names;

/// <summary>How far a document is looked through, whatever it holds.</summary>
internal sealed class NameBounds
{
    /// <summary>So many bytes are unpacked of all that is packed in one document.</summary>
    public const long MostUnpacked = 1L << 30;

    /// <summary>So many different runs of text that end in a name are kept.</summary>
    public const int MostRuns = 200_000;

    /// <summary>So deep a packed thing may lie in another one.</summary>
    public const int MostDepth = 2;

    /// <summary>So many places are tried that look like the beginning of something packed.</summary>
    public const int MostAttempts = 20_000;

    /// <summary>So much of what is packed is held at once, in bytes.</summary>
    public const int Window = 32 * 1024 * 1024;

    private long _unpacked;
    private int _attempts;

    /// <summary>False once a bound was reached.</summary>
    public bool IsWhole { get; private set; } = true;

    /// <summary>True where something more may be tried to be unpacked.</summary>
    public bool MayTry() => ++_attempts <= MostAttempts || Stop();

    /// <summary>Notes bytes that were unpacked; false where no more may be.</summary>
    public bool MayUnpack(int bytes) => (_unpacked += bytes) <= MostUnpacked || Stop();

    /// <summary>Says that something is left out.</summary>
    /// <returns>False.</returns>
    public bool Stop() => IsWhole = false;
}
