using NeatCrate.Core.Bundles;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Usage;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>One promise of the runner after the other, each with the moment at which it would be broken.</summary>
public sealed class RunnerPromisesTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly MemoryJournal _journal = new();
    private readonly QuickFiles _files = new();

    public void Dispose() => _session.Dispose();

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private Plan PlanCopyIn(int files = 2)
    {
        for (var n = 0; n < files; n++)
        {
            _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, $"tide {n}.wav"), seed: n + 1));
        }
        _session.Save();
        return _session.PlanCopyIn();
    }

    private Plan PlanOf(params PlanStep[] steps) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.CopyIn,
        Sentence = "test",
        WritableRoots = [_session.Folder],
        Steps = [.. steps],
    };

    private void When(string call, Func<string, bool> path, Action happens, bool before = true)
    {
        var happened = false;
        Action<string, string> watch = (c, p) =>
        {
            if (!happened && c == call && path(p))
            {
                happened = true;
                happens();
            }
        };
        if (before)
        {
            _files.Before = watch;
        }
        else
        {
            _files.After = watch;
        }
    }

    private static bool IsTemporary(string path) => path.EndsWith(".part", StringComparison.Ordinal);

    // ----- taking back

    /// <summary>Between the copy and the failure another program wrote a file of its own under the copy's name: it stays.</summary>
    [Fact]
    public void WhatTookTheNameOfACopyStaysWhenThePlanIsTakenBack()
    {
        var plan = PlanCopyIn() with { KeepsPart = false };
        var first = plan.Steps.OfType<MakeFileStep>().First().Destination;
        When("create", p => IsTemporary(p) && File.Exists(first), () =>
        {
            File.WriteAllText(first, "somebody else's");
            throw new FaultException(FaultCode.CannotWrite, "the second");
        });
        Assert.Equal(PlanOutcome.Failed, _journal.TryApply(plan, files: _files).Outcome);
        Assert.Equal("somebody else's", File.ReadAllText(first));
    }

    // ----- bundles

    /// <summary>In the middle of a sound, which no header and no length tells of; the file is read as somebody would who unpacks it.</summary>
    [Fact]
    public void ABundleThatIsReadBackDifferentlyIsNoBundle()
    {
        const int Where = 1_500_000;
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), samples: 1_000_000)).Save();
        var plan = BundlePlanner.Plan(new BundleRequest(
            _session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, null, null, new DateTimeOffset(2026, 10, 14, 23, 30, 0, TimeSpan.Zero)));
        _files.OnRead = (path, offset, bytes) => _ = IsTemporary(path) && offset <= Where && Where < offset + bytes.Length ? bytes[Where - offset] ^= 1 : 0;
        var result = _journal.TryApply(plan, files: _files);
        Assert.Equal((FaultCode.ReadBackDiffers, true), (result.Cause!.Code, result.IsAsBefore));
        Assert.Empty(Directory.GetFileSystemEntries(_session.Outbox));
    }

    // ----- copies

    [Fact]
    public void ACopyThatIsReadBackDifferentlyIsNoCopy()
    {
        var plan = PlanCopyIn(1) with { KeepsPart = false };
        var before = DiskTree.Of(_session.Root);
        _files.OnRead = (path, offset, bytes) => _ = IsTemporary(path) && offset == 0 && bytes.Length > 200 ? bytes[150] ^= 1 : 0;
        var result = _journal.TryApply(plan, files: _files);
        Assert.Equal((FaultCode.ReadBackDiffers, true), (result.Cause!.Code, result.IsAsBefore));
        Assert.Equal(before, DiskTree.Of(_session.Root));
    }

    [Fact]
    public void BeyondTheHeadOfAFileACopyIsComparedAsWell()
    {
        var big = SessionFixture.Sound(Path.Combine(_session.Card, "big.wav"), samples: 100_000);
        var plan = PlanOf(MakeFileStep.Copy(_session.Inside("big.wav"), "test", big, FileState.Of(big)));
        _files.OnRead = (path, offset, bytes) => _ = IsTemporary(path) && bytes.Length > 10 && offset + bytes.Length > 200_000 ? bytes[^9] ^= 1 : 0;
        Assert.Equal(FaultCode.ReadBackDiffers, _journal.TryApply(plan, files: _files).Cause!.Code);
    }

    [Fact]
    public void ASourceThatChangesWhileItIsCopiedIsNotCopied()
    {
        var plan = PlanCopyIn(1) with { KeepsPart = false };
        // All bytes were read; then another program writes, and the copy would be a mixture that never was.
        When("write", IsTemporary, () => File.SetLastWriteTimeUtc(Path.Combine(_session.Card, "tide 0.wav"), DateTime.UtcNow), before: false);
        var result = _journal.TryApply(plan, files: _files);
        Assert.Equal((FaultCode.SourceChanged, true), (result.Cause!.Code, result.IsAsBefore));
    }

    [Theory]
    [InlineData(0x180)] // rw-------
    [InlineData(0x1B4)] // rw-rw-r--
    [InlineData(0x1C0)] // rwx------
    public void WhoMayReadAndWriteStaysAsItWas(int mode)
    {
        var plan = PlanCopyIn(1);
        File.SetUnixFileMode(_session.DocumentPath, (UnixFileMode)mode);
        File.SetUnixFileMode(Path.Combine(_session.Card, "tide 0.wav"), (UnixFileMode)mode);
        _journal.Apply(plan);
        Assert.Equal((UnixFileMode)mode, File.GetUnixFileMode(_session.DocumentPath));
        Assert.Equal((UnixFileMode)mode, File.GetUnixFileMode(_session.Inside("Audio", "tide 0.wav")));
        _journal.Apply(UndoPlanner.Plan(plan, _journal.Records(plan)));
        Assert.Equal((UnixFileMode)mode, File.GetUnixFileMode(_session.DocumentPath));
    }

    /// <summary>Opening a pipe for reading waits for a writer that never comes (fifo(7)).</summary>
    [Fact]
    public void AFileThatBecomesAPipeIsRefusedAndNotWaitedFor()
    {
        var plan = PlanCopyIn();
        var pipe = Path.Combine(_session.Card, "tide 1.wav");
        When("flush file", p => IsTemporary(p), () =>
        {
            File.Delete(pipe);
            Tool.Run("mkfifo", pipe);
        });
        var result = _journal.Apply(plan, files: _files);
        Assert.Equal((FaultCode.SourceUnreadable, pipe), Assert.Single(result.LeftOut) is var left ? (left.Reason.Code, left.Reason.Path) : default);
        Assert.Equal([FaultCode.NotARegularFile], Engine.Refusals(PlanOf(MakeFileStep.Copy(_session.Inside("x.wav"), "", pipe, new FileState(0, default)))).Codes());
        Assert.Throws<FaultException>(() => ReadableFile.Open(pipe));
        Assert.Throws<FaultException>(() => ByteIdentity.OfFile(pipe, null, Cancel));
        Assert.Throws<FaultException>(() => MediaHeaderReader.ReadFile(pipe));
    }

    [Fact]
    public void APlanOfCopiesAloneThatBringsNothingInHasFailed()
    {
        var source = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"));
        var plan = PlanOf(MakeFileStep.Copy(_session.Inside("tide.wav"), "test", source, FileState.Of(source))) with { KeepsPart = true };
        When("flush folder", _ => true, () => File.Delete(source));
        var result = _journal.TryApply(plan, files: _files);
        Assert.Equal((PlanOutcome.Failed, FaultCode.SourceGone, true), (result.Outcome, result.Cause!.Code, result.IsAsBefore));
    }

    [Fact]
    public void AFullDriveEndsTheCopyingAndTheDocumentFindsItsRoom()
    {
        var plan = PlanCopyIn(4);
        _files.Before = (call, path) =>
        {
            if (call == "create" && path.EndsWith("-2.part", StringComparison.Ordinal))
            {
                throw new FaultException(FaultCode.NoSpace, path);
            }
        };
        var result = _journal.Apply(plan, files: _files);
        Assert.Equal(3, result.LeftOut.Length);
        // The rest is not even tried.
        Assert.DoesNotContain(_files.Calls, c => c.Call == "create" && (c.Path.EndsWith("-3.part", StringComparison.Ordinal) || c.Path.EndsWith("-4.part", StringComparison.Ordinal)));
        Assert.All(result.LeftOut, l => Assert.EndsWith(".wav", l.Reason.Path, StringComparison.Ordinal));
        // Room for the document is kept from the start, and given back before it is written.
        var (kept, written) = (_files.Calls.FindIndex(c => c.Path.EndsWith(".open", StringComparison.Ordinal)), _files.Calls.FindIndex(c => c.Path.EndsWith(".open.new", StringComparison.Ordinal)));
        Assert.True(kept >= 0 && written > kept && written < _files.Calls.FindIndex(c => c.Call == "create" && c.Path.EndsWith("-5.part", StringComparison.Ordinal)));
        Assert.Equal(1, _session.Inventory().Files.Count(f => f.Standing == Standing.Inside));
    }

    // ----- documents

    [Fact]
    public void ADocumentThatIsSavedInTheInstantOfTheSwapStaysAsItWasSaved()
    {
        var plan = PlanCopyIn(1);
        var saved = File.ReadAllText(_session.DocumentPath) + " ";
        When("swap", p => p.EndsWith(".part", StringComparison.Ordinal), () => File.WriteAllText(_session.DocumentPath, saved));
        var result = _journal.TryApply(plan, files: _files);
        Assert.Equal(FaultCode.DocumentSavedMeanwhile, result.Cause!.Code);
        Assert.Equal(saved, File.ReadAllText(_session.DocumentPath));
        Assert.Empty(Directory.EnumerateFiles(_session.Folder, ".neat-crate-*", SearchOption.AllDirectories));
    }

    [Fact]
    public void SavesDuringBothSwapsLoseNothing()
    {
        var plan = PlanCopyIn(1);
        var saves = 0;
        _files.Before = (call, path) =>
        {
            if (call == "swap" && path.EndsWith(".part", StringComparison.Ordinal) && saves < 3)
            {
                File.WriteAllText(_session.DocumentPath, $"save {++saves}");
            }
        };
        _journal.TryApply(plan, files: _files);
        Assert.Equal("save 3", File.ReadAllText(_session.DocumentPath));
        Assert.Empty(Directory.EnumerateFiles(_session.Folder, ".neat-crate-*", SearchOption.AllDirectories));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void WhenADocumentWasSavedAfterTheSwapItsCopiesStayAndThatIsTold(bool byRestart)
    {
        _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
        var plan = PlanCopyIn(1) with { KeepsPart = false };
        plan = plan with { Steps = [.. plan.Steps, MakeFileStep.Write(_session.Inside("last.txt"), "fails", [1])] };
        string? saved = null;
        MemoryJournal? cut = null;
        _files.Before = (call, path) =>
        {
            if (call == "create" && path.EndsWith($"-{plan.Steps.Length - 1}.part", StringComparison.Ordinal))
            {
                // The other program read the re-pointed document, and saves it with a change of its own.
                saved = File.ReadAllText(_session.DocumentPath) + "\n";
                File.WriteAllText(_session.DocumentPath, saved);
                cut = _journal.Copy();
                throw byRestart ? new PowerCutException() : new FaultException(FaultCode.CannotWrite, path);
            }
            if (cut is not null && byRestart)
            {
                throw new PowerCutException();
            }
        };
        var result = _journal.TryApply(plan, files: _files);
        var remains = byRestart ? Assert.Single(cut!.Recover(new QuickFiles())).Remains : result.Remains;
        Assert.False(result.IsAsBefore);
        Assert.Equal(saved, File.ReadAllText(_session.DocumentPath));
        Assert.Equal(Standing.Inside, Assert.Single(_session.Inventory().Files).Standing);
        Assert.Contains(remains, r => r.Code == FaultCode.DocumentSavedMeanwhile && r.Path == _session.DocumentPath);
        Assert.Contains(remains, r => r.Code == FaultCode.KeptForDocument && r.Path == _session.Inside("Audio", "tide 0.wav"));
    }

    [Fact]
    public void ADocumentThatIsALinkIsNotReplacedByAFile()
    {
        var plan = PlanCopyIn(1);
        var real = Path.Combine(_session.Root, "real.otio");
        File.Move(_session.DocumentPath, real);
        File.CreateSymbolicLink(_session.DocumentPath, real);
        Assert.Equal((FaultCode.DocumentIsALink, real), Assert.Single(Engine.Refusals(plan)) is var r ? (r.Code, r.Other) : default);
    }

    [Theory]
    [InlineData("settings")]
    [InlineData("copy in")]
    [InlineData("settings, undone")]
    public void WithoutASwapInOneInstantEveryCutStillLeadsToBeforeOrAfter(string name)
    {
        using var story = PlanStory.Of(name);
        for (var call = 0; ; call++)
        {
            story.Reset();
            var (journal, calls) = (story.Journal(), 0);
            MemoryJournal? cut = null;
            var files = new QuickFiles { CannotSwap = true, CannotLink = true };
            files.Before = (_, _) =>
            {
                if (calls++ >= call)
                {
                    cut ??= journal.Copy();
                    throw new PowerCutException();
                }
            };
            journal.TryApply(story.Plan, files: files);
            if (cut is null)
            {
                Assert.True(story.IsAfter());
                return;
            }
            Assert.All(cut.Recover(new QuickFiles { CannotSwap = true, CannotLink = true }), r => Assert.True(r.Problem is null && r.Remains.IsEmpty));
            Assert.True(story.IsBefore() || story.IsAfter(), $"{name}, cut before call {call}:\n{story.Difference()}");
        }
    }

    // ----- after the commit

    [Fact]
    public void AFailureAfterTheCommitIsToldAsDoneAndTidiedAtTheNextStart()
    {
        var plan = PlanCopyIn(1);
        _journal.OnSettle = () => throw new IOException("the journal's drive is full");
        var result = _journal.Apply(plan);
        Assert.Equal((true, FaultCode.TidyingLeft), (result.IsOpen, result.Cause!.Code));
        Assert.Equal(Standing.Inside, Assert.Single(_session.Inventory().Files).Standing);
        _journal.OnSettle = null;
        Assert.True(Assert.Single(_journal.Recover()).Finished);
        Assert.Empty(Directory.EnumerateFiles(_session.Folder, ".neat-crate-*", SearchOption.AllDirectories));
        Assert.Empty(_journal.Unfinished());
    }

    [Fact]
    public void ACommitThatWasNotWrittenTakesThePlanBack()
    {
        var plan = PlanCopyIn(1);
        var before = DiskTree.Of(_session.Root);
        _journal.OnCommit = () => throw new IOException("the journal's drive is full");
        var result = _journal.TryApply(plan);
        Assert.True(result.IsAsBefore);
        Assert.Equal(before, DiskTree.Of(_session.Root));
    }

    [Fact]
    public void AFileThatTookTheNameOfANewOneStaysAsItIs()
    {
        var plan = PlanCopyIn(1);
        var copy = _session.Inside("Audio", "tide 0.wav");
        var theirs = Array.Empty<byte>();
        // The copy is whole under its temporary name; in this moment somebody's take gets the name that was free.
        When("rename", IsTemporary, () => theirs = File.ReadAllBytes(SessionFixture.Sound(copy, seed: 99)));
        var result = _journal.TryApply(plan, files: _files);
        Assert.Equal(FaultCode.NameTaken, result.Cause!.Code);
        Assert.NotEmpty(theirs);
        Assert.Equal(theirs, File.ReadAllBytes(copy));
        Assert.Equal([copy], Directory.GetFiles(_session.Inside("Audio"), "*", new EnumerationOptions { AttributesToSkip = FileAttributes.None }));
    }

    // ----- undo

    [Fact]
    public void AFileThatTookTheNameOfACopyIsNotDeletedByTheUndo()
    {
        var plan = PlanCopyIn(1);
        _journal.Apply(plan);
        var copy = _session.Inside("Audio", "tide 0.wav");
        var undo = UndoPlanner.Plan(plan, _journal.Records(plan));
        // The last check was done; now somebody puts a take of theirs into the copy's place.
        When("rename", p => p == copy, () =>
        {
            File.Move(copy, copy + ".theirs");
            SessionFixture.Sound(copy, seed: 99);
        });
        var result = _journal.TryApply(undo, files: _files);
        Assert.Equal(FaultCode.CopyChanged, result.Cause!.Code);
        Assert.NotEqual(File.ReadAllBytes(copy + ".theirs"), File.ReadAllBytes(copy));
    }

    [Fact]
    public void WhenANameWasTakenWhileItsFileWasAsideTheFileComesBackInSight()
    {
        var plan = PlanCopyIn(1);
        _journal.Apply(plan);
        var copy = _session.Inside("Audio", "tide 0.wav");
        var bytes = File.ReadAllBytes(copy);
        var undo = UndoPlanner.Plan(plan, _journal.Records(plan));
        _journal.OnCommit = () =>
        {
            File.WriteAllText(copy, "theirs");
            throw new IOException("not written");
        };
        var result = _journal.TryApply(undo);
        Assert.Contains(FaultCode.PutBackUnderOtherName, result.Remains.Codes());
        Assert.Equal("theirs", File.ReadAllText(copy));
        Assert.Equal(bytes, File.ReadAllBytes(_session.Inside("Audio", "tide 0 2.wav")));
    }

    [Fact]
    public void UndoIsRefusedWhileANewerVersionOrAnotherSessionNeedsACopy()
    {
        var plan = PlanCopyIn(1);
        _journal.Apply(plan);
        _journal.Apply(VersionPlanner.Plan(_session.SessionId, _session.Inventory(), VersionNaming.Today, false, new DateOnly(2026, 10, 20)));
        var other = Path.Combine(_session.Drive, "261005 Low Water");
        Directory.CreateDirectory(other);
        var document = SessionDocument.Create(Guid.NewGuid(), "Low Water", new SessionSettings(), SessionLayout.Default, ["Voice"]);
        ClipBuilder.Place(document.Root, "Voice", new ClipToPlace("x", MediaUrl.From(_session.Inside("Audio", "tide 0.wav"), other), 48000, 10, 0, 10));
        File.WriteAllBytes(Path.Combine(other, "Low Water.otio"), document.ToUtf8());
        var undo = UndoPlanner.Plan(plan, _journal.Records(plan));
        KeptInventory[] sessions = [new(_session.Folder, new HeaderCache()), new(other, new HeaderCache())];
        var users = new UseIndex(() => sessions.Select(i => new UsingSession(i, null)), () => _session.Shelves, TimeProvider.System);
        var refusal = Assert.Single(Engine.Refusals(undo, users));
        Assert.Equal((FaultCode.StillUsed, _session.Inside("Audio", "tide 0.wav")), (refusal.Code, refusal.Path));
        Assert.Equal(["261005 Low Water: Low Water", "261014 Net Mender: 261020 Net Mender"], refusal.Names.Order());
        Assert.Throws<PlanRefusedException>(() => new Runner(_journal, new DurableFiles(), users).Apply(undo, cancel: Cancel));
    }

    [Fact]
    public void UndoGivesADocumentItsTimeBackSoThatNoOlderOneBecomesTheCurrent()
    {
        File.WriteAllBytes(_session.Inside("261010 Net Mender.otio"), _session.Document.ToUtf8());
        var plan = PlanCopyIn(1);
        var (time, older) = (new DateTime(2026, 10, 14, 22, 0, 0, DateTimeKind.Utc), new DateTime(2026, 10, 10, 22, 0, 0, DateTimeKind.Utc));
        File.SetLastWriteTimeUtc(_session.DocumentPath, time);
        File.SetLastWriteTimeUtc(_session.Inside("261010 Net Mender.otio"), older);
        _journal.Apply(plan);
        Assert.NotEqual(time, File.GetLastWriteTimeUtc(_session.DocumentPath));
        _journal.Apply(UndoPlanner.Plan(plan, _journal.Records(plan)));
        Assert.Equal(time, File.GetLastWriteTimeUtc(_session.DocumentPath));
        Assert.Equal(_session.DocumentPath, _session.Inventory().Current!.Path);
    }

    [Fact]
    public void WhatIsDeletedForGoodIsSaidToBeAndHasNoUndo()
    {
        var file = SessionFixture.Sound(_session.Inside("Audio", "held.wav"));
        var plan = PlanOf(new DeleteFileStep(file, "no longer held", ByteIdentity.OfFile(file, null, Cancel)));
        Assert.True(plan.IsForGood);
        _journal.Apply(plan);
        Assert.False(File.Exists(file));
        Assert.Equal([FaultCode.CannotBeUndone], UndoPlanner.Plan(plan, _journal.Records(plan)).Refusals.Codes());
    }

    // ----- places

    [Fact]
    public void AMoveOutOfAFolderThatThePlanMayNotChangeIsRefused()
    {
        var source = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"));
        var refusal = Assert.Single(Engine.Refusals(PlanOf(new MoveFileStep(_session.Inside("tide.wav"), "test", source, FileState.Of(source)))));
        Assert.Equal((FaultCode.NotAPlaceOfThePlan, source), (refusal.Code, refusal.Path));
    }

    [Fact]
    public void AFolderThatBecameALinkSinceThePlanIsNotFollowed()
    {
        var runner = new Runner(_journal, new DurableFiles());
        var plan = runner.Checked(PlanCopyIn(1));
        Assert.Empty(plan.Refusals);
        var elsewhere = Path.Combine(_session.Root, "elsewhere");
        Directory.Move(_session.Folder, elsewhere);
        Directory.CreateSymbolicLink(_session.Folder, elsewhere);
        var before = DiskTree.Of(elsewhere);
        Assert.Equal([FaultCode.PlaceLeadsElsewhere], Assert.Throws<PlanRefusedException>(() => runner.Apply(plan, cancel: Cancel)).Reasons.Codes());
        Assert.Equal(before, DiskTree.Of(elsewhere));
    }

    [Fact]
    public void ALinkThatIsPutInTheWayWhileThePlanRunsIsNotFollowed()
    {
        var (plan, elsewhere) = (PlanCopyIn(1), Directory.CreateDirectory(Path.Combine(_session.Root, "elsewhere")).FullName);
        _files.After = (call, path) =>
        {
            if (call == "make folder")
            {
                Directory.Delete(path);
                Directory.CreateSymbolicLink(path, elsewhere);
            }
        };
        var result = _journal.TryApply(plan, files: _files);
        Assert.Equal(PlanOutcome.Failed, result.Outcome);
        Assert.Empty(Directory.EnumerateFileSystemEntries(elsewhere));
    }

    /// <summary>A bind mount stands in for a drive that leaves and comes back (needs root).</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void WhenTheSessionsOwnDriveLeavesThePlanStaysOpenUntilItIsBack(bool emptyPlaceStays)
    {
        Assert.SkipUnless(Environment.UserName == "root", "Mounting needs root.");
        var plan = PlanCopyIn(3);
        var before = DiskTree.Of(_session.Folder);
        var drive = _session.Folder + " drive";
        var left = false;
        _files.Before = (call, path) =>
        {
            if (!left && call == "create" && path.EndsWith("-2.part", StringComparison.Ordinal))
            {
                left = true;
                Directory.Move(_session.Folder, drive);
                if (emptyPlaceStays)
                {
                    Directory.CreateDirectory(_session.Folder);
                }
            }
        };
        var result = _journal.TryApply(plan, files: _files);
        Assert.True(result.IsOpen);
        Assert.False(result.IsAsBefore);
        Assert.Equal(FaultCode.RootGone, Assert.Single(result.Remains).Code);
        // As long as it is away, and an empty place stands in its stead, nothing is told as put back.
        Assert.Equal(FaultCode.RootGone, Assert.Single(_journal.Recover()).Problem!.Code);
        if (emptyPlaceStays)
        {
            Directory.Delete(_session.Folder);
        }
        Directory.Move(drive, _session.Folder);
        Assert.True(Assert.Single(_journal.Recover()) is { Problem: null, Remains.IsEmpty: true });
        Assert.Equal(before, DiskTree.Of(_session.Folder));
    }

    [Fact]
    public void WhatIsOfEqualLengthAndAlikeInTheMiddleIsStillReadWholeBeforeItCountsAsTheSame()
    {
        var inside = SessionFixture.Sound(_session.Inside("Audio", "one.wav"), samples: 40_000);
        var outside = Path.Combine(_session.Card, "other.wav");
        Directory.CreateDirectory(_session.Card);
        var bytes = File.ReadAllBytes(inside);
        bytes[500] ^= 1;
        File.WriteAllBytes(outside, bytes);
        _session.Place(outside).Save();
        Assert.Equal("other.wav", Path.GetFileName(Assert.Single(_session.PlanCopyIn().Steps.OfType<MakeFileStep>()).Destination));
    }

    /// <summary>A plan may hold still for hours: a document that is saved meanwhile with what is to be taken away loses nothing.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void WhatADocumentCameToNeedWhileThePlanRanComesBack(bool isSlow)
    {
        string[] strays = [.. Enumerable.Range(1, 6).Select(n => SessionFixture.Sound(_session.Inside("Audio", $"stray {n}.wav"), samples: 100 + n))];
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "used.wav"))).Save();
        var plan = PlanOf([.. strays.Select(s => new SetAsideStep(Path.ChangeExtension(s, "aside.wav"), "test", s, FileState.Of(s), []))]);
        var before = DiskTree.Of(_session.Folder);
        var (used, removed) = (new List<FileUser>(), new List<string>());
        _files.After = (call, path) =>
        {
            if (call == "rename" && strays.Contains(path))
            {
                removed.Add(path);
                // Saved by the workstation after the first of them went.
                used = [new FileUser(strays[1], "Song.otio", _session.Inside("Song.otio"))];
                Thread.Sleep(isSlow ? 300 : 0);
            }
        };
        var result = new Runner(_journal, _files, new Users(() => used)).Apply(plan, cancel: TestContext.Current.CancellationToken);
        Assert.Equal((PlanOutcome.Failed, true, FaultCode.StillUsed, strays[1]), (result.Outcome, result.IsAsBefore, result.Cause!.Code, result.Cause.Path));
        Assert.Equal(before, DiskTree.Of(_session.Folder));
        // Where time passes between them, no more of them go once one is needed.
        Assert.Equal(isSlow ? 1 : 6, removed.Distinct().Count());
    }

    private sealed class Users(Func<IReadOnlyList<FileUser>> users) : IFileUsers
    {
        public IReadOnlyList<FileUser> PointingAt(IReadOnlySet<string> paths, IReadOnlyDictionary<string, byte[]> rewritten) => users();
    }

    /// <summary>A move that had only begun when the power went, and somebody's file has its name since: that is nobody's of ours to move back.</summary>
    [Fact]
    public void AMoveThatHadOnlyBegunTakesNothingBack()
    {
        var (from, to) = (Path.Combine(_session.Folder, "one.txt"), Path.Combine(_session.Folder, "two.txt"));
        File.WriteAllText(from, "ours");
        var plan = new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.SetAside,
            Sentence = "",
            WritableRoots = [_session.Folder],
            Steps = [new MoveFileStep(to, "", from, new FileState(4, File.GetLastWriteTimeUtc(from)))],
        };
        var journal = new MemoryJournal();
        journal.Begin(plan);
        journal.Record(plan.Id, new StepRecord(0, StepState.Started));
        File.Delete(from);
        File.WriteAllText(to, "somebody's");
        Assert.Single(journal.Recover());
        Assert.False(File.Exists(from));
        Assert.Equal("somebody's", File.ReadAllText(to));
    }
}
