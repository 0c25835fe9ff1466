using System.Buffers.Binary;
using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;

namespace NeatCrate.Core.Tests.Names;

/// <summary>A file as an invented document names it.</summary>
/// <param name="Folder">Its folder from the session folder, with slashes; empty for none.</param>
/// <param name="Name">Its name.</param>
internal sealed record Entry(string Folder, string Name)
{
    public string Relative => Folder.Length == 0 ? Name : Folder + "/" + Name;
}

/// <summary>How paths are written in a document.</summary>
internal enum PathStyle
{
    Relative,
    RelativeBackslash,
    Absolute,
    OtherDrive,
    OtherUnix,
    Server,
    Colons,
    Url,
    Bare,
}

/// <summary>An invented document format: nobody's, made up to find names in.</summary>
/// <param name="Name">What it is called in a test's words.</param>
/// <param name="Style">How it writes paths.</param>
/// <param name="Write">Writes a document that names paths.</param>
internal sealed record InventedFormat(string Name, PathStyle Style, Func<IReadOnlyList<(string Path, Entry Entry)>, byte[]> Write);

/// <summary>Forty and more formats: text, XML, JSON, UTF-16, binary with lengths and paddings, gzip, zlib, ZIP, and mixtures.</summary>
internal static class InventedFormats
{
    static InventedFormats() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    public static string PathOf(Entry entry, PathStyle style, string session) => style switch
    {
        PathStyle.Relative => entry.Relative,
        PathStyle.RelativeBackslash => entry.Relative.Replace('/', '\\'),
        PathStyle.Absolute => session + "/" + entry.Relative,
        PathStyle.OtherDrive => @"D:\Ferry Work\" + Path.GetFileName(session) + "\\" + entry.Relative.Replace('/', '\\'),
        PathStyle.OtherUnix => "/Volumes/Loft/" + Path.GetFileName(session) + "/" + entry.Relative,
        PathStyle.Server => @"\\loft-server\work\" + Path.GetFileName(session) + "\\" + entry.Relative.Replace('/', '\\'),
        PathStyle.Colons => "Loft Drive:" + Path.GetFileName(session) + ":" + entry.Relative.Replace('/', ':'),
        PathStyle.Url => "file://" + string.Join('/', (session + "/" + entry.Relative).Split('/').Select(Uri.EscapeDataString)),
        _ => entry.Name,
    };

