using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Record;

namespace NeatCrate.Core.Listing;

/// <summary>A part of a list of files.</summary>
/// <param name="Revision">The revision of the inventory that it is from.</param>
/// <param name="Total">How many files the list has.</param>
/// <param name="All">How many it would have without being narrowed by words, segments or a place.</param>
/// <param name="Groups">Its groups in order; empty where it is not grouped.</param>
/// <param name="Files">The files of the part.</param>
/// <param name="Markable">How many files of the list can be marked.</param>
/// <param name="Marked">How many of these are marked, as far as it is known here.</param>
public sealed record FilePart(long Revision, int Total, int All, IReadOnlyList<FileGroup> Groups, IReadOnlyList<ListedFile> Files, int Markable, int Marked);

/// <summary>
/// The files of one session as lists show them: sorted, grouped, filtered and counted here, so that a page asks for the rows
/// that are in sight. All of it follows a change by what changed. May be asked by several threads.
/// </summary>
/// <param name="kept">The session's inventory; it has been looked at before anything is asked here.</param>
public sealed class SessionListing(KeptInventory kept)
{
    /// <summary>So many files are named that stand outside.</summary>
    public const int MostNamed = 5;

    // What several pages look at, each in its own order; one that is asked for again later is sorted again.
    private const int MostLists = 8;

    private readonly Lock _lock = new();
    private readonly Dictionary<string, ListedFile> _files = new(StringComparer.Ordinal);
    private readonly List<(string Key, FileListing Listing)> _lists = [];
    private SessionInventory? _inventory;
    private OutsideFiles? _outside;
    private OverviewCounter? _counter;
    private long _revision = -1;

    /// <summary>What the files come to.</summary>
    /// <param name="outside">Where outside files come from, and which are left out.</param>
    /// <returns>The inventory and its overview.</returns>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public (SessionInventory Inventory, SessionOverview Overview) Overview(OutsideFiles outside)
    {
        lock (_lock)
        {
            BringUpToDate(outside);
            return (_inventory!, _counter!.Overview(_inventory!, MostNamed));
        }
    }

    /// <summary>A part of the files that a query asks for.</summary>
    /// <param name="query">The query.</param>
    /// <param name="skip">So many files of the list come before.</param>
    /// <param name="take">So many files at the most.</param>
    /// <param name="outside">Where outside files come from, and which are left out.</param>
    /// <param name="isMarkable">Tells which files can be marked; null where none are.</param>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public FilePart Part(FileQuery query, int skip, int take, OutsideFiles outside, Predicate<ListedFile>? isMarkable = null)
    {
        lock (_lock)
        {
            var list = List(query, outside);
            var (markable, marked) = (0, 0);
            foreach (var file in isMarkable is null ? [] : list.Files.Where(f => isMarkable(f)))
            {
                markable++;
                marked += outside.IsLeftOut(file.File, file.Origin) ? 0 : 1;
            }
            return new FilePart(_revision, list.Count, query.Of == FileSubset.Takes ? _counter!.Takes : _files.Count, list.Groups, list.Part(skip, take), markable, marked);
        }
    }

    /// <summary>Identities of the files that a query asks for, in order.</summary>
    /// <param name="query">The query.</param>
    /// <param name="skip">So many files of the list come before.</param>
    /// <param name="take">So many files at the most.</param>
    /// <param name="outside">Where outside files come from, and which are left out.</param>
    /// <param name="isMarkable">Only files that can be marked; null for all.</param>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public IReadOnlyList<string> Ids(FileQuery query, int skip, int take, OutsideFiles outside, Predicate<ListedFile>? isMarkable = null)
    {
        lock (_lock)
        {
            return [.. List(query, outside).Part(skip, take).Where(f => isMarkable?.Invoke(f) ?? true).Select(f => f.File.Id)];
        }
    }

    /// <summary>The place of a file in what a query asks for, from 0; null where it is not among it.</summary>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public int? IndexOf(FileQuery query, string path, OutsideFiles outside)
    {
        lock (_lock)
        {
            return List(query, outside).IndexOf(path);
        }
    }

