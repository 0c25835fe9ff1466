using NeatCrate.Core.Arrivals;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.CopyIn;

/// <summary>A file that is to be taken into a session.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Name">The name that it is to have; mostly its own.</param>
public sealed record ImportItem(string Path, string Name);

/// <summary>What is to be taken into a session, and how.</summary>
/// <param name="SessionId">The session.</param>
/// <param name="Inventory">Its inventory.</param>
/// <param name="Items">The files.</param>
/// <param name="Shelves">All known shelves.</param>
/// <param name="Identities">Tells which files are the same.</param>
/// <param name="Headers">Headers that were read before.</param>
public sealed record ImportRequest(
    Guid SessionId, SessionInventory Inventory, IReadOnlyList<ImportItem> Items, IReadOnlyList<Shelf> Shelves, IIdentities Identities, HeaderCache Headers)
{
    /// <summary>True for pointing at files where they stand instead of copying them, which is a risk.</summary>
    public bool ByReference { get; init; }

    /// <summary>Whether sounds at another rate than the session's come in as converted copies, with their originals beside them.</summary>
    public bool Convert { get; init; }

    /// <summary>The track that they are placed on, one after the other; null for the session's list alone.</summary>
    public string? Track { get; init; }

    /// <summary>Where the first of them starts, from the start of the timeline.</summary>
    public ExactTime At { get; init; }
}

/// <summary>Plans how samples and other media are taken into a session: copied by default, on its list, and on a track where wanted.</summary>
public static class ImportPlanner
{
    private const int FloatBytes = 4;

    /// <summary>Makes the plan. Nothing is changed; files of equal size are read to tell whether they are the same.</summary>
    /// <param name="request">What is to be taken in.</param>
    /// <param name="cancel">Stops the reading.</param>
    public static Plan Plan(ImportRequest request, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(request);
        if (Refusal(request) is { } refusal)
        {
            return Make(request, "Nothing to take in.", [], [], [refusal]);
        }
        var loading = new Loading(request, cancel);
        try
        {
            loading.Load();
        }
        catch (CannotPlaceException e)
        {
            return Make(request, "Nothing to take in.", [], [], [e.Fault]);
        }
        return Make(request, loading.Sentence, loading.Steps, loading.Remarks, []);
    }

