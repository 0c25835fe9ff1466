using System.Collections.Immutable;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Tests.Vault;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Backups;

public sealed class RestorePlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly FolderStore _store;

    public RestorePlannerTests()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"), seed: 2);
        Directory.CreateDirectory(_session.Inside("Bounces"));
        _session.Place(_session.Inside("Audio", "Cello 01.wav"), "Cello").Place(_session.Inside("Audio", "Cello 02.wav"), "Cello").Save();
        _store = new FolderStore(Path.Combine(_session.Outbox, VaultNames.FolderName), new QuickFiles());
    }

    private BackupManifest BackUp(bool withOutside = false) => new BackupWriter(new BackupVault(_store), new QuickFiles(), new ContentNotes()).Write(
        SessionBackup.Request(_session.SessionId, _session.Inventory(), _session.Shelves, withOutside, new DateTimeOffset(2026, 10, 14, 22, 0, 0, TimeSpan.Zero)), null, TestContext.Current.CancellationToken).Manifest;

    private string Restored => Path.Combine(_session.Card, "back");

    [Fact]
    public void AWholeSessionComesBackByteForByteWithTimesAndEmptyFolders()
    {
        File.SetUnixFileMode(_session.Inside("Audio", "Cello 01.wav"), UnixFileMode.UserRead);
        new MemoryJournal().Apply(RestorePlanner.Whole(BackUp(), _store, _session.Card, "back", [_session.Folder]));
        Assert.Equal(DiskTree.Of(_session.Folder), DiskTree.Of(Restored));
    }

    [Fact]
    public void TheWholeSessionIsTakenBackByUndo()
    {
        var (journal, plan) = (new MemoryJournal(), RestorePlanner.Whole(BackUp(), _store, _session.Card, "back", [_session.Folder]));
        var before = DiskTree.Of(_session.Root);
        journal.Apply(plan);
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, DiskTree.Of(_session.Root));
    }

    [Fact]
    public void WhereSomethingIsNothingComesBack()
    {
        var backup = BackUp();
        File.WriteAllText(Path.Combine(Directory.CreateDirectory(Restored).FullName, "mine.txt"), "mine");
        Assert.Equal([FaultCode.PlaceNotEmpty], RestorePlanner.Whole(backup, _store, _session.Card, "back", [_session.Folder]).Refusals.Codes());
        Assert.Equal([FaultCode.RestoreIntoSession], RestorePlanner.Whole(backup, _store, _session.Inside("Audio"), "back", [_session.Folder]).Refusals.Codes());
        // A vault holds backups alone.
        foreach (var place in new[] { "", "backups", "content/ab" })
        {
            var inVault = Directory.CreateDirectory(Path.Combine(_session.Card, VaultNames.FolderName, place)).FullName;
            Assert.Equal([FaultCode.RestoreIntoVault], RestorePlanner.Whole(backup, _store, inVault, "back", [_session.Folder]).Refusals.Codes());
        }
        // By a link it is the same place, and a session that is known by a link is the same session.
        var link = Path.Combine(_session.Card, "link");
        Directory.CreateSymbolicLink(link, _session.Folder);
        Assert.Equal([FaultCode.RestoreIntoSession], RestorePlanner.Whole(backup, _store, link, "back", [_session.Folder]).Refusals.Codes());
        Assert.Equal([FaultCode.RestoreIntoSession], RestorePlanner.Whole(backup, _store, _session.Inside("Audio"), "back", [link]).Refusals.Codes());
    }

    /// <summary>Damaged content is never given out: the plan fails, and all is as it was.</summary>
    [Fact]
    public void DamagedContentDoesNotComeBack()
    {
        var backup = BackUp();
        var entry = backup.Entries.Single(e => e.Path == "Audio/Cello 02.wav");
        var path = _store.PathOf(VaultNames.Of(entry.Hash));
        var (bytes, before) = (File.ReadAllBytes(path), DiskTree.Of(_session.Card));
        bytes[700] ^= 4;
        File.WriteAllBytes(path, bytes);
        var result = new MemoryJournal().TryApply(RestorePlanner.Whole(backup, _store, _session.Card, "back", []));
        Assert.Equal((PlanOutcome.Failed, FaultCode.BackupContentDamaged), (result.Outcome, result.Cause!.Code));
        Assert.Equal(before, DiskTree.Of(_session.Card));
        File.Delete(path);
        Assert.Equal([FaultCode.BackupContentMissing], RestorePlanner.Whole(backup, _store, _session.Card, "back", []).Refusals.Codes());
    }

    /// <summary>The restored one is the newest by its time, and would be the current document by itself.</summary>
    [Fact]
    public void AVersionComesBackBesideTheCurrentOneWhichStaysCurrent()
    {
        var backup = BackUp();
        var old = backup.Entries.Single(e => e.Path.EndsWith(".otio", StringComparison.Ordinal));
        var before = File.ReadAllBytes(_session.DocumentPath);
        _session.Document.Rename("later");
        _session.Save();
        var later = File.ReadAllBytes(_session.DocumentPath);
        File.SetLastWriteTimeUtc(_session.DocumentPath, new DateTime(2026, 10, 14, 21, 0, 0, DateTimeKind.Utc));
        new MemoryJournal().Apply(RestorePlanner.Document(_session.SessionId, _session.Inventory(), RestorePlanner.VersionIn(backup, old, _store)));
        var inventory = _session.Inventory();
        Assert.Equal((_session.DocumentPath, true), (inventory.Current!.Path, inventory.CurrentIsStated));
        Assert.Equal(later, File.ReadAllBytes(_session.DocumentPath));
        Assert.Equal(before, File.ReadAllBytes(Assert.Single(inventory.Documents, d => !d.Current).Path));
    }

    [Fact]
    public void OneTrackComesBackAndAllOthersStay()
    {
        var version = File.ReadAllBytes(_session.DocumentPath);
        var without = SessionDocument.Parse(version);
        TrackClips.TakeOff(without, url => url.Contains("02", StringComparison.Ordinal));
        File.WriteAllBytes(_session.DocumentPath, without.ToUtf8());
        File.Delete(_session.Inside("Audio", "Cello 02.wav"));
        var plan = RestorePlanner.Tracks(_session.SessionId, _session.Inventory(), version, new DateTime(2026, 10, 14, 21, 30, 0), ["Cello"]);
        Assert.Equal("Cello 02.wav", Assert.Single(Assert.Single(plan.Remarks, r => r.Code == FaultCode.VersionIsSilent).Names));
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var now = SessionDocument.ReadFile(_session.DocumentPath);
        Assert.Equal(["Cello", "Samples", "Cello (from 2026-10-14 21.30)"], now.Tracks);
        Assert.Equal(2, TrackClips.In(now).Count(c => c.Track == "Cello (from 2026-10-14 21.30)"));
        Assert.Single(TrackClips.In(now), c => c.Track == "Cello");
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(without.ToUtf8(), File.ReadAllBytes(_session.DocumentPath));
        Assert.Equal([FaultCode.TrackNotInVersion], RestorePlanner.Tracks(_session.SessionId, _session.Inventory(), version, default, ["Oud"]).Refusals.Codes());
    }

    [Fact]
    public void FilesComeBackToTheirPlacesAndNothingIsReplaced()
    {
        var backup = BackUp();
        File.Delete(_session.Inside("Audio", "Cello 01.wav"));
        var other = SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"), seed: 9);
        var bytes = File.ReadAllBytes(other);
        var plan = RestorePlanner.Files(_session.SessionId, _session.Inventory(), backup, _store, ["Audio/Cello 01.wav", "Audio/Cello 02.wav", $"{SessionFixture.Name}.otio"], (path, hash) => ContentHash.Of(File.ReadAllBytes(path)) == hash);
        Assert.Equal([FaultCode.ThereAlready, FaultCode.ComesBackBeside], plan.Remarks.Codes().Order());
        new MemoryJournal().Apply(plan);
        Assert.Equal(bytes, File.ReadAllBytes(other));
        Assert.Equal(3, Directory.GetFiles(_session.Inside("Audio")).Length);
        Assert.All(backup.Entries.Where(e => e.Path.StartsWith("Audio/", StringComparison.Ordinal)), e => Assert.Contains(Directory.GetFiles(_session.Inside("Audio")), f => ContentHash.Of(File.ReadAllBytes(f)) == e.Hash));
        Assert.Equal([FaultCode.NotInTheVersion], RestorePlanner.Files(_session.SessionId, _session.Inventory(), backup, _store, ["Audio/never.wav"], (_, _) => false).Refusals.Codes());
    }

    /// <summary>With what stands outside the backup is complete by itself; what systems and unfinished work leave behind stays out.</summary>
    [Fact]
    public void WhatStandsOutsideGoesAlongByChoice()
    {
        var tide = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 3);
        _session.Place(tide).Save();
        File.WriteAllText(_session.Inside(".DS_Store"), "x");
        File.WriteAllText(_session.Inside("Audio", $".neat-crate-{Guid.NewGuid():N}-0.part"), "x");
        File.WriteAllText(Path.Combine(Directory.CreateDirectory(_session.Inside(".waveforms")).FullName, "peaks"), "x");
        string[] inside = [$"{SessionFixture.Name}.otio", "Audio/Cello 01.wav", "Audio/Cello 02.wav"];
        Assert.Equal(inside, BackUp().Entries.Select(e => e.Path));
        var whole = BackUp(withOutside: true);
        Assert.Equal([.. inside, "Outside media/tide.wav"], whole.Entries.Select(e => e.Path));
        Assert.Equal(tide, whole.Entries[^1].Outside);
    }

    /// <summary>Complete by itself: where the drive with the samples is gone, the session that comes back plays all the same.</summary>
    [Fact]
    public void WhatStoodOutsideAndIsGonePlaysFromWhatCameBack()
    {
        var tide = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 3);
        _session.Place(tide).Save();
        var (backup, document) = (BackUp(withOutside: true), File.ReadAllBytes(_session.DocumentPath));
        new MemoryJournal().Apply(RestorePlanner.Whole(backup, _store, _session.Drive, "there", [_session.Folder]));
        Assert.Equal(document, File.ReadAllBytes(Path.Combine(_session.Drive, "there", SessionFixture.Name + ".otio")));
        File.Delete(tide);
        var plan = RestorePlanner.Whole(backup, _store, _session.Drive, "gone", [_session.Folder]);
        Assert.Equal([FaultCode.PointsAtWhatCameBack], plan.Remarks.Codes());
        new MemoryJournal().Apply(plan);
        var inventory = _session.Inventory(Path.Combine(_session.Drive, "gone"));
        Assert.Equal(3, inventory.Files.Length);
        Assert.All(inventory.Files, f => Assert.Equal((Standing.Inside, FileUse.Placed), (f.Standing, f.Use)));
    }

    [Fact]
    public void PlacesThatHoldAFileAreCounted()
    {
        var backup = BackUp();
        var inventory = _session.Inventory();
        var vault = VaultHolding.Of(Guid.NewGuid(), "Vault", true, [backup], new HashSet<ContentHash>());
        Assert.Equal(new SafetyTally(2, (0, 0), (0, 0), (0, 0), (2, inventory.Files.Sum(f => f.Bytes)), 2, 0), FileSafety.Tally(Judge(inventory, [vault]), 2));
        // A file that changed since is only here, and so is one whose copy was found damaged.
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), seed: 8);
        Assert.Equal((1, new FileInfo(_session.Inside("Audio", "Cello 01.wav")).Length), FileSafety.Tally(Judge(_session.Inventory(), [vault]), 2).OnlyHere);
        var damaged = vault with { Damaged = backup.Entries.Select(e => e.Hash).ToHashSet() };
        Assert.Equal(2, FileSafety.Tally(Judge(_session.Inventory(), [damaged]), 2).OnlyHere.Files);
        Assert.Equal(0, FileSafety.Tally(Judge(_session.Inventory(), []), 1).TooFew.Files);
        // One that is gone is in the vault alone, and counts in no figure of what is there.
        File.Delete(_session.Inside("Audio", "Cello 02.wav"));
        var gone = Judge(_session.Inventory(), [vault]).Single(f => f.File.Standing == Standing.Missing);
        Assert.Equal((1, "Vault"), (gone.Places, Assert.Single(gone.Vaults).Name));
        Assert.Equal(1, FileSafety.Tally(Judge(_session.Inventory(), [vault]), 2).OnlyHere.Files);
    }

    /// <summary>A vault on the drive of the session is no second place, another one beside it no third; what is missing and in none counts by itself.</summary>
    [Fact]
    public void CopiesOnOneDriveAreOnePlace()
    {
        var backup = BackUp();
        VaultHolding Vault(string name, string drive) => VaultHolding.Of(Guid.NewGuid(), name, false, [backup], new HashSet<ContentHash>()) with { Drive = drive };
        SafetyTally Tally(int wanted, params VaultHolding[] vaults) => FileSafety.Tally(Judge(_session.Inventory(), vaults), wanted);
        var (all, bytes) = (2, _session.Inventory().Files.Sum(f => f.Bytes));
        Assert.Equal(new SafetyTally(2, (0, 0), (all, bytes), (all, bytes), (0, 0), 0, 0), Tally(2, Vault("beside", "drive"), Vault("beside too", "drive")));
        Assert.Equal(new SafetyTally(2, (0, 0), (0, 0), (0, 0), (all, bytes), 0, 0), Tally(2, Vault("beside", "drive"), Vault("elsewhere", "other")));
        Assert.Equal((all, bytes), Tally(3, Vault("elsewhere", "other"), Vault("there too", "other")).TooFew);
        Assert.Equal((2, 3), (Judge(_session.Inventory(), [Vault("elsewhere", "other"), Vault("there too", "other")])[0].Places, Judge(_session.Inventory(), [Vault("a", "other"), Vault("b", "other")])[0].Copies));
        File.Delete(_session.Inside("Audio", "Cello 02.wav"));
        Assert.Equal((1, 0), (Tally(2).Lost, Tally(2, Vault("elsewhere", "other")).Lost));
        // Two vaults on one drive are one place for what is nowhere else.
        Assert.Equal(1, Judge(_session.Inventory(), [Vault("a", "other"), Vault("b", "other")]).Single(f => f.File.Standing == Standing.Missing).Places);
    }

    private static ImmutableArray<SafeFile> Judge(SessionInventory inventory, IReadOnlyList<VaultHolding> vaults, ImmutableArray<SafeFile> before = default) => FileSafety.Judge(inventory, vaults, _ => "drive", before);

    /// <summary>Where one file changed it alone is judged again, as if all were.</summary>
    [Fact]
    public void OnlyWhatChangedIsJudgedAgain()
    {
        var vault = VaultHolding.Of(Guid.NewGuid(), "Vault", false, [BackUp()], new HashSet<ContentHash>());
        var kept = new KeptInventory(_session.Folder, new HeaderCache());
        SessionInventory Look() => kept.Look(null, _session.Shelves, LookDepth.Files, DateTime.UtcNow, TestContext.Current.CancellationToken);
        var before = Judge(Look(), [vault]);
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), seed: 8);
        var now = Look();
        var again = Judge(now, [vault], before);
        Assert.Equal(Judge(now, [vault]).Select(f => (f.File.Path, f.Places)), again.Select(f => (f.File.Path, f.Places)));
        Assert.Equal([(1, "Cello 01.wav"), (2, "Cello 02.wav")], again.Select(f => (f.Places, f.File.Name)).Order());
        Assert.Same(before.Single(f => f.File.Name == "Cello 02.wav"), again.Single(f => f.File.Name == "Cello 02.wav"));
    }

    public void Dispose() => _session.Dispose();
}
