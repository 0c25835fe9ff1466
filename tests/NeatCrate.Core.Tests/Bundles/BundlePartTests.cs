using System.Collections.Immutable;
using System.IO.Compression;
using System.Text;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Json;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Printing;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Bundles;

/// <summary>What goes along by choice, what it weighs before, and what the slip says of it.</summary>
public sealed class BundlePartTests : IDisposable
{
    private static readonly DateTimeOffset Now = new(2026, 10, 14, 23, 30, 5, TimeSpan.FromHours(2));

    private readonly SessionFixture _session = new();
    private readonly Shelf[] _shelves;

    public BundlePartTests()
    {
        var stock = new Shelf(Guid.NewGuid(), "Stock", ShelfKind.StockContent, Directory.CreateDirectory(Path.Combine(_session.Root, "stock")).FullName);
        _shelves = [.. _session.Shelves, stock];
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "old.wav"), seed: 7));
        _session.Save(_session.Inside("Older documents", SessionFixture.Name + " 2026-10-13_230000.otio"));
        var children = _session.Document.Root["tracks"]!["children"]!.Items[1]["children"]!;
        while (children.Items.Count > 0)
        {
            children.RemoveAt(0);
        }
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), seed: 1), "Cello")
            .Place(SessionFixture.Sound(Path.Combine(stock.Root, "kick.wav"), seed: 2))
            .Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 3))
            .List(SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"), seed: 4))
            .Save();
        SessionFixture.Sound(_session.Inside("Audio", "stray.wav"), seed: 5);
        SessionFixture.Sound(_session.Inside("Bounces", "mix.wav"), seed: 6);
        File.WriteAllBytes(_session.Inside("Audio", "film.mov"), new byte[777]);
        Directory.CreateDirectory(_session.Inside("Lyrics"));
        File.WriteAllText(_session.Inside("Lyrics", "words.txt"), "la la");
        Directory.CreateDirectory(_session.Inside("Document backups"));
        File.Copy(_session.DocumentPath, _session.Inside("Document backups", SessionFixture.Name + " 2026-10-14_200000.otio"));
    }

    public void Dispose() => _session.Dispose();

    private SessionInventory Inventory() => new InventoryReader(new HeaderCache()).Read(_session.Folder, null, _shelves, TestContext.Current.CancellationToken);

    private PackBundleStep Pack(ImmutableHashSet<BundlePart> parts, out Plan plan)
    {
        plan = BundlePlanner.Plan(new BundleRequest(_session.SessionId, Inventory(), _shelves, [_session.Folder], _session.Outbox, parts, "Idris Falk", "Mix <as> you & like.", Now));
        return Assert.IsType<PackBundleStep>(Assert.Single(plan.Steps));
    }

    private static List<string> Names(PackBundleStep step) => [.. step.Contents.Entries.Select(e => e.PayloadPath[(e.PayloadPath.IndexOf('/', StringComparison.Ordinal) + 1)..]).Order(StringComparer.Ordinal)];

    /// <summary>Each part alone changes what goes by exactly the files and bytes that were said of it before.</summary>
    [Theory]
    [InlineData(BundlePart.Unplaced, "Audio/Cello 02.wav", "Audio/stray.wav")]
    [InlineData(BundlePart.Bounces, "Bounces/mix.wav")]
    [InlineData(BundlePart.Video, "Audio/film.mov")]
    [InlineData(BundlePart.OlderVersions, "Audio/old.wav", "Older documents/261014 Net Mender 2026-10-13_230000.otio")]
    [InlineData(BundlePart.KeptSaves, "Document backups/261014 Net Mender 2026-10-14_200000.otio")]
    [InlineData(BundlePart.OtherFiles, "Lyrics/words.txt")]
    [InlineData(BundlePart.StockContent, "Audio/kick.wav")]
    public void EachPartIsWhatItWeighs(BundlePart part, params string[] files)
    {
        var all = Enum.GetValues<BundlePart>().Except([BundlePart.PrintedTracks]).ToImmutableHashSet();
        var (with, without) = (Pack(all, out _), Pack(all.Remove(part), out var plan));
        Assert.Equal(files, Names(with).Except(Names(without)));
        Assert.Empty(Names(without).Except(Names(with)));
        var weight = Assert.Single(BundleParts.Weigh(Inventory(), _shelves, ImmutableHashSet<CopyKind>.Empty, null, new PrintChoice(), cancel: TestContext.Current.CancellationToken), w => w.Part == part);
        Assert.Equal(files.Length, weight.Files);
        // A document may be a few bytes longer or shorter as it points at other places; sounds are as they are.
        var bytes = with.Contents.Entries.Where(e => files.Any(f => e.PayloadPath.EndsWith("/" + f, StringComparison.Ordinal))).Sum(e => e.Bytes);
        Assert.Equal(bytes, weight.Bytes);
        // What stays is said, and what is played and stays is said to be silent.
        var slip = Encoding.UTF8.GetString(without.Contents.SlipText);
        Assert.Contains("Left out on purpose", slip, StringComparison.Ordinal);
        Assert.Equal(part == BundlePart.StockContent, slip.Contains("kick.wav (placed once; on 'Stock', left out by choice)", StringComparison.Ordinal));
        Assert.Equal(part == BundlePart.StockContent, plan.Remarks.Any(r => r.Code == FaultCode.SilentInBundle));
    }

    /// <summary>What a document plays goes whatever is chosen, and with it the document.</summary>
    [Fact]
    public void WhatIsPlayedAlwaysGoes()
    {
        var names = Names(Pack([], out _));
        Assert.Equal(["261014 Net Mender.otio", "Audio/Cello 01.wav", "Audio/tide.wav"], names);
    }

    /// <summary>Printed tracks stand beside the session folder, whole and as the manifest says them; the folder says what each is.</summary>
    [Fact]
    public void PrintedTracksGoAlongBesideTheSession()
    {
        var step = Pack([BundlePart.PrintedTracks], out var plan);
        Assert.Contains("; 2 tracks printed", plan.Sentence, StringComparison.Ordinal);
        new MemoryJournal().Apply(plan);
        Tool.Run("unzip", "-tq", step.Destination);
        var folder = Directory.CreateDirectory(Path.Combine(_session.Drive, "unpacked")).FullName;
        Tool.Run("unzip", "-q", step.Destination, "-d", folder);
        var bag = Assert.Single(Directory.GetDirectories(folder));
        Tool.RunIn(bag, "sha512sum", "-c", "--quiet", "manifest-sha512.txt");
        Tool.RunIn(bag, "sha512sum", "-c", "--quiet", "tagmanifest-sha512.txt");
        var printed = Path.Combine(bag, "data", "Printed tracks");
        Assert.Equal(["01 Cello.wav", "02 Samples.wav", "Read me first.txt", "Tempo and markers.mid"], Directory.GetFiles(printed).Select(Path.GetFileName).Order(StringComparer.Ordinal));
        Assert.Equal(["9600", "9600"], Tool.RunIn(printed, "soxi", "-s", "01 Cello.wav", "02 Samples.wav").Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => l.Trim()).Take(2));
        // The second track holds one sound behind the other.
        Tool.Run("sox", Path.Combine(_shelves[^1].Root, "kick.wav"), Path.Combine(_session.Card, "tide.wav"), Path.Combine(folder, "joined.wav"));
        Assert.Equal(Raw(Path.Combine(folder, "joined.wav")), Raw(Path.Combine(printed, "02 Samples.wav")));
        Assert.Contains("Crossfades   equal gain", File.ReadAllText(Path.Combine(printed, "Read me first.txt")), StringComparison.Ordinal);
        // Whoever looks for sessions finds the one that was sent, and takes the prints for none.
        var found = new List<string>();
        new SessionSearch(new InventoryReader(new HeaderCache()), _shelves, new HashSet<string>()).Look(folder, _ => { }, f => found.Add(f.Folder), TestContext.Current.CancellationToken);
        Assert.Equal([Path.Combine(bag, "data", SessionFixture.Name)], found.Select(f => Path.Combine(folder, f)));
    }

    /// <summary>A bag that somebody packed anew, whose manifest names the prints first, still holds the session and not the prints.</summary>
    [Fact]
    public void TheSessionIsFoundBesideItsPrintsInAnyOrder()
    {
        var step = Pack([BundlePart.PrintedTracks], out var plan);
        new MemoryJournal().Apply(plan);
        var folder = Directory.CreateDirectory(Path.Combine(_session.Root, "again")).FullName;
        Tool.Run("unzip", "-q", step.Destination, "-d", folder);
        var manifest = Path.Combine(Assert.Single(Directory.GetDirectories(folder)), "manifest-sha512.txt");
        File.WriteAllLines(manifest, File.ReadAllLines(manifest).OrderBy(l => !l.Contains("data/Printed tracks/", StringComparison.Ordinal)));
        var again = Path.Combine(_session.Root, "again.zip");
        ZipFile.CreateFromDirectory(folder, again);
        var contents = new BagContainer(again, new DurableFiles()).Read();
        Assert.Equal((SessionFixture.Name, 3), (contents.Folder, contents.Entries.Length));
    }

    private static byte[] Raw(string path)
    {
        Tool.Run("sox", path, "-t", "raw", "-e", "signed-integer", "-b", "24", path + ".raw");
        return File.ReadAllBytes(path + ".raw");
    }

    /// <summary>What is sensible for whom: of a stranger nothing is taken for granted, and an archive lacks nothing.</summary>
    [Fact]
    public void EachGetsWhatTheyNeed()
    {
        Recipient Somebody(RecipientWork work, bool reads = true, bool hasStock = false) => new("Idris Falk", work, reads, hasStock, RecipientSystem.Any, null, []);
        var (archive, stranger) = (Recipient.Standard[0].Parts, Recipient.Standard[1].Parts);
        Assert.Equal(Enum.GetValues<BundlePart>().Except([BundlePart.PrintedTracks]), archive.Order());
        Assert.Equal([.. BundleParts.Standard.Union([BundlePart.Bounces, BundlePart.PrintedTracks]).Order()], stranger.Order());
        Assert.Equal([BundlePart.Bounces, BundlePart.StockContent], Somebody(RecipientWork.Listen).Parts.Order());
        Assert.DoesNotContain(BundlePart.Unplaced, Somebody(RecipientWork.Mix).Parts);
        Assert.Contains(BundlePart.Unplaced, Somebody(RecipientWork.Edit).Parts);
        Assert.DoesNotContain(BundlePart.StockContent, Somebody(RecipientWork.Mix, hasStock: true).Parts);
        Assert.Contains(BundlePart.StockContent, Somebody(RecipientWork.Archive, hasStock: true).Parts);
        Assert.Contains(BundlePart.PrintedTracks, Somebody(RecipientWork.Listen, reads: false).Parts);
    }

    /// <summary>An effect that they have is no gap; who only listens, or has another program, is not told of it.</summary>
    [Theory]
    [InlineData(RecipientWork.Mix, true, "", true)]
    [InlineData(RecipientWork.Mix, true, "ROOM ", false)]
    [InlineData(RecipientWork.Listen, true, "", false)]
    [InlineData(RecipientWork.Edit, false, "", false)]
    public void WhatTheyLackIsNamed(RecipientWork work, bool reads, string has, bool lacks)
    {
        _session.Document.Root["tracks"]!["children"]!.Items[0]["effects"]!.Add(JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("Effect.1")), ("name", JsonItem.Of("Room"))));
        _session.Save();
        var plan = BundlePlanner.Plan(new BundleRequest(_session.SessionId, Inventory(), _shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, "Idris Falk", null, Now)
        {
            For = new Recipient("Idris Falk", work, reads, false, RecipientSystem.Any, null, [has]),
        });
        Assert.Equal(lacks, plan.Remarks.Any(r => r is { Code: FaultCode.RecipientLacks, Names: ["Room"] }));
    }

    /// <summary>The slip as a page: read by xmllint (libxml2) without an error, with nothing in it but what was written, and nothing from elsewhere.</summary>
    [Fact]
    public void TheSlipIsAPageThatNeedsNothing()
    {
        var step = Pack(BundleParts.Standard, out var plan);
        new MemoryJournal().Apply(plan);
        using var archive = ZipFile.OpenRead(step.Destination);
        var path = Path.Combine(_session.Root, "slip.html");
        Assert.Single(archive.Entries, e => e.Name == "packing-slip.html").ExtractToFile(path);
        var page = File.ReadAllText(path);
        Assert.Contains("Mix &lt;as&gt; you &amp; like.", page, StringComparison.Ordinal);
        Assert.DoesNotContain("src=", page, StringComparison.Ordinal);
        Assert.DoesNotContain("href=", page, StringComparison.Ordinal);
        var told = Tool.Try(_session.Root, "xmllint", ["--html", "--noout", path]);
        Assert.True(told.Code == 0 && told.Output.Split('\n').All(l => !l.Contains("error", StringComparison.Ordinal) || l.Contains("Tag section", StringComparison.Ordinal)), told.Output);
    }
}
