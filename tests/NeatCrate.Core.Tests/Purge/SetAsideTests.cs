using CsCheck;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Purge;

public sealed class SetAsideTests : IDisposable
{
    private readonly PurgeFixture _purge = new();

    private SessionFixture Session => _purge.Session;

    public void Dispose() => _purge.Dispose();

    /// <summary>Everything in a folder as the system tells it: names, kinds, sizes, modes and times to the nanosecond, of folders too (stat, GNU coreutils).</summary>
    private static string Told(string folder) => Tool.Run("find", folder, "-printf", "%P %y %s %m %T@\\n").Split('\n').Order(StringComparer.Ordinal).Aggregate("", (a, b) => a + "\n" + b);

    private static readonly string[] Folders = ["Audio", "Audio/takes", "Bounces", "Lyrics", "a/b/c"];

    private static readonly string[] Names = ["Cello 01.wav", "Cello 02.wav", "drip.wav", "DRIP.wav", "Dvo\u0159a\u0301k.wav", "what?.wav", ".DS_Store", "%41 drip.wav"];

    /// <summary>Whatever is set aside, in however many goes, and put back: the tree is exactly as it was, with all times and modes.</summary>
    [Fact]
    public void PutBackRestoresTheExactTree() => Gen.Select(Gen.Int[0, 4], Gen.Int[0, 7], Gen.Int[1, 5]).Array[1, 12].Select(Gen.Int[0, 1 << 12]).Sample(
        (files, choice) =>
        {
            using var purge = new PurgeFixture();
            foreach (var (folder, name, seed) in files)
            {
                var path = purge.Session.Inside([.. Folders[folder].Split('/'), Names[name]]);
                Directory.CreateDirectory(Path.GetDirectoryName(path)!);
                SessionFixture.Sound(path, 480, seed: seed);
                File.SetUnixFileMode(path, (UnixFileMode)(0x100 | (seed << 3)));
                if (seed % 2 == 0 && !name.Equals(6))
                {
                    purge.Session.List(path);
                }
            }
            Directory.CreateDirectory(purge.Session.Inside("empty", "below"));
            purge.Session.Save();
            foreach (var folder in Directory.EnumerateDirectories(purge.Session.Folder, "*", SearchOption.AllDirectories))
            {
                File.SetUnixFileMode(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.OtherExecute);
                Directory.SetLastWriteTimeUtc(folder, new DateTime(2026, 10, 1, 1, 2, 3, DateTimeKind.Utc).AddTicks(folder.Length));
            }
            var document = File.ReadAllBytes(purge.Session.DocumentPath);
            var before = Told(purge.Session.Folder);
            var can = PurgeJudge.Judge(purge.World()).Where(i => i.Group is not null).Select(i => Path.GetRelativePath(purge.Session.Folder, i.Path)).ToList();
            var (first, second) = (can.Where((_, n) => ((choice >> n) & 1) == 1).ToArray(), can.Where((_, n) => ((choice >> n) & 1) == 0).ToArray());
            foreach (var part in new[] { first, second }.Where(p => p.Length > 0))
            {
                purge.Apply(purge.SetAside([.. part.Where(p => PurgeJudge.Judge(purge.World()).Any(i => i.Group is not null && i.Path == Path.Combine(purge.Session.Folder, p)))]));
            }
            var held = purge.World().Inventory.Held.Files.Select(f => f.Held).ToArray();
            Assert.Equal(can.Count, held.Length);
            if (choice % 3 == 0)
            {
                purge.Apply(purge.PutBack(held[0]));
            }
            if (purge.World().Inventory.Held.Files.Length > 0)
            {
                purge.Apply(purge.PutBack());
            }
            // The document is written anew where it listed one; its list is in its old order, and all else stays.
            var listed = files.Any(f => f.Item3 % 2 == 0);
            Assert.Equal(Without(before, listed), Without(Told(purge.Session.Folder), listed));
            Assert.Equal(
                SessionDocument.Parse(document).References.Select(r => r.ToString()), SessionDocument.ReadFile(purge.Session.DocumentPath).References.Select(r => r.ToString()));
        },
        iter: 40);

    /// <summary>A pointer that stands on a list twice: what is off the list stands behind the one that it stood behind, and not behind its like.</summary>
    [Fact]
    public void AnOrderTellsEntriesOfOnePointerApart()
    {
        var order = new ListOrder("one.otio", ["a", "b", "b", "c"]);
        Assert.Equal(["a", "b", "b", "c"], order.With(["a", "b", "b"]).Urls);
        Assert.Equal(["a", "b", "b", "c"], order.With(["a", "b"]).Urls);
        Assert.Equal([1, 2], order.With(["a", "b", "b"]).PlacesOf(["a", "c"], ["b", "b"]));
    }

