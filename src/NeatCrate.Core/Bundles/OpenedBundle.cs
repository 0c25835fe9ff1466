using System.Collections.Immutable;
using System.Text.Json;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Media;
using NeatCrate.Core.Printing;

namespace NeatCrate.Core.Bundles;

/// <summary>What of a track whoever opens a bundle hears.</summary>
public enum TrackOpening
{
    /// <summary>Everything that is placed on it.</summary>
    Sounds,

    /// <summary>Some of it: other files are not in the bundle, or need an instrument.</summary>
    InPart,

    /// <summary>Nothing: none of its files is in the bundle, or each needs an instrument.</summary>
    Silent,

    /// <summary>Nothing is placed on it, or it is switched off.</summary>
    Quiet,
}

/// <summary>A track as whoever opens a bundle finds it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Opening">What is heard of it.</param>
/// <param name="Lacks">Files that are not in the bundle, as the document names them.</param>
/// <param name="ForInstruments">Number of files that are in the bundle and are heard through an instrument alone: MIDI, and files of samplers.</param>
/// <param name="Effects">Effects on it that they do not have.</param>
public sealed record OpenedTrack(string Name, TrackOpening Opening, ImmutableArray<string> Lacks, int ForInstruments, ImmutableArray<string> Effects);

/// <summary>
/// A bundle as whoever gets it finds it: on a computer that has nothing of ours, no shelf and no catalogue. It is read from what was handed over, and from
/// nothing else, so that what is fine here and silent there shows before it leaves.
/// </summary>
public sealed record OpenedBundle
{
    /// <summary>Bits that pass in a second over the line by which a time is told: a common one.</summary>
    public const long LineBitsPerSecond = 20_000_000;

    private const long MostSlipBytes = 64 * 1024 * 1024;

    /// <summary>Whom it is for, as the slip says; null where it says nobody.</summary>
    public required string? Recipient { get; init; }

    /// <summary>Path of the document; null where there is none that could be read.</summary>
    public required string? Document { get; init; }

    /// <summary>True where their program reads it.</summary>
    public required bool ReadsDocument { get; init; }

    /// <summary>Its tracks; empty where the document tells nothing of tracks.</summary>
    public required ImmutableArray<OpenedTrack> Tracks { get; init; }

    /// <summary>Names of the printed tracks.</summary>
    public required ImmutableArray<string> Prints { get; init; }

    /// <summary>Paths that the bag's manifest names and that are not there.</summary>
    public required ImmutableArray<string> NotThere { get; init; }

    /// <summary>The files that are handed over.</summary>
    public required ImmutableArray<HandedOver> HandedOver { get; init; }

    /// <summary>Those of them that are too large to reach the recipient.</summary>
    public required ImmutableArray<HandedOver> TooLarge { get; init; }

    /// <summary>Seconds that all of them take over a common line.</summary>
    public required double TransferSeconds { get; init; }

    /// <summary>Opens a bundle.</summary>
    /// <param name="bag">The bundle.</param>
    /// <param name="known">What is known of somebody, by name.</param>
    /// <exception cref="FaultException">It is damaged.</exception>
    public static OpenedBundle Of(PackedBag bag, Func<string?, Recipient?> known)
    {
        ArgumentNullException.ThrowIfNull(bag);
        ArgumentNullException.ThrowIfNull(known);
        var (name, path) = Slip(bag);
        var recipient = known(name);
        var opened = new OpenedBundle
        {
            Recipient = name,
            Document = path is not null && bag.Files.ContainsKey(path) ? path : null,
            ReadsDocument = recipient?.ReadsDocument ?? true,
            Tracks = [],
            Prints = [.. bag.Files.Keys.Where(IsPrint).Select(p => Path.GetFileName(p)!).Order(StringComparer.Ordinal)],
            NotThere = [.. Manifested(bag).Where(p => !bag.Files.ContainsKey(p)).Order(StringComparer.Ordinal)],
            HandedOver = bag.HandedOver,
            TransferSeconds = bag.HandedOver.Sum(h => h.Bytes) * 8.0 / LineBitsPerSecond,
            TooLarge = recipient?.LimitBytes is { } limit ? [.. bag.HandedOver.Where(h => h.Bytes > limit)] : [],
        };
        return opened.Document is not null && DocumentFormats.Of(Path.GetFileName(opened.Document)) is OpenTimeline format && bag.Read(opened.Document, DocumentFormats.MostBytes) is { } bytes
            ? opened with { Tracks = [.. TracksOf(format, bytes, "/" + Path.GetDirectoryName(opened.Document), bag, recipient)] }
            : opened;
    }

    private static bool IsPrint(string path) =>
        path.EndsWith(".wav", StringComparison.OrdinalIgnoreCase) && path.Split('/') is ["data", var folder, _] && folder.StartsWith(PrintedFolder.Name, StringComparison.Ordinal);

    private static (string? Recipient, string? Document) Slip(PackedBag bag)
    {
        if (bag.Read("packing-slip.json", MostSlipBytes) is not { } json)
        {
            return default;
        }
        try
        {
            using var slip = JsonDocument.Parse(json);
            string? Text(string field) => slip.RootElement.TryGetProperty(field, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString() : null;
            return (Text("recipient"), Text("document"));
        }
        catch (JsonException e)
        {
            throw new FaultException(new Fault(FaultCode.ArchiveEntryDamaged) { Path = "packing-slip.json", Name = "packing-slip.json" }, e);
        }
    }

    private static IEnumerable<string> Manifested(PackedBag bag) => BagTags.Paths(bag.Read(BagTags.ManifestName, MostSlipBytes) ?? []);

    private static string NameOf(MediaReference reference) => Path.GetFileName(Uri.UnescapeDataString(reference.TargetUrl));

    private static IEnumerable<OpenedTrack> TracksOf(OpenTimeline format, byte[] bytes, string folder, PackedBag bag, Recipient? recipient)
    {
        // Where a pointer may mean several places, one of them is enough; an absolute one leads to a place that they do not have.
        bool IsIn(MediaReference reference) => format.Candidates(reference.TargetUrl, folder).Any(p => bag.Files.ContainsKey(p.TrimStart('/')));
        var laid = new TimelineReader(_ => null).Read(SessionDocument.Parse(bytes)).Tracks;
        var placed = format.Read(bytes).References.Where(r => r.Placed).ToLookup(r => r.Track ?? "", StringComparer.Ordinal);
        foreach (var track in laid)
        {
            var files = placed[track.Name].DistinctBy(r => r.TargetUrl).ToList();
            var lacks = files.Where(r => !IsIn(r)).Select(NameOf).Order(StringComparer.Ordinal).ToImmutableArray();
            // Notes, and what plays samples, are heard through an instrument: nothing tells whether that is theirs.
            var sounding = files.Count(r => IsIn(r) && MediaFiles.KindOf(NameOf(r)) is not (MediaKind.Midi or MediaKind.Instrument));
            var effects = track.Notes.Where(n => n is { Kind: PrintNoteKind.Effect, Name: not null }).Select(n => n.Name!).Distinct(StringComparer.OrdinalIgnoreCase)
                .Where(e => !(recipient?.HasNamed(e) ?? false)).Order(StringComparer.OrdinalIgnoreCase).ToImmutableArray();
            yield return new OpenedTrack(
                track.Name,
                !track.Enabled || files.Count == 0 ? TrackOpening.Quiet
                    : sounding == 0 ? TrackOpening.Silent
                    : sounding < files.Count ? TrackOpening.InPart
                    : TrackOpening.Sounds,
                lacks,
                files.Count - lacks.Length - sounding,
                effects);
        }
    }
}
