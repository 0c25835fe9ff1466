using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Store.Tests;

public sealed class CatalogueTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly StoreFiles _files;
    private readonly Catalogue _catalogue;
    private readonly Guid _library = Guid.NewGuid();
    private readonly Guid _card = Guid.NewGuid();

    public CatalogueTests()
    {
        _files = StoreFiles.Open(_temp.Folder("data"));
        _catalogue = new Catalogue(_files, TimeProvider.System);
    }

    public void Dispose()
    {
        _files.Dispose();
        _temp.Dispose();
    }

    private static ScannedFile Sound(string name, int rate = 48000, int samples = 48000, string container = "WAV", string texts = "") => new(
        new FolderFile(name, samples * 3L, new DateTime(2026, 10, 14, 20, 0, 0, 1, DateTimeKind.Utc).AddTicks(7), 42, true),
        MediaKind.Audio,
        new ScannedSound(container, rate, 1, 24, samples, texts),
        null);

    private static ScannedFile Other(string name, MediaKind? kind = null, string? problem = null) =>
        new(new FolderFile(name, 10, DateTime.UnixEpoch, 1, true), kind, null, problem is null ? null : new Fault(FaultCode.MediaUnreadable) { Detail = problem });

    private void Put(Guid shelf, string folder, params ScannedFile[] files)
    {
        using var scan = _catalogue.BeginScan(shelf);
        scan.Put(new ScannedFolder(folder, 7, null, files, [], []));
        scan.End();
    }

    private string[] Find(CatalogueQuery query) => [.. _catalogue.Find(query).Files.Select(f => f.Path)];

    [Fact]
    public void AFileComesBackWithEverythingThatWasPut()
    {
        Put(_library, "struck/bottles", Sound("Bottle high.wav", 44100, 88200));
        var file = Assert.Single(_catalogue.Find(new CatalogueQuery()).Files);
        Assert.Equal(
            new CatalogueFile(file.Id, _library, "struck/bottles/Bottle high.wav", 264600, new DateTime(2026, 10, 14, 20, 0, 0, 1, DateTimeKind.Utc).AddTicks(7),
                MediaKind.Audio, "WAV", 44100, 1, 24, 88200, 2.0, null),
            file);
        Assert.Equal(file, Assert.Single(_catalogue.Get([file.Id, 999])));
        using var scan = _catalogue.BeginScan(_library);
        Assert.Equal((UInt128)7, Assert.Single(scan.Folders).Value);
        Assert.Equal(new FolderFile("Bottle high.wav", 264600, file.ModifiedUtc, 42, true), Assert.Single(scan.Files("struck/bottles")).Value);
    }

    [Fact]
    public void FilesOfAShelfAreRecalledByTheirPaths()
    {
        Put(_library, "", Sound("top.wav"));
        Put(_library, "struck/it's \"odd\"", Sound("hit.wav", 44100, 88200), Other("broken.wav", MediaKind.Audio, "It is damaged."));
        Put(_card, "struck", Sound("hit.wav"));
        var known = _catalogue.Recall(_library, ["top.wav", "struck/it's \"odd\"/hit.wav", "struck/it's \"odd\"/broken.wav", "struck/hit.wav", "nowhere.wav"]);
        Assert.Equal(["struck/it's \"odd\"/broken.wav", "struck/it's \"odd\"/hit.wav", "top.wav"], known.Keys.Order(StringComparer.Ordinal));
        var hit = known["struck/it's \"odd\"/hit.wav"];
        Assert.Equal(("WAV", 44100, 88200L, 2.0, 264600L), (hit.Container, hit.SampleRate, hit.LengthSamples, hit.LengthSeconds, hit.Bytes));
        Assert.Equal((null, 10L), (known["struck/it's \"odd\"/broken.wav"].Container, known["struck/it's \"odd\"/broken.wav"].Bytes));
        Assert.Empty(_catalogue.Recall(_library, []));
    }

    [Fact]
    public void ArchivesOfAllShelvesAreGivenByTheirShelf()
    {
        Put(_library, "", Other("top.zip"), Other("notes.txt"), Other("zip"));
        Put(_library, "sent/2026", Other("Low Water.ZIP"), Sound("hit.wav"));
        Put(_card, "deep", Other("card.zip"));
        var found = _catalogue.Archives();
        Assert.Equal(["sent/2026/Low Water.ZIP", "top.zip"], found[_library].Select(a => a.Path).Order(StringComparer.Ordinal));
        Assert.Equal(("deep/card.zip", new FileState(10, DateTime.UnixEpoch)), Assert.Single(found[_card]));
        _catalogue.Forget(_library);
        Assert.Equal(_card, Assert.Single(_catalogue.Archives()).Key);
    }

    /// <summary>What goes missing is looked for one day: all that was known of it stays, until it is back.</summary>
    [Fact]
    public void WhatIsGoneIsRememberedUntilItIsBack()
    {
        Put(_library, "struck", Sound("hit.wav", 44100, 88200), Sound("stays.wav"), Other("notes.txt"));
        Put(_library, "deep", Sound("TA\u0308DE.wav"));
        void Scan(Action<CatalogueScan> put)
        {
            using var scan = _catalogue.BeginScan(_library);
            put(scan);
            scan.End();
        }
        Scan(s => s.Put(new ScannedFolder("struck", 8, null, [], ["hit.wav", "notes.txt"], [])));
        Scan(s => s.Forget(["deep"]));
        var known = _catalogue.Recall(_library, ["struck/hit.wav", "deep/TA\u0308DE.wav", "struck/notes.txt", "struck/stays.wav"]);
        Assert.Equal(["deep/TA\u0308DE.wav", "struck/hit.wav", "struck/stays.wav"], known.Keys.Order(StringComparer.Ordinal));
        Assert.Equal(("WAV", 44100, 88200L, 264600L), (known["struck/hit.wav"].Container, known["struck/hit.wav"].SampleRate, known["struck/hit.wav"].LengthSamples, known["struck/hit.wav"].Bytes));
        Assert.Equal(["struck/stays.wav"], Find(new CatalogueQuery()));
        using var db = _files.NewDb();
        Assert.Equal(["hit.wav", "t\u00e4de.wav"], db.GoneFiles.Select(g => g.FoldedName).Order());
        Put(_library, "struck", Sound("hit.wav", 48000, 100));
        Assert.Equal(["t\u00e4de.wav"], db.GoneFiles.Select(g => g.FoldedName));
        Assert.Equal(100, _catalogue.Recall(_library, ["struck/hit.wav"])["struck/hit.wav"].LengthSamples);
        _catalogue.Forget(_library);
        Assert.Empty(db.GoneFiles);
    }

    [Fact]
    public void EveryWordMustStandInThePathOrInTheTextsOfTheFile()
    {
        Put(_library, "Glocken", Sound("Häuser.wav", texts: "Wren Achterberg"), Sound("other.wav"));
        Assert.Equal(["Glocken/Häuser.wav"], Find(new CatalogueQuery { Text = "HÄUSER glock" }));
        // The same letters as other drives write them: composed of two.
        Assert.Equal(["Glocken/Häuser.wav"], Find(new CatalogueQuery { Text = "ha\u0308user" }));
        Assert.Equal(["Glocken/Häuser.wav"], Find(new CatalogueQuery { Text = "wren" }));
        using (var db = _files.NewDb())
        {
            db.Shelves.Add(new ShelfRow { Id = _library, Name = "Loft samples", Kind = ShelfKind.OwnLibrary, Root = "/loft" });
            db.SaveChanges();
        }
        Assert.Equal(["Glocken/Häuser.wav"], Find(new CatalogueQuery { Text = "LOFT häuser" }));
        Assert.Empty(Find(new CatalogueQuery { Text = "wren other" }));
        Assert.Empty(Find(new CatalogueQuery { Text = "%" }));
    }

    [Fact]
    public void EachFilterLeavesOutWhatItShould()
    {
        Put(_library, "", Sound("long.wav", samples: 480_000), Sound("short.flac", container: "FLAC"), Sound("foreign.wav", rate: 44100));
        Put(_card, "", Sound("card.wav"), Other("tune.mid", MediaKind.Midi), Other("notes.txt"), Other("bad.wav", MediaKind.Audio, "It is damaged."));
        string[] Names(CatalogueQuery query) => Find(query);
        Assert.Equal(["bad.wav", "card.wav", "foreign.wav", "long.wav", "short.flac", "tune.mid"], Names(new()));
        Assert.Equal(["bad.wav", "card.wav", "tune.mid"], Names(new() { ShelfId = _card }));
        Assert.Equal(["foreign.wav", "long.wav", "short.flac"], Names(new() { ExceptShelves = [_card] }));
        Assert.Equal(["tune.mid"], Names(new() { Kind = MediaKind.Midi }));
        Assert.Equal(["short.flac"], Names(new() { Container = "FLAC" }));
        Assert.Equal(["foreign.wav"], Names(new() { SampleRate = 44100 }));
        Assert.Equal(["long.wav"], Names(new() { MinSeconds = 5 }));
        Assert.Equal(["card.wav", "short.flac"], Names(new() { MaxSeconds = 1.05 }));
        var facets = _catalogue.Facets();
        Assert.Equal(["FLAC", "WAV"], facets.Containers);
        Assert.Equal([44100, 48000], facets.SampleRates);
        Assert.Equal("It is damaged.", Fault.Read(Assert.Single(_catalogue.Problems(_card, 10)).Reason)!.Value[0].Detail);
        Assert.Equal(1, _catalogue.ProblemCounts()[_card]);
    }

    [Fact]
    public void PagesFollowEachOtherWithoutGapOrOverlap()
    {
        Put(_library, "", [.. Enumerable.Range(0, 25).Select(n => Sound($"hit {n % 5}{n:00}.wav", samples: 100 + (n % 3)))]);
        var all = Find(new CatalogueQuery { Order = CatalogueOrder.Length, Descending = true, Take = 100 });
        Assert.Equal(25, all.Length);
        var pages = Enumerable.Range(0, 4).SelectMany(p => Find(new CatalogueQuery { Order = CatalogueOrder.Length, Descending = true, Skip = p * 7, Take = 7 }));
        Assert.Equal(all, pages);
        Assert.Equal(25, _catalogue.Find(new CatalogueQuery { Take = 1 }).Total);
        Assert.Equal(102, _catalogue.Find(new CatalogueQuery { Order = CatalogueOrder.Length, Descending = true, Take = 1 }).Files[0].LengthSamples);
    }

    [Fact]
    public void FoundFilesAreOrderedByWhatIsAskedAndByNameWhereThatIsEqual()
    {
        using (var db = _files.NewDb())
        {
            db.Shelves.AddRange(
                new ShelfRow { Id = _library, Name = "Loft samples", Kind = ShelfKind.OwnLibrary, Root = "/loft" },
                new ShelfRow { Id = _card, Name = "field card", Kind = ShelfKind.Removable, Root = "/card" });
            db.SaveChanges();
        }
        Put(_library, "b", Sound("d.wav", samples: 300), Sound("C.wav", 44100, 100));
        Put(_card, "A", Sound("b.wav", 96000, 200), Sound("a.wav", samples: 300));
        string Names(CatalogueOrder order, bool descending = false) =>
            string.Concat(Find(new CatalogueQuery { Order = order, Descending = descending }).Select(f => Path.GetFileNameWithoutExtension(f)));
        Assert.Equal("abCd", Names(CatalogueOrder.Name));
        Assert.Equal("dCba", Names(CatalogueOrder.Name, true));
        Assert.Equal("abCd", Names(CatalogueOrder.Shelf));
        Assert.Equal("dCba", Names(CatalogueOrder.Shelf, true));
        Assert.Equal("abCd", Names(CatalogueOrder.Folder));
        Assert.Equal("Cadb", Names(CatalogueOrder.Format));
        Assert.Equal("bdaC", Names(CatalogueOrder.Format, true));
        Assert.Equal("Cbad", Names(CatalogueOrder.Bytes));
        // 100 samples at 44.1 kHz last longer than 200 at 96 kHz.
        Assert.Equal("bCad", Names(CatalogueOrder.Length));
    }

    /// <summary>What searches keep in memory follows what scans write, whatever they write: held against a catalogue that reads all of it anew, and against looking through everything.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void SearchesFollowWhatScansWrite(int seed)
    {
        var random = new Random(seed);
        string[] words = ["bottle", "Ro\u0301pe", "tin", "9", "gull", "ull", "\u00E9"];
        string Any() => words[random.Next(words.Length)];
        for (var n = 0; n < 40; n++)
        {
            var (shelf, folder) = (random.Next(2) == 0 ? _library : _card, $"{Any()}/{random.Next(4)}");
            switch (random.Next(6))
            {
                case 0:
                    using (var scan = _catalogue.BeginScan(shelf))
                    {
                        if (scan.Folders.ContainsKey(folder))
                        {
                            scan.Put(new ScannedFolder(folder, 8, null, [], [.. scan.Files(folder).Keys.Take(1)], []));
                        }
                        scan.End();
                    }
                    break;
                case 1:
                    using (var scan = _catalogue.BeginScan(shelf))
                    {
                        scan.Forget([folder]);
                    }
                    break;
                case 2 when random.Next(4) == 0:
                    _catalogue.Forget(shelf);
                    break;
                default:
                    Put(shelf, folder, [.. Enumerable.Range(0, random.Next(1, 4)).Select(_ => Sound($"{Any()} {random.Next(9)}.wav", 44100 + (random.Next(2) * 3900), random.Next(100, 200), texts: Any())), Other("notes.txt")]);
                    break;
            }
            var query = new CatalogueQuery { Text = random.Next(2) == 0 ? Any() : "", SampleRate = random.Next(3) == 0 ? 48000 : null, Order = (CatalogueOrder)random.Next(7), Descending = random.Next(2) == 0, Take = 1000 };
            var (kept, fresh) = (_catalogue.Find(query), new Catalogue(_files, TimeProvider.System).Find(query));
            Assert.Equal(fresh.Files, kept.Files);
            using (var db = _files.NewDb())
            {
                var word = NeatCrate.Core.Sessions.PortableName.ClashKey(query.Text!);
                var folders = db.CatalogueFolders.ToDictionary(f => f.Id, f => f.Path);
                Assert.Equal(
                    db.CatalogueFiles.AsEnumerable().Where(f => f.Kind is not null && (f.SearchText ?? $"{folders[f.FolderId]}/{f.Name}".ToLowerInvariant()).Contains(word, StringComparison.Ordinal) && (query.SampleRate is null || f.SampleRate == query.SampleRate)).Select(f => f.Id).Order(),
                    kept.Files.Select(f => f.Id).Order());
            }
            Assert.Equal(kept.Files.Count, kept.Total);
            // Pages of any size, from both ends, are the same list.
            var size = random.Next(1, 7);
            Assert.Equal(kept.Files, Enumerable.Range(0, (kept.Total + size) / size).SelectMany(p => _catalogue.Find(query with { Skip = p * size, Take = size }).Files));
            Assert.Equal(kept.Files.Reverse(), _catalogue.Find(query with { Descending = !query.Descending }).Files);
        }
    }

    [Fact]
    public void WhatIsGoneIsForgottenAndWhatIsUnreadableIsKept()
    {
        Put(_library, "a", Sound("one.wav"), Sound("two.wav"));
        Put(_library, "b", Sound("three.wav"));
        using (var scan = _catalogue.BeginScan(_library))
        {
            scan.Put(new ScannedFolder("a", 8, new Fault(FaultCode.NotAllowed) { Path = "a" }, [], ["two.wav"], []));
            scan.Forget(["b"]);
        }
        Assert.Equal(["a/one.wav"], Find(new()));
        var problem = Assert.Single(_catalogue.Problems(_library, 10));
        Assert.Equal(("a", true), (problem.Path, problem.IsFolder));
        Assert.Equal([new Fault(FaultCode.NotAllowed) { Path = "a" }], Fault.Read(problem.Reason)!.Value);
    }

    [Fact]
    public void TheCatalogueAnswersWhileAScanRunsAndTheJournalStaysSafe()
    {
        Put(_library, "", Sound("before.wav"));
        using var scan = _catalogue.BeginScan(_library);
        scan.Put(new ScannedFolder("new", 9, null, [Sound("during.wav")], [], []));
        Assert.Contains("before.wav", Find(new()));
        scan.End();
        Assert.Equal(["before.wav", "new/during.wav"], Find(new()));
        using var db = _files.NewDb();
        // 2 is FULL: what the scan asks for itself must not reach the connections of the journal.
        Assert.Equal([2], db.Database.SqlQueryRaw<int>("PRAGMA synchronous").AsEnumerable());
    }

    [Fact]
    public void ForgettingAShelfForgetsAllOfItAndNothingElse()
    {
        Put(_library, "", Sound("library.wav"));
        Put(_card, "", Sound("card.wav"));
        _catalogue.EndScan(_library, new ScanResult(1, 1, 144000, 1, 0, []));
        Assert.Equal(144000, _catalogue.LastScans()[_library].Bytes);
        _catalogue.Forget(_library);
        Assert.Equal(["card.wav"], Find(new()));
        Assert.Empty(_catalogue.LastScans());
        using var db = _files.NewDb();
        Assert.Equal(1, db.CatalogueFiles.Count());
    }
}
