using System.Buffers.Binary;
using System.Collections.Immutable;

namespace NeatCrate.Core.Media;

/// <summary>Reads the header of FLAC files (RFC 9639, section 8).</summary>
public static class FlacHeaderReader
{
    private const int MaxBlocks = 1024;
    private const int MaxCommentBytes = 1024 * 1024;
    private const int StreamInfoBytes = 34;
    private const int StreamInfo = 0;
    private const int VorbisComment = 4;

    /// <summary>True when the bytes at the start of the sound say that this reader is the one to ask.</summary>
    public static bool Recognises(ReadOnlySpan<byte> head) => head.StartsWith("fLaC"u8);

    /// <summary>Reads the header of a source.</summary>
    /// <exception cref="UnreadableMediaException">The source is not a FLAC file that can be understood.</exception>
    public static MediaHeader Read(ByteSource source)
    {
        ArgumentNullException.ThrowIfNull(source);
        var start = Id3Tag.EndOf(source);
        Span<byte> mark = stackalloc byte[4];
        if (!source.TryFill(start, mark) || !Recognises(mark))
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaStartsOtherwise) { Name = "FLAC" });
        }
        MediaHeader? header = null;
        var tags = ImmutableArray<MediaTag>.Empty;
        var remarks = ImmutableArray<Fault>.Empty;
        var (offset, isLast) = (start + 4, false);
        Span<byte> block = stackalloc byte[4];
        Span<byte> info = stackalloc byte[StreamInfoBytes];
        for (var n = 0; n < MaxBlocks && !isLast && source.TryFill(offset, block); n++)
        {
            isLast = (block[0] & 0x80) != 0;
            var (type, size, body) = (block[0] & 0x7F, (block[1] << 16) | (block[2] << 8) | block[3], offset + 4);
            if (type == StreamInfo && header is null && size >= StreamInfoBytes && source.TryFill(body, info))
            {
                header = FromStreamInfo(info);
            }
            else if (type == VorbisComment && size <= MaxCommentBytes && body + size <= source.Length)
            {
                var comments = new byte[size];
                tags = source.TryFill(body, comments) ? VorbisComments.Read(comments) : tags;
            }
            offset = body + size;
        }
        if (header is null)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaLacksPart) { Name = "FLAC", Other = "STREAMINFO block" });
        }
        if (offset >= source.Length)
        {
            remarks = [new Fault(FaultCode.MediaShorterThanHeader)];
        }
        return header with { DataOffset = Math.Min(offset, source.Length), DataBytes = Math.Max(0, source.Length - offset), Tags = tags, Remarks = remarks };
    }

    /// <summary>RFC 9639, section 8.2: sample rate 20 bits, channels less one 3, bits less one 5, total samples 36.</summary>
    internal static MediaHeader FromStreamInfo(ReadOnlySpan<byte> info)
    {
        var packed = BinaryPrimitives.ReadUInt64BigEndian(info[10..]);
        var rate = (int)(packed >> 44);
        if (rate == 0)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaFormatSenseless) { Name = "FLAC" });
        }
        var total = (long)(packed & 0xFFFFFFFFF);
        return new MediaHeader
        {
            Container = "FLAC",
            Encoding = SampleEncoding.Encoded,
            SampleRate = rate,
            Channels = (int)((packed >> 41) & 7) + 1,
            BitsPerSample = (int)((packed >> 36) & 31) + 1,
            FrameBytes = 0,
            // 0 stands for a length that was not known when the header was written.
            LengthSamples = total == 0 ? null : total,
            DataOffset = 0,
            DataBytes = 0,
        };
    }
}
