using System.Collections.Immutable;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.StandIns.Drives;

namespace NeatCrate.StandIns.Demo;

/// <summary>
/// The demo: the Saltmarsh Quartet records the EP "Lamplighters of Orrin Quay" in a disused net loft, produced by Wren
/// Achterberg. Everything is made here, or in <see cref="VisitingSessions"/> and <see cref="AtticDrive"/>, the same every time.
/// </summary>
public sealed class DemoWorld
{
    /// <summary>The folder under which all sessions of the EP stand.</summary>
    public const string ParentFolder = "Lamplighters of Orrin Quay";

    private const string CompleteName = "complete";

    private readonly string _root;
    private readonly DemoFiles _files = new();

    private DemoWorld(string root) => _root = root;

    /// <summary>The demo's shelves in the order in which they are shown.</summary>
    /// <param name="root">Absolute path of the demo's folder.</param>
    public static IReadOnlyList<(string Name, ShelfKind Kind, string Root)> Shelves(string root) =>
    [
        ("Session drive", ShelfKind.SessionDrive, Path.Combine(root, "shelves", "Session drive")),
        ("Field card", ShelfKind.Removable, Path.Combine(root, "shelves", "Field card")),
        ("Loft samples", ShelfKind.OwnLibrary, Path.Combine(root, "shelves", "Loft samples")),
        ("House kit", ShelfKind.StockContent, Path.Combine(root, "shelves", "House kit")),
        ("Old laptop", ShelfKind.Removable, Path.Combine(root, "shelves", "Old laptop")),
        (AtticDrive.Name, ShelfKind.Removable, Path.Combine(root, "shelves", AtticDrive.Name)),
        ("Vault", ShelfKind.Vault, Path.Combine(root, "shelves", "Vault")),
        ("Outbox", ShelfKind.Outbox, Path.Combine(root, "shelves", "Outbox")),
    ];

    /// <summary>Those who get bundles of the demo's studio.</summary>
    public static IReadOnlyList<Recipient> Recipients { get; } = [new("Idris Falk", RecipientWork.Mix, true, false, RecipientSystem.Windows, 25_000_000, [])];

    /// <summary>The demo's session folders.</summary>
    /// <param name="root">Absolute path of the demo's folder.</param>
    public static IReadOnlyList<string> SessionFolders(string root) =>
        [.. new[] { Song.LowWater, Song.TarAndTwine, Song.TheNinthBell, Song.NetMender, Song.FogSignal }
            .Select(s => Path.Combine(root, "shelves", "Session drive", ParentFolder, s.Folder)),
            .. VisitingSessions.Songs.Select(s => VisitingSessions.FolderOf(root, s))];

    /// <summary>The folder of a library that was renamed after sessions had used what is in it: absolute paths, before and now.</summary>
    /// <param name="root">Absolute path of the demo's folder.</param>
    public static (string Before, string Now) RenamedFolder(string root) =>
        (Path.Combine(root, "shelves", "Loft samples", "Bells"), Path.Combine(root, "shelves", "Loft samples", "Tuned bells"));

    /// <summary>Makes the demo unless it is there already, whole. One that was cut off in the making is made again.</summary>
    /// <param name="root">Absolute path of the demo's folder; nothing else may live there.</param>
    /// <returns>True when it was made now.</returns>
    public static bool Make(string root)
    {
        if (File.Exists(Path.Combine(root, CompleteName)))
        {
            return false;
        }
        if (Directory.Exists(root))
        {
            Directory.Delete(root, recursive: true);
        }
        new DemoWorld(root).MakeAll();
        File.WriteAllText(Path.Combine(root, CompleteName), "1\n");
        return true;
    }

