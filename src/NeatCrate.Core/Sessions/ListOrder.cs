using System.Collections.Immutable;

namespace NeatCrate.Core.Sessions;

/// <summary>
/// The order of a document's list with the entries that are off it for now, so that each comes back to its place, in whatever rounds
/// they went and come.
/// </summary>
/// <param name="Document">The document's path from the session folder.</param>
/// <param name="Urls">Pointers, in order.</param>
public sealed record ListOrder(string Document, ImmutableArray<string> Urls)
{
    /// <summary>The order with what the list says now: its entries stand as they do there, and those that are off it behind the ones that they stood behind.</summary>
    /// <param name="list">Pointers of the entries on the list, in its order.</param>
    public ListOrder With(IReadOnlyList<string> list)
    {
        ArgumentNullException.ThrowIfNull(list);
        var on = Counted(list).ToHashSet();
        // What stood before each entry of the list, and behind the last one of the list before it.
        var off = new Dictionary<(string Url, int Which), List<string>>();
        var behind = (Url: "", Which: 0);
        foreach (var key in Counted(Urls))
        {
            if (on.Contains(key))
            {
                behind = key;
            }
            else
            {
                (off.TryGetValue(behind, out var those) ? those : off[behind] = []).Add(key.Url);
            }
        }
        var order = ImmutableArray.CreateBuilder<string>();
        order.AddRange(off.GetValueOrDefault(("", 0)) ?? []);
        foreach (var key in Counted(list))
        {
            order.Add(key.Url);
            if (off.Remove(key, out var those))
            {
                order.AddRange(those);
            }
        }
        return this with { Urls = order.ToImmutable() };
    }

    /// <summary>Puts entries on the list, each behind the last of those that stood before it; one whose place is not known comes to the end.</summary>
    /// <param name="list">Pointers of the entries on the list, in its order.</param>
    /// <param name="coming">The pointers that the entries had, in the order in which they come.</param>
    /// <returns>The place of each at the moment when it comes, counted from 0.</returns>
    public IReadOnlyList<int> PlacesOf(IReadOnlyList<string> list, IEnumerable<string> coming)
    {
        ArgumentNullException.ThrowIfNull(list);
        ArgumentNullException.ThrowIfNull(coming);
        var numbers = new Dictionary<(string Url, int Which), int>();
        foreach (var (number, key) in Counted(Urls).Index())
        {
            numbers[key] = number;
        }
        // Entries of the list by their numbers in the order; one that is not in it has none.
        var then = Counted(list).Select(k => numbers.TryGetValue(k, out var number) ? number : (int?)null).ToList();
        var places = new List<int>();
        foreach (var key in Counted(list.Concat(coming)).Skip(list.Count))
        {
            int? own = numbers.TryGetValue(key, out var number) ? number : null;
            var at = own is null ? then.Count : then.FindLastIndex(n => n < own) + 1;
            then.Insert(at, own);
            places.Add(at);
        }
        return places;
    }

    /// <summary>A pointer may stand on a list more than once: each with how many of its like stood before it.</summary>
    private static IEnumerable<(string Url, int Which)> Counted(IEnumerable<string> urls)
    {
        var counts = new Dictionary<string, int>(StringComparer.Ordinal);
        foreach (var url in urls)
        {
            counts[url] = counts.GetValueOrDefault(url) + 1;
            yield return (url, counts[url]);
        }
    }
}
