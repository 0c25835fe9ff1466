using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Bundles;

/// <summary>What a bundle is to be.</summary>
/// <param name="SessionId">The session.</param>
/// <param name="Inventory">Its inventory.</param>
/// <param name="Shelves">All known shelves.</param>
/// <param name="SessionFolders">Folders of all known sessions, none of which may get the bundle.</param>
/// <param name="DestinationFolder">Absolute path of the folder that gets the bundle.</param>
/// <param name="IncludeBounces">Whether finished mixes that no clip uses go along.</param>
/// <param name="Recipient">Whom it is for.</param>
/// <param name="Note">What the sender wants to say.</param>
/// <param name="Now">Local time.</param>
public sealed record BundleRequest(
    Guid SessionId,
    SessionInventory Inventory,
    IReadOnlyList<Shelf> Shelves,
    IReadOnlyList<string> SessionFolders,
    string DestinationFolder,
    bool IncludeBounces,
    string? Recipient,
    string? Note,
    DateTimeOffset Now);

/// <summary>Plans a bundle: the whole session folder as the payload of a bag, and everything it points at with it.</summary>
public static class BundlePlanner
{
    /// <summary>Makes the plan. Nothing is changed; the session itself stays as it is even after it was applied.</summary>
    public static Plan Plan(BundleRequest request)
    {
        ArgumentNullException.ThrowIfNull(request);
        var refusals = Refusals(request).ToList();
        if (refusals.Count > 0)
        {
            return Make(request, "No bundle can be packed there.", [], [], refusals);
        }
        var sheet = new Loading(request).Load();
        var media = sheet.Slip.Files;
        var sentence = $"Pack {ByteText.Count(sheet.Contents.Entries.Length, "file")}, {ByteText.Of(sheet.Contents.Entries.Sum(e => e.Bytes))}, into one bundle"
            + (sheet.BroughtIn > 0 ? $"; {ByteText.Count(sheet.BroughtIn, "file")} from outside included" : "")
            + $"; {ByteText.Count(media.Count, "media file")} inside"
            + (sheet.Slip.NotInside.Count > 0 ? $", {sheet.Slip.NotInside.Count} unavailable" : ", nothing missing")
            + "; the session stays as it is.";
        var name = PortableName.Suggest(string.Create(CultureInfo.InvariantCulture, $"{sheet.Contents.BagName} {request.Now:yyyy-MM-dd_HHmmss}.zip"));
        var destination = Path.Combine(request.DestinationFolder, FreeNames.In(request.DestinationFolder).Claim(name));
        return Make(request, sentence, [new PackBundleStep(destination, "the bundle, with its packing slip", sheet.Contents)], sheet.Remarks, refusals);
    }

    private static IEnumerable<Fault> Refusals(BundleRequest request)
    {
        if (!Directory.Exists(request.DestinationFolder))
        {
            yield return new Fault(FaultCode.NoSuchFolder) { Path = request.DestinationFolder };
            yield break;
        }
        var destination = RealPath.Of(request.DestinationFolder);
        if (request.SessionFolders.Prepend(request.Inventory.Folder).FirstOrDefault(f => ShelfPath.IsWithin(destination, RealPath.Of(f))) is { } session)
        {
            yield return new Fault(FaultCode.BundleInsideSession) { Path = session, Other = session == request.Inventory.Folder ? session : null };
        }
    }