    private static string Without(string told, bool document) =>
        document ? string.Join('\n', told.Split('\n').Where(l => !l.StartsWith(SessionFixture.Name + ".otio", StringComparison.Ordinal))) : told;

    [Fact]
    public void AListedTakeGoesWithItsNoteAndComesBackWithIt()
    {
        var path = _purge.Sound("Audio/Cello 02.wav", 2);
        ClipBuilder.List(Session.Document.Root, MediaUrl.From(path, Session.Folder), 4800, 48000, new TakeLabel("Cello", 2, 1, Note: "bow noise at the end"));
        Session.Save();
        var before = File.ReadAllText(Session.DocumentPath);
        var plan = _purge.SetAside("Audio/Cello 02.wav");
        Assert.Equal("Set aside 1 file, 14 kB (1 take nobody placed); document re-written; nothing is deleted.", plan.Sentence);
        _purge.Apply(plan);
        Assert.Empty(SessionDocument.ReadFile(Session.DocumentPath).References);
        Assert.Equal(FileUse.SetAside, _purge.UseOf("Set aside/Audio/Cello 02.wav"));
        Assert.Equal((UseReason.SetAside, null), (_purge.Item("Set aside/Audio/Cello 02.wav").Reasons[0].Why, _purge.Item("Set aside/Audio/Cello 02.wav").Group));
        _purge.Apply(_purge.PutBack());
        Assert.Equal(before, File.ReadAllText(Session.DocumentPath));
        Assert.False(Directory.Exists(Session.Inside(HoldingPlace.FolderName)));
    }

    /// <summary>The same sound twice becomes one: clips of every version play the one that stays, and sample ranges are the same.</summary>
    [Fact]
    public void TheSameSoundTwiceBecomesOne()
    {
        var (kept, again) = (_purge.Sound("Audio/bell.wav", 1), _purge.Sound("Audio/bell 2.wav", 1));
        Session.Place(kept, "Cello", 0, 100).Place(kept, "Cello", 200, 100).Place(again, "Samples", 50, 70).List(again).Save(Session.Inside("Older documents", "261013 Net Mender.otio"));
        Session.Save();
        _purge.Apply(_purge.SetAside("Audio/bell 2.wav"));
        foreach (var document in _purge.World().Inventory.Documents)
        {
            Assert.Equal(
                [("Audio/bell.wav", 0L, 100L), ("Audio/bell.wav", 200, 100), ("Audio/bell.wav", 50, 70)],
                document.Document!.References.Select(r => (r.TargetUrl, (long)(r.Source!.Value.Start.Seconds.ToDouble() * 48000), (long)(r.Source.Value.Duration.Seconds.ToDouble() * 48000))));
        }
        // The one that clips play from now on may not go with it.
        _purge.Apply(_purge.PutBack());
        Assert.Contains(FaultCode.InUse, _purge.SetAside("Audio/bell.wav", "Audio/bell 2.wav").Refusals.Select(f => f.Code));
    }

    /// <summary>Of two that hold one sound, and that only versions play which do not count, one stays: they are re-pointed to it.</summary>
    [Fact]
    public void WhatClipsPlayInsteadStaysWhereNothingElseKeepsIt()
    {
        var (kept, again) = (_purge.Sound("Audio/bell.wav", 1), _purge.Sound("Audio/bell 2.wav", 1));
        Session.Place(kept, "Cello", 0, 100).Place(again, "Samples", 50, 70).Save(Session.Inside("Older documents", "261013 Net Mender.otio"));
        File.WriteAllBytes(Session.DocumentPath, SessionDocument.Create(Session.SessionId, SessionFixture.Name, new SessionSettings(), SessionLayout.Default, ["Cello", "Samples"]).ToUtf8());
        _purge.Counting = new PurgeCounting(OlderVersions: false);
        var one = _purge.Item("Audio/bell.wav").Group == PurgeGroup.SameSound ? "bell.wav" : "bell 2.wav";
        Assert.Empty(_purge.SetAside($"Audio/{one}").Refusals);
        var refused = Assert.Single(_purge.SetAside("Audio/bell.wav", "Audio/bell 2.wav").Refusals);
        Assert.Equal((FaultCode.InUse, one), (refused.Code, Assert.Single(refused.Names)));
    }

