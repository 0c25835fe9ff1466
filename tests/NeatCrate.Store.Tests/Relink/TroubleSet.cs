using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Store.Tests.Relink;

/// <summary>
/// Files on real shelves that go missing by script, each with what is right written down: which files are it now, or that none is. The
/// sounds are noise, so that no two are alike but those that are meant to be; many share a length, and many names stand in several
/// folders, as in real libraries.
/// </summary>
internal sealed class TroubleSet : IDisposable
{
    private const int Of = 80;
    private const int Rate = 48000;

    private readonly TempFolder _temp = new();
    private readonly StoreFiles _files;
    private readonly Catalogue _catalogue;
    private readonly KeptIdentities _identities;
    private readonly Shelf[] _shelves;
    private readonly List<Trouble> _troubles = [];
    private readonly Random _random = new(17);
    private readonly List<string> _toFlac = [];

    public TroubleSet()
    {
        _files = StoreFiles.Open(_temp.Folder("data"));
        (_catalogue, _identities) = (new Catalogue(_files, TimeProvider.System), new KeptIdentities(_files, TimeProvider.System));
        _shelves = [Shelf("Session drive", ShelfKind.SessionDrive), Shelf("Library", ShelfKind.OwnLibrary), Shelf("Card", ShelfKind.Removable)];
        using (var db = _files.NewDb())
        {
            db.Shelves.AddRange(_shelves.Select((s, n) => new ShelfRow { Id = s.Id, Name = s.Name, Kind = s.Kind, Root = s.Root, Position = n }));
            db.SaveChanges();
        }
        Make();
    }

    /// <summary>A lost file, what happened to it, and which files are it now: none where nothing is.</summary>
    /// <param name="Knew">What was known before: "identities", "catalogue", or "document" alone.</param>
    public sealed record Trouble(string Kind, string Knew, LostFile Lost, IReadOnlySet<string> Right);

    public IReadOnlyList<Trouble> Troubles => _troubles;

    public CatalogueSuggestions Suggestions => new CatalogueSuggestions(_catalogue, _identities, Now());

    /// <summary>Reads a file for its identities, as somebody who makes sure does.</summary>
    public void Read(string path) => Identify(path);

    public void Dispose()
    {
        _files.Dispose();
        _temp.Dispose();
    }

    private Shelf Shelf(string name, ShelfKind kind) => new(Guid.NewGuid(), name, kind, _temp.Folder(name));

    // The shelf that went is away: its files are known, and cannot be had.
    private Shelf[] Now() => [.. _shelves.Select(s => s with { State = s.Name == "Card" ? ShelfState.Of(s.Root + " unplugged") : ShelfState.Of(s.Root) })];

    private string Path(string shelf, string relative) => System.IO.Path.Combine(_shelves.Single(s => s.Name == shelf).Root, relative);

    private sealed record Planned(string Kind, string Knew, string Was, string? Pointer, Func<IReadOnlyList<string>> Change);

