using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Json;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Record;

/// <summary>Where a take is to be placed.</summary>
/// <param name="Track">Name of the track; null for the take's own.</param>
/// <param name="Seconds">Seconds from the start of the timeline; null for its time reference (EBU Tech 3285).</param>
public sealed record TakePlace(string? Track, double? Seconds);

/// <summary>What is to change about a take. What is null stays as it is.</summary>
/// <param name="Path">Absolute path of the recording.</param>
/// <param name="IsKeeper">Whether it is marked as the one to keep.</param>
/// <param name="Note">The note on it; an empty one takes the note away.</param>
/// <param name="Place">Where it is placed; it is taken off where it was.</param>
/// <param name="TakeOff">True to take it off its track; it stays in the session.</param>
public sealed record TakeChange(string Path, bool? IsKeeper = null, string? Note = null, TakePlace? Place = null, bool TakeOff = false);

/// <summary>Plans what an engineer writes into the take log: keepers, notes, which take is placed where. All of it stands in the session's document.</summary>
public static class TakeLogPlanner
{
    /// <summary>Longest note, in characters.</summary>
    public const int MostNote = 1000;

    /// <summary>Makes the plan.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="growing">Paths of files that something writes at this moment.</param>
    /// <param name="changes">What is to change, each take once.</param>
    public static Plan Plan(Guid sessionId, SessionInventory inventory, IReadOnlyList<Shelf> shelves, IReadOnlySet<string> growing, IReadOnlyList<TakeChange> changes)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(growing);
        ArgumentNullException.ThrowIfNull(changes);
        if (inventory.Current is null || inventory.Document is null)
        {
            return Make(sessionId, inventory, "Nothing in the take log can be changed.", null, [inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder }]);
        }
        var log = new Log(inventory, shelves, growing);
        var step = log.Write(changes);
        return Make(sessionId, inventory, log.Sentence, step, log.Refusals);
    }

    private static Plan Make(Guid sessionId, SessionInventory inventory, string sentence, ReplaceDocumentStep? step, List<Fault> refusals) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.TakeLog,
        SessionId = sessionId,
        Sentence = sentence,
        WritableRoots = [inventory.Folder],
        Steps = step is null || refusals.Count > 0 ? [] : [step],
        Refusals = [.. refusals],
    };

    /// <summary>The document as it is written on.</summary>
    private sealed class Log
    {
        private readonly SessionInventory _inventory;
        private readonly IReadOnlyList<Shelf> _shelves;
        private readonly IReadOnlySet<string> _growing;
        private readonly InventoryDocument _current;
        private readonly byte[] _before;
        private readonly ISessionNotes _document;
        private readonly Dictionary<string, Take> _takes;
        private readonly Dictionary<string, string> _paths = new(StringComparer.Ordinal);
        private int _kept;
        private int _unkept;
        private int _noted;
        private int _placed;
        private int _moved;
        private int _off;
        private int _listed;

        public Log(SessionInventory inventory, IReadOnlyList<Shelf> shelves, IReadOnlySet<string> growing)
        {
            (_inventory, _shelves, _growing, _current) = (inventory, shelves, growing, inventory.Current!);
            _before = ReadableFile.ReadAll(_current.Path, DocumentFormats.MostBytes);
            _document = DocumentFormats.Read<ISessionNotes>(_current.Path, _before);
            _takes = TakeFinder.Find(inventory).ToDictionary(t => t.File.Path, StringComparer.Ordinal);
        }

        public List<Fault> Refusals { get; } = [];

        public string Sentence
        {
            get
            {
                string[] parts =
                [
                    .. Part(_kept, "mark", "keeper"), .. Part(_unkept, "unmark", "keeper"), .. Part(_noted, "write", "note"),
                    .. Part(_placed, "place", "take"), .. Part(_moved, "move", "take"), .. _off == 0 ? [] : new[] { $"take {ByteText.Count(_off, "take")} off {(_off == 1 ? "its track" : "their tracks")}" },
                    .. Part(_listed, "add", "take", " to the session"),
                ];
                return parts.Length == 0 ? "Change nothing in the take log." : $"{char.ToUpperInvariant(parts[0][0])}{string.Join("; ", parts)[1..]}; no sound is changed.";
            }
        }

        public ReplaceDocumentStep Write(IReadOnlyList<TakeChange> changes)
        {
            var known = changes.Where(IsTake).ToList();
            // What is moved is off before anything is placed, so that takes can change places.
            var wasPlaced = known.Where(c => c.TakeOff || c.Place is not null).Where(TakeOff).Select(c => c.Path).ToHashSet(StringComparer.Ordinal);
            foreach (var change in known)
            {
                Label(change);
            }
            foreach (var change in known.Where(c => c.Place is not null).OrderBy(c => StartOf(c) ?? Rational.Zero))
            {
                Place(change, wasPlaced.Contains(change.Path));
            }
            _off = known.Count(c => c.Place is null && wasPlaced.Contains(c.Path));
            var after = _document.ToBytes();
            if (Refusals.Count == 0 && after.AsSpan().SequenceEqual(_before))
            {
                Refusals.Add(new Fault(FaultCode.TakeLogUnchanged));
            }
            return new ReplaceDocumentStep(_current.Path, $"{ByteText.Count(known.Count, "take")} in the take log", after, ByteIdentity.Of(_before));
        }

        private static string[] Part(int count, string verb, string noun, string more = "") => count == 0 ? [] : [$"{verb} {ByteText.Count(count, noun)}{more}"];

        private bool IsTake(TakeChange change)
        {
            if (!_takes.ContainsKey(change.Path))
            {
                Refusals.Add(new Fault(FaultCode.NoTake) { Path = change.Path });
                return false;
            }
            if (_growing.Contains(change.Path))
            {
                Refusals.Add(new Fault(FaultCode.StillGrowing) { Path = change.Path });
                return false;
            }
            return true;
        }

        private bool IsOf(string url, string path)
        {
            if (!_paths.TryGetValue(url, out var known))
            {
                _paths[url] = known = ReferencedPath.Of(url, _current, _inventory.Folder, _shelves);
            }
            return known == path;
        }

        private bool TakeOff(TakeChange change)
        {
            try
            {
                var off = _document.TakeClipsOff(url => IsOf(url, change.Path));
                if (off < _document.References.Count(r => r.Placed && IsOf(r.TargetUrl, change.Path)))
                {
                    Refusals.Add(new Fault(FaultCode.ClipInStack) { Path = change.Path });
                }
                return off > 0;
            }
            catch (CannotPlaceException e)
            {
                Refusals.Add(e.Fault);
                return false;
            }
        }

        /// <summary>The reference on the session's list; a take that is on none gets there, so that it stays in the session whatever becomes of its clip.</summary>
        private void Label(TakeChange change)
        {
            var take = _takes[change.Path];
            var label = take.File.ListedTake ?? new TakeLabel(take.Track, take.Number, take.Pass);
            var wished = label with
            {
                IsKeeper = change.IsKeeper ?? label.IsKeeper,
                Note = change.Note is { } note ? (note.Trim().Length == 0 ? null : note.Trim()) : label.Note,
            };
            _kept += !label.IsKeeper && wished.IsKeeper ? 1 : 0;
            _unkept += label.IsKeeper && !wished.IsKeeper ? 1 : 0;
            _noted += label.Note != wished.Note ? 1 : 0;
            var listed = _document.ListedUrls.ToList().FindIndex(url => url.Length > 0 && IsOf(url, change.Path));
            if (listed >= 0)
            {
                if (wished != label || take.File.ListedTake is not null)
                {
                    _document.Label(listed, wished);
                }
                return;
            }
            _document.List(Url(change.Path), take.File.Header?.LengthSamples, take.File.Header?.SampleRate ?? 1, wished);
            _listed += take.IsOnNoList ? 1 : 0;
        }

        private Rational? StartOf(TakeChange change)
        {
            var take = _takes[change.Path];
            return change.Place?.Seconds is { } seconds ? Rational.FromDouble(seconds)
                : take is { StartSamples: { } samples, File.Header: { } header } ? new Rational(samples, header.SampleRate)
                : null;
        }

        private void Place(TakeChange change, bool isMoved)
        {
            var take = _takes[change.Path];
            if ((change.Place!.Track ?? take.Track) is not { } track)
            {
                Refusals.Add(new Fault(FaultCode.TakeWithoutTrack) { Path = change.Path });
            }
            else if (StartOf(change) is not { } start)
            {
                Refusals.Add(new Fault(FaultCode.TakeWithoutTime) { Path = change.Path });
            }
            else if (start < Rational.Zero)
            {
                Refusals.Add(new Fault(FaultCode.TakeBeforeStart) { Path = change.Path });
            }
            else if (take.File.Header is not { LengthSamples: { } length } header)
            {
                Refusals.Add(new Fault(FaultCode.LengthUnknown) { Name = take.File.Name });
            }
            else
            {
                TryPlace(new ClipToPlace(Path.GetFileNameWithoutExtension(take.File.Name), Url(change.Path), header.SampleRate, length, 0, length), track, new ExactTime(start), isMoved);
            }
        }

        private void TryPlace(ClipToPlace clip, string track, ExactTime at, bool isMoved)
        {
            try
            {
                if (!_document.Tracks.Contains(track) && _document.TakesTracks)
                {
                    _document.AddTrack(track);
                }
                _document.PlaceClip(track, clip, at);
                _placed += isMoved ? 0 : 1;
                _moved += isMoved ? 1 : 0;
            }
            catch (CannotPlaceException e)
            {
                Refusals.Add(e.Fault);
            }
        }

        private string Url(string path) => MediaUrl.From(path, Path.GetDirectoryName(_current.Path)!);
    }
}
