using System.Buffers.Binary;
using System.Diagnostics;
using System.Numerics;
using System.Text;
using Microsoft.Data.Sqlite;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;
using SQLitePCL;

namespace NeatCrate.Store;

/// <summary>
/// What searches of the catalogue ask, kept in memory beside the database: about 150 bytes for each media file. Words are
/// looked for in one run of bytes, which takes milliseconds for half a million files, for any part of a word; a page at any
/// place of the result costs no more than the first. It is read when somebody searches, and follows the folders that scans
/// write.
/// </summary>
internal sealed class CatalogueIndex(string connectionString)
{
    // From so many on, reading all of it is quicker than asking for each, and no statement names more.
    private const int MostFollowed = 10_000;

    private readonly Lock _lock = new();
    private readonly Lock _news = new();
    private HashSet<long>? _changed;
    private CatalogueSnapshot? _snapshot;
    private long _revision;

    /// <summary>Grows whenever something is written otherwise.</summary>
    public long Revision => Interlocked.Read(ref _revision);

    /// <summary>Says that files of these folders are written otherwise now.</summary>
    public void Changed(IEnumerable<long> folders)
    {
        Interlocked.Increment(ref _revision);
        lock (_news)
        {
            _changed?.UnionWith(folders);
        }
    }

    /// <summary>Says that anything may be written otherwise now.</summary>
    public void Reset()
    {
        Interlocked.Increment(ref _revision);
        lock (_news)
        {
            _changed = null;
        }
    }

    /// <summary>All that is written at this moment.</summary>
    public CatalogueSnapshot Now()
    {
        lock (_lock)
        {
            HashSet<long>? changed;
            lock (_news)
            {
                // From here on what is written counts as news again, so that nothing falls between reading and hearing.
                (changed, _changed) = (_changed, []);
            }
            try
            {
                return _snapshot = _snapshot is null || changed is null or { Count: > MostFollowed } ? CatalogueSnapshot.Read(connectionString)
                    : changed.Count == 0 ? _snapshot
                    : _snapshot.With(connectionString, changed);
            }
            catch
            {
                Reset();
                throw;
            }
        }
    }
}

/// <summary>All media files of the catalogue at one moment. Nothing in it changes; may be asked by several threads.</summary>
internal sealed class CatalogueSnapshot
{
    private const string Columns = "Id, FolderId, Bytes, ChangedTicks, Kind, Container, SampleRate, Channels, BitsPerSample, Seconds, SearchText, Name";

    private static readonly string[] Kinds = Enum.GetNames<MediaKind>();

    private readonly Lock _lock = new();
    private readonly Dictionary<CatalogueOrder, int[]> _orders = [];
    private readonly List<Folder> _folders;
    private readonly Dictionary<long, int> _folderNumbers;
    private readonly List<string> _containers;
    private Row[] _rows;
    private byte[] _text;
    private int _count;
    private int _textLength;
    // Places of the rows in the order of their names.
    private int[] _byName = [];
    private byte[] _plain = new byte[1024];
    private SuggestionKeys? _suggestions;

    private CatalogueSnapshot(int rows, int text, List<Folder> folders, List<string> containers)
    {
        (_rows, _text, _folders, _containers) = (new Row[rows], new byte[text], folders, containers);
        _folderNumbers = folders.Select((f, n) => (f.Id, n)).ToDictionary(f => f.Id, f => f.n);
    }

    private sealed record Folder(long Id, string Shelf, string Path);

    private struct Row
    {
        public long Id;
        public long Bytes;
        public long Ticks;
        public double Seconds;
        public int Folder;
        public int Rate;
        public int Text;
        public int Name;
        public int NameEnd;
        public short Channels;
        public short Bits;
        public short Container;
        public byte Kind;
    }

    /// <summary>Reads all of it.</summary>
    public static CatalogueSnapshot Read(string connectionString)
    {
        using var connection = Open(connectionString);
        var snapshot = new CatalogueSnapshot(1024, 1 << 16, [], []);
        snapshot.ReadFolders(connection, "");
        snapshot.ReadRows(connection, "");
        snapshot.SortByName(0);
        return snapshot;
    }

