using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Purge;

/// <summary>What is to be done with what is held.</summary>
/// <param name="SessionId">The session.</param>
/// <param name="Inventory">Its inventory.</param>
/// <param name="Chosen">Paths from the holding place of what is chosen; null for all of it.</param>
public sealed record HeldRequest(Guid SessionId, SessionInventory Inventory, IReadOnlySet<string>? Chosen = null);

/// <summary>Plans how what was set aside goes back to where it was, or for good.</summary>
public static class HeldPlanner
{
    /// <summary>
    /// Plans to put files back to the very place that each came from, and on the lists that it stood on. Where that place is
    /// taken by now, a file comes back beside it.
    /// </summary>
    public static Plan PutBack(HeldRequest request)
    {
        ArgumentNullException.ThrowIfNull(request);
        var (chosen, refusals) = Chosen(request);
        return refusals.Count > 0
            ? Make(request, PlanKind.PutBack, "Nothing is put back.", [], [], refusals)
            : new Returning(request, chosen).Plan();
    }

    /// <summary>
    /// Plans to delete what is held, for good. It cannot be undone; nothing else in the program deletes people's sound. Files
    /// are read, so that only what was looked at goes.
    /// </summary>
    /// <param name="request">What is to go.</param>
    /// <param name="identities">Tells the identity of each file.</param>
    /// <param name="isInABackup">Whether a backup that was looked at just now holds the same bytes as a file, by its absolute path and identity.</param>
    /// <param name="played">Which versions play a file, by the absolute path that it had before it was set aside.</param>
    /// <param name="cancel">Stops the reading.</param>
    public static Plan Empty(
        HeldRequest request, IIdentities identities, Func<string, ByteIdentity, bool> isInABackup, Func<string, IEnumerable<string>>? played = null, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(request);
        ArgumentNullException.ThrowIfNull(identities);
        ArgumentNullException.ThrowIfNull(isInABackup);
        var (chosen, refusals) = Chosen(request);
        if (refusals.Count > 0)
        {
            return Make(request, PlanKind.EmptyHeld, "Nothing is deleted.", [], [], refusals);
        }
        var (inventory, holding) = (request.Inventory, HoldingPlace.FolderIn(request.Inventory.Folder));
        var (deletes, folders, alone) = (new List<DeleteFileStep>(), new List<PlanStep>(), new List<(string Name, long Bytes)>());
        var unsure = new List<string>();
        foreach (var file in chosen)
        {
            var path = Path.Combine(holding, file.Held);
            if (file.IsFolder)
            {
                folders.Add(RemoveFolderStep.OfThere(path, "an empty folder that was set aside"));
                continue;
            }
            var identity = identities.Identify(path, HeaderCache.ReadNow(path).Header, null, cancel).Bytes;
            deletes.Add(new DeleteFileStep(path, $"set aside on {file.SetAside.ToLocalTime():yyyy-MM-dd}", identity));
            if (!isInABackup(path, identity))
            {
                alone.Add((Path.GetFileName(path), identity.Bytes));
                // Whether nothing plays it nobody knows, so it is not let go while it is the only one.
                if (MediaFiles.KindOf(path) is not null && (inventory.Named is not null || file.Why == nameof(PurgeGroup.NamedNowhere)))
                {
                    unsure.Add(Path.GetFileName(path));
                }
            }
        }
        if (unsure.Count > 0)
        {
            return Make(request, PlanKind.EmptyHeld, "Nothing is deleted.", [], [], [new Fault(FaultCode.OnlyWithABackup) { Names = [.. unsure], Count = unsure.Count }]);
        }
        var stays = Staying(inventory, chosen);
        List<Fault> remarks = alone.Count == 0 ? [] : [new Fault(FaultCode.NoBackupHolds)
        {
            Count = alone.Count,
            Bytes = alone.Sum(a => a.Bytes),
            Names = [.. alone.OrderByDescending(a => a.Bytes).Select(a => a.Name)],
        }];
        if (Silenced(inventory, chosen, played) is { } silenced)
        {
            remarks.Add(silenced);
        }
        var sentence = deletes.Count == 0
            ? $"Remove {ByteText.Count(folders.Count, "empty folder")} that {(folders.Count == 1 ? "was" : "were")} set aside."
            : $"Delete {ByteText.Count(deletes.Count, "file")} for good, {ByteText.Of(deletes.Sum(d => d.Expected.Bytes))}; "
                + (alone.Count == 0 ? "a backup holds each of them." : $"no backup holds {(alone.Count == deletes.Count ? (deletes.Count == 1 ? "it" : "any of them") : $"{alone.Count} of them")}.");
        return Make(
            request, PlanKind.EmptyHeld, sentence,
            [.. deletes, .. HoldingChange.List(inventory, stays), .. folders, .. HoldingChange.EmptyFolders(inventory, chosen.Select(c => Path.Combine(holding, c.Held)), stays)], remarks, []);
    }

