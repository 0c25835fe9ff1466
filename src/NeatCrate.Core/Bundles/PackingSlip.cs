using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Bundles;

/// <summary>A file that gets another place or name in the bundle.</summary>
/// <param name="From">Where it stands here, as it is shown to people.</param>
/// <param name="To">Where it stands in the bundled session folder.</param>
/// <param name="Why">The reason, in a few words.</param>
public sealed record SlipMove(string From, string To, string Why);

/// <summary>A media file in the bundle.</summary>
public sealed record SlipFile(string Path, long Bytes, int? SampleRate, int? BitDepth, int? Channels, long? LengthSamples, string Use);

/// <summary>Sound that is packed without loss.</summary>
/// <param name="Files">Number of files.</param>
/// <param name="Bytes">Their bytes before.</param>
public sealed record SlipPacked(int Files, long Bytes);

/// <summary>A track that goes along printed, or could not.</summary>
/// <param name="Track">Its name.</param>
/// <param name="File">Name of the print; null where there is none.</param>
/// <param name="BitDepth">Bits of a sample; 32 are floating point.</param>
/// <param name="Channels">Number of channels.</param>
/// <param name="Notes">What is to be said of it.</param>
public sealed record SlipPrint(string Track, string? File, int? BitDepth, int? Channels, IReadOnlyList<string> Notes);

/// <summary>The printed tracks.</summary>
/// <param name="SampleRate">Their rate in Hz.</param>
/// <param name="LengthSamples">Their length, which is one for all.</param>
/// <param name="Law">How their crossfades go.</param>
/// <param name="Tracks">All tracks, printed or not.</param>
/// <param name="Bytes">Bytes of the prints.</param>
public sealed record SlipPrints(int SampleRate, long LengthSamples, [property: JsonConverter(typeof(JsonStringEnumConverter))] CrossfadeLaw Law, IReadOnlyList<SlipPrint> Tracks, long Bytes);

