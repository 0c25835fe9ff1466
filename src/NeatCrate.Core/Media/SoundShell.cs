using System.Buffers.Binary;
using System.Collections.Immutable;

namespace NeatCrate.Core.Media;

/// <summary>How the integers of a sound file stand in it: bits of a sample as it is stored, 8, 16 or 24.</summary>
public readonly record struct StoredIntegers(int SampleRate, int Channels, int Bits, bool BigEndian, bool IsUnsigned)
{
    /// <summary>Bytes of one sample of all channels together.</summary>
    public int FrameBytes => Channels * Bits / 8;

    /// <summary>Reads stored samples as integers of 32 bits, the highest used first.</summary>
    public void Read(ReadOnlySpan<byte> stored, Span<int> samples)
    {
        for (var (n, at) = (0, 0); n < samples.Length; n++, at += Bits / 8)
        {
            samples[n] = (Bits, BigEndian) switch
            {
                (8, _) => (IsUnsigned ? stored[at] - 128 : (sbyte)stored[at]) << 24,
                (16, false) => BinaryPrimitives.ReadInt16LittleEndian(stored[at..]) << 16,
                (16, true) => BinaryPrimitives.ReadInt16BigEndian(stored[at..]) << 16,
                (_, false) => (stored[at] << 8) | (stored[at + 1] << 16) | (stored[at + 2] << 24),
                _ => (stored[at + 2] << 8) | (stored[at + 1] << 16) | (stored[at] << 24),
            };
        }
    }

    /// <summary>Stores samples as they were read.</summary>
    public void Write(ReadOnlySpan<int> samples, Span<byte> stored)
    {
        for (var (n, at) = (0, 0); n < samples.Length; n++, at += Bits / 8)
        {
            var sample = samples[n];
            switch (Bits, BigEndian)
            {
                case (8, _):
                    stored[at] = (byte)((sample >> 24) + (IsUnsigned ? 128 : 0));
                    break;
                case (16, false):
                    BinaryPrimitives.WriteInt16LittleEndian(stored[at..], (short)(sample >> 16));
                    break;
                case (16, true):
                    BinaryPrimitives.WriteInt16BigEndian(stored[at..], (short)(sample >> 16));
                    break;
                case (_, false):
                    (stored[at], stored[at + 1], stored[at + 2]) = ((byte)(sample >> 8), (byte)(sample >> 16), (byte)(sample >> 24));
                    break;
                default:
                    (stored[at + 2], stored[at + 1], stored[at]) = ((byte)(sample >> 8), (byte)(sample >> 16), (byte)(sample >> 24));
                    break;
            }
        }
    }
}

/// <summary>
/// All of a WAV or AIFF file that is not samples, piece by piece as it stands there: what a FLAC file carries beside the samples
/// so that the file comes back bit for bit. The pieces are those of the APPLICATION blocks "riff" and "aiff" (RFC 9639, section 8.4 and
/// its registry), as the reference tool writes and reads them: the first twelve bytes, then each chunk whole, but of the one that
/// holds the samples only what stands before them.
/// </summary>
/// <param name="Application">The four letters of the block.</param>
/// <param name="Pieces">Offset and length of each piece in bytes, in file order.</param>
/// <param name="DataPiece">Which of them the samples come after.</param>
/// <param name="DataOffset">Where the samples begin, in bytes.</param>
/// <param name="DataBytes">Their bytes.</param>
/// <param name="Integers">How they are stored.</param>
public sealed record SoundShell(string Application, ImmutableArray<(long Offset, int Bytes)> Pieces, int DataPiece, long DataOffset, long DataBytes, StoredIntegers Integers)
{
    private const int PlainFormatBytes = 16;
    private const int LongFormatBytes = 40;
    private const int MaskOffset = 20;
    private const int FormHeadBytes = 12;
    private const int ChunkHeadBytes = 8;
    private const int SoundDataHeadBytes = 16;
    private const int MostChunks = 256;
    private const int MostBytes = 8 * 1024 * 1024;
    private const int MostChannels = 8;
    private const int MostSampleRate = 384_000;

    /// <summary>True where the format is written the short way (RIFF MCI, "Format Chunk", of 16 bytes), which the reference tool has to be told.</summary>
    public bool IsPlainWave { get; init; }

