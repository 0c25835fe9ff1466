using System.Collections.Immutable;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Purge;

/// <summary>What is to be set aside, or taken off the list.</summary>
/// <param name="SessionId">The session.</param>
/// <param name="World">What the judgement was made of.</param>
/// <param name="Items">All that was judged.</param>
/// <param name="Chosen">Absolute paths of what is to go.</param>
/// <param name="Shelves">All known shelves.</param>
/// <param name="NowUtc">The time.</param>
public sealed record SetAsideRequest(
    Guid SessionId, PurgeWorld World, IReadOnlyList<PurgeItem> Items, IReadOnlySet<string> Chosen, IReadOnlyList<Shelf> Shelves, DateTime NowUtc)
{
    /// <summary>True where somebody said that whoever opens the session next has the instruments of the renders that go.</summary>
    public bool InstrumentsAreThere { get; init; }
}

/// <summary>
/// Plans how files go out of a session's way: off its list, or into the holding place, with the tree kept and nothing deleted.
/// A file that anything counted uses is refused, whoever chose it.
/// </summary>
public static class SetAsidePlanner
{
    /// <summary>Plans the move into the holding place. Documents are read, and files looked at.</summary>
    public static Plan SetAside(SetAsideRequest request)
    {
        ArgumentNullException.ThrowIfNull(request);
        var chosen = request.Items.Where(i => request.Chosen.Contains(i.Path)).ToList();
        var refusals = Refusals(request, chosen).ToList();
        return refusals.Count > 0
            ? Make(request, "Nothing is set aside.", [], [], refusals)
            : new Going(request, chosen).Plan();
    }

    /// <summary>Plans to take files off the session's list; they stay where they are.</summary>
    public static Plan TakeOffList(SetAsideRequest request)
    {
        ArgumentNullException.ThrowIfNull(request);
        var inventory = request.World.Inventory;
        var chosen = request.Items.Where(i => request.Chosen.Contains(i.Path) && i.Reasons.Any(r => r.Why == UseReason.Listed)).ToList();
        var refusals = Refusals(request, chosen).Where(r => r.Code is not (FaultCode.NothingToSetAside or FaultCode.HoldingListUnusable)).ToList();
        if (chosen.Count == 0)
        {
            refusals.Add(new Fault(FaultCode.NothingToTakeOffList));
        }
        if (refusals.Count > 0)
        {
            return Make(request, "Nothing is taken off the list.", [], [], refusals);
        }
        var documents = new DocumentChanges(inventory, request.Shelves, chosen, request.World.Uses, d => d.Current);
        return Make(
            request, $"Take {ByteText.Count(chosen.Count, "file")} off the session's list; {(chosen.Count == 1 ? "it stays" : "they stay")} where {(chosen.Count == 1 ? "it is" : "they are")}.",
            documents.Steps, Named(chosen), documents.Steps.Count == 0 ? [new Fault(FaultCode.NothingToTakeOffList)] : []);
    }

