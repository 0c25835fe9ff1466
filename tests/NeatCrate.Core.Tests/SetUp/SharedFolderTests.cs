using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Tests.Plans;
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
