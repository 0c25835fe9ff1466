using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Relink;

/// <summary>How two names of files are related.</summary>
public enum NameLikeness
{
    /// <summary>They have nothing in common that tells.</summary>
    Other,

    /// <summary>The same, but for a number that a program puts behind the name of a copy.</summary>
    Numbered,

    /// <summary>The same, but for the extension: another format.</summary>
    OtherExtension,

    /// <summary>The same, but for case, Unicode form, percent signs, or characters that another system replaces.</summary>
    WrittenOtherwise,

    /// <summary>The same, character by character.</summary>
    Same,
}

/// <summary>
/// Names as they are compared between systems: what a copy, another file system or another program does to a name leaves its
/// letters and digits in order. Common practice: spaces, dashes and refused characters become one another, case and Unicode
/// form change, copies get a number.
/// </summary>
public static partial class LooseName
{
    /// <summary>The letters and digits of a name without its extension, folded; of one that has none, the folded name.</summary>
    public static string Of(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return Letters(Stem(Decoded(name)));
    }

    /// <summary>The same without the number that a copy got; the same as <see cref="Of"/> where there is none.</summary>
    public static string WithoutNumber(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        var stem = Stem(Decoded(name));
        var match = NumberOfCopy().Match(stem);
        return match is { Success: true, Index: > 0 } ? Letters(stem[..match.Index]) : Letters(stem);
    }

    /// <summary>True for a name that ends in a number, whatever stands around that: "Audio 01", "Kick_3", "take (2)".</summary>
    public static bool EndsInANumber(string name) => Of(name) is { Length: > 0 } letters && char.IsDigit(letters[^1]);

    /// <summary>A folder's name as it is compared between systems.</summary>
    public static string OfFolder(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return Letters(Decoded(name));
    }

    /// <summary>Percent signs as UTF-8 (RFC 3986, section 2.1), and as older programs wrote them: a byte of Latin-1, or <c>%u</c> and the number of a character.</summary>
    private static string Decoded(string name) => !name.Contains('%', StringComparison.Ordinal) ? name
        : Escapes().Replace(Uri.UnescapeDataString(name), m => ((char)int.Parse(m.Groups[1].Success ? m.Groups[1].Value : m.Groups[2].Value, NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture)).ToString());

    // What is left of them after UTF-8 was read: a byte of its own that no UTF-8 is made of.
    [GeneratedRegex("%u([0-9A-Fa-f]{4})|%([89A-Fa-f][0-9A-Fa-f])", RegexOptions.CultureInvariant)]
    private static partial Regex Escapes();

    private static string Stem(string name) => Path.GetFileNameWithoutExtension(name) is { Length: > 0 } stem ? stem : name;

    private static string Letters(string text)
    {
        var folded = PortableName.ClashKey(text);
        var letters = new StringBuilder(folded.Length);
        foreach (var rune in folded.EnumerateRunes())
        {
            if (Rune.IsLetterOrDigit(rune))
            {
                letters.Append(rune.ToString());
            }
        }
        return letters.Length > 0 ? letters.ToString() : folded;
    }

    // "creak (2)", "creak copy", "creak - Copy (3)", "creak 2", "creak_2", "creak-2", "creak~1".
    [GeneratedRegex(@"(?:\s*\(\d{1,3}\)|\s*-?\s+copy(?:\s*\(?\d{1,3}\)?)?|[ _-]\d{1,2}|~\d)$", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant)]
    private static partial Regex NumberOfCopy();
}
