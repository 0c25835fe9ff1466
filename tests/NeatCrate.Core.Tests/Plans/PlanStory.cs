using NeatCrate.Core.Backups;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Record;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>A small session with one plan of a kind, ready to be applied again and again from the same start.</summary>
internal sealed class PlanStory : IDisposable
{
    /// <summary>So many files are relinked in the story "relink many".</summary>
    public const int ManyFiles = 500;

    private readonly SessionFixture _session = new();
    private readonly TempFolder _kept = new();
    private MemoryJournal _journal = new();

    private PlanStory(string name)
    {
        var parts = name.Split(", ");
        Plan = Runnable(Make(parts[0]));
        Plain = parts[0];
        if (parts.Length > 1)
        {
            _journal.Apply(Plan, files: new QuickFiles());
            Plan = Runnable(UndoPlanner.Plan(Plan, _journal.Records(Plan)));
        }
        DiskTree.Copy(_session.Root, Start);
        Before = DiskTree.Of(_session.Root);
        Journal().Apply(Plan, files: new QuickFiles());
        After = DiskTree.Of(_session.Root);
        Reset();
    }

    /// <summary>Every kind of plan, and the undo of each.</summary>
    public static IReadOnlyList<string> Names { get; } =
    [
        .. new[] { "set up", "settings", "version", "current document", "copy in", "relink", "import converted", "takes", "repair", "mirror", "separate", "bring home", "bundle", "bundle packed and printed", "bundle in a folder", "bundle in parts", "set aside", "put back", "trim", "bring back", "bring tracks back", "bring a session back", "bring a session back with outside media", "convert out of an archive" }
            .SelectMany(n => new[] { n, n + ", undone" }),
        "empty",
    ];

    public Plan Plan { get; }

    public string Plain { get; }

    public string Root => _session.Root;

    /// <summary>The disk as it was, and as it is after the plan.</summary>
    public SortedDictionary<string, string> Before { get; }

    public SortedDictionary<string, string> After { get; }

    private string Start => Path.Combine(_kept.Path, "start");

    public static PlanStory Of(string name) => new(name);

    /// <summary>A journal that holds what came before.</summary>
    public MemoryJournal Journal() => _journal.Copy();

    /// <summary>Puts the disk back to the start.</summary>
    public void Reset() => DiskTree.Restore(Start, _session.Root);

    public bool IsBefore() => DiskTree.Of(_session.Root).SequenceEqual(Before);

    /// <summary>True when all is as after the plan; what the plan itself made new has the time of that run.</summary>
    public bool IsAfter() => Timeless(DiskTree.Of(_session.Root)).SequenceEqual(Timeless(After));

    public string Difference() => string.Join("\n", DiskTree.Of(_session.Root).Except(Before).Concat(Before.Except(DiskTree.Of(_session.Root))));

    public void Dispose()
    {
        _session.Dispose();
        _kept.Dispose();
    }

    private static IEnumerable<string> Timeless(SortedDictionary<string, string> tree) => tree.Select(e => e.Key + " " + e.Value[..Math.Max(0, e.Value.LastIndexOf(" at ", StringComparison.Ordinal))]);

    private static Plan Runnable(Plan plan)
    {
        Assert.Empty(plan.Refusals);
        Assert.NotEmpty(plan.Steps);
        return PlanPlaces.Held(plan, new DurableFiles());
    }

    private string Inside(string name, int seed) => SessionFixture.Sound(_session.Inside("Audio", name), samples: 900, seed: seed);