    /// <summary>One file; null where the session has none of this path.</summary>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public ListedFile? Find(string path, OutsideFiles outside)
    {
        lock (_lock)
        {
            BringUpToDate(outside);
            return _files.GetValueOrDefault(path);
        }
    }

    /// <summary>All files, in no order.</summary>
    /// <exception cref="FaultException">The session folder cannot be reached.</exception>
    public IReadOnlyList<ListedFile> All(OutsideFiles outside)
    {
        lock (_lock)
        {
            BringUpToDate(outside);
            return [.. _files.Values];
        }
    }

    private FileListing List(FileQuery query, OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(query);
        BringUpToDate(outside);
        var key = query.Key;
        var at = _lists.FindIndex(l => l.Key == key);
        var list = at >= 0 ? _lists[at] : (Key: key, Listing: new FileListing(query, _files.Values));
        if (at >= 0)
        {
            _lists.RemoveAt(at);
        }
        _lists.Insert(0, list);
        if (_lists.Count > MostLists)
        {
            _lists.RemoveAt(MostLists);
        }
        return list.Listing;
    }

    private void BringUpToDate(OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(outside);
        var changes = kept.Since(_revision);
        var isWhole = changes.IsWhole || _outside is null || !_outside.HasSamePlaces(outside);
        var isCounted = !isWhole && ReferenceEquals(_outside!.Marks.Places, outside.Marks.Places) && ReferenceEquals(_outside.Marks.Files, outside.Marks.Files)
            && ReferenceEquals(_outside.Marks.LeftOutKinds, outside.Marks.LeftOutKinds);
        (_inventory, _outside, _revision) = (changes.Inventory, outside, changes.Inventory.Revision);
        if (isWhole)
        {
            Rebuild(changes);
        }
        else
        {
            if (!isCounted)
            {
                _counter = Counted(_files.Values);
            }
            Mend(changes);
        }
    }

    private void Rebuild(InventoryChanges changes)
    {
        var (inventory, outside) = (changes.Inventory, _outside!);
        var byPath = inventory.Files.ToDictionary(f => f.Path, StringComparer.Ordinal);
        var listed = new ListedFile[inventory.Files.Length];
        Parallel.For(0, listed.Length, n => listed[n] = Describe(inventory.Files[n], changes, byPath.GetValueOrDefault, outside));
        _files.Clear();
        _lists.Clear();
        foreach (var file in listed)
        {
            _files[file.File.Path] = file;
        }
        _counter = Counted(listed);
    }

    private void Mend(InventoryChanges changes)
    {
        var now = changes.Changed.ToDictionary(f => f.Path, f => (InventoryFile?)f, StringComparer.Ordinal);
        foreach (var gone in changes.Gone)
        {
            now[gone] = null;
        }
        // A repaired copy that came or went changes what is said of the recording that it was made from.
        foreach (var original in now.Keys.Select(TakeFinder.OriginalOf).OfType<string>().ToList())
        {
            if (!now.ContainsKey(original) && _files.TryGetValue(original, out var known))
            {
                now[original] = known.File;
            }
        }
        InventoryFile? Find(string path) => now.TryGetValue(path, out var file) ? file : _files.GetValueOrDefault(path)?.File;
        foreach (var (path, file) in now)
        {
            if (_files.Remove(path, out var before))
            {
                _counter!.Count(before, -1);
            }
            var listed = file is null ? null : Describe(file, changes, Find, _outside!);
            if (listed is not null)
            {
                _files[path] = listed;
                _counter!.Count(listed, 1);
            }
            foreach (var (_, list) in _lists)
            {
                list.Put(path, listed);
            }
        }
    }

    private static ListedFile Describe(InventoryFile file, InventoryChanges changes, Func<string, InventoryFile?> find, OutsideFiles outside) =>
        new(file, TakeFinder.Of(file, changes.Inventory, find), outside.OriginOf(file), changes.Growing.Contains(file.Path));

    private OverviewCounter Counted(IEnumerable<ListedFile> files)
    {
        var counter = new OverviewCounter(_outside!);
        foreach (var file in files)
        {
            counter.Count(file, 1);
        }
        return counter;
    }
}
