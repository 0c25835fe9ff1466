using System.Globalization;
using System.Net;
using System.Text;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Bundles;

/// <summary>The packing slip as one page of HTML that needs nothing beside it: no script, no font, no picture, no address.</summary>
internal static class SlipPage
{
    // On paper the same as on the screen: ink on white, no line of a table cut in two.
    private const string Style = """
        :root { color-scheme: light dark; }
        body { font: 15px/1.45 system-ui, sans-serif; max-width: 62rem; margin: 2rem auto; padding: 0 1.5rem; }
        h1 { font-size: 1.7rem; margin: 0 0 .2rem; letter-spacing: .01em; }
        h2 { font-size: 1.05rem; margin: 1.8rem 0 .4rem; border-bottom: 1px solid currentColor; padding-bottom: .15rem; }
        dl { display: grid; grid-template-columns: max-content 1fr; gap: .15rem 1.2rem; margin: 1rem 0; }
        dt { opacity: .7; } dd { margin: 0; overflow-wrap: anywhere; }
        table { border-collapse: collapse; width: 100%; } th { text-align: left; font-weight: 600; }
        td, th { padding: .2rem .8rem .2rem 0; vertical-align: top; border-bottom: 1px solid rgba(128, 128, 128, .3); overflow-wrap: anywhere; }
        td.n, th.n { text-align: right; font-variant-numeric: tabular-nums; white-space: nowrap; }
        ul { margin: .2rem 0; padding-left: 1.2rem; } li { overflow-wrap: anywhere; } pre { white-space: pre-wrap; }
        .gap { border-left: .35rem double currentColor; padding-left: .9rem; }
        @media print { body { margin: 0; max-width: none; font-size: 11px; } tr, li { break-inside: avoid; } h2 { break-after: avoid; } }
        """;

    public static byte[] Of(PackingSlip slip)
    {
        var page = new StringBuilder();
        page.Append("<!doctype html>\n<html lang=\"en\">\n<meta charset=\"utf-8\">\n<meta name=\"generator\" content=\"neat-crate packing slip 1\">\n<meta name=\"viewport\" content=\"width=device-width\">\n")
            .Append(CultureInfo.InvariantCulture, $"<title>Packing slip: {Text(slip.Session)}</title>\n<style>\n{Style}\n</style>\n<h1>{Text(slip.Session)}</h1>\n<p>Packing slip</p>\n<dl>\n");
        Row(page, "Packed", slip.PackedAt.ToString("yyyy-MM-dd HH:mm zzz", CultureInfo.InvariantCulture));
        Row(page, "For", slip.Recipient);
        Row(page, "Session", slip.SampleRate is { } rate ? string.Create(CultureInfo.InvariantCulture, $"{RateText.Of(rate)}, {slip.BitDepth} bit") : null);
        Row(page, "Inside", $"{ByteText.Count(slip.Files.Count, "media file")}, {ByteText.Of(slip.Files.Sum(f => f.Bytes))}; {ByteText.Count(slip.OtherFiles, "other file")}");
        Row(page, "Open", slip.Document ?? "no document that could be read");
        Row(page, "Crossfades", slip.Printed is { } p ? $"printed with {PrintedFolder.LawInWords(p.Law)}" : null);
        page.Append("</dl>\n");
        if (!string.IsNullOrWhiteSpace(slip.Note))
        {
            page.Append(CultureInfo.InvariantCulture, $"<pre>{Text(slip.Note.Trim())}</pre>\n");
        }
        if (slip.NotInside.Count == 0)
        {
            page.Append("<p>Nothing that the document points at is missing.</p>\n");
        }
        List(page, "Not inside: these will be silent", slip.NotInside, "gap");
        List(page, "Left out on purpose", slip.LeftOut);
        if (slip.Printed is { } prints)
        {
            List(page, "Not printed", [.. prints.Tracks.Where(t => t.File is null).Select(PackingSlip.Describe)], "gap");
            Table(page, "Printed tracks, all of one length from the start of the session", ["File", "Bits", "Channels", "To know"],
                prints.Tracks.Where(t => t.File is not null).Select(t => new[] { t.File!, t.BitDepth == 32 ? "32 float" : Number(t.BitDepth), Number(t.Channels), string.Join("; ", t.Notes) }));
        }
        Table(page, "Brought in or renamed; the document in this bundle points at the new place", ["From", "To", "Why"], slip.Moves.Select(m => new[] { m.From, m.To, m.Why }));
        Table(page, "Media files", ["File", "Size", "Length", "Rate", "Bits", "Channels", "Use"], slip.Files.Select(f => new[]
        {
            f.Path,
            ByteText.Of(f.Bytes),
            f is { SampleRate: { } hertz, LengthSamples: { } length } ? DurationText.Of(length / (double)hertz) : "",
            f.SampleRate is { } known ? RateText.Of(known) : "",
            Number(f.BitDepth),
            Number(f.Channels),
            f.Use,
        }));
        page.Append("<h2>To check that everything arrived</h2>\n<p>Unpack, open a terminal in the folder that holds <code>bagit.txt</code>, and run</p>\n")
            .Append(CultureInfo.InvariantCulture, $"<pre>sha512sum -c {BagTags.ManifestName}</pre>\n");
        if (slip.Packed is { } packed)
        {
            page.Append(CultureInfo.InvariantCulture, $"<h2>Packed sound</h2>\n<p>{Text(PackingSlip.PackedInWords(packed))}</p>\n<pre>sh {OriginalSounds.ScriptName}</pre>\n");
        }
        page.Append("</html>\n");
        return Encoding.UTF8.GetBytes(page.ToString());
    }

    private static string Text(string text) => WebUtility.HtmlEncode(text);

    private static string Number(int? number) => number?.ToString(CultureInfo.InvariantCulture) ?? "";

    private static void Row(StringBuilder page, string name, string? value)
    {
        if (!string.IsNullOrWhiteSpace(value))
        {
            page.Append(CultureInfo.InvariantCulture, $"<dt>{name}</dt><dd>{Text(value)}</dd>\n");
        }
    }

    private static void List(StringBuilder page, string title, IReadOnlyList<string> lines, string kind = "")
    {
        if (lines.Count > 0)
        {
            page.Append(CultureInfo.InvariantCulture, $"<section class=\"{kind}\"><h2>{title}</h2>\n<ul>\n").AppendJoin("", lines.Select(l => $"<li>{Text(l)}</li>\n")).Append("</ul></section>\n");
        }
    }

    private static void Table(StringBuilder page, string title, string[] heads, IEnumerable<string[]> rows)
    {
        var all = rows.ToList();
        if (all.Count == 0)
        {
            return;
        }
        static string Cell(string tag, string head, string content) => head is "Size" or "Length" or "Rate" or "Bits" or "Channels" ? $"<{tag} class=\"n\">{content}</{tag}>" : $"<{tag}>{content}</{tag}>";
        page.Append(CultureInfo.InvariantCulture, $"<h2>{title}</h2>\n<table>\n<tr>{string.Concat(heads.Select(h => Cell("th", h, h)))}</tr>\n");
        foreach (var row in all)
        {
            page.Append(CultureInfo.InvariantCulture, $"<tr>{string.Concat(row.Zip(heads, (c, h) => Cell("td", h, Text(c))))}</tr>\n");
        }
        page.Append("</table>\n");
    }
}