    private void Make()
    {
        var planned = new List<Planned>();
        string[] knew = ["identities", "catalogue", "document"];
        void Add(string kind, Func<int, string> was, Func<int, string, IReadOnlyList<string>> change, Func<int, string, string>? pointer = null, string[]? knows = null, string shelf = "Library", Action<int, string>? write = null)
        {
            for (var n = 0; n < Of; n++)
            {
                var (at, path) = (n, Path(shelf, was(n)));
                if (write is null)
                {
                    Noise(path);
                }
                else
                {
                    write(n, path);
                }
                planned.Add(new Planned(kind, (knows ?? knew)[n % (knows ?? knew).Length], path, pointer?.Invoke(n, path), () => change(at, path)));
            }
        }
        string[] noted = ["identities"];
        string[] seen = ["identities", "catalogue"];
        // What is called alike in a hundred folders, and what is called as nothing else.
        string Name(string kind, int n) => n % 4 == 0 ? $"Audio {n % 12:00}.wav" : $"{kind} {n}.wav";

        Add("moved", n => $"moved/from {n / 8}/{Name("creak", n)}", (n, p) => [Move(p, Path("Library", $"elsewhere/to {n / 8}/{System.IO.Path.GetFileName(p)}"))]);
        Add("renamed folder", n => $"bells {n / 20}/low/{Name("bell", n)}", (n, p) => [Move(p, Path("Library", $"old bells {n / 20}/low/{System.IO.Path.GetFileName(p)}"))]);
        Add("renamed file", n => $"renamed/{n / 10}/{Name("oar", n)}", (n, p) => [Move(p, Path("Library", $"renamed/{n / 10}/final version {n}.wav"))], knows: seen);
        Add("moved and renamed", n => $"away with/{n / 10}/{Name("net", n)}", (n, p) => [Move(p, Path("Library", $"tidy/{n / 10}/net take {n}.wav"))], knows: seen);
        Add("new mount point", n => $"mount/{n / 10}/{Name("tide", n)}", (_, p) => [p], (_, p) => p.Replace(Path("Library", ""), "/media/old name/", StringComparison.Ordinal), ["document"]);
        Add("drive letter", n => $"letter/{n / 10}/{Name("quay", n)}", (_, p) => [p], (n, p) => @"E:\letter\" + $@"{n / 10}\{System.IO.Path.GetFileName(p)}", ["document"]);
        Add("separator", n => $"separator/{n / 10}/{Name("rope", n)}", (_, p) => [p], (_, p) => Path("Library", p[Path("Library", "").Length..].Replace('/', '\\')), ["document"]);
        Add("case", n => $"case/{n / 10}/{Name("Lantern", n)}", (_, p) => [p], (_, p) => Path("Library", p[Path("Library", "").Length..].ToUpperInvariant()), ["document"]);
        Add("unicode form", n => $"forms/{n / 10}/Dvořák {n}.wav", (_, p) => [p], (_, p) => p.Normalize(NormalizationForm.FormD), ["document"]);
        Add("percent signs", n => $"percent/{n / 10}/fog signal {n}.wav", (_, p) => [p], (_, p) => p.Replace(" ", "%20", StringComparison.Ordinal), ["document"]);
        Add("characters replaced", n => $"refused/{n / 10}/bottle; high! {n}.wav", (n, p) => [Move(p, Path("Library", $"refused copy/{n / 10}/bottle_ high_ {n}.wav"))]);
        Add("numbering suffix", n => $"numbered/{n / 10}/{Name("thump", n)}", (n, p) => [Move(p, Path("Library", $"copies/{n / 10}/{System.IO.Path.GetFileNameWithoutExtension(p)} ({(n % 3) + 2}).wav"))], knows: seen);
        Add("other metadata, moved", n => $"tags/{n / 10}/{Name("reed", n)}", (n, p) => [Retag(p, Path("Library", $"tagged/{n / 10}/{System.IO.Path.GetFileName(p)}"))], knows: seen);
        Add("other metadata, renamed", n => $"tags renamed/{n / 10}/{Name("bow", n)}", (n, p) => [Retag(p, Path("Library", $"tags renamed/{n / 10}/bow with words {n}.wav"))], knows: noted);
        Add("converted to FLAC", n => $"flac/{n / 10}/{Name("drum", n)}", (n, p) => [Flac(p, Path("Library", $"packed/{n / 10}/{System.IO.Path.GetFileNameWithoutExtension(p)}.flac"))], knows: seen);
        Add("FLAC, renamed", n => $"flac renamed/{n / 10}/{Name("horn", n)}", (n, p) => [Flac(p, Path("Library", $"packed renamed/{n / 10}/horn packed {n}.flac"))], knows: noted);
        Add("duplicates in two places", n => $"twice/{n / 10}/{Name("gull", n)}", (n, p) => Twice(p, Path("Library", $"twin one/{n / 10}/{System.IO.Path.GetFileName(p)}"), Path("Library", $"twin two/{n / 10}/{System.IO.Path.GetFileName(p)}")));
        Add("away drive", n => $"field/{n / 10}/{Name("buoy", n)}", (_, p) => [p], shelf: "Card", pointer: (_, p) => p.Replace("/field/", "/lost field/", StringComparison.Ordinal), knows: ["document"]);
        Add("two sessions", n => $"shared/{n / 20}/{Name("chord", n / 2)}{(n % 2 == 0 ? "" : "")}", (n, p) => [n % 2 == 0 ? Move(p, Path("Library", $"shared by two/{n / 20}/{System.IO.Path.GetFileName(p)}")) : Path("Library", $"shared by two/{n / 20}/{System.IO.Path.GetFileName(p)}")], knows: seen);
        // What no file is any more. The remains may be offered, never taken as certain.
        Add("truncated", n => $"short/{n / 10}/{Name("mast", n)}", (n, p) => Nothing(() => Cut(p, Path("Library", $"cut off/{n / 10}/{System.IO.Path.GetFileName(p)}"), 0.6)));
        Add("lengthened", n => $"long/{n / 10}/{Name("sail", n)}", (n, p) => Nothing(() => Lengthen(p, Path("Library", $"looped/{n / 10}/{System.IO.Path.GetFileName(p)}"))));
        Add("same name, other sound", n => $"impostor/{n / 10}/{Name("winch", n)}", (n, p) => Nothing(() => Impostor(p, Path("Library", $"other winches/{n / 10}/{System.IO.Path.GetFileName(p)}"))), knows: noted);
        Add("same name, other sound, never identified", n => $"impostor unread/{n / 10}/{Name("crank", n)}", (n, p) => Nothing(() => Other(p, Path("Library", $"other cranks/{n / 10}/{System.IO.Path.GetFileName(p)}"))));
        Add("same length, other sound", n => $"alike/{n / 10}/{Name("wave", n)}", (n, p) => Nothing(() => Impostor(p, Path("Library", $"waves/{n / 10}/wave that breaks {n}.wav"))), knows: noted);
        Add("same sound, other rate", n => $"rate/{n / 10}/{Name("keel", n)}", (n, p) => Nothing(() => AtOtherRate(p, Path("Library", $"resampled/{n / 10}/{System.IO.Path.GetFileName(p)}"))));
        Add("silence", n => $"silence/{n / 10}/room tone {n}.wav", (n, p) => [Move(p, Path("Library", $"quiet/{n / 10}/{System.IO.Path.GetFileName(p)}"))], knows: seen, write: (_, p) => Silence(p));
        Add("silence that is gone", n => $"gone silence/{n / 10}/tail of {n}.wav", (_, p) => Nothing(() => File.Delete(p)), knows: seen, write: (_, p) => Silence(p));
        Add("never there", n => $"never/{n / 10}/{Name("ghost", n)}", (_, p) => Nothing(() => File.Delete(p)), knows: ["document"]);

        Scan();
        foreach (var file in planned.Where(p => p.Knew == "identities"))
        {
            Identify(file.Was);
        }
        var stated = planned.Select(p => p.Was).Distinct(StringComparer.Ordinal).ToDictionary(p => p, p => HeaderOf(p), StringComparer.Ordinal);
        var right = planned.ConvertAll(p => p.Change());
        MakeFlacs();
        Scan();
        foreach (var (file, now) in planned.Zip(right))
        {
            var header = stated[file.Was];
            _troubles.Add(new Trouble(file.Kind, file.Knew, Lost(file, new StatedLength(header.LengthSeconds!.Value, header.SampleRate)), now.ToHashSet(StringComparer.Ordinal)));
        }
    }

    private LostFile Lost(Planned file, StatedLength stated)
    {
        var shelf = _shelves.Single(s => s.Holds(file.Was));
        var relative = shelf.Relative(file.Was);
        var isKnown = file.Knew != "document" && file.Pointer is null;
        var known = isKnown ? _catalogue.Recall(shelf.Id, [relative]).GetValueOrDefault(relative) : null;
        var noted = file.Knew == "identities" ? _identities.Recall([(shelf.Id, relative)]).Values.Single().Noted : NotedIdentities.None;
        return new LostFile(file.Pointer ?? file.Was, known, noted, stated, null, Path("Session drive", "261101 Session"));
    }

    private void Scan()
    {
        foreach (var shelf in _shelves)
        {
            using var scan = _catalogue.BeginScan(shelf.Id);
            var result = ShelfScanner.Scan(shelf.Root, new HashSet<string>(), scan);
            scan.End();
            _catalogue.EndScan(shelf.Id, result);
        }
    }

    private void Identify(string path)
    {
        var header = HeaderOf(path);
        _identities.Identify(path, header, null, CancellationToken.None);
        _identities.IdentifySamples(path, header, null, CancellationToken.None);
    }

    // ----- sounds

    // Takes of one pass are of one length; one-shots are of any.
    private static readonly int[] Lengths = [2400, 4800, 3600];

    private void Noise(string path) =>
        Write(path, _random.Next(4) == 0 ? Lengths[_random.Next(Lengths.Length)] : _random.Next(2000, 8000), Rate, () => _random.Next(-20_000, 20_000));

    private static int s_made;

    private static void Silence(string path) => Write(path, 4800, Rate, () => 0);

    private static void Write(string path, int samples, int rate, Func<int> sample)
    {
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(path)!);
        if (File.Exists(path))
        {
            return;
        }
        using (var stream = File.Create(path))
        using (var writer = new WavWriter(stream, new PcmFormat(rate, 1, 16)))
        {
            var values = new int[samples];
            for (var n = 0; n < samples; n++)
            {
                values[n] = sample();
            }
            writer.Write(values);
        }
        // Every file has its own time, long ago enough to be trusted.
        File.SetLastWriteTimeUtc(path, new DateTime(2026, 3, 1, 8, 0, 0, DateTimeKind.Utc).AddSeconds(7 * Interlocked.Increment(ref s_made)));
    }

