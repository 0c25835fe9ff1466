using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>Remembers what was said of kinds of file, for all sessions.</summary>
public sealed class DocumentKindChoices(StoredSettings settings)
{
    private const string Key = "document kinds";

    private readonly Lock _lock = new();
    private DocumentKinds? _now;

    private sealed record Kept(ImmutableSortedDictionary<string, bool> Said);

    /// <summary>What was said; the same object until something else is.</summary>
    public DocumentKinds Now
    {
        get
        {
            lock (_lock)
            {
                // What the ending of media, or of a document that is read, was said to be by an earlier or later version counts for nothing.
                return _now ??= settings.Read<Kept>(Key) is { Said: { } said }
                    ? new DocumentKinds(said.Where(s => DocumentKinds.CanBeSaid(s.Key)).ToImmutableSortedDictionary(StringComparer.Ordinal))
                    : DocumentKinds.Unsaid;
            }
        }
    }

    /// <summary>Says whether files of a kind are documents.</summary>
    /// <param name="ending">The ending of their names, with its dot.</param>
    /// <param name="isDocument">Whether they are; null to guess again.</param>
    public DocumentKinds Say(string ending, bool? isDocument)
    {
        lock (_lock)
        {
            var said = Now.With(ending, isDocument);
            settings.Write(Key, new Kept(said.Said));
            return _now = said;
        }
    }
}
