using System.Collections.Immutable;
using System.Globalization;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Printing;

/// <summary>How tracks are to be printed.</summary>
/// <param name="Law">How crossfades go.</param>
/// <param name="ConvertsRates">Whether files of other rates are converted to that of the session; otherwise tracks that play one are not printed.</param>
public sealed record PrintChoice(CrossfadeLaw Law = CrossfadeLaw.EqualGain, bool ConvertsRates = false);

/// <summary>A track that is printed, or is not.</summary>
/// <param name="Name">Its name.</param>
/// <param name="FileName">Name of the print; null where there is none.</param>
/// <param name="Print">The print; null where there is none.</param>
/// <param name="Notes">What is to be said of it.</param>
public sealed record TrackPrint(string Name, string? FileName, PrintedTrack? Print, ImmutableArray<PrintNote> Notes)
{
    /// <summary>True where it belongs to what sounds in the session, and cannot be printed truly.</summary>
    public bool IsRefused => Notes.Any(n => n.Prevents) && !Notes.Any(n => n.LeavesOut);
}

/// <summary>The tracks of a session, printed for somebody whose program cannot read its document.</summary>
/// <param name="SampleRate">Rate of all prints, in Hz.</param>
/// <param name="LengthSamples">Length of all prints, in samples.</param>
/// <param name="Tracks">All tracks in document order.</param>
/// <param name="Tempo">Tempo, time signature and markers.</param>
public sealed record SessionPrint(int SampleRate, long LengthSamples, ImmutableArray<TrackPrint> Tracks, TempoMap Tempo)
{
    /// <summary>The prints.</summary>
    public IEnumerable<TrackPrint> Printed => Tracks.Where(t => t.Print is not null);
}

/// <summary>
/// Prints every audio track as one continuous file from the start of the session, all of one length: sample for sample what its clips place. What cannot be
/// printed truly is not printed, and named.
/// </summary>
public static class TrackPrinter
{
    private static readonly Rational Half = new(1, 2);

