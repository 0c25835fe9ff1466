using System.Buffers.Binary;
using System.Collections.Immutable;

namespace NeatCrate.Core.Media;

/// <summary>
/// Reads the header of MPEG audio files, layers I to III (ISO/IEC 11172-3, section 2.4.1.3, and 13818-3 for the low rates).
/// The length comes from the Xing or Info frame with its encoder delay and padding where there is one (as LAME writes it;
/// common practice), else from walking over all frames.
/// </summary>
public static class Mp3HeaderReader
{
    private const int SearchBytes = 64 * 1024;
    private const int WindowBytes = 256 * 1024;
    private const int MinFramesInARow = 3;
    private const int MostStrayBytes = 1024 * 1024;
    private const int TrailerBytes = 128;

    private static readonly int[] RatesOfVersion1 = [44100, 48000, 32000];

    // kbit/s by index; rows: version 1 layers I, II, III; versions 2 and 2.5 layer I, layers II and III.
    private static readonly int[][] BitRates =
    [
        [0, 32, 64, 96, 128, 160, 192, 224, 256, 288, 320, 352, 384, 416, 448],
        [0, 32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384],
        [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320],
        [0, 32, 48, 56, 64, 80, 96, 112, 128, 144, 160, 176, 192, 224, 256],
        [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
    ];

    private readonly record struct Frame(int Layer, bool IsVersion1, int Rate, int Channels, int Bytes, int Samples, int SideInfoBytes);

    /// <summary>True when a file may be MPEG audio: it starts with a frame or a tag. Only reading tells for sure.</summary>
    public static bool Recognises(ReadOnlySpan<byte> head) => head.StartsWith("ID3"u8) || (head.Length >= 4 && Parse(head) is not null);

    /// <summary>Reads the header of a source.</summary>
    /// <exception cref="UnreadableMediaException">The source is not an MPEG audio file that can be understood.</exception>
    public static MediaHeader Read(ByteSource source)
    {
        ArgumentNullException.ThrowIfNull(source);
        var start = FirstFrame(source, Id3Tag.EndOf(source)) ?? throw new UnreadableMediaException(new Fault(FaultCode.MediaStartsOtherwise) { Name = "MPEG audio" });
        var bytes = new byte[1024];
        var head = bytes.AsSpan(0, source.Read(start, bytes));
        var frame = Parse(head)!.Value;
        var end = EndOfSound(source);
        var (length, isInfo) = LengthFromInfo(head, frame);
        var dataOffset = isInfo ? start + frame.Bytes : start;
        if (dataOffset >= end)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaShorterThanHeader));
        }
        var remarks = ImmutableArray<Fault>.Empty;
        if (length is null)
        {
            (length, var odd) = Walk(source, dataOffset, end);
            remarks = odd ? [new Fault(FaultCode.BytesBetweenFrames)] : remarks;
        }
        return new MediaHeader
        {
            Container = frame.Layer == 3 ? "MP3" : $"MPEG layer {frame.Layer}",
            Encoding = SampleEncoding.Encoded,
            SampleRate = frame.Rate,
            Channels = frame.Channels,
            BitsPerSample = 0,
            FrameBytes = 0,
            LengthSamples = length,
            DataOffset = dataOffset,
            DataBytes = end - dataOffset,
            Remarks = remarks,
        };
    }

    /// <summary>The first place from which several frames of one kind follow each other; a lone sync word is mostly chance.</summary>
    private static long? FirstFrame(ByteSource source, long from)
    {
        var window = new byte[SearchBytes];
        var bytes = window.AsSpan(0, source.Read(from, window));
        for (var at = 0; at + 4 <= bytes.Length; at++)
        {
            if (bytes[at] == 0xFF && Parse(bytes[at..]) is { } frame && FollowsItself(source, from + at, frame, at == 0))
            {
                return from + at;
            }
        }
        return null;
    }

    private static bool FollowsItself(ByteSource source, long at, Frame first, bool isFirst)
    {
        Span<byte> head = stackalloc byte[4];
        for (var n = 1; n < MinFramesInARow; n++)
        {
            at += first.Bytes;
            if (at >= EndOfSound(source))
            {
                // Only what begins where the sound must begin may be shorter than that: near the end a lone sync word is chance.
                return isFirst;
            }
            if (!source.TryFill(at, head) || Parse(head) is not { } next || (next.Layer, next.Rate, next.IsVersion1) != (first.Layer, first.Rate, first.IsVersion1))
            {
                return false;
            }
            first = next;
        }
        return true;
    }

    private static Frame? Parse(ReadOnlySpan<byte> head)
    {
        if (head.Length < 4 || head[0] != 0xFF || (head[1] & 0xE0) != 0xE0)
        {
            return null;
        }
        var (version, layer, bitIndex, rateIndex) = ((head[1] >> 3) & 3, 4 - ((head[1] >> 1) & 3), head[2] >> 4, (head[2] >> 2) & 3);
        // Version: 0 is 2.5, 1 is reserved, 2 is 2, 3 is 1. A free bit rate (index 0) tells no frame length.
        if (version == 1 || layer == 4 || bitIndex is 0 or 15 || rateIndex == 3)
        {
            return null;
        }
        var isVersion1 = version == 3;
        var rate = RatesOfVersion1[rateIndex] >> (version == 3 ? 0 : version == 2 ? 1 : 2);
        var bitRate = 1000 * BitRates[isVersion1 ? layer - 1 : layer == 1 ? 3 : 4][bitIndex];
        var samples = layer == 1 ? 384 : layer == 2 || isVersion1 ? 1152 : 576;
        var padding = (head[2] >> 1) & 1;
        var bytes = layer == 1 ? ((12 * bitRate / rate) + padding) * 4 : (samples / 8 * bitRate / rate) + padding;
        var isMono = head[3] >> 6 == 3;
        var sideInfo = isVersion1 ? (isMono ? 17 : 32) : (isMono ? 9 : 17);
        return bytes < 24 ? null : new Frame(layer, isVersion1, rate, isMono ? 1 : 2, bytes, samples, sideInfo);
    }

    /// <summary>The length that a Xing or Info frame gives; such a frame holds no sound itself.</summary>
    private static (long? Length, bool IsInfo) LengthFromInfo(ReadOnlySpan<byte> bytes, Frame frame)
    {
        var at = 4 + frame.SideInfoBytes;
        if (bytes.Length < at + 16 || !(bytes[at..].StartsWith("Xing"u8) || bytes[at..].StartsWith("Info"u8)))
        {
            var isVbri = bytes.Length >= 36 + 18 && bytes[36..].StartsWith("VBRI"u8);
            return isVbri ? ((long)BinaryPrimitives.ReadUInt32BigEndian(bytes[(36 + 14)..]) * frame.Samples, true) : (null, false);
        }
        var flags = BinaryPrimitives.ReadUInt32BigEndian(bytes[(at + 4)..]);
        if ((flags & 1) == 0)
        {
            return (null, true);
        }
        var samples = (long)BinaryPrimitives.ReadUInt32BigEndian(bytes[(at + 8)..]) * frame.Samples;
        // Frames 4 bytes, bytes 4, seek table 100, quality 4; then the encoder's name, and at 21 behind it delay and padding, 12 bits each.
        var lame = at + 8 + 4 + ((flags & 2) != 0 ? 4 : 0) + ((flags & 4) != 0 ? 100 : 0) + ((flags & 8) != 0 ? 4 : 0);
        if (bytes.Length < lame + 24 || bytes[lame] == 0)
        {
            return (samples, true);
        }
        var (delay, padding) = ((bytes[lame + 21] << 4) | (bytes[lame + 22] >> 4), ((bytes[lame + 22] & 15) << 8) | bytes[lame + 23]);
        return (Math.Max(0, samples - delay - padding), true);
    }

    /// <summary>
    /// Counts all frames. Bytes that belong to none are stepped over, but not without end: what holds a megabyte of them is no
    /// MPEG audio from there on, whatever size the file claims.
    /// </summary>
    private static (long Samples, bool Odd) Walk(ByteSource source, long from, long end)
    {
        var window = new byte[WindowBytes];
        var (samples, odd, lastFrame) = (0L, false, from);
        for (var at = from; at + 4 <= end;)
        {
            if (at - lastFrame > MostStrayBytes)
            {
                return (samples, true);
            }
            var bytes = window.AsSpan(0, source.Read(at, window));
            var local = 0;
            while (local + 4 <= bytes.Length && at + local + 4 <= end)
            {
                if (Parse(bytes[local..]) is { } frame)
                {
                    samples += at + local + frame.Bytes <= end ? frame.Samples : 0;
                    local += frame.Bytes;
                    lastFrame = at + local;
                }
                else
                {
                    odd = true;
                    var next = bytes[(local + 1)..].IndexOf((byte)0xFF);
                    local = next < 0 ? bytes.Length - 3 : local + 1 + next;
                }
            }
            if (local <= 0)
            {
                break;
            }
            at += local;
        }
        return (samples, odd);
    }

    /// <summary>Where the sound ends: before an ID3v1 tag, and before an APE tag, where there is one.</summary>
    private static long EndOfSound(ByteSource source)
    {
        var end = source.Length;
        Span<byte> mark = stackalloc byte[3];
        if (end >= TrailerBytes && source.TryFill(end - TrailerBytes, mark) && mark.SequenceEqual("TAG"u8))
        {
            end -= TrailerBytes;
        }
        Span<byte> ape = stackalloc byte[32];
        if (end >= 32 && source.TryFill(end - 32, ape) && ape.StartsWith("APETAGEX"u8))
        {
            var size = BinaryPrimitives.ReadUInt32LittleEndian(ape[12..]);
            end = Math.Max(0, end - size - ((ape[23] & 0x80) != 0 ? 32 : 0));
        }
        return end;
    }
}
