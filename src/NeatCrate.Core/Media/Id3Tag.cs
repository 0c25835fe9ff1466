namespace NeatCrate.Core.Media;

/// <summary>Steps over an ID3v2 tag at the start of a file (ID3 2.4.0, sections 3.1 and 3.4).</summary>
internal static class Id3Tag
{
    private const int HeadBytes = 10;
    private const int FooterFlag = 0x10;

    /// <summary>Where the sound starts: after the tag, or at once where there is none.</summary>
    public static long EndOf(ByteSource source)
    {
        Span<byte> head = stackalloc byte[HeadBytes];
        if (!source.TryFill(0, head) || !head.StartsWith("ID3"u8) || head[3] == 0xFF)
        {
            return 0;
        }
        // Seven bits of each byte count, so that no size looks like the start of a frame.
        var size = ((head[6] & 0x7FL) << 21) | ((head[7] & 0x7FL) << 14) | ((head[8] & 0x7FL) << 7) | (head[9] & 0x7FL);
        return Math.Min(source.Length, HeadBytes + size + ((head[5] & FooterFlag) != 0 ? HeadBytes : 0));
    }
}