    /// <summary>Reads the shell of a file.</summary>
    /// <returns>
    /// Null for one that would not come back bit for bit, or that FLAC does not hold: no integers of 8, 16 or 24 bits, more than eight channels, or sizes that
    /// do not say what is there. So it is, too, where only we could bring it back, and the reference tool could not: RF64, and WAVE_FORMAT_EXTENSIBLE but for
    /// 24 bits on one or two channels in their usual places.
    /// </returns>
    public static SoundShell? Of(ByteSource file, MediaHeader header)
    {
        ArgumentNullException.ThrowIfNull(file);
        ArgumentNullException.ThrowIfNull(header);
        if (header.Container is not ("WAV" or "AIFF") || header.Encoding is not (SampleEncoding.SignedInteger or SampleEncoding.UnsignedInteger) || header.Unfinished
            || header.Channels is < 1 or > MostChannels || header.SampleRate is < 1 or > MostSampleRate || header.FrameBytes % header.Channels != 0)
        {
            return null;
        }
        var integers = new StoredIntegers(header.SampleRate, header.Channels, header.FrameBytes / header.Channels * 8, header.BigEndian, header.Encoding == SampleEncoding.UnsignedInteger);
        return integers.Bits is 8 or 16 or 24 ? Walk(file, header, integers) : null;
    }

    /// <summary>The chunks must lie one behind the other from the beginning to the end, and every size must be what is there.</summary>
    private static SoundShell? Walk(ByteSource file, MediaHeader header, StoredIntegers integers)
    {
        var isAiff = header.Container == "AIFF";
        var pieces = ImmutableArray.CreateBuilder<(long, int)>();
        pieces.Add((0, FormHeadBytes));
        var (at, data, total, isDescribed, isPlain) = ((long)FormHeadBytes, -1, 0L, false, false);
        Span<byte> head = stackalloc byte[ChunkHeadBytes];
        if (!file.TryFill(0, head) || ChunkHeadBytes + Size(head, isAiff) != file.Length)
        {
            return null;
        }
        while (at < file.Length)
        {
            if (pieces.Count > MostChunks || !file.TryFill(at, head))
            {
                return null;
            }
            var (bytes, body) = (Size(head, isAiff), at + ChunkHeadBytes);
            if (head.StartsWith("fmt "u8) && !isAiff)
            {
                if (isDescribed || !(bytes == PlainFormatBytes || (bytes == LongFormatBytes && IsUsual(file, body, integers))))
                {
                    return null;
                }
                isPlain = bytes == PlainFormatBytes;
            }
            isDescribed |= head.StartsWith("fmt "u8) || head.StartsWith("COMM"u8);
            if (head.StartsWith(isAiff ? "SSND"u8 : "data"u8))
            {
                // One run of samples, after what says how they are stored, and as long as it says.
                var headBytes = isAiff ? SoundDataHeadBytes : ChunkHeadBytes;
                if (!isDescribed || header.DataOffset != at + headBytes || header.DataBytes + headBytes - ChunkHeadBytes != bytes || header.DataBytes % integers.FrameBytes != 0 || !IsPadded(file, body + bytes, bytes))
                {
                    return null;
                }
                data = pieces.Count;
                pieces.Add((at, headBytes));
                at = body + bytes + (bytes & 1);
                continue;
            }
            var whole = ChunkHeadBytes + bytes + (bytes & 1);
            total += whole;
            if (total > MostBytes || at + whole > file.Length)
            {
                return null;
            }
            pieces.Add((at, (int)whole));
            at += whole;
        }
        return data >= 0 && at == file.Length ? new SoundShell(isAiff ? "aiff" : "riff", pieces.ToImmutable(), data, header.DataOffset, header.DataBytes, integers) { IsPlainWave = isPlain } : null;
    }

    /// <summary>The channels are where one or two are by themselves (WAVE_FORMAT_EXTENSIBLE: front centre; front left and right).</summary>
    private static bool IsUsual(ByteSource file, long body, StoredIntegers integers)
    {
        Span<byte> mask = stackalloc byte[4];
        return integers.Bits == 24 && file.TryFill(body + MaskOffset, mask) && (integers.Channels, BinaryPrimitives.ReadInt32LittleEndian(mask)) is (1, 4) or (2, 3);
    }

    /// <summary>An odd number of bytes is followed by a zero, which is not stored and comes back by itself.</summary>
    private static bool IsPadded(ByteSource file, long end, long bytes)
    {
        Span<byte> pad = stackalloc byte[1];
        return (bytes & 1) == 0 || (file.TryFill(end, pad) && pad[0] == 0);
    }

    private static long Size(ReadOnlySpan<byte> head, bool isBigEndian) => isBigEndian ? BinaryPrimitives.ReadUInt32BigEndian(head[4..]) : BinaryPrimitives.ReadUInt32LittleEndian(head[4..]);
}
