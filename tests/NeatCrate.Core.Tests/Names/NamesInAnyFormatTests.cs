using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Names;

/// <summary>
/// What documents of any program name, over folders with trouble in them: names that look alike, names that are parts of others, other Unicode
/// forms, signs that formats escape, one name in two folders. Every document names half of the files of its folder.
/// </summary>
public sealed class NamesInAnyFormatTests(ITestOutputHelper output) : IDisposable
{
    private static readonly string[] Words = ["Cello", "Hurdy-Gurdy", "Harbour Bell", "Bell", "Rope Creak", "Creak", "Voice", "Tide", "Oar Thump", "Thump", "Struck Bottle", "Low Tide"];
    private static readonly string[] Odd = ["50% wet & dry", "Rope #2 (long)", "Wren's take", "a=b, c;d", "Ida + Wren [old]", "Dæmring på kajen", "Glöckchen", "Vue d’été"];

    // Each of them in encodings that have it: what a document's encoding does not have, it cannot name.
    private static readonly string[] Far = ["海の音", "Звон", "항구", "αύρα"];

    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    [Fact]
    public void NamesAreFoundInDocumentsOfEveryKind()
    {
        var (named, found, wrong, other, formats) = (0, 0, 0, 0, 0);
        foreach (var format in InventedFormats.All)
        {
            formats++;
            foreach (var count in new[] { 5, 40, 200 })
            {
                var session = _temp.Folder($"{formats}", $"{count}", "261110 Breakwater");
                var random = new Random((formats * 1000) + count);
                var entries = Media(random, count, format.Name);
                foreach (var entry in entries)
                {
                    var path = Path.Combine(session, OnDisk(entry.Relative, random));
                    Directory.CreateDirectory(Path.GetDirectoryName(path)!);
                    File.WriteAllBytes(path, "RIFF"u8.ToArray());
                }
                var those = entries.Where((_, n) => n % 2 == 0).ToList();
                File.WriteAllBytes(Path.Combine(session, "Breakwater.loft"), format.Write([.. those.Select(e => (InventedFormats.PathOf(e, format.Style, session), e))]));
                var files = new InventoryReader(new HeaderCache(), null).Read(session, null, [], TestContext.Current.CancellationToken).Files;
                // Of two files that only differ by their folder a document that names no folder cannot say which.
                var open = format.Style == PathStyle.Bare && !format.Name.Contains("apart", StringComparison.Ordinal)
                    ? entries.GroupBy(e => Key(e.Name)).Where(g => g.Count() > 1).Select(g => g.Key).ToHashSet() : [];
                var truth = those.Where(e => !open.Contains(Key(e.Name))).Select(e => Key(e.Relative)).ToHashSet();
                var isNamed = files.Where(f => f.Use == FileUse.Named && f.Standing == Standing.Inside).Select(f => Key(f.ShownPath)).Where(p => !open.Contains(p[(p.LastIndexOf('/') + 1)..])).ToHashSet();
                var lost = truth.Except(isNamed).ToList();
                var taken = isNamed.Except(truth).ToList();
                var missing = files.Where(f => f.Use is FileUse.Named && f.Standing != Standing.Inside).Select(f => f.Path).ToList();
                (named, found, other, wrong) = (named + truth.Count, found + truth.Count - lost.Count, other + taken.Count, wrong + missing.Count);
                if (lost.Count + taken.Count + missing.Count > 0)
                {
                    output.WriteLine($"{format.Name}, {count}: lost {string.Join(" | ", lost.Take(3))}; other {string.Join(" | ", taken.Take(3))}; wrong {string.Join(" | ", missing.Take(3))}");
                }
            }
        }
        output.WriteLine($"{formats} formats, {named} names: found {100.0 * found / named:0.00} %, wrong {100.0 * wrong / named:0.00} %, another file {other}");
        Assert.True(formats >= 40);
        Assert.True(found >= 0.99 * named, $"{found} of {named} found");
        Assert.True(wrong <= 0.01 * named, $"{wrong} wrong names");
        Assert.Equal(0, other);
    }

    private static string Key(string path) => path.Normalize(NormalizationForm.FormC);

    // Some systems write names decomposed.
    private static string OnDisk(string path, Random random) => random.Next(3) == 0 ? path.Normalize(NormalizationForm.FormD) : path;

    private static List<Entry> Media(Random random, int count, string format)
    {
        var extensions = new[] { ".wav", ".WAV", ".aif", ".flac", ".wave", ".mp3" };
        var entries = new Dictionary<string, Entry>(StringComparer.Ordinal);
        var isOneByte = format.Contains("one byte", StringComparison.Ordinal) || format.Contains("Mac OS", StringComparison.Ordinal);
        var isJapanese = format.Contains("Japanese", StringComparison.Ordinal);
        while (entries.Count < count)
        {
            var word = random.Next(8) switch
            {
                0 when !isJapanese => Odd[random.Next(Odd.Length)],
                1 when isJapanese => Far[0],
                1 when !isOneByte => Far[random.Next(Far.Length)],
                _ => Words[random.Next(Words.Length)],
            };
            // On Mac OS a colon parted folders, and no name held one; commas and the like are signs of names everywhere.
            var number = random.Next(4) switch { 0 => "", 1 => $" {random.Next(1, 30):00}", 2 => $" {random.Next(1, 30)}", _ => $"_{random.Next(1, 30):000}" };
            var folder = random.Next(5) switch { 0 => "Audio/Drums", 1 => "Audio/Old takes", 2 => "Samples", _ => "Audio" };
            var entry = new Entry(folder, word + number + extensions[random.Next(extensions.Length)]);
            // No two that differ by case alone stand in one folder here.
            entries.TryAdd(Key(entry.Relative).ToUpperInvariant(), entry);
        }
        return [.. entries.Values];
    }
}
