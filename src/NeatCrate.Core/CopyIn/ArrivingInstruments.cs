using NeatCrate.Core.Arrivals;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;

namespace NeatCrate.Core.CopyIn;

/// <summary>
/// Sample instruments that come in, each in a folder of its own with the samples that it alone plays, as they stand beside it; an instrument
/// that would find them no more is pointed at where they are then. So are instruments in the session whose samples come in.
/// </summary>
internal sealed class ArrivingInstruments
{
    private readonly Dictionary<string, string> _places = new(StringComparer.Ordinal);
    private readonly HashSet<string> _folders = new(StringComparer.Ordinal);
    private readonly List<RepointDocumentStep> _inside = [];

    /// <summary>Gives all files that come in their places.</summary>
    /// <param name="inventory">The inventory of the session.</param>
    /// <param name="outside">The files.</param>
    /// <param name="destinations">Takes their places in.</param>
    public ArrivingInstruments(SessionInventory inventory, IReadOnlyList<InventoryFile> outside, Destinations destinations)
    {
        var byPath = outside.ToDictionary(f => f.Path, StringComparer.Ordinal);
        var instruments = outside.Where(f => InstrumentRepointing.IsInstrument(f.Path)).ToList();
        foreach (var file in instruments.Where(i => !CanCome(i, byPath)))
        {
            Stay.Add(file);
            Remarks.Add(new Fault(FaultCode.InstrumentStays) { Name = file.Name });
        }
        // A sample without an instrument that comes in, or is in, would play nowhere.
        var playing = instruments.Where(i => !Stay.Contains(i)).Select(i => i.Path).ToHashSet(StringComparer.Ordinal);
        Stay.UnionWith(outside.Where(f => f.IsOnlySample && !f.Instruments.Any(i => playing.Contains(i) || ShelfPath.IsWithin(i, inventory.Folder))));
        foreach (var file in outside.Where(f => !Stay.Contains(f) && !f.IsOnlySample && !InstrumentRepointing.IsInstrument(f.Path)))
        {
            _places[file.Path] = destinations.Add(file).Path;
        }
        // One that can only be copied as it is has its samples beside it, whoever else plays them.
        foreach (var instrument in instruments.Where(i => !Stay.Contains(i)).OrderBy(i => InstrumentRepointing.Read(i.Path).CanBeRepointed))
        {
            Place(instrument, byPath, destinations);
        }
        foreach (var sample in outside.Where(f => f.IsOnlySample && !Stay.Contains(f) && !_places.ContainsKey(f.Path)))
        {
            // Its instrument is in the session.
            _places[sample.Path] = destinations.Add(sample).Path;
        }
        foreach (var instrument in instruments.Where(i => !Stay.Contains(i)))
        {
            // Before it is read: what is saved from here on ends the plan.
            var state = FileState.Of(RealPath.Of(instrument.Path));
            if (InstrumentRepointing.Of(instrument.Path, Path.GetDirectoryName(_places[instrument.Path])!, s => _places.GetValueOrDefault(s) ?? s) is { } bytes)
            {
                Changed[instrument.Path] = (state, bytes);
            }
        }
        foreach (var path in outside.SelectMany(f => f.Instruments).Distinct(StringComparer.Ordinal).Where(i => ShelfPath.IsWithin(i, inventory.Folder) && InstrumentRepointing.ReadOrNull(i) is not null))
        {
            Repoint(path);
        }
    }

    /// <summary>Instruments that are not copied, and samples that only they play.</summary>
    public HashSet<InventoryFile> Stay { get; } = [];

    /// <summary>Why they are not.</summary>
    public List<Fault> Remarks { get; } = [];

    /// <summary>Instruments that are not copied as they are, by their absolute paths now: as they were seen, and their bytes then.</summary>
    public Dictionary<string, (FileState State, byte[] Bytes)> Changed { get; } = new(StringComparer.Ordinal);