    private static IEnumerable<Fault> Refusals(SetAsideRequest request, List<PurgeItem> chosen)
    {
        var byHand = chosen.Count(i => i.Group == PurgeGroup.NamedNowhere);
        if (byHand > 0 && chosen.Count > 1)
        {
            yield return new Fault(FaultCode.OneAtATime) { Names = request.World.Inventory.NamingNow };
            yield break;
        }
        if (byHand == 0 && request.World.Inventory.UnknownFolders.Contains(request.World.Inventory.Folder))
        {
            yield return new Fault(FaultCode.UseCannotBeKnown) { Names = request.World.Inventory.UnknownFor };
            yield break;
        }
        if (request.World.Inventory.HeldProblem is { } problem)
        {
            // A new list would be without what stands on that one.
            yield return problem;
        }
        if (chosen.Count == 0)
        {
            yield return new Fault(FaultCode.NothingToSetAside);
        }
        foreach (var item in chosen.Where(i => i.Group is null))
        {
            yield return item.Reasons.Any(r => r.Why == UseReason.BeingWritten)
                ? new Fault(FaultCode.BeingWritten) { Name = Path.GetFileName(item.Path) }
                : new Fault(FaultCode.InUse) { Name = Path.GetFileName(item.Path), Names = [.. item.Reasons.Where(r => r.Protects).SelectMany(r => r.Names).Distinct()] };
        }
        // What clips will play instead of it must stay.
        var kept = chosen.Where(i => i.Group == PurgeGroup.SameSound && i.Reasons.Any(r => r.Why is UseReason.Placed or UseReason.OlderVersion)).Select(i => i.SameAs!).ToHashSet(StringComparer.Ordinal);
        foreach (var item in chosen.Where(i => kept.Contains(i.Path)))
        {
            yield return new Fault(FaultCode.InUse) { Name = Path.GetFileName(item.Path), Names = [.. chosen.Where(c => c.SameAs == item.Path).Select(c => Path.GetFileName(c.Path))] };
        }
        if (!request.InstrumentsAreThere && RendersAmong(chosen) is { Count: > 0 } renders)
        {
            yield return new Fault(FaultCode.RendersNotAsked) { Names = [.. renders] };
        }
    }

    private static List<string> RendersAmong(List<PurgeItem> chosen) => [.. chosen.Where(i => i.Group == PurgeGroup.Renders).Select(i => Path.GetFileName(i.Path))];

    private static List<Fault> Named(List<PurgeItem> chosen)
    {
        var remarks = new List<Fault>();
        if (chosen.Where(i => i.Reasons.Any(r => r.Why == UseReason.Keeper)).Select(i => Path.GetFileName(i.Path)).ToImmutableArray() is { Length: > 0 } keepers)
        {
            remarks.Add(new Fault(FaultCode.KeepersAmong) { Names = keepers });
        }
        if (chosen.Find(i => i.Group == PurgeGroup.NamedNowhere) is { } nowhere)
        {
            remarks.Add(new Fault(FaultCode.MayBeUsedAllTheSame) { Name = Path.GetFileName(nowhere.Path) });
        }
        if (RendersAmong(chosen) is { Count: > 0 } renders)
        {
            remarks.Add(new Fault(FaultCode.RendersAmong) { Names = [.. renders] });
        }
        return remarks;
    }