    /// <summary>Versions that play what goes, where nothing else stands at the place that it had.</summary>
    private static Fault? Silenced(SessionInventory inventory, List<HeldFile> chosen, Func<string, IEnumerable<string>>? played)
    {
        var silent = chosen.Where(f => !f.IsFolder).Select(f => Path.Combine(inventory.Folder, f.Path)).Distinct(StringComparer.Ordinal)
            .Where(p => FileFacts.Of(p) is null).Select(p => (Path: p, By: played?.Invoke(p).ToList() ?? [])).Where(s => s.By.Count > 0).ToList();
        return silent.Count == 0 ? null : new Fault(FaultCode.VersionsBecomeSilent) { Count = silent.Count, Names = [.. silent.SelectMany(s => s.By).Distinct(StringComparer.Ordinal)] };
    }

    private static (List<HeldFile> Chosen, List<Fault> Refusals) Chosen(HeldRequest request)
    {
        var chosen = request.Inventory.Held.Files.Where(f => request.Chosen?.Contains(f.Held) ?? true).ToList();
        var holding = HoldingPlace.FolderIn(request.Inventory.Folder);
        var refusals = chosen.Where(f => FileFacts.OfName(Path.Combine(holding, f.Held)) is not { } facts || facts.Kind != (f.IsFolder ? EntryKind.Folder : EntryKind.File))
            .Select(f => new Fault(FaultCode.HeldFileGone) { Name = f.Held }).ToList();
        if (request.Inventory.HeldProblem is { } problem)
        {
            refusals.Add(problem);
        }
        else if (chosen.Count == 0)
        {
            refusals.Add(new Fault(FaultCode.NothingHeld));
        }
        return (chosen, refusals);
    }

    private static ImmutableArray<HeldFile> Staying(SessionInventory inventory, List<HeldFile> chosen)
    {
        var going = chosen.Select(c => c.Held).ToHashSet(StringComparer.Ordinal);
        return [.. inventory.Held.Files.Where(f => !going.Contains(f.Held))];
    }

    private static Plan Make(HeldRequest request, PlanKind kind, string sentence, IEnumerable<PlanStep> steps, IEnumerable<Fault> remarks, List<Fault> refusals) => new()
    {
        Id = Guid.NewGuid(),
        Kind = kind,
        SessionId = request.SessionId,
        Sentence = sentence,
        WritableRoots = [request.Inventory.Folder],
        Steps = refusals.Count > 0 ? [] : [.. steps],
        KeepsFolderTimes = true,
        Remarks = [.. remarks],
        Refusals = [.. refusals],
    };

    /// <summary>The way of the chosen back to where they were.</summary>
    private sealed class Returning(HeldRequest request, List<HeldFile> chosen)
    {
        private readonly SessionInventory _inventory = request.Inventory;
        private readonly string _holding = HoldingPlace.FolderIn(request.Inventory.Folder);
        private readonly Dictionary<string, FreeNames> _names = new(StringComparer.Ordinal);
        private readonly Dictionary<string, List<(string Path, string Reference)>> _lists = new(StringComparer.Ordinal);
        private readonly List<PlanStep> _folders = [];
        private readonly HashSet<string> _made = new(StringComparer.Ordinal);
        private readonly List<Fault> _remarks = [];

        public Plan Plan()
        {
            var moves = new List<PlanStep>();
            var bytes = 0L;
            // Empty folders first, so that what goes back into one finds it as it was.
            foreach (var file in chosen.OrderByDescending(c => c.IsFolder).ThenBy(c => c.IsFolder ? c.Path.Length : 0))
            {
                var source = Path.Combine(_holding, file.Held);
                var destination = PlaceFor(file);
                MakeFolders(Path.GetDirectoryName(destination)!);
                var facts = FileFacts.Of(source)!.Value;
                if (file.IsFolder)
                {
                    _made.Add(destination);
                    moves.Add(new MoveEmptyFolderStep(destination, "back to where it was", source, facts.Mode, new DurableFiles().FolderTime(source) ?? 0));
                    continue;
                }
                bytes += facts.Bytes;
                moves.Add(new MoveFileStep(destination, "back to where it was", source, new FileState(facts.Bytes, facts.ModifiedUtc)));
                foreach (var listed in file.Listed)
                {
                    (_lists.TryGetValue(listed.Document, out var list) ? list : _lists[listed.Document] = []).Add((destination, listed.Reference));
                }
            }
            var (folders, files) = (chosen.Count(c => c.IsFolder), chosen.Count(c => !c.IsFolder));
            var documents = Documents().ToList();
            var stays = Staying(_inventory, chosen);
            var what = files == 0 ? ByteText.Count(folders, "empty folder") : $"{ByteText.Count(files, "file")}, {ByteText.Of(bytes)},";
            return Make(
                request, PlanKind.PutBack, $"Put {what} back to where {(chosen.Count == 1 ? "it was" : "they were")}{(documents.Count == 0 ? "" : documents.Count == 1 ? "; document re-written" : $"; {documents.Count} documents re-written")}.",
                [
                    .. _folders, .. moves, .. documents, .. HoldingChange.List(_inventory, stays),
                    .. HoldingChange.EmptyFolders(_inventory, chosen.Select(c => Path.Combine(_holding, c.Held)), stays),
                ],
                _remarks, []);
        }

