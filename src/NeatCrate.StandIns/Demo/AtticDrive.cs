using System.Collections.Immutable;
using System.Globalization;
using System.IO.Compression;
using System.Net;
using System.Text;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;

namespace NeatCrate.StandIns.Demo;

/// <summary>
/// An old drive from Wren Achterberg's attic: small sessions of years ago that nobody adopted yet, in folders by year, in the documents of
/// several programs. The formats are made up for the demo.
/// </summary>
internal sealed class AtticDrive(string root, DemoFiles files)
{
    /// <summary>Its name as a shelf.</summary>
    public const string Name = "Attic drive";

    private const int Rate = 22050;
    private const int Bits = 16;

    // So many bytes has a name in the packed format.
    private const int FieldBytes = 64;

    private enum Program
    {
        Reel,
        Tide,
        Knot,
        Bilge,
        Timeline,
    }

    /// <summary>A session of years ago.</summary>
    /// <param name="Sounds">Folder of its sounds.</param>
    /// <param name="Voices">Who plays, two takes each.</param>
    private sealed record Old(string Date, string Title, Program Program, string Sounds, params Voice[] Voices)
    {
        public string Folder => $"{Date} {Title}";

        public DateTime Saved => DateTime.SpecifyKind(DateTime.ParseExact("20" + Date, "yyyyMMdd", CultureInfo.InvariantCulture).AddHours(22), DateTimeKind.Utc);
    }

    private static readonly ImmutableArray<Old> Sessions =
    [
        new("190309", "Eel Trap", Program.Reel, "Audio", Voice.Plucked, Voice.Drum),
        new("190921", "Second Lantern", Program.Tide, "Sounds", Voice.Bell, Voice.Hum),
        new("200214", "Mud Pilot", Program.Knot, "Audio", Voice.Cello, Voice.Rope),
        new("200620", "Rope Walk", Program.Timeline, "Audio", Voice.Rope, Voice.Drum),
        new("210117", "Gull Street", Program.Bilge, "Sounds", Voice.Hum, Voice.Plucked),
        new("210503", "Cold Harbour Reel", Program.Reel, "Audio", Voice.HurdyGurdy, Voice.Drum),
        new("211108", "Brass Weather", Program.Tide, "Sounds", Voice.HurdyGurdy, Voice.Bell),
        new("220226", "The Long Slip", Program.Knot, "Audio", Voice.Cello, Voice.Bottle),
        new("220909", "Kelp Road", Program.Timeline, "Audio", Voice.Plucked, Voice.Hum),
        new("230318", "Salt Ledger", Program.Bilge, "Sounds", Voice.Drum, Voice.Bottle),
        new("231102", "Winter Ferry", Program.Reel, "Audio", Voice.Hum, Voice.Bell),
    ];

    /// <summary>Makes the sound at once, and the documents once it stands there.</summary>
    /// <param name="documents">What is to be done then.</param>
    /// <param name="known">Absolute path of a session of which a copy lies here too.</param>
    public void Make(List<Action> documents, string known)
    {
        ArgumentNullException.ThrowIfNull(documents);
        foreach (var old in Sessions)
        {
            var folder = At("20" + old.Date[..2], old.Folder);
            var sounds = new List<string>();
            foreach (var voice in old.Voices)
            {
                for (var take = 1; take <= 2; take++)
                {
                    var name = $"{old.Sounds}/{NameOf(voice)} {take:00}.wav";
                    files.Sample(Path.Combine(folder, name), voice, .25 + (.05 * take), 110 + (13 * sounds.Count) + old.Title.Length, old.Saved.AddMinutes(-40 + take), Rate, Bits);
                    sounds.Add(name);
                }
            }
            documents.Add(() =>
            {
                Save(old, folder, sounds);
                Lose(old, folder);
            });
        }
        // Somebody's sounds, without a document: no session.
        files.Sample(At("Loose sounds", "door.wav"), Voice.Drum, .3, 55, new DateTime(2020, 1, 5, 12, 0, 0, DateTimeKind.Utc), Rate, Bits);
        documents.Add(() => Copy(known));
    }

    private string At(params string[] path) => Path.Combine([root, "shelves", Name, .. path]);

    private static string NameOf(Voice voice) => voice == Voice.HurdyGurdy ? "Hurdy-gurdy" : voice.ToString();

