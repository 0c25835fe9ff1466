using System.Buffers;
using System.IO.Compression;
using System.Text;
using System.Text.Json;
using System.Xml;

namespace NeatCrate.Core.Names;

/// <summary>How a text is built, which says how it escapes what it holds.</summary>
internal enum TextKind
{
    /// <summary>In no way that is known.</summary>
    Plain,

    /// <summary>Well-formed XML.</summary>
    Xml,

    /// <summary>Valid JSON.</summary>
    Json,
}

/// <summary>
/// A document that is text and nothing else, plain or in gzip, so that a piece of it can be exchanged and all else stays as it is to the byte.
/// </summary>
internal sealed class DocumentText
{
    /// <summary>A text of more bytes is not taken apart.</summary>
    public const int MostBytes = 64 * 1024 * 1024;

    private const int LookedAt = 64 * 1024;
    private const string ControlCharacters = "\u0000\u0001\u0002\u0003\u0004\u0005\u0006\u0007\u0008\u000B\u000E\u000F\u0010\u0011\u0012\u0013\u0014\u0015\u0016\u0017\u0018\u0019\u001A\u001B\u001C\u001D\u001E\u001F\u007F";
    private static readonly SearchValues<char> Control = SearchValues.Create(ControlCharacters);
    private static readonly SearchValues<byte> ControlBytes = SearchValues.Create(Encoding.ASCII.GetBytes(ControlCharacters));
    private static readonly UTF8Encoding Utf8 = new(false, throwOnInvalidBytes: true);
    private readonly Encoding _encoding;
    private readonly GzipMember? _packed;

    private DocumentText(string text, Encoding encoding, GzipMember? packed)
    {
        (Text, _encoding, _packed) = (text, encoding, packed);
        Kind = KindOf(text);
        TakesOnlyAscii = encoding.Equals(Encoding.Latin1) || (Kind == TextKind.Xml && !DeclaresUnicode(text));
    }

    /// <summary>The text, a byte order mark with it.</summary>
    public string Text { get; }

    /// <summary>How it is built.</summary>
    public TextKind Kind { get; }

    /// <summary>True where nobody can say how other letters than those of ASCII are written in it.</summary>
    public bool TakesOnlyAscii { get; }

    /// <summary>Reads a document; null for one that is not text, or not wholly.</summary>
    /// <param name="bytes">The document.</param>
    public static DocumentText? Of(byte[] bytes)
    {
        ArgumentNullException.ThrowIfNull(bytes);
        if (bytes.Length > MostBytes)
        {
            return null;
        }
        var packed = GzipMember.Of(bytes, MostBytes);
        var plain = packed?.Content ?? bytes;
        foreach (var encoding in Encodings(plain))
        {
            try
            {
                var text = encoding.GetString(plain);
                // What does not come back as it was cannot be left as it is.
                if (text.AsSpan().IndexOfAny(Control) < 0 && encoding.GetBytes(text).AsSpan().SequenceEqual(plain))
                {
                    return new DocumentText(text, encoding, packed);
                }
            }
            catch (DecoderFallbackException)
            {
                // Of another encoding.
            }
        }
        return null;
    }

    /// <summary>Whether a document seems to be text, by its beginning.</summary>
    /// <param name="bytes">The document.</param>
    public static bool IsLikely(ReadOnlySpan<byte> bytes)
    {
        var begin = bytes[..Math.Min(LookedAt, bytes.Length)];
        if (GzipMember.HeaderLength(begin) is var header and > 0)
        {
            try
            {
                using var inflated = new DeflateStream(new MemoryStream(begin[header..].ToArray(), writable: false), CompressionMode.Decompress);
                var piece = new byte[4096];
                begin = piece.AsSpan(0, inflated.Read(piece));
            }
            catch (InvalidDataException)
            {
                return false;
            }
        }
        return begin.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]) || begin.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]) || begin.IndexOfAny(ControlBytes) < 0;
    }

    /// <summary>The document with another text, written as it was.</summary>
    public byte[] With(string text)
    {
        var bytes = _encoding.GetBytes(text);
        return _packed?.With(bytes) ?? bytes;
    }

    private static Encoding[] Encodings(ReadOnlySpan<byte> bytes) => bytes switch
    {
        [0xFF, 0xFE, ..] => [new UnicodeEncoding(false, false, true)],
        [0xFE, 0xFF, ..] => [new UnicodeEncoding(true, false, true)],
        _ => [Utf8, Encoding.Latin1],
    };

    /// <summary>How a text is built. What calls itself XML and is not well-formed, or begins as JSON and is not valid, is built in no way that is known.</summary>
    public static TextKind KindOf(string text)
    {
        var begin = text.AsSpan().TrimStart('\uFEFF').TrimStart();
        try
        {
            switch (begin)
            {
                case ['<', ..]:
                    using (var reader = XmlReader.Create(new StringReader(text.TrimStart('\uFEFF')), new XmlReaderSettings { DtdProcessing = DtdProcessing.Ignore, XmlResolver = null }))
                    {
                        while (reader.Read())
                        {
                        }
                    }
                    return TextKind.Xml;
                case ['{' or '[', ..]:
                    using (JsonDocument.Parse(text.AsMemory().TrimStart('\uFEFF')))
                    {
                        return TextKind.Json;
                    }
                default:
                    return TextKind.Plain;
            }
        }
        catch (Exception e) when (e is XmlException or JsonException)
        {
            return TextKind.Plain;
        }
    }

    private static bool DeclaresUnicode(string text)
    {
        var head = text[..Math.Min(200, text.Length)];
        var at = head.IndexOf("encoding=", StringComparison.Ordinal);
        return at < 0 || head.IndexOf("?>", StringComparison.Ordinal) < at || head.AsSpan(at + 10).StartsWith("utf", StringComparison.OrdinalIgnoreCase);
    }
}
