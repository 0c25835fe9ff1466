using System.Collections.Concurrent;
using System.Collections.Immutable;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>
/// Remembers for each kept save which of the files that its document plays were not there at that moment: a kept save is a document
/// alone, and cannot say so itself. It stands in Neat Crate's own database, each save by itself.
/// </summary>
public sealed class SavedWithout(StoredSettings settings)
{
    // Of each session by name of the kept state; read once.
    private readonly ConcurrentDictionary<Guid, ConcurrentDictionary<string, Missing>> _known = new();

    private sealed record Missing(ImmutableArray<string> Paths);

    /// <summary>Whether a file was there when a state was saved; null where nobody knows.</summary>
    /// <param name="session">The session.</param>
    /// <param name="state">Name of the kept state.</param>
    /// <param name="path">Absolute path of the file.</param>
    public bool? WasThere(Guid session, string state, string path) => Of(session).TryGetValue(state, out var missing) ? !missing.Paths.Contains(path) : null;

    /// <summary>Looks now for what a state that was just kept plays, or names; of a document of which nobody can say either nothing is noted.</summary>
    /// <param name="session">The session.</param>
    /// <param name="state">Name of the kept state.</param>
    /// <param name="path">Absolute path of its file.</param>
    /// <param name="kept">Names of all that is kept: what was thinned out is forgotten.</param>
    /// <param name="named">What a document of another program names, from its bytes; null where nobody can say.</param>
    public void Note(SessionRow session, string state, string path, IReadOnlySet<string> kept, Func<byte[], IReadOnlySet<string>?> named)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(kept);
        ArgumentNullException.ThrowIfNull(named);
        var known = Of(session.Id);
        if (known.ContainsKey(state))
        {
            // It was saved then, and not now.
            return;
        }
        try
        {
            if (NotThere(session, path, named) is not { IsDefault: false } paths)
            {
                return;
            }
            var missing = new Missing(paths);
            settings.Write(KeyOf(session.Id, state), missing);
            known[state] = missing;
        }
        catch (Exception e) when (FaultException.Of(e, path) is not null)
        {
            // Damaged, or gone by now: then it stays unknown.
            return;
        }
        foreach (var gone in known.Keys.Where(n => !kept.Contains(n)))
        {
            settings.Forget(KeyOf(session.Id, gone));
            known.TryRemove(gone, out _);
        }
    }

    private static ImmutableArray<string> NotThere(SessionRow session, string path, Func<byte[], IReadOnlySet<string>?> named) =>
        DocumentFormats.Of(Path.GetFileName(path)) is not null ? VersionComparison.NotThere(path, session.Folder)
        : named(ReadableFile.ReadAll(path, DocumentFormats.MostBytes)) is { } files ? [.. files.Where(f => !File.Exists(f)).Order(StringComparer.Ordinal)] : default;

    private static string KeyOf(Guid session, string state) => $"missing at save {session} {state}";

    private ConcurrentDictionary<string, Missing> Of(Guid session) => _known.GetOrAdd(session, id =>
    {
        var prefix = KeyOf(id, "");
        return new(settings.ReadAll<Missing>(prefix).Select(m => KeyValuePair.Create(m.Key[prefix.Length..], m.Value)), StringComparer.Ordinal);
    });
}
