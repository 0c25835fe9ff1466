using NeatCrate.Core.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
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
        var inventory = _session.Inventory();
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
        var file = Assert.Single(_session.Inventory().Files);
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
        var plan = BundlePlanner.Plan(new BundleRequest(_session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, null, null, DateTimeOffset.Now));
        new MemoryJournal().Apply(plan);
        var folder = Directory.CreateDirectory(Path.Combine(_session.Root, "unpacked")).FullName;
        Tool.Run("unzip", "-q", plan.Steps[0].Destination, "-d", folder);
        Directory.Delete(Path.Combine(_session.Library, "Recorded"), true);
        var there = _session.Inventory(Path.Combine(Assert.Single(Directory.GetDirectories(folder)), "data", SessionFixture.Name));
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
        Assert.Equal("Audio/here.wav", Assert.Single(_session.Inventory().Files).ShownPath);
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
        var inventory = _session.Inventory();
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
            var seen = _session.Inventory().Files.Where(f => f.Standing == Standing.Inside && f.Problem is null).Select(f => f.Name).ToHashSet();
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
        var file = Assert.Single(_session.Inventory().Files);
        Assert.Equal((Standing.Missing, false, url), (file.Standing, file.BelongsInside, file.ShownPath));
    }

    [Fact]
    public void ADocumentPackedWithItsMediaIsSaidToBeUnread()
    {
        _session.Save();
        File.WriteAllBytes(_session.Inside("from them.otioz"), "PK"u8);
        File.SetLastWriteTimeUtc(_session.Inside("from them.otioz"), new DateTime(2026, 10, 1, 0, 0, 0, DateTimeKind.Utc));
        SessionFixture.Sound(_session.Inside("Audio", "only theirs.wav"));
        var inventory = _session.Inventory();
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
        var inventory = _session.Inventory();
        Assert.Equal((_session.DocumentPath, false), (inventory.Current!.Path, inventory.CurrentIsStated));
        Assert.Equal(FaultCode.SessionCardUnusable, Assert.Single(inventory.Remarks).Code);
    }

    /// <summary>A folder that stands in the place of one of our own files is told as long as it stands there, and no longer.</summary>
    [Fact]
    public void WhatIsInTheWayOfOurOwnFilesIsToldAsLongAsItIsThere()
    {
        _session.Save();
        var kept = new KeptInventory(_session.Folder, new HeaderCache());
        FaultCode[] Remarks() => [.. kept.Look(null, _session.Shelves, LookDepth.Files, DateTime.UtcNow, TestContext.Current.CancellationToken).Remarks.Select(r => r.Code)];
        Assert.Empty(Remarks());
        var (card, list) = (SessionCard.PathIn(_session.Folder), HoldingPlace.ListIn(_session.Folder));
        Directory.CreateDirectory(card);
        Assert.Equal([FaultCode.SessionCardUnusable], Remarks());
        Directory.CreateDirectory(list);
        Assert.Equal([FaultCode.SessionCardUnusable, FaultCode.HoldingListUnusable], Remarks());
        Directory.Delete(card);
        Assert.Equal([FaultCode.HoldingListUnusable], Remarks());
        Directory.Delete(list);
        Assert.Empty(Remarks());
    }

    /// <summary>The session with a file of another program in it, and how a file that the own document places is used, one beside it, and one in another folder.</summary>
    private (SessionInventory Inventory, (FileUse Own, FileUse InAudio, FileUse InNotes) Uses) Beside(string name, string content)
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")), "Cello").Save();
        SessionFixture.Sound(_session.Inside("Audio", "theirs.wav"), seed: 2);
        SessionFixture.Sound(_session.Inside("Notes", "hummed.wav"), seed: 3);
        Directory.CreateDirectory(Path.GetDirectoryName(_session.Inside(name.Split('/')))!);
        File.WriteAllText(_session.Inside(name.Split('/')), content);
        var inventory = _session.Inventory();
        var uses = inventory.Files.ToDictionary(f => f.Name, f => f.Use);
        return (inventory, (uses["Cello 01.wav"], uses["theirs.wav"], uses["hummed.wav"]));
    }

    /// <summary>Beside a document of another program nobody can say what it does not use; what the own document uses is known all the same.</summary>
    [Theory]
    [InlineData("Net Mender.xyz", FileUse.Unknown, FileUse.Unknown)]
    [InlineData("Older documents/Net Mender.xyz", FileUse.Unknown, FileUse.Unknown)]
    [InlineData("Audio/Net Mender.xyz", FileUse.Unknown, FileUse.Stray)]
    [InlineData("Net Mender.txt", FileUse.Stray, FileUse.Stray)]
    [InlineData("Set aside/.waveforms/0234.peaks", FileUse.Stray, FileUse.Stray)]
    public void BesideADocumentOfAnotherProgramNothingIsCalledUnused(string name, FileUse inAudio, FileUse inNotes)
    {
        var (inventory, uses) = Beside(name, "points at something");
        Assert.Equal((FileUse.Placed, inAudio, inNotes), uses);
        Assert.Equal(inAudio == FileUse.Unknown ? [name] : [], inventory.Remarks.Where(r => r.Code == FaultCode.MayBeDocuments).SelectMany(r => r.Names));
    }

    /// <summary>What it names is named, and the rest of its folder is named nowhere, which is not unused; where the own document alone counts, nothing changes.</summary>
    [Theory]
    [InlineData("Net Mender.xyz", FileUse.Named, FileUse.NamedNowhere)]
    [InlineData("Older documents/Net Mender.xyz", FileUse.OlderOnly, FileUse.NamedNowhere)]
    [InlineData("Audio/Net Mender.xyz", FileUse.OlderOnly, FileUse.Stray)]
    [InlineData("Net Mender.txt", FileUse.Stray, FileUse.Stray)]
    [InlineData("Set aside/.waveforms/0234.peaks", FileUse.Stray, FileUse.Stray)]
    [InlineData("Audio/theirs.wav.marks", FileUse.Stray, FileUse.Stray)]
    public void WhatADocumentOfAnotherProgramNamesIsNamed(string name, FileUse inAudio, FileUse inNotes)
    {
        var (inventory, uses) = Beside(name, "<sound name=\"theirs.wav\"/>");
        Assert.Equal((FileUse.Placed, inAudio, inNotes), uses);
        Assert.Equal(_session.DocumentPath, inventory.Current!.Path);
        Assert.Equal(inNotes != FileUse.Stray, inventory.IsUseUnknown(_session.Inside("Notes", "hummed.wav")));
    }

    /// <summary>The samples of an instrument are used as the instrument is: all of each, by whatever plays it.</summary>
    [Fact]
    public void TheSamplesOfAnInstrumentAreUsedAsItIs()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Organ", "c4.wav"));
        SessionFixture.Sound(_session.Inside("Audio", "Organ", "loose.wav"), seed: 2);
        SessionFixture.Sound(_session.Inside("Audio", "Bell", "bell.wav"), seed: 3);
        File.WriteAllText(_session.Inside("Audio", "organ.sfz"), "<control> default_path=Organ\\\n<region> sample=c4.wav key=60\n<region> sample=gone.wav");
        File.WriteAllText(_session.Inside("Audio", "Bell", "bell.sfz"), "#include \"strikes.sfz\"");
        _session.Place(_session.Inside("Audio", "organ.sfz")).Save();
        var inventory = _session.Inventory();
        var files = inventory.Files.ToDictionary(f => f.Name);
        Assert.Equal((FileUse.Placed, 1, new SampleRange(0, 4800)), (files["c4.wav"].Use, files["c4.wav"].PlacedTimes, Assert.Single(files["c4.wav"].Used)));
        Assert.Equal(["organ.sfz"], Assert.Single(files["c4.wav"].Remarks, r => r.Code == FaultCode.SampleOfInstrument).Names);
        Assert.Empty(files["c4.wav"].TargetUrls);
        // What an instrument includes is not followed, so beside it nothing is called unused.
        Assert.Equal((FileUse.Stray, FileUse.Unknown), (files["loose.wav"].Use, files["bell.wav"].Use));
        Assert.Equal(["Audio/Bell/bell.sfz"], inventory.Remarks.Where(r => r.Code == FaultCode.PointsElsewhere).Select(r => r.Name));
    }

    [Fact]
    public void ATakeBesideADocumentOfAnotherProgramCanStillBePutOnTheList()
    {
        _session.Save();
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        File.WriteAllText(_session.Inside("Net Mender.xyz"), "x");
        Assert.Empty(TakesPlanner.Plan(_session.SessionId, _session.Inventory(), new HashSet<string>()).Refusals);
    }

    /// <summary>One clip may hold several references to a file, as for a proxy of it; it places the file once.</summary>
    [Fact]
    public void AClipWithTwoReferencesPlacesItsFileOnce()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        const string Reference = """{"OTIO_SCHEMA": "ExternalReference.1", "target_url": "Audio/Cello%2001.wav"}""";
        const string Clip = $$$"""{"OTIO_SCHEMA": "Clip.2", "media_references": {"DEFAULT_MEDIA": {{{Reference}}}, "proxy": {{{Reference}}}} }""";
        File.WriteAllText(_session.DocumentPath, $$"""{"OTIO_SCHEMA": "Track.1", "name": "Cello", "children": [{{Clip}}, {{Clip}}]}""");
        Assert.Equal(2, Assert.Single(_session.Inventory().Files).PlacedTimes);
    }
}
