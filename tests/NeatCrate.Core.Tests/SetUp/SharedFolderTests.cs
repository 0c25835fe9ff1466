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
        var at = _session.Inside(name + SessionDocument.Extension);
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

    private FolderLook Look(string? folder = null) => FolderLook.At(_session.Take(folder), _session.Shelves);

    private static string[] Titles(FolderLook look) => [.. look.Sessions.Select(s => s.Title)];

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
        Assert.Equal(["1 media file that no document uses stays in '261014 Net Mender'."], plan.Warnings);
        var journal = new MemoryJournal();
        journal.Apply(plan);

        var home = Path.Combine(_session.Drive, "261005 Low Water");
        Assert.Equal([home], SeparatePlanner.NewFolders(plan));
        var (stayed, left) = (_session.Take(), _session.Take(home));
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
        var left = _session.Take(Path.Combine(_session.Drive, "261005 Low Water"));
        Assert.Equal([("water.wav", Standing.Inside)], left.Files.Where(f => f.Use == FileUse.Placed).Select(f => (f.Name, f.Standing)));
        Assert.Contains(left.Documents, d => d.Path.EndsWith("Older documents/261005 Low Water as it was.otio", StringComparison.Ordinal));
    }

    [Fact]
    public void OneSessionOrAnUnreadableDocumentIsNotTakenApart()
    {
        Document("261014 Net Mender", 2, []);
        Assert.Equal(["Only one session stands in this folder."], SeparatePlanner.Plan(null, Look()).Refusals);
        Document("261005 Low Water", 1, []);
        File.WriteAllText(_session.Inside("broken.otio"), "{");
        Assert.Contains("'broken.otio' cannot be read", Assert.Single(SeparatePlanner.Plan(null, Look()).Refusals), StringComparison.Ordinal);
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

/// <summary>A document that strayed from its folder is brought home.</summary>
public sealed class BringHomeTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly string _stray;

    public BringHomeTests()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")), "Cello").Place(SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), seed: 2)).Save();
        _stray = Path.Combine(_session.Drive, "Desktop", "261020 Net Mender.otio");
        Directory.CreateDirectory(Path.GetDirectoryName(_stray)!);
        _session.Document.Rename("another evening");
        File.WriteAllBytes(_stray, _session.Document.ToUtf8());
        File.SetLastWriteTimeUtc(_session.DocumentPath, DateTime.UtcNow.AddDays(-1));
    }

    public void Dispose() => _session.Dispose();

    private FoundDocument Look() => Assert.Single(FolderLook.At(_session.Take(Path.GetDirectoryName(_stray)), _session.Shelves).Strays);

    [Fact]
    public void TheHomeIsWhereEverythingIsAndVaultsDoNotCount()
    {
        var vault = new Core.Shelves.Shelf(Guid.NewGuid(), "Vault", Core.Shelves.ShelfKind.Vault, Path.Combine(_session.Root, "vault"));
        Tree.Copy(_session.Folder, Path.Combine(vault.Root, "copy"));
        var homes = BringHomePlanner.Homes(Look(), [], [.. _session.Shelves, vault], TestContext.Current.CancellationToken);
        Assert.Equal([_session.Folder], homes);
        Assert.Empty(FolderLook.At(_session.Take(), _session.Shelves).Strays);
    }

    [Fact]
    public void ItComesHomeAndBackAgain()
    {
        var before = Tree.Of(_session.Root);
        var plan = BringHomePlanner.Plan(_session.SessionId, Look().Path, _session.Folder);
        Assert.Contains("so the current document", plan.Sentence, StringComparison.Ordinal);
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var after = _session.Take();
        Assert.Equal("261020 Net Mender.otio", Path.GetFileName(after.Current!.Path));
        Assert.Equal(2, after.Files.Count(f => f.Use == FileUse.Placed));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Root));
    }

    [Fact]
    public void TheSameDocumentAtHomeIsSaidAndATakenNameIsNumbered()
    {
        File.Copy(_stray, _session.Inside("copy.otio"));
        Assert.Contains("It is there already, as 'copy.otio'", Assert.Single(BringHomePlanner.Plan(null, _stray, _session.Folder).Refusals), StringComparison.Ordinal);
        File.Delete(_session.Inside("copy.otio"));
        File.WriteAllText(_session.Inside("261020 net mender.otio"), "{}");
        Assert.Equal(["Another document there is named '261020 Net Mender.otio', so this one becomes '261020 Net Mender 2.otio'."], BringHomePlanner.Plan(null, _stray, _session.Folder).Warnings);
    }

    /// <summary>On another drive (tmpfs, needs root) the document is copied, since a move would take it away from there.</summary>
    [Fact]
    public void FromAnotherDriveItIsCopied()
    {
        Assert.SkipUnless(Environment.UserName == "root", "Mounting needs root.");
        var other = Path.Combine(_session.Root, "other");
        Directory.CreateDirectory(other);
        Tool.Run("mount", "-t", "tmpfs", "-o", "size=2m", "tmpfs", other);
        try
        {
            var stray = Path.Combine(other, "261021 Net Mender.otio");
            File.Copy(_stray, stray);
            new MemoryJournal().Apply(BringHomePlanner.Plan(null, stray, _session.Folder));
            Assert.True(File.Exists(stray));
            Assert.True(File.Exists(_session.Inside("261021 Net Mender.otio")));
        }
        finally
        {
            Tool.Run("umount", other);
        }
    }
}

/// <summary>A session folder that was moved or renamed is recognised.</summary>
public sealed class SessionRecognitionTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public SessionRecognitionTests() => _session.Save();

    public void Dispose() => _session.Dispose();

    private IReadOnlyList<RecognisedSession> Look(LostSession lost, params string[] known) =>
        SessionRecognition.Look([lost], known.ToHashSet(), _session.Shelves, TestContext.Current.CancellationToken);

    private LostSession Lost(bool byIdentity) => new(
        Guid.NewGuid(), _session.Folder, byIdentity ? _session.SessionId : null, ByteIdentity.OfFile(_session.DocumentPath, null, TestContext.Current.CancellationToken));

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void ByTheIdentityInTheDocumentOrByItsBytes(bool byIdentity)
    {
        var lost = Lost(byIdentity);
        var moved = Path.Combine(_session.Drive, "2026", "October", "The Net Mender");
        Directory.CreateDirectory(Path.GetDirectoryName(moved)!);
        Directory.Move(_session.Folder, moved);
        Assert.Equal([moved], Assert.Single(Look(lost)).Folders);
        Assert.Empty(Look(lost, moved));
        // Worked on since: only the identity still tells.
        File.AppendAllText(Path.Combine(moved, SessionFixture.Name + ".otio"), "\n");
        Assert.Equal(byIdentity ? 1 : 0, Look(lost).Count);
    }

    [Fact]
    public void TwoCopiesAreBothShownAndTheFoldersBelowASessionAreItsOwn()
    {
        var lost = Lost(true);
        Tree.Copy(_session.Folder, Path.Combine(_session.Drive, "b"));
        Tree.Copy(_session.Folder, Path.Combine(_session.Drive, "b", "Older documents"));
        Directory.Move(_session.Folder, Path.Combine(_session.Drive, "a"));
        Assert.Equal(["a", "b"], Assert.Single(Look(lost)).Folders.Select(f => Path.GetFileName(f)));
    }

    [Fact]
    public void ACopyInTheOutboxIsNotTheSession()
    {
        var lost = Lost(true);
        Directory.Move(_session.Folder, Path.Combine(_session.Outbox, "sent"));
        Assert.Empty(Look(lost));
    }
}