    private static Plan Make(BundleRequest request, string sentence, ImmutableArray<PlanStep> steps, IEnumerable<Fault> remarks, List<Fault> refusals) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.Bundle,
        SessionId = request.SessionId,
        Sentence = sentence,
        WritableRoots = [request.DestinationFolder],
        Steps = steps,
        Remarks = [.. remarks],
        Refusals = [.. refusals],
    };

    private sealed record Loaded(BundleContents Contents, PackingSlip Slip, int BroughtIn, IReadOnlyList<Fault> Remarks);

    /// <summary>Works out what goes into the bundle, under which name, and what its documents must say.</summary>
    private sealed class Loading(BundleRequest request)
    {
        private readonly SessionInventory _inventory = request.Inventory;
        private readonly string _folderName = Travelling(Path.GetFileName(request.Inventory.Folder));

        /// <summary>Path from the bundled session folder, by the path that a file has here.</summary>
        private readonly Dictionary<string, string> _places = new(StringComparer.Ordinal);
        private readonly Dictionary<string, FreeNames> _names = new(StringComparer.Ordinal);
        private readonly Dictionary<string, string> _folders = new(StringComparer.Ordinal) { [""] = "" };
        private readonly List<SlipMove> _moves = [];
        private readonly List<string> _leftOut = [];
        private readonly List<Fault> _remarks = [];

        public Loaded Load()
        {
            var layout = _inventory.Layout;
            PlaceInside(layout);
            var broughtIn = PlaceOutside(layout);
            var documents = _inventory.Documents.ToDictionary(d => d.Path, StringComparer.Ordinal);
            var entries = _places.Select(p => documents.TryGetValue(p.Key, out var document) && Repointed(document) is { } content
                ? new BundleEntry($"{_folderName}/{p.Value}", null, null, content)
                : p.Key == SessionCard.PathIn(_inventory.Folder) && _inventory is { CurrentIsStated: true, Current: { } current }
                ? new BundleEntry($"{_folderName}/{p.Value}", null, null, SessionCard.Stating(_inventory.Folder, _places[current.Path]))
                : Entry(p.Key, p.Value)).OrderBy(e => e.PayloadPath, StringComparer.Ordinal).ToImmutableArray();
            var slip = Slip(entries);
            Remark(entries, slip);
            var contents = new BundleContents(
                _folderName, entries, [.. EmptyFolders(layout)], [.. Info(slip)], slip.ToText(), slip.ToJson(), request.Now);
            return new Loaded(contents, slip, broughtIn, _remarks);
        }

        private void PlaceInside(SessionLayout layout)
        {
            var bounces = _inventory.Files.Where(f => f.Use == FileUse.Bounce).Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
            if (!request.IncludeBounces && bounces.Count > 0)
            {
                _leftOut.Add($"{ByteText.Count(bounces.Count, "bounce")} in '{layout.Bounces}'");
            }
            var used = _inventory.Files.Where(f => f.Use != FileUse.SetAside).Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
            var held = _inventory.Held.PathsIn(_inventory.Folder).Where(p => !used.Contains(p)).ToHashSet(StringComparer.Ordinal);
            if (held.Count > 0)
            {
                _leftOut.Add($"{ByteText.Count(held.Count, "file")} that {(held.Count == 1 ? "is" : "are")} set aside");
            }
            var (litter, keptSaves, apart) = (0, 0, new List<string>());
            foreach (var file in SessionFolder.Files(_inventory.Folder, fault => apart.Add(Path.GetRelativePath(_inventory.Folder, fault.Path!)))
                .OrderBy(f => f.Path, StringComparer.Ordinal))
            {
                var relative = Path.GetRelativePath(_inventory.Folder, file.Path);
                if (Litter.IsFile(file.Name))
                {
                    litter++;
                    continue;
                }
                if (ShelfPath.IsWithin(relative, SessionLayout.DocumentBackups))
                {
                    keptSaves++;
                    continue;
                }
                if (ShelfPath.IsWithin(relative, layout.WaveformCache) || file.Name.StartsWith(".neat-crate-", StringComparison.Ordinal)
                    || (!request.IncludeBounces && bounces.Contains(file.Path)) || held.Contains(file.Path))
                {
                    continue;
                }
                var place = Join(PortableFolder(Path.GetDirectoryName(relative)!), file.Name);
                _places[file.Path] = place;
                if (place != relative)
                {
                    _moves.Add(new SlipMove(relative, place, "the name is not accepted everywhere"));
                }
            }
            if (litter > 0)
            {
                _leftOut.Add($"{ByteText.Count(litter, "file")} that systems leave behind, as .DS_Store and Thumbs.db");
            }
            if (keptSaves > 0)
            {
                _leftOut.Add($"kept saves of the document, in '{SessionLayout.DocumentBackups}'");
            }
            if (apart.Count > 0)
            {
                _remarks.Add(new Fault(FaultCode.CannotBePacked) { Names = [.. apart] });
            }
        }

        private int PlaceOutside(SessionLayout layout)
        {
            var outside = _inventory.Standing(Standing.Outside).Where(f => !_places.ContainsKey(f.Path)).ToList();
            foreach (var file in outside)
            {
                var place = Join(PortableFolder(layout.Audio), file.Name);
                _places[file.Path] = place;
                _moves.Add(new SlipMove(file.ShelfName is null ? file.Path : $"{file.ShelfName}: {file.ShownPath}", place, "stood outside the session folder"));
            }
            return outside.Count;
        }

        /// <summary>
        /// The document as it must be in the bundle, or null when it can go as it is: what has another place there is
        /// pointed at it, and absolute paths of this machine become relative ones.
        /// </summary>
        private byte[]? Repointed(InventoryDocument entry)
        {
            if (entry.Problem is not null)
            {
                return null;
            }
            return Repointing.Of(
                entry, _inventory.Folder, request.Shelves, path => _places.TryGetValue(path, out var place) ? Path.Combine(_inventory.Folder, place) : null, _inventory.Folder)?.After;
        }

        private BundleEntry Entry(string path, string place)
        {
            var source = RealPath.Of(path);
            return new BundleEntry($"{_folderName}/{place}", source, FileState.Of(source), null);
        }

        private string Join(string folder, string name)
        {
            if (!_names.TryGetValue(folder, out var names))
            {
                _names[folder] = names = new FreeNames([]);
            }
            var free = names.Claim(Travelling(name));
            return folder.Length == 0 ? free : $"{folder}/{free}";
        }

        /// <summary>
        /// A name as it can travel: accepted everywhere, composed (NFC), since one common unpacker composes names and the
        /// manifest must name what is there then, and without a percent sign, which a manifest writes otherwise than sha512sum
        /// expects it (RFC 8493, section 2.1.3).
        /// </summary>
        private static string Travelling(string name)
        {
            var portable = PortableName.Suggest(name.Replace('%', '-'));
            return portable.IsNormalized(NormalizationForm.FormC) ? portable : portable.Normalize(NormalizationForm.FormC);
        }

        private string PortableFolder(string relative)
        {
            if (!_folders.TryGetValue(relative, out var portable))
            {
                portable = Join(PortableFolder(Path.GetDirectoryName(relative)!), Path.GetFileName(relative));
                _folders[relative] = portable;
            }
            return portable;
        }

        /// <summary>Every folder of the session in which nothing goes along, people's own ones too.</summary>
        private IEnumerable<string> EmptyFolders(SessionLayout layout)
        {
            var filled = _places.Values.SelectMany(Above).ToHashSet(StringComparer.Ordinal);
            return SubFolders(_inventory.Folder).Select(f => Path.GetRelativePath(_inventory.Folder, f)).Where(f => !ShelfPath.IsWithin(f, layout.WaveformCache) && !(_inventory.Held.Files.Length > 0 && ShelfPath.IsWithin(f, HoldingPlace.FolderName)))
                .Order(StringComparer.Ordinal).Select(PortableFolder).Where(f => !filled.Contains(f)).Select(f => $"{_folderName}/{f}");
        }

        private static IEnumerable<string> Above(string place)
        {
            for (var at = place.LastIndexOf('/'); at > 0; at = place.LastIndexOf('/', at - 1))
            {
                yield return place[..at];
            }
        }

        private static IEnumerable<string> SubFolders(string folder)
        {
            var options = new EnumerationOptions { IgnoreInaccessible = true, AttributesToSkip = FileAttributes.ReparsePoint };
            return Directory.EnumerateDirectories(folder, "*", options).Where(d => !Litter.IsFolder(Path.GetFileName(d))).SelectMany(d => SubFolders(d).Prepend(d));
        }

        private PackingSlip Slip(ImmutableArray<BundleEntry> entries)
        {
            var media = _inventory.Files.Where(f => _places.ContainsKey(f.Path)).ToList();
            return new PackingSlip
            {
                Session = Path.GetFileName(_inventory.Folder),
                SessionId = _inventory.Document?.SessionId,
                PackedAt = request.Now,
                Recipient = request.Recipient,
                Note = request.Note,
                Document = _inventory.Current is { } current ? $"data/{_folderName}/{_places[current.Path]}" : null,
                SampleRate = _inventory.Document?.Settings?.SampleRate,
                BitDepth = _inventory.Document?.Settings?.BitDepth,
                Files = [.. media.Select(f => new SlipFile(
                    _places[f.Path], f.Bytes, f.Header?.SampleRate, f.Header?.BitsPerSample, f.Header?.Channels, f.Header?.LengthSamples, PackingSlip.UseText(f)))],
                OtherFiles = entries.Length - media.Count,
                Moves = _moves,
                NotInside = [.. _inventory.Files.Where(f => f.Standing is Standing.Missing or Standing.Away && f.Use is not FileUse.OlderOnly).Select(NotToBeHad)],
                LeftOut = _leftOut,
            };
        }

        private static string NotToBeHad(InventoryFile file) =>
            $"{file.Name} ({PackingSlip.UseText(file)}; {(file.Standing == Standing.Away ? $"on '{file.ShelfName}', which is not connected" : "missing")})";

        private void Remark(ImmutableArray<BundleEntry> entries, PackingSlip slip)
        {
            if (slip.NotInside.Count > 0)
            {
                _remarks.Add(new Fault(FaultCode.SilentInBundle) { Names = [.. slip.NotInside] });
            }
            if (_moves.Count > 0)
            {
                _remarks.Add(new Fault(FaultCode.MovedInBundle) { Count = _moves.Count });
            }
            var longest = entries.Select(e => $"{_folderName}/data/{e.PayloadPath}".Length).DefaultIfEmpty().Max();
            if (longest > PortableName.MaxPathCharacters)
            {
                _remarks.Add(new Fault(FaultCode.BundlePathTooLong) { Count = longest, Expected = PortableName.MaxPathCharacters });
            }
            if (_inventory.Document is null)
            {
                _remarks.Add(new Fault(FaultCode.BundleUseUnknown));
            }
        }

        private IEnumerable<KeyValuePair<string, string>> Info(PackingSlip slip)
        {
            yield return new("Bagging-Date", request.Now.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
            yield return new("External-Description", $"Recording session {slip.Session}");
            if (slip.SessionId is { } id)
            {
                yield return new("External-Identifier", id.ToString());
            }
            if (!string.IsNullOrWhiteSpace(request.Recipient))
            {
                yield return new("Internal-Sender-Description", $"For {request.Recipient}");
            }
            yield return new("Bag-Software-Agent", "Neat Crate " + typeof(BundlePlanner).Assembly.GetName().Version?.ToString(3));
        }
    }
}
