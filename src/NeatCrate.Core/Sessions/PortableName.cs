using System.Text;

namespace NeatCrate.Core.Sessions;

/// <summary>
/// Names that Windows, macOS and Linux all accept. Rules: no <c>&lt; &gt; : " / \ | ? *</c> or control characters, no
/// trailing dot or space, no device names, at most 255 bytes (Microsoft: "Naming Files, Paths, and Namespaces";
/// the 255 bytes are Linux's NAME_MAX).
/// </summary>
public static class PortableName
{
    /// <summary>Most bytes (UTF-8) a name may have.</summary>
    public const int MaxBytes = 255;

    /// <summary>Most characters a whole path may have on the recipient's side.</summary>
    public const int MaxPathCharacters = 259;

    private const int MaxExtension = 16;

    private const string Refused = "<>:\"/\\|?*";

    private static readonly HashSet<string> Devices = new(
        // The superscripts 1 to 3 count as digits there, too ("Naming Files, Paths, and Namespaces").
        ["CON", "PRN", "AUX", "NUL", .. "123456789\u00B9\u00B2\u00B3".SelectMany(n => new[] { $"COM{n}", $"LPT{n}" })],
        StringComparer.OrdinalIgnoreCase);

    /// <summary>What is wrong with a name; empty when it is portable.</summary>
    public static IReadOnlyList<Fault> Problems(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        var problems = new List<Fault>();
        if (name.Length == 0)
        {
            problems.Add(new Fault(FaultCode.NameEmpty));
            return problems;
        }
        if (name is "." or "..")
        {
            problems.Add(new Fault(FaultCode.NameIsADot));
            return problems;
        }
        var refused = string.Concat(name.Where(c => Refused.Contains(c, StringComparison.Ordinal)).Distinct());
        if (refused.Length > 0)
        {
            problems.Add(new Fault(FaultCode.NameHoldsRefused) { Name = string.Join(' ', refused.AsEnumerable()) });
        }
        if (name.Any(char.IsControl))
        {
            problems.Add(new Fault(FaultCode.NameHoldsInvisible));
        }
        if (!IsValidUnicode(name))
        {
            problems.Add(new Fault(FaultCode.NameNotText));
        }
        if (name[^1] is '.' or ' ')
        {
            problems.Add(new Fault(FaultCode.NameEndsInDotOrSpace));
        }
        if (Devices.Contains(name.Split('.')[0].TrimEnd(' ')))
        {
            problems.Add(new Fault(FaultCode.NameIsADevice) { Name = name.Split('.')[0].TrimEnd(' ').ToUpperInvariant() });
        }
        if (Encoding.UTF8.GetByteCount(name) > MaxBytes)
        {
            problems.Add(new Fault(FaultCode.NameTooLong) { Expected = MaxBytes });
        }
        return problems;
    }

    /// <summary>The nearest portable name; the same name when it is portable already. The extension is kept.</summary>
    public static string Suggest(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        if (name.Length > 0 && Problems(name).Count == 0)
        {
            return name;
        }
        var clean = new StringBuilder();
        foreach (var rune in name.EnumerateRunes())
        {
            if (!Rune.IsControl(rune) && rune != Rune.ReplacementChar)
            {
                clean.Append(rune.IsBmp && Refused.Contains((char)rune.Value, StringComparison.Ordinal) ? "-" : rune.ToString());
            }
        }
        var text = clean.ToString().Trim().TrimEnd('.', ' ');
        var (stem, extension) = Split(text);
        // A dash is only worth keeping between two words: "bottle: high?" reads best as "bottle high".
        stem = stem.Replace("- ", " ", StringComparison.Ordinal).Trim('-', ' ').TrimEnd('.', ' ');
        if (stem.Length == 0)
        {
            stem = "untitled";
        }
        if (Devices.Contains(stem.Split('.')[0].TrimEnd(' ')))
        {
            stem = "_" + stem;
        }
        return Shorten(stem, MaxBytes - Encoding.UTF8.GetByteCount(extension)) + extension;
    }

    /// <summary>Two names clash when they have the same key: they differ at most by case or by Unicode normal form.</summary>
    public static string ClashKey(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        if (Ascii.IsValid(name))
        {
            // Most names: no letter of theirs is composed, and each has one small form.
            return name.ToLowerInvariant();
        }
        return IsValidUnicode(name) ? Composed(name).ToUpperInvariant().ToLowerInvariant() : name;
    }

    /// <summary>The name with its letters composed (Unicode's form C); as it is where it holds what is no text, of which nothing can be composed.</summary>
    public static string Composed(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return Ascii.IsValid(name) || !IsValidUnicode(name) ? name : name.Normalize(NormalizationForm.FormC);
    }

    /// <summary>The name, or the name with the least number behind its stem that clashes with none in <paramref name="taken"/>.</summary>
    /// <param name="name">The wished name.</param>
    /// <param name="taken">Clash keys of the names that are taken.</param>
    public static string Free(string name, IReadOnlySet<string> taken)
    {
        ArgumentNullException.ThrowIfNull(taken);
        if (!taken.Contains(ClashKey(name)))
        {
            return name;
        }
        var (stem, extension) = Split(name);
        for (var n = 2; ; n++)
        {
            var tail = $" {n}{extension}";
            var numbered = Shorten(stem, MaxBytes - Encoding.UTF8.GetByteCount(tail)) + tail;
            if (!taken.Contains(ClashKey(numbered)))
            {
                return numbered;
            }
        }
    }

    /// <summary>Stem and extension. What is long or holds a space after the last dot is no extension.</summary>
    private static (string Stem, string Extension) Split(string name)
    {
        var extension = Path.GetExtension(name);
        return extension.Length is > 1 and <= MaxExtension && !extension.Contains(' ', StringComparison.Ordinal) && extension.Length < name.Length
            ? (name[..^extension.Length], extension)
            : (name, "");
    }

    private static string Shorten(string text, int bytes)
    {
        if (Encoding.UTF8.GetByteCount(text) <= bytes)
        {
            return text;
        }
        var kept = new StringBuilder();
        var used = 0;
        foreach (var rune in text.EnumerateRunes())
        {
            if (used + rune.Utf8SequenceLength > bytes)
            {
                break;
            }
            used += rune.Utf8SequenceLength;
            kept.Append(rune.ToString());
        }
        return kept.ToString().TrimEnd('.', ' ');
    }

    private static bool IsValidUnicode(string name)
    {
        foreach (var rune in name.EnumerateRunes())
        {
            // The other is a byte order mark that was read in the wrong order: no letter (Unicode, section 23.8).
            if (rune == Rune.ReplacementChar || rune.Value == 0xFFFE)
            {
                return false;
            }
        }
        return true;
    }
}
