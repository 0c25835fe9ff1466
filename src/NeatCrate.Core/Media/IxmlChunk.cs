using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Xml;
using System.Xml.Linq;

namespace NeatCrate.Core.Media;

/// <summary>A channel of a file as its recorder named it.</summary>
/// <param name="Channel">Number of the recorder's channel, from 1.</param>
/// <param name="Name">Name of the track.</param>
public sealed record IxmlTrack(int Channel, string Name);

/// <summary>What a recorder wrote into the <c>iXML</c> chunk. Texts that are not there are null.</summary>
/// <param name="Project">Name of the project.</param>
/// <param name="Scene">Scene; in music mostly the song.</param>
/// <param name="Take">Take, mostly a number.</param>
/// <param name="Note">Note.</param>
/// <param name="Tracks">Tracks in the order of the channels in the file.</param>
public sealed record Ixml(string? Project, string? Scene, string? Take, string? Note, ImmutableArray<IxmlTrack> Tracks);

/// <summary>
/// Reads and writes the body of an <c>iXML</c> chunk (iXML specification, elements BWFXML, PROJECT, SCENE, TAKE, NOTE and
/// TRACK_LIST; from memory). Definitions and outside entities are refused, so that hostile XML costs nothing.
/// </summary>
public static class IxmlChunk
{
    private const int MaxTracks = 512;

    // BWFXML, TRACK_LIST, TRACK, NAME: what goes deeper is not ours, and deep nesting is how XML is made to cost time.
    private const int MaxDepth = 16;
    private const int MaxNodes = 20_000;
    private const int MaxNamespaces = 32;

    // None of its elements has any; the library that reads them compares each with all others of its tag.
    private const int MaxAttributesOfATag = 256;

    /// <summary>Reads a chunk body, in time in proportion to its size; null when it is not XML of this kind, or made to cost time.</summary>
    public static Ixml? Read(ReadOnlySpan<byte> body)
    {
        body = body.TrimEnd((byte)0);
        // Each declaration of a namespace is compared with all others by the library that reads it.
        if (body.Count("xmlns"u8) > MaxNamespaces || body.Count("x\0m\0l\0n\0s\0"u8) > MaxNamespaces)
        {
            return null;
        }
        if (HasTagOfManyAttributes(body))
        {
            return null;
        }
        var settings = new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null, MaxCharactersInDocument = 4 * 1024 * 1024, IgnoreComments = true, IgnoreProcessingInstructions = true };
        try
        {
            using var stream = new MemoryStream(body.ToArray());
            using var reader = XmlReader.Create(stream, settings);
            return Read(reader);
        }
        catch (XmlException)
        {
            return null;
        }
    }

    /// <summary>Whether a tag has more attributes than anybody writes; byte by byte, which holds for UTF-8 and for UTF-16.</summary>
    private static bool HasTagOfManyAttributes(ReadOnlySpan<byte> body)
    {
        var (isTag, count) = (false, 0);
        for (; body.IndexOfAny("<>="u8) is var at and >= 0; body = body[(at + 1)..])
        {
            (isTag, count) = body[at] == (byte)'=' ? (isTag, count + 1) : (body[at] == (byte)'<', 0);
            if (isTag && count > MaxAttributesOfATag)
            {
                return true;
            }
        }
        return false;
    }

    private static Ixml? Read(XmlReader reader)
    {
        var (texts, tracks, isOurs) = (new Dictionary<string, string>(StringComparer.Ordinal), new List<Dictionary<string, string>>(), false);
        var path = new List<string>();
        for (var nodes = 0; reader.Read(); nodes++)
        {
            if (nodes > MaxNodes || reader.Depth > MaxDepth)
            {
                return null;
            }
            switch (reader.NodeType)
            {
                case XmlNodeType.Element:
                    path.RemoveRange(reader.Depth, path.Count - reader.Depth);
                    path.Add(reader.LocalName);
                    isOurs |= path is ["BWFXML"];
                    if (!isOurs)
                    {
                        return null;
                    }
                    if (path is ["BWFXML", "TRACK_LIST", "TRACK"] && tracks.Count < MaxTracks)
                    {
                        tracks.Add(new(StringComparer.Ordinal));
                    }
                    if (reader.IsEmptyElement)
                    {
                        path.RemoveAt(path.Count - 1);
                    }
                    break;
                case XmlNodeType.Text or XmlNodeType.CDATA when path is ["BWFXML", var name]:
                    texts.TryAdd(name, reader.Value.Trim());
                    break;
                case XmlNodeType.Text or XmlNodeType.CDATA when path is ["BWFXML", "TRACK_LIST", "TRACK", var name] && tracks.Count > 0:
                    tracks[^1].TryAdd(name, reader.Value.Trim());
                    break;
                case XmlNodeType.EndElement:
                    path.RemoveRange(reader.Depth, path.Count - reader.Depth);
                    break;
            }
        }
        return !isOurs ? null : new Ixml(
            Text(texts, "PROJECT"), Text(texts, "SCENE"), Text(texts, "TAKE"), Text(texts, "NOTE"),
            [.. tracks.OrderBy(t => Number(t, "INTERLEAVE_INDEX") ?? int.MaxValue).Select(t => new IxmlTrack(Number(t, "CHANNEL_INDEX") ?? 0, Text(t, "NAME") ?? ""))]);
    }

    /// <summary>Writes a chunk body in UTF-8. Characters that XML cannot hold are left out.</summary>
    public static byte[] Write(Ixml ixml)
    {
        ArgumentNullException.ThrowIfNull(ixml);
        var root = new XElement("BWFXML", new XElement("IXML_VERSION", "1.61"));
        foreach (var (name, value) in new[] { ("PROJECT", ixml.Project), ("SCENE", ixml.Scene), ("TAKE", ixml.Take), ("NOTE", ixml.Note) })
        {
            if (value is not null)
            {
                root.Add(new XElement(name, Clean(value)));
            }
        }
        if (ixml.Tracks.Length > 0)
        {
            root.Add(new XElement(
                "TRACK_LIST",
                new XElement("TRACK_COUNT", ixml.Tracks.Length),
                ixml.Tracks.Select((t, n) => new XElement(
                    "TRACK", new XElement("CHANNEL_INDEX", t.Channel), new XElement("INTERLEAVE_INDEX", n + 1), new XElement("NAME", Clean(t.Name))))));
        }
        return [.. Encoding.UTF8.GetBytes("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"), .. Encoding.UTF8.GetBytes(root.ToString()), (byte)'\n'];
    }

    private static string? Text(Dictionary<string, string> texts, string name) => texts.GetValueOrDefault(name) is { Length: > 0 } text ? text : null;

    private static int? Number(Dictionary<string, string> texts, string name) =>
        int.TryParse(Text(texts, name), NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;

    private static string Clean(string text) => string.Concat(text.Where(XmlConvert.IsXmlChar));
}
