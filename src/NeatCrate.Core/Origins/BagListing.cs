using System.Collections;
using System.Text;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Origins;

/// <summary>
/// The files of a bundle in little room, since one may have very many and is known as long as its shelf is: their names are one row of UTF-8, and
/// each file is made anew for whoever asks.
/// </summary>
public sealed class BagListing : IReadOnlyList<BagEntry>
{
    private readonly byte[] _names;
    private readonly int[] _ends;
    private readonly ContentHash[] _hashes;
    private readonly (long Bytes, long Ticks)[] _facts;

    /// <summary>Takes in the files.</summary>
    /// <param name="entries">The files, in the order that they keep.</param>
    public BagListing(IEnumerable<BagEntry> entries)
    {
        ArgumentNullException.ThrowIfNull(entries);
        var (names, ends, hashes, facts) = (new MemoryStream(), new List<int>(), new List<ContentHash>(), new List<(long, long)>());
        foreach (var entry in entries)
        {
            names.Write(Encoding.UTF8.GetBytes(entry.Name));
            ends.Add((int)names.Length);
            hashes.Add(entry.Hash);
            facts.Add((entry.Bytes, entry.ModifiedUtc.Ticks));
        }
        (_names, _ends, _hashes, _facts) = (names.ToArray(), [.. ends], [.. hashes], [.. facts]);
    }

    /// <inheritdoc/>
    public int Count => _ends.Length;

    /// <inheritdoc/>
    public BagEntry this[int index]
    {
        get
        {
            var start = index == 0 ? 0 : _ends[index - 1];
            return new BagEntry(Encoding.UTF8.GetString(_names, start, _ends[index] - start), _hashes[index], _facts[index].Bytes, new DateTime(_facts[index].Ticks, DateTimeKind.Utc));
        }
    }

    /// <inheritdoc/>
    public IEnumerator<BagEntry> GetEnumerator()
    {
        for (var n = 0; n < Count; n++)
        {
            yield return this[n];
        }
    }

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();
}