    public static IEnumerable<InventedFormat> All =>
    [
        new("text, key and value", PathStyle.Relative, p => Text(p, x => $"file={x.Path}\nstart=0.5\n")),
        new("text, key, colon and value", PathStyle.Relative, p => Text(p, x => $"sound: {x.Path}\r\n  gain: -3.5\r\n")),
        new("text, numbered lines", PathStyle.Relative, (p) => Text(p, (x, n) => $"clip {n} {x.Path}\n")),
        new("text, numbered lines with values behind", PathStyle.Relative, (p) => Text(p, (x, n) => $"{n} {x.Path} 0 48000 0.5\n")),
        new("text in quotation marks", PathStyle.Absolute, p => Text(p, x => $"  (source \"{x.Path}\" 0 1)\n")),
        new("text in apostrophes", PathStyle.OtherDrive, p => Text(p, x => $"item('{x.Path}', 1.0);\n")),
        new("text with tabs", PathStyle.Relative, p => Text(p, x => $"AU\t{x.Path}\t00:00:01\t0.00\n")),
        new("text, bare names on numbered lines", PathStyle.Bare, p => Text(p, (x, n) => $"EVENT {n:000} {x.Path}\n")),
        new("text with a byte order mark", PathStyle.Server, p => [0xEF, 0xBB, 0xBF, .. Text(p, x => $"path = {x.Path}\r\n")]),
        new("text of one byte a letter", PathStyle.OtherDrive, p => Legacy(p, 1252)),
        new("text of Mac OS", PathStyle.Colons, p => Legacy(p, 10000)),
        new("text of Japanese Windows", PathStyle.OtherDrive, p => Legacy(p, 932)),
        new("XML with attributes", PathStyle.Relative, p => Utf8(Xml(p))),
        new("XML with elements and addresses", PathStyle.Url, p => Text(p, x => $"<ref><href>{WebUtility.HtmlEncode(x.Path)}</href></ref>\n")),
        new("XML with apostrophes", PathStyle.OtherUnix, p => Text(p, x => $"<a src='{Numeric(x.Path)}' n='1'/>")),
        new("XML, folder and name apart", PathStyle.Bare, p => Text(p, x => $"<f><dir>{WebUtility.HtmlEncode(x.Entry.Folder)}</dir><name>{WebUtility.HtmlEncode(x.Entry.Name)}</name></f>\n")),
        new("XML in UTF-16", PathStyle.OtherDrive, p => [0xFF, 0xFE, .. Encoding.Unicode.GetBytes(Xml(p))]),
        new("XML in UTF-16, higher byte first", PathStyle.Relative, p => [0xFE, 0xFF, .. Encoding.BigEndianUnicode.GetBytes(Xml(p))]),
        new("XML within XML", PathStyle.OtherUnix, p => Utf8("<state>" + WebUtility.HtmlEncode(Xml(p)) + "</state>")),
        new("JSON", PathStyle.Relative, p => Json(p, Relaxed)),
        new("JSON, all escaped", PathStyle.OtherDrive, p => Json(p)),
        new("JSON with addresses", PathStyle.Url, p => Json(p)),
        new("JSON, folder and name apart", PathStyle.Bare, p => JsonSerializer.SerializeToUtf8Bytes(p.Select(x => new { folder = x.Entry.Folder, file = x.Entry.Name, at = 1.25 }))),
        new("JSON with escaped slashes", PathStyle.Absolute, p => Utf8(Encoding.UTF8.GetString(Json(p, Relaxed)).Replace("/", "\\/", StringComparison.Ordinal))),
        new("binary, a byte of length", PathStyle.Relative, p => Binary(p, (w, b) => { w.Write((byte)b.Length); w.Write(b); })),
        new("binary, two bytes of length", PathStyle.OtherDrive, p => Binary(p, (w, b) => { w.Write((ushort)b.Length); w.Write(b); w.Write(1.25f); })),
        new("binary, four bytes of length, highest first", PathStyle.Absolute, p => Binary(p, (w, b) => { w.Write(BinaryPrimitives.ReverseEndianness(b.Length)); w.Write(b); })),
        new("binary, four bytes of length, lowest first", PathStyle.Relative, p => Binary(p, (w, b) => { w.Write(b.Length); w.Write(b); w.Write(-0.7071); })),
        new("binary, chunks with a tag", PathStyle.Relative, p => Binary(p, (w, b) => { w.Write("SNDF"u8); w.Write(b.Length + 1); w.Write(b); w.Write((byte)0); w.Write(0.333); })),
        new("binary, zero behind each", PathStyle.OtherUnix, p => Binary(p, (w, b) => { w.Write(b); w.Write((byte)0); })),
        new("binary, fields of 300 bytes", PathStyle.Relative, p => Binary(p, (w, b) => { w.Write(0x7F3A); w.Write(b); w.Write(new byte[300 - b.Length]); })),
        new("binary, bare names in fields", PathStyle.Bare, p => Binary(p, (w, b) => { w.Write(b); w.Write(new byte[260 - b.Length]); w.Write(48000); })),
        new("binary, UTF-16 with a count", PathStyle.OtherDrive, p => Wide(p, (w, b) => { w.Write(b.Length / 2); w.Write(b); w.Write(44100); })),
        new("binary, UTF-16 with two zeros", PathStyle.Server, p => Wide(p, (w, b) => { w.Write(b); w.Write((short)0); w.Write((byte)7); w.Write((byte)0); })),
        new("binary, UTF-16 at odd places", PathStyle.Relative, p => Wide(p, (w, b) => { w.Write((byte)3); w.Write((short)0); w.Write(b); w.Write((short)0); })),
        new("binary, folder and name apart", PathStyle.Bare, p => Parts(p)),
        new("gzip over XML", PathStyle.Relative, p => Gzip(Utf8(Xml(p)))),
        new("gzip over UTF-16", PathStyle.OtherDrive, p => Gzip(Encoding.Unicode.GetBytes(Xml(p)))),
        new("two of gzip behind a header", PathStyle.Relative, p => [.. "LOFT0001"u8, .. Gzip(Text(p.Take(p.Count / 2), x => $"<f>{WebUtility.HtmlEncode(x.Path)}</f>")), 1, 2, 3, .. Gzip(Text(p.Skip(p.Count / 2), x => $"<f>{WebUtility.HtmlEncode(x.Path)}</f>"))]),
        new("zlib behind a header", PathStyle.OtherUnix, p => [.. "QUAY"u8, 0, 0, 1, .. Zlib(Json(p))]),
        new("zlib, a piece for each", PathStyle.Relative, p => [.. p.SelectMany(x => (byte[])[.. "PC"u8, .. Zlib(Utf8($"<s n=\"{WebUtility.HtmlEncode(x.Path)}\"/>"))])]),
        new("ZIP with an entry of XML", PathStyle.Relative, p => Zip(("score.xml", Utf8(Xml(p))), ("Audio/packed along.wav", new byte[64]))),
        new("ZIP with an entry of gzip", PathStyle.OtherDrive, p => Zip(("state.bin", Gzip(Utf8(Xml(p)))))),
        new("binary, a tag and a byte of length as in protocol buffers", PathStyle.Relative, p => Binary(p, (w, b) => { w.Write((byte)0x0A); w.Write((byte)b.Length); w.Write(b); w.Write((byte)0x1A); })),
        new("binary, a byte of length with a bit for text", PathStyle.OtherUnix, p => Binary(p, (w, b) => { w.Write((byte)0xD9); w.Write((byte)(b.Length | 0x80)); w.Write(b); w.Write((byte)0xCB); w.Write(1.5); })),
        new("binary, a letter before each", PathStyle.Relative, p => Binary(p, (w, b) => { w.Write((byte)'v'); w.Write(b); w.Write((byte)0); w.Write((byte)0); })),
        new("binary, a length and what was there before", PathStyle.Relative, p => Binary(p, (w, b) =>
        {
            var room = Enumerable.Repeat("the name of another day.wav and more "u8.ToArray(), 9).SelectMany(x => x).Take(299).ToArray();
            b.CopyTo(room, 0);
            w.Write((byte)b.Length);
            w.Write(room);
        })),
        new("text with escaped spaces", PathStyle.Relative, p => Text(p, x => $"add {x.Path.Replace(" ", "\\ ", StringComparison.Ordinal)} -3.0\n")),
        new("text with commas", PathStyle.OtherUnix, p => Text(p, (x, n) => $"{n},{x.Path},0.25,1\n")),
        new("mixed: numbers, then JSON", PathStyle.Relative, p => [.. Noise(5000), 0, .. Json(p), 0, .. Noise(5000)]),
    ];

