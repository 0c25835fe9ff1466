using CsCheck;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Inventory;

/// <summary>An inventory that is kept and brought up to date says the same as one that is taken anew, whatever happened in between.</summary>
public sealed class KeptInventoryIsTrueTests
{
    private static readonly string[] Names = ["Audio/a.wav", "Audio/b 2.wav", "Audio/b%202.wav", "Bounces/mix.wav", "Notes/hum.wav", "Audio/organ.sfz", "song.xyz", "Notes/words.txt", "Audio/A.WAV", "audio/b 2.wav", "Notes/HUM.wav"];

    /// <summary>Everything that an inventory tells, as text.</summary>
    private static string Told(SessionInventory inventory) => string.Join('\n',
    [
        $"{inventory.Layout.Audio} {inventory.Others} {inventory.CurrentIsStated}",
        .. inventory.Documents.Select(d => $"{d.Path} {d.Current} {d.Problem} {d.Identity} {d.ModifiedUtc.Ticks} {d.Document?.References.Count}"),
        .. inventory.Remarks.Select(r => r.ToString()).Order(StringComparer.Ordinal),
        .. inventory.Files.Select(f => $"{f.Path} {f.Standing} {f.Use} {f.ShelfName} {f.ShownPath} {f.BelongsInside} {f.PlacedTimes} {f.Bytes} {f.ModifiedUtc?.Ticks} {f.Header?.LengthSamples} {f.Problem} "
            + $"{string.Join(',', f.Used)} {string.Join(',', f.Tracks)} {string.Join(',', f.TargetUrls)} {f.ListedTake} {f.WrittenOtherwise} {string.Join(',', f.Remarks.Select(r => r.ToString()))}"),
    ]);

    [Fact]
    public void ItSaysWhatOneTakenAnewSays() => Gen.Int[0, 13].SelectMany(kind => Gen.Int[0, 99].Select(n => (Kind: kind, N: n))).Array[1, 14].Sample(
        steps =>
        {
            using var session = new SessionFixture();
            session.Place(SessionFixture.Sound(session.Inside("Audio", "a.wav")), "Cello").Place(session.Inside("Audio", "b 2.wav")).Place(Path.Combine(session.Card, "tide.wav")).Save();
            var (kept, now) = (new KeptInventory(session.Folder, new HeaderCache()), DateTime.UtcNow);
            kept.Look(null, session.Shelves, LookDepth.Files, now, TestContext.Current.CancellationToken);
            foreach (var (kind, n) in steps)
            {
                var inPlace = kind is 0 or 1 or 2 or 7 && (File.Exists(Target(session, n)) || kind == 7);
                Do(session, kind, n);
                if (n % 3 == 0)
                {
                    kept.Notice(now, n % 2 == 0 ? 1000 : 0);
                }
                // A media file that is written over in its place shows by a look at files alone; all else by one at the folders.
                var told = Told(kept.Look(null, session.Shelves, inPlace ? LookDepth.Files : LookDepth.Folders, now, TestContext.Current.CancellationToken));
                Assert.Equal(Told(session.Inventory()), told);
                // With a look at the folders alone it stays the same.
                Assert.Equal(told, Told(kept.Look(null, session.Shelves, LookDepth.Folders, now, TestContext.Current.CancellationToken)));
                now += TimeSpan.FromSeconds(n % 5);
            }
        },
        iter: 60);

    private sealed class Stops : IShelfMemory
    {
        public CancellationTokenSource? Cancel { get; set; }

        public IReadOnlyDictionary<string, KnownFile> Recall(Guid shelfId, IReadOnlyCollection<string> paths)
        {
            Cancel?.Cancel();
            return new Dictionary<string, KnownFile>();
        }
    }

    /// <summary>Somebody goes away while it is worked out: the next one who asks gets all of it.</summary>
    [Fact]
    public void ALookThatIsStoppedLeavesTheRestToTheNext()
    {
        using var session = new SessionFixture();
        session.Place(session.Inside("Audio", "missing.wav")).Save();
        var stops = new Stops();
        var kept = new KeptInventory(session.Folder, new HeaderCache(), stops);
        SessionInventory Look(CancellationToken stopped) => kept.Look(null, session.Shelves, LookDepth.Files, DateTime.UtcNow, stopped);
        Look(TestContext.Current.CancellationToken);
        SessionFixture.Sound(session.Inside("Audio", "a.wav"));
        File.WriteAllText(session.Inside("song.xyz"), "points at Audio/a.wav");
        using (var cancel = stops.Cancel = new CancellationTokenSource())
        {
            Assert.ThrowsAny<OperationCanceledException>(() => Look(cancel.Token));
        }
        stops.Cancel = null;
        Assert.Equal(Told(session.Inventory()), Told(Look(TestContext.Current.CancellationToken)));
    }

    private static string Target(SessionFixture session, int n) => session.Inside(Names[n % Names.Length].Split('/'));

    private static void Do(SessionFixture session, int kind, int n)
    {
        var path = Target(session, n);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        switch (kind)
        {
            case 0 or 1 or 2:
                Write(path, n);
                break;
            case 3:
                File.Delete(path);
                break;
            case 4:
                File.Move(path.Replace(".wav", ".part", StringComparison.Ordinal) is var other && File.Exists(other) ? other : Write(other, n), path, overwrite: true);
                break;
            case 5:
                session.Place(path, length: 1 + n).Save();
                break;
            case 6:
                session.Save(session.Inside("Older documents", $"261013 Net Mender v{n % 3}.otio"));
                break;
            case 7:
                Write(Path.Combine(session.Card, "tide.wav"), n);
                break;
            case 8:
                if (Directory.Exists(session.Card))
                {
                    File.Delete(Path.Combine(session.Card, "tide.wav"));
                }
                break;
            case 9:
                var (card, away) = (session.Card, session.Card + " away");
                Directory.Move(Directory.Exists(card) ? card : away, Directory.Exists(card) ? away : card);
                break;
            case 10:
                File.WriteAllBytes(SessionCard.PathIn(session.Folder), SessionCard.Stating(session.Folder, n % 2 == 0 ? SessionFixture.Name + ".otio" : "gone.otio"));
                break;
            case 11:
                Directory.CreateDirectory(session.Inside("Audio"));
                File.WriteAllText(session.Inside("Audio", "organ.sfz"), $"<region> sample={Path.GetFileName(Names[n % 3])}");
                session.Place(session.Inside("Audio", "organ.sfz")).Save();
                break;
            case 12:
                File.WriteAllText(session.DocumentPath, n % 2 == 0 ? "{" : System.Text.Encoding.UTF8.GetString(session.Document.ToUtf8()));
                break;
            default:
                var (audio, moved) = (session.Inside("Audio"), session.Inside("Sounds"));
                if (Directory.Exists(audio) != Directory.Exists(moved))
                {
                    Directory.Move(Directory.Exists(audio) ? audio : moved, Directory.Exists(audio) ? moved : audio);
                }
                break;
        }
    }

    private static string Write(string path, int n)
    {
        if (!Directory.Exists(Path.GetDirectoryName(path)))
        {
            return path;
        }
        if (path.EndsWith(".wav", StringComparison.Ordinal) || path.EndsWith(".part", StringComparison.Ordinal))
        {
            SessionFixture.Sound(path, samples: 100 + n, seed: n);
        }
        else
        {
            File.WriteAllText(path, new string('x', n));
        }
        return path;
    }
}