    private static Fault? Refusal(ImportRequest request)
    {
        var inventory = request.Inventory;
        if (inventory.Document is null || inventory.Current is null)
        {
            return inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder };
        }
        if (request.Items.Count == 0)
        {
            return new Fault(FaultCode.NothingChosen);
        }
        if (request.Track is not null && !inventory.Document.TakesTracks)
        {
            return new Fault(FaultCode.SeveralTimelines);
        }
        return request.Items.FirstOrDefault(i => MediaFiles.KindOf(i.Name) is null && !IsSound(i)) is { } other
            ? new Fault(FaultCode.NotMedia) { Name = other.Name }
            : null;
    }

    /// <summary>A file of a name that is not known is taken all the same when its first bytes are those of a sound.</summary>
    private static bool IsSound(ImportItem item)
    {
        try
        {
            return MediaHeaderReader.ReadFile(item.Path) is not null;
        }
        catch (FaultException)
        {
            return false;
        }
    }

    private static Plan Make(ImportRequest request, string sentence, IEnumerable<PlanStep> steps, IEnumerable<Fault> remarks, IEnumerable<Fault> refusals) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.Import,
        SessionId = request.SessionId,
        Sentence = sentence,
        WritableRoots = [request.Inventory.Folder],
        Steps = [.. steps],
        Remarks = [.. remarks],
        Refusals = [.. refusals],
    };

    /// <summary>Works out where each file goes, and what the document says then.</summary>
    private sealed class Loading
    {
        private readonly ImportRequest _request;
        private readonly string _audio;
        private readonly string _documentFolder;
        private readonly byte[] _before;
        private readonly ISessionNotes _document;
        private readonly Destinations _destinations;
        private readonly HashSet<string> _known;
        private readonly List<PlanStep> _copies = [];
        private ExactTime _at;
        private int _reused;
        private int _placed;
        private string _newTrack = "";

        public Loading(ImportRequest request, CancellationToken cancel)
        {
            var (inventory, current) = (request.Inventory, request.Inventory.Current!);
            _request = request;
            _audio = AudioFolder.In(inventory);
            _documentFolder = Path.GetDirectoryName(current.Path)!;
            _before = ReadableFile.ReadAll(current.Path, DocumentFormats.MostBytes);
            _document = DocumentFormats.Read<ISessionNotes>(current.Path, _before);
            _destinations = new Destinations(inventory, _audio, request.Identities, cancel);
            _known = _document.References.Select(r => ReferencedPath.Of(r.TargetUrl, current, inventory.Folder, request.Shelves)).ToHashSet(StringComparer.Ordinal);
            _at = request.At;
        }

        public List<Fault> Remarks { get; } = [];

        public IEnumerable<PlanStep> Steps =>
        [
            .. _copies.Count > 0 ? MissingFolders.Steps(_audio, _request.Inventory.Folder, "takes and samples") : [],
            .. _copies,
            new ReplaceDocumentStep(_request.Inventory.Current!.Path, Entry, _document.ToBytes(), ByteIdentity.Of(_before)),
        ];

        private string Entry => (_placed, _request.Track) is ( > 0, { } track) ? $"{ByteText.Count(_placed, "clip")} on '{track}'" : $"{ByteText.Count(_request.Items.Count, "file")} in the session";

        public string Sentence
        {
            get
            {
                var copies = _copies.OfType<MakeFileStep>().Where(s => s.IsCopy).ToList();
                var converted = _copies.OfType<MakeFileStep>().Where(s => !s.IsCopy).ToList();
                var parts = new List<string>
                {
                    _request.ByReference
                        ? $"Link {ByteText.Count(_request.Items.Count, "file")} where {(_request.Items.Count == 1 ? "it stands" : "they stand")}; nothing is copied"
                        : copies.Count == 0 ? "Nothing to copy" : $"Copy {ByteText.Count(copies.Count, "file")}, {ByteText.Of(copies.Sum(c => c.WritesBytes))}, into '{_request.Inventory.Layout.Audio}'",
                };
                if (converted.Count > 0)
                {
                    parts.Add($"{ByteText.Count(converted.Count, "converted copy")}, {ByteText.Of(converted.Sum(c => c.Bytes))}, beside".Replace("copys", "copies", StringComparison.Ordinal));
                }
                if (_reused > 0)
                {
                    parts.Add($"the session already has {ByteText.Count(_reused, "file")}");
                }
                parts.Add(_placed > 0 ? $"placed on {_newTrack}'{_request.Track}' from {Clock(_request.At)}" : "on the session's list");
                return string.Join("; ", parts) + "; originals untouched.";
            }
        }

        public void Load()
        {
            if (_request.Track is { } track && !_document.Tracks.Contains(track))
            {
                _document.AddTrack(track);
                _newTrack = "the new track ";
            }
            foreach (var item in _request.Items)
            {
                Load(item);
            }
        }

        private void Load(ImportItem item)
        {
            var file = Describe(item);
            if (file.Problem is not null)
            {
                Remarks.Add(new Fault(FaultCode.NoSoundToRead) { Name = item.Name, Reasons = [file.Problem] });
            }
            var path = _request.ByReference ? file.Path : Arrive(file);
            if (_request.ByReference && !ShelfPath.IsWithin(file.Path, _request.Inventory.Folder))
            {
                Remarks.Add(new Fault(FaultCode.StaysOutside) { Name = item.Name, Other = Shelf.Holding(_request.Shelves, file.Path)?.Name });
            }
            var target = file;
            if (IsAtAnotherRate(file, out var rate) && Converted(file, path, rate) is { } converted)
            {
                List(path, file.Header);
                (target, path) = (converted, converted.Path);
            }
            if (_request.Track is { } track)
            {
                Place(track, target, path);
            }
            else
            {
                List(path, target.Header);
            }
        }

        private InventoryFile Describe(ImportItem item)
        {
            var file = FileState.Of(item.Path);
            var (header, problem) = _request.Headers.Read(item.Path, file.Bytes, file.ModifiedUtc);
            return new InventoryFile
            {
                Path = item.Path,
                Standing = Standing.Outside,
                Use = FileUse.Stray,
                ShownPath = item.Name,
                BelongsInside = false,
                Bytes = file.Bytes,
                ModifiedUtc = file.ModifiedUtc,
                Header = header,
                Problem = problem,
            };
        }

        /// <summary>Where the file is in the session after the copy.</summary>
        private string Arrive(InventoryFile file)
        {
            if (ShelfPath.IsWithin(RealPath.Of(file.Path), RealPath.Of(_request.Inventory.Folder)))
            {
                _reused++;
                return file.Path;
            }
            var isNew = !_destinations.Knows(file);
            var arrival = _destinations.Add(file, file.ShownPath);
            var name = Path.GetFileName(arrival.Path);
            if (isNew && arrival.IsCopied)
            {
                _copies.Add(MakeFileStep.Copy(arrival.Path, name == file.ShownPath ? "copied in" : $"copied in, as '{name}'", RealPath.Of(file.Path), FileState.Of(RealPath.Of(file.Path))));
                Remarks.AddRange(ArrivalRemarks.Of(file.ShownPath, arrival));
            }
            else if (isNew)
            {
                _reused++;
                Remarks.Add(new Fault(FaultCode.SameFileInside) { Name = file.ShownPath, Other = name });
            }
            return arrival.Path;
        }

        private bool IsAtAnotherRate(InventoryFile file, out int rate)
        {
            rate = _request.Inventory.Document?.Settings?.SampleRate ?? 0;
            return rate > 0 && file.Header is { } header && header.SampleRate != rate;
        }

        /// <summary>The converted copy of a sound at another rate than the session's; null where none is wanted, which is told.</summary>
        private InventoryFile? Converted(InventoryFile file, string arrival, int rate)
        {
            var header = file.Header!;
            if (!_request.Convert || _request.ByReference)
            {
                Remarks.Add(ArrivalRemarks.RateDiffers(file.ShownPath, header, rate, FaultCode.TakenAsItIs));
                return null;
            }
            if (header.LengthSamples is not { } samples)
            {
                Remarks.Add(ArrivalRemarks.RateDiffers(file.ShownPath, header, rate, FaultCode.NotConvertedLengthUnknown));
                return null;
            }
            var wished = $"{Path.GetFileNameWithoutExtension(arrival)} {rate / 1000.0:0.###}k.wav";
            var destination = _destinations.NewPath(wished);
            var length = Resampler.LengthAt(samples, header.SampleRate, rate);
            var source = RealPath.Of(file.Path);
            _copies.Add(new MakeFileStep(
                destination,
                $"converted from {RateText.Of(header.SampleRate)} to {RateText.Of(rate)}",
                new Transformed(new WholeFile(source, FileState.Of(source)), new ConvertRate(rate)),
                WavWriter.HeaderBytes + (length * header.Channels * FloatBytes)));
            return file with
            {
                Path = destination,
                Header = header with { SampleRate = rate, LengthSamples = length, Container = "WAV" },
            };
        }

        private void List(string path, MediaHeader? header)
        {
            if (_known.Add(path))
            {
                _document.List(MediaUrl.From(path, _documentFolder), header?.LengthSamples, header?.SampleRate ?? 1, null);
            }
        }

        private void Place(string track, InventoryFile file, string path)
        {
            if (file.Header is not { LengthSamples: { } samples and > 0, SampleRate: var rate })
            {
                throw new CannotPlaceException(new Fault(FaultCode.LengthUnknown) { Name = file.ShownPath });
            }
            var name = Path.GetFileNameWithoutExtension(file.ShownPath);
            _document.PlaceClip(track, new ClipToPlace(name, MediaUrl.From(path, _documentFolder), rate, samples, 0, samples), _at);
            _known.Add(path);
            _at = new ExactTime(_at.Seconds + new Rational(samples, rate));
            _placed++;
        }

        private static string Clock(ExactTime time) => DurationText.OfTenths(time.Seconds.ToDouble());
    }
}
