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

    /// <summary>Reads a chunk body; null when it is not XML of this kind.</summary>
    public static Ixml? Read(ReadOnlySpan<byte> body)
    {
        var text = body.TrimEnd((byte)0).ToArray();
        var settings = new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null, MaxCharactersInDocument = 4 * 1024 * 1024 };
        try
        {
            using var stream = new MemoryStream(text);
            using var reader = XmlReader.Create(stream, settings);
            var root = XDocument.Load(reader).Root;
            if (root is null || root.Name.LocalName != "BWFXML")
            {
                return null;
            }
            var tracks = root.Element("TRACK_LIST")?.Elements("TRACK").Take(MaxTracks)
                .OrderBy(t => Number(t, "INTERLEAVE_INDEX") ?? int.MaxValue)
                .Select(t => new IxmlTrack(Number(t, "CHANNEL_INDEX") ?? 0, Text(t, "NAME") ?? "")) ?? [];
            return new Ixml(Text(root, "PROJECT"), Text(root, "SCENE"), Text(root, "TAKE"), Text(root, "NOTE"), [.. tracks]);
        }
        catch (XmlException)
        {
            return null;
        }
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

    private static string? Text(XElement element, string name) => element.Element(name)?.Value.Trim() is { Length: > 0 } text ? text : null;

    private static int? Number(XElement element, string name) =>
        int.TryParse(Text(element, name), NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;

    private static string Clean(string text) => string.Concat(text.Where(XmlConvert.IsXmlChar));
}