    private static Plan Make(SetAsideRequest request, string sentence, IEnumerable<PlanStep> steps, IEnumerable<Fault> remarks, List<Fault> refusals) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.SetAside,
        SessionId = request.SessionId,
        Sentence = sentence,
        WritableRoots = [request.World.Inventory.Folder],
        Steps = refusals.Count > 0 ? [] : [.. steps],
        KeepsFolderTimes = true,
        Remarks = [.. remarks],
        Refusals = [.. refusals],
    };

    /// <summary>What documents say once files are off their lists, and clips play another file with the same sound.</summary>
    private sealed class DocumentChanges
    {
        private readonly Dictionary<string, List<HeldListing>> _listed = new(StringComparer.Ordinal);

        public DocumentChanges(
            SessionInventory inventory, IReadOnlyList<Shelf> shelves, List<PurgeItem> chosen, IReadOnlyDictionary<string, IReadOnlyList<DocumentUse>> uses, Predicate<InventoryDocument> concerns)
        {
            var going = chosen.ToDictionary(i => i.Path, i => i.Group == PurgeGroup.SameSound ? i.SameAs : null, StringComparer.Ordinal);
            var used = chosen.SelectMany(i => uses.GetValueOrDefault(i.Path) ?? []).Select(u => u.Document).ToHashSet(StringComparer.Ordinal);
            // The current one last, as everywhere.
            foreach (var document in inventory.Documents.Where(d => d.Document is not null && used.Contains(d.Path) && concerns(d)).OrderBy(d => d.Current))
            {
                if (Change(document, inventory, shelves, going) is { } step)
                {
                    Steps.Add(step);
                }
            }
        }

        public List<RepointDocumentStep> Steps { get; } = [];

        /// <summary>The orders of the lists from which entries go.</summary>
        public List<ListOrder> Orders { get; } = [];

        public ImmutableArray<HeldListing> ListedOf(string path) => [.. _listed.GetValueOrDefault(path) ?? []];

        private RepointDocumentStep? Change(InventoryDocument document, SessionInventory inventory, IReadOnlyList<Shelf> shelves, Dictionary<string, string?> going)
        {
            var change = Repointing.Unlisting(document, inventory.Folder, shelves, going.ContainsKey, path => going.GetValueOrDefault(path));
            if (change is not { } found)
            {
                return null;
            }
            var name = Path.GetRelativePath(inventory.Folder, document.Path);
            foreach (var (path, reference) in found.Entries)
            {
                (_listed.TryGetValue(path, out var list) ? list : _listed[path] = []).Add(new HeldListing(name, reference));
            }
            Orders.Add((inventory.Held.Orders.FirstOrDefault(o => o.Document == name) ?? new ListOrder(name, [])).With(found.Before));
            return found.Step;
        }
    }

    /// <summary>The way of the chosen into the holding place.</summary>
    private sealed class Going(SetAsideRequest request, List<PurgeItem> chosen)
    {
        private readonly SessionInventory _inventory = request.World.Inventory;
        private readonly string _holding = HoldingPlace.FolderIn(request.World.Inventory.Folder);
        private readonly Dictionary<string, FreeNames> _names = new(StringComparer.Ordinal);
        private readonly List<PlanStep> _folders = [];
        private readonly HashSet<string> _made = new(StringComparer.Ordinal);

        public Plan Plan()
        {
            var documents = new DocumentChanges(_inventory, request.Shelves, chosen, request.World.Uses, _ => true);
            var moves = new List<PlanStep>();
            var held = _inventory.Held.Files.ToBuilder();
            foreach (var item in chosen)
            {
                var relative = Path.GetRelativePath(_inventory.Folder, item.Path);
                var destination = PlaceFor(relative);
                MakeFolders(Path.GetDirectoryName(destination)!);
                moves.Add(Move(item, destination));
                held.Add(new HeldFile(Path.GetRelativePath(_holding, destination), relative, item.IsFolder, request.NowUtc, item.Group.ToString()!, documents.ListedOf(item.Path)));
            }
            return Make(request, Sentence(documents), [.. _folders, .. documents.Steps, .. moves, .. HoldingChange.List(_inventory, held.ToImmutable(), documents.Orders)], Remarks(), []);
        }

        private PlanStep Move(PurgeItem item, string destination)
        {
            var reason = ReasonOf(item);
            if (item.IsFolder)
            {
                var facts = FileFacts.Of(item.Path) ?? throw new FaultException(FaultCode.NotThere, item.Path);
                return new MoveEmptyFolderStep(destination, reason, item.Path, facts.Mode, new DurableFiles().FolderTime(item.Path) ?? 0);
            }
            return new SetAsideStep(destination, reason, item.Path, new FileState(item.Bytes, item.ModifiedUtc), MissedBy(item));
        }

        /// <summary>Documents that go on pointing at it by choice: those that were not counted.</summary>
        private ImmutableArray<string> MissedBy(PurgeItem item)
        {
            var counting = request.World.Counting;
            var older = counting.OlderVersions ? [] : (request.World.Uses.GetValueOrDefault(item.Path) ?? [])
                .Where(u => !u.IsCurrent && (u.IsNamed || (u.Placed > 0 && item.Group != PurgeGroup.SameSound))).Select(u => u.Document);
            var others = counting.OtherSessions ? [] : request.World.Others[item.Path].Select(o => o.Document);
            return [.. older.Concat(others).Distinct(StringComparer.Ordinal)];
        }

        private static string ReasonOf(PurgeItem item) => item.Group switch
        {
            PurgeGroup.UnplacedTakes => item.KeptBeside is { } kept ? $"a take that nobody placed; '{kept}' is kept" : "a take that nobody placed",
            PurgeGroup.TriedSamples => "tried, and played by no clip",
            PurgeGroup.Strays => "on no list",
            PurgeGroup.SameSound => $"the same sound as '{Path.GetFileName(item.SameAs)}', which stays",
            PurgeGroup.Renders => "a render of a track whose instrument is here",
            PurgeGroup.Bounces => "a finished mix",
            PurgeGroup.NamedNowhere => "named nowhere",
            PurgeGroup.Caches => "a waveform cache, which is made again",
            PurgeGroup.Litter => "left behind by an operating system",
            _ => "an empty folder",
        };

        /// <summary>Its own path below the holding place; with a number where something of that name is held already.</summary>
        private string PlaceFor(string relative)
        {
            var folder = Path.Combine(_holding, Path.GetDirectoryName(relative)!);
            var wished = Path.GetFileName(relative);
            if (!_names.TryGetValue(folder, out var names))
            {
                _names[folder] = names = FreeNames.In(folder);
            }
            // Its own name, portable or not: it goes back under it.
            return Path.Combine(folder, names.ClaimAsItIs(wished));
        }

        private void MakeFolders(string folder)
        {
            foreach (var step in MissingFolders.Steps(folder, _inventory.Folder, "where what is set aside is held", f => Path.Combine(_inventory.Folder, Path.GetRelativePath(_holding, f))).Where(s => _made.Add(s.Destination)))
            {
                _folders.Add(step);
            }
        }

        private string Sentence(DocumentChanges documents)
        {
            var parts = chosen.GroupBy(i => i.Group!.Value).OrderBy(g => g.Key).Select(g => Words(g.Key, g.Count())).ToList();
            var files = chosen.Count(i => !i.IsFolder);
            var what = files == 0 ? ByteText.Count(chosen.Count, "empty folder") : $"{ByteText.Count(files, "file")}, {ByteText.Of(chosen.Sum(i => i.Bytes))}";
            var told = parts.Count == 1 ? $" ({parts[0]})" : $": {string.Join(", ", parts)}";
            var rewritten = documents.Steps.Count switch { 0 => "", 1 => "; document re-written", var n => $"; {n} documents re-written" };
            return $"Set aside {what}{told}{rewritten}; nothing is deleted.";
        }

        private static string Words(PurgeGroup group, int count) => group switch
        {
            PurgeGroup.UnplacedTakes => ByteText.Count(count, "take") + " nobody placed",
            PurgeGroup.TriedSamples => $"{count} tried and left",
            PurgeGroup.Strays => $"{count} on no list",
            PurgeGroup.SameSound => $"{count} held twice",
            PurgeGroup.Renders => ByteText.Count(count, "render"),
            PurgeGroup.Bounces => ByteText.Count(count, "bounce"),
            PurgeGroup.NamedNowhere => "named nowhere",
            PurgeGroup.Caches => ByteText.Count(count, "waveform cache"),
            PurgeGroup.Litter => $"{count} left by systems",
            _ => ByteText.Count(count, "empty folder"),
        };

        private IEnumerable<Fault> Remarks()
        {
            foreach (var remark in Named(chosen))
            {
                yield return remark;
            }
            if (KeptSavesMissing.Of(request.World, chosen.Select(i => i.Path)) is { } saves)
            {
                yield return saves;
            }
            var missed = chosen.Where(i => !i.IsFolder).Select(i => (i, By: MissedBy(i))).Where(m => !m.By.IsEmpty).ToList();
            if (missed.Count > 0)
            {
                yield return new Fault(FaultCode.MissedBy)
                {
                    Count = missed.Count,
                    Names = [.. missed.SelectMany(m => m.By).Distinct(StringComparer.Ordinal).Select(d => Path.GetFileNameWithoutExtension(d))],
                };
            }
        }
    }
}
