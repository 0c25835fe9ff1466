using System.Text;
using NeatCrate.Core.Json;

namespace NeatCrate.Core.Documents;

/// <summary>An entry that was taken off a session's list.</summary>
/// <param name="Url">Its pointer.</param>
/// <param name="Reference">The entry as it stood, as JSON.</param>
public sealed record UnlistedEntry(string Url, string Reference);

/// <summary>
/// The session's list in a document: references to files that belong to the session whether a clip plays them or not. Entries
/// are taken off and put back as they stood, with all that is noted in them.
/// </summary>
public static class SessionList
{
    private const string Key = "listed";
    private const string UrlKey = "target_url";

    /// <summary>Takes entries off the list.</summary>
    /// <param name="document">The document.</param>
    /// <param name="isOf">Tells by the pointer which entries.</param>
    /// <returns>The entries as they stood, in the order of the list.</returns>
    public static IReadOnlyList<UnlistedEntry> Remove(SessionDocument document, Func<string, bool> isOf)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(isOf);
        var removed = new List<UnlistedEntry>();
        if (List(document) is not { } list)
        {
            return removed;
        }
        for (var n = list.Items.Count - 1; n >= 0; n--)
        {
            if (list.Items[n][UrlKey]?.AsText is { } url && isOf(url))
            {
                removed.Insert(0, new UnlistedEntry(url, list.Items[n].ToText()));
                list.RemoveAt(n);
            }
        }
        return removed;
    }

    /// <summary>The pointers on a document's list, in its order; empty for an entry that has none.</summary>
    public static IReadOnlyList<string> Urls(SessionDocument document)
    {
        ArgumentNullException.ThrowIfNull(document);
        return [.. List(document)?.Items.Select(i => i[UrlKey]?.AsText ?? "") ?? []];
    }

    /// <summary>Puts an entry on the list.</summary>
    /// <param name="document">The document.</param>
    /// <param name="reference">The entry, as JSON.</param>
    /// <param name="at">Its place on the list, counted from 0; null, or beyond the end, for the end.</param>
    /// <exception cref="UnreadableDocumentException">The entry is no JSON.</exception>
    public static void Add(SessionDocument document, string reference, int? at = null)
    {
        ArgumentNullException.ThrowIfNull(document);
        var own = SessionDocument.OwnMetadata(document.Root);
        if (own[Key] is not { Kind: JsonKind.List })
        {
            own.Set(Key, JsonItem.List());
        }
        var list = own[Key]!;
        list.Insert(Math.Min(at ?? int.MaxValue, list.Items.Count), Parse(reference));
    }

    /// <summary>The pointer of an entry; null where it has none, or is no JSON.</summary>
    public static string? UrlOf(string reference)
    {
        try
        {
            return Parse(reference)[UrlKey]?.AsText;
        }
        catch (UnreadableDocumentException)
        {
            return null;
        }
    }

    /// <summary>The same entry with another pointer.</summary>
    /// <exception cref="UnreadableDocumentException">The entry is no JSON.</exception>
    public static string WithUrl(string reference, string url)
    {
        var item = Parse(reference);
        if (item[UrlKey]?.AsText == url)
        {
            return reference;
        }
        item.Set(UrlKey, JsonItem.Of(url));
        return Encoding.UTF8.GetString(JsonText.Of(item).ToUtf8()).TrimEnd();
    }

    private static JsonItem? List(SessionDocument document) =>
        document.Root["metadata"]?[SessionDocument.MetadataKey]?[Key] is { Kind: JsonKind.List } list ? list : null;

    private static JsonItem Parse(string reference)
    {
        try
        {
            return JsonText.Parse(Encoding.UTF8.GetBytes(reference)).Root;
        }
        catch (JsonTextException e)
        {
            throw new UnreadableDocumentException(new Fault(FaultCode.DocumentNotJson) { Count = e.Line }, e);
        }
    }
}