    /// <summary>The same after folders were written anew.</summary>
    public CatalogueSnapshot With(string connectionString, HashSet<long> changed)
    {
        using var connection = Open(connectionString);
        var snapshot = new CatalogueSnapshot(_count + 1024, _textLength + (1 << 16), [.. _folders], [.. _containers]);
        var among = $" IN ({string.Join(',', changed)})";
        snapshot.ReadFolders(connection, " WHERE Id" + among);
        var moved = new int[_count];
        for (var n = 0; n < _count; n++)
        {
            ref readonly var row = ref _rows[n];
            moved[n] = changed.Contains(_folders[row.Folder].Id) ? -1 : snapshot.Add(row, TextOf(n));
        }
        var kept = snapshot._count;
        snapshot._byName = [.. _byName.Select(n => moved[n]).Where(n => n >= 0)];
        snapshot.ReadRows(connection, " AND FolderId" + among);
        snapshot.SortByName(kept);
        return snapshot;
    }

    /// <summary>How many files there are that a query asks for, and the identities of those of its page, in order.</summary>
    /// <param name="query">The query.</param>
    /// <param name="words">Its words, folded.</param>
    /// <param name="shelfNames">Names of all shelves, folded, by their identities as the database has them.</param>
    public (int Total, IReadOnlyList<long> Ids) Find(CatalogueQuery query, IReadOnlyList<string> words, IReadOnlyDictionary<string, string> shelfNames)
    {
        var found = Filter(query);
        foreach (var word in words)
        {
            var having = Having(word, shelfNames);
            for (var n = 0; n < found.Length; n++)
            {
                found[n] &= having[n];
            }
        }
        var total = found.Sum(b => BitOperations.PopCount(b));
        var order = Order(query.Order, shelfNames);
        var (skip, take) = (Math.Min(query.Skip, total), Math.Clamp(query.Take, 0, total - Math.Min(query.Skip, total)));
        // From whichever end is nearer; ascending and descending are the same list read from its two ends.
        var fromEnd = skip > total - skip - take;
        var before = fromEnd ? total - skip - take : skip;
        var ids = new List<long>(take);
        var backwards = query.Descending != fromEnd;
        for (var n = 0; n < order.Length && ids.Count < take; n++)
        {
            var row = order[backwards ? order.Length - 1 - n : n];
            if ((found[row >> 6] & (1UL << (row & 63))) != 0 && --before < 0)
            {
                ids.Add(_rows[row].Id);
            }
        }
        if (fromEnd)
        {
            ids.Reverse();
        }
        return (total, ids);
    }

    /// <summary>True for a folder that is one of these, or in one of these; however many they are, only its own parents are looked at.</summary>
    private static bool IsWithinAny(string path, HashSet<string> folders)
    {
        for (var at = path; at.Length > 0; at = at.LastIndexOf('/') is > 0 and var up ? at[..up] : "")
        {
            if (folders.Contains(at))
            {
                return true;
            }
        }
        return folders.Contains("");
    }

    private ulong[] Filter(CatalogueQuery query)
    {
        var (shelf, except) = (query.ShelfId is { } id ? Catalogue.Text(id) : null, query.ExceptShelves.Select(Catalogue.Text).ToHashSet(StringComparer.Ordinal));
        var without = query.ExceptFolders.GroupBy(f => Catalogue.Text(f.ShelfId)).ToDictionary(g => g.Key, g => g.Select(f => f.Path).ToHashSet(StringComparer.Ordinal), StringComparer.Ordinal);
        var isOn = _folders.Select(f => (shelf is null || f.Shelf == shelf) && !except.Contains(f.Shelf) && !(without.TryGetValue(f.Shelf, out var left) && IsWithinAny(f.Path, left))).ToArray();
        var kind = query.Kind is { } wanted ? 1 + Array.IndexOf(Kinds, wanted.ToString()) : 0;
        var container = query.Container is { Length: > 0 } name ? _containers.IndexOf(name) : -2;
        var found = new ulong[(_count + 63) / 64];
        for (var n = 0; n < _count; n++)
        {
            ref readonly var row = ref _rows[n];
            if (isOn[row.Folder] && (kind == 0 || row.Kind == kind) && (container == -2 || row.Container == container) && (query.SampleRate is not { } rate || row.Rate == rate)
                // What has no length is neither short nor long.
                && (query.MinSeconds is not { } least || (row.Seconds >= 0 && row.Seconds >= least)) && (query.MaxSeconds is not { } most || (row.Seconds >= 0 && row.Seconds <= most)))
            {
                found[n >> 6] |= 1UL << (n & 63);
            }
        }
        return found;
    }

