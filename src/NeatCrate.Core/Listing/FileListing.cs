using NeatCrate.Core.Inventory;

namespace NeatCrate.Core.Listing;

/// <summary>Files of a list that belong together.</summary>
/// <param name="Title">What they have in common.</param>
/// <param name="Files">How many.</param>
/// <param name="Bytes">Their bytes, those that are away as they were last seen.</param>
public sealed record FileGroup(string Title, int Files, long Bytes);

/// <summary>The files that a query asks for, in order. A file that changed is put in its place without the others being sorted again.</summary>
internal sealed class FileListing
{
    private readonly FileQuery _query;
    private readonly Predicate<ListedFile> _filter;
    private readonly Comparison<Entry> _order;
    private readonly List<Entry> _entries;
    private readonly Dictionary<string, Entry> _byPath = new(StringComparer.Ordinal);
    private readonly SortedDictionary<GroupKey, (int Files, long Bytes)> _groups = [];

    public FileListing(FileQuery query, IEnumerable<ListedFile> files)
    {
        (_query, _filter, _order) = (query, query.Filter(), Compare);
        _entries = [.. files.Where(f => _filter(f)).Select(EntryOf)];
        _entries.Sort(_order);
        foreach (var entry in _entries)
        {
            _byPath[entry.File.File.Path] = entry;
            Weigh(entry, 1);
        }
    }

    private readonly record struct GroupKey(double Number, string Text, string Title) : IComparable<GroupKey>
    {
        public int CompareTo(GroupKey other) => Number != other.Number ? Number.CompareTo(other.Number) : string.CompareOrdinal(Text, other.Text);
    }

    private sealed record Entry(ListedFile File, GroupKey Group, double Number, string Text);

    public int Count => _entries.Count;

    public IEnumerable<ListedFile> Files => _entries.Select(e => e.File);

    public IReadOnlyList<FileGroup> Groups => [.. _groups.Where(_ => _query.Grouping != FileGrouping.None).Select(g => new FileGroup(g.Key.Title, g.Value.Files, g.Value.Bytes))];

    public IReadOnlyList<ListedFile> Part(int skip, int take)
    {
        var from = Math.Clamp(skip, 0, _entries.Count);
        return [.. _entries.GetRange(from, Math.Clamp(take, 0, _entries.Count - from)).Select(e => e.File)];
    }

    /// <summary>The place of a file in the list, from 0; null where it is not in it.</summary>
    public int? IndexOf(string path) => _byPath.TryGetValue(path, out var entry) ? IndexOf(entry) : null;

    /// <summary>Puts a file in its place, as it is now.</summary>
    /// <param name="path">Its path.</param>
    /// <param name="now">The file; null where it is gone.</param>
    public void Put(string path, ListedFile? now)
    {
        if (_byPath.Remove(path, out var before))
        {
            _entries.RemoveAt(IndexOf(before));
            Weigh(before, -1);
        }
        if (now is not null && _filter(now))
        {
            var entry = EntryOf(now);
            _entries.Insert(~IndexOf(entry), entry);
            _byPath[path] = entry;
            Weigh(entry, 1);
        }
    }

    private int IndexOf(Entry entry) => _entries.BinarySearch(entry, Comparer<Entry>.Create(_order));

    private void Weigh(Entry entry, int sign)
    {
        var (files, bytes) = _groups.GetValueOrDefault(entry.Group);
        _groups[entry.Group] = (files + sign, bytes + (sign * (entry.File.File.Known?.Bytes ?? 0)));
        if (files + sign == 0)
        {
            _groups.Remove(entry.Group);
        }
    }

    private int Compare(Entry a, Entry b)
    {
        if (a.Group.CompareTo(b.Group) is not 0 and var group)
        {
            return group;
        }
        var order = a.Number.CompareTo(b.Number);
        order = order != 0 ? order : string.CompareOrdinal(a.Text, b.Text);
        order = order != 0 ? order : string.CompareOrdinal(a.File.File.ShownPath, b.File.File.ShownPath);
        // One path is one file: no two places in the list are the same.
        order = order != 0 ? order : string.CompareOrdinal(a.File.File.Path, b.File.File.Path);
        return _query.Descending ? -order : order;
    }

    private Entry EntryOf(ListedFile file)
    {
        var (number, text) = SortKey(file, _query.Order);
        return new Entry(file, GroupOf(file, _query.Grouping), number, text);
    }

    private static GroupKey GroupOf(ListedFile file, FileGrouping grouping) => grouping switch
    {
        FileGrouping.None => new GroupKey(0, "", ""),
        FileGrouping.Standing => new GroupKey(Urgency(file.File.Standing), "", file.File.Standing.ToString().ToLowerInvariant()),
        FileGrouping.StandsOn => new GroupKey(0, Lower(file.StandsOn) + "\n" + file.StandsOn, file.StandsOn),
        FileGrouping.Track => new GroupKey(file.Take?.Track is null ? 1 : 0, Lower(file.Take?.Track ?? "") + "\n" + file.Take?.Track, file.Take?.Track ?? "no track fits"),
        FileGrouping.Pass => new GroupKey(-file.Take?.Pass ?? 1, "", file.Take?.Pass is { } pass ? $"pass {pass}" : "pass not known"),
        _ => throw new ArgumentOutOfRangeException(nameof(grouping), grouping, "There is no such grouping."),
    };

    private static (double Number, string Text) SortKey(ListedFile listed, FileOrder order)
    {
        var (file, take) = (listed.File, listed.Take);
        return order switch
        {
            FileOrder.Standing => (Urgency(file.Standing), ""),
            FileOrder.Name => (0, Lower(file.Name)),
            FileOrder.InUse => (file.Used.Sum(u => u.Length) / (double)Math.Max(1, file.Known?.LengthSamples ?? 1), ""),
            FileOrder.StandsOn => (0, Lower(listed.StandsOn)),
            FileOrder.Use => ((int)file.Use - (1 - (1 / (1.0 + file.PlacedTimes + file.NamedTimes))), ""),
            FileOrder.Length => (file.Known?.LengthSeconds ?? -1, ""),
            FileOrder.Format => (((file.Known?.SampleRate ?? 0) * 1e6) + ((file.Known?.BitsPerSample ?? 0) * 1e3) + (file.Known?.Channels ?? 0), ""),
            FileOrder.Bytes => (file.Known?.Bytes ?? 0, ""),
            FileOrder.Track => (take?.Track is null ? 1 : 0, $"{Lower(take?.Track ?? "")} {take?.Number ?? 0:000000}"),
            FileOrder.Take => (take?.Number ?? -1, ""),
            FileOrder.Pass => (take?.Pass ?? -1, ""),
            FileOrder.Start => (take?.StartSamples is { } start && file.Header is { } header ? start / (double)header.SampleRate : double.NegativeInfinity, ""),
            FileOrder.Changed => (file.Known?.ModifiedUtc.Ticks ?? 0, ""),
            _ => throw new ArgumentOutOfRangeException(nameof(order), order, "There is no such order."),
        };
    }

    /// <summary>What needs somebody comes first.</summary>
    private static int Urgency(Standing standing) => standing switch { Standing.Missing => 0, Standing.Away => 1, Standing.Outside => 2, _ => 3 };

    private static string Lower(string text) => text.ToLowerInvariant();
}
