using System.Text;

namespace NeatCrate.Core.Media;

/// <summary>A text that a file carries about itself.</summary>
/// <param name="Name">What it is, in capitals, as Vorbis comments have it: <c>TITLE</c>, <c>ARTIST</c>.</param>
/// <param name="Value">The text.</param>
public sealed record MediaTag(string Name, string Value)
{
    private static readonly UTF8Encoding StrictUtf8 = new(false, true);

    /// <summary>Bytes as text: UTF-8 where they are that, else Latin-1, up to the first zero byte.</summary>
    public static string Text(ReadOnlySpan<byte> bytes)
    {
        var end = bytes.IndexOf((byte)0);
        var text = end < 0 ? bytes : bytes[..end];
        try
        {
            return StrictUtf8.GetString(text).Trim();
        }
        catch (DecoderFallbackException)
        {
            return Encoding.Latin1.GetString(text).Trim();
        }
    }
}
