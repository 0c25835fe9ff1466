using System.Text;

namespace NeatCrate.Core.Media;

/// <summary>Text in the headers of media files.</summary>
internal static class MediaText
{
    private static readonly UTF8Encoding StrictUtf8 = new(false, true);

    /// <summary>
    /// Bytes as text, up to the first zero byte: UTF-8 where they are that. Standards mostly say ASCII; writers in the field
    /// put Latin-1 there as well, so anything else is read as that.
    /// </summary>
    public static string Of(ReadOnlySpan<byte> bytes)
    {
        var end = bytes.IndexOf((byte)0);
        var text = end < 0 ? bytes : bytes[..end];
        try
        {
            return StrictUtf8.GetString(text);
        }
        catch (DecoderFallbackException)
        {
            return Encoding.Latin1.GetString(text);
        }
    }
}
