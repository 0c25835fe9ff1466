using System.Buffers.Binary;
using System.Text;

namespace NeatCrate.Core.Media;

/// <summary>
/// The texts of a LIST chunk of the type INFO (Multimedia Programming Interface and Data Specifications 1.0, "INFO List
/// Chunk"): sub-chunks of a four-letter name and a text that ends with a zero byte, each at an even offset.
/// </summary>
internal static class InfoList
{
    private const int MaxTexts = 256;

    /// <summary>Reads the body of a LIST chunk; empty when it is a list of another type.</summary>
    public static IReadOnlyList<MediaTag> Read(ReadOnlySpan<byte> body)
    {
        var tags = new List<MediaTag>();
        if (!body.StartsWith("INFO"u8))
        {
            return tags;
        }
        body = body[4..];
        while (body.Length >= 8 && tags.Count < MaxTexts)
        {
            var size = (int)Math.Min(BinaryPrimitives.ReadUInt32LittleEndian(body[4..]), (uint)(body.Length - 8));
            if (MediaTag.Text(body.Slice(8, size)) is { Length: > 0 } text)
            {
                tags.Add(new MediaTag(Name(body[..4]), text));
            }
            body = body[Math.Min(body.Length, 8 + size + (size & 1))..];
        }
        return tags;
    }

    /// <summary>The name that Vorbis comments have for the same thing; what has none there keeps its four letters.</summary>
    private static string Name(ReadOnlySpan<byte> id) => Encoding.Latin1.GetString(id) switch
    {
        "INAM" => "TITLE",
        "IART" => "ARTIST",
        "IPRD" => "ALBUM",
        "ICMT" => "COMMENT",
        "ICOP" => "COPYRIGHT",
        "ICRD" => "DATE",
        "IGNR" => "GENRE",
        "ISFT" => "ENCODER",
        "IPRT" or "ITRK" => "TRACKNUMBER",
        "ISRC" => "SOURCE",
        var other => other,
    };
}
