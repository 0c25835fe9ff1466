using System.Globalization;
using CsCheck;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Json;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Tests.Vault;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Contents;

/// <summary>Sessions go into containers and come out again: whatever they point at, wherever they come to stand, whatever stands outside by then.</summary>
public sealed class ReturnTests
{
    /// <summary>How a clip points at its file.</summary>
    private enum Way
    {
        Inside,
        InsideAbsolute,
        OutsideRelative,
        OutsideUrl,
        OutsidePath,
        ByALinkedFile,
        ByALinkedFolder,
        OddName,
        PrivateFolder,
        Missing,
    }

    private enum Outside
    {
        There,
        Touched,
        Gone,
        Replaced,
    }

    private sealed record Clip(Way Way, bool Nested, bool HasSecond, bool IsOlder, int Start);

    private static readonly Gen<Clip[]> Clips = Gen.Select(
        Gen.Enum<Way>(), Gen.Bool, Gen.Bool, Gen.Bool, Gen.Int[0, 200], (way, nested, second, older, start) => new Clip(way, nested, second, older, start)).Array[1, 8];

    private static JsonItem Time(double value) => JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("RationalTime.1")), ("rate", JsonItem.Of(48000)), ("value", JsonItem.Of(value)));

    private static JsonItem Item(Clip clip, params string[] urls)
    {
        var references = JsonItem.Map([.. urls.Select((url, n) => ($"R{n}", JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("ExternalReference.1")), ("target_url", JsonItem.Of(url)))))]);
        var item = JsonItem.Map(
            ("OTIO_SCHEMA", JsonItem.Of("Clip.2")),
            ("source_range", JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("TimeRange.1")), ("start_time", Time(clip.Start)), ("duration", Time(50)))),
            ("media_references", references));
        return clip.Nested
            ? JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("Stack.1")), ("children", JsonItem.List([JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("Track.1")), ("children", JsonItem.List([item])))])))
            : item;
    }

    /// <summary>Makes the file that a clip points at.</summary>
    /// <returns>The pointer.</returns>
    private static string Make(SessionFixture session, Way way, int number)
    {
        string Card(string folder) => SessionFixture.Sound(Path.Combine(session.Card, folder, $"tide {number}.wav"), 400, seed: number + 1);
        string Inside(params string[] parts) => SessionFixture.Sound(session.Inside(parts), 400, seed: number + 1);
        static string Url(string path) => "file://" + string.Join('/', path.Split('/').Select(Uri.EscapeDataString));
        switch (way)
        {
            case Way.Inside:
                return MediaUrl.From(Inside("Audio", $"Cello {number}.wav"), session.Folder);
            case Way.InsideAbsolute:
                return Url(Inside("Audio", $"Voice {number}.wav"));
            case Way.OutsideRelative:
                return Path.GetRelativePath(session.Folder, Card("field"));
            case Way.OutsideUrl:
                return Url(Card("field"));
            case Way.OutsidePath:
                return Card("field");
            case Way.ByALinkedFile:
                Directory.CreateDirectory(session.Inside("Audio"));
                File.CreateSymbolicLink(session.Inside("Audio", $"link {number}.wav"), Card("linked to"));
                return $"Audio/link%20{number}.wav";
            case Way.ByALinkedFolder:
                Card("behind");
                if (!Directory.Exists(session.Inside("Behind")))
                {
                    Directory.CreateSymbolicLink(session.Inside("Behind"), Path.Combine(session.Card, "behind"));
                }
                return $"Behind/tide%20{number}.wav";
            case Way.OddName:
                return MediaUrl.From(Inside("Audio", $"50% wet: ö? {number}.wav"), session.Folder);
            case Way.PrivateFolder:
                var path = Inside("Private", "of ours", $"breath {number}.wav");
                File.SetUnixFileMode(path, UnixFileMode.UserRead);
                File.SetUnixFileMode(session.Inside("Private"), UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
                return MediaUrl.From(path, session.Folder);
            default:
                return $"Audio/never there {number}.wav";
        }
    }

    private static void Fill(SessionFixture session, Clip[] clips)
    {
        var children = session.Document.Root["tracks"]!["children"]!.Items[0]["children"]!;
        // An older version first, with its own clips; all of them stand in the current one.
        foreach (var (n, clip) in clips.Index().OrderByDescending(c => c.Item.IsOlder))
        {
            string[] urls = clip.HasSecond ? [Make(session, clip.Way, n), Make(session, Way.Inside, n + 100)] : [Make(session, clip.Way, n)];
            children.Add(Item(clip, urls));
            if (clip.IsOlder)
            {
                session.Save(session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
            }
        }
        session.Save();
        Directory.CreateDirectory(session.Inside("Notes", "to do"));
        Tool.Run("touch", "-d", "2026-10-14T21:00:00.123456789Z", session.Inside("Notes"));
    }

    private static void Change(SessionFixture session, Outside now)
    {
        foreach (var (n, path) in Directory.GetFiles(session.Card, "*.wav", SearchOption.AllDirectories).Order(StringComparer.Ordinal).Index())
        {
            switch (now)
            {
                case Outside.Touched:
                    File.SetLastWriteTimeUtc(path, new DateTime(2026, 11, 1));
                    break;
                case Outside.Gone:
                    File.Delete(path);
                    break;
                case Outside.Replaced:
                    SessionFixture.Sound(path, 400, seed: 500 + n);
                    File.SetLastWriteTimeUtc(path, new DateTime(2026, 11, 1));
                    break;
            }
        }
    }

    /// <summary>What each reference of each document plays: the bytes of the file that is found there, and the range.</summary>
    private static List<string> Played(SessionInventory inventory) =>
    [
        .. inventory.Documents.OrderBy(d => Path.GetFileName(d.Path), StringComparer.Ordinal).SelectMany(d => d.Document!.References.Select(r =>
        {
            var path = ReferencedPath.Of(r.TargetUrl, d, inventory.Folder, []);
            return $"{(File.Exists(path) ? ContentHash.Of(File.ReadAllBytes(path)).ToString()[..12] : "silence")} {r.Source?.Start.Seconds.ToDouble().ToString(CultureInfo.InvariantCulture)}";
        })),
    ];

    private static SessionInventory Inventory(SessionFixture session, string folder) => session.Inventory(folder);

    private static List<string> Strays(SessionInventory inventory) => [.. inventory.Files.Where(f => f.Use == FileUse.Stray).Select(f => f.Name).Order(StringComparer.Ordinal)];

    /// <summary>A document without its pointers: every other byte.</summary>
    private static string Others(string path) => System.Text.RegularExpressions.Regex.Replace(File.ReadAllText(path), "\"target_url\": *\"[^\"]*\"", "");

    private static BackupManifest BackUp(SessionFixture session, FolderStore store, bool withOutside) => new BackupWriter(new BackupVault(store), new QuickFiles(), new ContentNotes()).Write(
        SessionBackup.Request(session.SessionId, session.Inventory(), session.Shelves, withOutside, DateTimeOffset.UnixEpoch), null, TestContext.Current.CancellationToken).Manifest;

    [Fact]
    public void ASessionThatComesBackFromABackupPlaysWhatItPlayed() => Gen.Select(Clips, Gen.Enum<Outside>(), Gen.Bool, Gen.Bool, Gen.Bool).Sample(
        (clips, now, isDeeper, withOutside, isWhereItWas) =>
        {
            using var session = new SessionFixture();
            Fill(session, clips);
            var store = new FolderStore(Path.Combine(session.Outbox, VaultNames.FolderName), new QuickFiles());
            var (before, strays) = (Played(session.Inventory()), Strays(session.Inventory()));
            var documents = session.Inventory().Documents.Select(d => (Name: Path.GetRelativePath(session.Folder, d.Path), Others: Others(d.Path))).ToList();
            var backup = BackUp(session, store, withOutside);
            var parent = isDeeper ? Directory.CreateDirectory(Path.Combine(session.Library, "of", "songs")).FullName : session.Drive;
            var name = isWhereItWas && !isDeeper ? SessionFixture.Name : "back";
            var marks = MarksOf(session.Folder);
            if (name == SessionFixture.Name)
            {
                Directory.Move(session.Folder, session.Folder + " before");
                // What was reached by a link in it is reached by none now.
                Directory.Move(session.Folder + " before", Path.Combine(session.Outbox, "before"));
            }
            Change(session, now);
            var silent = withOutside || now is Outside.There or Outside.Touched;
            var plan = RestorePlanner.Whole(backup, store, parent, name, []);
            new MemoryJournal().Apply(plan, files: new QuickFiles());
            var there = Inventory(session, Path.Combine(parent, name));
            var linkedIsGone = !withOutside && name == SessionFixture.Name && clips.Any(c => c.Way == Way.ByALinkedFolder);
            if (silent && !linkedIsGone)
            {
                Assert.Equal(before, Played(there));
            }
            else
            {
                // What no longer sounds was outside, is in no backup, and is told.
                var lost = before.Zip(Played(there)).Where(p => p.First != p.Second).ToList();
                Assert.True(lost.Count == 0 || now == Outside.Replaced || plan.Remarks.Any(r => r.Code is FaultCode.OutsideNotThere or FaultCode.BackupLeftOut), string.Join(", ", lost));
            }
            Assert.Equal(strays, Strays(there));
            Assert.All(documents, d => Assert.Equal(d.Others, Others(Path.Combine(there.Folder, d.Name))));
            Assert.All(marks.Where(m => File.Exists(Path.Combine(there.Folder, m.Key)) || Directory.Exists(Path.Combine(there.Folder, m.Key))), m => Assert.Equal((m.Key, m.Value), (m.Key, MarksOf(there.Folder)[m.Key])));
        },
        iter: 60, threads: 1);

    /// <summary>Permissions and times to the nanosecond, as GNU stat tells them, of files and folders; of documents that may be re-pointed the permissions.</summary>
    private static Dictionary<string, string> MarksOf(string folder) => Tool.RunIn(folder, "find", ".", "-not", "-type", "l", "-printf", "%P|%m %T+ %y\\n").Split('\n', StringSplitOptions.RemoveEmptyEntries)
        .Select(l => l.Split('|')).Where(l => !l[0].StartsWith("Behind", StringComparison.Ordinal)).ToDictionary(l => l[0], l => l[1]);

    [Fact]
    public void ASessionThatComesBackFromABundleOrACopyPlaysWhatItPlayed() => Gen.Select(Clips, Gen.Enum<Outside>(), Gen.Bool, Gen.Bool).Sample(
        (clips, now, isDeeper, isCopy) =>
        {
            using var session = new SessionFixture();
            Fill(session, clips);
            var (before, strays) = (Played(session.Inventory()), Strays(session.Inventory()));
            var documents = session.Inventory().Documents.Select(d => Others(d.Path)).Order(StringComparer.Ordinal).ToList();
            IContentContainer container = isCopy ? Copied(session) : Bundled(session);
            Change(session, now);
            using var reading = new OriginReading(new DurableFiles());
            var parent = isDeeper ? Directory.CreateDirectory(Path.Combine(session.Library, "of", "songs")).FullName : session.Card;
            var back = new ReturnPlanner(container.Read(), reading, (_, _) => false).Whole(parent, "back", []);
            Assert.Empty(back.Refusals);
            Apply(parent, back.Steps);
            var there = Inventory(session, Path.Combine(parent, "back"));
            // A pointer to a file that was never there stays one; everything else is beside its document.
            Assert.Equal(before, Played(there));
            Assert.Equal(strays, Strays(there));
            Assert.Equal(documents, there.Documents.Select(d => Others(d.Path)).Order(StringComparer.Ordinal));
            Assert.All(there.Files.Where(f => f.Standing == Standing.Outside), f => Assert.Fail(f.Path));
        },
        iter: 40, threads: 1);

    private static BagContainer Bundled(SessionFixture session)
    {
        var bundle = BundlePlanner.Plan(new BundleRequest(session.SessionId, session.Inventory(), session.Shelves, [session.Folder], session.Outbox, BundleParts.Standard.Add(BundlePart.Bounces), null, null, new DateTimeOffset(2026, 10, 14, 23, 30, 5, TimeSpan.Zero)));
        new MemoryJournal().Apply(bundle, files: new QuickFiles());
        return new BagContainer(bundle.Steps[0].Destination, new DurableFiles());
    }

    /// <summary>A copy of the session that has all that it points at with it.</summary>
    private static FolderContainer Copied(SessionFixture session)
    {
        var copy = Path.Combine(session.Outbox, "copy");
        Apply(session.Outbox, [.. FolderContainer.Steps(ContentsReader.Read(session.Inventory(), session.Shelves, new ContentsChoice { Outside = true, Repoints = true, ReadFrom = copy }), copy, [], _ => "")]);
        return new FolderContainer(session.Inventory(copy), session.Shelves);
    }

    private static void Apply(string root, IEnumerable<PlanStep> steps) =>
        new MemoryJournal().Apply(new Plan { Id = Guid.NewGuid(), Kind = PlanKind.RestoreSession, Sentence = "", WritableRoots = [root], Steps = [.. steps] }, files: new QuickFiles());

    /// <summary>Another sound under the old name is not what the session played: it plays what came back, and that is told.</summary>
    [Fact]
    public void AnotherSoundOutsideIsNotTakenForTheOneThatWasBackedUp()
    {
        using var session = new SessionFixture();
        var tide = SessionFixture.Sound(Path.Combine(session.Card, "tide.wav"), seed: 3);
        session.Place(tide, url: "../../card/tide.wav").Save();
        var store = new FolderStore(Path.Combine(session.Outbox, VaultNames.FolderName), new QuickFiles());
        var (backup, sound) = (BackUp(session, store, true), ContentHash.Of(File.ReadAllBytes(tide)));
        SessionFixture.Sound(tide, seed: 9);
        var plan = RestorePlanner.Whole(backup, store, session.Library, "back", []);
        Assert.Equal([FaultCode.AnotherStandsOutside, FaultCode.PointsAtWhatCameBack], plan.Remarks.Codes().Order());
        new MemoryJournal().Apply(plan);
        var file = Assert.Single(session.Inventory(Path.Combine(session.Library, "back")).Files);
        Assert.Equal((Standing.Inside, sound), (file.Standing, ContentHash.Of(File.ReadAllBytes(file.Path))));
    }

    /// <summary>The last backup must not lose what the one before had: what is on a drive that left is taken over while the vault has it, and otherwise named.</summary>
    [Fact]
    public void WhatIsAwayIsTakenOverFromTheBackupBeforeOrNamed()
    {
        using var session = new SessionFixture();
        var tide = SessionFixture.Sound(Path.Combine(session.Card, "tide.wav"), seed: 3);
        session.Place(SessionFixture.Sound(session.Inside("Audio", "Cello 01.wav"))).Place(tide).Save();
        var store = new FolderStore(Path.Combine(session.Outbox, VaultNames.FolderName), new QuickFiles());
        var first = BackUp(session, store, true);
        File.Delete(tide);
        BackupManifest Again(BackupManifest? last) => new BackupWriter(new BackupVault(store), new QuickFiles(), new ContentNotes()).Write(
            SessionBackup.Request(session.SessionId, session.Inventory(), session.Shelves, true, DateTimeOffset.UnixEpoch, last), null, TestContext.Current.CancellationToken).Manifest;
        var second = Again(first);
        Assert.Equal(first.Entries.Single(e => e.Outside == tide), second.Entries.Single(e => e.Outside == tide));
        Assert.Equal((0, "Outside media/tide.wav"), (second.Header.LeftOut.Length, Assert.Single(second.Header.TakenOver)));
        // Its content went from the vault: then nothing is claimed.
        File.Delete(store.PathOf(VaultNames.Of(first.Entries.Single(e => e.Outside == tide).Hash)));
        var third = Again(second);
        Assert.DoesNotContain(third.Entries, e => e.Outside is not null);
        Assert.Equal(("Outside media/tide.wav", BackupLeftOut.Missing), (Assert.Single(third.Header.LeftOut), Assert.Single(third.Header.LeftOutWhy)));
        // By choice without outside media, nobody asks for it.
        Assert.Empty(BackUp(session, store, false).Header.LeftOut);
    }

    /// <summary>A version whose sound is gone says so before it comes back.</summary>
    [Fact]
    public void AVersionWhoseSoundIsGoneSaysSo()
    {
        using var session = new SessionFixture();
        session.Place(SessionFixture.Sound(session.Inside("Audio", "Cello 01.wav"))).Place(session.Inside("Audio", "gone.wav")).Save();
        var bytes = File.ReadAllBytes(session.DocumentPath);
        var version = new DocumentVersion(new GivenBytes(bytes), bytes.Length, "Net Mender.otio", new DateTime(2026, 10, 14)) { Content = bytes };
        var plan = RestorePlanner.Document(session.SessionId, session.Inventory(), version);
        Assert.Equal(["gone.wav"], Assert.Single(plan.Remarks, r => r.Code == FaultCode.VersionIsSilent).Names);
    }
}