    /// <summary>What two of them lack: the bells were tidied away, and the last bottle is gone.</summary>
    private void Lose(Old old, string folder)
    {
        switch (old.Title)
        {
            case "Second Lantern":
                foreach (var name in new[] { "Bell 01.wav", "Bell 02.wav" })
                {
                    File.Move(Path.Combine(folder, old.Sounds, name), At("Loose sounds", name));
                }
                break;
            case "The Long Slip":
                File.Delete(Path.Combine(folder, old.Sounds, "Bottle 02.wav"));
                break;
        }
    }

    /// <summary>A copy of a session that is known, as somebody took it home: its document alone.</summary>
    private void Copy(string known)
    {
        var name = Path.GetFileName(known) + SessionFolder.DocumentExtension;
        var to = At("2026", Path.GetFileName(known), name);
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        File.Copy(Path.Combine(known, name), to);
        File.SetLastWriteTimeUtc(to, File.GetLastWriteTimeUtc(Path.Combine(known, name)));
    }

    private void Save(Old old, string folder, List<string> sounds)
    {
        var (extension, bytes) = old.Program switch
        {
            Program.Reel => (".reel", Reel(old, sounds)),
            Program.Tide => (".tide", Tide(old, sounds)),
            Program.Knot => (".knot", Knot(old, sounds)),
            Program.Bilge => (".bilge", Bilge(sounds)),
            _ => (SessionFolder.DocumentExtension, Timeline(old, folder, sounds)),
        };
        var path = Path.Combine(folder, old.Folder + extension);
        File.WriteAllBytes(path, bytes);
        File.SetLastWriteTimeUtc(path, old.Saved);
    }

    /// <summary>Lines of text: a word, a name in quotes, a time.</summary>
    private static byte[] Reel(Old old, List<string> sounds) => Encoding.UTF8.GetBytes(
        $"reel 2 \"{old.Title}\" for 4 strips\n" + string.Concat(sounds.Select((s, n) => string.Create(CultureInfo.InvariantCulture, $"strip {n / 2} play \"{s}\" from {n * 4.5:0.0} level -6\n"))));

    /// <summary>JSON with folder and name apart.</summary>
    private static byte[] Tide(Old old, List<string> sounds) => Encoding.UTF8.GetBytes(
        $"{{\"tide\":1,\"title\":\"{old.Title}\",\"clips\":[{string.Join(',', sounds.Select((s, n) => string.Create(CultureInfo.InvariantCulture, $"{{\"at\":{n * 3},\"media\":\"{s.Replace("/", "\\/", StringComparison.Ordinal)}\"}}")))}]}}");

    /// <summary>XML in UTF-16.</summary>
    private static byte[] Knot(Old old, List<string> sounds) =>
    [
        .. Encoding.Unicode.GetPreamble(),
        .. Encoding.Unicode.GetBytes($"<?xml version=\"1.0\" encoding=\"utf-16\"?><knot title=\"{old.Title}\">{string.Concat(sounds.Select((s, n) => $"<rope at=\"{n * 2}\" file=\"{WebUtility.HtmlEncode(s)}\"/>"))}</knot>"),
    ];

    /// <summary>Fields of one length behind each other, packed by zlib behind a head of its own.</summary>
    private static byte[] Bilge(List<string> sounds)
    {
        using var bytes = new MemoryStream();
        bytes.Write("BLG\u0001"u8);
        using (var packed = new ZLibStream(bytes, CompressionLevel.Optimal, leaveOpen: true))
        {
            foreach (var sound in sounds)
            {
                var field = new byte[FieldBytes];
                Encoding.UTF8.GetBytes(sound, field);
                packed.Write(field);
            }
        }
        return bytes.ToArray();
    }

    private byte[] Timeline(Old old, string folder, List<string> sounds)
    {
        var id = new Guid(BitConverter.GetBytes(Noise.Seed(old.Title)).Concat(BitConverter.GetBytes(Noise.Seed(old.Date))).ToArray());
        var document = SessionDocument.Create(id, old.Folder, new SessionSettings(Rate, Bits, 80, "4/4"), SessionLayout.Default, [.. old.Voices.Select(NameOf)]);
        foreach (var (sound, n) in sounds.Select((s, n) => (s, n)))
        {
            ClipBuilder.Place(document.Root, NameOf(old.Voices[n / 2]), files.Clip(Path.Combine(folder, sound), folder, gap: .2));
        }
        return document.ToUtf8();
    }
}
