using NeatCrate.Core.Inventory;
using NeatCrate.Core.Relink;
using NeatCrate.Store;

namespace NeatCrate.App.Relink;

/// <summary>A missing file as it was judged by itself.</summary>
/// <param name="Place">The place under which its own identities are remembered.</param>
/// <param name="Considered">The places of everything that was looked at for it.</param>
/// <param name="Matches">What may be it.</param>
internal sealed record JudgedFile((Guid ShelfId, string Path) Place, IReadOnlyList<(Guid ShelfId, string Path)> Considered, Matches Matches);

/// <summary>The missing files of a session as they were judged, with what it takes to judge some of them again.</summary>
/// <param name="Basis">Another text where anything else than an identity is otherwise.</param>
/// <param name="Noted">The revision of what is noted of identities.</param>
/// <param name="Missing">The missing files.</param>
/// <param name="Judged">Each of them, in the same order.</param>
/// <param name="Inside">What stands in the session's own folder; null where nothing is missing.</param>
/// <param name="Files">What is told of them together.</param>
internal sealed record JudgedSession(string Basis, long Noted, List<InventoryFile> Missing, JudgedFile[] Judged, InsideFiles? Inside, LostFiles Files)
{
    private readonly Lazy<ILookup<(Guid ShelfId, string Path), int>> _byPlace = new(() => Judged.Index().SelectMany(j => j.Item.Considered.Append(j.Item.Place).Select(p => (p, j.Index))).ToLookup(p => p.p, p => p.Index));
    private readonly Lazy<ILookup<(char Kind, UInt128 Hash), int>> _byIdentity = new(() => Judged.Index().SelectMany(j => j.Item.Matches.Lost.Noted.Keys.Select(k => (k, j.Index))).ToLookup(p => p.k, p => p.Index));

    /// <summary>Which of the missing files news of identities concern: by order, each once.</summary>
    public List<int> ConcernedBy(IEnumerable<((Guid ShelfId, string Path) Place, NotedIdentities Noted)> news) =>
        Judged.Length == 0 ? [] : [.. news.SelectMany(n => _byPlace.Value[n.Place].Concat(n.Noted.Keys.SelectMany(k => _byIdentity.Value[k]))).Distinct().Order()];
}

/// <summary>The files that stand in the session's own folder, as they are now.</summary>
internal sealed class InsideFiles
{
    private readonly List<FoundFile> _files;
    private readonly SuggestionKeys _keys;
    private readonly Dictionary<string, int> _byPath;

    public InsideFiles(List<FoundFile> files)
    {
        (_files, _keys, _byPath) = (files, new SuggestionKeys(files.Count), files.Index().ToDictionary(f => f.Item.Path, f => f.Index, StringComparer.Ordinal));
        foreach (var file in files)
        {
            _keys.Add(file.Name, file.Known.Bytes, file.Known.ModifiedUtc.Ticks, file.Known.LengthSamples ?? -1, file.Known.SampleRate ?? 0);
        }
        _keys.Sort();
    }

    private InsideFiles(List<FoundFile> files, InsideFiles before) => (_files, _keys, _byPath) = (files, before._keys, before._byPath);

    /// <summary>Those that may be a missing one.</summary>
    public IEnumerable<FoundFile> Suggest(LostFile lost) => _keys.SuggestionsFor(lost).Select(n => _files[n]);

    /// <summary>The same files, of some of which something was noted since.</summary>
    /// <param name="noted">By absolute path.</param>
    public InsideFiles With(IReadOnlyDictionary<string, Remembered> noted)
    {
        if (!noted.Keys.Any(_byPath.ContainsKey))
        {
            return this;
        }
        List<FoundFile> files = [.. _files];
        foreach (var (path, remembered) in noted)
        {
            if (_byPath.TryGetValue(path, out var n))
            {
                files[n] = files[n] with { Noted = remembered.Of(files[n].Known.Bytes, files[n].Known.ModifiedUtc) ?? NotedIdentities.None };
            }
        }
        return new InsideFiles(files, this);
    }
}
