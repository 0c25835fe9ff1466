using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;

namespace NeatCrate.Core.Contents;

/// <summary>Makes the contents of a session that leaves: the one place where it is decided what goes along, under which name, and what documents say there.</summary>
public static class ContentsReader
{
    /// <summary>Reads what a session is. Its folder is looked through and its documents are read; nothing changes.</summary>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="choice">What is to leave, and how.</param>
    /// <exception cref="FaultException">A document that is to be re-pointed cannot be read.</exception>
    public static SessionContents Read(SessionInventory inventory, IReadOnlyList<Shelf> shelves, ContentsChoice choice)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(shelves);
        ArgumentNullException.ThrowIfNull(choice);
        return new Reading(inventory, shelves, choice).Read();
    }

    /// <summary>A name as it can travel: accepted everywhere, composed (NFC), since one common unpacker composes names, and without a percent sign, which a bag's manifest writes otherwise than sha512sum expects it (RFC 8493, section 2.1.3).</summary>
    public static string Travelling(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return PortableName.Composed(PortableName.Suggest(name.Replace('%', '-')));
    }

    private sealed class Reading(SessionInventory inventory, IReadOnlyList<Shelf> shelves, ContentsChoice choice)
    {
        private readonly ContentRoles _roles = new(inventory);
        private readonly string _readFrom = choice.ReadFrom ?? inventory.Folder;

        /// <summary>Paths among the contents, by the absolute path here; several for a file that goes in parts.</summary>
        private readonly Dictionary<string, ImmutableArray<string>> _places = new(StringComparer.Ordinal);
        private readonly Dictionary<string, (ContentRole Role, FileFacts Facts)> _inside = new(StringComparer.Ordinal);
        private readonly Dictionary<string, FreeNames> _names = new(StringComparer.Ordinal);
        private readonly Dictionary<string, string> _folders = new(StringComparer.Ordinal) { [""] = "" };
        private readonly HashSet<string> _elsewhere = inventory.Standing(Standing.Outside).Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
        private readonly List<LeftOutContent> _leftOut = [];
        private readonly List<string> _mayBeSilent = [];
        private readonly List<(string Path, bool IsEmpty)> _entered = [];

        public SessionContents Read()
        {
            PlaceInside();
            PlaceOutside();
            NameMissing();
            var entries = _places.SelectMany(p => Entries(p.Key, p.Value)).OrderBy(e => e.Path, StringComparer.Ordinal).ToImmutableArray();
            return new SessionContents
            {
                Folder = choice.Portable ? Travelling(Path.GetFileName(inventory.Folder)) : Path.GetFileName(inventory.Folder),
                Stood = inventory.Folder,
                Document = inventory.Current is { } current && _places.TryGetValue(current.Path, out var place) ? place[0] : null,
                Entries = entries,
                MayBeSilent = [.. _mayBeSilent.Order(StringComparer.Ordinal)],
                Folders = [.. Folders(entries).OrderBy(f => f.Path, StringComparer.Ordinal)],
                LeftOut = [.. _leftOut.OrderBy(l => l.Path, StringComparer.Ordinal)],
                Pointers = choice.Repoints ? [] : [.. Pointers()],
            };
        }

        // ----- what goes, and where

        private void PlaceInside()
        {
            var going = inventory.Documents.Where(d => choice.Documents?.Invoke(d) ?? true).Select(d => d.Path).ToHashSet(StringComparer.Ordinal);
            var staying = choice.InsideStays is { } stays ? inventory.Files.Where(f => stays(f)).Select(f => f.Path).ToHashSet(StringComparer.Ordinal) : [];
            foreach (var file in SessionFolder.Files(inventory.Folder, Unreadable, (folder, isEmpty) => _entered.Add((folder, isEmpty))).OrderBy(f => f.Path, StringComparer.Ordinal))
            {
                var (role, relative) = (_roles.Of(file.Path), Path.GetRelativePath(inventory.Folder, file.Path));
                if (IsDrawnAgain(role) || ContentRoles.IsUnfinished(file.Name) || choice.Stay.Contains(role) || staying.Contains(file.Path) || (role == ContentRole.Document && !going.Contains(file.Path)))
                {
                    _leftOut.Add(new LeftOutContent(relative, role, WhyLeftOut.ByChoice, file.Facts.Bytes) { Here = file.Path });
                    continue;
                }
                _inside[file.Path] = (role, file.Facts);
                var folder = FolderOf(Path.GetDirectoryName(relative)!);
                _places[file.Path] = choice.Instead.TryGetValue(file.Path, out var parts) && parts.Length > 1
                    ? [.. parts.Select((_, n) => Join(folder, $"{Path.GetFileNameWithoutExtension(file.Name)} part {n + 1}{Path.GetExtension(file.Name)}", NamesBeside(file.Path, folder)))]
                    : [choice.Portable ? Join(folder, NameOf(file.Path), NamesOf(folder)) : relative];
            }
        }

        private static bool IsDrawnAgain(ContentRole role) => role is ContentRole.Cache or ContentRole.Litter;

        private void PlaceOutside()
        {
            // What is away or missing keeps its place among the others, so that each has the same name in the next backup.
            var (folder, names) = (choice.OutsideFolder ?? FolderOf(inventory.Layout.Audio), choice.Portable || choice.OutsideFolder is null ? null : new FreeNames([]));
            foreach (var file in inventory.Files.Where(IsElsewhere).OrderBy(f => f.Path, StringComparer.Ordinal))
            {
                var isThere = file.Standing == Standing.Outside;
                var place = choice.Outside && !(choice.OutsideStays?.Invoke(file) ?? false) ? Join(folder, NameOf(file.Path), names ?? NamesOf(folder)) : null;
                if (isThere && place is not null)
                {
                    _places[file.Path] = [place];
                }
                else
                {
                    _leftOut.Add(new LeftOutContent(file.Path, RoleOf(file), isThere ? WhyLeftOut.ByChoice : WhyOf(file), file.Bytes)
                    {
                        Here = file.Path,
                        Place = place,
                        IsOlderOnly = file.Use == FileUse.OlderOnly,
                    });
                }
            }
        }

        /// <summary>Media that a document points at and that stand, or stood, elsewhere than in the folder.</summary>
        private bool IsElsewhere(InventoryFile file) =>
            !_places.ContainsKey(file.Path) && (file.Standing == Standing.Outside || (file.Standing is Standing.Missing or Standing.Away && !file.BelongsInside && file.Path.StartsWith('/')));

        private void NameMissing()
        {
            foreach (var file in inventory.Files.Where(f => f.Standing is Standing.Missing or Standing.Away && !IsElsewhere(f)))
            {
                _leftOut.Add(new LeftOutContent(file.ShownPath, RoleOf(file), WhyOf(file)) { Here = file.Path, IsOlderOnly = file.Use == FileUse.OlderOnly });
            }
        }

        private static ContentRole RoleOf(InventoryFile file) => file.RenderOf is null ? ContentRole.Media : ContentRole.Render;

        private static WhyLeftOut WhyOf(InventoryFile file) => file.Standing == Standing.Away ? WhyLeftOut.Away : WhyLeftOut.Missing;

        private void Unreadable(Fault fault) => _leftOut.Add(new LeftOutContent(Path.GetRelativePath(inventory.Folder, fault.Path!), ContentRole.Other, fault.Code switch
        {
            FaultCode.FolderIsALink => WhyLeftOut.LinkedFolder,
            FaultCode.LinkToNothing => WhyLeftOut.LinkToNothing,
            FaultCode.NotARegularFile => WhyLeftOut.NotAFile,
            FaultCode.NameNotText => WhyLeftOut.NameNotText,
            _ => WhyLeftOut.CannotBeRead,
        })
        {
            Here = fault.Path,
        });

        // ----- names

        private FreeNames NamesOf(string folder) => _names.TryGetValue(folder, out var names) ? names : _names[folder] = new FreeNames([]);

        /// <summary>Names in the folder of a file that goes in parts: the parts take none that something has there.</summary>
        private FreeNames NamesBeside(string path, string folder) =>
            choice.Portable ? NamesOf(folder) : _names.TryGetValue(folder, out var names) ? names : _names[folder] = FreeNames.In(Path.GetDirectoryName(path)!);

        private string NameOf(string path) => choice.Instead.TryGetValue(path, out var instead) && instead is [{ Name: { } name }] ? name : Path.GetFileName(path);

        private string Join(string folder, string name, FreeNames names)
        {
            var free = choice.Portable ? names.Claim(Travelling(name)) : names.ClaimAsItIs(name);
            return folder.Length == 0 ? free : $"{folder}/{free}";
        }

        private string FolderOf(string relative)
        {
            if (!choice.Portable)
            {
                return relative;
            }
            if (!_folders.TryGetValue(relative, out var portable))
            {
                var above = FolderOf(Path.GetDirectoryName(relative)!);
                _folders[relative] = portable = Join(above, Path.GetFileName(relative), NamesOf(above));
            }
            return portable;
        }

        // ----- entries

        private IEnumerable<ContentEntry> Entries(string here, ImmutableArray<string> places)
        {
            var isInside = _inside.TryGetValue(here, out var known);
            if (choice.Instead.TryGetValue(here, out var parts))
            {
                var (role, marks) = (isInside ? known.Role : ContentRole.Media, parts is [{ Name: not null }] && FileFacts.Of(RealPath.Of(here)) is { } whole ? MarksOf(whole) : default);
                return parts.Zip(places, (part, place) => new ContentEntry(place, role, part.Origin, part.Bytes, marks) { Here = here, Outside = isInside ? null : here });
            }
            if (choice.Repoints && isInside && Rewritten(here, known.Facts) is { } rewritten)
            {
                return [new ContentEntry(places[0], known.Role, rewritten, rewritten.Content.Length, rewritten.Marks) { Here = here }];
            }
            if (choice.Repoints && InstrumentRepointing.IsInstrument(here) && Played(here, places[0], isInside) is { } played)
            {
                return [new ContentEntry(places[0], isInside ? known.Role : ContentRole.Media, played, played.Content.Length, played.Marks) { Here = here, Outside = isInside ? null : here }];
            }
            var source = RealPath.Of(here);
            var facts = FileFacts.Of(source) ?? throw new FaultException(FaultCode.SourceGone, here);
            return
            [
                new ContentEntry(places[0], isInside ? known.Role : ContentRole.Media, new WholeFile(source, new FileState(facts.Bytes, facts.ModifiedUtc)), facts.Bytes, MarksOf(facts))
                {
                    Here = here,
                    Outside = isInside ? null : here,
                },
            ];
        }

        private static KeptMarks MarksOf(FileFacts facts) => new(facts.ModifiedUtc, facts.ModifiedRest, facts.Mode);

        /// <summary>A document as it must be there, or our own card that names one; null where it can go as it is.</summary>
        private GivenBytes? Rewritten(string here, FileFacts facts)
        {
            if (here == SessionCard.PathIn(inventory.Folder))
            {
                return inventory is { CurrentIsStated: true, Current: { } current } && _places.TryGetValue(current.Path, out var place) && place[0] != Path.GetRelativePath(inventory.Folder, current.Path)
                    ? new GivenBytes(SessionCard.Stating(inventory.Folder, place[0])) { Marks = new KeptMarks(null, 0, facts.Mode) }
                    : null;
            }
            return inventory.Documents.FirstOrDefault(d => d.Path == here && d.Problem is null) is { } document
                && Repointing.Of(document, inventory.Folder, shelves, PlaceOf, _readFrom) is { } change
                ? new GivenBytes(change.After) { Marks = new KeptMarks(null, 0, facts.Mode) }
                : null;
        }

        /// <summary>A sample instrument that plays its samples from where they stand then; null where it goes as it is, which is told where it may be silent so.</summary>
        private GivenBytes? Played(string here, string place, bool isInside)
        {
            try
            {
                var bytes = InstrumentRepointing.Of(here, Path.GetDirectoryName(Path.Combine(_readFrom, place))!, SampleThen);
                if (!isInside && InstrumentRepointing.Read(here).MayPointElsewhere)
                {
                    _mayBeSilent.Add(place);
                }
                return bytes is null ? null : new GivenBytes(bytes) { Marks = new KeptMarks(null, 0, FileFacts.Of(here)?.Mode) };
            }
            catch (Exception e) when (FaultException.Of(e, here) is not null)
            {
                _mayBeSilent.Add(place);
                return null;
            }
        }

        private string? SampleThen(string path) => _places.TryGetValue(path, out var places) ? Path.Combine(_readFrom, places[0])
            : ShelfPath.IsWithin(path, inventory.Folder) ? Path.Combine(_readFrom, Path.GetRelativePath(inventory.Folder, path))
            : choice.PointsOut ? path
            : null;

        private NewPlace? PlaceOf(MediaReference reference, string path)
        {
            if (_places.TryGetValue(path, out var places))
            {
                List<string> then = [.. places.Select(p => Path.Combine(_readFrom, p))];
                return choice.PlaceOf is { } of && choice.Instead.ContainsKey(path) ? of(reference, path, then) : new NewPlace(then[0]);
            }
            return !path.StartsWith('/') ? null
                : ShelfPath.IsWithin(path, inventory.Folder) ? new NewPlace(Path.Combine(_readFrom, Path.GetRelativePath(inventory.Folder, path)))
                : choice.PointsOut ? new NewPlace(path)
                : null;
        }

        // ----- folders and pointers

        private IEnumerable<ContentFolder> Folders(ImmutableArray<ContentEntry> entries)
        {
            var filled = entries.SelectMany(e => Above(e.Path)).ToHashSet(StringComparer.Ordinal);
            var told = new HashSet<string>(StringComparer.Ordinal);
            foreach (var (path, _) in _entered.OrderBy(e => e.Path, StringComparer.Ordinal))
            {
                var relative = Path.GetRelativePath(inventory.Folder, path) is var r and not "." ? r : "";
                var role = _roles.OfFolder(relative);
                if (relative.Length > 0 && (IsDrawnAgain(role) || choice.Stay.Contains(role)) && !filled.Contains(FolderOf(relative)))
                {
                    continue;
                }
                var (name, facts) = (FolderOf(relative), FileFacts.Of(path));
                told.Add(name);
                yield return new ContentFolder(name, facts?.Mode, FileFacts.FolderTimeOf(path), !filled.Contains(name) && relative.Length > 0);
            }
            // Folders of the layout stand in a copy whether anything is in them or not; those that only the contents have are made as any other.
            foreach (var folder in filled.Where(f => told.Add(f)))
            {
                yield return new ContentFolder(folder, null, null, false);
            }
        }

        private static IEnumerable<string> Above(string place)
        {
            for (var at = place.LastIndexOf('/'); at > 0; at = place.LastIndexOf('/', at - 1))
            {
                yield return place[..at];
            }
        }

        /// <summary>Pointers that would lead elsewhere from another place, with where they lead now.</summary>
        private IEnumerable<DocumentPointers> Pointers()
        {
            foreach (var document in inventory.Documents.Where(d => d.Document is not null && _places.ContainsKey(d.Path)))
            {
                var pointers = document.Document!.References.Select(r => r.TargetUrl).Distinct(StringComparer.Ordinal)
                    .Select(url => new ResolvedPointer(url, ReferencedPath.Of(url, document, inventory.Folder, shelves)))
                    .Where(p => p.Path.StartsWith('/') && !LeadsThereByItself(p)).ToImmutableArray();
                if (pointers.Length > 0)
                {
                    yield return new DocumentPointers(_places[document.Path][0], pointers);
                }
            }
        }

        /// <summary>What stands behind a link is reached by a path in the folder, and not from another place.</summary>
        private bool LeadsThereByItself(ResolvedPointer pointer) =>
            !MediaUrl.IsAbsolute(pointer.Url) && ShelfPath.IsWithin(pointer.Path, inventory.Folder) && (_inside.ContainsKey(pointer.Path) || !_elsewhere.Contains(pointer.Path));
    }
}
