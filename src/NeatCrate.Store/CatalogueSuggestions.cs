using System.Collections.Immutable;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Store;

/// <summary>Suggests files of the catalogue for lost ones, with the identities that are known of them. Touches no disk.</summary>
/// <param name="catalogue">The catalogue.</param>
/// <param name="identities">What is known of identities.</param>
/// <param name="shelves">All known shelves.</param>
public sealed class CatalogueSuggestions(Catalogue catalogue, KeptIdentities identities, IReadOnlyList<Shelf> shelves)
{
    private readonly Dictionary<Guid, Shelf> _shelves = shelves.ToDictionary(s => s.Id);
    private readonly Dictionary<Guid, bool> _isThere = shelves.ToDictionary(s => s.Id, s => s.IsConnected);

    /// <summary>For each lost file those that have an identity, a name, or size and length in common with it.</summary>
    /// <param name="lost">The lost files.</param>
    /// <returns>In the order of <paramref name="lost"/>.</returns>
    public IReadOnlyList<ImmutableArray<FoundFile>> Suggest(IReadOnlyList<LostFile> lost)
    {
        ArgumentNullException.ThrowIfNull(lost);
        var named = catalogue.Suggest(lost);
        var places = identities.PlacesOf([.. lost.Select(l => l.Noted).Where(n => n.Any && !n.IsSilent)]);
        var known = catalogue.At(places);
        var all = named.SelectMany(n => n).Concat(known).DistinctBy(f => f.Id).Where(f => _shelves.ContainsKey(f.ShelfId)).ToList();
        var noted = identities.Recall([.. all.Select(f => (f.ShelfId, f.Path))]);
        var found = all.ToDictionary(f => f.Id, f => Found(f, noted.GetValueOrDefault((f.ShelfId, f.Path))));
        // Silence is like all silence: what else is known of it has to tell.
        var byIdentity = found.Values.Where(f => f.Noted.Any && !f.Noted.IsSilent).SelectMany(f => f.Noted.Keys.Select(k => (k, f))).ToLookup(p => p.k, p => p.f);
        return
        [
            .. lost.Select((l, n) => named[n].Select(f => found.GetValueOrDefault(f.Id)).OfType<FoundFile>()
                .Concat(l.Noted.IsSilent ? [] : l.Noted.Keys.SelectMany(k => byIdentity[k])).DistinctBy(f => f.Path).ToImmutableArray()),
        ];
    }

    private FoundFile Found(CatalogueFile file, Remembered? remembered)
    {
        var shelf = _shelves[file.ShelfId];
        return new FoundFile(
            Path.Combine(shelf.Root, file.Path),
            new KnownFile(file.Bytes, file.ModifiedUtc, file.Container, file.SampleRate, file.Channels, file.BitsPerSample, file.LengthSamples),
            remembered?.Of(file.Bytes, file.ModifiedUtc) ?? NotedIdentities.None, _isThere[shelf.Id], shelf.Kind is ShelfKind.Vault or ShelfKind.Outbox, shelf.Id);
    }
}