/// <summary>The list of what is in a bundle and what it needs.</summary>
public sealed record PackingSlip
{
    private static readonly JsonSerializerOptions Json = new()
    {
        WriteIndented = true,
        PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>What kind of file this is, for programs.</summary>
    public string Format { get; } = "neat-crate packing slip 1";

    /// <summary>Name of the session.</summary>
    public required string Session { get; init; }

    /// <summary>Identity of the session, where it has one.</summary>
    public required Guid? SessionId { get; init; }

    /// <summary>When it was packed, in local time.</summary>
    public required DateTimeOffset PackedAt { get; init; }

    /// <summary>Whom it is for.</summary>
    public string? Recipient { get; init; }

    /// <summary>What the sender wants to say.</summary>
    public string? Note { get; init; }

    /// <summary>Path of the current document from the bag's folder.</summary>
    public required string? Document { get; init; }

    /// <summary>Sample rate of the session in Hz.</summary>
    public int? SampleRate { get; init; }

    /// <summary>Bit depth of the session.</summary>
    public int? BitDepth { get; init; }

    /// <summary>Media files in the bundle.</summary>
    public required IReadOnlyList<SlipFile> Files { get; init; }

    /// <summary>Number and bytes of other files.</summary>
    public required int OtherFiles { get; init; }

    /// <summary>What is packed as FLAC; null where sound goes as it is.</summary>
    public SlipPacked? Packed { get; init; }

    /// <summary>The printed tracks; null where none go along.</summary>
    public SlipPrints? Printed { get; init; }

    /// <summary>Files that stood outside the session and came in, and files that were renamed.</summary>
    public required IReadOnlyList<SlipMove> Moves { get; init; }

    /// <summary>What the document points at and the bundle does not hold.</summary>
    public required IReadOnlyList<string> NotInside { get; init; }

    /// <summary>What was left out on purpose.</summary>
    public required IReadOnlyList<string> LeftOut { get; init; }

    /// <summary>The slip for programs.</summary>
    public byte[] ToJson() => [.. JsonSerializer.SerializeToUtf8Bytes(this, Json), (byte)'\n'];

    /// <summary>The slip as a page, to be read in a browser and printed.</summary>
    public byte[] ToHtml() => SlipPage.Of(this);

    /// <summary>The slip for people.</summary>
    public byte[] ToText()
    {
        var text = new StringBuilder();
        void Line(string line) => text.Append(line).Append('\n');
        Line($"PACKING SLIP   {Session}");
        Line(new string('=', 15 + Session.Length));
        Line(string.Create(CultureInfo.InvariantCulture, $"Packed     {PackedAt:yyyy-MM-dd HH:mm}"));
        if (!string.IsNullOrWhiteSpace(Recipient))
        {
            Line($"For        {Recipient}");
        }
        if (SampleRate is { } rate)
        {
            Line(string.Create(CultureInfo.InvariantCulture, $"Session    {RateText.Of(rate)}, {BitDepth} bit"));
        }
        Line($"Inside     {ByteText.Count(Files.Count, "media file")}, {ByteText.Of(Files.Sum(f => f.Bytes))}; {ByteText.Count(OtherFiles, "other file")}");
        Line($"Open       {Document ?? "(no document that could be read)"}");
        if (!string.IsNullOrWhiteSpace(Note))
        {
            Line("");
            Line(Note.Trim());
        }
        Section(text, NotInside.Count == 0 ? "Nothing that the document points at is missing." : "NOT INSIDE: these will be silent", NotInside);
        Section(text, "Left out on purpose", LeftOut);
        Section(text, "Brought in or renamed; the document in this bundle points at the new place", [.. Moves.Select(m => $"{m.From}  ->  {m.To}  ({m.Why})")]);
        if (Printed is { } prints)
        {
            Section(text, $"Tracks printed as one file each, all {DurationText.OfTenths(prints.LengthSamples / (double)prints.SampleRate)} long from the start of the session; crossfades of {PrintedFolder.LawInWords(prints.Law)}", [.. prints.Tracks.Where(t => t.File is not null).Select(Describe)]);
            Section(text, "NOT PRINTED", [.. prints.Tracks.Where(t => t.File is null).Select(Describe)]);
        }
        Section(text, "Media files", [.. Files.Select(Describe)]);
        Line("");
        Line("To check that everything arrived: unpack, open a terminal in the folder that holds bagit.txt, and run");
        Line($"  sha512sum -c {BagTags.ManifestName}");
        if (Packed is { } packed)
        {
            Line("");
            Line(PackedInWords(packed));
            Line($"  sh {OriginalSounds.ScriptName}");
        }
        return Encoding.UTF8.GetBytes(text.ToString());
    }

    internal static string PackedInWords(SlipPacked packed) =>
        $"{ByteText.Count(packed.Files, "sound file")} {(packed.Files == 1 ? "is" : "are")} packed as FLAC without loss, {ByteText.Of(packed.Bytes)} before; the document points at them as they are here. To bring them back bit for bit, with all that they held:";

    private static void Section(StringBuilder text, string title, IReadOnlyList<string> lines)
    {
        if (lines.Count == 0 && !title.EndsWith('.'))
        {
            return;
        }
        text.Append('\n').Append(title).Append('\n');
        foreach (var line in lines)
        {
            text.Append("  ").Append(line).Append('\n');
        }
    }

    internal static string Describe(SlipPrint print) => (print.File ?? print.Track) + (print.Notes.Count == 0 ? "" : $"  ({string.Join("; ", print.Notes)})");

    internal static string Describe(SlipFile file)
    {
        var sound = file.SampleRate is { } rate && file.LengthSamples is { } length
            ? string.Create(CultureInfo.InvariantCulture, $"{DurationText.Of(length / (double)rate)}  {RateText.Of(rate)}  {file.BitDepth} bit  {file.Channels} ch  ")
            : "";
        return $"{file.Path}  {ByteText.Of(file.Bytes)}  {sound}{file.Use}";
    }

    /// <summary>What a use is called on the slip.</summary>
    public static string UseText(InventoryFile file)
    {
        ArgumentNullException.ThrowIfNull(file);
        return file.Use switch
        {
            FileUse.Placed => file.PlacedTimes == 1 ? "placed once" : $"placed {file.PlacedTimes} times",
            FileUse.Named => file.NamedTimes == 1 ? "named once" : $"named {file.NamedTimes} times",
            FileUse.NamedNowhere => "named nowhere",
            FileUse.OlderOnly => "in older versions only",
            FileUse.Listed => "listed, not placed",
            FileUse.Stray => "stray",
            FileUse.Bounce => "bounce",
            FileUse.SetAside => "set aside",
            _ => "use not known",
        };
    }
}