    /// <summary>The rows that have a word in their text, or that are on a shelf that has it in its name: whoever looks for "card rope" means the rope on the card.</summary>
    private ulong[] Having(string word, IReadOnlyDictionary<string, string> shelfNames)
    {
        var having = new ulong[(_count + 63) / 64];
        var named = _folders.Select(f => shelfNames.GetValueOrDefault(f.Shelf, "").Contains(word, StringComparison.Ordinal)).ToArray();
        if (named.Contains(true))
        {
            for (var n = 0; n < _count; n++)
            {
                having[n >> 6] |= named[_rows[n].Folder] ? 1UL << (n & 63) : 0;
            }
        }
        var bytes = Encoding.UTF8.GetBytes(word);
        var text = _text.AsSpan(0, _textLength);
        for (var (row, at) = (0, 0); at < text.Length;)
        {
            var next = text[at..].IndexOf(bytes);
            if (next < 0)
            {
                break;
            }
            row = RowAt(at + next, row);
            having[row >> 6] |= 1UL << (row & 63);
            at = row + 1 < _count ? _rows[row + 1].Text : text.Length;
        }
        return having;
    }

    /// <summary>The row whose text holds a place; no row before the given one does.</summary>
    private int RowAt(int place, int from)
    {
        // Mostly one of the next few: the steps grow until it is passed, then it is looked for between.
        var (low, step) = (from, 1);
        while (low + step < _count && _rows[low + step].Text <= place)
        {
            low += step;
            step *= 2;
        }
        var high = Math.Min(_count, low + step);
        while (high - low > 1)
        {
            var middle = (low + high) / 2;
            (low, high) = _rows[middle].Text <= place ? (middle, high) : (low, middle);
        }
        return low;
    }

    private int[] Order(CatalogueOrder order, IReadOnlyDictionary<string, string> shelfNames)
    {
        if (order == CatalogueOrder.Name)
        {
            return _byName;
        }
        lock (_lock)
        {
            // Names of shelves change without anything being written here.
            if (order != CatalogueOrder.Shelf && _orders.TryGetValue(order, out var known))
            {
                return known;
            }
            var folders = order switch
            {
                CatalogueOrder.Shelf => Ranks(f => shelfNames.GetValueOrDefault(f.Shelf, "")),
                CatalogueOrder.Folder => Ranks(f => Catalogue.Fold(f.Path)),
                _ => [],
            };
            var keys = new double[_count];
            for (var n = 0; n < _count; n++)
            {
                ref readonly var row = ref _rows[n];
                keys[n] = order switch
                {
                    CatalogueOrder.Shelf or CatalogueOrder.Folder => folders[row.Folder],
                    CatalogueOrder.Format => (row.Rate * 1e6) + (row.Bits * 1e3) + row.Channels,
                    CatalogueOrder.Bytes => row.Bytes,
                    CatalogueOrder.Length => row.Seconds,
                    CatalogueOrder.Changed => row.Ticks,
                    _ => throw new UnreachableException(),
                };
            }
            return _orders[order] = Sorted(_byName, n => InOrder(keys[n]));
        }
    }

    private int[] Ranks(Func<Folder, string> of)
    {
        var texts = _folders.Select(of).ToArray();
        var ranks = texts.Distinct(StringComparer.Ordinal).Order(StringComparer.Ordinal).Select((t, n) => (t, n)).ToDictionary(t => t.t, t => t.n, StringComparer.Ordinal);
        return [.. texts.Select(t => ranks[t])];
    }

    // ----- suggestions

    /// <summary>The files that may be lost ones: with the name, however it is written, or with size and time, or length and rate.</summary>
    /// <param name="lost">The lost files.</param>
    /// <returns>Identities of rows, in the order of <paramref name="lost"/>, those with the name first.</returns>
    public IReadOnlyList<IReadOnlyList<long>> Suggest(IReadOnlyList<LostFile> lost)
    {
        var keys = Suggestions();
        return [.. lost.Select(l => keys.SuggestionsFor(l).Select(n => _rows[n].Id).ToList())];
    }

