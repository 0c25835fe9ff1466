using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Inventory;

public sealed class InventoryReaderTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private InventoryFile Named(string name) => Assert.Single(_session.Inventory().Files, f => f.Name == name);

    [Fact]
    public void EveryFileIsWhereItStands()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "inside.wav")))
            .Place(SessionFixture.Sound(Path.Combine(_session.Library, "Drums", "outside.wav")))
            .Place(Path.Combine(_session.Laptop, "away.wav"))
            .Place(_session.Inside("Audio", "missing.wav"))
            .Place("x", url: "C:\\Takes\\other system.wav")
            .Save();
        Assert.Equal(
            [
                ("inside.wav", Standing.Inside, "Audio/inside.wav", (string?)"Session drive"),
                ("outside.wav", Standing.Outside, "Drums/outside.wav", "Loft samples"),
                ("away.wav", Standing.Away, "away.wav", "Old laptop"),
                ("missing.wav", Standing.Missing, "Audio/missing.wav", "Session drive"),
                ("C:\\Takes\\other system.wav", Standing.Missing, "C:\\Takes\\other system.wav", null),
            ],
            _session.Inventory().Files.Select(f => (f.Name, f.Standing, f.ShownPath, f.ShelfName)));
    }

    private sealed class Memory(Dictionary<(Guid Shelf, string Path), KnownFile> known) : IShelfMemory
    {
        public List<(Guid Shelf, string Path)> Asked { get; } = [];

        public IReadOnlyDictionary<string, KnownFile> Recall(Guid shelfId, IReadOnlyCollection<string> paths)
        {
            Asked.AddRange(paths.Select(p => (shelfId, p)));
            return paths.Where(p => known.ContainsKey((shelfId, p))).ToDictionary(p => p, p => known[(shelfId, p)]);
        }
    }

    [Fact]
    public void WhatIsAwayOrGoneIsShownAsItWasLastSeenAndNothingElseIs()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Library, "outside.wav")))
            .Place(Path.Combine(_session.Laptop, "Takes", "away.wav"), start: 100, length: 200)
            .Place(Path.Combine(_session.Laptop, "Takes", "away.wav"), start: 4700, length: 900)
            .Place(Path.Combine(_session.Laptop, "never seen.wav"))
            .Place(_session.Inside("Audio", "missing.wav"))
            .Place(_session.Inside("Audio", "never there.wav"))
            .Save();
        var (laptop, library) = (_session.Shelves[3].Id, _session.Shelves[1].Id);
        var seen = new KnownFile(14_444, new DateTime(2026, 9, 1, 0, 0, 0, DateTimeKind.Utc), "WAV", 48000, 1, 24, 4800);
        var memory = new Memory(new() { [(laptop, "Takes/away.wav")] = seen, [(library, "outside.wav")] = seen, [(_session.Shelves[0].Id, $"{SessionFixture.Name}/Audio/missing.wav")] = seen });
        var files = new InventoryReader(new HeaderCache(), memory).Read(_session.Folder, null, _session.Shelves, TestContext.Current.CancellationToken)
            .Files.ToDictionary(f => f.Name);
        Assert.Equal(
            [$"{SessionFixture.Name}/Audio/missing.wav", $"{SessionFixture.Name}/Audio/never there.wav", "Takes/away.wav", "never seen.wav"], memory.Asked.Select(a => a.Path).Order(StringComparer.Ordinal));
        Assert.Equal((seen, seen, 0L), (files["away.wav"].Recalled, files["away.wav"].Known, files["away.wav"].Bytes));
        Assert.Equal(0.1, files["away.wav"].Known!.LengthSeconds);
        // The second clip reaches past the end that the file had.
        Assert.Equal([new SampleRange(100, 200), new SampleRange(4700, 100)], files["away.wav"].Used);
        Assert.Equal((Standing.Missing, seen), (files["missing.wav"].Standing, files["missing.wav"].Known));
        Assert.Equal((null, null), (files["never seen.wav"].Known, files["never there.wav"].Known));
        Assert.Equal((null, 4800L), (files["outside.wav"].Recalled, files["outside.wav"].Known!.LengthSamples));
    }

    [Fact]
    public void EveryFileHasItsUse()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "older.wav")));
        _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
        _session.Document.Root["tracks"]!["children"]!.Items[1].Set("children", JsonItem.List());
        var twice = SessionFixture.Sound(_session.Inside("Audio", "twice.wav"));
        var fresh = SessionDocument.Parse(_session.Document.ToUtf8());
        ClipBuilder.Place(fresh.Root, "Cello", new ClipToPlace("a", MediaUrl.From(twice, _session.Folder), 48000, 4800, 0, 100));
        ClipBuilder.Place(fresh.Root, "Samples", new ClipToPlace("b", MediaUrl.From(twice, _session.Folder), 48000, 4800, 50, 100));
        ClipBuilder.List(fresh.Root, MediaUrl.From(SessionFixture.Sound(_session.Inside("Audio", "listed.wav")), _session.Folder), 4800, 48000);
        File.WriteAllBytes(_session.DocumentPath, fresh.ToUtf8());
        SessionFixture.Sound(_session.Inside("Audio", "stray.wav"));
        SessionFixture.Sound(_session.Inside("Bounces", "mix.wav"));
        SessionFixture.Sound(_session.Inside(".waveforms", "cache.wav"));
        File.WriteAllText(_session.Inside("lyrics.txt"), "la");

        var inventory = _session.Inventory();
        Assert.Equal(
            [("listed.wav", FileUse.Listed), ("mix.wav", FileUse.Bounce), ("older.wav", FileUse.OlderOnly), ("stray.wav", FileUse.Stray), ("twice.wav", FileUse.Placed)],
            inventory.Files.OrderBy(f => f.Name, StringComparer.Ordinal).Select(f => (f.Name, f.Use)));
        var placed = Named("twice.wav");
        Assert.Equal(2, placed.PlacedTimes);
        Assert.Equal(["Cello", "Samples"], placed.Tracks);
        Assert.Equal(new SampleRange(0, 150), Assert.Single(placed.Used));
        // Two documents, the lyrics, and what stands in the folder for caches.
        Assert.Equal(4, inventory.Others.Files);
    }

    [Fact]
    public void WhileADocumentCannotBeReadNothingIsCalledUnused()
    {
        SessionFixture.Sound(_session.Inside("Audio", "take.wav"));
        _session.Save();
        File.WriteAllText(_session.Inside("Older documents.otio"), "{ broken");
        File.SetLastWriteTimeUtc(_session.Inside("Older documents.otio"), DateTime.UtcNow.AddDays(-3));
        Assert.Equal(FileUse.Unknown, Named("take.wav").Use);
        Assert.Contains(_session.Inventory().Remarks, r => r.Code == FaultCode.DocumentCannotBeOpened && r.Reasons is [{ Code: FaultCode.DocumentNotJson, Count: 1 }]);
        File.Delete(_session.DocumentPath);
        File.Delete(_session.Inside("Older documents.otio"));
        Assert.Equal(FileUse.Unknown, Named("take.wav").Use);
        Assert.Equal(Attention.Unreadable, SessionStatus.Of(_session.Inventory()).Attention);
    }

    [Fact]
    public void ALinkInTheFolderThatLeadsOutStandsOutside()
    {
        var real = SessionFixture.Sound(Path.Combine(_session.Library, "real.wav"));
        Directory.CreateDirectory(_session.Inside("Audio"));
        File.CreateSymbolicLink(_session.Inside("Audio", "link.wav"), real);
        _session.Place(_session.Inside("Audio", "link.wav")).Save();
        var link = Named("link.wav");
        Assert.Equal(Standing.Outside, link.Standing);
        Assert.Equal(new FileInfo(real).Length, link.Bytes);
    }

    [Fact]
    public void ABrokenSoundFileIsAnHonestEntry()
    {
        Directory.CreateDirectory(_session.Inside("Audio"));
        File.WriteAllText(_session.Inside("Audio", "broken.wav"), "not sound at all");
        File.WriteAllBytes(_session.Inside("Audio", "empty.wav"), []);
        _session.Save();
        Assert.Equal(FaultCode.MediaStartsOtherwise, Named("broken.wav").Problem!.Code);
        Assert.Equal(FaultCode.MediaEmpty, Named("empty.wav").Problem!.Code);
    }

    [Fact]
    public void ADocumentAmongTheOlderOnesPointsAsIfItStoodAtTheTop()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "then.wav")));
        _session.Save(_session.Inside("Older documents", "then.otio"));
        File.WriteAllBytes(
            _session.DocumentPath, SessionDocument.Create(_session.SessionId, "now", new SessionSettings(), SessionLayout.Default, []).ToUtf8());
        Assert.Equal((Standing.Inside, FileUse.OlderOnly), (Named("then.wav").Standing, Named("then.wav").Use));
    }

    /// <summary>mkfifo and a shell that writes raw bytes set the traps: opening the one would wait for ever, the other cannot be opened.</summary>
    [Fact]
    public void PipesAndNamesThatAreNoTextAreToldAndStopNothing()
    {
        Directory.CreateDirectory(_session.Inside("Audio"));
        Tool.Run("mkfifo", _session.Inside("Audio", "pipe.wav"));
        Tool.RunIn(_session.Inside("Audio"), "bash", "-c", "printf x > $'take \\xff.wav'; ln -s nowhere.wav 'dangling.wav'");
        Tool.Run("mkfifo", Path.Combine(_session.Card, "pipe.wav"));
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "good.wav"))).Place(Path.Combine(_session.Card, "pipe.wav")).Save();
        var inventory = _session.Inventory();
        Assert.Equal(Standing.Inside, Named("good.wav").Standing);
        Assert.Equal(Standing.Missing, Named("pipe.wav").Standing);
        Assert.Contains(inventory.Remarks, r => r.Code == FaultCode.NotARegularFile && r.Path == _session.Inside("Audio", "pipe.wav"));
        Assert.Contains(inventory.Remarks, r => r.Code == FaultCode.NameNotText);
        Assert.Contains(inventory.Remarks, r => r is { Code: FaultCode.LinkToNothing, Other: "nowhere.wav" });
    }

    /// <summary>10,000 references to 2,000 files: looked at in seconds, since headers are read and not files.</summary>
    [Fact]
    public void ABigSessionIsCountedRight()
    {
        var original = SessionFixture.Sound(_session.Inside("Audio", "take 0000.wav"), samples: 100);
        for (var n = 1; n < 2000; n++)
        {
            File.Copy(original, _session.Inside("Audio", $"take {n:0000}.wav"));
        }
        for (var n = 0; n < 10_000; n++)
        {
            _session.Place(_session.Inside("Audio", $"take {n % 1500:0000}.wav"), start: n % 50, length: 10);
        }
        _session.Save();
        var inventory = _session.Inventory();
        Assert.Equal((1500, 500), (inventory.Files.Count(f => f.Use == FileUse.Placed), inventory.Files.Count(f => f.Use == FileUse.Stray)));
        Assert.Equal(10_000, inventory.Files.Sum(f => f.PlacedTimes));
    }

    [Fact]
    public void TheLabelSaysWhatIsSo()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "inside.wav"))).Save();
        Assert.Equal((Attention.InOrder, "Everything is inside, nothing is missing.", ""), Label());
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), samples: 400_000)).Save();
        Assert.Equal("1 file stands outside the session folder, 1.2 MB.", SessionStatus.Of(_session.Inventory()).Sentence);
        _session.Place(_session.Inside("Audio", "gone.wav")).Place(Path.Combine(_session.Laptop, "gull.wav")).Save();
        // One sentence says all that is so, and each part of it is mended elsewhere.
        Assert.Equal((Attention.Silent, "1 file is missing; 1 file is on 'Old laptop', which is away; 1 file stands outside the session folder, 1.2 MB.", "Find the missing files"), Label());
        Assert.Equal([StatusAbout.Silent, StatusAbout.Silent, StatusAbout.Outside], SessionStatus.Of(_session.Inventory()).Parts.Select(p => p.About));

        (Attention, string, string) Label()
        {
            var status = SessionStatus.Of(_session.Inventory());
            return (status.Attention, status.Sentence, status.Next);
        }
    }

    /// <summary>A file that is there and is written otherwise is said to be that, and not to be missing without a word.</summary>
    [Theory]
    [InlineData("Audio\\in 1.wav", "Audio/in 1.wav")]
    [InlineData("Audio/IN 1.WAV", "Audio/in 1.wav")]
    [InlineData("audio/in 1.wav", "Audio/in 1.wav")]
    [InlineData("Audio/Cafe\u0301.wav", "Audio/Caf\u00e9.wav")]
    [InlineData(".\\AUDIO\\Caf\u00c9.wav", "Audio/Cafe\u0301.wav")]
    public void WhatIsWrittenOtherwiseIsSaidToBeThere(string written, string there)
    {
        using var session = new SessionFixture();
        SessionFixture.Sound(session.Inside(there.Split('/')), 400);
        SessionFixture.Sound(session.Inside("Audio", "in 10.wav"), 400);
        session.Place("unused", url: Uri.EscapeDataString(written).Replace("%2F", "/", StringComparison.Ordinal)).Save();
        var inventory = session.Inventory();
        var file = inventory.Files.Single(f => f.Standing == Standing.Missing);
        Assert.Equal(session.Inside(there.Split('/')), file.WrittenOtherwise);
        Assert.Equal(there, file.Remarks.Single(r => r.Code == FaultCode.WrittenOtherwise).Name);
        var status = SessionStatus.Of(inventory);
        Assert.Equal(("1 file is there, and the document writes the name otherwise.", "Write them as they are"), (status.Sentence, status.Next));
        // One more is missing for good.
        session.Place(session.Inside("Audio", "gone.wav")).Save();
        Assert.Equal("2 files are missing, 1 of them is there and written otherwise.", SessionStatus.Of(session.Inventory()).Sentence);
        // Where two may be meant nobody says which.
        SessionFixture.Sound(session.Inside(there.Replace("Audio", "AUDIO", StringComparison.Ordinal).Split('/')), 400);
        Assert.All(session.Inventory().Standing(Standing.Missing), f => Assert.Null(f.WrittenOtherwise));
    }
}
