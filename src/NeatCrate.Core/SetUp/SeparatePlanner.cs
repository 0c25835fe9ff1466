using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.SetUp;

/// <summary>Plans how sessions that share one folder get a folder each, beside it, with all that they use.</summary>
public static class SeparatePlanner
{
    /// <summary>Makes the plan. One session stays; what several use is copied, what only one uses is moved, what none uses stays.</summary>
    /// <param name="sessionId">The session that the folder is known as; null when it is known as none.</param>
    /// <param name="look">What the folder holds.</param>
    public static Plan Plan(Guid? sessionId, FolderLook look)
    {
        ArgumentNullException.ThrowIfNull(look);
        var folder = look.Inventory.Folder;
        var refusals = look.Documents.Where(d => d.Problem is not null)
            .Select(d => new Fault(FaultCode.DocumentCannotBeOpened) { Path = d.Path, Reasons = [d.Problem!] }).ToList();
        if (!look.IsShared)
        {
            refusals.Add(new Fault(FaultCode.OnlyOneSession));
        }
        var moves = refusals.Count > 0 ? null : new Moves(look, Path.GetDirectoryName(folder)!);
        if (moves is { Refusals.Count: > 0 })
        {
            refusals.AddRange(moves.Refusals);
            moves = null;
        }
        var leaving = moves?.Leaving ?? [];
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Separate,
            SessionId = sessionId,
            Sentence = moves is null
                ? "Nothing to take apart."
                : $"Give {string.Join(" and ", leaving.Select(l => $"'{Path.GetFileName(l.Folder)}'"))} {(leaving.Count == 1 ? "its own folder" : "their own folders")}; "
                    + $"'{moves.Staying.Title}' stays; {ByteText.Count(moves.Moved, "file")} moved, {ByteText.Count(moves.Copied, "file")} that several use copied.",
            WritableRoots = [folder, Path.GetDirectoryName(folder)!],
            Steps = moves is null ? [] : [.. moves.Steps],
            Remarks = moves is { Idle: > 0 } ? [new Fault(FaultCode.IdleMediaStays) { Count = moves.Idle, Name = Path.GetFileName(folder) }] : [],
            Refusals = [.. refusals],
        };
    }

    /// <summary>Folders of the sessions that a plan gives a folder of their own.</summary>
    public static IEnumerable<string> NewFolders(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        return plan.Kind == PlanKind.Separate
            ? plan.Steps.OfType<MakeFolderStep>().Select(s => s.Destination).Where(d => Path.GetDirectoryName(d) == plan.WritableRoots[1])
            : [];
    }

    private sealed class Moves
    {
        private readonly FolderLook _look;
        private readonly string _folder;
        private readonly List<PlanStep> _copies = [];
        private readonly List<PlanStep> _moves = [];
        private readonly List<PlanStep> _documents = [];
        private readonly Dictionary<string, MakeFolderStep> _made = new(StringComparer.Ordinal);

        // What instruments in the folder play there, by the instruments' paths.
        private readonly ILookup<string, string> _samples;

        public Moves(FolderLook look, string parent)
        {
            (_look, _folder) = (look, look.Inventory.Folder);
            _samples = look.Inventory.Standing(Inventory.Standing.Inside).SelectMany(f => f.Instruments.Select(i => (Instrument: i, f.Path))).ToLookup(p => p.Instrument, p => p.Path, StringComparer.Ordinal);
            Staying = look.Sessions.FirstOrDefault(g => PortableName.ClashKey(g.Title) == PortableName.ClashKey(SessionName.Title(Path.GetFileName(_folder)))) ?? look.Sessions[0];
            var names = FreeNames.In(parent);
            Leaving = [.. look.Sessions.Where(g => g != Staying)
                .Select(g => (g, Path.Combine(parent, names.Claim(Path.GetFileNameWithoutExtension(g.Documents[0].Path)))))];
            // An older document that belongs to none of them stays, and must find its media.
            var ownerless = look.Documents.Except(look.Sessions.SelectMany(g => g.Documents)).SelectMany(d => d.Media);
            var used = WithSamples(Staying.MediaIn(_folder).Concat(ownerless)).ToHashSet(StringComparer.Ordinal);
            // One that cannot be followed may play anything that stands beside it.
            foreach (var beside in used.Where(p => IsThereAndInstrument(p) && !CanBeFollowed(p)).Select(p => Path.GetDirectoryName(p)!).ToList())
            {
                used.UnionWith(look.Inventory.Standing(Inventory.Standing.Inside).Select(f => f.Path).Where(p => ShelfPath.IsWithin(p, beside)));
            }
            foreach (var (group, home) in Leaving)
            {
                Make(home, "a folder of its own");
                PlaceMedia(group, home, used);
                PlaceDocuments(group, home);
            }
            Idle = look.Inventory.Files.Count(f => f.Standing == Inventory.Standing.Inside && f.TargetUrls.IsEmpty && f.Instruments.IsEmpty);
        }

        public SessionGroup Staying { get; }

        public List<(SessionGroup Group, string Folder)> Leaving { get; }

        /// <summary>Instruments that would be silent in their new folder.</summary>
        public List<Fault> Refusals { get; } = [];

        public int Moved => _moves.Count;

        public int Copied => _copies.Count;

        public int Idle { get; }

        /// <summary>Copies before moves, since what is moved can no longer be copied from its place; documents last.</summary>
        public IEnumerable<PlanStep> Steps => [.. _made.Values, .. _copies, .. _moves, .. _documents];

        private void PlaceMedia(SessionGroup group, string home, HashSet<string> usedByThoseBefore)
        {
            var later = Leaving.SkipWhile(l => l.Group != group).Skip(1).SelectMany(l => WithSamples(l.Group.MediaIn(_folder))).ToHashSet(StringComparer.Ordinal);
            List<string> media = [.. WithSamples(group.MediaIn(_folder)).Where(File.Exists)];
            foreach (var (instrument, state, bytes) in Repointed(media, home))
            {
                // It is kept with its samples where it is: the one that goes says something else.
                later.UnionWith(_samples[instrument].Append(instrument));
                _copies.Add(new MakeFileStep(
                    Place(instrument, home), "an instrument, pointed at its samples there", new FileRanges(RealPath.Of(instrument), state, [FilePiece.Of(bytes)]), bytes.Length));
                media.Remove(instrument);
            }
            foreach (var path in media)
            {
                var destination = Place(path, home);
                if (usedByThoseBefore.Contains(path) || later.Contains(path))
                {
                    _copies.Add(MakeFileStep.Copy(destination, "another session uses it too", path, FileState.Of(path)));
                    continue;
                }
                _moves.Add(new MoveFileStep(destination, $"only '{group.Title}' uses it", path, FileState.Of(path)));
            }
        }

        /// <summary>Instruments that would play other files from their new folder than they play here, as they were seen, with what they must say there.</summary>
        private List<(string Instrument, FileState State, byte[] Bytes)> Repointed(List<string> media, string home)
        {
            var going = media.ToHashSet(StringComparer.Ordinal);
            var changed = new List<(string, FileState, byte[])>();
            foreach (var instrument in media.Where(InstrumentRepointing.IsInstrument))
            {
                try
                {
                    // Before it is read: what is saved from here on ends the plan.
                    var state = FileState.Of(RealPath.Of(instrument));
                    if (!CanBeFollowed(instrument))
                    {
                        Refusals.Add(new Fault(FaultCode.InstrumentStays) { Name = Path.GetFileName(instrument) });
                    }
                    else if (InstrumentRepointing.Of(instrument, Path.GetDirectoryName(InHome(instrument, home))!, s => going.Contains(s) ? InHome(s, home) : ShelfPath.IsWithin(s, _folder) ? null : s) is { } bytes)
                    {
                        changed.Add((instrument, state, bytes));
                    }
                }
                catch (FaultException e)
                {
                    Refusals.Add(e.Fault);
                }
            }
            return changed;
        }

        private IEnumerable<string> WithSamples(IEnumerable<string> media) => media.SelectMany(m => _samples[m].Prepend(m)).Distinct(StringComparer.Ordinal);

        private static bool IsThereAndInstrument(string path) => InstrumentRepointing.IsInstrument(path) && File.Exists(path);

        private static bool CanBeFollowed(string instrument) => InstrumentRepointing.ReadOrNull(instrument) is { MayPointElsewhere: false };

        private string InHome(string path, string home) => Path.Combine(home, Path.GetRelativePath(_folder, path));

        private void PlaceDocuments(SessionGroup group, string home)
        {
            foreach (var document in group.Documents)
            {
                var destination = Place(document.Path, home);
                if (!document.HasAbsoluteInside)
                {
                    _documents.Add(new MoveFileStep(destination, "with its media", document.Path, FileState.Of(document.Path)));
                    continue;
                }
                // It points here by absolute paths: a document that points at the new places goes in its stead, and it is kept.
                var kept = Path.Combine(home, SessionLayout.Default.OlderDocuments, Path.GetFileNameWithoutExtension(document.Path) + " as it was" + SessionFolder.DocumentExtension);
                Make(Path.GetDirectoryName(kept)!, "documents from earlier days");
                _documents.Add(new MoveFileStep(kept, "as it was, pointing at the old places", document.Path, FileState.Of(document.Path)));
                _documents.Add(MakeFileStep.Write(destination, "with its media, re-pointed to the new places", Repointed(document.Path, home)));
            }
        }

        private byte[] Repointed(string path, string home)
        {
            var document = _look.Inventory.Documents.First(d => d.Path == path);
            string? Home(string target) => File.Exists(target) && ShelfPath.IsWithin(target, _folder) ? InHome(target, home) : null;
            return Repointing.Of(document, _folder, _look.Shelves, Home, home)?.After ?? ReadableFile.ReadAll(path, DocumentFormats.MostBytes);
        }

        /// <summary>The same place in the new folder, whose folders on the way are made.</summary>
        private string Place(string path, string home)
        {
            var destination = InHome(path, home);
            Make(Path.GetDirectoryName(destination)!, "as in the shared folder");
            return destination;
        }

        private void Make(string folder, string reason)
        {
            foreach (var step in MissingFolders.Steps(folder, Path.GetDirectoryName(_folder)!, reason))
            {
                _made.TryAdd(step.Destination, step);
            }
        }
    }
}
