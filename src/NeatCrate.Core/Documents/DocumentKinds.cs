using System.Collections.Immutable;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Documents;

/// <summary>What somebody said of kinds of file, by the ending of their names: it goes before what is guessed from what they name.</summary>
/// <param name="Said">By ending, in lower case and with its dot: true for documents, false for what is none whatever it names.</param>
public sealed record DocumentKinds(ImmutableSortedDictionary<string, bool> Said)
{
    /// <summary>Nothing was said.</summary>
    public static DocumentKinds Unsaid { get; } = new(ImmutableSortedDictionary.Create<string, bool>(StringComparer.Ordinal));

    /// <summary>The ending by which a file is of a kind, in lower case and with its dot; empty where it has none.</summary>
    public static string EndingOf(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return Path.GetExtension(path).ToLowerInvariant();
    }

    /// <summary>True for an ending of which something can be said: not for media, nor for documents that are read.</summary>
    public static bool CanBeSaid(string ending)
    {
        ArgumentNullException.ThrowIfNull(ending);
        var name = "a" + ending;
        return ending.Length > 1 && EndingOf(name) == ending && name.AsSpan().IndexOfAny('/', '\0') < 0
            && MediaFiles.KindOf(name) is null && DocumentFormats.Of(name) is null && !DocumentFormats.IsPackedTimeline(name);
    }

    /// <summary>What was said of a file's kind; null for nothing.</summary>
    public bool? Of(string path) => Said.TryGetValue(EndingOf(path), out var isDocument) ? isDocument : null;

    /// <summary>The same with one more kind, or one less.</summary>
    /// <param name="ending">Its ending.</param>
    /// <param name="isDocument">Whether it is of documents; null to guess again.</param>
    public DocumentKinds With(string ending, bool? isDocument) => new(isDocument is { } said ? Said.SetItem(ending, said) : Said.Remove(ending));

    /// <summary>The rule of <see cref="DocumentFormats.MayBeADocument"/>, as far as nothing else was said. Hidden files and those that are empty are none in any case.</summary>
    public bool MayBeADocument(string path, long bytes) => Of(path) is { } said
        ? said && bytes > 0 && Path.GetFileName(path) is { Length: > 0 } name && name[0] != '.'
        : DocumentFormats.MayBeADocument(path, bytes);
}
