using System.Collections.Concurrent;
using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.SetUp;

/// <summary>Sessions are found on a shelf, of whatever program, and what only looks like one is told as what it is.</summary>
public sealed class SessionSearchTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly ConcurrentBag<SessionSearchProgress> _told = [];

    public SessionSearchTests() => _session.Save();

    public void Dispose() => _session.Dispose();

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private string At(params string[] path) => Path.Combine([_session.Drive, .. path]);

    /// <summary>A session in the document of another program: so many sounds, all named.</summary>
    private static string OtherProgram(string folder, int sounds = 2, string document = "song.loft")
    {
        var names = Enumerable.Range(1, sounds).Select(n => $"Audio/take {n:00}.wav").ToList();
        names.ForEach(n => SessionFixture.Sound(Path.Combine(folder, n), samples: 480, seed: n.Length));
        File.WriteAllText(Path.Combine(folder, document), string.Concat(names.Select(n => $"<s f=\"{n}\"/>")));
        return folder;
    }

    private List<FoundSession> Find(params string[] leftOut)
    {
        var found = new ConcurrentBag<FoundSession>();
        new SessionSearch(new InventoryReader(new HeaderCache()), _session.Shelves, leftOut.ToHashSet(StringComparer.Ordinal)).Look(_session.Drive, _told.Add, found.Add, Cancel);
        return [.. found.OrderBy(f => f.Folder, StringComparer.Ordinal)];
    }

    private string[] Folders(params string[] leftOut) => [.. Find(leftOut).Select(f => Path.GetRelativePath(_session.Drive, f.Folder))];

    private string[] Told(params KnownSession[] known) =>
        [.. FoundSessions.Tell(Find(), _session.Drive, known, _session.Shelves).Select(t => $"{t.As} {Path.GetRelativePath(_session.Drive, t.Found.Folder)}{(t.Of is null ? "" : " of " + Path.GetFileName(t.Of))}")];

    private static KnownSession Known(string folder, Guid? id = null, ByteIdentity? document = null) => new(Guid.NewGuid(), folder, id, document);

    [Fact]
    public void EachIsFoundWithWhatItHolds()
    {
        OtherProgram(At("2024", "Winter", "Ferry song"), 3);
        File.WriteAllText(At("2024", "Winter", "Ferry song", "song.loft"), "<s f=\"Audio/take 01.wav\"/><s f=\"Audio/take 02.wav\"/><s f=\"Audio/gone.wav\"/>");
        var found = Find();
        Assert.Equal([At("2024", "Winter", "Ferry song"), _session.Folder], found.Select(f => f.Folder));
        var (song, own) = (found[0], found[1]);
        Assert.Equal((true, 3, "1 file is missing."), (song.IsByNames, song.Media, song.Status.Sentence));
        Assert.Equal(["song.loft"], song.Documents);
        Assert.Equal(File.GetLastWriteTimeUtc(Path.Combine(song.Folder, "song.loft")), song.SavedUtc);
        Assert.Equal(new DirectoryInfo(song.Folder).EnumerateFiles("*", SearchOption.AllDirectories).Sum(f => f.Length), song.Bytes);
        Assert.Equal((false, (Guid?)_session.SessionId), (own.IsByNames, own.DocumentSessionId));
        Assert.Contains(_told, p => p is { ToDo: 2, Done: < 2 });
        Assert.Equal(_told.Max(p => p.Looked), _told.Count(p => p.ToDo == 0));
    }

    /// <summary>Sound alone, a list or a log of it, a document that names what is elsewhere: none of them makes a session.</summary>
    [Fact]
    public void WhatUsesNothingInItIsNoSession()
    {
        SessionFixture.Sound(At("Sounds", "a.wav"));
        File.WriteAllText(At("Sounds", "notes.txt"), "a.wav");
        SessionFixture.Sound(At("Log", "a.wav"));
        File.WriteAllText(At("Log", "run.report"), string.Concat(Enumerable.Range(10, 30).Select(n => $"2026-10-14 20:{n}:00 wrote a.wav\n")));
        SessionFixture.Sound(At("Elsewhere", "a.wav"));
        File.WriteAllText(At("Elsewhere", "song.loft"), $"<s f=\"{At("Sounds", "a.wav")}\"/>");
        Directory.CreateDirectory(At("No sound"));
        File.WriteAllText(At("No sound", "song.loft"), "<s f=\"Audio/take 01.wav\"/>");
        Assert.Equal([SessionFixture.Name], Folders());
    }

    /// <summary>A folder of sessions is gone into, also where a list of them all stands beside; what lies below a session is its own.</summary>
    [Fact]
    public void FoldersOfSessionsAreGoneIntoAndSessionsAreNot()
    {
        OtherProgram(At("Band", "One"), 3);
        OtherProgram(At("Band", "Two"), 3);
        File.WriteAllText(At("Band", "all songs.loft"), "<s f=\"One/Audio/take 01.wav\"/><s f=\"Two/Audio/take 02.wav\"/>");
        // A preset with its sound lies in a session: that is one session.
        var song = OtherProgram(At("Song"), 6);
        OtherProgram(Path.Combine(song, "Presets", "Bell"), 1, "bell.preset");
        OtherProgram(Path.Combine(song, "Presets", "Oar"), 1, "oar.preset");
        // So is one with an index beside its sound.
        File.WriteAllText(At("Song", "Audio", "index.db"), "<f n=\"take 01.wav\"/><f n=\"take 02.wav\"/>");
        Directory.CreateDirectory(_session.Inside("Older documents"));
        File.Copy(_session.DocumentPath, _session.Inside("Older documents", "261001 Net Mender.otio"));
        Assert.Equal([SessionFixture.Name, "Band/One", "Band/Two", "Song"], Folders());
    }

    /// <summary>A place of sessions in which one can be read is gone into, since it is not adopted as one.</summary>
    [Fact]
    public void WhereASessionThatIsReadLiesBelowTheFolderIsAPlaceOfSessions()
    {
        OtherProgram(At("Year"), 5);
        Tree.Copy(_session.Folder, At("Year", "Net Mender"));
        Assert.Equal([SessionFixture.Name, "Year/Net Mender"], Folders());
    }

    [Fact]
    public void OtherShelvesVaultsKeptStatesHiddenFoldersAndLinksAreNotGoneInto()
    {
        OtherProgram(At("Card", "Song"));
        OtherProgram(At(VaultNames.FolderName, "content", "ab"));
        OtherProgram(At("Places", SessionLayout.DocumentBackupsElsewhere, "Song"));
        OtherProgram(At(".hidden", "Song"));
        OtherProgram(At(".Trash-1000", "Song"));
        Directory.CreateSymbolicLink(At("Link"), OtherProgram(Path.Combine(_session.Library, "Song")));
        Assert.Equal([SessionFixture.Name], Folders(At("Card")));
    }

    /// <summary>Of hundreds of files of an unknown kind a few are read, and the rare ones first: a document among many caches is found, one among many of its own kind is not looked for.</summary>
    [Theory]
    [InlineData("a.loft", true, "raw", "pic", "map", "mesh")]
    [InlineData("a.raw", false, "raw")]
    public void FilesOfUnknownKindsAreNotReadWithoutEnd(string document, bool isFound, params string[] kinds)
    {
        OtherProgram(At("Pictures"), 2, document);
        File.SetLastWriteTimeUtc(At("Pictures", document), new DateTime(2020, 1, 1, 0, 0, 0, DateTimeKind.Utc));
        foreach (var kind in kinds)
        {
            for (var n = 0; n < 20; n++)
            {
                File.WriteAllBytes(At("Pictures", $"{n}.{kind}"), [1, 2, 3]);
            }
        }
        Assert.Equal(isFound ? [SessionFixture.Name, "Pictures"] : [SessionFixture.Name], Folders());
    }

    /// <summary>A document that strayed into a place of sessions hides none of them; a preset below a session is none.</summary>
    [Fact]
    public void AStrayDocumentHidesNoSession()
    {
        var song = At("Desktop", "Song");
        Tree.Copy(_session.Folder, song);
        SessionFixture.Sound(Path.Combine(song, "Audio", "a.wav"));
        File.Copy(_session.DocumentPath, At("Desktop", "stray.otio"));
        File.Copy(_session.DocumentPath, At("at the top of the shelf.otio"));
        OtherProgram(_session.Inside("Presets"), 1, "bell.preset");
        Assert.Equal([SessionFixture.Name, "Desktop", "Desktop/Song"], Folders());
    }

    /// <summary>A drive that leaves while it is looked through: that nothing more is found says nothing.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void ADriveThatLeavesIsNotCalledEmpty(bool whileJudging)
    {
        var isGone = false;
        void Leave(SessionSearchProgress now)
        {
            if (!isGone && now.ToDo > 0 == whileJudging)
            {
                isGone = true;
                Directory.Move(_session.Drive, _session.Drive + " away");
            }
        }
        var search = new SessionSearch(new InventoryReader(new HeaderCache()), _session.Shelves, new HashSet<string>());
        Assert.Throws<DirectoryNotFoundException>(() => search.Look(_session.Drive, Leave, _ => { }, Cancel));
    }

    [Fact]
    public void AKnownOneIsKnownAndACopyOfItIsACopy()
    {
        Tree.Copy(_session.Folder, At("Net Mender again"));
        var song = OtherProgram(At("Song"));
        Tree.Copy(song, At("Song again"));
        var document = ByteIdentity.OfFile(Path.Combine(song, "song.loft"), null, Cancel);
        var known = new[] { Known(_session.Folder, _session.SessionId), Known(song, document: document) };
        Assert.Equal(
            [$"Known {SessionFixture.Name} of {SessionFixture.Name}", $"Copy Net Mender again of {SessionFixture.Name}", "Known Song of Song", "Copy Song again of Song"], Told(known));
        // Where the session itself is gone, what is found is what is left of it.
        Directory.Delete(song, recursive: true);
        Assert.Contains("Session Song again", Told(known));
    }

    /// <summary>A session whose drive is away stands there all the same: what lies here is a copy of it.</summary>
    [Fact]
    public void ACopyOfASessionWhoseDriveIsAwayIsACopy() => Assert.Equal(
        [$"Copy {SessionFixture.Name} of Net Mender"], Told(Known(Path.Combine(_session.Laptop, "Net Mender"), _session.SessionId)));

    /// <summary>Of several that are one session the one saved last is it, wherever it lies; copies of the same bytes are told by them.</summary>
    [Fact]
    public void OfSeveralThatAreOneTheOneSavedLastIsIt()
    {
        Tree.Copy(_session.Folder, At("A", "B", "Net Mender"));
        File.SetLastWriteTimeUtc(At("A", "B", "Net Mender", SessionFixture.Name + ".otio"), DateTime.UtcNow.AddHours(1));
        OtherProgram(At("Song", "deep"));
        Tree.Copy(At("Song", "deep"), At("Top"));
        File.SetLastWriteTimeUtc(At("Song", "deep", "song.loft"), File.GetLastWriteTimeUtc(At("Top", "song.loft")));
        Assert.Equal([$"Copy {SessionFixture.Name} of Net Mender", "Session A/B/Net Mender", "Copy Song/deep of Top", "Session Top"], Told());
    }

    /// <summary>Two sessions of one empty name and of equal sounds are two.</summary>
    [Fact]
    public void TwoOfOtherProgramsAreOneOnlyByTheirBytes()
    {
        OtherProgram(At("One"));
        OtherProgram(At("Two"));
        File.AppendAllText(At("Two", "song.loft"), " ");
        // Begun from one template, with other sounds.
        OtherProgram(At("Three"));
        SessionFixture.Sound(At("Three", "Audio", "take 02.wav"), samples: 960);
        Assert.Equal([$"Session {SessionFixture.Name}", "Session One", "Session Three", "Session Two"], Told());
    }

    [Theory]
    [InlineData("Backups", FoundAs.Backup)]
    [InlineData("My back-up 2024", FoundAs.Backup)]
    [InlineData("old_bak", FoundAs.Backup)]
    [InlineData("Backupsters", FoundAs.Session)]
    [InlineData("Feedback", FoundAs.Session)]
    [InlineData("Cache", FoundAs.Cache)]
    [InlineData("Cached", FoundAs.Session)]
    public void WhatStandsInAFolderOfCopiesIsToldSo(string folder, FoundAs expected)
    {
        OtherProgram(At(folder, "Song"));
        var told = Assert.Single(FoundSessions.Tell(Find(), _session.Drive, [], _session.Shelves), t => t.Found.Folder == At(folder, "Song"));
        Assert.Equal((expected, expected == FoundAs.Session ? null : folder), (told.As, told.Of));
    }

    /// <summary>The shelf's own folder may be called anything.</summary>
    [Fact]
    public void TheNameOfTheShelfsFolderSaysNothing()
    {
        var root = At("Backups");
        OtherProgram(Path.Combine(root, "Song"));
        var found = new List<FoundSession>();
        new SessionSearch(new InventoryReader(new HeaderCache()), _session.Shelves, new HashSet<string>()).Look(root, _ => { }, found.Add, Cancel);
        Assert.Equal(FoundAs.Session, Assert.Single(FoundSessions.Tell(found, root, [], _session.Shelves)).As);
    }

    [Fact]
    public void AnUnpackedBundleIsToldAsOne()
    {
        OtherProgram(At("From Idris", "data", "Song"));
        File.WriteAllText(At("From Idris", FoundSessions.BundleDeclaration), "BagIt-Version: 1.0\n");
        Assert.Contains("UnpackedBundle From Idris/data/Song of From Idris", Told());
    }

    /// <summary>A list of what lies in a session below, or what we wrote beside a bundle, names media and is no document: it hides no session.</summary>
    [Theory]
    [InlineData("songs.list", "Song/Audio/take 01.wav\nSong/Audio/take 02.wav\nSong/Audio/take 01.wav\nSong/Audio/take 02.wav\n")]
    [InlineData("packing-slip.json", "{\n  \"format\": \"neat-crate packing slip 1\",\n  \"files\": [\"Song/Audio/take 01.wav\"] }")]
    [InlineData("elsewhere.loft", "<s f=\"/nowhere/at all/take 01.wav\"/>")]
    public void WhatOnlyMentionsSoundHidesNoSessionBelow(string name, string content)
    {
        OtherProgram(At("Received", "Song"));
        File.WriteAllText(At("Received", name), content);
        Assert.Equal([SessionFixture.Name, "Received/Song"], Folders());
    }

    /// <summary>What cannot be looked at is told with the reason, and stops nothing.</summary>
    [Fact]
    public void ADocumentThatCannotBeReadIsToldWithItsReason()
    {
        Directory.CreateDirectory(At("Damaged"));
        File.WriteAllText(At("Damaged", "song.otio"), "{ \"OTIO_SCHEMA\": ");
        var damaged = Assert.Single(Find(), f => f.Folder == At("Damaged"));
        Assert.NotNull(damaged.Status.Problem);
        Assert.Equal(Attention.Unreadable, damaged.Status.Attention);
    }

    [Fact]
    public void ItStopsWhenAskedAndWithoutAShelf()
    {
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        var search = new SessionSearch(new InventoryReader(new HeaderCache()), _session.Shelves, new HashSet<string>());
        Assert.ThrowsAny<OperationCanceledException>(() => search.Look(_session.Drive, _ => { }, _ => { }, stop.Token));
        Assert.Throws<DirectoryNotFoundException>(() => search.Look(At("nowhere"), _ => { }, _ => { }, Cancel));
    }

    /// <summary>Looking changes nothing, not even a time.</summary>
    [Fact]
    public void NothingIsChanged()
    {
        OtherProgram(At("Song"));
        var before = Everything();
        Find();
        Assert.Equal(before, Everything());
    }

    private string Everything() => string.Join('\n', new DirectoryInfo(_session.Drive).EnumerateFileSystemInfos("*", SearchOption.AllDirectories)
        .Select(f => new StringBuilder(f.FullName).Append(' ').Append(f.LastWriteTimeUtc.Ticks).Append(' ').Append((f as FileInfo)?.Length).ToString()).Order(StringComparer.Ordinal));
}