    public static byte[] Gzip(byte[] bytes) => Packed(bytes, s => new GZipStream(s, CompressionLevel.Optimal, true));

    public static byte[] Zlib(byte[] bytes) => Packed(bytes, s => new ZLibStream(s, CompressionLevel.Optimal, true));

    private static byte[] Packed(byte[] bytes, Func<Stream, Stream> pack)
    {
        using var stream = new MemoryStream();
        using (var packing = pack(stream))
        {
            packing.Write(bytes);
        }
        return stream.ToArray();
    }

    public static byte[] Zip(params (string Name, byte[] Bytes)[] entries)
    {
        using var stream = new MemoryStream();
        using (var archive = new ZipArchive(stream, ZipArchiveMode.Create, true))
        {
            foreach (var (name, bytes) in entries)
            {
                using var entry = archive.CreateEntry(name).Open();
                entry.Write(bytes);
            }
        }
        return stream.ToArray();
    }

    public static byte[] Noise(int bytes)
    {
        var noise = new byte[bytes];
        new Random(7).NextBytes(noise);
        return noise;
    }

    private static byte[] Utf8(string text) => Encoding.UTF8.GetBytes(text);

    private static byte[] Text(IEnumerable<(string Path, Entry Entry)> paths, Func<(string Path, Entry Entry), string> line) => Utf8("LOFT TAKES 1\n" + string.Concat(paths.Select(line)) + "end\n");

    private static byte[] Text(IEnumerable<(string Path, Entry Entry)> paths, Func<(string Path, Entry Entry), int, string> line) => Utf8("LOFT TAKES 1\n" + string.Concat(paths.Select(line)) + "end\n");

    private static byte[] Legacy(IReadOnlyList<(string Path, Entry Entry)> paths, int page) =>
        Encoding.GetEncoding(page).GetBytes("[sounds]\r\n" + string.Concat(paths.Select(p => $"sound=\"{p.Path}\"\r\n")));

    private static string Xml(IReadOnlyList<(string Path, Entry Entry)> paths) =>
        "<?xml version=\"1.0\"?><score tempo=\"92.5\">" + string.Concat(paths.Select((p, n) => $"<part id=\"{n}\" from=\"{n * 1.5:0.00}\" media=\"{WebUtility.HtmlEncode(p.Path)}\"/>")) + "</score>";

    /// <summary>Every character beyond plain ones as a numeric reference.</summary>
    private static string Numeric(string text) => string.Concat(text.EnumerateRunes().Select(r => r.Value is > 0x7E or '&' or '<' or '\'' ? $"&#x{r.Value:X};" : r.ToString()));

    private static readonly JsonSerializerOptions Relaxed = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private static byte[] Json(IReadOnlyList<(string Path, Entry Entry)> paths, JsonSerializerOptions? options = null) =>
        JsonSerializer.SerializeToUtf8Bytes(new { version = 1.5, sounds = paths.Select(p => new { at = 0.25, path = p.Path }) }, options);

    private static byte[] Binary(IReadOnlyList<(string Path, Entry Entry)> paths, Action<BinaryWriter, byte[]> write) => Written(w => paths.ToList().ForEach(p => write(w, Utf8(p.Path))));

    private static byte[] Wide(IReadOnlyList<(string Path, Entry Entry)> paths, Action<BinaryWriter, byte[]> write) =>
        Written(w => paths.ToList().ForEach(p => write(w, Encoding.Unicode.GetBytes(p.Path))));

    private static byte[] Parts(IReadOnlyList<(string Path, Entry Entry)> paths) => Written(w =>
    {
        foreach (var (_, entry) in paths)
        {
            w.Write(Utf8(entry.Folder));
            w.Write((byte)0);
            w.Write(Utf8(entry.Name));
            w.Write(new byte[] { 0, 0, 0, 1 });
        }
    });

    private static byte[] Written(Action<BinaryWriter> write)
    {
        using var stream = new MemoryStream();
        using (var writer = new BinaryWriter(stream))
        {
            writer.Write("NLOFT\u0001"u8);
            writer.Write(new byte[] { 0, 0, 2, 0 });
            write(writer);
            writer.Write(new byte[] { 0, 0, 0xFF, 0xFE, 0 });
        }
        return stream.ToArray();
    }
}