    private SuggestionKeys Suggestions()
    {
        lock (_lock)
        {
            if (_suggestions is null)
            {
                var keys = new SuggestionKeys(_count);
                for (var n = 0; n < _count; n++)
                {
                    ref readonly var row = ref _rows[n];
                    // The length was worked out of samples and rate, and gives them back.
                    var samples = row.Seconds < 0 || row.Rate <= 0 ? -1 : (long)Math.Round(row.Seconds * row.Rate);
                    keys.Add(Encoding.UTF8.GetString(NameOf(n)), row.Bytes, row.Ticks, samples, row.Rate);
                }
                keys.Sort();
                _suggestions = keys;
            }
            return _suggestions;
        }
    }

    // ----- reading

    private ReadOnlySpan<byte> TextOf(int row) => _text.AsSpan(_rows[row].Text, (row + 1 < _count ? _rows[row + 1].Text : _textLength) - _rows[row].Text);

    private ReadOnlySpan<byte> NameOf(int row) => _text.AsSpan(_rows[row].Text + _rows[row].Name, _rows[row].NameEnd - _rows[row].Name);

    private int CompareNames(int a, int b) => NameOf(a).SequenceCompareTo(NameOf(b)) is not 0 and var order ? order : _rows[a].Id.CompareTo(_rows[b].Id);

    /// <summary>Puts the rows from a place on among those before it, which are in order already.</summary>
    private void SortByName(int from)
    {
        var come = Sorted(Sorted([.. Enumerable.Range(from, _count - from)], n => PartOfName(n, 8)), n => PartOfName(n, 0));
        // What begins alike is compared whole.
        for (var (first, n) = (0, 1); n <= come.Length; n++)
        {
            if (n == come.Length || PartOfName(come[n], 0) != PartOfName(come[first], 0) || PartOfName(come[n], 8) != PartOfName(come[first], 8))
            {
                come.AsSpan(first, n - first).Sort(CompareNames);
                first = n;
            }
        }
        var merged = new int[_count];
        var (known, next) = (0, 0);
        for (var n = 0; n < merged.Length; n++)
        {
            merged[n] = next == come.Length || (known < _byName.Length && CompareNames(_byName[known], come[next]) < 0) ? _byName[known++] : come[next++];
        }
        _byName = merged;
    }

    /// <summary>Eight bytes of a name from a place on, as a number that is ordered as they are.</summary>
    private ulong PartOfName(int row, int from)
    {
        var name = NameOf(row);
        Span<byte> part = stackalloc byte[8];
        part.Clear();
        name[Math.Min(from, name.Length)..Math.Min(from + 8, name.Length)].CopyTo(part);
        return BinaryPrimitives.ReadUInt64BigEndian(part);
    }

    /// <summary>A number that is ordered as a floating one is.</summary>
    private static ulong InOrder(double key)
    {
        var bits = BitConverter.DoubleToInt64Bits(key);
        return (ulong)(bits ^ ((bits >> 63) & long.MaxValue)) ^ (1UL << 63);
    }

    /// <summary>Sorts by a number; what has the same stays in its order. Digit by digit from the last, so that the time grows with the number of rows alone.</summary>
    private static int[] Sorted(int[] rows, Func<int, ulong> key)
    {
        const int Bits = 16;
        var (from, to) = (rows.Select(r => (Key: key(r), Row: r)).ToArray(), new (ulong Key, int Row)[rows.Length]);
        var starts = new int[1 << Bits];
        for (var shift = 0; shift < 64; shift += Bits)
        {
            Array.Clear(starts);
            foreach (var (k, _) in from)
            {
                starts[(k >> shift) & 0xFFFF]++;
            }
            if (from.Length == 0 || starts[(from[0].Key >> shift) & 0xFFFF] == from.Length)
            {
                // All have the same digit here.
                continue;
            }
            var start = 0;
            for (var digit = 0; digit < starts.Length; digit++)
            {
                (starts[digit], start) = (start, start + starts[digit]);
            }
            foreach (var entry in from)
            {
                to[starts[(entry.Key >> shift) & 0xFFFF]++] = entry;
            }
            (from, to) = (to, from);
        }
        return [.. from.Select(e => e.Row)];
    }

    private int Add(in Row row, ReadOnlySpan<byte> text)
    {
        Room(ref _rows, _count, 1);
        Room(ref _text, _textLength, text.Length);
        _rows[_count] = row with { Text = _textLength };
        text.CopyTo(_text.AsSpan(_textLength));
        _textLength += text.Length;
        return _count++;
    }