    private void MakeAll()
    {
        foreach (var (_, _, folder) in Shelves(_root).Where(s => s.Name != "Old laptop"))
        {
            Directory.CreateDirectory(folder);
        }
        var documents = new List<Action>();
        Samples();
        LowWater(documents);
        TarAndTwine(documents);
        TheNinthBell(documents);
        NetMender(documents);
        FogSignal(documents);
        new VisitingSessions(_root, _files).Make(documents);
        new AtticDrive(_root, _files).Make(documents, Session(Song.FogSignal));
        _files.WriteAll();
        documents.ForEach(d => d());
        DemoDrives.Unplug(_root, Shelf("Old laptop"));
    }

    private string Shelf(string name, params string[] path) => Path.Combine([_root, "shelves", name, .. path]);

    private string Session(Song song, params string[] path) => Shelf("Session drive", [ParentFolder, song.Folder, .. path]);

    private void Samples()
    {
        var shore = new DateTime(2026, 9, 27, 5, 40, 0, DateTimeKind.Utc);
        var loft = new DateTime(2026, 3, 2, 15, 0, 0, DateTimeKind.Utc);
        var kit = new DateTime(2024, 11, 20, 9, 0, 0, DateTimeKind.Utc);
        _files.Sample(Shelf("Field card", "260927", "tide.wav"), Voice.Tide, 9, 0, shore);
        _files.Sample(Shelf("Field card", "260927", "bell buoy.wav"), Voice.Bell, 4, 392, shore.AddMinutes(25), strokes: 2,
            // A field recorder's own chunk, of odd length: five bytes.
            chunks: [("quay", "orrin"u8.ToArray())]);
        _files.Sample(Shelf("Field card", "260927", "rope creak.wav"), Voice.Rope, 5, 210, shore.AddMinutes(48));
        _files.Sample(Shelf("Loft samples", "Drums", "net drum low.wav"), Voice.Drum, 1.4, 62, loft);
        _files.Sample(Shelf("Loft samples", "Drums", "net drum high.wav"), Voice.Drum, 1.1, 131, loft.AddMinutes(4));
        _files.Duplicate(Shelf("Loft samples", "Unsorted", "new drum 3.wav"), Shelf("Loft samples", "Drums", "net drum low.wav"));
        // The same name as on the field card, but another morning.
        _files.Sample(Shelf("Loft samples", "Sea", "tide.wav"), Voice.Tide, 6, 0, loft.AddDays(9));
        _files.Sample(Shelf("Loft samples", "Strings", "plucked D.wav"), Voice.Plucked, 3, 146.83, loft.AddDays(1));
        foreach (var (name, pitch) in new[] { ("bottle: high?.wav", 1174.7), ("bottle mid.wav", 880.0), ("bottle low.wav", 587.3) })
        {
            _files.Sample(Shelf("House kit", "Struck bottles", name), Voice.Bottle, 1.2, pitch, kit, 44100, 16);
        }
        _files.Sample(Shelf("House kit", "Oar thumps", "oar thump 1.wav"), Voice.Drum, .9, 48, kit, 44100, 16);
        _files.Sample(Shelf("House kit", "Oar thumps", "oar thump 2.wav"), Voice.Drum, .9, 53, kit, 44100, 16);
        for (var n = 1; n <= Bells; n++)
        {
            _files.Sample(Bell(n), Voice.Bell, .8 + (.05 * n), 220 * Math.Pow(2, n / 12.0), loft.AddDays(20).AddMinutes(n));
        }
        _files.Sample(Shelf("Loft samples", "Machines", "winch.wav"), Voice.Rope, 4, 171, loft.AddDays(30));
        _files.Sample(Shelf("Loft samples", "Machines", "ferry horn.wav"), Voice.HurdyGurdy, 3.37, 110, loft.AddDays(31));
        // Another winch under the same name, just as long.
        _files.Sample(Shelf("Loft samples", "Sea", "winch.wav"), Voice.Rope, 4, 96, loft.AddDays(44));
        _files.Sample(Shelf("Old laptop", "Desktop", "gull far.wav"), Voice.Hum, 2.5, 1320, loft.AddDays(-200), strokes: 3);
        _files.Sample(Shelf("Old laptop", "Desktop", "winch.wav"), Voice.Rope, 4, 140, loft.AddDays(-200));
        _files.Sample(Shelf("Old laptop", "Downloads", "foghorn 2.wav"), Voice.HurdyGurdy, 3.5, 98, loft.AddDays(-180));
    }

