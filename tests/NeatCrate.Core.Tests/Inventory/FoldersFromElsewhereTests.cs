using NeatCrate.Core.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Inventory;

/// <summary>Session folders that other systems, other programs and other habits have left their marks in.</summary>
public sealed class FoldersFromElsewhereTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private void LinkAudio()
    {
        var elsewhere = Directory.CreateDirectory(Path.Combine(_session.Library, "Recorded")).FullName;
        SessionFixture.Sound(Path.Combine(elsewhere, "Cello 01.wav"));
        Directory.CreateSymbolicLink(_session.Inside("Audio"), elsewhere);
        _session.Place(_session.Inside("Audio", "Cello 01.wav"), "Cello").Save();
    }

    [Fact]
    public void AnAudioFolderThatIsALinkStandsOutside()
    {
        LinkAudio();
        var inventory = _session.Take();
        Assert.Equal(Standing.Outside, Assert.Single(inventory.Files).Standing);
        Assert.Contains(inventory.Remarks, r => r.Code == FaultCode.FolderIsALink && r.Path == _session.Inside("Audio"));
        Assert.Equal(new Fault(FaultCode.BehindALink) { Other = Path.Combine(_session.Library, "Recorded", "Cello 01.wav") }, Assert.Single(inventory.Files[0].Remarks));
    }

    [Fact]
    public void WhatStandsBehindALinkedAudioFolderIsCopiedInBesideIt()
    {
        LinkAudio();
        var (journal, plan, before) = (new MemoryJournal(), _session.PlanCopyIn(), Tree.Of(_session.Root));
        journal.Apply(plan);
        var file = Assert.Single(_session.Take().Files);
        Assert.Equal((Standing.Inside, "Audio inside/Cello 01.wav", 1), (file.Standing, file.ShownPath, file.PlacedTimes));
        Assert.True(File.Exists(Path.Combine(_session.Library, "Recorded", "Cello 01.wav")));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Root));
    }

    /// <summary>unzip(1) unpacks it; what the document points at there is in it.</summary>
    [Fact]
    public void ABundleHoldsTheSoundBehindALinkedAudioFolder()
    {
        LinkAudio();
        var plan = BundlePlanner.Plan(new BundleRequest(_session.SessionId, _session.Take(), _session.Shelves, [_session.Folder], _session.Outbox, false, null, null, DateTimeOffset.Now));
        new MemoryJournal().Apply(plan);
        var folder = Directory.CreateDirectory(Path.Combine(_session.Root, "unpacked")).FullName;
        Tool.Run("unzip", "-q", plan.Steps[0].Destination, "-d", folder);
        Directory.Delete(Path.Combine(_session.Library, "Recorded"), true);
        var there = _session.Take(Path.Combine(Assert.Single(Directory.GetDirectories(folder)), "data", SessionFixture.Name));
        Assert.Equal((Standing.Inside, 1), (Assert.Single(there.Files).Standing, there.Files[0].PlacedTimes));
    }

    [Theory]
    [InlineData(".git")]
    [InlineData(".Trashes")]
    [InlineData("$RECYCLE.BIN")]
    [InlineData("@eaDir")]
    [InlineData(".Spotlight-V100")]
    [InlineData(".Trash-1000")]
    public void WhatStandsInAWasteBinOrAnIndexIsNoMediaOfTheSession(string name)
    {
        _session.Save();
        SessionFixture.Sound(_session.Inside(name, "deep", "gone.wav"));
        SessionFixture.Sound(_session.Inside("Audio", name, "gone too.wav"));
        SessionFixture.Sound(_session.Inside("Audio", "here.wav"));
        Assert.Equal("Audio/here.wav", Assert.Single(_session.Take().Files).ShownPath);
    }

    /// <summary>A pipe, a device's socket, a link to nothing and a folder that may not be opened: each is told, none is waited for.</summary>
    [Fact]
    public void WhatIsNoFileIsToldAndWaitedForByNobody()
    {
        _session.Place(_session.Inside("Audio", "pipe.wav")).Save();
        Directory.CreateDirectory(_session.Inside("Audio"));
        Tool.Run("mkfifo", _session.Inside("Audio", "pipe.wav"), _session.Inside("other.otio"));
        File.CreateSymbolicLink(_session.Inside("Audio", "nothing.wav"), "/nowhere/at all.wav");
        SessionFixture.Sound(_session.Inside("Audio", "here.wav"));
        var inventory = _session.Take();
        Assert.Equal([(FaultCode.LinkToNothing, "nothing.wav"), (FaultCode.NotARegularFile, "other.otio"), (FaultCode.NotARegularFile, "pipe.wav")],
            inventory.Remarks.Select(r => (r.Code, Path.GetFileName(r.Path)!)).OrderBy(r => r.Item2, StringComparer.Ordinal));
        Assert.Equal(_session.DocumentPath, inventory.Current!.Path);
        Assert.Equal([("here.wav", Standing.Inside), ("pipe.wav", Standing.Missing)], inventory.Files.Select(f => (f.Name, f.Standing)).Order());
    }

    [Fact]
    public async Task AFileThatVanishesWhileItIsLookedAtHarmsNoOther()
    {
        _session.Save();
        for (var n = 0; n < 300; n++)
        {
            SessionFixture.Sound(_session.Inside("Audio", $"{n}.wav"), samples: 10);
        }
        using var stop = new CancellationTokenSource();
        var coming = Task.Run(() =>
        {
            for (var n = 0; !stop.IsCancellationRequested; n = (n + 1) % 200)
            {
                var path = _session.Inside("Audio", $"{n}.wav");
                File.Delete(path);
                File.WriteAllBytes(path, "RIFF"u8);
            }
        }, TestContext.Current.CancellationToken);
        for (var turn = 0; turn < 20; turn++)
        {
            var seen = _session.Take().Files.Where(f => f.Standing == Standing.Inside && f.Problem is null).Select(f => f.Name).ToHashSet();
            Assert.Superset(Enumerable.Range(200, 100).Select(n => $"{n}.wav").ToHashSet(), seen);
        }
        await stop.CancelAsync();
        await coming;
    }

    [Theory]
    [InlineData("\\\\server\\share\\x.wav")]
    [InlineData("file://server/share/x.wav")]
    public void APlaceOnAnotherMachineIsNotShownAsOneInTheSession(string url)
    {
        _session.Place("x", url: url).Save();
        var file = Assert.Single(_session.Take().Files);
        Assert.Equal((Standing.Missing, false, url), (file.Standing, file.BelongsInside, file.ShownPath));
    }

    [Fact]
    public void ADocumentPackedWithItsMediaIsSaidToBeUnread()
    {
        _session.Save();
        File.WriteAllBytes(_session.Inside("from them.otioz"), "PK"u8);
        File.SetLastWriteTimeUtc(_session.Inside("from them.otioz"), new DateTime(2026, 10, 1, 0, 0, 0, DateTimeKind.Utc));
        SessionFixture.Sound(_session.Inside("Audio", "only theirs.wav"));
        var inventory = _session.Take();
        var remark = Assert.Single(inventory.Remarks);
        Assert.Equal((FaultCode.DocumentCannotBeOpened, FaultCode.DocumentOfUnknownFormat), (remark.Code, Assert.Single(remark.Reasons).Code));
        // What it uses is not known, so nothing is called a stray.
        Assert.Equal(FileUse.Unknown, Assert.Single(inventory.Files).Use);
    }

    [Theory]
    [InlineData("")]
    [InlineData("{")]
    [InlineData("[1]")]
    [InlineData("""{"current_document": "../x.otio"}""")]
    [InlineData("""{"current_document": 7}""")]
    public void ASessionCardThatSaysNothingOfUseIsToldAndTheDateDecides(string card)
    {
        _session.Save();
        File.WriteAllText(SessionCard.PathIn(_session.Folder), card);
        var inventory = _session.Take();
        Assert.Equal((_session.DocumentPath, false), (inventory.Current!.Path, inventory.CurrentIsStated));
        Assert.Equal(FaultCode.SessionCardUnusable, Assert.Single(inventory.Remarks).Code);
    }
}
