using System.Collections.Immutable;
using NeatCrate.App.Hosting;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>What was missing when documents were saved, by name of the kept state.</summary>
public sealed record MissingAtSaves(ImmutableDictionary<string, ImmutableArray<string>> ByState)
{
    /// <summary>Nothing is known.</summary>
    public static MissingAtSaves Nothing { get; } = new(ImmutableDictionary<string, ImmutableArray<string>>.Empty);
}

/// <summary>
/// Remembers for each kept save which of the files that its document plays were not there at that moment: a kept save is a document
/// alone, and cannot say so itself. It stands in Neat Crate's own database.
/// </summary>
public sealed class SavedWithout(StoredSettings settings)
{
    private readonly KeyedSettings<MissingAtSaves> _known = new(settings, "missing at saves ", MissingAtSaves.Nothing);

    /// <summary>Whether a file was there when a state was saved; null where nobody knows.</summary>
    /// <param name="session">The session.</param>
    /// <param name="state">Name of the kept state.</param>
    /// <param name="path">Absolute path of the file.</param>
    public bool? WasThere(Guid session, string state, string path) => _known.Of(session).ByState.TryGetValue(state, out var missing) ? !missing.Contains(path) : null;

    /// <summary>Looks now for what a state that was just kept plays; of a document that nobody can read nothing is noted.</summary>
    /// <param name="session">The session.</param>
    /// <param name="state">Name of the kept state.</param>
    /// <param name="path">Absolute path of its file.</param>
    /// <param name="kept">Names of all that is kept: what was thinned out is forgotten.</param>
    public void Note(SessionRow session, string state, string path, IReadOnlySet<string> kept)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(kept);
        if (_known.Of(session.Id).ByState.ContainsKey(state))
        {
            // It was saved then, and not now.
            return;
        }
        try
        {
            ImmutableArray<string> missing = [.. VersionComparison.Used(SessionDocument.ReadFile(path), session.Folder).Where(p => !File.Exists(p)).Order(StringComparer.Ordinal)];
            _known.Change(session.Id, k => new MissingAtSaves(k.ByState.RemoveRange(k.ByState.Keys.Where(n => !kept.Contains(n))).SetItem(state, missing)));
        }
        catch (FaultException)
        {
            // Of a format that nobody reads, or gone by now: then it stays unknown.
        }
    }
}