    // So many small bells of the loft's library, in a folder that was renamed since.
    private const int Bells = 12;

    private string Bell(int n) => Shelf("Loft samples", "Bells", $"small bell {n:00}.wav");

    private static SessionDocument NewDocument(Song song, params string[] tracks)
    {
        // The identity follows from the name, so that the demo is the same every time.
        var id = new Guid(BitConverter.GetBytes(Noise.Seed(song.Name)).Concat(BitConverter.GetBytes(Noise.Seed(song.Date))).ToArray());
        var document = SessionDocument.Create(id, song.Folder, new SessionSettings(48000, 24, song.Tempo, song.TimeSignature), SessionLayout.Default, tracks);
        document.Root.Set("global_start_time", JsonItem.Map(
            ("OTIO_SCHEMA", JsonItem.Of("RationalTime.1")), ("rate", JsonItem.Of(48000.0)), ("value", JsonItem.Of(48000.0 * Song.SessionStart))));
        return document;
    }

    private void List(SessionDocument document, string path, Song song)
    {
        var clip = _files.Clip(path, Session(song));
        ClipBuilder.List(document.Root, clip.TargetUrl, clip.FileLength, clip.Rate);
    }

    private void Folders(Song song)
    {
        foreach (var folder in SessionLayout.Default.All)
        {
            Directory.CreateDirectory(Session(song, folder));
        }
    }

