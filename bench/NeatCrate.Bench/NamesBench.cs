using System.Diagnostics;
using System.IO.Compression;
using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Names;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Bench;

/// <summary>Names of media files in 200 MB of a document that is not known, against general tools that look for the same names; and what a document of 100 MB takes in memory.</summary>
internal static class NamesBench
{
    private const int Megabyte = 1_000_000;

    public static void Run(string folder)
    {
        Documents(Path.Combine(folder, "session"));
        var names = Enumerable.Range(1, 500).Select(n => $"Hurdy-gurdy take {n:000}.wav").ToArray();
        var list = Path.Combine(folder, "names.txt");
        File.WriteAllLines(list, names);
        var raw = Path.Combine(folder, "raw.bin");
        File.WriteAllBytes(raw, Bytes(200 * Megabyte, names));
        Row("names in 200 MB of bytes", raw, $"strings -n 4 '{raw}' | grep -c -F -f '{list}'", "strings and grep");
        var text = Path.Combine(folder, "text.bin");
        File.WriteAllText(text, Text(200 * Megabyte, names));
        Row("names in 200 MB of XML", text, $"strings -n 4 '{text}' | grep -c -F -f '{list}'", "strings and grep");
        var packed = Path.Combine(folder, "text.gz");
        using (var gzip = new GZipStream(File.Create(packed), CompressionLevel.Fastest))
        {
            gzip.Write(File.ReadAllBytes(text));
        }
        Row("names in 200 MB of XML in gzip", packed, $"zgrep -c -F -f '{list}' '{packed}'", "zgrep");
        var hundred = Bytes(100 * Megabyte, names);
        var before = GC.GetTotalMemory(true);
        var most = 0L;
        using var looking = new Timer(_ => most = Math.Max(most, GC.GetTotalMemory(false)), null, 0, 5);
        NameFinder.Find(hundred);
        Console.WriteLine($"| a document of 100 MB: memory at most | {(Math.Max(most, before) - before + hundred.Length) / 1e6:0} MB | the document with it | | at most 300 MB |");
    }

    /// <summary>A session of 500 documents that name 300 files each, looked at again after one of them was saved.</summary>
    private static void Documents(string folder)
    {
        const int Documents = 500;
        Directory.CreateDirectory(Path.Combine(folder, "Audio"));
        var names = Enumerable.Range(1, 300).Select(n => $"Hurdy-gurdy take {n:000}.wav").ToArray();
        foreach (var name in names)
        {
            File.WriteAllBytes(Path.Combine(folder, "Audio", name), "RIFF"u8.ToArray());
        }
        string PathOf(int n) => Path.Combine(folder, $"Breakwater {n:000}.desk");
        void Save(int n, int gain) =>
            File.WriteAllText(PathOf(n), $"<desk gain=\"{gain}\">{string.Concat(names.Select(name => $"<sound place=\"Audio/{name}\"/>"))}</desk>");
        for (var n = 0; n < Documents; n++)
        {
            Save(n, 0);
        }
        var inventory = new KeptInventory(folder, new HeaderCache());
        var first = Figures.Seconds(() => inventory.Look(null, [], LookDepth.Files, DateTime.UtcNow));
        var (again, gain) = (double.MaxValue, 1);
        for (var run = 0; run < 5; run++)
        {
            Save(7, gain++);
            again = Math.Min(again, Figures.Seconds(() => inventory.Look(null, [], LookDepth.Files, DateTime.UtcNow)));
        }
        Figures.Row("500 documents that name 300 files each: looked at again after one was saved", again, "the first look", first, "one is read");
    }

    private static void Row(string what, string path, string command, string against)
    {
        var bytes = File.ReadAllBytes(path);
        var seconds = Figures.Fastest(3, () => NameFinder.Find(bytes));
        // Once: the tools take half a minute.
        var reference = Figures.Seconds(() =>
        {
            using var shell = Process.Start(new ProcessStartInfo("sh", ["-c", $"{command} > /dev/null"]))!;
            shell.WaitForExit();
        });
        Figures.Row($"{what}, {NameFinder.Find(bytes).Names.Length} found", seconds, against, reference, "200 MB/s");
    }

    /// <summary>Bytes that are no text, with a name in a field of its own every 20 kB.</summary>
    private static byte[] Bytes(int count, string[] names)
    {
        var bytes = new byte[count];
        new Random(5).NextBytes(bytes);
        for (int at = 0, n = 0; at + 300 < count; at += 20_000, n++)
        {
            bytes.AsSpan(at, 128).Clear();
            Encoding.UTF8.GetBytes("Audio/" + names[n % names.Length], bytes.AsSpan(at + 4));
        }
        return bytes;
    }

    private static string Text(int count, string[] names)
    {
        var text = new StringBuilder("<score>");
        for (var n = 0; text.Length < count; n++)
        {
            text.Append(System.Globalization.CultureInfo.InvariantCulture, $"<part id=\"{n}\" from=\"{n * 0.37:0.000}\" gain=\"-3.25\" fade=\"0.01 0.02\" colour=\"#4a5b6c\"><point x=\"{n}\" y=\"0.5\"/><point x=\"{n + 1}\" y=\"0.25\"/></part>");
            if (n % 100 == 0)
            {
                text.Append("<media src=\"Audio/").Append(names[n / 100 % names.Length]).Append("\"/>");
            }
        }
        return text.Append("</score>").ToString();
    }
}