    /// <summary>True where one comes in, or is changed: then all of it is done or nothing is, since it would play what was left out.</summary>
    public bool Any => _folders.Count > 0 || _inside.Count > 0;

    /// <summary>The folders that are made for them.</summary>
    /// <param name="audio">Absolute path of the folder for audio, which is there by then.</param>
    public IEnumerable<PlanStep> Folders(string audio)
    {
        var made = new HashSet<string>(StringComparer.Ordinal);
        return _folders.Order(StringComparer.Ordinal).SelectMany(f => MissingFolders.Steps(f, audio, "an instrument with its samples")).Where(s => made.Add(s.Destination));
    }

    /// <summary>The steps that make and change instruments.</summary>
    public IEnumerable<PlanStep> Steps() =>
        Changed.OrderBy(c => c.Key, StringComparer.Ordinal).Select(PlanStep (c) => new MakeFileStep(
            _places[c.Key], "an instrument, pointed at its samples there", new FileRanges(RealPath.Of(c.Key), c.Value.State, [FilePiece.Of(c.Value.Bytes)]), c.Value.Bytes.Length)).Concat(_inside);

    /// <summary>True for one whose copy is known to play what it plays: all of it can be followed, and pointed at where it is then, or needs not to be.</summary>
    private static bool CanCome(InventoryFile file, Dictionary<string, InventoryFile> byPath)
    {
        var folder = Path.GetDirectoryName(file.Path)!;
        return InstrumentRepointing.ReadOrNull(file.Path) is { MayPointElsewhere: false } instrument
            && (instrument.CanBeRepointed || InstrumentRepointing.Samples(instrument, folder).All(s => byPath.GetValueOrDefault(s) is { IsOnlySample: true } && ShelfPath.IsWithin(s, folder)));
    }

    private void Place(InventoryFile instrument, Dictionary<string, InventoryFile> byPath, Destinations destinations)
    {
        var (from, to) = (Path.GetDirectoryName(instrument.Path)!, destinations.NewPath(PortableName.Suggest(Path.GetFileNameWithoutExtension(instrument.Name))));
        void Put(InventoryFile file, string place)
        {
            destinations.Place(file, place);
            _places[file.Path] = place;
            _folders.Add(Path.GetDirectoryName(place)!);
        }
        Put(instrument, Path.Combine(to, PortableName.Suggest(instrument.Name)));
        var names = new FreeNames([]);
        foreach (var sample in InstrumentRepointing.Samples(InstrumentRepointing.Read(instrument.Path), from).Select(s => byPath.GetValueOrDefault(s)).OfType<InventoryFile>())
        {
            if (_places.ContainsKey(sample.Path) || !sample.IsOnlySample)
            {
                continue;
            }
            var isBeside = ShelfPath.IsWithin(sample.Path, from);
            Put(sample, isBeside ? Path.Combine(to, Path.GetRelativePath(from, sample.Path)) : Path.Combine(to, "samples from elsewhere", names.Claim(sample.Name)));
        }
    }

    /// <summary>An instrument in the session whose samples come in is pointed at the copies.</summary>
    private void Repoint(string path)
    {
        var folder = Path.GetDirectoryName(path)!;
        var bytes = ReadableFile.ReadAll(path, SfzInstrument.MostBytes);
        if (InstrumentRepointing.Of(path, folder, s => _places.GetValueOrDefault(s)) is not { } after)
        {
            return;
        }
        var pointers = InstrumentRepointing.Read(path).References.Select(r => r.TargetUrl).Distinct(StringComparer.Ordinal)
            .Select(url => (url, Sample: SfzInstrument.Format.Candidates(url, folder) is [var s, ..] ? s : url)).Where(p => _places.ContainsKey(p.Sample))
            .Select(p => new NewPointer(p.url, SfzInstrument.Format.PointerTo(_places[p.Sample], folder), _places[p.Sample])).ToList();
        _inside.Add(new RepointDocumentStep(path, "an instrument, pointed at its samples here", ByteIdentity.Of(bytes), [.. pointers], after.Length));
    }
}
