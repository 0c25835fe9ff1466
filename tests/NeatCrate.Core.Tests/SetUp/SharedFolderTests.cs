using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Usage;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.SetUp;

/// <summary>Several sessions in one folder: told apart, and taken apart.</summary>
public sealed class SharedFolderTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    /// <summary>A document of another program in the shared folder, without an identity of ours, that uses the given files.</summary>
    private string Document(string name, int hoursAgo, IEnumerable<string> media, Guid? id = null, bool absolute = false)
    {
        var document = SessionDocument.Create(id ?? Guid.NewGuid(), name, new SessionSettings(), SessionLayout.Default, ["Track"]);
        if (id is null)
        {
            document.Root.Remove("metadata");
        }
        foreach (var file in media)
        {
            var path = _session.Inside("Audio", file);
            var url = absolute ? "file://" + Uri.EscapeDataString(path).Replace("%2F", "/", StringComparison.Ordinal) : MediaUrl.From(path, _session.Folder);
            ClipBuilder.Place(document.Root, "Track", new ClipToPlace(file, url, 48000, 4800, 0, 4800));
        }
        var at = _session.Inside(name + SessionFolder.DocumentExtension);
        Directory.CreateDirectory(Path.GetDirectoryName(at)!);
        File.WriteAllBytes(at, document.ToUtf8());
        File.SetLastWriteTimeUtc(at, new DateTime(2026, 10, 20, 12, 0, 0, DateTimeKind.Utc).AddHours(-hoursAgo));
        return at;
    }

    private void Sounds(params string[] names)
    {
        foreach (var (name, n) in names.Select((n, i) => (n, i)))
        {
            SessionFixture.Sound(_session.Inside("Audio", name), seed: n + 1);
        }
    }

    private FolderLook Look(string? folder = null) => FolderLook.At(_session.Inventory(folder), _session.Shelves);

    private static string[] Titles(FolderLook look) => [.. look.Sessions.Select(s => s.Title)];

    /// <summary>An instrument takes its samples along, wherever in the folder they stand; what another session plays as well, itself or through an instrument, stays for it.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void AnInstrumentTakesItsSamplesAlong(bool isShared)
    {
        Sounds("mender.wav", "organ/pipes/c4.wav", "organ/d4.wav", "blower.wav", "reed.wav");
        var organ = _session.Inside("Audio", "organ", "organ.sfz");
        File.WriteAllText(organ, "<region> sample=pipes\\c4.wav\n<region> sample=d4.wav\n<region> sample=../blower.wav\n<region> sample=../reed.wav\n");
        File.WriteAllText(_session.Inside("Audio", "reeds.sfz"), "<region> sample=reed.wav\n");
        string[] Played(string sfz) => [.. InstrumentRepointing.Samples(InstrumentRepointing.Read(sfz), Path.GetDirectoryName(sfz)!).Select(s => File.Exists(s) ? ByteIdentity.OfFile(s).ToString() : "nothing: " + s)];
        string[] Told(string folder, params string[] path) => Played(Path.Combine([folder, "Audio", .. path]));
        var (organs, reeds) = (Played(organ), Told(_session.Folder, "reeds.sfz"));
        Document("261014 Net Mender", 2, isShared ? ["mender.wav", "reeds.sfz", "organ/organ.sfz", "blower.wav"] : ["mender.wav", "reeds.sfz", "blower.wav"], Guid.NewGuid());
        Document("261005 Low Water", 1, ["organ/organ.sfz"], Guid.NewGuid());
        var before = Tree.Of(_session.Root);
        var plan = SeparatePlanner.Plan(null, Look());
        Assert.Empty(plan.Refusals);
        Assert.Empty(plan.Remarks);
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var home = Path.Combine(_session.Drive, "261005 Low Water");
        Assert.Equal(organs, Told(home, "organ", "organ.sfz"));
        Assert.Equal(reeds, Told(_session.Folder, "reeds.sfz"));
        Assert.All(_session.Inventory().Files.Concat(_session.Inventory(home).Files), f => Assert.Equal(Standing.Inside, f.Standing));
        if (isShared)
        {
            Assert.Equal(organs, Told(_session.Folder, "organ", "organ.sfz"));
        }
        else
        {
            // What only it plays has moved.
            Assert.Equal(["blower.wav", "mender.wav", "reed.wav", "reeds.sfz"], Directory.EnumerateFiles(_session.Inside("Audio"), "*", SearchOption.AllDirectories).Select(f => Path.GetFileName(f)).Order(StringComparer.Ordinal));
        }
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Root));
    }

    /// <summary>What an instrument misses beside it, it misses beside it in its new folder as well: it goes as it is, to the byte.</summary>
    [Fact]
    public void WhatAnInstrumentMissesIsMissingInItsNewFolder()
    {
        Sounds("mender.wav", "organ/c4.wav");
        var organ = _session.Inside("Audio", "organ", "organ.sfz");
        File.WriteAllText(organ, "<region> sample=c4.wav\n<region> sample=gone.wav\n<region> sample=../../../elsewhere.wav\n");
        var bytes = File.ReadAllBytes(organ);
        Document("261014 Net Mender", 2, ["mender.wav"], Guid.NewGuid());
        Document("261005 Low Water", 1, ["organ/organ.sfz"], Guid.NewGuid());
        new MemoryJournal().Apply(SeparatePlanner.Plan(null, Look()));
        var home = Path.Combine(_session.Drive, "261005 Low Water");
        Assert.Equal(bytes, File.ReadAllBytes(Path.Combine(home, "Audio", "organ", "organ.sfz")));
        Assert.Equal([Path.Combine(home, "Audio", "organ", "gone.wav"), Path.Combine(_session.Drive, "elsewhere.wav")], _session.Inventory(home).Files.Where(f => f.Standing == Standing.Missing).Select(f => f.Path).Order(StringComparer.Ordinal));
    }

    /// <summary>An instrument that names its samples by whole paths says the new ones in its new folder; as it was it stays, with its samples, and nothing is lost.</summary>
    [Fact]
    public void AnInstrumentThatWritesWholePathsIsPointedAtItsSamplesThere()
    {
        Sounds("mender.wav", "organ/c4.wav");
        var organ = _session.Inside("Audio", "organ", "organ.sfz");
        File.WriteAllText(organ, $"<region> sample={_session.Inside("Audio", "organ", "c4.wav")}\n");
        Document("261014 Net Mender", 2, ["mender.wav"], Guid.NewGuid());
        Document("261005 Low Water", 1, ["organ/organ.sfz"], Guid.NewGuid());
        var before = Tree.Of(_session.Root);
        var plan = SeparatePlanner.Plan(null, Look());
        Assert.Empty(plan.Refusals);
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var home = Path.Combine(_session.Drive, "261005 Low Water");
        Assert.Equal([Path.Combine(home, "Audio", "organ", "c4.wav")], InstrumentRepointing.Samples(InstrumentRepointing.Read(Path.Combine(home, "Audio", "organ", "organ.sfz")), Path.Combine(home, "Audio", "organ")));
        Assert.All(_session.Inventory(home).Files, f => Assert.Equal(Standing.Inside, f.Standing));
        Assert.Equal([_session.Inside("Audio", "organ", "c4.wav")], InstrumentRepointing.Samples(InstrumentRepointing.Read(organ), Path.GetDirectoryName(organ)!));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Root));
    }

    /// <summary>One that plays more than can be followed is not taken apart from it; while it stays, so does all that stands beside it.</summary>
    [Fact]
    public void WhatCannotBeFollowedIsNotTakenApart()
    {
        Sounds("organ/c4.wav");
        var organ = _session.Inside("Audio", "organ", "organ.sfz");
        File.WriteAllText(organ, "#include \"more.inc\"\n<region> sample=$NOTE.wav\n");
        Document("261014 Net Mender", 2, ["organ/organ.sfz"], Guid.NewGuid());
        Document("261005 Low Water", 1, ["organ/c4.wav"], Guid.NewGuid());
        var plan = SeparatePlanner.Plan(null, Look());
        Assert.Empty(plan.Refusals);
        new MemoryJournal().Apply(plan);
        Assert.True(File.Exists(_session.Inside("Audio", "organ", "c4.wav")));
        Assert.True(File.Exists(Path.Combine(_session.Drive, "261005 Low Water", "Audio", "organ", "c4.wav")));
        Document("261006 Reeds", 1, ["organ/organ.sfz"], Guid.NewGuid());
        Assert.Equal([new Fault(FaultCode.InstrumentStays) { Name = "organ.sfz" }], SeparatePlanner.Plan(null, Look()).Refusals);
    }

    /// <summary>A folder of session folders is none itself, whether their current documents are there or older versions alone.</summary>
    [Fact]
    public void AFolderThatHoldsTheFoldersOfSessionsIsNoSessionFolder()
    {
        var shelf = Path.GetDirectoryName(_session.Folder)!;
        _session.Save();
        _session.Save(Path.Combine(shelf, "261005 Low Water", "Older documents", "261004 Low Water.otio"));
        Assert.Equal(["261005 Low Water", SessionFixture.Name], Look(shelf).SessionFolders);
        Assert.Empty(Look().SessionFolders);
        File.Move(_session.DocumentPath, Path.Combine(Directory.CreateDirectory(_session.Inside("Older documents")).FullName, "x.otio"));
        // A session that lost its current document is one still.
        Assert.Empty(Look().SessionFolders);
    }

    [Fact]
    public void VersionsAreOneSessionByIdentityByTitleOrByTheirMedia()
    {
        Sounds("a.wav", "b.wav", "c.wav");
        var id = Guid.NewGuid();
        Document("261014 Net Mender", 5, ["a.wav"], id);
        Document("mender final", 4, ["c.wav"], id);
        Document("261015 Low Water", 3, ["b.wav"]);
        Document("261016 Low Water v2", 2, []);
        Document("low water 2026-10-17_221500", 1, []);
        Document("sketch", 0, ["a.wav", "c.wav"]);
        var look = Look();
        Assert.True(look.IsShared);
        Assert.Equal(["sketch", "low water"], Titles(look));
        Assert.Equal(["sketch.otio", "mender final.otio", "261014 Net Mender.otio"], look.Sessions[0].Documents.Select(d => Path.GetFileName(d.Path)));
    }

    [Fact]
    public void TheSameTitleWithAnotherIdentityIsAnotherSession()
    {
        Document("261014 Net Mender", 1, [], Guid.NewGuid());
        Document("261015 Net Mender", 0, [], Guid.NewGuid());
        Assert.True(Look().IsShared);
    }

    [Fact]
    public void EachSessionGetsItsOwnFolderWithAllThatItUses()
    {
        Sounds("mender.wav", "water.wav", "both.wav", "nobody.wav");
        Document("261014 Net Mender", 2, ["mender.wav", "both.wav"], Guid.NewGuid());
        Document("261005 Low Water", 1, ["water.wav", "both.wav"], Guid.NewGuid());
        var lowWater = Document("Older documents/261004 Low Water", 30, ["water.wav"]);
        var before = Tree.Of(_session.Root);
        var plan = SeparatePlanner.Plan(null, Look());
        Assert.Empty(plan.Refusals);
        Assert.Equal(new Fault(FaultCode.IdleMediaStays) { Count = 1, Name = "261014 Net Mender" }, Assert.Single(plan.Remarks));
        var journal = new MemoryJournal();
        journal.Apply(plan);

        var home = Path.Combine(_session.Drive, "261005 Low Water");
        Assert.Equal([home], SeparatePlanner.NewFolders(plan));
        var (stayed, left) = (_session.Inventory(), _session.Inventory(home));
        Assert.All(stayed.Files.Concat(left.Files), f => Assert.Equal(Standing.Inside, f.Standing));
        Assert.Equal(["both.wav", "mender.wav", "nobody.wav"], stayed.Files.Select(f => f.Name));
        Assert.Equal(["both.wav", "water.wav"], left.Files.Select(f => f.Name));
        Assert.Equal(["261005 Low Water.otio", "261004 Low Water.otio"], left.Documents.Select(d => Path.GetFileName(d.Path)));
        Assert.False(File.Exists(lowWater));
        Assert.False(Look().IsShared);

        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Root));
        CutOffs.AssertBeforeOrAfter(_session.Root, new MemoryJournal(), SeparatePlanner.Plan(null, Look()));
    }

    [Fact]
    public void ADocumentThatPointsHereByWholePathsIsPointedAtTheNewPlacesAndKept()
    {
        Sounds("mender.wav", "water.wav");
        Document("261014 Net Mender", 2, ["mender.wav"], Guid.NewGuid());
        Document("261005 Low Water", 1, ["water.wav"], Guid.NewGuid(), absolute: true);
        new MemoryJournal().Apply(SeparatePlanner.Plan(null, Look()));
        var left = _session.Inventory(Path.Combine(_session.Drive, "261005 Low Water"));
        Assert.Equal([("water.wav", Standing.Inside)], left.Files.Where(f => f.Use == FileUse.Placed).Select(f => (f.Name, f.Standing)));
        Assert.Contains(left.Documents, d => d.Path.EndsWith("Older documents/261005 Low Water as it was.otio", StringComparison.Ordinal));
    }

    /// <summary>A file that both use was copied: undone, the document goes back to where it plays the shared one, and misses the copy nowhere. One that points at the copy from elsewhere does.</summary>
    [Theory]
    [InlineData(false, false)]
    [InlineData(true, false)]
    [InlineData(false, true)]
    [InlineData(true, true)]
    public void SeparatingIsUndoneWhereASharedFileWasCopied(bool absolute, bool isNeededElsewhere)
    {
        Sounds("a.wav", "m.wav", "b.wav");
        Document("One", 1, ["a.wav", "m.wav"], Guid.NewGuid());
        Document("Two", 2, ["b.wav", "m.wav"], Guid.NewGuid(), absolute);
        var before = DiskTree.Of(_session.Drive);
        var (plan, journal, users) = (SeparatePlanner.Plan(null, Look()), new MemoryJournal(), new UsersOnDisk(_session.Drive));
        journal.Apply(plan);
        var copy = Assert.Single(Directory.GetFiles(_session.Drive, "m.wav", SearchOption.AllDirectories), f => f != _session.Inside("Audio", "m.wav"));
        if (isNeededElsewhere)
        {
            var document = SessionDocument.Create(Guid.NewGuid(), "Three", new SessionSettings(), SessionLayout.Default, ["Track"]);
            ClipBuilder.Place(document.Root, "Track", new ClipToPlace("m", MediaUrl.From(copy, _session.Drive), 48000, 4800, 0, 4800));
            File.WriteAllBytes(Path.Combine(_session.Drive, "Three.otio"), document.ToUtf8());
        }
        var runner = new Runner(journal, new DurableFiles(), users);
        var undo = runner.Checked(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(isNeededElsewhere ? [FaultCode.StillUsed] : [], undo.Refusals.Codes());
        if (!isNeededElsewhere)
        {
            Assert.Equal(PlanOutcome.Applied, runner.Apply(undo, null, TestContext.Current.CancellationToken).Outcome);
            Assert.Equal(before, DiskTree.Of(_session.Drive));
        }
    }

    /// <summary>Who points at files, by reading every document below a folder.</summary>
    private sealed class UsersOnDisk(string root) : IFileUsers
    {
        public IReadOnlyList<FileUser> PointingAt(IReadOnlySet<string> paths, IReadOnlyDictionary<string, byte[]> rewritten) =>
        [
            .. Directory.GetFiles(root, "*.otio", SearchOption.AllDirectories).SelectMany(d => SessionDocument.Parse(rewritten.GetValueOrDefault(d) ?? File.ReadAllBytes(d)).References
                .Select(r => MediaUrl.Candidates(r.TargetUrl, Path.GetDirectoryName(d)!)[0]).Where(paths.Contains).Select(p => new FileUser(p, Path.GetFileName(d), d))),
        ];
    }

    [Fact]
    public void OneSessionOrAnUnreadableDocumentIsNotTakenApart()
    {
        Document("261014 Net Mender", 2, []);
        Assert.Equal([FaultCode.OnlyOneSession], SeparatePlanner.Plan(null, Look()).Refusals.Codes());
        Document("261005 Low Water", 1, []);
        File.WriteAllText(_session.Inside("broken.otio"), "{");
        Assert.Equal((FaultCode.DocumentCannotBeOpened, _session.Inside("broken.otio")), Assert.Single(SeparatePlanner.Plan(null, Look()).Refusals) is var f ? (f.Code, f.Path) : default);
    }

    [Fact]
    public void AFolderWithoutAReadableDocumentCallsNothingUnused()
    {
        Sounds("a.wav");
        File.WriteAllText(_session.Inside("session.bin"), "of another program");
        var look = Look();
        Assert.Empty(look.Documents);
        Assert.Equal(FileUse.Unknown, Assert.Single(look.Inventory.Files).Use);
    }
}
