using System.Buffers.Binary;
using System.Collections.Immutable;

namespace NeatCrate.Core.Media;

/// <summary>Reads Vorbis comments, which FLAC, Vorbis and Opus share (Vorbis I, section 5; RFC 9639, section 8.6; RFC 7845, section 5.2).</summary>
internal static class VorbisComments
{
    private const int MaxComments = 256;
    private const int MaxCommentBytes = 4096;

    /// <summary>The comments in a block; those that do not fit in it, and pictures, are left out.</summary>
    public static ImmutableArray<MediaTag> Read(ReadOnlySpan<byte> block)
    {
        var tags = ImmutableArray.CreateBuilder<MediaTag>();
        if (!TakeText(ref block, out _) || block.Length < 4)
        {
            return [];
        }
        var count = BinaryPrimitives.ReadUInt32LittleEndian(block);
        block = block[4..];
        for (var n = 0; n < Math.Min(count, MaxComments) && TakeText(ref block, out var comment); n++)
        {
            var equals = comment.IndexOf((byte)'=');
            if (equals > 0 && comment.Length <= MaxCommentBytes && !comment.StartsWith("METADATA_BLOCK_PICTURE"u8))
            {
                tags.Add(new MediaTag(MediaTag.Text(comment[..equals]).ToUpperInvariant(), MediaTag.Text(comment[(equals + 1)..])));
            }
        }
        return tags.ToImmutable();
    }

    private static bool TakeText(ref ReadOnlySpan<byte> block, out ReadOnlySpan<byte> text)
    {
        text = default;
        if (block.Length < 4 || BinaryPrimitives.ReadUInt32LittleEndian(block) is var length && length > block.Length - 4)
        {
            return false;
        }
        text = block.Slice(4, (int)length);
        block = block[(4 + (int)length)..];
        return true;
    }
}