    private Plan Make(string kind)
    {
        var cancel = TestContext.Current.CancellationToken;
        switch (kind)
        {
            case "set up":
                _session.Save();
                return SetUpPlanner.Plan(new SetUpRequest(
                    Guid.NewGuid(), "261020 Tar and Twine", _session.Shelves[0], "", new SessionSettings(), new SessionLayout(Others: ["Notes/Charts"]), ["Voice"], []));
            case "bring back" or "bring a session back":
                {
                    Directory.CreateDirectory(_session.Inside("Bounces"));
                    _session.Place(Inside("Cello 01.wav", 1)).Place(Inside("Cello 02.wav", 2)).Save();
                    var store = new FolderStore(Path.Combine(_session.Outbox, VaultNames.FolderName), new QuickFiles());
                    var backup = new BackupWriter(new BackupVault(store), new QuickFiles(), new Vault.ContentNotes())
                        .Write(SessionBackup.Request(_session.SessionId, _session.Inventory(), _session.Shelves, false, DateTimeOffset.UnixEpoch), null, cancel).Manifest;
                    File.Delete(_session.Inside("Audio", "Cello 01.wav"));
                    Inside("Cello 02.wav", 3);
                    return kind == "bring back"
                        ? RestorePlanner.Files(_session.SessionId, _session.Inventory(), backup, store, ["Audio/Cello 01.wav", "Audio/Cello 02.wav"], (_, _) => false)
                        : RestorePlanner.Whole(backup, store, _session.Card, "back", [_session.Folder]);
                }
            case "bring a session back with outside media":
                {
                    var tide = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), 900, seed: 4);
                    _session.Place(SessionFixture.Sound(_session.Inside("Private", "Cello 01.wav"), 900)).Place(tide, url: "../../card/tide.wav").Save();
                    File.SetUnixFileMode(_session.Inside("Private"), UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
                    var store = new FolderStore(Path.Combine(_session.Outbox, VaultNames.FolderName), new QuickFiles());
                    var backup = new BackupWriter(new BackupVault(store), new QuickFiles(), new Vault.ContentNotes())
                        .Write(SessionBackup.Request(_session.SessionId, _session.Inventory(), _session.Shelves, true, DateTimeOffset.UnixEpoch), null, cancel).Manifest;
                    File.Delete(tide);
                    return RestorePlanner.Whole(backup, store, _session.Library, "back", [_session.Folder]);
                }
            case "convert out of an archive":
                {
                    var low = SessionFixture.Sound(Path.Combine(_session.Card, "low.wav"), 900, 44100);
                    var zip = Path.Combine(_session.Card, "low.zip");
                    Tool.RunIn(_session.Card, "python3", "-c", "import zipfile; zipfile.ZipFile('low.zip', 'w').write('low.wav')");
                    var origin = new Transformed(new ArchiveEntry(zip, FileState.Of(zip), "low.wav", new FileInfo(low).Length), new ConvertRate(48000), new FileInfo(low).Length);
                    return new Plan
                    {
                        Id = Guid.NewGuid(),
                        Kind = PlanKind.Import,
                        Sentence = "",
                        WritableRoots = [_session.Library],
                        Steps = [new MakeFileStep(Path.Combine(_session.Library, "low.wav"), "converted", origin, 10_000)],
                    };
                }
            case "bring tracks back":
                {
                    _session.Place(Inside("Cello 01.wav", 1), "Cello").Save();
                    return RestorePlanner.Tracks(_session.SessionId, _session.Inventory(), File.ReadAllBytes(_session.DocumentPath), new DateTime(2026, 10, 14), ["Cello"]);
                }
            case "settings":
                _session.Save();
                File.SetUnixFileMode(_session.DocumentPath, UnixFileMode.UserRead | UnixFileMode.UserWrite);
                return SettingsPlanner.Plan(_session.SessionId, _session.Inventory(), new SessionSettings(96000, 24), ["Oud"]);
            case "version":
                _session.Place(Inside("Cello 01.wav", 1)).Save();
                return VersionPlanner.Plan(_session.SessionId, _session.Inventory(), VersionNaming.Today, true, new DateOnly(2026, 10, 20));
            case "current document":
                _session.Save();
                _session.Save(_session.Inside("261010 Net Mender.otio"));
                File.WriteAllBytes(SessionCard.PathIn(_session.Folder), SessionCard.Stating(_session.Folder, SessionFixture.Name + ".otio"));
                return CurrentDocumentPlanner.Plan(_session.SessionId, _session.Inventory(), "261010 Net Mender.otio");
            case "copy in":
                _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), 900, seed: 1)).Place(SessionFixture.Sound(Path.Combine(_session.Library, "drum.wav"), 900, seed: 2));
                _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
                _session.Save();
                return _session.PlanCopyIn();
            case "relink many":
                {
                    var files = Enumerable.Range(0, ManyFiles).Select(n => SessionFixture.Sound(Path.Combine(_session.Library, "old", $"bell {n:000}.wav"), 40, seed: n)).ToList();
                    foreach (var (n, file) in files.Index())
                    {
                        _session.Place(file);
                        if (n is ManyFiles / 3 or 2 * ManyFiles / 3)
                        {
                            _session.Save(_session.Inside("Older documents", $"Net Mender 2026-10-{10 + (n * 3 / ManyFiles)}_230000.otio"));
                        }
                    }
                    _session.Save();
                    Directory.Move(Path.Combine(_session.Library, "old"), Path.Combine(_session.Library, "new"));
                    return Relink.RelinkPlannerTests.Plan(_session, [.. files.Select((f, n) => (f, $"new/{Path.GetFileName(f)}", n % 5 == 4 ? RelinkWay.PutBack : n % 5 == 3 ? RelinkWay.Repoint : RelinkWay.CopyIn))]);
                }
            case "relink":
                // Three files over three documents: one is copied in, one re-pointed, one put back.
                string[] names = ["drum.wav", "bell.wav", "gull.wav"];
                var lost = names.Select((n, i) => SessionFixture.Sound(Path.Combine(_session.Library, "old", n), 900, seed: 3 + i)).ToList();
                lost.ForEach(l => _session.Place(l));
                _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-12_230000.otio"));
                _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
                _session.Save();
                Directory.Move(Path.Combine(_session.Library, "old"), Path.Combine(_session.Library, "new"));
                return Relink.RelinkPlannerTests.Plan(_session, (lost[0], "new/drum.wav", RelinkWay.CopyIn), (lost[1], "new/bell.wav", RelinkWay.Repoint), (lost[2], "new/gull.wav", RelinkWay.PutBack));
            case "import converted":
                _session.Save();
                var bottle = SessionFixture.Sound(Path.Combine(_session.Library, "bottle.wav"), samples: 882, rate: 44100, seed: 2);
                return ImportPlanner.Plan(
                    new ImportRequest(_session.SessionId, _session.Inventory(), [new ImportItem(bottle, "bottle.wav")], _session.Shelves, new FreshIdentities(), new HeaderCache()) { Convert = true, Track = "Samples" },
                    cancel);
            case "takes":
                Inside("Cello 01.wav", 1);
                _session.Save();
                return TakesPlanner.Plan(_session.SessionId, _session.Inventory(), new HashSet<string>());
            case "repair":
                CutOff(Inside("Cello 01.wav", 1));
                _session.Place(_session.Inside("Audio", "Cello 01.wav"), "Cello").Save();
                return RepairPlanner.Plan(_session.SessionId, _session.Inventory(), _session.Shelves, new HashSet<string>());
            case "mirror":
                var take = Inside("Cello 01.wav", 1);
                _session.Save();
                Directory.CreateDirectory(_session.Card);
                var mirror = Path.Combine(MirrorPlanner.FolderFor(_session.Shelves[2], _session.Folder), "Cello 01.wav");
                Directory.CreateDirectory(Path.GetDirectoryName(mirror)!);
                File.WriteAllBytes(mirror, [1, 2, 3]);
                return MirrorPlanner.Plan(_session.SessionId, _session.Shelves[2], [new MirrorGap(take, mirror)]);
            case "separate":
                Shared("261014 Net Mender", "a.wav", "b.wav");
                Shared("261005 Low Water", "b.wav", "c.wav");
                return SeparatePlanner.Plan(null, FolderLook.At(_session.Inventory(), _session.Shelves));
            case "bring home":
                _session.Place(Inside("Cello 01.wav", 1), "Cello").Save();
                var stray = Path.Combine(_session.Drive, "desk", "261020 Net Mender.otio");
                Directory.CreateDirectory(Path.GetDirectoryName(stray)!);
                _session.Document.Rename("another evening");
                File.WriteAllBytes(stray, _session.Document.ToUtf8());
                return BringHomePlanner.Plan(_session.SessionId, stray, _session.Folder);
            case "bundle packed and printed":
                Directory.CreateDirectory(_session.Inside("Audio"));
                Tool.Run("sox", "-R", "-n", "-b", "24", "-r", "48000", "-c", "1", _session.Inside("Audio", "tone.wav"), "synth", "0.1", "sine", "440");
                _session.Place(_session.Inside("Audio", "tone.wav")).Save();
                return BundlePlanner.Plan(new BundleRequest(
                    _session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard.Add(BundlePart.PrintedTracks), null, null, new DateTimeOffset(2026, 10, 14, 23, 30, 5, TimeSpan.Zero))
                {
                    Packing = new PackedSizes(),
                });
            case "bundle in a folder":
            case "bundle in parts":
                Inside("Cello 01.wav", 1);
                Directory.CreateDirectory(_session.Inside("Notes"));
                var folder = BundlePlanner.Plan(new BundleRequest(
                    _session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, null, null, new DateTimeOffset(2026, 10, 14, 23, 30, 5, TimeSpan.Zero))
                {
                    Form = BundleForm.Folder,
                });
                return folder with { Steps = [((PackBundleFolderStep)folder.Steps[0]) with { PartBytes = kind == "bundle in parts" ? 8000 : null }] };
            case "bundle":
                _session.Place(Inside("Cello 01.wav", 1), "Cello").Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), 900, seed: 2)).Save();
                return BundlePlanner.Plan(new BundleRequest(
                    _session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, null, null, new DateTimeOffset(2026, 10, 14, 23, 30, 5, TimeSpan.Zero)));
            case "set aside":
                return Purged().SetAside("Audio/Cello 02.wav", "Audio/drip.wav", "Audio/again.wav", "Lyrics");
            case "put back":
                var held = Purged();
                held.Apply(held.SetAside("Audio/Cello 02.wav", "Audio/drip.wav", "Lyrics"));
                return held.PutBack();
            case "trim":
                // One part of each of two files, in place: new files, two documents, originals set aside.
                _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), 4800, seed: 1), "Cello", 1000, 200).Place(SessionFixture.Sound(_session.Inside("Audio", "hum.wav"), 4800, seed: 2), "Samples", 2000, 300);
                _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
                _session.Save();
                return TrimPlanner.Plan(new TrimRequest(_session.SessionId, new Purge.PurgeFixture(_session).World(), _session.Shelves, new TrimChoice(.001), Purge.PurgeFixture.Now));
            case "empty":
                // What was set aside is emptied: a plan of its own, that cannot be undone.
                var full = Purged();
                full.Apply(full.SetAside("Audio/Cello 02.wav", "Audio/drip.wav", "Lyrics"));
                return full.Empty("Audio/Cello 02.wav", "Lyrics");
            default:
                throw new ArgumentOutOfRangeException(nameof(kind), kind, "There is no such story.");
        }
    }

    /// <summary>A take that nobody placed, a file on no list, one that is there twice, and an empty folder; two documents list and place them.</summary>
    private Purge.PurgeFixture Purged()
    {
        _session.Place(Inside("Cello 01.wav", 1), "Cello").List(Inside("Cello 02.wav", 2));
        _session.Place(Inside("again.wav", 1), "Samples");
        Inside("drip.wav", 3);
        Directory.CreateDirectory(_session.Inside("Lyrics"));
        _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
        _session.Save();
        return new Purge.PurgeFixture(_session);
    }

    private void Shared(string name, params string[] files)
    {
        var document = SessionDocument.Create(Guid.NewGuid(), name, new SessionSettings(), SessionLayout.Default, ["Track"]);
        foreach (var file in files)
        {
            var path = Inside(file, file[0]);
            // By absolute paths, so that documents are written anew as well.
            ClipBuilder.Place(document.Root, "Track", new ClipToPlace(file, "file://" + Uri.EscapeDataString(path).Replace("%2F", "/", StringComparison.Ordinal), 48000, 900, 0, 900));
        }
        File.WriteAllBytes(_session.Inside(name + SessionFolder.DocumentExtension), document.ToUtf8());
    }

    /// <summary>The size of the data chunk, never written.</summary>
    private static void CutOff(string path)
    {
        using var stream = File.OpenWrite(path);
        stream.Position = 12 + 36 + 24 + 4;
        stream.Write([0, 0, 0, 0]);
    }
}