    /// <summary>Silence of one length is all alike, and no copy of anything; other times of day are other recordings.</summary>
    [Fact]
    public void SilenceIsNoCopy()
    {
        foreach (var name in new[] { "a.wav", "b.wav" })
        {
            Directory.CreateDirectory(Session.Inside("Audio"));
            using var stream = File.Create(Session.Inside("Audio", name));
            using var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24));
            writer.Write(new int[4800]);
        }
        Session.Save();
        Assert.Empty(_purge.World().Same);
    }

    /// <summary>Between the plan and its being applied a document may have come to use the file: then nothing is done.</summary>
    [Fact]
    public void WhatCameIntoUseMeanwhileIsRefused()
    {
        var path = _purge.Sound("Audio/drip.wav", 1);
        Session.Save();
        var plan = _purge.SetAside("Audio/drip.wav");
        _purge.Other(path);
        Assert.Equal([FaultCode.StillUsed], _purge.Refusals(plan).Select(f => f.Code));
        Assert.Contains(FaultCode.InUse, _purge.SetAside("Audio/drip.wav").Refusals.Select(f => f.Code));
    }

    /// <summary>Whoever does not count older versions is told which of them will miss what goes; they are not written.</summary>
    [Fact]
    public void VersionsThatDoNotCountAreToldOf()
    {
        Session.Place(_purge.Sound("Audio/Cello 01.wav", 1), "Cello").Save(Session.Inside("Older documents", "261013 Net Mender.otio"));
        File.WriteAllBytes(Session.DocumentPath, SessionDocument.Create(Session.SessionId, SessionFixture.Name, new SessionSettings(), SessionLayout.Default, ["Cello"]).ToUtf8());
        _purge.Counting = new PurgeCounting(OlderVersions: false);
        var plan = _purge.SetAside("Audio/Cello 01.wav");
        var remark = Assert.Single(plan.Remarks, r => r.Code == FaultCode.MissedBy);
        Assert.Equal((1L, "261013 Net Mender"), (remark.Count, Assert.Single(remark.Names)));
        _purge.Apply(plan);
        Assert.False(_purge.Is("Audio/Cello 01.wav"));
        _purge.Apply(_purge.PutBack());
        Assert.True(_purge.Is("Audio/Cello 01.wav"));
    }

    /// <summary>Another file took the place: both are kept, the list points at the one that comes back, and it is told.</summary>
    [Fact]
    public void WhatCannotGoBackToItsPlaceComesBesideIt()
    {
        Session.List(_purge.Sound("Audio/drip.wav", 1)).Save();
        _purge.Apply(_purge.SetAside("Audio/drip.wav"));
        _purge.Sound("Audio/drip.wav", 9);
        var plan = _purge.PutBack();
        Assert.Equal((FaultCode.ComesBackAs, "drip 2.wav"), (Assert.Single(plan.Remarks).Code, plan.Remarks[0].Other));
        _purge.Apply(plan);
        Assert.Equal("Audio/drip%202.wav", Assert.Single(SessionDocument.ReadFile(Session.DocumentPath).References).TargetUrl);
        Assert.Equal(FileUse.Listed, _purge.UseOf("Audio/drip 2.wav"));
        Assert.Equal(FileUse.Stray, _purge.UseOf("Audio/drip.wav"));
    }

    [Fact]
    public void AFolderOfThatNameThatIsNotOursHoldsNothing()
    {
        _purge.Sound("Set aside/mine.wav", 1);
        _purge.Sound("Audio/drip.wav", 2);
        Session.Save();
        Assert.Equal(FileUse.Stray, _purge.UseOf("Set aside/mine.wav"));
        _purge.Apply(_purge.SetAside("Audio/drip.wav"));
        Assert.Equal((FileUse.Stray, FileUse.SetAside), (_purge.UseOf("Set aside/mine.wav"), _purge.UseOf("Set aside/Audio/drip.wav")));
        Assert.DoesNotContain(_purge.Empty().Steps, s => s.Destination.EndsWith("mine.wav", StringComparison.Ordinal));
        _purge.Apply(_purge.PutBack());
        Assert.True(_purge.Is("Set aside/mine.wav"));
    }

    [Theory]
    [InlineData("{")]
    [InlineData("""{"format": "neat-crate set aside 1", "files": [{"held": "../../x.wav", "path": "x.wav"}]}""")]
    [InlineData("""{"format": "neat-crate set aside 9", "files": []}""")]
    public void AListThatCannotBeUsedIsToldAndNothingIsAddedToItOrGoesFromIt(string list)
    {
        _purge.Sound("Set aside/Audio/drip.wav", 1);
        Session.Place(_purge.Sound("Audio/Cello 01.wav", 2, 480_000), "Cello", 0, 4800).List(_purge.Sound("Audio/Cello 02.wav", 3));
        File.WriteAllText(HoldingPlace.ListIn(Session.Folder), list);
        Session.Save();
        var inventory = _purge.World().Inventory;
        Assert.Contains(FaultCode.HoldingListUnusable, inventory.Remarks.Select(r => r.Code));
        Assert.Equal(FileUse.Stray, _purge.UseOf("Set aside/Audio/drip.wav"));
        var inPlace = new TrimRequest(Session.SessionId, _purge.World(), Session.Shelves, new TrimChoice(), PurgeFixture.Now);
        Assert.All(
            [_purge.PutBack(), _purge.Empty(), _purge.SetAside("Audio/Cello 02.wav"), TrimPlanner.Plan(inPlace)],
            plan => Assert.Equal([FaultCode.HoldingListUnusable], plan.Refusals.Select(f => f.Code)));
        // What needs no list goes on.
        Assert.Empty(SetAsidePlanner.TakeOffList(_purge.Request("Audio/Cello 02.wav")).Refusals);
        Assert.Empty(TrimPlanner.Plan(inPlace with { CopyTo = Session.Drive, CopyName = "trimmed" }).Refusals);
        Assert.Equal(list, File.ReadAllText(HoldingPlace.ListIn(Session.Folder)));
    }

    [Fact]
    public void EmptyingNamesWhatNoBackupHoldsAndIsForGood()
    {
        _purge.Sound("Audio/drip.wav", 1);
        _purge.Sound("Audio/drop.wav", 2);
        Session.Save();
        _purge.Apply(_purge.SetAside("Audio/drip.wav", "Audio/drop.wav"));
        var plan = HeldPlanner.Empty(
            new HeldRequest(Session.SessionId, _purge.World().Inventory), new FreshIdentities(), (p, _) => p.EndsWith("drop.wav", StringComparison.Ordinal), null, TestContext.Current.CancellationToken);
        Assert.True(plan.IsForGood);
        var alone = Assert.Single(plan.Remarks);
        Assert.Equal((FaultCode.NoBackupHolds, 1L, "drip.wav"), (alone.Code, alone.Count, Assert.Single(alone.Names)));
        _purge.Apply(plan);
        Assert.Empty(Directory.EnumerateFileSystemEntries(Session.Folder, "*.wav", SearchOption.AllDirectories));
        Assert.False(Directory.Exists(Session.Inside(HoldingPlace.FolderName)));
        Assert.Equal([FaultCode.CannotBeUndone], UndoPlanner.Plan(plan, _purge.Journal.Records(plan)).Refusals.Select(f => f.Code).Distinct());
    }

    /// <summary>What nobody else may look into is held in a folder like that, and comes back into one, also where the folder itself went meanwhile, and by undo and redo.</summary>
    [Fact]
    public void APrivateFolderStaysPrivate()
    {
        const UnixFileMode Private = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;
        var (folder, held) = (Session.Inside("Private"), Session.Inside("Set aside", "Private"));
        _purge.Sound("Private/drip.wav", 1);
        File.SetUnixFileMode(folder, Private);
        Session.Save();
        var plan = _purge.SetAside("Private/drip.wav");
        _purge.Apply(plan);
        Assert.Equal(Private, File.GetUnixFileMode(held));
        var undo = UndoPlanner.Plan(plan, _purge.Journal.Records(plan));
        _purge.Apply(undo);
        Assert.False(Directory.Exists(held));
        _purge.Apply(RedoPlanner.Plan(plan, undo));
        Assert.Equal(Private, File.GetUnixFileMode(held));
        Directory.Delete(folder);
        _purge.Apply(_purge.PutBack());
        Assert.Equal(Private, File.GetUnixFileMode(folder));
    }

    /// <summary>Versions that play what goes become silent, unless something stands at its old place again.</summary>
    [Fact]
    public void EmptyingNamesTheVersionsThatBecomeSilent()
    {
        _purge.Sound("Audio/drip.wav", 1);
        _purge.Sound("Audio/drop.wav", 2);
        Session.Save();
        _purge.Apply(_purge.SetAside("Audio/drip.wav", "Audio/drop.wav"));
        _purge.PlayedBy = path => path == Session.Inside("Audio", "drip.wav") ? ["the save of 2026-10-14 20:00"] : path == Session.Inside("Audio", "drop.wav") ? ["the save of 2026-10-15 20:00"] : [];
        _purge.Sound("Audio/drop.wav", 2);
        var told = Assert.Single(_purge.Empty().Remarks, r => r.Code == FaultCode.VersionsBecomeSilent);
        Assert.Equal((1L, "the save of 2026-10-14 20:00"), (told.Count, Assert.Single(told.Names)));
    }

    /// <summary>In whatever rounds files are set aside and put back: once all are back, the list is in its old order, and before that those that are on it are.</summary>
    [Fact]
    public void TheListKeepsItsOrder() => Gen.Select(Gen.Shuffle(Enumerable.Range(0, 6).ToArray()), Gen.Int[1, 6], Gen.Shuffle(Enumerable.Range(0, 6).ToArray()), Gen.Int[1, 5]).Sample(
        (going, first, coming, half) =>
        {
            using var purge = new PurgeFixture();
            for (var n = 0; n < 6; n++)
            {
                purge.Session.List(purge.Sound($"Audio/bell {n}.wav", n + 1));
            }
            purge.Session.Save();
            string[] Names(IEnumerable<int> numbers) => [.. numbers.Select(n => $"Audio/bell {n}.wav")];
            List<string> Listed() => [.. SessionDocument.ReadFile(purge.Session.DocumentPath).References.Select(r => Uri.UnescapeDataString(r.TargetUrl))];
            var before = Listed();
            purge.Apply(purge.SetAside(Names(going[..first])));
            if (first < 6)
            {
                purge.Apply(purge.SetAside(Names(going[first..])));
            }
            Assert.Empty(Listed());
            purge.Apply(purge.PutBack(Names(coming[..half])));
            Assert.Equal(Names(coming[..half]).Order(StringComparer.Ordinal), Listed().Order(StringComparer.Ordinal));
            purge.Apply(purge.PutBack());
            Assert.Equal(before, Listed());
        },
        iter: 40, threads: 1);

    /// <summary>A file that was put in the place of a held one is not what was looked at, and stays.</summary>
    [Fact]
    public void OnlyWhatWasLookedAtIsDeleted()
    {
        _purge.Sound("Audio/drip.wav", 1);
        Session.Save();
        _purge.Apply(_purge.SetAside("Audio/drip.wav"));
        var plan = _purge.Empty();
        _purge.Sound("Set aside/Audio/drip.wav", 9);
        var result = _purge.Journal.TryApply(plan);
        Assert.Equal((PlanOutcome.Failed, FaultCode.CopyChanged), (result.Outcome, result.Cause!.Code));
        Assert.Equal(File.ReadAllBytes(SessionFixture.Sound(Path.Combine(Session.Card, "same.wav"), seed: 9)), File.ReadAllBytes(Session.Inside("Set aside", "Audio", "drip.wav")));
    }

    [Fact]
    public void TakingOffTheListLeavesTheFile()
    {
        Session.List(_purge.Sound("Audio/drip.wav", 1)).Save();
        var plan = SetAsidePlanner.TakeOffList(_purge.Request("Audio/drip.wav"));
        Assert.Equal("Take 1 file off the session's list; it stays where it is.", plan.Sentence);
        var before = File.ReadAllText(Session.DocumentPath);
        _purge.Apply(plan);
        Assert.True(_purge.Is("Audio/drip.wav"));
        Assert.Equal(FileUse.Stray, _purge.UseOf("Audio/drip.wav"));
        _purge.Apply(UndoPlanner.Plan(plan, _purge.Journal.Records(plan)));
        Assert.Equal(before, File.ReadAllText(Session.DocumentPath));
    }

    /// <summary>Undo and redo of setting aside.</summary>
    [Fact]
    public void SettingAsideIsUndoneAndRedone()
    {
        Session.List(_purge.Sound("Audio/drip.wav", 1)).Save();
        Directory.CreateDirectory(Session.Inside("Lyrics"));
        var before = Told(Session.Folder);
        var plan = _purge.SetAside("Audio/drip.wav", "Lyrics");
        _purge.Apply(plan);
        var undo = UndoPlanner.Plan(plan, _purge.Journal.Records(plan));
        _purge.Apply(undo);
        // A document that is written back has its time to 100 ns.
        Assert.Equal(Without(before, true), Without(Told(Session.Folder), true));
        _purge.Apply(RedoPlanner.Plan(plan, undo));
        Assert.Equal(FileUse.SetAside, _purge.UseOf("Set aside/Audio/drip.wav"));
    }
}
