using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;

namespace NeatCrate.Core.Sessions;

/// <summary>
/// Our own small file in a session folder: it states which document is the current one, and travels with the folder
/// (docs/formats.md, "Session card"). What else stands in it is kept.
/// </summary>
public static class SessionCard
{
    /// <summary>Its name, at the top of the session folder.</summary>
    public const string FileName = ".neat-crate.json";

    private const string FormatKey = "format";
    private const string Format = "neat-crate session 1";
    private const string CurrentKey = "current_document";
    private const long MostBytes = 1024 * 1024;

    /// <summary>Absolute path of a folder's card.</summary>
    public static string PathIn(string folder) => Path.Combine(folder, FileName);

    /// <summary>File name of the document that a folder's card states as current; null where there is no card, or none that states one.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="remark">Told where a card is there and is of no use: the document is chosen by its date then.</param>
    public static string? Stated(string folder, Action<Fault>? remark = null)
    {
        if (Read(folder)?.Root[CurrentKey]?.AsText is { Length: > 0 } name && !name.Contains('/', StringComparison.Ordinal))
        {
            return name;
        }
        if (FileFacts.OfName(PathIn(folder)) is not null)
        {
            remark?.Invoke(new Fault(FaultCode.SessionCardUnusable) { Path = PathIn(folder) });
        }
        return null;
    }

    /// <summary>A card that states a document as current, with all else that a folder's card holds.</summary>
    public static byte[] Stating(string folder, string documentName)
    {
        var card = Read(folder);
        if (card?.Root.Kind != JsonKind.Map)
        {
            card = JsonText.Of(JsonItem.Map((FormatKey, JsonItem.Of(Format))));
        }
        card.Root.Set(CurrentKey, JsonItem.Of(documentName));
        return card.ToUtf8();
    }

    private static JsonText? Read(string folder)
    {
        try
        {
            return JsonText.Parse(ReadableFile.ReadAll(PathIn(folder), MostBytes));
        }
        catch (Exception e) when (e is JsonTextException or IOException or UnauthorizedAccessException)
        {
            // Without a card, or with a damaged one, nothing is stated; the inventory says which of the two it is.
            return null;
        }
    }
}