    // ----- what happens to files

    private static string Move(string from, string to)
    {
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(to)!);
        if (File.Exists(from))
        {
            File.Move(from, to);
        }
        return to;
    }

    private static IReadOnlyList<string> Nothing(Action change)
    {
        change();
        return [];
    }

    private static IReadOnlyList<string> Twice(string from, string one, string other)
    {
        Move(from, one);
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(other)!);
        File.Copy(one, other);
        File.SetLastWriteTimeUtc(other, File.GetLastWriteTimeUtc(one));
        return [one, other];
    }

    /// <summary>Another program writes its words into it: a chunk behind the sound, and the time of now.</summary>
    private static string Retag(string from, string to)
    {
        Move(from, to);
        using (var stream = new FileStream(to, FileMode.Open))
        {
            byte[] words = [.. "LIST"u8, 16, 0, 0, 0, .. "INFOICMT"u8, 4, 0, 0, 0, .. "more"u8];
            stream.Seek(0, SeekOrigin.End);
            stream.Write(words);
            stream.Seek(4, SeekOrigin.Begin);
            stream.Write(BitConverter.GetBytes((int)stream.Length - 8));
        }
        File.SetLastWriteTimeUtc(to, new DateTime(2026, 11, 1, 8, 0, 0, DateTimeKind.Utc));
        return to;
    }

    private string Flac(string from, string to)
    {
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(to)!);
        Move(from, System.IO.Path.ChangeExtension(to, ".wav"));
        _toFlac.Add(System.IO.Path.ChangeExtension(to, ".wav"));
        return to;
    }

    private void MakeFlacs()
    {
        foreach (var some in _toFlac.Chunk(40))
        {
            Tool.Run("flac", ["--silent", "--delete-input-file", .. some]);
        }
        foreach (var file in _toFlac)
        {
            File.SetLastWriteTimeUtc(System.IO.Path.ChangeExtension(file, ".flac"), new DateTime(2026, 11, 2, 8, 0, 0, DateTimeKind.Utc));
        }
    }

    private static void Cut(string from, string to, double part)
    {
        var header = HeaderOf(from);
        var samples = Samples(from, header);
        Rewrite(from, to, [.. samples.Take((int)(samples.Length * part))], header.SampleRate);
    }

    private static void Lengthen(string from, string to)
    {
        var header = HeaderOf(from);
        var samples = Samples(from, header);
        Rewrite(from, to, [.. samples, .. samples], header.SampleRate);
    }

    private void Impostor(string from, string to)
    {
        var header = HeaderOf(from);
        Rewrite(from, to, [.. Samples(from, header).Select(_ => _random.Next(-20_000, 20_000))], header.SampleRate);
    }

    private void Other(string from, string to)
    {
        var header = HeaderOf(from);
        var samples = Samples(from, header);
        Rewrite(from, to, [.. Enumerable.Range(0, samples.Length + 500).Select(_ => _random.Next(-20_000, 20_000))], header.SampleRate);
    }

    private static void AtOtherRate(string from, string to)
    {
        var header = HeaderOf(from);
        var samples = Samples(from, header);
        Rewrite(from, to, [.. Enumerable.Range(0, samples.Length * 44_100 / 48_000).Select(n => samples[Math.Min(samples.Length - 1, n * 48_000 / 44_100)])], 44_100);
    }

    private static void Rewrite(string from, string to, int[] samples, int rate)
    {
        var at = 0;
        var time = File.GetLastWriteTimeUtc(from).AddDays(20);
        File.Delete(from);
        Write(to, samples.Length, rate, () => samples[at++]);
        File.SetLastWriteTimeUtc(to, time);
    }

    private static MediaHeader HeaderOf(string path) => MediaHeaderReader.ReadFile(path) ?? throw new InvalidOperationException($"{path} is no sound.");

    private static int[] Samples(string path, MediaHeader header)
    {
        var bytes = File.ReadAllBytes(path).AsSpan((int)header.DataOffset, (int)header.DataBytes);
        var samples = new int[bytes.Length / 2];
        for (var n = 0; n < samples.Length; n++)
        {
            samples[n] = BitConverter.ToInt16(bytes[(2 * n)..]);
        }
        return samples;
    }
}
