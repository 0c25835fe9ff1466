using System.Buffers.Binary;
using NeatCrate.Core.Media;
using NeatCrate.Store;

namespace NeatCrate.App.Listening;

/// <summary>How loud sounds are.</summary>
public sealed class LevelCache(StoreFiles files) : SoundCache<SoundLevel>(files, ".level")
{
    private const int Length = sizeof(float) + 1;

    /// <inheritdoc/>
    protected override SoundLevel Make(SoundReader reader, MediaHeader header, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(header);
        return SoundLevel.Of(reader, header.Encoding == SampleEncoding.FloatingPoint ? 0 : header.BitsPerSample, cancel);
    }

    /// <inheritdoc/>
    protected override byte[] Write(SoundLevel made)
    {
        var bytes = new byte[Length];
        BinaryPrimitives.WriteSingleLittleEndian(bytes, made.Peak);
        bytes[^1] = made.IsClipped ? (byte)1 : (byte)0;
        return bytes;
    }

    /// <inheritdoc/>
    protected override bool Read(byte[] bytes, out SoundLevel made)
    {
        var isWhole = bytes is { Length: Length };
        made = isWhole ? new SoundLevel(BinaryPrimitives.ReadSingleLittleEndian(bytes), bytes[^1] != 0) : default;
        return isWhole;
    }
}