    private static void Write(SessionDocument document, string path, DateTime changed)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllBytes(path, document.ToUtf8());
        File.SetLastWriteTimeUtc(path, DateTime.SpecifyKind(changed, DateTimeKind.Utc));
    }

    /// <summary>A marker at the top of a document, in the form that OpenTimelineIO prescribes ("Marker").</summary>
    private static JsonItem Marker(string name, double seconds) => JsonItem.Map(
        ("OTIO_SCHEMA", JsonItem.Of("Marker.2")),
        ("name", JsonItem.Of(name)),
        ("metadata", JsonItem.Map()),
        ("color", JsonItem.Of("BLACK")),
        ("marked_range", JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("TimeRange.1")), ("start_time", Seconds(seconds)), ("duration", Seconds(0)))));

    private static JsonItem Seconds(double seconds) => JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("RationalTime.1")), ("rate", JsonItem.Of(1.0)), ("value", JsonItem.Of(seconds)));

    private static JsonItem Effect(string name) => JsonItem.Map(
        ("OTIO_SCHEMA", JsonItem.Of("Effect.1")), ("name", JsonItem.Of(name)), ("effect_name", JsonItem.Of(name)), ("metadata", JsonItem.Map()));

    /// <summary>In good order: every take placed, a bounce made, the lyrics beside it.</summary>
    private void LowWater(List<Action> documents)
    {
        var song = Song.LowWater;
        (string Track, Voice Voice)[] players = [("Hurdy-gurdy", Voice.HurdyGurdy), ("Cello", Voice.Cello), ("Frame drum", Voice.Drum), ("Voice", Voice.Hum)];
        var document = NewDocument(song, [.. players.Select(p => p.Track)]);
        for (var i = 0; i < players.Length; i++)
        {
            var path = Session(song, "Audio", $"{players[i].Track} 01.wav");
            _files.MakeTake(path, song, players[i].Voice, 30, new TimeSpan(10, 12 + (i * 9), 30), 1);
            ClipBuilder.Place(document.Root, players[i].Track, _files.Clip(path, Session(song), from: .5, length: 29));
        }
        var stack = document.Root["tracks"]!;
        foreach (var (name, seconds) in new[] { ("Verse", 0.0), ("Lamps", 14.5) })
        {
            stack["markers"]!.Add(Marker(name, seconds));
        }
        stack["children"]!.Items[3]["effects"]!.Add(Effect("Stairwell echo"));
        _files.Bounce(Session(song, "Bounces", "Low Water rough mix.wav"), song, 29, song.Day.AddHours(17), Voice.HurdyGurdy, Voice.Cello, Voice.Drum, Voice.Hum);
        documents.Add(() =>
        {
            Folders(song);
            File.WriteAllText(Session(song, "Notes", "lyrics.txt"), "Low water, low water,\nthe lamps along the quay\ncount the boats in, one by one,\nand none of them for me.\n");
            Write(document, Session(song, song.Folder + ".otio"), song.Day.AddHours(17.5));
            BackUp(
                song, document.SessionId!.Value,
                [.. SessionFolder.Files(Session(song)).Select(f => new BackupSource(f.Path, Path.GetRelativePath(Session(song), f.Path)))], song.Day.AddHours(18));
        });
    }

    /// <summary>Missing files, and a drive that is away.</summary>
    private void TarAndTwine(List<Action> documents)
    {
        var song = Song.TarAndTwine;
        var document = NewDocument(song, "Hurdy-gurdy", "Cello", "Hands", "Found sounds");
        foreach (var (track, voice, n) in new[] { ("Hurdy-gurdy", Voice.HurdyGurdy, 1), ("Hands", Voice.Drum, 2) })
        {
            var path = Session(song, "Audio", $"{track} 01.wav");
            _files.MakeTake(path, song, voice, 20, new TimeSpan(11, 5 * n, 0), 1);
            ClipBuilder.Place(document.Root, track, _files.Clip(path, Session(song), length: 19.5));
        }
        // Somebody tidied: two cello takes stand in the field card's folder under other names, one of them packed.
        var lost = new[] { (Session(song, "Audio", "Cello 02.wav"), "VC_0002.wav", 2), (Session(song, "Audio", "Cello 03.wav"), "VC_0003.flac", 3) };
        foreach (var (path, other, take) in lost)
        {
            _files.MakeTake(path, song, Voice.Cello, 10 + (.7 * take), new TimeSpan(11, 30 + take, 0), take);
            ClipBuilder.Place(document.Root, "Cello", _files.Clip(path, Session(song), length: 9.5));
            documents.Add(() =>
            {
                Directory.CreateDirectory(Shelf("Field card", "from the loft"));
                if (Path.GetExtension(other) == ".flac")
                {
                    DemoFiles.Pack(path, Shelf("Field card", "from the loft", other));
                }
                else
                {
                    File.Move(path, Shelf("Field card", "from the loft", other));
                }
            });
        }
        foreach (var (folder, name) in new[] { ("Desktop", "gull far.wav"), ("Desktop", "winch.wav"), ("Downloads", "foghorn 2.wav") })
        {
            ClipBuilder.Place(document.Root, "Found sounds", _files.Clip(Shelf("Old laptop", folder, name), Session(song), gap: 1.5));
        }
        for (var n = 1; n <= Bells; n++)
        {
            ClipBuilder.Place(document.Root, "Found sounds", _files.Clip(Bell(n), Session(song), gap: .25));
        }
        foreach (var name in new[] { "winch.wav", "ferry horn.wav" })
        {
            ClipBuilder.Place(document.Root, "Found sounds", _files.Clip(Shelf("Loft samples", "Machines", name), Session(song), gap: 1));
        }
        documents.Add(() =>
        {
            Folders(song);
            Write(document, Session(song, song.Folder + ".otio"), song.Day.AddHours(16));
            // The library was tidied: a folder has another name, and the machines are gone.
            var (before, now) = RenamedFolder(_root);
            Directory.Move(before, now);
            Directory.Delete(Shelf("Loft samples", "Machines"), recursive: true);
        });
    }

    /// <summary>The vocal day, heavy with takes that nobody will use: false starts, passes that were sung again, silence left running.</summary>
    private void TheNinthBell(List<Action> documents)
    {
        var song = Song.TheNinthBell;
        (string Track, Voice Voice, int Takes, int Kept)[] players = [("Voice", Voice.Hum, 72, 11), ("Cello", Voice.Cello, 30, 6), ("Hurdy-gurdy", Voice.HurdyGurdy, 18, 4)];
        var document = NewDocument(song, [.. players.Select(p => p.Track), "Bells"]);
        var yesterday = NewDocument(song, [.. players.Select(p => p.Track)]);
        foreach (var (track, voice, takes, kept) in players)
        {
            for (var take = 1; take <= takes; take++)
            {
                var falseStart = take % 4 == 2 && take != kept;
                var path = Session(song, "Audio", $"{track} {take:00}.wav");
                var seconds = falseStart ? 1.2 : take == kept || take == kept - 2 ? 12 : 3.2;
                _files.MakeTake(path, song, voice, seconds, new TimeSpan(14, 0, take * 170), take, silentTail: take == kept ? 3 : 0);
                if (take == kept)
                {
                    var clip = _files.Clip(path, Session(song), from: .4, length: 8.2);
                    ClipBuilder.Place(document.Root, track, clip);
                    ClipBuilder.List(document.Root, clip.TargetUrl, clip.FileLength, clip.Rate, new TakeLabel(track, take, take, IsKeeper: true));
                }
                else if (take == kept - 2)
                {
                    ClipBuilder.Place(yesterday.Root, track, _files.Clip(path, Session(song), from: .4, length: 8.2));
                }
                else if (!falseStart)
                {
                    var clip = _files.Clip(path, Session(song));
                    ClipBuilder.List(document.Root, clip.TargetUrl, clip.FileLength, clip.Rate, (track, take) is ("Voice", 31) or ("Cello", 19) ? new TakeLabel(track, take, take, IsKeeper: true) : null);
                }
            }
        }
        // A sample that was tried and left, a take under a second name, and what the bells play, with a print of it.
        _files.Duplicate(Session(song, "Audio", "rope creak.wav"), Shelf("Field card", "260927", "rope creak.wav"));
        List(document, Session(song, "Audio", "rope creak.wav"), song);
        _files.Duplicate(Session(song, "Audio", "hum for the bridge.wav"), Session(song, "Audio", "Voice 23.wav"));
        _files.Notes(Session(song, "Audio", "ninth bell.mid"), 9);
        ClipBuilder.Place(document.Root, "Bells", new ClipToPlace("ninth bell", MediaUrl.From(Session(song, "Audio", "ninth bell.mid"), Session(song)), 48000, 48000 * 10, 0, 48000 * 10));
        _files.Sample(Session(song, "Audio", "Bells (print).wav"), Voice.Bell, 10, 262, song.Day.AddHours(21), strokes: 9);
        documents.Add(() =>
        {
            Folders(song);
            Directory.CreateDirectory(Session(song, "Charts"));
            File.WriteAllBytes(Session(song, "Audio", ".DS_Store"), new byte[6148]);
            Write(yesterday, Session(song, "Older documents", "The Ninth Bell 2026-10-11_231502.otio"), song.Day.AddMinutes(-45));
            Write(document, Session(song, song.Folder + ".otio"), song.Day.AddHours(23));
            // A line of another song was tried over a take of this one, and left again.
            var tried = NewDocument(Song.LowWater, "Voice");
            ClipBuilder.Place(tried.Root, "Voice", _files.Clip(Session(song, "Audio", "Voice 20.wav"), Session(Song.LowWater)));
            Write(tried, Session(Song.LowWater, "Older documents", "Low Water 2026-10-13_214000.otio"), song.Day.AddDays(1).AddHours(21));
        });
    }

    /// <summary>Three samples were tried out and never copied in.</summary>
    private void NetMender(List<Action> documents)
    {
        var song = Song.NetMender;
        (string Track, Voice Voice)[] players = [("Hurdy-gurdy", Voice.HurdyGurdy), ("Cello", Voice.Cello), ("Voice", Voice.Hum)];
        var document = NewDocument(song, [.. players.Select(p => p.Track), "Samples"]);
        foreach (var ((track, voice), n) in players.Select((p, n) => (p, n)))
        {
            foreach (var take in new[] { 1, 2 })
            {
                var path = Session(song, "Audio", $"{track} {take:00}.wav");
                _files.MakeTake(path, song, voice, 14, new TimeSpan(20, (n * 12) + (take * 4), 0), take);
                if (take == 2)
                {
                    ClipBuilder.Place(document.Root, track, _files.Clip(path, Session(song), from: .3, length: 13));
                }
                else
                {
                    List(document, path, song);
                }
            }
        }
        ClipBuilder.Place(document.Root, "Samples", _files.Clip(Shelf("Field card", "260927", "tide.wav"), Session(song), length: 6));
        ClipBuilder.Place(document.Root, "Samples", _files.Clip(Shelf("Loft samples", "Drums", "net drum low.wav"), Session(song), gap: .5));
        ClipBuilder.Place(document.Root, "Samples", _files.Clip(Shelf("House kit", "Struck bottles", "bottle: high?.wav"), Session(song), gap: 1));
        ClipBuilder.Place(document.Root, "Samples", _files.Clip(Shelf("Loft samples", "Drums", "net drum low.wav"), Session(song), gap: .5));
        documents.Add(() =>
        {
            Folders(song);
            Write(document, Session(song, song.Folder + ".otio"), song.Day.AddHours(23.5));
        });
    }

    /// <summary>Worked on over many evenings; the older documents and the vault tell the story.</summary>
    private void FogSignal(List<Action> documents)
    {
        var song = Song.FogSignal;
        var players = new[] { ("Hurdy-gurdy", Voice.HurdyGurdy), ("Cello", Voice.Cello), ("Bell", Voice.Plucked) };
        var evenings = Enumerable.Range(0, 5).Select(_ => NewDocument(song, [.. players.Select(p => p.Item1)])).ToList();
        foreach (var ((track, voice), n) in players.Select((p, n) => (p, n)))
        {
            var path = Session(song, "Audio", $"{track} 01.wav");
            _files.MakeTake(path, song, voice, 16, new TimeSpan(21, n * 7, 0), 1);
            if (n == 0)
            {
                // The bells were tried on the second evening, and left out again.
                for (var bell = 1; bell <= Bells; bell += 3)
                {
                    ClipBuilder.Place(evenings[1].Root, "Bell", _files.Clip(Bell(bell), Session(song), gap: .5));
                }
            }
            for (var evening = n; evening < evenings.Count; evening++)
            {
                ClipBuilder.Place(evenings[evening].Root, track, _files.Clip(path, Session(song), from: .1 * evening, length: 15 - evening));
            }
        }
        // A second cello take was placed on the second evening, and lost from its track on the third; nobody noticed until the fifth.
        var lost = Session(song, "Audio", "Cello 02.wav");
        _files.MakeTake(lost, song, Voice.Cello, 6, new TimeSpan(21, 41, 0), 2);
        var answer = _files.Clip(lost, Session(song), from: .2, length: 5, gap: 2);
        ClipBuilder.Place(evenings[1].Root, "Cello", answer);
        documents.Add(() =>
        {
            Folders(song);
            for (var evening = 0; evening < evenings.Count - 1; evening++)
            {
                var at = song.Day.AddDays(evening).AddHours(22).AddMinutes(11 * evening);
                Write(evenings[evening], Session(song, "Older documents", $"{song.Name} {at:yyyy-MM-dd_HHmmss}.otio"), at);
            }
            Write(evenings[^1], Session(song, song.Folder + ".otio"), song.Day.AddDays(4).AddHours(23));
            KeepSaves(song, evenings, answer);
        });
    }

    /// <summary>What was kept of the saves of five evenings, and four full backups of them.</summary>
    private void KeepSaves(Song song, List<SessionDocument> evenings, ClipToPlace answer)
    {
        var night = evenings.Select((document, evening) => (document.ToUtf8(), song.Day.AddDays(evening).AddHours(22.5))).ToList();
        var whole = SessionDocument.Parse(evenings[2].ToUtf8());
        ClipBuilder.Place(whole.Root, "Cello", answer);
        List<(byte[] Document, DateTime At, string? Note)> saves = [];
        foreach (var ((document, at), evening) in night.Select((n, i) => (n, i)))
        {
            for (var hour = 3; hour > 0; hour--)
            {
                // A save an hour: the same work under a name that tells them apart, as a comment of the day.
                var earlier = SessionDocument.Parse(evening == 2 && hour > 1 ? whole.ToUtf8() : document);
                earlier.Root["metadata"]![SessionDocument.MetadataKey]!.Set("save", JsonItem.Of((long)hour));
                saves.Add((earlier.ToUtf8(), at.AddHours(-hour).AddMinutes(7 * hour), (evening, hour) == (2, 2) ? "before the string edits" : null));
            }
        }
        saves.Add((night[^1].Item1, song.Day.AddDays(4).AddHours(23), null));
        foreach (var (document, at, note) in saves)
        {
            var path = Session(song, KeptDocuments.FolderName, $"{song.Folder} {BackupVault.Stamp(DateTime.SpecifyKind(at, DateTimeKind.Utc).ToLocalTime())}.otio");
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            File.WriteAllBytes(path, document);
            File.SetLastWriteTimeUtc(path, DateTime.SpecifyKind(at, DateTimeKind.Utc));
            if (note is not null)
            {
                File.WriteAllText(path + ".note.txt", note + "\n");
            }
        }
        string[] takes = ["Hurdy-gurdy 01.wav", "Cello 01.wav", "Bell 01.wav", "Cello 02.wav"];
        foreach (var evening in new[] { 0, 1, 2, 4 })
        {
            var document = saves.Last(s => s.At < song.Day.AddDays(evening + 1)).At;
            var kept = Session(song, KeptDocuments.FolderName, $"{song.Folder} {BackupVault.Stamp(DateTime.SpecifyKind(document, DateTimeKind.Utc).ToLocalTime())}.otio");
            BackUp(song, evenings[0].SessionId!.Value, [new BackupSource(kept, song.Folder + ".otio"), .. takes.Take(evening + 2).Select(t => new BackupSource(Session(song, "Audio", t), $"Audio/{t}"))], song.Day.AddDays(evening).AddHours(23.6));
        }
    }

    private void BackUp(Song song, Guid session, ImmutableArray<BackupSource> sources, DateTime at)
    {
        var utc = DateTime.SpecifyKind(at, DateTimeKind.Utc);
        var vault = new BackupVault(new FolderStore(Shelf("Vault", VaultNames.FolderName), new DurableFiles()));
        new BackupWriter(vault, new DurableFiles(), new NothingRemembered()).Write(
            new BackupRequest(session, song.Folder, [.. sources.OrderBy(s => s.Path, StringComparer.Ordinal)], [], utc, utc.ToLocalTime()) { Document = song.Folder + ".otio" }, null, CancellationToken.None);
    }

    private sealed class NothingRemembered : IContentMemory
    {
        public ContentHash? Known(string path, FileFacts facts) => null;

        public void Note(string path, FileFacts facts, ContentHash hash)
        {
        }
    }
}
