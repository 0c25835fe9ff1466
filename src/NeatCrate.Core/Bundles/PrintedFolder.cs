using System.Globalization;
using System.Text;
using NeatCrate.Core.Printing;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Bundles;

/// <summary>The folder of printed tracks in a bundle, beside the session folder: the prints, their tempo and markers as a Standard MIDI File, and a text that says what each is.</summary>
internal static class PrintedFolder
{
    /// <summary>What it is called, where the session folder is not called so.</summary>
    public const string Name = "Printed tracks";

    /// <summary>The entries; none where nothing is printed.</summary>
    /// <param name="print">The prints; null where tracks do not go along printed.</param>
    /// <param name="sessionFolder">Name of the session folder in the bundle, which is another one.</param>
    /// <param name="choice">How they are printed.</param>
    public static IReadOnlyList<BundleEntry> Of(SessionPrint? print, string sessionFolder, PrintChoice choice)
    {
        if (print is null)
        {
            return [];
        }
        var folder = PortableName.Free(Name, new HashSet<string>(StringComparer.Ordinal) { PortableName.ClashKey(sessionFolder) });
        BundleEntry Given(string name, byte[] content) => new($"{folder}/{name}", new GivenBytes(content), content.Length, default);
        return
        [
            .. print.Printed.Select(t => new BundleEntry($"{folder}/{t.FileName}", t.Print!, t.Print!.Bytes, default)),
            Given("Tempo and markers.mid", print.Tempo.ToMidi()),
            Given("Read me first.txt", Encoding.UTF8.GetBytes(string.Join('\n', Lines(print, choice)) + "\n")),
        ];
    }

    /// <summary>What a crossfade is printed as, in words.</summary>
    public static string LawInWords(CrossfadeLaw law) => law == CrossfadeLaw.EqualGain
        ? "equal gain: along a straight line, both sounds together always full"
        : "equal power: along a quarter of a sine, the squares of both sounds together always full";

    private static IEnumerable<string> Lines(SessionPrint print, PrintChoice choice)
    {
        yield return "PRINTED TRACKS";
        yield return "==============";
        yield return string.Create(CultureInfo.InvariantCulture, $"All start at the start of the session and are equally long: {DurationText.OfTenths(print.LengthSamples / (double)print.SampleRate)}, {print.LengthSamples} samples at {RateText.Of(print.SampleRate)}.");
        yield return "Put them all at one time, one below the other, and it sounds as the session does without its mixer.";
        yield return $"Crossfades   {LawInWords(choice.Law)}";
        foreach (var line in print.Tempo.ToLines())
        {
            yield return line;
        }
        yield return "";
        foreach (var track in print.Printed)
        {
            var format = track.Print!.Format;
            yield return $"{track.FileName}   {(format.BitsPerSample == 32 ? "32-bit float" : $"{format.BitsPerSample} bit")}, {format.Channels} ch";
            foreach (var note in track.Notes)
            {
                yield return $"    {note.Sentence}";
            }
        }
        foreach (var (title, tracks) in new[] { ("NOT PRINTED, since a print would not sound as the track does", print.Tracks.Where(t => t.IsRefused)), ("Left out, as the session leaves them out", print.Tracks.Where(t => t.Print is null && !t.IsRefused)) })
        {
            if (!tracks.Any())
            {
                continue;
            }
            yield return "";
            yield return title;
            foreach (var track in tracks)
            {
                yield return $"  {track.Name}: {string.Join("; ", track.Notes.Select(n => n.Sentence))}";
            }
        }
    }
}