    private static void Room<T>(ref T[] array, int used, int more)
    {
        if (array.Length - used < more)
        {
            Array.Resize(ref array, Math.Max(checked(used + more), (int)Math.Min(Array.MaxLength, array.Length * 2L)));
        }
    }

    private void ReadFolders(SqliteConnection connection, string where)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT Id, ShelfId, Path FROM CatalogueFolders" + where;
        using var row = command.ExecuteReader();
        while (row.Read())
        {
            var folder = new Folder(row.GetInt64(0), row.GetString(1), row.GetString(2));
            if (!_folderNumbers.ContainsKey(folder.Id))
            {
                _folderNumbers[folder.Id] = _folders.Count;
                _folders.Add(folder);
            }
        }
    }

    private void ReadRows(SqliteConnection connection, string where)
    {
        if (raw.sqlite3_prepare_v2(connection.Handle!, $"SELECT {Columns} FROM CatalogueFiles WHERE Kind IS NOT NULL{where}", out var statement) != raw.SQLITE_OK)
        {
            throw new IOException($"The catalogue cannot be read: {raw.sqlite3_errmsg(connection.Handle!).utf8_to_string()}.");
        }
        using (statement)
        {
            int answer;
            while ((answer = raw.sqlite3_step(statement)) == raw.SQLITE_ROW)
            {
                // A folder that came after the folders were read is told as news, and read the next time.
                if (_folderNumbers.TryGetValue(raw.sqlite3_column_int64(statement, 1), out var folder))
                {
                    Add(statement, folder);
                }
            }
            if (answer != raw.SQLITE_DONE)
            {
                throw new IOException($"The catalogue cannot be read: {raw.sqlite3_errmsg(connection.Handle!).utf8_to_string()}.");
            }
        }
    }

    private void Add(sqlite3_stmt row, int folder)
    {
        var text = raw.sqlite3_column_type(row, 10) == raw.SQLITE_NULL ? PlainText(_folders[folder].Path, raw.sqlite3_column_blob(row, 11)) : raw.sqlite3_column_blob(row, 10);
        // Path first, then what the file carries about itself; the name is the end of the path.
        var end = text.IndexOf((byte)'\n') is var line && line < 0 ? text.Length : line;
        var kind = raw.sqlite3_column_text(row, 4).utf8_to_string();
        Add(
            new Row
            {
                Id = raw.sqlite3_column_int64(row, 0),
                Folder = folder,
                Bytes = raw.sqlite3_column_int64(row, 2),
                Ticks = raw.sqlite3_column_int64(row, 3),
                Kind = (byte)(1 + Array.IndexOf(Kinds, kind)),
                Container = Container(row),
                Rate = Number(row, 6),
                Channels = (short)Number(row, 7),
                Bits = (short)Number(row, 8),
                Seconds = raw.sqlite3_column_type(row, 9) == raw.SQLITE_NULL ? -1 : raw.sqlite3_column_double(row, 9),
                Name = text[..end].LastIndexOf((byte)'/') + 1,
                NameEnd = end,
            },
            text);
        // No word reaches from one file to the next.
        Room(ref _text, _textLength, 1);
        _text[_textLength++] = 0;
    }

    private ReadOnlySpan<byte> PlainText(string folder, ReadOnlySpan<byte> name)
    {
        Room(ref _plain, 0, folder.Length + 1 + name.Length);
        _ = Ascii.ToLower(folder, _plain, out var head);
        if (head > 0)
        {
            _plain[head++] = (byte)'/';
        }
        _ = Ascii.ToLower(name, _plain.AsSpan(head), out var tail);
        return _plain.AsSpan(0, head + tail);
    }

    private short Container(sqlite3_stmt row)
    {
        if (raw.sqlite3_column_type(row, 5) == raw.SQLITE_NULL)
        {
            return -1;
        }
        var name = raw.sqlite3_column_text(row, 5).utf8_to_string();
        var known = _containers.IndexOf(name);
        if (known < 0)
        {
            known = _containers.Count;
            _containers.Add(name);
        }
        return (short)known;
    }

    /// <summary>A number; -1 for none.</summary>
    private static int Number(sqlite3_stmt row, int column) => raw.sqlite3_column_type(row, column) == raw.SQLITE_NULL ? -1 : raw.sqlite3_column_int(row, column);

    private static SqliteConnection Open(string connectionString)
    {
        var connection = new SqliteConnection(connectionString);
        connection.Open();
        return connection;
    }
}
