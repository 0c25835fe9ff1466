using System.Globalization;
using System.IO.Compression;
using System.Net;
using System.Text;

namespace NeatCrate.StandIns.Demo;

/// <summary>
/// What Tove Lindqvist, a visiting engineer, left on the session drive: two sessions in the documents of programs that nobody here knows. The
/// formats are made up for the demo: one is XML in gzip, the other binary.
/// </summary>
internal sealed class VisitingSessions(string root, DemoFiles files)
{
    private const string ParentFolder = "Tove Lindqvist";

    /// <summary>Her songs.</summary>
    public static IReadOnlyList<Song> Songs { get; } = [Song.Breakwater, Song.FerryBellLoop];

    /// <summary>Absolute path of a session's folder.</summary>
    /// <param name="root">Absolute path of the demo's folder.</param>
    /// <param name="song">The song.</param>
    public static string FolderOf(string root, Song song) => Path.Combine(root, "shelves", "Session drive", ParentFolder, song.Folder);

    /// <summary>Makes the sound at once, and the documents once it stands there.</summary>
    public void Make(List<Action> documents)
    {
        ArgumentNullException.ThrowIfNull(documents);
        Breakwater(documents);
        FerryBellLoop(documents);
    }

    /// <summary>The organ at the chapel: one sample on the field card, two recordings missing, one that nothing names.</summary>
    private void Breakwater(List<Action> documents)
    {
        var song = Song.Breakwater;
        var folder = FolderOf(root, song);
        var strips = new List<(string Strip, string[] Sounds)>();
        foreach (var ((strip, voice), n) in new[] { ("Great", Voice.HurdyGurdy), ("Swell", Voice.Hum), ("Pedal", Voice.Cello) }.Select((p, n) => (p, n)))
        {
            var names = new List<string>();
            for (var take = 1; take <= 3; take++)
            {
                // The third of the swell was played for the room, and nothing ever named it.
                var name = $"{strip} {take:00}.wav";
                files.MakeTake(Path.Combine(folder, "Audio", name), song, voice, 1.1 + (.3 * take), new TimeSpan(16 + n, take * 6, 0), take);
                if ((strip, take) != ("Swell", 3))
                {
                    names.Add("Audio/" + name);
                }
            }
            strips.Add((strip, [.. names]));
        }
        // As her program writes what stands elsewhere: from the session folder, so that the demo can lie anywhere.
        strips.Add(("Sea", [Path.GetRelativePath(folder, Path.Combine(root, "shelves", "Field card", "260927", "tide.wav"))]));
        documents.Add(() =>
        {
            // Somebody tidied: two of the pedal stand on the field card now.
            for (var take = 2; take <= 3; take++)
            {
                var card = Path.Combine(root, "shelves", "Field card", "chapel");
                Directory.CreateDirectory(card);
                File.Move(Path.Combine(folder, "Audio", $"Pedal {take:00}.wav"), Path.Combine(card, $"Pedal {take:00}.wav"));
            }
            var text = new StringBuilder("<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<desk version=\"3\" owner=\"Tove Lindqvist\" beats=\"54\">\n");
            foreach (var (strip, sounds) in strips)
            {
                text.Append(CultureInfo.InvariantCulture, $"  <strip name=\"{strip}\" level=\"-3.5\">\n");
                foreach (var (sound, n) in sounds.Select((s, n) => (s, n)))
                {
                    text.Append(CultureInfo.InvariantCulture, $"    <sound from=\"{n * 12.5:0.00}\"><place>{WebUtility.HtmlEncode(sound)}</place></sound>\n");
                }
                text.Append("  </strip>\n");
            }
            using var packed = new MemoryStream();
            using (var gzip = new GZipStream(packed, CompressionLevel.Optimal, true))
            {
                gzip.Write(Encoding.UTF8.GetBytes(text.Append("</desk>\n").ToString()));
            }
            Write(Path.Combine(folder, song.Folder + ".desk"), packed.ToArray(), song.Day.AddHours(21));
        });
    }

    /// <summary>A small one, all inside: records of a tag, a length and a name.</summary>
    private void FerryBellLoop(List<Action> documents)
    {
        var song = Song.FerryBellLoop;
        var folder = FolderOf(root, song);
        string[] names = ["Bell 01.wav", "Bell 02.wav", "Oars 01.wav"];
        foreach (var (name, n) in names.Select((name, n) => (name, n)))
        {
            files.MakeTake(Path.Combine(folder, "Sounds", name), song, n == 2 ? Voice.Drum : Voice.Plucked, .6, new TimeSpan(20, 5 * n, 0), n + 1);
        }
        documents.Add(() =>
        {
            using var bytes = new MemoryStream();
            using var writer = new BinaryWriter(bytes);
            writer.Write("FBLOOP\u0002\0"u8);
            writer.Write(90.0);
            foreach (var (name, n) in names.Select((name, n) => (name, n)))
            {
                var path = Encoding.UTF8.GetBytes("Sounds/" + name);
                writer.Write("SOND"u8);
                writer.Write(path.Length);
                writer.Write(path);
                writer.Write(n * 1.5f);
            }
            writer.Flush();
            Write(Path.Combine(folder, song.Folder + ".loop"), bytes.ToArray(), song.Day.AddHours(22));
        });
    }

    private static void Write(string path, byte[] bytes, DateTime changed)
    {
        File.WriteAllBytes(path, bytes);
        File.SetLastWriteTimeUtc(path, DateTime.SpecifyKind(changed, DateTimeKind.Utc));
    }
}
