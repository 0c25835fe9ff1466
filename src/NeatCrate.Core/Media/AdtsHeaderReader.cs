using System.Collections.Immutable;

namespace NeatCrate.Core.Media;

/// <summary>
/// Reads AAC as a stream of frames (ADTS: ISO/IEC 13818-7, section 6.2). There is no header: the length is that of all frames together,
/// so all of them are walked over.
/// </summary>
public static class AdtsHeaderReader
{
    private const int HeadBytes = 7;
    private const int WindowBytes = 256 * 1024;
    private const int SearchBytes = 64 * 1024;
    private const int MostStrayBytes = 1024 * 1024;
    private const int MinFramesInARow = 3;
    private const int BlockSamples = 1024;

    // ISO/IEC 13818-7, table 35; what is above is reserved.
    private static readonly int[] Rates = [96000, 88200, 64000, 48000, 44100, 32000, 24000, 22050, 16000, 12000, 11025, 8000];

    // Table 42: the channels of each arrangement; 0 is told within the stream.
    private static readonly int[] ChannelsOf = [0, 1, 2, 3, 4, 5, 6, 8];

    private readonly record struct Frame(int Rate, int Channels, int Bytes, int Samples);

    /// <summary>Reads a source.</summary>
    /// <exception cref="UnreadableMediaException">The source is not such a stream, or does not tell its channels.</exception>
    public static MediaHeader Read(ByteSource source)
    {
        ArgumentNullException.ThrowIfNull(source);
        var start = FirstFrame(source, Id3Tag.EndOf(source)) ?? throw new UnreadableMediaException(new Fault(FaultCode.MediaStartsOtherwise) { Name = "AAC" });
        Span<byte> head = stackalloc byte[HeadBytes];
        source.TryFill(start, head);
        var first = Parse(head)!.Value;
        if (first.Channels == 0)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaFormatSenseless) { Name = "AAC" });
        }
        var (samples, isOdd) = WalkOver(source, start);
        return new MediaHeader
        {
            Container = "AAC",
            Encoding = SampleEncoding.Encoded,
            SampleRate = first.Rate,
            Channels = first.Channels,
            BitsPerSample = 0,
            FrameBytes = 0,
            LengthSamples = samples,
            DataOffset = start,
            DataBytes = source.Length - start,
            Remarks = isOdd ? [new Fault(FaultCode.BytesBetweenFrames)] : ImmutableArray<Fault>.Empty,
        };
    }

    private static Frame? Parse(ReadOnlySpan<byte> head)
    {
        // Twelve bits of sync, a version, a layer that is always 0.
        if (head.Length < HeadBytes || head[0] != 0xFF || (head[1] & 0xF6) != 0xF0)
        {
            return null;
        }
        var rate = (head[2] >> 2) & 15;
        var channels = ((head[2] & 1) << 2) | (head[3] >> 6);
        var bytes = ((head[3] & 3) << 11) | (head[4] << 3) | (head[5] >> 5);
        return rate >= Rates.Length || bytes <= HeadBytes ? null : new Frame(Rates[rate], ChannelsOf[channels], bytes, BlockSamples * ((head[6] & 3) + 1));
    }

    /// <summary>The first place from which several frames of one kind follow each other; a lone sync word is mostly chance.</summary>
    private static long? FirstFrame(ByteSource source, long from)
    {
        var window = new byte[SearchBytes];
        var bytes = window.AsSpan(0, source.Read(from, window));
        for (var at = 0; at + HeadBytes <= bytes.Length; at++)
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
        Span<byte> head = stackalloc byte[HeadBytes];
        for (var n = 1; n < MinFramesInARow; n++)
        {
            at += first.Bytes;
            if (at >= source.Length)
            {
                return isFirst;
            }
            if (!source.TryFill(at, head) || Parse(head) is not { } next || (next.Rate, next.Channels) != (first.Rate, first.Channels))
            {
                return false;
            }
            first = next;
        }
        return true;
    }

    /// <summary>Counts all whole frames; what belongs to none is stepped over, a megabyte of it at most.</summary>
    private static (long Samples, bool IsOdd) WalkOver(ByteSource source, long from)
    {
        var window = new byte[WindowBytes];
        var (samples, isOdd, lastFrame) = (0L, false, from);
        for (var at = from; at + HeadBytes <= source.Length;)
        {
            if (at - lastFrame > MostStrayBytes)
            {
                return (samples, true);
            }
            var bytes = window.AsSpan(0, source.Read(at, window));
            var local = 0;
            while (local + HeadBytes <= bytes.Length)
            {
                if (Parse(bytes[local..]) is { } frame)
                {
                    samples += at + local + frame.Bytes <= source.Length ? frame.Samples : 0;
                    local += frame.Bytes;
                    lastFrame = at + local;
                    continue;
                }
                isOdd = true;
                var next = bytes[(local + 1)..].IndexOf((byte)0xFF);
                local = next < 0 ? bytes.Length - HeadBytes + 1 : local + 1 + next;
            }
            if (local <= 0)
            {
                break;
            }
            at += local;
        }
        return (samples, isOdd);
    }
}