    /// <summary>Lays out what would be printed. Nothing is read but the document.</summary>
    /// <param name="inventory">The session.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="choice">How.</param>
    /// <param name="now">Local time, which the prints carry.</param>
    /// <returns>Null where the session has no document that tells what is placed.</returns>
    /// <exception cref="FaultException">The document was saved since the session was looked at (<see cref="FaultCode.SourceChanged"/>), or cannot be read.</exception>
    public static SessionPrint? Of(SessionInventory inventory, IReadOnlyList<Shelf> shelves, PrintChoice choice, DateTimeOffset now)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(choice);
        if (inventory is not { Document: not null, Current: { Problem: null } current } || DocumentFormats.Of(Path.GetFileName(current.Path)) is not OpenTimeline)
        {
            return null;
        }
        var bytes = ReadableFile.ReadAll(current.Path, DocumentFormats.MostBytes);
        return ByteIdentity.Of(bytes) == current.Identity
            ? new Printing(inventory, current, shelves, choice, now).Of(SessionDocument.Parse(bytes))
            : throw new FaultException(FaultCode.SourceChanged, current.Path);
    }

    /// <summary>The nearest whole sample; of two that are as near the later one.</summary>
    internal static long Nearest(Rational seconds, int rate) => ((seconds * Rational.FromInt64(rate)) + Half).Floor();

    private sealed class Printing(SessionInventory inventory, InventoryDocument document, IReadOnlyList<Shelf> shelves, PrintChoice choice, DateTimeOffset now)
    {
        private readonly Dictionary<string, InventoryFile> _files = inventory.Files.ToDictionary(f => f.Path, StringComparer.Ordinal);
        private readonly Dictionary<string, InventoryFile?> _byUrl = new(StringComparer.Ordinal);
        private readonly FreeNames _names = new([]);
        private int _rate;
        private int? _bits;

        public SessionPrint Of(SessionDocument read)
        {
            var (tracks, markers) = new TimelineReader(url => FileOf(url)?.Header is { LengthSamples: { } samples } header ? new Rational(samples, header.SampleRate) : null).Read(read);
            var played = tracks.Where(t => t.IsSound).SelectMany(t => t.Clips).Select(c => c.Url is null ? null : FileOf(c.Url)?.Header).OfType<MediaHeader>().ToList();
            // Where the document does not say it, what most clips have.
            _rate = read.Settings?.SampleRate ?? (played.Count == 0 ? new SessionSettings().SampleRate : played.GroupBy(h => h.SampleRate).OrderByDescending(g => g.Count()).ThenBy(g => g.Key).First().Key);
            _bits = read.Settings?.BitDepth ?? (played.Select(WholeBits).Distinct().ToList() is [var only] ? only : null);
            var length = tracks.Where(t => t.IsSound && t.Enabled).SelectMany(t => t.Clips.Select(c => c.At + c.Length).Append(t.End ?? Rational.Zero))
                .Select(e => Nearest(e, _rate)).DefaultIfEmpty().Max();
            return new SessionPrint(
                _rate,
                length,
                [.. tracks.Select((t, n) => Print(t, n + 1, length, read.GlobalStart))],
                new TempoMap(read.Name, read.Settings?.Tempo, read.Settings?.TimeSignature, [.. markers.Select(m => new TimelineMarker(m.At.ToDouble(), m.Name))]));
        }

        private InventoryFile? FileOf(string url)
        {
            if (!_byUrl.TryGetValue(url, out var file))
            {
                _byUrl[url] = file = _files.GetValueOrDefault(ReferencedPath.Of(url, document, inventory.Folder, shelves));
            }
            return file;
        }

        private TrackPrint Print(LaidTrack track, int number, long length, ExactTime start)
        {
            PrintNoteKind? leftOut = !track.IsSound ? PrintNoteKind.Pictures : !track.Enabled ? PrintNoteKind.MutedTrack : track.Clips.IsEmpty && !track.Notes.Any(n => n.Prevents) ? PrintNoteKind.Empty : null;
            if (leftOut is { } why)
            {
                return new TrackPrint(track.Name, null, null, [new PrintNote(why)]);
            }
            var notes = track.Notes.ToList();
            var (laid, headers) = (new List<(PrintedPiece Piece, int Layer)>(), new Dictionary<string, MediaHeader>(StringComparer.Ordinal));
            foreach (var clip in track.Clips)
            {
                if (PieceOf(clip, length, notes) is var (piece, header))
                {
                    laid.Add((piece, clip.Layer));
                    headers[piece.Source.Path] = header;
                }
            }
            laid = [.. laid.OrderBy(l => l.Piece.At)];
            ImmutableArray<PrintedPiece> pieces = [.. laid.Select(l => l.Piece)];
            var channels = headers.Values.Select(h => h.Channels).DefaultIfEmpty(1).Max();
            notes.AddRange(headers.Where(h => h.Value.Channels != channels && h.Value.Channels != 1).Select(h => new PrintNote(PrintNoteKind.OtherChannels, Path.GetFileName(h.Key))));
            if (notes.Any(n => n.Prevents))
            {
                return new TrackPrint(track.Name, null, null, [.. notes.Distinct()]);
            }
            var isWhole = _bits is 16 or 24 && headers.Values.All(h => h.SampleRate == _rate && WholeBits(h) == _bits) && !Adds(laid)
                && (choice.Law == CrossfadeLaw.EqualGain || pieces.All(p => p.Fades.IsEmpty));
            var format = new PcmFormat(_rate, channels, isWhole ? _bits!.Value : 32);
            if (!isWhole)
            {
                notes.AddRange(headers.Where(h => WholeBits(h.Value) == 32).Select(h => new PrintNote(PrintNoteKind.Rounded, Path.GetFileName(h.Key))));
            }
            notes.AddRange(headers.Where(h => h.Value.SampleRate != _rate).Select(h => new PrintNote(PrintNoteKind.Converted, Path.GetFileName(h.Key))));
            var dry = notes.Any(n => n.Kind == PrintNoteKind.Effect) ? " (without effects)" : "";
            var name = _names.ClaimAsItIs(ContentsReader.Travelling(string.Create(CultureInfo.InvariantCulture, $"{number:00} {(track.Name.Trim().Length == 0 ? "untitled" : track.Name)}{dry}.wav")));
            var print = new PrintedTrack(format, length, Broadcast(track, format, start), choice.Law, pieces)
            {
                ConvertedBytes = headers.Values.Where(h => h.SampleRate != _rate && h.LengthSamples is not null).Select(h => Resampler.LengthAt(h.LengthSamples!.Value, h.SampleRate, _rate) * h.Channels * 4).DefaultIfEmpty().Max(),
            };
            return new TrackPrint(track.Name, name, print, [.. notes.Distinct()]);
        }

        private (PrintedPiece Piece, MediaHeader Header)? PieceOf(LaidClip clip, long length, List<PrintNote> notes)
        {
            void Note(PrintNoteKind kind, string name, long from, long to) => notes.Add(new PrintNote(kind, name, from / (double)_rate, (to - from) / (double)_rate));
            var (at, end) = (Math.Max(0, Nearest(clip.At, _rate)), Math.Min(length, Nearest(clip.At + clip.Length, _rate)));
            if (end <= at)
            {
                return null;
            }
            var file = clip.Url is null ? null : FileOf(clip.Url);
            var name = file?.Name ?? clip.Name;
            if (clip.Url is not null && MediaFiles.KindOf(clip.Url) is not (null or MediaKind.Audio))
            {
                notes.Add(new PrintNote(PrintNoteKind.NoSound, name));
                return null;
            }
            if (file is not { Standing: Standing.Inside or Standing.Outside, Header: { LengthSamples: { } samples } header, ModifiedUtc: { } modified })
            {
                Note(PrintNoteKind.Silent, name, at, end);
                return null;
            }
            if (header.SampleRate != _rate && !choice.ConvertsRates)
            {
                notes.Add(new PrintNote(PrintNoteKind.OtherRate, name));
                return null;
            }
            if (StartOf(clip, header, samples) is not { } start)
            {
                notes.Add(new PrintNote(PrintNoteKind.StartUnknown, name));
                return null;
            }
            var there = Resampler.LengthAt(samples, header.SampleRate, _rate);
            var source = Nearest(clip.SourceAt - start, _rate);
            var (from, to) = (Math.Clamp(at - source, at, end), Math.Clamp(at - source + there, at, end));
            // A crossfade may reach for what a file does not hold, and so may a clip.
            if (from > at)
            {
                Note(PrintNoteKind.PastEnd, name, at, from);
            }
            if (to < end)
            {
                Note(PrintNoteKind.PastEnd, name, Math.Max(from, to), end);
            }
            if (to <= from)
            {
                return null;
            }
            var fades = clip.Fades.Select(f => new PrintedFade(Nearest(f.Start, _rate), Nearest(f.End, _rate), f.Rises)).Where(f => f.Start < to && f.End > from).ToImmutableArray();
            return (new PrintedPiece(from, to - from, new WholeFile(RealPath.Of(file.Path), new FileState(file.Bytes, modified)), source + from - at) { Fades = fades }, header);
        }

        /// <summary>
        /// Where the file's first sample stands in the time of its clip. Where the document does not say it, times count from the first sample, as is common
        /// practice; of a file that itself counts from midnight they may count from there (EBU Tech 3285), unless only one of the two lies within the file.
        /// </summary>
        private static Rational? StartOf(LaidClip clip, MediaHeader header, long samples)
        {
            if (clip.Available is { } said)
            {
                return said;
            }
            if (header.Broadcast?.TimeReference is not > 0 || clip.Source is not { } range || range.Start.Seconds == Rational.Zero)
            {
                return Rational.Zero;
            }
            var (reference, length) = (Rational.FromUInt64(header.Broadcast.TimeReference) / Rational.FromInt64(header.SampleRate), new Rational(samples, header.SampleRate));
            bool FitsFrom(Rational first) => range.Start.Seconds >= first && range.Start.Seconds + range.Duration.Seconds <= first + length;
            return (FitsFrom(Rational.Zero), FitsFrom(reference)) switch
            {
                (true, false) => Rational.Zero,
                (false, true) => reference,
                _ => null,
            };
        }

        /// <summary>True where more plays at once than the two clips of a crossfade: what is added then may be more than integers hold.</summary>
        private static bool Adds(List<(PrintedPiece Piece, int Layer)> laid)
        {
            var latest = new Dictionary<int, (long Last, long Before)>();
            foreach (var (piece, layer) in laid)
            {
                if (latest.Any(l => l.Key == layer ? l.Value.Before > piece.At : l.Value.Last > piece.At))
                {
                    return true;
                }
                var (last, _) = latest.GetValueOrDefault(layer);
                latest[layer] = (Math.Max(last, piece.End), Math.Min(last, piece.End));
            }
            return false;
        }

        /// <summary>Bits of a file of integers that come back exactly; null for one that holds none.</summary>
        private static int? WholeBits(MediaHeader header) =>
            header.Encoding == SampleEncoding.SignedInteger || (header.Container.EndsWith("FLAC", StringComparison.Ordinal) && header.BitsPerSample > 0) ? header.BitsPerSample : null;

        private BroadcastExtension Broadcast(LaidTrack track, PcmFormat format, ExactTime start)
        {
            var mode = format.Channels switch { 1 => "mono", 2 => "stereo", _ => "multi-channel" };
            return new BroadcastExtension(
                $"{Path.GetFileName(inventory.Folder)}: {track.Name}",
                "Neat Crate",
                "",
                now.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                now.ToString("HH:mm:ss", CultureInfo.InvariantCulture),
                (ulong)Math.Max(0, Nearest(start.Seconds, _rate)),
                CodingHistory: string.Create(CultureInfo.InvariantCulture, $"A=PCM,F={_rate},W={format.BitsPerSample},M={mode},T=printed from {Path.GetFileName(document.Path)}\r\n"));
        }
    }
}
