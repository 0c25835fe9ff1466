using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace NeatCrate.Core.Names;

/// <summary>Exchanges names in the text of a document, each in the way in which it is written there; everything else stays.</summary>
/// <param name="document">The document.</param>
/// <param name="all">All names in it, as they are read: how they are written tells how others are to be.</param>
internal sealed partial class NameExchange(DocumentText document, IReadOnlyCollection<string> all)
{
    private const string CharactersBegin = "<![CDATA[";

    // So many names are asked how they are written.
    private const int MostAsked = 200;
    private readonly NameSpelling[] _spellings = [.. NameSpelling.In(document.Kind)];
    private readonly bool _hasCharacters = document.Text.Contains(CharactersBegin, StringComparison.Ordinal);
    private readonly Lazy<(bool Is, bool IsNot)> _percent = new(() => PercentIn(document, all));

    private sealed record Place(int At, string Name, string Was, string Is);

    /// <summary>The document with other names.</summary>
    /// <param name="names">What is written for each name: both as they are read.</param>
    /// <param name="times">How often each name stands there.</param>
    /// <returns>Its bytes.</returns>
    /// <exception cref="FaultException">
    /// One of them cannot be written there (<see cref="FaultCode.NameCannotBeWritten"/>, <see cref="FaultCode.NameStatesItsLength"/>), or
    /// does not stand there as often as it was read (<see cref="FaultCode.NamesWouldDiffer"/>).
    /// </exception>
    public byte[] With(IReadOnlyDictionary<string, string> names, IReadOnlyDictionary<string, int> times)
    {
        var places = new SortedDictionary<int, Place>();
        // A longer name that ends alike is another one: it stays as it is, and what stands in it does.
        var longer = all.Where(n => !names.ContainsKey(n) && names.Keys.Any(k => n.Length > k.Length && n.EndsWith(k, StringComparison.Ordinal))).Distinct(StringComparer.Ordinal);
        foreach (var (name, other) in names.Select(n => (n.Key, (string?)n.Value)).Concat(longer.Select(n => (n, (string?)null))))
        {
            foreach (var place in PlacesOf(name, other))
            {
                // Of two that begin at one place the longer one stands there.
                if (!places.TryGetValue(place.At, out var known) || known.Was.Length < place.Was.Length)
                {
                    places[place.At] = place;
                }
            }
        }
        var (text, end) = (new StringBuilder(document.Text.Length), 0);
        var exchanged = names.Keys.ToDictionary(n => n, _ => 0, StringComparer.Ordinal);
        foreach (var place in places.Values)
        {
            // A name within another one that is exchanged goes with that.
            if (place.At >= end)
            {
                text.Append(document.Text, end, place.At - end).Append(place.Is);
                end = place.At + place.Was.Length;
                if (exchanged.TryGetValue(place.Name, out var known))
                {
                    exchanged[place.Name] = known + 1;
                }
            }
        }
        if (names.Keys.Any(n => exchanged[n] != times[n]))
        {
            // It stands there in a way that is not known, or where it is no name.
            throw new FaultException(FaultCode.NamesWouldDiffer);
        }
        text.Append(document.Text, end, document.Text.Length - end);
        return document.With(text.ToString());
    }

    /// <summary>Where a name stands; without another one in its place it stays.</summary>
    private IEnumerable<Place> PlacesOf(string name, string? other)
    {
        foreach (var spelled in _spellings.GroupBy(s => s.Of(name), StringComparer.Ordinal))
        {
            for (var at = document.Text.IndexOf(spelled.Key, StringComparison.Ordinal); at >= 0; at = document.Text.IndexOf(spelled.Key, at + 1, StringComparison.Ordinal))
            {
                if (Fitting(spelled, at, name) is { Count: > 0 } fitting)
                {
                    if (other is not null)
                    {
                        RequireNoLength(at, name, other);
                    }
                    yield return new Place(at, name, spelled.Key, other is null ? spelled.Key : Written(fitting, other));
                }
            }
        }
    }

    /// <summary>The ways in which it may be written at a place.</summary>
    private List<NameSpelling> Fitting(IEnumerable<NameSpelling> spellings, int at, string name)
    {
        var fitting = spellings.ToList();
        if (document.Kind == TextKind.Xml)
        {
            // In a section of characters nothing is escaped (XML 1.0, section 2.7).
            var isCharacters = _hasCharacters && document.Text.LastIndexOf(CharactersBegin, at, StringComparison.Ordinal) is var open and >= 0 && document.Text.LastIndexOf("]]>", at, StringComparison.Ordinal) < open;
            fitting.RemoveAll(s => s.Escape == NameEscape.None != isCharacters);
        }
        var (isPercent, isNot) = (fitting.Exists(s => s.Percent is not null), fitting.Exists(s => s.Percent is null));
        if (isPercent && isNot)
        {
            var isEncoded = name.StartsWith("file:", StringComparison.OrdinalIgnoreCase) ? !_percent.Value.IsNot || _percent.Value.Is : _percent.Value is { Is: true, IsNot: false };
            fitting.RemoveAll(s => s.Percent is null == isEncoded);
        }
        return fitting;
    }

    /// <summary>The other name as it is written in that way; where several are possible and do not mean the same, it cannot be.</summary>
    private string Written(List<NameSpelling> fitting, string other)
    {
        var ways = fitting.Select(s => s.Escape).Distinct().ToList();
        var first = fitting[0];
        var isOne = document.Kind != TextKind.Plain || ways.TrueForAll(w => (first with { Escape = w }).Of(other) == first.Of(other));
        if (!isOne || (document.TakesOnlyAscii && !Ascii.IsValid(first.Of(other))))
        {
            throw new FaultException(new Fault(FaultCode.NameCannotBeWritten) { Names = [other] });
        }
        return first.Of(other);
    }

    /// <summary>A name whose length stands before it would be read wrongly once it is longer or shorter.</summary>
    private void RequireNoLength(int at, string name, string other)
    {
        var before = LengthBefore().Match(document.Text[Math.Max(0, at - 16)..at]);
        if (before.Success && int.TryParse(before.Groups[1].ValueSpan, NumberStyles.None, CultureInfo.InvariantCulture, out var length)
            && (length == name.Length || length == Encoding.UTF8.GetByteCount(name)))
        {
            throw new FaultException(new Fault(FaultCode.NameStatesItsLength) { Name = name, Other = other });
        }
    }

    private static (bool Is, bool IsNot) PercentIn(DocumentText document, IReadOnlyCollection<string> all)
    {
        var style = new PercentStyle(true, false, true);
        var (isEncoded, isNot) = (false, false);
        foreach (var name in all.Where(n => style.Of(n) != n).Take(MostAsked))
        {
            isNot |= document.Text.Contains(name, StringComparison.Ordinal);
            isEncoded |= NameSpelling.In(TextKind.Plain).Any(s => s.Percent is not null && document.Text.Contains(s.Of(name), StringComparison.Ordinal));
        }
        return (isEncoded, isNot);
    }

    [GeneratedRegex("""(?<![\d.])(\d{1,5})\s{0,2}[:;,=(]?\s{0,2}["']?$""")]
    private static partial Regex LengthBefore();
}