        private string PlaceFor(HeldFile file)
        {
            var wished = Path.Combine(_inventory.Folder, file.Path);
            var folder = Path.GetDirectoryName(wished)!;
            if (!_names.TryGetValue(folder, out var names))
            {
                _names[folder] = names = FreeNames.In(folder);
            }
            if (file.IsFolder && Directory.Exists(wished))
            {
                // Somebody made it again: that one stays, and this one comes beside it.
                return Renamed(file, Path.Combine(folder, names.ClaimAsItIs(Path.GetFileName(wished))));
            }
            // Two names that differ by case alone were there together once, and can be again.
            return FileFacts.OfName(wished) is null && _made.Add(wished) ? wished : Renamed(file, Path.Combine(folder, names.ClaimAsItIs(Path.GetFileName(wished))));
        }

        private string Renamed(HeldFile file, string place)
        {
            _remarks.Add(new Fault(FaultCode.ComesBackAs) { Name = file.Path, Other = Path.GetFileName(place) });
            return place;
        }

        private void MakeFolders(string folder)
        {
            // What is held stands in folders like those that it came from.
            foreach (var step in MissingFolders.Steps(folder, _inventory.Folder, "as it was", f => Path.Combine(_holding, Path.GetRelativePath(_inventory.Folder, f))).Where(s => _made.Add(s.Destination)))
            {
                _folders.Add(step);
            }
        }

        /// <summary>The documents that listed what comes back list it again, as they did.</summary>
        private IEnumerable<RepointDocumentStep> Documents()
        {
            foreach (var (name, entries) in _lists.OrderBy(l => l.Key, StringComparer.Ordinal))
            {
                var document = _inventory.Documents.FirstOrDefault(d => Path.GetRelativePath(_inventory.Folder, d.Path) == name && d.Document is not null)
                    // One that was archived meanwhile has its name still.
                    ?? _inventory.Documents.FirstOrDefault(d => Path.GetFileName(d.Path) == Path.GetFileName(name) && d.Document is not null);
                if (document is null)
                {
                    _remarks.Add(new Fault(FaultCode.NotListedAgain) { Name = Path.GetFileName(name) });
                }
                else if (Listing(document, entries, _inventory.Held.Orders.FirstOrDefault(o => o.Document == name) ?? new ListOrder(name, [])) is { } step)
                {
                    yield return step;
                }
            }
        }

        private RepointDocumentStep? Listing(InventoryDocument document, List<(string Path, string Reference)> entries, ListOrder order)
        {
            var bytes = ReadableFile.ReadAll(document.Path, DocumentFormats.MostBytes);
            var read = DocumentFormats.Read<IMediaList>(document.Path, bytes);
            var there = read.References.Where(r => r.IsOnList).Select(r => r.TargetUrl).ToHashSet(StringComparer.Ordinal);
            var coming = new List<(string Entry, string Stood)>();
            foreach (var (path, reference) in entries)
            {
                if (Entry(path, reference, document) is { } entry && SessionList.UrlOf(entry) is { } url && !there.Contains(url))
                {
                    coming.Add((entry, SessionList.UrlOf(reference)!));
                }
            }
            if (coming.Count == 0)
            {
                return null;
            }
            var reason = $"{ByteText.Count(coming.Count, "file")} listed again" + (document.Current ? "" : ", an older version");
            return new RepointDocumentStep(document.Path, reason, ByteIdentity.Of(bytes), [], bytes.Length + coming.Sum(c => c.Entry.Length))
            {
                Listed = [.. coming.Select(c => c.Entry)],
                ListedAt = [.. order.PlacesOf(read.ListedUrls, coming.Select(c => c.Stood))],
            };
        }

        /// <summary>The entry as it stood; one of a file that comes back under another name points at that.</summary>
        private string? Entry(string path, string reference, InventoryDocument document)
        {
            if (SessionList.UrlOf(reference) is not { } url)
            {
                return null;
            }
            var means = ReferencedPath.Of(url, document, _inventory.Folder, []);
            return means == path ? reference : SessionList.WithUrl(reference, OpenTimeline.Format.PointerTo(path, _inventory.Folder));
        }
    }
}
