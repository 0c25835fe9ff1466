using System.Text;
using System.Text.Json;

namespace NeatCrate.Core.Names;

/// <summary>One of the ways in which a text writes a name: percent-encoded or not, and escaped as XML or JSON does it or not.</summary>
/// <param name="Escape">How it is escaped.</param>
/// <param name="Percent">How it is percent-encoded (RFC 3986, section 2.1); null for not at all.</param>
internal sealed record NameSpelling(NameEscape Escape, PercentStyle? Percent)
{
    private static readonly PercentStyle?[] Percents =
    [
        null, .. from keeps in new[] { true, false } from lower in new[] { false, true } from letters in new[] { false, true } select (PercentStyle?)new PercentStyle(keeps, lower, letters),
    ];

    /// <summary>The ways of a text, the likeliest first.</summary>
    /// <param name="kind">How the text is built.</param>
    public static IEnumerable<NameSpelling> In(TextKind kind)
    {
        NameEscape[] escapes = kind switch
        {
            TextKind.Xml => [NameEscape.None, NameEscape.XmlAll, NameEscape.XmlNumbered, NameEscape.XmlQuotes, NameEscape.XmlTags, NameEscape.XmlLeast],
            TextKind.Json => [NameEscape.Json, NameEscape.JsonSlashes],
            _ => Enum.GetValues<NameEscape>(),
        };
        return escapes.SelectMany(e => Percents.Select(p => new NameSpelling(e, p)));
    }

    /// <summary>A name as it is written so.</summary>
    public string Of(string name)
    {
        var text = Percent is { } style ? style.Of(name) : name;
        return Escape switch
        {
            NameEscape.None => text,
            NameEscape.Json => ToJson(text),
            NameEscape.JsonSlashes => ToJson(text).Replace("/", "\\/", StringComparison.Ordinal),
            _ => ToXml(text),
        };
    }

    private static string ToJson(string text) => JsonEncodedText.Encode(text, System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping).ToString();

    private string ToXml(string text)
    {
        text = text.Replace("&", "&amp;", StringComparison.Ordinal).Replace("<", "&lt;", StringComparison.Ordinal);
        if (Escape != NameEscape.XmlLeast)
        {
            text = text.Replace(">", "&gt;", StringComparison.Ordinal);
        }
        if (Escape is NameEscape.XmlAll or NameEscape.XmlNumbered or NameEscape.XmlQuotes)
        {
            text = text.Replace("\"", Escape == NameEscape.XmlNumbered ? "&#34;" : "&quot;", StringComparison.Ordinal);
        }
        return Escape is NameEscape.XmlAll or NameEscape.XmlNumbered ? text.Replace("'", Escape == NameEscape.XmlNumbered ? "&#39;" : "&apos;", StringComparison.Ordinal) : text;
    }
}

/// <summary>How signs are escaped.</summary>
internal enum NameEscape
{
    /// <summary>Not at all: plain text, and CDATA in XML.</summary>
    None,

    /// <summary>All five that XML knows by name (XML 1.0, section 4.6).</summary>
    XmlAll,

    /// <summary>The same, quotation marks by number.</summary>
    XmlNumbered,

    /// <summary>All but the apostrophe.</summary>
    XmlQuotes,

    /// <summary>What makes tags and entities.</summary>
    XmlTags,

    /// <summary>What has to be.</summary>
    XmlLeast,

    /// <summary>As JSON does (RFC 8259, section 7).</summary>
    Json,

    /// <summary>The same, and slashes.</summary>
    JsonSlashes,
}

/// <summary>How a name is percent-encoded.</summary>
/// <param name="KeepsDelimiters">Whether signs stay that part a path's pieces (RFC 3986, section 3.3).</param>
/// <param name="IsLower">Whether hexadecimal letters are small.</param>
/// <param name="KeepsLetters">Whether letters beyond ASCII stay (RFC 3987).</param>
internal sealed record PercentStyle(bool KeepsDelimiters, bool IsLower, bool KeepsLetters)
{
    /// <summary>A name as it is written so.</summary>
    public string Of(string name)
    {
        var text = new StringBuilder(name.Length);
        foreach (var rune in name.EnumerateRunes())
        {
            if (rune.IsAscii ? char.IsAsciiLetterOrDigit((char)rune.Value) || "-._~/:".Contains((char)rune.Value, StringComparison.Ordinal) || (KeepsDelimiters && "!$&'()*+,;=@".Contains((char)rune.Value, StringComparison.Ordinal)) : KeepsLetters)
            {
                text.Append(rune.ToString());
                continue;
            }
            foreach (var value in Encoding.UTF8.GetBytes(rune.ToString()))
            {
                text.Append('%').Append(IsLower ? $"{value:x2}" : $"{value:X2}");
            }
        }
        return text.ToString();
    }
}
