using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.SetUp;

/// <summary>A document that strayed from its folder is brought home.</summary>
public sealed class BringHomePlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly string _stray;

    public BringHomePlannerTests()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")), "Cello").Place(SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), seed: 2)).Save();
        _stray = Path.Combine(_session.Drive, "Desktop", "261020 Net Mender.otio");
        Directory.CreateDirectory(Path.GetDirectoryName(_stray)!);
        _session.Document.Rename("another evening");
        File.WriteAllBytes(_stray, _session.Document.ToUtf8());
        File.SetLastWriteTimeUtc(_session.DocumentPath, DateTime.UtcNow.AddDays(-1));
    }

    public void Dispose() => _session.Dispose();

    private FoundDocument Look() => Assert.Single(FolderLook.At(_session.Inventory(Path.GetDirectoryName(_stray)), _session.Shelves).Strays);

    [Fact]
    public void TheHomeIsWhereEverythingIsAndVaultsDoNotCount()
    {
        var vault = new Shelf(Guid.NewGuid(), "Vault", ShelfKind.Vault, Path.Combine(_session.Root, "vault"));
        Tree.Copy(_session.Folder, Path.Combine(vault.Root, "copy"));
        var homes = BringHomePlanner.Homes(Look(), [], [.. _session.Shelves, vault], TestContext.Current.CancellationToken);
        Assert.Equal([_session.Folder], homes);
        Assert.Empty(FolderLook.At(_session.Inventory(), _session.Shelves).Strays);
    }

    /// <summary>Takes of many songs are called the same: where the document states lengths and none agrees, the folder is another song's.</summary>
    [Fact]
    public void AFolderWithTheNamesButNotTheLengthsIsNoHome()
    {
        SessionFixture.Sound(Path.Combine(_session.Drive, "261015 Low Water", "Audio", "Cello 01.wav"), samples: 48000);
        Assert.Equal([_session.Folder], BringHomePlanner.Homes(Look(), [], _session.Shelves, TestContext.Current.CancellationToken));
    }

    [Fact]
    public void ItComesHomeAndBackAgain()
    {
        var before = Tree.Of(_session.Root);
        var plan = BringHomePlanner.Plan(_session.SessionId, Look().Path, _session.Folder);
        Assert.Contains("so the current document", plan.Sentence, StringComparison.Ordinal);
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var after = _session.Inventory();
        Assert.Equal("261020 Net Mender.otio", Path.GetFileName(after.Current!.Path));
        Assert.Equal(2, after.Files.Count(f => f.Use == FileUse.Placed));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Root));
    }

    [Fact]
    public void TheSameDocumentAtHomeIsSaidAndATakenNameIsNumbered()
    {
        File.Copy(_stray, _session.Inside("copy.otio"));
        Assert.Equal((FaultCode.DocumentThereAlready, "copy.otio"), Assert.Single(BringHomePlanner.Plan(null, _stray, _session.Folder).Refusals) is var f ? (f.Code, f.Name) : default);
        File.Delete(_session.Inside("copy.otio"));
        File.WriteAllText(_session.Inside("261020 net mender.otio"), "{}");
        Assert.Equal(
            new Fault(FaultCode.DocumentRenamed) { Name = "261020 Net Mender.otio", Other = "261020 Net Mender 2.otio" },
            Assert.Single(BringHomePlanner.Plan(null, _stray, _session.Folder).Remarks));
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
