using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using NeatCrate.Core.Json;

namespace NeatCrate.Core.Sessions;

/// <summary>A list entry that a document had for a file that was set aside.</summary>
/// <param name="Document">The document's path from the session folder.</param>
/// <param name="Reference">The reference as it stood on the document's list, as JSON.</param>
public sealed record HeldListing(string Document, string Reference);

/// <summary>A file or an empty folder that is set aside.</summary>
/// <param name="Held">Its path from the holding place.</param>
/// <param name="Path">The path from the session folder that it had, and that it goes back to.</param>
/// <param name="IsFolder">True for an empty folder.</param>
/// <param name="SetAside">When it was set aside (UTC).</param>
/// <param name="Why">The group that it was set aside with.</param>
/// <param name="Listed">Where it stood on a document's list.</param>
public sealed record HeldFile(string Held, string Path, bool IsFolder, DateTime SetAside, string Why, ImmutableArray<HeldListing> Listed);

/// <summary>
/// What a session holds set aside: a folder of its own in the session folder, with the tree as it was, and a list in it that says
/// where each came from (docs/formats.md, "Holding place"). Only what stands on that list is set aside, whatever else is in the folder.
/// </summary>
/// <param name="Files">What is held, in the order in which it was set aside.</param>
public sealed record HoldingPlace(ImmutableArray<HeldFile> Files)
{
    /// <summary>The folder, at the top of the session folder.</summary>
    public const string FolderName = "Set aside";

    /// <summary>Name of the list in it.</summary>
    public const string ListName = ".neat-crate-set-aside.json";

    private const string FormatKey = "format";
    private const string Format = "neat-crate set aside 1";
    private const long MostBytes = 64L * 1024 * 1024;

    /// <summary>The orders of the lists from which entries are held.</summary>
    public ImmutableArray<ListOrder> Orders { get; init; } = [];

    /// <summary>Nothing is held.</summary>
    public static HoldingPlace Nothing { get; } = new([]);

    /// <summary>Absolute path of a session's holding place.</summary>
    public static string FolderIn(string sessionFolder) => Path.Combine(sessionFolder, FolderName);

    /// <summary>Absolute path of the list in it.</summary>
    public static string ListIn(string sessionFolder) => Path.Combine(sessionFolder, FolderName, ListName);

    /// <summary>What a session holds.</summary>
    /// <param name="sessionFolder">Absolute path of the session folder.</param>
    /// <param name="remark">Told where the list is there and cannot be read: then nothing counts as set aside.</param>
    public static HoldingPlace Of(string sessionFolder, Action<Fault>? remark = null)
    {
        var list = ListIn(sessionFolder);
        if (FileFacts.OfName(list) is null)
        {
            return Nothing;
        }
        try
        {
            return Read(ReadableFile.ReadAll(list, MostBytes));
        }
        catch (Exception e) when (e is JsonTextException or FormatException || FaultException.Of(e) is not null)
        {
            remark?.Invoke(new Fault(FaultCode.HoldingListUnusable) { Path = list, Detail = e is FaultException ? null : e.Message, Reasons = FaultException.Of(e) is { } fault ? [fault] : [] });
            return Nothing;
        }
    }

    /// <summary>Absolute paths of what is held, of files alone.</summary>
    /// <param name="sessionFolder">Absolute path of the session folder.</param>
    public IReadOnlySet<string> PathsIn(string sessionFolder) =>
        Files.Where(f => !f.IsFolder).Select(f => Path.Combine(FolderIn(sessionFolder), f.Held)).ToHashSet(StringComparer.Ordinal);

    /// <summary>The list as it is written.</summary>
    public byte[] ToUtf8()
    {
        var files = Files.Select(f => JsonItem.Map(
            ("held", JsonItem.Of(f.Held)),
            ("path", JsonItem.Of(f.Path)),
            ("folder", JsonItem.Of(f.IsFolder)),
            ("set_aside", JsonItem.Of(f.SetAside.ToString("O", CultureInfo.InvariantCulture))),
            ("why", JsonItem.Of(f.Why)),
            ("listed", JsonItem.List(f.Listed.Select(l => JsonItem.Map(("document", JsonItem.Of(l.Document)), ("reference", JsonItem.Of(l.Reference))))))));
        var orders = Orders.Select(o => JsonItem.Map(("document", JsonItem.Of(o.Document)), ("urls", JsonItem.List(o.Urls.Select(JsonItem.Of)))));
        return JsonText.Of(JsonItem.Map((FormatKey, JsonItem.Of(Format)), ("files", JsonItem.List(files)), ("orders", JsonItem.List(orders)))).ToUtf8();
    }

    private static HoldingPlace Read(byte[] utf8)
    {
        var root = JsonText.Parse(utf8).Root;
        if (root[FormatKey]?.AsText != Format)
        {
            throw new FormatException($"It does not say '{Format}'.");
        }
        return new HoldingPlace(
        [
            .. (root["files"]?.Items ?? []).Select(f => new HeldFile(
                Inside(f["held"]),
                Inside(f["path"]),
                f["folder"]?.Boolean == true,
                DateTime.TryParse(f["set_aside"]?.AsText, CultureInfo.InvariantCulture, DateTimeStyles.RoundtripKind | DateTimeStyles.AllowWhiteSpaces, out var at) ? at.ToUniversalTime() : DateTime.UnixEpoch,
                f["why"]?.AsText ?? "",
                [.. (f["listed"]?.Items ?? []).Select(l => new HeldListing(Inside(l["document"]), l["reference"]?.AsText ?? ""))])),
        ])
        {
            Orders = [.. (root["orders"]?.Items ?? []).Select(o => new ListOrder(Inside(o["document"]), [.. (o["urls"]?.Items ?? []).Select(u => u.AsText ?? "")]))],
        };
    }

    /// <summary>A path below a folder; a text that would lead out of it makes the list unusable, whoever wrote that.</summary>
    private static string Inside(JsonItem? item) =>
        item?.AsText is { } path && SessionLayout.IsBelow(path) ? path : throw new FormatException("A path in it leads elsewhere.");
}
