using System.Collections.Concurrent;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Usage;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>Remembers in the database which files outside of their folders sessions use, so that a session counts whose drive is away at the start.</summary>
public sealed class UseMemory(StoredSettings choices) : IUseMemory
{
    private const string Prefix = "use ";

    private readonly ConcurrentDictionary<string, UsePlace[]> _known = new(StringComparer.Ordinal);

    /// <inheritdoc/>
    public IReadOnlyList<UsePlace> Recall(string sessionFolder) => _known.GetOrAdd(sessionFolder, f => choices.Read<UsePlace[]>(Prefix + f) ?? []);

    /// <summary>Remembers the places at which a session uses files outside of its folder.</summary>
    public void Remember(string sessionFolder, IReadOnlyList<UsePlace> places)
    {
        // Ranges change with every cut, and say nothing about whether the file is needed.
        UsePlace[] plain = [.. places.Select(p => p with { Range = null }).Distinct()];
        if (!Recall(sessionFolder).SequenceEqual(plain))
        {
            choices.Write(Prefix + sessionFolder, plain);
            _known[sessionFolder] = plain;
        }
    }
}
